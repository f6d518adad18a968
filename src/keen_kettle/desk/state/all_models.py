"""Everything that the desk knows, made once and in order: each model rests on those before it."""

from PyQt6.QtCore import QObject

from keen_kettle.desk.state.intake.inbox import Inbox
from keen_kettle.desk.state.intake.queue_model import QueueModel
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel
from keen_kettle.desk.state.prescribe.prescribe_model import PrescribeModel
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.compare_model import CompareModel
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.state.review.suggestion_model import SuggestionModel
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.state.teach.trial_model import TrialModel

__all__ = ["Models"]


class Models(QObject):
    """The models of one window; they end with it."""

    def __init__(self, desk: DeskModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.review = ReviewModel(desk, self)
        self.hand = HandModel(self.review, self)
        self.body = BodyModel(self.review, self.hand, self)
        self.drawing = DrawingModel(self.review, self.body, self)
        self.suggested = SuggestionModel(self.review, self.hand, self.body, self)
        self.compare = CompareModel(self.review, self)
        self.teach = TeachModel(desk, self)
        self.trials = TrialModel(desk, self)
        self.correctives = CorrectiveModel(desk, self.review, self.teach, self)
        self.offers = PrescribeModel(desk, self.review, self.correctives, self)
        self.queue = QueueModel(self.review, self.hand, self.body, self.teach, self)
        self.inbox = Inbox(desk, self.queue, self)

    def close(self) -> None:
        """Stop what runs, in an order in which nothing waits for what has ended."""
        self.review.close()
        self.inbox.close()
        self.desk.jobs.stop_all()
        self.queue.close()
        self.desk.close()
