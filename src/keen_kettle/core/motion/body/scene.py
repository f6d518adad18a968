"""Bar, body and events of a lift together, and what is read off them in more than one place.

Lengths are metres in the lift's axes (x to the front, y up), angles degrees, times seconds. A
function returns None where what it looks for does not happen.
"""

import warnings
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.body.movement import BodyMotion

__all__ = [
    "LIFTED_M",
    "Read",
    "Reading",
    "Scene",
    "ahead_of_bar",
    "angle_at",
    "angle_of",
    "arm_in_plane",
    "bar_midfoot",
    "bar_over",
    "elbow_at",
    "gap",
    "greatest",
    "length_m",
    "out_of_plane",
    "pair_sigma",
    "standing",
    "steady",
    "straightest",
    "thigh_m",
    "when_straight_sigma",
]

Array = NDArray[np.float64]

LIFTED_M = 0.02
"""A heel or foot so far above where it stood has left the floor."""
ARM_OF_THIGH, READABLE = 1.6, 0.85
"""An arm is about so many thighs long; seen much shorter it leans out of the picture (a wide grip)."""
FINISH_S = 0.2
CHANGES, TRUNK_CHANGES = 0.4, 0.33
"""So much of what independent errors would give is left in the change of an angle, and of the trunk's (rendered
films)."""
IN_LINE, LINE_DEG = 0.7, 140.0
"""A hip that is so straight or straighter is by so much surer (rendered films)."""
NEVER_DEG = 110.0
"""Nobody finishes a pull or a drive with hip or knee bent so far: it is somebody or something else's."""
STEADY_S = 0.1
"""One look may be wrong: what is counted is steady over so long."""


@dataclass(frozen=True)
class Scene:
    """Bar, body and the frames of the events. `kept` holds what was read off bar and body alone."""

    bar: BarMotion
    body: BodyMotion
    frames: dict[str, int]
    kept: dict[str, Array] = field(default_factory=dict, compare=False, repr=False)

    def with_event(self, name: str, frame: int) -> "Scene":
        """The same lift with one event elsewhere."""
        return replace(self, frames={**self.frames, name: frame})

    def steady_at(self, point: str) -> Array:
        """A landmark's steady way, shape (frames, 2), metres."""
        return self._keep(
            f"at {point}",
            lambda: np.column_stack([steady(way, self.bar.t_s) for way in self.body.at(point).T]),
        )

    def steady_deg(self, joint: str) -> Array:
        """A joint's steady angle, shape (frames,), degrees."""
        return self._keep(joint, lambda: steady(self.body.angle_deg(joint), self.bar.t_s))

    def _keep(self, name: str, make: Callable[[], Array]) -> Array:
        if name not in self.kept:
            self.kept[name] = make()
        return self.kept[name]

    def bar_at(self, frame: int) -> Array:
        return np.array([self.bar.x_m[frame], self.bar.y_m[frame]])

    def span(self, first: str, last: str) -> NDArray[np.intp]:
        a, b = self.frames[first], self.frames[last]
        return np.arange(a, max(b, a) + 1)

    def finish(self) -> NDArray[np.intp]:
        """Frames in which the body finishes: from the power position to a little after peak
        velocity."""
        begin = self.frames.get("power_position", self.frames.get("dip_bottom", 0))
        peak = self.frames["peak_velocity"]
        t_s = self.bar.t_s
        end = int(np.searchsorted(t_s, t_s[peak] + FINISH_S, side="right")) - 1
        return np.arange(begin, max(min(end, self.frames.get("peak_height", end)), begin) + 1)


@dataclass(frozen=True)
class Reading:
    """A value, its uncertainty from the points alone, and the frame that shows it; `why` there is none,
    and the points that it rests on where they are others than usual."""

    value: float
    sigma: float
    frame: int
    why: str = ""
    points: tuple[str, ...] | None = None


Read = Callable[[Scene], Reading | None]


def steady(values: Array, t_s: Array) -> Array:
    """The running median over a tenth of a second, shape (frames,): what single wrong looks do not
    change."""
    per_s = (len(t_s) - 1) / max(float(t_s[-1] - t_s[0]), 1e-6)  # repeats stand still in time
    half = min(max(int(per_s * STEADY_S / 2), 1), len(t_s) // 2)
    padded = np.pad(values, half, mode="edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1)
    with np.errstate(invalid="ignore"), warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)  # windows in which nothing is known
        return np.asarray(np.nanmedian(windows, axis=1))


def angle_at(joint: str, event: str) -> Read:
    """A joint's angle at an event."""

    def read(s: Scene) -> Reading:
        return angle_of(s, joint, s.frames[event])

    return read


def greatest(joint: str) -> Read:
    """The greatest angle of a joint while the body finishes. Where a hip's three points stand nearly in
    line, their angle is surer than elsewhere."""

    def read(s: Scene) -> Reading | None:
        frame = straightest(s, joint)
        if frame is None:
            return None
        angle = angle_of(s, joint, frame)
        if joint in ("hip", "knee") and angle.value < NEVER_DEG:
            return Reading(np.nan, np.nan, frame, "the body is not read while it finishes")
        surer = IN_LINE if joint == "hip" and angle.value > LINE_DEG else 1.0
        return replace(angle, sigma=surer * angle.sigma)

    return read


def ahead_of_bar(point: str, event: str) -> Read:
    """How far a point lies in front of the bar, horizontally."""

    def read(s: Scene) -> Reading:
        frame = s.frames[event]
        away = s.body.at(point)[frame, 0] - s.bar.x_m[frame]
        return Reading(float(away), _apart_sigma(s, frame, point, float(away)), frame)

    return read


def bar_over(point: str, event: str) -> Read:
    """How far the bar lies in front of a point, horizontally."""

    def read(s: Scene) -> Reading:
        ahead = ahead_of_bar(point, event)(s)
        assert ahead is not None
        return Reading(-ahead.value, ahead.sigma, ahead.frame)

    return read


def elbow_at(event: str) -> Read:
    """The elbow's angle at an event, if the arm lies in the picture's plane."""

    def read(s: Scene) -> Reading:
        frame = s.frames[event]
        return angle_of(s, "elbow", frame) if arm_in_plane(s, frame) else out_of_plane(frame)

    return read


def bar_midfoot(event: str) -> Read:
    """How far the bar lies in front of the middle between heel and toe."""

    def read(s: Scene) -> Reading:
        frame = s.frames[event]
        middle = (s.body.at("toe")[frame, 0] + s.body.at("heel")[frame, 0]) / 2
        sigma = np.hypot(s.body.sigma_at("toe")[frame], s.body.sigma_at("heel")[frame]) / 2
        return Reading(
            float(s.bar.x_m[frame] - middle), float(np.hypot(sigma, s.bar.place_sigma_m)), frame
        )

    return read


def gap(event: str) -> Read:
    """Horizontal distance from hip to bar."""
    return bar_over("hip", event)


def angle_of(s: Scene, joint: str, frame: int) -> Reading:
    return Reading(
        float(s.body.angle_deg(joint)[frame]), float(s.body.angle_sigma_deg(joint)[frame]), frame
    )


def arm_in_plane(s: Scene, frame: int) -> bool:
    way = s.body.at("wrist")[frame] - s.body.at("shoulder")[frame]
    return bool(np.hypot(*way) >= READABLE * ARM_OF_THIGH * thigh_m(s))


def out_of_plane(frame: int) -> Reading:
    return Reading(
        np.nan, np.nan, frame, "the arms lean out of the picture; look at the elbows from the front"
    )


def straightest(s: Scene, joint: str) -> int | None:
    span = s.finish()
    angle = s.steady_deg(joint)[span]
    return int(span[np.argmax(angle)]) if np.isfinite(angle).all() else None


def when_straight_sigma(s: Scene, joint: str) -> float:
    """Uncertainty of the instant at which a joint is straightest: as long as it stays within half
    its angle's uncertainty of that, spread evenly (a slow error of the points drops out by half)."""
    span = s.finish()
    angle, sigma = s.body.angle_deg(joint)[span], s.body.angle_sigma_deg(joint)[span]
    top = int(np.nanargmax(angle))  # the lifter may be lost before the finish is over
    near = s.bar.t_s[span[angle >= angle[top] - 0.5 * sigma[top]]]
    return float((np.ptp(near) + s.bar.frame_s) / np.sqrt(12))


def pair_sigma(s: Scene, joint: str, first: int, second: int) -> float:
    """Uncertainty of the change between two frames: a slow error of the points mostly drops out."""
    sigma = s.body.angle_sigma_deg(joint)
    share = TRUNK_CHANGES if joint == "trunk" else CHANGES
    return share * float(np.hypot(sigma[first], sigma[second]))


def _apart_sigma(s: Scene, frame: int, point: str, metres: float) -> float:
    own = float(np.hypot(s.body.sigma_at(point)[frame], s.bar.place_sigma_m))
    return float(np.hypot(own, metres * s.body.scale_sigma))


def length_m(s: Scene, *joints: str) -> float:
    """The usual length of a chain of joints; NaN where it is never seen."""
    total = 0.0
    for a, b in pairwise(joints):
        long = np.hypot(*(s.body.at(a) - s.body.at(b)).T)
        total += float(np.nanmedian(long)) if np.isfinite(long).any() else float("nan")
    return total


def thigh_m(s: Scene) -> float:
    return length_m(s, "hip", "knee")


def standing(s: Scene, point: str) -> float:
    """Height of a point of the foot while it stands, before the finish."""
    begin = s.frames.get("lift_off", s.frames.get("dip_start", 0))
    end = s.frames.get(
        "knee_pass", s.frames.get("power_position", s.frames.get("dip_bottom", begin))
    )
    y = s.body.at(point)[begin : end + 1, 1]
    return float(np.nanmedian(y)) if np.isfinite(y).any() else float("nan")
