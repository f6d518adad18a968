"""Checks a ladder against everything it names; every problem says where it is and what to do."""

from collections.abc import Set
from dataclasses import dataclass

from keen_kettle.core.content.ladders import Ladder, Stage, Teaching
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import Derivative, catch_limits_load, parse_movement

__all__ = ["Problem", "check_ladder"]


@dataclass(frozen=True)
class Problem:
    """Something wrong with a stage (None: with the ladder itself)."""

    stage: str | None
    field: str
    says: str

    @property
    def words(self) -> str:
        where = f"Stage “{self.stage}”, {self.field}" if self.stage else self.field
        return f"{where}: {self.says}"


def check_ladder(ladder: Ladder, teaching: Teaching, faults: Set[str]) -> list[Problem]:
    """All problems of a ladder, in the order of its stages; empty when it can be taught."""
    found = []
    ids = [stage.id for stage in ladder.stage]
    for number, stage in enumerate(ladder.stage):
        found += _names(stage, teaching, faults)
        found += _gate(stage)
        found += _order(stage, number, ids, ladder)
        found += _options(stage, teaching)
    return found


def _names(stage: Stage, teaching: Teaching, faults: Set[str]) -> list[Problem]:
    found = []
    movements = [("movement", stage.movement)]
    if stage.parallel is not None:
        movements.append(("parallel", stage.parallel.movement))
    for field, name in movements:
        try:
            movement = parse_movement(name)
        except UnknownLift as error:
            found.append(Problem(stage.id, field, str(error)))
            continue
        if field == "movement" and isinstance(movement, Derivative):
            caught = catch_limits_load(movement)
            if caught and stage.dose.load == "share" and stage.dose.high > 1:
                says = "a catch is never planned above 100 % of its best; lower `high`."
                found.append(Problem(stage.id, "dose", says))
    found += [
        Problem(stage.id, "watch", f"there is no fault “{fault}”.")
        for fault in stage.watch
        if fault not in faults
    ]
    for check in stage.screens:
        if check not in teaching.checks:
            says = f"there is no screening check “{check}”, so this gate can never open."
            found.append(Problem(stage.id, "screens", says))
    return found


def _gate(stage: Stage) -> list[Problem]:
    if stage.gate.points > len(stage.checks):
        says = (
            f"it asks for {stage.gate.points} points and the stage has {len(stage.checks)}, "
            "so it can never open; ask for fewer, or add points."
        )
        return [Problem(stage.id, "gate", says)]
    return []


def _order(stage: Stage, number: int, ids: list[str], ladder: Ladder) -> list[Problem]:
    found = []
    if stage.id in ids[:number]:
        found.append(Problem(stage.id, "id", "it stands there twice; give each stage its own."))
    for earlier in stage.after:
        if earlier not in ids:
            found.append(Problem(stage.id, "after", f"there is no stage “{earlier}”."))
        elif ids.index(earlier) >= number:
            says = f"it needs “{earlier}”, which comes later; move one of them."
            found.append(Problem(stage.id, "after", says))
        else:
            before = ladder.stage[ids.index(earlier)]
            for question, answers in before.only_if.items():
                if not set(stage.only_if.get(question, answers)) <= set(answers) or (
                    question not in stage.only_if
                ):
                    says = f"it needs “{earlier}”, which some schools leave out ({question}); its gate can never open there."
                    found.append(Problem(stage.id, "after", says))
    return found


def _options(stage: Stage, teaching: Teaching) -> list[Problem]:
    found = []
    for question, wanted in stage.only_if.items():
        if question not in teaching.questions:
            says = f"there is no school question “{question}”."
            found.append(Problem(stage.id, "only_if", says))
            continue
        known = {one.id for one in teaching.questions[question].answer}
        unknown = [one for one in wanted if one not in known]
        if unknown:
            says = (
                f"“{question}” has no answer “{unknown[0]}”; there are {', '.join(sorted(known))}."
            )
            found.append(Problem(stage.id, "only_if", says))
        if not wanted:
            found.append(
                Problem(
                    stage.id,
                    "only_if",
                    f"“{question}” names no answer, so the stage is never taught.",
                )
            )
    return found
