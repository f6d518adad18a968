"""Parts a clip into its repetitions, so that each gets events and measures of its own.

A repetition begins where the bar is low and rises fast and far. Crests of upward velocity that
follow a fast fall are rebounds of a dropped bar; rises that begin high (a jerk after the clean, a
press) are no repetition of a pull. Between two of them the bar's lowest point parts the clip, so
that touch-and-go lifts, lifts from the hang and slow returns all come apart in the same way.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.events import SMALLEST_RISE_M, Event, find_events, lifting_crests
from keen_kettle.core.motion.jerk import drive_crests, find_jerk_events

__all__ = ["Rep", "split_reps"]

Array = NDArray[np.float64]

NEAR_LOW_M = 0.02
LEAST_SPEED_SHARE = 0.6
"""A rise slower than this share of the fastest is a return or a deadlift, not a repetition."""
START_SHARE = 0.5
"""A repetition begins in the lower half of all the bar's heights."""
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
    tops = drive_crests(motion) if jerk else _tops(motion)
    bounds = _bounds(motion, tops)
    reps = []
    for first, last in bounds:
        part = _only(motion, first, last)
        events = find_jerk_events(part) if jerk else find_events(part, derivative)
        if "peak_velocity" in events:
            reps.append(Rep(first, last, events, _received(motion, events, last, derivative)))
    return reps


def _tops(motion: BarMotion) -> list[int]:
    """The fastest frame of every rise that is a repetition."""
    v = np.where(np.isfinite(motion.vy_mps), motion.vy_mps, 0.0)
    y = motion.y_m
    crests = lifting_crests(v, motion.frame_s)
    if not crests:
        return []
    fastest = max(v[k] for k in crests)
    low, high = float(np.nanmin(y)), float(np.nanmax(y))
    tops: list[int] = []
    for crest in crests:
        if v[crest] < LEAST_SPEED_SHARE * fastest:
            continue
        begin, end = _rise(v, crest)
        if np.nanmax(y[begin : end + 1]) - np.nanmin(y[begin : end + 1]) < SMALLEST_RISE_M:
            continue
        if np.nanmin(y[begin : crest + 1]) > low + START_SHARE * (high - low):
            continue
        if tops and begin <= tops[-1]:  # the same rise: its faster crest stands for it
            tops[-1] = max(tops[-1], crest, key=lambda k: v[k])
        else:
            tops.append(crest)
    return tops


def _rise(v: Array, crest: int) -> tuple[int, int]:
    """The unbroken rise round a crest."""
    before = np.flatnonzero(v[:crest] <= 0)
    after = np.flatnonzero(v[crest:] <= 0)
    begin = int(before[-1]) if len(before) else 0
    end = crest + int(after[0]) if len(after) else len(v) - 1
    return begin, end


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
