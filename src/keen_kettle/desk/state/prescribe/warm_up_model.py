"""Today's opening: mobility and bar positions within the minutes, and the build-up to the work."""

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.lifts import Derivative, Movement, parse_movement, positions_of
from keen_kettle.core.plan import BuildStep, SessionFacts, build_up, make_load, working_load
from keen_kettle.core.prescribe import FirstRep, Opening, open_the_body
from keen_kettle.desk.state.prescribe.complex_model import ComplexModel
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel
from keen_kettle.desk.state.prescribe.session_model import SessionModel
from keen_kettle.store import Prescribed

__all__ = ["WarmUpModel"]

POSITION_OF_PHASE = {
    "start": "start",
    "first pull": "knee",
    "transition": "power position",
    "second pull": "extension",
    "turnover": "catch",
    "catch": "catch",
    "dip": "dip",
    "drive": "drive",
}
WORKING_SHARE = 0.75
"""The first working set, where the coach has not said another: three quarters of the best."""


class WarmUpModel(QObject):
    """About the athlete and the lift of the day that the composer is about."""

    changed = pyqtSignal()

    def __init__(
        self,
        correctives: CorrectiveModel,
        complexes: ComplexModel,
        session: SessionModel,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk, self.teach = correctives.desk, correctives.teach
        self._correctives, self._complexes, self._session = correctives, complexes, session
        self.minutes = 8
        self.own_kg: float | None = None
        self.opening: Opening | None = None
        self.steps: tuple[BuildStep, ...] = ()
        self._about: tuple[int | None, str] = (None, "")
        self._stale = True
        session.changed.connect(self._again)

    def _again(self) -> None:
        self._stale = True
        self.changed.emit()

    @property
    def lift(self) -> Movement:
        return parse_movement(self._complexes.lift)

    @property
    def who(self) -> str:
        athlete = self._correctives.athlete
        return athlete.name if athlete is not None else ""

    @property
    def positions(self) -> tuple[str, ...]:
        """What the first rep with the bar must show."""
        return positions_of(self.lift)

    @property
    def failed(self) -> tuple[str, ...]:
        return self._session.failed

    @property
    def first_rep(self) -> FirstRep:
        return self._session.first_rep

    @property
    def planned_kg(self) -> float | None:
        """The first working set before the first rep was seen."""
        if self.own_kg is not None:
            return self.own_kg
        athlete = self._correctives.athlete
        if athlete is None:
            return None
        facts = SessionFacts(
            athlete.name, self._complexes.person, athlete.trained, athlete.bests_kg
        )
        loading, _ = working_load(self.lift, WORKING_SHARE, facts, self.desk.plates)
        return loading.total_kg if loading is not None else None

    @property
    def working_kg(self) -> float | None:
        """The first working set as today allows it."""
        planned = self.planned_kg
        if planned is None:
            return None
        kilos = planned * self.first_rep.load_share
        return make_load(kilos, self.desk.plates, at_most_kg=kilos).total_kg

    @property
    def running(self) -> list[Prescribed]:
        """The athlete's correctives that run: they belong into every warm-up."""
        athlete = self._correctives.athlete
        return [
            one
            for one in self.desk.correctives
            if athlete is not None and one.athlete_id == athlete.id and one.runs
        ]

    def ensure(self) -> None:
        """Work everything out, if anything has changed."""
        if not self._stale:
            return
        self._stale = False
        self._complexes.ensure()
        athlete = self._correctives.athlete
        about = (athlete.id if athlete is not None else None, self._complexes.lift)
        if about != self._about:
            self._about, self.own_kg = about, None
        lift = self.lift
        self.opening = open_the_body(
            lift.family if isinstance(lift, Derivative) else "clean",
            self._complexes.person,
            60 * self.minutes,
            self.desk.content,
            self.teach.teaching,
            self._correctives.weights(),
        )
        kilos = self.working_kg
        self.steps = build_up(kilos, self.desk.plates) if kilos is not None else ()

    def set_minutes(self, minutes: int) -> None:
        if minutes != self.minutes:
            self.minutes = minutes
            self._again()

    def set_working(self, kilos: float) -> None:
        """Another first working set than the usual one."""
        if kilos != self.planned_kg:
            self.own_kg = kilos
            self._again()

    def set_lift(self, name: str) -> bool:
        return self._complexes.set_lift(name)

    @property
    def filmed(self) -> tuple[str, ...]:
        """The positions that a clip of today shows as not right."""
        today, content = self.desk.today(), self.desk.content
        seen = {
            POSITION_OF_PHASE.get(content.faults[one.fault].phase, "")
            for one in self._correctives.sightings()
            if one.source == "clip" and one.on == today and one.fault in content.faults
        }
        return tuple(name for name in self.positions if name in seen)

    def take_filmed(self) -> None:
        """Today's first rep as its clip shows it."""
        self._session.set_failed(self.filmed)

    def toggle_position(self, name: str) -> None:
        """A position of the first rep that did not hold, or holds after all."""
        now = self.failed
        failed = [one for one in self.positions if (one in now) != (one == name)]
        self._session.set_failed(tuple(failed))
