"""Finds the instants of a lift from the bar alone.

The second pull's peak velocity is the anchor: everything before it is searched backwards, and
everything after it forwards. Events that would need the body (bar at the knee, extension) are
not guessed here.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion

__all__ = [
    "EVENT_NAMES",
    "SMALLEST_RISE_M",
    "Event",
    "blunt_events",
    "event_name",
    "find_events",
    "first_event",
    "first_so_low",
    "lifting_crests",
    "stand_after",
]

Array = NDArray[np.float64]

EVENT_NAMES = {
    "lift_off": "Lift-off",
    "dip_start": "Dip begins",
    "dip_bottom": "Dip’s bottom",
    "knee_pass": "Bar at the knee",
    "first_pull_end": "First pull ends",
    "power_position": "Power position",
    "extension": "Full extension",
    "peak_velocity": "Peak velocity",
    "peak_height": "Peak height",
    "catch": "Catch",
    "lowest": "Lowest",
    "stand": "Stand",
}
JERK_NAMES = {
    "extension": "Drive ends",
    "peak_velocity": "Fastest drive",
    "catch": "Receive",
    "stand": "Recovered",
}
"""What the same events are called in a jerk."""

SMALLEST_RISE_M = 0.25
STILL_MPS = 0.06
LEAST_RECOVERY_M = 0.05
UNSEEN_START_MPS = 0.4
RESTING_S, STANDING_M = 0.5, 0.01
PLATEAU_S, LEVEL_M = 0.08, 0.0015
"""A bar that is held longer than this at the lowest point came to it when it was first so low."""
REBOUND_S = 0.4
FASTEST_LOWERING_MPS = -1.5
"""A rise within 0.4 s of a faster fall than this is a rebound, not a lift."""
BLUNT_LOWEST_S, BLUNT_STAND_S = 0.01, 0.03
BLUNT_S = 0.045
"""Uncertainty of the pull's parting where velocity hardly falls between its two halves."""


@dataclass(frozen=True)
class Event:
    """One instant: its frame, its time in seconds from the first frame, how sure, and its source.

    `sigma_s` is the standard uncertainty of the time: half a frame spread evenly for a sharp
    event, more where the bar shows no clear turn.
    """

    name: str
    frame: int
    t_s: float
    sigma_s: float
    source: str = "bar"


def event_name(name: str, family: str) -> str:
    """What an event is called in a lift of that family."""
    if family == "jerk" and name in JERK_NAMES:
        return JERK_NAMES[name]
    return EVENT_NAMES[name]


def first_event(events: dict[str, Event]) -> Event | None:
    """Where the lift begins: lift-off, or the dip of a jerk."""
    return min(events.values(), key=lambda event: event.frame, default=None)


def find_events(motion: BarMotion, derivative: Derivative) -> dict[str, Event]:
    """The events of the (one) lift in a clip, by name; empty when the bar makes no lift.

    lift_off : the last frame before the pull that is still at its lowest
    first_pull_end, power_position : the crest and the trough of upward velocity before the last
        rise; one and the same instant (least acceleration) when velocity never falls
    peak_velocity, peak_height, lowest : as they say; `lowest` is the end of the way down
    stand : the bar has come to rest, high, after a lift that was caught
    catch : the fastest fall between peak height and lowest, after which the lifter slows the bar
    """
    known = np.isfinite(motion.vy_mps)
    if known.sum() < 8:
        return {}
    v = np.where(known, motion.vy_mps, 0.0)
    y = motion.y_m
    peak_v = _main_peak(v, y, motion.frame_s)
    if peak_v is None:
        return {}
    begin = _known_since(known, peak_v)
    lift_off = _lift_off(motion, v, begin, peak_v, derivative)
    if lift_off is None or y[peak_v] - y[lift_off] < 0.1:
        return {}
    frames = {"lift_off": lift_off}
    first_end, second_begin, clear = _split_pull(motion, lift_off, peak_v)
    frames["first_pull_end"], frames["power_position"] = first_end, second_begin
    frames["peak_velocity"] = peak_v
    peak_h = _first_below(v, peak_v, 0.0, known)
    if peak_h is not None:
        frames["peak_height"] = peak_h
        lowest = _way_down(v, y, peak_h, known)
        if lowest is not None:
            lowest = first_so_low(motion, peak_h, lowest)
            if derivative.has_catch:
                frames["catch"] = peak_h + int(np.argmin(v[peak_h : lowest + 1]))
            frames["lowest"] = lowest
            stand = stand_after(motion, lowest) if derivative.has_catch else None
            if stand is not None:
                frames["stand"] = stand
    sharp = motion.frame_s / np.sqrt(12)
    blunt = motion.frame_s if clear else max(motion.frame_s, BLUNT_S)
    sigmas = {"first_pull_end": blunt, "power_position": blunt} | blunt_events(motion)
    return {
        name: Event(
            name, int(frames[name]), float(motion.t_s[frames[name]]), sigmas.get(name, sharp)
        )
        for name in EVENT_NAMES
        if name in frames
    }


def blunt_events(motion: BarMotion) -> dict[str, float]:
    """Uncertainties (s) of the instants at which the bar comes to rest: it does so gradually."""
    return {
        "lowest": float(np.hypot(motion.frame_s, BLUNT_LOWEST_S)),
        "stand": float(np.hypot(motion.frame_s, BLUNT_STAND_S)),
    }


def _still(motion: BarMotion) -> float:
    quiet = float(np.nanmedian(motion.vy_sigma_mps))
    return max(STILL_MPS, min(2.0 * quiet, 0.15))


def lifting_crests(v: Array, frame_s: float) -> list[int]:
    """Crests of upward velocity that lift the bar; rebounds after a fast fall are left out."""
    crests = np.flatnonzero((v[1:-1] > v[:-2]) & (v[1:-1] >= v[2:])) + 1
    before = max(round(REBOUND_S / frame_s), 1)
    return [
        int(k)
        for k in crests
        if v[k] >= 0.4 and v[max(k - before, 0) : k].min(initial=0.0) > FASTEST_LOWERING_MPS
    ]


def _main_peak(v: Array, y: Array, frame_s: float) -> int | None:
    """The peak of the second pull of the first lift in the clip.

    Crests that follow a fast fall are rebounds of a dropped bar and do not count. Of the rest, the
    first that is nearly as fast as the fastest begins the search (a jerk or a second repetition
    comes later); the peak is the last such crest before the bar stops rising, since a rushed
    first pull may be faster than the second.
    """
    lifted = lifting_crests(v, frame_s)
    if not lifted:
        return None
    fastest = max(v[k] for k in lifted)
    first = next(k for k in lifted if v[k] >= 0.7 * fastest)
    falling = np.flatnonzero(v[first:] <= 0)
    end = first + int(falling[0]) if len(falling) else len(v)
    same_rise = [k for k in lifted if first <= k < end and v[k] >= 0.7 * v[first]]
    top = same_rise[-1]
    gained = np.nanmax(y[top:end]) - np.nanmin(y[: top + 1])
    return top if gained >= SMALLEST_RISE_M else None


def _known_since(known: NDArray[np.bool_], frame: int) -> int:
    unknown = np.flatnonzero(~known[: frame + 1])
    return int(unknown[-1]) + 1 if len(unknown) else 0


def _lift_off(
    motion: BarMotion, v: Array, begin: int, peak_v: int, derivative: Derivative
) -> int | None:
    """Where sustained upward motion starts; None if that was not seen (the bar rises already).

    From the floor: the last frame whose unsmoothed height is still that of the bar at rest (within
    2 mm or its noise), since smoothing would spread a sharp start. From the hang: the last turn
    from not rising to rising.
    """
    if peak_v - begin < 2 or v[begin] > UNSEEN_START_MPS:
        return None
    if derivative.support == "hang":
        resting = np.flatnonzero(v[begin:peak_v] <= _still(motion))
        return begin + int(resting[-1]) if len(resting) else begin
    floor = float(np.min(motion.y_m[begin : peak_v + 1]))
    near = motion.raw_y_m[begin : peak_v + 1]
    near = near[near <= floor + 0.01]
    rest = float(np.median(near)) if len(near) else floor
    margin = max(0.002, 2.5 * motion.position_sigma_m)
    still_down = np.flatnonzero(motion.raw_y_m[begin:peak_v] <= rest + margin)
    return begin + int(still_down[-1]) if len(still_down) else None


def _split_pull(motion: BarMotion, lift_off: int, peak_v: int) -> tuple[int, int, bool]:
    """Where the first pull ends and the second begins (crest and trough of velocity), and
    whether the fall between them is plain."""
    v = motion.vy_mps[lift_off : peak_v + 1]
    if len(v) < 5:
        return lift_off, lift_off, False
    crests = np.flatnonzero((v[1:-1] > v[:-2]) & (v[1:-1] >= v[2:])) + 1
    sigma = float(np.nanmedian(motion.vy_sigma_mps[lift_off : peak_v + 1]))
    deepest: tuple[float, int, int] | None = None
    for crest in crests:
        trough = int(crest) + int(np.argmin(v[crest:]))
        fall = float(v[crest] - v[trough])
        if fall > max(0.03, sigma) and (deepest is None or fall > deepest[0]):
            deepest = (fall, int(crest), trough)
    if deepest is not None:
        plain = deepest[0] > max(0.15, 3 * sigma)
        return lift_off + deepest[1], lift_off + deepest[2], plain
    rise = motion.y_m[lift_off : peak_v + 1] - motion.y_m[lift_off]
    middle = np.flatnonzero((rise > 0.2 * rise[-1]) & (rise < 0.8 * rise[-1]))
    if not len(middle):
        return lift_off, lift_off, False
    a = motion.ay_mps2[lift_off : peak_v + 1]
    split = lift_off + int(middle[np.argmin(a[middle])])
    return split, split, False


def _first_below(v: Array, start: int, level: float, known: NDArray[np.bool_]) -> int | None:
    """The first frame after `start` where v has fallen to `level`; None if it is not seen."""
    for frame in range(start + 1, len(v)):
        if not known[frame]:
            return None
        if v[frame] <= level:
            return frame if abs(v[frame]) < abs(v[frame - 1]) else frame - 1
    return None


def stand_after(motion: BarMotion, lowest: int) -> int | None:
    """The first frame after the recovery in which the bar is where it then rests (within 1 cm);
    None if not seen.

    It is near the highest that it comes to, and stays there for 0.15 s.
    """
    v, y = motion.vy_mps[lowest:], motion.y_m[lowest:]
    known = np.isfinite(v)
    if known.sum() < 4:
        return None
    highest = float(np.nanmax(y))
    if highest - y[0] < LEAST_RECOVERY_M:
        return None
    near = known & (y >= y[0] + 0.9 * (highest - y[0])) & (np.abs(np.where(known, v, 9)) < 0.1)
    rest = max(round(0.15 / motion.frame_s), 2)
    for frame in np.flatnonzero(near):
        if near[frame : frame + rest].all() and frame + rest <= len(near):
            after = y[frame : frame + max(round(RESTING_S / motion.frame_s), rest)]
            low = np.nanmax(after) - STANDING_M
            below = np.flatnonzero(~(y[: frame + int(np.nanargmax(after)) + 1] >= low))
            return lowest + (int(below[-1]) + 1 if len(below) else 0)
    return None


def first_so_low(motion: BarMotion, peak_h: int, low: int) -> int:
    """Where the bar came to its lowest point; noise would choose any frame of the hold there."""
    margin = max(LEVEL_M, 2 * motion.position_sigma_m)
    first = peak_h + int(np.argmax(motion.y_m[peak_h : low + 1] <= motion.y_m[low] + margin))
    return first if motion.t_s[low] - motion.t_s[first] > PLATEAU_S else low


def _way_down(v: Array, y: Array, peak_h: int, known: NDArray[np.bool_]) -> int | None:
    """The end of the first sustained fall after the peak (at least a centimetre)."""
    low = peak_h
    for frame in range(peak_h + 1, len(v)):
        if not known[frame]:
            return None
        if y[frame] < y[low]:
            low = frame
        fallen = y[peak_h] - y[low]
        if fallen > 0.01 and (v[frame] > 0.02 or y[frame] - y[low] > 0.004):
            return low
        if fallen > 0.01 and abs(v[frame]) <= 0.02:
            return frame
    return low if y[peak_h] - y[low] > 0.01 else None
