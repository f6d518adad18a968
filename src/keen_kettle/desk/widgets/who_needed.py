"""Shown where one athlete must be chosen: says what for, and offers everybody as a button."""

from functools import partial

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QGridLayout, QScrollArea, QWidget

from keen_kettle.desk.parts import Soon, button, clear, column, label
from keen_kettle.desk.teach_model import TeachModel

__all__ = ["WhoNeeded"]

MOST = 60


class WhoNeeded(QWidget):
    """A heading, a sentence, and one button for each athlete of the chosen who."""

    def __init__(
        self, teach: TeachModel, title: str, words: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._teach = teach
        self._grid = QGridLayout()
        self._grid.setSpacing(6)
        self._rest = label("", "quiet")
        self._enter = button(
            "Enter athletes",
            "Go to Screen, Athletes",
            lambda: teach.desk.page_wanted.emit("athletes"),
            "plus",
            "next",
        )
        inside = QWidget()
        body = column(
            label(title, "title"), label(words, "quiet"), self._grid, self._rest, spacing=12
        )
        body.addWidget(self._enter)
        body.addStretch(1)
        body.setContentsMargins(8, 16, 8, 8)
        inside.setLayout(body)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inside)
        self.setLayout(column(scroll))
        self._soon = Soon(self._fill, self)
        teach.changed.connect(self._soon.ask)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fill()

    def _fill(self) -> None:
        if not self.isVisible():
            return
        clear(self._grid)
        self._teach.ensure()
        desk = self._teach.desk
        people = desk.people()
        for number, one in enumerate(people[:MOST]):
            results = self._teach.checks.get(one.id, {})
            passed = sum(result.state == "pass" for result in results.values())
            made = button(
                one.name,
                f"{passed} of {len(self._teach.teaching.checks)} checks passed",
                partial(desk.choose_who, one.id, desk.group),
                "user",
            )
            self._grid.addWidget(made, number // 4, number % 4)
        hidden = len(people) - MOST
        self._rest.setText(
            f"and {hidden} more: choose them above, under Who." if hidden > 0 else ""
        )
        self._enter.setVisible(not people)
