"""Whose lift a new clip shows: the guesses with their reasons, one key to confirm, boxes to correct."""

from PyQt6.QtWidgets import QComboBox, QGridLayout, QVBoxLayout, QWidget

from keen_kettle.core.lifts import filmed_derivatives
from keen_kettle.desk.kit.builders import button, card, label, number_field
from keen_kettle.desk.state.intake.queue_model import QueueModel
from keen_kettle.store import Clip

__all__ = ["WhoseCard"]


class WhoseCard(QWidget):
    """Shown for a clip that waits to be confirmed."""

    def __init__(self, model: QueueModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._clip: Clip | None = None
        self.athlete, self.lift = QComboBox(), QComboBox()
        for box, words, tip in (
            (self.athlete, "Athlete", "Whose lift this is"),
            (self.lift, "Lift", "Which derivative it is"),
        ):
            box.setAccessibleName(words)
            box.setToolTip(tip)
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(8)
        self.lift.addItems([derivative.name for derivative in filmed_derivatives()])
        self.mass = number_field(0, 500, 0.5, " kg", 1)
        self.mass.setSpecialValueText("not given")
        self.mass.setAccessibleName("On the bar")
        self.mass.setToolTip("Bar and plates together")
        self._why = {name: label("", "small", wrap=False) for name in ("athlete", "lift", "mass")}
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        fields = (("Who", self.athlete, "athlete"), ("Lift", self.lift, "lift"))
        for number, (words, field, name) in enumerate((*fields, ("Bar", self.mass, "mass"))):
            grid.addWidget(label(words, "quiet", wrap=False), 2 * number, 0)
            grid.addWidget(field, 2 * number, 1)
            grid.addWidget(self._why[name], 2 * number + 1, 1)
            grid.setRowMinimumHeight(2 * number + 1, 24)
        grid.setColumnStretch(1, 1)
        self.right = button("That is right", "Confirm whose clip it is (A)", None, "check", "next")
        self.right.clicked.connect(lambda: self.confirm())
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(card(label("Whose lift is this?", "lead"), grid, self.right))
        self.athlete.activated.connect(
            lambda _row: self._correct(athlete_id=self.athlete.currentData())
        )
        self.lift.textActivated.connect(lambda name: self._correct(lift=name))
        self.mass.valueChanged.connect(lambda kilos: self._correct(mass_kg=kilos or None))
        self._filling = False

    @property
    def ready(self) -> bool:
        """Whether there is something to confirm: an athlete must have been guessed or chosen."""
        clip = self._clip
        return clip is not None and clip.waits == "confirm" and clip.athlete_id is not None

    def show_clip(self, clip: Clip | None) -> None:
        """Lay out a clip's guesses; hidden where nothing is to be confirmed."""
        self._clip = clip
        waits = clip is not None and clip.waits == "confirm"
        self.setVisible(waits)
        if clip is None or not waits:
            return
        self._filling = True
        self.athlete.clear()
        self.athlete.addItem("choose …", None)
        for one in self._model.desk.active:
            self.athlete.addItem(one.name, one.id)
        self.athlete.setCurrentIndex(max(self.athlete.findData(clip.athlete_id), 0))
        self.lift.setCurrentText(clip.lift)
        self.mass.setValue(clip.mass_kg or 0.0)
        for name, words in self._why.items():
            words.setText(clip.guess.get(name, "not known"))
        self.right.setEnabled(self.ready)
        self._filling = False

    def confirm(self) -> None:
        """It is as it stands."""
        if self._clip is not None and self.ready:
            self._model.confirm(self._clip)

    def _correct(self, **fields: object) -> None:
        if self._clip is not None and not self._filling:
            self._model.correct(self._clip, **fields)
