"""What a coach adds: own drills, movements and complexes, and the file that carries them on."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, ValidationError, model_validator

from keen_kettle.core.content.load import Drill, Family
from keen_kettle.core.content.rows import Entry, Id, Text, first_fault
from keen_kettle.core.errors import ContentError
from keen_kettle.core.lifts import BELOW, PLACES, STANCES, Helper, Nature

__all__ = ["OwnComplex", "OwnLibrary", "OwnMovement", "read_library"]

LARGEST = 400_000


def _one_of(known: tuple[str, ...]) -> AfterValidator:
    def check(value: str) -> str:
        if value not in known:
            raise ValueError(f"it is one of {', '.join(known)}")
        return value

    return AfterValidator(check)


Place = Annotated[str, _one_of(PLACES)]
Stance = Annotated[str, _one_of(STANCES)]
Implement = Literal["barbell", "dumbbell pair", "dumbbell", "kettlebell", "stick"]
BARS, EQUIPMENT = ("barbell", "stick"), {"barbell": "bar"}


class OwnMovement(Entry):
    """A movement that the shipped names have no words for, by where the load is before and after.

    `priced_by` and `share` say how heavy it can be (1 = the best of that lift), `trains` what it
    is for (ids of qualities), `shown_as` whose figure shows it.
    """

    name: str = Field(min_length=3, max_length=60)
    also: tuple[Text, ...] = Field(default=(), max_length=6)
    implement: Implement = "barbell"
    begins: Place
    ends: Place
    grip: Literal["snatch", "clean", "either"] = "clean"
    stance_before: Stance = "hip width"
    stance_after: Stance = "hip width"
    trains: tuple[Id, ...] = Field(min_length=1, max_length=4)
    difficulty: int = Field(default=4, ge=1, le=9)
    priced_by: Family = "clean"
    share: float = Field(default=0.7, ge=0.1, le=1.3)
    shown_as: str = Field(default="", max_length=80)
    how: str = Field(default="", max_length=600)

    @model_validator(mode="after")
    def _can_be(self) -> "OwnMovement":
        places = {self.begins, self.ends}
        bar = self.implement in BARS
        if not bar and places & {"back", "blocks"}:
            raise ValueError("only a bar lies on the back or on blocks")
        if bar and "front rack" in places and self.grip != "clean":
            raise ValueError("the front rack is held with the clean grip")
        if self._nature().caught and self.share > 1:
            raise ValueError("a catch is never planned above 100 % of its best")
        return self

    def as_movement(self) -> Helper:
        """The movement, with every caution and check that its places ask for."""
        return Helper(
            self.name,
            "own",
            "",
            self.implement,
            self._checks(),
            self._areas(),
            self._equipment(),
            self.also,
            self._nature(),
        )

    def _nature(self) -> Nature:
        grips = ("clean", "snatch") if self.grip == "either" else (self.grip,)
        return Nature(
            self.begins,
            self.ends,
            grips if self.implement in BARS else ("clean",),
            (self.stance_before, self.stance_after),
            self.trains,
            self.difficulty,
            self.priced_by,
            self.share,
            self.shown_as,
        )

    def _areas(self) -> tuple[str, ...]:
        places, bar = {self.begins, self.ends}, self.implement in BARS
        found: list[str] = []
        if "overhead" in places:
            found += ["shoulder", "wrist"] if bar else ["shoulder"]
            found += ["elbow"] if self._nature().caught and bar else []
        if "front rack" in places and bar:
            found += ["wrist", "elbow"]
        if self.implement == "barbell" and self.begins in BELOW and self.begins != "blocks":
            found.append("back")
        return tuple(dict.fromkeys(found))

    def _checks(self) -> tuple[str, ...]:
        places, barbell = {self.begins, self.ends}, self.implement == "barbell"
        found: list[str] = []
        if self.begins == "floor" and barbell:
            found.append("start-position")
        if "overhead" in places:
            found.append("pain-free-overhead")
        if "front rack" in places and self.implement in BARS:
            found += ["front-rack", "pain-free-rack"]
        if self._nature().caught and barbell:
            deep = self.stance_after == "squat width"
            overhead = "overhead-full" if deep else "overhead-quarter"
            found += [overhead if self.ends == "overhead" else "front-squat", "bailing"]
        return tuple(found)

    def _equipment(self) -> tuple[str, ...]:
        held = EQUIPMENT.get(self.implement, self.implement)
        return (held, "blocks") if "blocks" in (self.begins, self.ends) else (held,)


class OwnComplex(Entry):
    """A string of movements under a name of the coach's own."""

    name: Text
    text: Text


@dataclass(frozen=True)
class OwnLibrary:
    """All that a drill file holds."""

    drills: tuple[Drill, ...] = ()
    movements: tuple[OwnMovement, ...] = ()
    complexes: tuple[OwnComplex, ...] = ()


class _DrillFile(Entry):
    schema_: Literal["keen-kettle-drills"] = Field(alias="schema")
    schema_version: Literal[1]
    drill: tuple[Drill, ...] = Field(default=(), max_length=200)
    movement: tuple[OwnMovement, ...] = Field(default=(), max_length=200)
    complex: tuple[OwnComplex, ...] = Field(default=(), max_length=200)

    @model_validator(mode="after")
    def _holds_something(self) -> "_DrillFile":
        if not (self.drill or self.movement or self.complex):
            raise ValueError("it holds no drill, no movement and no complex")
        return self


def read_library(text: str, name: str) -> OwnLibrary:
    """Drills, movements and complexes from the text of a drill file (JSON, see docs/formats.md).

    Raises
    ------
    ContentError
        Naming the file, the entry and the field that is wrong.
    """
    if len(text) > LARGEST:
        raise ContentError(f"{name} is too long for drills ({len(text) // 1000} kB).")
    try:
        whole = _DrillFile.model_validate_json(text)
    except ValidationError as error:
        raise ContentError(first_fault(name, error)) from error
    return OwnLibrary(whole.drill, whole.movement, whole.complex)
