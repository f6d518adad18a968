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
    "votes_at",
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
    # With c, s of a ray's angle, an ellipse is a²t² - 2bt + k = 0 along it, where b is linear and a² and
    # the discriminant are quadratic in c and s: small products of matrices instead of angles by angles.
    dx, dy, high, narrow, tilt = outlines.T
    c, s = np.cos(tilt), np.sin(tilt)
    along, across = np.stack([c, s]) / narrow, np.stack([-s, c])
    ox, oy = (dx * c + dy * s) / narrow, dy * c - dx * s
    linear = along * ox + across * oy
    square = _products(along) + _products(across)
    inner = _products(linear) - (ox**2 + oy**2 - high**2) * square
    ray = np.stack([np.cos(angles), np.sin(angles)])
    twice = np.stack([ray[0] ** 2, ray[0] * ray[1], ray[1] ** 2])
    root = inner.T @ twice
    np.sqrt(np.maximum(root, 0.0, out=root), out=root)
    root += linear.T @ ray
    root /= square.T @ twice
    return np.asarray(root)


def _products(pair: Array) -> Array:
    """What c², cs and s² are multiplied with in (pc + qs)², for rows p and q."""
    p, q = pair
    return np.stack([p * p, 2 * p * q, q * q])


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
    tries = tries.round(5)
    tries = tries[np.lexsort(tries.T[::-1])]
    return np.asarray(tries[np.append(True, (tries[1:] != tries[:-1]).any(axis=1))])


def _score(
    tries: Array, votes: Array, shares: Array, angles: Array, rays: NDArray[np.intp]
) -> Array:
    """Mean vote over the visible rays, less for what lies aside of the mark or is of another size."""
    (voted,) = votes_at(ellipse_along(angles[rays], tries), shares, votes[rays])
    got = voted.mean(axis=1)
    dx, dy, high = tries[:, 0], tries[:, 1], tries[:, 2]
    return np.asarray(got * np.exp(-9.0 * (dx**2 + dy**2) - 30.0 * (high - 1) ** 2))


def votes_at(at: Array, shares: Array, *votes: Array) -> list[Array]:
    """What each of several tables of votes (rays, samples) says at distances `at` (outlines, rays); nothing
    where they lie outside of `shares` (samples,). Destroys `at`."""
    gap = shares[1] - shares[0]
    at -= shares[0] - gap
    at /= gap
    column = np.clip(np.rint(at, out=at), 0, len(shares) + 1, out=at).astype(np.intp)
    column += np.arange(at.shape[1]) * (len(shares) + 2)
    around = [np.pad(one, ((0, 0), (1, 1))) for one in votes]
    return [one.ravel().take(column) for one in around]
