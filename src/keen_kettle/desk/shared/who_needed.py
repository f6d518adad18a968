"""Pages about one athlete; while nobody is chosen they say what for and offer everybody."""

from functools import partial

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QGridLayout, QLayout, QWidget

from keen_kettle.desk.kit.builders import button, clear, column, label, scrolled
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.store import Athlete

__all__ = ["AthletePage", "WhoNeeded"]

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
        body = column(
            label(title, "title"),
            label(words, "quiet"),
            self._grid,
            self._rest,
            self._enter,
            spacing=12,
        )
        body.setContentsMargins(8, 16, 8, 8)
        self.setLayout(column(scrolled(body)))
        self._idle = IdleCall(self._fill, self)
        teach.changed.connect(self._idle.ask)

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


class AthletePage(QWidget):
    """A page about the chosen athlete; `fill` is called when it is shown and when facts change."""

    def __init__(
        self, teach: TeachModel, title: str, words: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.teach = teach
        self._nobody = WhoNeeded(teach, title, words)
        self._board = QWidget()
        self.setLayout(column(self._board, self._nobody))
        self._refill = IdleCall(self.show_again, self)
        teach.changed.connect(self._refill.ask)
        teach.row_changed.connect(lambda *_: self._refill.ask())

    def lay_out(self, board: QLayout) -> None:
        """What the page shows for an athlete."""
        self._board.setLayout(board)

    @property
    def athlete(self) -> Athlete | None:
        return self.teach.desk.athlete(self.teach.desk.who)

    def fill(self, athlete: Athlete) -> None:
        """Show an athlete."""
        raise NotImplementedError

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.show_again()

    def show_again(self) -> None:
        """Show the chosen athlete anew, or everybody to choose from."""
        athlete = self.athlete
        self._board.setVisible(athlete is not None)
        self._nobody.setVisible(athlete is None)
        if athlete is not None and self.isVisible():
            self.teach.ensure()
            self.fill(athlete)
