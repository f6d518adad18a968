"""A ladder as a school teaches it: which stages, with which points to check, with which cue."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from keen_kettle.core.content.ladders import Answer, Ladder, Stage, Teaching
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import Derivative, Helper, Movement, parse_movement

__all__ = ["TaughtStage", "answers_of", "movement_of", "taught_stages"]


@dataclass(frozen=True)
class TaughtStage:
    """A stage with its points (the ladder's own and the school's) and the cue of its kind."""

    ladder: str
    stage: Stage
    points: tuple[str, ...]
    cue: str

    @property
    def id(self) -> str:
        return self.stage.id

    @property
    def needed_points(self) -> int:
        """How many points its gate asks for."""
        return self.stage.gate.points or len(self.points)


def answers_of(school: Mapping[str, str], teaching: Teaching) -> dict[str, Answer]:
    """The answer to every question: the school's, or the question's default."""
    return {
        question.id: question.named(school.get(question.id, question.default))
        for question in teaching.questions.values()
    }


def taught_stages(
    ladder: Ladder, school: Mapping[str, str], teaching: Teaching
) -> tuple[TaughtStage, ...]:
    """The stages that this school teaches, in their order."""
    return _taught_stages(ladder, tuple(sorted(school.items())), teaching)


@lru_cache(maxsize=500)
def _taught_stages(
    ladder: Ladder, school: tuple[tuple[str, str], ...], teaching: Teaching
) -> tuple[TaughtStage, ...]:
    answers = answers_of(dict(school), teaching)
    inner = answers["cue"].id == "inner" if "cue" in answers else False
    made = []
    for stage in ladder.stage:
        movement = movement_of(stage)
        if not _taught(stage, movement, answers):
            continue
        added = [one.adds for one in answers.values() if one.adds and _applies(one, movement)]
        cue = stage.cue_inner if inner else stage.cue_outer
        made.append(TaughtStage(ladder.id, stage, (*stage.checks, *added), cue))
    return tuple(made)


def movement_of(stage: Stage) -> Movement | None:
    """What is done on a stage; None when its name cannot be read (the ladder check says so)."""
    return _parsed(stage.movement)


@lru_cache(maxsize=2000)
def _parsed(name: str) -> Movement | None:
    try:
        return parse_movement(name)
    except UnknownLift:
        return None


def _taught(stage: Stage, movement: Movement | None, answers: Mapping[str, Answer]) -> bool:
    for question, wanted in stage.only_if.items():
        if question in answers and answers[question].id not in wanted:
            return False
    caught = isinstance(movement, Derivative) and movement.family != "jerk" and movement.has_catch
    return not (caught and any(one.leaves_out == "caught" for one in answers.values()))


def _applies(answer: Answer, movement: Movement | None) -> bool:
    """Whether a school's point belongs to this movement.

    "set" is where a barbell is taken hold of and lifted slowly; "pull" every barbell pull, caught
    or not; "catch" what is caught.
    """
    if answer.to == "all":
        return True
    if movement is None or movement.implement != "barbell":
        return False
    if isinstance(movement, Helper):
        return answer.to == "set" and movement.figure in ("start hold", "lift to knee")
    if movement.family == "jerk" or movement.start == "tall":
        return False
    if answer.to == "set":
        return movement.action == "deadlift"
    return movement.has_catch if answer.to == "catch" else True
