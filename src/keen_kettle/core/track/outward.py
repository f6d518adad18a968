"""Looks outward from a ring for the plate's own edge: stripes, letters and smaller plates lie inside it.

What lies between such a ring and the edge goes along with it: stacked over pictures in which the bar
is in different places, every ring of it keeps its colour nearly all round, and the edge stays where it
is. Of floor, wall and lifter behind neither holds.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from keen_kettle.core.track.rays import (
    SHARP_EDGE_PX,
    edge_votes,
    edges_along,
    local_peaks,
    sample_along,
)
from keen_kettle.core.track.rim import Rim, RimModel, fit_rim

__all__ = ["edge_beyond", "is_outermost", "rim_round"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

RAYS, STEP = 96, 0.01
FROM, TO, NEAREST = 1.04, 2.5, 1.08
"""Rings are looked at from and to so many radii; an edge nearer than the last is the same plate's thickness."""
LEAST_EDGE, LEAST_OVER, NEARLY = 0.15, 0.13, 0.65
"""So much of the outline has an edge there, and so much more than at usual sizes, times the share of what
lies between that goes along; of edges nearly as plain as the plainest the outermost is the plate's."""
SAME_SIZE, SAME_CENTRE = 0.08, 0.1
"""A rim round a ring is about as large as the edge seemed, and so near to its centre (radii)."""
LEAST_ALIKE, LEAST_ALONE, ALIKE_LEVELS, FEWEST = 0.6, 0.35, 25.0, 3
"""So much of what lies between keeps the colour of its ring or, in so many pictures and more, of its place,
within so many grey levels; in fewer pictures less is asked, as light falls on a plate from above."""

NEXT, LAST = 1.035, 1.17
"""A stripe lies so near within its rim: an edge of the plate's own is looked for from and to so many radii."""
PLAIN_LEVELS, CLOSE = 4.0, 0.012
"""Grey levels of an edge, and how near to a size (radii) a ray's edge counts for it."""
ALL_ROUND, OVER_USUAL = 0.93, 0.3
"""The share of the rays with an edge on the outermost outline; beyond it no size has so much more than most."""


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
    over = edges - float(np.median(edges))
    within = np.roll(np.cumsum(alike) / np.arange(1, len(alike) + 1), 2)  # short of each size
    worth = over * within
    crests = (edges == maximum_filter1d(edges, 5)) & (edges >= LEAST_EDGE) & (shares >= NEAREST)
    least = LEAST_ALIKE if len(seen) >= FEWEST else LEAST_ALONE
    crests &= (worth >= LEAST_OVER) & (within >= least)
    crests[-5:] = False  # what rises on beyond the end
    if not crests.any():
        return None
    plain = np.flatnonzero(crests & (over >= NEARLY * over[crests].max()))
    return float(shares[plain[-1]])


def is_outermost(picture: Picture, rim: Rim) -> bool:
    """Whether a rim has an edge all round and none goes round it a little farther out: then it is no stripe
    within a larger one, nor the brim of a smaller plate."""
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    size = max(rim.axes_px)
    step, close = max(0.005, 0.3 / size), max(CLOSE, 0.7 / size)
    shares = np.arange(0.9, 1.2, step)
    edges, seen = edges_along(
        picture, rim.x_px, rim.y_px, angles, rim.radii(angles), shares, None, 1.0, SHARP_EDGE_PX
    )
    if not seen.any():
        return False
    voted = (local_peaks(edges) & (edges > PLAIN_LEVELS))[seen].mean(axis=0)
    voted = np.convolve(voted, np.ones(2 * round(close / step) + 1), "same")
    here = voted[np.abs(shares - 1) < close].max()
    beyond = voted[(shares >= NEXT) & (shares < LAST)].max()
    return bool(here >= ALL_ROUND and beyond - np.median(voted) < OVER_USUAL)


def rim_round(picture: Picture, ring: Rim, share: float) -> tuple[Rim, RimModel] | None:
    """The rim that is so many times as large as a ring and has nearly its centre, with the model that
    follows it, as of `fit_rim`; None where none is found."""
    size = share * max(ring.axes_px)
    rim, model = fit_rim(picture, ring.x_px, ring.y_px, size)
    apart = float(np.hypot(rim.x_px - ring.x_px, rim.y_px - ring.y_px))
    alike = apart < SAME_CENTRE * size and abs(max(rim.axes_px) / size - 1) < SAME_SIZE
    return (rim, model) if rim.found and alike else None


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
    """The share of each ring that goes along, in the pictures in which least of it does, (sizes,)."""
    ring = np.median(lines.reshape(-1, *lines.shape[2:]), axis=0)
    same = np.abs(lines - ring).max(axis=3) < ALIKE_LEVELS
    if len(lines) >= FEWEST:
        same |= np.abs(lines - np.median(lines, axis=0)).max(axis=3) < ALIKE_LEVELS
    shares = (same & inside).sum(axis=1) / np.maximum(inside.sum(axis=1), 1)
    return np.asarray(np.quantile(shares, 0.25, axis=0), np.float64)
