"""One side of a loaded bar as a picture: the plates from the inside out, each with its kilograms.

Size and number tell the plates apart; no colour code is used.
"""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.kit.theme import colour, font

__all__ = ["PlatesPicture", "paint_side"]

HIGH = {25.0: 1.0, 20.0: 1.0, 15.0: 0.92, 10.0: 0.84, 5.0: 0.62}
SMALL = 0.46
WIDE = {25.0: 0.30, 20.0: 0.26, 15.0: 0.23, 10.0: 0.20}
THIN = 0.17


def paint_side(
    painter: QPainter,
    room: QRectF,
    per_side_kg: Sequence[float],
    ink: QColor,
    fill: QColor,
    words: QColor,
) -> None:
    """The sleeve with its plates, from the left; each plate carries its kilograms upright."""
    middle, high = room.center().y(), room.height()
    painter.setPen(QPen(ink, max(high * 0.05, 1.5)))
    painter.drawLine(QPointF(room.left(), middle), QPointF(room.right(), middle))
    painter.setPen(QPen(ink, max(high * 0.035, 1.2)))
    collar = QRectF(room.left() + 2, middle - 0.12 * high, 0.06 * high, 0.24 * high)
    painter.drawRect(collar)
    x = collar.right() + 2
    lettering = font("small")
    for kilos in per_side_kg:
        tall = high * HIGH.get(kilos, SMALL)
        wide = max(high * WIDE.get(kilos, THIN), 13.0)
        plate = QRectF(x, middle - tall / 2, wide, tall)
        painter.setPen(QPen(ink, 1.5))
        painter.setBrush(fill)
        painter.drawRoundedRect(plate, 2, 2)
        painter.save()
        painter.translate(plate.center())
        painter.rotate(-90)
        lettering.setPixelSize(int(min(max(wide * 0.72, 8), 0.4 * tall, 13)))
        painter.setFont(lettering)
        painter.setPen(words)
        painter.drawText(
            QRectF(-tall / 2, -wide / 2, tall, wide), Qt.AlignmentFlag.AlignCenter, f"{kilos:g}"
        )
        painter.restore()
        x += wide + 2


class PlatesPicture(QWidget):
    """The plates of one side; nothing but the sleeve for the empty bar."""

    def __init__(
        self, per_side_kg: Sequence[float], high_px: int = 40, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._plates = tuple(per_side_kg)
        wide = 14 + sum(max(high_px * WIDE.get(one, THIN), 13.0) + 2 for one in self._plates)
        self.setFixedSize(QSize(int(max(wide + 14, 48)), high_px))
        words = " + ".join(f"{one:g}" for one in self._plates) or "nothing"
        self.setAccessibleName(f"Plates on each side, from the inside: {words} kg")
        self.setToolTip(f"Each side, from the inside: {words} kg")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        paint_side(painter, room, self._plates, colour("quiet"), colour("edge"), colour("ink"))
