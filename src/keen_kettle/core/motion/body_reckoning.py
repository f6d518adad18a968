"""How each body measure is read off, one function a measure: its definition in code.

Lengths are metres in the lift's axes (x to the front, y up), angles degrees, times seconds. A
function returns None where what it looks for does not happen.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.body import BodyMotion

__all__ = ["Reading", "Scene"]

Array = NDArray[np.float64]

LIFTED_M = 0.02
"""A heel or foot so far above where it stood has left the floor."""
NEARLY_STRAIGHT = 0.95
ARM_OF_THIGH, READABLE = 1.6, 0.85
"""An arm is about so many thighs long; seen much shorter it leans out of the picture (a wide grip)."""
FAR_FOOT_M, FAR_FOOT_SHARE = 0.03, 0.03
SPLIT_STEP_M = 0.12
FINISH_S = 0.2
TOUCH_M = 0.01
"""Within so much of its closest the bar is taken to touch the thigh."""
ONE_PLACE = 0.4
"""Near the thigh over more of its length than this, the bar has no one place of contact."""


@dataclass(frozen=True)
class Scene:
    """Bar, body and the frames of the events."""

    bar: BarMotion
    body: BodyMotion
    frames: dict[str, int]

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
    """A value, its uncertainty from the points alone, and the frame that shows it."""

    value: float
    sigma: float
    frame: int
    why: str = ""


Read = Callable[[Scene], Reading | None]


def angle_at(joint: str, event: str) -> Read:
    """A joint's angle at an event."""

    def read(s: Scene) -> Reading:
        return _angle(s, joint, s.frames[event])

    return read


def greatest(joint: str) -> Read:
    """The greatest angle of a joint while the body finishes."""

    def read(s: Scene) -> Reading | None:
        frame = _straightest(s, joint)
        return None if frame is None else _angle(s, joint, frame)

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
        return _angle(s, "elbow", frame) if _arm_in_plane(s, frame) else _out_of_plane(frame)

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


def trunk_drop(s: Scene) -> Reading | None:
    """How far the trunk tips forward between lift-off and the knee, at most."""
    span = s.span("lift_off", "knee_pass")
    angle = s.body.angle_deg("trunk")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    frame = int(span[np.argmin(angle[span])])
    return Reading(
        float(angle[span[0]] - angle[frame]),
        _pair_sigma(s, "trunk", int(span[0]), frame),
        frame,
    )


def rise_ratio(s: Scene) -> Reading | None:
    """Rise of the hip over rise of the shoulder, from lift-off to the knee."""
    a, b = s.frames["lift_off"], s.frames["knee_pass"]
    rises = [float(s.body.at(name)[b, 1] - s.body.at(name)[a, 1]) for name in ("hip", "shoulder")]
    # A point's slow error is much the same in both frames: half of it is left in a difference.
    spread = [0.5 * float(s.body.sigma_at(name)[b]) for name in ("hip", "shoulder")]
    if not np.isfinite(rises).all():
        return Reading(np.nan, np.nan, b)
    if rises[1] < 0.04:
        return Reading(np.nan, np.nan, b, "the shoulders hardly rise before the knee")
    ratio = rises[0] / rises[1]
    return Reading(ratio, float(np.hypot(spread[0], ratio * spread[1]) / rises[1]), b)


def knee_rebend(s: Scene) -> Reading | None:
    """How far the knee bends again between passing the bar and the finish."""
    begin = s.frames.get("knee_pass", s.frames.get("lift_off", 0))
    span = np.arange(begin, s.frames["extension"] + 1)
    angle = s.body.angle_deg("knee")
    if len(span) < 2 or not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, begin)
    bend = np.maximum.accumulate(angle[span]) - angle[span]
    frame = int(span[np.argmax(bend)])
    return Reading(float(bend.max()), _pair_sigma(s, "knee", begin, frame), frame)


def hip_drop(s: Scene) -> Reading | None:
    """How far the hip sinks between passing the knee and the finish, at most."""
    begin = s.frames.get("knee_pass", s.frames.get("lift_off", 0))
    span = np.arange(begin, s.frames["extension"] + 1)
    y = s.body.at("hip")[:, 1]
    if len(span) < 2 or not np.isfinite(y[span]).all():
        return Reading(np.nan, np.nan, begin)
    sunk = np.maximum.accumulate(y[span]) - y[span]
    frame = int(span[np.argmax(sunk)])
    return Reading(float(sunk.max()), 0.5 * float(s.body.sigma_at("hip")[frame]), frame)


def contact_point(s: Scene) -> Reading | None:
    """Where along the thigh the bar first comes closest: 0 at the knee, 1 at the hip."""
    begin = s.frames.get("knee_pass", s.frames.get("lift_off", 0))
    span = np.arange(begin, s.frames["extension"] + 1)
    knee, hip = s.body.at("knee")[span], s.body.at("hip")[span]
    bar = np.column_stack([s.bar.x_m[span], s.bar.y_m[span]])
    thigh = hip - knee
    long = np.hypot(thigh[:, 0], thigh[:, 1])
    if len(span) < 2 or not np.isfinite(long).all():
        return Reading(np.nan, np.nan, begin)
    along = ((bar - knee) * thigh).sum(axis=1) / long**2
    off = np.abs(thigh[:, 0] * (bar - knee)[:, 1] - thigh[:, 1] * (bar - knee)[:, 0]) / long
    beside = (along > 0.1) & (along < 1.2)
    if not beside.any():
        return Reading(np.nan, np.nan, begin, "the bar does not pass beside the thigh")
    near = np.where(beside, off, np.inf)
    first = int(np.flatnonzero(near <= near.min() + TOUCH_M)[0])
    frame = int(span[first])
    points = float(np.hypot(s.body.sigma_at("knee")[frame], s.body.sigma_at("hip")[frame]))
    might = along[near <= near.min() + max(TOUCH_M, points / 2)]
    if np.ptp(might) > ONE_PLACE:
        return Reading(
            np.nan,
            np.nan,
            frame,
            "the bar is as near to the thigh over a long way: no one place of contact can be told",
        )
    sigma = float(np.hypot(points / long[first], np.ptp(might) / np.sqrt(12)))
    return Reading(float(along[first]), sigma, frame)


def gap_of_thigh(s: Scene) -> Reading | None:
    """The gap at extension as a share of the thigh's length."""
    frame = s.frames["extension"]
    apart = gap("extension")(s)
    long = _thigh_m(s)
    if apart is None or not np.isfinite(long):
        return Reading(np.nan, np.nan, frame)
    return Reading(apart.value / long, apart.sigma / long, frame)


def heel_lead(s: Scene) -> Reading | None:
    """How long before the power position the heel leaves the floor; negative is after it."""
    level = _standing(s, "heel")
    begin, end = s.frames["lift_off"], s.finish()[-1]
    y = s.body.at("heel")[:, 1]
    if not np.isfinite(level) or not np.isfinite(y[begin : end + 1]).all():
        return Reading(np.nan, np.nan, begin)
    up = np.flatnonzero(y[begin : end + 1] > level + LIFTED_M)
    if not len(up):
        return Reading(np.nan, np.nan, begin, "the heel does not leave the floor")
    frame = begin + int(up[0])
    lead = float(s.bar.t_s[s.frames["power_position"]] - s.bar.t_s[frame])
    pace = max(float(np.gradient(y, s.bar.t_s)[frame]), 0.15)
    sigma = 1.5 * float(s.body.sigma_at("heel")[frame]) / pace
    return Reading(lead, sigma, frame)


def ankle_gain(s: Scene) -> Reading | None:
    """How far the ankle opens from the power position to its greatest."""
    frame = _straightest(s, "ankle")
    if frame is None:
        return None
    angle = s.body.angle_deg("ankle")
    begin = s.frames["power_position"]
    return Reading(
        float(angle[frame] - angle[begin]), 3 * _pair_sigma(s, "ankle", begin, frame), frame
    )


def extension_spread(s: Scene) -> Reading | None:
    """The time between the first and the last of hip, knee and ankle to be straightest."""
    found = {joint: _straightest(s, joint) for joint in ("hip", "knee", "ankle")}
    known = {joint: frame for joint, frame in found.items() if frame is not None}
    if len(known) < 3:
        return None
    first, last = min(known, key=known.__getitem__), max(known, key=known.__getitem__)
    spread = float(s.bar.t_s[known[last]] - s.bar.t_s[known[first]])
    sigma = float(np.hypot(_when_straight_sigma(s, first), _when_straight_sigma(s, last)))
    return Reading(spread, sigma, known[last])


def arm_at_extension(s: Scene) -> Reading | None:
    """The elbow's angle when the hip passes 95 % of its greatest extension."""
    hip = s.body.angle_deg("hip")
    top = _straightest(s, "hip")
    if top is None:
        return None
    span = np.arange(s.frames["power_position"], top + 1)
    passed = np.flatnonzero(hip[span] >= NEARLY_STRAIGHT * hip[top])
    return _angle(s, "elbow", int(span[passed[0]]) if len(passed) else top)


def foot_shift(s: Scene) -> Reading | None:
    """How far the toe has moved from before the finish to the catch; forward is positive."""
    x = s.body.at("toe")[:, 0]
    begin = s.frames.get("power_position", s.frames.get("dip_bottom", 0))
    before = x[max(begin - 3, 0) : begin + 1]
    low = s.frames["lowest"]
    after = x[low : low + 4]
    sigma = 0.35 * float(np.hypot(s.body.sigma_at("toe")[begin], s.body.sigma_at("toe")[low]))
    return Reading(float(np.mean(after) - np.mean(before)), sigma, low)


def air_time(s: Scene) -> Reading | None:
    """How long the near foot is off the floor between finish and catch."""
    toe, heel = s.body.at("toe")[:, 1], s.body.at("heel")[:, 1]
    low_toe, low_heel = _standing(s, "toe"), _standing(s, "heel")
    span = np.arange(s.finish()[0], s.frames["lowest"] + 1)
    if not np.isfinite([low_toe, low_heel]).all() or not np.isfinite(toe[span] + heel[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    off = (toe[span] > low_toe + LIFTED_M) & (heel[span] > low_heel + LIFTED_M)
    frame = int(span[np.argmax(off)]) if off.any() else s.frames["extension"]
    return Reading(float(off.sum() * s.bar.frame_s), 0.035, frame)


def hip_above_knee(s: Scene) -> Reading | None:
    """Height of the hip over the knee at the lowest point; negative is below parallel."""
    frame = s.frames["lowest"]
    above = s.body.at("hip")[frame, 1] - s.body.at("knee")[frame, 1]
    sigma = np.hypot(s.body.sigma_at("hip")[frame], s.body.sigma_at("knee")[frame])
    return Reading(float(above), float(sigma), frame)


def rack_elbow(s: Scene) -> Reading | None:
    """The upper arm against the horizontal in the rack; negative is below it."""
    frame = s.frames["lowest"]
    way = s.body.at("elbow")[frame] - s.body.at("shoulder")[frame]
    long = max(float(np.hypot(*way)), 0.05)
    sigma = np.hypot(s.body.sigma_at("elbow")[frame], s.body.sigma_at("shoulder")[frame]) / long
    angle = np.degrees(np.arctan2(way[1], abs(way[0])))
    return Reading(float(angle), float(np.degrees(sigma)), frame)


def elbow_turnover(s: Scene) -> Reading | None:
    """From peak height until the elbow is in front of the bar."""
    span = s.span("peak_height", "lowest")
    ahead = s.body.at("elbow")[span, 0] - s.bar.x_m[span]
    if not np.isfinite(ahead).all():
        return Reading(np.nan, np.nan, int(span[0]))
    front = np.flatnonzero(ahead > 0.03)
    if not len(front):
        return Reading(np.nan, np.nan, int(span[-1]), "the elbows do not come in front of the bar")
    frame = int(span[front[0]])
    return Reading(float(s.bar.t_s[frame] - s.bar.t_s[span[0]]), 0.035, frame)


def elbow_rebend(s: Scene) -> Reading | None:
    """How far the elbow bends again after the bar is received overhead."""
    span = s.span("lowest", "stand")
    if not _arm_in_plane(s, int(span[0])):
        return _out_of_plane(int(span[0]))
    angle = s.body.angle_deg("elbow")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    bend = np.maximum.accumulate(angle[span]) - angle[span]
    frame = int(span[np.argmax(bend)])
    return Reading(float(bend.max()), _pair_sigma(s, "elbow", int(span[0]), frame), frame)


def dip_lean(s: Scene) -> Reading | None:
    """How far the trunk tips in the dip, at most; forward is positive."""
    span = s.span("dip_start", "dip_bottom")
    angle = s.body.angle_deg("trunk")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    tipped = angle[span[0]] - angle[span]
    frame = int(span[np.argmax(np.abs(tipped))])
    return Reading(
        float(angle[span[0]] - angle[frame]), _pair_sigma(s, "trunk", int(span[0]), frame), frame
    )


def rebend_after_drive(s: Scene) -> Reading | None:
    """How far the knee bends again under the bar after the drive."""
    span = s.span("extension", "lowest")
    angle = s.body.angle_deg("knee")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    frame = int(span[np.argmin(angle[span])])
    return Reading(
        float(angle[span].max() - angle[frame]), _pair_sigma(s, "knee", int(span[0]), frame), frame
    )


def front_shin(s: Scene) -> Reading | None:
    """The near shin against the vertical where the near foot is the front one; forward positive."""
    if _step(s) < SPLIT_STEP_M:
        return Reading(np.nan, np.nan, s.frames["lowest"], "the near foot is not the front one")
    frame = s.frames["lowest"]
    way = s.body.at("knee")[frame] - s.body.at("ankle")[frame]
    sigma = np.hypot(s.body.sigma_at("knee")[frame], s.body.sigma_at("ankle")[frame])
    lean = np.degrees(np.arctan2(way[0], way[1]))
    return Reading(float(lean), float(np.degrees(sigma / max(float(np.hypot(*way)), 0.05))), frame)


def back_knee(s: Scene) -> Reading | None:
    """The near knee's angle where the near foot is the back one."""
    if _step(s) > -SPLIT_STEP_M:
        return Reading(np.nan, np.nan, s.frames["lowest"], "the near foot is not the back one")
    return _angle(s, "knee", s.frames["lowest"])


def split_length(s: Scene) -> Reading | None:
    """From ankle to ankle when the bar is received; of both feet as the model sees them."""
    low = s.frames["lowest"]
    apart = s.body.apart_m
    if apart is None or not np.isfinite(apart[low : low + 3]).any():
        return Reading(np.nan, np.nan, low, "the far foot is not seen there")
    long = float(np.nanmedian(apart[low : low + 3]))
    # The far foot is farther from the camera, and so looks nearer to the other than it is.
    sigma = np.hypot(FAR_FOOT_M, long * np.hypot(s.body.scale_sigma, FAR_FOOT_SHARE))
    return Reading(long, float(sigma), low)


def _step(s: Scene) -> float:
    """How far forward the near foot has stepped when the bar is received."""
    x = s.body.at("toe")[:, 0]
    begin = s.frames.get("dip_start", s.frames.get("lift_off", 0))
    return float(x[s.frames["lowest"]] - x[begin])


def _angle(s: Scene, joint: str, frame: int) -> Reading:
    return Reading(
        float(s.body.angle_deg(joint)[frame]), float(s.body.angle_sigma_deg(joint)[frame]), frame
    )


def _arm_in_plane(s: Scene, frame: int) -> bool:
    way = s.body.at("wrist")[frame] - s.body.at("shoulder")[frame]
    return bool(np.hypot(*way) >= READABLE * ARM_OF_THIGH * _thigh_m(s))


def _out_of_plane(frame: int) -> Reading:
    return Reading(
        np.nan, np.nan, frame, "the arms lean out of the picture; look at the elbows from the front"
    )


def _straightest(s: Scene, joint: str) -> int | None:
    span = s.finish()
    angle = s.body.angle_deg(joint)[span]
    return int(span[np.argmax(angle)]) if np.isfinite(angle).all() else None


def _when_straight_sigma(s: Scene, joint: str) -> float:
    """Uncertainty of the instant at which a joint is straightest: as long as it stays within half
    its angle's uncertainty of that, spread evenly (a slow error of the points drops out by half)."""
    span = s.finish()
    angle, sigma = s.body.angle_deg(joint)[span], s.body.angle_sigma_deg(joint)[span]
    top = int(np.argmax(angle))
    near = s.bar.t_s[span[angle >= angle[top] - 0.5 * sigma[top]]]
    return float((np.ptp(near) + s.bar.frame_s) / np.sqrt(12))


def _pair_sigma(s: Scene, joint: str, first: int, second: int) -> float:
    """Uncertainty of the change between two frames: a slow error of the points drops out by half."""
    sigma = s.body.angle_sigma_deg(joint)
    return 0.5 * float(np.hypot(sigma[first], sigma[second]))


def _apart_sigma(s: Scene, frame: int, point: str, metres: float) -> float:
    own = float(np.hypot(s.body.sigma_at(point)[frame], s.bar.place_sigma_m))
    return float(np.hypot(own, metres * s.body.scale_sigma))


def _thigh_m(s: Scene) -> float:
    way = s.body.at("hip") - s.body.at("knee")
    long = np.hypot(way[:, 0], way[:, 1])
    return float(np.nanmedian(long)) if np.isfinite(long).any() else float("nan")


def _standing(s: Scene, point: str) -> float:
    """Height of a point of the foot while it stands, before the finish."""
    begin = s.frames.get("lift_off", s.frames.get("dip_start", 0))
    end = s.frames.get(
        "knee_pass", s.frames.get("power_position", s.frames.get("dip_bottom", begin))
    )
    y = s.body.at(point)[begin : end + 1, 1]
    return float(np.nanmedian(y)) if np.isfinite(y).any() else float("nan")
