"""The bar's path beside the film, at the film's own vertical scale and horizon.

The lane is painted with the film view's transform (not a plot of its own), so that the eye goes
straight across from the bar to its path. Both directions have the same scale.
"""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from keen_kettle.core.motion import first_event
from keen_kettle.core.track import State
from keen_kettle.desk.kit.lines import broken_line, only
from keen_kettle.desk.kit.theme import colour, font
from keen_kettle.desk.kit.words import EVENT_SHORT
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.view.film_marks import paint_state
from keen_kettle.desk.stations.review.view.film_view import FilmView

__all__ = ["PathLane"]

POINTED = (State.CHECK, State.REPEATED, State.BRIDGED, State.BY_HAND)
LABELLED = ("lift_off", "peak_velocity", "peak_height", "lowest")


class PathLane(QWidget):
    """True-scale side plot: centimetres from lift-off, up and to the front or rear."""

    def __init__(self, model: ReviewModel, film: FilmView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._film = film
        self.setFixedWidth(176)
        self.setAccessibleName("Bar path from the side")
        self.setToolTip("The bar's path at the film's scale, in cm from lift-off.")
        film.placed.connect(self.update)
        for signal in (model.answer_changed, model.tracking_changed, model.clip_changed):
            signal.connect(self.update)
        model.frame_shown.connect(lambda _image: self.update())

    def sizeHint(self) -> QSize:
        return QSize(176, 450)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("raised"))
        transform, answer, track = self._film.transform, self._model.answer, self._model.track
        begin = first_event(answer.events) if answer is not None else None
        if transform is None or answer is None or track is None or begin is None:
            painter.setPen(colour("quiet"))
            painter.setFont(font("small"))
            words = "The bar’s path appears here once it is tracked."
            if track is not None and answer is not None:
                words = "No lift was found, so there is no lift-off to measure the path from."
            box = QRectF(self.rect()).adjusted(16, 16, -16, -16)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        start = begin.frame
        x_px, y_px = self._model.path_in_frame(min(self._model.frame, len(track) - 1))
        x0, y0 = x_px[start], y_px[start]
        if not (np.isfinite(x0) and np.isfinite(y0)):
            return
        per_cm = transform.scale / (answer.scale.m_per_px * 100)
        span = answer.span_at(start)
        line_x = self._line_x((x_px - x0)[span], transform.scale)
        level = y0 * transform.scale + transform.top
        points = np.column_stack(
            [line_x + (x_px - x0) * transform.scale, y_px * transform.scale + transform.top]
        )
        self._paint_axes(painter, per_cm, line_x, level, float(np.nanmax(points[span, 1])))
        self._paint_path(painter, only(points, span))
        self._paint_events(painter, points, line_x)

    def _unscaled(self) -> bool:
        return self._model.answer is not None and self._model.answer.scale.by == "none"

    def _line_x(self, away_px: np.ndarray, zoom: float) -> float:
        """Where the lift-off line stands: so that the whole path lies in the lane, if it can."""
        low, high = float(np.nanmin(away_px)) * zoom, float(np.nanmax(away_px)) * zoom
        middle = (self.width() + 22) / 2 - (low + high) / 2
        return float(np.clip(middle, 48, self.width() - 24))

    def _paint_axes(
        self, painter: QPainter, per_cm: float, line_x: float, level: float, lowest: float
    ) -> None:
        painter.setFont(font("small"))
        painter.setPen(QPen(colour("edge"), 1))
        highest = int((level - 24) / per_cm // 25) * 25
        for height in range(0, max(highest, 0) + 1, 25):
            y = level - height * per_cm
            painter.setPen(QPen(colour("edge"), 1))
            painter.drawLine(QPointF(30, y), QPointF(self.width() - 8, y))
            painter.setPen(colour("quiet"))
            painter.drawText(
                QRectF(0, y - 8, 27, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                "" if self._unscaled() else str(height),
            )
        painter.setPen(QPen(colour("ink", 0.7), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(line_x, 8), QPointF(line_x, level + 8))
        foot = min(max(level, lowest) + 12, self.height() - 24.0)
        painter.setPen(QPen(colour("quiet"), 1))
        painter.drawLine(QPointF(line_x - 10 * per_cm, foot), QPointF(line_x + 10 * per_cm, foot))
        for cm in (-10, 0, 10):
            painter.drawLine(
                QPointF(line_x + cm * per_cm, foot - 3), QPointF(line_x + cm * per_cm, foot + 3)
            )
        right = self._model.clip is not None and self._model.clip.facing == "right"
        words = "rear · 10 cm · front" if right else "front · 10 cm · rear"
        if self._unscaled():
            words = words.replace(" · 10 cm", "")
        painter.drawText(
            QRectF(0, foot + 4, self.width(), 18), Qt.AlignmentFlag.AlignHCenter, words
        )
        top = level - highest * per_cm
        painter.drawText(
            QRectF(0, top - 24, 27, 16),
            Qt.AlignmentFlag.AlignRight,
            "" if self._unscaled() else "cm",
        )

    def _paint_path(self, painter: QPainter, points: np.ndarray) -> None:
        frame = self._model.frame
        for span, pen in (
            (points, QPen(colour("chalk", 0.45), 2, Qt.PenStyle.DotLine)),
            (points[: frame + 1], QPen(colour("chalk"), 2)),
        ):
            painter.setPen(pen)
            painter.drawPath(broken_line(span))
        track = self._model.track
        for state in POINTED if track is not None else ():
            for number in np.flatnonzero(track.state == state):  # type: ignore[union-attr]
                if np.isfinite(points[number, 0]):
                    paint_state(painter, QPointF(*points[number]), state)
        if frame < len(points) and np.isfinite(points[frame, 0]):
            painter.setPen(QPen(colour("shade"), 1.5))
            painter.setBrush(colour("ink"))
            painter.drawEllipse(QPointF(*points[frame]), 5, 5)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_events(self, painter: QPainter, points: np.ndarray, line_x: float) -> None:
        answer = self._model.answer
        assert answer is not None
        painter.setFont(font("small"))
        taken: list[float] = []
        for name in LABELLED:
            event = answer.events.get(name)
            if event is None or not np.isfinite(points[event.frame, 0]):
                continue
            x, y = points[event.frame]
            painter.setPen(QPen(colour("ink"), 1.5))
            painter.setBrush(colour("raised"))
            painter.drawEllipse(QPointF(x, y), 3.5, 3.5)
            words = EVENT_SHORT[name]
            width = painter.fontMetrics().horizontalAdvance(words)
            right = x >= line_x - 1 and x + 10 + width < self.width() - 4
            at = y + 4
            while any(abs(at - other) < 13 for other in taken):
                at += 4
            taken.append(at)
            painter.setPen(colour("ink"))
            painter.drawText(QPointF(x + 9 if right else x - 9 - width, at), words)
