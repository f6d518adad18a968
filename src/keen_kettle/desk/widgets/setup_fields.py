"""What the coach says about a clip: athlete, lift, mass, plate, facing. Each change is kept at once."""

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QToolButton,
    QWidget,
)

from keen_kettle.core.lifts import filmed_derivatives, parse_filmed
from keen_kettle.desk.parts import label, number_field, row
from keen_kettle.desk.review_model import ReviewModel

__all__ = ["SetupFields"]


class SetupFields(QWidget):
    """A grid of fields that follows the clip and changes it."""

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._filling = False
        self.athlete = QComboBox()
        self.lift = QComboBox()
        self.lift.addItems([derivative.name for derivative in filmed_derivatives()])
        for box in (self.athlete, self.lift):
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(8)
        self.mass = number_field(0, 500, 0.5, " kg", 1)
        self.mass.setSpecialValueText("not given")
        self.diameter = number_field(100, 700, 5, " mm", 0)
        self.steady = QCheckBox("take its movement out")
        self.capture = number_field(0, 1000, 10, " a second", 0)
        self.capture.setSpecialValueText("as the film says")
        self.left, self.right = QToolButton(), QToolButton()
        self._grid()
        self.athlete.activated.connect(self._on_athlete)
        self.lift.textActivated.connect(lambda name: self._change("set the lift", lift=name))
        self.mass.valueChanged.connect(
            lambda kilos: self._change("set the bar's mass", mass_kg=kilos or None)
        )
        self.diameter.valueChanged.connect(
            lambda mm: self._change("set the plate's diameter", diameter_mm=mm)
        )
        self.steady.toggled.connect(lambda on: self._change("set the camera", steady=on))
        self.capture.valueChanged.connect(
            lambda fps: self._change("set the filming rate", capture_fps=fps or None)
        )
        for side, made in (("left", self.left), ("right", self.right)):
            made.clicked.connect(lambda _on, side=side: self._change("set the facing", facing=side))
        model.clip_changed.connect(self._fill)
        self._fill()

    def _grid(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        group = QButtonGroup(self)
        for made, words in ((self.left, "← left"), (self.right, "right →")):
            made.setText(words)
            made.setCheckable(True)
            made.setMinimumSize(QSize(76, 30))
            made.setAccessibleName(f"The lifter faces {words.strip('←→ ')}")
            group.addButton(made)
        facing = QWidget()
        beside = row(self.left, self.right, spacing=4)
        beside.addStretch(1)
        facing.setLayout(beside)
        rows = (
            ("Athlete", self.athlete, "Whose lift this is; loads and the record go by it."),
            ("Lift", self.lift, "The derivative that is lifted."),
            ("On the bar", self.mass, "Bar and plates together; needed for power and force."),
            ("Plate", self.diameter, "True diameter of the near plate; 450 mm for bumpers."),
            ("Faces", facing, "Where the lifter looks in the picture."),
            ("Camera", self.steady, "A camera held in the hand moves; the background shows how."),
            (
                "Filmed at",
                self.capture,
                "Frames a second when it was filmed, if it is slow motion.",
            ),
        )
        for number, (words, field, tip) in enumerate(rows):
            name = label(words, "quiet", wrap=False)
            name.setBuddy(field)
            field.setToolTip(tip)
            if not field.accessibleName():
                field.setAccessibleName(words)
            grid.addWidget(name, number, 0)
            grid.addWidget(field, number, 1)
        grid.setColumnStretch(1, 1)

    def _fill(self) -> None:
        clip = self._model.clip
        self.setEnabled(clip is not None)
        if clip is None:
            return
        self._filling = True
        self.athlete.clear()
        self.athlete.addItem("choose …", None)
        for one in self._model.desk.athletes:
            self.athlete.addItem(one.name, one.id)
        self.athlete.setCurrentIndex(max(self.athlete.findData(clip.athlete_id), 0))
        self.lift.setCurrentText(parse_filmed(clip.lift).name)
        self.mass.setValue(clip.mass_kg or 0.0)
        self.diameter.setValue(clip.diameter_mm)
        self.steady.setChecked(clip.steady)
        self.capture.setValue(clip.capture_fps or 0)
        (self.left if clip.facing == "left" else self.right).setChecked(True)
        self._filling = False

    def _on_athlete(self, _row: int) -> None:
        self._change("set the athlete", athlete_id=self.athlete.currentData())

    def _change(self, words: str, **fields: object) -> None:
        if not self._filling:
            self._model.change_clip(words, **fields)
