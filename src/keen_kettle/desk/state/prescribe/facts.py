"""An athlete's record as prescribing reads it."""

from collections.abc import Iterable, Mapping

from keen_kettle.core.prescribe import AthleteFacts, Ended, Sighting
from keen_kettle.core.teach import CheckResult
from keen_kettle.store import Athlete, KeptVisit, Prescribed

__all__ = ["ended_of", "facts_of", "tags_of"]


def facts_of(athlete: Athlete | None, checks: Mapping[str, CheckResult]) -> AthleteFacts:
    """What keeps drills away from an athlete; nobody is taken to have a bar, a stick and blocks."""
    if athlete is None:
        return AthleteFacts()
    return AthleteFacts(
        athlete.cautions,
        athlete.equipment,
        athlete.trained,
        frozenset(name for name, one in checks.items() if one.state == "not yet"),
        "back-cleared" in checks and checks["back-cleared"].state == "pass",
    )


def ended_of(athlete: int, kept: Iterable[Prescribed]) -> list[Ended]:
    """The correctives of an athlete that have ended."""
    return [
        Ended(one.drill, one.fault, one.outcome, one.ended_on or one.review_on)
        for one in kept
        if one.athlete_id == athlete and one.outcome
    ]


def tags_of(visits: Iterable[KeptVisit], families: Mapping[str, str]) -> list[Sighting]:
    """The faults that were tagged in visits; `families` gives each ladder's lift."""
    return [
        Sighting(fault, kept.visit.on, families.get(kept.visit.ladder, ""), "visit")
        for kept in visits
        for fault in kept.visit.faults
    ]
