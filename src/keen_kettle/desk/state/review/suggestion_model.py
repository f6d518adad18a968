"""What the program has read from the clip and suggests: whose it is, plate, facing, derivative.

A lift that nobody has named and that the clip does not tell is asked for.

One suggestion at a time, in the order in which they build on each other; A takes it, Esc turns it
down for as long as the clip is open.
"""

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.lifts import Derivative
from keen_kettle.desk.state.records.reading import NOT_SAID
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel

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
    def unnamed(self) -> bool:
        """Whether nobody has said which lift the clip shows."""
        clip = self._review.clip
        return clip is not None and clip.guess.get("lift") == NOT_SAID

    @property
    def kind(self) -> str:
        """What is suggested now: "whose", "plate", "facing", "lift", "which" (lift), or ""."""
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
        seen, answer = self.lift_seen, review.answer
        if seen is not None and seen.name not in self._declined:
            return "lift"
        told = answer is None or not answer.judged or answer.family_read
        return "which" if self.unnamed and not told and "which" not in self._declined else ""

    @property
    def words(self) -> str:
        """The suggestion as it is said over the film."""
        kind, clip, athlete = self.kind, self._review.clip, self._review.athlete
        if kind == "whose" and clip is not None and athlete is not None:
            lift = "" if self.unnamed else f", {clip.lift}"
            return f"Is this {athlete.name}{lift}? A: yes, Esc: not now"
        if kind == "plate":
            return "Is this the near plate? A takes it, Esc: no; or mark it yourself"
        if kind == "facing":
            return "The lifter seems to look the other way: A turns it round, Esc: no"
        if kind == "lift" and self.lift_seen is not None:
            return f"This looks like a {self.lift_seen.name}: A takes it, Esc: no"
        if kind == "which" and clip is not None:
            return (
                f"Is this a {clip.lift}? The clip does not tell. A: yes; or choose it in the set-up"
            )
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
        elif kind == "which" and self._review.clip is not None:
            self._review.change_clip("say which lift it is", lift=self._review.clip.lift)
        self.changed.emit()

    def decline(self) -> None:
        """Turn it down; the next one may come."""
        kind, seen = self.kind, self.lift_seen
        if kind in ("whose", "facing", "which"):
            self._declined.add(kind)
        elif kind == "plate":
            self._hand.turn_down()
        elif kind == "lift" and seen is not None:
            self._declined.add(seen.name)
        self.changed.emit()
