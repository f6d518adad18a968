"""The clip check beside the film: what it is good for, row by row, and how to film it better."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QWidget

from keen_kettle.core.analysis import ClipCheck, check_clip
from keen_kettle.desk.kit.builders import Sheet, column, label, with_picture
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["CheckList"]

SIGNS = {"good": ("check", "right"), "fair": ("info", "quiet"), "poor": ("triangle-alert", "fault")}


class CheckList(Sheet):
    """Follows the clip; `summed_up` tells the heading what there is to mind."""

    summed_up = pyqtSignal(str)

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.check: ClipCheck | None = None
        self._idle = IdleCall(self._check, self)
        for signal in (model.clip_changed, model.answer_changed, model.tracking_changed):
            signal.connect(self._idle.ask)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._say()

    def _check(self) -> None:
        model = self._model
        if model.index is None:
            self.check = None
            return
        self.check = check = check_clip(model.index, model.track, model.answer)
        if self.isVisible():
            self._say()
        poor = sum(row.state == "poor" for row in check.rows)
        fair = sum(row.state == "fair" for row in check.rows)
        words = f"{poor} poor" if poor else f"{fair} to mind" if fair else "good"
        self.summed_up.emit(f"Clip check: {words}")

    def _say(self) -> None:
        body, check = column(spacing=4), self.check
        if check is not None:
            for state, says in check.trust.values():
                body.addWidget(with_picture(*SIGNS[state], says))
            for row in check.rows:
                body.addWidget(with_picture(*SIGNS[row.state], f"{row.name}: {row.says}"))
            for advice in check.advice:
                body.addWidget(label(advice, "small"))
            if not check.trust:
                body.addWidget(label("The rest is known once the bar is tracked.", "small"))
        self.fill(body)
