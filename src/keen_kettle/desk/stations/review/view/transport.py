"""Play, step and speed, with the frame and the time on show; looking closer, and drawing."""

from PyQt6.QtWidgets import QButtonGroup, QToolButton, QWidget

from keen_kettle.desk.kit.builders import button, label, row
from keen_kettle.desk.kit.theme import dress
from keen_kettle.desk.state.review.playback import SPEEDS
from keen_kettle.desk.state.review.review_model import ReviewModel

__all__ = ["Transport"]

SPEED_WORDS = {1.0: "1", 0.5: "1/2", 0.25: "1/4", 0.125: "1/8"}


class Transport(QWidget):
    """The row of buttons under the film."""

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.back = _picture_button("step-back", "One frame back (←)")
        self.play = _picture_button("play", "Play or pause (Space)")
        self.forward = _picture_button("step-forward", "One frame on (→)")
        self.back.setAutoRepeat(True)
        self.forward.setAutoRepeat(True)
        self.back.clicked.connect(lambda: model.step(-1))
        self.forward.clicked.connect(lambda: model.step(1))
        self.play.clicked.connect(model.playback.toggle)
        self.where = label("", "measured", wrap=False)
        self.where.setMinimumWidth(176)
        self.closer = button("Closer", "Close to the lifter, and back (Z)", None, "zoom-in")
        self.draw = button(
            "Draw", "Lines, angles, notes on the film, with their values", None, "pencil"
        )
        self.speeds = QButtonGroup(self)
        layout = row(self.back, self.play, self.forward, spacing=4)
        for number, speed in enumerate(SPEEDS):
            made = QToolButton()
            made.setText(SPEED_WORDS[speed])
            made.setCheckable(True)
            made.setChecked(speed == 1.0)
            made.setToolTip(f"Play at {SPEED_WORDS[speed]} of full speed ({number + 1})")
            made.setAccessibleName(f"Speed {SPEED_WORDS[speed]}")
            made.clicked.connect(lambda _on, speed=speed: model.playback.set_speed(speed))
            self.speeds.addButton(made, number)
            layout.addWidget(made)
        layout.addSpacing(8)
        layout.addWidget(self.where)
        layout.addStretch(1)
        layout.addWidget(self.closer)
        layout.addWidget(self.draw)
        self.setLayout(layout)
        model.frame_shown.connect(lambda _image: self._show_where())
        model.playback.changed.connect(self._on_playing)
        model.clip_changed.connect(self._show_where)

    def _show_where(self) -> None:
        index = self._model.index
        self.setEnabled(index is not None)
        if index is not None:
            frame = self._model.frame
            self.where.setText(f"frame {frame} of {len(index) - 1}  ·  {index.t_s[frame]:.3f} s")

    def show_closer(self, whole: bool) -> None:
        """What the button does next: come close, or show all of the film."""
        self.closer.setText("Closer" if whole else "All of it")
        dress(self.closer, "zoom-in" if whole else "zoom-out")

    def _on_playing(self) -> None:
        dress(self.play, "pause" if self._model.playback.playing else "play")
        self.speeds.button(SPEEDS.index(self._model.playback.speed)).setChecked(True)  # type: ignore[union-attr]


def _picture_button(picture: str, tip: str) -> QToolButton:
    made = QToolButton()
    dress(made, picture)
    made.setToolTip(tip)
    made.setAccessibleName(tip.split(" (")[0])
    return made
