"""Looks outward from a ring for the plate's own edge: stripes, letters and smaller plates lie inside it.

What lies between such a ring and the edge goes along with it: stacked over pictures in which the bar
is in different places, every ring of it keeps its colour nearly all round, and the edge stays where it
is. Of floor, wall and lifter behind neither holds.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from keen_kettle.core.track.rays import edge_votes, sample_along
from keen_kettle.core.track.rim import Rim

__all__ = ["edge_beyond"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

RAYS, STEP = 96, 0.01
FROM, TO, NEAREST = 1.04, 2.5, 1.08
"""Rings are looked at from and to so many radii; an edge nearer than the last is the same plate's thickness."""
LEAST_EDGE, LEAST_OVER = 0.3, 0.2
"""So much of the outline has an edge there, and so much more than at usual sizes."""
LEAST_ALIKE, ALIKE_LEVELS = 0.35, 25.0
"""So much of what lies between keeps the colour of its ring, within so many grey levels."""


def edge_beyond(seen: Sequence[tuple[Picture, Rim]]) -> float | None:
    """How many times as large as a ring the outermost edge is that goes along with it; None where there is
    none.

    Parameters
    ----------
    seen : pictures (height, width, 3), BGR, with the same ring as it was found in each
    """
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    shares = np.arange(FROM, TO, STEP)
    rays = [
        sample_along(picture, rim.x_px, rim.y_px, angles, rim.radii(angles), shares)
        for picture, rim in seen
    ]
    lines = np.array([colours for colours, _ in rays], np.float32)
    inside = np.array([there for _, there in rays])
    edges, alike = _stacked_edges(lines, inside), _alike(lines, inside)
    usual = float(np.median(edges))
    crests = (edges == maximum_filter1d(edges, 5)) & (edges >= max(LEAST_EDGE, usual + LEAST_OVER))
    crests[-5:] = False  # what rises on beyond the end
    for k in np.flatnonzero(crests & (shares >= NEAREST))[::-1]:
        if float(alike[: k - 1].mean()) >= LEAST_ALIKE:
            return float(shares[k])
    return None


def _stacked_edges(lines: NDArray[np.float32], inside: NDArray[np.bool_]) -> Array:
    """The share of each ring that has an edge, or nearly there, in all pictures together, (sizes,)."""
    stacked = []
    for colours, there in zip(lines, inside, strict=True):
        votes = edge_votes(colours) * there
        near = np.pad(votes, ((0, 0), (1, 1)))
        votes = np.maximum(votes, np.maximum(near[:, :-2], near[:, 2:]))
        stacked.append(votes.sum(axis=0) / np.maximum(there.sum(axis=0), 1))
    return np.asarray(np.mean(stacked, axis=0), np.float64)


def _alike(lines: NDArray[np.float32], inside: NDArray[np.bool_]) -> Array:
    """The share of each ring that has its usual colour, in the pictures in which least of it has, (sizes,)."""
    usual = np.median(lines.reshape(-1, *lines.shape[2:]), axis=0)
    same = (np.abs(lines - usual).max(axis=3) < ALIKE_LEVELS) & inside
    shares = same.sum(axis=1) / np.maximum(inside.sum(axis=1), 1)
    return np.asarray(np.quantile(shares, 0.25, axis=0), np.float64)
