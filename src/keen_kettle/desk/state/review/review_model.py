"""The clip under review: the frame on show, playing, the marks, the track and what follows from it."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from keen_kettle.core.analysis import AheadPictures, Assessment, ClipSettings
from keen_kettle.core.clip import ClipIndex, ClipReader
from keen_kettle.core.errors import KettleError
from keen_kettle.core.motion import first_event
from keen_kettle.core.track import (
    SMALLEST_RADIUS_PX,
    BarTrack,
    PlateMark,
    Rim,
    State,
    TrackMemory,
    track_bar,
)
from keen_kettle.core.track.body import BodyTrack, Sightings
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.records.reading import NOT_SAID
from keen_kettle.desk.state.review.answer_model import AnswerModel, Asked, Held, News, Sources
from keen_kettle.desk.state.review.clip_settings import settings_of, track_origin
from keen_kettle.desk.state.review.growing_path import GrowingPath
from keen_kettle.desk.state.review.playback import Playback
from keen_kettle.desk.state.review.tool_in_hand import ToolInHand
from keen_kettle.desk.work.tasks import FindRim
from keen_kettle.desk.work.workers import FrameService, Job
from keen_kettle.store import Athlete, Clip, StoreError

__all__ = ["ReviewModel"]


class ReviewModel(QObject):
    """State of the Review station; widgets subscribe and call its intents."""

    clip_changed = pyqtSignal()
    frame_shown = pyqtSignal(QImage)
    marking_changed = pyqtSignal()
    mark_changed = pyqtSignal()
    tracking_changed = pyqtSignal()
    tracking_progress = pyqtSignal(float)
    answer_changed = pyqtSignal(object)
    """With `News`, or None where there is no answer any more."""

    def __init__(self, desk: DeskModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.clip: Clip | None = None
        self.index: ClipIndex | None = None
        self.frame = 0
        self.tool = ToolInHand(self)
        self.draft: PlateMark | None = None
        self.rim: Rim | None = None
        self.track: BarTrack | None = None
        self.growing: GrowingPath | None = None
        self.also_followed: list[BarTrack] = []
        self.held = Held()
        self.rep: int | None = None
        self.answers = AnswerModel(desk.jobs, desk.answer_worker, desk.shelf, self)
        self.answers.changed.connect(self._on_answer)
        self.answers.failed.connect(desk.trouble)
        self._seen: tuple[Sightings | None, int] = (None, 0)
        self._memory = TrackMemory()
        self._known: dict[tuple[object, ...], BarTrack] = {}
        self._again = False
        self._tracking: Job | None = None
        self._go_to_finding = False
        self._frames = FrameService(self)
        self._frames.opened.connect(self._on_opened)
        self._frames.shown.connect(self._on_shown)
        self._frames.failed.connect(desk.trouble)
        self.playback = Playback(self._frames, lambda: (self.index, self.frame), self)
        self.playback.changed.connect(self._on_playing)
        desk.clip_wanted.connect(self.open)
        desk.clips_changed.connect(self._on_records)
        desk.records_changed.connect(self._on_athletes)

    def close(self) -> None:
        self.stop_tracking()
        self.playback.pause()
        self._frames.stop()

    # The clip

    def open(self, number: int) -> None:
        if self.clip is not None and self.clip.id == number and self.index is not None:
            return
        self.tool.lay_down()
        self.stop_tracking()
        self.pause()
        self.clip = next(clip for clip in self.desk.clips if clip.id == number)
        self.index = None
        self.frame = 0
        self.draft = self.rim = self.track = self.growing = self.rep = None
        self.held, self._seen = Held(), (None, 0)
        self._memory, self._known, self.also_followed = TrackMemory(), {}, []
        self.answers.leave()
        self._frames.open(self.clip.path)
        self.clip_changed.emit()

    def _on_opened(self, index: ClipIndex) -> None:
        assert self.clip is not None
        self.index = index
        self.frame = self.clip.marks[0].frame if self.clip.marks else 0
        self._go_to_finding = True
        self._load_track()
        self.set_marking(not self.clip.marks)
        self.clip_changed.emit()
        self.show_frame(self.frame)

    def _load_track(self) -> None:
        clip = self.clip
        assert clip is not None
        try:
            self.track = self._known.get(track_origin(clip)) or self.desk.shelf.track(clip)
            found = [self.desk.shelf.track(clip, one) for one in clip.also_followed]
            self.also_followed = [track for track in found if track is not None]
        except StoreError as error:
            self.desk.trouble.emit(str(error))
            self.track = None
        if self.track is not None:
            self._known[track_origin(clip)] = self.track
        self.rim = self.track.rim if self.track is not None else None
        self.tracking_changed.emit()
        self.ask()

    def _on_records(self) -> None:
        """Take over what changed in the record of the open clip (also by undo)."""
        if self.clip is None:
            return
        kept = next((clip for clip in self.desk.clips if clip.id == self.clip.id), None)
        if kept is None or kept == self.clip:
            return
        before, self.clip = self.clip, kept
        if track_origin(kept) != track_origin(before):
            self._on_hand_work(before)
        else:
            self.ask()
        self.clip_changed.emit()

    def _on_athletes(self) -> None:
        """Whose clip it is may have another name, another height."""
        if self.clip is not None:
            self.ask()
            self.clip_changed.emit()

    def _on_hand_work(self, before: Clip) -> None:
        """Marks, spans or the thing itself changed: load the path, or track what is missing."""
        assert self.clip is not None
        had_path = self.track is not None or self.tracking
        self.draft = None
        self._load_track()
        self.mark_changed.emit()
        if self.track is not None or not self.clip.marks:
            if not self.clip.marks:
                self.set_marking(before.thing != self.clip.thing)
            return
        if had_path and before.thing == self.clip.thing:
            self.track_again()
        elif self.index is not None:
            self._find_rim(self.clip.marks[0])

    @property
    def athlete(self) -> Athlete | None:
        return self.desk.athlete(self.clip.athlete_id) if self.clip is not None else None

    # Frames

    def show_frame(self, number: int) -> None:
        if self.index is not None:
            self.frame = int(np.clip(number, 0, len(self.index) - 1))
            self._frames.ask(self.frame)

    def step(self, by: int) -> None:
        self.go_to_frame(self.frame + by)

    def go_to_frame(self, number: int) -> None:
        self._go_to_finding = False
        self.pause()
        self.show_frame(number)

    def show_time(self, t_s: float) -> None:
        if self.index is not None:
            self.go_to_frame(int(np.searchsorted(self.times_s, t_s + 1e-9, side="right")) - 1)

    def _on_playing(self) -> None:
        """Who plays the film has seen where it would have gone by itself."""
        if self.playback.playing:
            self._go_to_finding = False

    def _on_shown(self, number: int, image: QImage) -> None:
        self.frame = number
        self.frame_shown.emit(image)

    def pause(self) -> None:
        self.playback.pause()

    # Marks

    @property
    def marking(self) -> bool:
        """Whether the next drag over the film marks the plate."""
        return self.tool.name == "mark"

    def set_marking(self, on: bool) -> None:
        if on and not self.marking:
            self.tool.take("mark", self.marking_changed.emit)
            self.marking_changed.emit()
        elif not on and self.marking:
            self.tool.lay_down()

    def draw_mark(
        self,
        x: float,
        y: float,
        r: float,
        narrow: float = 1.0,
        angle_deg: float = 0.0,
        exact: bool = False,
    ) -> None:
        """The mark while it is being dragged; not kept yet. An exact one stands as drawn."""
        self.draft = PlateMark(self.frame, x, y, r, narrow, angle_deg, exact)
        self.mark_changed.emit()
        if self.track is not None and r >= SMALLEST_RADIUS_PX:
            self.ask()

    def keep_mark(self) -> None:
        """Keep the drawn mark: the first one, or another anchor on this frame."""
        if self.clip is None or self.index is None or self.draft is None:
            return
        mark = self.draft
        try:
            mark.check_against(len(self.index), self.index.width_px, self.index.height_px)
        except KettleError as error:
            self.draft = None
            self.mark_changed.emit()
            self.ask()
            self.desk.trouble.emit(str(error))
            return
        others = self.clip.marks if self.track or self.tracking else ()
        leads = not others or self._leads(mark)
        others = tuple(one for one in others if one.frame != mark.frame)
        # The first mark gives the scale; moved, it is still the first.
        marks = (mark, *others) if leads else (*others, mark)
        self.change_clip("mark the plate", marks=marks)
        if self.draft is not None:  # it could not be kept, or is where it was
            self.draft = None
            self.ask()
        self.set_marking(False)

    def remove_marks(self) -> None:
        if self.clip is not None and self.clip.marks:
            self.change_clip("remove the marks", marks=())
            self.set_marking(True)

    @property
    def mark_here(self) -> PlateMark | None:
        """The mark that belongs to the frame on show, drawn or kept."""
        if self.draft is not None and self.draft.frame == self.frame:
            return self.draft
        marks = self.clip.marks if self.clip is not None else ()
        return next((mark for mark in marks if mark.frame == self.frame), None)

    def _find_rim(self, mark: PlateMark) -> None:
        """Show at once whether the rim is found where the coach marked it."""
        assert self.index is not None

        def found(rim: Rim) -> None:
            if self.clip is not None and mark in self.clip.marks and self.track is None:
                self.rim = rim
                self.mark_changed.emit()

        self.rim = None
        desk, task = self.desk, FindRim(self.index, mark)
        desk.jobs.ask(desk.answer_worker, task, found, desk.trouble.emit)

    # Settings

    def change_clip(self, words: str, **fields: object) -> None:
        """Change what is kept about the clip; can be undone."""
        if self.clip is None:
            return
        now_said = {name for name in fields if self.clip.guess.get(name) == NOT_SAID}
        if now_said:
            fields["guess"] = {
                name: why for name, why in self.clip.guess.items() if name not in now_said
            }
        self.desk.change_clips(words, {self.clip.id: fields})

    def settings(self) -> ClipSettings:
        assert self.clip is not None
        settings = settings_of(self.clip, self.athlete, self.index, self.rep)
        held = self.held
        if held.point is not None:
            settings = replace(settings, body_hand=settings.body_hand.with_point(held.point))
        return settings if held.events is None else replace(settings, events=held.events)

    def hold(self, held: Held) -> None:
        """Something is under the hand, or let go: everything that follows is shown."""
        if held != self.held:
            self.held = held
            self.ask()

    def keep_held(self, words: str, **fields: object) -> None:
        """What was under the hand goes into the record; between the two nothing goes back."""
        self.held = Held()
        self.change_clip(words, **fields)
        self.ask()

    def take_sightings(self, seen: Sightings | None, looked: int) -> None:
        """What is known of the lifter, after having been looked for anew so many times."""
        self._seen = seen, looked
        self.ask()

    @property
    def times_s(self) -> NDArray[np.float64]:
        """The lift's time of every frame: the film's own until slow motion is taken out."""
        if self.answer is not None:
            return self.answer.motion.t_s
        return self.index.t_s if self.index is not None else np.zeros(0)

    def path_in_frame(self, frame: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """The path in the pixels of one frame, as the set-up wants it (camera taken out or not)."""
        assert self.track is not None
        return self.track.path_in_frame(frame, self.clip is None or self.clip.steady)

    def choose_rep(self, number: int) -> None:
        """Judge another of several lifts, and go to where it begins."""
        answer = self.answer
        if answer is None or not 0 <= number < len(answer.reps) or number == answer.rep:
            return
        self.rep = number
        begin = first_event(answer.reps[number].events)
        if begin is not None:
            self.go_to_frame(begin.frame)
        self.ask()

    def step_rep(self, by: int) -> None:
        if self.answer is not None:
            self.choose_rep(self.answer.rep + by)

    # Tracking

    @property
    def tracking(self) -> bool:
        return self._tracking is not None

    def start_tracking(self) -> None:
        if self.clip is None or self.index is None or not self.clip.marks or self.tracking:
            return
        self.pause()
        self.set_marking(False)
        clip, index = self.clip, self.index
        growing = self.growing = GrowingPath.blank(len(index))

        def add(number: int, x: float, y: float, _state: State) -> None:
            growing.x_px[number], growing.y_px[number] = x, y

        shelf, memory = self.desk.shelf, self._memory

        def work(job: Job) -> tuple[BarTrack, str]:
            """The track, kept while still away from the window, and why it could not be kept."""
            with ClipReader(index) as reader, AheadPictures(reader) as pictures:
                track = track_bar(
                    pictures,
                    clip.marks,
                    job.tell,
                    job.stopped,
                    add,
                    hand=clip.hand,
                    memory=memory,
                )
            try:
                shelf.keep_track(clip, track)
            except StoreError as error:
                return track, str(error)
            return track, ""

        self._tracking = self.desk.jobs.start(
            work,
            lambda tracked: self._on_tracked(clip, *tracked),
            self._on_tracking_failed,
            self.tracking_progress.emit,
            lambda: self._end_tracking("Tracking was stopped. The mark is kept."),
        )
        self.tracking_changed.emit()

    def stop_tracking(self) -> None:
        self._again = False
        if self._tracking is not None:
            self._tracking.stop()

    def track_again(self) -> None:
        """Track with the present marks; a tracking that is under way gives way to it."""
        if self.tracking:
            self.stop_tracking()
            self._again = True
        else:
            self.start_tracking()

    def _on_tracked(self, clip: Clip, track: BarTrack, trouble: str) -> None:
        if trouble:
            self.desk.trouble.emit(trouble)
        first = not self._known
        self._end_tracking("")
        if self.clip is not None and self.clip.id == clip.id:
            self._known[track_origin(clip)] = track
        if (
            self.clip is not None
            and self.clip.id == clip.id
            and track_origin(self.clip) == track_origin(clip)
        ):
            self.track, self.rim = track, track.rim
            self.tracking_changed.emit()
            self._go_to_finding = first
            self.ask()
        self.desk.reread_clips([clip.id])

    def _on_tracking_failed(self, reason: str) -> None:
        self._end_tracking("")
        self.desk.trouble.emit(reason)

    def _end_tracking(self, words: str) -> None:
        self._tracking = None
        self.growing = None
        if self._again:
            self._again = False
            self.tracking_changed.emit()
            self.start_tracking()
            return
        if words:
            self.desk.said.emit(words)
        self.tracking_changed.emit()

    # The answer

    @property
    def answer(self) -> Assessment | None:
        return self.answers.answer

    @property
    def body(self) -> BodyTrack | None:
        return self.answers.body

    def ask(self) -> None:
        """Have everything that follows from path and settings, as they are now."""
        clip, index, track = self.clip, self.index, self.track
        if track is None or clip is None or index is None:
            if self.answer is not None:
                self.answers.leave()
                self.answer_changed.emit(None)
            return
        seen, looked = self._seen
        mark = self.draft if self.draft is not None and self._leads(self.draft) else None
        place = self.held.place
        self.answers.ask(
            Asked(
                *(clip.id, track_origin(clip), looked if seen is not None else None),
                *(self.settings(), mark, place),
                held="mark" if mark is not None else self.held.what,
            ),
            Sources(index, track, seen),
        )

    def _leads(self, mark: PlateMark) -> bool:
        """Whether a mark is the first one, which gives the scale."""
        marks = self.clip.marks if self.clip is not None else ()
        return not marks or marks[0].frame == mark.frame

    def _on_answer(self, news: News) -> None:
        """After a fresh track, or when a measured clip is opened, the film goes to the frame that shows
        the chief finding."""
        self.answer_changed.emit(news)
        if self._go_to_finding and self.answer is not None and not news.held:
            self._show_finding(self.answer)

    def _show_finding(self, answer: Assessment) -> None:
        """Go to the chief finding, or where the lift begins; the coach's own stepping goes before."""
        self._go_to_finding = False
        begin = first_event(answer.events)
        if answer.diagnosis is not None:
            self.show_frame(answer.diagnosis.chief.evidence[0].frame)
        elif begin is not None:
            self.show_frame(begin.frame)
