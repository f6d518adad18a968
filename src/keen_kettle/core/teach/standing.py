"""Where an athlete stands: the stage as it is taught, and what has happened there so far."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from keen_kettle.core.content.ladders import Teaching
from keen_kettle.core.content.load import Fault
from keen_kettle.core.teach.facts import MOVES, Person, Step, Visit
from keen_kettle.core.teach.gates import hard, obstacles
from keen_kettle.core.teach.school import TaughtStage

__all__ = ["Standing", "day_of", "visits_here"]


@dataclass(frozen=True)
class Standing:
    """The place that is judged: stages as taught, which one it is, what happened there.

    `visits` are the newest unbroken run on this stage, oldest first; `pace` and `weeks` those of the
    ladder, or of the athlete's group.
    """

    person: Person
    teaching: Teaching
    stages: tuple[TaughtStage, ...]
    at: int
    visits: tuple[Visit, ...]
    steps: tuple[Step, ...]
    liked: Mapping[str, float]
    faults: Mapping[str, Fault]
    pace: str = "visits"
    weeks: int = 0

    @property
    def taught(self) -> TaughtStage:
        return self.stages[self.at]

    @property
    def name(self) -> str:
        return self.taught.stage.name

    @property
    def newest(self) -> Visit | None:
        return self.visits[-1] if self.visits else None

    @property
    def following(self) -> TaughtStage | None:
        return self.stages[self.at + 1] if self.at + 1 < len(self.stages) else None

    def earlier(self) -> TaughtStage | None:
        """The nearest earlier stage that nothing forbids."""
        for taught in reversed(self.stages[: self.at]):
            if not hard(obstacles(taught.stage, self.person, self.teaching)):
                return taught
        return None

    def since(self) -> date | None:
        """The day on which the athlete came to this stage, as far as it is known."""
        moves = [
            one.on
            for one in self.steps
            if one.ladder == self.taught.ladder
            and one.stage == self.taught.id
            and one.kind in MOVES
        ]
        first = self.visits[0].on if self.visits else None
        known = [day for day in (moves[-1] if moves else None, first) if day is not None]
        return min(known) if known else None

    def weeks_here(self) -> int:
        """Whole weeks from coming here to the newest visit."""
        since = self.since()
        return (self.visits[-1].on - since).days // 7 if since and self.visits else 0

    def seen(self) -> tuple[str, ...]:
        """The last visits in words, newest first."""
        return tuple(
            f"{day_of(one)}: {len(one.met)} of {one.asked} points."
            for one in reversed(self.visits[-3:])
        )

    def fault_names(self, ids: Sequence[str]) -> str:
        return ", ".join(
            self.faults[one].name.lower() if one in self.faults else one for one in ids
        )

    def untested(self) -> tuple[str, ...]:
        """What this very stage needs and nobody has tested yet, in words."""
        return tuple(
            f"{one.says}, and this stage needs it: screen it today."
            for one in obstacles(self.taught.stage, self.person, self.teaching)
            if one.kind == "untested"
        )


def visits_here(ladder: str, stage: str, visits: Sequence[Visit]) -> tuple[Visit, ...]:
    """The newest unbroken run of visits to one stage, oldest first."""
    on_ladder = [one for one in sorted(visits, key=lambda one: one.on) if one.ladder == ladder]
    run: list[Visit] = []
    for visit in reversed(on_ladder):
        if visit.stage != stage:
            break
        run.append(visit)
    return tuple(reversed(run))


def day_of(visit: Visit) -> str:
    return f"{visit.on.day} {visit.on:%b}"
