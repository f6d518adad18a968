"""What the program has read from the clip and suggests: whose it is, plate, facing, derivative.

One suggestion at a time, in the order in which they build on each other; A takes it, Esc turns it
down for as long as the clip is open.
"""

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.lifts import Derivative
from keen_kettle.desk.body_model import BodyModel
from keen_kettle.desk.hand_model import HandModel
from keen_kettle.desk.review_model import ReviewModel

__all__ = ["SuggestionModel"]


class SuggestionModel(QObject):
    """The suggestion on show; widgets subscribe and call its intents."""

    changed = pyqtSignal()

    def __init__(
        self, review: ReviewModel, hand: HandModel, body: BodyModel, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._review, self._hand, self._body = review, hand, body
        self._declined: set[str] = set()
        self._clip_id = 0
        review.clip_changed.connect(self._on_clip)
        for signal in (review.answer_changed, hand.changed, body.changed, review.mark_changed):
            signal.connect(self.changed)

    def _on_clip(self) -> None:
        number = self._review.clip.id if self._review.clip is not None else 0
        if number != self._clip_id:
            self._clip_id = number
            self._declined.clear()
        self.changed.emit()

    @property
    def lift_seen(self) -> Derivative | None:
        """The derivative that the clip shows, where it is surely another than the stated one."""
        return self._review.answer.lift_seen if self._review.answer is not None else None

    @property
    def kind(self) -> str:
        """What is suggested now: "whose", "plate", "facing", "lift", or ""."""
        review = self._review
        if review.clip is None or review.tracking:
            return ""
        guessed = review.clip.waits == "confirm" and review.athlete is not None
        if guessed and "whose" not in self._declined:
            return "whose"
        if self._hand.proposed is not None:
            return "plate" if review.mark_here is None else ""
        if review.marking:
            return ""
        if self._body.facing_seen is not None and "facing" not in self._declined:
            return "facing"
        seen = self.lift_seen
        return "lift" if seen is not None and seen.name not in self._declined else ""

    @property
    def words(self) -> str:
        """The suggestion as it is said over the film."""
        kind, clip, athlete = self.kind, self._review.clip, self._review.athlete
        if kind == "whose" and clip is not None and athlete is not None:
            return f"Is this {athlete.name}, {clip.lift}? A: yes, Esc: not now"
        if kind == "plate":
            return "Is this the near plate? A takes it; or mark it yourself"
        if kind == "facing":
            return "The lifter seems to look the other way: A turns it round, Esc: no"
        if kind == "lift" and self.lift_seen is not None:
            return f"This looks like a {self.lift_seen.name}: A takes it, Esc: no"
        return ""

    def accept(self) -> None:
        """Take what is suggested."""
        kind, seen = self.kind, self.lift_seen
        if kind == "whose":
            self._review.change_clip("confirm whose clip it is", waits="review")
        elif kind == "plate":
            self._hand.accept()
        elif kind == "facing":
            self._body.turn()
        elif kind == "lift" and seen is not None:
            self._review.change_clip("take the lift that the clip shows", lift=seen.name)
        self.changed.emit()

    def decline(self) -> None:
        """Turn it down; the next one may come."""
        kind, seen = self.kind, self.lift_seen
        if kind in ("whose", "facing"):
            self._declined.add(kind)
        elif kind == "lift" and seen is not None:
            self._declined.add(seen.name)
        self.changed.emit()
