"""What teaching knows about an athlete: facts, screening results, steps taken, visits."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

__all__ = ["AREAS", "CheckResult", "Person", "Step", "Visit"]

AREAS = ("shoulder", "wrist", "elbow", "back", "other")
"""Parts of the body that a caution can name."""


@dataclass(frozen=True)
class CheckResult:
    """The newest result of a screening check: "pass", "not yet" or "not tested"."""

    state: str
    on: date | None = None


@dataclass(frozen=True)
class Visit:
    """One visit to a stage: which points were met, what was seen, how it was liked.

    `met` holds the places (from 0) of the points met, of `asked` points in all; `enjoyment` is
    -1, 0 or 1; `faults` are ids of the catalogue.
    """

    on: date
    ladder: str
    stage: str
    met: tuple[int, ...] = ()
    asked: int = 0
    faults: tuple[str, ...] = ()
    reps: int | None = None
    load_kg: float | None = None
    enjoyment: int = 0
    pain: bool = False

    @property
    def share(self) -> float:
        """Points met, as a share of those asked (0 when none were asked)."""
        return len(self.met) / self.asked if self.asked else 0.0


@dataclass(frozen=True)
class Step:
    """A decision that put an athlete on a stage (or holds them there)."""

    on: date
    ladder: str
    stage: str
    kind: str
    """start, advance, stay, step back, swap, hold or leave."""


@dataclass(frozen=True)
class Person:
    """The facts that gates, choosing and advice read.

    `cautions` are among `AREAS`; `checks` maps a screening check to its newest result; `school`
    the athlete's answers to school questions (the house's where none is given here).
    """

    name: str = ""
    age: int | None = None
    stature_m: float | None = None
    aim: str = "general"
    training_years: float = 0.0
    sessions_week: int = 2
    cautions: frozenset[str] = frozenset()
    equipment: frozenset[str] = frozenset({"bar", "stick", "blocks"})
    checks: Mapping[str, CheckResult] = field(default_factory=dict)
    school: Mapping[str, str] = field(default_factory=dict)

    def state_of(self, check: str) -> str:
        found = self.checks.get(check)
        return found.state if found is not None else "not tested"

    @property
    def beginner(self) -> bool:
        return self.training_years < 1

    @property
    def young(self) -> bool:
        return self.age is not None and self.age < 16
