"""What Film hands to the window."""

from typing import Protocol

from keen_kettle.desk.kit.action import Action
from keen_kettle.desk.shared.station_part import StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.stations.film.station import FilmStation

__all__ = ["FilmPart", "FilmsIn"]


class FilmsIn(Protocol):
    """Asks where films are."""

    def add_clip(self) -> None: ...

    def add_folder(self) -> None: ...

    def choose_inbox(self) -> None: ...


class FilmPart(StationPart):
    name = "Film"
    help = "All clips, and what waits in them."
    picture = "film"

    def __init__(self, models: Models, films: FilmsIn) -> None:
        super().__init__(models)
        self._desk, self._queue, self._films = models.desk, models.queue, films
        self._widget = FilmStation(
            models.queue, models.inbox, films.add_clip, films.add_folder, films.choose_inbox
        )
        models.queue.changed.connect(self.changed)
        selection = self._widget.list.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self.changed.emit())

    @property
    def widget(self) -> FilmStation:
        return self._widget

    def badge(self) -> str:
        count = len(self._desk.clips_of_who())
        return f"{count} clip{'s' if count != 1 else ''}"

    def actions(self) -> tuple[Action, ...]:
        queue, films = self._queue, self._films
        return (
            Action(
                *("add_clip", "Add a clip …", "File", ("Ctrl+O",)),
                "Choose a film of a lift; or drop one on the window.",
                films.add_clip,
            ),
            Action(
                *("add_folder", "Add a folder …", "File", ("Ctrl+Shift+O",)),
                "All films in it, looked through in the background.",
                films.add_folder,
            ),
            Action(
                *("choose_inbox", "Choose the inbox …", "File", ("Ctrl+Shift+I",)),
                "A folder in which films arrive; they come into the queue by themselves.",
                films.choose_inbox,
            ),
            Action(
                *("remove_clip", "Remove the chosen clip", "File", ("Ctrl+Del",)),
                "From the list on Film; the film itself stays where it is.",
                self._remove,
                lambda: self._is_open() and self._widget.chosen is not None,
            ),
            Action(
                *("accept", "Accept what is suggested", "Review", ("A",)),
                "Whose clip it is, the plate that was found, where the lifter looks, which lift it is.",
                self._widget.confirm,
                lambda: self._is_open() and self._widget.whose.ready,
            ),
            Action(
                *("queue_next", "Next clip that waits", "Review", ("Q",)),
                "Of the chosen who.",
                queue.open_next,
                lambda: self._desk.station in ("Film", "Review") and bool(queue.waiting()),
            ),
            Action(
                *("queue_pause", "Let the queue rest, or go on", "Review", ("Ctrl+P",)),
                "The background looks through clips one by one.",
                queue.switch_pause,
                lambda: queue.busy,
            ),
        )

    def _is_open(self) -> bool:
        return self._desk.station == self.name

    def _remove(self) -> None:
        if self._widget.chosen is not None:
            self._desk.remove_clip(self._widget.chosen)
