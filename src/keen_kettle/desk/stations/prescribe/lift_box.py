"""A box for the lift of the day: chosen from the usual ones, or typed as it is said."""

from collections.abc import Callable

from PyQt6.QtWidgets import QComboBox, QWidget

from keen_kettle.desk.kit.builders import name_edit

__all__ = ["LiftBox"]

USUAL = (
    *("clean", "power clean", "hang power clean, above knee", "split jerk", "power jerk"),
    *("snatch", "power snatch", "hang snatch, above knee", "clean pull", "snatch pull"),
    *("dumbbell pair clean", "dumbbell power snatch", "kettlebell power snatch", "stick hang snatch, mid-thigh"),
)  # fmt: skip


class LiftBox(QComboBox):
    """Calls `chosen` with the name; what cannot be read stays there to be mended."""

    def __init__(self, chosen: Callable[[str], bool], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._chosen = chosen
        self._shown = ""
        self.setEditable(True)
        self.addItems(list(USUAL))
        self.setMinimumWidth(210)
        name_edit(self, "Lift of the day", "Choose it, or type it as you say it")
        self.activated.connect(lambda _row: self._take())
        line = self.lineEdit()
        assert line is not None
        line.editingFinished.connect(self._take)

    def show_lift(self, name: str) -> None:
        self._shown = name
        line = self.lineEdit()
        if line is not None and not (line.hasFocus() and line.isModified()):
            self.setEditText(name)

    def _take(self) -> None:
        name = self.currentText().strip()
        if name and name != self._shown and self._chosen(name):
            line = self.lineEdit()
            if line is not None:
                line.setModified(False)
