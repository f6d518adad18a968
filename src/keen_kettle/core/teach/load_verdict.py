"""The verdict on the load of a stage: too light, right or too heavy for its purpose, and the next load.

What the coach says of it stands. Otherwise the points tell: the working load in technique is the one
at which they still hold. The next load is never further away than the smallest plates.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from keen_kettle.core.teach.facts import Visit
from keen_kettle.core.teach.school import TaughtStage

__all__ = ["SMALLEST_STEP_KG", "LoadAdvice", "judge_load"]

SMALLEST_STEP_KG = 2.5
"""A pair of the usual smallest plates."""
LOST = 0.5
"""With fewer points than this share the load is too much, whatever came before."""
UNLOADED = ("body", "stick")
PURPOSES = {"bell": "learning with a bell", "share": "technique under load"}


@dataclass(frozen=True)
class LoadAdvice:
    """`verdict` is too light, right or too heavy for the stage's `purpose`; `next_kg` what to take
    next; `says` both with the reason."""

    verdict: str
    purpose: str
    load_kg: float
    next_kg: float
    says: str


def judge_load(
    taught: TaughtStage, visits: Sequence[Visit], step_kg: float = SMALLEST_STEP_KG
) -> LoadAdvice | None:
    """The verdict on the newest recorded load of a stage; None where no load was recorded.

    Parameters
    ----------
    visits : those to this stage, oldest first
    step_kg : the smallest step that the plates at hand can make
    """
    loaded = [one for one in visits if one.load_kg]
    if not loaded or taught.stage.dose.load in UNLOADED:
        return None
    newest = loaded[-1]
    load = float(newest.load_kg or 0.0)
    verdict, why = _verdict(taught, loaded)
    purpose = PURPOSES.get(taught.stage.dose.load, "learning")
    up, down = load + step_kg, max(load - step_kg, 0.0)
    if verdict == "too light":
        following, where = up, f"{up:g} kg next, the smallest plates up"
    elif verdict == "too heavy":
        held = [float(one.load_kg or 0) for one in loaded if one.share == 1 and one.load_kg]
        lower = [one for one in held if one < load]
        following = max(lower) if lower else down
        where = f"back to {following:g} kg"
    else:
        following, where = load, f"stay at {load:g} kg"
    says = f"{load:g} kg is {verdict} for {purpose} ({why}): {where}."
    return LoadAdvice(verdict, purpose, load, following, says)


def _verdict(taught: TaughtStage, loaded: Sequence[Visit]) -> tuple[str, str]:
    newest = loaded[-1]
    if newest.verdict:
        return newest.verdict, "as you said"
    load = newest.load_kg or 0.0
    before = [one for one in loaded[:-1] if (one.load_kg or 0.0) < load]
    met = f"{len(newest.met)} of {newest.asked} points"
    if newest.share < LOST:
        return "too heavy", f"only {met}"
    if any(one.share > newest.share for one in before):
        return "too heavy", f"{met}, and more were met with less"
    watched = set(newest.faults) & set(taught.stage.watch)
    if newest.share == 1 and not watched:
        same = [one for one in loaded if one.load_kg == newest.load_kg and one.share == 1]
        if len(same) >= 2:
            return "too light", "every point was met twice with it"
        return "right", "every point was met once; once more, and it rises"
    return "right", f"{met}"
