"""The string on the bench: its parts as pictures in a row, dragged into another order.

Between two parts stands how the load gets from one to the other. While a part is dragged every joint
is shown as it would be there; what is not possible is hatched and marked, in words too.
"""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QBrush,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QWidget

from keen_kettle.core.lifts import Movement
from keen_kettle.core.prescribe.complexes import Problem, joints_of
from keen_kettle.core.simulate import figure_of
from keen_kettle.core.simulate.body3d import BodyFigure, View, lifter_for
from keen_kettle.desk.kit.theme import colour, font, theme
from keen_kettle.desk.shared.body_inks import body_inks
from keen_kettle.desk.state.prescribe.complex_model import ComplexModel
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["StringBench"]

JOINT_PX, MOST_PART_PX, HIGH_PX = 74.0, 200.0, 206
FIGURE_PX = 118.0
PICTURE_PX, THREE_QUARTER_DEG = 236, 35.0


class StringBench(QWidget):
    """Parts can be chosen (click, arrow keys), moved (drag, Ctrl with arrows), taken out (Delete)."""

    chosen_changed = pyqtSignal(int)

    def __init__(self, model: ComplexModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.chosen = -1
        self._held = -1
        self._at = QPointF()
        self._moved = False
        self._pictures: dict[tuple[Movement, str], tuple[QImage, ...]] = {}
        self._wanted: dict[Movement, None] = {}
        self._idle = IdleCall(self._make_picture, self)
        self.setFixedHeight(HIGH_PX)
        self.setMinimumWidth(560)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The parts of the complex")
        self.setToolTip(
            "Drag a part to another place. Arrow keys choose, Ctrl with them moves, Delete takes out."
        )
        model.changed.connect(self._on_changed)

    def sizeHint(self) -> QSize:
        return QSize(1180, HIGH_PX)

    def _on_changed(self) -> None:
        self.chosen = min(self.chosen, len(self._model.movements) - 1)
        self._tell()
        self.update()

    def _make_picture(self) -> None:
        """The pictures of one part in an idle turn, so that the window is never held up."""
        if not self._wanted or not self.isVisible():
            return
        movement = next(iter(self._wanted))
        del self._wanted[movement]
        self._pictures[movement, theme().name] = _pictures_of(movement)
        self.update()
        if self._wanted:
            self._idle.ask()

    # Where things are

    def part_rect(self, number: int, count: int | None = None) -> QRectF:
        """Where a part is drawn."""
        parts = max(count if count is not None else len(self._model.movements), 1)
        wide = min((self.width() - JOINT_PX * (parts - 1) - 8) / parts, MOST_PART_PX)
        left = 4 + number * (wide + JOINT_PX)
        return QRectF(left, 4, wide, self.height() - 8)

    def place_at(self, x: float) -> int:
        """The place (before which part) that a dragged part would take."""
        parts = len(self._model.movements)
        return sum(self.part_rect(number).center().x() < x for number in range(parts))

    def _order(self) -> tuple[list[Movement], list[int]]:
        """The parts as they stand, or as they would while one is dragged; with their counts."""
        parts, counts = list(self._model.movements), list(self._model.counts)
        if self._held >= 0 and self._moved:
            there = self.place_at(self._at.x())
            part, count = parts.pop(self._held), counts.pop(self._held)
            place = min(there - (there > self._held), len(parts))
            parts.insert(place, part)
            counts.insert(place, count)
        return parts, counts

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        parts, counts = self._order()
        if not parts:
            painter.setPen(colour("quiet"))
            painter.setFont(font("text"))
            words = "The string is empty. Type one below, or take one that is offered."
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)
            return
        problems = {one.joint: one.why for one in self._problems(parts)}
        joints = joints_of(parts)[0] if len(parts) > 1 else ()
        dragged = self._model.movements[self._held] if self._held >= 0 and self._moved else None
        for number, (movement, count) in enumerate(zip(parts, counts, strict=True)):
            lifted = dragged is not None and movement is dragged
            self._paint_part(painter, number, len(parts), movement, count, lifted)
            if number:
                says = joints[number - 1].says if joints[number - 1].legal else ""
                self._paint_joint(painter, number, len(parts), says, problems.get(number, ""))

    def _problems(self, parts: Sequence[Movement]) -> Sequence[Problem]:
        if self._held >= 0 and self._moved:
            return self._model.problems_if(self._held, self.place_at(self._at.x()))
        return self._model.problems

    def _paint_part(
        self,
        painter: QPainter,
        number: int,
        parts: int,
        movement: Movement,
        count: int,
        lifted: bool,
    ) -> None:
        room = self.part_rect(number, parts)
        if lifted:
            room.translate(0, -4)
        own = self._held < 0 and number == self.chosen
        painter.setPen(
            QPen(colour("brass" if own or lifted else "edge"), 2 if own or lifted else 1)
        )
        painter.setBrush(colour("raised"))
        painter.drawRoundedRect(room, 6, 6)
        self._paint_figures(painter, room, movement)
        painter.setPen(colour("quiet"))
        painter.setFont(font("small"))
        top = QRectF(room.left() + 8, room.top() + 6, room.width() - 16, 18)
        painter.drawText(top, Qt.AlignmentFlag.AlignLeft, f"{number + 1}")
        painter.drawText(
            top, Qt.AlignmentFlag.AlignRight, f"{count} rep{'s' if count != 1 else ''}"
        )
        painter.setPen(colour("ink"))
        painter.setFont(font("text"))
        name = QRectF(
            room.left() + 8,
            room.top() + 24 + FIGURE_PX,
            room.width() - 16,
            room.height() - 28 - FIGURE_PX,
        )
        flags = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
        painter.drawText(name, flags, movement.name)

    def _paint_figures(self, painter: QPainter, room: QRectF, movement: Movement) -> None:
        """Begin and end of a part, as figures; drawn when they are there."""
        pair = self._pictures.get((movement, theme().name))
        if pair is None:
            self._wanted.setdefault(movement)
            self._idle.ask()
        else:
            half = room.width() / 2
            for at, picture in enumerate(pair):
                place = QRectF(room.left() + at * half, room.top() + 22, half, FIGURE_PX)
                place = place.adjusted(2, 0, -2, 0)
                whole = QRectF(picture.rect())
                cut = whole.width() - whole.height() * place.width() / place.height()
                painter.drawImage(place, picture, whole.adjusted(cut / 2, 0, -cut / 2, 0))
            painter.setPen(QPen(colour("quiet"), 1))
            middle = QPointF(room.center().x(), room.top() + 22 + 0.62 * FIGURE_PX)
            painter.setFont(font("text"))
            painter.drawText(
                QRectF(middle.x() - 10, middle.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, "→"
            )

    def _paint_joint(
        self, painter: QPainter, number: int, parts: int, says: str, problem: str
    ) -> None:
        before, after = self.part_rect(number - 1, parts), self.part_rect(number, parts)
        room = QRectF(
            before.right() + 3, before.top(), after.left() - before.right() - 6, before.height()
        )
        if problem:
            painter.fillRect(room, QBrush(colour("ember"), Qt.BrushStyle.BDiagPattern))
            painter.setPen(colour("ember"))
            says = "▲ not possible"
        else:
            painter.setPen(colour("chalk"))
        painter.setFont(font("small"))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        bounds = painter.boundingRect(room, flags, says)
        if problem:
            painter.fillRect(bounds.adjusted(-2, -2, 2, 2), colour("ground"))
        painter.drawText(room, flags, says)

    # The hand

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._at = event.position()
        parts = len(self._model.movements)
        found = [n for n in range(parts) if self.part_rect(n).contains(self._at)]
        self._held = found[0] if found else -1
        self._moved = False
        self.choose(self._held)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._held < 0:
            return
        far = (event.position() - self._at).manhattanLength() > 6
        if far or self._moved:
            self._moved = True
            self._at = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, moved = self._held, self._moved
        self._held, self._moved = -1, False
        if held >= 0 and moved:
            self._move(held, self.place_at(self._at.x()))
        self.update()

    def _move(self, here: int, there: int) -> None:
        self.chosen = min(there - (there > here), len(self._model.movements) - 1)
        self._model.move(here, there)

    def choose(self, number: int) -> None:
        """Choose a part by its place, from 0."""
        self.chosen = number
        self._tell()
        self.update()

    def _tell(self) -> None:
        self.chosen_changed.emit(self.chosen)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        parts = len(self._model.movements)
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is not None and parts:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier and self.chosen >= 0:
                there = self.chosen + (2 if step > 0 else -1)
                if 0 <= there <= parts:
                    self._move(self.chosen, there)
            else:
                self.choose(min(max(self.chosen + step, 0), parts - 1))
        elif event.key() == Qt.Key.Key_Delete and self.chosen >= 0:
            self._model.remove(self.chosen)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        if self.chosen < 0 and self._model.movements:
            self.choose(0)
        super().focusInEvent(event)


def _pictures_of(movement: Movement) -> tuple[QImage, ...]:
    """A movement's first and last position, from the front aside."""
    if figure_of(movement) is None:
        return ()
    body = BodyFigure(movement, lifter_for())
    inks = body_inks("raised")
    made = []
    for key in (body.figure.keys[0], body.figure.keys[-1]):
        picture = body.picture(key.t_s, PICTURE_PX, PICTURE_PX, inks, View(THREE_QUARTER_DEG))
        image = QImage(
            picture.tobytes(), PICTURE_PX, PICTURE_PX, 4 * PICTURE_PX, QImage.Format.Format_RGB32
        )
        made.append(image.copy())
    return tuple(made)
