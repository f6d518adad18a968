"""The queue: clips from a folder or the inbox, looked through in the background, confirmed, reviewed.

A new clip gets what its file name and day tell; the background finds plate, path, lifter, facing and
lift in a process of its own, one clip at a time, and gives way while the coach's own clip is being
worked on. The coach confirms whose it is with one key, and a clip leaves the queue when its answer
has been seen on Review.
"""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.analysis import ClipSettings, made_from
from keen_kettle.core.clip import read_index
from keen_kettle.core.errors import KettleError, UnknownLift
from keen_kettle.core.intake import Trained
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.track import PlateMark
from keen_kettle.desk.state.records.reading import Arrival, films_in, read_film
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.clip_settings import settings_of
from keen_kettle.desk.state.review.found import findings_from
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.desk.work.tasks import LookThrough
from keen_kettle.desk.work.worker_process import WorkerProcess
from keen_kettle.desk.work.workers import Job
from keen_kettle.store import Clip, Shelf, StoreError

__all__ = ["Found", "QueueModel", "keep_found"]

BUSY_WITH_OTHERS = 10
"""How far the background steps back before other work of the machine (as `nice` counts)."""


@dataclass(frozen=True)
class Found:
    """What became of a clip that was looked through: settings as it shows them, or the trouble."""

    clip_id: int
    marks_before: tuple[PlateMark, ...] = ()
    shown: ClipSettings | None = None
    trouble: str = ""


@dataclass(frozen=True)
class _Intake:
    """Films that are to be taken in."""

    films: list[Path] | Path
    done: Callable[[], None]
    at_once: bool

    def paths(self) -> list[Path]:
        """The films, or all those of the folder."""
        return films_in(self.films) if isinstance(self.films, Path) else self.films


class QueueModel(QObject):
    """What waits, what runs; widgets subscribe and call its intents."""

    changed = pyqtSignal()

    def __init__(
        self,
        review: ReviewModel,
        hand: HandModel,
        body: BodyModel,
        teach: TeachModel,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk = review.desk
        self._review, self._hand, self._body, self._teach = review, hand, body, teach
        self._worker = WorkerProcess(BUSY_WITH_OTHERS)
        self.paused = self.desk.shelf.queue_paused()
        self.running: int | None = None
        self.share = 0.0
        self.reading = 0.0
        self._job: Job | None = None
        self._reader: Job | None = None
        self._coming: deque[_Intake] = deque()
        self._idle = IdleCall(self._go_on, self)
        self.desk.clips_changed.connect(self._idle.ask)
        for signal in (review.answer_changed, review.clip_changed):
            signal.connect(self._on_answer)
        self.desk.station_changed.connect(lambda _name: self._on_answer())
        for signal in (review.tracking_changed, hand.changed, body.changed):
            signal.connect(self._give_way)
        self._idle.ask()

    def close(self) -> None:
        self._worker.close()

    # What there is

    @property
    def due(self) -> list[Clip]:
        """Clips that the background has still to look through, the first added first."""
        due = [clip for clip in self.desk.clips if clip.background == "due"]
        return sorted(due, key=lambda clip: clip.id)

    @property
    def is_reading(self) -> bool:
        """Whether new films are being read; `reading` is then the share done."""
        return self._reader is not None

    @property
    def busy(self) -> bool:
        return bool(self.due) or self._reader is not None

    def waiting(self) -> list[Clip]:
        """Clips of the chosen who that wait for the coach, the oldest filming day first."""
        clips = [clip for clip in self.desk.clips_of_who() if clip.waits]
        return sorted(clips, key=lambda clip: (clip.filmed_on, clip.id))

    def running_clip(self) -> Clip | None:
        return next((clip for clip in self.desk.clips if clip.id == self.running), None)

    # Taking films in

    def take_in(
        self,
        films: list[Path] | Path,
        done: Callable[[], None] = lambda: None,
        at_once: bool = False,
    ) -> None:
        """Read films (all of a folder), guess whose they are, and keep them, after those that are being
        read.

        `done` is told when all have been dealt with (also those that cannot be read). A film that the
        coach wants to see `at_once` is opened; it is in their hands, not in the background's.
        """
        self._coming.append(_Intake(films, done, at_once))
        if self._reader is None:
            self._read_next()

    def _read_next(self) -> None:
        if not self._coming:
            return
        one, desk = self._coming.popleft(), self.desk
        who, today, trained, shelf = desk.who, desk.today(), self._trained(), desk.shelf
        athletes = [(known.id, known.name) for known in desk.active]
        if one.at_once:
            desk.said.emit(f"Reading {', '.join(path.name for path in one.paths())} …")

        def work(job: Job) -> list[Arrival]:
            arrived: list[Arrival] = []
            paths = one.paths()
            for number, path in enumerate(paths):
                if job.stopped():
                    break
                found = read_film(shelf, path, who, today, athletes, trained, one.at_once)
                arrived.append(found)
                job.tell((number + 1) / len(paths))
            return arrived

        def keep(arrived: list[Arrival]) -> None:
            desk.reread_clips([film.number for film in arrived if film.number])
            one.done()
            if self._reader is None or not self._reader.stopped():
                self._report(arrived, one.at_once)
            end()

        def failed(reason: str) -> None:
            desk.trouble.emit(reason)
            end()

        def tell(share: float) -> None:
            self.reading = share
            self.changed.emit()

        def end() -> None:
            self._reader, self.reading = None, 0.0
            self.changed.emit()
            self._read_next()

        self._reader = desk.jobs.start(work, keep, failed, tell)
        self.changed.emit()

    def _report(self, arrived: list[Arrival], at_once: bool) -> None:
        bad = [one for one in arrived if one.state == "unreadable"]
        if not arrived:
            self.desk.said.emit("There is no film in this folder.")
        elif at_once:
            for one in arrived:
                if one.number:
                    self.desk.said.emit(f"{one.path.name} is kept.")
                    self.desk.open_clip(one.number)
        else:
            new = sum(one.state == "new" for one in arrived)
            known = sum(one.state == "known" for one in arrived)
            words = [f"{new} new clip{'s' if new != 1 else ''} in the queue"]
            words += [f"{known} known already"] if known else []
            self.desk.said.emit(", ".join(words) + ".")
        if len(bad) == 1:
            self.desk.trouble.emit(f"{bad[0].trouble} It stayed where it is.")
        elif bad:
            names = ", ".join(one.path.name for one in bad[:3])
            more = f" and {len(bad) - 3} more" if len(bad) > 3 else ""
            self.desk.trouble.emit(
                f"{names}{more} cannot be read as films, and stayed where they are. "
                "They may be damaged or not fully copied; copy them again from the phone."
            )

    def _trained(self) -> list[Trained]:
        """What was trained lately, from the visits to the stages of ladders."""
        ladders = self._teach.teaching.ladders
        done = []
        for athlete, visits in self.desk.shelf.teaching.recent_visits().items():
            for kept in visits:
                ladder = ladders.get(kept.visit.ladder)
                stages = ladder.stage if ladder is not None else ()
                movement = next((one.movement for one in stages if one.id == kept.visit.stage), "")
                done.append(Trained(athlete, kept.visit.on, _filmed_name(movement)))
        return done

    # Looking through

    def _go_on(self) -> None:
        """Begin with the next clip, unless one runs or the queue rests."""
        if self.running is not None or self.paused:
            return
        # What lies open on Review is in the coach's own hands.
        mine = self._review.clip.id if self._review.clip is not None else None
        clip = next((one for one in self.due if one.id != mine), None)
        if clip is None:
            self._rest()
            self.changed.emit()
            return
        self.running, self.share = clip.id, 0.0
        desk, worker = self.desk, self._worker
        settings = settings_of(clip, desk.athlete(clip.athlete_id))

        def work(job: Job) -> Found:
            """Look through the clip; path and sightings are kept at once, away from the window."""
            try:
                task = LookThrough(read_index(clip.path), settings)
                looked = worker.ask(task, job.tell, job.stopped)
            except KettleError as error:
                if job.stopped():
                    raise
                return Found(clip.id, trouble=str(error))
            found, shown = looked.study, looked.settings
            marked = replace(clip, marks=found.marks)
            if not desk.shelf.has_clip(clip.id):
                return Found(clip.id)
            desk.shelf.keep_track(marked, found.track)
            if found.sightings is not None:
                desk.shelf.keep_sightings(marked, found.sightings)
            made = made_from(found.track, found.sightings, shown)
            desk.shelf.keep_answer(clip.id, made, looked.answer)
            answer = looked.answer.assessment
            if answer.judged:
                lift = shown.derivative.name
                desk.shelf.prescribing.keep_findings(
                    findings_from(answer, clip.id, lift, clip.filmed_on)
                )
            return Found(clip.id, clip.marks, shown)

        self._give_way()
        self._job = desk.jobs.start(work, self._on_found, self._on_failed, self._tell, self._end)
        self.changed.emit()

    def _rest(self) -> None:
        """A process that has looked at bodies holds half a gigabyte; nothing waits for it now."""
        worker = self._worker
        if worker.awake:
            self.desk.jobs.start(lambda _job: worker.rest(), lambda _done: None, lambda _why: None)

    def _on_found(self, found: Found) -> None:
        try:
            keep_found(self.desk.shelf, found)
        except StoreError as error:
            self._on_failed(str(error))
            return
        self._end()

    def _tell(self, share: float) -> None:
        self.share = share
        self.changed.emit()

    def _on_failed(self, reason: str) -> None:
        self.paused = True  # the data file cannot be written: going on would fail again and again
        self.desk.trouble.emit(f"{reason} The queue rests; go on when that is mended.")
        self._end()

    def _end(self) -> None:
        done, self.running, self._job, self.share = self.running, None, None, 0.0
        if done is not None:
            self.desk.reread_clips([done])
        self.changed.emit()

    def _give_way(self) -> None:
        """The coach's own clip comes first."""
        own = self._review.tracking or self._hand.searching or self._body.searching
        self._worker.hold(own or self.paused)

    def switch_pause(self) -> None:
        """Let the queue rest, or go on; kept for the next start."""
        self.paused = not self.paused
        try:
            self.desk.shelf.keep_queue_paused(self.paused)
        except StoreError as error:
            self.desk.trouble.emit(str(error))
        self._give_way()
        self._go_on()
        self.changed.emit()

    def cancel(self) -> None:
        """Stop the background; what is not looked through stays in the list, to be done by hand."""
        self._coming.clear()
        if self._reader is not None:
            self._reader.stop()
        if self._job is not None:
            self._job.stop()
        due = self.due
        if due:
            self._change(due, "stop measuring clips", background="")

    def again(self, clip: Clip) -> None:
        """Look through a clip (once more)."""
        self._change([clip], "measure a clip", background="due", trouble="")

    def _change(self, clips: list[Clip], words: str, **fields: object) -> None:
        self.desk.change_clips(words, {clip.id: fields for clip in clips})

    # Confirming and reviewing

    def confirm(self, clip: Clip, **fields: object) -> None:
        """The coach says that athlete and lift are right (or gives others)."""
        if clip.waits == "confirm":
            self._change([clip], "confirm whose clip it is", waits="review", **fields)

    def correct(self, clip: Clip, **fields: object) -> None:
        """Another athlete, lift or mass than was guessed; it still waits to be confirmed."""
        why = {name: words for name, words in clip.guess.items() if name not in fields}
        names = {"athlete_id": "athlete", "mass_kg": "mass"}
        for name in fields:
            why[names.get(name, name)] = "set by you"
        self._change([clip], "correct a guess", guess=why, **fields)

    def open_next(self) -> None:
        """Open the next clip that waits, after the one that lies open."""
        waiting = self.waiting()
        if not waiting:
            return
        here = self._review.clip.id if self._review.clip is not None else 0
        places = [k for k, clip in enumerate(waiting) if clip.id == here]
        after = (places[0] + 1) % len(waiting) if places else 0
        self.desk.open_clip(waiting[after].id)

    def _on_answer(self) -> None:
        """A clip whose answer has been seen on Review waits no more."""
        clip, answer = self._review.clip, self._review.answer
        if clip is None or answer is None or clip.waits != "review":
            return
        if self.desk.station != "Review":
            return
        shelf, number = self.desk.shelf, clip.id
        # Away from the window: a commit waits for the disk.
        self.desk.jobs.start(
            lambda _job: shelf.change_clip(number, waits=""),
            lambda _done: self.desk.reread_clips([number]),
            self.desk.trouble.emit,
        )


def _filmed_name(movement: str) -> str:
    """The derivative of a stage's movement, where films of it can be judged."""
    try:
        return parse_filmed(movement).name
    except UnknownLift:
        return ""


def keep_found(shelf: Shelf, found: Found) -> None:
    """Put what the background has found into the clip's record, unless the coach has been at it."""
    if not shelf.has_clip(found.clip_id):
        return  # removed meanwhile
    clip, shown = shelf.clip(found.clip_id), found.shown
    if clip.background != "due" or (shown is not None and clip.marks != found.marks_before):
        return
    if shown is None:
        shelf.change_clip(clip.id, background="failed", trouble=found.trouble)
        return
    fields: dict[str, object] = {
        "marks": shown.marks,
        "facing": shown.facing,
        "background": "done",
    }
    if clip.waits == "confirm" and shown.derivative.name != parse_filmed(clip.lift).name:
        fields |= {"lift": shown.derivative.name, "guess": {"lift": "seen in the clip"}}
    shelf.change_clip(clip.id, **fields)
