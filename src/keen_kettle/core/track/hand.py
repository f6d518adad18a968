"""What the coach sets by hand beside the marks: what is followed, spans of frames, limits."""

from dataclasses import dataclass, replace

from keen_kettle.core.track.mark import PlateMark

__all__ = ["THINGS", "Followed", "HandWork", "Span"]

THINGS = {
    "plate": "near plate",
    "cap": "sleeve cap",
    "dumbbell": "dumbbell head",
    "bell": "kettlebell",
    "second": "second plate or bell",
}
"""What can be followed; the path of a cap or of a second thing is labelled as such."""
USUAL_MM = {"plate": 450.0, "cap": 50.0, "dumbbell": 170.0, "bell": 210.0, "second": 450.0}
"""The diameter that is taken until the coach says another."""


@dataclass(frozen=True)
class Span:
    """Frames, both included, that are "hidden" (a gap) or "bridged" (filled by a smooth curve)."""

    first: int
    last: int
    kind: str


@dataclass(frozen=True)
class HandWork:
    """What was set by hand beside the marks: spans, and the first and last frame (None: all)."""

    spans: tuple[Span, ...] = ()
    first: int | None = None
    last: int | None = None

    def hides(self, number: int) -> bool:
        return any(span.first <= number <= span.last for span in self.spans)

    def limits(self, count: int) -> tuple[int, int]:
        """First and last frame to follow, both included."""
        first = 0 if self.first is None else min(max(self.first, 0), count - 1)
        last = count - 1 if self.last is None else min(max(self.last, first), count - 1)
        return first, last

    def with_span(self, new: Span) -> "HandWork":
        """With one more span; older ones give way where they overlap it."""
        spans: list[Span] = [new]
        for old in self.spans:
            if old.first < new.first:
                spans.append(replace(old, last=min(old.last, new.first - 1)))
            if old.last > new.last:
                spans.append(replace(old, first=max(old.first, new.last + 1)))
        return replace(self, spans=tuple(sorted(spans, key=lambda span: span.first)))

    def without_span_at(self, number: int) -> "HandWork":
        kept = tuple(span for span in self.spans if not span.first <= number <= span.last)
        return replace(self, spans=kept)


@dataclass(frozen=True)
class Followed:
    """One thing in a clip that is followed, with all that was set by hand for it."""

    thing: str
    diameter_mm: float
    marks: tuple[PlateMark, ...] = ()
    hand: HandWork = HandWork()

    @staticmethod
    def new(thing: str) -> "Followed":
        return Followed(thing, USUAL_MM[thing])
