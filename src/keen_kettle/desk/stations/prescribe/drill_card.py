"""One drill as it is prescribed: load with its plates, dose and cue that can be changed, reasons."""

from collections.abc import Callable

from PyQt6.QtWidgets import QComboBox, QLineEdit, QVBoxLayout, QWidget

from keen_kettle.core.content import Content
from keen_kettle.core.plan import Prescription
from keen_kettle.core.prescribe import Effect
from keen_kettle.desk.kit.builders import button, card, label, row, with_picture
from keen_kettle.desk.kit.words import load_words, side_words
from keen_kettle.desk.shared.plates_picture import PlatesPicture
from keen_kettle.store import Prescribed

__all__ = ["drill_card"]


def _plates(offer: Prescription) -> list[QWidget]:
    """The plates of one side, where the drill takes any."""
    loading = offer.load.loading
    if loading is None or not loading.per_side_kg:
        return []
    holder = QWidget()
    line = row(PlatesPicture(loading.per_side_kg), label(side_words(offer.load), "measured"))
    holder.setLayout(line)
    return [holder]


def _chosen_because(reason: str) -> str:
    answered = "answers what was asked: "
    if reason.startswith("answers"):
        return f"Chosen: {reason.removeprefix(answered)}."
    return f"Chosen because it {reason}."


def drill_card(
    offer: Prescription,
    content: Content,
    lift: str,
    cues: tuple[str, str],
    *,
    head: str,
    effect: Effect | None,
    swap: QComboBox | None,
    taken: Prescribed | None,
    take: Callable[[str, str], object],
    first: bool,
) -> QWidget:
    """A card with everything that the coach needs to say; `cues` are the
    coach's kind and the other; `take` gets dose and cue as they stand."""
    one, drill = offer.corrective, content.drills[offer.corrective.drill]
    loaded = offer.load.loading is not None
    parts: list[QWidget] = [
        label(head, "head"),
        label(one.name, "lead"),
        label(_chosen_because(one.reason), "quiet"),
        label(load_words(offer.load, lift), "lead" if loaded else "fault"),
    ]
    parts += _plates(offer)
    dose, cue = _line(drill.dose, "Dose"), _line(cues[0], "Cue")
    parts.append(_take(taken, lambda: take(dose.text(), cue.text()), first))
    if swap is not None and taken is None:
        parts.append(swap)
    parts += [
        label(f"DOSE · ABOUT {drill.minutes} MIN", "head"),
        dose,
        label("HOW", "head"),
        label(drill.how),
        label("WHY", "head"),
        label(drill.why),
        label("CUES", "head"),
        cue,
        label(f"Or: {cues[1]}", "quiet"),
    ]
    if effect is not None:
        parts.append(label(f"This drill {effect.says}.", "measured"))
    parts += [
        with_picture("octagon-alert", "safety", content.cautions[name].text)
        for name in drill.cautions
    ]
    made = card(*parts, spacing=6)
    layout = made.layout()
    assert isinstance(layout, QVBoxLayout)
    layout.addStretch(1)
    return made


def _line(words: str, name: str) -> QLineEdit:
    made = QLineEdit(words)
    made.setAccessibleName(name)
    made.setToolTip(f"{name}: change it before you take it")
    made.setCursorPosition(0)
    return made


def _take(taken: Prescribed | None, take: Callable[[], object], first: bool) -> QWidget:
    if taken is not None:
        words = f"In the record since {taken.taken_on:%d %b}. New clip due {taken.review_on:%d %b}."
        return with_picture("check", "right", words)
    return button(
        "Take this corrective",
        "Write it to the athlete's record",
        take,
        "plus",
        "next" if first else "",
    )
