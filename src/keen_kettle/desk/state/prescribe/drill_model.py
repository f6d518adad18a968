"""The drill library: the shipped drills and the coach's own, found by fault, phase, lift, equipment."""

import re
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.content import Drill, OwnLibrary, read_library
from keen_kettle.core.errors import ContentError, KettleError, UnknownLift
from keen_kettle.core.lifts import Helper, Movement, by_their_names, parse_movement
from keen_kettle.core.prescribe import Effect, movement_of_drill
from keen_kettle.core.prescribe.complexes import (
    member_of,
    read_written,
    states_of,
    why_not_own,
)
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel
from keen_kettle.store import KeptComplex, StoreError, drill_document

__all__ = ["DrillModel"]

LARGEST = 400_000


class DrillModel(QObject):
    """What is typed and chosen narrows the list; own drills are kept with the records."""

    changed = pyqtSignal()

    def __init__(self, correctives: CorrectiveModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = correctives.desk
        self._correctives = correctives
        self.typed = self.fault = self.phase = self.family = self.thing = ""
        self.chosen = ""
        self.desk.records_changed.connect(self.changed)

    # Finding

    @property
    def drills(self) -> list[Drill]:
        """The drills that fit what is typed and chosen, by name."""
        found = [one for one in self.desk.content.drills.values() if self._fits(one)]
        return sorted(found, key=lambda one: self.name_of(one).casefold())

    def _fits(self, one: Drill) -> bool:
        if self.fault and self.fault not in one.answers:
            return False
        if self.phase and self.phase not in one.phases:
            return False
        if self.family and self.family not in one.families:
            return False
        if self.thing and not self._needs(one, self.thing):
            return False
        faults = " ".join(self.desk.content.faults[name].name for name in one.answers)
        whole = f"{self.name_of(one)} {faults} {one.how} {' '.join(one.phases)}".casefold()
        return all(word in whole for word in self.typed.casefold().split())

    @staticmethod
    def _needs(one: Drill, thing: str) -> bool:
        if thing == "nothing heavy":
            return one.kind == "stick" and not set(one.needs) - {"stick"}
        return thing in one.needs or (thing == "bar" and one.kind in ("bar", "share"))

    @property
    def things(self) -> list[str]:
        """Everything that a drill needs, to choose from."""
        needs = {thing for one in self.desk.content.drills.values() for thing in one.needs}
        return sorted({"bar", "nothing heavy", *needs})

    @property
    def phases(self) -> list[str]:
        found = [phase for one in self.desk.content.drills.values() for phase in one.phases]
        return list(dict.fromkeys(found))

    def narrow(self, **chosen: str) -> None:
        """Change what is typed, or the chosen fault, phase, family, thing."""
        for name, value in chosen.items():
            setattr(self, name, value)
        self.changed.emit()

    def name_of(self, one: Drill) -> str:
        """A drill's name in the chosen lift, or its first."""
        family = self.family if self.family in one.families else one.families[0]
        words = one.name.format(family=family)
        return words[:1].upper() + words[1:]

    def effects_of(self, one: Drill) -> list[tuple[str, Effect]]:
        """How often it helped here, by fault."""
        self._correctives.ensure()
        return [
            (self.desk.content.faults[fault].name.lower(), effect)
            for (drill, fault), effect in self._correctives.effects.items()
            if drill == one.id and fault in self.desk.content.faults
        ]

    def own(self, one: Drill) -> bool:
        return one.id in self.desk.own_drills

    # Own drills

    def checked(self, fields: dict[str, Any]) -> tuple[Drill | None, str]:
        """A drill from what was entered; or what is wrong with it, in words."""
        try:
            made = Drill.model_validate(fields)
        except ValidationError as error:
            first = error.errors()[0]
            where = " › ".join(str(part) for part in first["loc"]) or "drill"
            return None, f"{where}: {first['msg']}."
        own = self.desk.content.own_movements
        trouble = self._trouble(made, own)
        return (None, trouble) if trouble else (_with_needs(made, own), "")

    def movement_of(self, one: Drill) -> Movement | None:
        """The lift that a drill is, in the chosen lift's family or its first."""
        family = self.family if self.family in one.families else one.families[0]
        return movement_of_drill(one, family, self.desk.content.own_movements)

    def _trouble(self, one: Drill, own: Mapping[str, Helper]) -> str:
        """What a drill names that does not exist, or may not be."""
        unknown = [fault for fault in one.answers if fault not in self.desk.content.faults]
        if unknown:
            return f"There is no fault “{unknown[0]}”."
        if not one.answers:
            return "Say at least one fault that it answers."
        try:
            for family in one.families:
                one.name.format(family=family)
                if one.movement:
                    lift = "split jerk" if family == "jerk" else family
                    parse_movement(one.movement.format(family=lift), own)
        except UnknownLift as error:
            return f"Movement: {error}"
        except (KeyError, IndexError, ValueError):
            return "In a name only {family} may stand in braces."
        return ""

    def new_id(self, name: str) -> str:
        """An id that is free, from a name."""
        plain = re.sub(r"[^a-z0-9]+", "-", name.replace("{family}", "").casefold()).strip("-")
        base = (plain or "drill")[:50]
        known = self.desk.content.drills
        found, number = base, 2
        while found in known:
            found, number = f"{base}-{number}", number + 1
        return found

    def keep(self, drill: Drill) -> None:
        """Keep an own drill, new or changed; can be undone."""
        records = self.desk.shelf.prescribing
        old = self.desk.own_drills.get(drill.id)
        self.chosen = drill.id

        def undo() -> None:
            if old is None:
                records.drop_drill(drill.id)
            else:
                records.keep_drill(old)

        self.desk.change(f"keep “{self.name_of(drill)}”", lambda: records.keep_drill(drill), undo)

    def drop(self, drill: Drill) -> None:
        """Take an own drill away; a shipped one of the same id shows again. Can be undone."""
        records = self.desk.shelf.prescribing
        self.desk.change(
            f"remove “{self.name_of(drill)}”",
            lambda: records.drop_drill(drill.id),
            lambda: records.keep_drill(drill),
        )

    def take_in(self, path: Path) -> None:
        """Read drills, movements and complexes from a file and keep them as own ones, all or none."""
        try:
            if path.stat().st_size > LARGEST:
                raise ContentError(f"{path.name} is too large for drills.")
            found = read_library(path.read_text(encoding="utf-8"), path.name)
            found = self._checked_library(found, path.name)
        except (KettleError, UnicodeDecodeError) as error:
            words = str(error) if isinstance(error, KettleError) else "It is not UTF-8 text."
            self.desk.trouble.emit(f"{words} Nothing was taken in.")
            return
        except OSError as error:
            self.desk.trouble.emit(f"{path.name} cannot be read: {error.strerror}.")
            return
        self._keep_all(found, path.name)

    def _checked_library(self, found: OwnLibrary, name: str) -> OwnLibrary:
        """All of a file, if everything in it can stand beside what is kept.

        Raises
        ------
        ContentError, UnknownLift
            Saying what cannot.
        """
        names = {one.name for one in found.movements}
        kept = [one for one in self.desk.own_movements.values() if one.name not in names]
        own = by_their_names(one.as_movement() for one in kept)
        for one in found.movements:
            said = why_not_own(one, self.desk.content.qualities, own)
            if said:
                raise ContentError(f"{name}, “{one.name}”: {said}")
            own |= by_their_names([one.as_movement()])
        for drill in found.drills:
            said = self._trouble(drill, own)
            if said:
                raise ContentError(f"{name}, “{drill.id}”: {said}")
        for string in found.complexes:
            read_written(string.text, own)
        return replace(found, drills=tuple(_with_needs(one, own) for one in found.drills))

    def _keep_all(self, found: OwnLibrary, name: str) -> None:
        records, today = self.desk.shelf.prescribing, self.desk.today()
        drills, movements = dict(self.desk.own_drills), dict(self.desk.own_movements)
        numbers = [0] * len(found.complexes)

        def do() -> None:
            for movement in found.movements:
                records.keep_movement(movement)
            for drill in found.drills:
                records.keep_drill(drill)
            for place, string in enumerate(found.complexes):
                kept = KeptComplex(string.name, string.text, today, numbers[place])
                numbers[place] = records.keep_complex(kept)

        def undo() -> None:
            for number in numbers:
                records.drop_complex(number)
            for drill in found.drills:
                if drill.id in drills:
                    records.keep_drill(drills[drill.id])
                else:
                    records.drop_drill(drill.id)
            for movement in found.movements:
                if movement.name in movements:
                    records.keep_movement(movements[movement.name])
                else:
                    records.drop_movement(movement.name)

        self.desk.change(f"take in {name}", do, undo)
        self.desk.said.emit(
            f"Taken in: {_counted(len(found.drills), 'drill')}, "
            f"{_counted(len(found.movements), 'movement')}, "
            f"{_counted(len(found.complexes), 'complex', 'complexes')}."
        )

    def document(self) -> str:
        """The coach's own drills, movements and complexes (without any, the chosen drill) as a
        drill file."""
        own = list(self.desk.own_drills.values())
        movements = list(self.desk.own_movements.values())
        try:
            strings = self.desk.shelf.prescribing.complexes()
        except StoreError as error:
            self.desk.trouble.emit(str(error))
            strings = []
        chosen = self.desk.content.drills.get(self.chosen)
        alone = [chosen] if chosen is not None and not (strings or movements) else []
        return drill_document(own or alone, strings, movements)


def _counted(count: int, one: str, many: str = "") -> str:
    return f"{count} {one if count == 1 else many or one + 's'}"


def _with_needs(one: Drill, own: Mapping[str, Helper]) -> Drill:
    """With what its movement holds: a catch, the rack, work overhead. So no caution is passed by."""
    movements = [movement_of_drill(one, family, own) for family in one.families]
    ends = {post.place for movement in movements if movement for _, post in states_of(movement)}
    caught = any(lift is not None and member_of(lift).caught for lift in movements)
    return one.model_copy(
        update={
            "catches": one.catches or caught,
            "overhead": one.overhead or "overhead" in ends,
            "racked": one.racked or "front rack" in ends,
        }
    )
