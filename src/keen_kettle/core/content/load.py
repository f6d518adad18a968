"""Reads content files into checked values; an error names file, entry and field."""

import tomllib
from functools import partial
from pathlib import Path
from typing import Annotated, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from keen_kettle.core.errors import ContentError

__all__ = [
    "Band",
    "Caution",
    "Content",
    "Drill",
    "Fault",
    "MeasureWords",
    "Rule",
    "load_content",
]

SHIPPED = Path(__file__).parent
Family = Literal["snatch", "clean", "jerk"]
Text = Annotated[str, Field(min_length=1)]


class _Entry(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


E = TypeVar("E", bound=_Entry)


class MeasureWords(_Entry):
    """How a measure is named and shown: `show` is the unit on screen, `digits` after the point."""

    id: Text
    name: Text
    show: Literal["cm", "m", "m/s", "s", "%", "×", "°", "J", "W", "N"]
    digits: int = Field(ge=0, le=3)
    meaning: Text


class Rule(_Entry):
    """A fault is seen when the measure is above (or below) its threshold.

    `width` is one threshold width: how far past the threshold counts as one step of severity.
    """

    measure: Text
    above: float | None = None
    below: float | None = None
    width: float = Field(gt=0)
    families: tuple[Family, ...] = ("snatch", "clean")
    says: Text

    @model_validator(mode="after")
    def _one_side(self) -> "Rule":
        if (self.above is None) == (self.below is None):
            raise ValueError("give either above or below")
        return self

    @property
    def threshold(self) -> float:
        return self.above if self.above is not None else float(self.below or 0.0)

    def past(self, value: float) -> float:
        """How far past the threshold, in the measure's unit; negative on the good side."""
        return value - self.threshold if self.above is not None else self.threshold - value


class Fault(_Entry):
    """One fault of the catalogue; without rules it cannot be judged from the bar alone.

    `remedy` is what mends it in teaching when it keeps coming back, before any change of stage; `why`
    two sentences for the athlete; `no_drill` says why no drill answers it, where none does.
    """

    id: Text
    name: Text
    phase: Text
    view: Text
    leads_to: tuple[str, ...] = ()
    comes_from: Text
    one_thing: Text
    safety: bool = False
    remedy: str = ""
    why: Text
    no_drill: str = ""
    rules: tuple[Rule, ...] = ()


class Band(_Entry):
    """A measure inside this band is worth praise."""

    measure: Text
    low: float | None = None
    high: float | None = None
    families: tuple[Family, ...] = ("snatch", "clean")
    says: Text


class Drill(_Entry):
    """A corrective drill; loads are shares of the matching catch lift's best."""

    id: Text
    name: Text
    families: tuple[Family, ...]
    answers: tuple[str, ...]
    phases: tuple[str, ...]
    kind: Literal["stick", "bar", "share"]
    low: float = Field(default=0.0, ge=0, le=1.3)
    high: float = Field(default=0.0, ge=0, le=1.3)
    dose: Text
    cue_inner: Text
    cue_outer: Text
    how: Text
    needs: tuple[str, ...] = ()
    racked: bool = False
    catches: bool = False
    overhead: bool = False
    cautions: tuple[str, ...] = ()
    why: Text
    steps: int = Field(ge=1, le=9)

    @model_validator(mode="after")
    def _load_is_whole(self) -> "Drill":
        if self.kind == "share" and not 0 < self.low <= self.high:
            raise ValueError("a share needs low and high, low first")
        if self.catches and self.high > 1:
            raise ValueError("a catch is never planned above 100 % of its best")
        return self


class Caution(_Entry):
    """A sentence that keeps people from harm."""

    id: Text
    text: Text


N = TypeVar("N", MeasureWords, Fault, Drill, Caution)


class Content(_Entry):
    """All content, by id, in file order."""

    measures: dict[str, MeasureWords]
    faults: dict[str, Fault]
    praise: tuple[Band, ...]
    drills: dict[str, Drill]
    cautions: dict[str, Caution]


def load_content(folder: Path = SHIPPED) -> Content:
    """Load and check every content file of a folder.

    Raises
    ------
    ContentError
        Naming file, entry and field.
    """
    read = partial(_read, folder)
    content = Content(
        measures=_by_id(read("measures.toml", "measure", MeasureWords), "measures.toml"),
        faults=_by_id(
            read("faults.toml", "fault", Fault) + read("faults-seen.toml", "fault", Fault),
            "faults.toml",
        ),
        praise=tuple(read("faults.toml", "praise", Band)),
        drills=_by_id(read("drills.toml", "drill", Drill), "drills.toml"),
        cautions=_by_id(read("cautions.toml", "caution", Caution), "cautions.toml"),
    )
    _check_links(content)
    return content


def _read(folder: Path, name: str, table: str, kind: type[E]) -> list[E]:
    path = folder / name
    try:
        rows = tomllib.loads(path.read_text(encoding="utf-8")).get(table, [])
    except OSError as error:
        raise ContentError(f"{name} cannot be read: {error.strerror}.") from error
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise ContentError(f"{name} is not valid TOML: {error}.") from error
    found = []
    for number, row in enumerate(rows, 1):
        try:
            found.append(kind.model_validate(row))
        except ValidationError as error:
            first = error.errors()[0]
            field = ".".join(str(part) for part in first["loc"]) or "entry"
            entry = row.get("id", row.get("measure", f"number {number}"))
            raise ContentError(f"{name}, {table} “{entry}”, {field}: {first['msg']}.") from error
    return found


def _by_id(rows: list[N], name: str) -> dict[str, N]:
    found: dict[str, N] = {}
    for row in rows:
        if row.id in found:
            raise ContentError(f"{name}, “{row.id}”, id: it stands there twice.")
        found[row.id] = row
    return found


def _check_links(content: Content) -> None:
    """Every id that is named must exist."""

    def must(known: bool, file: str, entry: str, field: str, name: str) -> None:
        if not known:
            raise ContentError(f"{file}, “{entry}”, {field}: there is no “{name}”.")

    for fault in content.faults.values():
        for later in fault.leads_to:
            must(later in content.faults, "faults.toml", fault.id, "leads_to", later)
        for rule in fault.rules:
            must(rule.measure in content.measures, "faults.toml", fault.id, "measure", rule.measure)
    for band in content.praise:
        must(band.measure in content.measures, "faults.toml", "praise", "measure", band.measure)
    for drill in content.drills.values():
        for answered in drill.answers:
            must(answered in content.faults, "drills.toml", drill.id, "answers", answered)
        for caution in drill.cautions:
            must(caution in content.cautions, "drills.toml", drill.id, "cautions", caution)
