"""Facts files of the command line: read whole, checked field by field, refused in one plain line."""

import argparse
import json
import sys
from datetime import date
from pathlib import Path
from typing import Annotated, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from keen_kettle.core.content import Teaching
from keen_kettle.core.errors import ContentError, KettleError
from keen_kettle.core.teach import CheckResult, Person

__all__ = ["Facts", "PersonFact", "answer", "known_checks", "read_facts"]

LARGEST = 2_000_000


def answer(words: argparse.Namespace) -> int:
    """Run `words.work` and print what it gives as JSON; exit code 2 with one line on bad input."""
    try:
        made = words.work(words)
    except KettleError as error:
        print(f"kettle: {' '.join(str(error).split())}", file=sys.stderr)
        return 2
    print(json.dumps(made, indent=1, ensure_ascii=False, default=str))
    return 0


class Facts(BaseModel):
    """A part of a facts file: no field that is not known."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class _CheckFact(Facts):
    state: Literal["pass", "not yet", "not tested"]
    on: date | None = None


class PersonFact(Facts):
    """An athlete, as `Person` has them."""

    name: str = ""
    age: Annotated[int, Field(ge=5, le=100)] | None = None
    stature_m: Annotated[float, Field(ge=0.8, le=2.6)] | None = None
    aim: Literal["weightlifting", "sport power", "general"] = "general"
    training_years: float = Field(default=0.0, ge=0, le=80)
    sessions_week: int = Field(default=2, ge=0, le=21)
    cautions: frozenset[Literal["shoulder", "wrist", "elbow", "back", "other"]] = frozenset()
    equipment: frozenset[str] = frozenset({"bar", "stick", "blocks"})
    checks: dict[str, _CheckFact] = {}
    school: dict[str, str] = {}
    lifting_years: Annotated[float, Field(ge=0, le=80)] | None = None
    wants_lifts: bool = False
    counts: dict[str, Annotated[int, Field(ge=0, le=500)]] = {}

    def person(self) -> Person:
        plain = self.model_dump(exclude={"checks"})
        checks = {name: CheckResult(one.state, one.on) for name, one in self.checks.items()}
        return Person(**plain, checks=checks)


F = TypeVar("F", bound=Facts)


def read_facts(path: Path, kind: type[F]) -> F:
    """A facts file as checked values.

    Raises
    ------
    ContentError
        Naming the file, the field and what is wrong with it.
    """
    try:
        if path.stat().st_size > LARGEST:
            raise ContentError(f"{path.name} is too large for facts about one athlete.")
        text = path.read_text(encoding="utf-8")
    except OSError as error:
        raise ContentError(f"{path} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise ContentError(f"{path.name} is not UTF-8 text.") from error
    try:
        return kind.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = " › ".join(str(part) for part in first["loc"])
        raise ContentError(
            f"{path.name}{', ' + where if where else ''}: {first['msg']}."
        ) from error


def known_checks(person: Person, teaching: Teaching) -> None:
    """Refuse checks, school questions and answers that the content does not have."""
    for check in person.checks:
        if check not in teaching.checks:
            known = ", ".join(teaching.checks)
            raise ContentError(f"There is no screening check “{check}”. There are: {known}.")
    for question, answer in person.school.items():
        known_question = teaching.questions.get(question)
        if known_question is None:
            raise ContentError(
                f"There is no school question “{question}”. There are: {', '.join(teaching.questions)}."
            )
        if answer not in {one.id for one in known_question.answer}:
            answers = ", ".join(one.id for one in known_question.answer)
            raise ContentError(f"“{question}” has no answer “{answer}”. There are: {answers}.")
