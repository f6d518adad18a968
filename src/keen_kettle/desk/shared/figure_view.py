"""A moving figure of a movement: plays slowly, or stands in each key position."""

from functools import partial

from PyQt6.QtCore import QElapsedTimer, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QHideEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QSizePolicy, QToolButton, QWidget

from keen_kettle.core.simulate import Figure, FigurePose
from keen_kettle.desk.kit.builders import button, clear, column, label, row
from keen_kettle.desk.kit.theme import colour, dress, font
from keen_kettle.desk.shared.pose_paint import paint_pose

__all__ = ["FigureView"]

SLOW = 0.45
"""Share of the figure's own pace at which it is shown."""
REST_S = 0.7
"""How long it rests in each key position while it plays."""


class FigureView(QWidget):
    """The figure with its controls: play, and one button for each key position."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._figure: Figure | None = None
        self._keys: dict[str, QToolButton] = {}
        self.stage = _Stage()
        self._play = button(
            "Play slowly",
            "Moves through the whole, resting in each position",
            self._on_play,
            "play",
        )
        self._line = QGridLayout()
        self._line.setSpacing(4)
        self._none = label("There is no moving figure for this; show it yourself.", "quiet")
        below = row(self._play)
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

    @property
    def at_s(self) -> float:
        """The instant that is shown, in the figure's own time."""
        return self._at_s

    @property
    def playing(self) -> bool:
        return self._ticker.isActive()

    def show_figure(self, figure: Figure | None) -> None:
        """Show a movement, standing in its first position."""
        self.stop()
        self._figure = figure
        self._none.setVisible(figure is None)
        self._play.setEnabled(figure is not None)
        clear(self._line)
        self._keys = {}
        if figure is not None:
            for number, key in enumerate(figure.keys):
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

    def stand_in(self, name: str) -> None:
        """Show one key position by its name."""
        self._keys[name].click()

    def stop(self) -> None:
        self._ticker.stop()
        self._dress_play()

    def _dress_play(self) -> None:
        playing = self.playing
        self._play.setText("Stop" if playing else "Play slowly")
        dress(self._play, "pause" if playing else "play", "ink")

    def _on_play(self) -> None:
        if self.playing:
            self.stop()
            return
        if self._figure is not None and self._at_s >= self._figure.duration_s - 0.01:
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
        figure = self._figure
        if figure is None:
            return
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
        figure = self._figure
        if figure is None:
            self.stage.show_pose(None, None, "")
            return
        name = ""
        for key in figure.keys:
            here = abs(key.t_s - self._at_s) < 0.02
            self._keys[key.name].setChecked(here)
            name = key.name if here else name
        self.stage.show_pose(figure, figure.pose(self._at_s), name)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.stop()
        super().hideEvent(event)


class _Stage(QWidget):
    """Paints one pose to scale, feet on the floor line."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._figure: Figure | None = None
        self._pose: FigurePose | None = None
        self._name = ""
        self.setMinimumSize(QSize(260, 240))
        self.setAccessibleName("Moving figure from the side")
        self.setToolTip("What is meant, from the side. It shows positions; it is no measured lift.")

    def show_pose(self, figure: Figure | None, pose: FigurePose | None, name: str) -> None:
        self._figure, self._pose, self._name = figure, pose, name
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._figure is None or self._pose is None:
            return
        paint_pose(painter, QRectF(self.rect()), self._figure, self._pose)
        painter.setPen(colour("ink"))
        painter.setFont(font("lead"))
        painter.drawText(
            QRectF(14, 8, self.width() - 28, 24), Qt.AlignmentFlag.AlignLeft, self._name
        )
