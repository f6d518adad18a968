"""A derivative is a composition; its name and its phases follow from its parts.

This first version knows the barbell snatch and clean, from the floor or the hang, as a full lift,
a power lift or a pull without a catch.
"""

import difflib
import itertools
import re
from dataclasses import dataclass

from keen_kettle.core.errors import UnknownLift

__all__ = [
    "PHASES",
    "Derivative",
    "all_derivatives",
    "format_derivative",
    "parse_derivative",
    "phases_of",
]

PHASES = ("start", "first pull", "transition", "second pull", "turnover", "catch", "recovery")

FAMILIES = ("snatch", "clean")
STARTS = ("floor", "hang")
RECEIVES = ("full", "power", "none")


@dataclass(frozen=True, order=True)
class Derivative:
    """`family` snatch or clean; `start` floor or hang; `receive` full, power or none (a pull)."""

    family: str
    start: str = "floor"
    receive: str = "full"

    @property
    def name(self) -> str:
        return format_derivative(self)

    @property
    def has_catch(self) -> bool:
        return self.receive != "none"


def all_derivatives() -> list[Derivative]:
    """Every derivative of this version, families together, the whole lift first."""
    return [Derivative(*parts) for parts in itertools.product(FAMILIES, STARTS, RECEIVES)]


def format_derivative(derivative: Derivative) -> str:
    """The name as coaches write it: [hang] [power] family [pull]."""
    words = ["hang"] if derivative.start == "hang" else []
    words += ["power"] if derivative.receive == "power" else []
    words.append(derivative.family)
    words += ["pull"] if derivative.receive == "none" else []
    return " ".join(words)


def parse_derivative(name: str) -> Derivative:
    """The derivative of a name; capitals, hyphens, "full" and "squat" do not matter.

    Raises
    ------
    UnknownLift
        With the nearest known names.
    """
    words = re.sub(r"[-_,]+", " ", name.casefold()).split()
    plain = " ".join(
        word for word in words if word not in ("full", "squat", "the", "from", "floor")
    )
    known = {format_derivative(derivative): derivative for derivative in all_derivatives()}
    if plain in known:
        return known[plain]
    near = difflib.get_close_matches(plain, known, n=3, cutoff=0.5)
    hint = f" Did you mean {' or '.join(near)}?" if near else f" Known lifts: {', '.join(known)}."
    raise UnknownLift(f"“{name}” is not a lift that is known here.{hint}")


def phases_of(derivative: Derivative) -> tuple[str, ...]:
    """The phases that a derivative contains, in their order (they follow from start and receive)."""
    left_out = set()
    if derivative.start == "hang":
        left_out.add("first pull")
    if not derivative.has_catch:
        left_out |= {"turnover", "catch", "recovery"}
    return tuple(phase for phase in PHASES if phase not in left_out)
