"""Which drills answer a finding, for this athlete, with reasons for and against.

A drill fits when its equipment is there and no caution forbids it. Of those that fit, the one that
isolates the fault's phase wins: it trains that phase and few others; of equals the simplest.
"""

from dataclasses import dataclass, field

from keen_kettle.core.content import Content, Drill

__all__ = ["AthleteFacts", "Corrective", "Refusal", "choose_correctives"]

MOST = 2
"""Two correctives at most in one session."""


def _in_the_rack(drill: Drill, family: str) -> bool:
    return drill.racked or (drill.catches and family == "clean")


def _caught_overhead(drill: Drill, family: str) -> bool:
    return drill.catches and family == "snatch"


def _overhead(drill: Drill, family: str) -> bool:
    return drill.overhead and family != "clean"


GATES = (
    ("front-rack", _in_the_rack, "the front rack is not passed yet, so nothing is held in it"),
    ("pain-free-rack", _in_the_rack, "wrists or elbows are not free in the rack"),
    (
        "overhead-quarter",
        _caught_overhead,
        "the overhead squat is not passed yet, so no catch overhead",
    ),
    ("pain-free-overhead", _overhead, "something overhead hurts, so no overhead work"),
)
"""Screening checks that keep a drill away: of the rack for cleans and jerks, of overhead for snatches
and jerks."""


@dataclass(frozen=True)
class AthleteFacts:
    """What prescribing reads about an athlete.

    `cautions` are among shoulder, wrist, elbow, back; `equipment` among bar, stick, blocks;
    `trained` allows pulls above the best; `not_yet` are the screening checks that were not passed.
    """

    cautions: frozenset[str] = frozenset()
    equipment: frozenset[str] = field(default_factory=lambda: frozenset({"bar", "stick", "blocks"}))
    trained: bool = False
    not_yet: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Corrective:
    """A drill that fits, written for one lift, with the reason for it."""

    drill: str
    fault: str
    family: str
    name: str
    reason: str


@dataclass(frozen=True)
class Refusal:
    """A drill that answers the fault but does not fit, and why."""

    drill: str
    name: str
    reason: str


def choose_correctives(
    fault_id: str, family: str, athlete: AthleteFacts, content: Content
) -> tuple[list[Corrective], list[Refusal]]:
    """At most two drills for a fault, best first, and those that were passed over for a reason."""
    fault = content.faults[fault_id]
    fitting: list[tuple[tuple[bool, int, int], Drill]] = []
    refused: list[Refusal] = []
    for drill in content.drills.values():
        if fault_id not in drill.answers or family not in drill.families:
            continue
        against = _against(drill, family, athlete)
        if against:
            refused.append(Refusal(drill.id, _name(drill, family), against))
        else:
            order = (fault.phase not in drill.phases, len(drill.phases), drill.steps)
            fitting.append((order, drill))
    fitting.sort(key=lambda row: row[0])
    chosen = [
        Corrective(drill.id, fault_id, family, _name(drill, family), _reason(drill, fault.phase))
        for _, drill in fitting[:MOST]
    ]
    return chosen, refused


def _against(drill: Drill, family: str, athlete: AthleteFacts) -> str:
    """Why a drill does not fit, in plain words; empty when it fits."""
    missing = [thing for thing in drill.needs if thing not in athlete.equipment]
    if missing:
        return f"needs {' and '.join(missing)}"
    if "back" in athlete.cautions and drill.kind == "share" and drill.high > 0.75:
        return "back on record: loads above 75 % wait until a professional has cleared it"
    if drill.overhead and family != "clean" and "shoulder" in athlete.cautions:
        return "shoulder on record: no overhead work"
    if drill.catches and family == "clean" and athlete.cautions & {"wrist", "elbow"}:
        return "wrist or elbow on record: no catch in the rack"
    if drill.racked and athlete.cautions & {"wrist", "elbow"}:
        return "wrist or elbow on record: no load in the rack"
    if drill.catches and family == "snatch" and "elbow" in athlete.cautions:
        return "elbow on record: no catch overhead"
    for check, asks, words in GATES:
        if check in athlete.not_yet and asks(drill, family):
            return f"screening: {words}"
    if drill.high > 1 and not athlete.trained:
        return "loads above the best are for trained athletes"
    return ""


def _reason(drill: Drill, phase: str) -> str:
    if phase not in drill.phases:
        return f"prepares the {phase} without loading it"
    if len(drill.phases) == 1:
        return f"isolates the {phase}"
    later = [other for other in drill.phases if other != phase]
    return f"trains the {phase}, with the {' and '.join(later)}"


def _name(drill: Drill, family: str) -> str:
    written = drill.name.format(family=family)
    return written[:1].upper() + written[1:]
