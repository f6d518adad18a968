"""Shows the film's frame, large, with the bar's path over it, and takes the plate mark by dragging."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import QWidget

from keen_kettle.core.track import State
from keen_kettle.desk.review_model import ReviewModel
from keen_kettle.desk.theme import colour, font
from keen_kettle.desk.widgets.lines import broken_line

__all__ = ["FilmView", "Placing"]

Array = NDArray[np.float64]

GRIP_PX = 12


@dataclass(frozen=True)
class Placing:
    """Where the film lies in its widget: widget = film × zoom + offset."""

    zoom: float
    left: float
    top: float

    def to_widget(self, x: float, y: float) -> QPointF:
        return QPointF(x * self.zoom + self.left, y * self.zoom + self.top)

    def to_widget_all(self, x_px: Array, y_px: Array) -> Array:
        """Many film points at once, shape (n, 2)."""
        return np.column_stack([x_px * self.zoom + self.left, y_px * self.zoom + self.top])

    def to_film(self, point: QPointF) -> tuple[float, float]:
        return (point.x() - self.left) / self.zoom, (point.y() - self.top) / self.zoom


class FilmView(QWidget):
    """The film. While marking: press on the plate's centre, drag to its rim, let go."""

    placed = pyqtSignal()

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._image: QImage | None = None
        self._grip = ""
        self._grip_from = (0.0, 0.0, 0.0)
        self.setMinimumSize(320, 240)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Film")
        self.setToolTip("The film. Left and right arrows step; space plays.")
        model.frame_shown.connect(self._show)
        for signal in (model.mark_changed, model.tracking_changed, model.answer_changed):
            signal.connect(self.update)
        model.tracking_progress.connect(lambda _share: self.update())
        model.marking_changed.connect(self._on_marking)
        model.clip_changed.connect(self._on_clip)

    def sizeHint(self) -> QSize:
        return QSize(800, 450)

    @property
    def placing(self) -> Placing | None:
        """How the film is placed now; None before a film is open."""
        index = self._model.index
        if index is None:
            return None
        zoom = min(self.width() / index.width_px, self.height() / index.height_px)
        left = (self.width() - zoom * index.width_px) / 2
        top = (self.height() - zoom * index.height_px) / 2
        return Placing(zoom, left, top)

    def _show(self, image: QImage) -> None:
        self._image = image
        self.update()

    def _on_clip(self) -> None:
        if self._model.index is None:
            self._image = None
        self.placed.emit()
        self.update()

    def _on_marking(self) -> None:
        cross = Qt.CursorShape.CrossCursor if self._model.marking else Qt.CursorShape.ArrowCursor
        self.setCursor(cross)
        if self._model.marking:
            self.setFocus()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.placed.emit()

    # Marking

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        placing = self.placing
        if event is None or placing is None or event.button() != Qt.MouseButton.LeftButton:
            return
        mark = self._model.mark_here
        self._grip = self._grip_at(event.position()) if mark is not None else ""
        if not self._grip and self._model.marking:
            x, y = placing.to_film(event.position())
            self._model.draw_mark(x, y, 0.0)
            self._grip, mark = "rim", self._model.draft
        if mark is not None:
            self._grip_from = (mark.x_px, mark.y_px, mark.r_px)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        placing = self.placing
        if event is None or placing is None or not self._grip:
            return
        x, y = placing.to_film(event.position())
        x0, y0, r0 = self._grip_from
        if self._grip == "centre":
            self._model.draw_mark(x, y, r0)
        else:
            self._model.draw_mark(x0, y0, float(np.hypot(x - x0, y - y0)))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._grip:
            self._grip = ""
            self._model.keep_mark()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter sets a mark in the middle; Ctrl with the arrows moves it, with + and - sizes it."""
        mark, index = self._model.mark_here, self._model.index
        enter = event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and self._model.marking and mark is None and index is not None:
            self._model.draw_mark(index.width_px / 2, index.height_px / 2, index.height_px / 10)
            self._model.keep_mark()
            return
        if (
            event is None
            or mark is None
            or event.modifiers() != Qt.KeyboardModifier.ControlModifier
        ):
            super().keyPressEvent(event)
            return
        move = {
            Qt.Key.Key_Left: (-1, 0, 0),
            Qt.Key.Key_Right: (1, 0, 0),
            Qt.Key.Key_Up: (0, -1, 0),
            Qt.Key.Key_Down: (0, 1, 0),
            Qt.Key.Key_Plus: (0, 0, 1),
            Qt.Key.Key_Equal: (0, 0, 1),
            Qt.Key.Key_Minus: (0, 0, -1),
        }.get(Qt.Key(event.key()))
        if move is None:
            super().keyPressEvent(event)
            return
        self._model.draw_mark(mark.x_px + move[0], mark.y_px + move[1], mark.r_px + move[2])
        self._model.keep_mark()

    def _grip_at(self, point: QPointF) -> str:
        mark, placing = self._model.mark_here, self.placing
        if mark is None or placing is None or (not self._model.marking and self._model.track):
            return ""
        centre = placing.to_widget(mark.x_px, mark.y_px)
        away = float(np.hypot(point.x() - centre.x(), point.y() - centre.y()))
        if abs(away - mark.r_px * placing.zoom) < GRIP_PX:
            return "rim"
        return "centre" if away < GRIP_PX else ""

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("shade"))
        placing, index = self.placing, self._model.index
        if placing is None or index is None or self._image is None:
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, not self._model.playing)
        size = QRectF(
            placing.left, placing.top, index.width_px * placing.zoom, index.height_px * placing.zoom
        )
        painter.drawImage(size, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_path(painter, placing)
        self._paint_mark(painter, placing)
        if self._model.marking:
            self._paint_hint(painter, size)

    def _paint_path(self, painter: QPainter, placing: Placing) -> None:
        track, growing = self._model.track, self._model.growing
        if growing is not None:
            path = broken_line(placing.to_widget_all(growing.x_px, growing.y_px))
            painter.setPen(QPen(colour("chalk"), 2))
            painter.drawPath(path)
            return
        if track is None:
            return
        frame = self._model.frame
        points = placing.to_widget_all(*self._model.path_in_frame(frame))
        ahead, behind = broken_line(points[frame:]), broken_line(points[: frame + 1])
        painter.setPen(QPen(colour("shade", 0.55), 4))
        painter.drawPath(behind)
        painter.setPen(QPen(colour("shade", 0.8), 2, Qt.PenStyle.DotLine))
        painter.drawPath(ahead)
        painter.setPen(QPen(colour("chalk"), 2))
        painter.drawPath(behind)
        painter.setPen(QPen(colour("ember"), 1.5))
        for number in np.flatnonzero(track.state[: frame + 1] == State.CHECK):
            spot = QPointF(*points[number])
            painter.drawLine(spot + QPointF(-3, -3), spot + QPointF(3, 3))
            painter.drawLine(spot + QPointF(-3, 3), spot + QPointF(3, -3))
        if frame < len(track) and np.isfinite(track.x_px[frame]):
            spot = QPointF(*points[frame])
            painter.setBrush(colour("chalk"))
            painter.setPen(QPen(colour("shade"), 1.5))
            painter.drawEllipse(spot, 5, 5)

    def _paint_mark(self, painter: QPainter, placing: Placing) -> None:
        mark, rim = self._model.mark_here, self._model.rim
        if mark is None:
            return
        centre = placing.to_widget(mark.x_px, mark.y_px)
        radius = mark.r_px * placing.zoom
        painter.setBrush(Qt.BrushStyle.NoBrush)
        settled = self._model.track is not None and self._model.draft is None
        found = rim is not None and rim.found and self._model.draft is None
        if not (settled or found):
            for width, tone in ((4.0, colour("shade", 0.7)), (2.0, colour("brass"))):
                painter.setPen(QPen(tone, width))
                painter.drawEllipse(centre, radius, radius)
                painter.drawLine(centre + QPointF(-8, 0), centre + QPointF(8, 0))
                painter.drawLine(centre + QPointF(0, -8), centre + QPointF(0, 8))
        if found and rim is not None and self._model.clip and mark == self._model.clip.marks[0]:
            painter.save()
            painter.translate(placing.to_widget(rim.x_px, rim.y_px))
            painter.rotate(rim.angle_deg)
            a, b = rim.axes_px
            for width, tone in ((4.0, colour("shade", 0.6)), (2.0, colour("chalk"))):
                painter.setPen(QPen(tone, width))
                painter.drawEllipse(QPointF(0, 0), a * placing.zoom, b * placing.zoom)
                painter.drawLine(QPointF(-6, 0), QPointF(6, 0))
                painter.drawLine(QPointF(0, -6), QPointF(0, 6))
            painter.restore()

    def _paint_hint(self, painter: QPainter, size: QRectF) -> None:
        words = "Press on the centre of the near plate, drag to its rim, let go"
        painter.setFont(font("lead"))
        width = painter.fontMetrics().horizontalAdvance(words) + 32
        box = QRectF(size.center().x() - width / 2, size.top() + 12, width, 38)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("brass"))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(colour("on_brass"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
