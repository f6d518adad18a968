"""Two clips of one athlete side by side: left and right arm, before and after a corrective.

Both show the same key position; every measure of both is compared.
"""

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.analysis import Assessment
from keen_kettle.core.clip import ClipIndex, read_index
from keen_kettle.core.errors import ClipError, ClipUnreadable
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.motion import Measure
from keen_kettle.core.track import BarTrack
from keen_kettle.core.track.body import BodyTrack
from keen_kettle.core.units import show_kg
from keen_kettle.desk.kit.words import KEY_POSITIONS
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.review.clip_settings import settings_of
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.work.tasks import WorkOut
from keen_kettle.desk.work.workers import Job
from keen_kettle.store import Athlete, Clip

__all__ = ["CompareModel", "Pair", "Side", "clip_words"]

CLEAR = 2.0
"""A difference of so many of its own sigmas is more than chance."""
FIRST_SHOWN = ("extension", "power_position", "peak_height", "lift_off", "dip_bottom")


@dataclass(frozen=True)
class Pair:
    """One measure of both clips: their difference, and whether it is clearly more than chance."""

    here: Measure
    there: Measure

    @property
    def difference(self) -> float | None:
        """Here less there, where both are known in one unit."""
        if self.here.value is None or self.there.value is None or self.here.unit != self.there.unit:
            return None
        return self.here.value - self.there.value

    @property
    def sigma(self) -> float | None:
        """The difference's standard uncertainty."""
        if self.here.sigma is None or self.there.sigma is None:
            return None
        return float(np.hypot(self.here.sigma, self.there.sigma))

    @property
    def clear(self) -> bool:
        off, sigma = self.difference, self.sigma
        return off is not None and sigma is not None and abs(off) > CLEAR * sigma


@dataclass(frozen=True)
class Side:
    """One of the two clips with all that is known of it; `index` is None while its film is away."""

    clip: Clip
    index: ClipIndex | None
    track: BarTrack
    body: BodyTrack | None
    answer: Assessment

    def frame(self, position: str) -> int | None:
        """The frame of a key position; None where it was not found."""
        event = self.answer.events.get(position)
        return event.frame if event is not None else None


def clip_words(clip: Clip) -> str:
    """A clip in a few words; of a one-arm lift also the side that faces the camera."""
    mass = f", {show_kg(clip.mass_kg)}" if clip.mass_kg else ""
    one_arm = parse_filmed(clip.lift).one_arm
    # Who looks to the right in the picture shows the right side.
    side = f", {clip.facing} side" if one_arm else ""
    return f"{clip.filmed_on:%d %b %Y}, {clip.lift}{mass}{side}"


class CompareModel(QObject):
    """The other clip, its answer, and the key position that both show; widgets subscribe."""

    changed = pyqtSignal()
    position_changed = pyqtSignal()

    def __init__(self, review: ReviewModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._review = review
        self.jobs = review.desk.jobs
        self.other: Clip | None = None
        self.there: Side | None = None
        self.position = ""
        self._clip_id = 0
        review.clip_changed.connect(self._on_clip)
        review.answer_changed.connect(self._on_answer)

    @property
    def here(self) -> Side | None:
        """The clip that is open on Review."""
        review = self._review
        if review.clip is None or review.track is None or review.answer is None:
            return None
        return Side(review.clip, review.index, review.track, review.body, review.answer)

    def choices(self) -> list[Clip]:
        """Measured clips of the same athlete, those of the same family first, the newest before."""
        clip = self._review.clip
        if clip is None or clip.athlete_id is None:
            return []
        family = parse_filmed(clip.lift).family
        mine = [
            one
            for one in self._review.desk.clips
            if one.athlete_id == clip.athlete_id and one.id != clip.id and one.tracked
        ]
        return sorted(mine, key=lambda one: parse_filmed(one.lift).family != family)

    def _on_clip(self) -> None:
        number = self._review.clip.id if self._review.clip is not None else 0
        if number != self._clip_id:
            self._clip_id = number
            self.other = self.there = None
        self.changed.emit()

    def _on_answer(self) -> None:
        self._keep_position()
        self.changed.emit()

    def open(self) -> None:
        """Lay the likeliest clip beside the open one."""
        choices = self.choices()
        if self.other not in choices:
            self.choose(choices[0] if choices else None)

    def choose(self, other: Clip | None) -> None:
        """Lay this clip beside the open one; its answer is worked out from what is kept."""
        self.other, self.there = other, None
        self.changed.emit()
        if other is None:
            return
        desk = self._review.desk
        athlete = desk.athlete(other.athlete_id)

        def work(job: Job) -> Side:
            return _side_of(job, desk, other, athlete)

        def keep(side: Side) -> None:
            if self.other == other:
                self.there = side
                self._keep_position()
                self.changed.emit()

        desk.jobs.start(work, keep, desk.trouble.emit)

    # The key position

    def positions(self) -> list[str]:
        """Key positions that were found in either clip, in the order of a lift."""
        sides = [side for side in (self.here, self.there) if side is not None]
        return [name for name in KEY_POSITIONS if any(name in one.answer.events for one in sides)]

    def choose_position(self, name: str) -> None:
        self.position = name
        self.position_changed.emit()

    def step(self, by: int) -> None:
        """The key position after (or before) the one on show."""
        names = self.positions()
        if self.position in names:
            self.go(names.index(self.position) + 1 + by)

    def go(self, number: int) -> None:
        """The key position of that number, from 1."""
        names = self.positions()
        if 1 <= number <= len(names):
            self.choose_position(names[number - 1])

    def _keep_position(self) -> None:
        """Full extension first: it is where most that a coach compares can be seen."""
        names = self.positions()
        if self.position not in names:
            self.position = next((one for one in FIRST_SHOWN if one in names), "")

    # The measures

    def pairs(self) -> list[Pair]:
        """Every measure that is known in either clip; those that clearly differ come first."""
        if self.here is None or self.there is None:
            return []
        here, there = self.here.answer, self.there.answer
        names = [name for name in self._review.desk.content.measures if name in here.measures]
        pairs = [Pair(here.measures[name], there.measures[name]) for name in names]
        known = [one for one in pairs if one.here.value is not None or one.there.value is not None]
        return sorted(known, key=lambda one: not one.clear)


def _side_of(job: Job, desk: DeskModel, clip: Clip, athlete: Athlete | None) -> Side:
    """A clip that is not open, from what is kept of it.

    Raises
    ------
    ClipUnreadable
        Its path is not kept any more.
    """
    track, seen = desk.shelf.track(clip), desk.shelf.sightings(clip)
    if track is None:
        raise ClipUnreadable(f"The path of {clip.path.name} must be tracked anew: open it once.")
    try:
        index = read_index(clip.path)
    except ClipError:
        index = None  # the film is away; only the picture's middle is missed
    task = WorkOut(track, seen, settings_of(clip, athlete, index))
    answer = desk.answer_worker.ask(task, job.tell, job.stopped)
    return Side(clip, index, track, answer.body, answer.assessment)
