"""What Teach hands to the window."""

from keen_kettle.desk.shared.station_part import Page, StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.state.teach.board_row import state_of_row
from keen_kettle.desk.stations.teach.station import TeachStation

__all__ = ["TeachPart"]


class TeachPart(StationPart):
    name = "Teach"
    help = "Board, visits, ladders, try-outs."
    picture = "graduation-cap"
    pages = (
        Page("board", "Board", "Board", "F5", "Who is where, who is due, who is stuck."),
        Page("visit", "Visit", "Visit", "F6", "Mark a whole group's visit."),
        Page("ladders", "Ladders", "Ladders", "F7", "Stages with their moving figures."),
        Page("choose", "Choose", "Choose a ladder", "F8", "Ranked ladders with reasons."),
        Page("tryout", "Try-out", "Try-out", "F9", "Variants in one visit; jump heights."),
        Page("compare", "Compare", "Compare movements", "F10", "Two side by side, with a sheet."),
    )

    def __init__(self, models: Models) -> None:
        super().__init__(models)
        self._teach = models.teach
        self._widget = TeachStation(models.teach, models.trials)
        models.teach.advice_ready.connect(self.badge_changed)
        models.teach.row_changed.connect(lambda *_: self.badge_changed.emit())

    @property
    def widget(self) -> TeachStation:
        return self._widget

    def open(self, tab: str) -> None:
        self._widget.tabs.open(tab)

    def badge(self) -> str:
        urgent = [state_of_row(one)[0] for one in self._teach.known_rows()]
        due, stop = urgent.count(1), urgent.count(0)
        return f"{stop} safety" if stop else f"{due} due" if due else ""
