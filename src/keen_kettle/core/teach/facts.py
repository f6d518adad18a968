"""What teaching knows about an athlete: facts, screening results, steps taken, visits."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

__all__ = ["AREAS", "CONFIDENCE", "MOVES", "VERDICTS", "CheckResult", "Person", "Step", "Visit"]

AREAS = ("shoulder", "wrist", "elbow", "back", "other")
"""Parts of the body that a caution can name."""
CONFIDENCE = ("calm", "wary", "afraid")
VERDICTS = ("too light", "right", "too heavy")
MOVES = ("start", "advance", "step back", "swap")
"""The steps that bring somebody to a stage."""
LIFTS_WELL_YEARS, LIFTS_WELL_LEVEL = 2.0, 7
"""House defaults: from then on somebody is taken to lift well."""


@dataclass(frozen=True)
class CheckResult:
    """The newest result of a screening check: "pass", "not yet" or "not tested"."""

    state: str
    on: date | None = None


@dataclass(frozen=True)
class Visit:
    """One visit to a stage: which points were met, what was seen, how it was liked.

    `met` holds the places (from 0) of the points met, of `asked` points in all; `enjoyment` is
    -1, 0 or 1; `faults` are ids of the catalogue; `confidence` is calm, wary, afraid or not said;
    `verdict` is what the coach said of the load: too light, right, too heavy or nothing.
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
    confidence: str = ""
    verdict: str = ""

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
    `training_years` are years in a gym, `lifting_years` those in these lifts (None: not said);
    `wants_lifts` that the athlete asks for them; `levels` the highest level passed by skill (see
    `skill_of`); `counts` how many of a thing there are, where it was counted.
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
    lifting_years: float | None = None
    wants_lifts: bool = False
    levels: Mapping[str, int] = field(default_factory=dict)
    counts: Mapping[str, int] = field(default_factory=dict)

    def has(self, thing: str) -> bool:
        """Whether something is at hand; a pair of dumbbells is also a dumbbell."""
        known = {one.rstrip("s") if one != "blocks" else one for one in self.equipment}
        return (
            thing in self.equipment
            or thing.rstrip("s") in known
            or (thing == "dumbbell" and "dumbbell pair" in known)
        )

    def state_of(self, check: str) -> str:
        found = self.checks.get(check)
        return found.state if found is not None else "not tested"

    @property
    def years_in_the_lifts(self) -> float:
        """Years in these lifts. Where they are not said, years in a gym count only for somebody
        whose aim, passed stages or checks show that they went into the lifts."""
        if self.lifting_years is not None:
            return self.lifting_years
        squats = {self.state_of("front-squat"), self.state_of("overhead-full")}
        shown = self.state_of("bailing") == "pass" and "pass" in squats
        lifts = self.aim == "weightlifting" or bool(self.levels) or shown
        return self.training_years if lifts else 0.0

    @property
    def beginner(self) -> bool:
        return self.years_in_the_lifts < 1

    @property
    def lifts_well(self) -> bool:
        """Two years in the lifts, or past the first catches on some ladder."""
        return self.years_in_the_lifts >= LIFTS_WELL_YEARS or (
            max(self.levels.values(), default=0) >= LIFTS_WELL_LEVEL
        )

    @property
    def young(self) -> bool:
        return self.age is not None and self.age < 16
