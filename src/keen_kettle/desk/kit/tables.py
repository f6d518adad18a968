"""What every table is made of: rows under heads as a model, and a quiet dress for the view."""

from collections.abc import Sequence
from typing import Any, Generic, TypeVar

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QRect, Qt, QTimer
from PyQt6.QtGui import QFontMetrics
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QWidget

__all__ = ["Index", "RowTable", "dressed_table", "long_names_wrap"]

Index = QModelIndex | QPersistentModelIndex
R = TypeVar("R")
ROW_PX, PADDING_PX = 34, 12


class RowTable(QAbstractTableModel, Generic[R]):
    """Rows of one kind under fixed heads; a table says in `cell` what each cell shows."""

    heads: tuple[str, ...] = ()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows: Sequence[R] = ()

    def cell(self, row: R, place: int, role: int) -> Any:
        """What a cell answers for a role of Qt."""
        raise NotImplementedError

    def show_rows(self, rows: Sequence[R]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def row_changed(self, number: int) -> None:
        """One row has become another: only its cells are asked again."""
        self.dataChanged.emit(self.index(number, 0), self.index(number, len(self.heads) - 1))

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.heads)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.heads[section]
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        return self.cell(self.rows[index.row()], index.column(), role) if index.isValid() else None


def dressed_table(view: QTableView, name: str, stretch: int) -> None:
    """A quiet table of rows: no grid, one row chosen at a time, one column takes what is left."""
    view.setAccessibleName(name)
    view.setShowGrid(False)
    view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    view.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    view.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    view.setTabKeyNavigation(False)
    view.setWordWrap(False)
    down, across = view.verticalHeader(), view.horizontalHeader()
    assert down is not None and across is not None
    down.hide()
    down.setDefaultSectionSize(ROW_PX)
    across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    across.setHighlightSections(False)
    across.setResizeContentsPrecision(16)
    across.setSectionResizeMode(stretch, QHeaderView.ResizeMode.Stretch)
    model = view.model()
    assert model is not None
    # Measured when rows come, not at every change of one: measuring asks for every cell.
    model.modelReset.connect(view.resizeColumnsToContents)


def long_names_wrap(view: QTableView) -> None:
    """Rows of a short table grow where a name in the first column is longer than that; nothing is cut."""
    model, across = view.model(), view.horizontalHeader()
    assert model is not None and across is not None
    view.setWordWrap(True)

    def fit() -> None:
        metrics = QFontMetrics(view.font())
        room = QRect(0, 0, max(view.columnWidth(0) - 2 * PADDING_PX, 1), 1000)
        for row in range(model.rowCount()):
            name = str(model.index(row, 0).data() or "")
            high = metrics.boundingRect(room, Qt.TextFlag.TextWordWrap, name).height()
            view.setRowHeight(row, max(ROW_PX, high + PADDING_PX))

    # Later: growing rows may bring a scroll bar, which takes room from the column within its own change.
    later = QTimer(view)
    later.setSingleShot(True)
    later.timeout.connect(fit)
    model.modelReset.connect(lambda: later.start(0))
    across.sectionResized.connect(lambda: later.start(0))
