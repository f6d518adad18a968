"""Teach: the board, the visits, the ladders, and choosing one."""

from functools import cached_property

from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.kit.builders import column
from keen_kettle.desk.kit.tabs import Tabs
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.state.teach.trial_model import TrialModel
from keen_kettle.desk.stations.teach.board_page import BoardPage
from keen_kettle.desk.stations.teach.choose_page import ChoosePage
from keen_kettle.desk.stations.teach.compare_page import ComparePage
from keen_kettle.desk.stations.teach.ladders_page import LaddersPage
from keen_kettle.desk.stations.teach.tryout_page import TryoutPage
from keen_kettle.desk.stations.teach.visit_page import VisitPage

__all__ = ["TeachStation"]


class TeachStation(QWidget):
    """Six pages about the chosen who, each made when it is first opened."""

    def __init__(
        self, teach: TeachModel, trials: TrialModel, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._teach, self._trials = teach, trials
        self.tabs = Tabs()
        self.tabs.add("Board", lambda: self.board, "layout-list", "Who is where, due, stuck (F5)")
        self.tabs.add("Visit", lambda: self.visit, "list-checks", "Mark a group's visit (F6)")
        self.tabs.add("Ladders", lambda: self.ladders, "footprints", "Stages, as figures (F7)")
        self.tabs.add("Choose", lambda: self.choose, "compass", "Which ladder, and why (F8)")
        self.tabs.add("Try-out", lambda: self.tryout, "shuffle", "Variants and jumps (F9)")
        self.tabs.add("Compare", lambda: self.compare, "ruler", "Two movements side by side (F10)")
        self.setLayout(column(self.tabs))

    @cached_property
    def board(self) -> BoardPage:
        return BoardPage(self._teach)

    @cached_property
    def visit(self) -> VisitPage:
        return VisitPage(self._teach)

    @cached_property
    def ladders(self) -> LaddersPage:
        return LaddersPage(self._teach)

    @cached_property
    def tryout(self) -> TryoutPage:
        return TryoutPage(self._teach, self._trials)

    @cached_property
    def compare(self) -> ComparePage:
        return ComparePage(self._teach)

    @cached_property
    def choose(self) -> ChoosePage:
        return ChoosePage(self._teach)
