"""The best legal string for what is wanted, and good ones that differ in kind.

Objective, in this order: the wanted qualities (the sum of their weights, each counted once), the
fewest moves between the parts, the simplest parts (least sum of difficulty). The search is exact
for that objective (see `search`); a test holds it against trying everything.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from keen_kettle.core.content import Quality, Teaching
from keen_kettle.core.lifts import Derivative, Helper, Movement
from keen_kettle.core.prescribe.complexes.joints import Joint, State, joint, states_of, way
from keen_kettle.core.prescribe.complexes.library import SCHOOLS, Member, library, member_of
from keen_kettle.core.prescribe.complexes.search import Limits, Problem, best_string, rising_string
from keen_kettle.core.prescribe.complexes.shares import share_of
from keen_kettle.core.teach.facts import Person
from keen_kettle.core.teach.gates import Obstacle, movement_obstacles

__all__ = [
    "Complex",
    "Composed",
    "Part",
    "RuledOut",
    "Wish",
    "compose",
    "joints_of",
    "obstacles_with",
    "price_string",
    "wanted_from_faults",
]

REP_S, MOVE_S, REST_S, SETS = 4.0, 2.0, 120.0, 4
"""House defaults for time: a repetition, a move between parts, the rest between sets, the sets."""


@dataclass(frozen=True)
class Wish:
    """What a complex is to be for.

    `wanted` maps qualities to weights (0 and less are not wanted). `overhead` is the most movements
    that may end overhead, `reps` the most repetitions in a set. `school` is one of `SCHOOLS`, or
    empty for the best of all. `without` and `only` name movements; `own` are the coach's own that may be taken too.
    """

    lift: Movement
    wanted: Mapping[str, float]
    person: Person
    fewest: int = 3
    most: int = 6
    reps: int = 8
    overhead: int = 3
    school: str = ""
    blocks: bool = False
    without: frozenset[str] = frozenset()
    only: frozenset[str] = frozenset()
    own: tuple[Helper, ...] = ()


@dataclass(frozen=True)
class Part:
    """One movement of a string: repetitions, which wanted qualities it is there for, its limit.

    `limit` is the share of the best of `priced_by` that the movement can carry.
    """

    movement: Movement
    reps: int
    trains: tuple[str, ...]
    priced_by: str
    limit: float

    @property
    def name(self) -> str:
        return self.movement.name


@dataclass(frozen=True)
class Complex:
    """A string with the way between its parts, and what it is worth.

    `joints` has one entry less than `parts`. `value` is the sum of the weights of what it `covers`;
    `misses` are wanted qualities that no part trains. `weakest` is the part that limits the load.
    """

    parts: tuple[Part, ...]
    joints: tuple[Joint, ...]
    school: str
    covers: tuple[str, ...]
    misses: tuple[str, ...]
    value: float
    moves: int
    difficulty: int
    weakest: int

    @property
    def says(self) -> str:
        """As a coach would write it."""
        return " + ".join(
            f"{part.reps} {part.name}" if part.reps > 1 else part.name for part in self.parts
        )

    @property
    def reps(self) -> int:
        return sum(part.reps for part in self.parts)

    @property
    def set_s(self) -> float:
        """How long one set takes, in seconds."""
        return self.reps * REP_S + self.moves * MOVE_S

    @property
    def minutes(self) -> float:
        """Four sets with their rests."""
        return (SETS * self.set_s + (SETS - 1) * REST_S) / 60


@dataclass(frozen=True)
class RuledOut:
    """Movements that were left out, and why."""

    names: tuple[str, ...]
    why: str


@dataclass(frozen=True)
class Composed:
    """The best complex and others; `why_none` where there is none. `lift_says` tells what became of
    the lift of the day where the athlete is not cleared for it."""

    best: Complex | None
    alternatives: tuple[Complex, ...] = ()
    ruled_out: tuple[RuledOut, ...] = ()
    untested: tuple[str, ...] = ()
    lift: str = ""
    lift_says: str = ""
    why_none: str = ""
    notes: tuple[str, ...] = field(default=())


def wanted_from_faults(
    weights: Mapping[str, float], qualities: Mapping[str, Quality]
) -> dict[str, float]:
    """The qualities that answer faults, weighted by the faults' weights."""
    found: dict[str, float] = {}
    for quality in qualities.values():
        weight = sum(weights.get(fault, 0.0) for fault in quality.answers)
        if weight > 0:
            found[quality.id] = round(weight, 4)
    return found


def compose(wish: Wish, teaching: Teaching, qualities: Mapping[str, Quality]) -> Composed:
    """The best legal complex for a wish, and alternatives of another kind.

    `teaching` is the teaching content (its checks name what is not passed).
    """
    lift = wish.lift
    family = lift.family if isinstance(lift, Derivative) else "clean"
    implement = lift.implement if lift.implement != "none" else "barbell"
    open_now, ruled_out, untested = _cleared(wish, implement, family, teaching)
    lift_member, lift_says = _lift_of_the_day(member_of(lift), open_now, ruled_out, family)
    if lift_member is None or len(open_now) < wish.fewest:
        why = _why_none(open_now, ruled_out, wish)
        return Composed(None, (), _by_reason(ruled_out), tuple(untested), lift.name, lift_says, why)
    found = _found(wish, open_now, lift_member, family)
    if not found:
        why = (
            f"No legal string of {wish.fewest} to {wish.most} parts holds {lift_member.name} within "
            "these limits. Allow more movements overhead, more parts, or another lift."
        )
        return Composed(None, (), _by_reason(ruled_out), tuple(untested), lift.name, lift_says, why)
    best, *others = found
    return Composed(
        best,
        tuple(others),
        _by_reason(ruled_out),
        tuple(untested),
        lift_member.name,
        lift_says,
        notes=_notes(wish, lift_member),
    )


def _found(wish: Wish, open_now: Sequence[Member], lift: Member, family: str) -> list[Complex]:
    """The best string of each school, best first; then one that shares little with the best."""
    found: list[Complex] = []
    wanted = {name: weight for name, weight in wish.wanted.items() if weight > 0}
    limits = Limits(wish.fewest, min(wish.most, wish.reps), wish.overhead)
    for school in [wish.school] if wish.school else SCHOOLS:
        members = _string(school, open_now, lift, wanted, limits, family)
        if members is not None:
            found.append(_complex(members, school, wanted, wish.reps))
    found.sort(key=lambda one: (-one.value, one.moves, one.difficulty))
    if found:
        parts = {part.name for part in found[0].parts} - {lift.name}
        others = [one for one in open_now if one.name not in parts]
        members = _string("one of each", others, lift, wanted, limits, family)
        if members is not None:
            found.append(_complex(members, "one of each", wanted, wish.reps))
    seen: dict[str, Complex] = {}
    for one in found:
        seen.setdefault(" + ".join(part.name for part in one.parts), one)
    return list(seen.values())


def _string(
    school: str,
    members: Sequence[Member],
    lift: Member,
    wanted: Mapping[str, float],
    limits: Limits,
    family: str,
) -> tuple[Member, ...] | None:
    problem = Problem(tuple(members), lift, dict(wanted), limits, school, family)
    return rising_string(problem) if school == "rising range" else best_string(problem)


def _cleared(
    wish: Wish, implement: str, family: str, teaching: Teaching
) -> tuple[list[Member], dict[str, str], list[str]]:
    """The movements that the athlete may do; those that they may not, with why; what is untested."""
    open_now: list[Member] = []
    ruled_out: dict[str, str] = {}
    untested: dict[str, None] = {}
    members = library(implement, family, wish.blocks, wish.own)
    known = {one.name for one in members}
    wanted_too = member_of(wish.lift)
    for one in members if wanted_too.name in known else (*members, wanted_too):
        if one.name in wish.without or (wish.only and one.name not in {*wish.only, wish.lift.name}):
            continue
        against = obstacles_with(one.movement, implement, wish.person, teaching)
        hard = [other for other in against if other.kind != "untested"]
        if hard:
            ruled_out[one.name] = hard[0].says
            continue
        for other in against:
            untested[other.says] = None
        open_now.append(one)
    return open_now, ruled_out, list(untested)


def obstacles_with(
    movement: Movement, implement: str, person: Person, teaching: Teaching
) -> list[Obstacle]:
    """What stands between an athlete and a movement; a bar movement done with a stick needs no bar."""
    found = movement_obstacles(movement, person, teaching)
    if implement == "stick":
        found = tuple(one for one in found if (one.kind, one.about) != ("equipment", "bar"))
    return list(found)


def _lift_of_the_day(
    wanted: Member, open_now: Sequence[Member], ruled_out: Mapping[str, str], family: str
) -> tuple[Member | None, str]:
    """The lift itself, or the nearest that the athlete may do, and the sentence that says so."""
    if any(one.name == wanted.name for one in open_now):
        return wanted, ""
    why = ruled_out.get(wanted.name, "it was left out")
    near = sorted(
        (one for one in open_now if _same_family(one, family)),
        key=lambda one: (not one.caught, one.overhead, -one.range_up, one.difficulty, one.name),
    )
    if not near:
        return None, f"{_capital(wanted.name)} is left out: {why}."
    return near[
        0
    ], f"{_capital(wanted.name)} is left out: {why}. {_capital(near[0].name)} stands in."


def _same_family(one: Member, family: str) -> bool:
    return isinstance(one.movement, Derivative) and one.movement.family == family


def _why_none(open_now: Sequence[Member], ruled_out: Mapping[str, str], wish: Wish) -> str:
    reasons = "; ".join(one.why for one in _by_reason(ruled_out)[:3])
    left = f"only {len(open_now)} movements are left" if open_now else "no movement is left"
    return f"No complex can be made for this athlete today: {left}" + (
        f" ({reasons})." if reasons else f" of the {wish.fewest} at least that are asked for."
    )


def _by_reason(ruled_out: Mapping[str, str]) -> tuple[RuledOut, ...]:
    reasons: dict[str, list[str]] = {}
    for name, why in ruled_out.items():
        reasons.setdefault(why, []).append(name)
    made = (RuledOut(tuple(names), why) for why, names in reasons.items())
    return tuple(sorted(made, key=lambda one: -len(one.names)))


def _notes(wish: Wish, lift: Member) -> tuple[str, ...]:
    found = []
    one = lift.movement
    if isinstance(one, Derivative) and one.one_arm:
        found.append("Each side for itself; both sides make one set.")
    if wish.blocks:
        found.append("On blocks: light loads, and the bar is never dropped on to them.")
    return tuple(found)


def joints_of(members: Sequence[Movement]) -> tuple[tuple[Joint, ...], int]:
    """The way with the fewest moves through a string, and how many those are.

    Where a part can be begun in several ways (either grip), that one is taken which needs the
    fewest moves in all. A joint that is not legal says why, and the next part begins anew.
    """
    ways: list[tuple[int, State, tuple[Joint, ...]]] = [
        (0, post, ()) for _, post in states_of(members[0])
    ] or [(0, State("floor", "clean"), ())]
    for movement in members[1:]:
        after: list[tuple[int, State, tuple[Joint, ...]]] = []
        for moves, state, made in ways:
            for pre, post in states_of(movement):
                acts = way(state, pre)
                if acts is not None:
                    after.append((moves + len(acts), post, (*made, Joint(acts, state))))
        if not after:
            moves, state, made = min(ways, key=lambda row: row[0])
            broken, _ = joint(state, movement)
            posts = [post for _, post in states_of(movement)] or [state]
            after = [(moves, post, (*made, broken)) for post in posts]
        ways = after
    moves, _, joints = min(ways, key=lambda row: row[0])
    return joints, moves


def price_string(
    movements: Sequence[Movement],
    reps: Sequence[int],
    wanted: Mapping[str, float],
    school: str = "",
) -> Complex:
    """A string as a complex: what it covers, its moves, its weakest member."""
    members = [member_of(one) for one in movements]
    joints, moves = joints_of(movements)
    wants = {name: weight for name, weight in wanted.items() if weight > 0}
    parts, covered = [], set()
    for number, (one, count) in enumerate(zip(members, reps, strict=True)):
        trains = set(one.trains)
        if number + 1 == len(members) >= 3 and one.tired:
            trains.add("tired")
        covered |= trains & set(wants)
        lift, limit = share_of(one.movement, _grip(joints, number, one.movement))
        own = tuple(name for name in (wants or sorted(trains)) if name in trains)
        parts.append(Part(one.movement, count, own, lift, limit))
    weakest = min(range(len(parts)), key=lambda k: _relative(parts[k]))
    return Complex(
        tuple(parts),
        joints,
        school,
        tuple(name for name in wants if name in covered),
        tuple(name for name in wants if name not in covered),
        round(sum(wants[name] for name in covered), 4),
        moves,
        sum(one.difficulty for one in members),
        weakest,
    )


USUAL = {"snatch": 0.8, "clean": 1.0, "jerk": 1.0}
"""A snatch is about four fifths of a clean: only to find the weakest where bests are not known."""


def _relative(part: Part) -> float:
    return part.limit * USUAL.get(part.priced_by, 1.0)


def _grip(joints: Sequence[Joint], number: int, movement: Movement) -> str:
    """The grip with which a part of a string is done."""
    if number and joints[number - 1].acts:
        return joints[number - 1].acts[-1].after.grip
    if number and joints[number - 1].before is not None:
        before = joints[number - 1].before
        return before.grip if before is not None else ""
    if number < len(joints):
        before = joints[number].before
        return before.grip if before is not None else ""
    ways = states_of(movement)
    return ways[0][0].grip if ways else ""


def _complex(
    members: Sequence[Member], school: str, wanted: Mapping[str, float], most: int
) -> Complex:
    reps = [1] * len(members)
    if school == "pull before lift" and len(members) < most:
        reps[0] = 2
    return replace(price_string([one.movement for one in members], reps, wanted), school=school)


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]
