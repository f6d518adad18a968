"""The first rep with the bar as today's gate: what a position that fails changes today.

What fails low is left out today by starting higher; what fails in the catch takes the catch away;
and the load goes down with every position that fails. House defaults, from the rule that points
come before load.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from keen_kettle.core.lifts import Derivative, Movement, positions_of

__all__ = ["FirstRep", "judge_first_rep"]

LESS_EACH = 0.10
MOST_LESS = 0.30
HIGHER = {"start": "above knee", "knee": "mid-thigh", "power position": "hip"}
"""A position that fails is stepped over: today's lift begins above it."""
CAUGHT = ("catch", "lowest", "stand", "lock-out", "rack", "split", "recovered")


@dataclass(frozen=True)
class FirstRep:
    """What today becomes: the share of the planned load, the lift to use, and what to say.

    `passed` where nothing changes. `instead` is the lift in whose place the planned one is done.
    """

    passed: bool
    load_share: float
    instead: Movement
    says: tuple[str, ...]


def judge_first_rep(lift: Movement, failed: Sequence[str]) -> FirstRep:
    """Today's lift and load after the first rep.

    Parameters
    ----------
    failed
        The key positions (see `positions_of`) that were not right; others are passed over.
    """
    known = [one for one in positions_of(lift) if one in failed]
    if not known or not isinstance(lift, Derivative):
        wrong = [one for one in failed if not isinstance(lift, Derivative)]
        if wrong:
            return FirstRep(False, 1 - LESS_EACH, lift, ("Ten per cent less today.",))
        return FirstRep(True, 1.0, lift, ("All positions hold: today stands as planned.",))
    share = 1 - min(LESS_EACH * len(known), MOST_LESS)
    made, says = lift, []
    low = [one for one in known if one in HIGHER]
    if low and lift.family != "jerk":
        start = HIGHER[low[-1]]
        made = Derivative(made.family, start, made.receive, made.action, "hang", made.implement)
        says.append(f"{_list(low)} did not hold: today begins in the hang, {start}.")
    elif low:
        says.append(f"{_list(low)} did not hold: lighter, until it does.")
    if "extension" in known or "drive" in known:
        says.append("The finish was not there: power versions only, finished tall.")
        if made.receive in ("full", "ride-down"):
            made = Derivative(
                *(made.family, made.start, "power", made.action, made.support, made.implement)
            )
    caught = [one for one in known if one in CAUGHT]
    if caught and lift.family == "jerk":
        says.append(f"{_list(caught)} did not hold: push press today, nothing is caught.")
        made = Derivative("jerk", lift.start, "push", "catch", "standing", lift.implement)
    elif caught:
        says.append(f"{_list(caught)} did not hold: pulls today, nothing is caught.")
        made = Derivative(*(made.family, made.start, "none", "pull", made.support, made.implement))
    says.append(f"Load: {100 * share:.0f} % of what was planned.")
    return FirstRep(False, round(share, 2), made, tuple(says))


def _list(names: Sequence[str]) -> str:
    words = " and ".join(names)
    return words[:1].upper() + words[1:]
