"""What a drill weighs for one athlete: from the best of the matching lift and the plates at hand."""

from dataclasses import dataclass

from keen_kettle.core.content import Drill
from keen_kettle.core.plan.plates import Loading, PlateSet, make_load

__all__ = ["Load", "best_for", "load_for"]

AIM = 0.4
"""Where in a drill's range to begin: nearer its light end, since a corrective comes before load."""


@dataclass(frozen=True)
class Load:
    """A drill's weight. `loading` is None for a stick, and where no best is known.

    `share` is the true share of the best after rounding to the plates; `why_not` says what is
    missing, and `heavier_than_meant` that even the empty bar is above the drill's range.
    """

    kind: str
    loading: Loading | None
    share: float | None
    low: float
    high: float
    best_kg: float | None
    why_not: str = ""
    heavier_than_meant: bool = False


def best_for(family: str, bests_kg: dict[str, float]) -> tuple[str, float | None]:
    """The lift whose best a family's loads are shares of, and that best (None if not known).

    A jerk's own best; where none is known the clean's, since what is jerked was cleaned before.
    """
    lift = "clean" if family == "jerk" and "jerk" not in bests_kg else family
    return lift, bests_kg.get(lift)


def load_for(drill: Drill, best_kg: float | None, plates: PlateSet) -> Load:
    """The load to begin with, rounded to the plates at hand and never above the drill's range."""
    if drill.kind == "stick":
        return Load("stick", None, None, drill.low, drill.high, best_kg)
    if drill.kind == "bar":
        share = plates.empty_kg / best_kg if best_kg else None
        return Load("bar", Loading(plates.empty_kg, ()), share, drill.low, drill.high, best_kg)
    if best_kg is None:
        why = "no best of this lift is known; enter it on Record"
        return Load("share", None, None, drill.low, drill.high, None, why)
    wanted = (drill.low + AIM * (drill.high - drill.low)) * best_kg
    loading = make_load(wanted, plates, at_most_kg=drill.high * best_kg)
    share = loading.total_kg / best_kg
    return Load(
        "share",
        loading,
        share,
        drill.low,
        drill.high,
        best_kg,
        heavier_than_meant=share > drill.high + 1e-9,
    )
