"""What the coach says about a clip: athlete, lift, mass, plate, facing. Each change is kept at once."""

from functools import partial

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QToolButton,
    QWidget,
)

from keen_kettle.core.analysis import vertical_of
from keen_kettle.core.lifts import filmed_derivatives, parse_filmed
from keen_kettle.core.track import THINGS
from keen_kettle.desk.kit.builders import button, column, label, number_field, row
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel

__all__ = ["SetupFields"]

SIZES = (
    ("bumper, large iron", 450.0),
    ("iron 15 kg", 400.0),
    ("iron 10 kg", 325.0),
    ("small 5 kg", 230.0),
    ("small 2.5 kg", 210.0),
    ("small 1.25 kg", 160.0),
    ("light training plate", 350.0),
    ("kettlebell, steel", 210.0),
    ("dumbbell head", 170.0),
    ("sleeve cap", 50.0),
)
"""Common diameters in mm; makers differ, so measure once."""
SCALES = (("from its size", "plate"), ("from two points", "points"), ("no scale", "none"))


class SetupFields(QWidget):
    """A grid of fields that follows the clip and changes it."""

    def __init__(self, model: ReviewModel, hand: HandModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model, self._hand = model, hand
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
        self.thing = QComboBox()
        for name, words in THINGS.items():
            self.thing.addItem(words, name)
        self.usual = QComboBox()
        for words, mm in SIZES:
            self.usual.addItem(f"{words}, {mm:g} mm", mm)
        self.usual.addItem("another size", None)
        self.usual.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.usual.setMinimumContentsLength(8)
        self.diameter = number_field(20, 700, 5, " mm", 0)
        self.scale = QComboBox()
        for words, by in SCALES:
            self.scale.addItem(words, by)
        self.apart = number_field(2, 1000, 1, " cm", 1)
        self._make_buttons()
        self.steady = QCheckBox("take its movement out")
        self.capture = number_field(0, 1000, 10, " a second", 0)
        self.capture.setSpecialValueText("as the film says")
        self.left, self.right = QToolButton(), QToolButton()
        self._grid()
        self._follow_hand()
        model.clip_changed.connect(self._fill)
        model.tracking_changed.connect(self._tell_vertical)
        self._fill()

    def _make_buttons(self) -> None:
        """Scale and vertical by lines on the film."""
        hand = self._hand
        self.again = button(
            *("Set the points …", "Drag between two points (Shift+M)"),
            *(partial(hand.start_measuring, "scale"), ""),
        )
        self.upright = button(
            *("Set by a line …", "Drag along a post, a door or a rack (Shift+U)"),
            *(partial(hand.start_measuring, "upright"), ""),
        )
        self.leans = label("", "measured", wrap=False)
        self.as_found = button(
            *("As found", "Take the line back; the program looks for what stands upright"),
            *(lambda: self._change("take the line back", upright=None), ""),
        )

    def _follow_hand(self) -> None:
        """What the coach sets goes into the clip's record."""
        self.athlete.activated.connect(self._on_athlete)
        self.lift.textActivated.connect(lambda name: self._change("set the lift", lift=name))
        self.mass.valueChanged.connect(
            lambda kilos: self._change("set the bar's mass", mass_kg=kilos or None)
        )
        self.diameter.valueChanged.connect(
            lambda mm: self._change("set the plate's diameter", diameter_mm=mm)
        )
        self.thing.activated.connect(
            lambda _row: self._change("follow something else", **self._measuring())
        )
        self.usual.activated.connect(self._on_size)
        self.scale.activated.connect(self._on_scale)
        self.apart.valueChanged.connect(self._on_apart)
        self.steady.toggled.connect(lambda on: self._change("set the camera", steady=on))
        self.capture.valueChanged.connect(
            lambda fps: self._change("set the filming rate", capture_fps=fps or None)
        )
        for side, made in (("left", self.left), ("right", self.right)):
            made.clicked.connect(lambda _on, side=side: self._change("set the facing", facing=side))

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
            ("Followed", self.thing, "What the path belongs to; each has marks of its own."),
            ("Its size", self._size_fields(), "True diameter of what is followed."),
            ("Scale", self._scale_fields(), "Where centimetres come from."),
            ("Faces", facing, "Where the lifter looks in the picture."),
            ("Vertical", self._vertical_fields(), "What forward and rearward are read against."),
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
            if not field.toolTip():
                field.setToolTip(tip)
            if not field.accessibleName():
                field.setAccessibleName(words)
            grid.addWidget(name, number, 0)
            grid.addWidget(field, number, 1)
        grid.setColumnStretch(1, 1)

    def _size_fields(self) -> QWidget:
        self.usual.setAccessibleName("Usual diameters")
        self.usual.setToolTip("Usual diameters; or write another beside it.")
        self.diameter.setAccessibleName("Diameter")
        self.diameter.setToolTip("True diameter of what is followed; 450 mm for bumper plates.")
        made = QWidget()
        made.setLayout(column(self.usual, self.diameter, spacing=4))
        return made

    def _scale_fields(self) -> QWidget:
        self.scale.setAccessibleName("Scale")
        self.scale.setToolTip("From the size above, from two points, or none at all.")
        self.apart.setAccessibleName("Distance of the two points")
        self.apart.setToolTip("How far the two points are apart in truth.")
        self._points = QWidget(self)
        self._points.setLayout(row(self.again, self.apart, spacing=4))
        made = QWidget()
        made.setLayout(column(self.scale, self._points, spacing=4))
        return made

    def _vertical_fields(self) -> QWidget:
        made = QWidget()
        beside = row(self.upright, self.as_found, spacing=4)
        beside.addStretch(1)
        made.setLayout(column(self.leans, beside, spacing=4))
        return made

    def _tell_vertical(self) -> None:
        """How the camera hung, once the bar is followed: found, drawn, or not known."""
        model = self._model
        self.leans.setVisible(model.track is not None and model.clip is not None)
        if model.track is None or model.clip is None:
            return
        vertical = vertical_of(model.track, model.settings())
        known = vertical.found
        way = "right" if vertical.lean_deg > 0 else "left"
        self.leans.setText(
            f"leans {abs(vertical.lean_deg):.1f}° {way}, ± {vertical.sigma_deg:.1f}°"
            if known
            else f"not seen: within {vertical.sigma_deg:.1f}°"
        )

    def _measuring(self) -> dict[str, object]:
        clip = self._model.clip
        return clip.measuring(self.thing.currentData()) if clip is not None else {}

    def _on_size(self, _row: int) -> None:
        if self.usual.currentData() is not None:
            self.diameter.setValue(self.usual.currentData())
        else:
            self.diameter.show()
            self.diameter.setFocus()
            self.diameter.selectAll()

    def _on_scale(self, _row: int) -> None:
        by, clip = self.scale.currentData(), self._model.clip
        if by == "points" and (clip is None or clip.scale_points is None):
            self._hand.start_measuring("scale")
        else:
            self._change("set the scale", scale_by=by)

    def _on_apart(self, cm: float) -> None:
        clip = self._model.clip
        if clip is not None and clip.scale_points is not None:
            points = (*clip.scale_points[:4], 10 * cm)
            self._change("set the distance of the points", scale_points=points)

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
        self.thing.setCurrentIndex(self.thing.findData(clip.thing))
        self.diameter.setValue(clip.diameter_mm)
        place = self.usual.findData(clip.diameter_mm)
        self.usual.setCurrentIndex(place if place >= 0 else self.usual.count() - 1)
        self.diameter.setVisible(place < 0 or self.diameter.hasFocus())
        self.scale.setCurrentIndex(self.scale.findData(clip.scale_by))
        self._points.setVisible(clip.scale_by == "points")
        self.apart.setValue(clip.scale_points[4] / 10 if clip.scale_points is not None else 100.0)
        self.as_found.setVisible(clip.upright is not None)
        self._tell_vertical()
        self.steady.setChecked(clip.steady)
        self.capture.setValue(clip.capture_fps or 0)
        (self.left if clip.facing == "left" else self.right).setChecked(True)
        self._filling = False

    def _on_athlete(self, _row: int) -> None:
        self._change("set the athlete", athlete_id=self.athlete.currentData())

    def _change(self, words: str, **fields: object) -> None:
        if not self._filling:
            self._model.change_clip(words, **fields)
