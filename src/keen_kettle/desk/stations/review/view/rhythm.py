"""The time line under the film: upward velocity, height, phases, events, doubtful frames.

The picture is laid out once when the answer or the size changes and kept as a pixmap; painting
then only adds the play head, which follows the film and can be dragged. (A plot library was tried:
its scene objects brought the process down when windows were opened and closed again.)
"""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QBrush,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from keen_kettle.core.analysis import Assessment
from keen_kettle.core.motion import event_name, first_event
from keen_kettle.core.track import State
from keen_kettle.desk.kit.lines import spots, unbroken
from keen_kettle.desk.kit.theme import colour, font
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.event_model import EventModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["Axes", "Rhythm"]

Array = NDArray[np.float64]
F = TypeVar("F", float, Array)

LEFT, RIGHT, TOP, BOTTOM = 40, 44, 26, 24
FLAG_PX = 6
BANDS = (
    ("dip", "dip_start", "dip_bottom"),
    ("drive", "dip_bottom", "peak_velocity"),
    ("first pull", "lift_off", "first_pull_end"),
    ("transition", "first_pull_end", "power_position"),
    ("second pull", "power_position", "peak_velocity"),
    ("turnover", "peak_velocity", "catch"),
    ("catch", "catch", "lowest"),
)
STATE_PATTERNS = (
    ((State.CHECK,), Qt.BrushStyle.BDiagPattern, "ember"),
    ((State.LOST,), Qt.BrushStyle.DiagCrossPattern, "ember"),
    ((State.REPEATED,), Qt.BrushStyle.Dense6Pattern, "quiet"),
    ((State.HIDDEN, State.OUTSIDE), Qt.BrushStyle.HorPattern, "quiet"),
    ((State.BRIDGED,), Qt.BrushStyle.VerPattern, "chalk"),
)
"""How the states look on the time line: slanted doubtful, crossed lost, dotted repeated, level hidden,
upright bridged."""


@dataclass(frozen=True)
class Axes:
    """Where times (s), velocities (m/s) and heights (cm) lie in the widget."""

    box: QRectF
    begin_s: float
    end_s: float
    low_mps: float
    top_mps: float
    cm_per_mps: float

    def x(self, t_s: F) -> F:
        share = (t_s - self.begin_s) / (self.end_s - self.begin_s)
        return self.box.left() + share * self.box.width()

    def y(self, v_mps: F) -> F:
        share = (self.top_mps - v_mps) / (self.top_mps - self.low_mps)
        return self.box.top() + share * self.box.height()

    def y_height(self, cm: F) -> F:
        """Heights share velocity's zero line."""
        return self.y(cm / self.cm_per_mps)

    def time(self, x: float) -> float:
        share = (x - self.box.left()) / self.box.width()
        return self.begin_s + float(np.clip(share, 0, 1)) * (self.end_s - self.begin_s)


class Rhythm(QWidget):
    """Height and upward velocity along the film's time."""

    def __init__(
        self,
        model: ReviewModel,
        hand: HandModel,
        drawing: DrawingModel,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._model, self._hand, self._drawing = model, hand, drawing
        self._moves = EventModel(model, self)
        self._flag = ""
        self.setMouseTracking(True)
        self._whole = False
        self._picture: QPixmap | None = None
        self._idle = IdleCall(self._lay_out_anew, self)
        self.setAccessibleName("Time line: upward velocity and height")
        self.setToolTip("Upward velocity (line) and height (dashes). Click or drag to go there.")
        model.answer_changed.connect(self.redraw)
        model.clip_changed.connect(self.redraw)
        model.frame_shown.connect(lambda _image: self.update())
        hand.changed.connect(self.update)
        drawing.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(900, 180)

    def show_whole(self, on: bool) -> None:
        """The whole film, or (as long as one was found) the lift with a little round it."""
        self._whole = on
        self.redraw()

    def switch_whole(self) -> None:
        self.show_whole(not self._whole)

    def redraw(self) -> None:
        """Lay the picture out anew, in a turn of the event loop of its own."""
        self._idle.ask()

    def _lay_out_anew(self) -> None:
        self._picture = self._laid_out() if self.isVisible() else None
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._picture = None
        super().resizeEvent(event)

    @property
    def axes(self) -> Axes:
        begin, end = self._span()
        box = QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - BOTTOM)
        answer = self._model.answer
        if answer is None or not np.isfinite(answer.motion.vy_mps).any():
            return Axes(box, begin, end, -1.2, 2.4, 70.0)
        v = answer.motion.vy_mps
        top = max(float(np.nanmax(v)) * 1.25, 0.8)
        low = min(float(np.nanmin(v)) * 1.15, -0.3)
        highest = max(float(np.nanmax(self._heights_cm(answer))), 10.0)
        return Axes(box, begin, end, low, top, highest * 1.1 / top)

    @property
    def head_x(self) -> float | None:
        """Where the play head stands, held at the edge when the film is outside of the view."""
        index = self._model.index
        if index is None:
            return None
        axes = self.axes
        t_s = float(np.clip(self._model.times_s[self._model.frame], axes.begin_s, axes.end_s))
        return axes.x(t_s)

    def _times_are_true(self) -> bool:
        answer = self._model.answer
        return answer is None or answer.clock.trusted

    def _speeds_are_true(self) -> bool:
        answer = self._model.answer
        return answer is None or (self._times_are_true() and answer.scale.by != "none")

    def _speed_words(self) -> str:
        if not self._times_are_true():
            return "velocity, times not known"
        return "velocity, m/s" if self._speeds_are_true() else "velocity, scale not known"

    def _height_words(self) -> str:
        answer = self._model.answer
        return "height" if answer is not None and answer.scale.by == "none" else "height, cm"

    def _span(self) -> tuple[float, float]:
        times, answer = self._model.times_s, self._model.answer
        end = float(times[-1] + np.median(np.diff(times))) if len(times) > 1 else 1.0
        if self._whole or answer is None or "peak_velocity" not in answer.events:
            return 0.0, end
        times_s = [one.t_s for name, one in answer.events.items() if name != "stand"]
        first, last = min(times_s), max(times_s)
        return max(first - 0.4, 0.0), min(last + 0.7, end)

    @staticmethod
    def _heights_cm(answer: Assessment) -> Array:
        start = first_event(answer.events)
        base = answer.motion.y_m[start.frame] if start is not None else 0.0
        return np.asarray(100 * (answer.motion.y_m - base))

    # Going there

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._flag = self.flag_at(event.position())
            drawn = self._drawn_at(event.position())
            if drawn is not None:
                self._model.go_to_frame(drawn[0])
            elif not self._flag:
                self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if not event.buttons() & Qt.MouseButton.LeftButton:
            self._hover(event)
            return
        t_s = self.axes.time(event.position().x())
        if self._flag:
            frame = int(np.argmin(np.abs(self._model.times_s - t_s)))
            self._moves.move(self._flag, frame)
        else:
            self._model.show_time(t_s)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._flag:
            self._flag = ""
            self._moves.keep()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """A flag that was moved goes back to where the program finds it."""
        flag = self.flag_at(event.position()) if event is not None else ""
        if flag:
            self._moves.free(flag)

    def flag_spots(self) -> dict[str, QPointF]:
        """Where each event's flag can be taken hold of."""
        answer = self._model.answer
        if answer is None:
            return {}
        axes = self.axes
        foot = axes.box.bottom() - FLAG_PX
        return {name: QPointF(axes.x(one.t_s), foot) for name, one in answer.events.items()}

    def flag_at(self, point: QPointF) -> str:
        """The event whose flag is at a place, or ""."""
        flags = self.flag_spots()
        near = [
            name
            for name, spot in flags.items()
            if abs(spot.x() - point.x()) <= FLAG_PX and abs(spot.y() - point.y()) <= FLAG_PX + 2
        ]
        return min(near, key=lambda name: abs(flags[name].x() - point.x()), default="")

    def _hover(self, event: QMouseEvent) -> None:
        flag, answer = self.flag_at(event.position()), self._model.answer
        shape = Qt.CursorShape.SizeHorCursor if flag else Qt.CursorShape.ArrowCursor
        self.setCursor(shape)
        if flag and answer is not None:
            one = answer.events[flag]
            words = event_name(flag, self._model.settings().derivative.family)
            source = "set by hand" if one.source == "by hand" else f"from the {one.source}"
            text = f"{words}: {one.t_s:.2f} ± {one.sigma_s:.2f} s, {source}. Drag to move it."
            QToolTip.showText(event.globalPosition().toPoint(), text, self)
        elif (drawn := self._drawn_at(event.position())) is not None:
            QToolTip.showText(event.globalPosition().toPoint(), drawn[1], self)

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._picture is None:
            self._picture = self._laid_out()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture)
        x = self.head_x
        if x is not None:
            painter.setPen(QPen(colour("brass"), 2))
            painter.drawLine(QPointF(x, TOP), QPointF(x, self.height() - BOTTOM))
            self._paint_span(painter, x)
        self._paint_peak(painter)
        painter.setPen(QPen(colour("shade"), 1))
        painter.setBrush(colour("brass"))
        for spot, _frame, _words in self.drawn_spots():
            painter.drawRect(QRectF(spot.x() - 4, spot.y() - 4, 8, 8))

    def drawn_spots(self) -> list[tuple[QPointF, int, str]]:
        """Where drawings and notes stand on the time line, their frames and words."""
        times, axes = self._model.times_s, self.axes
        top = axes.box.top() + FLAG_PX
        return [
            (QPointF(axes.x(float(times[frame])), top), frame, words)
            for frame, words in self._drawing.marks()
            if frame < len(times) and axes.begin_s <= times[frame] <= axes.end_s
        ]

    def _drawn_at(self, point: QPointF) -> tuple[int, str] | None:
        for spot, frame, words in self.drawn_spots():
            if max(abs(spot.x() - point.x()), abs(spot.y() - point.y())) <= FLAG_PX:
                return frame, words
        return None

    def _paint_span(self, painter: QPainter, head_x: float) -> None:
        """The span that has been begun, up to the play head."""
        begin = self._hand.span_from
        times = self._model.times_s
        if begin is not None and begin < len(times):
            axes = self.axes
            x = axes.x(float(times[begin]))
            box = QRectF(min(x, head_x), axes.box.top(), abs(head_x - x), axes.box.height())
            painter.fillRect(box, colour("brass", 0.3))

    def _laid_out(self) -> QPixmap:
        """Everything but the play head and what stands before it, as a picture: laid out once, shown many times."""
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(colour("raised"))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font("small"))
        axes, answer = self.axes, self._model.answer
        if answer is not None:
            painter.setClipRect(axes.box.adjusted(0, -22, 0, 0))
            self._paint_bands(painter, axes, answer)
            self._paint_other_lifts(painter, axes, answer)
            self._paint_doubt(painter, axes)
            self._paint_curves(painter, axes, answer)
            self._paint_flags(painter, axes, answer)
            painter.setClipping(False)
        self._paint_axes(painter, axes)
        painter.end()
        return picture

    def _paint_axes(self, painter: QPainter, axes: Axes) -> None:
        box = axes.box
        painter.setPen(QPen(colour("edge"), 1))
        painter.drawLine(QPointF(box.left(), axes.y(0)), QPointF(box.right(), axes.y(0)))
        painter.drawLine(box.topLeft(), box.bottomLeft())
        painter.drawLine(box.topRight(), box.bottomRight())
        painter.setPen(colour("quiet"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        for v in _ticks(axes.low_mps, axes.top_mps, 1.0) if self._speeds_are_true() else ():
            painter.drawText(
                QRectF(0, axes.y(v) - 8, LEFT - 8, 16), right, f"{v:.0f}".replace("-", "−")
            )
        if self._model.answer is not None and self._model.answer.scale.by != "none":
            for cm in _ticks(0, axes.top_mps * axes.cm_per_mps, 50):
                spot = QRectF(box.right() + 8, axes.y_height(cm) - 8, RIGHT - 8, 16)
                painter.drawText(spot, left, f"{cm:.0f}")
        step = 0.5 if axes.end_s - axes.begin_s <= 8 else 2.0
        for t in _ticks(axes.begin_s, axes.end_s, step) if self._times_are_true() else ():
            painter.drawLine(QPointF(axes.x(t), box.bottom()), QPointF(axes.x(t), box.bottom() + 4))
            spot = QRectF(axes.x(t) - 30, box.bottom() + 5, 60, 16)
            painter.drawText(spot, Qt.AlignmentFlag.AlignHCenter, f"{t:.1f} s")
        self._paint_legend(painter, box)

    def _paint_legend(self, painter: QPainter, box: QRectF) -> None:
        """What the two lines are, in the corner where the bar still rests."""
        pens = QPen(colour("chalk"), 2), QPen(colour("ink", 0.7), 1.5, Qt.PenStyle.DashLine)
        for number, (pen, words) in enumerate(
            zip(pens, (self._speed_words(), self._height_words()), strict=True)
        ):
            y = box.top() + 9 + 15 * number
            painter.setPen(pen)
            painter.drawLine(QPointF(box.left() + 6, y), QPointF(box.left() + 22, y))
            painter.setPen(colour("quiet"))
            spot = QRectF(box.left() + 27, y - 8, 180, 16)
            painter.drawText(spot, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_bands(self, painter: QPainter, axes: Axes, answer: Assessment) -> None:
        for number, (words, first, last) in enumerate(BANDS):
            if first not in answer.events or last not in answer.events:
                continue
            a, b = axes.x(answer.events[first].t_s), axes.x(answer.events[last].t_s)
            if b <= a:
                continue
            band = QRectF(a, axes.box.top() - 22, b - a, axes.box.height() + 22)
            painter.fillRect(band, colour("ink", 0.04 if number % 2 else 0.10))
            painter.setPen(QPen(colour("edge"), 1))
            painter.drawLine(band.topLeft(), band.bottomLeft())
            painter.drawLine(band.topRight(), band.bottomRight())
            painter.setPen(colour("quiet"))
            said = next(
                (
                    w
                    for w in (words, words.split()[0])
                    if painter.fontMetrics().horizontalAdvance(w) < b - a
                ),
                "",
            )
            painter.drawText(
                QRectF(a, band.top() + 3, b - a, 16), Qt.AlignmentFlag.AlignHCenter, said
            )

    def _paint_other_lifts(self, painter: QPainter, axes: Axes, answer: Assessment) -> None:
        """A band with its number for each lift of the clip that is not judged just now."""
        for number, rep in enumerate(answer.reps):
            times = [one.t_s for one in rep.events.values()]
            if number == answer.rep or not times:
                continue
            left, right = axes.x(min(times)), axes.x(max(times))
            band = QRectF(left, axes.box.top() - 22, right - left, axes.box.height() + 22)
            painter.fillRect(band, colour("ink", 0.05))
            painter.setPen(colour("quiet"))
            said = QRectF(left - 40, band.top() + 3, right - left + 80, 16)
            painter.drawText(said, Qt.AlignmentFlag.AlignHCenter, f"lift {number + 1}")

    def _paint_doubt(self, painter: QPainter, axes: Axes) -> None:
        """Hatch the frames that were not plainly seen: each state in its own way."""
        track = self._model.track
        if track is None:
            return
        for states, pattern, tone in STATE_PATTERNS:
            for left, right in self._stretches(axes, np.isin(track.state, states)):
                patch = QRectF(left, axes.box.top(), max(right - left, 2), axes.box.height())
                painter.fillRect(patch, QBrush(colour(tone, 0.7), pattern))
        painter.setPen(QPen(colour("shade"), 1))
        painter.setBrush(colour("brass"))
        for number in np.flatnonzero(track.state == State.BY_HAND):
            spot = QPointF(axes.x(self._model.times_s[number]), axes.box.bottom() - 6)
            ends = (QPointF(0, -5), QPointF(4, 0), QPointF(0, 5), QPointF(-4, 0))
            painter.drawPolygon(QPolygonF([spot + end for end in ends]))
        painter.setPen(QPen(colour("ember"), 2, Qt.PenStyle.DashLine))
        for cut in track.cuts:
            x = axes.x(self._model.times_s[cut])
            painter.drawLine(QPointF(x, axes.box.top()), QPointF(x, axes.box.bottom()))

    def _stretches(self, axes: Axes, chosen: NDArray[np.bool_]) -> list[tuple[float, float]]:
        """Where unbroken stretches of frames begin and end in the widget."""
        edges = np.flatnonzero(np.diff(np.concatenate([[0], chosen.astype(int), [0]])))
        t_s = self._model.times_s
        half = float(np.median(np.diff(t_s))) / 2
        return [
            (axes.x(t_s[a] - half), axes.x(t_s[b - 1] + half))
            for a, b in zip(edges[::2], edges[1::2], strict=True)
        ]

    def _paint_curves(self, painter: QPainter, axes: Axes, answer: Assessment) -> None:
        motion, heights = answer.motion, self._heights_cm(answer)
        margin = 0.1 * (axes.end_s - axes.begin_s)
        near = (motion.t_s > axes.begin_s - margin) & (motion.t_s < axes.end_s + margin)
        for span in unbroken(np.isfinite(motion.vy_mps) & near):
            x, v, s = axes.x(motion.t_s[span]), motion.vy_mps[span], motion.vy_sigma_mps[span]
            up, down = spots(x, axes.y(v + s)), spots(x, axes.y(v - s))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("chalk", 0.4))
            painter.drawPolygon(QPolygonF(up + down[::-1]))
            ground = [QPointF(x[-1], axes.y(0)), QPointF(x[0], axes.y(0))]
            painter.setBrush(colour("chalk", 0.14))
            painter.drawPolygon(QPolygonF(spots(x, axes.y(np.maximum(v, 0))) + ground))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("chalk"), 2))
            painter.drawPolyline(QPolygonF(spots(x, axes.y(v))))
            painter.setPen(QPen(colour("ink", 0.7), 1.5, Qt.PenStyle.DashLine))
            painter.drawPolyline(QPolygonF(spots(x, axes.y_height(heights[span]))))

    def _paint_flags(self, painter: QPainter, axes: Axes, answer: Assessment) -> None:
        """A pole and a flag for each event: chalk from the bar, hollow from the body, brass by hand."""
        for name, spot in self.flag_spots().items():
            source = answer.events[name].source
            tone = "brass" if source == "by hand" else "chalk"
            painter.setPen(QPen(colour(tone, 0.8), 1))
            painter.drawLine(
                QPointF(spot.x(), axes.box.top()), QPointF(spot.x(), axes.box.bottom())
            )
            painter.setPen(QPen(colour(tone), 1.5))
            painter.setBrush(colour("raised" if source == "body" else tone))
            ends = (QPointF(-5, 6), QPointF(5, 6), QPointF(0, -5))
            painter.drawPolygon(QPolygonF([spot + end for end in ends]))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_peak(self, painter: QPainter) -> None:
        """The greatest velocity, before the play head, which often stands there."""
        answer, axes = self._model.answer, self.axes
        if answer is None:
            return
        event, value = answer.events.get("peak_velocity"), answer.measures["peak_velocity"].value
        if event is None or value is None:
            return
        spot, words = QPointF(axes.x(event.t_s), axes.y(value)), f"{value:.2f} m/s"
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font("small"))
        said = QRectF(
            spot.x() + 9, spot.y() - 10, painter.fontMetrics().horizontalAdvance(words), 16
        )
        painter.fillRect(said.adjusted(-3, 0, 3, 0), colour("raised", 0.9))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("ink"))
        painter.drawEllipse(spot, 4, 4)
        painter.setPen(colour("ink"))
        painter.drawText(said, Qt.AlignmentFlag.AlignCenter, words)


def _ticks(low: float, high: float, step: float) -> list[float]:
    """Round numbers within a range."""
    first = int(np.ceil(low / step - 1e-9))
    return [k * step for k in range(first, int(np.floor(high / step + 1e-9)) + 1)]
