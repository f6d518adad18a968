"""The composer: what a complex is to be for, the string on the bench, and how it can be changed."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import Helper, Movement, parse_movement
from keen_kettle.core.plan import ComplexLoad, complex_versions, load_complex
from keen_kettle.core.prescribe.complexes import (
    SCHOOLS,
    Complex,
    Composed,
    Problem,
    Wish,
    Written,
    mend,
    obstacles_with,
    price_string,
    problems_of,
    read_part,
    read_written,
    wanted_from_faults,
)
from keen_kettle.core.teach import Person
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel
from keen_kettle.desk.work.tasks import Compose
from keen_kettle.store import KeptComplex, StoreError

__all__ = ["ComplexModel"]

MOST_PARTS = 8
EVEN = {"finish": 1.0, "under": 1.0}
"""What is wanted where nothing was seen that asks for more."""


class ComplexModel(QObject):
    """About the athlete that correctives are about; the string stays until another is taken."""

    changed = pyqtSignal()

    def __init__(self, correctives: CorrectiveModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk, self.teach = correctives.desk, correctives.teach
        self._correctives = correctives
        self.lift = "clean"
        self.own_lift = False
        """Whether the coach has chosen the lift of the day; until then it follows the athlete."""
        self.chosen: dict[str, float] = {}
        self.dropped: set[str] = set()
        self.most, self.reps, self.overhead = 5, 8, 3
        self.school = ""
        self.found: Composed | None = None
        self.movements: list[Movement] = []
        self.counts: list[int] = []
        self.trouble = ""
        self.unknown = ""
        """The part of a typed string that no movement is known by."""
        self.searching = False
        self.kept: list[KeptComplex] = []
        self._ticket = 0
        self._stale = True
        correctives.changed.connect(self._again)

    def _again(self) -> None:
        self._stale = True
        self.changed.emit()

    def ensure(self) -> None:
        """Look for the best complex, if what it is for has changed."""
        if not self._stale:
            return
        self._stale = False
        self.movements = [self._as_now(one) for one in self.movements]
        if not self.own_lift:
            family = self._correctives.family
            self.lift = "split jerk" if family == "jerk" else family
        try:
            self.kept = self.desk.shelf.prescribing.complexes()
        except StoreError as error:
            self.desk.trouble.emit(str(error))
        self._look()

    def _as_now(self, one: Movement) -> Movement:
        """An own movement as it stands now; one that was taken away stays in its string."""
        if isinstance(one, Helper) and one.nature is not None:
            own = self.desk.content.own_movements.values()
            return next((other for other in own if other.name == one.name), one)
        return one

    # The wish

    @property
    def person(self) -> Person:
        athlete = self._correctives.athlete
        return self.teach.person(athlete) if athlete is not None else Person()

    @property
    def weights(self) -> Mapping[str, float]:
        """How much each fault of the athlete asks to be answered."""
        return self._correctives.weights()

    def asked(self) -> dict[str, float]:
        """The qualities that the athlete's faults ask for."""
        return wanted_from_faults(self.weights, self.desk.content.qualities)

    @property
    def wanted(self) -> dict[str, float]:
        """What the complex is for: asked for by faults and not dropped, and what was added."""
        found = {name: weight for name, weight in self.asked().items() if name not in self.dropped}
        found |= {name: weight for name, weight in self.chosen.items() if name not in found}
        return found or dict(EVEN)

    def toggle(self, quality: str) -> None:
        """Want a quality, or not any more."""
        if quality in self.wanted:
            self.chosen.pop(quality, None)
            self.dropped.add(quality)
        else:
            self.dropped.discard(quality)
            if quality not in self.asked():
                self.chosen[quality] = 1.0
        self._again()

    def movement(self, name: str) -> Movement:
        """The movement of a name, the coach's own among them.

        Raises
        ------
        UnknownLift
            With the nearest known names.
        """
        return parse_movement(name, self.desk.content.own_movements)

    def set_lift(self, name: str) -> bool:
        """The lift of the day; whether its name can be read."""
        try:
            self.lift = parse_movement(name).name
        except UnknownLift as error:
            self.trouble = str(error)
            self.changed.emit()
            return False
        self.trouble = ""
        self.own_lift = True
        self._again()
        return True

    def set_limits(self, most: int, reps: int, overhead: int) -> None:
        if (most, reps, overhead) != (self.most, self.reps, self.overhead):
            self.most, self.reps, self.overhead = most, reps, overhead
            self._again()

    def set_school(self, school: str) -> None:
        if school in ("", *SCHOOLS) and school != self.school:
            self.school = school
            self._again()

    def wish(self, person: Person | None = None) -> Wish:
        return Wish(
            parse_movement(self.lift),
            self.wanted,
            person or self.person,
            fewest=min(3, self.most),
            most=self.most,
            reps=self.reps,
            overhead=self.overhead,
            school=self.school,
            own=tuple(dict.fromkeys(self.desk.content.own_movements.values())),
        )

    def _look(self) -> None:
        self._ticket += 1
        ticket, first = self._ticket, self.found is None
        self.searching = True

        def keep(found: Composed) -> None:
            if ticket != self._ticket:
                return
            self.searching = False
            before = self.found.best if self.found is not None else None
            untouched = before is not None and self.names == [one.name for one in before.parts]
            self.found = found
            if found.best is not None and (first or untouched or not self.movements):
                self._lay(found.best)
            self.changed.emit()

        def failed(words: str) -> None:
            self.searching = False
            self.desk.trouble.emit(words)

        older = lambda: ticket != self._ticket  # noqa: E731
        self.desk.jobs.ask(
            self.desk.answer_worker, Compose(self.wish()), keep, failed, unless=older
        )

    # The string on the bench

    @property
    def names(self) -> list[str]:
        return [one.name for one in self.movements]

    @property
    def string(self) -> Complex | None:
        """The string with its price; None while there is none, or one that is not possible."""
        if len(self.movements) < 2 or self.problems:
            return None
        return price_string(self.movements, self.counts, self.wanted)

    @property
    def problems(self) -> tuple[Problem, ...]:
        return problems_of(self.movements) if len(self.movements) > 1 else ()

    def shut(self, movement: Movement) -> str:
        """Why the athlete may not do a movement; empty where nothing stands against it."""
        against = obstacles_with(movement, movement.implement, self.person, self.teach.teaching)
        return next((one.says for one in against if one.kind != "untested"), "")

    def load(self, one: Complex) -> ComplexLoad:
        athlete = self._correctives.athlete
        return load_complex(
            one,
            athlete.bests_kg if athlete is not None else {},
            self.desk.plates,
            trained=athlete.trained if athlete is not None else False,
            beginner=self.person.beginner,
            bar=one.parts[0].movement.implement == "barbell",
        )

    def versions(self) -> Mapping[str, tuple[str, ...] | None]:
        """The same string with bar, dumbbells and bell."""
        one = self.string
        return complex_versions(one, self.movements) if one is not None else {}

    def _lay(self, one: Complex) -> None:
        self.movements = [part.movement for part in one.parts]
        self.counts = [part.reps for part in one.parts]

    def use(self, one: Complex) -> None:
        """Lay another complex on the bench."""
        self._lay(one)
        self.trouble = ""
        self.changed.emit()

    def type_in(self, text: str) -> bool:
        """Lay a written string on the bench; whether it could be read (it may still be impossible).

        A part may be the name of an own complex: it stands for what it is made of.
        """
        own = {one.name.casefold(): one.text for one in self.kept}
        parts = [own.get(part.strip().casefold(), part) for part in text.split("+")]
        try:
            written = read_written("+".join(parts), self.desk.content.own_movements)
        except UnknownLift as error:
            self.trouble = str(error)
            self.unknown = self._unknown_in(parts)
            self.changed.emit()
            return False
        self._take(written)
        return True

    def _unknown_in(self, parts: Sequence[str]) -> str:
        """The first of these parts that names no movement; empty where it is something else."""
        for part in parts:
            try:
                name, _ = read_part(part)
                self.movement(name)
            except UnknownLift:
                return name.strip() if len(parts) > 1 else ""
        return ""

    def _take(self, written: Written) -> None:
        self.movements, self.counts = list(written.movements), list(written.reps)
        self.trouble = self.unknown = ""
        self.changed.emit()

    def mended(self) -> Written | None:
        """The string made possible by the fewest movements put between its parts."""
        if not self.problems:
            return None
        now = Written(tuple(self.movements), tuple(self.counts), self.problems)
        return mend(now)

    def mend(self) -> None:
        made = self.mended()
        if made is not None:
            self._take(made)

    def move(self, here: int, there: int) -> None:
        """Put a part before the place `there` (counted before it is taken out)."""
        if not 0 <= here < len(self.movements):
            return
        part, count = self.movements.pop(here), self.counts.pop(here)
        place = min(max(there - (there > here), 0), len(self.movements))
        self.movements.insert(place, part)
        self.counts.insert(place, count)
        self.changed.emit()

    def problems_if(self, here: int, there: int) -> tuple[Problem, ...]:
        """What would be impossible if a part were put there."""
        parts = list(self.movements)
        part = parts.pop(here)
        parts.insert(min(max(there - (there > here), 0), len(parts)), part)
        return problems_of(parts)

    def add(self, name: str) -> bool:
        """Put a movement at the end; whether its name can be read."""
        if len(self.movements) >= MOST_PARTS:
            self.trouble = f"{MOST_PARTS} parts are enough for one string."
            self.changed.emit()
            return False
        try:
            made = self.movement(name)
        except UnknownLift as error:
            self.trouble = str(error)
            self.changed.emit()
            return False
        self.movements.append(made)
        self.counts.append(1)
        self.trouble = ""
        self.changed.emit()
        return True

    def remove(self, place: int) -> None:
        if 0 <= place < len(self.movements):
            del self.movements[place], self.counts[place]
            self.changed.emit()

    def set_count(self, place: int, count: int) -> None:
        self.counts[place] = count
        self.changed.emit()

    # Own complexes

    def keep(self, name: str) -> None:
        """Keep the string under a name; can be undone."""
        text = " + ".join(
            f"{count} {one}" if count > 1 else one
            for one, count in zip(self.names, self.counts, strict=True)
        )
        records = self.desk.shelf.prescribing
        made: list[int] = []
        one = KeptComplex(name.strip() or text, text, self.desk.today())

        def do() -> None:
            made[:] = [records.keep_complex(replace(one, id=made[0] if made else 0))]

        self.desk.change("keep a complex", do, lambda: records.drop_complex(made[0]))
        self._again()

    def drop(self, one: KeptComplex) -> None:
        """Take an own complex away; can be undone."""
        records = self.desk.shelf.prescribing
        self.desk.change(
            f"remove “{one.name}”",
            lambda: records.drop_complex(one.id),
            lambda: self._bring_back(one),
        )
        self._again()

    def _bring_back(self, one: KeptComplex) -> None:
        self.desk.shelf.prescribing.keep_complex(one)
