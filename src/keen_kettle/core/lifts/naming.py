"""Reads movement names as coaches write them: short forms, capitals, hyphens, any order.

Words are looked up phrase by phrase, the longest first. Each phrase fills one or two of the
choices that make a derivative; what was left open is filled in as the field does (a hang begins
above the knee, a jerk is split). What cannot be read gets the nearest names that can.
"""

import difflib
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache, lru_cache

from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts.derivative import (
    Derivative,
    all_derivatives,
    filmed_derivatives,
    why_illegal,
)
from keen_kettle.core.lifts.helpers import HELPERS, Helper

__all__ = ["by_their_names", "parse_derivative", "parse_filmed", "parse_movement"]

Choices = dict[str, object]
NONE: Mapping[str, Helper] = {}

FILLERS = {
    *("the", "from", "a", "at", "off", "on", "of", "to", "in", "with", "and", "down", "lift"),
    *("one", "arm", "single", "1", "grip", "lifts"),
}

FLOOR: Choices = {"start": "floor", "support": "floor"}

PHRASES: dict[str, Choices] = {
    "barbell": {"implement": "barbell"},
    "bb": {"implement": "barbell"},
    "dumbbell": {"implement": "dumbbell"},
    "db": {"implement": "dumbbell"},
    "kettlebell": {"implement": "kettlebell"},
    "kb": {"implement": "kettlebell"},
    "dumbbell pair": {"implement": "dumbbell pair"},
    "db pair": {"implement": "dumbbell pair"},
    "two dumbbell": {"implement": "dumbbell pair"},
    "two dumbbells": {"implement": "dumbbell pair"},
    "double dumbbell": {"implement": "dumbbell pair"},
    "double db": {"implement": "dumbbell pair"},
    "2 db": {"implement": "dumbbell pair"},
    "dumbbells": {"implement": "dumbbell pair"},
    "dbs": {"implement": "dumbbell pair"},
    "stick": {"implement": "stick"},
    "training stick": {"implement": "stick"},
    "dowel": {"implement": "stick"},
    "snatch": {"family": "snatch"},
    "snatches": {"family": "snatch"},
    "sn": {"family": "snatch"},
    "clean": {"family": "clean"},
    "cleans": {"family": "clean"},
    "cl": {"family": "clean"},
    "jerk": {"family": "jerk"},
    "jk": {"family": "jerk"},
    "push press": {"family": "jerk", "receive": "push"},
    "pp": {"family": "jerk", "receive": "push"},
    "push jerk": {"family": "jerk", "receive": "power"},
    "pj": {"family": "jerk", "receive": "power"},
    "sj": {"family": "jerk", "receive": "split"},
    "pc": {"family": "clean", "receive": "power"},
    "ps": {"family": "snatch", "receive": "power"},
    "hpc": {"support": "hang", "family": "clean", "receive": "power"},
    "hps": {"support": "hang", "family": "snatch", "receive": "power"},
    "hc": {"support": "hang", "family": "clean"},
    "hs": {"support": "hang", "family": "snatch"},
    "cp": {"family": "clean", "action": "pull"},
    "sp": {"family": "snatch", "action": "pull"},
    "chp": {"family": "clean", "action": "high pull"},
    "shp": {"family": "snatch", "action": "high pull"},
    "hang": {"support": "hang"},
    "hanging": {"support": "hang"},
    "block": {"support": "blocks"},
    "blocks": {"support": "blocks"},
    "high hang": {"support": "hang", "start": "hip"},
    "low hang": {"support": "hang", "start": "below knee"},
    "tall": {"support": "standing", "start": "tall"},
    "floor": {"support": "floor", "start": "floor"},
    "ground": {"support": "floor", "start": "floor"},
    "mid shin": {"start": "mid-shin"},
    "midshin": {"start": "mid-shin"},
    "shin": {"start": "mid-shin"},
    "below knee": {"start": "below knee"},
    "below the knee": {"start": "below knee"},
    "bk": {"start": "below knee"},
    "knee": {"start": "knee"},
    "knees": {"start": "knee"},
    "above knee": {"start": "above knee"},
    "above the knee": {"start": "above knee"},
    "ak": {"start": "above knee"},
    "mid thigh": {"start": "mid-thigh"},
    "midthigh": {"start": "mid-thigh"},
    "thigh": {"start": "mid-thigh"},
    "mt": {"start": "mid-thigh"},
    "hip": {"start": "hip"},
    "hips": {"start": "hip"},
    "power position": {"start": "hip"},
    "front rack": {"start": "front rack"},
    "behind the neck": {"start": "behind the neck"},
    "behind neck": {"start": "behind the neck"},
    "btn": {"start": "behind the neck"},
    "floor to overhead": {
        "family": "snatch",
        "action": "muscle",
        "receive": "muscle",
        "said": "overhead",
        **FLOOR,
    },
    "ground to overhead": {
        "family": "snatch",
        "action": "muscle",
        "receive": "muscle",
        "said": "overhead",
        **FLOOR,
    },
    "to knee": {"ends": "knee"},
    "to the knee": {"ends": "knee"},
    "to knees": {"ends": "knee"},
    "deadlift": {"action": "deadlift"},
    "dl": {"action": "deadlift"},
    "pull": {"action": "pull"},
    "pulls": {"action": "pull"},
    "shrug": {"action": "shrug"},
    "power shrug": {"action": "shrug"},
    "jump shrug": {"action": "jump shrug"},
    "high pull": {"action": "high pull"},
    "hp": {"action": "high pull"},
    "muscle": {"action": "muscle", "receive": "muscle"},
    "power": {"receive": "power"},
    "pwr": {"receive": "power"},
    "split": {"receive": "split"},
    "full": {"receive": "full"},
    "squat": {"receive": "full"},
    "ridden down": {"receive": "ride-down"},
    "ride down": {"receive": "ride-down"},
    "with countermovement": {"countermovement": True},
    "with a countermovement": {"countermovement": True},
    "countermovement": {"countermovement": True},
    "without countermovement": {"countermovement": False},
    "dead stop": {"countermovement": False},
}
OF_THE_CLEAN = ("deadlift", "shrug", "jump shrug")
"""What is taken to be of the clean where its name says no family."""
LONGEST = max(len(phrase.split()) for phrase in PHRASES)
SLOTS = ("implement", "family", "support", "start", "action", "receive", "countermovement")


@dataclass(frozen=True)
class _Reading:
    """What the words of a name say: filled choices, words not understood, choices said twice."""

    choices: Choices
    unknown: tuple[str, ...]
    twice: str = ""


def by_their_names(movements: Iterable[Helper]) -> dict[str, Helper]:
    """Movements by their names and short forms, as `parse_movement` looks them up."""
    return {_plain(name): one for one in movements for name in (one.name, *one.also)}


def parse_movement(name: str, own: Mapping[str, Helper] = NONE) -> Derivative | Helper:
    """A derivative or a helper movement of a name; a coach's `own` (see `by_their_names`) go first.

    Raises
    ------
    UnknownLift
        With the nearest known names.
    """
    plain = _plain(name)
    found = own.get(plain) or _helpers().get(plain)
    return found if found is not None else parse_derivative(name)


def parse_derivative(name: str) -> Derivative:
    """The derivative of a name as coaches write it.

    Raises
    ------
    UnknownLift
        With the nearest known names, or with the reason why these parts do not go together.
    """
    words = _words(name)
    reading = _read(words)
    if reading.twice:
        raise UnknownLift(f"“{name}” says {reading.twice}: choose one of them.")
    if reading.unknown or "family" not in reading.choices:
        if reading.choices.get("action") in OF_THE_CLEAN and not reading.unknown:
            reading.choices["family"] = "clean"
        else:
            near = _nearest(words)
            raise UnknownLift(
                f"“{name}” is not a lift that is known here. Did you mean {_or(near)}?"
                if near
                else f"“{name}” is not a lift that is known here. Write for example “hang power clean, above knee” or “snatch pull from blocks, knee”."
            )
    if "ends" in reading.choices:
        raise UnknownLift(
            f"“{name}” ends at the knee, and only a deadlift does: “deadlift to knee” or “snatch "
            "deadlift to knee”. A lift that begins there is written “from the knee”."
        )
    made = _filled(reading.choices)
    against = why_illegal(made)
    if against:
        near = [one.name for one in _neighbours(made)]
        raise UnknownLift(
            f"“{name}” does not exist: {against}." + (f" Near it: {_or(near)}." if near else "")
        )
    return made


@lru_cache(maxsize=200)
def parse_filmed(name: str) -> Derivative:
    """The derivative of a film's lift; only those whose bar path can be judged.

    Raises
    ------
    UnknownLift
        Also for derivatives that are known but cannot be judged from the bar's path yet.
    """
    made = parse_derivative(name)
    if made not in filmed_derivatives():
        raise UnknownLift(
            f"A film of a {made.name} cannot be judged yet. What can: snatches, cleans and their "
            "pulls from the floor, the hang or blocks, the same with one bell, and the jerk."
        )
    return made


def _words(name: str) -> list[str]:
    return re.sub(r"[^a-z0-9]+", " ", name.casefold()).split()


def _read(words: list[str]) -> _Reading:
    choices: Choices = {}
    unknown: list[str] = []
    twice = ""
    at = 0
    while at < len(words):
        for length in range(min(LONGEST, len(words) - at), 0, -1):
            found = PHRASES.get(" ".join(words[at : at + length]))
            if found is not None:
                for slot, value in found.items():
                    if choices.get(slot, value) != value:
                        twice = f"both “{choices[slot]}” and “{value}”"
                    choices[slot] = value
                at += length
                break
        else:
            if words[at] not in FILLERS:
                unknown.append(words[at])
            at += 1
    _join_twice(choices)
    if choices.get("receive") == "ride-down" or ("power" in words and "ridden" in words):
        twice = ""
        choices["receive"] = "ride-down"
    return _Reading(choices, tuple(unknown), twice)


def _join_twice(choices: Choices) -> None:
    """ "Power" before a shrug or a pull only says that it is fast."""
    if choices.get("action") in ("shrug", "jump shrug") and choices.get("receive") == "power":
        del choices["receive"]


def _filled(choices: Choices) -> Derivative:
    """Fill in what was left open, as the field does."""
    family = str(choices["family"])
    action = str(choices.get("action", "catch"))
    if family == "jerk":
        start = str(choices.get("start", "front rack"))
        support = str(choices.get("support", "standing"))
        receive = str(choices.get("receive", "split"))
    else:
        default = {"hang": "above knee", "blocks": "knee", "standing": "tall"}
        usual = default.get(str(choices.get("support")), "floor")
        if "support" not in choices and (action == "shrug" or choices.get("countermovement")):
            usual = "mid-thigh"
        start = str(choices.get("start", usual))
        held = {"floor": "floor", "tall": "standing"}
        support = str(choices.get("support", held.get(start, "hang")))
        if choices.get("implement") == "stick" and start == "floor" and "start" not in choices:
            start, support = "mid-shin", "hang"
        receive = str(choices.get("receive", "full" if action == "catch" else "none"))
    implement = "barbell"
    if family == "snatch" and receive == "muscle" and choices.get("said") == "overhead":
        implement = "dumbbell"
    return Derivative(
        family,
        start,
        receive,
        action,
        support,
        str(choices.get("implement", implement)),
        bool(choices.get("countermovement", False)),
    )


@cache
def _helpers() -> dict[str, Helper]:
    return by_their_names(HELPERS.values())


def _plain(name: str) -> str:
    """A name without the small words that helpers are written with or without."""
    words = _words(name)
    return " ".join(word for word in words if word not in ("the", "a")) or " ".join(words)


@cache
def _vocabulary() -> tuple[str, ...]:
    return tuple(sorted({word for phrase in PHRASES for word in phrase.split()}))


def _nearest(words: list[str]) -> list[str]:
    """Up to three names: every unknown word read as the nearest known one, or the nearest name."""
    known = _vocabulary()
    mended = []
    for word in words:
        if word in known or word in FILLERS:
            mended.append(word)
        else:
            mended += difflib.get_close_matches(word, known, n=1, cutoff=0.6)
    reading = _read(mended)
    if reading.choices and not reading.twice:
        tries = [reading.choices]
        if "family" not in reading.choices:
            tries = [{**reading.choices, "family": family} for family in ("clean", "snatch")]
        found = [one for one in map(_filled, tries) if not why_illegal(one)]
        if found and len(mended) >= (len(words) + 1) // 2:
            return [one.name for one in found]
    plain = " ".join(words)
    simple = [
        one.name for one in all_derivatives() if one.implement == "barbell" and len(one.name) < 30
    ]
    return difflib.get_close_matches(plain, [*simple, *HELPERS], n=3, cutoff=0.6)


def _neighbours(one: Derivative) -> list[Derivative]:
    """Legal derivatives that differ in as few choices as possible, at most three."""

    def apart(other: Derivative) -> int:
        return sum(getattr(one, slot) != getattr(other, slot) for slot in SLOTS)

    of_family = [other for other in all_derivatives() if other.family == one.family]
    return sorted(of_family, key=apart)[:3]


def _or(names: list[str]) -> str:
    return " or ".join(f"“{name}”" for name in names)
