"""Finds a stage of equal demand elsewhere: another ladder, implement or family."""

from collections.abc import Mapping
from dataclasses import dataclass

from keen_kettle.core.content.ladders import Ladder, Teaching
from keen_kettle.core.lifts import Derivative, Movement, phases_of
from keen_kettle.core.teach.facts import Person
from keen_kettle.core.teach.gates import hard, obstacles
from keen_kettle.core.teach.school import TaughtStage, movement_of, taught_stages

__all__ = ["Swap", "equal_stages", "pulls_instead"]

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

    With the same implement and family that is a stage of an equal level. With another, the athlete
    begins low: on the first stage that trains something of this one, never in the ladder's middle.
    `liked` maps a ladder to how it was enjoyed (-1 to 1). Order: same skill first, then same level,
    phases in common, liked, then as the ladders stand.
    """
    own = teaching.ladders[here.ladder]
    movement = movement_of(here.stage)
    trains = set(phases_of(movement)) if movement is not None else set()
    found: list[tuple[tuple[float, ...], Swap]] = []
    for ladder in teaching.ladders.values():
        if ladder.id == own.id:
            continue
        for taught in _equal_in(ladder, own, here, person, teaching):
            other = movement_of(taught.stage)
            common = len(trains & set(phases_of(other))) if other is not None else 0
            order = (
                ladder.skill != own.skill,
                ladder.implement != own.implement,
                abs(taught.stage.level - here.stage.level),
                -common,
                -(liked or {}).get(ladder.id, 0.0),
            )
            name = f"{taught.stage.name} ({ladder.name})"
            found.append((order, Swap(ladder.id, taught.id, name, _difference(own, ladder))))
    found.sort(key=lambda row: row[0])
    return [swap for _, swap in found]


def _equal_in(
    ladder: Ladder, own: Ladder, here: TaughtStage, person: Person, teaching: Teaching
) -> list[TaughtStage]:
    """The stages of another ladder that can stand for this one."""
    open_now = [
        taught
        for taught in taught_stages(ladder, person.school, teaching)
        if not obstacles(taught.stage, person, teaching)
    ]
    if ladder.skill != own.skill:
        return open_now[:1] if open_now and open_now[0].stage.level <= here.stage.level else []
    return [
        taught
        for taught in open_now
        if abs(taught.stage.level - here.stage.level) <= NEAR
        and not _same_work(movement_of(taught.stage), movement_of(here.stage))
    ]


def _same_work(one: Movement | None, other: Movement | None) -> bool:
    """The same movement, or two slow lifts from the floor: no other way to anything."""
    if isinstance(one, Derivative) and isinstance(other, Derivative):
        slow = one.action == other.action == "deadlift" and one.start == other.start
        return slow or one == other
    return one is not None and other is not None and one.name == other.name


def pulls_instead(here: TaughtStage, person: Person, teaching: Teaching) -> list[Swap]:
    """Barbell pulls that need neither rack nor arms overhead, the most like a whole lift first."""
    found: list[tuple[tuple[bool, bool, int], Swap]] = []
    for ladder in teaching.ladders.values():
        for taught in taught_stages(ladder, person.school, teaching):
            movement = movement_of(taught.stage)
            if (
                not isinstance(movement, Derivative)
                or movement.action != "pull"
                or movement.implement != "barbell"
                or taught == here
                or hard(obstacles(taught.stage, person, teaching))
            ):
                continue
            order = (movement.family != "clean", movement.start != "floor", taught.stage.level)
            name = f"{taught.stage.name} ({ladder.name})"
            reason = "the same legs and hips, with nothing to receive"
            found.append((order, Swap(ladder.id, taught.id, name, reason)))
    found.sort(key=lambda row: row[0])
    return [swap for _, swap in found]


def _difference(own: Ladder, other: Ladder) -> str:
    low = "begun low: what was passed shortens the stay, not the way"
    if own.implement != other.implement and own.skill != other.skill:
        return f"the same thing with a {other.implement}, {low}"
    if own.family != other.family:
        return f"the same thing in the {other.family}, {low}"
    return f"the same demand, {other.order}"
