"""Lines through tracked points: they break where points are missing."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainterPath, QPolygonF

__all__ = ["broken_line", "only", "spots", "unbroken"]


def broken_line(points: NDArray[np.float64]) -> QPainterPath:
    """A path through the finite rows of `points` (shape (n, 2), widget pixels)."""
    path = QPainterPath()
    for run in unbroken(np.isfinite(points[:, 0])):
        path.addPolygon(QPolygonF(spots(points[run, 0], points[run, 1])))
    return path


def unbroken(known: NDArray[np.bool_]) -> list[slice]:
    """Unbroken runs of at least two known frames."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], known.astype(int), [0]])))
    pairs = zip(edges[::2], edges[1::2], strict=True)
    return [slice(int(a), int(b)) for a, b in pairs if b - a > 1]


def spots(x: NDArray[np.float64], y: NDArray[np.float64]) -> list[QPointF]:
    return [QPointF(*spot) for spot in zip(x.tolist(), y.tolist(), strict=True)]


def only(points: NDArray[np.float64], span: slice) -> NDArray[np.float64]:
    """The points of a span of frames; NaN elsewhere."""
    kept = np.full_like(points, np.nan)
    kept[span] = points[span]
    return kept
