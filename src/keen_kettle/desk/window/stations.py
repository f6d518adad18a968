"""The loop's stations in their order. A new one is added here, and nowhere else in the window."""

from keen_kettle.desk.shared.station_part import Stage, StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.stations.film.part import FilmPart, FilmsIn
from keen_kettle.desk.stations.prescribe.part import PrescribePart
from keen_kettle.desk.stations.record.part import RecordPart
from keen_kettle.desk.stations.review.part import ReviewPart
from keen_kettle.desk.stations.screen.part import ScreenPart
from keen_kettle.desk.stations.teach.part import TeachPart

__all__ = ["Stations"]


class Stations:
    """All parts, by their own names and in the loop's order."""

    def __init__(self, models: Models, films: FilmsIn, stage: Stage) -> None:
        self.screen = ScreenPart(models)
        self.teach = TeachPart(models)
        self.film = FilmPart(models, films)
        self.review = ReviewPart(models, stage)
        self.prescribe = PrescribePart(models)
        self.record = RecordPart(models)

    @property
    def in_order(self) -> tuple[StationPart, ...]:
        return tuple(vars(self).values())

    def named(self, name: str) -> StationPart:
        return next(part for part in self.in_order if part.name == name)

    def with_page(self, page: str) -> StationPart:
        """The station that has a page."""
        return next(part for part in self.in_order if any(one.id == page for one in part.pages))
