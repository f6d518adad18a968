"""Whether a film's times are the lift's times, and how to set them right.

A film can be slower than the lift in two ways: filmed at a high rate and saved at a low one, or
slowed afterwards by showing every picture several times. In both, lengths and ratios of speeds are
right and speeds are not. Told at how many pictures a second it was filmed, the clock is set right:
the pictures that differ are that far apart.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.measures import Measure
from keen_kettle.core.track import BarTrack, State

__all__ = [
    "IN_DIAMETERS",
    "TRUST_REPEATS",
    "Clock",
    "film_clock",
    "in_diameters",
    "repeated_share",
    "without_times",
]

TRUST_REPEATS = 0.2
"""Above this share of repeated pictures a film's times are not believed."""
MOVING_PX, WINDOW = 1.5, 6
"""The bar moves plainly when it makes so many pixels a frame over so many frames both ways."""
SUPPOSED_M = 0.45
IN_DIAMETERS = "diameters"
"""The unit of lengths where there is no scale."""
TIMED_UNITS = ("m/s", "s", "W", "N")


@dataclass(frozen=True)
class Clock:
    """Times for every frame in seconds, the slow motion that was taken out, and whether to trust it.

    `slowed` is how many times slower than life the film runs (1: as filmed).
    """

    t_s: NDArray[np.float64]
    slowed: float
    trusted: bool


def film_clock(track: BarTrack, capture_fps: float | None) -> Clock:
    """The lift's own times.

    Parameters
    ----------
    capture_fps : pictures a second when it was filmed; None takes the film's times, unless it
        repeats its pictures: then it is taken as slowed by them, and not trusted
    """
    usual = 1.0 / float(np.median(np.diff(track.t_s)))
    repeated = repeated_share(track)
    rate = usual * (1.0 - repeated)
    if capture_fps is not None:
        slowed = capture_fps / rate
        return Clock(track.t_s / slowed, slowed, True)
    if repeated > TRUST_REPEATS:
        slowed = usual / rate
        return Clock(track.t_s / slowed, slowed, False)
    return Clock(track.t_s, 1.0, True)


def repeated_share(track: BarTrack) -> float:
    """Share of repeated pictures while the bar moves (while it rests, all pictures are alike)."""
    seen = np.flatnonzero(track.seen)
    if len(seen) < 2:
        return 0.0
    frames = np.arange(len(track))
    path = np.column_stack([np.interp(frames, seen, v[seen]) for v in (track.x_px, track.y_px)])
    ahead, behind = np.minimum(frames + WINDOW, len(track) - 1), np.maximum(frames - WINDOW, 0)
    pace = np.hypot(*(path[ahead] - path[behind]).T) / np.maximum(ahead - behind, 1)
    moving = (pace > MOVING_PX) & (frames >= seen[0]) & (frames <= seen[-1])
    return float(np.mean(track.state[moving] == State.REPEATED)) if moving.any() else 0.0


def without_times(measures: dict[str, Measure], why: str) -> dict[str, Measure]:
    """The measures with those blanked that hang on true times (speed, time, power, force)."""
    return {
        name: Measure(one.id, None, None, one.unit, None, why)
        if one.unit in TIMED_UNITS and one.value is not None
        else one
        for name, one in measures.items()
    }


def in_diameters(measures: dict[str, Measure], why: str) -> dict[str, Measure]:
    """The measures of a clip without scale: lengths in plate diameters, what needs metres blank.

    They were reckoned with a plate of 450 mm, which drops out again.
    """
    return {name: _in_diameters(one, why) for name, one in measures.items()}


def _in_diameters(one: Measure, why: str) -> Measure:
    of_stature = one.id in ("peak_height_of_stature", "dip_depth_of_stature")
    if one.value is None or (one.unit in ("1", "s", "deg") and not of_stature):
        return one
    if one.unit != "m":
        return Measure(one.id, None, None, one.unit, None, why)
    sigma = one.sigma / SUPPOSED_M if one.sigma is not None else None
    return replace(one, value=one.value / SUPPOSED_M, sigma=sigma, unit=IN_DIAMETERS)
