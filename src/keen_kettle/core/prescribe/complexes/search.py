"""The exact search for the best string.

Qualities are bits of a mask; the lift of the day is one more bit that must be covered. First, for
every state, every number of overhead movements left and every mask, the least cost of covering the
mask with exactly so many more parts is worked out backwards, with movements allowed to come twice.
That bound is then used to look through real strings (no movement twice) from the best on, so that
nearly nothing has to be looked at. Cost: a thousand for a move between parts, plus difficulty.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.prescribe.complexes.joints import State, states_of, way
from keen_kettle.core.prescribe.complexes.library import Member, fits_school

__all__ = ["Limits", "Problem", "best_string", "cost_of", "rising_string"]

MOVE = 1000
NEVER = 10**9
Array = NDArray[np.int64]


@dataclass(frozen=True)
class Limits:
    """How many parts, and how many of them may end overhead."""

    fewest: int
    most: int
    overhead: int


@dataclass(frozen=True)
class Problem:
    """Movements to choose from, the lift that must be there, and what is wanted."""

    members: tuple[Member, ...]
    lift: Member
    wanted: dict[str, float]
    limits: Limits
    school: str
    family: str


@dataclass(frozen=True)
class _Option:
    """One way of doing a kind of movement: all members of a kind are worth the same but for their
    difficulty, so the k-th use of a kind takes its k-th simplest member."""

    kind: int
    pre: State
    post: int
    bits: int
    last_bits: int
    overhead: int
    pull: bool
    follows: bool


def cost_of(members: tuple[Member, ...]) -> int:
    """Moves (in thousands) and difficulty of a string; `NEVER` where it is not legal."""
    ways = {post: 0 for _, post in states_of(members[0].movement)}
    for one in members[1:]:
        after: dict[State, int] = {}
        for state, moves in ways.items():
            for pre, post in states_of(one.movement):
                acts = way(state, pre)
                if acts is not None:
                    after[post] = min(after.get(post, NEVER), moves + len(acts))
        ways = after
    if not ways:
        return NEVER
    return min(ways.values()) * MOVE + sum(one.difficulty for one in members)


def rising_string(problem: Problem) -> tuple[Member, ...] | None:
    """The best string of the school of rising range: the same lift from ever lower starts."""
    groups: dict[tuple[str, str], list[Member]] = {}
    for one in problem.members:
        lift = one.movement
        if isinstance(lift, Derivative) and lift.family == problem.family != "jerk":
            groups.setdefault((lift.action, lift.receive), []).append(one)
    best: tuple[tuple[float, int], tuple[Member, ...]] | None = None
    for group in groups.values():
        if problem.lift not in group:
            continue
        group.sort(key=lambda one: one.range_up)
        for chosen in _subsets(group, problem.limits):
            if problem.lift not in chosen or not fits_school(
                "rising range", chosen, problem.family
            ):
                continue
            order = (-_value(chosen, problem.wanted), cost_of(chosen))
            if order[1] < NEVER and (best is None or order < best[0]):
                best = (order, chosen)
    return best[1] if best is not None else None


def _subsets(group: list[Member], limits: Limits) -> Iterator[tuple[Member, ...]]:
    for mask in range(1 << len(group)):
        chosen = tuple(one for k, one in enumerate(group) if mask >> k & 1)
        over = sum(one.overhead for one in chosen)
        if limits.fewest <= len(chosen) <= limits.most and over <= limits.overhead:
            yield chosen


def _value(members: tuple[Member, ...], wanted: dict[str, float]) -> float:
    covered = {name for one in members for name in one.trains}
    if len(members) >= 3 and members[-1].tired:
        covered.add("tired")
    return round(sum(weight for name, weight in wanted.items() if name in covered), 6)


def best_string(problem: Problem) -> tuple[Member, ...] | None:
    """The best string with no movement twice; None where none is legal within the limits."""
    return _Search(problem).run()


class _Search:
    """The tables of one search."""

    def __init__(self, problem: Problem) -> None:
        self._problem = problem
        self._names = sorted(problem.wanted)
        self._lift_bit = 1 << len(self._names)
        self._kinds: list[list[Member]] = []
        self._states: list[State] = []
        self._options: list[_Option] = []
        self._lay_out()
        count = len(self._options)
        self._moves = np.full((len(self._states), count), NEVER, dtype=np.int64)
        for s, state in enumerate(self._states):
            for o, option in enumerate(self._options):
                acts = way(state, option.pre)
                if acts is not None:
                    self._moves[s, o] = MOVE * len(acts)
        self._best_cost = NEVER
        self._best: tuple[Member, ...] | None = None

    def _lay_out(self) -> None:
        """Members of one kind together, simplest first, and every way of doing each kind."""
        bit = {name: 1 << k for k, name in enumerate(self._names)}
        kinds: dict[tuple[object, ...], list[Member]] = {}
        for one in self._problem.members:
            key = (
                states_of(one.movement),
                frozenset(one.trains & set(bit)),
                one.tired and "tired" in bit,
                one.overhead,
                one.name == self._problem.lift.name,
                one.pull,
                self._follows(one),
            )
            kinds.setdefault(key, []).append(one)
        places: dict[State, int] = {}
        for kind, members in enumerate(kinds.values()):
            members.sort(key=lambda one: (one.difficulty, one.name))
            self._kinds.append(members)
            first = members[0]
            bits = sum(bit[name] for name in first.trains if name in bit)
            bits |= self._lift_bit if first.name == self._problem.lift.name else 0
            last = bits | (bit["tired"] if first.tired and "tired" in bit else 0)
            for pre, post in states_of(first.movement):
                at = places.setdefault(post, len(places))
                option = _Option(
                    *(kind, pre, at, bits, last, int(first.overhead), first.pull),
                    self._follows(first),
                )
                self._options.append(option)
        self._states = list(places)

    def _follows(self, one: Member) -> bool:
        """May follow a pull at once in the school of pulls before lifts."""
        lift = one.movement
        return one.caught and isinstance(lift, Derivative) and lift.family == self._problem.family

    def run(self) -> tuple[Member, ...] | None:
        bounds = self._bounds()
        roots = self._roots(bounds)
        for masks in self._by_value():
            hopes = [
                (int(root[mask]), parts, mask) for mask in masks for parts, root in roots.items()
            ]
            for hope, parts, mask in sorted(hopes):
                if hope < self._best_cost:
                    self._look(bounds, mask, parts)
            if self._best is not None:
                return self._best
        return None

    def _by_value(self) -> list[list[int]]:
        """The masks to be covered, in groups of equal worth, the most first; each holds the lift."""
        weights = [round(self._problem.wanted[name] * 1e6) for name in self._names]
        groups: dict[int, list[int]] = {}
        for mask in range(1 << len(weights)):
            worth = sum(weight for k, weight in enumerate(weights) if mask >> k & 1)
            groups.setdefault(worth, []).append(mask | self._lift_bit)
        return [groups[worth] for worth in sorted(groups, reverse=True)]

    def _bounds(self) -> list[Array]:
        """For j parts to go: least cost by state, overhead movements left, and mask to cover."""
        limits, masks = self._problem.limits, np.arange(2 * self._lift_bit)
        shape = (len(self._states), limits.overhead + 1, len(masks))
        none = np.full(shape, NEVER, dtype=np.int64)
        none[:, :, 0] = 0
        tables = [none]
        for j in range(1, limits.most):
            table = np.full(shape, NEVER, dtype=np.int64)
            for o, option in enumerate(self._options):
                bits = option.last_bits if j == 1 else option.bits
                rest = tables[-1][option.post][:, masks & ~bits]
                rest = rest + self._kinds[option.kind][0].difficulty
                over = option.overhead
                if over > limits.overhead:
                    continue
                reach = rest[: shape[1] - over] if over else rest
                cost = self._moves[:, o, None, None] + reach[None]
                np.minimum(table[:, over:], cost, out=table[:, over:])
            tables.append(np.minimum(table, NEVER))
        return tables

    def _roots(self, bounds: list[Array]) -> dict[int, Array]:
        """For each number of parts: the least cost of covering each mask from nothing."""
        limits, masks = self._problem.limits, np.arange(2 * self._lift_bit)
        found = {}
        for parts in range(limits.fewest, limits.most + 1):
            root = np.full(len(masks), NEVER, dtype=np.int64)
            for option in self._options:
                free = limits.overhead - option.overhead
                if free >= 0:
                    bits = option.last_bits if parts == 1 else option.bits
                    rest = bounds[parts - 1][option.post, free][masks & ~bits]
                    root = np.minimum(root, rest + self._kinds[option.kind][0].difficulty)
            found[parts] = root
        return found

    def _look(self, bounds: list[Array], mask: int, parts: int) -> None:
        """Look through the strings of so many parts that cover a mask, the most promising first."""
        limits = self._problem.limits
        used = [0] * len(self._kinds)
        chosen: list[Member] = []
        pull_first = self._problem.school == "pull before lift"

        def go(state: int, mask: int, left: int, overhead: int, cost: int) -> None:
            if left == 0:
                if mask == 0 and cost < self._best_cost:
                    self._best_cost, self._best = cost, tuple(chosen)
                return
            place = parts - left
            ahead = []
            for o, option in enumerate(self._options):
                if pull_first and (
                    (place == 0 and not option.pull) or (place == 1 and not option.follows)
                ):
                    continue
                members, taken = self._kinds[option.kind], used[option.kind]
                if taken >= len(members) or option.overhead > overhead:
                    continue
                moves = 0 if state < 0 else int(self._moves[state, o])
                rest = mask & ~(option.last_bits if left == 1 and parts >= 3 else option.bits)
                own = cost + moves + members[taken].difficulty
                free = overhead - option.overhead
                bound = own + int(bounds[left - 1][option.post, free, rest])
                if bound < self._best_cost:
                    ahead.append((bound, o, own, rest, free))
            ahead.sort()
            for bound, o, own, rest, free in ahead:
                if bound >= self._best_cost:
                    return
                option = self._options[o]
                chosen.append(self._kinds[option.kind][used[option.kind]])
                used[option.kind] += 1
                go(option.post, rest, left - 1, free, own)
                used[option.kind] -= 1
                chosen.pop()

        go(-1, mask, parts, limits.overhead, 0)
