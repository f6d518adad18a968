"""Finds the instants of a lift from the bar alone.

The rise that is the lift is known (`reps`). In it the second pull's peak velocity is the anchor:
everything before it is searched backwards, and everything after it forwards. What lies outside the
clip is left out, and the rest is still given. Events that would need the body (bar at the knee,
extension) are not guessed here.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.rises import Rise

__all__ = [
    "EVENT_NAMES",
    "FASTEST_LOWERING_MPS",
    "REBOUND_S",
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

NEARLY_AS_FAST, SPEEDS_UP = 0.7, 0.05
UNSEEN_START_MPS, UNSEEN_SHARE = 0.4, 0.35
"""A bar that is as fast as this, or as this share of its peak, where it is first seen rises already."""
LEAST_LIFTED_M, LIFTED_SHARE, HANG_SHARE = 0.002, 0.004, 0.01
"""A bar is lifted when it has made so much, or this share of its rise."""
NEAR_FLOOR_M, WANDER_SHARE, LATELY_S = 0.01, 0.08, 0.4
DIP_STEPS = 3
SPLIT_HEIGHT = 0.6
"""Where speeds cannot be compared the pull is parted at this share of its rise."""
FALLEN_M, TURNED_M, RESTING_MPS = 0.01, 0.004, 0.02
LEAST_RECOVERY_M = 0.05
RESTING_S, STANDING_M = 0.5, 0.01
PLATEAU_S, TOP_PLATEAU_S, LEVEL_M = 0.08, 0.2, 0.0015
"""A bar that is held longer than this came to that place when it was first there within a level. All
these are house defaults, chosen on simulated and filmed lifts."""
FALLS_ON_MPS = 0.25
"""A bar that still falls so fast in the last picture has not been received yet."""
LOWERED_M = 0.06
"""A bar that comes down by so much before a pull from the hang is lowered into it."""
PAUSE_S, PAUSED_M = 0.15, 0.004
"""A bar that rises by no more than this in that time has paused."""
REBOUND_S = 0.4
FASTEST_LOWERING_MPS = -1.5
"""A rise within 0.4 s of a faster fall than this is a rebound, not a lift."""
BLUNT_LOWEST_S, BLUNT_STAND_S = 0.03, 0.03
SMOOTHED_S = {
    "lift_off": 0.022,
    "power_position": 0.015,
    "peak_velocity": 0.013,
    "peak_height": 0.007,
    "catch": 0.012,
}
"""What smoothing and exposure add to the half frame by which an instant is off (160 lifelike films)."""
BLUNT_S = 0.045
"""Uncertainty of the first pull's end where velocity hardly falls after it."""
ENDED_SHARE, BEGUN_SHARE = 0.06, 0.35
"""Where speed hardly falls between them the first pull has ended where acceleration has fallen to this share of its
greatest, and the second has begun where it has come to this: 0.01 s off at the median of 76 lifelike films. Crest and
trough of speed are 0.02 s late and 0.05 s early, and where it never falls the least acceleration 0.14 s late and
0.08 s early."""
FLAT_SHARE = 0.15
"""Acceleration is as little as its least within this share of its range (house default)."""


@dataclass(frozen=True)
class Event:
    """One instant: its frame, its time in seconds from the first frame, how sure, and its source.

    `sigma_s` is the standard uncertainty of the time: half a frame spread evenly and what smoothing adds
    for a sharp event, more where the bar shows no clear turn.
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


def find_events(motion: BarMotion, derivative: Derivative, rise: Rise) -> dict[str, Event]:
    """The events of one lift by name; empty when its pull is not seen. Of a bar that still speeds up where the path
    ends only lift-off is told: its greatest speed, and the body's finish, may come after that.

    lift_off : the last frame before the pull that is still at its lowest
    first_pull_end : the crest of upward velocity; where that hardly falls, before it (or the least
        acceleration between the pulls) where the first pull's acceleration has ended
    power_position : after the trough (or least acceleration) where the second pull's acceleration begins
    peak_velocity, peak_height, lowest : as they say; `lowest` is the end of the way down
    stand : the bar has come to rest, high, after a lift that was caught
    catch : the fastest fall between peak height and lowest, after which the lifter slows the bar
    """
    known = np.isfinite(motion.vy_mps)
    v = np.where(known, motion.vy_mps, 0.0)
    peak_v = _second_pull(v, known, rise)
    if peak_v is None:
        return {}
    speeds_up = _still_speeds_up(v, known, peak_v, rise)
    frames = {} if speeds_up else {"peak_velocity": peak_v}
    sigmas = blunt_events(motion)
    lift_off = _lift_off(motion, v, _known_since(known, peak_v), peak_v, derivative, rise)
    if lift_off is not None and lift_off < peak_v:
        frames["lift_off"] = lift_off
    if "lift_off" in frames and not speeds_up:
        split = _split_pull(motion, frames["lift_off"], peak_v)
        first_end, second_begin, sigmas["first_pull_end"] = split
        if first_end == second_begin:
            sigmas["power_position"] = sigmas["first_pull_end"]
        frames |= {"first_pull_end": first_end, "power_position": second_begin}
    peak_h = _top(motion, peak_v, rise, presses=derivative.receive == "muscle")
    if peak_h is not None:
        frames["peak_height"] = peak_h
        frames |= _after_the_top(motion, v, known, peak_h, derivative.has_catch)
    return {
        name: Event(
            name,
            int(frames[name]),
            float(motion.t_s[frames[name]]),
            max(sigmas.get(name, 0.0), _sharp_s(motion, name, frames[name])),
        )
        for name in EVENT_NAMES
        if name in frames
    }


def _sharp_s(motion: BarMotion, name: str, frame: int) -> float:
    """Uncertainty of an instant that the bar shows plainly, s."""
    half = motion.apart_s(frame, frame) / np.sqrt(12)
    return float(np.hypot(half, SMOOTHED_S.get(name, 0.0)))


def _after_the_top(
    motion: BarMotion, v: Array, known: NDArray[np.bool_], peak_h: int, caught: bool
) -> dict[str, int]:
    """The frames of the way down, the catch and the stand, as far as they are seen."""
    lowest = _way_down(motion, v, peak_h, known)
    if lowest is None:
        return {}
    lowest = first_so_low(motion, peak_h, lowest)
    if not caught:
        return {"lowest": lowest}
    frames = {"catch": peak_h + int(np.argmin(v[peak_h : lowest + 1])), "lowest": lowest}
    stand = stand_after(motion, lowest)
    return frames if stand is None else {**frames, "stand": stand}


def blunt_events(motion: BarMotion) -> dict[str, float]:
    """Uncertainties (s) of the instants at which the bar comes to rest: it does so gradually."""
    return {
        "lowest": float(np.hypot(motion.frame_s, BLUNT_LOWEST_S)),
        "stand": float(np.hypot(motion.frame_s, BLUNT_STAND_S)),
    }


def lifting_crests(v: Array, frame_s: float) -> list[int]:
    """Frames of the crests of upward velocity (`v`, shape (frames,), m/s) that lift the bar; rebounds after
    a fast fall are left out."""
    crests = np.flatnonzero((v[1:-1] > v[:-2]) & (v[1:-1] >= v[2:])) + 1
    before = max(round(REBOUND_S / frame_s), 1)
    return [
        int(k)
        for k in crests
        if v[k] >= 0.4 and v[max(k - before, 0) : k].min(initial=0.0) > FASTEST_LOWERING_MPS
    ]


def _known_since(known: NDArray[np.bool_], frame: int) -> int:
    unknown = np.flatnonzero(~known[: frame + 1])
    return int(unknown[-1]) + 1 if len(unknown) else 0


def _second_pull(v: Array, known: NDArray[np.bool_], rise: Rise) -> int | None:
    """The last crest of velocity in a rise that is nearly as fast as its fastest: a rushed first pull
    may be faster than the second."""
    part = np.where(known, v, -np.inf)[rise.low : rise.high + 1]
    if len(part) < 2 or not np.isfinite(part).any() or np.max(part) <= 0:
        return None
    crests = np.flatnonzero((part[1:-1] > part[:-2]) & (part[1:-1] >= part[2:])) + 1
    fast = crests[part[crests] >= NEARLY_AS_FAST * np.max(part)]
    return rise.low + (int(fast[-1]) if len(fast) else int(np.argmax(part)))


def _still_speeds_up(v: Array, known: NDArray[np.bool_], peak_v: int, rise: Rise) -> bool:
    """Whether the path ends in a rise that has no crest yet, or is speeding up again after it."""
    last = rise.low + int(np.flatnonzero(known[rise.low : rise.high + 1])[-1])
    slowest = float(v[peak_v : last + 1].min(initial=np.inf))
    again = v[last] - slowest > SPEEDS_UP * v[peak_v]
    return not rise.ended and (last - peak_v <= 1 or bool(again))


def _top(motion: BarMotion, peak_v: int, rise: Rise, presses: bool) -> int | None:
    """The highest point; where the bar is held there, the first frame as high within the noise.

    A lift that is received high hardly falls: the bar pauses, and then goes up with the lifter who
    stands. So the top is looked for until the first pause, unless the bar is pressed on from it.
    """
    high = rise.high if presses else _first_pause(motion, peak_v, rise.high)
    if high == rise.high and not rise.ended:
        return None
    y = motion.raw_y_m[peak_v : high + 1]
    margin = max(LEVEL_M, 2 * motion.position_sigma_m)
    first = peak_v + int(np.flatnonzero(y >= np.nanmax(y) - margin)[0])
    top = peak_v + int(np.nanargmax(y))
    return first if motion.t_s[top] - motion.t_s[first] > TOP_PLATEAU_S else top


def _first_pause(motion: BarMotion, peak_v: int, high: int) -> int:
    """The end of the first pause in a rise after its fastest part; its highest point without one."""
    y, t_s = motion.raw_y_m, motion.t_s
    for frame in range(peak_v + 1, high):
        end = int(np.searchsorted(t_s, t_s[frame] + PAUSE_S))
        if end >= high:
            break
        if float(np.nanmax(y[frame : end + 1])) - y[frame] < PAUSED_M + motion.position_sigma_m:
            return end
    return high


def _lift_off(
    motion: BarMotion, v: Array, begin: int, peak_v: int, derivative: Derivative, rise: Rise
) -> int | None:
    """Where sustained upward motion starts; None if that was not seen (the bar rises already).

    It is the last frame whose unsmoothed height is still that of the bar at rest (smoothing would
    spread a sharp start), within 2 mm, its noise, and a share of the rise. From the hang, rest is
    the lowest place since the bar was last lowered (it may have been lifted off the floor before);
    from the floor or blocks it is where the bar lies before the rise.
    """
    unseen = max(UNSEEN_START_MPS, UNSEEN_SHARE * v[peak_v])
    if not rise.begun or peak_v - begin < 2 or v[begin] > unseen:
        return None
    noise = max(LEAST_LIFTED_M, 2.5 * motion.position_sigma_m)
    if derivative.support == "hang":
        begin = _lowered_from(motion.raw_y_m, begin, peak_v)
        near = motion.raw_y_m[begin:peak_v]
        margin = max(noise, HANG_SHARE * rise.rise_m)
        down = np.flatnonzero(near <= _lowest(near) + margin)
        return begin + int(down[-1]) if len(down) else begin
    if derivative.support != "floor":
        begin = max(begin, min(rise.low, peak_v - 1))
    return _last_at_rest(motion, begin, peak_v, rise, max(noise, LIFTED_SHARE * rise.rise_m))


def _lowest(y_m: Array) -> float:
    """The least height that two pictures beside one another show: a single one may be off."""
    known = y_m[np.isfinite(y_m)]
    return float(np.min(np.maximum(known[1:], known[:-1]))) if len(known) > 1 else np.inf


def _lowered_from(y_m: Array, begin: int, peak_v: int) -> int:
    """The last frame before the pull from which the bar is lowered into the hang; `begin` without one."""
    part = np.where(np.isfinite(y_m[begin:peak_v]), y_m[begin:peak_v], np.inf)
    lowest_after = np.minimum.accumulate(part[::-1])[::-1]
    tops = np.flatnonzero(np.isfinite(part) & (part - lowest_after >= LOWERED_M))
    return begin + (int(tops[-1]) if len(tops) else 0)


def _last_at_rest(
    motion: BarMotion, begin: int, peak_v: int, rise: Rise, margin: float
) -> int | None:
    """The last frame before the peak in which the bar rests.

    The place of rest may wander (a camera in the hand), so rest is also what has not risen lately.
    """
    raw, t_s = motion.raw_y_m, motion.t_s
    floor = float(np.nanmin(motion.y_m[begin : peak_v + 1]))
    near = raw[begin : peak_v + 1]
    near = near[near <= floor + NEAR_FLOOR_M]
    rest = max(float(np.median(near)) if len(near) else floor, float(raw[rise.low]))
    down = np.flatnonzero(raw[begin:peak_v] <= rest + margin)
    if not len(down):
        return None
    last = begin + int(down[-1])
    for frame in range(last + 1, peak_v):
        if raw[frame] > rest + WANDER_SHARE * rise.rise_m:
            break
        lately = (t_s >= t_s[frame] - LATELY_S) & (t_s <= t_s[frame])
        if raw[frame] <= np.nanmedian(raw[lately]) + margin:
            last = frame
    return _from_the_dip(raw, t_s, begin, last, rest, margin)


def _from_the_dip(raw: Array, t_s: Array, begin: int, last: int, rest: float, margin: float) -> int:
    """A bar does not sink into the floor: where a path dips below its rest just before it rises, the
    plate was followed a little wrongly while it stood, and the rise counts from the dip."""
    lately = np.flatnonzero(t_s[begin : last + 1] >= t_s[last] - LATELY_S) + begin
    dip = int(lately[np.nanargmin(raw[lately])])
    steps = np.diff(raw[dip : last + 1])
    steadily = len(steps) >= DIP_STEPS and bool((steps >= -0.25 * margin).all())
    if not (steadily and raw[dip] < rest - margin):
        return last
    return dip + int(np.flatnonzero(raw[dip : last + 1] <= raw[dip] + margin)[-1])


def _split_pull(motion: BarMotion, lift_off: int, peak_v: int) -> tuple[int, int, float]:
    """Where the first pull ends (a crest of velocity) and the second begins, and how unsure (s) the first of
    these is: little where velocity falls plainly between them; much where it never falls, and one instant of
    a long stretch with as little acceleration stands for it, or where speeds cannot be compared, and it
    stands for both."""
    blunt_s = max(motion.frame_s, BLUNT_S)
    if not motion.even:
        # Speeds cannot be compared: a place by height, which the body's own event replaces.
        rise = motion.raw_y_m[lift_off : peak_v + 1] - motion.raw_y_m[lift_off]
        at = lift_off + int(np.flatnonzero(rise >= SPLIT_HEIGHT * np.nanmax(rise))[0])
        return at, at, blunt_s
    frames = np.arange(lift_off, peak_v + 1)
    if motion.held is not None:  # a picture that is shown again says nothing of its own moment
        frames = frames[~motion.held[frames]]
    if len(frames) < 5:
        return lift_off, lift_off, blunt_s
    v = motion.vy_mps[frames]
    crests = np.flatnonzero((v[1:-1] > v[:-2]) & (v[1:-1] >= v[2:])) + 1
    sigma = float(np.nanmedian(motion.vy_sigma_mps[frames]))
    deepest: tuple[float, int, int] | None = None
    for crest in crests:
        trough = int(crest) + int(np.argmin(v[crest:]))
        fall = float(v[crest] - v[trough])
        if fall > max(0.03, sigma) and (deepest is None or fall > deepest[0]):
            deepest = (fall, int(crest), trough)
    if deepest is not None:
        second = _second_begins(motion, frames[deepest[2] :])
        if deepest[0] > max(0.15, 3 * sigma):
            return int(frames[deepest[1]]), second, motion.frame_s
        return _first_ends(motion, frames[: deepest[1] + 1]), second, blunt_s
    rise = motion.y_m[frames] - motion.y_m[lift_off]
    middle = np.flatnonzero((rise > 0.2 * rise[-1]) & (rise < 0.8 * rise[-1]))
    if not len(middle):
        return lift_off, lift_off, blunt_s
    a = motion.ay_mps2[frames]
    split = int(frames[middle[np.argmin(a[middle])]])
    as_little = a[middle] <= a[middle].min() + FLAT_SHARE * float(a.max() - a[middle].min())
    stretch_s = float(np.ptp(motion.t_s[frames[middle[as_little]]]))
    first = _first_ends(motion, frames[frames <= split])
    return first, _second_begins(motion, frames[frames >= split]), max(blunt_s, stretch_s / 2)


def _first_ends(motion: BarMotion, frames: NDArray[np.intp]) -> int:
    """Where the first pull ends, of the frames from lift-off to the greatest speed before it falls (or to the
    least acceleration): acceleration has fallen to its share."""
    a = motion.ay_mps2[frames]
    top = int(np.argmax(a))
    ended = np.flatnonzero(a[top:] <= ENDED_SHARE * a[top])
    return int(frames[top + ended[0] if len(ended) else -1])


def _second_begins(motion: BarMotion, frames: NDArray[np.intp]) -> int:
    """Where the second pull begins, of the frames from the least speed to the peak: the one in which
    acceleration has come nearest to its share. Where speed hardly falls before, smoothing carries its rise
    back, and it is least 0.05 s too early."""
    a = motion.ay_mps2[frames]
    top = int(np.argmax(a))
    begun = int(np.argmax(a[: top + 1] >= BEGUN_SHARE * a[top]))
    before = max(begun - 1, 0)
    nearer = min((before, begun), key=lambda k: abs(a[k] - BEGUN_SHARE * a[top]))
    return int(frames[nearer])


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
    if motion.held is not None and motion.held[peak_h + 1 : low + 1].any():
        # A frozen picture lasts no time in the lift's own clock: the hold is told by height alone.
        raw = motion.raw_y_m[peak_h : low + 1]
        return peak_h + int(np.argmax(raw <= np.nanmin(raw) + margin))
    first = peak_h + int(np.argmax(motion.y_m[peak_h : low + 1] <= motion.y_m[low] + margin))
    return first if motion.t_s[low] - motion.t_s[first] > PLATEAU_S else low


def _way_down(motion: BarMotion, v: Array, peak_h: int, known: NDArray[np.bool_]) -> int | None:
    """The end of the first sustained fall after the peak (at least a centimetre); None where the film ends
    before it."""
    y = motion.y_m
    back = max(TURNED_M, 2 * motion.position_sigma_m)
    low = peak_h
    for frame in range(peak_h + 1, len(v)):
        if not known[frame]:
            return None
        if y[frame] < y[low]:
            low = frame
        if y[peak_h] - y[low] <= FALLEN_M:
            continue
        if y[frame] - y[low] > back or (v[frame] > RESTING_MPS and frame > low):
            return low
        if abs(v[frame]) <= RESTING_MPS:
            return frame
    falls_on = low == len(v) - 1 and v[low] < -FALLS_ON_MPS
    return low if y[peak_h] - y[low] > FALLEN_M and not falls_on else None
