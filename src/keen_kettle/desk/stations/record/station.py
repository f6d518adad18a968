"""Record: the correctives that run, and the plates at hand."""

from datetime import date
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QVBoxLayout, QWidget

from keen_kettle.core.content import Content
from keen_kettle.core.units import show_kg
from keen_kettle.desk.kit.builders import button, card, column, label, row
from keen_kettle.desk.kit.tables import RowTable
from keen_kettle.desk.kit.theme import colour
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.stations.record.plates_card import PlatesCard
from keen_kettle.store import Prescribed

__all__ = ["CorrectiveTable", "RecordStation"]


class CorrectiveTable(RowTable[Prescribed]):
    """The correctives of the chosen who, newest first."""

    heads = ("Athlete", "Corrective", "Load", "Answers", "Taken", "New clip")

    def __init__(self, desk: DeskModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._content: Content = desk.content
        desk.records_changed.connect(self.reload)
        desk.who_changed.connect(self.reload)
        self.reload()

    def reload(self) -> None:
        kept = self._desk.correctives_of_who()
        self.show_rows(sorted(kept, key=lambda one: not one.runs))

    def row_at(self, number: int) -> Prescribed:
        return self.rows[number]

    def cell(self, one: Prescribed, place: int, role: int) -> Any:
        due = one.runs and one.review_on <= self._desk.today()
        if role == Qt.ItemDataRole.DisplayRole:
            athlete = self._desk.athlete(one.athlete_id)
            return (
                athlete.name if athlete is not None else "",
                one.name,
                show_kg(one.load_kg) if one.load_kg is not None else "–",
                self._content.faults[one.fault].name
                if one.fault in self._content.faults
                else one.fault,
                f"{one.taken_on:%d %b}",
                _due_words(one.review_on, self._desk.today())
                if one.runs
                else f"{one.outcome}, {one.ended_on:%d %b}",
            )[place]
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{one.name}\n{one.dose}\n{one.reason}"
        if role == Qt.ItemDataRole.ForegroundRole and place == 5 and due:
            return colour("brass")
        return None


def _due_words(day: date, today: date) -> str:
    left = (day - today).days
    if left > 0:
        return f"in {left} day{'s' if left > 1 else ''}"
    return "due today" if left == 0 else f"{-left} day{'s' if left < -1 else ''} overdue"


class RecordStation(QWidget):
    """The table, and the cards where facts are entered."""

    def __init__(self, desk: DeskModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.model = CorrectiveTable(desk, self)
        self.table = self._made_table()
        self.withdraw = button(
            "Withdraw the chosen one",
            "Take it out of the record; can be undone",
            self._withdraw,
            "undo-2",
        )
        self._empty = self._nothing(desk)
        self._title = label("Correctives that run", "title")
        self.plates = PlatesCard(desk)
        below = row(self.withdraw)
        below.addStretch(1)
        main = column(self._title, self._empty, self.table, below, spacing=10)
        main.setStretch(2, 1)
        list_card = card()
        kept = list_card.layout()
        assert isinstance(kept, QVBoxLayout)
        kept.addLayout(main)
        side = column(self.plates, spacing=12)
        side.addStretch(1)
        holder = QWidget()
        holder.setFixedWidth(372)
        holder.setLayout(side)
        self.setLayout(row(list_card, holder, spacing=16, margin=16))
        self.model.modelReset.connect(self._on_reset)
        selection = self.table.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._on_chosen())
        self._on_reset()

    def _nothing(self, desk: DeskModel) -> QWidget:
        """What stands here while nothing runs: what Record is for, and the way there."""
        empty = QWidget()
        said = column(
            label("No correctives are running", "lead"),
            label(
                "A corrective that is taken on Review or Prescribe is kept here for two to three "
                "weeks: what it answers, its load, and the day on which a new clip shows whether "
                "it helped.",
                "quiet",
            ),
        )
        go = row(
            button("Go to Film", "Review a clip first", lambda: desk.go_to("Film"), "film", "next")
        )
        go.addStretch(1)
        said.addLayout(go)
        said.addStretch(1)
        empty.setLayout(said)
        return empty

    def _made_table(self) -> QTableView:
        """The correctives as a table."""
        table = QTableView()
        table.setModel(self.model)
        table.setAccessibleName("Correctives")
        table.setShowGrid(False)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        down, across = table.verticalHeader(), table.horizontalHeader()
        if down is not None:
            down.hide()
            down.setMinimumSectionSize(34)
            down.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        if across is not None:
            across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            across.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            across.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
            across.setHighlightSections(False)
        return table

    def _on_reset(self) -> None:
        empty = self.model.rowCount() == 0
        self._empty.setVisible(empty)
        self.table.setVisible(not empty)
        self.withdraw.setVisible(not empty)
        athlete = self._desk.athlete(self._desk.who)
        self._title.setText(
            f"Correctives of {athlete.name}" if athlete is not None else "Correctives that run"
        )
        self.table.setColumnHidden(0, athlete is not None)
        self._on_chosen()

    def _on_chosen(self) -> None:
        selection = self.table.selectionModel()
        self.withdraw.setEnabled(selection is not None and selection.hasSelection())

    def _withdraw(self) -> None:
        index = self.table.currentIndex()
        if index.isValid():
            self._desk.withdraw_corrective(self.model.row_at(index.row()))
