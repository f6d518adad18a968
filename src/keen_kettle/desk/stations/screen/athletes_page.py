"""Athletes: who there is, quick entry of a class, a class list from a file, leaving."""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.errors import KettleError
from keen_kettle.core.export import write_text_safely
from keen_kettle.desk.kit.builders import button, card, column, label, name_edit, number_field, row
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.stations.screen.athlete_form import AthleteForm
from keen_kettle.desk.stations.screen.athlete_table import AthleteTable
from keen_kettle.desk.stations.screen.roster_page import RosterPage
from keen_kettle.store import Athlete, Group, NewAthlete, StoreError, athlete_document, read_roster

__all__ = ["AthletesPage"]

PACES = (
    ("the ladder’s pace", ""),
    ("in a session", "session"),
    ("over visits", "visits"),
    ("in blocks of weeks", "block"),
)


class AthletesPage(QWidget):
    """Table and entry row on the left, the chosen athlete's facts on the right."""

    def __init__(self, desk: DeskModel, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._teach = desk, teach
        self._filling = False
        self.table = AthleteTable(teach)
        self.table.chosen.connect(self._on_chosen)
        self.form = AthleteForm(
            desk,
            teach,
            (
                ("Archive", "Off the boards, nothing is lost", "archive", self._archive),
                (
                    "Export …",
                    "Everything about this athlete, as one file",
                    "download",
                    self._export,
                ),
                ("Delete …", "With everything; asks first", "trash-2", self._ask_delete),
            ),
        )
        self.form.setFixedWidth(492)
        self.entry = self._entry_row()
        self.question = self._question_card()
        self.roster = RosterPage(self._take_roster, self._leave_roster)
        above = self._list_head()
        left = card(above, self._group_line(), self.question, self.table, self.entry, spacing=10)
        inner = left.layout()
        assert isinstance(inner, QVBoxLayout)
        inner.setStretch(3, 1)
        main = QWidget()
        across = row(left, self.form, spacing=12)
        across.setStretch(0, 1)
        main.setLayout(across)
        self._pages = QStackedWidget()
        self._pages.addWidget(main)
        self._pages.addWidget(self.roster)
        self.setLayout(column(self._pages))
        desk.records_changed.connect(self._on_records)
        desk.who_changed.connect(self._on_records)
        self._on_records()

    def _list_head(self) -> QHBoxLayout:
        """What the list says, archived athletes, and taking in a class list."""
        self.archived = QCheckBox("archived ones")
        self.archived.setToolTip("Show those that were archived instead")
        self.archived.toggled.connect(self._show_archived)
        import_list = button(
            "Take a class list (CSV) …",
            "See first what will be taken",
            self._choose_roster,
            "upload",
        )
        self.hint = label("", "quiet", wrap=False)
        above = row(self.hint, spacing=10)
        above.addStretch(1)
        above.addWidget(self.archived)
        above.addWidget(import_list)
        return above

    # Entering

    def _entry_row(self) -> QWidget:
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name of the next athlete")
        self.born = number_field(0, 2100, 1, "", 0)
        self.born.setSpecialValueText("born")
        self.tall = number_field(0, 260, 1, " cm", 0)
        self.tall.setSpecialValueText("height")
        self.mass = number_field(0, 300, 0.5, " kg", 1)
        self.mass.setSpecialValueText("mass")
        self.group = QComboBox()
        self.group.setEditable(True)
        line = self.group.lineEdit()
        assert line is not None
        line.setPlaceholderText("group")
        fields: tuple[tuple[QWidget, str, str, int], ...] = (
            (self.name, "Name", "Enter keeps the athlete and waits for the next", 200),
            (self.born, "Year of birth", "Year of birth, if known", 76),
            (self.tall, "Height", "Height in cm, if known", 84),
            (self.mass, "Mass", "Body mass in kg, if known", 84),
            (self.group, "Group", "Stays for the next one; a new name makes a new group", 130),
        )
        made = QWidget()
        across = row(spacing=6)
        for field, words, tip, width in fields:
            field.setAccessibleName(words)
            field.setToolTip(tip)
            field.setMinimumWidth(width)
            across.addWidget(field, 3 if field is self.name else 1)
        name_edit(self.group, "Group", fields[-1][2])
        self.enter = button("Enter", "Keep this athlete (Enter)", self._enter, "plus", "next")
        across.addWidget(self.enter)
        made.setLayout(across)
        for edit in (self.name, line):
            edit.returnPressed.connect(self._enter)
        for number in (self.born, self.tall, self.mass):
            inner = number.lineEdit()
            assert inner is not None
            inner.returnPressed.connect(self._enter)
        return made

    def _group_line(self) -> QWidget:
        """The chosen group's name, to be changed, and its end."""
        self.group_name = QLineEdit()
        self.group_name.setAccessibleName("Name of the group")
        self.group_name.setToolTip("Change the group's name; Enter keeps it")
        self.group_name.setMinimumWidth(200)
        self.group_name.editingFinished.connect(self._rename_group)
        remove = button(
            "Remove group", "Its athletes stay; undo brings it back", self._remove_group, "x"
        )
        self.group_line = QWidget()
        self.pace = QComboBox()
        for words, value in PACES:
            self.pace.addItem(words, value)
        self.pace.setAccessibleName("Pace of the group")
        self.pace.setToolTip("How fast this group goes through its ladders")
        self.pace.activated.connect(lambda _row: self._set_pace())
        self.weeks = number_field(0, 26, 1, " weeks", 0)
        self.weeks.setAccessibleName("Weeks of a block")
        self.weeks.setToolTip("At least so many weeks on each stage; 0 takes the stage's own")
        self.weeks.valueChanged.connect(lambda _weeks: self._set_pace())
        in_line = row(self.group_name, label("goes on", "quiet", wrap=False), self.pace, spacing=6)
        in_line.addWidget(self.weeks)
        in_line.addWidget(remove)
        in_line.addStretch(1)
        self.group_line.setLayout(in_line)
        return self.group_line

    def _rename_group(self) -> None:
        group = self._desk.chosen_group
        if group is not None:
            self._desk.rename_group(group, " ".join(self.group_name.text().split()))

    def _set_pace(self) -> None:
        group = self._desk.chosen_group
        if group is not None and not self._filling:
            self._teach.set_pace(group, self.pace.currentData(), round(self.weeks.value()))

    def _show_pace(self, group: Group) -> None:
        self._filling = True
        self.pace.setCurrentIndex(max(self.pace.findData(group.pace), 0))
        self.weeks.setValue(group.weeks)
        self.weeks.setVisible(group.pace == "block")
        self._filling = False

    def _remove_group(self) -> None:
        group = self._desk.chosen_group
        if group is not None:
            self._desk.remove_group(group)

    def _enter(self) -> None:
        name = " ".join(self.name.text().split())
        if not name:
            self._desk.trouble.emit("Give the athlete a name first; the rest can follow later.")
            self.name.setFocus()
            return
        if any(one.name.casefold() == name.casefold() for one in self._desk.athletes):
            self._desk.trouble.emit(
                f"There is an athlete called {name} already. Choose a name that tells them apart."
            )
            self.name.setFocus()
            return
        group = " ".join(self.group.currentText().split())
        new = NewAthlete(
            name,
            round(self.tall.value() / 100, 3) or None,
            birth_year=round(self.born.value()) or None,
            mass_kg=self.mass.value() or None,
        )
        numbers = self._desk.add_athletes([(new, [group] if group else [])])
        if numbers:
            self._desk.said.emit(f"{name} is entered.")
        self.name.clear()
        for field in (self.born, self.tall, self.mass):
            field.setValue(0)
        self.name.setFocus()

    # Class lists

    def _choose_roster(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "A class list", "", "Class lists (*.csv *.txt *.tsv);;All files (*)"
        )
        if name:
            self.open_roster(Path(name))

    def open_roster(self, path: Path) -> None:
        """Show what a file would bring; nothing is kept yet."""
        try:
            data = path.read_bytes()
            known = [one.name for one in self._desk.athletes]
            roster = read_roster(data, known, self._desk.today())
        except OSError as error:
            self._desk.trouble.emit(f"{path.name} cannot be read: {error.strerror}.")
            return
        except KettleError as error:
            self._desk.trouble.emit(f"{path.name}: {error}")
            return
        self.roster.show_roster(roster, path.name)
        self._pages.setCurrentWidget(self.roster)

    def _take_roster(self) -> None:
        rows = self.roster.roster.good if self.roster.roster is not None else []
        many = [(one.athlete, one.groups) for one in rows if one.athlete is not None]
        if many and self._desk.add_athletes(many):
            self._desk.said.emit(f"{len(many)} athletes are entered. Ctrl+Z takes them back.")
        self._leave_roster()

    def _leave_roster(self) -> None:
        self._pages.setCurrentIndex(0)

    # Leaving

    def _question_card(self) -> QWidget:
        self._asking = label("", "fault")
        self.films = QCheckBox("remove the film files from this computer too")
        self.films.setToolTip("Films of people are private; without this only the records go")
        self._delete = button(
            "Export, then delete …",
            "First a file with everything is written, then it is deleted",
            self._export_and_delete,
            "trash-2",
        )
        keep = button("Keep", "Nothing is deleted", lambda: made.hide(), "x", "next")
        buttons = row(self.films, self._delete, keep)
        buttons.insertStretch(1, 1)
        made = card(self._asking, buttons)
        made.hide()
        return made

    def _athlete(self) -> Athlete | None:
        return self._desk.athlete(self._desk.who)

    def _archive(self) -> None:
        athlete = self._athlete()
        if athlete is not None:
            day = None if athlete.archived_on else self._desk.today()
            self._desk.change_athlete(replace(athlete, archived_on=day))
            words = "is back on the boards" if day is None else "is archived; nothing is lost"
            self._desk.said.emit(f"{athlete.name} {words}.")

    def _export(self) -> Path | None:
        """Write the athlete's document; the path, or None when it was not written."""
        athlete = self._athlete()
        if athlete is None:
            return None
        suggestion = f"{athlete.name.replace('/', '-')}.json"
        name, _ = QFileDialog.getSaveFileName(
            self, "Everything about this athlete", suggestion, "JSON (*.json)"
        )
        if not name:
            return None
        try:
            write_text_safely(Path(name), athlete_document(self._desk.shelf, athlete.id))
        except (OSError, StoreError) as error:
            self._desk.trouble.emit(
                f"{Path(name).name} could not be written ({error}). Nothing was deleted. "
                "Choose another folder, or free some space, and export again."
            )
            return None
        self._desk.said.emit(f"Written: {name}")
        return Path(name)

    def _ask_delete(self) -> None:
        athlete = self._athlete()
        if athlete is None:
            return
        clips = sum(clip.athlete_id == athlete.id for clip in self._desk.clips)
        visits = len(self._desk.shelf.teaching.visits(athlete.id))
        self._asking.setText(
            f"Delete {athlete.name} with {clips} clip{'s' if clips != 1 else ''}, "
            f"{visits} visit{'s' if visits != 1 else ''}, screenings and correctives? "
            "This cannot be undone. Everything is written to a file first."
        )
        self.films.setChecked(False)
        self.films.setVisible(clips > 0)
        self.question.show()

    def _export_and_delete(self) -> None:
        athlete = self._athlete()
        if athlete is not None and self._export() is not None:
            self.question.hide()
            self._desk.delete_athlete(athlete, self.films.isChecked())

    # Showing

    def _on_chosen(self, number: int) -> None:
        self.question.hide()
        self._desk.choose_who(number, self._desk.group)

    def _show_archived(self, on: bool) -> None:
        self.table.model.archived = on
        self.table.model.reload()

    def _on_records(self) -> None:
        group = self._desk.chosen_group
        written = self.group.currentText()
        names = [one.name for one in self._desk.groups]
        if [self.group.itemText(k) for k in range(self.group.count())] != names:
            self.group.clear()
            self.group.addItems(names)
            self.group.setEditText(written)
        if group is not None and not written:
            self.group.setEditText(group.name)
        self.group_line.setVisible(group is not None)
        self.group_name.setText(group.name if group is not None else "")
        if group is not None:
            self._show_pace(group)
        if self._athlete() is None:
            self.question.hide()
        people = len(self._desk.people()) if self._desk.who is None else len(self._desk.active)
        if not self._desk.athletes:
            self.hint.setText("Nobody is entered yet: type a name below and press Enter.")
        else:
            self.hint.setText(f"{people} athlete{'s' if people != 1 else ''}")
