"""A derivative is a composition of few choices; which go together, and what it is then called.

Six choices name it: what is lifted (`implement`), which lift (`family`), where the load begins
(`start`) and on what (`support`), what is done (`action`), and how it is received (`receive`); a
hang may begin with a countermovement. Everything else about it is computed from these.
"""

import itertools
from dataclasses import dataclass, replace
from functools import cache

__all__ = [
    "ACTIONS",
    "FAMILIES",
    "IMPLEMENTS",
    "POSITIONS",
    "RECEIVES",
    "Derivative",
    "all_derivatives",
    "filmed_derivatives",
    "format_derivative",
    "why_illegal",
]

IMPLEMENTS = ("barbell", "dumbbell", "kettlebell", "dumbbell pair", "stick")
FAMILIES = ("snatch", "clean", "jerk")
POSITIONS = ("mid-shin", "below knee", "knee", "above knee", "mid-thigh", "hip")
"""Where a hang or a lift from blocks begins, from low to high; "hip" is the power position."""
ACTIONS = ("deadlift", "pull", "shrug", "jump shrug", "high pull", "muscle", "catch")
RECEIVES = ("none", "muscle", "power", "ride-down", "full", "split", "push")

PULL_STARTS = ("floor", *POSITIONS, "tall")
JERK_STARTS = ("front rack", "behind the neck")
ONE_ARM = ("dumbbell", "kettlebell")
CAUGHT = {
    "snatch": ("power", "ride-down", "full", "split"),
    "clean": ("power", "ride-down", "full", "split"),
    "jerk": ("power", "full", "split", "push"),
}


@dataclass(frozen=True, order=True)
class Derivative:
    """One derivative by its parts.

    `support` is floor, hang, blocks or standing (tall, and everything that begins at the
    shoulders); `start` is floor, one of `POSITIONS`, tall, front rack or behind the neck.
    """

    family: str
    start: str = "floor"
    receive: str = "full"
    action: str = "catch"
    support: str = "floor"
    implement: str = "barbell"
    countermovement: bool = False

    @property
    def name(self) -> str:
        return format_derivative(self)

    @property
    def has_catch(self) -> bool:
        """Received with a re-bend of the knees."""
        return self.receive in ("power", "ride-down", "full", "split")

    @property
    def one_arm(self) -> bool:
        return self.implement in ONE_ARM


@cache
def all_derivatives() -> tuple[Derivative, ...]:
    """Every legal combination, in the order of the choices."""
    parts = itertools.product(
        IMPLEMENTS,
        FAMILIES,
        ("floor", "hang", "blocks", "standing"),
        (*PULL_STARTS, *JERK_STARTS),
        ACTIONS,
        RECEIVES,
        (False, True),
    )
    made = (
        Derivative(family, start, receive, action, support, implement, counter)
        for implement, family, support, start, action, receive, counter in parts
    )
    return tuple(one for one in made if not why_illegal(one))


@cache
def filmed_derivatives() -> tuple[Derivative, ...]:
    """Those that can be judged from a film.

    Snatch and clean with the barbell or with one bell, pulled or caught, and the barbell jerk.
    """
    made = []
    for family in ("snatch", "clean"):
        for support, start in (
            ("floor", "floor"),
            *((("hang"), position) for position in POSITIONS[1:]),
            *((("blocks"), position) for position in POSITIONS[2:5]),
        ):
            made += [
                Derivative(family, start, receive, action, support)
                for receive, action in (("full", "catch"), ("power", "catch"), ("none", "pull"))
            ]
    made += [
        Derivative("jerk", "front rack", receive, "catch", "standing")
        for receive in ("power", "split", "full")
    ]
    bells = [
        replace(one, implement=implement)
        for implement in ONE_ARM
        for one in made
        if one.support != "blocks" and one.family != "jerk"
    ]
    return (*made, *(one for one in bells if not why_illegal(one)))


def why_illegal(one: Derivative) -> str:
    """Why these parts do not go together, in plain words; empty when they do."""
    for check in (_received, _started, _held):
        against = check(one)
        if against:
            return against
    return ""


def _received(one: Derivative) -> str:
    """Family, action and receive agree."""
    if one.family == "jerk":
        if one.action != "catch":
            return f"a jerk has no {one.action}"
        if one.receive not in CAUGHT["jerk"]:
            return "a jerk is received in the power position, the split, the squat, or pushed out"
        return ""
    if one.action == "muscle":
        return "" if one.receive == "muscle" else "a muscle lift is received standing tall"
    if one.action == "catch":
        if one.receive in CAUGHT[one.family]:
            return ""
        return f"a {one.family} is not received by “{one.receive}”"
    return "" if one.receive == "none" else f"a {one.action} is not caught"


def _started(one: Derivative) -> str:
    """Start, support and action agree."""
    if one.family == "jerk":
        if one.support != "standing" or one.start not in JERK_STARTS:
            return "a jerk begins at the shoulders: front rack or behind the neck"
        return "a jerk has its own dip" if one.countermovement else ""
    wanted = {"floor": ("floor",), "standing": ("tall",), "hang": POSITIONS, "blocks": POSITIONS}
    if one.start not in wanted[one.support]:
        return f"{one.support} and {one.start} do not go together"
    if one.countermovement and one.support != "hang":
        return "only a hang can begin with a countermovement"
    if one.start == "tall" and one.action in ("deadlift", "pull", "jump shrug"):
        return f"from tall there is nothing left to extend, so no {one.action}"
    if one.action == "deadlift" and (one.support == "hang" or one.start in POSITIONS[3:]):
        return "a deadlift begins on the floor, or on blocks at the knee or lower"
    if one.action == "shrug" and one.start not in ("above knee", "mid-thigh", "hip", "tall"):
        return "a shrug is a short movement: it begins above the knee or higher"
    return ""


def _held(one: Derivative) -> str:
    """The implement can be used like that."""
    if one.implement == "barbell":
        return ""
    if one.support == "blocks":
        return "only a barbell is lifted from blocks"
    if one.implement == "stick":
        return "" if one.support != "floor" else "a stick has no plates to stand on: use a hang"
    low_hang = one.start == "mid-shin" and one.implement != "dumbbell pair"
    if low_hang or one.action in ("deadlift", "shrug"):
        return f"a {one.implement} is not used for that"
    if one.receive == "ride-down":
        return "riding down is done with a bar"
    if one.implement == "dumbbell pair" and one.start == "behind the neck":
        return "dumbbells are not put behind the neck"
    if one.one_arm and one.start == "behind the neck":
        return f"a {one.implement} is not put behind the neck"
    if one.implement == "kettlebell" and one.receive == "split" and one.family != "jerk":
        return "a kettlebell is received on level feet"
    return ""


def format_derivative(one: Derivative) -> str:
    """The full name: [implement] [hang|tall] [power|muscle|split] family [action] [from blocks], …"""
    words = [] if one.implement == "barbell" else [one.implement]
    if one.family == "jerk":
        words += ["behind-the-neck"] if one.start == "behind the neck" else []
        kinds = {"power": "power jerk", "split": "split jerk", "full": "squat jerk"}
        words.append(kinds.get(one.receive, "push press"))
        return " ".join(words)
    words += {"hang": ["hang"], "standing": ["tall"]}.get(one.support, [])
    how = {"ride-down": "power", "power": "power", "split": "split", "muscle": "muscle"}
    words += [how[one.receive]] if one.receive in how else []
    words.append(one.family)
    words += [] if one.action in ("catch", "muscle") else [one.action]
    words += ["from blocks"] if one.support == "blocks" else []
    tail = [one.start] if one.start in POSITIONS else []
    tail += ["ridden down"] if one.receive == "ride-down" else []
    tail += ["with countermovement"] if one.countermovement else []
    return ", ".join([" ".join(words), *tail])
