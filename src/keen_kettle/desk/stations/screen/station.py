"""Screen: who is taught, what they can do safely, and how bar and body fit."""

from functools import cached_property

from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.kit.builders import column
from keen_kettle.desk.kit.tabs import Tabs
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.stations.screen.athletes_page import AthletesPage
from keen_kettle.desk.stations.screen.fit_page import FitPage
from keen_kettle.desk.stations.screen.screening_page import ScreeningPage

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
