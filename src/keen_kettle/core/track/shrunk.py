"""A picture made small, each new pixel the mean of those that it stands for."""

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["shrunk"]


def shrunk(grey: NDArray[np.uint8], wide: int, high: int) -> NDArray[np.uint8]:
    """A picture (h, w) in a small size, but for a last row and column of what is left over.

    First by whole pixels, which is four times as fast as the same mean over parts of them.
    """
    by = min(grey.shape[0] // high, grey.shape[1] // wide)
    if by > 1:
        rows, columns = (size // by for size in grey.shape)
        even = grey[: rows * by, : columns * by]
        grey = np.asarray(cv2.resize(even, (columns, rows), interpolation=cv2.INTER_AREA), np.uint8)
    if grey.shape == (high, wide):
        return grey
    return np.asarray(cv2.resize(grey, (wide, high), interpolation=cv2.INTER_AREA), np.uint8)
