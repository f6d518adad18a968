"""One tool at a time on the film: whoever takes another leaves the first, and its work is kept."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

__all__ = ["ToolInHand"]


class ToolInHand(QObject):
    """Which tool the next press on the film belongs to; "" for none."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.name = ""
        self._leave: Callable[[], None] = _nothing

    def take(self, name: str, leave: Callable[[], None]) -> None:
        """Take a tool in hand; `leave` keeps its work when it is laid down."""
        self.lay_down()
        self.name, self._leave = name, leave
        self.changed.emit()

    def lay_down(self) -> None:
        """Leave whatever is in hand."""
        if self.name:
            leave, self.name, self._leave = self._leave, "", _nothing
            leave()
            self.changed.emit()


def _nothing() -> None:
    pass
