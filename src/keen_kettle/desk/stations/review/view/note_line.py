"""A line over the film in which a note is written: Enter keeps it, Esc drops it."""

from PyQt6.QtCore import QEvent, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

__all__ = ["NoteLine"]

WIDE, HIGH = 300, 36


class NoteLine(QLineEdit):
    """Hidden until it is asked to `write`; `written` brings the words, "" when it was dropped."""

    written = pyqtSignal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAccessibleName("Note")
        self.setToolTip("Enter keeps the note; Esc drops it")
        self.setPlaceholderText("What is there to see?")
        self.returnPressed.connect(lambda: self._end(self.text()))
        self.hide()

    def write(self, spot: QPoint) -> None:
        """Open beside a place of the parent."""
        film = self.parentWidget()
        assert film is not None
        left = min(max(spot.x() + 14, 4), max(film.width() - WIDE - 4, 4))
        self.setGeometry(left, min(max(spot.y() - 18, 4), film.height() - HIGH - 4), WIDE, HIGH)
        self.clear()
        self.show()
        self.setFocus()

    def event(self, event: QEvent | None) -> bool:
        """Esc belongs to the note, not to the window's action."""
        if isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if event.type() == QEvent.Type.KeyPress:
                self._end("")
                return True
        return super().event(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Going elsewhere keeps what was written: nothing typed is lost."""
        super().focusOutEvent(event)
        self._end(self.text())

    def _end(self, words: str) -> None:
        if self.isVisible():
            self.hide()
            self.written.emit(words)
