"""Complexes as coaches write them: read, checked joint by joint, mended, and written out in full."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import count as counting
from itertools import pairwise

from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import Derivative, Helper, Movement, parse_movement
from keen_kettle.core.prescribe.complexes.compose import joints_of
from keen_kettle.core.prescribe.complexes.joints import State, states_of, way, why_not
from keen_kettle.core.prescribe.complexes.library import Member, library

__all__ = ["Problem", "Written", "mend", "problems_of", "read_part", "read_written"]

BETWEEN = re.compile(r"\s*(?:\+|→|->|;|\n|\bthen\b)\s*")
COUNT_FIRST = re.compile(
    r"^(?!2\s+(?:db|dumbbell)|1\s+arm)(\d{1,2})\s*(?:x|×|times)?\s+(?=\S)", re.IGNORECASE
)
COUNT_LAST = re.compile(r"\s*(?:x|×)\s*(\d{1,2})$|\s*\((\d{1,2})\)$", re.IGNORECASE)
MOST_PARTS, MOST_REPS = 12, 20
MOST_INSERTED = 3


@dataclass(frozen=True)
class Problem:
    """A joint that is not possible: after which part (from 1), between which, and why."""

    joint: int
    before: str
    after: str
    why: str


@dataclass(frozen=True)
class Written:
    """A complex as it was read."""

    movements: tuple[Movement, ...]
    reps: tuple[int, ...]
    problems: tuple[Problem, ...]

    @property
    def legal(self) -> bool:
        return not self.problems

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(one.name for one in self.movements)


def read_written(text: str, own: Mapping[str, Helper] | None = None) -> Written:
    """Read parts joined by +, → or "then", each with its repetitions before or after it ("2 power
    snatch", "OHS x3"). `own` are the coach's own movements (see `by_their_names`).

    Raises
    ------
    UnknownLift
        A part is no movement that is known, or there are none, or too many.
    """
    words = [part for part in BETWEEN.split(text.strip().strip("+")) if part]
    if len(words) < 2:
        raise UnknownLift(
            "A complex has at least two parts, joined by “+”: for example “power snatch + overhead squat”."
        )
    if len(words) > MOST_PARTS:
        raise UnknownLift(f"A complex of {len(words)} parts is too long: {MOST_PARTS} at most.")
    movements, reps = [], []
    for number, word in enumerate(words, 1):
        name, times = read_part(word)
        try:
            movements.append(parse_movement(name, own or {}))
        except UnknownLift as error:
            raise UnknownLift(f"Part {number}: {error}") from error
        reps.append(times)
    return Written(tuple(movements), tuple(reps), problems_of(movements))


def read_part(word: str) -> tuple[str, int]:
    """A part's name and its repetitions; the name is empty where the words are several parts.

    Raises
    ------
    UnknownLift
        It cannot be done so many times.
    """
    if len(BETWEEN.split(word.strip())) > 1:
        return "", 1
    first, last = COUNT_FIRST.match(word), COUNT_LAST.search(word)
    times = 1
    if first is not None:
        times, word = int(first.group(1)), word[first.end() :]
    elif last is not None:
        times, word = int(last.group(1) or last.group(2)), word[: last.start()]
    if not 1 <= times <= MOST_REPS:
        raise UnknownLift(f"“{word.strip()}” cannot be done {times} times: 1 to {MOST_REPS}.")
    return word.strip(), times


def problems_of(movements: Sequence[Movement]) -> tuple[Problem, ...]:
    """Every joint of a string that is not possible, with the reason."""
    joints, _ = joints_of(movements)
    found = []
    for number, one in enumerate(joints, 1):
        before, after = movements[number - 1], movements[number]
        why = _other_load(before, after) or one.why_not
        if why:
            found.append(Problem(number, before.name, after.name, why))
    if not states_of(movements[0]):
        why = why_not(State("floor", "clean"), movements[0])
        found.insert(0, Problem(0, "", movements[0].name, why))
    based = [one for one in movements if _base(one)]
    bases = {_base(one) for one in based}
    if len(bases) > 1:
        second = next(
            k for k, one in enumerate(movements) if _base(one) not in ("", _base(based[0]))
        )
        if all(one.joint != second for one in found):
            why = "one complex cannot use both the blocks and the floor: the bar would have to be moved"
            found.append(Problem(second, movements[second - 1].name, movements[second].name, why))
    return tuple(sorted(found, key=lambda one: one.joint))


def _other_load(before: Movement, after: Movement) -> str:
    """Why two movements are not done with the same thing in the hands; empty when they are."""
    loads = {before.implement, after.implement}
    bar = loads <= {"barbell", "stick"} and not all(
        isinstance(one, Derivative) for one in (before, after)
    )
    if len(loads) == 1 or bar or "none" in loads:
        return ""
    return f"{after.name} is done with another implement: put the {before.implement} down first"


def _base(movement: Movement) -> str:
    """What the bar is lifted from: floor, blocks or neither."""
    places = {pre.place for pre, _ in states_of(movement)}
    return next((place for place in ("floor", "blocks") if places == {place}), "")


def mend(written: Written, members: Sequence[Member] | None = None) -> Written | None:
    """The same parts in the same order, made possible by the fewest movements put between them.

    `members` are the movements that may be put in (without them, all that go with the lifts'
    families); of equally few, the fewest moves, then the simplest. None where at most three
    movements a joint do not help, or a part can be in no complex at all.
    """
    if written.legal:
        return written
    pairs = pairwise(written.movements)
    if any(not states_of(one) for one in written.movements) or any(_other_load(*p) for p in pairs):
        return None
    if len(_bases(written)) > 1:
        return None
    choice = list(members) if members is not None else _usual(written)
    ways: dict[State, tuple[tuple[int, int, int], tuple[Movement, ...], tuple[int, ...]]] = {
        post: ((0, 0, 0), (written.movements[0],), (written.reps[0],))
        for _, post in states_of(written.movements[0])
    }
    for movement, times in zip(written.movements[1:], written.reps[1:], strict=True):
        after: dict[State, tuple[tuple[int, int, int], tuple[Movement, ...], tuple[int, ...]]] = {}
        for state, (cost, made, reps) in ways.items():
            for inserted, moves, hard, post in _inserts(state, movement, choice):
                own = (cost[0] + len(inserted), cost[1] + moves, cost[2] + hard)
                if post not in after or own < after[post][0]:
                    parts = (*made, *inserted, movement)
                    after[post] = (own, parts, (*reps, *(1 for _ in inserted), times))
        if not after:
            return None
        ways = after
    _, movements, reps = min(ways.values(), key=lambda row: row[0])
    return Written(movements, reps, problems_of(movements))


def _bases(written: Written) -> set[str]:
    return {_base(one) for one in written.movements} - {""}


def _usual(written: Written) -> list[Member]:
    implement = written.movements[0].implement
    families = {
        "snatch" if isinstance(one, Derivative) and one.family == "snatch" else "clean"
        for one in written.movements
        if isinstance(one, Derivative)
    } or {"clean"}
    blocks = "blocks" in _bases(written)
    found = {
        one.name: one
        for family in sorted({*families, "clean", "snatch"})
        for one in library(implement, family, blocks)
    }
    return list(found.values())


def _inserts(
    start: State, movement: Movement, choice: Sequence[Member]
) -> list[tuple[tuple[Movement, ...], int, int, State]]:
    """For each end state of a movement: the fewest movements to put before it, then fewest moves."""
    reached: dict[State, tuple[tuple[Movement, ...], int, int]] = {start: ((), 0, 0)}
    for length in counting():
        done = []
        for pre, post in states_of(movement):
            ways = [
                (moves + len(acts), hard, tuple(one.name for one in made), made)
                for state, (made, moves, hard) in reached.items()
                if (acts := way(state, pre)) is not None
            ]
            if ways:
                moves, hard, _, made = min(ways, key=lambda row: row[:3])
                done.append((made, moves, hard, post))
        if done or length >= MOST_INSERTED:
            return done
        after: dict[State, tuple[tuple[Movement, ...], int, int]] = {}
        for state, (made, moves, hard) in reached.items():
            for one in choice:
                for pre, post in states_of(one.movement):
                    acts = way(state, pre)
                    if acts is None:
                        continue
                    new = (moves + len(acts), hard + one.difficulty)
                    if post not in after or new < after[post][1:]:
                        after[post] = ((*made, one.movement), *new)
        reached = after
    return []
