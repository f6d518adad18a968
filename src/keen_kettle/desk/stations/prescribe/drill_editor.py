"""Edits a drill of the coach's own in the place where it is read; it is checked at every change."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QComboBox, QGridLayout, QLayout, QLineEdit, QPlainTextEdit, QWidget

from keen_kettle.core.content import Drill
from keen_kettle.desk.kit.builders import (
    button,
    card,
    column,
    label,
    number_field,
    row,
    scrolled,
)
from keen_kettle.desk.state.prescribe.drill_model import DrillModel

__all__ = ["DrillEditor"]

LINES = {
    "name": ("Name", "{family} stands for snatch, clean or jerk"),
    "dose": ("Dose", "for example: 3 sets of 5"),
    "cue_outer": ("Outer cue", "what the bar or the floor does"),
    "cue_inner": ("Inner cue", "what the body does"),
    "movement": ("Movement", "the lift that it is, for its figure; may stay empty"),
}
LISTS = {
    "families": ("Lifts", "snatch, clean, jerk"),
    "answers": ("Answers", "ids or names of faults, with commas"),
    "phases": ("Phases", "start, first pull, transition, second pull, turnover, catch"),
    "needs": ("Needs", "blocks, straps, stick …"),
}
TEXTS = {"how": "How", "why": "Why"}
KINDS = (("stick", "No load"), ("bar", "Empty bar"), ("share", "Share of the best"))


class DrillEditor(QWidget):
    """Fields of one drill; what is wrong with it stands below until it is right."""

    def __init__(
        self, model: DrillModel, leave: Callable[[], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._model, self._leave = model, leave
        self._of: Drill | None = None
        self._filling = False
        self.fields: dict[str, QLineEdit] = {}
        self.texts: dict[str, QPlainTextEdit] = {}
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(6)
        self._add_lines()
        self._add_texts()
        self._add_numbers()
        self._trouble = label("", "fault")
        self.keep = button(
            "Keep this drill", "It is yours from now on", self._keep, "check", "next"
        )
        cancel = button("Leave it", "Nothing is changed", leave, "x")
        foot = row(self.keep, cancel)
        foot.addStretch(1)
        holder = QWidget()
        holder.setLayout(self._grid)
        self._title = label("", "title")
        body = card(self._title, scrolled(holder), self._trouble, foot)
        body.layout().setStretch(1, 1)  # type: ignore[union-attr]
        self.setLayout(column(body))

    def _add_lines(self) -> None:
        for name, (words, tip) in {**LINES, **LISTS}.items():
            field = QLineEdit()
            field.setAccessibleName(words)
            field.setToolTip(tip)
            field.setPlaceholderText(tip)
            field.textChanged.connect(lambda _words: self._check())
            self.fields[name] = field
            self._add(words, field)

    def _add_texts(self) -> None:
        for name, words in TEXTS.items():
            text = QPlainTextEdit()
            text.setAccessibleName(words)
            text.setToolTip(words)
            text.setFixedHeight(64)
            text.setTabChangesFocus(True)
            text.textChanged.connect(self._check)
            self.texts[name] = text
            self._add(words, text)

    def _add_numbers(self) -> None:
        self.kind = QComboBox()
        for value, words in KINDS:
            self.kind.addItem(words, value)
        self.kind.setAccessibleName("Load")
        self.kind.setToolTip("How the drill is loaded")
        self.kind.activated.connect(lambda _row: self._check())
        self.low, self.high = number_field(0, 130, 5, " %", 0), number_field(0, 130, 5, " %", 0)
        self.steps, self.minutes = number_field(1, 9, 1, "", 0), number_field(1, 30, 1, " min", 0)
        for number, words in (
            (self.low, "Least share"),
            (self.high, "Greatest share"),
            (self.steps, "Difficulty, 1 simplest"),
            (self.minutes, "Minutes"),
        ):
            number.setAccessibleName(words)
            number.setToolTip(words)
            number.setFixedWidth(76)
            number.valueChanged.connect(lambda _value: self._check())
        shares = row(self.kind, self.low, label("to", "quiet", wrap=False), self.high)
        others = row(self.steps, label("of 9, 1 is simplest", "quiet", wrap=False), self.minutes)
        others.addStretch(1)
        self._add("Load", shares)
        self._add("Difficulty", others)

    def _add(self, words: str, field: QWidget | QLayout) -> None:
        """One row more: what it is on the left, the field or fields on the right."""
        at = self._grid.rowCount()
        self._grid.addWidget(label(words, "quiet", wrap=False), at, 0)
        if isinstance(field, QWidget):
            self._grid.addWidget(field, at, 1)
        else:
            self._grid.addLayout(field, at, 1)

    def begin(self, drill: Drill | None) -> None:
        """Show the fields of a drill, or empty ones for a new one."""
        self._of, self._filling = drill, True
        self._title.setText("New drill" if drill is None else "Your own version")
        values: dict[str, Any] = drill.model_dump() if drill is not None else {}
        for name in LINES:
            self.fields[name].setText(str(values.get(name, "")))
            self.fields[name].setCursorPosition(0)
        for name in LISTS:
            self.fields[name].setText(", ".join(values.get(name, ())))
            self.fields[name].setCursorPosition(0)
        for name, text in self.texts.items():
            text.setPlainText(str(values.get(name, "")))
        self.kind.setCurrentIndex(self.kind.findData(values.get("kind", "bar")))
        self.low.setValue(100 * values.get("low", 0.5))
        self.high.setValue(100 * values.get("high", 0.7))
        self.steps.setValue(values.get("steps", 3))
        self.minutes.setValue(values.get("minutes", 6))
        self._filling = False
        self._check()

    def _entered(self) -> dict[str, Any]:
        fields: dict[str, Any] = self._of.model_dump() if self._of is not None else {}
        fields |= {name: self.fields[name].text().strip() for name in LINES}
        fields |= {name: self._listed(name) for name in LISTS}
        fields |= {name: text.toPlainText().strip() for name, text in self.texts.items()}
        share = self.kind.currentData() == "share"
        fields |= {
            "kind": self.kind.currentData(),
            "low": self.low.value() / 100 if share else 0.0,
            "high": self.high.value() / 100 if share else 0.0,
            "steps": int(self.steps.value()),
            "minutes": int(self.minutes.value()),
        }
        fields["id"] = self._of.id if self._of is not None else self._model.new_id(fields["name"])
        return fields

    def _listed(self, name: str) -> tuple[str, ...]:
        words = [one.strip() for one in self.fields[name].text().split(",") if one.strip()]
        if name != "answers":
            return tuple(word.lower() for word in words)
        faults = self._model.desk.content.faults
        by_name = {one.name.casefold(): one.id for one in faults.values()}
        return tuple(by_name.get(word.casefold(), word) for word in words)

    def _check(self) -> None:
        if self._filling:
            return
        made, trouble = self._model.checked(self._entered())
        share = self.kind.currentData() == "share"
        self.low.setEnabled(share)
        self.high.setEnabled(share)
        self._trouble.setText(trouble)
        self.keep.setEnabled(made is not None)

    def _keep(self) -> None:
        made, _ = self._model.checked(self._entered())
        if made is not None:
            self._model.keep(made)
            self._leave()
