"""The bar and the plates at hand, written as coaches say it: 20 × 2, 15, 10."""

import re

from PyQt6.QtWidgets import QFrame, QLineEdit, QWidget

from keen_kettle.core.errors import KettleError
from keen_kettle.core.plan import PlateSet
from keen_kettle.desk.kit.builders import column, label, number_field, row
from keen_kettle.desk.state.records.desk_model import DeskModel

__all__ = ["PlatesCard", "pairs_words", "parse_pairs"]

MOST_PAIRS = 12


def pairs_words(plates: PlateSet) -> str:
    """The pairs as text."""
    return ", ".join(
        f"{kilos:g}" + (f" × {count}" if count > 1 else "") for kilos, count in plates.pairs
    )


def parse_pairs(text: str) -> tuple[tuple[float, int], ...]:
    """Pairs of plates from text such as “20 × 2, 15, 2.5”.

    Raises
    ------
    KettleError
        Naming the part that is not understood.
    """
    pairs: dict[float, int] = {}
    for part in filter(None, (piece.strip() for piece in text.split(","))):
        found = re.fullmatch(r"(\d+(?:\.\d+)?)(?:\s*[x×*]\s*(\d+))?", part)
        kilos, count = (float(found[1]), int(found[2] or 1)) if found else (0.0, 0)
        if not (0 < kilos <= 50 and 1 <= count <= MOST_PAIRS):
            raise KettleError(
                f"“{part}” is not a pair of plates; write for example 20 × 2, 15, 2.5."
            )
        pairs[kilos] = pairs.get(kilos, 0) + count
    return tuple(sorted(pairs.items(), reverse=True))


class PlatesCard(QFrame):
    """What loads are rounded to."""

    def __init__(self, desk: DeskModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.setProperty("role", "card")
        self.bar = number_field(2.5, 30, 2.5, " kg", 1)
        self.bar.setAccessibleName("Bar")
        self.bar.setToolTip("Mass of the empty bar")
        self.pairs = QLineEdit()
        self.pairs.setAccessibleName("Pairs of plates")
        self.pairs.setToolTip("Pairs of plates in kg, for example 20 × 2, 15, 2.5")
        self.wrong = label("", "fault")
        self.wrong.hide()
        self.setLayout(
            column(
                label("Plates at hand", "lead"),
                label("Loads are rounded to what these can make.", "quiet"),
                row(label("Bar", "quiet", wrap=False), self.bar),
                label("Pairs, in kg", "quiet"),
                self.pairs,
                self.wrong,
                margin=14,
            )
        )
        self.bar.valueChanged.connect(lambda _kilos: self._keep())
        self.pairs.editingFinished.connect(self._keep)
        desk.records_changed.connect(self._fill)
        self._fill()

    def _fill(self) -> None:
        self.bar.blockSignals(True)
        self.bar.setValue(self._desk.plates.bar_kg)
        self.bar.blockSignals(False)
        if not self.wrong.isVisible():
            self.pairs.setText(pairs_words(self._desk.plates))

    def _keep(self) -> None:
        try:
            pairs = parse_pairs(self.pairs.text())
        except KettleError as error:
            self.wrong.setText(str(error))
            self.wrong.show()
            return
        self.wrong.hide()
        self._desk.change_plates(PlateSet(self.bar.value(), self._desk.plates.collars_kg, pairs))
        self._fill()
