"""A ladder as a strip of steps: passed, here, carried from elsewhere, ahead; by shape and colour."""

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QHelpEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QToolTip, QWidget

from keen_kettle.core.teach import Place, StageTime
from keen_kettle.desk.kit.theme import colour

__all__ = ["StageStrip"]

WORDS = {
    "passed": "passed",
    "here": "here now",
    "carried": "known from elsewhere",
    "ahead": "ahead",
}


class StageStrip(QWidget):
    """One mark a stage, left to right; hovering names it."""

    def __init__(self, place: Place, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._place = place
        self.setFixedHeight(26)
        self.setMouseTracking(True)
        here = next((one.name for one in place.stages if one.state == "here"), "not begun")
        self.setAccessibleName(f"{place.name}: {here}")
        self.setToolTip("One mark a stage; hover to read it")

    def sizeHint(self) -> QSize:
        return QSize(300, 26)

    def _boxes(self) -> list[tuple[QRectF, StageTime]]:
        count = max(len(self._place.stages), 1)
        width = min((self.width() - 4) / count, 62.0)
        return [
            (QRectF(2 + number * width, 3, width - 6, 20), one)
            for number, one in enumerate(self._place.stages)
        ]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for box, one in self._boxes():
            middle = box.center()
            painter.setPen(QPen(colour("edge"), 2))
            painter.drawLine(box.bottomLeft(), box.bottomRight())
            if one.state in ("passed", "carried"):
                style = Qt.PenStyle.SolidLine if one.state == "passed" else Qt.PenStyle.DotLine
                painter.setPen(QPen(colour("sage"), 2, style))
                painter.drawPolyline(
                    QPolygonF(
                        [
                            middle + QPointF(-7, 0),
                            middle + QPointF(-2, 5),
                            middle + QPointF(7, -6),
                        ]
                    )
                )
            elif one.state == "here":
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour("brass"))
                painter.drawRoundedRect(box.adjusted(0, 0, 0, -2), 4, 4)
            else:
                painter.setPen(QPen(colour("quiet"), 1.5))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(middle, 3, 3)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            for box, one in self._boxes():
                if box.contains(event.pos().toPointF()):
                    days = f", {one.days} days" if one.days is not None else ""
                    QToolTip.showText(
                        event.globalPos(), f"{one.name}: {WORDS[one.state]}{days}", self
                    )
                    return True
        return super().event(event)
