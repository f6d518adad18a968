"""An arm from which the bar hangs bends one way only: its elbow goes to the back, never to the front.

Where plate and arm are before each other the model rather has the elbow in front, as in the rack, and no
single look tells the two apart. But how far an arm is bent is told by how near the hand is to the shoulder.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.evidence import COUNT, ROW_OF, Evidence, gripping

__all__ = ["elbows_back", "hanging_elbows"]

Array = NDArray[np.float64]

HANGS = 0.12
"""A bar so far below the shoulder (bodies) hangs; one in the rack or in turning over does not."""
LEAST_RISE = 0.15
"""A bar that is faster on its way up (bodies a second) is still pulled."""
PLAINLY_AHEAD = 0.03
FEW_LOOKS, STRAIGHTEST = 5, 90
"""The arm is as long as in the straightest tenth of the looks."""
BACK, BACK_SPREAD, LEAST_SPREAD = 0.6, 0.35, 0.03
"""Elbows go out as well as back: so much of the bend is seen from the side, more or less so much; bodies."""


def elbows_back(e: Evidence) -> Evidence:
    """The evidence with every elbow that is seen plainly in front of the line from shoulder to hand, while the bar
    hangs, on the other side of that line; it may be as far off as it was moved."""
    elbow = ROW_OF["elbow"]
    start, way, _, hangs = _hanging(e)
    ahead = e.front * np.column_stack([way[:, 1], -way[:, 0]])
    with np.errstate(invalid="ignore"):
        off = ((e.seen[:, elbow] - start) * ahead).sum(axis=1)
        astray = hangs & e.reread[:, elbow] & (off > np.maximum(e.spread[:, elbow], PLAINLY_AHEAD))
    seen, spread = e.seen.copy(), e.spread.copy()
    seen[astray, elbow] -= 2 * (off[:, None] * ahead)[astray]
    spread[astray, elbow] = np.hypot(spread[astray, elbow], off[astray])
    return replace(e, seen=seen, spread=spread)


def hanging_elbows(e: Evidence) -> tuple[Array, Array]:
    """Where elbows of arms that hang rather are, targets (n, 9, 2) and sigmas (n, 9), bodies: both halves of an
    arm are about as long, so the elbow is beside the middle between shoulder and hand, by as much as they are
    nearer to each other than in a straight arm. Infinite where the bar does not hang."""
    target = np.full((len(e.nodes), COUNT, 2), np.nan)
    sigma = np.full((len(e.nodes), COUNT), np.inf)
    start, way, far, hangs = _hanging(e)
    if hangs.sum() < FEW_LOOKS:
        return target, sigma
    half = float(np.percentile(far[hangs], STRAIGHTEST)) / 2
    bend = np.sqrt(np.maximum(half**2 - (far / 2) ** 2, 0.0))
    back = -e.front * np.column_stack([way[:, 1], -way[:, 0]])
    elbow = start + way * far[:, None] / 2 + back * (BACK * bend)[:, None]
    target[hangs, ROW_OF["elbow"]] = elbow[hangs]
    sigma[hangs, ROW_OF["elbow"]] = (LEAST_SPREAD + BACK_SPREAD * bend)[hangs]
    return target, sigma


def _hanging(e: Evidence) -> tuple[Array, Array, Array, NDArray[np.bool_]]:
    """The shoulder (n, 2), the way from it to the hand (n, 2) of length one, how far that is (n,), and in
    which looks (n,) the bar hangs, or is pulled up past the shoulder from there."""
    shoulder = ROW_OF["shoulder"]
    start = np.where(np.isfinite(e.hand[:, shoulder]), e.hand[:, shoulder], e.seen[:, shoulder])
    way = e.gripped - start
    far = np.hypot(*way.T)
    with np.errstate(invalid="ignore"):
        hangs = gripping(e) & (e.bar[:, 1] - start[:, 1] > HANGS)
        rises = np.gradient(e.bar[:, 1], e.t_s) < -LEAST_RISE if len(hangs) > 1 else hangs
    for look in np.flatnonzero(rises[1:]) + 1:
        hangs[look] |= hangs[look - 1]
    return start, way / np.maximum(far, 1e-9)[:, None], far, hangs
