"""What the coach says about a clip, and what of it the scale and the vertical follow from."""

from dataclasses import dataclass, field

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion import HandEvent
from keen_kettle.core.track import (
    BarTrack,
    HandWork,
    PlateMark,
    Scale,
    Vertical,
    scale_from_points,
    scale_from_rim,
    scale_unknown,
    vertical_along,
)
from keen_kettle.core.track.body import BodyHand

__all__ = ["ClipSettings", "radius_m", "scale_of", "vertical_of"]


@dataclass(frozen=True)
class ClipSettings:
    """What the coach says about a clip.

    `steady` takes the camera's own movement out; `capture_fps` is at how many pictures a second
    it was filmed, where that is not what the film says; `rep` is the repetition that is judged,
    from 0 (None: the one of which most is seen). `scale_by` is "plate" (by its diameter), "points" (two points: x, y, x, y in pixels and
    their distance in mm) or "none". `thing` is what is followed. `events` are those moved by hand. `centre_px` is the picture's middle. `upright`
    is a line along something that stands upright (x, y, x, y in pixels), where the coach drew one.
    """

    derivative: Derivative
    facing: str = "right"
    diameter_mm: float = 450.0
    mass_kg: float | None = None
    stature_m: float | None = None
    cutoff_hz: float | None = None
    steady: bool = True
    capture_fps: float | None = None
    rep: int | None = None
    marks: tuple[PlateMark, ...] = ()
    thing: str = "plate"
    hand: HandWork = field(default_factory=HandWork)
    scale_by: str = "plate"
    scale_points: tuple[float, ...] | None = None
    upright: tuple[float, ...] | None = None
    events: tuple[HandEvent, ...] = ()
    body_hand: BodyHand = field(default_factory=BodyHand)
    centre_px: tuple[float, float] | None = None


def scale_of(track: BarTrack, settings: ClipSettings) -> Scale:
    """The scale in the way that the coach has chosen."""
    if settings.scale_by == "none":
        return scale_unknown(track.rim)
    if settings.scale_by == "points" and settings.scale_points is not None:
        return scale_from_points(track.rim, settings.scale_points)
    return scale_from_rim(track.rim, settings.diameter_mm)


def vertical_of(track: BarTrack, settings: ClipSettings) -> Vertical:
    """The vertical: along the coach's line, or as it was found."""
    if settings.upright is None:
        return track.vertical
    return vertical_along(settings.upright, held=track.camera_moved_px > 0)


def radius_m(settings: ClipSettings) -> float | None:
    """Half the true diameter of the plate, if it is one that is followed, and lengths are true."""
    plate = settings.thing in ("plate", "second") and settings.scale_by != "none"
    return settings.diameter_mm / 2000 if plate else None
