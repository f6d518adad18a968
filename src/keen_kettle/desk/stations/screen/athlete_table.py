"""The athletes of the chosen who as a table that can be typed into to filter."""

from typing import Any

from PyQt6.QtCore import (
    QModelIndex,
    QSortFilterProxyModel,
    Qt,
    pyqtSignal,
)
from PyQt6.QtWidgets import QLineEdit, QTableView, QWidget

from keen_kettle.desk.kit.builders import column
from keen_kettle.desk.kit.tables import RowTable, dressed_table
from keen_kettle.desk.kit.theme import colour, icon
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.store import Athlete

__all__ = ["AthleteTable", "People"]

ATHLETE = Qt.ItemDataRole.UserRole


class People(RowTable[Athlete]):
    """One row an athlete; archived ones only when asked for."""

    heads = ("Name", "Age", "Groups", "Aim", "Cautions", "Screening")

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach
        self._groups: dict[int, str] = {}
        self.archived = False
        self._idle = IdleCall(self.reload, self)
        teach.changed.connect(self._idle.ask)
        teach.row_changed.connect(lambda *_: self._idle.ask())
        self._idle.ask()

    def reload(self) -> None:
        self._teach.ensure()
        desk = self._teach.desk
        self._groups = {}
        for group in desk.groups:
            for number in group.athletes:
                before = self._groups.get(number)
                self._groups[number] = f"{before}, {group.name}" if before else group.name
        self.show_rows(
            [
                one
                for one in desk.athletes
                if (one.archived_on is not None) == self.archived
                and (self.archived or self._in_group(one))
            ]
        )

    def _in_group(self, one: Athlete) -> bool:
        group = self._teach.desk.chosen_group
        return group is None or one.id in group.athletes

    def cell(self, one: Athlete, place: int, role: int) -> Any:
        if role == ATHLETE:
            return one.id
        if role == Qt.ItemDataRole.DisplayRole:
            return self._words(one, place)
        if place == 4 and one.cautions:
            if role == Qt.ItemDataRole.DecorationRole:
                return icon("octagon-alert", "signal")
            if role == Qt.ItemDataRole.ForegroundRole:
                return colour("signal")
        return None

    def _words(self, one: Athlete, place: int) -> str:
        if place == 1:
            age = one.age(self._teach.desk.today())
            return str(age) if age is not None else "–"
        if place == 5:
            results = self._teach.checks.get(one.id, {})
            passed = sum(result.state == "pass" for result in results.values())
            return f"{passed} of {len(self._teach.teaching.checks)} passed"
        return (
            one.name,
            "",
            self._groups.get(one.id, "–"),
            one.aim,
            ", ".join(sorted(one.cautions)) or "–",
        )[place]


class AthleteTable(QWidget):
    """The table with its filter; says which athlete is chosen."""

    chosen = pyqtSignal(int)

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach
        self.model = People(teach, self)
        self.shown = QSortFilterProxyModel(self)
        self.shown.setSourceModel(self.model)
        self.shown.setFilterKeyColumn(-1)
        self.shown.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Type to filter by name, group, aim or caution")
        self.filter.setAccessibleName("Filter athletes")
        self.filter.setToolTip("Shows only rows that hold what is typed")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self.shown.setFilterFixedString)
        self.view = QTableView()
        self.view.setModel(self.shown)
        dressed_table(self.view, "Athletes", 0)
        self.view.setToolTip("Choose an athlete to see and change every fact")
        layout = column(self.filter, self.view, spacing=8)
        layout.setStretch(1, 1)
        self.setLayout(layout)
        selection = self.view.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(self._on_row)
        self.shown.modelReset.connect(self._show_chosen)
        teach.desk.who_changed.connect(self._show_chosen)

    def _on_row(self, index: QModelIndex) -> None:
        if index.isValid():
            self.chosen.emit(index.data(ATHLETE))

    def _show_chosen(self) -> None:
        selection = self.view.selectionModel()
        assert selection is not None
        who = self._teach.desk.who
        now = self.view.currentIndex().data(ATHLETE)
        if now == who:
            return
        selection.blockSignals(True)
        selection.clear()
        for number in range(self.shown.rowCount()):
            if self.shown.index(number, 0).data(ATHLETE) == who:
                self.view.selectRow(number)
                break
        selection.blockSignals(False)
        viewport = self.view.viewport()
        if viewport is not None:
            viewport.update()
