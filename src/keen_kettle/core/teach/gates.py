"""Gates: what stands between an athlete and a stage, and whether a visit met a stage's gate."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from keen_kettle.core.content.ladders import Stage, Teaching
from keen_kettle.core.lifts import Derivative, Movement, Needs, needs_of
from keen_kettle.core.teach.facts import Person, Visit
from keen_kettle.core.teach.school import TaughtStage, movement_of

__all__ = [
    "RUN",
    "Obstacle",
    "cautions_of",
    "gate_run",
    "hard",
    "meets_gate",
    "meets_in_session",
    "movement_obstacles",
    "needs_of_stage",
    "obstacles",
]

RUN = 2
"""A gate opens after this many visits running that met it."""
GOOD_REPS = 5
"""In a session's pace it opens after so many good reps in a row, within the visit."""

PAIN_CHECKS = {
    "pain-free-overhead": ("shoulder",),
    "pain-free-rack": ("wrist", "elbow"),
    "back-cleared": ("back",),
}
"""Checks that ask about pain: they only stand in the way of somebody with a caution there."""


@dataclass(frozen=True)
class Obstacle:
    """Something that keeps an athlete from a stage.

    `kind` is caution, check (not passed yet), untested (not tested yet), equipment or order.
    """

    kind: str
    about: str
    says: str


def needs_of_stage(stage: Stage) -> Needs:
    """What the stage's movement needs, and the stage besides."""
    return _needs(movement_of(stage), stage.screens)


@lru_cache(maxsize=2000)
def _needs(movement: Movement | None, screens: tuple[str, ...]) -> Needs:
    own = needs_of(movement) if movement is not None else Needs((), (), ())
    return Needs(tuple(dict.fromkeys((*own.checks, *screens))), own.areas, own.equipment)


def obstacles(
    stage: Stage,
    person: Person,
    teaching: Teaching,
    passed: frozenset[str] | None = None,
) -> tuple[Obstacle, ...]:
    """Everything that keeps the athlete from a stage; empty when nothing does.

    `passed` are the stages of this ladder that were passed; None leaves their order alone.
    """
    needs = needs_of_stage(stage)
    found = _caution_obstacles(needs, person)
    for check in needs.checks:
        if check not in stage.teaches:
            found += _check_obstacle(check, person, teaching)
    for skill, level in stage.needs_passed.items():
        if person.levels.get(skill, 0) < level:
            found.append(Obstacle("order", skill, f"a passed {skill} comes first"))
    found += _equipment_obstacles(needs, person)
    if passed is not None:
        for earlier in stage.after:
            if earlier not in passed:
                found.append(Obstacle("order", earlier, f"“{earlier}” comes first"))
    return tuple(found)


def movement_obstacles(
    movement: Movement, person: Person, teaching: Teaching
) -> tuple[Obstacle, ...]:
    """Everything that keeps the athlete from a movement outside any ladder."""
    needs = _needs(movement, ())
    found = _caution_obstacles(needs, person)
    for check in needs.checks:
        found += _check_obstacle(check, person, teaching)
    return (*found, *_equipment_obstacles(needs, person))


def _caution_obstacles(needs: Needs, person: Person) -> list[Obstacle]:
    return [
        Obstacle("caution", area, f"{area} on record, and this loads the {area}")
        for area in needs.areas
        if area in person.cautions and not _cleared(area, person)
    ]


def _equipment_obstacles(needs: Needs, person: Person) -> list[Obstacle]:
    return [
        Obstacle("equipment", thing, f"needs {_some(thing)}")
        for thing in needs.equipment
        if not person.has(thing)
    ]


def hard(found: Sequence[Obstacle]) -> tuple[Obstacle, ...]:
    """Without those that a screening could still clear today."""
    return tuple(one for one in found if one.kind != "untested")


def _cleared(area: str, person: Person) -> bool:
    """A caution on the back is lifted by a professional's clearing; shoulders and racks stay."""
    return area == "back" and person.state_of("back-cleared") == "pass"


def _check_obstacle(check: str, person: Person, teaching: Teaching) -> list[Obstacle]:
    state = person.state_of(check)
    if state == "pass":
        return []
    areas = PAIN_CHECKS.get(check)
    if areas is not None and state == "not tested" and not person.cautions & set(areas):
        return []
    name = teaching.checks[check].name if check in teaching.checks else check
    if state == "not yet":
        return [Obstacle("check", check, f"“{name}” is not passed yet")]
    return [Obstacle("untested", check, f"“{name}” is not tested yet")]


def cautions_of(stage: Stage) -> tuple[str, ...]:
    """Ids of the cautions that belong beside a stage, the most pressing first."""
    movement = movement_of(stage)
    if movement is None:
        return ()
    needs = needs_of(movement)
    found = []
    if "shoulder" in needs.areas:
        found.append("overhead")
    if "front-rack" in needs.checks:
        found.append("rack")
    if isinstance(movement, Derivative):
        if movement.has_catch and movement.implement == "barbell":
            found.append("let-go")
        if movement.support == "blocks":
            found.append("blocks")
    return tuple(found)


def meets_gate(taught: TaughtStage, visit: Visit) -> bool:
    """Whether one visit met the gate: enough points, no watched fault, no pain."""
    if visit.pain or (taught.stage.gate.clean and set(visit.faults) & set(taught.stage.watch)):
        return False
    needed = taught.stage.gate.points or visit.asked or len(taught.points)
    return len(visit.met) >= needed


def meets_in_session(taught: TaughtStage, visit: Visit) -> bool:
    """Whether a stage is passed within one visit: every point, over enough reps where counted."""
    enough = visit.reps is None or visit.reps >= min(GOOD_REPS, taught.stage.dose.reps or GOOD_REPS)
    return meets_gate(taught, visit) and enough


def gate_run(taught: TaughtStage, visits: Sequence[Visit]) -> int:
    """How many visits running, up to the newest, met the gate (`visits` oldest first)."""
    count = 0
    for visit in reversed(visits):
        if not meets_gate(taught, visit):
            break
        count += 1
    return count


def _some(thing: str) -> str:
    return thing if thing.endswith("s") else f"a {thing}"
