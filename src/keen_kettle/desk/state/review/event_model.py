"""Events of the lift that the coach moves along the time line; everything that hangs on them follows."""

import numpy as np
from PyQt6.QtCore import QObject

from keen_kettle.core.motion import HandEvent
from keen_kettle.desk.state.review.answer_model import Held
from keen_kettle.desk.state.review.review_model import ReviewModel

__all__ = ["EventModel"]


class EventModel(QObject):
    """The event that is being dragged, and what is kept of it."""

    def __init__(self, review: ReviewModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._review = review
        self.moving: HandEvent | None = None

    def move(self, name: str, frame: int) -> None:
        """An event while it is dragged; it stays within its repetition."""
        review = self._review
        first, last = self._bounds()
        frame = int(np.clip(frame, first, min(last, len(review.times_s) - 1)))
        if review.clip is not None and self.moving != HandEvent(name, frame):
            self.moving = HandEvent(name, frame)
            review.hold(Held(events=(*self._others(name), self.moving)))
            review.show_frame(frame)

    def keep(self) -> None:
        """Keep the dragged event on its frame."""
        review, moved = self._review, self.moving
        self.moving = None
        if moved is not None:
            review.keep_held("move an event", events=(*self._others(moved.name), moved))

    def free(self, name: str) -> None:
        """The event goes back to where the program finds it."""
        if self._review.clip is not None:
            self._review.change_clip("let an event go back", events=self._others(name))

    def _others(self, name: str) -> tuple[HandEvent, ...]:
        """The events set by hand, without that one of this repetition."""
        clip = self._review.clip
        first, last = self._bounds()
        return tuple(
            one
            for one in (clip.events if clip is not None else ())
            if one.name != name or not first <= one.frame <= last
        )

    def _bounds(self) -> tuple[int, int]:
        answer = self._review.answer
        if answer is None or not answer.reps:
            return 0, 1 << 30
        rep = answer.reps[answer.rep]
        return rep.first, rep.last
