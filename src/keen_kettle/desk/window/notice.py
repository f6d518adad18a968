"""A line across the window that says what went wrong, what is safe and what to do; never a dialog."""

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QLabel, QSizePolicy, QWidget

from keen_kettle.desk.kit.builders import button, label, row
from keen_kettle.desk.kit.theme import dress

__all__ = ["Notice"]


class Notice(QFrame):
    """Hidden until something has to be said; stays until it is closed or answered."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("role", "card")
        sign = QLabel()
        dress(sign, "triangle-alert", "ember")
        self.words = label()
        self.words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.answer = button("", "Do what the notice offers", self._answered, role="next")
        self.shut = button("Close", "Put this notice away", self.hide, "x")
        self.setLayout(row(sign, self.words, self.answer, self.shut, spacing=12, margin=10))
        self._offer: Callable[[], None] | None = None
        self.hide()

    def say(
        self, words: str, offer_words: str = "", offer: Callable[[], None] | None = None
    ) -> None:
        self.words.setText(words)
        self._offer = offer
        self.answer.setText(offer_words)
        self.answer.setAccessibleName(offer_words)
        self.answer.setVisible(offer is not None)
        self.show()

    def _answered(self) -> None:
        self.hide()
        if self._offer is not None:
            self._offer()
