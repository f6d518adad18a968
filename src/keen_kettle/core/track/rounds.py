"""Round things in one picture, by the edges of what moves.

Every moving edge votes for the centres that lie across it, for many radii at once. Edges are taken
from whichever colour channel steps most, and measured against the edges round about, so that a dark
plate before a dark floor votes as loudly as a red one before a white wall.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = [
    "MovingEdges",
    "Round",
    "centre_votes",
    "colour_round",
    "moving_edges",
    "ring_points",
    "rounds_in",
]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Share = NDArray[np.float32]

SMALLEST, LARGEST, LEAST_PX = 0.022, 0.24, 6.0
"""A plate's radius as a share of the picture's longer and shorter side, and in small pixels."""
GROWTH = 1.06
"""From one radius that is tried to the next."""
THIN = (24, 48)
"""Hysteresis of edges: three to six grey levels a pixel (Sobel sums eight)."""
ROUND_ABOUT_PX, QUIET_LEVELS, LOUD = 41, 3.0, 0.8
LEAST_MOVING, FEWEST_EDGES = 0.05, 50
LEAST_VOTE, MOST_PEAKS, MOST_ROUNDS = 0.08, 80, 24
HALF_SEEN, LEAST_SHARE_SEEN = 0.5, 0.55
RINGS = (0.6, 0.75, 0.88)
"""Where the colour of a plate is read, in radii."""
NO_COLOUR = np.zeros(3)


@dataclass(frozen=True)
class Round:
    """A round thing: its centre and radius in the small picture, the share of its outline that has
    voted for it, its colour (Lab), and how surely it looks like a plate (0 to 1)."""

    x: float
    y: float
    r: float
    vote: float
    colour: Array
    sure: float = 0.0


def ring_points(shares: Array, count: int) -> tuple[Array, Array]:
    """Places on circles round the origin, shape (count, shares) each."""
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    return np.outer(np.cos(turn), shares), np.outer(np.sin(turn), shares)


@dataclass(frozen=True)
class MovingEdges:
    """The edges of what moves in a picture of this shape (high, wide).

    `at` (2, n) says where they are, in pixels, `way` (2, n) which way the picture gets brighter there, of
    length 1, and `weight` (n,) how loud and how surely moving each is (0 to 1).
    """

    at: Array
    way: Array
    weight: Array
    shape: tuple[int, int]


def rounds_in(picture: Picture, edges: MovingEdges | None) -> list[Round]:
    """Round things whose edges move, the best first.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    edges : its moving edges
    """
    if edges is None:
        return []
    high, wide = edges.shape
    least = max(SMALLEST * max(high, wide), LEAST_PX)
    steps = max(int(np.log(LARGEST * min(high, wide) / least) / np.log(GROWTH)), 0) + 1
    radii = least * GROWTH ** np.arange(steps)
    best = _votes(edges, radii[0])
    size = np.zeros(best.shape, np.intp)
    for k, r in enumerate(radii[1:], 1):
        votes = _votes(edges, r)
        size[votes > best] = k
        cv2.max(best, votes, best)
    crest = (best >= cv2.dilate(best, np.ones((7, 7), np.uint8)) - 1e-9) & (best > LEAST_VOTE)
    rows, columns = np.nonzero(crest)
    order = np.argsort(-best[rows, columns])[:MOST_PEAKS]
    found = []
    for row, column in zip(rows[order], columns[order], strict=True):
        x, y, r = 2.0 * column + 1, 2.0 * row + 1, float(radii[size[row, column]])
        seen = _share_seen(x, y, r, (high, wide))
        if seen >= HALF_SEEN:
            vote = float(best[row, column]) / max(seen, LEAST_SHARE_SEEN)
            found.append(Round(x, y, r, vote, NO_COLOUR))
    lab = np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGR2LAB), np.uint8)
    # Colours take most of the time here: only those are read that stay.
    return [replace(one, colour=_colour(lab, one.x, one.y, one.r)) for one in _apart(found)]


def centre_votes(edges: MovingEdges, radii: Array) -> Share:
    """How much votes for a circle of each radius (pixels) round each place, shape (radii, high // 2 + 1,
    wide // 2 + 1)."""
    return np.stack([_votes(edges, r) for r in radii])


def moving_edges(picture: Picture, moving: Share) -> MovingEdges | None:
    """The edges of a picture, (high, wide, 3), BGR, where it moves, as (high, wide) says how surely; None
    where hardly one does."""
    dx, dy, thin, loud = _edges(picture)
    ys, xs = np.nonzero(thin & (moving > LEAST_MOVING))
    if len(xs) < FEWEST_EDGES:
        return None
    way = np.stack([dx[ys, xs], dy[ys, xs]]).astype(float)
    way /= np.hypot(*way) + 1e-6
    weight = (loud[ys, xs] * moving[ys, xs]).astype(float)
    high, wide = picture.shape[:2]
    return MovingEdges(np.stack([xs, ys]).astype(float), way, weight, (high, wide))


def _edges(
    picture: Picture,
) -> tuple[NDArray[np.int16], NDArray[np.int16], NDArray[np.bool_], Share]:
    """Gradient both ways in the channel that steps most, thin edges, and how loud each is against
    those round about (0 to 1)."""
    soft = cv2.GaussianBlur(picture, (0, 0), 1.2)
    channels = [
        (np.asarray(dx, np.int16), np.asarray(dy, np.int16))
        for dx, dy in zip(
            cv2.split(cv2.Sobel(soft, cv2.CV_16S, 1, 0)),
            cv2.split(cv2.Sobel(soft, cv2.CV_16S, 0, 1)),
            strict=True,
        )
    ]
    along, down = channels[0]
    square = _square(along, down)
    for dx, dy in channels[1:]:
        other = _square(dx, dy)
        steeper = cv2.compare(other, square, cv2.CMP_GT)
        for chosen, its in ((along, dx), (down, dy), (square, other)):
            cv2.copyTo(its, steeper, chosen)
    steep = np.sqrt(square) / 8.0
    thin = cv2.Canny(along, down, *THIN, L2gradient=True) > 0
    usual = np.sqrt(cv2.blur(steep * steep, (ROUND_ABOUT_PX, ROUND_ABOUT_PX)))
    loud = np.clip(steep / (LOUD * usual + QUIET_LEVELS), 0, 1).astype(np.float32)
    return along, down, np.asarray(thin), loud


def _square(along: NDArray[np.int16], down: NDArray[np.int16]) -> Share:
    return along.astype(np.float32) ** 2 + down.astype(np.float32) ** 2


def _votes(edges: MovingEdges, r: float) -> Share:
    """Votes for centres at half the resolution: the share of a circle of this radius that has an
    edge, all of it with the brighter side inside or all of it outside."""
    rows, columns = edges.shape[0] // 2 + 1, edges.shape[1] // 2 + 1
    sigma = max(0.9, 0.0175 * r)
    planes = []
    for sign in (1, -1):
        x, y = ((edges.at + sign * r * edges.way) / 2).astype(int)
        inside = (x >= 0) & (x < columns) & (y >= 0) & (y < rows)
        place = y[inside] * columns + x[inside]
        counts = np.bincount(place, edges.weight[inside], rows * columns)
        planes.append(counts.reshape(rows, columns).astype(np.float32))
    dark, bright = cv2.split(cv2.GaussianBlur(cv2.merge(planes), (0, 0), sigma))
    of_circle = 2.6 * np.pi * sigma**2 / (1.8 * np.pi * r)
    return np.asarray(cv2.max(dark, bright) * np.float32(of_circle), np.float32)


def _share_seen(x: float, y: float, r: float, shape: tuple[int, int]) -> float:
    across, down = ring_points(np.array([r]), 48)
    inside = (x + across >= 0) & (x + across < shape[1]) & (y + down >= 0) & (y + down < shape[0])
    return float(inside.mean())


def colour_round(picture: Picture, x: float, y: float, r: float) -> Array:
    """The colour (Lab) that a plate has at a place."""
    reach = int(r) + 2
    left, top = max(int(x) - reach, 0), max(int(y) - reach, 0)
    room = picture[top : int(y) + reach + 1, left : int(x) + reach + 1]
    if not room.size:
        return NO_COLOUR
    lab = np.asarray(cv2.cvtColor(room, cv2.COLOR_BGR2LAB), np.uint8)
    return _colour(lab, x - left, y - top, r)


def _colour(lab: Picture, x: float, y: float, r: float) -> Array:
    across, down = ring_points(r * np.array(RINGS), 32)
    columns = np.clip(np.rint(x + across).astype(int), 0, lab.shape[1] - 1)
    rows = np.clip(np.rint(y + down).astype(int), 0, lab.shape[0] - 1)
    return np.asarray(np.median(lab[rows, columns].reshape(-1, 3).astype(float), axis=0))


def _apart(found: list[Round]) -> list[Round]:
    """The best few that are not the same thing once more."""
    kept: list[Round] = []
    for one in sorted(found, key=lambda each: -each.vote):
        if not any(
            np.hypot(one.x - k.x, one.y - k.y) <= 0.25 * max(one.r, k.r)
            and 0.85 < one.r / k.r < 1.18
            for k in kept
        ):
            kept.append(one)
    return kept[:MOST_ROUNDS]
