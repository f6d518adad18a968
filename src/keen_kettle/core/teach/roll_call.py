"""The roll call before a lift: the set-up's questions for a stage, in the order of the set-up."""

from keen_kettle.core.content.ladders import Asked, Stage, Teaching
from keen_kettle.core.lifts import Derivative, Movement
from keen_kettle.core.teach.school import movement_of

__all__ = ["roll_call_of"]

BELLS = ("dumbbell", "kettlebell", "dumbbell pair")
FROM_THE_FLOOR = ("start hold", "lift to knee", "clean and jerk")
IN_THE_RACK = (
    "front squat",
    "rack hold",
    "press",
    "press in split",
    "jerk balance",
    "dip and drive",
)


def roll_call_of(stage: Stage, teaching: Teaching) -> tuple[Asked, ...]:
    """What is asked before this stage's movement; empty where it has no set-up of these kinds."""
    start = _start(movement_of(stage))
    return tuple(one for one in teaching.roll_call.values() if start in one.starts)


def _start(movement: Movement | None) -> str:
    if movement is None:
        return ""
    if movement.implement in BELLS:
        return "bell"
    if isinstance(movement, Derivative):
        if movement.family == "jerk":
            return "rack"
        return "floor" if movement.support in ("floor", "blocks") else "hang"
    if movement.figure in FROM_THE_FLOOR:
        return "floor"
    if movement.figure in IN_THE_RACK:
        return "rack"
    return "hang" if movement.family == "hinge" else ""
