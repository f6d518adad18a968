"""The time a lifter had from look to look, where a film drops pictures or shows nearly the same twice.

Messengers and editors drop pictures and stamp the rest evenly, as if nothing were missing. Then bar and
body leap from one picture to the next, and whoever takes the stamps for true calls the leap impossible and
smooths it away: the hip that has just straightened never does. The bar is followed far more exactly than
the body, and no lifter doubles its speed for one look and halves it again; so where it leaps or dwells,
so did the time.
"""

import numpy as np
from numpy.typing import NDArray

__all__ = ["own_time"]

Array = NDArray[np.float64]

LEAPS, DWELLS = 1.8, 0.4
"""A bar that is so many times as fast as in the looks beside has leapt; one that is so much slower than in
both, which go the same way, has dwelt."""
LEAST_WAY = 0.02
"""Less than this is the tracker's own unrest (bodies)."""
LONGEST = 10.0
"""At most so many times longer or shorter."""


def own_time(t_s: Array, bar: Array) -> Array:
    """The looks' times, those steps lengthened or shortened in which the bar's speed leaps or breaks off.

    Parameters
    ----------
    t_s : shape (n,), seconds, increasing
    bar : shape (n, 2), bodies, NaN where the bar is not known (there the steps stay)

    Returns
    -------
    shape (n,), seconds, increasing, from the same beginning
    """
    if len(t_s) < 4:
        return t_s
    took, ways = np.diff(t_s), np.diff(bar, axis=0)
    velocity = ways / took[:, None]
    speed, way = np.hypot(*velocity.T), np.hypot(*ways.T)
    dwells = _dwells(velocity, way)
    beside = _fastest_beside(np.where(dwells, np.nan, speed))
    with np.errstate(invalid="ignore", divide="ignore"):
        leaps = (way > LEAST_WAY) & (speed > LEAPS * beside)
        share = np.where(leaps | dwells, speed / beside, 1.0)
    share = np.clip(np.where(np.isfinite(share), share, 1.0), 1 / LONGEST, LONGEST)
    return np.concatenate([t_s[:1], t_s[0] + np.cumsum(took * share)])


def _dwells(velocity: Array, way: Array) -> NDArray[np.bool_]:
    """In which steps the bar breaks off between two in which it goes on the same way."""
    speed = np.hypot(*velocity.T)
    before, after = velocity[:-2], velocity[2:]
    slower = np.minimum(speed[:-2], speed[2:])
    dwells = np.zeros(len(speed), bool)
    with np.errstate(invalid="ignore"):
        onward = (before * after).sum(axis=1) > 0.5 * speed[:-2] * speed[2:]
        far = np.minimum(way[:-2], way[2:]) > LEAST_WAY
        dwells[1:-1] = onward & far & (speed[1:-1] < DWELLS * slower)
    return dwells


def _fastest_beside(speed: Array) -> Array:
    """The larger of the speeds in the steps before and after; steps without one are passed over."""
    known = np.flatnonzero(np.isfinite(speed))
    steps = np.arange(len(speed))
    before = np.searchsorted(known, steps) - 1
    after = np.searchsorted(known, steps, side="right")
    there = np.append(speed[known], np.nan)
    return np.asarray(np.fmax(there[before], there[after]))
