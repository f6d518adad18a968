"""Where an athlete stands on every ladder, how long each stage took, and what changed."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from keen_kettle.core.content.ladders import Ladder, Teaching
from keen_kettle.core.teach.facts import MOVES, Person, Step
from keen_kettle.core.teach.school import taught_stages

__all__ = ["Place", "StageTime", "carried_levels", "current_places", "place_on", "weeks_changes"]


@dataclass(frozen=True)
class StageTime:
    """A stage of a ladder as the athlete went through it; `days` is None where it is not known."""

    stage: str
    name: str
    state: str
    """passed, here, ahead, or carried (passed at this level on another ladder)."""
    since: date | None = None
    days: int | None = None


@dataclass(frozen=True)
class Place:
    """An athlete's place on one ladder; `stage` is None where it was never begun."""

    ladder: str
    name: str
    stage: str | None
    since: date | None
    held: bool
    stages: tuple[StageTime, ...]


def current_places(steps: Iterable[Step]) -> dict[str, Step]:
    """The step that put the athlete where they stand now, for each ladder (left ones are out)."""
    now: dict[str, Step] = {}
    for step in sorted(steps, key=lambda one: one.on):
        if step.kind == "leave":
            now.pop(step.ladder, None)
        elif step.kind in MOVES or step.ladder not in now:
            now[step.ladder] = step
        elif step.kind == "hold":
            now[step.ladder] = Step(now[step.ladder].on, step.ladder, step.stage, "hold")
        elif step.kind == "stay" and now[step.ladder].kind == "hold":
            now[step.ladder] = Step(now[step.ladder].on, step.ladder, step.stage, "stay")
    return now


def place_on(
    ladder: Ladder,
    steps: Sequence[Step],
    person: Person,
    teaching: Teaching,
    today: date,
    carried: int = 0,
) -> Place:
    """The athlete's place on a ladder with dates and days.

    A stage at or below `carried` (the highest level passed in the family) counts as known where
    the ladder itself was never climbed past it.
    """
    taught = taught_stages(ladder, person.school, teaching)
    own = sorted((one for one in steps if one.ladder == ladder.id), key=lambda one: one.on)
    now = current_places(own).get(ladder.id)
    order = [one.id for one in taught]
    at = order.index(now.stage) if now is not None and now.stage in order else -1
    spent = _days(own, today)
    made = []
    for number, one in enumerate(taught):
        if number == at:
            state = "here"
        elif number < at and at >= 0:
            state = "passed"
        else:
            state = "carried" if one.stage.level <= carried and at < 0 else "ahead"
        since, days = spent.get(one.id, (None, None))
        made.append(StageTime(one.id, one.stage.name, state, since, days))
    return Place(
        ladder.id,
        ladder.name,
        now.stage if now is not None else None,
        now.on if now is not None else None,
        now is not None and now.kind == "hold",
        tuple(made),
    )


def _days(steps: Sequence[Step], today: date) -> dict[str, tuple[date, int]]:
    """For each stage the day it was first reached and the days spent on it in all."""
    moves = [one for one in steps if one.kind in (*MOVES, "leave")]
    found: dict[str, tuple[date, int]] = {}
    for number, step in enumerate(moves):
        if step.kind == "leave":
            continue
        end = moves[number + 1].on if number + 1 < len(moves) else today
        first, days = found.get(step.stage, (step.on, 0))
        found[step.stage] = (first, days + (end - step.on).days)
    return found


def carried_levels(steps: Iterable[Step], teaching: Teaching) -> dict[str, int]:
    """The highest level passed in each skill (a ladder's `skill`): the stages advanced from.

    What was learnt with one bell does not put anybody in the middle of a barbell's ladder.
    """
    levels: dict[str, int] = {}
    before: dict[str, str] = {}
    for step in sorted(steps, key=lambda one: one.on):
        ladder = teaching.ladders.get(step.ladder)
        if ladder is None:
            continue
        passed = ladder.stage_named(before.get(step.ladder, ""))
        if step.kind == "advance" and passed is not None:
            levels[ladder.skill] = max(levels.get(ladder.skill, 0), passed.level)
        before[step.ladder] = step.stage
    return levels


def weeks_changes(steps: Iterable[Step], since: date) -> list[Step]:
    """The steps that changed something on or after a day, newest first (stays are left out)."""
    fresh = [one for one in steps if one.on >= since and one.kind != "stay"]
    return sorted(fresh, key=lambda one: one.on, reverse=True)
