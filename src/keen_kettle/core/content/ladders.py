"""Teaching content: ladders with their stages, the screening checks, the questions of schools."""

import tomllib
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from keen_kettle.core.content.rows import (
    Entry,
    Id,
    Text,
    by_id,
    first_fault,
    read_rows,
    read_text,
)
from keen_kettle.core.errors import ContentError

__all__ = [
    "AIMS",
    "PACES",
    "SCHEMA",
    "Answer",
    "Asked",
    "Check",
    "Dose",
    "Gate",
    "Ladder",
    "Question",
    "Stage",
    "Strand",
    "Teaching",
    "load_teaching",
    "read_ladder",
]

SHIPPED = Path(__file__).parent
SCHEMA = "keen-kettle-ladder"
LARGEST = 400_000
Aim = Literal["weightlifting", "sport power", "general"]
Pace = Literal["session", "visits", "block"]
PACES: tuple[Pace, ...] = ("session", "visits", "block")
AIMS: tuple[Aim, ...] = ("weightlifting", "sport power", "general")


class Check(Entry):
    """A screening check; `weeks` is how long a result is taken as fresh."""

    id: Id
    name: Text
    how: Text
    if_not: Text
    area: Text
    weeks: int = Field(ge=1, le=104)
    safety: bool = False


class Answer(Entry):
    """A school's answer.

    `adds` is a point to check on stages of the kind `to`; `leaves_out` drops the stages that are
    caught.
    """

    id: Id
    name: Text
    why: Text
    adds: str = ""
    leaves_out: Literal["", "caught"] = ""
    to: Literal["set", "pull", "catch", "all"] = "all"


class Question(Entry):
    """A question on which schools differ."""

    id: Id
    name: Text
    default: Id
    answer: tuple[Answer, ...] = Field(min_length=2)

    @model_validator(mode="after")
    def _default_is_there(self) -> "Question":
        if self.default not in {one.id for one in self.answer}:
            raise ValueError(f"the default “{self.default}” is not among the answers")
        return self

    def named(self, answer: str) -> Answer:
        """The answer of an id; the default where it is not known."""
        found = {one.id: one for one in self.answer}
        return found.get(answer, found[self.default])


class Dose(Entry):
    """What to do: sets and reps or a hold, and how heavy.

    `low` and `high` are shares of the best of the family's full lift.
    """

    sets: int = Field(default=3, ge=1, le=20)
    reps: int = Field(default=5, ge=0, le=100)
    hold_s: int = Field(default=0, ge=0, le=120)
    load: Literal["body", "stick", "empty bar", "light", "share", "bell"] = "light"
    low: float = Field(default=0.0, ge=0, le=1.2)
    high: float = Field(default=0.0, ge=0, le=1.2)
    note: str = ""

    @model_validator(mode="after")
    def _whole(self) -> "Dose":
        if self.reps == 0 and self.hold_s == 0:
            raise ValueError("give reps or hold_s")
        if self.load == "share" and not 0 < self.low <= self.high:
            raise ValueError("a share needs low and high, low first")
        return self


class Gate(Entry):
    """What must be seen to go on: enough of the stage's points (0 means all), no watched fault."""

    says: Text
    points: int = Field(default=0, ge=0, le=6)
    clean: bool = True


class Strand(Entry):
    """Work that runs beside a stage."""

    movement: Text
    says: Text


class Stage(Entry):
    """One step of a ladder; `level` (1 to 10) compares stages across ladders.

    `screens` are screening checks that must be passed before it begins, besides those that its
    movement needs anyway, and `teaches` those that it is there to teach and so does not ask for;
    `after` names stages that must have been passed, `needs_passed` the level that must have been
    passed in another skill. `only_if` maps a question's id to the answers with which the stage is
    taught. `weeks` is how long it may take by plan; `word` is the house word that it adds, `why` two
    sentences for the athlete, `easier` and `harder` other versions of it.
    """

    id: Id
    name: Text
    purpose: Text
    movement: Text
    level: int = Field(ge=1, le=10)
    dose: Dose = Dose()
    checks: tuple[Text, ...] = Field(min_length=2, max_length=5)
    watch: tuple[str, ...] = ()
    screens: tuple[str, ...] = ()
    gate: Gate
    stuck: Text
    cue_outer: Text
    cue_inner: Text
    parallel: Strand | None = None
    after: tuple[str, ...] = ()
    teaches: tuple[str, ...] = ()
    needs_passed: dict[str, Annotated[int, Field(ge=1, le=10)]] = Field(default_factory=dict)
    weeks: int = Field(default=0, ge=0, le=26)
    word: str = Field(default="", max_length=24)
    why: str = Field(default="", max_length=400)
    easier: str = Field(default="", max_length=200)
    harder: str = Field(default="", max_length=200)
    only_if: dict[str, tuple[str, ...]] = Field(default_factory=dict)


class Ladder(Entry):
    """An ordered list of stages; `aims` says how well it serves each aim (0 to 3).

    `pace`: a stage passes within a session, over visits, or after weeks (block).
    """

    id: Id
    name: Text
    family: Literal["snatch", "clean", "jerk"]
    implement: Literal["barbell", "dumbbell", "kettlebell", "dumbbell pair", "stick"] = "barbell"
    pace: Pace = "visits"
    order: Text
    idea: Text
    aims: dict[Aim, Annotated[int, Field(ge=0, le=3)]]
    suits: tuple[Literal["class", "beginner", "tall", "young", "adult", "experienced"], ...] = ()
    sessions: int = Field(default=1, ge=1, le=6)
    stage: tuple[Stage, ...] = Field(min_length=1, max_length=30)

    def __hash__(self) -> int:
        return hash((self.id, len(self.stage)))

    @property
    def skill(self) -> str:
        """What is learnt on it: the family, and the implement where that is another skill."""
        same = self.implement in ("barbell", "stick")
        return self.family if same else f"{self.family}, {self.implement}"

    def stage_named(self, stage: str) -> Stage | None:
        return next((one for one in self.stage if one.id == stage), None)


class _LadderFile(Entry):
    schema_: Literal["keen-kettle-ladder"] = Field(alias="schema")
    schema_version: Literal[1]
    ladder: Ladder


class Asked(Entry):
    """A question of the roll call, its answer, and the starts that it belongs to."""

    id: Id
    asks: Text
    answer: Text
    starts: tuple[Literal["floor", "hang", "rack", "bell"], ...] = Field(min_length=1)


class Teaching(Entry):
    """All teaching content, by id."""

    roll_call: dict[str, Asked] = Field(default_factory=dict)

    checks: dict[str, Check]
    questions: dict[str, Question]
    ladders: dict[str, Ladder]
    own: frozenset[str] = frozenset()

    def with_own(self, own: Sequence[Ladder]) -> "Teaching":
        """The same with a coach's own ladders, which win over shipped ones of the same id."""
        if not own:
            return self
        ladders = {**self.ladders, **{ladder.id: ladder for ladder in own}}
        ids = frozenset(ladder.id for ladder in own)
        return self.model_copy(update={"ladders": ladders, "own": ids})

    def __hash__(self) -> int:
        return hash((*self.ladders, *self.questions))


@lru_cache(maxsize=4)
def load_teaching(folder: Path = SHIPPED) -> Teaching:
    """Load and check the shipped ladders, screening and schools.

    Raises
    ------
    ContentError
        Naming file, entry and field.
    """
    ladders = {}
    for path in sorted((folder / "ladders").glob("*.toml")):
        ladder = read_ladder(read_text(path), path.name)
        ladders[ladder.id] = ladder
    return Teaching(
        checks=by_id("screening.toml", read_rows(folder / "screening.toml", "check", Check)),
        questions=by_id("schools.toml", read_rows(folder / "schools.toml", "question", Question)),
        ladders=ladders,
        roll_call=by_id("roll_call.toml", read_rows(folder / "roll_call.toml", "question", Asked)),
    )


def read_ladder(text: str, name: str) -> Ladder:
    """A ladder from the text of a ladder file (TOML or JSON, see docs/formats.md).

    Raises
    ------
    ContentError
        Naming the file, the stage and the field that is wrong, and what is wanted.
    """
    if len(text) > LARGEST:
        raise ContentError(f"{name} is too long for a ladder ({len(text) // 1000} kB).")
    try:
        if text.lstrip().startswith("{"):
            return _LadderFile.model_validate_json(text).ladder
        return _LadderFile.model_validate(tomllib.loads(text)).ladder
    except tomllib.TOMLDecodeError as error:
        raise ContentError(f"{name} is not valid TOML: {error}.") from error
    except ValidationError as error:
        raise ContentError(_first_fault(name, error)) from error


def _first_fault(name: str, error: ValidationError) -> str:
    first = error.errors()[0]
    if first["loc"] and first["loc"][0] in ("schema", "schema_version"):
        return f"{name} is no ladder file of this kind: it must say schema = “{SCHEMA}” and schema_version = 1."
    return first_fault(name, error)
