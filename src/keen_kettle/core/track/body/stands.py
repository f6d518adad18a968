"""Tells whether a lifter stands as in an earlier picture, so that the model need not look again."""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.net import Sighting

__all__ = ["Stands"]

SMALL, BLOCKS = 64, 8
"""The square round the lifter is shrunk to so many pixels a side, and compared in so many blocks a side."""
MOVES, MOST, LEAST_CONTRAST = 0.05, 1.3, 8.0
"""A block that changes by more than this share of the square's contrast, or by so many grey levels, has
moved: where the body moves by half a hundredth of its size that is so in 96 of 100 looks, where nothing
moves in 2 (lifelike films)."""
REACH = 0.55
"""So far from its middle the square reaches (sides of the look's own)."""


class Stands:
    """What the last look saw, and whether it is still there."""

    def __init__(self) -> None:
        self._seen: Sighting | None = None
        self._small: NDArray[np.float32] | None = None

    def forget(self) -> None:
        self._seen = self._small = None

    def learn(self, picture: NDArray[np.uint8], seen: Sighting) -> None:
        """A look at a picture, shape (h, w, 3)."""
        self._seen, self._small = seen, _shrunk(picture, seen)

    def still(self, picture: NDArray[np.uint8]) -> Sighting | None:
        """What was seen, if the picture shows it unmoved."""
        if self._seen is None or self._small is None:
            return None
        now = _shrunk(picture, self._seen)
        if now is None:
            return None
        side = SMALL // BLOCKS
        changes = np.abs(now - self._small).reshape(BLOCKS, side, BLOCKS, side).mean(axis=(1, 3))
        contrast = max(float(self._small.std()), LEAST_CONTRAST)
        return self._seen if changes.max() < min(MOVES * contrast, MOST) else None


def _shrunk(picture: NDArray[np.uint8], seen: Sighting) -> NDArray[np.float32] | None:
    crop = seen.next_crop()
    high, wide = picture.shape[:2]
    reach = REACH * crop.side
    x0, x1 = (int(np.clip(crop.x + way * reach, 0, wide)) for way in (-1, 1))
    y0, y1 = (int(np.clip(crop.y + way * reach, 0, high)) for way in (-1, 1))
    if min(x1 - x0, y1 - y0) < SMALL // 2:
        return None
    grey = cv2.cvtColor(picture[y0:y1, x0:x1], cv2.COLOR_BGR2GRAY)
    small = cv2.resize(grey, (SMALL, SMALL), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32)
