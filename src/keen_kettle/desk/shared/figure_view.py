"""A body that shows a movement: plays slowly, stands in each key position, turned by a drag."""

from functools import lru_cache, partial

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QSizePolicy, QToolButton, QWidget

from keen_kettle.core.lifts import Movement
from keen_kettle.core.simulate import figure_of
from keen_kettle.core.simulate.body3d import BodyFigure, Lifter, LiftFigure, View, lifter_for
from keen_kettle.desk.kit.builders import button, clear, column, label, row
from keen_kettle.desk.kit.theme import colour, dress, font
from keen_kettle.desk.shared.body_inks import body_inks

__all__ = ["FigureView"]

SLOW = 0.45
"""Share of the figure's own pace at which it is shown."""
REST_S = 0.7
"""How long it rests in each key position while it plays."""
THREE_QUARTER_DEG = 35.0
DEG_A_PIXEL = 0.5
MOST_YAW_DEG = 110.0


def _body_of(movement: Movement | LiftFigure, lifter: Lifter) -> BodyFigure:
    if isinstance(movement, LiftFigure):
        return BodyFigure(movement, lifter)
    return _kept_body(movement, lifter)


@lru_cache(maxsize=8)
def _kept_body(movement: Movement, lifter: Lifter) -> BodyFigure:
    """Who comes back to a stage finds its poses there (up to ten megabytes a movement)."""
    return BodyFigure(movement, lifter)


class FigureView(QWidget):
    """The figure with its controls: play, and one button for each key position."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._figure: BodyFigure | None = None
        self._keys: dict[str, QToolButton] = {}
        self.stage = _Stage()
        self.stage.turned.connect(self._on_turned)
        self._play = button(
            "Play slowly",
            "Moves through the whole, resting in each position",
            self._on_play,
            "play",
        )
        self._line = QGridLayout()
        self._line.setSpacing(4)
        self._none = label("There is no moving figure for this; show it yourself.", "quiet")
        self._turn = self._toggle("Turn", "Three-quarter from the front; or drag the body")
        self._turn.clicked.connect(lambda _on: self._on_turn())
        self._ghost = self._toggle("Ghost", "The position before, faint behind this one")
        self._ghost.toggled.connect(lambda _on: self._show())
        below = row(self._play, self._turn, self._ghost, spacing=4)
        below.addStretch(1)
        layout = column(self.stage, self._none, self._line, below, spacing=6)
        layout.setStretch(0, 1)
        self.setLayout(layout)
        self._group = QButtonGroup(self)
        self._ticker = QTimer(self)
        self._ticker.setInterval(33)
        self._ticker.timeout.connect(self._tick)
        self._clock = QElapsedTimer()
        self._at_s = 0.0
        self._rest_s = 0.0
        self._ahead = QTimer(self)
        self._ahead.setInterval(15)
        self._ahead.timeout.connect(self._prepare)

    @staticmethod
    def _toggle(words: str, tip: str) -> QToolButton:
        made = QToolButton()
        made.setText(words)
        made.setCheckable(True)
        made.setProperty("role", "strip")
        made.setToolTip(tip)
        made.setAccessibleName(words)
        return made

    @property
    def at_s(self) -> float:
        """The instant that is shown, in the figure's own time."""
        return self._at_s

    @property
    def playing(self) -> bool:
        return self._ticker.isActive()

    @property
    def body(self) -> BodyFigure | None:
        return self._figure

    def show_movement(
        self, movement: Movement | LiftFigure | None, lifter: Lifter | None = None
    ) -> None:
        """Show a movement (or a simulated lift) on a lifter, standing in its first position; None shows
        that there is none."""
        self.stop()
        shown = isinstance(movement, LiftFigure) or (
            movement is not None and figure_of(movement) is not None
        )
        self._figure = (
            _body_of(movement, lifter or lifter_for()) if shown and movement is not None else None
        )
        figure = self._figure.figure if self._figure is not None else None
        self._none.setVisible(figure is None)
        for one in (self._play, self._turn, self._ghost):
            one.setEnabled(figure is not None)
        clear(self._line)
        self._keys = {}
        for number, key in enumerate(figure.keys if figure is not None else ()):
            made = QToolButton()
            made.setText(key.name)
            made.setCheckable(True)
            made.setToolTip(f"Stand in this position: {key.name}")
            made.setAccessibleName(f"Position: {key.name}")
            made.clicked.connect(partial(self._stand, key.t_s))
            self._group.addButton(made)
            self._keys[key.name] = made
            made.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            self._line.addWidget(made, number // 3, number % 3)
        self._at_s = 0.0
        self._show()
        if self._figure is not None:
            self._ahead.start()

    def _prepare(self) -> None:
        """Pose ahead, one instant in an idle turn, so that playing only has to paint."""
        if self._figure is None or not self._figure.prepare():
            self._ahead.stop()

    def _on_turn(self) -> None:
        aside = abs(self.stage.yaw_deg) < 1
        self.stage.turn(THREE_QUARTER_DEG if aside else 0.0)

    def _on_turned(self) -> None:
        self._turn.setChecked(abs(self.stage.yaw_deg) >= 1)

    def stand_in(self, name: str) -> None:
        """Show one key position by its name."""
        self._keys[name].click()

    def stop(self) -> None:
        self._ticker.stop()
        self._dress_play()

    def go_to(self, t_s: float) -> None:
        """Stand at an instant of the figure's own time."""
        self._stand(t_s)

    def play_from_start(self) -> None:
        self.stop()
        self._at_s = 0.0
        self._on_play()

    def _dress_play(self) -> None:
        playing = self.playing
        self._play.setText("Stop" if playing else "Play slowly")
        dress(self._play, "pause" if playing else "play", "ink")

    def _on_play(self) -> None:
        if self.playing:
            self.stop()
            return
        if self._figure is not None and self._at_s >= self._figure.figure.duration_s - 0.01:
            self._at_s = 0.0
        self._rest_s = REST_S
        self._clock.start()
        self._ticker.start()
        self._dress_play()

    def _stand(self, t_s: float) -> None:
        self.stop()
        self._at_s = t_s
        self._show()

    def _tick(self) -> None:
        if self._figure is None:
            return
        figure = self._figure.figure
        passed = min(self._clock.restart() / 1000, 0.1)
        if self._rest_s > 0:
            self._rest_s -= passed
            return
        before, after = self._at_s, self._at_s + SLOW * passed
        for key in figure.keys:
            if before < key.t_s <= after:
                after, self._rest_s = key.t_s, REST_S
                break
        self._at_s = min(after, figure.duration_s)
        self._show()
        if self._at_s >= figure.duration_s:
            self.stop()

    def _show(self) -> None:
        if self._figure is None:
            self.stage.show_body(None, 0.0, "", None)
            return
        name, before = "", None
        for key in self._figure.figure.keys:
            here = abs(key.t_s - self._at_s) < 0.02
            self._keys[key.name].setChecked(here)
            name = key.name if here else name
            if key.t_s < self._at_s - 0.02:
                before = key.t_s
        ghost = before if self._ghost.isChecked() else None
        self.stage.show_body(self._figure, self._at_s, name, ghost)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.stop()
        self._ahead.stop()
        super().hideEvent(event)


class _Stage(QWidget):
    """Paints one instant to scale, feet on the floor line; a drag turns it."""

    turned = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._figure: BodyFigure | None = None
        self._at_s, self._name = 0.0, ""
        self._ghost_s: float | None = None
        self.yaw_deg = 0.0
        self._held: QPointF | None = None
        self.setMinimumSize(QSize(260, 240))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("A body that shows the movement")
        self.setToolTip(
            "A model shows what is meant; it is no measured lift. Drag, or arrow keys, turn it."
        )

    def show_body(
        self, figure: BodyFigure | None, at_s: float, name: str, ghost_s: float | None
    ) -> None:
        self._figure, self._at_s, self._name, self._ghost_s = figure, at_s, name, ghost_s
        self.update()

    def turn(self, yaw_deg: float) -> None:
        """Look at it from another side: 0° from the lifter's right, 90° from the front."""
        self.yaw_deg = float(np.clip(yaw_deg, -MOST_YAW_DEG, MOST_YAW_DEG))
        self.turned.emit()
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self._figure is not None:
            picture = self._figure.picture(
                self._at_s,
                self.width(),
                self.height(),
                body_inks("raised"),
                View(self.yaw_deg),
                self._ghost_s,
            )
            wide, high = self.width(), self.height()
            image = QImage(picture.tobytes(), wide, high, 4 * wide, QImage.Format.Format_RGB32)
            painter.drawImage(0, 0, image)
        painter.setPen(colour("ink"))
        painter.setFont(font("lead"))
        room = QRectF(14, 8, self.width() - 28, 24)
        painter.drawText(room, Qt.AlignmentFlag.AlignLeft, self._name)
        if self._figure is not None:
            painter.setPen(colour("quiet"))
            painter.setFont(font("small"))
            painter.drawText(room, Qt.AlignmentFlag.AlignRight, "model, not measured")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held is not None:
            way = event.position().x() - self._held.x()
            self._held = event.position()
            self.turn(self.yaw_deg + DEG_A_PIXEL * way)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = {Qt.Key.Key_Left: -15.0, Qt.Key.Key_Right: 15.0}
        if event is not None and Qt.Key(event.key()) in step:
            self.turn(self.yaw_deg + step[Qt.Key(event.key())])
        elif event is not None:
            super().keyPressEvent(event)
