"""The body in lift axes: landmarks in metres beside the bar, and the angles between segments.

The axes are those of the bar's motion: x forward, y up, the bar's first place as origin. The plate
is nearer to the camera than the lifter, and so looks larger against the body than it is: in a lift
from the floor, plate and feet stand on the same floor, and how far apart they seem to stand, below
the horizon, says by how much. Angles need no scale. Every angle's uncertainty follows from those of its three points; a point that is
assumed carries a larger one.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track import BarTrack, Scale
from keen_kettle.core.track.body import LANDMARKS, BodyTrack, PointState

__all__ = ["ANGLES", "BodyMotion", "body_motion", "plate_nearer"]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

K = {name: number for number, name in enumerate(LANDMARKS)}

ANGLES = {
    "hip": ("knee", "hip", "shoulder"),
    "knee": ("hip", "knee", "ankle"),
    "elbow": ("shoulder", "elbow", "wrist"),
}
"""Joint angles: first end, joint, second end; 180° is straight."""
SEGMENTS_OF = {
    **ANGLES,
    "trunk": ("hip", "shoulder"),
    "ankle": ("knee", "ankle", "heel", "toe"),
}
ALIKE = {
    "trunk": (0.85, 1.1),
    "hip": (0.8, 0.95),
    "knee": (0.65, 0.75),
    "ankle": (0.6, 0.5),
    "elbow": (0.5, 0.4),
}
"""Neighbouring points err alike, so that an angle is surer than they are: its share of what independent
errors would give, where all its points were seen and where one was not (rendered films)."""


@dataclass(frozen=True)
class BodyMotion:
    """The near side of the body over time.

    `place_m` (frames, 9, 2) and `sigma_m` (frames, 9) in metres, NaN where not known; `state`
    (frames, 9) holds `PointState` codes; `scale_sigma` is the relative uncertainty of lengths;
    `side_on` is false where the lifter is seen from the front, `square_on` also from well aside;
    `apart_m` (frames,) is how far the two ankles are apart forwards, `heel_m` (frames,) how far the heel's
    picture has come up from where it stood (NaN where not watched); None where not known.
    """

    t_s: Array
    place_m: Array
    sigma_m: Array
    state: NDArray[np.uint8]
    scale_sigma: float
    side_on: bool = True
    apart_m: Array | None = None
    heel_m: Array | None = None
    square_on: bool = True
    _kept: dict[str, Array] = field(default_factory=dict, repr=False, compare=False)

    def __getstate__(self) -> dict[str, Any]:
        """What was worked out from it can be worked out again."""
        return {**vars(self), "_kept": {}}

    def at(self, name: str) -> Array:
        """One landmark's way, shape (frames, 2), metres."""
        return self.place_m[:, K[name]]

    def sigma_at(self, name: str) -> Array:
        """Its uncertainty, shape (frames,), metres."""
        return self.sigma_m[:, K[name]]

    def firm(self, *names: str) -> Mask:
        """Frames in which all these points were seen or set by hand, shape (frames,)."""
        states = self.state[:, [K[name] for name in names]]
        return np.asarray(
            np.all((states == PointState.MEASURED) | (states == PointState.BY_HAND), axis=1)
        )

    def by_hand(self, name: str) -> Mask:
        """Frames in which a point was set by hand, shape (frames,)."""
        return np.asarray(self.state[:, K[name]] == PointState.BY_HAND)

    def angle_deg(self, joint: str) -> Array:
        """A joint's angle, shape (frames,), degrees; "ankle" is shank against foot, "trunk" the
        shoulder–hip line against the horizontal ahead (90° upright, more leans back)."""
        return self._once(joint, lambda: self._angle_deg(joint))

    def _angle_deg(self, joint: str) -> Array:
        if joint == "trunk":
            way = self.at("shoulder") - self.at("hip")
            return np.asarray(np.degrees(np.arctan2(way[:, 1], way[:, 0])))
        if joint == "ankle":
            return _between(self.at("knee") - self.at("ankle"), self.at("toe") - self.at("heel"))
        a, b, c = ANGLES[joint]
        return _between(self.at(a) - self.at(b), self.at(c) - self.at(b))

    def angle_sigma_deg(self, joint: str) -> Array:
        """Its uncertainty, shape (frames,), degrees (first-order propagation of the points', less
        what they share)."""
        seen, unseen = ALIKE[joint]

        def make() -> Array:
            share = np.where(self.firm(*SEGMENTS_OF[joint]), seen, unseen)
            return np.asarray(share * self._independent_sigma_deg(joint))

        return self._once(f"sigma of {joint}", make)

    def _once(self, name: str, make: Callable[[], Array]) -> Array:
        if name not in self._kept:
            self._kept[name] = make()
        return self._kept[name]

    def _independent_sigma_deg(self, joint: str) -> Array:
        if joint == "trunk":
            return _line_sigma(self, "hip", "shoulder")
        if joint == "ankle":
            return np.hypot(_line_sigma(self, "ankle", "knee"), _line_sigma(self, "heel", "toe"))
        a, b, c = ANGLES[joint]
        first, second = self.at(a) - self.at(b), self.at(c) - self.at(b)
        one, two = _length(first), _length(second)
        across = _length(self.at(a) - self.at(c))
        spread = (
            (self.sigma_at(a) / one) ** 2
            + (self.sigma_at(c) / two) ** 2
            + (self.sigma_at(b) * across / (one * two)) ** 2
        )
        return np.asarray(np.degrees(np.sqrt(spread)))


LONG_PARTS = (("ankle", "knee"), ("knee", "hip"), ("hip", "shoulder"))
MOST_ASIDE_DEG = 12.0
"""From farther aside the bar's end, half a metre nearer, looks shifted against the body by 10 cm and
more."""
SOLE_M = 0.03
"""The points of toe and heel lie so far above the floor."""
NEAREST, FARTHEST = 0.97, 1.65
"""A plate that would be nearer or farther than that is a misread floor; from 2 m it looks 1.45 times
too large."""
HORIZON_SIGMA = 0.05
"""A camera is held level, or nearly: the horizon is the picture's middle within so much of its height."""
UNKNOWN_DEPTH = 0.08
"""How much larger the plate may look against the body where nothing tells it."""
BODY_OF_STATURE, BODY_SIGMA = 0.78, 0.04
"""Shank, thigh and trunk together as a share of stature (Drillis and Contini's segment table), and how
far people and landmarks differ from it."""


def body_motion(
    body: BodyTrack,
    bar: BarTrack,
    scale: Scale,
    facing: str,
    steady: bool = True,
    centre_px: tuple[float, float] | None = None,
    on_floor: bool = False,
    stature_m: float | None = None,
) -> BodyMotion:
    """Landmarks in the bar's axes (see `bar_motion`).

    Parameters
    ----------
    steady : the camera's own movement is taken out of the bar, and so of the body too
    centre_px : the picture's middle; None takes plate and body to be equally far away
    on_floor : the lift begins with the plates on the floor
    stature_m : the lifter's height, which tells the depth where the floor does not
    """
    sign = 1.0 if facing == "right" else -1.0
    seen = np.flatnonzero(bar.seen)
    camera = bar.camera_in_all_frames_px() if steady else np.zeros((len(body), 2))
    x_px = body.x_px - camera[:, 0:1]
    y_px = body.y_px - camera[:, 1:2]
    x0, y0 = 0.0, 0.0
    if len(seen):
        first = seen[0]
        x0 = float((bar.still_x_px if steady else bar.x_px)[first])
        y0 = float((bar.still_y_px if steady else bar.y_px)[first])
    nearer, nearer_sigma = 1.0, 0.0
    if centre_px is not None:
        found = plate_nearer(body, bar, y_px, centre_px[1], scale) if on_floor else None
        found = found or _nearer_by_stature(body, scale, stature_m)
        nearer, nearer_sigma = found or (1.0, UNKNOWN_DEPTH)
        x_px = centre_px[0] + nearer * (x_px - centre_px[0])
        y_px = centre_px[1] + nearer * (y_px - centre_px[1])
    across, up = bar.vertical.upright(x_px - x0, y0 - y_px)
    place = np.stack([sign * across, up], axis=-1) * scale.m_per_px
    place[~body.known] = np.nan
    own = scale.m_per_px * nearer
    return BodyMotion(
        bar.t_s,
        place,
        body.sigma_px * own,
        body.state,
        float(np.hypot(scale.relative_sigma, nearer_sigma)),
        body.side_on,
        body.apart_px * own if body.apart_px is not None else None,
        body.heel_px * own if body.heel_px is not None else None,
        body.square_on and scale.view_angle_deg <= MOST_ASIDE_DEG,
    )


def plate_nearer(
    body: BodyTrack, bar: BarTrack, y_px: Array, horizon_px: float, scale: Scale
) -> tuple[float, float] | None:
    """How many times larger things look at the plate than at the lifter's near side, and sigma.

    Pinhole camera, held level: a point of the floor appears below the horizon by the camera's
    height times the scale at its distance, so the two scales are as these two drops.

    Parameters
    ----------
    y_px : shape (frames, 9), the body's points with the camera's movement taken out
    """
    firm = body.state == PointState.MEASURED
    feet = np.where(firm, y_px, np.nan)[:, [K["toe"], K["heel"]]]
    feet = feet[np.isfinite(feet).all(axis=1)]
    high = bar.still_y_px[bar.seen]
    radius = max(bar.rim.axes_px)
    if len(feet) < 8 or len(high) < 8:
        return None
    resting = high[high > high.max() - 0.05 * radius]
    plate = float(np.median(resting)) + radius - horizon_px
    # Standing feet are the lowest they come; a raised heel or a step must not count.
    foot = float(np.quantile(feet.max(axis=1), 0.6)) + SOLE_M / scale.m_per_px - horizon_px
    if foot < 2 * radius:
        return None
    ratio = plate / foot
    if not NEAREST < ratio < FARTHEST:
        return None
    off_px = float(np.median(body.sigma_px[:, K["heel"]]))
    tilt = abs(plate - foot) / foot**2 * HORIZON_SIGMA * 2 * horizon_px
    return max(ratio, 1.0), float(np.hypot(off_px / foot, tilt))


def _nearer_by_stature(
    body: BodyTrack, scale: Scale, stature_m: float | None
) -> tuple[float, float] | None:
    """The same from how long shank, thigh and trunk look against the lifter's height."""
    parts = [body.lengths_px.get(pair) for pair in LONG_PARTS]
    if stature_m is None or scale.by == "none" or any(part is None for part in parts):
        return None
    looks_m = sum(part for part in parts if part is not None) * scale.m_per_px
    ratio = BODY_OF_STATURE * stature_m / max(looks_m, 1e-6)
    return (max(ratio, 1.0), BODY_SIGMA) if NEAREST - 0.05 < ratio < FARTHEST else None


def _length(way: Array) -> Array:
    return np.asarray(np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-6))


def _between(first: Array, second: Array) -> Array:
    share = (first * second).sum(axis=1) / (_length(first) * _length(second))
    return np.asarray(np.degrees(np.arccos(np.clip(share, -1.0, 1.0))))


def _line_sigma(motion: BodyMotion, a: str, b: str) -> Array:
    """Uncertainty of a line's direction between two points, degrees."""
    long = _length(motion.at(b) - motion.at(a))
    return np.asarray(np.degrees(np.hypot(motion.sigma_at(a), motion.sigma_at(b)) / long))
