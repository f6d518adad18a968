"""What Screen hands to the window."""

from keen_kettle.desk.shared.station_part import Page, StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.stations.screen.station import ScreenStation

__all__ = ["ScreenPart"]


class ScreenPart(StationPart):
    name = "Screen"
    help = "Athletes, what they can do safely, their fit."
    picture = "clipboard-check"
    pages = (
        Page("athletes", "Athletes", "Athletes", "F2", "Enter athletes, change their facts."),
        Page("screening", "Screening", "Screening", "F3", "Nine checks and what to do about them."),
        Page("fit", "Fit", "Fit", "F4", "Grips, overhead height, start height."),
    )

    def __init__(self, models: Models) -> None:
        super().__init__(models)
        self._desk, self._teach = models.desk, models.teach
        self._widget = ScreenStation(models.desk, models.teach)
        models.teach.advice_ready.connect(self.badge_changed)

    @property
    def widget(self) -> ScreenStation:
        return self._widget

    def open(self, tab: str) -> None:
        self._widget.tabs.open(tab)

    def badge(self) -> str:
        untested = sum(not self._teach.checks.get(one.id) for one in self._desk.people())
        return f"{untested} new" if untested else ""
