"""Which drills answer what was seen, for this athlete today, with reasons for and against.

A drill fits when its equipment is there, no caution forbids it, the screening allows it and it fits
into the minutes. Of those that fit, the answer to a splitting question comes first; then the one
that isolates the fault's phase (it trains that phase and few others); of equals the simplest. A
drill that ended unchanged or worse for this athlete is not offered again for the same fault.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from keen_kettle.core.content import Content, Drill, Split
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import (
    Derivative,
    Helper,
    Movement,
    needs_of,
    parse_movement,
    why_illegal,
)
from keen_kettle.core.prescribe.evidence import Cause, Sighting, causes_of

__all__ = [
    "MOST",
    "AthleteFacts",
    "Corrective",
    "Ended",
    "Recommended",
    "Refusal",
    "choose_correctives",
    "cues_of",
    "movement_of_drill",
    "recommend",
]

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

    `cautions` are among shoulder, wrist, elbow, back; `equipment` among bar, stick, blocks and what
    else is at hand; `trained` allows pulls above the best; `not_yet` are the screening checks that
    were not passed; `back_cleared` that a professional has cleared the back.
    """

    cautions: frozenset[str] = frozenset()
    equipment: frozenset[str] = field(default_factory=lambda: frozenset({"bar", "stick", "blocks"}))
    trained: bool = False
    not_yet: frozenset[str] = frozenset()
    back_cleared: bool = False


@dataclass(frozen=True)
class Corrective:
    """A drill that fits, written for one lift, with the reason for it.

    `implement` is what it is done with: where there is no bar, bells or a stick stand in.
    """

    drill: str
    fault: str
    family: str
    name: str
    reason: str
    minutes: int = 0
    implement: str = "barbell"


@dataclass(frozen=True)
class Refusal:
    """A drill that answers the fault but does not fit, and why."""

    drill: str
    name: str
    reason: str
    fault: str = ""


@dataclass(frozen=True)
class Ended:
    """A corrective of this athlete that has ended, with its outcome."""

    drill: str
    fault: str
    outcome: str
    on: date


@dataclass(frozen=True)
class Recommended:
    """What is offered: `picks` (two at most), `others` that would fit too, what was ruled out.

    `causes` are all faults in the order of correcting them. `question` is the splitting question of
    the chief fault, where an answer would change the first pick; `none` says why nothing fits.
    """

    causes: tuple[Cause, ...] = ()
    picks: tuple[Corrective, ...] = ()
    others: tuple[Corrective, ...] = ()
    refused: tuple[Refusal, ...] = ()
    question: Split | None = None
    none: str = ""


def recommend(
    sightings: Iterable[Sighting],
    family: str,
    athlete: AthleteFacts,
    content: Content,
    today: date,
    *,
    answers: Mapping[str, str] | None = None,
    minutes: int | None = None,
    ended: Sequence[Ended] = (),
) -> Recommended:
    """The correctives for everything that was seen of an athlete.

    Parameters
    ----------
    family
        The lift of the day, for faults that were seen without a lift.
    answers
        The athlete's answers to splitting questions, by fault.
    minutes
        How long all of it may take; None for no limit.
    """
    cleared = {one.fault: one.on for one in ended if one.outcome == "gone"}
    causes = causes_of(sightings, content, today, cleared)
    if not causes:
        return Recommended(none="Nothing was seen in the last twelve weeks that asks for a drill.")
    said = answers or {}
    fitting: dict[str, list[Corrective]] = {}
    refused: list[Refusal] = []
    for cause in causes:
        lift = _family_for(cause, family, content)
        fitting[cause.fault], against = _drills_for(
            cause.fault, lift, athlete, content, said, minutes, ended
        )
        refused += against
    picks = _pick(causes, fitting, minutes)
    others = [
        one for cause in causes for one in fitting[cause.fault] if one.drill not in _ids(picks)
    ]
    chief = next((one.fault for one in causes if fitting[one.fault]), causes[0].fault)
    return Recommended(
        tuple(causes),
        tuple(picks),
        tuple(_once(others)),
        tuple(refused),
        _question(chief, fitting[chief], said, content),
        "" if picks else _why_none(causes[0], refused, content),
    )


def _ids(picks: Sequence[Corrective]) -> set[str]:
    return {one.drill for one in picks}


def _once(rows: Sequence[Corrective]) -> list[Corrective]:
    found: dict[str, Corrective] = {}
    for one in rows:
        found.setdefault(one.drill, one)
    return list(found.values())


def _pick(
    causes: Sequence[Cause], fitting: Mapping[str, list[Corrective]], minutes: int | None
) -> list[Corrective]:
    """The best drill of the first fault, then of the next root; two of one fault only where nothing
    else was seen that one of them does not explain."""
    picks: list[Corrective] = []
    left = minutes if minutes is not None else 10**6
    explained: set[str] = set()
    rows = [(cause, fitting[cause.fault][:1]) for cause in causes]
    rows += [(cause, fitting[cause.fault][1:2]) for cause in causes]
    for number, (cause, offers) in enumerate(rows):
        if number < len(causes) and cause.fault in explained:
            continue
        for offer in offers:
            if len(picks) < MOST and offer.drill not in _ids(picks) and offer.minutes <= left:
                picks.append(offer)
                left -= offer.minutes
                explained |= set(cause.explains)
    return picks


def _family_for(cause: Cause, family: str, content: Content) -> str:
    """The lift that a fault is corrected in: the one it was seen in, or the day's where drills for
    it exist there, or one that has drills."""
    has = {
        lift
        for drill in content.drills.values()
        if cause.fault in drill.answers
        for lift in drill.families
    }
    for lift in (cause.family, family):
        if lift in has:
            return lift
    return min(has, default=cause.family or family)


def _question(
    fault: str, offers: Sequence[Corrective], said: Mapping[str, str], content: Content
) -> Split | None:
    """The splitting question with the answers whose drills fit, where it was not answered and an
    answer would change the first pick."""
    split = content.splits.get(fault)
    if split is None or fault in said or not offers:
        return None
    fits = {one.drill for one in offers}
    answers = tuple(one for one in split.answer if one.drill in fits)
    changes = any(one.drill != offers[0].drill for one in answers)
    return split.model_copy(update={"answer": answers}) if changes and answers[1:] else None


def _why_none(cause: Cause, refused: Sequence[Refusal], content: Content) -> str:
    fault = content.faults[cause.fault]
    if fault.no_drill:
        return f"{fault.name}: {fault.no_drill}"
    reasons = list(dict.fromkeys(one.reason for one in refused))
    if reasons:
        return f"No drill fits today: {'; '.join(reasons[:3])}."
    return f"No drill answers “{fault.name}” in this lift."


def choose_correctives(
    fault_id: str, family: str, athlete: AthleteFacts, content: Content
) -> tuple[list[Corrective], list[Refusal]]:
    """At most two drills for one fault, best first, and those that were passed over for a reason."""
    chosen, refused = _drills_for(fault_id, family, athlete, content, {}, None, ())
    return chosen[:MOST], refused


def _drills_for(
    fault_id: str,
    family: str,
    athlete: AthleteFacts,
    content: Content,
    answers: Mapping[str, str],
    minutes: int | None,
    ended: Sequence[Ended],
) -> tuple[list[Corrective], list[Refusal]]:
    """Every drill that fits a fault, best first, and every one that does not, with why."""
    fault, split = content.faults[fault_id], content.splits.get(fault_id)
    said = answers.get(fault_id, "")
    answer = next((one for one in split.answer if one.id == said), None) if split else None
    fitting: list[tuple[tuple[bool, bool, int, int], Drill, str]] = []
    refused: list[Refusal] = []
    for drill in content.drills.values():
        if fault_id not in drill.answers or family not in drill.families:
            continue
        movement = movement_of_drill(drill, family, content.own_movements)
        held = _held_with(drill, movement, athlete)
        against = (
            _by_equipment(drill, athlete, held)
            or _by_caution(drill, family, movement, athlete, held)
            or _by_screening(drill, family, athlete)
            or _by_time(drill, minutes)
            or _tried(drill, fault_id, ended)
        )
        if against:
            refused.append(Refusal(drill.id, _name(drill, family), against, fault_id))
        else:
            told = answer is not None and answer.drill == drill.id
            isolates = fault.phase in drill.phases
            order = (not told, not isolates, len(drill.phases), drill.steps)
            fitting.append((order, drill, held))
    fitting.sort(key=lambda row: row[0])
    found = []
    for _, drill, held in fitting:
        told = answer is not None and answer.drill == drill.id
        reason = _reason(drill, fault.phase)
        if told and answer is not None:
            reason = f"answers what was asked: {answer.because}"
        name = _name(drill, family)
        name = name if held == "barbell" else f"{name}, with a {held}"
        made = Corrective(drill.id, fault_id, family, name, reason, drill.minutes, held)
        found.append(made)
    return found, refused


def _tried(drill: Drill, fault: str, ended: Sequence[Ended]) -> str:
    """Why a drill that this athlete has done for the fault is not offered again."""
    mine = [one for one in ended if (one.drill, one.fault) == (drill.id, fault)]
    newest = max(mine, key=lambda one: one.on, default=None)
    if newest is not None and newest.outcome in ("unchanged", "worse"):
        return f"tried until {newest.on:%-d %b}, {newest.outcome}: another one is offered"
    return ""


WORD_OF_PHASE = {
    "start": "set",
    "first pull": "floor",
    "second pull": "jump",
    "turnover": "under",
    "catch": "catch",
    "dip": "dip",
    "drive": "drive",
}
"""The house word that stages of the ladders add for a phase."""


def cues_of(
    drill: Drill, kind: str = "outer", words: Mapping[str, str] | None = None
) -> tuple[str, str]:
    """The drill's cue of the coach's kind ("outer" or "inner"), with the word that this house has
    chosen for its phase before it; and the cue of the other kind."""
    first, other = drill.cue_outer, drill.cue_inner
    if kind == "inner":
        first, other = other, first
    key = next((WORD_OF_PHASE[one] for one in drill.phases if one in WORD_OF_PHASE), "")
    own = (words or {}).get(key, key)
    return (f"{own[:1].upper()}{own[1:]}! {first}" if own and own != key else first), other


def movement_of_drill(
    drill: Drill, family: str, own: Mapping[str, Helper] | None = None
) -> Movement | None:
    """The lift that a drill is, in a family; None where it is no lift (or its name says none).

    `own` are the coach's own movements (see `by_their_names`).
    """
    if not drill.movement:
        return None
    lift = "split jerk" if family == "jerk" and drill.movement == "{family}" else family
    name = drill.movement.format(family=lift)
    name = f"snatch {name}" if name == "deadlift to knee" and family == "snatch" else name
    try:
        return parse_movement(name, own or {})
    except UnknownLift:
        return None


INSTEAD = ("dumbbell pair", "dumbbell", "kettlebell")
"""What may stand in for a bar that is not there, the most alike first."""


def _held_with(drill: Drill, movement: Movement | None, athlete: AthleteFacts) -> str:
    """What the drill is done with: the bar, or what stands in for it; empty where nothing can."""
    if drill.kind == "stick" or _has(athlete.equipment, "bar"):
        return "barbell"
    if drill.kind == "bar" and _has(athlete.equipment, "stick"):
        return "stick"
    for implement in INSTEAD:
        if (
            _has(athlete.equipment, implement)
            and isinstance(movement, Derivative)
            and not why_illegal(replace(movement, implement=implement))
        ):
            return implement
    return ""


def _by_equipment(drill: Drill, athlete: AthleteFacts, held: str) -> str:
    """Why a drill does not fit, in plain words; empty when it fits (so all of these)."""
    missing = [thing for thing in drill.needs if not _has(athlete.equipment, thing)]
    missing += [] if held else ["bar"]
    return f"needs {' and '.join(dict.fromkeys(missing))}" if missing else ""


def _by_time(drill: Drill, minutes: int | None) -> str:
    return f"takes {drill.minutes} min" if minutes is not None and drill.minutes > minutes else ""


def _has(equipment: frozenset[str], thing: str) -> bool:
    return thing in equipment or thing.rstrip("s") in equipment or f"{thing}s" in equipment


def _by_caution(
    drill: Drill, family: str, movement: Movement | None, athlete: AthleteFacts, held: str
) -> str:
    back = "back" in athlete.cautions and not athlete.back_cleared
    if back and drill.kind != "stick" and held == "barbell" and _loads_the_back(movement):
        return "back on record: no pull or catch with a bar until a professional has cleared it"
    if back and drill.kind == "share" and drill.high > 0.75:
        return "back on record: loads above 75 % wait until a professional has cleared it"
    rack = drill.racked or (drill.catches and family == "clean" and drill.kind != "stick")
    overhead = drill.overhead and family != "clean"
    for against, areas, words in (
        (overhead, ("shoulder",), "no overhead work"),
        (overhead, ("wrist",), "no overhead work"),
        (drill.catches and family == "clean", ("wrist", "elbow"), "no catch in the rack"),
        (rack, ("wrist", "elbow"), "no load in the rack"),
        (drill.catches and family == "snatch", ("elbow",), "no catch overhead"),
    ):
        if against and athlete.cautions & set(areas):
            return f"{' or '.join(areas)} on record: {words}"
    return ""


def _loads_the_back(movement: Movement | None) -> bool:
    return movement is not None and "back" in needs_of(movement).areas


def _by_screening(drill: Drill, family: str, athlete: AthleteFacts) -> str:
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
