"""One session for one athlete: opening, build-up, complex, stage, correctives, main work, finish.

Everything is priced for the athlete and the plates at hand, and fits into the minutes: what does
not is left out from the end (finish, main work), and said.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from keen_kettle.core.content import Content, Teaching
from keen_kettle.core.lifts import HELPERS, Derivative, Movement
from keen_kettle.core.plan.build_up import SET_S, BuildStep, build_up
from keen_kettle.core.plan.complex_load import ComplexLoad, load_complex
from keen_kettle.core.plan.loads import best_for
from keen_kettle.core.plan.plates import Loading, PlateSet, make_load
from keen_kettle.core.prescribe import Opening, open_the_body
from keen_kettle.core.prescribe.complexes import Complex, share_of
from keen_kettle.core.teach.facts import Person
from keen_kettle.core.teach.gates import movement_obstacles

__all__ = ["Block", "Line", "Session", "SessionFacts", "SheetText", "make_session", "working_load"]

MAIN_SHARE, MAIN_SETS, MAIN_REPS, MAIN_REST_S = 0.75, 5, 2, 120
FINISH_SHARE, FINISH_SETS, FINISH_REPS = 0.65, 3, 5
"""House defaults: doubles at three quarters; three fives of a squat to finish."""
OPENING_SHARE = 0.2
LEAST_OPENING_S, MOST_OPENING_S = 150, 540


@dataclass(frozen=True)
class SheetText:
    """A stage or a corrective as it stands on the sheet."""

    name: str
    dose: str
    load_kg: float | None = None
    cue: str = ""
    minutes: int = 6


@dataclass(frozen=True)
class SessionFacts:
    """An athlete as a session needs them."""

    name: str
    person: Person
    trained: bool = False
    bests_kg: Mapping[str, float] = field(default_factory=dict)
    stage: SheetText | None = None
    correctives: tuple[SheetText, ...] = ()
    faults: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Line:
    """One line: what, how much, the load where there is one, and a cue or a reason."""

    what: str
    dose: str = ""
    loading: Loading | None = None
    note: str = ""


@dataclass(frozen=True)
class Block:
    """A part of the session with its minutes."""

    title: str
    minutes: float
    lines: tuple[Line, ...]


@dataclass(frozen=True)
class Session:
    """A whole session; `left_out` says what the minutes, a caution or a gate took out, and why."""

    athlete: str
    lift: str
    blocks: tuple[Block, ...]
    left_out: tuple[str, ...]

    @property
    def minutes(self) -> float:
        return sum(block.minutes for block in self.blocks)

    def block(self, title: str) -> Block | None:
        return next((one for one in self.blocks if one.title == title), None)


def working_load(
    movement: Movement, share: float, facts: SessionFacts, plates: PlateSet
) -> tuple[Loading | None, str]:
    """A share of what a movement can carry, as plates; or why it cannot be said."""
    lift, limit = share_of(movement)
    _, best = best_for(lift, dict(facts.bests_kg))
    if best is None:
        return None, f"no best {lift} is known"
    kilos = share * best * (limit if facts.trained else min(limit, 1.0))
    return make_load(kilos, plates, at_most_kg=kilos), ""


def make_session(
    facts: SessionFacts,
    lift: Movement,
    complex_: Complex | None,
    minutes: int,
    plates: PlateSet,
    content: Content,
    teaching: Teaching,
    *,
    load_share: float = 1.0,
) -> Session:
    """The session of one athlete.

    Parameters
    ----------
    complex_
        What was composed for the athlete, or None.
    load_share
        What today's first rep left of the planned loads (see `judge_first_rep`).
    """
    family = lift.family if isinstance(lift, Derivative) else "clean"
    left_out: list[str] = []
    middle: list[Block] = []
    top_kg = 0.0
    if complex_ is not None and facts.person.beginner and facts.stage is not None:
        left_out.append(f"Complex: “{facts.stage.name}” comes first, its parts are still learnt")
    elif complex_ is not None:
        priced = _complex_load(complex_, facts, plates, load_share)
        middle.append(_complex_block(complex_, priced))
        top_kg = priced.loading.total_kg if priced.loading else 0.0
    if facts.stage is not None:
        middle.append(_text_block("Skill", [facts.stage], plates))
    if facts.correctives:
        middle.append(_text_block("Correctives", facts.correctives[:2], plates))
    main = _main_block(facts, lift, plates, teaching, load_share, left_out)
    if main is not None:
        middle.append(main)
        loading = main.lines[0].loading
        top_kg = max(top_kg, loading.total_kg if loading is not None else 0.0)
    finish = _finish_block(facts, family, plates, teaching, left_out)
    if finish is not None:
        middle.append(finish)
    first = _first_working_kg(middle) or top_kg
    steps = build_up(first, plates) if first else ()
    seconds = min(max(int(OPENING_SHARE * 60 * minutes), LEAST_OPENING_S), MOST_OPENING_S)
    opening = open_the_body(family, facts.person, seconds, content, teaching, facts.faults)
    blocks = [_warm_up_block(opening, steps), *middle]
    left_out += [f"{name}: {why}" for name, why in opening.left_out if "minutes" not in why]
    return _within(minutes, Session(facts.name, lift.name, tuple(blocks), tuple(left_out)))


def _within(minutes: int, session: Session) -> Session:
    """Leave out from the end what the minutes do not hold; the warm-up and the first block stay."""
    blocks, left_out = list(session.blocks), list(session.left_out)
    for title in ("Finish", "Main work", "Skill"):
        over = sum(one.minutes for one in blocks) - minutes
        found = next((one for one in blocks if one.title == title), None)
        if over > 0 and found is not None and len(blocks) > 2:
            blocks.remove(found)
            left_out.append(f"{title}: {minutes} min do not hold it")
    return Session(session.athlete, session.lift, tuple(blocks), tuple(left_out))


def _first_working_kg(blocks: Sequence[Block]) -> float:
    """The load of the first line with plates: what the build-up leads to."""
    for block in blocks:
        for line in block.lines:
            if line.loading is not None and line.loading.per_side_kg:
                return line.loading.total_kg
    return 0.0


def _warm_up_block(opening: Opening, steps: Sequence[BuildStep]) -> Block:
    lines = [Line(one.name, one.dose, note=one.why) for one in opening.mobility]
    lines += [Line(one.name, one.dose) for one in opening.bar]
    lines += [Line("Build up", f"× {one.reps}", one.loading) for one in steps[:-1]]
    seconds = opening.seconds + SET_S * max(len(steps) - 1, 0)
    return Block("Warm-up", round(seconds / 60, 1), tuple(lines))


def _complex_load(
    complex_: Complex, facts: SessionFacts, plates: PlateSet, share: float
) -> ComplexLoad:
    bar = complex_.parts[0].movement.implement == "barbell"
    priced = load_complex(
        *(complex_, facts.bests_kg, plates),
        trained=facts.trained,
        beginner=facts.person.beginner,
        bar=bar,
    )
    if share < 1 and priced.loading is not None:
        kilos = priced.loading.total_kg * share
        loading = make_load(kilos, plates, at_most_kg=kilos)
        return ComplexLoad(loading, priced.weakest, priced.limit_kg, priced.share)
    return priced


def _complex_block(complex_: Complex, priced: ComplexLoad) -> Block:
    weakest = complex_.parts[priced.weakest].name
    note = priced.why_not or f"limited by the {weakest}"
    line = Line(complex_.says, "4 sets", priced.loading, note)
    return Block("Complex", round(complex_.minutes, 1), (line,))


def _text_block(title: str, texts: Sequence[SheetText], plates: PlateSet) -> Block:
    lines = []
    for one in texts:
        loading = make_load(one.load_kg, plates, one.load_kg) if one.load_kg else None
        lines.append(Line(one.name, one.dose, loading, one.cue))
    return Block(title, float(sum(one.minutes for one in texts)), tuple(lines))


def _main_block(
    facts: SessionFacts,
    lift: Movement,
    plates: PlateSet,
    teaching: Teaching,
    share: float,
    left_out: list[str],
) -> Block | None:
    """Doubles of the lift of the day; the stage is the main work of somebody who is still learning."""
    against = _against(lift, facts.person, teaching)
    if against:
        left_out.append(f"{_capital(lift.name)}: {against}")
        return None
    if facts.person.beginner and facts.stage is not None:
        return None
    loading, why = working_load(lift, MAIN_SHARE * share, facts, plates)
    seconds = MAIN_SETS * MAIN_REPS * 5 + (MAIN_SETS - 1) * MAIN_REST_S
    line = Line(_capital(lift.name), f"{MAIN_SETS} × {MAIN_REPS}", loading, why)
    return Block("Main work", round(seconds / 60, 1), (line,))


def _finish_block(
    facts: SessionFacts,
    family: str,
    plates: PlateSet,
    teaching: Teaching,
    left_out: list[str],
) -> Block | None:
    """A squat to end with: the one that the lift stands on and the athlete may do."""
    names = {"snatch": ("overhead squat", "back squat", "front squat", "goblet squat")}.get(
        family, ("front squat", "back squat", "goblet squat")
    )
    for name in names:
        movement = HELPERS[name]
        if _against(movement, facts.person, teaching):
            continue
        loading, why = None, "a bell that allows it"
        if movement.implement == "barbell":
            loading, why = working_load(movement, FINISH_SHARE, facts, plates)
        seconds = FINISH_SETS * FINISH_REPS * 4 + (FINISH_SETS - 1) * MAIN_REST_S
        line = Line(_capital(name), f"{FINISH_SETS} × {FINISH_REPS}", loading, why)
        return Block("Finish", round(seconds / 60, 1), (line,))
    left_out.append("Finish: no squat is open to this athlete")
    return None


def _against(movement: Movement, person: Person, teaching: Teaching) -> str:
    hard = [one for one in movement_obstacles(movement, person, teaching) if one.kind != "untested"]
    return hard[0].says if hard else ""


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]
