"""Edits a movement of the coach's own: where the load is before and after it, what it is for."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QLayout,
    QLineEdit,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.content import OwnMovement
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import PLACES, STANCES, parse_movement
from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    column,
    label,
    name_edit,
    number_field,
    packed,
    row,
    scrolled,
)
from keen_kettle.desk.shared.figure_view import FigureView
from keen_kettle.desk.state.prescribe.movement_model import MovementModel

__all__ = ["MovementEditor", "own_line"]

IMPLEMENTS = ("barbell", "dumbbell pair", "dumbbell", "kettlebell", "stick")
GRIPS = ("clean", "snatch", "either")
FAMILIES = ("snatch", "clean", "jerk")
PLAIN = {
    "implement": "barbell",
    "begins": "floor",
    "ends": "hip",
    "stance_before": "hip width",
    "stance_after": "hip width",
    "grip": "clean",
    "priced_by": "clean",
}
CHIPS_PX = 560


class MovementEditor(QWidget):
    """Fields of one movement, its figure beside them; what is wrong stands below until it is right."""

    def __init__(
        self,
        model: MovementModel,
        leave: Callable[[OwnMovement | None], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._model, self._leave = model, leave
        self._of: OwnMovement | None = None
        self._filling = False
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(6)
        self.name = self._line("Name", "as you say it, for example: deficit clean pull")
        self.also = self._line("Also called", "short forms, with commas")
        self.boxes = self._boxes()
        self.share = number_field(10, 130, 5, " %", 0)
        self.difficulty = number_field(1, 9, 1, "", 0)
        self.chips: dict[str, QToolButton] = {}
        self._chip_place = QVBoxLayout()
        self.shown_as = QComboBox()
        self.shown_as.setEditable(True)
        name_edit(self.shown_as, "Shown as", "The movement whose figure shows it; may stay empty")
        self.shown_as.editTextChanged.connect(lambda _words: self._check())
        self.how = self._line("How", "one sentence: how it is done")
        self._lay_out()
        self.figure = FigureView()
        self.figure.stage.setFixedHeight(300)
        self._trouble = label("", "fault")
        self._says = label("", "quiet")
        self.keep = button(
            "Keep this movement", "It can be typed from now on", self._keep, "check", "next"
        )
        foot = row(self.keep, button("Leave it", "Nothing is changed", self._cancel, "x"))
        foot.addStretch(1)
        self._title = label("", "title")
        fields = QWidget()
        fields.setLayout(self._grid)
        both = row(spacing=16)
        both.addWidget(scrolled(fields), 3)
        aside = column(self.figure, self._says, self._trouble)
        aside.addStretch(1)
        both.addLayout(aside, 2)
        body = card(self._title, both, foot)
        body.layout().setStretch(1, 1)  # type: ignore[union-attr]
        self.setLayout(column(body))

    # Fields

    def _line(self, words: str, tip: str) -> QLineEdit:
        field = QLineEdit()
        field.setAccessibleName(words)
        field.setPlaceholderText(tip)
        field.setToolTip(tip)
        field.textChanged.connect(lambda _words: self._check())
        return field

    def _boxes(self) -> dict[str, QComboBox]:
        made = {}
        for name, words, options in (
            ("implement", "Held", IMPLEMENTS),
            ("begins", "Begins with the load", PLACES),
            ("ends", "Ends with the load", PLACES),
            ("stance_before", "Feet before it", STANCES),
            ("stance_after", "Feet after it", STANCES),
            ("grip", "Grip", GRIPS),
            ("priced_by", "Best that prices it", FAMILIES),
        ):
            box = QComboBox()
            for one in options:
                box.addItem(one[:1].upper() + one[1:], one)
            box.setAccessibleName(words)
            box.setToolTip(words)
            box.activated.connect(lambda _row: self._check())
            made[name] = box
        return made

    def _lay_out(self) -> None:
        for number, words in (
            (self.share, "Most it can carry, of that best"),
            (self.difficulty, "Difficulty, 1 is simplest"),
        ):
            number.setAccessibleName(words)
            number.setToolTip(words)
            number.setFixedWidth(76)
            number.valueChanged.connect(lambda _value: self._check())
        boxes = self.boxes
        self._add("Name", self.name)
        self._add("Also called", self.also)
        self._add("Held", self._side_by_side(boxes["implement"], "with grip", boxes["grip"]))
        self._add("Begins", self._side_by_side(boxes["begins"], "feet", boxes["stance_before"]))
        self._add("Ends", self._side_by_side(boxes["ends"], "feet", boxes["stance_after"]))
        self._chip_place.setSpacing(4)
        self._add("Trains", self._chip_place)
        self._add("Carries", self._side_by_side(self.share, "of the best", boxes["priced_by"]))
        self._add(
            "Difficulty", self._side_by_side(self.difficulty, "of 9, 1 is simplest", QWidget())
        )
        self._add("Figure of", self.shown_as)
        self._add("How", self.how)
        self._grid.setRowStretch(self._grid.rowCount(), 1)

    @staticmethod
    def _side_by_side(first: QWidget, words: str, second: QWidget) -> QLayout:
        line = row(first, label(words, "quiet", wrap=False), second, spacing=6)
        line.setStretch(0, 0 if first.maximumWidth() < 100 else 1)
        line.setStretch(2, 1)
        return line

    def _add(self, words: str, field: QWidget | QLayout) -> None:
        at = self._grid.rowCount()
        self._grid.addWidget(label(words, "quiet", wrap=False), at, 0)
        if isinstance(field, QWidget):
            self._grid.addWidget(field, at, 1)
        else:
            self._grid.addLayout(field, at, 1)

    def _fill_chips(self, trains: Sequence[str]) -> None:
        clear(self._chip_place)
        self.chips = {}
        for quality in self._model.desk.content.qualities.values():
            chip = QToolButton()
            chip.setText(quality.name)
            chip.setCheckable(True)
            chip.setChecked(quality.id in trains)
            chip.setToolTip(quality.says)
            chip.setAccessibleName(f"Trains: {quality.name}")
            chip.clicked.connect(lambda _on: self._check())
            self.chips[quality.id] = chip
        packed(self._chip_place, list(self.chips.values()), CHIPS_PX, self, left=True)

    # Filling and reading

    def begin(self, one: OwnMovement | None, name: str = "") -> None:
        """Show the fields of a movement, or plain ones for a new one of a name."""
        self._of, self._filling = one, True
        self._title.setText("A movement of your own" if one is None else "Your own movement")
        values: dict[str, Any] = one.model_dump() if one is not None else dict(PLAIN, name=name)
        self.name.setText(values["name"])
        self.also.setText(", ".join(values.get("also", ())))
        for key, box in self.boxes.items():
            box.setCurrentIndex(box.findData(values[key]))
        self.share.setValue(100 * values.get("share", 0.7))
        self.difficulty.setValue(values.get("difficulty", 4))
        self._fill_chips(values.get("trains", ()))
        if not self.shown_as.count():
            self.shown_as.addItems(["", *self._model.shown_as()])
        self.shown_as.setEditText(values.get("shown_as", ""))
        self.how.setText(values.get("how", ""))
        self._filling = False
        self._check()
        self.name.setFocus()

    def entered(self) -> dict[str, Any]:
        """What stands in the fields."""
        also = [one.strip() for one in self.also.text().split(",") if one.strip()]
        return {
            "name": self.name.text().strip(),
            "also": also,
            **{key: box.currentData() for key, box in self.boxes.items()},
            "trains": [key for key, chip in self.chips.items() if chip.isChecked()],
            "share": self.share.value() / 100,
            "difficulty": int(self.difficulty.value()),
            "shown_as": self.shown_as.currentText().strip(),
            "how": self.how.text().strip(),
        }

    def _check(self) -> None:
        if self._filling:
            return
        made, trouble = self._model.checked(self.entered(), self._of)
        self._trouble.setText(trouble)
        self.keep.setEnabled(made is not None)
        self._says.setText(_asked(made) if made is not None else "")
        try:
            shown = parse_movement(self.shown_as.currentText())
        except UnknownLift:
            self.figure.hide()
        else:
            self.figure.show_movement(shown)
            self.figure.show()

    def _keep(self) -> None:
        made, _ = self._model.checked(self.entered(), self._of)
        if made is not None:
            self._model.keep(made, self._of)
            self._leave(made)

    def _cancel(self) -> None:
        self._leave(None)


def own_line(
    model: MovementModel, one: OwnMovement, edit: Callable[[OwnMovement], None]
) -> QWidget:
    """An own movement in a list: what it is, change it, take it away."""
    says = f"{one.begins} to {one.ends} · at most {100 * one.share:.0f} % of the {one.priced_by}"
    line = row(spacing=6)
    line.addLayout(column(label(one.name), label(says, "quiet"), spacing=0), 1)
    line.addWidget(button("Change it", f"Change “{one.name}”", partial(edit, one), "pencil"))
    line.addWidget(button("", f"Remove “{one.name}”", partial(model.drop, one), "trash-2"))
    holder = QWidget()
    holder.setLayout(line)
    return holder


def _asked(one: OwnMovement) -> str:
    """What is asked of an athlete before they do it."""
    needs = one.as_movement()
    asked = [f"{', '.join(needs.areas)} free of caution"] if needs.areas else []
    if needs.checks:
        asked.append(f"screening passed: {', '.join(needs.checks).replace('-', ' ')}")
    return f"Asked of the athlete: {'; '.join(asked) or 'nothing'}."
