"""Roll call: the set-up's questions over the whole window, ticked as the athlete answers."""

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from keen_kettle.core.content import Asked
from keen_kettle.desk.kit.builders import button, label, row
from keen_kettle.desk.kit.theme import dress

__all__ = ["RollCall"]


class RollCall(QFrame):
    """Covers its parent; Space or Enter ticks the next question, Back takes one back, Esc leaves."""

    left = pyqtSignal()

    def __init__(
        self, who: str, words: Sequence[str], asked: Sequence[Asked], parent: QWidget | None
    ) -> None:
        super().__init__(parent)
        self.setProperty("role", "roll-call")
        self.setAutoFillBackground(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.done = 0
        self._asked = asked
        self._signs: list[QLabel] = []
        self._answers: list[QLabel] = []
        body = QVBoxLayout()
        body.setContentsMargins(64, 40, 64, 32)
        body.setSpacing(10)
        body.addWidget(label(who, "title"))
        if words:
            body.addWidget(label("   ·   ".join(words), "call-words"))
        body.addStretch(1)
        for one in asked:
            sign = QLabel()
            answer = label(one.answer, "call-answer")
            self._signs.append(sign)
            self._answers.append(answer)
            room = answer.sizePolicy()
            room.setRetainSizeWhenHidden(True)  # so that no line moves when it is answered
            answer.setSizePolicy(room)
            line = row(sign, label(one.asks, "call"), answer, spacing=20)
            line.setStretch(1, 2)
            line.setStretch(2, 3)
            body.addLayout(line)
        body.addStretch(1)
        self._hint = label("", "quiet")
        leave = button("Leave (Esc)", "Back to the visit", self.leave, "x")
        below = row(self._hint, leave)
        below.setStretch(0, 1)
        body.addLayout(below)
        self.setLayout(body)
        if parent is not None:
            self.setGeometry(parent.rect())
            parent.installEventFilter(self)
        self._show()
        self.show()
        self.raise_()
        self.setFocus()

    def tick(self, by: int = 1) -> None:
        self.done = max(0, min(len(self._asked), self.done + by))
        self._show()

    def leave(self) -> None:
        self.hide()
        self.left.emit()
        self.deleteLater()

    def _show(self) -> None:
        for number, (sign, answer) in enumerate(zip(self._signs, self._answers, strict=True)):
            ticked = number < self.done
            token = "sage" if ticked else "brass" if number == self.done else "quiet"
            dress(sign, "check" if ticked else "circle-dot", token)
            answer.setVisible(ticked)
        whole = self.done == len(self._asked)
        self._hint.setText(
            "All answered: lift." if whole else "Space ticks the answer, Backspace takes it back."
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.done == len(self._asked):
                self.leave()
            else:
                self.tick()
        elif event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Up):
            self.tick(-1)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: object) -> None:
        """A press anywhere ticks, as a hand on a touch screen does."""
        self.tick()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            parent = self.parentWidget()
            if parent is not None:
                self.setGeometry(parent.rect())
        return super().eventFilter(watched, event)
