"""What the rule says about one athlete on one stage, why, and the coach's decision."""

from PyQt6.QtWidgets import QComboBox, QFrame, QLineEdit, QVBoxLayout, QWidget

from keen_kettle.core.teach import Advice
from keen_kettle.desk.kit.builders import button, clear, column, label, row, with_picture
from keen_kettle.desk.kit.theme import dress
from keen_kettle.desk.state.teach.board_row import BoardRow, state_of_row
from keen_kettle.desk.state.teach.teach_model import TeachModel

__all__ = ["AdviceCard", "take_words"]

ROLES = {"signal": "safety", "ember": "fault", "sage": "right"}


def take_words(advice: Advice) -> str:
    """What the button says that takes the advice."""
    if advice.kind == "stay":
        return "Stay on this stage"
    if advice.kind == "hold":
        return "Hold here"
    if advice.to is None:
        return "Rest from this ladder"
    words = {"advance": "Advance to", "step back": "Step back to", "swap": "Swap to"}
    return f"{words[advice.kind]} {advice.to_name}"


class AdviceCard(QFrame):
    """Reason first, facts behind it, one brass button; the other ways stay open beside it.

    `wide` lays it out as a band for below a table.
    """

    def __init__(
        self, teach: TeachModel, wide: bool = False, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._teach = teach
        self._facts = 2 if wide else 4
        self._row: BoardRow | None = None
        self.setProperty("role", "card")
        self._body = QVBoxLayout()
        self._body.setSpacing(4)
        self.take = button("", "Do what the rule says", self.take_advice, "check", "next")
        self.why = QLineEdit()
        self.why.setPlaceholderText("your reason, kept with the decision")
        self.why.setAccessibleName("Reason for the decision")
        self.why.setToolTip("Kept with whatever you decide")
        self.other = QComboBox()
        self.other.setAccessibleName("Decide otherwise")
        self.other.setToolTip("You decide; the rule only suggests")
        self.other.activated.connect(lambda _row: self._decide_otherwise())
        if wide:
            says = column(self._body)
            says.addStretch(1)
            decides = column(self.take, self.why, self.other, spacing=6)
            whole = row(says, decides, spacing=16, margin=12)
            whole.setStretch(0, 3)
            whole.setStretch(1, 2)
            self.setLayout(whole)
        else:
            below = row(self.take, spacing=8)
            below.addStretch(1)
            self.setLayout(column(self._body, self.why, below, self.other, spacing=8, margin=12))

    def show_row(self, shown: BoardRow | None) -> None:
        self._row = shown
        clear(self._body)
        self.setVisible(shown is not None and shown.ladder is not None)
        if shown is None or shown.advice is None or shown.ladder is None:
            return
        advice = shown.advice
        _, words, picture, token = state_of_row(shown)
        self._body.addWidget(label("THE RULE SAYS", "head"))
        self._body.addWidget(with_picture(picture, ROLES.get(token, ""), words))
        self._body.addWidget(label(advice.reason))
        room = self._facts
        if advice.load is not None:
            self._body.addWidget(label(advice.load.says, "measured"))
            room -= 1
        for fact in advice.facts[:room]:
            self._body.addWidget(label(fact, "small"))
        self.take.setText(take_words(advice))
        self.take.setAccessibleName(take_words(advice))
        dress(self.take, "check", "on_brass")
        self._fill_others(shown, advice)

    def _fill_others(self, shown: BoardRow, advice: Advice) -> None:
        assert shown.ladder is not None
        self.other.clear()
        self.other.addItem("Decide otherwise …", None)
        stages = self._teach.stages(shown.ladder.id, shown.athlete)
        order = [one.id for one in stages]
        at = order.index(shown.stage) if shown.stage in order else -1
        if at + 1 < len(stages):
            following = stages[at + 1]
            self.other.addItem(
                f"Advance to {following.stage.name}", ("advance", shown.ladder.id, following.id)
            )
        self.other.addItem("Stay on this stage", ("stay", shown.ladder.id, shown.stage))
        for taught in reversed(stages[: max(at, 0)]):
            self.other.addItem(
                f"Step back to {taught.stage.name}", ("step back", shown.ladder.id, taught.id)
            )
        for swap in advice.swaps[:6]:
            self.other.addItem(f"Swap to {swap.name}", ("swap", swap.ladder, swap.stage))
        self.other.addItem("Hold here for good", ("hold", shown.ladder.id, shown.stage))
        self.other.addItem("Leave this ladder", ("leave", shown.ladder.id, shown.stage))

    def take_advice(self) -> None:
        shown = self._row
        if shown is None or shown.advice is None:
            return
        advice = shown.advice
        kind = "leave" if advice.kind == "step back" and advice.to is None else advice.kind
        self._decide(kind, advice.to)

    def _decide_otherwise(self) -> None:
        chosen = self.other.currentData()
        if chosen is not None:
            kind, ladder, stage = chosen
            self._decide(kind, (ladder, stage))

    def _decide(self, kind: str, to: tuple[str, str] | None) -> None:
        if self._row is not None:
            why = self.why.text().strip()
            self.why.clear()
            self._teach.decide(self._row, kind, to, why)
