"""The session sheet: for whom, on which day, how long; each one's session with its loads."""

from dataclasses import replace
from datetime import date

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.lifts import Movement, parse_movement
from keen_kettle.core.plan import Session, SessionFacts, SheetText
from keen_kettle.core.prescribe import FirstRep, causes_of, judge_first_rep
from keen_kettle.desk.kit.words import dose_words
from keen_kettle.desk.state.prescribe.complex_model import ComplexModel
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel
from keen_kettle.desk.state.prescribe.facts import tags_of
from keen_kettle.desk.work.tasks import MakeSessions, SessionRequest
from keen_kettle.store import Athlete

__all__ = ["SessionModel"]

MOST_PEOPLE = 12
"""What one page holds at a size that can be read at arm's length."""
CORRECTIVE_MINUTES = 6


class SessionModel(QObject):
    """For the chosen athlete, or everyone of the chosen group."""

    changed = pyqtSignal()

    def __init__(
        self,
        correctives: CorrectiveModel,
        complexes: ComplexModel,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk, self.teach = correctives.desk, correctives.teach
        self._correctives, self._complexes = correctives, complexes
        self.on: date = self.desk.today()
        self.minutes = 60
        self.with_complex = True
        self.sessions: list[Session] = []
        self.failed: tuple[str, ...] = ()
        """The positions that did not hold in today's first rep."""
        self.working = False
        self._ticket = 0
        self._stale = True
        complexes.changed.connect(self._again)

    def _again(self) -> None:
        self._stale = True
        self.changed.emit()

    # What it is for

    def people(self) -> list[Athlete]:
        """Whom the sheet is for; with nobody chosen, whose clip lies open."""
        athlete = self._correctives.athlete
        if self.desk.group is not None and self.desk.who is None:
            return self.desk.people()[:MOST_PEOPLE]
        return [athlete] if athlete is not None else []

    @property
    def left_over(self) -> int:
        """How many of the group do not fit on the page."""
        if self.desk.group is None or self.desk.who is not None:
            return 0
        return max(len(self.desk.people()) - MOST_PEOPLE, 0)

    @property
    def title(self) -> str:
        """Whose session it is."""
        group = self.desk.chosen_group
        if group is not None and self.desk.who is None:
            return group.name
        people = self.people()
        return people[0].name if people else ""

    @property
    def first_rep(self) -> FirstRep:
        """What today's first rep makes of the lift and the load."""
        return judge_first_rep(parse_movement(self._complexes.lift), self.failed)

    def set_on(self, day: date) -> None:
        if day != self.on:
            self.on = day
            self._again()

    def set_minutes(self, minutes: int) -> None:
        if minutes != self.minutes:
            self.minutes = minutes
            self._again()

    def set_with_complex(self, on: bool) -> None:
        if on != self.with_complex:
            self.with_complex = on
            self._again()

    def set_failed(self, failed: tuple[str, ...]) -> None:
        """The positions of the first rep that did not hold."""
        if failed != self.failed:
            self.failed = failed
            self._again()

    # Working it out

    def ensure(self) -> None:
        """Make the sessions anew, if anything has changed."""
        if not self._stale:
            return
        self._stale = False
        self._complexes.ensure()
        self._ticket += 1
        ticket = self._ticket
        requests = tuple(self._request(one) for one in self.people())
        if not requests:
            self.sessions = []
            return
        self.working = True

        def keep(made: list[Session]) -> None:
            if ticket == self._ticket:
                self.sessions, self.working = made, False
                self.changed.emit()

        def failed(words: str) -> None:
            self.working = False
            self.desk.trouble.emit(words)

        older = lambda: ticket != self._ticket  # noqa: E731
        task = MakeSessions(requests, self.minutes, self.desk.plates)
        self.desk.jobs.ask(self.desk.answer_worker, task, keep, failed, unless=older)

    def _request(self, athlete: Athlete) -> SessionRequest:
        first = self.first_rep
        facts = SessionFacts(
            athlete.name,
            self.teach.person(athlete),
            athlete.trained,
            athlete.bests_kg,
            self._stage(athlete),
            self._running(athlete),
            self._weights(athlete),
        )
        wish = self._complexes.wish(facts.person)
        parts: tuple[Movement, ...] = ()
        counts: tuple[int, ...] = ()
        if self.with_complex and self._complexes.string is not None:
            parts, counts = tuple(self._complexes.movements), tuple(self._complexes.counts)
        if not first.passed:
            wish = replace(wish, lift=first.instead)
            parts = parts if first.instead in parts else ()
        return SessionRequest(facts, wish, parts, counts, first.load_share)

    def _stage(self, athlete: Athlete) -> SheetText | None:
        for row in self.teach.known_rows():
            if row.athlete.id == athlete.id and row.taught is not None:
                stage = row.taught.stage
                return SheetText(stage.name, dose_words(stage.dose), None, stage.cue_outer, 10)
        return None

    def _running(self, athlete: Athlete) -> tuple[SheetText, ...]:
        drills = self.desk.content.drills
        return tuple(
            SheetText(
                one.name,
                one.dose,
                one.load_kg,
                one.cue,
                drills[one.drill].minutes if one.drill in drills else CORRECTIVE_MINUTES,
            )
            for one in self.desk.correctives
            if one.athlete_id == athlete.id and one.runs
        )[:2]

    def _weights(self, athlete: Athlete) -> dict[str, float]:
        if self._correctives.athlete is not None and athlete.id == self._correctives.athlete.id:
            return dict(self._correctives.weights())
        families = {name: one.family for name, one in self.teach.teaching.ladders.items()}
        seen = self._correctives.kept_sightings(athlete.id)
        seen += tags_of(self.teach.visits_of(athlete.id), families)
        causes = causes_of(seen, self.desk.content, self.desk.today())
        return {one.fault: one.weight for one in causes}
