"""The lifter's body in the clip under review: finding it, solving it, and the work by hand on it.

Once the bar is tracked, the body is looked for in the background and kept with the clip. What the
model saw is handed to the review model, whose answer solves it together with what the coach set.
"""

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.track.body import (
    LANDMARKS,
    BodyPoint,
    BodySeed,
    BodySpan,
    BodyTrack,
    FollowedBar,
    Sightings,
    why_no_model,
)
from keen_kettle.desk.state.records.reading import NOT_SAID
from keen_kettle.desk.state.review.answer_model import Held, News
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.work.tasks import LookForBody
from keen_kettle.desk.work.workers import Job
from keen_kettle.store import Clip, StoreError

__all__ = ["BodyModel"]

FEET = ("toe", "heel", "ankle")


class BodyModel(QObject):
    """State of the body; widgets subscribe and call its intents."""

    changed = pyqtSignal()
    progress = pyqtSignal(float)

    def __init__(self, review: ReviewModel, hand: HandModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._review, self._hand = review, hand
        self.sightings: Sightings | None = None
        self.shown = True
        self.line: tuple[float, float, float, float] | None = None
        self.draft: BodyPoint | None = None
        self.chosen = ""
        self.why_not = why_no_model()
        self._faced: tuple[Sightings | None, str | None] = (None, None)
        self._looked: tuple[int, tuple[BodySeed, ...]] | None = None
        self._sought: tuple[int, tuple[BodySeed, ...]] | None = None
        self._anew: dict[int, int] = {}
        self._job: Job | None = None
        self._clip_id = 0
        review.clip_changed.connect(self._on_clip)
        review.tracking_changed.connect(self._follow)
        review.answer_changed.connect(self._on_answer)

    # What there is

    @property
    def track(self) -> BodyTrack | None:
        return self._review.body

    @property
    def seeding(self) -> bool:
        """Whether the next drag over the film shows where the lifter is."""
        return self._review.tool.name == "seed"

    @property
    def searching(self) -> bool:
        return self._job is not None

    @property
    def facing_seen(self) -> str | None:
        """Where the lifter seems to look, if that is not what the set-up says."""
        clip, sightings = self._review.clip, self.sightings
        if self._faced[0] is not sightings:
            self._faced = (sightings, sightings.facing() if sightings is not None else None)
        seen = self._faced[1]
        return seen if clip is not None and seen is not None and seen != clip.facing else None

    # Following the clip

    def close(self) -> None:
        if self._job is not None:
            self._job.stop()

    def _on_clip(self) -> None:
        clip = self._review.clip
        number = clip.id if clip is not None else 0
        if number != self._clip_id:
            self._clip_id = number
            self.close()
            self.sightings = self.draft = self.line = None
            self.chosen = ""
            self._looked = self._sought = None
            if clip is not None and not clip.tracked and not self.why_not:
                desk = self._review.desk
                desk.jobs.start(
                    lambda _job: desk.looking_worker.warm(), lambda _done: None, lambda _why: None
                )
            self.changed.emit()
        else:
            self._follow()

    def _on_answer(self, news: News | None) -> None:
        """Where nothing is known of the lifter, they are looked for once the bar's answer is there."""
        clip, review = self._review.clip, self._review
        wanted = clip is not None and review.answer is not None and self.sightings is None
        if wanted and clip is not None and self._sought != (clip.id, clip.body.seeds):
            self._sought = clip.id, clip.body.seeds
            self.look()
        if news is None or news.body:
            self.changed.emit()

    def _follow(self) -> None:
        """Have at hand what is kept of the lifter."""
        clip = self._review.clip
        if clip is None or self._looked == (clip.id, clip.body.seeds):
            return
        self._looked = clip.id, clip.body.seeds
        try:
            self.sightings = self._review.desk.shelf.sightings(clip)
        except StoreError as error:
            self._review.desk.trouble.emit(str(error))
        self._tell()

    def _tell(self) -> None:
        self._review.take_sightings(self.sightings, self._anew.get(self._clip_id, 0))

    # Finding

    def find_again(self) -> None:
        """Look for the body anew."""
        self.sightings = None
        self._anew[self._clip_id] = self._anew.get(self._clip_id, 0) + 1
        self._tell()
        self.look()

    def look(self) -> None:
        """Look for the body in the background, and keep what was seen."""
        review = self._review
        clip, index, track = review.clip, review.index, review.track
        if clip is None or index is None or track is None or self.why_not:
            return
        if self._job is not None:
            self._job.stop()
        bar, seeds, shelf = FollowedBar.of(track), clip.body.seeds, review.desk.shelf
        worker = review.desk.looking_worker

        def work(job: Job) -> tuple[Sightings, str]:
            seen: Sightings = worker.ask(LookForBody(index, bar, seeds), job.tell, job.stopped)
            try:
                shelf.keep_sightings(clip, seen)
            except StoreError as error:
                return seen, str(error)
            return seen, ""

        job = review.desk.jobs.start(
            work,
            lambda found: self._on_found(job, clip, *found),
            lambda reason: self._on_failed(job, reason),
            self.progress.emit,
            lambda: self._end(job),
        )
        self._job = job
        self.changed.emit()

    def _on_found(self, job: Job, clip: Clip, seen: Sightings, trouble: str) -> None:
        self._end(job)
        if trouble:
            self._review.desk.trouble.emit(trouble)
        now = self._review.clip
        if now is not None and now.id == clip.id and now.body.seeds == clip.body.seeds:
            self.sightings = seen
            if self.facing_seen is not None and now.guess.get("facing") == NOT_SAID:
                self.turn()
            if not seen.found.any():
                self._review.desk.said.emit(
                    "Nobody was found in this film. Set hip and shoulder (Ctrl+Shift+K), or place points."
                )
            self._tell()
        self.changed.emit()

    def _on_failed(self, job: Job, reason: str) -> None:
        self._end(job)
        self._review.desk.trouble.emit(reason)

    def _end(self, job: Job) -> None:
        if self._job is job:
            self._job = None
        self.changed.emit()

    # By hand

    def place(self, name: str, frame: int) -> tuple[float, float] | None:
        """Where a landmark is on a frame; the one that is being dragged is where the hand is."""
        if self.draft is not None and (self.draft.name, self.draft.frame) == (name, frame):
            return self.draft.x, self.draft.y
        if self.track is None or frame >= len(self.track):
            return None
        x, y = self.track.point(name, frame)
        return (float(x), float(y)) if np.isfinite(x) else None

    def nearest(self, x: float, y: float, reach: float) -> str:
        """The landmark within reach of a place in the film, or ""."""
        frame = self._review.frame
        best, found = reach, ""
        for name in LANDMARKS if self.shown else ():
            spot = self.place(name, frame)
            away = np.hypot(spot[0] - x, spot[1] - y) if spot is not None else np.inf
            if away < best:
                best, found = float(away), name
        return found

    def choose(self, name: str) -> None:
        """The landmark that hiding and freeing are about."""
        if name != self.chosen:
            self.chosen = name
            self.changed.emit()

    def draw_point(self, name: str, x: float, y: float) -> None:
        """A landmark while it is dragged; everything follows, nothing is kept yet."""
        self.chosen = name
        self.draft = BodyPoint(self._review.frame, name, x, y)
        self._review.hold(Held(point=self.draft))
        self.changed.emit()

    def keep_point(self) -> None:
        """Keep the dragged landmark where it is."""
        draft, clip = self.draft, self._review.clip
        self.draft = None
        if draft is not None and clip is not None:
            body = clip.body.with_point(draft)
            self._review.keep_held(f"place the {draft.name} by hand", body=body)
        self.changed.emit()

    def drop_point(self) -> None:
        """Leave a dragged landmark where it was."""
        if self.draft is not None:
            self.draft = None
            self._review.hold(Held())
            self.changed.emit()

    def hide(self) -> None:
        """Hide the chosen landmark over the begun span, or on this frame."""
        clip = self._review.clip
        if clip is None or not self.chosen:
            return
        first, last = self._span()
        span = BodySpan("hidden", self.chosen, first, last)
        self._review.change_clip(f"hide the {self.chosen}", body=clip.body.with_span(span))

    def plant(self) -> None:
        """The near foot stands still over the begun span; without one, round this frame."""
        clip, track = self._review.clip, self._review.track
        if clip is None or track is None:
            return
        first, last = self._span()
        if first == last:
            half = max(round(0.25 / float(np.median(np.diff(track.t_s)))), 1)
            first, last = max(first - half, 0), min(last + half, len(track) - 1)
        span = BodySpan("planted", "foot", first, last)
        self._review.change_clip("plant the foot", body=clip.body.with_span(span))
        self._review.desk.said.emit(f"The foot stands still from frame {first} to {last}.")

    def _span(self) -> tuple[int, int]:
        begin, frame = self._hand.span_from, self._review.frame
        self._hand.span_from = None
        self._hand.changed.emit()
        return (frame, frame) if begin is None else (min(begin, frame), max(begin, frame))

    def free(self) -> None:
        """Take back what was set by hand for the chosen landmark here."""
        clip, frame = self._review.clip, self._review.frame
        if clip is None or not self.chosen:
            return
        body = clip.body.without_point(frame, self.chosen)
        body = body.without_span("hidden", self.chosen, frame)
        if self.chosen in FEET:
            body = body.without_span("planted", "foot", frame)
        self._review.change_clip(f"free the {self.chosen}", body=body)

    def turn(self) -> None:
        """The lifter looks the other way; it goes by itself as long as nobody has said where to."""
        clip = self._review.clip
        if clip is not None:
            facing = "left" if clip.facing == "right" else "right"
            self._review.change_clip(f"say that the lifter looks {facing}", facing=facing)

    def switch_shown(self) -> None:
        self.shown = not self.shown
        self.changed.emit()

    # Two clicks where the model has lost the lifter

    def start_seeding(self) -> None:
        """The next drag over the film goes from the lifter's hip to the shoulder."""
        self._review.pause()
        self._review.tool.take("seed", self._drop_line)
        self.changed.emit()

    def _drop_line(self) -> None:
        self.line = None
        self.changed.emit()

    def draw_line(self, line: tuple[float, float, float, float]) -> None:
        self.line = line
        self.changed.emit()

    def keep_line(self) -> None:
        """Begin the search anew from the drawn trunk."""
        clip, line = self._review.clip, self.line
        self._review.tool.lay_down()
        if clip is not None and line is not None:
            if np.hypot(line[2] - line[0], line[3] - line[1]) < 12:
                self._review.desk.trouble.emit("Drag from the lifter's hip to the shoulder.")
            else:
                seed = BodySeed(self._review.frame, *line)
                others = [one for one in clip.body.seeds if one.frame != seed.frame]
                body = replace(clip.body, seeds=(*others, seed))
                self._review.change_clip("show where the lifter is", body=body)
        self.changed.emit()
