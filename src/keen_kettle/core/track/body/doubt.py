"""How uncertain each point of the body is: as seen, as carried on from where it was, as others tell it."""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.evidence import COUNT, ROW_OF, Evidence
from keen_kettle.core.track.body.landmarks import CARRIED, LANDMARKS, PointState

__all__ = ["doubt_as_before", "doubt_of"]

Array = NDArray[np.float64]

STATED_SIGMA = dict(
    zip(LANDMARKS, (0.030, 0.028, 0.016, 0.028, 0.026, 0.026, 0.026, 0.030, 0.028), strict=True)
)
"""How far off a solved point is that was seen, each way (68 % of hand-marked points of real films)."""
GUESS_GROWTH, GROWS_S = 4.0, 0.25
"""A point that is not seen gets so much more uncertain, in so long."""
CARRIED_SLOWER = 0.25
"""Where patches of the picture tell how it moves, only as fast as this."""
FOLDED, FOLDED_DOUBT = 0.28, 3.0
HAND = 0.006


def doubt_of(e: Evidence, state: NDArray[np.uint8], points: Array, told: Array) -> Array:
    """Standard uncertainty (n, 9), bodies: more, the longer a point has not been seen, unless others tell
    it, and for the elbow of a folded arm (in the rack it is seldom told from forearm and plate).

    Parameters
    ----------
    state : shape (n, 9), `PointState` codes
    points : shape (n, 9, 2), the solved points
    told : shape (n, 9), how uncertain a point is by what the rest of the body tells of it
    """
    usual = _usual()
    sigma = np.tile(usual, (len(state), 1))
    unseen_s = _clocks(e)
    for k in range(COUNT):
        firm = np.flatnonzero(
            (state[:, k] == PointState.MEASURED) | (state[:, k] == PointState.BY_HAND)
        )
        if not len(firm):
            sigma[:, k] *= GUESS_GROWTH
            continue
        gap = np.abs(unseen_s[:, k, None] - unseen_s[firm, k]).min(axis=1)
        guessed = state[:, k] != PointState.MEASURED
        grown = usual[k] * (1 + (GUESS_GROWTH - 1) * np.minimum(gap / GROWS_S, 1))
        least = np.maximum(told[:, k], usual[k])
        sigma[:, k] = np.where(guessed, np.minimum(grown, least), usual[k])
    wrist, shoulder, elbow = (ROW_OF[name] for name in ("wrist", "shoulder", "elbow"))
    folded = np.hypot(*(points[:, wrist] - points[:, shoulder]).T) < FOLDED
    sigma[folded, elbow] *= FOLDED_DOUBT
    by_hand = state == PointState.BY_HAND
    sigma[by_hand] = np.minimum(sigma, HAND)[by_hand]
    return sigma


def doubt_as_before(state: NDArray[np.uint8], before: Array) -> Array:
    """That of an answer for nearly the same, (n, 9): as it was before, but for what the hand has set."""
    sigma = np.where(np.isfinite(before), before, GUESS_GROWTH * _usual())
    return np.where(state == PointState.BY_HAND, np.minimum(sigma, HAND), sigma)


def _usual() -> Array:
    return np.array([STATED_SIGMA[name] for name in LANDMARKS])


def _clocks(e: Evidence) -> Array:
    """Time for each point (n, 9), s, that runs slower while a patch beside it tells how it moves."""
    steps = np.repeat(np.diff(e.t_s)[:, None], COUNT, axis=1)
    if e.moves is not None:
        known = np.isfinite(e.moves[..., 0])
        for segment, pair in enumerate(CARRIED):
            for half, name in enumerate(pair):
                steps[known[:, segment, half], ROW_OF[name]] *= CARRIED_SLOWER
    steps = np.maximum(steps, CARRIED_SLOWER * np.diff(e.t_s)[:, None])
    return np.concatenate([np.zeros((1, COUNT)), np.cumsum(steps, axis=0)])
