"""A few words of which one may be chosen, or none: a second press takes the choice back."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtWidgets import QToolButton, QWidget

from keen_kettle.desk.kit.builders import label, row

__all__ = ["Choices"]


class Choices(QWidget):
    """A name and its words as toggles; `chosen` is called with the word, or with nothing.

    Without `headed` the name is for readers of the screen only, and the toggles are narrow.
    """

    def __init__(
        self,
        name: str,
        words: Sequence[str],
        tip: str,
        chosen: Callable[[str], object],
        headed: bool = True,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._chosen = chosen
        self.buttons: dict[str, QToolButton] = {}
        line = row(spacing=4)
        if headed:
            head = label(name, "quiet", wrap=False)
            head.setFixedWidth(84)
            line.addWidget(head)
        for word in words:
            made = QToolButton()
            made.setText(word)
            made.setCheckable(True)
            made.setProperty("role", "" if headed else "strip")
            made.setToolTip(tip)
            made.setAccessibleName(f"{name}: {word}")
            made.clicked.connect(partial(self._press, word))
            self.buttons[word] = made
            line.addWidget(made)
        line.addStretch(1)
        self.setLayout(line)

    @property
    def choice(self) -> str:
        return next((word for word, one in self.buttons.items() if one.isChecked()), "")

    def show_choice(self, word: str) -> None:
        for own, one in self.buttons.items():
            one.setChecked(own == word)

    def next(self) -> None:
        """Choose the following word; after the last, none."""
        order = ["", *self.buttons]
        following = order[(order.index(self.choice) + 1) % len(order)]
        self.show_choice(following)
        self._chosen(following)

    def _press(self, word: str, on: bool) -> None:
        self.show_choice(word if on else "")
        self._chosen(word if on else "")
