"""What the say card offers: the drills for the chief finding of the open clip, priced."""

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.content import Split
from keen_kettle.core.faults import Finding
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.plan import Prescription, best_for, price_corrective
from keen_kettle.core.prescribe import Refusal, Sighting, recommend
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel, prescribed
from keen_kettle.desk.state.prescribe.facts import ended_of, facts_of
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.review.answer_model import News
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.store import Athlete, Prescribed

__all__ = ["PrescribeModel"]


class PrescribeModel(QObject):
    """Follows the review: recomputes when the answer, the athlete or the plates change."""

    changed = pyqtSignal()

    def __init__(
        self,
        desk: DeskModel,
        review: ReviewModel,
        correctives: CorrectiveModel,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk = desk
        self.review = review
        self._correctives = correctives
        self.offers: list[Prescription] = []
        self.refused: list[Refusal] = []
        self.question: Split | None = None
        self.best_lift = ""
        desk.records_changed.connect(self.price)
        correctives.teach.row_changed.connect(lambda *_: self.price())
        review.answer_changed.connect(self._on_answer)
        review.clip_changed.connect(self.price)

    @property
    def finding(self) -> Finding | None:
        answer = self.review.answer
        return (
            answer.diagnosis.chief if answer is not None and answer.diagnosis is not None else None
        )

    @property
    def open_finding(self) -> bool:
        """Whether the open clip has a finding for which nothing was taken yet."""
        return self.finding is not None and not any(self.taken(one) for one in self.offers)

    @property
    def athlete(self) -> Athlete | None:
        return self.review.athlete

    @property
    def family(self) -> str:
        clip = self.review.clip
        return parse_filmed(clip.lift).family if clip is not None else "snatch"

    def _on_answer(self, news: News | None) -> None:
        if news is None or not news.held:
            self.price()

    def price(self) -> None:
        """Choose and price the drills anew."""
        self.offers, self.refused, self.question = [], [], None
        self.best_lift = self.family
        sighting = self._sighting()
        if sighting is not None:
            athlete, teach = self.athlete, self._correctives.teach
            teach.ensure()
            checks = teach.checks.get(athlete.id, {}) if athlete is not None else {}
            bests = athlete.bests_kg if athlete is not None else {}
            self.best_lift, best = best_for(self.family, bests)
            kept = self.desk.correctives
            made = recommend(
                [sighting],
                self.family,
                facts_of(athlete, checks),
                self.desk.content,
                sighting.on,
                answers=self._correctives.answers_of(athlete),
                ended=ended_of(athlete.id, kept) if athlete is not None else (),
            )
            self.offers = [
                price_corrective(one, best, self.desk.plates, self.desk.content)
                for one in made.picks
            ]
            self.refused, self.question = list(made.refused), made.question
        self.changed.emit()

    def _sighting(self) -> Sighting | None:
        """The chief finding of the open clip."""
        finding, clip = self.finding, self.review.clip
        if finding is None or clip is None:
            return None
        plainest = finding.evidence[0]
        return Sighting(
            finding.fault,
            clip.filmed_on,
            self.family,
            "clip",
            finding.severity,
            finding.confidence,
            plainest.measure,
            plainest.value,
            plainest.sigma,
            clip.id,
        )

    def taken(self, offer: Prescription) -> Prescribed | None:
        """The record of this offer, if it runs for this athlete."""
        athlete = self.athlete
        return next(
            (
                one
                for one in self.desk.correctives
                if athlete is not None
                and one.athlete_id == athlete.id
                and one.runs
                and one.drill == offer.corrective.drill
                and one.fault == offer.corrective.fault
            ),
            None,
        )

    def take(self, offer: Prescription) -> None:
        """Write the offer to the athlete's record."""
        athlete = self.athlete
        if athlete is None:
            self.desk.trouble.emit("Choose the athlete of this clip first (Set-up, on Review).")
            return
        if self.taken(offer) is None:
            content = self.desk.content
            cue, _ = self._correctives.cues(content.drills[offer.corrective.drill])
            today = self.desk.today()
            self.desk.take_corrective(
                prescribed(offer, athlete.id, content, today, self._sighting(), cue=cue)
            )

    def answer(self, said: str) -> None:
        """The answer to the splitting question of the chief finding, for this clip's athlete."""
        if self.question is not None:
            self._correctives.answer_for(self.athlete, self.question.fault, said)
