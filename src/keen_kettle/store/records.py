"""What comes out of the store: small frozen values, in the units of their names."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from typing import Any

from keen_kettle.core.motion import Drawing, HandEvent
from keen_kettle.core.prescribe import Sighting
from keen_kettle.core.teach import CheckResult, Person, Step, Try, Visit
from keen_kettle.core.track import Followed, HandWork, PlateMark
from keen_kettle.core.track.body import BodyHand

__all__ = [
    "Athlete",
    "Clip",
    "ClipFindings",
    "Group",
    "InboxRecord",
    "Jump",
    "KeptComplex",
    "KeptStep",
    "KeptTry",
    "KeptVisit",
    "NewAthlete",
    "NewClip",
    "Prescribed",
    "Screening",
    "person_of",
]


@dataclass(frozen=True)
class NewAthlete:
    """An athlete as entered.

    `bests_kg` maps a lift's name to its best in kilograms; `lengths_m` the measured body lengths
    (arm, breadth, shoulder, crease) and `grips_m` the coach's confirmed grip widths (snatch,
    clean) in metres; `school` this athlete's answers to school questions; `consent` is who gave a
    guardian's consent and when, in the coach's words. `training_years` are years in a gym,
    `lifting_years` those in these lifts; `own_lift` is the variant that was tried and kept.
    """

    name: str
    stature_m: float | None = None
    bests_kg: dict[str, float] = field(default_factory=dict)
    cautions: frozenset[str] = frozenset()
    equipment: frozenset[str] = frozenset({"bar", "stick", "blocks"})
    trained: bool = False
    birth_year: int | None = None
    sex: str = ""
    weight_class: str = ""
    mass_kg: float | None = None
    lengths_m: dict[str, float] = field(default_factory=dict)
    grips_m: dict[str, float] = field(default_factory=dict)
    aim: str = "general"
    sport: str = ""
    training_years: float = 0.0
    sessions_week: int = 2
    school: dict[str, str] = field(default_factory=dict)
    consent: str = ""
    notes: str = ""
    photo: bytes | None = None
    archived_on: date | None = None
    lifting_years: float | None = None
    wants_lifts: bool = False
    own_lift: str = ""

    def age(self, today: date) -> int | None:
        """Age in the year of `today`."""
        return today.year - self.birth_year if self.birth_year is not None else None

    def minor(self, today: date) -> bool:
        age = self.age(today)
        return age is not None and age < 18


@dataclass(frozen=True)
class Athlete(NewAthlete):
    """An athlete as kept."""

    id: int = 0


@dataclass(frozen=True)
class Group:
    """A group of athletes; an empty `pace` is the ladder's own, `weeks` those of a block."""

    id: int
    name: str
    athletes: frozenset[int] = frozenset()
    pace: str = ""
    weeks: int = 0


@dataclass(frozen=True)
class Jump:
    """The height of one jump, measured by hand."""

    athlete_id: int
    on: date
    height_m: float
    id: int = 0


@dataclass(frozen=True)
class KeptTry:
    """One variant that was tried, and how it went."""

    athlete_id: int
    on: date
    tried: Try
    id: int = 0


@dataclass(frozen=True)
class Screening:
    """One result of one check."""

    athlete_id: int
    check: str
    state: str
    on: date
    note: str = ""
    id: int = 0


@dataclass(frozen=True)
class KeptVisit:
    """A visit with what the rule advised and what the coach decided, each with its reason."""

    athlete_id: int
    visit: Visit
    note: str = ""
    advised: str = ""
    reason: str = ""
    decided: str = ""
    why: str = ""
    id: int = 0


@dataclass(frozen=True)
class KeptStep:
    """A step with the coach's reason."""

    athlete_id: int
    step: Step
    why: str = ""
    id: int = 0


def person_of(
    athlete: NewAthlete,
    checks: Mapping[str, CheckResult],
    house_school: Mapping[str, str],
    today: date,
) -> Person:
    """The athlete as the teaching judgement sees them."""
    return Person(
        name=athlete.name,
        age=athlete.age(today),
        stature_m=athlete.stature_m,
        aim=athlete.aim,
        training_years=athlete.training_years,
        lifting_years=athlete.lifting_years,
        wants_lifts=athlete.wants_lifts,
        sessions_week=athlete.sessions_week,
        cautions=athlete.cautions,
        equipment=athlete.equipment,
        checks=checks,
        school={**house_school, **athlete.school},
    )


@dataclass(frozen=True)
class NewClip:
    """A film to be kept, with what is known about it.

    `steady` takes the camera's own movement out; `capture_fps` is the rate at which it was filmed,
    where that is not what the film says. `marks` and `hand` belong to the `thing` that is measured;
    `aside` holds the others that are followed in the same film. The scale comes from the thing's
    diameter ("plate"), from two `scale_points` (x, y, x, y in pixels, and their distance in mm;
    "points"), or there is none ("none"). `upright` is a line along something that stands upright (x, y,
    x, y in pixels). `body` is the work by hand on the lifter's landmarks,
    `events` are those moved by hand.

    `waits` says what it waits for: "review", "confirm" (somebody must say whose lift it is; `guess`
    holds why each guessed field was guessed) or "" (nothing any more). `background` is what the
    program does with it by itself: "" (nothing), "due", "done", or "failed" with the reason in
    `trouble`.
    """

    path: Path
    sha256: str
    frames: int
    duration_s: float
    filmed_on: date
    athlete_id: int | None = None
    lift: str = "snatch"
    mass_kg: float | None = None
    facing: str = "right"
    diameter_mm: float = 450.0
    marks: tuple[PlateMark, ...] = ()
    thumbnail: bytes = b""
    steady: bool = True
    capture_fps: float | None = None
    thing: str = "plate"
    hand: HandWork = field(default_factory=HandWork)
    also_followed: tuple[Followed, ...] = ()
    scale_by: str = "plate"
    scale_points: tuple[float, ...] | None = None
    upright: tuple[float, ...] | None = None
    body: BodyHand = field(default_factory=BodyHand)
    events: tuple[HandEvent, ...] = ()
    drawings: tuple[Drawing, ...] = ()
    waits: str = "review"
    background: str = ""
    trouble: str = ""
    guess: dict[str, str] = field(default_factory=dict)

    @property
    def followed(self) -> Followed:
        """The thing that is measured, with what was set for it."""
        return Followed(self.thing, self.diameter_mm, self.marks, self.hand)

    def measuring(self, thing: str) -> dict[str, Any]:
        """The fields that change when another thing is measured; the present one is put aside."""
        known = {one.thing: one for one in (*self.also_followed, self.followed)}
        chosen = known.pop(thing, Followed.new(thing))
        kept = tuple(one for one in known.values() if one.marks)
        return {
            "thing": thing,
            "diameter_mm": chosen.diameter_mm,
            "marks": chosen.marks,
            "hand": chosen.hand,
            "also_followed": kept,
        }


@dataclass(frozen=True)
class Clip(NewClip):
    """A film as kept. `tracked` is True when a path for its present marks is kept too."""

    id: int = 0
    tracked: bool = False


@dataclass(frozen=True)
class InboxRecord:
    """The watched folder, and what was taken from it: size in bytes and time by file name."""

    folder: Path | None = None
    seen: dict[str, tuple[int, float]] = field(default_factory=dict)


@dataclass(frozen=True)
class ClipFindings:
    """What a measured clip showed: the faults, and every measure that was told (value and sigma in
    SI units by its id), so that a later clip can be set against it."""

    clip_id: int
    family: str
    sightings: tuple[Sighting, ...] = ()
    measures: Mapping[str, tuple[float, float]] = field(default_factory=dict)


@dataclass(frozen=True)
class KeptComplex:
    """A complex that the coach keeps, as it is written."""

    name: str
    text: str
    on: date
    id: int = 0


@dataclass(frozen=True)
class Prescribed:
    """A corrective that the coach took, as it was on that day, and what became of it.

    `measure` with its `before` (value, sigma in SI units) is what it was taken for; `outcome` is
    empty while it runs, then improved, unchanged, gone or worse.
    """

    athlete_id: int
    clip_id: int | None
    fault: str
    drill: str
    family: str
    name: str
    load_kg: float | None
    dose: str
    reason: str
    taken_on: date
    review_on: date
    id: int = 0
    cue: str = ""
    implement: str = "barbell"
    measure: str = ""
    before_value: float | None = None
    before_sigma: float | None = None
    outcome: str = ""
    ended_on: date | None = None
    after_clip: int | None = None
    after_value: float | None = None
    after_sigma: float | None = None
    outcome_says: str = ""

    @property
    def runs(self) -> bool:
        return not self.outcome
