"""Finds the circle or ellipse that most rays have an edge on, coarse first, then ever closer."""

from functools import lru_cache
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.rays import blurred

__all__ = [
    "FEWEST_HIGH",
    "LOW_DOWN",
    "ROUGHLY",
    "Expected",
    "Meant",
    "around_outlines",
    "ellipse_along",
    "outline_of",
    "votes_along",
    "votes_at",
]

Array = NDArray[np.float64]


class Meant(NamedTuple):
    """How far the wanted outline may be from the circle that was given: one sigma of its place and of its
    size, as shares of the radius."""

    place: float
    size: float


class Expected(NamedTuple):
    """What is known of an outline before its edges are asked, and one sigma of each: its centre aside and
    below the mark's and its half height in radii of the mark, its width by its height, its lean in radians."""

    outline: tuple[float, float, float, float, float]
    sigma: tuple[float, float, float, float, float]


BY_HAND = Expected((0.0, 0.0, 1.0, 1.0, 0.0), (0.12, 0.12, 0.12, 0.15, 0.35))
"""What a marked plate is (house default; hands in trials were off by about a tenth)."""

ROUGHLY = Meant(0.236, 0.129)
KEPT_TRIES = 8
STEPS = (0.04, 0.02, 0.01, 0.005)
"""The search's grids, as shares of the radius."""
LOW_DOWN, FEWEST_HIGH, MUCH_BETTER, AS_GOOD = 0.2, 40, 1.08, 0.95
"""Rays that point down so steeply (sine) may end at a shadow on the floor; the others, if there are so
many, are asked by themselves, and believed if they agree so much better (or as well, on a circle where
all together need an ellipse: plate and shadow make one)."""
LARGER_SHARE = 0.88
ROUNDED, APART = 100_000, 2_000_000
"""Outlines are told apart to so small a share of one; rounded so, each of their numbers is under half of `APART`."""
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
    along, across = (c / narrow, s / narrow), (-s, c)
    ox, oy = (dx * c + dy * s) / narrow, dy * c - dx * s
    linear = along[0] * ox + across[0] * oy, along[1] * ox + across[1] * oy
    square = _products(*along) + _products(*across)
    inner = _products(*linear) - (ox**2 + oy**2 - high**2) * square
    ray, twice = _along_rays(angles, outlines.dtype)
    root = inner.T @ twice
    np.sqrt(np.maximum(root, 0.0, out=root), out=root)
    root += np.array(linear).T @ ray
    root /= square.T @ twice
    return np.asarray(root)


def _products(p: Array, q: Array) -> Array:
    """What c², cs and s² are multiplied with in (pc + qs)²."""
    return np.array([p * p, 2 * p * q, q * q])


def _along_rays(angles: Array, kind: np.dtype[Any]) -> tuple[Array, Array]:
    """Cosine and sine of rays, and their products."""
    c, s = np.cos(angles), np.sin(angles)
    return np.array([c, s]).astype(kind), np.array([c * c, c * s, s * s]).astype(kind)


CIRCLES = (np.linspace(-0.12, 0.12, 7), np.arange(0.82, 1.19, 0.03), np.ones(1), np.zeros(1))
ELLIPSES = (
    np.linspace(-0.12, 0.12, 6),
    np.arange(0.84, 1.17, 0.04),
    np.array([0.94, 0.87, 0.8]),
    np.radians([-24.0, -12.0, 0.0, 12.0, 24.0]),
)
"""Where the search begins: shifts (both ways), half heights, narrowness, tilts."""


def outline_of(
    ridges: Array,
    shares: Array,
    angles: Array,
    inside: NDArray[np.bool_],
    r: float,
    meant: Meant = ROUGHLY,
) -> tuple[Array, float]:
    """The circle or ellipse that most rays have an edge on, and the share of rays.

    `ridges` (rays, samples), `shares` (samples,) of the radius `r` in pixels, `angles` (rays,) radians,
    `inside` (rays,): within the picture; `meant` how well place and size are known.

    Below a plate that rests on the floor its shadow has the stronger edge, and would drag the outline
    down: where the rays that do not point down agree much better on another outline, that one is
    the rim, and it is they that count.
    """
    whole = _search(ridges, shares, angles, np.flatnonzero(inside), r, meant)
    high = inside & (np.sin(angles) <= LOW_DOWN)
    if high.sum() < FEWEST_HIGH or high.sum() == inside.sum():
        return whole
    upper = _search(ridges, shares, angles, np.flatnonzero(high), r, meant, PARTLY_MARGIN)
    votes = _final_votes(ridges, shares, r)
    both = np.stack([upper[0], whole[0]])
    better = _score(both, votes, shares, angles, np.flatnonzero(high), meant)
    rounder = upper[0][3] == 1.0 > whole[0][3]
    return upper if better[0] > (AS_GOOD if rounder else MUCH_BETTER) * better[1] else whole


def _search(
    ridges: Array,
    shares: Array,
    angles: Array,
    rays: NDArray[np.intp],
    r: float,
    meant: Meant,
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
            score = _score(tries, votes, shares, angles, fewer, meant)
            kept = tries[np.argsort(score)[::-1][:KEPT_TRIES]]
            tries = around_outlines(kept, step / 2, len(narrows) > 1)
            fewer = rays
        score = _score(tries, votes, shares, angles, rays, meant)
        near_best = np.flatnonzero(score >= LARGER_SHARE * score.max(initial=0.0))
        largest = tries[near_best[np.argmax(tries[near_best, 2])]]
        best.append(_outermost(largest, votes, shares, angles, rays, meant))
    circle, ellipse = best
    return ellipse if ellipse[1] > margin * circle[1] else circle


def _final_votes(ridges: Array, shares: Array, r: float) -> Array:
    """Votes as the last and closest step of the search reads them."""
    gap = float(shares[1] - shares[0])
    return votes_along(ridges, 0.45 * STEPS[-1] / gap, 0.7 / (gap * r))


def _outermost(
    top: Array,
    votes: Array,
    shares: Array,
    angles: Array,
    rays: NDArray[np.intp],
    meant: Meant,
) -> tuple[Array, float]:
    """The largest of the concentric outlines that have nearly as many votes as the best."""
    sizes = np.tile(top, (161, 1))
    sizes[:, 2] *= np.linspace(0.9, 1.3, 161)
    score = _score(sizes, votes, shares, angles, rays, meant)
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
    tries = (kept[:, None, :] + step * _neighbours(ellipse)).reshape(-1, 5)
    tries[:, 3] = np.clip(tries[:, 3], 0.7, 1.0)
    # Many are neighbours of several. Rounded, two whole numbers tell an outline, and are quickly sorted.
    whole = np.rint(tries * ROUNDED).astype(np.int64)
    x, y, high, narrow, tilt = whole.T
    place, shape = (x * APART + y) * APART + high, narrow * APART + tilt
    order = np.lexsort((shape, place))
    place, shape = place[order], shape[order]
    new = np.append(True, (place[1:] != place[:-1]) | (shape[1:] != shape[:-1]))
    return np.asarray(whole[order[new]] / ROUNDED)


@lru_cache(maxsize=2)
def _neighbours(ellipse: bool) -> Array:
    """The steps from an outline to itself and to each next to it (n, 5), of a step of one."""
    ways = np.array(list(np.ndindex((3, 3, 3, 3, 3) if ellipse else (3, 3, 3, 1, 1)))) - 1.0
    return np.asarray(ways * np.array([1.0, 1.0, 1.0, *((1.0, 4.0) if ellipse else (0.0, 0.0))]))


def _score(
    tries: Array,
    votes: Array,
    shares: Array,
    angles: Array,
    rays: NDArray[np.intp],
    meant: Meant,
) -> Array:
    """Mean vote over the visible rays, less for what lies aside of the mark or is of another size."""
    # Half as many digits are twice as fast, and these are votes: a ten-millionth is nothing.
    at = ellipse_along(angles[rays], tries.astype(np.float32))
    (voted,) = votes_at(at, shares, votes[rays].astype(np.float32))
    got = voted.mean(axis=1)
    dx, dy, high = tries[:, 0], tries[:, 1], tries[:, 2]
    off = (dx**2 + dy**2) / meant.place**2 + ((high - 1) / meant.size) ** 2
    return np.asarray(got * np.exp(-0.5 * off))


def votes_at(at: Array, shares: Array, *votes: Array) -> list[Array]:
    """What each of several tables of votes (rays, samples) says at distances `at` (outlines, rays); nothing
    where they lie outside of `shares` (samples,). Destroys `at`."""
    gap = shares[1] - shares[0]
    at -= shares[0] - gap
    at /= gap
    np.minimum(np.maximum(np.rint(at, out=at), 0, out=at), len(shares) + 1, out=at)
    at += (np.arange(at.shape[1]) * (len(shares) + 2)).astype(at.dtype)
    column = at.astype(np.intp)
    none = cv2.BORDER_CONSTANT
    around = [np.asarray(cv2.copyMakeBorder(one, 0, 0, 1, 1, none), one.dtype) for one in votes]
    return [one.ravel().take(column) for one in around]
