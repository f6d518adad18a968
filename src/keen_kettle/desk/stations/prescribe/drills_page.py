"""Drills: found by what is typed, fault, phase, lift or equipment; the chosen one with its figure."""

from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QStackedWidget,
    QTableView,
    QWidget,
)

from keen_kettle.core.content import Drill, OwnMovement
from keen_kettle.core.export import write_text_safely
from keen_kettle.core.simulate import figure_of
from keen_kettle.desk.kit.builders import (
    Sheet,
    button,
    card,
    column,
    label,
    row,
    scrolled,
    with_picture,
)
from keen_kettle.desk.kit.tables import RowTable, dressed_table
from keen_kettle.desk.shared.figure_view import FigureView
from keen_kettle.desk.state.prescribe.drill_model import DrillModel
from keen_kettle.desk.state.prescribe.movement_model import MovementModel
from keen_kettle.desk.stations.prescribe.drill_editor import DrillEditor
from keen_kettle.desk.stations.prescribe.movement_editor import MovementEditor, own_line
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["DrillTable", "DrillsPage"]

FAMILIES = ("snatch", "clean", "jerk")


class DrillTable(RowTable[Drill]):
    """One drill a row."""

    heads = ("Drill", "Trains", "Load", "Time")

    def __init__(self, model: DrillModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model

    def cell(self, row: Drill, place: int, role: int) -> Any:
        if role == Qt.ItemDataRole.DisplayRole:
            own = " (own)" if self._model.own(row) else ""
            return (
                self._model.name_of(row) + own,
                ", ".join(row.phases),
                _load(row),
                f"{row.minutes} min",
            )[place]
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.how
        return None


class DrillsPage(QWidget):
    """The list on the left, the chosen drill on the right; its editor takes the drill's place."""

    def __init__(
        self, model: DrillModel, movements: MovementModel, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.model, self.movements = model, movements
        self.table = DrillTable(model, self)
        self.view = QTableView()
        self.view.setModel(self.table)
        dressed_table(self.view, "Drills", stretch=0)
        left = self._list(model)
        self.figure = FigureView()
        self.figure.stage.setFixedHeight(260)
        self._words = Sheet()
        shown = QWidget()
        shown.setLayout(column(scrolled(self.figure, self._words)))
        self.editor = DrillEditor(model, self._leave)
        self._right = QStackedWidget()
        self._right.addWidget(shown)
        self._right.addWidget(self.editor)
        body = row(left, self._right, spacing=16)
        body.setStretch(0, 6)
        body.setStretch(1, 5)
        whole = QWidget()
        whole.setLayout(body)
        self.movement_editor = MovementEditor(movements, lambda _made: self._leave())
        self._pages = QStackedWidget()
        self._pages.addWidget(whole)
        self._pages.addWidget(self.movement_editor)
        self.setLayout(column(self._pages))
        selection = self.view.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda now, _before: self._on_chosen(now.row()))
        self._idle = IdleCall(self._rebuild, self)
        model.changed.connect(self._idle.ask)

    def _list(self, model: DrillModel) -> QWidget:
        """The drills that are asked for, and what can be done with own ones."""
        self.typed = QLineEdit()
        self.typed.setPlaceholderText("Type: elbows, floor, overhead …")
        self.typed.setAccessibleName("Find drills")
        self.typed.setToolTip("Words of the name, the faults it answers, or how it is done")
        self.typed.textChanged.connect(lambda words: model.narrow(typed=words))
        self.boxes = {
            name: self._box(name, words)
            for name, words in (
                ("fault", "Any fault"),
                ("phase", "Any phase"),
                ("family", "Any lift"),
                ("thing", "Any equipment"),
            )
        }
        boxes = QHBoxLayout()
        boxes.setSpacing(6)
        for box in self.boxes.values():
            boxes.addWidget(box, 1)
        self._count = label("", "quiet")
        buttons = row(
            button("New drill", "An own drill from nothing", self._new, "plus"),
            button("New movement", "One that has no name here yet", self._new_movement, "plus"),
            button("Take in …", "Own drills, movements, complexes (JSON)", self._take_in, "upload"),
            button("Hand out …", "Your own as a file (JSON)", self._hand_out, "download"),
            spacing=6,
        )
        buttons.addStretch(1)
        self._own = Sheet()
        left = card(
            *(row(label("Drills", "title"), self._count), self.typed, boxes, self.view),
            *(self._own, buttons),
        )
        left.layout().setStretch(3, 1)  # type: ignore[union-attr]
        return left

    def _box(self, name: str, words: str) -> QComboBox:
        box = QComboBox()
        box.addItem(words, "")
        content = self.model.desk.content
        options = {
            "fault": [(one.name, one.id) for one in content.faults.values()],
            "phase": [(one.capitalize(), one) for one in self.model.phases],
            "family": [(one.capitalize(), one) for one in FAMILIES],
            "thing": [(one.capitalize(), one) for one in self.model.things],
        }[name]
        for shown, value in sorted(options):
            box.addItem(shown, value)
        box.setAccessibleName(words)
        box.setToolTip(f"{words}, or only one")
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(9)
        box.activated.connect(lambda _row: self.model.narrow(**{name: box.currentData()}))
        return box

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._rebuild()

    def _rebuild(self) -> None:
        if not self.isVisible():
            return
        drills = self.model.drills
        for name, box in self.boxes.items():
            box.setCurrentIndex(max(box.findData(getattr(self.model, name)), 0))
        self.table.show_rows(drills)
        self._count.setText(f"{len(drills)} of {len(self.model.desk.content.drills)}")
        self._fill_own()
        ids = [one.id for one in drills]
        if ids:
            self.view.selectRow(ids.index(self.model.chosen) if self.model.chosen in ids else 0)
        else:
            self._show(None)

    def _on_chosen(self, number: int) -> None:
        if 0 <= number < len(self.table.rows):
            self._show(self.table.rows[number])

    def _show(self, drill: Drill | None) -> None:
        self._right.setCurrentIndex(0)
        if drill is None:
            self.figure.hide()
            words = "No drill holds all of this. Choose less, or make an own drill."
            self._words.fill(column(label(words, "quiet")))
            return
        self.model.chosen = drill.id
        movement = self.model.movement_of(drill)
        moves = movement is not None and figure_of(movement) is not None
        self.figure.setVisible(moves)
        self.figure.show_movement(movement)
        self._words.fill(column(*self._lines(drill, moves), spacing=6))

    def _lines(self, drill: Drill, moves: bool) -> list[QWidget]:
        model, content = self.model, self.model.desk.content
        faults = ", ".join(content.faults[one].name.lower() for one in drill.answers)
        parts: list[QWidget] = [
            label(model.name_of(drill), "title"),
            label(f"{drill.dose} · {_load(drill)} · about {drill.minutes} min", "measured"),
            label(f"Answers {faults}."),
            label("HOW", "head"),
            label(drill.how),
            label("WHY", "head"),
            label(drill.why),
            label("CUES", "head"),
            label(f"Outer: {drill.cue_outer}\nInner: {drill.cue_inner}"),
        ]
        if drill.needs:
            parts.append(label(f"Needs {', '.join(drill.needs)}.", "quiet"))
        parts += [
            label(f"For {fault} it {effect.says}.", "measured")
            for fault, effect in model.effects_of(drill)
        ]
        parts += [
            with_picture("octagon-alert", "safety", content.cautions[one].text)
            for one in drill.cautions
        ]
        if not moves:
            parts.append(label("It is no lift, so no figure shows it.", "quiet"))
        else:
            parts.append(label("The figure shows what is meant; it is no measured lift.", "small"))
        line = row(
            button(
                "Change it" if model.own(drill) else "Make it your own",
                "Change it here; a shipped drill stays as it is, your own goes before it",
                partial(self._edit, drill),
                "pencil",
            )
        )
        if model.own(drill):
            line.addWidget(
                button("Remove", "Take your own drill away", partial(model.drop, drill), "trash-2")
            )
        line.addStretch(1)
        holder = QWidget()
        holder.setLayout(line)
        return [*parts, holder]

    # Own drills and movements

    def _fill_own(self) -> None:
        own = self.movements.movements
        lines = [own_line(self.movements, one, self._edit_movement) for one in own]
        head = [label("YOUR OWN MOVEMENTS", "head")] if own else []
        self._own.fill(column(*head, *lines, spacing=4))

    def _new_movement(self) -> None:
        self._edit_movement(None)

    def _edit_movement(self, one: OwnMovement | None) -> None:
        self.movement_editor.begin(one)
        self._pages.setCurrentIndex(1)

    def _new(self) -> None:
        self.editor.begin(None)
        self._right.setCurrentIndex(1)

    def _edit(self, drill: Drill) -> None:
        self.editor.begin(drill)
        self._right.setCurrentIndex(1)

    def _leave(self) -> None:
        self._pages.setCurrentIndex(0)
        self._right.setCurrentIndex(0)
        self._rebuild()

    def _take_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Take in drills", "", "Drills (*.json)")
        if name:
            self.model.take_in(Path(name))

    def _hand_out(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Hand out drills", "drills.json", "Drills (*.json)"
        )
        if not name:
            return
        desk = self.model.desk
        try:
            write_text_safely(Path(name), self.model.document())
        except OSError as error:
            desk.trouble.emit(f"{Path(name).name} could not be written: {error.strerror}.")
            return
        desk.said.emit(f"Written: {name}")


def _load(drill: Drill) -> str:
    if drill.kind == "stick":
        return "no load"
    if drill.kind == "bar":
        return "empty bar"
    return f"{100 * drill.low:.0f} to {100 * drill.high:.0f} %"
