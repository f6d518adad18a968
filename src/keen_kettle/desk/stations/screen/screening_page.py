"""Screening: every check on one screen, pass / not yet / not tested, with what to do about it."""

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.content import Check
from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    label,
    row,
    scrolled,
    with_role,
)
from keen_kettle.desk.kit.theme import dress
from keen_kettle.desk.shared.who_needed import AthletePage
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.store import Athlete, Screening

__all__ = ["ScreeningPage"]

STATES = {
    "pass": ("check", "sage", "pass", "P"),
    "not yet": ("triangle-alert", "ember", "not yet", "N"),
    "not tested": ("circle-question-mark", "quiet", "not tested", "U"),
}


class ScreeningPage(AthletePage):
    """Rows of checks for the chosen athlete; the history of one check beside them."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(
            teach,
            "Screen an athlete",
            "Nine short checks say what can be taught safely, and what to do meanwhile. Choose whom to screen; the next one is one click away.",
            parent,
        )
        self._shown: str | None = None
        self._states: dict[str, dict[str, QToolButton]] = {}
        self._days: dict[str, QLabel] = {}
        self._todo: dict[str, QLabel] = {}
        self._title = label("", "title")
        self._count = label("", "quiet")
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(3)
        scroll = scrolled(self._grid)
        left = card(row(self._title, self._count, spacing=12), scroll, spacing=8)
        self._history = QVBoxLayout()
        side = card(self._history)
        side.setFixedWidth(264)
        across = row(left, side, spacing=12)
        across.setStretch(0, 1)
        self.lay_out(across)
        self._build_rows()

    def _build_rows(self) -> None:
        for number, check in enumerate(self.teach.teaching.checks.values()):
            top = number
            name = button(
                check.name,
                f"{check.how} Press for the history.",
                partial(self._show_check, check.id),
                role="link",
            )
            self._grid.addWidget(name, top, 0)
            line = QHBoxLayout()
            line.setSpacing(2)
            group = QButtonGroup(self)
            self._states[check.id] = {}
            for state, (picture, token, words, _key) in STATES.items():
                made = QToolButton()
                made.setText(words)
                made.setCheckable(True)
                made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
                dress(made, picture, token)
                made.setToolTip(f"{check.name}: {words}, as of today")
                made.setAccessibleName(f"{check.name}: {words}")
                made.clicked.connect(partial(self._screen, check.id, state))
                group.addButton(made)
                self._states[check.id][state] = made
                line.addWidget(made)
            self._grid.addLayout(line, top, 1)
            self._days[check.id] = label("", "quiet", wrap=False)
            self._grid.addWidget(self._days[check.id], top, 2)
            self._todo[check.id] = label("", "small")
            self._grid.addWidget(self._todo[check.id], top, 3)
            self._grid.setRowMinimumHeight(top, 56)
        self._grid.setColumnMinimumWidth(2, 84)
        self._grid.setColumnStretch(3, 1)

    def fill(self, athlete: Athlete) -> None:
        results = self.teach.checks.get(athlete.id, {})
        today = self.teach.desk.today()
        passed = 0
        for check in self.teach.teaching.checks.values():
            result = results.get(check.id)
            state = result.state if result is not None else "not tested"
            passed += state == "pass"
            self._states[check.id][state].setChecked(True)
            day = result.on if result is not None else None
            old = day is not None and (today - day).days > 7 * check.weeks
            words = f"{day:%d %b %Y}" if day is not None else ""
            self._days[check.id].setText(f"{words}\ntest again" if old else words)
            with_role(self._days[check.id], "fault" if old else "quiet")
            self._todo[check.id].setText(self._advice(check, state))
            with_role(self._todo[check.id], "small-fault" if state == "not yet" else "small")
        self._title.setText(f"Screening of {athlete.name}")
        self._count.setText(f"{passed} of {len(self.teach.teaching.checks)} passed")
        self._fill_history(athlete)

    def _advice(self, check: Check, state: str) -> str:
        return f"Do: {check.if_not}" if state == "not yet" else f"Test: {check.how}"

    def _fill_history(self, athlete: Athlete) -> None:
        clear(self._history)
        rows = self.teach.desk.shelf.teaching.screenings(athlete.id)
        shown = self.teach.teaching.checks.get(self._shown or "")
        if shown is not None:
            rows = [one for one in rows if one.check == shown.id]
            self._history.addWidget(label(shown.name, "lead"))
            self._history.addWidget(label(f"Test: {shown.how}"))
            self._history.addWidget(label(f"Until then: {shown.if_not}", "quiet"))
            self._history.addWidget(
                button("All checks", "The history of every check", self._show_all, role="link")
            )
        self._history.addWidget(label("HISTORY", "head"))
        if not rows:
            self._history.addWidget(label("Nothing was tested yet.", "quiet"))
        for one in rows[:14]:
            self._history.addWidget(self._history_row(one))
        cautions = ", ".join(sorted(athlete.cautions))
        self._history.addStretch(1)
        if cautions:
            made = label(f"Cautions on record: {cautions}", "safety")
            self._history.addWidget(made)
        words = self.teach.desk.content.cautions["first"].text
        self._history.addWidget(label(words, "small"))

    def _history_row(self, one: Screening) -> QWidget:
        picture, token, words, _key = STATES[one.state]
        sign = QLabel()
        dress(sign, picture, token)
        known = self.teach.teaching.checks.get(one.check)
        name = known.name if known is not None else one.check
        text = f"{one.on:%d %b %Y}  {words}" + ("" if self._shown else f"\n{name}")
        line = row(sign, label(text), spacing=8)
        line.setStretch(1, 1)
        made = QWidget()
        made.setLayout(line)
        return made

    def _show_check(self, check: str) -> None:
        self._shown = check
        self.show_again()

    def _show_all(self) -> None:
        self._shown = None
        self.show_again()

    def _screen(self, check: str, state: str) -> None:
        athlete = self.athlete
        if athlete is not None:
            self.teach.screen(athlete.id, check, state)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """P, N and U set the check whose row has the focus."""
        if event is None:
            return
        wanted = event.text().upper()
        for check, states in self._states.items():
            if any(one.hasFocus() for one in states.values()):
                for state, (_, _, _, key) in STATES.items():
                    if key == wanted:
                        self._screen(check, state)
                        return
        super().keyPressEvent(event)
