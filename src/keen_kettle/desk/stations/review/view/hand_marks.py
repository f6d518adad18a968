"""Paints what the hand sets on a frame: marks, the proposed plate, clicked points, lines."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from keen_kettle.desk.kit.theme import colour
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.view.film_marks import Ellipse, ellipse_of, paint_ellipse

__all__ = ["paint_hand_work"]


def paint_hand_work(
    painter: QPainter,
    enlarged: float,
    shown: Ellipse | None,
    model: ReviewModel,
    hand: HandModel,
    body: BodyModel,
) -> None:
    """Everything by hand on this frame, in film coordinates; lines keep their width.

    `shown` is the ellipse of this frame's mark.
    """
    if shown is not None:
        rim = model.rim
        settled = model.draft is None and (model.track is not None or (rim and rim.found))
        paint_ellipse(painter, shown, "chalk" if settled else "brass", enlarged)
    if hand.proposed is not None and shown is None and hand.proposed.frame == model.frame:
        paint_ellipse(painter, ellipse_of(hand.proposed, None), "brass", enlarged)
    if hand.point is not None and hand.point.frame == model.frame:
        paint_ellipse(painter, ellipse_of(hand.point, None), "brass", enlarged)
    if hand.clicking:
        _paint_clicked(painter, enlarged, hand)
    if body.line is not None:
        _paint_line(painter, enlarged, body.line)
    points = model.clip.scale_points if model.clip is not None else None
    by_points = model.clip is not None and model.clip.scale_by == "points"
    line = hand.line or (points[:4] if points is not None and by_points else None)
    if line is not None:
        _paint_line(painter, enlarged, line)
        for x, y in (line[:2], line[2:]):
            painter.drawEllipse(QPointF(x, y), 4 / enlarged, 4 / enlarged)


def _paint_clicked(painter: QPainter, enlarged: float, hand: HandModel) -> None:
    painter.setPen(QPen(colour("brass"), 2 / enlarged))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if hand.prediction is not None:
        painter.drawEllipse(QPointF(*hand.prediction), 9 / enlarged, 9 / enlarged)
    painter.setBrush(colour("brass"))
    for mark in hand.clicked:
        painter.drawEllipse(QPointF(mark.x_px, mark.y_px), 2.5 / enlarged, 2.5 / enlarged)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _paint_line(painter: QPainter, enlarged: float, line: tuple[float, ...]) -> None:
    painter.setPen(QPen(colour("brass"), 2 / enlarged))
    painter.drawLine(QPointF(*line[:2]), QPointF(*line[2:]))
