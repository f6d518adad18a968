"""What an athlete is prescribed: everything that was seen of them, the drills for it, what runs."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, timedelta

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.analysis import measures_told, sightings_of
from keen_kettle.core.content import Content, Drill
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.plan import Prescription, best_for, price_corrective
from keen_kettle.core.prescribe import (
    Corrective,
    Effect,
    FollowUp,
    Measured,
    Recommended,
    Sighting,
    compare_measures,
    compare_sightings,
    cues_of,
    house_effects,
    recommend,
    review_days,
)
from keen_kettle.desk.state.prescribe.facts import ended_of, facts_of, tags_of
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.review.answer_model import News
from keen_kettle.desk.state.review.found import findings_from
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.store import Athlete, ClipFindings, Prescribed, StoreError

__all__ = ["CorrectiveModel", "Followed", "prescribed"]

LATER_DAYS = 7


class Followed:
    """A corrective that runs, with what the newest clip (or the visits) say of it."""

    def __init__(
        self,
        kept: Prescribed,
        found: FollowUp,
        before: Measured | None = None,
        after: Measured | None = None,
        clip: int | None = None,
    ) -> None:
        self.kept, self.found = kept, found
        self.before, self.after, self.clip = before, after, clip


class CorrectiveModel(QObject):
    """About the chosen athlete, or whose clip is open; worked out anew when it is asked for."""

    changed = pyqtSignal()

    def __init__(
        self,
        desk: DeskModel,
        review: ReviewModel,
        teach: TeachModel,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk, self.review, self.teach = desk, review, teach
        self.minutes: int | None = None
        self.recommended = Recommended()
        self.picks: list[Prescription] = []
        self.running: list[Followed] = []
        self.effects: dict[tuple[str, str], Effect] = {}
        self._sightings: dict[int, list[Sighting]] = {}
        self._answers: dict[int, dict[str, str]] = {}
        self._swaps: dict[int, dict[str, str]] = {}
        self._last_kept: ClipFindings | None = None
        self._read, self._stale = False, True
        desk.records_changed.connect(self.forget)
        desk.clips_changed.connect(self.forget)
        desk.who_changed.connect(self._again)
        teach.changed.connect(self._again)
        teach.row_changed.connect(lambda *_: self._again())
        review.clip_changed.connect(self._again)
        review.answer_changed.connect(self._on_answer)

    # Whom it is about

    @property
    def athlete(self) -> Athlete | None:
        """The chosen athlete; with nobody chosen, whose clip lies open."""
        return self.desk.athlete(self.desk.who) or self.review.athlete

    @property
    def about_the_open_clip(self) -> bool:
        """Whether the open clip belongs to what is shown."""
        clip, athlete = self.review.clip, self.athlete
        if clip is None:
            return False
        return athlete is None or clip.athlete_id == athlete.id

    @property
    def family(self) -> str:
        """The lift of the day: that of the open clip, or of the athlete's newest clip."""
        clip, athlete = self.review.clip, self.athlete
        if clip is not None and self.about_the_open_clip:
            return parse_filmed(clip.lift).family
        clips = [one for one in self.desk.clips if athlete and one.athlete_id == athlete.id]
        return parse_filmed(clips[0].lift).family if clips else "clean"

    # Working it out

    def forget(self) -> None:
        """Records changed: read them again when next needed."""
        self._read = False
        self._again()

    def _again(self) -> None:
        self._stale = True
        self.changed.emit()

    def ensure(self) -> None:
        """Work everything out, if anything has changed."""
        if not self._stale:
            return
        self._stale = False
        self._read_records()
        athlete, content, today = self.athlete, self.desk.content, self.desk.today()
        self.teach.ensure()
        checks = self.teach.checks.get(athlete.id, {}) if athlete is not None else {}
        kept = self.desk.correctives
        self.recommended = recommend(
            self.sightings(),
            self.family,
            facts_of(athlete, checks),
            content,
            today,
            answers=self.answers,
            minutes=self.minutes,
            ended=ended_of(athlete.id, kept) if athlete is not None else (),
        )
        self.picks = [self._priced(one) for one in self._swapped(self.recommended)]
        self.effects = house_effects((one.drill, one.fault, one.outcome) for one in kept)
        mine = [one for one in kept if athlete and one.athlete_id == athlete.id and one.runs]
        self.running = [self._follow(one, content) for one in mine]

    def _read_records(self) -> None:
        if self._read:
            return
        self._read = True
        kept = self.desk.shelf.prescribing
        try:
            self._sightings, self._answers = kept.sightings(), kept.answers()
        except StoreError as error:
            self.desk.trouble.emit(str(error))

    @property
    def answers(self) -> dict[str, str]:
        """The athlete's answers to splitting questions, by fault."""
        return self.answers_of(self.athlete)

    def answers_of(self, athlete: Athlete | None) -> dict[str, str]:
        self._read_records()
        return self._answers.get(athlete.id, {}) if athlete is not None else {}

    def kept_sightings(self, athlete: int) -> list[Sighting]:
        """What the clips of an athlete showed, as it is kept."""
        self._read_records()
        return list(self._sightings.get(athlete, []))

    def sightings(self) -> list[Sighting]:
        """Everything that was seen: kept findings, the open clip as it now is, and visits' tags."""
        self._read_records()
        athlete, clip, answer = self.athlete, self.review.clip, self.review.answer
        found: list[Sighting] = []
        if athlete is not None:
            found += self._sightings.get(athlete.id, [])
            families = {name: one.family for name, one in self.teach.teaching.ladders.items()}
            found += tags_of(self.teach.visits_of(athlete.id), families)
        if clip is not None and answer is not None and self.about_the_open_clip:
            family = parse_filmed(clip.lift).family
            found = [one for one in found if one.clip_id != clip.id]
            found += sightings_of(answer, family, clip.filmed_on, clip.id)
        return found

    def _swapped(self, made: Recommended) -> list[Corrective]:
        """The picks, with those that the coach has swapped for others."""
        swaps = self._swaps.get(self.athlete.id if self.athlete is not None else 0, {})
        offers = {one.drill: one for one in (*made.picks, *made.others)}
        found: dict[str, Corrective] = {}
        for one in made.picks:
            chosen = offers.get(swaps.get(one.drill, one.drill), one)
            found.setdefault(chosen.drill, chosen)
        return list(found.values())

    def _priced(self, one: Corrective) -> Prescription:
        athlete = self.athlete
        _, best = best_for(one.family, athlete.bests_kg if athlete is not None else {})
        return price_corrective(one, best, self.desk.plates, self.desk.content)

    def cues(self, drill: Drill) -> tuple[str, str]:
        """The drill's cue in the coach's kind and the house's words, and the other one."""
        athlete = self.athlete
        school = {**self.teach.house, **(athlete.school if athlete is not None else {})}
        return cues_of(drill, school.get("cue", "outer"), self.teach.words)

    # Deciding

    def swap(self, drop: str, take: str) -> None:
        """Another of the fitting drills in the place of a pick."""
        self.ensure()
        mine = self._swaps.setdefault(self.athlete.id if self.athlete is not None else 0, {})
        before = next((name for name, other in mine.items() if other == drop), drop)
        mine[before] = take
        self._again()

    def set_minutes(self, minutes: int | None) -> None:
        if minutes != self.minutes:
            self.minutes = minutes
            self._again()

    def answer(self, fault: str, said: str) -> None:
        """Keep the athlete's answer to a splitting question; can be undone."""
        self.answer_for(self.athlete, fault, said)

    def answer_for(self, athlete: Athlete | None, fault: str, said: str) -> None:
        """Keep somebody's answer to a splitting question; can be undone."""
        if athlete is None:
            self.desk.trouble.emit("Choose the athlete first (Who, at the top).")
            return
        kept, today = self.desk.shelf.prescribing, self.desk.today()
        old = self.answers_of(athlete).get(fault, "")
        if said != old:
            self.desk.change(
                "answer a question",
                lambda: kept.answer(athlete.id, fault, said, today),
                lambda: kept.answer(athlete.id, fault, old, today),
            )

    def answer_number(self, number: int) -> None:
        """The answer with that number (from 1) to the question that is asked."""
        self.ensure()
        question = self.recommended.question
        if question is not None and number <= len(question.answer):
            self.answer(question.fault, question.answer[number - 1].id)

    def taken(self, one: Corrective) -> Prescribed | None:
        """The record of this drill for this fault, while it runs."""
        return next(
            (
                other.kept
                for other in self.running
                if (other.kept.drill, other.kept.fault) == (one.drill, one.fault)
            ),
            None,
        )

    def take(self, one: Prescription, dose: str = "", cue: str = "") -> None:
        """Write a pick to the athlete's record, with what the coach made of dose and cue."""
        athlete = self.athlete
        if athlete is None:
            self.desk.trouble.emit("Choose the athlete of this clip first (Set-up, on Review).")
            return
        if self.taken(one.corrective) is None:
            newest = _newest(self.sightings(), one.corrective.fault)
            cue = cue or self.cues(self.desk.content.drills[one.corrective.drill])[0]
            self.desk.take_corrective(
                prescribed(one, athlete.id, self.desk.content, self.desk.today(), newest, dose, cue)
            )

    # Following up

    def _follow(self, one: Prescribed, content: Content) -> Followed:
        """What the newest clip since says of a corrective; for what only the eye sees, the visits."""
        before = self._before(one)
        if before is None:
            return Followed(one, self._follow_tags(one))
        for clip in self.desk.clips:  # newest first
            newer = clip.athlete_id == one.athlete_id and clip.filmed_on > one.taken_on
            if not newer:
                continue
            found = self._measures_of(clip.id)
            if found is None or before.measure not in found.measures or found.family != one.family:
                continue
            value, sigma = found.measures[before.measure]
            after = Measured(before.measure, value, sigma, clip.filmed_on)
            told = compare_measures(one.fault, one.family, before, after, content)
            return Followed(one, told, before, after, clip.id)
        return Followed(one, FollowUp("", "no clip since that shows this measure"), before)

    def _before(self, one: Prescribed) -> Measured | None:
        """What was measured when it was taken: as it is kept, or in the newest clip before."""
        if one.before_value is not None and one.before_sigma is not None and one.measure:
            return Measured(one.measure, one.before_value, one.before_sigma, one.taken_on)
        seen = [
            other
            for other in self.kept_sightings(one.athlete_id)
            if other.fault == one.fault and other.on <= one.taken_on and other.family == one.family
        ]
        newest = _newest(seen, one.fault)
        if newest is None or newest.value is None or newest.sigma is None:
            return None
        return Measured(newest.measure, newest.value, newest.sigma, newest.on)

    def _measures_of(self, clip: int) -> ClipFindings | None:
        open_clip, answer = self.review.clip, self.review.answer
        if open_clip is not None and open_clip.id == clip and answer is not None:
            return ClipFindings(
                clip, parse_filmed(open_clip.lift).family, (), measures_told(answer)
            )
        try:
            return self.desk.shelf.prescribing.findings_of(clip)
        except StoreError as error:
            self.desk.trouble.emit(str(error))
            return None

    def _follow_tags(self, one: Prescribed) -> FollowUp:
        visits = [kept.visit for kept in self.teach.visits_of(one.athlete_id)]

        def count(after: bool) -> tuple[int, int]:
            days = [visit for visit in visits if (visit.on > one.taken_on) is after]
            return sum(one.fault in visit.faults for visit in days), len(days)

        return compare_sightings(count(False), count(True))

    def due(self, one: Prescribed) -> bool:
        return one.review_on <= self.desk.today()

    def end(self, one: Followed, outcome: str) -> None:
        """The coach says what became of a corrective; can be undone."""
        kept, number = self.desk.shelf.prescribing, one.kept.id
        fields = {
            "outcome": outcome,
            "ended_on": self.desk.today(),
            "outcome_says": one.found.says,
            "after_clip": one.clip,
            "after_value": one.after.value if one.after is not None else None,
            "after_sigma": one.after.sigma if one.after is not None else None,
        }
        back = {name: getattr(one.kept, name) for name in fields}
        self.desk.change(
            f"end “{one.kept.name}”",
            lambda: kept.change_corrective(number, **fields),
            lambda: kept.change_corrective(number, **back),
        )
        self.desk.said.emit(f"{one.kept.name}: {outcome}.")

    def go_on(self, one: Prescribed) -> None:
        """Another week; can be undone."""
        kept, later = self.desk.shelf.prescribing, self.desk.today() + timedelta(days=LATER_DAYS)
        self.desk.change(
            f"go on with “{one.name}”",
            lambda: kept.change_corrective(one.id, review_on=later),
            lambda: kept.change_corrective(one.id, review_on=one.review_on),
        )

    # Keeping what clips show

    def _on_answer(self, news: News | None) -> None:
        if news is not None and news.held:
            return
        clip, answer = self.review.clip, self.review.answer
        if clip is not None and answer is not None and answer.judged:
            found = findings_from(answer, clip.id, clip.lift, clip.filmed_on)
            if found != self._last_kept:
                self._last_kept = found
                shelf = self.desk.shelf
                self.desk.jobs.start(
                    lambda _job: shelf.prescribing.keep_findings(found),
                    lambda _done: self.forget(),
                    self.desk.trouble.emit,
                )
        self._again()

    def weights(self) -> Mapping[str, float]:
        """How much each fault asks to be answered, for warm-ups and complexes."""
        self.ensure()
        return {one.fault: one.weight for one in self.recommended.causes}


def prescribed(
    one: Prescription,
    athlete: int,
    content: Content,
    today: date,
    newest: Sighting | None,
    dose: str = "",
    cue: str = "",
) -> Prescribed:
    """A priced drill as it goes into the record, with the measure it is to change."""
    drill = content.drills[one.corrective.drill]
    loading = one.load.loading
    made = Prescribed(
        athlete_id=athlete,
        clip_id=newest.clip_id if newest is not None else None,
        fault=one.corrective.fault,
        drill=one.corrective.drill,
        family=one.corrective.family,
        name=one.corrective.name,
        load_kg=loading.total_kg if loading is not None else None,
        dose=dose or drill.dose,
        reason=one.corrective.reason,
        taken_on=today,
        review_on=review_days(today)[0],
        cue=cue or drill.cue_outer,
        implement=one.corrective.implement,
    )
    if newest is None or newest.value is None:
        return made
    return replace(
        made,
        measure=newest.measure,
        before_value=newest.value,
        before_sigma=newest.sigma,
    )


def _newest(sightings: list[Sighting], fault: str) -> Sighting | None:
    """The newest sighting of a fault, a measured one before a tag of the same day."""
    mine = [one for one in sightings if one.fault == fault]
    return max(mine, key=lambda one: (one.on, one.value is not None), default=None)
