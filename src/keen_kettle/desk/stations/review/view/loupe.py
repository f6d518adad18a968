"""The loupe: the film much enlarged round one place, so that an edge can be set to part of a pixel."""

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen

from keen_kettle.desk.kit.theme import colour

__all__ = ["LOUPE_PX", "loupe_box", "paint_loupe"]

LOUPE_PX, ENLARGED, AWAY_PX = 176, 5.0, 12


def loupe_box(film: QRectF, spot: QPointF) -> QRectF:
    """Where the loupe lies: in the upper corner of the film that is away from the spot."""
    left = spot.x() > film.center().x()
    x = film.left() + AWAY_PX if left else film.right() - LOUPE_PX - AWAY_PX
    return QRectF(x, film.top() + AWAY_PX, LOUPE_PX, LOUPE_PX)


def paint_loupe(
    painter: QPainter,
    image: QImage,
    box: QRectF,
    centre: tuple[float, float],
    paint_over: Callable[[QPainter, float], None],
) -> None:
    """Draw the film round `centre` (film pixels) into a box, each pixel five times as large.

    `paint_over(painter, enlarged)` draws in film coordinates on top of it.
    """
    half = LOUPE_PX / ENLARGED / 2
    painter.save()
    painter.setClipRect(box)
    painter.fillRect(box, colour("shade"))
    painter.translate(box.topLeft())
    painter.scale(ENLARGED, ENLARGED)
    painter.translate(half - centre[0], half - centre[1])
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
    painter.drawImage(QPointF(0, 0), image)
    paint_over(painter, ENLARGED)
    painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour("brass"), 2))
    painter.drawRect(box)
    middle = box.center()
    painter.setPen(QPen(colour("brass"), 1))
    for reach in (QPointF(10, 0), QPointF(0, 10)):
        painter.drawLine(middle - 2 * reach, middle - 0.4 * reach)
        painter.drawLine(middle + 0.4 * reach, middle + 2 * reach)
