"""Two clips side by side: the same key position of both, both paths, and what differs by more than chance."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QButtonGroup, QComboBox, QTableView, QToolButton, QWidget

from keen_kettle.core.content import Content
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.motion import IN_DIAMETERS, Measure
from keen_kettle.core.units import show_measure
from keen_kettle.desk.kit.builders import button, clear, column, label, row, with_role
from keen_kettle.desk.kit.tables import RowTable, dressed_table, long_names_wrap
from keen_kettle.desk.kit.theme import colour, font
from keen_kettle.desk.kit.words import position_words
from keen_kettle.desk.state.review.compare_model import CompareModel, Pair, clip_words
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.compare.view import CompareView

__all__ = ["ComparePage"]


class _Pairs(RowTable[Pair]):
    heads = ("Measure", "This clip", "The other", "Difference")

    def __init__(self, content: Content, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._content = content

    def cell(self, row: Pair, place: int, role: int) -> Any:
        words = self._content.measures[row.here.id]
        if role == Qt.ItemDataRole.DisplayRole:
            if place == 0:
                return words.name
            return (
                self._shown(row.here if place == 1 else row.there) if place < 3 else self._off(row)
            )
        if role == Qt.ItemDataRole.ToolTipRole:
            why = [one.why for one in (row.here, row.there) if one.value is None]
            return f"{words.meaning}\nNot known: {why[0]}." if why else words.meaning
        if role == Qt.ItemDataRole.ForegroundRole:
            if place == 0:
                return colour("quiet")
            return colour("ink" if place == 3 and row.clear else "quiet" if place == 3 else "chalk")
        if role == Qt.ItemDataRole.FontRole and place == 3 and row.clear:
            return font("text", QFont.Weight.Bold)
        return None

    def _shown(self, one: Measure) -> str:
        if one.value is None or one.sigma is None:
            return "–"
        if one.unit == IN_DIAMETERS:
            return f"{one.value:.2f} ± {one.sigma:.2f} diam.".replace("-", "−")
        shown = show_measure(one.value, one.sigma, self._content.measures[one.id])
        return f"≈ {shown}" if one.assumed else shown

    def _off(self, pair: Pair) -> str:
        off, sigma = pair.difference, pair.sigma
        if off is None or sigma is None:
            return "–"
        if not pair.clear:
            return "within uncertainty"
        if pair.here.unit == IN_DIAMETERS:
            return f"{off:+.2f} ± {sigma:.2f} diam.".replace("-", "−")
        shown = show_measure(off, sigma, self._content.measures[pair.here.id])
        return shown if shown.startswith("−") else f"+{shown}"


class ComparePage(QWidget):
    """The table, and above it which clips."""

    def __init__(
        self,
        model: CompareModel,
        review: ReviewModel,
        back: Callable[[], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.model, self._review = model, review
        self._here = label("", "", wrap=False)
        self.other = QComboBox()
        self.other.setAccessibleName("The other clip")
        self.other.setToolTip("Another measured clip of the same athlete")
        self.other.setMinimumWidth(260)
        self._words = label("", "quiet")
        self.table = _Pairs(review.desk.content, self)
        self.view = QTableView()
        self.view.setModel(self.table)
        dressed_table(self.view, "Measures of two clips", 0)
        long_names_wrap(self.view)
        self.pictures = CompareView(model)
        self._positions = row(spacing=4)
        self._group = QButtonGroup(self)
        self.back = button("Back to Review", "Back (Esc)", back, "undo-2", "next")
        foot = row(self.back)
        foot.addStretch(1)
        above = row(label("This clip", "quiet", wrap=False), self._here)
        above.addSpacing(24)
        above.addWidget(label("beside", "quiet", wrap=False))
        above.addWidget(self.other)
        left = column(self._positions, self.pictures, spacing=8)
        left.setStretch(1, 1)
        right = column(self._words, self.view, spacing=8)
        right.setStretch(1, 1)
        both = row(left, right, spacing=20)
        both.setStretch(0, 10)
        both.setStretch(1, 11)
        title = row(label("Two clips side by side", "title", wrap=False))
        title.addStretch(1)
        title.addLayout(above)
        whole = column(title, both, foot, spacing=10)
        whole.setContentsMargins(24, 8, 24, 8)
        whole.setStretch(1, 1)
        self.setLayout(whole)
        self.other.activated.connect(lambda number: model.choose(self.other.itemData(number)))
        model.changed.connect(self._show)
        model.position_changed.connect(self._mark_position)

    def _show(self) -> None:
        if not self.isVisible():
            return
        model, clip = self.model, self._review.clip
        self._here.setText(clip_words(clip) if clip is not None else "")
        choices = model.choices()
        self.other.clear()
        for one in choices:
            self.other.addItem(clip_words(one), one)
        if model.other in choices:
            self.other.setCurrentIndex(choices.index(model.other))
        self._show_positions()
        pairs = model.pairs()
        self.table.show_rows(pairs)
        if not choices:
            self._words.setText("There is no other measured clip of this athlete yet.")
        elif model.there is None:
            self._words.setText("Working out the other clip …")
        else:
            clear = sum(pair.clear for pair in pairs)
            self._words.setText(
                f"{clear} of {len(pairs)} measures differ by more than their uncertainty (two sigma). "
                "Load and day matter too: lay like beside like."
            )

    def _show_positions(self) -> None:
        """A button for each key position that either clip shows."""
        names, clip = self.model.positions(), self._review.clip
        family = parse_filmed(clip.lift).family if clip is not None else ""
        if names != [one.property("position") for one in self._group.buttons()]:
            clear(self._positions)
            for one in self._group.buttons():
                self._group.removeButton(one)
            for number, name in enumerate(names, 1):
                self._positions.addWidget(self._position_button(number, name, family))
            self._positions.addStretch(1)
        self._mark_position()

    def _position_button(self, number: int, name: str, family: str) -> QToolButton:
        words = position_words(name, family)
        made = QToolButton()
        made.setText(words)
        made.setProperty("position", name)
        with_role(made, "strip")
        made.setCheckable(True)
        made.setToolTip(f"Both clips at: {words} (Alt+{number}; left and right arrows)")
        made.setAccessibleName(words)
        made.clicked.connect(lambda _on: self.model.choose_position(name))
        self._group.addButton(made)
        return made

    def _mark_position(self) -> None:
        for made in self._group.buttons():
            made.setChecked(made.property("position") == self.model.position)

    def open(self) -> None:
        """Show the likeliest clip beside the open one."""
        self.model.open()
        self._show()
