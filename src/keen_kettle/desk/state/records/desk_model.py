"""What the whole window is about: who is chosen, which station is open, and the records kept."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import cast

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from keen_kettle.core.clip import content_hash
from keen_kettle.core.content import Content, Drill, OwnLibrary, OwnMovement
from keen_kettle.core.plan import PlateSet
from keen_kettle.desk.state.records.reading import remove_films
from keen_kettle.desk.work.worker_process import WorkerProcess
from keen_kettle.desk.work.workers import BEHIND, GIVE_WAY, Jobs
from keen_kettle.store import (
    Athlete,
    Clip,
    Group,
    NewAthlete,
    Prescribed,
    Shelf,
    StoreError,
)

__all__ = ["Change", "DeskModel", "reasons_changed"]


class Change(QUndoCommand):
    """One change that can be taken back: two calls, there and back, that say whether they worked.

    A change that could not be made leaves the stack again.
    """

    def __init__(self, words: str, do: Callable[[], bool], undo: Callable[[], bool]) -> None:
        super().__init__(words)
        self._do, self._undo = do, undo

    def redo(self) -> None:
        self.setObsolete(not self._do())

    def undo(self) -> None:
        self.setObsolete(not self._undo())


class DeskModel(QObject):
    """The records of the chosen who, and the place in the loop."""

    records_changed = pyqtSignal()
    clips_changed = pyqtSignal()
    who_changed = pyqtSignal()
    station_changed = pyqtSignal(str)
    page_wanted = pyqtSignal(str)
    said = pyqtSignal(str)
    trouble = pyqtSignal(str)
    clip_wanted = pyqtSignal(int)
    clip_missing = pyqtSignal(int)

    def __init__(
        self,
        shelf: Shelf,
        content: Content,
        today: Callable[[], date],
        answer_worker: WorkerProcess | None = None,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.shelf = shelf
        self.content = content
        self._shipped = content
        self.own_drills: dict[str, Drill] = {}
        self.own_movements: dict[str, OwnMovement] = {}
        self.today = today
        self.undo_stack = QUndoStack(self)
        self.jobs = Jobs(self)
        self.looking_worker = WorkerProcess(BEHIND)
        """Looks through the open film for the plate and the lifter: seconds."""
        self.answer_worker = answer_worker or WorkerProcess(GIVE_WAY, tries=2)
        """Works out what follows: tenths of a second."""
        self.station = "Film"
        self.who: int | None = None
        self.group: int | None = None
        self.athletes: list[Athlete] = []
        self.groups: list[Group] = []
        self.clips: list[Clip] = []
        self.correctives: list[Prescribed] = []
        self.plates = PlateSet()
        shelf.when_the_disk_refuses(self.trouble.emit)
        self.reload()

    def close(self) -> None:
        """End all work, and close the records."""
        self.jobs.stop_all()
        self.looking_worker.close()
        self.answer_worker.close()
        self.jobs.wait_all()
        self.shelf.close()

    # Reading

    def reload(self) -> None:
        """Read everything again and tell everyone; with years of clips that is felt."""
        try:
            self.clips = self.shelf.clips()
        except StoreError as error:
            self.trouble.emit(str(error))
        self.reread_records()
        self.clips_changed.emit()

    def reread_records(self) -> None:
        """Read athletes, groups, plates, correctives and the own library again: all but clips."""
        try:
            self.athletes = self.shelf.athletes()
            self.groups = self.shelf.teaching.groups()
            self.correctives = self.shelf.prescribing.correctives()
            self.plates = self.shelf.plates()
            self._take_own(*self.shelf.prescribing.own_library())
        except StoreError as error:
            self.trouble.emit(str(error))
        self.records_changed.emit()

    def _take_own(self, own: OwnLibrary, troubles: list[str]) -> None:
        """The coach's own drills and movements beside the shipped ones."""
        drills = {one.id: one for one in own.drills}
        movements = {one.name: one for one in own.movements}
        if (drills, movements) != (self.own_drills, self.own_movements):
            self.own_drills, self.own_movements = drills, movements
            self.content = self._shipped.with_own(
                own.drills, [one.as_movement() for one in own.movements]
            )
        if troubles:
            self.trouble.emit(f"{troubles[0]} It is left out; the others stand.")

    def reread_clips(self, numbers: Collection[int]) -> None:
        """Read some clips again: new ones, changed ones, those that are gone."""
        try:
            fresh = self.shelf.clips(numbers)
        except StoreError as error:
            self.trouble.emit(str(error))
            return
        read = set(numbers)
        others = [clip for clip in self.clips if clip.id not in read]
        self.clips = sorted(
            [*others, *fresh], key=lambda clip: (clip.filmed_on, clip.id), reverse=True
        )
        self.clips_changed.emit()

    def athlete(self, number: int | None) -> Athlete | None:
        return next((one for one in self.athletes if one.id == number), None)

    @property
    def active(self) -> list[Athlete]:
        """Those who are not archived."""
        return [one for one in self.athletes if one.archived_on is None]

    def inside(self, athlete: int | None) -> bool:
        """Whether an athlete (or nobody) belongs to the chosen who."""
        if self.who is not None:
            return athlete == self.who
        chosen = self.chosen_group
        return chosen is None or athlete in chosen.athletes

    @property
    def chosen_group(self) -> Group | None:
        return next((one for one in self.groups if one.id == self.group), None)

    def people(self) -> list[Athlete]:
        """The active athletes of the chosen who."""
        return [one for one in self.active if self.inside(one.id)]

    def clips_of_who(self) -> list[Clip]:
        return [clip for clip in self.clips if self.inside(clip.athlete_id)]

    def correctives_of_who(self) -> list[Prescribed]:
        return [one for one in self.correctives if self.inside(one.athlete_id)]

    # Going about

    def choose_who(self, number: int | None, group: int | None = None) -> None:
        """An athlete, or a group, or (with neither) everyone."""
        if (number, group) != (self.who, self.group):
            self.who, self.group = number, group
            self.who_changed.emit()

    def go_to(self, station: str) -> None:
        if station != self.station:
            self.station = station
            self.station_changed.emit(station)

    def open_clip(self, number: int) -> None:
        """Ask for a clip on Review; where its film has gone, ask for the film instead."""
        clip = next((one for one in self.clips if one.id == number), None)
        if clip is None:
            return
        if not clip.path.is_file():
            self.clip_missing.emit(number)
            return
        self.clip_wanted.emit(number)
        self.go_to("Review")

    # Changing

    def change(
        self,
        words: str,
        do: Callable[[], None],
        undo: Callable[[], None],
        clips: Collection[int] = (),
        only_clips: bool = False,
    ) -> None:
        """Do something that can be undone; what cannot be saved is told and not kept on the stack.

        The records are read again afterwards (unless it is about clips alone), and the clips that are
        named.
        """

        def reread() -> None:
            if not only_clips:
                self.reread_records()
            if clips:
                self.reread_clips(clips)

        def guarded(act: Callable[[], None]) -> Callable[[], bool]:
            def run() -> bool:
                try:
                    act()
                except StoreError as error:
                    self.trouble.emit(str(error))
                    return False
                finally:
                    reread()
                return True

            return run

        self.undo_stack.push(Change(words, guarded(do), guarded(undo)))

    def change_clips(self, words: str, changes: Mapping[int, Mapping[str, object]]) -> None:
        """Change fields of clips by their numbers; can be undone.

        Both ways only the fields that differ are written, so what the background or an act that is
        not on the stack has changed meanwhile stands.
        """
        there: dict[int, dict[str, object]] = {}
        back: dict[int, dict[str, object]] = {}
        try:
            present = [self.shelf.clip(number) for number in changes]
        except StoreError as error:
            self.trouble.emit(str(error))
            return
        for clip in present:
            for name, new in changes[clip.id].items():
                old = getattr(clip, name)
                if name == "guess":
                    new, old = reasons_changed(clip.guess, cast("dict[str, str]", new))
                if new != old:
                    there.setdefault(clip.id, {})[name] = new
                    back.setdefault(clip.id, {})[name] = old
        if there:
            shelf = self.shelf
            self.change(
                words,
                lambda: shelf.change_clips(there),
                lambda: shelf.change_clips(back),
                clips=list(there),
                only_clips=True,
            )

    def add_athlete(self, athlete: NewAthlete) -> None:
        try:
            number = self.shelf.add_athlete(athlete)
        except StoreError as error:
            self.trouble.emit(str(error))
            return
        self.reread_records()
        self.choose_who(number)
        self.said.emit(f"{athlete.name} is entered.")

    def add_athletes(self, many: Sequence[tuple[NewAthlete, Sequence[str]]]) -> list[int]:
        """Keep several athletes with the names of their groups; as one change that can be undone."""
        teaching = self.shelf.teaching
        numbers: list[int] = []

        def do() -> None:
            people = [athlete for athlete, _ in many]
            if numbers:  # done again: later changes know them by these numbers
                people = [
                    Athlete(**vars(one), id=number)
                    for one, number in zip(people, numbers, strict=True)
                ]
            numbers[:] = self.shelf.add_athletes(people)
            for number, (_, names) in zip(numbers, many, strict=True):
                if names:
                    teaching.set_groups(number, [teaching.add_group(name) for name in names])

        def undo() -> None:
            lost = {clip.id for clip in self.clips if clip.athlete_id in numbers}
            for number in numbers:
                self.shelf.remove_athlete(number)
            if lost:
                self.reread_clips(lost)

        people = many[0][0].name if len(many) == 1 else f"{len(many)} athletes"
        self.change(f"enter {people}", do, undo)
        return numbers

    def set_groups(self, athlete: Athlete, numbers: frozenset[int]) -> None:
        teaching = self.shelf.teaching
        old = frozenset(one.id for one in self.groups if athlete.id in one.athletes)
        if numbers != old:
            self.change(
                f"change the groups of {athlete.name}",
                lambda: teaching.set_groups(athlete.id, numbers),
                lambda: teaching.set_groups(athlete.id, old),
            )

    def add_group(self, name: str) -> int | None:
        """Keep a group (undoable by removing it); one of that name is taken as it is."""
        try:
            number = self.shelf.teaching.add_group(name)
        except StoreError as error:
            self.trouble.emit(str(error))
            return None
        self.reread_records()
        return number

    def rename_group(self, group: Group, name: str) -> None:
        """Give a group another name; one that is taken is refused in words."""
        if any(one.name.casefold() == name.casefold() for one in self.groups if one != group):
            self.trouble.emit(f"There is a group called {name} already. Choose another name.")
            self.records_changed.emit()
            return
        teaching = self.shelf.teaching
        if name and name != group.name:
            self.change(
                f"rename {group.name}",
                lambda: teaching.rename_group(group.id, name),
                lambda: teaching.rename_group(group.id, group.name),
            )

    def remove_group(self, group: Group) -> None:
        """Take a group away; its athletes stay, and undo brings it back with them."""
        teaching = self.shelf.teaching
        number = [group.id]

        def undo() -> None:
            number[0] = teaching.add_group(group.name, group.id)
            for athlete in group.athletes:
                teaching.set_groups(athlete, {*self._groups_of(athlete), number[0]})

        if self.group == group.id:
            self.choose_who(None)
        self.change(f"remove {group.name}", lambda: teaching.remove_group(number[0]), undo)

    def _groups_of(self, athlete: int) -> set[int]:
        return {one.id for one in self.groups if athlete in one.athletes}

    def delete_athlete(self, athlete: Athlete, films: bool) -> None:
        """Remove an athlete with everything. Cannot be undone, so the undo list is emptied too."""
        theirs = [clip for clip in self.clips if clip.athlete_id == athlete.id]
        paths = [clip.path for clip in theirs]
        try:
            self.shelf.remove_athlete(athlete.id)
        except StoreError as error:
            self.trouble.emit(str(error))
            return
        self.undo_stack.clear()
        if self.who == athlete.id:
            self.choose_who(None)
        left = remove_films(paths) if films else []
        self.reread_records()
        self.reread_clips([clip.id for clip in theirs])
        if left:
            self.trouble.emit(
                f"{athlete.name} is deleted, but these films could not be removed: {', '.join(left)}. "
                "Remove them in the file manager."
            )
        else:
            self.said.emit(f"{athlete.name} is deleted with everything.")

    def change_athlete(self, new: Athlete) -> None:
        old = self.athlete(new.id)
        if old is None or old == new:
            return
        there = {name: value for name, value in vars(new).items() if value != vars(old)[name]}
        back = {name: vars(old)[name] for name in there}
        self.change(
            f"change {new.name}",
            lambda: self.shelf.change_athlete(new.id, **there),
            lambda: self.shelf.change_athlete(new.id, **back),
        )

    def change_plates(self, new: PlateSet) -> None:
        old = self.plates
        if new != old:
            self.change(
                "change the plates",
                lambda: self.shelf.keep_plates(new),
                lambda: self.shelf.keep_plates(old),
            )

    def take_corrective(self, one: Prescribed) -> None:
        kept: list[int] = []

        def do() -> None:
            kept[:] = [
                self.shelf.prescribing.take_corrective(replace(one, id=kept[0] if kept else 0))
            ]

        def undo() -> None:
            self.shelf.prescribing.withdraw_corrective(kept[0])

        self.change(f"take “{one.name}”", do, undo)
        if kept:
            self.said.emit(
                f"{one.name} is in the record, with a new clip due on {one.review_on:%d %b}."
            )

    def withdraw_corrective(self, one: Prescribed) -> None:
        self.change(
            f"withdraw “{one.name}”",
            lambda: self.shelf.prescribing.withdraw_corrective(one.id),
            lambda: self._keep_again(one),
        )

    def _keep_again(self, one: Prescribed) -> None:
        self.shelf.prescribing.take_corrective(one)

    # Films

    def remove_clip(self, clip: Clip) -> None:
        """Take a clip out of the records; its film is not touched, and undo brings all of it back."""
        try:
            clip = self.shelf.clip(clip.id)
            track, sightings = self.shelf.track(clip), self.shelf.sightings(clip)
        except StoreError as error:
            self.trouble.emit(str(error))
            return
        self.change(
            f"remove {clip.path.name}",
            lambda: self.shelf.forget_clip(clip.id),
            lambda: self.shelf.restore_clip(clip, track, sightings),
            clips=[clip.id],
        )

    def find_film(self, clip: Clip, path: Path) -> None:
        """Take `path` as the new place of a clip's film, if it is the same film."""

        def keep(sha256: str) -> None:
            if sha256 != clip.sha256:
                self.trouble.emit(
                    f"{path.name} is another film than {clip.path.name}: its content differs. "
                    "Nothing was changed. Choose the right file, or add this one as a new clip."
                )
                return
            try:
                self.shelf.change_clip(clip.id, path=path)
            except StoreError as error:
                self.trouble.emit(str(error))
                return
            self.reread_clips([clip.id])
            self.said.emit(f"Found again: {path}")
            self.open_clip(clip.id)

        self.jobs.start(lambda job: content_hash(path, job.stopped), keep, self.trouble.emit)


def reasons_changed(
    old: Mapping[str, str], new: Mapping[str, str]
) -> tuple[dict[str, str | None], dict[str, str | None]]:
    """The patches that lead from one set of reasons to another, and back; None takes one out."""
    differ = [name for name in {**old, **new} if old.get(name) != new.get(name)]
    return {name: new.get(name) for name in differ}, {name: old.get(name) for name in differ}
