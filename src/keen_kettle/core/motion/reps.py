"""Parts a clip into its repetitions, so that each gets events and measures of its own.

A repetition is a rise of the bar that is large against the clip's largest, begins where the bar is
low, and is neither a rebound of a dropped bar nor the standing up after a catch. A slow rise is a
return or a deadlift, but that is said only where speeds can be compared. Between two repetitions the
bar's lowest point parts the clip, so that touch-and-go lifts, lifts from the hang and slow returns
all come apart in the same way.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.events import (
    FASTEST_LOWERING_MPS,
    LOWERED_M,
    REBOUND_S,
    Event,
    find_events,
)
from keen_kettle.core.motion.jerk import drive_crests, find_jerk_events
from keen_kettle.core.motion.rises import Rise, rises

__all__ = ["Rep", "lifting_rises", "split_reps"]

Array = NDArray[np.float64]

NEAR_LOW_M = 0.02
LEAST_RISE_M, LEAST_SIGMAS = 0.05, 5.0
"""A shrug lifts the bar by so much at least, and plainly over the noise (house default)."""
RISE_SHARE = 0.5
"""A repetition rises by at least so much of the clip's largest rise."""
LARGEST_JUMP, FASTEST_LIFT_MPS, MOST_DROPPED = 0.6, 8.0, 3.0
"""A rise that is made by so much between two pictures, or faster than anybody lifts, is a slip; a
step over so many dropped pictures counts for as many."""
SLOWEST_MPS, LEAST_SPEED_SHARE, TALL_SHARE = 0.12, 0.45, 0.6
"""What rises slower than this share of the fastest tall rise is a return or a deadlift."""
RETURNED_SHARE, LOW_RETURN, START_SHARE = 0.4, 0.5, 0.5
"""A bar that has come back by less than this share of the last lift is still in that lift; one that
begins in the upper half of all the clip's heights must have come back by more."""
RECEIVED_SHARE, RECOVERY_SPEED = 0.35, 0.8
"""What begins so much higher than the lift before it, and slower, is the standing up after it."""
SET_UP_SPEED = 1.5
"""A lift from the hang is so much faster than the deadlift before it (house default)."""
REBOUND_SHARE, REBOUND_SPEED = 0.6, 0.8
"""A rebound rises by less than this share of the fall before it, which was faster than so."""
LOST_TO_THE_FLOOR_M = 0.18
"""A caught lift that ends this near to where it began was not received."""


@dataclass(frozen=True)
class Rep:
    """One repetition: its frames (both included), its events, and whether it was received.

    `received` is None for pulls, and where the clip ends before it is seen.
    """

    first: int
    last: int
    events: dict[str, Event]
    received: bool | None


def split_reps(motion: BarMotion, derivative: Derivative) -> list[Rep]:
    """The repetitions of a clip in their order; empty when the bar makes no lift."""
    known = np.isfinite(motion.vy_mps)
    if known.sum() < 8:
        return []
    jerk = derivative.family == "jerk"
    lifts = [] if jerk else lifting_rises(motion)
    tops = drive_crests(motion) if jerk else [rise.high for rise in lifts]
    reps = []
    for number, (first, last) in enumerate(_bounds(motion, tops)):
        part = _only(motion, first, last)
        events = find_jerk_events(part) if jerk else find_events(part, derivative, lifts[number])
        if events:
            reps.append(Rep(first, last, events, _received(motion, events, last, derivative)))
    return reps


def lifting_rises(motion: BarMotion) -> list[Rise]:
    """The rises that are repetitions, in their order."""
    least = max(LEAST_RISE_M, LEAST_SIGMAS * motion.position_sigma_m)
    able = [
        one
        for one in rises(motion.raw_y_m, motion.held, motion.position_sigma_m)
        if one.rise_m >= least and _sound(motion, one) and not _rebounds(motion, one)
    ]
    if not able:
        return []
    tallest = max(one.rise_m for one in able)
    fastest = max(_fastest(motion, one) for one in able if one.rise_m >= TALL_SHARE * tallest)
    if fastest < SLOWEST_MPS:
        return []
    slowest = LEAST_SPEED_SHARE * fastest if motion.even else 0.0
    found: list[Rise] = []
    for one in able:
        large = one.rise_m >= RISE_SHARE * tallest and _fastest(motion, one) >= slowest
        if large and found and _was_set_up(motion, found[-1], one):
            found[-1] = one
        elif large and _begins_anew(motion, one, found[-1] if found else None):
            found.append(one)
    return found


def _was_set_up(motion: BarMotion, before: Rise, one: Rise) -> bool:
    """Whether a rise was only a deadlift to the hang from which the next one begins: that one starts well
    above its start, is much faster, and ends higher."""
    heights = motion.raw_y_m
    kept = float(heights[one.low] - heights[before.low]) / before.rise_m
    lowered = float(heights[before.high] - heights[one.low])
    higher = bool(heights[one.high] > heights[before.high])
    return (
        kept > RECEIVED_SHARE and lowered >= LOWERED_M and higher and _faster(motion, one, before)
    )


def _faster(motion: BarMotion, one: Rise, before: Rise) -> bool:
    """Whether a rise is so much faster as a lift is than a deadlift; where pictures come unevenly, by the way
    from picture to picture, and not slower by the film's times."""
    by_time = _fastest(motion, one) / max(_fastest(motion, before), 1e-6)
    if motion.even:
        return by_time > SET_UP_SPEED
    by_picture = _usual_step(motion, one) / max(_usual_step(motion, before), 1e-6)
    return by_picture > SET_UP_SPEED and by_time > 1.0


def _usual_step(motion: BarMotion, one: Rise) -> float:
    """How far the bar goes from one picture of its own to the next, in the quicker half of a rise (m)."""
    frames = motion.own_frames
    frames = frames[(frames >= one.low) & (frames <= one.high)]
    return float(np.percentile(np.diff(motion.raw_y_m[frames]), 75)) if len(frames) > 1 else 0.0


def _begins_anew(motion: BarMotion, one: Rise, before: Rise | None) -> bool:
    """Whether a rise begins a repetition, and does not go on with the one before it."""
    if before is None:
        return True
    start = float(motion.raw_y_m[one.low])
    low, high = float(np.nanmin(motion.y_m)), float(np.nanmax(motion.y_m))
    wanted = LOW_RETURN if start > low + START_SHARE * (high - low) else RETURNED_SHARE
    returned = float(motion.raw_y_m[before.high] - start) / before.rise_m
    if one.begun and returned < wanted:
        return False
    kept = (start - float(motion.raw_y_m[before.low])) / before.rise_m
    slower = _fastest(motion, one) < RECOVERY_SPEED * _fastest(motion, before)
    return not (kept > RECEIVED_SHARE and slower)


def _fastest(motion: BarMotion, one: Rise) -> float:
    part = motion.vy_mps[one.low : one.high + 1]
    return float(np.nanmax(part)) if np.isfinite(part).any() else 0.0


def _sound(motion: BarMotion, one: Rise) -> bool:
    """Whether a rise is no faster than anybody lifts, nor made in one jump: else the path has slipped."""
    jumps = one.jump >= LARGEST_JUMP and _jump(motion, one) >= LARGEST_JUMP
    return _fastest(motion, one) < FASTEST_LIFT_MPS and not jumps


def _jump(motion: BarMotion, one: Rise) -> float:
    """The largest share of a rise that is made in a picture's usual time: where pictures were dropped, a
    step takes longer than others."""
    frames = motion.own_frames
    steps, gaps = np.diff(motion.raw_y_m[frames]), np.diff(motion.t_s[frames])
    within = (frames[1:] > one.low) & (frames[1:] <= one.high)
    longer = np.clip(gaps / float(np.median(gaps)), 1.0, MOST_DROPPED)
    return float(np.max((steps / longer)[within])) / one.rise_m


def _rebounds(motion: BarMotion, one: Rise) -> bool:
    """Whether a rise follows at once on a fall that is larger, and at its end faster than any pull."""
    before = motion.t_s >= motion.t_s[one.low] - REBOUND_S
    before[one.low + 1 :] = False
    fall = motion.vy_mps[before]
    if not np.isfinite(fall).any():
        return False
    fallen = float(np.nanmax(motion.raw_y_m[: one.low + 1])) - float(motion.raw_y_m[one.low])
    hard = min(FASTEST_LOWERING_MPS, -REBOUND_SPEED * _fastest(motion, one))
    return bool(np.nanmin(fall) < hard and one.rise_m < REBOUND_SHARE * fallen)


def _bounds(motion: BarMotion, tops: list[int]) -> list[tuple[int, int]]:
    """Frames of each repetition: parted where the bar comes to its lowest in between."""
    count = len(motion.t_s)
    begins = [0]
    for before, after in pairwise(tops):
        between = motion.y_m[before : after + 1]
        if not np.isfinite(between).any():
            begins.append((before + after) // 2)
            continue
        lowest = float(np.nanmin(between))
        begins.append(before + int(np.flatnonzero(between <= lowest + NEAR_LOW_M)[0]))
    ends = [*begins[1:], count - 1]
    return list(zip(begins, ends, strict=True)) if tops else []


def _only(motion: BarMotion, first: int, last: int) -> BarMotion:
    """The movement of some frames; the others are as if they had not been seen."""
    outside = np.ones(len(motion.t_s), bool)
    outside[first : last + 1] = False

    def hidden(values: Array) -> Array:
        return np.where(outside, np.nan, values)

    return replace(
        motion,
        raw_x_m=hidden(motion.raw_x_m),
        raw_y_m=hidden(motion.raw_y_m),
        x_m=hidden(motion.x_m),
        y_m=hidden(motion.y_m),
        vx_mps=hidden(motion.vx_mps),
        vy_mps=hidden(motion.vy_mps),
        ay_mps2=hidden(motion.ay_mps2),
    )


def _received(
    motion: BarMotion, events: dict[str, Event], last: int, derivative: Derivative
) -> bool | None:
    """Whether a caught lift stayed up: its way down ends well above where it began."""
    if not derivative.has_catch or not {"lowest", "lift_off"} <= set(events):
        return None
    start = motion.y_m[events["lift_off"].frame]
    low = motion.y_m[events["lowest"].frame]
    return bool(low - start > LOST_TO_THE_FLOOR_M)
