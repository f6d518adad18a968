"""Prescribe: correctives, warm-up, complex, session sheet, drill library, faults shown."""

from functools import cached_property, partial

from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.kit.builders import column
from keen_kettle.desk.kit.tabs import Tabs
from keen_kettle.desk.state.prescribe.complex_model import ComplexModel
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel
from keen_kettle.desk.state.prescribe.drill_model import DrillModel
from keen_kettle.desk.state.prescribe.movement_model import MovementModel
from keen_kettle.desk.state.prescribe.session_model import SessionModel
from keen_kettle.desk.state.prescribe.warm_up_model import WarmUpModel
from keen_kettle.desk.stations.prescribe.complex_page import ComplexPage
from keen_kettle.desk.stations.prescribe.correctives_page import CorrectivesPage
from keen_kettle.desk.stations.prescribe.drills_page import DrillsPage
from keen_kettle.desk.stations.prescribe.faults_page import FaultsPage
from keen_kettle.desk.stations.prescribe.session_page import SessionPage
from keen_kettle.desk.stations.prescribe.warm_up_page import WarmUpPage

__all__ = ["PrescribeStation"]


class PrescribeStation(QWidget):
    """Six pages about the chosen who, each made when it is first opened."""

    def __init__(self, correctives: CorrectiveModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._correctives = correctives
        self.composer = ComplexModel(correctives, self)
        self.sheet = SessionModel(correctives, self.composer, self)
        self.opening = WarmUpModel(correctives, self.composer, self.sheet, self)
        self.library = DrillModel(correctives, self)
        self.movements = MovementModel(correctives.desk, self)
        self.tabs = Tabs()
        for name, page, picture, tip in (
            (
                "Correctives",
                "correctives",
                "stethoscope",
                "What was seen, and its drills (Shift+F2)",
            ),
            ("Warm-up", "warm_up", "activity", "Opening and build-up (Shift+F3)"),
            ("Complex", "complex", "shuffle", "The best string (Shift+F4)"),
            ("Session", "session", "clipboard-list", "The sheet for paper (Shift+F5)"),
            ("Drills", "drills", "search", "The library (Shift+F6)"),
            ("Faults", "faults", "triangle-alert", "Beside the right way, by degree (Shift+F7)"),
        ):
            self.tabs.add(name, partial(getattr, self, page), picture, tip)
        self.setLayout(column(self.tabs))

    @cached_property
    def correctives(self) -> CorrectivesPage:
        return CorrectivesPage(self._correctives)

    @cached_property
    def warm_up(self) -> WarmUpPage:
        return WarmUpPage(self.opening)

    @cached_property
    def complex(self) -> ComplexPage:
        return ComplexPage(self.composer, self.movements)

    @cached_property
    def session(self) -> SessionPage:
        return SessionPage(self.sheet, self.composer)

    @cached_property
    def drills(self) -> DrillsPage:
        return DrillsPage(self.library, self.movements)

    @cached_property
    def faults(self) -> FaultsPage:
        return FaultsPage(self._correctives)
