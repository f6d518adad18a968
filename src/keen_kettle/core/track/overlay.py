"""What is laid over a film and does not move with the hall: a caption, a mark, a frame drawn round it."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["overlay_mask"]

Grey = NDArray[np.uint8]

CORNERS, PATCH, STANDS, LEAST_CHANGE = 150, 4, 0.3, 3.0
"""So many corners are asked; one stands where the picture (so many pixels each way) mostly changes by less than
this share of its own contrast, or by no more than so many grey levels."""
REACH, MOST_AREA = 0.035, 0.25
"""What is so near to one that stands (a share of the width) is laid over; if that is more of the picture, it
is the hall that stands, before a still camera."""
FEWEST_OTHERS, MOSTLY = 14, 0.6
"""There must be so many corners elsewhere, and so many of them must move: else nothing is known of it."""


def overlay_mask(greys: Sequence[Grey]) -> Grey | None:
    """Where something is laid over pictures of one view (each (h, w), grey, from all over the film): 0 there,
    255 elsewhere; None where nothing is, or where the hall itself stands still."""
    if len(greys) < 2:
        return None
    first = greys[0].astype(np.float32)
    changes = [_around(np.abs(first - grey)) for grey in greys[1:]]
    contrast = np.sqrt(np.maximum(_around(first**2) - _around(first) ** 2, 0.0))
    stands = np.median(changes, axis=0) < np.maximum(STANDS * contrast, LEAST_CHANGE)
    mask = np.full(greys[0].shape, 255, np.uint8)
    for x, y in _corners(greys[0], None):
        if stands[y, x]:
            cv2.circle(mask, (x, y), max(int(REACH * greys[0].shape[1]), 2), 0, -1)
    laid_on = float((mask == 0).mean())
    if not 0 < laid_on <= MOST_AREA:
        return None
    moves = [not stands[y, x] for x, y in _corners(greys[0], mask)]
    return mask if len(moves) >= FEWEST_OTHERS and np.mean(moves) >= MOSTLY else None


def _around(values: NDArray[np.float32]) -> NDArray[np.float32]:
    """The mean round each pixel."""
    side = 2 * PATCH + 1
    return np.asarray(cv2.blur(values, (side, side)), np.float32)


def _corners(grey: Grey, mask: Grey | None) -> list[tuple[int, int]]:
    found = cv2.goodFeaturesToTrack(grey, CORNERS, 0.01, 9, mask=mask)
    return [] if found is None else [(round(x), round(y)) for x, y in found[:, 0].tolist()]
