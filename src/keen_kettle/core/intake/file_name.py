"""What a film's file name and day tell: whose lift it is, which, how heavy, and when.

Everything is a guess for the coach to confirm, and carries its reason. What two athletes share is
not guessed.
"""

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from itertools import pairwise
from typing import TypeVar

from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import FAMILIES, parse_filmed

__all__ = ["Guess", "Trained", "guess_from_name"]

YEAR_FIRST = re.compile(r"(?<!\d)(20\d\d)[-_. ]?(0[1-9]|1[0-2])[-_. ]?([0-2]\d|3[01])(?!\d)")
DAY_FIRST = re.compile(r"(?<!\d)([0-2]?\d|3[01])[-_. ](0?[1-9]|1[0-2])[-_. ](20\d\d)(?!\d)")
MASS = re.compile(r"(?<![\d.,])(\d{1,3}(?:[.,]\d{1,2})?)\s*kg\b", re.IGNORECASE)
LIGHTEST_KG, HEAVIEST_KG = 5.0, 400.0

T = TypeVar("T")


@dataclass(frozen=True)
class Trained:
    """What an athlete did on a day; `lift` is its derivative's name, "" where none can be filmed."""

    athlete_id: int
    on: date
    lift: str


@dataclass(frozen=True)
class Guess:
    """What was guessed; `why` has the reason for each field that was ("athlete", "lift", "mass",
    "day")."""

    athlete_id: int | None = None
    lift: str | None = None
    mass_kg: float | None = None
    day: date | None = None
    why: dict[str, str] = field(default_factory=dict)


def guess_from_name(
    name: str,
    changed_on: date,
    athletes: Sequence[tuple[int, str]],
    trained: Sequence[Trained] = (),
) -> Guess:
    """Read a film's file name (without its ending), and fill gaps from what was trained that day.

    Parameters
    ----------
    changed_on : the day of the file; also the day of the film where the name has none
    athletes : id and full name
    trained : what athletes did; only the film's day counts
    """
    why: dict[str, str] = {}
    day, rest = _day(name, changed_on)
    why["day"] = "from the name" if rest != name else "the file's day"
    mass, rest = _mass(rest)
    words = _words(rest)
    athlete = _athlete(words, athletes)
    if athlete is not None:
        why["athlete"] = "from the name"
    lift, bare = _lift(words)
    if lift is not None:
        why["lift"] = "from the name"
        mass = mass if mass is not None else bare
    if mass is not None:
        why["mass"] = "from the name"
    that_day = [one for one in trained if one.on == day]
    if athlete is None:
        athlete = _only({one.athlete_id for one in that_day if _fits(one.lift, lift)})
        if athlete is not None:
            why["athlete"] = "the only one who trained it that day" if lift else "trained that day"
    if lift is None and athlete is not None:
        lift = _only({one.lift for one in that_day if one.athlete_id == athlete and one.lift})
        if lift is not None:
            why["lift"] = "trained that day"
    return Guess(athlete, lift, mass, day, why)


def _day(name: str, changed_on: date) -> tuple[date, str]:
    """The day of the film, and the name without it. A day to come is a number of another kind."""
    for pattern, order in ((YEAR_FIRST, (0, 1, 2)), (DAY_FIRST, (2, 1, 0))):
        for found in pattern.finditer(name):
            parts = found.groups()
            try:
                day = date(*(int(parts[k]) for k in order))
            except ValueError:
                continue
            if day <= changed_on:
                return day, f"{name[: found.start()]} {name[found.end() :]}"
    return changed_on, name


def _mass(name: str) -> tuple[float | None, str]:
    found = MASS.search(name.replace("_", " "))
    if found is None:
        return None, name
    kilos = float(found.group(1).replace(",", "."))
    rest = f"{name[: found.start()]} {name[found.end() :]}"
    return (kilos if LIGHTEST_KG <= kilos <= HEAVIEST_KG else None), rest


def _words(name: str) -> list[str]:
    """Lower-case words without accents; joined names and numbers come apart."""
    plain = unicodedata.normalize("NFKD", name)
    plain = "".join(letter for letter in plain if not unicodedata.combining(letter))
    apart = re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Za-z])(?=\d)|(?<=\d)(?=[A-Za-z])", " ", plain)
    return re.findall(r"[a-z]+|\d+(?:[.,]\d+)?", apart.lower())


def _athlete(words: Sequence[str], athletes: Sequence[tuple[int, str]]) -> int | None:
    """The one athlete of whose name the most is in the file's; None when two have the same share."""
    scores: dict[int, float] = {}
    for number, name in athletes:
        parts = _words(name)
        score = float(sum(part in words for part in parts if len(part) > 1))
        if score:
            # "tobias q": an initial beside a name settles who of two.
            initials = {part[0] for part in parts if part not in words}
            score += 0.5 * any(a in parts and b in initials for a, b in pairwise(words))
            scores[number] = score
    best = max(scores.values(), default=0.0)
    return _only({number for number, score in scores.items() if score == best})


def _lift(words: Sequence[str]) -> tuple[str | None, float | None]:
    """The longest run of words that names a lift that can be filmed; and a number beside it."""
    for long in range(min(len(words), 6), 0, -1):
        for begin in range(len(words) - long + 1):
            run = words[begin : begin + long]
            if not any(family in run for family in FAMILIES):
                continue
            try:
                name = parse_filmed(" ".join(run)).name
            except UnknownLift:
                continue
            beside = [*words[begin + long : begin + long + 1], *words[max(begin - 1, 0) : begin]]
            return name, _kilos(beside)
    return None, None


def _kilos(words: Sequence[str]) -> float | None:
    """A number beside the lift that can be a mass on the bar."""
    for word in words:
        if re.fullmatch(r"\d{2,3}(?:[.,]\d+)?", word):
            kilos = float(word.replace(",", "."))
            if LIGHTEST_KG <= kilos <= HEAVIEST_KG and not word.startswith("0"):
                return kilos
    return None


def _fits(done: str, lift: str | None) -> bool:
    """Whether what was done is the film's lift, as far as that is known: of the same family."""
    if lift is None:
        return True
    return bool(done) and parse_filmed(done).family == parse_filmed(lift).family


def _only(found: set[T]) -> T | None:
    return next(iter(found)) if len(found) == 1 else None
