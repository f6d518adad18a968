"""Measures of the body from the set position to the finish, one function a measure: its definition.

A function returns a reading without a value (and why) where what it looks for does not happen.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.body.scene import (
    LIFTED_M,
    Reading,
    Scene,
    angle_of,
    gap,
    length_m,
    pair_sigma,
    straightest,
    thigh_m,
    when_straight_sigma,
)

__all__ = [
    "ankle_gain",
    "arm_at_extension",
    "contact_point",
    "extension_spread",
    "gap_of_thigh",
    "heel_lead",
    "hip_after_heel",
    "hip_at_heel",
    "hip_drop",
    "hip_lead",
    "knee_rebend",
    "rise_ratio",
    "shoulder_midfoot",
    "shoulder_over_knee",
    "trunk_at_knee",
    "trunk_drop",
    "trunk_open",
]

Array = NDArray[np.float64]

NEARLY_STRAIGHT, FINISH_DOUBT_S = 0.95, 1 / 30
SET_S = 0.6
"""So long before lift-off the lifter is in the set position, or comes down into it."""
LOW_HIP_M = 0.03
"""The lifter sits in the set position while the hip is within so much of its lowest."""
BELOW_KNEE_M = 0.25
"""A bar so far above its start has not left the knees yet (shank 0.25, plate's radius 0.13 of stature)."""
STANDS_LOW = 0.1
"""The heel stands where it is seen in the lowest tenth of the looks."""
BY_MODEL = 2.75
"""Where only the model tells when a heel leaves the floor it is off by so many of the heel's uncertainties (in one
lifelike film it drew a heel up too soon, and this is set by that film; in ten of 145 only the model tells)."""
TOUCH_M = 0.01
"""Within so much of its closest the bar is taken to touch the thigh."""
MAY_TOUCH = 1.25
"""So much of what knee and hip are unsure by may be what is between the bar and the thigh."""
PAST_KNEE = 0.25
"""Every bar that passes the knee is near to this much of the thigh."""
ONE_PLACE = 0.4
"""Near the thigh over more of its length than this, the bar has no one place of contact."""
FASTEST_S = 0.05
"""So long before and after it the bar is about at its greatest speed, and the body stretched the most."""
MOST_AHEAD = 0.18
"""No shoulder is so far before the knee then (a share of the body): it is somebody or something else's."""
ALIKE = 0.75
"""Shoulder and knee are off in much the same way; so much of what independent errors would give is
left between them (50 lifelike and path-traced films)."""
BENT_DOUBT_DEG = 4.0
"""A trunk bent low is read so much too low (a real lifter's by 6), one that rises behind the plate not."""
KNEE_DOUBT_DEG = 8.0
"""With the bar at the knee the plate comes near the hip, which is seen too low and too far forward then: the trunk
looks so much too upright on lifelike bodies (real ones may differ, so that it is not corrected)."""
LOOK_S, LEAST_PACE_MPS = 1 / 30, 0.15
"""The foot is looked at so often; a heel that leaves the floor goes up at least so fast."""
OPENING = 1.5
"""A hip that opens comes out from behind the plate: its errors before and after have less in common than usual (120
lifelike films)."""
HIP = ("knee", "hip", "shoulder")
HEEL_UNSEEN = "the heel is not seen to leave the floor; set its points by hand to be sure"


def trunk_drop(s: Scene) -> Reading | None:
    """How far the trunk tips forward between the set position and the knee, at most.

    Hips that shoot up do so while the plates still stand: the slack is pulled out by the legs
    alone. So it is counted from the lowest hip shortly before lift-off, not from lift-off.
    """
    span = s.span("lift_off", "knee_pass")
    angle = s.body.angle_deg("trunk")
    if not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, int(span[0]))
    sitting = _set_position(s)
    begin = int(sitting[-1])
    steady = s.steady_deg("trunk")
    after = np.arange(begin, span[-1] + 1)
    frame = int(after[np.argmin(steady[after])])
    tipped = float(np.median(angle[sitting]) - steady[frame])
    return Reading(tipped, pair_sigma(s, "trunk", begin, frame), frame)


def trunk_at_knee(s: Scene) -> Reading:
    """The trunk against the horizontal with the bar at the knee."""
    read = angle_of(s, "trunk", s.frames["knee_pass"])
    return replace(read, sigma=float(np.hypot(read.sigma, KNEE_DOUBT_DEG)))


def trunk_open(s: Scene) -> Reading | None:
    """How far the trunk comes up between the set position and a bar a quarter of a metre up."""
    frame = _below_knee(s)
    if frame is None:
        return Reading(np.nan, np.nan, s.frames["lift_off"], "the bar does not rise so far")
    angle, sitting = s.body.angle_deg("trunk"), _set_position(s)
    opened = float(s.steady_deg("trunk")[frame] - np.median(angle[sitting]))
    sigma = float(np.hypot(pair_sigma(s, "trunk", int(sitting[-1]), frame), BENT_DOUBT_DEG))
    return Reading(opened, sigma, frame)


def shoulder_midfoot(s: Scene) -> Reading | None:
    """How far the shoulder is before the middle of the standing foot, with the bar a quarter of a metre
    up."""
    frame = _below_knee(s)
    if frame is None:
        return Reading(np.nan, np.nan, s.frames["lift_off"], "the bar does not rise so far")
    stands = np.arange(_set_position(s)[0], frame + 1)
    feet = [s.body.at(name)[stands, 0] for name in ("toe", "heel")]
    ahead = s.steady_at("shoulder")[frame, 0] - float(np.nanmedian(feet))
    shoulder, toe, heel = (
        float(s.body.sigma_at(name)[frame]) for name in ("shoulder", "toe", "heel")
    )
    return Reading(float(ahead), float(np.hypot(shoulder, 0.5 * np.hypot(toe, heel))), frame)


def _below_knee(s: Scene) -> int | None:
    """The frame in which the bar has risen a quarter of a metre from lift-off."""
    span = s.span("lift_off", "peak_velocity")
    risen = s.bar.y_m[span] - s.bar.y_m[span[0]] >= BELOW_KNEE_M
    return int(span[np.argmax(risen)]) if risen.any() else None


def hip_lead(s: Scene) -> Reading | None:
    """How much farther the hip has risen than the shoulder, at most, from the set position until the
    bar is at the knee."""
    sitting, end = _set_position(s), s.frames["knee_pass"]
    begin = int(sitting[-1])
    hips, shoulders = (
        s.steady_at(name)[begin : end + 1, 1] - float(np.median(s.body.at(name)[sitting, 1]))
        for name in ("hip", "shoulder")
    )
    lead = hips - shoulders
    if not lead.size or not np.isfinite(lead).all():
        return Reading(np.nan, np.nan, begin)
    top = int(np.argmax(lead))
    hip, shoulder = (float(s.body.sigma_at(name)[begin + top]) for name in ("hip", "shoulder"))
    # Both places of a joint are off in much the same way: half of it is left in their difference.
    return Reading(float(lead[top]), 0.5 * float(np.hypot(hip, shoulder)), begin + top)


def rise_ratio(s: Scene) -> Reading | None:
    """Rise of the hip over rise of the shoulder, from lift-off to the knee."""
    a, b = s.frames["lift_off"], s.frames["knee_pass"]
    rises = [float(s.body.at(name)[b, 1] - s.body.at(name)[a, 1]) for name in ("hip", "shoulder")]
    # A shoulder's slow error is much the same in both frames: half of it is left in a difference. A hip
    # that the plate comes near is seen too low there.
    spread = [
        left * float(s.body.sigma_at(name)[b]) for left, name in ((1.0, "hip"), (0.5, "shoulder"))
    ]
    if not np.isfinite(rises).all():
        return Reading(np.nan, np.nan, b)
    if rises[1] < 0.04:
        return Reading(np.nan, np.nan, b, "the shoulders hardly rise before the knee")
    ratio = rises[0] / rises[1]
    return Reading(ratio, float(np.hypot(spread[0], ratio * spread[1]) / rises[1]), b)


def _set_position(s: Scene) -> NDArray[np.intp]:
    """The frames shortly before lift-off in which the hip is lowest, or nearly."""
    off = s.frames["lift_off"]
    t_s = s.bar.t_s
    before = np.flatnonzero((t_s >= t_s[off] - SET_S) & (t_s <= t_s[off]))
    y = s.steady_at("hip")[before, 1]
    if not np.isfinite(y).any():
        return np.array([off])
    return np.asarray(before[y <= np.nanmin(y) + LOW_HIP_M])


def knee_rebend(s: Scene) -> Reading | None:
    """How far the knee bends again between passing the bar and the finish."""
    begin = s.frames.get("knee_pass", s.frames.get("lift_off", 0))
    span = np.arange(begin, s.frames["extension"] + 1)
    angle = s.body.angle_deg("knee")
    if len(span) < 2 or not np.isfinite(angle[span]).all():
        return Reading(np.nan, np.nan, begin)
    bend = np.maximum.accumulate(angle[span]) - angle[span]
    frame = int(span[np.argmax(bend)])
    return Reading(float(bend.max()), pair_sigma(s, "knee", begin, frame), frame)


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
    might = along[near <= near.min() + max(TOUCH_M, MAY_TOUCH * points)]
    if np.ptp(might) > ONE_PLACE:
        return Reading(
            np.nan,
            np.nan,
            frame,
            "the bar is as near to the thigh over a long way: no one place of contact can be told",
        )
    if along[first] < PAST_KNEE:
        return Reading(
            np.nan,
            np.nan,
            frame,
            "the bar is nearest to the thigh where it passes the knee: no contact above it can be told",
        )
    sigma = float(np.hypot(points / long[first], np.ptp(might) / np.sqrt(12)))
    return Reading(float(along[first]), sigma, frame)


def gap_of_thigh(s: Scene) -> Reading | None:
    """The gap at extension as a share of the thigh's length."""
    frame = s.frames["extension"]
    apart = gap("extension")(s)
    long = thigh_m(s)
    if apart is None or not np.isfinite(long):
        return Reading(np.nan, np.nan, frame)
    return Reading(apart.value / long, apart.sigma / long, frame)


def heel_lead(s: Scene) -> Reading | None:
    """How long before the power position the heel leaves the floor; negative is after it."""
    frame, why = _heel_leaves(s)
    if not why and not s.body.square_on and _rests_on(s) is None:
        why = "from aside the foot looks too short"
    if why:
        return Reading(np.nan, np.nan, frame, why)
    lead = float(s.bar.t_s[s.frames["power_position"]] - s.bar.t_s[frame])
    return Reading(lead, _heel_leaves_sigma(s, frame), frame, points=_rests_on(s))


def hip_at_heel(s: Scene) -> Reading | None:
    """The hip's angle when the heel leaves the floor; needs no times."""
    frame, why = _heel_leaves(s)
    if why:
        return Reading(np.nan, np.nan, frame, why)
    angle = angle_of(s, "hip", frame)
    sigma = float(np.hypot(angle.sigma, _opens_meanwhile(s, frame)))
    return replace(angle, sigma=sigma, points=_rests_on(s, *HIP))


def hip_after_heel(s: Scene) -> Reading | None:
    """How far the hip still opens after the heel has left the floor; needs no times.

    A hip that is not finished opens no farther either: it is this that tells early toes from it.
    """
    frame, why = _heel_leaves(s)
    if why:
        return Reading(np.nan, np.nan, frame, why)
    top, angle = straightest(s, "hip"), s.body.angle_deg("hip")
    if top is None:
        return None
    opens = float(angle[top] - angle[frame]) if top > frame else 0.0
    sigma = float(np.hypot(OPENING * pair_sigma(s, "hip", frame, top), _opens_meanwhile(s, frame)))
    return Reading(opens, sigma, frame, points=_rests_on(s, *HIP))


def _opens_meanwhile(s: Scene, frame: int) -> float:
    """What the hip opens (degrees) in the time by which the heel may leave the floor earlier or later."""
    pace = float(np.gradient(s.steady_deg("hip"), s.bar.t_s)[frame])
    return abs(pace) * _heel_leaves_sigma(s, frame)


def _heel_leaves(s: Scene) -> tuple[int, str]:
    """The frame in which the heel leaves the floor, and why that cannot be told ("" where it can).

    It has left the floor where it is higher than it stood while the bar was below the knee: what is
    seen of a small foot wanders. One that is seen to leave it only when the body folds again tells
    nothing.
    """
    begin = max(s.frames["lift_off"], s.frames.get("knee_pass", 0))
    span = np.arange(begin, s.finish()[-1] + 1)
    over, sighted, watched = _heel_height(s)
    firm = span[sighted[span]]
    if len(firm) < 2:
        return begin, "the foot is not seen while the body finishes"
    stands = 0.0 if watched else float(np.quantile(over[firm], STANDS_LOW))
    before = np.flatnonzero(sighted[:begin])
    if len(before) and not watched:
        stands = max(stands, float(np.median(over[before])))
    rising = firm[: int(np.argmax(over[firm])) + 1]  # it comes down again in the turnover
    down = rising[over[rising] <= stands + LIFTED_M]
    up = rising[rising > down[-1]] if len(down) else rising[:0]
    peak = s.frames["peak_velocity"]
    if not len(up) or up[0] > max(s.frames.get("extension", peak), peak):
        return begin, HEEL_UNSEEN
    return int(up[0]), ""


def _heel_height(s: Scene) -> tuple[Array, NDArray[np.bool_], bool]:
    """How high the heel is (frames,), where that was seen (frames,), and whether its own picture was
    watched for it. Where it was not, or its points were set by hand, it is taken against the toe, so
    that a camera in the hand does not lift it, and only where both are seen: an assumed one stays
    where it was put."""
    by_hand = s.body.by_hand("heel")[s.frames["lift_off"] : s.finish()[-1] + 1].any()
    rise = s.body.heel_m
    if rise is not None and np.isfinite(rise[s.finish()]).any() and not by_hand:
        return rise, np.isfinite(rise), True
    over = s.body.at("heel")[:, 1] - s.body.at("toe")[:, 1]
    return over, s.body.firm("heel", "toe") & np.isfinite(over), False


def _rests_on(s: Scene, *others: str) -> tuple[str, ...] | None:
    """What a reading rests on besides the foot, where that was watched; None: on the usual points."""
    return others if _heel_height(s)[2] else None


def _heel_leaves_sigma(s: Scene, frame: int) -> float:
    """Uncertainty (s) of the instant in which the heel leaves the floor."""
    over, _, watched = _heel_height(s)
    if watched:
        return float(np.hypot(s.bar.frame_s / np.sqrt(12), LOOK_S / np.sqrt(12)))
    pace = max(float(np.gradient(over, s.bar.t_s)[frame]), LEAST_PACE_MPS)
    return BY_MODEL * float(s.body.sigma_at("heel")[frame]) / pace


def shoulder_over_knee(s: Scene) -> Reading | None:
    """How far the shoulder is ahead of the knee about the bar's greatest speed, as a share of shank,
    thigh and trunk.

    It tells an unfinished hip where the plate hides the hip itself, and needs no instant of extension:
    that is uncertain there too.
    """
    peak, t_s = s.frames["peak_velocity"], s.bar.t_s
    span = np.flatnonzero(np.abs(t_s - t_s[peak]) <= FASTEST_S)
    long = length_m(s, "ankle", "knee", "hip", "shoulder")
    ahead = float((s.steady_at("shoulder") - s.steady_at("knee"))[span, 0].mean())
    if ahead > MOST_AHEAD * long:
        return Reading(np.nan, np.nan, peak, "the body is not read while the bar is fastest")
    spread = np.hypot(s.body.sigma_at("shoulder")[peak], s.body.sigma_at("knee")[peak])
    return Reading(ahead / long, ALIKE * float(spread) / long, peak)


def ankle_gain(s: Scene) -> Reading | None:
    """How far the ankle opens from the power position to its greatest."""
    frame = straightest(s, "ankle")
    if frame is None:
        return None
    angle = s.body.angle_deg("ankle")
    begin = s.frames["power_position"]
    return Reading(
        float(angle[frame] - angle[begin]), 3 * pair_sigma(s, "ankle", begin, frame), frame
    )


def extension_spread(s: Scene) -> Reading | None:
    """The time between the first and the last of hip, knee and ankle to be straightest."""
    found = {joint: straightest(s, joint) for joint in ("hip", "knee", "ankle")}
    known = {joint: frame for joint, frame in found.items() if frame is not None}
    if len(known) < 3:
        return None
    first, last = min(known, key=known.__getitem__), max(known, key=known.__getitem__)
    spread = float(s.bar.t_s[known[last]] - s.bar.t_s[known[first]])
    sigma = float(np.hypot(when_straight_sigma(s, first), when_straight_sigma(s, last)))
    return Reading(spread, sigma, known[last])


def arm_at_extension(s: Scene) -> Reading | None:
    """The elbow's angle when the hip passes 95 % of its greatest extension, at peak velocity at the latest:
    after that arms bend that pull the lifter under the bar. What it changes within the doubt of that
    instant adds to its uncertainty."""
    top = straightest(s, "hip")
    if top is None:
        return None
    power = s.frames["power_position"]
    span = np.arange(power, max(min(top, s.frames["peak_velocity"]), power) + 1)
    hip = s.body.angle_deg("hip")[span]
    frame = int(span[np.argmax(hip >= NEARLY_STRAIGHT * hip.max())])
    read = angle_of(s, "elbow", frame)
    elbow = s.steady_deg("elbow")
    early, late = np.searchsorted(
        s.bar.t_s, s.bar.t_s[frame] + np.array([-FINISH_DOUBT_S, FINISH_DOUBT_S])
    )
    change = abs(elbow[min(late, len(elbow) - 1)] - elbow[early]) / 2
    return replace(read, sigma=float(np.hypot(read.sigma, change)))
