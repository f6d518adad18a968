"""Paints one pose of a moving figure to scale, feet on a floor line."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from keen_kettle.core.simulate import Figure, FigurePose
from keen_kettle.desk.kit.theme import colour

__all__ = ["Inks", "paint_pose"]

Points = Mapping[str, NDArray[np.float64]]
Placing = Callable[[NDArray[np.float64]], QPointF]
NEAR = (("shoulder", "hip"), ("hip", "knee"), ("knee", "ankle"))
ARM = (("shoulder", "elbow"), ("elbow", "wrist"))
WHOLE_PX = 330.0
"""The height at which limbs are drawn at their full width."""


@dataclass(frozen=True)
class Inks:
    """The colours of a figure: near side, far leg, arm, load, floor, and inside the head."""

    near: QColor
    far: QColor
    arm: QColor
    load: QColor
    floor: QColor
    head: QColor

    @classmethod
    def of_theme(cls) -> "Inks":
        names = ("ink", "quiet", "brass", "chalk", "edge", "raised")
        return cls(*(colour(name) for name in names))


def paint_pose(
    painter: QPainter, room: QRectF, figure: Figure, pose: FigurePose, inks: Inks | None = None
) -> None:
    """One pose inside a room of the painter; the floor near its lower edge."""
    _Painter(painter, room, figure, pose, inks or Inks.of_theme()).paint()


class _Painter:
    """One pose and where it goes."""

    def __init__(
        self, painter: QPainter, room: QRectF, figure: Figure, pose: FigurePose, inks: Inks
    ) -> None:
        self._painter, self._room = painter, room
        self._figure, self._pose, self._inks = figure, pose, inks
        self._thick = min(max((room.height() - 34) / WHOLE_PX, 0.22), 1.6)
        margin = min(34.0, 0.12 * room.height())
        self._scale = (room.height() - margin) / (1.38 * figure.body.stature_m)
        self._floor = room.bottom() - 0.65 * margin

    def _to(self, point: NDArray[np.float64]) -> QPointF:
        middle = self._room.center().x()
        return QPointF(
            middle + self._scale * float(point[0]), self._floor - self._scale * float(point[1])
        )

    def _pen(self, ink: QColor, width: float) -> QPen:
        wide = max(width * self._thick, 1.0)
        return QPen(ink, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)

    def paint(self) -> None:
        painter, pose, inks = self._painter, self._pose, self._inks
        painter.setPen(QPen(inks.floor, max(2 * self._thick, 1.0)))
        line = self._floor + 2
        painter.drawLine(
            QPointF(self._room.left() + 0.03 * self._room.width(), line),
            QPointF(self._room.right() - 0.03 * self._room.width(), line),
        )
        if pose.rear_leg is not None:
            self._limbs(pose.rear_leg, NEAR[1:], inks.far, 9)
            self._foot(pose.rear_leg, inks.far)
        self._limbs(pose.points, NEAR, inks.near, 10)
        self._foot(pose.points, inks.near)
        self._limbs(pose.points, (("shoulder", "ear"),), inks.near, 7)
        tall = self._figure.body.stature_m * self._scale
        painter.setPen(self._pen(inks.near, 3))
        painter.setBrush(inks.head)
        painter.drawEllipse(self._to(pose.points["ear"]), 0.062 * tall, 0.072 * tall)
        if pose.load is not None:
            self._load(self._to(pose.load))
        self._limbs(pose.points, ARM, inks.arm, 6)

    def _limbs(
        self, points: Points, pairs: Sequence[tuple[str, str]], ink: QColor, width: float
    ) -> None:
        self._painter.setPen(self._pen(ink, width))
        for first, second in pairs:
            self._painter.drawLine(self._to(points[first]), self._to(points[second]))

    def _foot(self, points: Points, ink: QColor) -> None:
        path = QPainterPath(self._to(points["ankle"]))
        for name in ("heel", "toe", "ankle"):
            path.lineTo(self._to(points[name]))
        self._painter.setPen(self._pen(ink, 5))
        self._painter.setBrush(ink)
        self._painter.drawPath(path)

    def _load(self, at: QPointF) -> None:
        painter, scale = self._painter, self._scale
        painter.setPen(self._pen(self._inks.load, 3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        implement = self._figure.implement
        if implement == "barbell":
            painter.drawEllipse(at, 0.225 * scale, 0.225 * scale)
            painter.setBrush(self._inks.load)
            painter.drawEllipse(at, 3 * self._thick, 3 * self._thick)
        elif implement == "stick":
            painter.setBrush(self._inks.load)
            painter.drawEllipse(at, 5 * self._thick, 5 * self._thick)
        else:
            size = 0.11 if implement == "kettlebell" else 0.08
            faint = QColor(self._inks.load)
            faint.setAlphaF(0.4)
            painter.setBrush(faint)
            painter.drawEllipse(at, size * scale, size * scale)
