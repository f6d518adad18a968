"""Finds a stage of equal demand elsewhere: another ladder, implement or family."""

from collections.abc import Mapping
from dataclasses import dataclass

from keen_kettle.core.content.ladders import Ladder, Teaching
from keen_kettle.core.lifts import phases_of
from keen_kettle.core.teach.facts import Person
from keen_kettle.core.teach.gates import obstacles
from keen_kettle.core.teach.school import TaughtStage, movement_of, taught_stages

__all__ = ["Swap", "equal_stages"]

NEAR = 1
"""Stages count as equal when their levels differ by at most this much."""


@dataclass(frozen=True)
class Swap:
    """An equal stage elsewhere, and what makes it another way to the same thing."""

    ladder: str
    stage: str
    name: str
    reason: str


def equal_stages(
    here: TaughtStage,
    person: Person,
    teaching: Teaching,
    liked: Mapping[str, float] | None = None,
) -> list[Swap]:
    """Stages elsewhere that the athlete's cleared gates allow, the best first.

    `liked` maps a ladder to how it was enjoyed (-1 to 1). Order: same level, phases in common,
    same family, liked, then as the ladders stand.
    """
    own = teaching.ladders[here.ladder]
    movement = movement_of(here.stage)
    trains = set(phases_of(movement)) if movement is not None else set()
    found: list[tuple[tuple[float, ...], Swap]] = []
    for ladder in teaching.ladders.values():
        for taught in taught_stages(ladder, person.school, teaching):
            if ladder.id == own.id or taught.stage.movement == here.stage.movement:
                continue
            apart = abs(taught.stage.level - here.stage.level)
            if apart > NEAR or obstacles(taught.stage, person, teaching):
                continue
            other = movement_of(taught.stage)
            common = len(trains & set(phases_of(other))) if other is not None else 0
            order = (
                apart,
                -common,
                ladder.family != own.family,
                -(liked or {}).get(ladder.id, 0.0),
            )
            name = f"{taught.stage.name} ({ladder.name})"
            found.append((order, Swap(ladder.id, taught.id, name, _difference(own, ladder))))
    found.sort(key=lambda row: row[0])
    return [swap for _, swap in found]


def _difference(own: Ladder, other: Ladder) -> str:
    if own.implement != other.implement:
        return f"the same demand with a {other.implement}"
    if own.family != other.family:
        return f"the same demand in the {other.family}"
    return f"the same demand, {other.order}"
