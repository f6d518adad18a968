"""The one way of an answer: path and sightings → the lifter's landmarks → measures and findings.

What an answer hangs on is one value. Whoever has changed something asks; the same is never worked out
twice, one trip to the worker process is under way at a time, the newest question waits meanwhile, and
what comes back is shown once.
"""

import contextlib
from collections import OrderedDict
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.analysis import Answer, Assessment, ClipSettings, made_from
from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.motion import HandEvent
from keen_kettle.core.track import BarTrack, PlateMark
from keen_kettle.core.track.body import BodyPoint, BodyTrack, Sightings
from keen_kettle.desk.work.tasks import WorkOut
from keen_kettle.desk.work.worker_process import WorkerProcess
from keen_kettle.desk.work.workers import Job, Jobs
from keen_kettle.store import Shelf, StoreError

__all__ = ["AnswerModel", "Asked", "Held", "News", "Sources"]

MOST_KEPT = 12


@dataclass(frozen=True)
class Asked:
    """All that an answer hangs on: equal ones have the same answer.

    `path` is what the path was made from; `looked` how often the lifter had been looked for anew when
    what is known of them was seen, None where nothing is. `held` names what is under the hand ("point"
    of the body, "event", "place" of the bar, "mark"; "" for nothing): its answer is not kept.
    """

    clip: int
    path: tuple[object, ...]
    looked: int | None
    settings: ClipSettings
    mark: PlateMark | None = None
    place: tuple[int, float, float] | None = None
    held: str = ""

    @property
    def of_body(self) -> tuple[object, ...]:
        """What of it the lifter's landmarks hang on."""
        settings = self.settings
        made = self.clip, self.path, self.looked, settings.facing, settings.thing
        return *made, settings.body_hand, self.place, self.held == "point"


@dataclass(frozen=True)
class Held:
    """What is under the hand: what follows from it is shown, and not kept."""

    point: BodyPoint | None = None
    events: tuple[HandEvent, ...] | None = None
    place: tuple[int, float, float] | None = None

    @property
    def what(self) -> str:
        """ "point", "event", "place", or "" for nothing."""
        held = {"point": self.point, "event": self.events, "place": self.place}
        return next((name for name, one in held.items() if one is not None), "")


@dataclass(frozen=True)
class Sources:
    """What the worker process is handed for it."""

    index: ClipIndex
    track: BarTrack
    seen: Sightings | None


@dataclass(frozen=True)
class News:
    """What an answer has changed: the lifter's landmarks too, or only what follows; and whether it
    follows the hand, so that the next one is near."""

    body: bool
    held: bool


class AnswerModel(QObject):
    """The answer of the open clip, and those of the last few clips."""

    changed = pyqtSignal(object)
    """With `News`."""
    failed = pyqtSignal(str)

    def __init__(
        self, jobs: Jobs, worker: WorkerProcess, shelf: Shelf, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._jobs, self._worker, self._shelf = jobs, worker, shelf
        self.asked: Asked | None = None
        """What the shown answer belongs to."""
        self.answer: Assessment | None = None
        self.body: BodyTrack | None = None
        self._newest: Asked | None = None
        self._sources: Sources | None = None
        self._under_way: Asked | None = None
        self._kept: OrderedDict[Asked, Answer] = OrderedDict()
        self.trips = 0
        """How often the worker process was asked."""

    def ask(self, asked: Asked, sources: Sources) -> None:
        """Have an answer; at once where it is known."""
        self._newest, self._sources = asked, sources
        if asked == self.asked:
            return
        kept = self._kept.get(asked)
        if kept is not None:
            self._show(asked, kept)
        elif self._under_way is None:
            self._go()

    def leave(self) -> None:
        """There is nothing to be answered: another clip, or no path."""
        self._newest = self._sources = self.asked = None
        self.answer = self.body = None

    def _go(self) -> None:
        asked, sources = self._newest, self._sources
        if asked is None or sources is None or asked == self.asked:
            return
        self._under_way = asked
        self._jobs.start(
            lambda job: self._work(job, asked, sources),
            lambda answer: self._done(asked, answer),
            lambda reason: self._fail(asked, reason),
            cancelled=lambda: self._done(asked, None),
        )

    def _work(self, job: Job, asked: Asked, sources: Sources) -> Answer:
        """The answer, as it is kept with the clip or from the worker process."""
        keep = not asked.held and asked.settings.rep is None
        made = made_from(sources.track, sources.seen, asked.settings) if keep else ""
        if keep:
            with contextlib.suppress(StoreError):
                kept = self._shelf.answer(asked.clip, made)
                if kept is not None:
                    return kept
        mark = (sources.index, asked.mark) if asked.mark is not None else None
        quick = asked.held in ("point", "place", "mark")
        task = WorkOut(sources.track, sources.seen, asked.settings, mark, asked.place, quick)
        self.trips += 1
        answer: Answer = self._worker.ask(task, job.tell, job.stopped)
        if keep:
            with contextlib.suppress(StoreError):  # it can be made again
                self._shelf.keep_answer(asked.clip, made, answer)
        return answer

    def _done(self, asked: Asked, answer: Answer | None) -> None:
        self._under_way = None
        newest = self._newest
        if answer is not None and not asked.held:
            self._keep(asked, answer)
        following = newest is not None and bool(newest.held) and newest.clip == asked.clip
        if answer is not None and (asked == newest or following):
            self._show(asked, answer)
        self._go()

    def _fail(self, asked: Asked, reason: str) -> None:
        self._under_way = None
        if asked == self._newest:  # asked again as it stands it would fail again
            self._newest = None
        self.failed.emit(reason)
        self._go()

    def _show(self, asked: Asked, answer: Answer) -> None:
        same = self.asked is not None and asked.of_body == self.asked.of_body
        self.asked, self.answer = asked, answer.assessment
        if not same:
            self.body = answer.body
        self.changed.emit(News(not same, bool(asked.held)))

    def _keep(self, asked: Asked, answer: Answer) -> None:
        self._kept[asked] = answer
        self._kept.move_to_end(asked)
        while len(self._kept) > MOST_KEPT:
            self._kept.popitem(last=False)
