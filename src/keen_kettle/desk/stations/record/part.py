"""What Record hands to the window."""

from keen_kettle.desk.shared.station_part import StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.stations.record.station import RecordStation

__all__ = ["RecordPart"]


class RecordPart(StationPart):
    name = "Record"
    help = "Correctives that run, and plates."
    picture = "clipboard-list"

    def __init__(self, models: Models) -> None:
        super().__init__(models)
        self._desk = models.desk
        self._widget = RecordStation(models.desk)

    @property
    def widget(self) -> RecordStation:
        return self._widget

    def badge(self) -> str:
        runs = sum(one.runs for one in self._desk.correctives_of_who())
        return f"{runs} running" if runs else ""
