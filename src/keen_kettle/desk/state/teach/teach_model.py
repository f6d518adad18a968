"""What Screen and Teach share: who stands where, what was seen today, what the rule advises.

Records are read when they are first needed and when they change. Advice is reckoned in small
slices while the window is idle, so that a board of hundreds never holds the window up.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from datetime import timedelta
from typing import TypeVar

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from keen_kettle.core.content import Asked, Ladder, Teaching, load_teaching
from keen_kettle.core.teach import (
    Advice,
    CheckResult,
    Person,
    StageCost,
    Step,
    TaughtStage,
    Visit,
    advise,
    current_places,
    roll_call_of,
    stage_costs,
    taught_stages,
    visits_here,
)
from keen_kettle.desk.state.records.desk_model import Change, DeskModel
from keen_kettle.desk.state.teach.board_row import BoardRow
from keen_kettle.store import (
    Athlete,
    Group,
    KeptStep,
    KeptVisit,
    Screening,
    StoreError,
    person_of,
)

__all__ = ["TeachModel"]

T = TypeVar("T")

SLICE = 6
"""Rows whose advice is reckoned in one idle turn."""


class TeachModel(QObject):
    """Rows of the chosen who, with their advice; every change can be undone."""

    changed = pyqtSignal()
    row_changed = pyqtSignal(int, str)
    advice_ready = pyqtSignal()

    def __init__(self, desk: DeskModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._shipped: Teaching = load_teaching()
        self.teaching: Teaching = self._shipped
        self._own: list[Ladder] = []
        self.house: dict[str, str] = {}
        self.words: dict[str, str] = {}
        self.costs: dict[tuple[str, str], StageCost] = {}
        self.checks: dict[int, dict[str, CheckResult]] = {}
        self._visits: dict[int, list[KeptVisit]] = {}
        self._steps: dict[int, list[KeptStep]] = {}
        self._rows: dict[tuple[int, str], BoardRow] = {}
        self._stale = True
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self._reckon_slice)
        desk.records_changed.connect(self.forget)
        desk.who_changed.connect(self.changed)

    # Reading

    def forget(self) -> None:
        """Records changed: read them again when next needed."""
        self._stale = True
        self.changed.emit()

    def ensure(self) -> None:
        """Read what teaching needs, if it has changed."""
        if not self._stale:
            return
        kept = self.desk.shelf.teaching
        try:
            self.house = self.desk.shelf.house_school()
            self.words = self.desk.shelf.house_words()
            self.costs = stage_costs(_by_athlete(kept.all_steps()))
            self._take_own(kept.own_ladders())
            self.checks = kept.newest_checks()
            self._visits = kept.recent_visits()
            self._steps = kept.newest_steps()
        except StoreError as error:
            self.desk.trouble.emit(str(error))
        self._stale = False
        self._rows = {row.key: row for one in self.desk.active for row in self._rows_of(one)}
        self._idle.start(20)
        self.advice_ready.emit()

    def _take_own(self, own: list[Ladder]) -> None:
        """Own ladders beside the shipped ones; the same content stays the same object."""
        if own != self._own:
            self._own = own
            self.teaching = self._shipped.with_own(own)

    def rows(self) -> list[BoardRow]:
        """The rows of the chosen who, by name."""
        self.ensure()
        inside = self.desk.inside
        return [row for row in self._rows.values() if inside(row.athlete.id)]

    def known_rows(self) -> list[BoardRow]:
        """The rows of the chosen who as far as they were read already."""
        return [row for row in self._rows.values() if self.desk.inside(row.athlete.id)]

    def row(self, athlete: int, ladder: str) -> BoardRow | None:
        self.ensure()
        return self._rows.get((athlete, ladder))

    def person(self, athlete: Athlete) -> Person:
        self.ensure()
        return person_of(athlete, self.checks.get(athlete.id, {}), self.house, self.desk.today())

    def steps_of(self, athlete: int) -> list[KeptStep]:
        return self._read(lambda: self.desk.shelf.teaching.steps(athlete))

    def week(self) -> list[KeptStep]:
        """What changed in the last seven days for the chosen who, newest first."""
        since = self.desk.today() - timedelta(days=7)
        found = self._read(lambda: self.desk.shelf.teaching.steps_since(since))
        return [one for one in found if self.desk.inside(one.athlete_id)]

    def visits_of(self, athlete: int) -> list[KeptVisit]:
        """The last visits of an athlete, oldest first."""
        self.ensure()
        return self._visits.get(athlete, [])

    def stages(self, ladder: str, athlete: Athlete | None = None) -> tuple[TaughtStage, ...]:
        """A ladder as the house (or the athlete's own school) teaches it."""
        self.ensure()
        school = {**self.house, **(athlete.school if athlete is not None else {})}
        return taught_stages(self.teaching.ladders[ladder], school, self.teaching)

    def stage_name(self, ladder: str, stage: str) -> str:
        found = self.teaching.ladders.get(ladder)
        named = found.stage_named(stage) if found is not None else None
        return named.name if named is not None else stage

    def _read(self, read: Callable[[], list[T]]) -> list[T]:
        try:
            return read()
        except StoreError as error:
            self.desk.trouble.emit(str(error))
            return []

    def _rows_of(self, athlete: Athlete) -> Iterator[BoardRow]:
        steps = [one.step for one in self._steps.get(athlete.id, ())]
        places = current_places(steps)
        kept = self._visits.get(athlete.id, [])
        found = False
        for ladder_id, place in places.items():
            ladder = self.teaching.ladders.get(ladder_id)
            if ladder is None:
                continue
            found = True
            taught = {one.id: one for one in self.stages(ladder_id, athlete)}
            here = visits_here(ladder_id, place.stage, [one.visit for one in kept])
            yield BoardRow(
                athlete,
                ladder,
                taught.get(place.stage),
                place.stage,
                place.on,
                tuple(one for one in kept if one.visit in here),
            )
        if not found:
            yield BoardRow(athlete)

    def _with_advice(self, row: BoardRow) -> BoardRow:
        if row.ladder is None:
            return row
        visits = [one.visit for one in self._visits.get(row.athlete.id, ())]
        return replace(row, advice=self._ask(row, row.ladder.id, row.stage, visits))

    def _ask(self, row: BoardRow, ladder: str, stage: str, visits: list[Visit]) -> Advice:
        """What the rule says of somebody on a stage, at the pace of their group."""
        pace, weeks = self.pace_of(row.athlete.id)
        return advise(
            ladder,
            stage,
            self.person(row.athlete),
            visits,
            self.teaching,
            steps=[one.step for one in self._steps.get(row.athlete.id, ())],
            faults=self.desk.content.faults,
            pace=pace,
            weeks=weeks,
            step_kg=self.desk.plates.smallest_step_kg,
        )

    def pace_of(self, athlete: int) -> tuple[str, int]:
        """Pace and weeks of the athlete's group; nothing where no group says."""
        paced = [one for one in self.desk.groups if one.pace and athlete in one.athletes]
        return (paced[0].pace, paced[0].weeks) if paced else ("", 0)

    def roll_call(self, row: BoardRow) -> tuple[Asked, ...]:
        """What is asked of the set-up before this row's stage."""
        return roll_call_of(row.taught.stage, self.teaching) if row.taught is not None else ()

    def words_of(self, row: BoardRow) -> list[str]:
        """The house words of the ladder up to this stage, in the order in which they were added."""
        if row.ladder is None:
            return []
        found: list[str] = []
        for taught in self.stages(row.ladder.id, row.athlete):
            word = self.words.get(taught.stage.word, taught.stage.word)
            if word and word not in found:
                found.append(word)
            if taught.id == row.stage:
                break
        return found

    def keep_words(self, words: dict[str, str]) -> None:
        """What this house calls the words that stages add."""
        old, shelf = dict(self.words), self.desk.shelf
        if words != old:
            self.desk.change(
                "choose the house words",
                lambda: shelf.keep_house_words(words),
                lambda: shelf.keep_house_words(old),
            )

    def set_pace(self, group: Group, pace: str, weeks: int) -> None:
        """How fast a group goes through its ladders."""
        kept = self.desk.shelf.teaching
        if (pace, weeks) != (group.pace, group.weeks):
            self.desk.change(
                f"set the pace of {group.name}",
                lambda: kept.set_pace(group.id, pace, weeks),
                lambda: kept.set_pace(group.id, group.pace, group.weeks),
            )

    def _reckon_slice(self) -> None:
        if self._stale:
            return
        waiting = [
            row for row in self._rows.values() if row.advice is None and row.ladder is not None
        ]
        for row in waiting[:SLICE]:
            self._rows[row.key] = self._with_advice(row)
        if waiting[SLICE:]:
            self._idle.start(0)
        elif waiting:
            self.advice_ready.emit()

    @property
    def waiting(self) -> bool:
        """Whether some advice is still to be reckoned."""
        return any(row.advice is None and row.ladder is not None for row in self._rows.values())

    # Visits of today

    def draft(self, row: BoardRow) -> KeptVisit:
        """Today's visit to the row's stage: the kept one, or an empty one."""
        today = self.desk.today()
        for one in row.visits:
            if one.visit.on == today:
                return one
        assert row.ladder is not None
        asked = len(row.taught.points) if row.taught is not None else 0
        return KeptVisit(row.athlete.id, Visit(today, row.ladder.id, row.stage, asked=asked))

    def change_draft(self, row: BoardRow, words: str, new: KeptVisit) -> None:
        """Keep today's visit as it now is, with what the rule says about it."""
        old = self.draft(row)
        if new == old:
            return
        kept = self.desk.shelf.teaching
        number = [old.id]

        def do() -> None:
            number[0] = kept.keep_visit(self._advised(row, replace(new, id=number[0])))

        def undo() -> None:
            if old.id:
                kept.keep_visit(old)
            else:
                kept.drop_visit(number[0])

        self._change_one(f"{words} ({row.athlete.name})", row.athlete.id, do, undo)

    def toggle_point(self, row: BoardRow, place: int) -> None:
        draft = self.draft(row)
        met = set(draft.visit.met) ^ {place}
        visit = replace(draft.visit, met=tuple(sorted(met)))
        self.change_draft(row, "mark a point", replace(draft, visit=visit))

    def all_points(self, row: BoardRow) -> None:
        draft = self.draft(row)
        whole = tuple(range(draft.visit.asked))
        met = () if draft.visit.met == whole else whole
        self.change_draft(
            row, "mark all points", replace(draft, visit=replace(draft.visit, met=met))
        )

    def toggle_fault(self, row: BoardRow, fault: str) -> None:
        draft = self.draft(row)
        seen = [one for one in draft.visit.faults if one != fault]
        if len(seen) == len(draft.visit.faults):
            seen.append(fault)
        visit = replace(draft.visit, faults=tuple(seen))
        self.change_draft(row, "tag a fault", replace(draft, visit=visit))

    def set_seen(self, row: BoardRow, words: str, **fields: object) -> None:
        """Change plain fields of today's visit: reps, load_kg, enjoyment, pain, confidence, verdict."""
        draft = self.draft(row)
        visit = replace(draft.visit, **fields)  # type: ignore[arg-type]
        self.change_draft(row, words, replace(draft, visit=visit))

    def _advised(self, row: BoardRow, new: KeptVisit) -> KeptVisit:
        others = [one.visit for one in self._visits.get(row.athlete.id, ()) if one.id != new.id]
        advice = self._ask(row, new.visit.ladder, new.visit.stage, [*others, new.visit])
        return replace(new, advised=advice.kind, reason=advice.reason)

    # Deciding

    def decide(
        self, row: BoardRow, kind: str, to: tuple[str, str] | None = None, why: str = ""
    ) -> None:
        """What the coach decides: advance, stay, step back, swap, hold; `to` is (ladder, stage)."""
        assert row.ladder is not None
        kept = self.desk.shelf.teaching
        today = self.desk.today()
        ladder, stage = to or (row.ladder.id, row.stage)
        steps = [Step(today, ladder, stage, kind)]
        if ladder != row.ladder.id:
            steps.insert(0, Step(today, row.ladder.id, row.stage, "leave"))
        draft = self.draft(row)
        made: list[int] = []

        def do() -> None:
            made[:] = [kept.take_step(KeptStep(row.athlete.id, step, why)) for step in steps]
            if draft.id:
                kept.keep_visit(replace(draft, decided=kind, why=why))

        def undo() -> None:
            for number in made:
                kept.drop_step(number)
            if draft.id:
                kept.keep_visit(draft)

        name = self.stage_name(ladder, stage)
        self._change_one(f"{kind}: {row.athlete.name}", row.athlete.id, do, undo)
        self.desk.said.emit(f"{row.athlete.name}: {kind} – {name}.")

    def begin(self, athlete: Athlete, ladder: str, stage: str) -> None:
        """Put an athlete on a ladder."""
        kept = self.desk.shelf.teaching
        step = Step(self.desk.today(), ladder, stage, "start")
        made: list[int] = []

        def do() -> None:
            made[:] = [kept.take_step(KeptStep(athlete.id, step))]

        self._change_one(f"start {athlete.name}", athlete.id, do, lambda: kept.drop_step(made[0]))
        name = self.stage_name(ladder, stage)
        self.desk.said.emit(f"{athlete.name} begins: {name}.")

    # Screening

    def screen(self, athlete: int, check: str, state: str, note: str = "") -> None:
        """Keep a result of today; an earlier one of today is written over."""
        kept = self.desk.shelf.teaching
        today = self.desk.today()
        before = [
            one
            for one in self._read(lambda: kept.screenings(athlete))
            if one.check == check and one.on == today
        ]
        made: list[int] = []

        def do() -> None:
            for one in before:
                kept.unscreen(one.id)
            made[:] = [kept.screen(Screening(athlete, check, state, today, note))]

        def undo() -> None:
            kept.unscreen(made[0])
            for one in reversed(before):
                kept.screen(one)

        self._change_one(f"screen {self.teaching.checks[check].name}", athlete, do, undo)

    # Ladders and schools

    def keep_ladder(self, ladder: Ladder) -> None:
        """Keep an own ladder (new or changed)."""
        kept = self.desk.shelf.teaching
        old = self.teaching.ladders.get(ladder.id) if ladder.id in self.teaching.own else None

        def undo() -> None:
            if old is None:
                kept.remove_ladder(ladder.id)
            else:
                kept.keep_ladder(old)

        self.desk.change(f"change “{ladder.name}”", lambda: kept.keep_ladder(ladder), undo)

    def remove_ladder(self, name: str) -> None:
        """Take an own ladder away (a shipped one of the same id shows again)."""
        kept = self.desk.shelf.teaching
        old = self.teaching.ladders[name]
        self.desk.change(
            f"remove “{old.name}”", lambda: kept.remove_ladder(name), lambda: kept.keep_ladder(old)
        )

    def choose_school(self, question: str, answer: str) -> None:
        """The house's answer to a question of schools."""
        old = dict(self.house)
        new = {**old, question: answer}
        shelf = self.desk.shelf
        self.desk.change(
            "choose the house’s school",
            lambda: shelf.keep_house_school(new),
            lambda: shelf.keep_house_school(old),
        )

    # Changing one athlete only

    def _change_one(
        self, words: str, athlete: int, do: Callable[[], None], undo: Callable[[], None]
    ) -> None:
        """An undoable change after which only this athlete is read again."""

        def guarded(act: Callable[[], None]) -> Callable[[], bool]:
            def run() -> bool:
                try:
                    act()
                except StoreError as error:
                    self.desk.trouble.emit(str(error))
                    return False
                finally:
                    self._refresh(athlete)
                return True

            return run

        self.desk.undo_stack.push(Change(words, guarded(do), guarded(undo)))

    def _refresh(self, number: int) -> None:
        athlete = self.desk.athlete(number)
        if athlete is None or self._stale:
            self.forget()
            return
        kept = self.desk.shelf.teaching
        try:
            self._visits[number] = kept.visits(number)[-6:]
            self._steps[number] = kept.steps(number)
            found: dict[str, CheckResult] = {}
            for one in reversed(kept.screenings(number)):
                found[one.check] = CheckResult(one.state, one.on)
            self.checks[number] = found
        except StoreError as error:
            self.desk.trouble.emit(str(error))
        before = {key for key in self._rows if key[0] == number}
        rows = {row.key: self._with_advice(row) for row in self._rows_of(athlete)}
        if before != set(rows):
            for key in before:
                del self._rows[key]
        self._rows.update(rows)
        if before != set(rows):
            self._rows = dict(
                sorted(self._rows.items(), key=lambda item: item[1].athlete.name.casefold())
            )
            self.changed.emit()
        else:
            for _, ladder in rows:
                self.row_changed.emit(number, ladder)


def _by_athlete(steps: list[KeptStep]) -> Iterable[list[Step]]:
    found: dict[int, list[Step]] = {}
    for one in steps:
        found.setdefault(one.athlete_id, []).append(one.step)
    return found.values()
