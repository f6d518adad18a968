"""Edits a ladder of the coach's own, stage by stage; it is checked at every change."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from pydantic import ValidationError
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.content import Ladder, Stage
from keen_kettle.core.lifts import HELPERS, filmed_derivatives
from keen_kettle.core.teach import check_ladder
from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    column,
    label,
    name_edit,
    number_field,
    row,
    with_picture,
)
from keen_kettle.desk.state.teach.teach_model import TeachModel

__all__ = ["LadderEditor"]

LOADS = ("body", "stick", "empty bar", "light", "share", "bell")
TEXTS = {
    "name": "Stage",
    "purpose": "Purpose",
    "stuck": "When stuck",
    "cue_outer": "Outer cue",
    "cue_inner": "Inner cue",
}


class LadderEditor(QWidget):
    """Stages on the left (move, add, take out); the chosen one as fields; problems below."""

    def __init__(
        self, teach: TeachModel, leave: Callable[[], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._teach = teach
        self._filling = False
        self._at = 0
        self._ladder: Ladder | None = None
        self.name = QLineEdit()
        self.stages = QComboBox()
        self.texts = {name: QLineEdit() for name in TEXTS}
        self.movement = QComboBox()
        self.checks = QPlainTextEdit()
        self.gate = QLineEdit()
        self.watch = QLineEdit()
        self.screens = QLineEdit()
        self.sets = number_field(1, 20, 1, " sets", 0)
        self.reps = number_field(0, 100, 1, " reps", 0)
        self.hold = number_field(0, 120, 1, " s hold", 0)
        self.load = QComboBox()
        self.low = number_field(0, 120, 5, " %", 0)
        self.high = number_field(0, 120, 5, " %", 0)
        self.low.setPrefix("from ")
        self.high.setPrefix("to ")
        self.level = number_field(1, 10, 1, "", 0)
        self._problems = QVBoxLayout()
        self._name_fields()
        move = self._stage_row()
        done = row(button("Done", "Everything is kept already", leave, "check", "next"))
        made = card(
            row(label("Ladder", "quiet", wrap=False), self.name),
            move,
            self._grid(),
            self._problems,
            done,
            spacing=10,
        )
        layout = made.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addStretch(1)
        done.addStretch(1)
        self.setLayout(column(made))
        teach.changed.connect(self._on_changed)

    def _stage_row(self) -> QHBoxLayout:
        """Which stage is edited, and moving, adding, removing it."""
        move = row(
            self.stages,
            button(
                "Earlier",
                "Move this stage one step down the ladder",
                lambda: self._move(-1),
                "arrow-up",
            ),
            button(
                "Later",
                "Move this stage one step up the ladder",
                lambda: self._move(1),
                "arrow-down",
            ),
            button("Add a stage", "After this one, as a copy to be changed", self._add, "plus"),
            button(
                "Take out", "Remove this stage (undo brings it back)", self._take_out, "trash-2"
            ),
        )
        move.setStretch(0, 1)
        return move

    def _name_fields(self) -> None:
        self.movement.setEditable(True)
        self.movement.addItems(sorted({*(one.name for one in filmed_derivatives()), *HELPERS}))
        self.load.addItems(LOADS)
        self.checks.setFixedHeight(92)
        self.checks.setTabChangesFocus(True)
        named: tuple[tuple[QWidget, str, str], ...] = (
            (self.name, "Ladder", "Name of the ladder"),
            (self.stages, "Stage to edit", "Choose a stage"),
            (self.movement, "Movement", "As you say it: “hang pc above knee”; it is checked"),
            (self.checks, "Points", "One point a line, two to five"),
            (self.gate, "Gate", "What must be seen, in two visits running"),
            (self.watch, "Watch for", "Faults, with semicolons between: “Slow elbows; Loop”"),
            (
                self.screens,
                "Screening",
                "Checks that must be passed besides what the movement needs",
            ),
            (self.sets, "Sets", "Sets"),
            (self.reps, "Reps", "Repetitions; 0 for a pure hold"),
            (self.hold, "Hold", "Seconds held; 0 for none"),
            (self.load, "Load", "Kind of load"),
            (self.low, "From", "Share of the best, from"),
            (self.high, "To", "Share of the best, to; never above 100 % for a catch"),
            (self.level, "Level", "1 to 10: compares stages across ladders when swapping"),
        )
        for field, words, tip in named:
            field.setAccessibleName(words)
            field.setToolTip(tip)
        name_edit(self.movement, "Movement", named[2][2])
        for name, line in self.texts.items():
            line.setAccessibleName(TEXTS[name])
            line.setToolTip(TEXTS[name])
            line.editingFinished.connect(self._keep)
        self.name.editingFinished.connect(self._keep)
        for line in (self.gate, self.watch, self.screens):
            line.editingFinished.connect(self._keep)
        self.checks.textChanged.connect(lambda: None if self._filling else self._keep())
        edit = self.movement.lineEdit()
        assert edit is not None
        edit.editingFinished.connect(self._keep)
        self.movement.activated.connect(lambda _row: self._keep())
        self.load.activated.connect(lambda _row: self._keep())
        for number in (self.sets, self.reps, self.hold, self.low, self.high, self.level):
            number.valueChanged.connect(lambda _value: self._keep())
        self.stages.activated.connect(self._choose)

    def _grid(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(4)
        dose = row(self.sets, self.reps, self.hold, self.load, self.low, self.high)
        rows: tuple[tuple[str, Any], ...] = (
            ("Stage", self.texts["name"]),
            ("Purpose", self.texts["purpose"]),
            ("Movement", self.movement),
            ("Dose", dose),
            ("Points, one a line", self.checks),
            ("Gate", self.gate),
            ("Watch for", self.watch),
            ("Screening", self.screens),
            ("When stuck", self.texts["stuck"]),
            ("Outer cue", self.texts["cue_outer"]),
            ("Inner cue", self.texts["cue_inner"]),
            ("Level", row(self.level)),
        )
        for number, (words, field) in enumerate(rows):
            grid.addWidget(label(words, "quiet", wrap=False), number, 0)
            if isinstance(field, QWidget):
                grid.addWidget(field, number, 1)
            else:
                grid.addLayout(field, number, 1)
        grid.setColumnStretch(1, 1)
        return grid

    # Showing

    def open(self, ladder: Ladder) -> None:
        self._ladder, self._at = ladder, 0
        self._fill()

    def _on_changed(self) -> None:
        """Follow undo and other changes, without disturbing what is being typed."""
        if self._ladder is None or not self.isVisible():
            return
        self._teach.ensure()
        fresh = self._teach.teaching.ladders.get(self._ladder.id)
        if fresh is not None and fresh != self._ladder:
            self._ladder = fresh
            self._fill()

    def _choose(self, place: int) -> None:
        self._at = place
        self._fill()

    def _fill(self) -> None:
        ladder = self._ladder
        if ladder is None:
            return
        self._at = min(self._at, len(ladder.stage) - 1)
        stage = ladder.stage[self._at]
        self._filling = True
        self.name.setText(ladder.name)
        self.stages.clear()
        self.stages.addItems([f"{n}   {one.name}" for n, one in enumerate(ladder.stage, 1)])
        self.stages.setCurrentIndex(self._at)
        for name, line in self.texts.items():
            line.setText(getattr(stage, name))
        self.movement.setEditText(stage.movement)
        if self.checks.toPlainText().split("\n") != list(stage.checks):
            self.checks.setPlainText("\n".join(stage.checks))
        self.gate.setText(stage.gate.says)
        self.watch.setText(_names(stage.watch, self._fault_names()))
        self.screens.setText(_names(stage.screens, self._check_names()))
        self.sets.setValue(stage.dose.sets)
        self.reps.setValue(stage.dose.reps)
        self.hold.setValue(stage.dose.hold_s)
        self.load.setCurrentText(stage.dose.load)
        self.low.setValue(100 * stage.dose.low)
        self.high.setValue(100 * stage.dose.high)
        self.level.setValue(stage.level)
        self._filling = False
        faults = self._teach.desk.content.faults.keys()
        self._show_problems(
            [one.words for one in check_ladder(ladder, self._teach.teaching, faults)]
        )

    def _show_problems(self, problems: list[str]) -> None:
        clear(self._problems)
        if not problems:
            words = "Checked: every name is known and every gate can open."
            self._problems.addWidget(with_picture("check", "right", words))
        for words in problems[:5]:
            self._problems.addWidget(with_picture("triangle-alert", "fault", words))
        share = self.load.currentText() == "share"
        self.low.setEnabled(share)
        self.high.setEnabled(share)

    # Changing

    def _fault_names(self) -> dict[str, str]:
        return {one.id: one.name for one in self._teach.desk.content.faults.values()}

    def _check_names(self) -> dict[str, str]:
        return {one.id: one.name for one in self._teach.teaching.checks.values()}

    def _entered(self, stage: Stage) -> dict[str, Any]:
        row_of = stage.model_dump(mode="json")
        row_of |= {name: line.text().strip() for name, line in self.texts.items()}
        row_of["movement"] = self.movement.currentText().strip()
        row_of["checks"] = [
            line.strip() for line in self.checks.toPlainText().split("\n") if line.strip()
        ]
        row_of["gate"]["says"] = self.gate.text().strip()
        row_of["watch"] = _ids(self.watch.text(), self._fault_names())
        row_of["screens"] = _ids(self.screens.text(), self._check_names())
        row_of["dose"] |= {
            "sets": round(self.sets.value()),
            "reps": round(self.reps.value()),
            "hold_s": round(self.hold.value()),
            "load": self.load.currentText(),
        }
        if self.load.currentText() == "share":
            low = max(self.low.value(), 5) / 100
            row_of["dose"] |= {"low": low, "high": max(self.high.value() / 100, low)}
        row_of["level"] = round(self.level.value())
        return row_of

    def _keep(self) -> None:
        if self._filling or self._ladder is None:
            return
        rows = [one.model_dump(mode="json") for one in self._ladder.stage]
        rows[self._at] = self._entered(self._ladder.stage[self._at])
        self._keep_rows(rows)

    def _keep_rows(self, rows: list[dict[str, Any]]) -> None:
        assert self._ladder is not None
        whole = self._ladder.model_dump(mode="json")
        whole |= {"name": self.name.text().strip(), "stage": rows}
        try:
            new = Ladder.model_validate(whole)
        except ValidationError as error:
            first = error.errors()[0]
            field = " ".join(str(part) for part in first["loc"][2:] or first["loc"])
            self._show_problems([f"Not kept yet – {field}: {first['msg']}."])
            return
        if new != self._ladder:
            self._ladder = new
            self._teach.keep_ladder(new)
        self._fill()

    def _rows(self) -> list[dict[str, Any]]:
        assert self._ladder is not None
        return [one.model_dump(mode="json") for one in self._ladder.stage]

    def _move(self, by: int) -> None:
        rows = self._rows()
        to = self._at + by
        if 0 <= to < len(rows):
            rows[self._at], rows[to] = rows[to], rows[self._at]
            self._at = to
            self._keep_rows(rows)

    def _add(self) -> None:
        rows = self._rows()
        fresh = dict(rows[self._at])
        taken = {one["id"] for one in rows}
        number = 2
        while f"{fresh['id']}-{number}" in taken:
            number += 1
        fresh |= {"id": f"{fresh['id']}-{number}", "name": f"{fresh['name']} {number}"}
        rows.insert(self._at + 1, fresh)
        self._at += 1
        self._keep_rows(rows)

    def _take_out(self) -> None:
        rows = self._rows()
        if len(rows) > 1:
            del rows[self._at]
            self._keep_rows(rows)


def _names(ids: Sequence[str], names: Mapping[str, str]) -> str:
    """Ids as they are said, with semicolons between (names hold commas)."""
    return "; ".join(names.get(one, one) for one in ids)


def _ids(written: str, names: Mapping[str, str]) -> list[str]:
    """The ids of what was written; what is not known is kept, and the check says so."""
    by_name = {name.casefold(): one for one, name in names.items()}
    parts = [part.strip() for part in written.split(";") if part.strip()]
    return [by_name.get(part.casefold(), part) for part in parts]
