"""The events of a jerk from the bar alone, and the bar measures that a jerk has of its own.

The drive's peak velocity is the anchor, as in a pull. Before it the bar goes down and turns: that
turn is the dip's bottom, and where the bar was last at rest before it the dip begins.
"""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.events import (
    Event,
    blunt_events,
    first_so_low,
    lifting_crests,
    stand_after,
)
from keen_kettle.core.motion.measures import Measure

__all__ = ["JERK_UNITS", "drive_crests", "find_jerk_events", "jerk_measures"]

Array = NDArray[np.float64]

REST_MPS = 0.07
LEAST_DIP_M, LEAST_DRIVE_M = 0.03, 0.2
CLEAN_RANGE_M = 1.25
"""A bar that covers so much height was cleaned in the same clip; the drive begins in its upper part."""
OVERHEAD_SHARE = 0.5
"""A rise that begins so much of the greatest drive above the lowest one's beginning is a recovery."""
JERK_UNITS = {
    "dip_depth": "m",
    "dip_depth_of_stature": "1",
    "dip_drift": "m",
    "dip_time": "s",
    "drive_rise": "m",
}


def drive_crests(motion: BarMotion) -> list[int]:
    """Crests of upward velocity that drive a bar from the shoulders.

    A rise that begins overhead is the recovery from a deep receive.
    """
    v = np.where(np.isfinite(motion.vy_mps), motion.vy_mps, 0.0)
    y = motion.y_m
    low, high = float(np.nanmin(y)), float(np.nanmax(y))
    from_height = low + 0.45 * (high - low) if high - low > CLEAN_RANGE_M else low - 1.0
    drives = []
    for crest in lifting_crests(v, motion.frame_s):
        begin, end = _turn_before(v, crest), _turn_after(v, crest)
        if begin is None or y[begin] < from_height or y[end] - y[begin] < LEAST_DRIVE_M:
            continue
        drives.append((crest, begin, end))
    lowest = min((y[begin] for _, begin, _ in drives), default=0.0)
    reach = max((y[end] - y[begin] for _, begin, end in drives), default=0.0)
    found: list[int] = []
    for crest, begin, _ in drives:
        if y[begin] > lowest + OVERHEAD_SHARE * reach:
            continue
        if found and begin <= found[-1]:
            found[-1] = max(found[-1], crest, key=lambda k: v[k])
        else:
            found.append(crest)
    return found


def find_jerk_events(motion: BarMotion) -> dict[str, Event]:
    """Dip, drive and receive of the first jerk in a clip; empty when there is none."""
    known = np.isfinite(motion.vy_mps)
    if known.sum() < 8:
        return {}
    crests = drive_crests(motion)
    if not crests:
        return {}
    v = np.where(known, motion.vy_mps, 0.0)
    y, top = motion.y_m, crests[0]
    bottom = _turn_before(v, top)
    if bottom is None or not known[bottom]:
        return {}
    start = _dip_start(v, known, bottom)
    if start is None or y[start] - y[bottom] < LEAST_DIP_M:
        return {}
    peak_h = _turn_after(v, top)
    frames = {"dip_start": start, "dip_bottom": bottom, "peak_velocity": top, "peak_height": peak_h}
    lowest = first_so_low(motion, peak_h, _lowest_after(y, v, peak_h))
    frames["catch"] = peak_h + int(np.argmin(v[peak_h : lowest + 1])) if lowest > peak_h else peak_h
    frames["lowest"] = lowest
    stand = stand_after(motion, lowest)
    if stand is not None:
        frames["stand"] = stand
    sharp = motion.frame_s / np.sqrt(12)
    sigmas = {"dip_start": 2 * motion.frame_s, "dip_bottom": motion.frame_s} | blunt_events(motion)
    return {
        name: Event(name, frame, float(motion.t_s[frame]), sigmas.get(name, sharp))
        for name, frame in frames.items()
    }


def jerk_measures(
    motion: BarMotion, events: dict[str, Event], stature_m: float | None
) -> dict[str, Measure]:
    """Depth, drift and time of the dip, and how far the bar is driven (SI units)."""
    if "dip_bottom" not in events:
        why = "no dip was found"
        return {
            name: Measure(name, None, None, unit, None, why) for name, unit in JERK_UNITS.items()
        }
    start, bottom = events["dip_start"].frame, events["dip_bottom"].frame
    depth = float(motion.y_m[start] - motion.y_m[bottom])
    sigma = float(np.hypot(depth * motion.scale_sigma, motion.place_sigma_m))
    way = motion.x_m[start : bottom + 1] - motion.x_m[start]
    furthest = start + int(np.nanargmax(np.abs(way)))
    drift = float(motion.x_m[furthest] - motion.x_m[start])
    sunk = float(motion.y_m[start] - motion.y_m[furthest])
    drift_sigma = float(np.hypot(motion.place_sigma_m, sunk * motion.lean_sigma))
    rise = float(motion.y_m[events["peak_height"].frame] - motion.y_m[bottom])
    took = events["dip_bottom"].t_s - events["dip_start"].t_s
    took_sigma = float(np.hypot(events["dip_bottom"].sigma_s, events["dip_start"].sigma_s))
    share = Measure(
        "dip_depth_of_stature", None, None, "1", None, "the athlete's height is not known"
    )
    if stature_m is not None:
        share = Measure("dip_depth_of_stature", depth / stature_m, sigma / stature_m, "1", bottom)
    found = (
        Measure("dip_depth", depth, sigma, "m", bottom),
        share,
        Measure("dip_drift", drift, drift_sigma, "m", furthest),
        Measure("dip_time", took, took_sigma, "s", bottom),
        Measure(
            "drive_rise",
            rise,
            float(np.hypot(rise * motion.scale_sigma, motion.place_sigma_m)),
            "m",
            events["peak_height"].frame,
        ),
    )
    return {one.id: one for one in found}


def _turn_before(v: Array, crest: int) -> int | None:
    """The last frame before a crest in which the bar does not rise."""
    before = np.flatnonzero(v[:crest] <= 0)
    return int(before[-1]) if len(before) else None


def _turn_after(v: Array, crest: int) -> int:
    after = np.flatnonzero(v[crest:] <= 0)
    return crest + int(after[0]) if len(after) else len(v) - 1


def _dip_start(v: Array, known: NDArray[np.bool_], bottom: int) -> int | None:
    """The last frame of rest before the bar goes down to the dip's bottom."""
    fastest = bottom
    for frame in range(bottom, -1, -1):
        if not known[frame]:
            return None
        if v[frame] < v[fastest]:
            fastest = frame
        if v[fastest] < -2 * REST_MPS and v[frame] > -REST_MPS and frame < fastest:
            return frame
    return None


def _lowest_after(y: Array, v: Array, peak_h: int) -> int:
    """The end of the small fall after the peak: where the bar is received and held."""
    low = peak_h
    for frame in range(peak_h + 1, len(y)):
        if not np.isfinite(y[frame]):
            break
        if y[frame] < y[low]:
            low = frame
        if v[frame] > 0.02 or y[frame] - y[low] > 0.004:
            break
    return low
