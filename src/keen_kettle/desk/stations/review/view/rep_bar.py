"""Which of several lifts in a clip is judged; there only where there is more than one."""

from PyQt6.QtWidgets import QWidget

from keen_kettle.desk.kit.builders import button, label, row
from keen_kettle.desk.state.review.review_model import ReviewModel

__all__ = ["RepBar"]


class RepBar(QWidget):
    """“Lift 2 of 3” between two buttons."""

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.words = label("", "measured", wrap=False)
        self.before = button("", "The lift before ([)", lambda: model.step_rep(-1), "chevron-left")
        self.after = button("", "The next lift (])", lambda: model.step_rep(1), "chevron-right")
        self.setLayout(row(self.before, self.words, self.after, spacing=6))
        model.answer_changed.connect(self._show)
        model.clip_changed.connect(self._show)
        self.hide()

    def _show(self) -> None:
        answer = self._model.answer
        count = len(answer.reps) if answer is not None else 0
        self.setVisible(count > 1)
        if answer is None or count < 2:
            return
        received = answer.reps[answer.rep].received
        missed = ", not received" if received is False else ""
        self.words.setText(f"Lift {answer.rep + 1} of {count}{missed}")
        self.before.setEnabled(answer.rep > 0)
        self.after.setEnabled(answer.rep < count - 1)
