"""Whether the bar is held still on its way up: a pause, as in teaching or in a demonstration."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.events import Event

__all__ = ["Pause", "pause_on_the_way"]

LEAST_S, LEAST_SHARE, STILL_M, OFF_FLOOR_M = 0.25, 0.15, 0.012, 0.03
"""A bar that stays within so much height for so long is held (a bar that is slowed even by a deep
re-bend passes it in under half the time), if that is such a share of the pull: in slow motion all lasts
long, and nothing may tell that it is slow; what it does lower down is still lift-off (house default)."""


@dataclass(frozen=True)
class Pause:
    """For how long the bar is held, and how high above lift-off."""

    seconds: float
    height_m: float


def pause_on_the_way(motion: BarMotion, events: dict[str, Event]) -> Pause | None:
    """The longest pause between lift-off and the greatest speed; None without one, and where times or
    these events are not known."""
    if not motion.even or not {"lift_off", "peak_velocity"} <= set(events):
        return None
    first, last = events["lift_off"].frame, events["peak_velocity"].frame
    frames = np.arange(first, last + 1)
    rise = motion.raw_y_m[frames] - motion.raw_y_m[first]
    frames = frames[np.isfinite(rise) & (rise > OFF_FLOOR_M)]
    begin, end = _longest_still(
        motion.raw_y_m[frames], motion.t_s[frames], STILL_M + 2 * motion.position_sigma_m
    )
    seconds = float(motion.t_s[frames[end]] - motion.t_s[frames[begin]]) if len(frames) else 0.0
    whole = float(motion.t_s[last] - motion.t_s[first])
    if seconds < max(LEAST_S, LEAST_SHARE * whole):
        return None
    height = float(np.median(motion.raw_y_m[frames[begin : end + 1]]) - motion.raw_y_m[first])
    return Pause(seconds, height)


def _longest_still(
    y_m: NDArray[np.float64], t_s: NDArray[np.float64], still_m: float
) -> tuple[int, int]:
    """The first and last index of the longest stretch (in `t_s`) whose heights differ by so little; shapes
    (n,)."""
    best, begin = (0, 0), 0
    for end in range(len(y_m)):
        while np.ptp(y_m[begin : end + 1]) > still_m:
            begin += 1
        if t_s[end] - t_s[begin] > t_s[best[1]] - t_s[best[0]]:
            best = begin, end
    return best
