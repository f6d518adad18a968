"""`kettle name`, `ladders`, `choose`, `advise`: the teaching judgement as JSON, without a window."""

import argparse
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from keen_kettle.commands.facts import Facts, PersonFact, answer, known_checks, read_facts
from keen_kettle.core.content import Ladder, load_content, load_teaching
from keen_kettle.core.errors import ContentError
from keen_kettle.core.lifts import (
    Derivative,
    catch_limits_load,
    needs_of,
    parse_movement,
    phases_of,
    positions_of,
    relative_range,
)
from keen_kettle.core.teach import (
    SMALLEST_STEP_KG,
    Step,
    Visit,
    advise,
    carried_levels,
    choose_ladders,
    taught_stages,
)

__all__ = ["add_words"]


def add_words(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    words = commands.add_parser("name", help="read a movement's name, print its parts as JSON")
    words.add_argument("movement", help="as coaches write it: “hang pc above knee”")
    words.set_defaults(run=answer, work=_name)
    words = commands.add_parser("ladders", help="print ladders and their stages as JSON")
    words.add_argument("ladder", nargs="?", help="id or name; all ladders without it")
    words.set_defaults(run=answer, work=_ladders)
    for name, work, help_text in (
        ("choose", _choose, "rank the ladders for an athlete"),
        ("advise", _advise, "say what comes next on a stage, and why"),
    ):
        words = commands.add_parser(name, help=help_text)
        words.add_argument(
            "--json", type=Path, required=True, metavar="FACTS.json", help="see docs/formats.md"
        )
        words.set_defaults(run=answer, work=work)


def _name(words: argparse.Namespace) -> dict[str, Any]:
    movement = parse_movement(words.movement)
    needs = needs_of(movement)
    parts: dict[str, Any] = {"name": movement.name}
    if isinstance(movement, Derivative):
        parts |= {
            "kind": "derivative",
            "parts": asdict(movement),
            "relative_range": round(relative_range(movement), 3),
            "catch_limits_load": catch_limits_load(movement),
        }
    else:
        parts |= {"kind": "helper", "parts": {"family": movement.family}}
    return parts | {
        "phases": phases_of(movement),
        "positions": positions_of(movement),
        "needs": asdict(needs),
    }


def _ladders(words: argparse.Namespace) -> list[dict[str, Any]]:
    teaching = load_teaching()
    if words.ladder is None:
        return [_ladder(one) for one in teaching.ladders.values()]
    wanted = words.ladder.casefold()
    for one in teaching.ladders.values():
        if wanted in (one.id, one.name.casefold()):
            return [_ladder(one)]
    known = ", ".join(teaching.ladders)
    raise ContentError(f"There is no ladder “{words.ladder}”. There are: {known}.")


def _ladder(ladder: Ladder) -> dict[str, Any]:
    return ladder.model_dump(mode="json")


class _VisitFact(Facts):
    on: date
    ladder: str
    stage: str
    met: tuple[Annotated[int, Field(ge=0, le=20)], ...] = ()
    asked: int = Field(ge=1, le=20)
    faults: tuple[str, ...] = ()
    reps: int | None = Field(default=None, ge=0, le=1000)
    load_kg: float | None = Field(default=None, ge=0, le=1000)
    enjoyment: Literal[-1, 0, 1] = 0
    pain: bool = False
    confidence: Literal["", "calm", "wary", "afraid"] = ""
    verdict: Literal["", "too light", "right", "too heavy"] = ""

    @model_validator(mode="after")
    def _met_are_asked(self) -> "_VisitFact":
        if any(place >= self.asked for place in self.met):
            raise ValueError(f"`met` counts points from 0 to {self.asked - 1}")
        return self


class _StepFact(Facts):
    on: date
    ladder: str
    stage: str
    kind: Literal["start", "advance", "stay", "step back", "swap", "hold", "leave"]


class _FactsFile(Facts):
    """Both commands read the same file; `ladder` and `stage` are what `advise` asks about."""

    schema_: Literal["keen-kettle-facts"] = Field(alias="schema")
    schema_version: Literal[1]
    athlete: PersonFact
    ladder: str = ""
    stage: str = ""
    visits: tuple[_VisitFact, ...] = ()
    steps: tuple[_StepFact, ...] = ()
    class_size: int = Field(default=1, ge=1, le=200)
    pace: Literal["", "session", "visits", "block"] = ""
    weeks: int = Field(default=0, ge=0, le=26)
    step_kg: float = Field(default=SMALLEST_STEP_KG, gt=0, le=50)
    house_order: str = ""


def _choose(words: argparse.Namespace) -> dict[str, Any]:
    facts = read_facts(words.json, _FactsFile)
    teaching = load_teaching()
    person = facts.athlete.person()
    known_checks(person, teaching)
    ranked = choose_ladders(
        person,
        teaching,
        carried=carried_levels([Step(**one.model_dump()) for one in facts.steps], teaching),
        class_size=facts.class_size,
        house_order=facts.house_order,
    )
    return {
        "schema": "keen-kettle-choice",
        "schema_version": 1,
        "ladders": [asdict(one) for one in ranked],
    }


def _advise(words: argparse.Namespace) -> dict[str, Any]:
    facts = read_facts(words.json, _FactsFile)
    teaching, faults = load_teaching(), load_content().faults
    person = facts.athlete.person()
    known_checks(person, teaching)
    ladder = teaching.ladders.get(facts.ladder)
    if ladder is None:
        raise ContentError(
            f"There is no ladder “{facts.ladder}”. There are: {', '.join(teaching.ladders)}."
        )
    if ladder.stage_named(facts.stage) is None:
        stages = ", ".join(one.id for one in taught_stages(ladder, person.school, teaching))
        raise ContentError(f"“{ladder.id}” has no stage “{facts.stage}”. It has: {stages}.")
    unknown = [one for visit in facts.visits for one in visit.faults if one not in faults]
    if unknown:
        raise ContentError(f"There is no fault “{unknown[0]}” in the catalogue.")
    advice = advise(
        ladder.id,
        facts.stage,
        person,
        [Visit(**one.model_dump()) for one in facts.visits],
        teaching,
        steps=[Step(**one.model_dump()) for one in facts.steps],
        faults=faults,
        pace=facts.pace,
        weeks=facts.weeks,
        step_kg=facts.step_kg,
    )
    return {"schema": "keen-kettle-advice", "schema_version": 1, **asdict(advice)}
