"""A picture made small, each new pixel the mean of those that it stands for."""

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["shrunk"]


def shrunk(grey: NDArray[np.uint8], wide: int, high: int) -> NDArray[np.uint8]:
    """A picture (h, w) in a small size, but for a last row and column of what is left over.

    First by halves, which is eight times as fast as any other part.
    """
    while grey.shape[0] >= 2 * high and grey.shape[1] >= 2 * wide:
        rows, columns = (size // 2 for size in grey.shape)
        even = grey[: rows * 2, : columns * 2]
        grey = np.asarray(cv2.resize(even, (columns, rows), interpolation=cv2.INTER_AREA), np.uint8)
    if grey.shape == (high, wide):
        return grey
    return np.asarray(cv2.resize(grey, (wide, high), interpolation=cv2.INTER_AREA), np.uint8)
