"""Where the film lies in its widget."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF

__all__ = ["ViewTransform"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ViewTransform:
    """Where the film lies in its widget: widget = film × zoom + offset."""

    scale: float
    left: float
    top: float

    def to_widget(self, x: float, y: float) -> QPointF:
        return QPointF(x * self.scale + self.left, y * self.scale + self.top)

    def to_widget_all(self, x_px: Array, y_px: Array) -> Array:
        """Many film points at once, shape (n, 2)."""
        return np.column_stack([x_px * self.scale + self.left, y_px * self.scale + self.top])

    def to_film(self, point: QPointF) -> tuple[float, float]:
        return (point.x() - self.left) / self.scale, (point.y() - self.top) / self.scale

    def box_in_film(self, box: QRectF) -> QRectF:
        """A box of the widget in film pixels."""
        return QRectF(
            QPointF(*self.to_film(box.topLeft())), QPointF(*self.to_film(box.bottomRight()))
        )
