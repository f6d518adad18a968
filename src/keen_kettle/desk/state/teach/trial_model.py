"""Try-outs and jumps of the chosen athlete: what was tried, which became their lift, how high they jump."""

from collections.abc import Callable
from dataclasses import replace
from typing import TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import parse_movement
from keen_kettle.core.teach import TriedOut, Try, compare_tries
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.store import Athlete, Jump, KeptTry, StoreError

__all__ = ["TrialModel"]

T = TypeVar("T")


class TrialModel(QObject):
    """Reads and keeps; every change can be undone."""

    changed = pyqtSignal()

    def __init__(self, desk: DeskModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        desk.records_changed.connect(self.changed)
        desk.who_changed.connect(self.changed)

    @property
    def athlete(self) -> Athlete | None:
        return self.desk.athlete(self.desk.who)

    def tries_today(self) -> list[KeptTry]:
        """What the chosen athlete has tried in this visit."""
        athlete = self.athlete
        if athlete is None:
            return []
        kept = self._read(lambda: self.desk.shelf.teaching.tries(athlete.id))
        return [one for one in kept if one.on == self.desk.today()]

    def best(self) -> TriedOut | None:
        return compare_tries([one.tried for one in self.tries_today()])

    def add_try(self, written: str, met: int, asked: int, liked: int, speed: float | None) -> bool:
        """Keep a variant as the coach names it; a name that cannot be read is told."""
        athlete = self.athlete
        if athlete is None:
            return False
        try:
            movement = parse_movement(written)
        except UnknownLift as error:
            self.desk.trouble.emit(str(error))
            return False
        tried = Try(movement.name, min(met, asked), asked, liked, speed)
        one = KeptTry(athlete.id, self.desk.today(), tried)
        kept = self.desk.shelf.teaching
        number = [0]

        def do() -> None:
            number[0] = kept.add_try(replace(one, id=number[0]))

        self.desk.change(f"try a {movement.name}", do, lambda: kept.drop_try(number[0]))
        return True

    def drop_try(self, one: KeptTry) -> None:
        kept = self.desk.shelf.teaching

        def undo() -> None:
            kept.add_try(one)

        self.desk.change(f"take back {one.tried.movement}", lambda: kept.drop_try(one.id), undo)

    def make_own(self, movement: str) -> None:
        """The variant that is this athlete's lift for now."""
        athlete = self.athlete
        if athlete is not None:
            self.desk.change_athlete(replace(athlete, own_lift=movement))
            self.desk.said.emit(f"{athlete.name}’s lift for now: {movement}.")

    # Jumps

    def jumps(self) -> list[Jump]:
        athlete = self.athlete
        if athlete is None:
            return []
        return self._read(lambda: self.desk.shelf.teaching.jumps(athlete.id))

    def add_jump(self, height_m: float) -> None:
        athlete = self.athlete
        if athlete is None or height_m <= 0:
            return
        kept = self.desk.shelf.teaching
        one = Jump(athlete.id, self.desk.today(), height_m)
        number = [0]

        def do() -> None:
            number[0] = kept.add_jump(replace(one, id=number[0]))

        self.desk.change(f"note a jump of {athlete.name}", do, lambda: kept.drop_jump(number[0]))

    def _read(self, read: Callable[[], list[T]]) -> list[T]:
        try:
            return read()
        except StoreError as error:
            self.desk.trouble.emit(str(error))
            return []
