"""What a coach draws on a film, and what it measures.

A drawing is a few spots: places in the picture of a frame, or held to a landmark or the bar, which
they then follow. Lines and angles are read in lift axes (up, and forward as the lifter looks). Off
its own frame a drawing is gone, or follows what it is held to, or leaves a ghost: itself as it was
then, laid on its first spot as that is now, so that directions can be compared (a guide's ghost
stays where it was).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.clock import IN_DIAMETERS, SUPPOSED_M
from keen_kettle.core.track import BarTrack, Scale
from keen_kettle.core.track.body import LANDMARKS, BodyTrack

__all__ = [
    "BAR",
    "DRAWN",
    "ELSEWHERE",
    "Drawing",
    "DrawnValue",
    "Filmed",
    "Shown",
    "Spot",
    "place_spot",
    "show_drawing",
]

Array = NDArray[np.float64]

DRAWN = ("line", "angle", "vertical", "horizontal", "between", "pen", "note")
"""Kinds of drawings: two spots, three (the second is the apex), one, one, two on two frames, many,
one."""
ELSEWHERE = ("", "follows", "ghost")
BAR = "bar"
HAND_PX, TRACK_PX = 1.5, 0.5
"""Standard uncertainty of a spot set by hand (as for a scale's points), and of the tracked bar."""
NOTE_S = 1.0
"""A note stays on show so long after its frame, in the film's own seconds."""
ACROSS = {"vertical": "shoulder", "horizontal": "knee"}
"""What a guide through the bar is read against; every other guide is read against the bar."""


@dataclass(frozen=True)
class Spot:
    """A drawn point: the frame it was set on, its pixels there, and what it is held to.

    `held` is a landmark's name, "bar", or "" for the picture itself.
    """

    frame: int
    x: float
    y: float
    held: str = ""


@dataclass(frozen=True)
class Drawing:
    """One drawing; `text` is a note's words, `elsewhere` what is seen of it off its own frame."""

    kind: str
    spots: tuple[Spot, ...]
    elsewhere: str = ""
    text: str = ""

    @property
    def frame(self) -> int:
        """The frame it belongs to: that of its first spot."""
        return self.spots[0].frame

    @property
    def held(self) -> bool:
        return any(spot.held for spot in self.spots)


@dataclass(frozen=True)
class Filmed:
    """What a drawing is measured against.

    `film_s` are the film's own times, shape (frames,), `t_s` the lift's (None where they are not
    known); `bar`, `body` and `scale` are None until the clip is tracked; `camera_px` (frames, 2)
    is how far the camera had moved.
    """

    film_s: Array
    t_s: Array | None
    facing: str = "right"
    bar: BarTrack | None = None
    body: BodyTrack | None = None
    scale: Scale | None = None
    camera_px: Array | None = None

    @property
    def sign(self) -> float:
        return 1.0 if self.facing == "right" else -1.0


@dataclass(frozen=True)
class DrawnValue:
    """One value of a drawing; `what` says which, `unit` is "m", "diameters", "px", "deg" or "s"."""

    what: str
    value: float
    sigma: float
    unit: str


@dataclass(frozen=True)
class Shown:
    """A drawing on one frame: its points (n, 2) and its ghost's, in that frame's pixels, or None.

    `readings` are those of the points, `then` those of the ghost.
    """

    points: Array | None
    ghost: Array | None
    readings: tuple[DrawnValue, ...]
    then: tuple[DrawnValue, ...] = ()


@dataclass(frozen=True)
class _Place:
    """Where something is: pixels (2,), and their standard uncertainty."""

    at: Array
    sigma_px: float


def place_spot(spot: Spot, frame: int, filmed: Filmed) -> tuple[float, float] | None:
    """Where a spot lies in a frame's picture (pixels); None where what it is held to is not known."""
    place = _place(spot, frame, filmed)
    return (float(place.at[0]), float(place.at[1])) if place is not None else None


def show_drawing(drawing: Drawing, frame: int, filmed: Filmed) -> Shown | None:
    """What is seen of a drawing on a frame, with its values; None if nothing is."""
    if drawing.kind == "note":
        after = filmed.film_s[frame] - filmed.film_s[min(drawing.frame, len(filmed.film_s) - 1)]
        if not 0 <= after < NOTE_S:
            return None
        return _shown(drawing, frame, filmed)
    if drawing.kind == "between":
        return _between(drawing, frame, filmed)
    if frame == drawing.frame:
        return _shown(drawing, frame, filmed)
    if drawing.elsewhere == "ghost":
        return _with_ghost(drawing, frame, filmed)
    return _shown(drawing, frame, filmed) if drawing.elsewhere == "follows" else None


def _shown(drawing: Drawing, frame: int, filmed: Filmed) -> Shown | None:
    places = _places(drawing.spots, frame, filmed)
    if places is None:
        return None
    points = np.array([place.at for place in places])
    return Shown(points, None, _read(drawing, places, frame, filmed))


def _with_ghost(drawing: Drawing, frame: int, filmed: Filmed) -> Shown | None:
    """The drawing as it was (of several spots: laid on the first as that is now), and as it is."""
    then = _places(drawing.spots, drawing.frame, filmed)
    if then is None:
        return None
    points = np.array([place.at for place in then])
    shift = _camera(frame, filmed) - _camera(drawing.frame, filmed)
    if len(points) > 1 and drawing.kind != "pen":
        here = _place(drawing.spots[0], frame, filmed)
        if here is None:
            return None
        shift = here.at - points[0]
    ghost = points + shift
    before = _read(drawing, then, drawing.frame, filmed)
    now = _shown(drawing, frame, filmed) if drawing.held else None
    if now is None:
        return Shown(None, ghost, (), before)
    return Shown(now.points, ghost, now.readings, before)


def _between(drawing: Drawing, frame: int, filmed: Filmed) -> Shown | None:
    """Two spots on two frames, on show on both of them (and wherever it follows)."""
    frames = [spot.frame for spot in drawing.spots]
    if frame not in frames and drawing.elsewhere == "":
        return None
    places = [_place(spot, spot.frame, filmed) for spot in drawing.spots]
    if any(place is None for place in places):
        return None
    carried = [
        _Place(place.at + _camera(frame, filmed) - _camera(spot.frame, filmed), place.sigma_px)
        for place, spot in zip(places, drawing.spots, strict=True)
        if place is not None
    ]
    points = np.array([place.at for place in carried])
    readings: tuple[DrawnValue, ...] = ()
    if len(carried) == 2:
        up, forward = _apart(carried[0], carried[1], filmed)
        readings = (forward, up)
        if filmed.t_s is not None:
            apart = float(filmed.t_s[frames[1]] - filmed.t_s[frames[0]])
            step = float(np.median(np.diff(filmed.t_s)))
            readings = (DrawnValue("time", apart, step / np.sqrt(6), "s"), *readings)
    return Shown(points, None, readings)


# Where things are


def _places(spots: Sequence[Spot], frame: int, filmed: Filmed) -> list[_Place] | None:
    found = [_place(spot, frame, filmed) for spot in spots]
    return [place for place in found if place is not None] if None not in found else None


def _place(spot: Spot, frame: int, filmed: Filmed) -> _Place | None:
    if spot.held == BAR:
        return _bar(frame, filmed)
    if spot.held:
        return _landmark(spot.held, frame, filmed)
    moved = _camera(frame, filmed) - _camera(spot.frame, filmed)
    return _Place(np.array([spot.x, spot.y]) + moved, HAND_PX)


def _bar(frame: int, filmed: Filmed) -> _Place | None:
    bar = filmed.bar
    if bar is None or frame >= len(bar) or not np.isfinite(bar.x_px[frame]):
        return None
    return _Place(np.array([bar.x_px[frame], bar.y_px[frame]]), TRACK_PX)


def _landmark(name: str, frame: int, filmed: Filmed) -> _Place | None:
    body = filmed.body
    if body is None or frame >= len(body):
        return None
    at = body.point(name, frame)
    if not np.isfinite(at).all():
        return None
    return _Place(at, float(body.sigma_px[frame, LANDMARKS.index(name)]))


def _camera(frame: int, filmed: Filmed) -> Array:
    moved = filmed.camera_px
    return moved[frame] if moved is not None and frame < len(moved) else np.zeros(2)


# Values


def _read(
    drawing: Drawing, places: list[_Place], frame: int, filmed: Filmed
) -> tuple[DrawnValue, ...]:
    if drawing.kind == "line" and len(places) == 2:
        return _line(places[0], places[1], filmed)
    if drawing.kind == "angle" and len(places) == 3:
        return _angle(*places)
    if drawing.kind in ACROSS:
        return _guide(drawing, places[0], frame, filmed)
    return ()


def _line(a: _Place, b: _Place, filmed: Filmed) -> tuple[DrawnValue, ...]:
    """Tilt (0° level ahead, 90° upright, from the lower end to the upper) and length."""
    low, high = (a, b) if a.at[1] >= b.at[1] else (b, a)
    ahead, up = filmed.sign * (high.at[0] - low.at[0]), low.at[1] - high.at[1]
    long_px = float(np.hypot(ahead, up))
    spread = float(np.hypot(a.sigma_px, b.sigma_px))
    if long_px < 2:
        return ()
    tilt = float(np.degrees(np.arctan2(up, ahead)))
    return (
        DrawnValue("tilt", tilt, float(np.degrees(spread / long_px)), "deg"),
        _length("length", long_px, spread, filmed),
    )


def _angle(a: _Place, apex: _Place, b: _Place) -> tuple[DrawnValue, ...]:
    """The angle at the apex, 0 to 180 degrees; its uncertainty by first-order propagation."""
    first, second = a.at - apex.at, b.at - apex.at
    one, two = float(np.hypot(*first)), float(np.hypot(*second))
    if min(one, two) < 2:
        return ()
    share = float(np.clip(first @ second / (one * two), -1, 1))
    across = float(np.hypot(*(a.at - b.at)))
    spread = np.sqrt(
        (a.sigma_px / one) ** 2
        + (b.sigma_px / two) ** 2
        + (apex.sigma_px * across / (one * two)) ** 2
    )
    value = float(np.degrees(np.arccos(share)))
    return (DrawnValue("angle", value, float(np.degrees(spread)), "deg"),)


def _guide(drawing: Drawing, place: _Place, frame: int, filmed: Filmed) -> tuple[DrawnValue, ...]:
    """How far the bar is ahead of a plumb line or above a level one.

    A guide through the bar is read against the shoulder (plumb) or the knee (level) instead.
    """
    if drawing.spots[0].held == BAR:
        name = ACROSS[drawing.kind]
        other, what = _landmark(name, frame, filmed), name
    else:
        other, what = _bar(frame, filmed), BAR
    if other is None:
        return ()
    up, forward = _apart(place, other, filmed)
    chosen = forward if drawing.kind == "vertical" else up
    return (replace(chosen, what=f"{what} {chosen.what}"),)


def _apart(a: _Place, b: _Place, filmed: Filmed) -> tuple[DrawnValue, DrawnValue]:
    """From a to b: upwards and forwards."""
    spread = float(np.hypot(a.sigma_px, b.sigma_px))
    return (
        _length("up", float(a.at[1] - b.at[1]), spread, filmed),
        _length("forward", filmed.sign * float(b.at[0] - a.at[0]), spread, filmed),
    )


def _length(what: str, px: float, sigma_px: float, filmed: Filmed) -> DrawnValue:
    """Pixels as metres, or plate diameters where there is no scale, or pixels before tracking."""
    scale = filmed.scale
    if scale is None:
        return DrawnValue(what, px, sigma_px, "px")
    metres = px * scale.m_per_px
    sigma = float(np.hypot(sigma_px * scale.m_per_px, metres * scale.relative_sigma))
    if scale.by == "none":
        return DrawnValue(what, metres / SUPPOSED_M, sigma / SUPPOSED_M, IN_DIAMETERS)
    return DrawnValue(what, metres, sigma, "m")
