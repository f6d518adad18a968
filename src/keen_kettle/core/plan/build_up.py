"""From the empty bar to the first working set, with the plates at hand.

Three to six steps whose jumps grow smaller towards the top. Of all sequences that can be made, the
one whose plates are changed least is taken, held against how evenly it goes up: the jumps of an
ideal build-up are as n : n − 1 : … : 1, and a jump that is off by a tenth of the whole way counts
like one plate changed on each side. Plates go on and come off from the outside only.
"""

from dataclasses import dataclass
from functools import lru_cache

from keen_kettle.core.plan.plates import Loading, PlateSet, make_load, sides_of

__all__ = ["BuildStep", "build_up", "plate_changes"]

LEAST_STEPS, MOST_STEPS = 3, 6
SPANS_KG = ((25.0, 3), (50.0, 4), (90.0, 5))
"""Up to so many kilograms between the empty bar and the work: so many steps; above, six."""
SMALLEST_JUMP_KG = 4.0
"""On average no smaller jumps than these: a short way takes fewer steps."""
REPS = (5, 3, 3, 2, 2, 1)
UNEVEN = 10.0
FARTHEST = 0.16
"""A step is looked for within this share of the way round its ideal place."""
MOST_LOADS = 30
"""So many loads are looked at for a step, those with the fewest plates."""
SET_S = 60
"""House default: a step with its change of plates and a short rest, in seconds."""


@dataclass(frozen=True)
class BuildStep:
    """One step: the load, its repetitions, and the plates that change on each side."""

    loading: Loading
    reps: int
    changes: int


def plate_changes(before: tuple[float, ...], after: tuple[float, ...]) -> int:
    """Plates that come off and go on, on one side; the sides are listed from the inside out."""
    same = 0
    for a, b in zip(before, after, strict=False):
        if a != b:
            break
        same += 1
    return len(before) + len(after) - 2 * same


def build_up(
    working_kg: float, plates: PlateSet, steps: int | None = None
) -> tuple[BuildStep, ...]:
    """The steps from the empty bar up to the first working set, which is the last step.

    Empty where the work is done with the empty bar. Fewer steps than asked come out where the
    plates make no more, or the way is short. `working_kg` is rounded to what the plates can make.
    """
    target = make_load(working_kg, plates, at_most_kg=working_kg)
    span = target.total_kg - plates.empty_kg
    if span <= 1e-9:
        return ()
    wanted = steps or next((count for upto, count in SPANS_KG if span <= upto), MOST_STEPS)
    wanted = min(max(wanted, LEAST_STEPS), MOST_STEPS, max(int(span // SMALLEST_JUMP_KG), 1))
    for count in range(wanted, 0, -1):
        found = _sequence(count, target, plates)
        if found:
            break
    sides = [(), *(one.per_side_kg for one in found)]
    return tuple(
        BuildStep(one, REPS[min(k, len(REPS) - 1)], plate_changes(sides[k], sides[k + 1]))
        for k, one in enumerate(found)
    )


def _sequence(count: int, target: Loading, plates: PlateSet) -> tuple[Loading, ...]:
    """The best sequence of so many loads after the empty bar, the last being the target's weight.

    Its first load may be the empty bar itself, which is always lifted first and is not counted.
    """
    return _search(count, round(target.total_kg * 1000), plates)


_Row = tuple[float, tuple[float, ...], float]
_Ways = dict[_Row, tuple[float, tuple[_Row, ...]]]


@lru_cache(maxsize=256)
def _search(count: int, target_g: int, plates: PlateSet) -> tuple[Loading, ...]:
    empty, target = plates.empty_kg, target_g / 1000
    span = target - empty
    whole = count * (count + 1) / 2
    ideal = [sum(range(count - k, count + 1)) / whole for k in range(count)]
    options = []
    for number, place in enumerate(ideal, 1):
        last = number == count
        rows = [
            (kilos, side)
            for kilos, side in sides_of(plates, target)
            if abs((kilos - empty) / span - place) <= (1e-6 if last else FARTHEST)
        ]
        rows.sort(key=lambda row: (len(row[1]), abs((row[0] - empty) / span - place)))
        options.append(rows[:MOST_LOADS])
        if not rows:
            return ()
    # By load, plates and the last jump: the least worth of the way there, and the way.
    ways: _Ways = {(empty, (), span + 1.0): (0.0, ())}
    for place, rows in zip(ideal, options, strict=True):
        after: _Ways = {}
        for (kilos, side, jump), (worth, path) in ways.items():
            for kilos_after, side_after in rows:
                own = round(kilos_after - kilos, 3)
                if own <= 0 or own > jump + 1e-9:
                    continue
                uneven = abs((kilos_after - empty) / span - place)
                cost = worth + plate_changes(side, side_after) + UNEVEN * uneven
                key = (kilos_after, side_after, own)
                if key not in after or cost < after[key][0]:
                    after[key] = (cost, (*path, key))
        ways = _fewest(after)
    if not ways:
        return ()
    _, path = min(ways.values(), key=lambda row: row[0])
    return tuple(Loading(round(kilos, 3), side) for kilos, side, _ in path)


def _fewest(ways: _Ways) -> _Ways:
    """Without those that another of the same load and plates beats with a jump no smaller."""
    kept: _Ways = {}
    best: dict[tuple[float, tuple[float, ...]], list[tuple[float, float]]] = {}
    for key, value in sorted(ways.items(), key=lambda row: row[1][0]):
        rows = best.setdefault(key[:2], [])
        if all(jump < key[2] for jump, _ in rows):
            rows.append((key[2], value[0]))
            kept[key] = value
    return kept
