"""What comes out of the store: small frozen values, in the units of their names."""

from dataclasses import dataclass, field
from datetime import date
from pathlib import Path

from keen_kettle.core.track import PlateMark

__all__ = ["Athlete", "Clip", "NewAthlete", "NewClip", "Prescribed"]


@dataclass(frozen=True)
class NewAthlete:
    """An athlete as entered; `bests_kg` maps a lift's name to its best in kilograms."""

    name: str
    stature_m: float | None = None
    bests_kg: dict[str, float] = field(default_factory=dict)
    cautions: frozenset[str] = frozenset()
    equipment: frozenset[str] = frozenset({"bar", "stick", "blocks"})
    trained: bool = False


@dataclass(frozen=True)
class Athlete(NewAthlete):
    """An athlete as kept."""

    id: int = 0


@dataclass(frozen=True)
class NewClip:
    """A film to be kept, with what is known about it."""

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


@dataclass(frozen=True)
class Clip(NewClip):
    """A film as kept. `tracked` is True when a path for its present marks is kept too."""

    id: int = 0
    tracked: bool = False


@dataclass(frozen=True)
class Prescribed:
    """A corrective that the coach took, as it was on that day."""

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
