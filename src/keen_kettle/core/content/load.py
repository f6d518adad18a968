"""Reads content files into checked values; an error names file, entry and field."""

from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Literal, TypeVar

from pydantic import Field, model_validator

from keen_kettle.core.content.rows import Entry, Id, Text, by_id, read_rows
from keen_kettle.core.errors import ContentError
from keen_kettle.core.lifts import Helper, by_their_names

__all__ = [
    "Band",
    "BarStep",
    "Caution",
    "Content",
    "Drill",
    "Fault",
    "MeasureWords",
    "Mobility",
    "Quality",
    "Rule",
    "Split",
    "SplitAnswer",
    "load_content",
]

SHIPPED = Path(__file__).parent
Family = Literal["snatch", "clean", "jerk"]


E = TypeVar("E", bound=Entry)


class MeasureWords(Entry):
    """How a measure is named and shown: `show` is the unit on screen, `digits` after the point."""

    id: Text
    name: Text
    show: Literal["cm", "m", "m/s", "s", "%", "×", "°", "J", "W", "N"]
    digits: int = Field(ge=0, le=3)
    meaning: Text


class Rule(Entry):
    """A fault is seen when the measure is above (or below) its threshold.

    `width` is one threshold width: how far past the threshold counts as one step of severity; `differs`
    is by how much good lifters differ in the measure (one standard deviation), however exact it is. Where
    `with_measure` is given, that one must be below `with_below` too. With `plain_if_seen` what would be
    plain is a close call where a point was not seen, and a close call is nothing: what is assumed of it
    is too often wrong.
    """

    measure: Text
    above: float | None = None
    below: float | None = None
    width: float = Field(gt=0)
    with_measure: Text | None = None
    with_below: float | None = None
    differs: float = Field(default=0.0, ge=0)
    plain_if_seen: bool = False
    families: tuple[Family, ...] = ("snatch", "clean")
    says: Text

    @model_validator(mode="after")
    def _one_side(self) -> "Rule":
        if (self.above is None) == (self.below is None):
            raise ValueError("give either above or below")
        if (self.with_measure is None) != (self.with_below is None):
            raise ValueError("give with_measure and with_below together")
        return self

    @property
    def threshold(self) -> float:
        return self.above if self.above is not None else float(self.below or 0.0)

    def past(self, value: float) -> float:
        """How far past the threshold, in the measure's unit; negative on the good side."""
        return value - self.threshold if self.above is not None else self.threshold - value


class Fault(Entry):
    """One fault of the catalogue; without rules it cannot be judged from the bar alone.

    `remedy` is what mends it in teaching when it keeps coming back, before any change of stage; `why`
    two sentences for the athlete; `no_drill` says why no drill answers it, where none does. Any one of
    the rules shows the fault; where they all tell of the same thing they are weighed `together`, the
    first being the fault itself.
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
    together: bool = False
    rules: tuple[Rule, ...] = ()


class Band(Entry):
    """A measure inside this band is worth praise."""

    measure: Text
    low: float | None = None
    high: float | None = None
    families: tuple[Family, ...] = ("snatch", "clean")
    says: Text


class Drill(Entry):
    """A corrective drill; loads are shares of the matching catch lift's best.

    `minutes` is what it takes with its rests; `movement` names the lift that it is, where it is one
    (with {family} for the lift's family), so that a figure can show it.
    """

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
    minutes: int = Field(default=6, ge=1, le=30)
    movement: str = ""

    @model_validator(mode="after")
    def _load_is_whole(self) -> "Drill":
        if self.kind == "share" and not 0 < self.low <= self.high:
            raise ValueError("a share needs low and high, low first")
        if self.catches and self.high > 1:
            raise ValueError("a catch is never planned above 100 % of its best")
        return self


class Quality(Entry):
    """Something that a part of a complex trains, and the faults that it answers."""

    id: Id
    name: Text
    says: Text
    answers: tuple[str, ...] = ()


class SplitAnswer(Entry):
    """One answer to a splitting question: the cause that it tells, and the drill for it."""

    id: Id
    says: Text
    drill: Text
    because: Text


class Split(Entry):
    """The one question (or look) that tells apart the causes of a fault."""

    fault: Text
    asks: Text
    answer: tuple[SplitAnswer, ...] = Field(min_length=2, max_length=4)


class Mobility(Entry):
    """Something that opens the body before the bar; `place` orders it from the ground up.

    `areas` are what it opens, `checks` and `faults` what makes it needed, `families` the lifts that
    call for it anyway, `avoid` the parts of the body that must be free of caution.
    """

    id: Id
    name: Text
    place: int = Field(ge=1, le=20)
    seconds: int = Field(ge=10, le=120)
    dose: Text
    areas: tuple[Text, ...]
    checks: tuple[str, ...] = ()
    faults: tuple[str, ...] = ()
    families: tuple[Family, ...] = ()
    needs: tuple[str, ...] = ()
    avoid: tuple[str, ...] = ()


class BarStep(Entry):
    """A step of the warm-up with stick or empty bar, slow before fast; `must` steps go last."""

    id: Id
    name: Text
    place: int = Field(ge=1, le=30)
    seconds: int = Field(ge=10, le=180)
    dose: Text
    families: tuple[Family, ...]
    movement: str = ""
    must: bool = False


class Caution(Entry):
    """A sentence that keeps people from harm."""

    id: Text
    text: Text


class Content(Entry):
    """All content, by id, in file order."""

    measures: dict[str, MeasureWords]
    faults: dict[str, Fault]
    praise: tuple[Band, ...]
    drills: dict[str, Drill]
    cautions: dict[str, Caution]
    qualities: dict[str, Quality]
    splits: dict[str, Split]
    mobility: dict[str, Mobility]
    bar_steps: dict[str, BarStep]
    own_movements: dict[str, Helper] = Field(default_factory=dict)
    """A coach's own movements, as `parse_movement` looks them up."""

    def with_own(self, drills: Sequence[Drill], movements: Sequence[Helper]) -> "Content":
        """The same with a coach's own drills and movements; own drills win over shipped ones of
        the same id."""
        own = {drill.id: drill for drill in drills}
        return self.model_copy(
            update={
                "drills": {**self.drills, **own},
                "own_movements": by_their_names(movements),
            }
        )


def load_content(folder: Path = SHIPPED) -> Content:
    """Load and check every content file of a folder; the shipped ones once.

    Raises
    ------
    ContentError
        Naming file, entry and field.
    """
    return _shipped() if folder == SHIPPED else _load(folder)


@cache
def _shipped() -> Content:
    return _load(SHIPPED)


def _load(folder: Path) -> Content:
    def read(name: str, table: str, kind: type[E]) -> list[E]:
        return read_rows(folder / name, table, kind)

    faults = by_id("faults.toml", read("faults.toml", "fault", Fault))
    content = Content(
        measures=by_id("measures.toml", read("measures.toml", "measure", MeasureWords)),
        faults=by_id("faults-seen.toml", read("faults-seen.toml", "fault", Fault), faults),
        praise=tuple(read("faults.toml", "praise", Band)),
        drills=by_id("drills.toml", read("drills.toml", "drill", Drill)),
        cautions=by_id("cautions.toml", read("cautions.toml", "caution", Caution)),
        qualities=by_id("qualities.toml", read("qualities.toml", "quality", Quality)),
        splits={one.fault: one for one in read("splits.toml", "split", Split)},
        mobility=by_id("mobility.toml", read("mobility.toml", "mobility", Mobility)),
        bar_steps=by_id("bar-warm-up.toml", read("bar-warm-up.toml", "step", BarStep)),
    )
    _check_links(content)
    return content


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
    for quality in content.qualities.values():
        for answered in quality.answers:
            must(answered in content.faults, "qualities.toml", quality.id, "answers", answered)
    for split in content.splits.values():
        must(split.fault in content.faults, "splits.toml", split.fault, "fault", split.fault)
        for answer in split.answer:
            must(answer.drill in content.drills, "splits.toml", split.fault, "drill", answer.drill)
    for item in content.mobility.values():
        for answered in item.faults:
            must(answered in content.faults, "mobility.toml", item.id, "faults", answered)
