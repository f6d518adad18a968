"""A row of pages with one open at a time: the parts of a station."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QStackedWidget, QToolButton, QWidget

from keen_kettle.desk.kit.builders import column
from keen_kettle.desk.kit.theme import dress

__all__ = ["Tabs"]


class Tabs(QWidget):
    """Buttons above a stack of pages; `beside` is free room right of the buttons."""

    opened = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QToolButton] = {}
        self._makers: dict[str, Callable[[], QWidget]] = {}
        self._pages: dict[str, QWidget] = {}
        self.here = ""
        self.stack = QStackedWidget()
        self._row = QHBoxLayout()
        self._row.setSpacing(4)
        self.beside = QHBoxLayout()
        self.beside.setSpacing(8)
        self._row.addStretch(1)
        self._row.addLayout(self.beside)
        layout = column(self._row, self.stack, spacing=8)
        layout.setContentsMargins(16, 10, 16, 12)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def add(self, name: str, make: Callable[[], QWidget], picture: str, tip: str) -> None:
        """A page that is made when it is first wanted."""
        made = QToolButton()
        made.setText(name)
        made.setCheckable(True)
        self._group.addButton(made)
        made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        made.setToolTip(tip)
        made.setAccessibleName(name)
        dress(made, picture, "quiet")
        made.clicked.connect(lambda: self.open(name))
        self._buttons[name] = made
        self._makers[name] = make
        self._row.insertWidget(len(self._buttons) - 1, made)
        if len(self._buttons) == 1:
            self.here = name
            made.setChecked(True)

    def page(self, name: str) -> QWidget:
        if name not in self._pages:
            self._pages[name] = self._makers[name]()
            self.stack.addWidget(self._pages[name])
        return self._pages[name]

    def open(self, name: str) -> None:
        self.here = name
        self._buttons[name].setChecked(True)
        self.stack.setCurrentWidget(self.page(name))
        self.opened.emit(name)

    def showEvent(self, event: QShowEvent | None) -> None:
        self.stack.setCurrentWidget(self.page(self.here))
        super().showEvent(event)
