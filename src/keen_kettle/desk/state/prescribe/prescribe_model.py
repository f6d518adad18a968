"""What Prescribe and the say card share: the chief finding of the open clip and its priced drills."""

from datetime import timedelta

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.faults import Finding
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.plan import REVIEW_AFTER_DAYS, Prescription, best_for, prescribe
from keen_kettle.core.prescribe import AthleteFacts, Refusal
from keen_kettle.core.teach import CheckResult
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.store import Athlete, Prescribed, StoreError

__all__ = ["PrescribeModel"]


class PrescribeModel(QObject):
    """Follows the review: recomputes when the answer, the athlete or the plates change."""

    changed = pyqtSignal()

    def __init__(self, desk: DeskModel, review: ReviewModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.review = review
        self.offers: list[Prescription] = []
        self.refused: list[Refusal] = []
        self.best_lift = ""
        self._checks: dict[int, dict[str, CheckResult]] | None = None
        desk.records_changed.connect(self.forget)
        review.answer_changed.connect(self.reckon)
        review.clip_changed.connect(self.reckon)

    @property
    def finding(self) -> Finding | None:
        answer = self.review.answer
        return (
            answer.diagnosis.chief if answer is not None and answer.diagnosis is not None else None
        )

    @property
    def athlete(self) -> Athlete | None:
        return self.review.athlete

    @property
    def family(self) -> str:
        clip = self.review.clip
        return parse_filmed(clip.lift).family if clip is not None else "snatch"

    def _not_yet(self, athlete: Athlete) -> frozenset[str]:
        try:
            if self._checks is None:
                self._checks = self.desk.shelf.teaching.newest_checks()
        except StoreError as error:
            self.desk.trouble.emit(str(error))
            return frozenset()
        mine = self._checks.get(athlete.id, {})
        return frozenset(name for name, one in mine.items() if one.state == "not yet")

    def forget(self) -> None:
        """Records changed: choose anew, with what they say now."""
        self._checks = None
        self.reckon()

    def reckon(self) -> None:
        """Choose and price the drills anew."""
        self.offers, self.refused = [], []
        self.best_lift = self.family
        if self.finding is not None:
            athlete = self.athlete
            facts = AthleteFacts()
            best = None
            if athlete is not None:
                facts = AthleteFacts(
                    athlete.cautions, athlete.equipment, athlete.trained, self._not_yet(athlete)
                )
                self.best_lift, best = best_for(self.family, athlete.bests_kg)
            self.offers, self.refused = prescribe(
                self.finding.fault, self.family, facts, best, self.desk.plates, self.desk.content
            )
        self.changed.emit()

    def taken(self, offer: Prescription) -> Prescribed | None:
        """The record of this offer, if the coach took it for this clip."""
        clip = self.review.clip
        return next(
            (
                one
                for one in self.desk.correctives
                if clip is not None
                and one.clip_id == clip.id
                and one.drill == offer.corrective.drill
                and one.fault == offer.corrective.fault
            ),
            None,
        )

    def take(self, offer: Prescription) -> None:
        """Write the offer to the athlete's record."""
        clip, athlete = self.review.clip, self.athlete
        if clip is None or athlete is None:
            self.desk.trouble.emit("Choose the athlete of this clip first (Set-up, on Review).")
            return
        if self.taken(offer) is not None:
            return
        today = self.desk.today()
        loading = offer.load.loading
        self.desk.take_corrective(
            Prescribed(
                athlete_id=athlete.id,
                clip_id=clip.id,
                fault=offer.corrective.fault,
                drill=offer.corrective.drill,
                family=self.family,
                name=offer.corrective.name,
                load_kg=loading.total_kg if loading is not None else None,
                dose=self.desk.content.drills[offer.corrective.drill].dose,
                reason=offer.corrective.reason,
                taken_on=today,
                review_on=today + timedelta(days=REVIEW_AFTER_DAYS),
            )
        )
