"""Measures of the body in a jerk's dip and where the bar is received, one function a measure.

A function returns a reading without a value (and why) where what it looks for does not happen.
"""

import numpy as np

from keen_kettle.core.motion.body.scene import (
    LIFTED_M,
    Reading,
    Scene,
    angle_of,
    arm_in_plane,
    out_of_plane,
    pair_sigma,
    standing,
)

__all__ = [
    "air_time",
    "back_knee",
    "dip_lean",
    "elbow_rebend",
    "elbow_turnover",
    "foot_shift",
    "front_shin",
    "hip_above_knee",
    "rack_elbow",
    "rebend_after_drive",
    "split_length",
]

FAR_FOOT_M, FAR_FOOT_SHARE = 0.03, 0.03
SPLIT_STEP_M = 0.12
FARTHEST_JUMP_M = 0.45
FOOT_ELSEWHERE = (
    "the foot is not seen where it stood before the jump; set its points by hand to be sure"
)
IN_FRONT_M, TURNOVER_SIGMA_S = 0.03, 0.035
ELBOW_HIDDEN = "the plate hides the elbow as it comes round; set its points by hand to be sure"


def foot_shift(s: Scene) -> Reading | None:
    """How far the toe has moved from before the finish to the catch; forward is positive. Where it was seen
    both times a third of its error is left in the difference, of a toe that was assumed all."""
    toe = s.body.at("toe")[:, 0]
    begin = s.frames.get("power_position", s.frames.get("dip_bottom", 0))
    low = s.frames["lowest"]
    before = np.arange(max(begin - 3, 0), begin + 1)
    shift = float(np.mean(toe[low : low + 4]) - np.mean(toe[before]))
    if abs(shift) > FARTHEST_JUMP_M:
        return Reading(np.nan, np.nan, low, FOOT_ELSEWHERE)
    seen = s.body.firm("toe")
    left = 0.35 if seen[before].all() and seen[low] else 1.0
    sigma = float(np.hypot(s.body.sigma_at("toe")[begin], s.body.sigma_at("toe")[low]))
    return Reading(shift, left * sigma, low)


def air_time(s: Scene) -> Reading | None:
    """How long the near foot is off the floor between finish and catch."""
    toe, heel = s.body.at("toe")[:, 1], s.body.at("heel")[:, 1]
    low_toe, low_heel = standing(s, "toe"), standing(s, "heel")
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
    """From peak height until the elbow is in front of the bar; uncertain by the time in which it may come
    there, as surely as the elbow is known."""
    span = s.span("peak_height", "lowest")
    ahead = s.body.at("elbow")[span, 0] - s.bar.x_m[span]
    if not np.isfinite(ahead).all():
        return Reading(np.nan, np.nan, int(span[0]))
    front = np.flatnonzero(ahead > IN_FRONT_M)
    if not len(front):
        return Reading(np.nan, np.nan, int(span[-1]), "the elbows do not come in front of the bar")
    frame = int(span[front[0]])
    doubt = s.body.sigma_at("elbow")[span]
    surely = np.flatnonzero(ahead > IN_FRONT_M + doubt)
    # With the bar at its peak elbows are over it or behind it: seen in front there they are not seen.
    if not len(surely) or front[0] == 0:
        return Reading(np.nan, np.nan, frame, ELBOW_HIDDEN)
    perhaps = int(np.argmax(ahead > IN_FRONT_M - doubt))
    between = s.bar.t_s[span[surely[0]]] - s.bar.t_s[span[perhaps]]
    sigma = float(np.hypot(between / 2, TURNOVER_SIGMA_S))
    return Reading(float(s.bar.t_s[frame] - s.bar.t_s[span[0]]), sigma, frame)


def elbow_rebend(s: Scene) -> Reading | None:
    """How far the elbow bends again after the bar is received overhead."""
    span = s.span("lowest", "stand")
    if not arm_in_plane(s, int(span[0])):
        return out_of_plane(int(span[0]))
    angle = s.body.angle_deg("elbow")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    bend = np.maximum.accumulate(angle[span]) - angle[span]
    frame = int(span[np.argmax(bend)])
    return Reading(float(bend.max()), pair_sigma(s, "elbow", int(span[0]), frame), frame)


def dip_lean(s: Scene) -> Reading | None:
    """How far the trunk tips in the dip, at most; forward is positive."""
    span = s.span("dip_start", "dip_bottom")
    angle = s.body.angle_deg("trunk")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    tipped = angle[span[0]] - angle[span]
    frame = int(span[np.argmax(np.abs(tipped))])
    return Reading(
        float(angle[span[0]] - angle[frame]), pair_sigma(s, "trunk", int(span[0]), frame), frame
    )


def rebend_after_drive(s: Scene) -> Reading | None:
    """How far the knee bends again under the bar after the drive."""
    span = s.span("extension", "lowest")
    angle = s.body.angle_deg("knee")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    frame = int(span[np.argmin(angle[span])])
    return Reading(
        float(angle[span].max() - angle[frame]), pair_sigma(s, "knee", int(span[0]), frame), frame
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
    return angle_of(s, "knee", s.frames["lowest"])


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
