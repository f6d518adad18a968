"""The coach's own movements: checked as they are entered, kept with the records."""

from typing import Any

from pydantic import ValidationError
from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.content import OwnMovement
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import HELPERS, all_derivatives, by_their_names
from keen_kettle.core.prescribe.complexes import why_not_own
from keen_kettle.core.simulate import figure_of
from keen_kettle.desk.state.records.desk_model import DeskModel

__all__ = ["MovementModel"]


class MovementModel(QObject):
    """What the coach's own words stand for in strings and drills."""

    changed = pyqtSignal()

    def __init__(self, desk: DeskModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        desk.records_changed.connect(self.changed)

    @property
    def movements(self) -> list[OwnMovement]:
        return sorted(self.desk.own_movements.values(), key=lambda one: one.name.casefold())

    def shown_as(self) -> list[str]:
        """The movements whose figure can show an own one."""
        bar = [one for one in all_derivatives() if one.implement == "barbell"]
        lifts = [one.name for one in bar if not one.countermovement]
        return lifts + [one.name for one in HELPERS.values() if figure_of(one) is not None]

    def checked(
        self, fields: dict[str, Any], before: OwnMovement | None = None
    ) -> tuple[OwnMovement | None, str]:
        """A movement from what was entered, in place of the one `before`; or what is wrong with it."""
        try:
            made = OwnMovement.model_validate(fields)
            trouble = self.trouble(made, [before.name] if before is not None else [])
        except ValidationError as error:
            first = error.errors()[0]
            where = str(first["loc"][0]).replace("_", " ") + ": " if first["loc"] else ""
            words = first["msg"].removeprefix("Value error, ")
            return None, f"{where}{words}."
        except UnknownLift as error:
            return None, str(error)
        return (None, trouble) if trouble else (made, "")

    def trouble(self, one: OwnMovement, without: list[str]) -> str:
        """What speaks against a movement beside the own ones, those `without` left out."""
        others = [other for other in self.movements if other.name not in without]
        names = by_their_names(other.as_movement() for other in others)
        return why_not_own(one, self.desk.content.qualities, names)

    def keep(self, one: OwnMovement, before: OwnMovement | None = None) -> None:
        """Keep a movement, in place of the one `before`; can be undone."""
        records = self.desk.shelf.prescribing

        def do() -> None:
            if before is not None and before.name != one.name:
                records.drop_movement(before.name)
            records.keep_movement(one)

        def undo() -> None:
            if before is None or before.name != one.name:
                records.drop_movement(one.name)
            if before is not None:
                records.keep_movement(before)

        self.desk.change(f"keep “{one.name}”", do, undo)

    def drop(self, one: OwnMovement) -> None:
        """Take a movement away; can be undone. Strings that name it say that it is not known."""
        records = self.desk.shelf.prescribing
        self.desk.change(
            f"remove “{one.name}”",
            lambda: records.drop_movement(one.name),
            lambda: records.keep_movement(one),
        )
