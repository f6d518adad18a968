"""Two movements set against each other: phases, how high the bar must come, load, what they train."""

from collections.abc import Mapping
from dataclasses import dataclass

from keen_kettle.core.lifts.derivative import Derivative
from keen_kettle.core.lifts.nature import (
    Movement,
    catch_limits_load,
    needs_of,
    phases_of,
    relative_range,
)

__all__ = ["Contrast", "compare_movements"]

ALL_OF_IT = 0.97
"""A way up so near to the whole lift's is as long."""


@dataclass(frozen=True)
class Contrast:
    """One line of the comparison: what it is about, and both movements' answers."""

    about: str
    first: str
    second: str

    @property
    def differs(self) -> bool:
        return self.first != self.second


def compare_movements(
    first: Movement, second: Movement, names: Mapping[str, str] | None = None
) -> tuple[Contrast, ...]:
    """The lines that set two movements against each other, in a coach's order.

    `names` are the checks' names by id, for the line of what a movement asks for.
    """
    lines = (
        ("begins", _begins),
        ("phases", _phases),
        ("the bar must come", _height),
        ("received", _received),
        ("what limits the load", _limit),
        ("trains most", _trains),
        ("asks for", lambda one: _asks(one, names or {})),
    )
    return tuple(Contrast(about, say(first), say(second)) for about, say in lines)


def _begins(one: Movement) -> str:
    if not isinstance(one, Derivative):
        return one.family
    places = {
        "floor": "on the floor",
        "blocks": f"on blocks, {one.start}",
        "hang": f"in the hang, {one.start}",
    }
    begun = places.get(one.support, one.start)
    return f"{begun}, with a countermovement" if one.countermovement else begun


def _phases(one: Movement) -> str:
    return ", ".join(phases_of(one)) or "none of a lift's"


def _height(one: Movement) -> str:
    if not isinstance(one, Derivative):
        return "–"
    if one.family == "jerk":
        return "overhead"
    if one.action == "deadlift":
        return "to where it hangs when standing"
    tops = {
        "shrug": "a hand above the hang",
        "jump shrug": "to the navel",
        "pull": "to the navel, or higher",
    }
    if one.action in tops:
        return tops[one.action]
    if one.action == "high pull":
        return "to the breastbone"
    if one.receive == "full":
        return (
            "to the navel; the lifter goes under"
            if one.family == "clean"
            else "to the breastbone; the lifter goes under"
        )
    if one.receive == "muscle":
        return "all the way, without help from the knees"
    return "to the breastbone" if one.family == "clean" else "to the head"


def _received(one: Movement) -> str:
    if not isinstance(one, Derivative) or one.receive == "none":
        return "not at all"
    words = {
        "full": "in the squat",
        "power": "above parallel",
        "ride-down": "high, ridden down",
        "muscle": "standing tall",
        "split": "in the split",
        "push": "pressed out, knees straight",
    }
    return words[one.receive]


def _limit(one: Movement) -> str:
    if not isinstance(one, Derivative):
        return "the weakest position"
    if not catch_limits_load(one):
        return "the pull itself: it may pass the best full lift"
    if one.receive in ("power", "muscle"):
        return "how high the bar must come"
    return (
        "speed under the bar, and the squat"
        if one.family != "jerk"
        else "the drive, and the receiving position"
    )


def _trains(one: Movement) -> str:
    if not isinstance(one, Derivative):
        return one.family
    if one.family == "jerk":
        return "drive and receiving"
    if one.start in ("mid-thigh", "hip", "above knee", "tall"):
        short = "force at short range, speed of the finish"
        return short if one.receive == "none" else "the quick change from extension to going under"
    if one.receive == "none":
        return "positions and strength of the whole pull"
    if one.receive in ("power", "muscle"):
        return "pulling: the bar must come higher"
    way = relative_range(one)
    return "the whole lift" if way >= ALL_OF_IT else "going under from a shorter way"


def _asks(one: Movement, names: Mapping[str, str]) -> str:
    needs = needs_of(one)
    checks = (names.get(check, check) for check in needs.checks)
    return ", ".join((*checks, *needs.equipment)) or "nothing"
