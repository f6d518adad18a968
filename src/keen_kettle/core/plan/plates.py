"""What a bar and the plates at hand can weigh, exactly (whole grams throughout)."""

from dataclasses import dataclass
from functools import lru_cache

__all__ = ["STANDARD_PLATES", "Loading", "PlateSet", "make_load", "sides_of"]

STANDARD_PLATES = (
    (25.0, 1),
    (20.0, 2),
    (15.0, 1),
    (10.0, 1),
    (5.0, 1),
    (2.5, 1),
    (2.0, 1),
    (1.5, 1),
    (1.0, 1),
    (0.5, 1),
)


@dataclass(frozen=True)
class PlateSet:
    """A bar, its collars and pairs of plates: (kg of one plate, how many pairs)."""

    bar_kg: float = 20.0
    collars_kg: float = 0.0
    pairs: tuple[tuple[float, int], ...] = STANDARD_PLATES

    @property
    def empty_kg(self) -> float:
        return self.bar_kg + self.collars_kg

    @property
    def smallest_step_kg(self) -> float:
        """What the smallest pair of plates adds (2.5 kg where there are none)."""
        return 2 * min((kilos for kilos, pairs in self.pairs if pairs > 0), default=1.25)


@dataclass(frozen=True)
class Loading:
    """A weight that can be made: total in kg, and the plates on one side, heaviest inside."""

    total_kg: float
    per_side_kg: tuple[float, ...]


def make_load(wanted_kg: float, plates: PlateSet, at_most_kg: float | None = None) -> Loading:
    """The makeable weight nearest to the wanted one, never above `at_most_kg`.

    Of two equally near the lighter is taken; of equal weights the fewest plates. The bar alone
    is the least that can be made, and is what comes out when even that is too heavy.
    """
    limit = float("inf") if at_most_kg is None else at_most_kg
    sides = _possible_sides(plates)
    options = [
        (plates.empty_kg + 2 * grams / 1000, side)
        for grams, side in sides.items()
        if plates.empty_kg + 2 * grams / 1000 <= limit + 1e-9
    ]
    if not options:
        return Loading(plates.empty_kg, ())
    total, side = min(
        options, key=lambda row: (round(abs(row[0] - wanted_kg), 6), row[0], len(row[1]))
    )
    return Loading(round(total, 3), side)


@lru_cache(maxsize=8)
def _possible_sides(plates: PlateSet) -> dict[int, tuple[float, ...]]:
    """Every weight that one side can carry (in grams) with the fewest plates for it."""
    best: dict[int, tuple[float, ...]] = {0: ()}
    for kilos, pairs in sorted(plates.pairs, reverse=True):
        grams = round(kilos * 1000)
        if grams <= 0:
            continue
        for base, side in list(best.items()):
            for count in range(1, pairs + 1):
                total = base + count * grams
                heavier = side + (kilos,) * count
                if total not in best or len(heavier) < len(best[total]):
                    best[total] = heavier
    return best


MOST_WAYS = 4
"""So many ways of making one weight are looked at, those with the fewest plates."""


@lru_cache(maxsize=64)
def sides_of(plates: PlateSet, at_most_kg: float) -> tuple[tuple[float, tuple[float, ...]], ...]:
    """Every weight that can be made up to a limit, with the plates of one side in several ways.

    Each is (total in kg, plates on one side from the inside out, in any order that goes from heavy
    to light). Up to `MOST_WAYS` a weight, those with the fewest plates.
    """
    ways: dict[int, list[tuple[float, ...]]] = {0: [()]}
    for kilos, pairs in sorted(plates.pairs, reverse=True):
        grams = round(kilos * 1000)
        if grams <= 0:
            continue
        before = [(base, tuple(sides)) for base, sides in ways.items()]
        for base, sides in before:
            for count in range(1, min(pairs, 4) + 1):
                total = base + count * grams
                if plates.empty_kg + 2 * total / 1000 > at_most_kg + 1e-9:
                    break
                rows = ways.setdefault(total, [])
                rows += [side + (kilos,) * count for side in sides]
                rows.sort(key=len)
                del rows[MOST_WAYS:]
    made = [
        (round(plates.empty_kg + 2 * total / 1000, 3), side)
        for total, sides in ways.items()
        for side in sides
    ]
    return tuple(sorted(made))
