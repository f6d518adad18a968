"""One row of the board: an athlete on a ladder, what happened there, and what the rule advises."""

from dataclasses import dataclass
from datetime import date

from keen_kettle.core.content import Ladder
from keen_kettle.core.teach import Advice, TaughtStage
from keen_kettle.store import Athlete, KeptVisit

__all__ = ["BoardRow", "state_of_row"]


@dataclass(frozen=True)
class BoardRow:
    """An athlete on one ladder (or on none); `visits` are those to this stage, oldest first."""

    athlete: Athlete
    ladder: Ladder | None = None
    taught: TaughtStage | None = None
    stage: str = ""
    since: date | None = None
    visits: tuple[KeptVisit, ...] = ()
    advice: Advice | None = None

    @property
    def key(self) -> tuple[int, str]:
        return self.athlete.id, self.ladder.id if self.ladder is not None else ""


def state_of_row(row: BoardRow) -> tuple[int, str, str, str]:
    """Urgency (low first), words, icon and colour token of a row."""
    advice = row.advice
    if row.ladder is None:
        return 6, "no ladder yet", "circle-dot", "quiet"
    if advice is None:
        return 7, "…", "circle-dot", "quiet"
    if advice.safety:
        return 0, "step back: safety", "octagon-alert", "signal"
    if advice.kind == "advance":
        return 1, "gate open: advance", "arrow-right", "brass"
    if advice.stuck:
        return 2, "stuck", "triangle-alert", "ember"
    if advice.kind in ("swap", "step back"):
        return 3, advice.kind, "triangle-alert", "ember"
    if advice.kind == "hold":
        return 5, "holds here", "check", "sage"
    return 4, "on the way", "activity", "quiet"
