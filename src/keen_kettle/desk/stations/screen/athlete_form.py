"""Every fact about one athlete, in the flow: each change is kept at once and can be undone."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, Qt, QTimer
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFrame,
    QGridLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QToolButton,
    QWidget,
)

from keen_kettle.core.content import AIMS
from keen_kettle.core.teach import AREAS
from keen_kettle.desk.kit.builders import button, clear, column, label, number_field, row, scrolled
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.store import Athlete

__all__ = ["AthleteForm"]

EQUIPMENT = (
    *("bar", "stick", "blocks", "dumbbell", "kettlebell", "dumbbell pair", "straps", "box", "ball"),
)
PHOTO_PX = 240
AS_HOUSE = "as the house"


class AthleteForm(QFrame):
    """The chosen athlete's facts; `leaving` gets archive, export and delete."""

    def __init__(
        self,
        desk: DeskModel,
        teach: TeachModel,
        leaving: Sequence[tuple[str, str, str, Callable[[], object]]],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._desk, self._teach = desk, teach
        self._filling = False
        self._shown: int | None = None
        self.setProperty("role", "card")
        self.title = label("", "lead")
        self.photo = QLabel()
        self.photo.setFixedSize(56, 56)
        self.photo.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.photo.setAccessibleName("Photo")
        self._make_fields()
        scroll = scrolled(
            row(self.photo, self.title, spacing=10),
            self._facts(),
            self._boxes("Cautions", self.cautions, "What loads this is passed over", 3),
            self._boxes("At hand", self.equipment, "What needs other things is passed over", 3),
            self._groups_part(),
            self._school_part(),
            self.consent_line,
            label("Notes", "quiet"),
            self.notes,
            self._leaving(leaving),
            spacing=10,
        )
        self.setLayout(column(scroll, margin=12))
        self._follow()
        self._idle = IdleCall(self._fill, self)
        desk.who_changed.connect(self._on_who)
        desk.records_changed.connect(self._idle.ask)
        self._idle.ask()  # not at once: shown without a parent it would be a window of its own

    # Building

    def _make_fields(self) -> None:
        self.name = QLineEdit()
        self.born = number_field(0, 2100, 1, "", 0)
        self.born.setGroupSeparatorShown(False)
        self.sex = QLineEdit()
        self.height_cm = number_field(0, 260, 1, " cm", 0)
        self.mass = number_field(0, 300, 0.5, " kg", 1)
        self.weight_class = QLineEdit()
        self.sport = QLineEdit()
        self.aim = QComboBox()
        self.aim.addItems(AIMS)
        self.training = number_field(0, 80, 0.5, " years", 1)
        self.lifting = number_field(-0.5, 80, 0.5, " years", 1)
        self.lifting.setSpecialValueText("not said")
        self.sessions = number_field(0, 21, 1, " a week", 0)
        self.snatch = number_field(0, 400, 0.5, " kg", 1)
        self.clean = number_field(0, 400, 0.5, " kg", 1)
        self.jerk = number_field(0, 400, 0.5, " kg", 1)
        bests = (self.snatch, self.clean, self.jerk)
        for field in (self.born, self.height_cm, self.mass, *bests):
            field.setSpecialValueText("not known")
        self.trained = QCheckBox("pulls above the best allowed")
        self.trained.setToolTip("Only for trained athletes: pulls may be loaded past the best lift")
        self.wants = QCheckBox("wants to lift")
        self.wants.setToolTip("Asks for the lifts; otherwise jumps and throws come first in sport")
        self.cautions = {name: QCheckBox(name) for name in AREAS}
        self.equipment = {name: QCheckBox(name) for name in EQUIPMENT}
        self.notes = QPlainTextEdit()
        self.notes.setFixedHeight(64)
        self.notes.setTabChangesFocus(True)
        self.notes.setAccessibleName("Notes")
        self.notes.setToolTip("Whatever should be remembered about this athlete")
        self.consent = QLineEdit()
        self.consent.setPlaceholderText("who gave it, and when")
        self.consent.setAccessibleName("Guardian’s consent")
        self.consent.setToolTip("Films of minors need a guardian's consent")
        self.consent_line = QWidget()
        self.consent_line.setLayout(
            column(label("Guardian’s consent (under 18)", "quiet"), self.consent, spacing=4)
        )
        self.new_group = QLineEdit()
        self.new_group.setPlaceholderText("new group, then Enter")
        self.new_group.setAccessibleName("New group")
        self.new_group.setToolTip("Type a name and press Enter: the athlete joins this group")
        self.groups: dict[int, QCheckBox] = {}
        self.school: dict[str, QComboBox] = {}

    def _facts(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        pairs: tuple[tuple[str, QWidget, str], ...] = (
            ("Name", self.name, "Name of the athlete"),
            ("Aim", self.aim, "Decides which ladders serve"),
            ("Born", self.born, "Year of birth"),
            ("Sex", self.sex, "If wanted"),
            ("Height", self.height_cm, "Standing height; grips are fitted from it"),
            ("Mass", self.mass, "Body mass"),
            ("Class", self.weight_class, "Weight class, if wanted"),
            ("Sport", self.sport, "What the athlete trains for"),
            ("Trained", self.training, "Years in a gym"),
            ("In the lifts", self.lifting, "Years in these lifts; they decide who is a beginner"),
            ("Sessions", self.sessions, "How often the athlete can come"),
            ("Best snatch", self.snatch, "Loads of snatch drills are reckoned from it"),
            ("Best clean", self.clean, "Loads of clean drills are reckoned from it"),
            ("Best jerk", self.jerk, "Loads of jerk drills; without it the best clean serves"),
        )
        for number, (words, field, tip) in enumerate(pairs):
            down, across = divmod(number, 2)
            name = label(words, "quiet", wrap=False)
            name.setBuddy(field)
            grid.addWidget(name, down, 2 * across)
            grid.addWidget(field, down, 2 * across + 1)
            field.setToolTip(tip)
            field.setAccessibleName(words)
            field.setMinimumWidth(60)
        below = (len(pairs) + 1) // 2
        grid.addWidget(self.trained, below, 0, 1, 4)
        grid.addWidget(self.wants, below + 1, 0, 1, 4)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        return grid

    def _boxes(self, words: str, boxes: dict[str, QCheckBox], tip: str, across: int) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.addWidget(label(words, "quiet", wrap=False), 0, 0, 1, across)
        for number, (name, box) in enumerate(boxes.items()):
            box.setToolTip(tip)
            box.setAccessibleName(f"{words}: {name}")
            grid.addWidget(box, 1 + number // across, number % across)
        return grid

    def _groups_part(self) -> QWidget:
        self._groups_grid = QGridLayout()
        self._groups_grid.setVerticalSpacing(4)
        made = QWidget()
        made.setLayout(
            column(label("Groups", "quiet"), self._groups_grid, self.new_group, spacing=4)
        )
        return made

    def _school_part(self) -> QWidget:
        self._school_fold = QToolButton()
        self._school_fold.setText("A school of their own …")
        self._school_fold.setCheckable(True)
        self._school_fold.setProperty("role", "fold")
        self._school_fold.setToolTip("Where this athlete is taught otherwise than the house")
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 0, 0, 0)
        for number, question in enumerate(self._teach.teaching.questions.values()):
            box = QComboBox()
            box.addItem(AS_HOUSE, "")
            for answer in question.answer:
                box.addItem(answer.name, answer.id)
            box.setAccessibleName(question.name)
            box.setToolTip("\n".join(f"{one.name}: {one.why}" for one in question.answer))
            box.activated.connect(lambda _row, key=question.id: self._keep_school(key))
            self.school[question.id] = box
            grid.addWidget(label(question.name, "quiet", wrap=False), number, 0)
            grid.addWidget(box, number, 1)
        grid.setColumnStretch(1, 1)
        made = QWidget()
        made.setLayout(column(self._school_fold, inside, spacing=4))
        inside.hide()
        self._school_fold.toggled.connect(inside.setVisible)
        return made

    def _leaving(self, actions: Sequence[tuple[str, str, str, Callable[[], object]]]) -> QWidget:
        made = QWidget()
        line = row(
            button("Photo …", "Choose a picture; it is kept small", self._choose_photo, "image")
        )
        self.leave_buttons = [
            button(words, tip, clicked, picture) for words, tip, picture, clicked in actions
        ]
        for one in self.leave_buttons:
            line.addWidget(one)
        line.addStretch(1)
        made.setLayout(line)
        return made

    def _follow(self) -> None:
        for line in (self.name, self.sex, self.weight_class, self.sport, self.consent):
            line.editingFinished.connect(self._keep)
        for field in (
            *(self.born, self.height_cm, self.mass, self.training, self.lifting, self.sessions),
            *(self.snatch, self.clean, self.jerk),
        ):
            field.valueChanged.connect(lambda _value: self._keep())
        self.aim.activated.connect(lambda _row: self._keep())
        for box in (self.trained, self.wants, *self.cautions.values(), *self.equipment.values()):
            box.toggled.connect(lambda _on: self._keep())
        self.notes.textChanged.connect(lambda: self._notes_later.start(700))
        self._notes_later = QTimer(self)
        self._notes_later.setSingleShot(True)
        self._notes_later.timeout.connect(self._keep)
        self.new_group.returnPressed.connect(self._join_new_group)

    # Showing

    @property
    def athlete(self) -> Athlete | None:
        return self._desk.athlete(self._desk.who)

    def _on_who(self) -> None:
        """What was typed and not yet kept belongs to the athlete who was shown."""
        before = self._desk.athlete(self._shown)
        if self._notes_later.isActive() and before is not None:
            self._notes_later.stop()
            self._desk.change_athlete(replace(before, notes=self.notes.toPlainText()))
        self._idle.ask()

    def _fill(self) -> None:
        athlete = self.athlete
        self.setVisible(athlete is not None)
        if athlete is None:
            return
        fresh = athlete.id != self._shown
        self._shown = athlete.id
        self._filling = True
        archived = "  (archived)" if athlete.archived_on else ""
        self.title.setText(athlete.name + archived)
        self._show_photo(athlete)
        for line, words in (
            (self.name, athlete.name),
            (self.sex, athlete.sex),
            (self.weight_class, athlete.weight_class),
            (self.sport, athlete.sport),
            (self.consent, athlete.consent),
        ):
            typing = line.hasFocus() and line.isModified() and not fresh
            if line.text() != words and not typing:
                line.setText(words)
        for field, value in (
            (self.born, athlete.birth_year or 0),
            (self.height_cm, 100 * (athlete.stature_m or 0)),
            (self.mass, athlete.mass_kg or 0),
            (self.training, athlete.training_years),
            (self.lifting, -0.5 if athlete.lifting_years is None else athlete.lifting_years),
            (self.sessions, athlete.sessions_week),
            (self.snatch, athlete.bests_kg.get("snatch", 0)),
            (self.clean, athlete.bests_kg.get("clean", 0)),
            (self.jerk, athlete.bests_kg.get("jerk", 0)),
        ):
            field.setValue(value)
        self._fill_choices(athlete)
        typing = self._notes_later.isActive() and not fresh
        if self.notes.toPlainText() != athlete.notes and not typing:
            self.notes.setPlainText(athlete.notes)
        for key, choice in self.school.items():
            choice.setCurrentIndex(max(choice.findData(athlete.school.get(key, "")), 0))
        own = len(athlete.school)
        self._school_fold.setText(
            f"A school of their own ({own} answers) …" if own else "A school of their own …"
        )
        self.consent_line.setVisible(athlete.minor(self._desk.today()))
        self._fill_groups(athlete)
        self.leave_buttons[0].setText("Bring back" if athlete.archived_on else "Archive")
        self._filling = False

    def _fill_choices(self, athlete: Athlete) -> None:
        self.aim.setCurrentText(athlete.aim)
        self.trained.setChecked(athlete.trained)
        self.wants.setChecked(athlete.wants_lifts)
        for name, box in self.cautions.items():
            box.setChecked(name in athlete.cautions)
        for name, box in self.equipment.items():
            box.setChecked(name in athlete.equipment)

    def _fill_groups(self, athlete: Athlete) -> None:
        if list(self.groups) != [one.id for one in self._desk.groups]:
            clear(self._groups_grid)
            self.groups = {}
            for number, group in enumerate(self._desk.groups):
                box = QCheckBox(group.name)
                box.setToolTip("In this group or not")
                box.setAccessibleName(f"Group: {group.name}")
                box.toggled.connect(lambda _on: self._keep_groups())
                self.groups[group.id] = box
                self._groups_grid.addWidget(box, number // 2, number % 2)
        for group in self._desk.groups:
            self.groups[group.id].setText(group.name)
            self.groups[group.id].setChecked(athlete.id in group.athletes)

    def _show_photo(self, athlete: Athlete) -> None:
        picture = QPixmap()
        if athlete.photo and picture.loadFromData(athlete.photo):
            self.photo.setPixmap(
                picture.scaled(
                    56,
                    56,
                    Qt.AspectRatioMode.KeepAspectRatioByExpanding,
                    Qt.TransformationMode.SmoothTransformation,
                )
            )
        self.photo.setVisible(bool(athlete.photo) and not picture.isNull())

    # Keeping

    def _keep(self) -> None:
        athlete = self.athlete
        if self._filling or athlete is None:
            return
        name = " ".join(self.name.text().split())
        if not name or self._taken(name, athlete):
            self.name.setText(athlete.name)
            name = athlete.name
        fields = {"snatch": self.snatch, "clean": self.clean, "jerk": self.jerk}
        bests = {lift: field.value() for lift, field in fields.items()}
        others = {lift: kg for lift, kg in athlete.bests_kg.items() if lift not in bests}
        self._desk.change_athlete(
            replace(
                athlete,
                name=name,
                birth_year=round(self.born.value()) or None,
                sex=self.sex.text().strip(),
                weight_class=self.weight_class.text().strip(),
                stature_m=round(self.height_cm.value() / 100, 3) or None,
                mass_kg=self.mass.value() or None,
                sport=self.sport.text().strip(),
                aim=self.aim.currentText(),
                training_years=self.training.value(),
                sessions_week=round(self.sessions.value()),
                bests_kg={**others, **{lift: kg for lift, kg in bests.items() if kg > 0}},
                trained=self.trained.isChecked(),
                lifting_years=self.lifting.value() if self.lifting.value() >= 0 else None,
                wants_lifts=self.wants.isChecked(),
                cautions=frozenset(n for n, box in self.cautions.items() if box.isChecked()),
                equipment=(athlete.equipment - set(EQUIPMENT))
                | {n for n, box in self.equipment.items() if box.isChecked()},
                consent=self.consent.text().strip(),
                notes=self.notes.toPlainText(),
            )
        )

    def _taken(self, name: str, athlete: Athlete) -> bool:
        for other in self._desk.athletes:
            if other.id != athlete.id and other.name.casefold() == name.casefold():
                self._desk.trouble.emit(
                    f"There is an athlete called {other.name} already. Choose a name that tells them apart."
                )
                return True
        return False

    def _keep_groups(self) -> None:
        athlete = self.athlete
        if not self._filling and athlete is not None:
            chosen = frozenset(number for number, box in self.groups.items() if box.isChecked())
            self._desk.set_groups(athlete, chosen)

    def _join_new_group(self) -> None:
        athlete, name = self.athlete, " ".join(self.new_group.text().split())
        if athlete is None or not name:
            return
        number = self._desk.add_group(name)
        self.new_group.clear()
        if number is not None:
            own = {one.id for one in self._desk.groups if athlete.id in one.athletes}
            self._desk.set_groups(athlete, frozenset(own | {number}))

    def _keep_school(self, question: str) -> None:
        athlete = self.athlete
        if athlete is None:
            return
        school = dict(athlete.school)
        answer = self.school[question].currentData()
        if answer:
            school[question] = answer
        else:
            school.pop(question, None)
        self._desk.change_athlete(replace(athlete, school=school))

    def _choose_photo(self) -> None:
        athlete = self.athlete
        if athlete is None:
            return
        name, _ = QFileDialog.getOpenFileName(
            self, "A photo", "", "Pictures (*.png *.jpg *.jpeg *.webp)"
        )
        if not name:
            return
        picture = QImage(name)
        if picture.isNull():
            self._desk.trouble.emit(
                f"{Path(name).name} is no picture that can be read. Choose a PNG or JPEG file."
            )
            return
        small = picture.scaled(
            PHOTO_PX,
            PHOTO_PX,
            Qt.AspectRatioMode.KeepAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )
        data = QByteArray()
        buffer = QBuffer(data)
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        small.save(buffer, "PNG")
        self._desk.change_athlete(replace(athlete, photo=bytes(data.data())))
