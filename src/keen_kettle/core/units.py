"""The one place where SI values become what a coach reads."""

from collections.abc import Sequence

from keen_kettle.core.content import MeasureWords
from keen_kettle.core.motion import DrawnValue

__all__ = ["change_words", "reading_words", "show_kg", "show_measure", "show_value"]

FACTORS = {"cm": 100.0, "%": 100.0}
NO_BREAK = "\u00a0"
SPACED = {"×": "×", "°": "°"}


def show_value(value: float, words: MeasureWords) -> str:
    """A value in the unit and digits that its measure is shown in."""
    number = f"{value * FACTORS.get(words.show, 1.0):.{words.digits}f}"
    if float(number) == 0:
        number = number.lstrip("-")
    return f"{number.replace('-', '−')}{SPACED.get(words.show, NO_BREAK + words.show)}"


def show_measure(value: float, sigma: float, words: MeasureWords) -> str:
    """Value and uncertainty; the uncertainty is left out when it is below the last digit shown."""
    factor = FACTORS.get(words.show, 1.0)
    spread = f"{sigma * factor:.{words.digits}f}"
    shown = show_value(value, words)
    if float(spread) == 0:
        return shown
    unit = SPACED.get(words.show, NO_BREAK + words.show)
    return f"{shown.removesuffix(unit)} ± {spread}{unit}"


def show_kg(kilos: float) -> str:
    """Kilograms without needless zeros."""
    return f"{kilos:.2f}".rstrip("0").rstrip(".") + f"{NO_BREAK}kg"


UNITS = {"m": (100.0, 1, " cm"), "deg": (1.0, 0, "°"), "s": (1.0, 2, " s"), "px": (1.0, 0, " px")}
UNITS["diameters"] = (1.0, 2, " plates")
SIDES = {"forward": ("ahead", "behind"), "up": ("above", "below")}
WAYS = {"forward": ("forward", "back"), "up": ("up", "down")}


def reading_words(one: DrawnValue) -> str:
    """A drawing's value with its uncertainty: “52° ± 2°”, “bar 6.2 cm behind”."""
    *thing, what = one.what.split()
    if what not in SIDES:
        return _with_spread(one.value, one)
    after, before = (SIDES if thing else WAYS)[what]
    said = f"{_with_spread(abs(one.value), one)} {after if one.value >= 0 else before}"
    return f"{thing[0]} {said}" if thing else said


def change_words(now: Sequence[DrawnValue], then: Sequence[DrawnValue]) -> str:
    """A drawing's first value then and now: “then 48°, now 61° (+13°)”."""
    if not then:
        return ""
    first = then[0]
    if not now:
        return f"then {_plain(first.value, first)}"
    factor, digits, _ = UNITS[first.unit]
    # Of the values as they are shown, so that the sum on the screen is right.
    change = round(now[0].value * factor, digits) - round(first.value * factor, digits)
    sign = "+" if change >= 0 else "−"
    changed = f"{sign}{_plain(abs(change) / factor, first)}"
    return f"then {_plain(first.value, first)}, now {_plain(now[0].value, first)} ({changed})"


def _plain(value: float, one: DrawnValue) -> str:
    factor, digits, unit = UNITS[one.unit]
    return f"{value * factor:.{digits}f}".replace("-", "−") + unit


def _with_spread(value: float, one: DrawnValue) -> str:
    factor, digits, unit = UNITS[one.unit]
    spread = f"{one.sigma * factor:.{digits}f}"
    shown = _plain(value, one)
    return shown if float(spread) == 0 else f"{shown.removesuffix(unit)} ± {spread}{unit}"
