"""Trying out: three or four variants in one visit, and which of them becomes "your lift" for now."""

from collections.abc import Sequence
from dataclasses import dataclass

__all__ = ["TriedOut", "Try", "compare_tries"]

LIKED_WEIGHT, SPEED_WEIGHT = 0.25, 0.15
"""What liking and speed count against the points (house defaults: points first)."""


@dataclass(frozen=True)
class Try:
    """One variant as it went: points met of those asked, liked (-1 to 1), peak speed where measured."""

    movement: str
    met: int
    asked: int
    liked: int = 0
    speed_mps: float | None = None

    @property
    def share(self) -> float:
        return self.met / self.asked if self.asked else 0.0


@dataclass(frozen=True)
class TriedOut:
    """The variant that was done best and liked, and why."""

    best: Try
    reason: str


def compare_tries(tries: Sequence[Try]) -> TriedOut | None:
    """The best of several variants by points, liking and speed; None below two, or where two tie."""
    if len(tries) < 2:
        return None
    fastest = max((one.speed_mps or 0.0 for one in tries), default=0.0)

    def score(one: Try) -> float:
        speed = (one.speed_mps or 0.0) / fastest if fastest else 0.0
        return one.share + LIKED_WEIGHT * one.liked + SPEED_WEIGHT * speed

    ordered = sorted(tries, key=score, reverse=True)
    best, second = ordered[:2]
    if score(best) - score(second) < 1e-9:
        return None
    others = ordered[1:]
    parts = []
    nearest = max(others, key=lambda one: one.share)
    if best.share > nearest.share:
        parts.append(
            f"{best.met} of {best.asked} points, the others at most {nearest.met} of {nearest.asked}"
        )
    if best.liked > max(one.liked for one in others):
        parts.append("liked best")
    timed = [one.speed_mps for one in others if one.speed_mps]
    if best.speed_mps and timed and best.speed_mps > max(timed):
        parts.append("fastest")
    return TriedOut(best, ", ".join(parts) or "best taken together")
