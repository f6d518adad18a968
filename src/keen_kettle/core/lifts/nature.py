"""What follows from a movement's parts: phases, key positions, needs, range, limit of load."""

from dataclasses import dataclass

from keen_kettle.core.lifts.derivative import Derivative
from keen_kettle.core.lifts.helpers import Helper

__all__ = [
    "CHECKS",
    "JERK_PHASES",
    "PHASES",
    "Movement",
    "Needs",
    "catch_limits_load",
    "needs_of",
    "phases_of",
    "positions_of",
    "relative_range",
]

Movement = Derivative | Helper

PHASES = ("start", "first pull", "transition", "second pull", "turnover", "catch", "recovery")
JERK_PHASES = ("start", "dip", "drive", "catch", "recovery")

CHECKS = (
    "front-rack",
    "front-squat",
    "overhead-quarter",
    "overhead-full",
    "start-position",
    "pain-free-overhead",
    "pain-free-rack",
    "back-cleared",
    "bailing",
)
"""The screening checks that a movement can need, by id (their words are content)."""

EQUIPMENT = {
    "barbell": ("bar",),
    "dumbbell": ("dumbbell",),
    "kettlebell": ("kettlebell",),
    "dumbbell pair": ("dumbbell pair",),
    "stick": ("stick",),
    "none": (),
}

# Heights of the bar as shares of stature: starts by the segment table that the synthesiser uses,
# tops as the synthesiser's lifts reach them (checked by a test).
START_SHARE = {
    "floor": 0.129,
    "mid-shin": 0.17,
    "below knee": 0.26,
    "knee": 0.285,
    "above knee": 0.325,
    "mid-thigh": 0.37,
}
HIP_SHARE = {"clean": 0.40, "snatch": 0.48}
TALL_SHARE = {"clean": 0.435, "snatch": 0.525}
RACK_SHARE = 0.83
TOP_SHARE = {
    "clean": {"pull": 0.60, "jump shrug": 0.52, "high pull": 0.68, "shrug": 0.47},
    "snatch": {"pull": 0.78, "jump shrug": 0.62, "high pull": 0.80, "shrug": 0.56},
}
CAUGHT_SHARE = {
    "clean": {"full": 0.63, "power": 0.72, "ride-down": 0.72, "split": 0.70, "muscle": 0.83},
    "snatch": {"full": 0.82, "power": 0.905, "ride-down": 0.905, "split": 0.88, "muscle": 1.11},
    "jerk": {"full": 0.98, "split": 1.06, "power": 1.10, "push": 1.19},
}


@dataclass(frozen=True)
class Needs:
    """What an athlete needs for a movement.

    `checks` are screening checks that must be passed, `areas` parts of the body that must be free
    of caution, `equipment` what must be at hand.
    """

    checks: tuple[str, ...]
    areas: tuple[str, ...]
    equipment: tuple[str, ...]


def phases_of(movement: Movement) -> tuple[str, ...]:
    """The phases that a movement contains, in their order; none for helpers that are not lifts."""
    if isinstance(movement, Helper):
        return {"hinge": ("start", "first pull", "transition")}.get(movement.family, ())
    if movement.family == "jerk":
        return JERK_PHASES[:3] if movement.receive == "push" else JERK_PHASES
    left_out: set[str] = set()
    if movement.start not in ("floor", "mid-shin"):
        left_out.add("first pull")
    if movement.start in ("mid-thigh", "hip", "tall"):
        left_out.add("transition")
    if movement.start == "tall":
        left_out.add("second pull")
    if movement.action == "deadlift":
        left_out.add("second pull")
    if movement.receive == "none":
        left_out |= {"turnover", "catch", "recovery"}
    if movement.receive == "muscle":
        left_out |= {"catch", "recovery"}
    return tuple(phase for phase in PHASES if phase not in left_out)


def positions_of(movement: Movement) -> tuple[str, ...]:
    """The key positions that the movement goes through, in their order."""
    if isinstance(movement, Helper):
        return ()
    if movement.family == "jerk":
        end = {"push": ("lock-out",), "split": ("split", "recovered")}
        return ("rack", "dip", "drive", *end.get(movement.receive, ("catch", "recovered")))
    phases = phases_of(movement)
    found = ["start"]
    if "first pull" in phases or movement.start in ("below knee", "knee"):
        found.append("knee")
    if movement.start != "tall" and movement.start != "hip":
        found.append("power position")
    if movement.action == "deadlift":
        return (*found, "stand")
    if movement.start != "tall" or movement.action != "catch":
        found.append("extension")
    if movement.has_catch:
        found.append("catch")
        found += ["lowest"] if movement.receive in ("full", "ride-down") else []
        found.append("stand")
    elif movement.receive == "muscle":
        found.append("lock-out" if movement.family == "snatch" else "rack")
    return tuple(found)


def needs_of(movement: Movement) -> Needs:
    """Gates, parts of the body and equipment that a movement asks for.

    Taken from the field's rules: no catch with trouble in the rack, no overhead work with a
    shoulder history or wrists that hurt, no barbell pull or catch from floor or hang with a back
    that is not cleared, a front squat before cleans, an overhead squat before snatches, a held
    start position before the floor, practised bailing before barbell catches that can be missed.
    """
    if isinstance(movement, Helper):
        return Needs(movement.checks, movement.areas, movement.equipment)
    checks: list[str] = []
    areas: list[str] = []
    barbell = movement.implement == "barbell"
    if movement.start == "floor" and barbell:
        checks.append("start-position")
    if _loads_the_back(movement):
        areas.append("back")
    overhead = movement.family == "jerk" or (movement.family == "snatch" and _received(movement))
    if overhead:
        areas += (
            ["shoulder", "wrist"] if movement.implement in ("barbell", "stick") else ["shoulder"]
        )
        checks.append("pain-free-overhead")
    if movement.family == "snatch" and movement.has_catch and not movement.one_arm:
        deep = movement.receive in ("full", "ride-down")
        checks.append("overhead-full" if deep else "overhead-quarter")
        areas.append("elbow")
    in_rack = (movement.family == "clean" and _received(movement)) or movement.start == "front rack"
    if in_rack and movement.implement in ("barbell", "stick"):
        areas += ["wrist", "elbow"]
        checks += ["front-rack", "pain-free-rack"]
    if movement.family == "clean" and movement.has_catch and barbell:
        checks.append("front-squat")
    if barbell and movement.has_catch and movement.receive != "power":
        checks.append("bailing")
    equipment = list(EQUIPMENT[movement.implement])
    if movement.support == "blocks":
        equipment.append("blocks")
    return Needs(tuple(dict.fromkeys(checks)), tuple(dict.fromkeys(areas)), tuple(equipment))


def _received(one: Derivative) -> bool:
    return one.receive != "none"


def _loads_the_back(one: Derivative) -> bool:
    """Every barbell pull and catch from the floor or the hang, and every deadlift."""
    from_below = one.support in ("floor", "hang") and one.family != "jerk"
    return one.action == "deadlift" or (one.implement == "barbell" and from_below)


def relative_range(one: Derivative) -> float:
    """How far the load travels up to its highest point, as a share of the whole lift's way.

    The whole lift is the family's squat lift from the floor (for the jerk: the split jerk), for
    the same body. Above 1 means that the bar must go higher than in the whole lift.
    """
    whole = Derivative(one.family) if one.family != "jerk" else _SPLIT_JERK
    return _rise(one) / _rise(whole)


_SPLIT_JERK = Derivative("jerk", "front rack", "split", "catch", "standing")


def _rise(one: Derivative) -> float:
    return _top_share(one) - _start_share(one)


def _start_share(one: Derivative) -> float:
    if one.family == "jerk":
        return RACK_SHARE
    if one.start == "hip":
        return HIP_SHARE[one.family]
    if one.start == "tall":
        return TALL_SHARE[one.family]
    return START_SHARE[one.start]


def _top_share(one: Derivative) -> float:
    if one.action == "deadlift":
        return TALL_SHARE[one.family]
    if one.receive != "none":
        return CAUGHT_SHARE[one.family][one.receive]
    return TOP_SHARE[one.family][one.action]


def catch_limits_load(one: Derivative) -> bool:
    """Whether the way it is received limits its load (a pull can go past the best full lift)."""
    return one.receive != "none"
