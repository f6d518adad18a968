"""What a complex weighs: as much as its weakest member allows, less for long sets and beginners."""

from collections.abc import Mapping
from dataclasses import dataclass

from keen_kettle.core.plan.loads import best_for
from keen_kettle.core.plan.plates import Loading, PlateSet, make_load
from keen_kettle.core.prescribe.complexes import Complex

__all__ = ["ComplexLoad", "load_complex"]

BY_REPS = ((4, 0.80), (6, 0.75), (20, 0.70))
"""House default: up to so many repetitions a set, that share of what the weakest part can carry."""
BEGINNER = 0.85


@dataclass(frozen=True)
class ComplexLoad:
    """The load of a complex, or why none can be said.

    `weakest` is the part (from 0) that limits it and `limit_kg` what that part could carry once;
    `share` is the load's share of that.
    """

    loading: Loading | None
    weakest: int
    limit_kg: float | None = None
    share: float | None = None
    why_not: str = ""


def load_complex(
    one: Complex,
    bests_kg: Mapping[str, float],
    plates: PlateSet,
    *,
    trained: bool = False,
    beginner: bool = False,
    bar: bool = True,
) -> ComplexLoad:
    """The load for one athlete, rounded down to the plates at hand.

    Pulls count at most as the best lift where the athlete is not `trained`. Without a `bar` no
    weight is said.
    """
    if not bar:
        return ComplexLoad(None, one.weakest, why_not="as heavy as all points hold")
    limits: list[tuple[float, int]] = []
    for number, part in enumerate(one.parts):
        _, best = best_for(part.priced_by, dict(bests_kg))
        if best is None:
            why = f"no best {part.priced_by} is known; enter it on Screen"
            return ComplexLoad(None, one.weakest, why_not=why)
        limits.append((best * (part.limit if trained else min(part.limit, 1.0)), number))
    limit, weakest = min(limits)
    share = next(share for reps, share in BY_REPS if one.reps <= reps or reps == BY_REPS[-1][0])
    wanted = limit * share * (BEGINNER if beginner else 1.0)
    loading = make_load(wanted, plates, at_most_kg=wanted)
    return ComplexLoad(loading, weakest, limit, loading.total_kg / limit)
