"""Did it help? A corrective's measure before and after, and what the house has learnt of its drills."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from keen_kettle.core.content import Content

__all__ = [
    "OUTCOMES",
    "Effect",
    "FollowUp",
    "Measured",
    "compare_measures",
    "compare_sightings",
    "house_effects",
    "review_days",
]

OUTCOMES = ("improved", "unchanged", "gone", "worse")
BEYOND = 2.0
"""A change counts when it is more than twice its standard uncertainty (about 95 %)."""
FIRST_DAYS, LAST_DAYS = 14, 21
"""A corrective stays for two to three weeks; the new clip is due at the early end."""
Z = 1.645
"""The interval of what helped holds nine of ten."""


def review_days(taken_on: date) -> tuple[date, date]:
    """When the new clip is due, and by when the corrective ends at the latest."""
    return taken_on + timedelta(days=FIRST_DAYS), taken_on + timedelta(days=LAST_DAYS)


@dataclass(frozen=True)
class Measured:
    """A measure on a day, with its standard uncertainty, in SI units."""

    measure: str
    value: float
    sigma: float
    on: date


@dataclass(frozen=True)
class FollowUp:
    """What became of a fault: one of `OUTCOMES`, or empty where it cannot be said, and why."""

    outcome: str
    says: str


def compare_measures(
    fault: str, family: str, before: Measured, after: Measured, content: Content
) -> FollowUp:
    """Before against after, by the rule of the fault that uses this measure.

    Gone: past the threshold on the good side by more than the new value's uncertainty. Improved and
    worse: changed towards or away from it by more than `BEYOND` times the uncertainty of the
    difference (both in quadrature). Everything else is unchanged.
    """
    rule = next(
        (
            one
            for one in content.faults[fault].rules
            if one.measure == after.measure and family in one.families
        ),
        None,
    )
    if rule is None or before.measure != after.measure:
        return FollowUp("", "the new clip does not show this measure")
    past_before, past_after = rule.past(before.value), rule.past(after.value)
    sigma = math.hypot(before.sigma, after.sigma)
    better = past_before - past_after
    if past_after < 0 and -past_after > after.sigma:
        return FollowUp("gone", "it is inside its limit, by more than its uncertainty")
    if better > BEYOND * sigma:
        return FollowUp("improved", "it is better by more than its uncertainty, not yet inside")
    if better < -BEYOND * sigma:
        return FollowUp("worse", "it is worse by more than its uncertainty")
    return FollowUp("unchanged", "the change is within its uncertainty")


def compare_sightings(before: tuple[int, int], after: tuple[int, int]) -> FollowUp:
    """For what only the eye sees: in how many of the visits it was tagged, before and after.

    Each is (tagged, visits). At least two visits after are needed, and that it was ever tagged.
    """
    (seen_before, all_before), (seen_after, all_after) = before, after
    if not seen_before and not seen_after:
        return FollowUp("", "it was never tagged on a visit: a new clip has to show it")
    if all_after < 2:
        return FollowUp("", "two visits after it are needed to tell")
    if seen_after == 0:
        return FollowUp("gone", f"not tagged in the {all_after} visits since")
    share_before = seen_before / all_before if all_before else 1.0
    share_after = seen_after / all_after
    words = (
        f"tagged in {seen_after} of {all_after} visits since, {seen_before} of {all_before} before"
    )
    if share_after <= 0.5 * share_before:
        return FollowUp("improved", words)
    if share_after > share_before and all_before >= 2:
        return FollowUp("worse", words)
    return FollowUp("unchanged", words)


@dataclass(frozen=True)
class Effect:
    """How often a drill helped a fault in this house, with the interval of its true rate (90 %)."""

    helped: int
    ended: int
    low: float
    high: float

    @property
    def says(self) -> str:
        return (
            f"helped {self.helped} of {self.ended} here "
            f"({100 * self.low:.0f} to {100 * self.high:.0f} %)"
        )


def house_effects(ended: Iterable[tuple[str, str, str]]) -> dict[tuple[str, str], Effect]:
    """By drill and fault, from ended correctives (drill, fault, outcome).

    The interval is Wilson's score interval (E. B. Wilson, 1927): it stays honest for small counts.
    """
    counts: dict[tuple[str, str], list[int]] = {}
    for drill, fault, outcome in ended:
        if outcome in OUTCOMES:
            row = counts.setdefault((drill, fault), [0, 0])
            row[0] += outcome in ("improved", "gone")
            row[1] += 1
    return {key: _effect(helped, all_of) for key, (helped, all_of) in counts.items()}


def _effect(helped: int, ended: int) -> Effect:
    share, square = helped / ended, Z * Z
    middle = (share + square / (2 * ended)) / (1 + square / ended)
    half = (
        Z / (1 + square / ended) * math.sqrt(share * (1 - share) / ended + square / (4 * ended**2))
    )
    return Effect(helped, ended, max(middle - half, 0.0), min(middle + half, 1.0))
