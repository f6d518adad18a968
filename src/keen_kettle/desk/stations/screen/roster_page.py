"""What a class list would bring: row by row, what is taken and what is wrong. Nothing is kept yet."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QTableView, QVBoxLayout, QWidget

from keen_kettle.desk.kit.builders import button, card, column, label, row
from keen_kettle.desk.kit.tables import RowTable, dressed_table
from keen_kettle.desk.kit.theme import colour, icon
from keen_kettle.store import Roster, RosterRow

__all__ = ["RosterPage", "RosterRows"]


class RosterRows(RowTable[RosterRow]):
    """The rows of a class list."""

    heads = ("Row", "Name", "Born", "Height", "Mass", "Groups", "What happens")

    def cell(self, one: RosterRow, place: int, role: int) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return _cells(one)[place]
        if place == 6:
            picture, token = (
                ("x", "ember")
                if one.problem
                else ("triangle-alert", "brass")
                if one.left_out
                else ("check", "sage")
            )
            if role == Qt.ItemDataRole.DecorationRole:
                return icon(picture, token)
            if role == Qt.ItemDataRole.ForegroundRole:
                return colour(token)
        return None


def _cells(one: RosterRow) -> tuple[str, ...]:
    athlete = one.athlete
    if athlete is None:
        return (str(one.line), one.name or "–", "", "", "", "", f"not taken: {one.problem}")
    born = str(athlete.birth_year) if athlete.birth_year else "–"
    tall = f"{100 * athlete.stature_m:.0f} cm" if athlete.stature_m else "–"
    mass = f"{athlete.mass_kg:g} kg" if athlete.mass_kg else "–"
    what = "taken" if not one.left_out else f"taken without {'; '.join(one.left_out)}"
    return (str(one.line), one.name, born, tall, mass, ", ".join(one.groups) or "–", what)


class RosterPage(QWidget):
    """The preview with its two ways on."""

    def __init__(
        self,
        take: Callable[[], None],
        leave: Callable[[], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.roster: Roster | None = None
        self.model = RosterRows(self)
        self.view = QTableView()
        self.view.setModel(self.model)
        dressed_table(self.view, "Rows of the class list", 6)
        self.view.setToolTip("What happens with each row")
        self._title = label("", "title")
        self._words = label("", "quiet")
        self.take = button("", "Keep these athletes; can be undone", take, "check", "next")
        leave_it = button("Take nothing", "Back; the file is not touched", leave, "x")
        below = row(self.take, leave_it)
        below.addStretch(1)
        inside = card(self._title, self._words, self.view, below)
        layout = inside.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.setStretch(2, 1)
        self.setLayout(column(inside))

    def show_roster(self, roster: Roster, name: str) -> None:
        self.roster = roster
        self.model.show_rows(roster.rows)
        good, bad = len(roster.good), len(roster.rows) - len(roster.good)
        self._title.setText(f"{name}: {good} to take, {bad} not")
        unknown = (
            f"Columns that are not taken: {', '.join(roster.unknown)}. " if roster.unknown else ""
        )
        self._words.setText(
            f"Columns found: {', '.join(roster.columns)}. {unknown}Nothing is kept until you say so."
        )
        self.take.setText(f"Take these {good} athletes" if good != 1 else "Take this athlete")
        self.take.setEnabled(good > 0)
