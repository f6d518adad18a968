"""All measures of the clip, with unit and uncertainty; a press goes to the frame that shows one."""

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QSize, Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QVBoxLayout, QWidget

from keen_kettle.core.content import Content
from keen_kettle.core.motion import IN_DIAMETERS, Measure
from keen_kettle.core.units import show_measure
from keen_kettle.desk.kit.theme import colour
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["MeasureList", "MeasureModel"]

Index = QModelIndex | QPersistentModelIndex


class MeasureModel(QAbstractTableModel):
    """Two columns: what, and how much; what is missing says why."""

    def __init__(self, content: Content, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._content = content
        self._rows: list[Measure] = []

    def set_measures(self, measures: dict[str, Measure]) -> None:
        self.beginResetModel()
        self._rows = [measures[name] for name in self._content.measures if name in measures]
        self.endResetModel()

    def measure(self, number: int) -> Measure:
        return self._rows[number]

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else 2

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        measure = self._rows[index.row()]
        words = self._content.measures[measure.id]
        missing = measure.value is None or measure.sigma is None
        if role == Qt.ItemDataRole.DisplayRole:
            if index.column() == 0:
                return words.name
            if measure.value is None or measure.sigma is None:
                return "–"
            if measure.unit == IN_DIAMETERS:
                return f"{measure.value:.2f} ± {measure.sigma:.2f} diam.".replace("-", "−")
            shown = show_measure(measure.value, measure.sigma, words)
            return f"≈ {shown}" if measure.assumed else shown
        if role == Qt.ItemDataRole.ToolTipRole:
            if measure.assumed:
                return f"{words.meaning}\n≈ rests on a point that was not seen but assumed."
            return f"{words.meaning}\nNot known: {measure.why}." if missing else words.meaning
        if role == Qt.ItemDataRole.ForegroundRole:
            return colour("quiet") if missing or index.column() == 0 else colour("chalk")
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() == 1:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        return None


class MeasureList(QWidget):
    """The table of measures; it is as tall as it needs to be."""

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._review = model
        self._idle = IdleCall(self._lay_out, self)
        self.model = MeasureModel(model.desk.content, self)
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName("All measures")
        self.table.setShowGrid(False)
        self.table.setWordWrap(True)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for head in (self.table.horizontalHeader(), self.table.verticalHeader()):
            if head is not None:
                head.hide()
        across = self.table.horizontalHeader()
        if across is not None:
            across.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            across.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
            across.sectionResized.connect(lambda *_: self._idle.ask())
        self.table.activated.connect(self._go)
        self.table.clicked.connect(self._go)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.table)
        model.answer_changed.connect(self._on_answer)

    def sizeHint(self) -> QSize:
        return QSize(300, self.table.minimumHeight())

    def _on_answer(self) -> None:
        answer = self._review.answer
        self.model.set_measures(answer.measures if answer is not None else {})
        self._idle.ask()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._idle.ask()

    def _lay_out(self) -> None:
        """As tall as its rows; for sixty that takes a while, so only where they are seen."""
        if not self.isVisible():
            return
        self.table.resizeRowsToContents()
        self.table.setMinimumHeight(
            sum(self.table.rowHeight(k) for k in range(self.model.rowCount())) + 4
        )

    def _go(self, index: QModelIndex) -> None:
        frame = self.model.measure(index.row()).frame
        if frame is not None:
            self._review.go_to_frame(frame)
