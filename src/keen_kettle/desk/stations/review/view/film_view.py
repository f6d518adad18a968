"""Shows the film's frame, large, with the bar's path over it, and takes what the hand does on it."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.kit.lines import broken_line, only
from keen_kettle.desk.kit.theme import colour
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.state.review.suggestion_model import SuggestionModel
from keen_kettle.desk.stations.review.view.body_marks import paint_body
from keen_kettle.desk.stations.review.view.drawing_marks import (
    label_of,
    paint_drawing,
    paint_labels,
)
from keen_kettle.desk.stations.review.view.film_hint import film_hint
from keen_kettle.desk.stations.review.view.film_marks import (
    Ellipse,
    ellipse_of,
    paint_handles,
    paint_hint,
    paint_path,
)
from keen_kettle.desk.stations.review.view.hand_marks import paint_hand_work
from keen_kettle.desk.stations.review.view.loupe import loupe_box, paint_loupe
from keen_kettle.desk.stations.review.view.note_line import NoteLine
from keen_kettle.desk.stations.review.view.view_transform import Placing
from keen_kettle.desk.stations.review.view.zoom import Framing, lifter_box

__all__ = ["FilmView"]

GRIP_PX = 12
CLOSER = 1.25
"""How much one notch of the wheel enlarges."""
NUDGE, STRIDE = 0.25, 2.0
"""Film pixels that Ctrl with an arrow moves, and Ctrl+Shift."""
ARROWS = {
    Qt.Key.Key_Left: (-1, 0, 0),
    Qt.Key.Key_Right: (1, 0, 0),
    Qt.Key.Key_Up: (0, -1, 0),
    Qt.Key.Key_Down: (0, 1, 0),
    Qt.Key.Key_Plus: (0, 0, 1),
    Qt.Key.Key_Equal: (0, 0, 1),
    Qt.Key.Key_Minus: (0, 0, -1),
}


class FilmView(QWidget):
    """The film. While marking: press on the plate's centre, drag to its rim, let go. A tracked point
    can be dragged on its frame at any time; drawings too."""

    placed = pyqtSignal()
    drawing_menu_wanted = pyqtSignal(QPointF)

    def __init__(
        self,
        model: ReviewModel,
        hand: HandModel,
        body: BodyModel,
        drawing: DrawingModel,
        suggested: SuggestionModel,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._model, self._hand, self._body, self._drawing = model, hand, body, drawing
        self._suggested = suggested
        self._image: QImage | None = None
        self._grip = ""
        self._grip_away = (0.0, 0.0)
        self._grip_from = Ellipse(0.0, 0.0, 0.0, 1.0, 0.0)
        self._loupe_at: tuple[float, float] | None = None
        self._pan_from = QPointF()
        self._fresh = True
        self.framing = Framing()
        self.note = NoteLine(self)
        self.note.written.connect(self._end_note)
        self.setMouseTracking(True)
        self.setMinimumSize(320, 240)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Film")
        self.setToolTip(
            "The film. Left and right arrows step; space plays; the wheel looks closer (Z: the lifter)."
        )
        model.frame_shown.connect(self._show)
        for signal in (model.mark_changed, model.tracking_changed):
            signal.connect(self.update)
        model.answer_changed.connect(self._on_answer)
        hand.changed.connect(self._on_marking)
        body.changed.connect(self._on_marking)
        drawing.changed.connect(self._on_marking)
        suggested.changed.connect(self.update)
        drawing.writing_wanted.connect(self._begin_note)
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
        return self.framing.placing(QSizeF(self.size()), QSizeF(index.width_px, index.height_px))

    def look_closer(self) -> None:
        """The part round the lifter, or all of the film again."""
        index = self._model.index
        if self.framing.on_lifter or not self.framing.whole:
            self.framing.show_whole()
        elif index is not None:
            self.framing.show_lifter(lifter_box(index, self._model.track, self._model.body))
            if self.framing.whole:
                self._model.desk.said.emit("The lifter comes close once the bar is tracked.")
        self._reframe()

    def _on_answer(self) -> None:
        """Another clip's lifter is looked for once; then the picture does not move by itself."""
        index = self._model.index
        if index is not None and self.framing.on_lifter and self.framing.whole:
            self.framing.show_lifter(lifter_box(index, self._model.track, self._model.body))
            self.placed.emit()
        self.update()

    def _reframe(self) -> None:
        self.placed.emit()
        self.update()

    def _show(self, image: QImage) -> None:
        self._image = image
        if not self._grip:
            self._loupe_at = None
        self.update()

    def _on_clip(self) -> None:
        index = self._model.index
        if index is None:
            self._image = None
            self.framing.next_clip()
            self._fresh = True
        elif self._fresh:
            self._fresh = False
            # A film held upright is mostly floor and ceiling.
            self.framing.on_lifter |= index.height_px > index.width_px
        self._reframe()

    def _on_marking(self) -> None:
        aiming = self._model.marking or self._hand.clicking or bool(self._hand.measuring)
        aiming = aiming or self._body.seeding or bool(self._drawing.tool)
        self.setCursor(Qt.CursorShape.CrossCursor if aiming else Qt.CursorShape.ArrowCursor)
        if aiming and not self.note.isVisible():
            self.setFocus()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.placed.emit()

    # The hand

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        placing = self.placing
        if event is None or placing is None:
            return
        x, y = placing.to_film(event.position())
        if event.button() == Qt.MouseButton.RightButton:
            if self._drawing.grip(x, y, GRIP_PX / placing.zoom):
                self.drawing_menu_wanted.emit(event.globalPosition())
            return
        self._pan_from = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._grip = "pan"
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self._drawing.tool:
            self._grip = "tool"
            self._drawing.press(x, y, GRIP_PX / placing.zoom, _loose(event))
            return
        self._loupe_at = (x, y)
        if self._hand.clicking:
            self._hand.click(x, y)
        elif self._hand.measuring:
            self._grip = "line"
            self._hand.draw_line((x, y, x, y))
        elif self._body.seeding:
            self._grip = "trunk"
            self._body.draw_line((x, y, x, y))
        else:
            self._take_hold(event.position(), x, y)

    def _take_hold(self, spot: QPointF, x: float, y: float) -> None:
        """Grip a handle of the mark, the path's point, or begin a new mark."""
        shown = self._ellipse()
        self._grip = self._grip_at(spot, shown)
        if self._grip == "point":
            self._hand.draw_point(*(self._hand.track_point or (x, y)))
        elif self._grip == "joint":
            held = self._body.place(self._body.chosen, self._model.frame)
            self._grip_away = (x - held[0], y - held[1]) if held is not None else (0.0, 0.0)
            self._body.changed.emit()
        elif self._grip == "drawn":
            self._loupe_at = None
        elif not self._grip and self._model.marking:
            self._model.draw_mark(x, y, 0.0)
            self._grip, shown = "rim", Ellipse(x, y, 0.0, 1.0, 0.0)
        elif not self._grip and not self.framing.whole:
            self._grip, self._loupe_at = "pan", None
        if shown is not None:
            self._grip_from = shown
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        placing = self.placing
        if event is None or placing is None or not (self._grip or self._drawing.tool):
            return
        x, y = placing.to_film(event.position())
        if self._grip == "pan":
            self._pan(event.position())
            return
        if self._drawing.tool:
            self._drawing.drag(x, y, GRIP_PX / placing.zoom, _loose(event))
            return
        if self._grip == "drawn":
            self._drawing.move(x, y)
            return
        self._loupe_at = (x, y)
        begin = self._grip_from
        mark = self._model.mark_here
        exact = mark is not None and mark.exact
        if self._grip == "line" and self._hand.line is not None:
            self._hand.draw_line((*self._hand.line[:2], x, y))
        elif self._grip == "point":
            self._hand.draw_point(x, y)
        elif self._grip == "trunk" and self._body.line is not None:
            self._body.draw_line((*self._body.line[:2], x, y))
        elif self._grip == "joint":
            away = self._grip_away
            self._body.draw_point(self._body.chosen, x - away[0], y - away[1])
        elif self._grip == "rim":
            self._model.draw_mark(begin.x, begin.y, float(np.hypot(x - begin.x, y - begin.y)))
        elif self._grip == "centre":
            self._model.draw_mark(x, y, begin.r, begin.narrow, begin.angle_deg, exact)
        else:
            self._draw_exact(begin.pulled(self._grip, x, y))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        grip, self._grip = self._grip, ""
        self._loupe_at = None
        placing = self.placing
        if grip == "tool" and event is not None and placing is not None:
            x, y = placing.to_film(event.position())
            self._drawing.release(x, y, GRIP_PX / placing.zoom, _loose(event))
        elif grip == "drawn":
            self._drawing.keep_move()
        elif grip == "line":
            self._hand.keep_line()
        elif grip == "point":
            self._hand.keep_point()
        elif grip == "trunk":
            self._body.keep_line()
        elif grip == "joint":
            self._body.keep_point()
        elif grip and grip != "pan" and self._model.draft is not None:
            self._model.keep_mark()
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Look closer, or less so, at what is under the pointer."""
        index = self._model.index
        if event is None or index is None or not event.angleDelta().y():
            return
        film = QSizeF(index.width_px, index.height_px)
        times = float(CLOSER ** (event.angleDelta().y() / 120))
        self.framing.closer(times, event.position(), QSizeF(self.size()), film)
        self._reframe()
        event.accept()

    def _pan(self, spot: QPointF) -> None:
        index = self._model.index
        if index is not None and not self.framing.whole:
            film = QSizeF(index.width_px, index.height_px)
            self.framing.pan(spot - self._pan_from, QSizeF(self.size()), film)
            self._pan_from = spot
            self._reframe()

    def _draw_exact(self, shape: Ellipse) -> None:
        self._model.draw_mark(shape.x, shape.y, shape.r, shape.narrow, shape.angle_deg, True)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter sets a mark in the middle (or takes the predicted place while clicking through);
        Ctrl with the arrows moves mark or point by a quarter of a pixel, with + and - sizes the
        mark; with Shift as well, by two pixels."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._enter():
            return
        move = ARROWS.get(Qt.Key(event.key()))
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if move is None or not control:
            super().keyPressEvent(event)
            return
        far = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        step = STRIDE if far else NUDGE
        self._nudge(*(step * part for part in move))

    def _enter(self) -> bool:
        index = self._model.index
        if self._hand.clicking:
            self._hand.click_predicted()
            return True
        if self._model.marking and self._model.mark_here is None and index is not None:
            self._model.draw_mark(index.width_px / 2, index.height_px / 2, index.height_px / 10)
            self._model.keep_mark()
            return True
        return False

    def _nudge(self, dx: float, dy: float, dr: float) -> None:
        """Move the mark of this frame, or the path's point, by parts of a pixel."""
        mark, shown = self._model.mark_here, self._ellipse()
        if mark is None or shown is None:
            if not dr and self._hand.nudge(dx, dy):
                self._loupe_at = self._hand.track_point
            return
        moved = Ellipse(shown.x + dx, shown.y + dy, shown.r + dr, shown.narrow, shown.angle_deg)
        found = self._model.rim is not None and self._model.rim.found
        if mark.exact or found:
            self._draw_exact(moved)
        else:
            self._model.draw_mark(moved.x, moved.y, moved.r)
        self._model.keep_mark()
        self._loupe_at = (moved.x, moved.y)
        self.update()

    def _ellipse(self) -> Ellipse | None:
        """The ellipse that is shown for this frame's mark."""
        mark, model = self._model.mark_here, self._model
        if mark is None:
            return None
        first = model.clip is not None and bool(model.clip.marks) and mark == model.clip.marks[0]
        return ellipse_of(mark, model.rim if first and model.draft is None else None)

    def _grip_at(self, point: QPointF, shown: Ellipse | None) -> str:
        placing = self.placing
        if placing is None:
            return ""
        adjusting = self._model.marking or self._model.track is None
        if shown is not None and adjusting:
            for name, place in shown.handles().items():
                if _near(point, placing.to_widget(*place)):
                    return name
            centre = placing.to_widget(shown.x, shown.y)
            away = float(np.hypot(point.x() - centre.x(), point.y() - centre.y()))
            if shown.narrow > 0.98 and abs(away - shown.r * placing.zoom) < GRIP_PX / 2:
                return "rim"
        if self._model.marking or self._model.tracking:
            return ""
        here = self._hand.track_point
        if here is not None and _near(point, placing.to_widget(*here)):
            return "point"
        spot, reach = placing.to_film(point), GRIP_PX / placing.zoom
        self._body.chosen = self._body.nearest(*spot, reach)
        if self._body.chosen:
            return "joint"
        return "drawn" if self._drawing.grip(*spot, reach) else ""

    def _begin_note(self) -> None:
        placing = self.placing
        if placing is None or not self._drawing.spots:
            return
        first = self._drawing.spots[0]
        self.note.write(placing.to_widget(first.x, first.y).toPoint())

    def _end_note(self, words: str) -> None:
        self.setFocus()
        self._drawing.write(words)

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
        seen = size.intersected(QRectF(self.rect()))
        painter.drawImage(seen, self._image, placing.box_in_film(seen))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_paths(painter, placing)
        self._paint_body(painter, placing)
        self._paint_hand(painter, placing)
        self._paint_drawings(painter, placing, seen)
        if self.hint:
            paint_hint(painter, seen, self.hint)
        if self._loupe_at is not None:
            box = loupe_box(seen, placing.to_widget(*self._loupe_at))
            paint_loupe(painter, self._image, box, self._loupe_at, self._paint_shapes)

    @property
    def hint(self) -> str:
        """The line of help that stands over the film, or ""."""
        models = self._model, self._hand, self._body, self._drawing, self._suggested
        return film_hint(*models)

    def _paint_paths(self, painter: QPainter, placing: Placing) -> None:
        track, growing, frame = self._model.track, self._model.growing, self._model.frame
        if growing is not None:
            path = broken_line(placing.to_widget_all(growing.x_px, growing.y_px))
            painter.setPen(QPen(colour("chalk"), 2))
            painter.drawPath(path)
            return
        for other in self._model.aside:
            painter.setPen(QPen(colour("ink", 0.6), 1.2, Qt.PenStyle.DashDotLine))
            painter.drawPath(broken_line(placing.to_widget_all(other.x_px, other.y_px)))
        if track is None:
            return
        points = placing.to_widget_all(*self._model.path_in_frame(frame))
        if self._model.answer is not None:
            points = only(points, self._model.answer.span_at(frame))
        paint_path(painter, points, track, frame)
        if frame < len(track) and np.isfinite(track.x_px[frame]):
            painter.setBrush(colour("chalk"))
            painter.setPen(QPen(colour("shade"), 1.5))
            painter.drawEllipse(QPointF(*points[frame]), 5, 5)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_body(self, painter: QPainter, placing: Placing) -> None:
        body, frame = self._body.track, self._model.frame
        if body is None or not self._body.shown or self._model.marking or frame >= len(body):
            return

        def place(name: str) -> QPointF | None:
            spot = self._body.place(name, frame)
            return placing.to_widget(*spot) if spot is not None else None

        paint_body(painter, body, frame, place, self._body.chosen)

    def _paint_drawings(self, painter: QPainter, placing: Placing, film: QRectF) -> None:
        labels = []
        for one in self._drawing.visible:
            here, ghost = (
                placing.to_widget_all(*points.T) if points is not None else None
                for points in (one.shown.points, one.shown.ghost)
            )
            chosen = one.number in (-1, self._drawing.chosen)
            paint_drawing(painter, film, one.drawing.kind, here, ghost, chosen)
            labels.append(label_of(film, one, here, ghost))
        clear = tuple(placing.to_widget(x, 0).x() for x in self._drawing.lifter_x())
        said = [label for label in labels if label is not None]
        paint_labels(painter, QRectF(self.rect()), (clear[0], clear[1]), said)

    def _paint_hand(self, painter: QPainter, placing: Placing) -> None:
        """Marks and what is being drawn, in the film's place; then the handles."""
        painter.save()
        painter.translate(placing.left, placing.top)
        painter.scale(placing.zoom, placing.zoom)
        self._paint_shapes(painter, placing.zoom)
        painter.restore()
        shown = self._ellipse()
        adjusting = self._model.marking or self._model.track is None
        if shown is not None and adjusting and not self._model.tracking and self._grip != "rim":
            paint_handles(painter, [placing.to_widget(*spot) for spot in shown.handles().values()])

    def _paint_shapes(self, painter: QPainter, enlarged: float) -> None:
        """Everything by hand on this frame, in film coordinates (also for the loupe)."""
        shown = self._ellipse()
        paint_hand_work(painter, enlarged, shown, self._model, self._hand, self._body)


def _loose(event: QMouseEvent) -> bool:
    """Alt keeps a spot where the hand is, whatever is near."""
    return bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)


def _near(a: QPointF, b: QPointF) -> bool:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y())) < GRIP_PX
