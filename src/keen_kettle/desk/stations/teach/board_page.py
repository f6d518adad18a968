"""The board: who is where, who is due, who is stuck, who has a caution; what changed this week."""

from typing import Any

from PyQt6.QtCore import (
    Qt,
)
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QButtonGroup, QLineEdit, QTableView, QToolButton, QVBoxLayout, QWidget

from keen_kettle.desk.kit.builders import button, card, clear, column, label, row
from keen_kettle.desk.kit.tables import RowTable, dressed_table
from keen_kettle.desk.kit.theme import colour, dress, icon
from keen_kettle.desk.state.teach.board_row import BoardRow, state_of_row
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.stations.teach.advice_card import AdviceCard
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["BoardPage", "BoardTable"]

ROW = Qt.ItemDataRole.UserRole
FILTERS = {
    "all": ("Everybody", "users", "All rows"),
    "due": ("Due", "arrow-right", "Gate open: ready to advance"),
    "stuck": ("Stuck", "triangle-alert", "No progress, or the stage does not fit"),
    "caution": ("Caution", "octagon-alert", "Pain, a safety flag, or a caution on record"),
}


def _belongs(shown: BoardRow, name: str) -> bool:
    urgency = state_of_row(shown)[0]
    return {
        "all": True,
        "due": urgency == 1,
        "stuck": urgency in (2, 3),
        "caution": urgency == 0 or bool(shown.athlete.cautions),
    }[name]


class BoardTable(RowTable[BoardRow]):
    """One row for each athlete and ladder, narrowed and sorted here (a proxy asks for each cell)."""

    heads = ("Athlete", "Stage", "Ladder", "On it", "Last visit", "What now")

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach
        self.everybody: list[BoardRow] = []
        self._kind, self._typed = "all", ""
        self._column, self._down = 5, False

    def reload(self) -> None:
        self.everybody = self._teach.rows()
        self._lay_out()

    def narrow(self, kind: str | None = None, typed: str | None = None) -> None:
        """Only rows of a kind, and only those that hold what is typed."""
        self._kind = self._kind if kind is None else kind
        self._typed = self._typed if typed is None else typed.casefold()
        self._lay_out()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._column, self._down = column, order == Qt.SortOrder.DescendingOrder
        self._lay_out()

    def _lay_out(self) -> None:
        found = [one for one in self.everybody if _belongs(one, self._kind)]
        if self._typed:
            found = [one for one in found if self._typed in self._whole(one)]
        found.sort(key=lambda one: self._order(one, self._column), reverse=self._down)
        self.show_rows(found)

    def _whole(self, shown: BoardRow) -> str:
        return " ".join(self._words(shown, place) for place in range(len(self.heads))).casefold()

    def refresh(self, athlete: int, ladder: str) -> None:
        """Read one row again."""
        fresh = self._teach.row(athlete, ladder)
        if fresh is None:
            return
        self.everybody = [fresh if one.key == fresh.key else one for one in self.everybody]
        keys = [one.key for one in self.rows]
        if fresh.key in keys:
            number = keys.index(fresh.key)
            self.rows = [*self.rows[:number], fresh, *self.rows[number + 1 :]]
            self.row_changed(number)

    def cell(self, shown: BoardRow, place: int, role: int) -> Any:
        if role == ROW:
            return shown
        if role == Qt.ItemDataRole.DisplayRole:
            return self._words(shown, place)
        if role == Qt.ItemDataRole.ToolTipRole:
            if place == 5 and shown.advice is not None:
                return shown.advice.reason
            if place == 0 and shown.athlete.cautions:
                return f"On record: {', '.join(sorted(shown.athlete.cautions))}"
        if place == 5:
            _, _, picture, token = state_of_row(shown)
            if role == Qt.ItemDataRole.DecorationRole:
                return icon(picture, token)
            if role == Qt.ItemDataRole.ForegroundRole:
                return colour("ink" if token == "sage" else token)
        if place == 0 and role == Qt.ItemDataRole.DecorationRole:
            return icon(
                *(("octagon-alert", "signal") if shown.athlete.cautions else ("user", "quiet"))
            )
        return None

    def _words(self, shown: BoardRow, place: int) -> str:
        today = self._teach.desk.today()
        days = (today - shown.since).days if shown.since is not None else 0
        last = shown.visits[-1].visit if shown.visits else None
        seen = f"{last.on:%d %b}, {len(last.met)} of {last.asked}" if last is not None else "–"
        name = shown.taught.stage.name if shown.taught is not None else shown.stage or "–"
        return (
            shown.athlete.name,
            name,
            shown.ladder.name if shown.ladder is not None else "–",
            f"{days} day{'s' if days != 1 else ''}" if shown.since is not None else "–",
            seen,
            state_of_row(shown)[1],
        )[place]

    def _order(self, shown: BoardRow, place: int) -> Any:
        if place == 5:
            return state_of_row(shown)[0]
        if place == 3:
            return shown.since.toordinal() if shown.since is not None else 0
        if place == 4:
            return shown.visits[-1].visit.on.toordinal() if shown.visits else 0
        return self._words(shown, place).casefold()


class BoardPage(QWidget):
    """The table, the chosen row's advice, and the week's changes."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach
        self.model = BoardTable(teach, self)
        self.view = QTableView()
        self.view.setModel(self.model)
        dressed_table(self.view, "Board", 1)
        header = self.view.horizontalHeader()
        assert header is not None
        header.setSortIndicator(5, Qt.SortOrder.AscendingOrder)
        self.view.setSortingEnabled(True)
        self.view.setToolTip("Who is where; choose a row for the advice and its reason")
        left = self._table_card()
        self.advice = AdviceCard(teach)
        self._name = label("", "lead")
        self._to_visit = button(
            "Record a visit", "Mark points and faults (F6)", self._open_visit, "list-checks"
        )
        self._choose = button(
            "Choose a ladder",
            "Ranked ladders with reasons (F8)",
            self._open_choose,
            "compass",
            "next",
        )
        self._week = QVBoxLayout()
        self._week.setSpacing(6)
        side = column(
            self._name, self.advice, row(self._to_visit, self._choose), card(self._week), spacing=10
        )
        side.addStretch(1)
        holder = QWidget()
        holder.setFixedWidth(352)
        holder.setLayout(side)
        across = row(left, holder, spacing=12)
        across.setStretch(0, 1)
        self.setLayout(across)
        self._idle = IdleCall(self._reload, self)
        teach.changed.connect(self._idle.ask)
        teach.advice_ready.connect(self._idle.ask)
        teach.row_changed.connect(self._on_row)
        selection = self.view.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(self._on_chosen)
        self._picked = False
        self._selecting = False

    def _table_card(self) -> QWidget:
        """The board with what narrows it."""
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Type to filter")
        self.filter.setAccessibleName("Filter the board")
        self.filter.setToolTip("Shows only rows that hold what is typed")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(lambda typed: self.model.narrow(typed=typed))
        self._kinds = self._kind_buttons()
        above = row(*self._kinds.values(), self.filter, spacing=4)
        above.setStretch(len(self._kinds), 1)
        self._empty = label("", "quiet")
        left = card(above, self._empty, self.view)
        inner = left.layout()
        assert isinstance(inner, QVBoxLayout)
        inner.setStretch(2, 1)
        return left

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._reload()

    def _kind_buttons(self) -> dict[str, QToolButton]:
        group = QButtonGroup(self)
        made = {}
        for name, (words, picture, tip) in FILTERS.items():
            one = QToolButton()
            one.setText(words)
            one.setCheckable(True)
            one.setToolTip(tip)
            one.setAccessibleName(words)
            one.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
            dress(one, picture, "quiet")
            one.clicked.connect(lambda _on, name=name: self.model.narrow(kind=name))
            group.addButton(one)
            made[name] = one
        made["all"].setChecked(True)
        return made

    def chosen(self) -> BoardRow | None:
        found = self.view.currentIndex().data(ROW)
        return found if isinstance(found, BoardRow) else None

    def _reload(self) -> None:
        if not self.isVisible():
            return
        before = self.chosen() if self._picked else None
        self._selecting = True
        self.model.reload()
        self.view.selectRow(self._place_of(before))
        self._selecting = False
        self._count()
        self._show_chosen()
        self._fill_week()

    def _place_of(self, before: BoardRow | None) -> int:
        """Where a row stands now; the most urgent one where nothing was picked."""
        keys = [one.key for one in self.model.rows]
        return keys.index(before.key) if before is not None and before.key in keys else 0

    def _on_chosen(self) -> None:
        if not self._selecting:
            self._picked = True
            self._show_chosen()

    def _on_row(self, athlete: int, ladder: str) -> None:
        self.model.refresh(athlete, ladder)
        if self.isVisible():
            self._count()
            self._show_chosen()
            self._fill_week()

    def _count(self) -> None:
        rows = self.model.everybody
        for name, one in self._kinds.items():
            count = sum(_belongs(shown, name) for shown in rows)
            one.setText(f"{FILTERS[name][0]} {count}")
        self._empty.setVisible(not rows)
        self.view.setVisible(bool(rows))
        self._empty.setText(
            "Nobody is entered yet. Enter athletes under Screen (F2), then choose a ladder for each."
        )

    def _show_chosen(self) -> None:
        shown = self.chosen()
        self.advice.show_row(shown)
        placed = shown is not None and shown.ladder is not None
        self._name.setText(shown.athlete.name if shown is not None else "")
        self._to_visit.setVisible(placed)
        self._choose.setVisible(shown is not None and not placed)

    def _fill_week(self) -> None:
        clear(self._week)
        self._week.addWidget(label("CHANGED IN THE LAST SEVEN DAYS", "head"))
        news = [one for one in self._teach.week() if one.step.kind != "stay"]
        names = {one.id: one.name for one in self._teach.desk.athletes}
        if not news:
            self._week.addWidget(label("Nothing changed.", "quiet"))
        for one in news[:8]:
            name = self._teach.stage_name(one.step.ladder, one.step.stage)
            words = (
                f"{one.step.on:%d %b}  {names.get(one.athlete_id, '')}: {one.step.kind} – {name}"
            )
            self._week.addWidget(label(words, "small"))
        if len(news) > 8:
            self._week.addWidget(label(f"and {len(news) - 8} more", "small"))

    def _open_visit(self) -> None:
        self._teach.desk.page_wanted.emit("visit")

    def _open_choose(self) -> None:
        shown = self.chosen()
        if shown is not None:
            self._teach.desk.choose_who(shown.athlete.id, self._teach.desk.group)
            self._teach.desk.page_wanted.emit("choose")
