"""The loop as a strip: where the coach is, and what waits at each station for the chosen who."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QWidget

from keen_kettle.desk.kit.builders import label
from keen_kettle.desk.kit.theme import dress
from keen_kettle.desk.shared.station_part import StationPart

__all__ = ["LoopStrip"]


class LoopStrip(QWidget):
    """One button a station, in the order of the work."""

    chosen = pyqtSignal(str)

    def __init__(self, parts: Sequence[StationPart], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._pictures = {part.name: part.picture for part in parts}
        self._buttons: dict[str, QToolButton] = {}
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        for number, name in enumerate(self._pictures, 1):
            if number > 1:
                layout.addWidget(label("›", "quiet", wrap=False))
            made = QToolButton()
            made.setCheckable(True)
            made.setAutoExclusive(True)
            made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
            made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            made.setProperty("role", "strip")
            made.setToolTip(f"Go to {name} (Ctrl+{number})")
            made.clicked.connect(lambda _on, name=name: self.chosen.emit(name))
            self._buttons[name] = made
            layout.addWidget(made)

    def show_state(self, here: str, waiting: dict[str, str]) -> None:
        """Light the open station and write what waits at each."""
        for name, made in self._buttons.items():
            made.setChecked(name == here)
            dress(made, self._pictures[name], "brass" if name == here else "quiet")
            words = waiting.get(name, "")
            made.setText(f"{name} · {words}" if words else name)
            made.setAccessibleName(made.text())
