"""Finds the circle or ellipse that most rays have an edge on, coarse first, then ever closer."""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.rays import blurred

__all__ = [
    "FEWEST_HIGH",
    "LOW_DOWN",
    "around_outlines",
    "ellipse_along",
    "outline_of",
    "votes_along",
]

Array = NDArray[np.float64]

KEPT_TRIES = 8
STEPS = (0.04, 0.02, 0.01, 0.005)
"""The search's grids, as shares of the radius."""
LOW_DOWN, FEWEST_HIGH, MUCH_BETTER, AS_GOOD = 0.2, 40, 1.08, 0.95
"""Rays that point down so steeply (sine) may end at a shadow on the floor; the others, if there are so
many, are asked by themselves, and believed if they agree so much better (or as well, on a circle where
all together need an ellipse: plate and shadow make one)."""
LARGER_SHARE = 0.88
OUTER_SHARE, ELLIPSE_MARGIN, PARTLY_MARGIN = 0.55, 1.08, 1.16


def ellipse_along(angles: Array, outlines: Array) -> Array:
    """Distance along each ray from the origin to ellipses, shape (outlines, rays).

    An outline is (dx, dy, half height, half width as a share of it, tilt in radians), lengths in
    shares of the radius.
    """
    dx, dy, high, narrow, tilt = (outlines[:, k, None] for k in range(5))
    turned = angles[None] - tilt
    c, s = np.cos(turned) / narrow, np.sin(turned)
    ox = (dx * np.cos(tilt) + dy * np.sin(tilt)) / narrow
    oy = dy * np.cos(tilt) - dx * np.sin(tilt)
    a, b = c**2 + s**2, c * ox + s * oy
    root = np.sqrt(np.maximum(b**2 - a * (ox**2 + oy**2 - high**2), 0.0))
    return np.asarray((b + root) / a)


CIRCLES = (np.linspace(-0.12, 0.12, 7), np.arange(0.82, 1.19, 0.03), np.ones(1), np.zeros(1))
ELLIPSES = (
    np.linspace(-0.12, 0.12, 6),
    np.arange(0.84, 1.17, 0.04),
    np.array([0.94, 0.87, 0.8]),
    np.radians([-24.0, -12.0, 0.0, 12.0, 24.0]),
)
"""Where the search begins: shifts (both ways), half heights, narrowness, tilts."""


def outline_of(
    ridges: Array, shares: Array, angles: Array, inside: NDArray[np.bool_], r: float
) -> tuple[Array, float]:
    """The circle or ellipse that most rays have an edge on, and the share of rays.

    `ridges` (rays, samples), `shares` (samples,) of the radius `r` in pixels, `angles` (rays,) radians,
    `inside` (rays,): within the picture.

    Below a plate that rests on the floor its shadow has the stronger edge, and would drag the outline
    down: where the rays that do not point down agree much better on another outline, that one is
    the rim, and it is they that count.
    """
    whole = _search(ridges, shares, angles, np.flatnonzero(inside), r)
    high = inside & (np.sin(angles) <= LOW_DOWN)
    if high.sum() < FEWEST_HIGH or high.sum() == inside.sum():
        return whole
    upper = _search(ridges, shares, angles, np.flatnonzero(high), r, PARTLY_MARGIN)
    votes = _final_votes(ridges, shares, r)
    both = np.stack([upper[0], whole[0]])
    better = _score(both, votes, shares, angles, np.flatnonzero(high))
    rounder = upper[0][3] == 1.0 > whole[0][3]
    return upper if better[0] > (AS_GOOD if rounder else MUCH_BETTER) * better[1] else whole


def _search(
    ridges: Array,
    shares: Array,
    angles: Array,
    rays: NDArray[np.intp],
    r: float,
    margin: float = ELLIPSE_MARGIN,
) -> tuple[Array, float]:
    """The outline on which most of these rays have an edge, and the share that has one.

    Votes are blurred as wide as the grid's steps, coarse first, and the best few are followed down,
    so that a rim far from the mark is not missed between two steps. A circle is believed unless an
    ellipse has clearly more votes (a narrow ellipse can always pick up a few stray edges). Of
    concentric outlines with nearly as many votes the largest is the rim: rings lie inside it.
    """
    gap = float(shares[1] - shares[0])
    best: list[tuple[Array, float]] = []
    for shifts, highs, narrows, tilts in (CIRCLES, ELLIPSES):
        whole = np.meshgrid(shifts, shifts, highs, narrows, tilts, indexing="ij")
        tries = np.column_stack([axis.ravel() for axis in whole])
        fewer = rays[::2]
        for step in STEPS:
            votes = votes_along(ridges, 0.45 * step / gap, 0.7 / (gap * r))
            score = _score(tries, votes, shares, angles, fewer)
            kept = tries[np.argsort(score)[::-1][:KEPT_TRIES]]
            tries = around_outlines(kept, step / 2, len(narrows) > 1)
            fewer = rays
        score = _score(tries, votes, shares, angles, rays)
        near_best = np.flatnonzero(score >= LARGER_SHARE * score.max(initial=0.0))
        largest = tries[near_best[np.argmax(tries[near_best, 2])]]
        best.append(_outermost(largest, votes, shares, angles, rays))
    circle, ellipse = best
    return ellipse if ellipse[1] > margin * circle[1] else circle


def _final_votes(ridges: Array, shares: Array, r: float) -> Array:
    """Votes as the last and closest step of the search reads them."""
    gap = float(shares[1] - shares[0])
    return votes_along(ridges, 0.45 * STEPS[-1] / gap, 0.7 / (gap * r))


def _outermost(
    top: Array, votes: Array, shares: Array, angles: Array, rays: NDArray[np.intp]
) -> tuple[Array, float]:
    """The largest of the concentric outlines that have nearly as many votes as the best."""
    sizes = np.tile(top, (161, 1))
    sizes[:, 2] *= np.linspace(0.9, 1.3, 161)
    score = _score(sizes, votes, shares, angles, rays)
    peak = np.flatnonzero((score[1:-1] >= score[:-2]) & (score[1:-1] > score[2:])) + 1
    good = peak[score[peak] >= OUTER_SHARE * score[peak].max(initial=0.0)]
    chosen = int(good[-1]) if len(good) else int(score.argmax())
    return sizes[chosen], float(score[chosen])


def votes_along(ridges: Array, sigma: float, narrowest: float) -> Array:
    """Ridges (rays, samples) blurred along their rays to peaks of about 1."""
    wide = max(sigma, narrowest)
    return np.minimum(blurred(ridges, wide) * wide * 2.5066, 1.0)


def around_outlines(kept: Array, step: float, ellipse: bool) -> Array:
    """Every outline (k, n), a row each, with its neighbours one step away in each direction."""
    steps = np.array(list(np.ndindex((3, 3, 3, 3, 3) if ellipse else (3, 3, 3, 1, 1)))) - 1.0
    if not ellipse:
        steps[:, 3:] = 0.0
    steps *= step * np.array([1.0, 1.0, 1.0, 1.0, 4.0])
    tries = (kept[:, None, :] + steps[None]).reshape(-1, 5)
    tries[:, 3] = np.clip(tries[:, 3], 0.7, 1.0)
    return np.unique(tries.round(5), axis=0)


def _score(
    tries: Array, votes: Array, shares: Array, angles: Array, rays: NDArray[np.intp]
) -> Array:
    """Mean vote over the visible rays, less for what lies aside of the mark or is of another size."""
    at = ellipse_along(angles[rays], tries)
    column = np.rint((at - shares[0]) / (shares[1] - shares[0])).astype(np.intp)
    on = (column >= 0) & (column < len(shares))
    got = np.where(on, votes[rays[None], np.clip(column, 0, len(shares) - 1)], 0.0).mean(axis=1)
    dx, dy, high = tries[:, 0], tries[:, 1], tries[:, 2]
    return np.asarray(got * np.exp(-9.0 * (dx**2 + dy**2) - 30.0 * (high - 1) ** 2))
