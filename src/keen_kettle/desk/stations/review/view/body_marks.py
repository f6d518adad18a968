"""Paints the lifter's landmarks over the film: every state has a look of its own."""

from collections.abc import Callable

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from keen_kettle.core.track.body import LANDMARKS, SEGMENTS, BodyTrack, PointState
from keen_kettle.desk.kit.theme import colour

__all__ = ["paint_body"]

Place = Callable[[str], QPointF | None]


def paint_body(painter: QPainter, body: BodyTrack, frame: int, place: Place, chosen: str) -> None:
    """Segments and points of one frame.

    Measured points are filled, assumed ones hollow with dotted segments, those set by hand brass
    diamonds; hidden ones are left out. The chosen one has a ring.
    """
    spots = {name: place(name) for name in LANDMARKS}
    state = {name: PointState(int(body.state[frame, k])) for k, name in enumerate(LANDMARKS)}
    for a, b in SEGMENTS:
        first, second = spots[a], spots[b]
        if first is None or second is None:
            continue
        sure = PointState.ASSUMED not in (state[a], state[b])
        painter.setPen(QPen(colour("shade", 0.6), 4))
        painter.drawLine(first, second)
        style = Qt.PenStyle.SolidLine if sure else Qt.PenStyle.DotLine
        painter.setPen(QPen(colour("ink", 0.95 if sure else 0.75), 2, style))
        painter.drawLine(first, second)
    for name, spot in spots.items():
        if spot is not None:
            _paint_point(painter, spot, state[name])
            if name == chosen:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(colour("brass"), 2))
                painter.drawEllipse(spot, 9, 9)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _paint_point(painter: QPainter, spot: QPointF, state: PointState) -> None:
    painter.setPen(QPen(colour("shade"), 1))
    if state == PointState.BY_HAND:
        painter.setBrush(colour("brass"))
        ends = (QPointF(0, -6), QPointF(6, 0), QPointF(0, 6), QPointF(-6, 0))
        painter.drawPolygon(QPolygonF([spot + end for end in ends]))
    elif state == PointState.ASSUMED:
        painter.setBrush(colour("shade", 0.7))
        painter.setPen(QPen(colour("ink"), 1.5))
        painter.drawEllipse(spot, 4, 4)
    else:
        painter.setBrush(colour("ink"))
        painter.drawEllipse(spot, 4, 4)
