"""Whether a film's times are the lift's times, and how to set them right.

A film can be slower than the lift in two ways: filmed at a high rate and saved at a low one, or
slowed afterwards by showing every picture several times. In both, lengths and ratios of speeds are
right and speeds are not. Told at how many pictures a second it was filmed, the clock is set right:
the pictures that differ are that far apart.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.measures import Measure
from keen_kettle.core.track import BarTrack, State

__all__ = ["TRUST_REPEATS", "Clock", "film_clock", "without_times"]

TRUST_REPEATS = 0.2
"""Above this share of repeated pictures a film's times are not believed."""
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
    span = float(track.t_s[-1] - track.t_s[0])
    distinct = int(np.sum(track.state != State.REPEATED))
    rate = max(distinct - 1, 1) / max(span, 1e-9)
    if capture_fps is not None:
        slowed = capture_fps / rate
        return Clock(track.t_s / slowed, slowed, True)
    if track.share(State.REPEATED) > TRUST_REPEATS:
        usual = 1.0 / float(np.median(np.diff(track.t_s)))
        slowed = usual / rate
        return Clock(track.t_s / slowed, slowed, False)
    return Clock(track.t_s, 1.0, True)


def without_times(measures: dict[str, Measure], why: str) -> dict[str, Measure]:
    """The measures with those blanked that hang on true times (speed, time, power, force)."""
    return {
        name: Measure(one.id, None, None, one.unit, None, why)
        if one.unit in TIMED_UNITS and one.value is not None
        else one
        for name, one in measures.items()
    }
