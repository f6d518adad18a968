"""The clip check beside the film: what it is good for, row by row, and how to film it better."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from keen_kettle.core.analysis import ClipCheck, check_clip
from keen_kettle.desk.parts import Soon, clear, label, with_picture
from keen_kettle.desk.review_model import ReviewModel

__all__ = ["CheckList"]

SIGNS = {"good": ("check", "right"), "fair": ("info", "quiet"), "poor": ("triangle-alert", "fault")}


class CheckList(QWidget):
    """Follows the clip; `summed_up` tells the heading what there is to mind."""

    summed_up = pyqtSignal(str)

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.check: ClipCheck | None = None
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(0, 0, 0, 0)
        self._body.setSpacing(4)
        self._soon = Soon(self._fill, self)
        for signal in (model.clip_changed, model.answer_changed, model.tracking_changed):
            signal.connect(self._soon.ask)

    def _fill(self) -> None:
        clear(self._body)
        model = self._model
        if model.index is None:
            self.check = None
            return
        self.check = check = check_clip(model.index, model.track, model.answer)
        for state, says in check.trust.values():
            self._body.addWidget(with_picture(*SIGNS[state], says))
        for row in check.rows:
            self._body.addWidget(with_picture(*SIGNS[row.state], f"{row.name}: {row.says}"))
        for advice in check.advice:
            self._body.addWidget(label(advice, "small"))
        if not check.trust:
            self._body.addWidget(label("The rest is known once the bar is tracked.", "small"))
        poor = sum(row.state == "poor" for row in check.rows)
        fair = sum(row.state == "fair" for row in check.rows)
        words = f"{poor} poor" if poor else f"{fair} to mind" if fair else "good"
        self.summed_up.emit(f"Clip check: {words}")
