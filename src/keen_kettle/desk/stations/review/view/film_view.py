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
from keen_kettle.desk.stations.review.view.film_marks import paint_handles, paint_hint, paint_path
from keen_kettle.desk.stations.review.view.hand_marks import paint_hand_work
from keen_kettle.desk.stations.review.view.loupe import loupe_box, paint_loupe
from keen_kettle.desk.stations.review.view.note_line import NoteLine
from keen_kettle.desk.stations.review.view.tools import (
    At,
    ClickTool,
    DrawTool,
    FreeHand,
    Hold,
    LineTool,
    MarkTool,
    NewMark,
    Tool,
    TrunkTool,
    adjusting,
    mark_shape,
    nudge,
)
from keen_kettle.desk.stations.review.view.view_transform import ViewTransform
from keen_kettle.desk.stations.review.view.zoom import Zoom, lifter_box

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
        self._free = FreeHand(model, hand, body, drawing)
        tools = MarkTool(model), ClickTool(hand), LineTool(hand), TrunkTool(body), DrawTool(drawing)
        self._tools: dict[str, Tool] = {
            name: one for one in (self._free, *tools) for name in one.names
        }
        self._hold: Hold | None = None
        self._loupe_at: tuple[float, float] | None = None
        self._pan_from: QPointF | None = None
        self._fresh = True
        self.zoom = Zoom()
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
        model.answer_changed.connect(self._on_answer)
        model.tool.changed.connect(self._on_tool)
        for signal in (model.mark_changed, model.tracking_changed, hand.changed, body.changed):
            signal.connect(self.update)
        for signal in (drawing.changed, suggested.changed):
            signal.connect(self.update)
        drawing.writing_wanted.connect(self._begin_note)
        model.tracking_progress.connect(lambda _share: self.update())
        model.clip_changed.connect(self._on_clip)

    def sizeHint(self) -> QSize:
        return QSize(800, 450)

    @property
    def transform(self) -> ViewTransform | None:
        """How the film is placed now; None before a film is open."""
        index = self._model.index
        if index is None:
            return None
        return self.zoom.transform(QSizeF(self.size()), QSizeF(index.width_px, index.height_px))

    def look_closer(self) -> None:
        """The part round the lifter, or all of the film again."""
        index = self._model.index
        if self.zoom.on_lifter or not self.zoom.whole:
            self.zoom.show_whole()
        elif index is not None:
            self.zoom.show_lifter(lifter_box(index, self._model.track, self._model.body))
            if self.zoom.whole:
                self._model.desk.said.emit("The lifter comes close once the bar is tracked.")
        self._reframe()

    def _on_answer(self) -> None:
        """Another clip's lifter is looked for once; then the picture does not move by itself."""
        index = self._model.index
        if index is not None and self.zoom.on_lifter and self.zoom.whole:
            self.zoom.show_lifter(lifter_box(index, self._model.track, self._model.body))
            self.placed.emit()
        self.update()

    def _reframe(self) -> None:
        self.placed.emit()
        self.update()

    def _show(self, image: QImage) -> None:
        self._image = image
        if self._hold is None:
            self._loupe_at = None
        self.update()

    def _on_clip(self) -> None:
        index = self._model.index
        if index is None:
            self._image = None
            self.zoom.next_clip()
            self._fresh = True
        elif self._fresh:
            self._fresh = False
            # A film held upright is mostly floor and ceiling.
            self.zoom.on_lifter |= index.height_px > index.width_px
        self._reframe()

    @property
    def tool(self) -> Tool:
        """The tool in hand; without one the hand takes hold of what lies under it."""
        return self._tools.get(self._model.tool.name, self._free)

    def _on_tool(self) -> None:
        self.setCursor(self.tool.cursor)
        if self.tool is not self._free and not self.note.isVisible():
            self.setFocus()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.placed.emit()

    # The hand

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.transform is None:
            return
        at, button = self._at(event), event.button()
        if button == Qt.MouseButton.RightButton:
            if self._drawing.grip(at.x, at.y, at.reach):
                self.drawing_menu_wanted.emit(event.globalPosition())
        elif button == Qt.MouseButton.MiddleButton:
            self._pan_from = event.position()
        elif button == Qt.MouseButton.LeftButton:
            self._hold = self.tool.press(at)
            if self._hold is None and self.tool is self._free and not self.zoom.whole:
                self._pan_from = event.position()
            shown = self.tool.loupe if self._hold is None else self._hold.loupe
            self._loupe_at = (at.x, at.y) if shown and self._pan_from is None else None
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.transform is None:
            return
        at = self._at(event)
        if self._pan_from is not None:
            self._pan(event.position())
        elif self._hold is None:
            self.tool.hover(at)
        else:
            if self._hold.loupe:
                self._loupe_at = at.x, at.y
            self._hold.move(at)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        hold, self._hold, self._pan_from = self._hold, None, None
        self._loupe_at = None
        if hold is not None and event is not None and self.transform is not None:
            hold.let_go(self._at(event))
        self.update()

    def _at(self, event: QMouseEvent) -> At:
        transform = self.transform
        assert transform is not None
        loose = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        return At(*transform.to_film(event.position()), GRIP_PX / transform.scale, loose)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Look closer, or less so, at what is under the pointer."""
        index = self._model.index
        if event is None or index is None or not event.angleDelta().y():
            return
        film = QSizeF(index.width_px, index.height_px)
        times = float(CLOSER ** (event.angleDelta().y() / 120))
        self.zoom.closer(times, event.position(), QSizeF(self.size()), film)
        self._reframe()
        event.accept()

    def _pan(self, spot: QPointF) -> None:
        index = self._model.index
        if index is not None and self._pan_from is not None and not self.zoom.whole:
            film = QSizeF(index.width_px, index.height_px)
            self.zoom.pan(spot - self._pan_from, QSizeF(self.size()), film)
            self._pan_from = spot
            self._reframe()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter sets a mark in the middle (or takes the predicted place while clicking through);
        Ctrl with the arrows moves mark or point by a quarter of a pixel, with + and - sizes the
        mark; with Shift as well, by two pixels."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.tool.enter():
            return
        move = ARROWS.get(Qt.Key(event.key()))
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if move is None or not control:
            super().keyPressEvent(event)
            return
        far = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        step = STRIDE if far else NUDGE
        dx, dy, dr = (step * part for part in move)
        self._loupe_at = nudge(self._model, self._hand, dx, dy, dr) or self._loupe_at
        self.update()

    def _begin_note(self) -> None:
        transform = self.transform
        if transform is None or not self._drawing.spots:
            return
        first = self._drawing.spots[0]
        self.note.write(transform.to_widget(first.x, first.y).toPoint())

    def _end_note(self, words: str) -> None:
        self.setFocus()
        self._drawing.write(words)

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("shade"))
        transform, index = self.transform, self._model.index
        if transform is None or index is None or self._image is None:
            return
        painter.setRenderHint(
            QPainter.RenderHint.SmoothPixmapTransform, not self._model.playback.playing
        )
        size = QRectF(
            transform.left,
            transform.top,
            index.width_px * transform.scale,
            index.height_px * transform.scale,
        )
        seen = size.intersected(QRectF(self.rect()))
        painter.drawImage(seen, self._image, transform.box_in_film(seen))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_paths(painter, transform)
        self._paint_body(painter, transform)
        self._paint_hand(painter, transform)
        self._paint_drawings(painter, transform, seen)
        if self.hint:
            paint_hint(painter, seen, self.hint)
        if self._loupe_at is not None:
            box = loupe_box(seen, transform.to_widget(*self._loupe_at))
            paint_loupe(painter, self._image, box, self._loupe_at, self._paint_shapes)

    @property
    def hint(self) -> str:
        """The line of help that stands over the film, or ""."""
        in_hand = self._model.tool.name not in ("", "mark")
        suggested = "" if in_hand else self._suggested.words
        return suggested or self.tool.hint

    def _paint_paths(self, painter: QPainter, transform: ViewTransform) -> None:
        track, growing, frame = self._model.track, self._model.growing, self._model.frame
        if growing is not None:
            path = broken_line(transform.to_widget_all(growing.x_px, growing.y_px))
            painter.setPen(QPen(colour("chalk"), 2))
            painter.drawPath(path)
            return
        for other in self._model.also_followed:
            painter.setPen(QPen(colour("ink", 0.6), 1.2, Qt.PenStyle.DashDotLine))
            painter.drawPath(broken_line(transform.to_widget_all(other.x_px, other.y_px)))
        if track is None:
            return
        points = transform.to_widget_all(*self._model.path_in_frame(frame))
        if self._model.answer is not None:
            points = only(points, self._model.answer.span_at(frame))
        paint_path(painter, points, track, frame)
        if frame < len(track) and np.isfinite(track.x_px[frame]):
            painter.setBrush(colour("chalk"))
            painter.setPen(QPen(colour("shade"), 1.5))
            painter.drawEllipse(QPointF(*points[frame]), 5, 5)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_body(self, painter: QPainter, transform: ViewTransform) -> None:
        body, frame = self._body.track, self._model.frame
        if body is None or not self._body.shown or self._model.marking or frame >= len(body):
            return

        def place(name: str) -> QPointF | None:
            spot = self._body.place(name, frame)
            return transform.to_widget(*spot) if spot is not None else None

        paint_body(painter, body, frame, place, self._body.chosen)

    def _paint_drawings(self, painter: QPainter, transform: ViewTransform, film: QRectF) -> None:
        labels = []
        for one in self._drawing.visible:
            here, ghost = (
                transform.to_widget_all(*points.T) if points is not None else None
                for points in (one.shown.points, one.shown.ghost)
            )
            chosen = one.number in (-1, self._drawing.chosen)
            paint_drawing(painter, film, one.drawing.kind, here, ghost, chosen)
            labels.append(label_of(film, one, here, ghost))
        clear = tuple(transform.to_widget(x, 0).x() for x in self._drawing.lifter_x())
        said = [label for label in labels if label is not None]
        paint_labels(painter, QRectF(self.rect()), (clear[0], clear[1]), said)

    def _paint_hand(self, painter: QPainter, transform: ViewTransform) -> None:
        """Marks and what is being drawn, in the film's place; then the handles."""
        painter.save()
        painter.translate(transform.left, transform.top)
        painter.scale(transform.scale, transform.scale)
        self._paint_shapes(painter, transform.scale)
        painter.restore()
        shape, model = mark_shape(self._model), self._model
        new = isinstance(self._hold, NewMark)
        if shape is not None and adjusting(model) and not model.tracking and not new:
            paint_handles(
                painter, [transform.to_widget(*spot) for spot in shape.handles().values()]
            )

    def _paint_shapes(self, painter: QPainter, enlarged: float) -> None:
        """Everything by hand on this frame, in film coordinates (also for the loupe)."""
        paint_hand_work(painter, enlarged, mark_shape(self._model), self._model, self._hand)
        self.tool.paint(painter, enlarged)
