"""What opens the body before the first loaded bar: mobility by need, then positions with a light bar.

Each piece of mobility is worth what it is needed for: a screening check in its area that was not
passed, a fault that it helps, the lift of the day. Of what the minutes allow, the most worth is
taken (exactly: they are few), and done from the ground up. The bar's steps keep their order, slow
before fast; those that are no `must` go first when minutes are short.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations

from keen_kettle.core.content import BarStep, Content, Mobility, Teaching
from keen_kettle.core.lifts import parse_movement
from keen_kettle.core.teach.facts import Person
from keen_kettle.core.teach.gates import movement_obstacles

__all__ = ["Opened", "Opening", "open_the_body"]

CHECK_NEED, FAULT_NEED, LIFT_NEED = 3.0, 2.0, 1.0
"""House defaults: what was not passed asks most, the lift of the day least."""
MOBILITY_SHARE = 0.6
"""At most so much of the time goes to mobility, as long as the bar has steps left."""


@dataclass(frozen=True)
class Opened:
    """One piece of the opening: its dose, seconds, and why it is there."""

    id: str
    name: str
    dose: str
    seconds: int
    why: str


@dataclass(frozen=True)
class Opening:
    """Mobility and the bar's steps in the order in which they are done, and what was left out."""

    mobility: tuple[Opened, ...]
    bar: tuple[Opened, ...]
    left_out: tuple[tuple[str, str], ...]

    @property
    def seconds(self) -> int:
        return sum(one.seconds for one in (*self.mobility, *self.bar))


def open_the_body(
    family: str,
    person: Person,
    seconds: int,
    content: Content,
    teaching: Teaching,
    faults: Mapping[str, float] | None = None,
) -> Opening:
    """The opening for a lift of a family within so many seconds.

    `faults` are the weights of what was seen of the athlete (see `causes_of`).
    """
    left_out: list[tuple[str, str]] = []
    steps = _steps(family, person, content, teaching, left_out)
    musts = sum(one.seconds for one, _ in steps if one.must)
    room = max(seconds - musts, 0)
    needs = _needs(family, person, content, faults or {}, left_out)
    rest = sum(one.seconds for one, _ in steps if not one.must)
    for_mobility = max(int(MOBILITY_SHARE * seconds), room - rest)
    chosen = _most_worth(needs, min(room, for_mobility))
    left = seconds - sum(one.seconds for one, _, _ in chosen)
    bar = _fit(steps, left)
    for one, _, _ in needs:
        if one.id not in {other.id for other, _, _ in chosen}:
            left_out.append((one.name, "no minutes left for it"))
    for step, _ in steps:
        if step.id not in {other.id for other in bar}:
            left_out.append((step.name, "no minutes left for it"))
    return Opening(
        tuple(
            Opened(one.id, one.name, one.dose, one.seconds, why)
            for one, _, why in sorted(chosen, key=lambda row: row[0].place)
        ),
        tuple(Opened(one.id, one.name, one.dose, one.seconds, "") for one in bar),
        tuple(left_out),
    )


def _needs(
    family: str,
    person: Person,
    content: Content,
    faults: Mapping[str, float],
    left_out: list[tuple[str, str]],
) -> list[tuple[Mobility, float, str]]:
    """Every piece that is needed, with its worth and the reason; those forbidden are left out."""
    found = []
    for one in content.mobility.values():
        worth, why = 0.0, []
        for check in one.checks:
            if person.state_of(check) == "not yet":
                worth += CHECK_NEED
                why.append("not passed in the screening")
        for fault in one.faults:
            if faults.get(fault, 0.0) > 0:
                worth += FAULT_NEED * min(faults[fault], 2.0)
                why.append(f"for “{content.faults[fault].name.lower()}”")
        if family in one.families:
            worth += LIFT_NEED
            why.append(f"for the {family}")
        if not worth:
            continue
        hurt = [area for area in one.avoid if area in person.cautions]
        lacks = [thing for thing in one.needs if not person.has(thing)]
        if hurt:
            left_out.append((one.name, f"{hurt[0]} on record"))
        elif lacks:
            left_out.append((one.name, f"needs {lacks[0]}"))
        else:
            found.append((one, worth, ", ".join(dict.fromkeys(why))))
    return found


def _most_worth(
    needs: list[tuple[Mobility, float, str]], seconds: int
) -> list[tuple[Mobility, float, str]]:
    """The subset of most worth within the seconds; of equal worth the shortest."""
    best: tuple[float, int, tuple[tuple[Mobility, float, str], ...]] = (0.0, 0, ())
    for count in range(1, len(needs) + 1):
        for chosen in combinations(needs, count):
            took = sum(one.seconds for one, _, _ in chosen)
            worth = sum(worth for _, worth, _ in chosen)
            if took <= seconds and (worth, -took) > (best[0], -best[1]):
                best = (worth, took, chosen)
    return list(best[2])


def _steps(
    family: str,
    person: Person,
    content: Content,
    teaching: Teaching,
    left_out: list[tuple[str, str]],
) -> list[tuple[BarStep, str]]:
    """The bar's steps that the athlete may do, in order."""
    found = []
    for one in sorted(content.bar_steps.values(), key=lambda step: step.place):
        if family not in one.families:
            continue
        against = ""
        if one.movement:
            movement = parse_movement(one.movement.format(family=family))
            hard = [
                other
                for other in movement_obstacles(movement, person, teaching)
                if other.kind in ("caution", "check")
            ]
            against = hard[0].says if hard else ""
        if against:
            left_out.append((one.name, against))
        else:
            found.append((one, ""))
    return found


def _fit(steps: list[tuple[BarStep, str]], seconds: int) -> list[BarStep]:
    """As many steps as the seconds allow, those that must be first, in their order."""
    kept: set[str] = set()
    left = seconds
    for must in (True, False):
        for one, _ in steps:
            if one.must is must and one.seconds <= left:
                kept.add(one.id)
                left -= one.seconds
    return [one for one, _ in steps if one.id in kept]
