"""What a stage cost the athletes of this house: how long they stood on it before they went on."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median

from keen_kettle.core.teach.facts import MOVES, Step

__all__ = ["StageCost", "stage_costs"]


@dataclass(frozen=True)
class StageCost:
    """Days on a stage until it was advanced from: median, least, most, of how many athletes."""

    median_days: float
    least_days: int
    most_days: int
    athletes: int


def stage_costs(everybody: Iterable[Sequence[Step]]) -> dict[tuple[str, str], StageCost]:
    """The cost of each (ladder, stage) that somebody has advanced from; `everybody` holds one list
    of steps for each athlete."""
    spent: dict[tuple[str, str], list[int]] = {}
    for steps in everybody:
        ladders: dict[str, list[Step]] = {}
        for step in sorted(steps, key=lambda one: one.on):
            if step.kind in (*MOVES, "leave"):
                ladders.setdefault(step.ladder, []).append(step)
        for moves in ladders.values():
            own: dict[str, int] = {}
            for here, after in pairwise(moves):
                own[here.stage] = own.get(here.stage, 0) + (after.on - here.on).days
                if after.kind == "advance":
                    spent.setdefault((here.ladder, here.stage), []).append(own.pop(here.stage))
    return {
        place: StageCost(float(median(days)), min(days), max(days), len(days))
        for place, days in spent.items()
    }
