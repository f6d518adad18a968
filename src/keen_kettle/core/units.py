"""The one place where SI values become what a coach reads."""

from keen_kettle.core.content import MeasureWords

__all__ = ["show_kg", "show_measure", "show_value"]

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
