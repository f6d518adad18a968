"""Screen: who is taught, what they can do safely, and how bar and body fit."""

from functools import cached_property

from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.desk_model import DeskModel
from keen_kettle.desk.parts import column
from keen_kettle.desk.teach_model import TeachModel
from keen_kettle.desk.widgets.athletes_page import AthletesPage
from keen_kettle.desk.widgets.fit_page import FitPage
from keen_kettle.desk.widgets.screening_page import ScreeningPage
from keen_kettle.desk.widgets.tabs import Tabs

__all__ = ["ScreenStation"]


class ScreenStation(QWidget):
    """Three pages about the chosen who, each made when it is first opened."""

    def __init__(self, desk: DeskModel, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._teach = desk, teach
        self.tabs = Tabs()
        self.tabs.add(
            "Athletes", lambda: self.athletes, "users", "Who there is, and their facts (F2)"
        )
        self.tabs.add(
            "Screening",
            lambda: self.screening,
            "clipboard-check",
            "What can be taught safely (F3)",
        )
        self.tabs.add("Fit", lambda: self.fit, "ruler", "Grips and start height (F4)")
        self.setLayout(column(self.tabs))

    @cached_property
    def athletes(self) -> AthletesPage:
        return AthletesPage(self._desk, self._teach)

    @cached_property
    def screening(self) -> ScreeningPage:
        return ScreeningPage(self._teach)

    @cached_property
    def fit(self) -> FitPage:
        return FitPage(self._teach)
