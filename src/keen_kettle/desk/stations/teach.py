"""Teach: the board, the visits, the ladders, and choosing one."""

from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.parts import column
from keen_kettle.desk.teach_model import TeachModel
from keen_kettle.desk.widgets.board_page import BoardPage
from keen_kettle.desk.widgets.choose_page import ChoosePage
from keen_kettle.desk.widgets.ladders_page import LaddersPage
from keen_kettle.desk.widgets.tabs import Tabs
from keen_kettle.desk.widgets.visit_page import VisitPage

__all__ = ["TeachStation"]


class TeachStation(QWidget):
    """Four pages about the chosen who."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.board = BoardPage(teach)
        self.visit = VisitPage(teach)
        self.ladders = LaddersPage(teach)
        self.choose = ChoosePage(teach)
        self.tabs = Tabs()
        self.tabs.add("Board", self.board, "layout-list", "Who is where, due, stuck (F5)")
        self.tabs.add("Visit", self.visit, "list-checks", "Mark a group's visit (F6)")
        self.tabs.add("Ladders", self.ladders, "footprints", "Stages and what they mean (F7)")
        self.tabs.add("Choose", self.choose, "compass", "Which ladder, and why (F8)")
        self.setLayout(column(self.tabs))
