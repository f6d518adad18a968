"""Lines through tracked points: they break where points are missing."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QPainterPath

__all__ = ["broken_line", "only"]


def broken_line(points: NDArray[np.float64]) -> QPainterPath:
    """A path through the finite rows of `points` (shape (n, 2), widget pixels)."""
    path = QPainterPath()
    drawing = False
    for x, y in points:
        if not np.isfinite(x):
            drawing = False
        elif drawing:
            path.lineTo(x, y)
        else:
            path.moveTo(x, y)
            drawing = True
    return path


def only(points: NDArray[np.float64], span: slice) -> NDArray[np.float64]:
    """The points of a span of frames; NaN elsewhere."""
    kept = np.full_like(points, np.nan)
    kept[span] = points[span]
    return kept
