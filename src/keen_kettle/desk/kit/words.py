"""Values as sentences: evidence, praise and loads in the coach's units."""

from collections.abc import Iterable

from keen_kettle.core.content import Content, Dose
from keen_kettle.core.faults import Evidence, Finding, Praise
from keen_kettle.core.plan import Load
from keen_kettle.core.units import show_kg, show_value

__all__ = [
    "EVENT_SHORT",
    "KEY_POSITIONS",
    "dose_words",
    "evidence_words",
    "fault_words",
    "load_words",
    "position_words",
    "praise_words",
    "side_words",
]


EVENT_SHORT = {
    "lift_off": "lift-off",
    "power_position": "2nd pull",
    "peak_velocity": "fastest",
    "peak_height": "peak",
    "lowest": "lowest",
}
"""Events where there is little room."""
KEY_POSITIONS = {
    "lift_off": "start",
    "dip_start": "rack",
    "dip_bottom": "dip",
    "knee_pass": "knee",
    "power_position": "power",
    "extension": "extension",
    "peak_height": "peak",
    "catch": "catch",
    "lowest": "lowest",
    "stand": "stand",
}
"""What a coach looks at one by one, in the order of a lift."""
JERK_POSITIONS = {"extension": "drive", "catch": "receive", "stand": "recovered"}


def position_words(event: str, family: str) -> str:
    """What a key position is called in a lift of that family."""
    return (JERK_POSITIONS if family == "jerk" else {}).get(event, KEY_POSITIONS[event])


def evidence_words(one: Evidence, content: Content) -> str:
    """What was seen, against its threshold; says when it is close."""
    words = content.measures[one.measure]
    text = one.says.format(
        value=show_value(one.value, words), threshold=show_value(one.threshold, words)
    )
    text = text.replace("m/s", "m\u2060/\u2060s")  # keeps the unit on one line
    return f"{text[:1].upper()}{text[1:]}{' — close to the line' if one.close else ''}."


def fault_words(findings: Iterable[Finding], content: Content) -> str:
    """Names of faults in a row, for the middle of a sentence; says which are close."""
    return ", ".join(
        content.faults[one.fault].name.lower() + (" (close to the line)" if one.close else "")
        for one in findings
    )


def praise_words(one: Praise, content: Content) -> str:
    """What was good; `away` in its words is the value without its sign."""
    words = content.measures[one.measure]
    return one.says.format(
        value=show_value(one.value, words), away=show_value(abs(one.value), words)
    )


def load_words(load: Load, lift: str) -> str:
    """A load with its share of the best of a lift, or what is missing to know it."""
    if load.kind == "stick":
        return "Stick, no load"
    if load.loading is None:
        asked = f"{_percent(load.low)} to {_percent(load.high)} of the best {lift}"
        return f"{asked} – {load.why_not}"
    kilos = show_kg(load.loading.total_kg)
    share = f"{_percent(load.share)} of the best {lift}" if load.share is not None else ""
    if load.kind == "bar":
        return f"Empty bar, {kilos}" + (f" · {share}" if share else "")
    if load.heavier_than_meant:
        return f"{kilos} (the empty bar) · {share}; {_percent(load.high)} at most is meant: use a lighter bar or a stick"
    return f"{kilos} · {share}"


def side_words(load: Load) -> str:
    """The plates on each side, heaviest first."""
    if load.loading is None or not load.loading.per_side_kg:
        return ""
    return " + ".join(f"{kilos:g}" for kilos in load.loading.per_side_kg) + " kg a side"


def _percent(share: float) -> str:
    return f"{100 * share:.0f} %"


LOADS = {
    "body": "no load",
    "stick": "stick",
    "empty bar": "empty bar",
    "light": "light, technique decides",
    "bell": "a bell that allows it",
}


def dose_words(dose: Dose) -> str:
    """A dose as it is said: sets by reps, hold, load."""
    text = f"{dose.sets} × {dose.reps}" if dose.reps else f"{dose.sets} ×"
    if dose.hold_s:
        text += f" hold {dose.hold_s} s" if dose.reps in (0, 1) else f", hold {dose.hold_s} s"
    if dose.load == "share":
        text += f", {_percent(dose.low)} to {_percent(dose.high)} of the best"
    else:
        text += f", {LOADS[dose.load]}"
    return f"{text}. {dose.note}" if dose.note else text
