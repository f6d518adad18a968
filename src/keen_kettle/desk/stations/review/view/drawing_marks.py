"""Paints drawings over the film: lines with their values, ghosts dashed, notes in a box."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

from keen_kettle.core.units import change_words, reading_words
from keen_kettle.desk.kit.lines import broken_line
from keen_kettle.desk.kit.theme import colour, font
from keen_kettle.desk.state.review.drawing_model import Drawn

__all__ = ["Label", "label_of", "paint_drawing", "paint_labels"]

Array = NDArray[np.float64]

ARC_PX = 26.0
NOTE_WIDE = 230.0
AWAY_PX, GAP_PX = 22.0, 6.0


@dataclass(frozen=True)
class Label:
    """Words beside a drawing, and the place they belong to."""

    at: QPointF
    words: str
    note: bool = False


def paint_drawing(
    painter: QPainter,
    film: QRectF,
    kind: str,
    points: Array | None,
    ghost: Array | None,
    chosen: bool,
) -> None:
    """One drawing, its points and its ghost given in the widget's pixels; a chosen one is brass."""
    if ghost is not None:
        _paint_lines(painter, film, kind, ghost, "ink", Qt.PenStyle.DashLine)
    if points is not None:
        tone = "brass" if chosen else "chalk"
        _paint_lines(painter, film, kind, points, tone, Qt.PenStyle.SolidLine)


def label_of(film: QRectF, one: Drawn, points: Array | None, ghost: Array | None) -> Label | None:
    """What a drawing says, and where; None if it says nothing."""
    spots = points if points is not None else ghost
    if spots is None:
        return None
    kind = one.drawing.kind
    x, y = (float(part) for part in spots[1 if kind == "angle" and len(spots) == 3 else -1])
    if kind == "vertical":
        y = film.top() + 24
    if kind == "note":
        return Label(QPointF(x, y), one.drawing.text, True) if one.drawing.text else None
    if one.shown.then:
        words = change_words(one.shown.readings, one.shown.then)
    else:
        words = " · ".join(reading_words(reading) for reading in one.shown.readings)
    return Label(QPointF(x, y), words) if words else None


def paint_labels(
    painter: QPainter, area: QRectF, clear: tuple[float, float], labels: Sequence[Label]
) -> None:
    """All labels in one column beside the lifter, who stands between the two `clear` borders.

    They keep the order of their places, do not overlap, and point to where they belong.
    """
    boxes = [(_box(painter, label), label) for label in sorted(labels, key=lambda one: one.at.y())]
    if not boxes:
        return
    wide = max(box.width() for box, _ in boxes)
    right = clear[1] + AWAY_PX + wide <= area.right() or clear[0] - AWAY_PX - wide < area.left()
    foot = area.top() + GAP_PX
    for box, label in boxes:
        if right:
            box.moveLeft(min(clear[1] + AWAY_PX, area.right() - box.width() - 4))
        else:
            box.moveRight(clear[0] - AWAY_PX)
        box.moveTop(max(label.at.y() - box.height() / 2, foot))
        foot = box.bottom() + GAP_PX
    over = boxes[-1][0].bottom() - (area.bottom() - GAP_PX)
    for box, label in boxes:
        box.translate(0, -max(over, 0.0))
        _paint_label(painter, box, label, right)


def _box(painter: QPainter, label: Label) -> QRectF:
    painter.setFont(font("lead" if label.note else "text"))
    metrics = painter.fontMetrics()
    if not label.note:
        return QRectF(0, 0, metrics.horizontalAdvance(label.words) + 16, 24)
    room = QRectF(0, 0, NOTE_WIDE, 400).toRect()
    inner = metrics.boundingRect(room, int(Qt.TextFlag.TextWordWrap), label.words)
    return QRectF(0, 0, inner.width() + 24, inner.height() + 16)


def _paint_label(painter: QPainter, box: QRectF, label: Label, right: bool) -> None:
    edge = QPointF(box.left() if right else box.right(), box.center().y())
    painter.setPen(QPen(colour("brass" if label.note else "chalk", 0.8), 1))
    painter.drawLine(label.at, edge)
    painter.setPen(QPen(colour("brass"), 1.5) if label.note else Qt.PenStyle.NoPen)
    painter.setBrush(colour("raised", 0.94))
    painter.drawRoundedRect(box, 6, 6)
    painter.setPen(colour("ink"))
    painter.setFont(font("lead" if label.note else "text"))
    if label.note:
        painter.drawText(box.adjusted(12, 8, -12, -8), int(Qt.TextFlag.TextWordWrap), label.words)
    else:
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, label.words)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _paint_lines(
    painter: QPainter, film: QRectF, kind: str, points: Array, tone: str, style: Qt.PenStyle
) -> None:
    path = _path(film, kind, points)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for width, ink in ((4.5, colour("shade", 0.6)), (2.0, colour(tone))):
        painter.setPen(QPen(ink, width, style))
        painter.drawPath(path)
    if kind == "pen" or style != Qt.PenStyle.SolidLine:
        return
    painter.setPen(QPen(colour("shade"), 1))
    painter.setBrush(colour(tone))
    for x, y in points:
        painter.drawEllipse(QPointF(x, y), 3.5, 3.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _path(film: QRectF, kind: str, points: Array) -> QPainterPath:
    """What is drawn through the points: guides cross the whole film, angles have an arc."""
    x, y = points[0]
    if kind == "vertical":
        return broken_line(np.array([[x, film.top()], [x, film.bottom()]]))
    if kind == "horizontal":
        return broken_line(np.array([[film.left(), y], [film.right(), y]]))
    path = broken_line(points)
    if kind == "angle" and len(points) == 3:
        apex = points[1]
        first, second = points[0] - apex, points[2] - apex
        begin, end = (np.degrees(np.arctan2(-way[1], way[0])) for way in (first, second))
        sweep = (end - begin + 180) % 360 - 180
        reach = min(ARC_PX, 0.6 * float(np.hypot(*first)), 0.6 * float(np.hypot(*second)))
        box = QRectF(apex[0] - reach, apex[1] - reach, 2 * reach, 2 * reach)
        path.arcMoveTo(box, float(begin))
        path.arcTo(box, float(begin), float(sweep))
    return path
