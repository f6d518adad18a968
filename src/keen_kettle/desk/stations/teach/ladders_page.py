"""Ladders: every ladder as the house teaches it, each stage with its moving figure."""

from functools import partial
from pathlib import Path

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.content import Gate, Ladder, Stage, read_ladder
from keen_kettle.core.errors import ContentError
from keen_kettle.core.export import write_text_safely
from keen_kettle.core.simulate.body3d import lifter_for
from keen_kettle.core.teach import (
    TaughtStage,
    cautions_of,
    check_ladder,
    movement_of,
    needs_of_stage,
)
from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    column,
    label,
    row,
    scrolled,
    with_picture,
)
from keen_kettle.desk.kit.words import dose_words
from keen_kettle.desk.shared.figure_view import FigureView
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.stations.teach.ladder_editor import LadderEditor
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.store import ladder_document

__all__ = ["LaddersPage"]

LADDER_FILES = "Ladders (*.json *.toml);;All files (*)"

PACES_SAY = {
    "session": "Five good reps in a row.",
    "visits": "Two visits running.",
    "block": "After the weeks of the plan.",
}
FIRST = Ladder(
    id="own-ladder",
    name="A ladder of our own",
    family="clean",
    order="our own",
    idea="Say here in one sentence what this ladder is for.",
    aims={"general": 2},
    stage=(
        Stage(
            id="first",
            name="First stage",
            purpose="What this stage is for.",
            movement="hang clean pull, mid-thigh",
            level=3,
            checks=("first point to check", "second point to check"),
            gate=Gate(says="What must be seen."),
            stuck="What to do when it does not come.",
            cue_outer="A cue about the bar or the room.",
            cue_inner="A cue about the body.",
        ),
    ),
)
"""What a new ladder begins with."""


class LaddersPage(QWidget):
    """Ladders on the left, stages beside them, the chosen stage with its figure on the right."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach
        self._ladder = "clean-bottom-up"
        self._stage = ""
        self._list = QVBoxLayout()
        self._list.setSpacing(2)
        self._stages = QVBoxLayout()
        self._stages.setSpacing(2)
        self._idea = label("", "quiet")
        self._name = label("", "title")
        self.figure = FigureView()
        self._detail = QVBoxLayout()
        self._detail.setSpacing(6)
        self.school: dict[str, QComboBox] = {}
        self.words: dict[str, QLineEdit] = {}
        self._why: dict[str, QWidget] = {}
        main = QWidget()
        across = row(self._left(), self._middle(), self._right(), spacing=12)
        across.setStretch(2, 1)
        main.setLayout(across)
        self.editor = LadderEditor(teach, self._leave_editor)
        self.schools = self._schools_page()
        self._pages = QStackedWidget()
        for page in (main, self.editor, self.schools):
            self._pages.addWidget(page)
        self.setLayout(column(self._pages))
        self._idle = IdleCall(self._fill, self)
        teach.changed.connect(self._idle.ask)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fill()

    # Building

    def _left(self) -> QWidget:
        buttons = QGridLayout()
        buttons.setSpacing(4)
        self.copy = button("Copy", "A copy of your own that you can edit", self._copy, "copy")
        self.edit = button("Edit …", "Change this ladder of your own", self._edit, "pencil")
        self.remove = button(
            "Remove", "Take this own ladder away (undo brings it back)", self._remove, "trash-2"
        )
        take = button("Import …", "Read a ladder file", self._choose_file, "upload")
        give = button("Export …", "Write this ladder to a file", self._export, "download")
        schools = button(
            "House school …",
            "Where schools differ; your choices change the ladders",
            self._open_schools,
            "compass",
        )
        new = button("New …", "A ladder of your own from its first stage on", self._new, "plus")
        for number, one in enumerate((new, self.copy, self.edit, self.remove, take, give)):
            buttons.addWidget(one, number // 2, number % 2)
        buttons.addWidget(schools, 3, 0, 1, 2)
        made = card(label("LADDERS", "head"), scrolled(self._list), buttons, spacing=6, margin=10)
        made.setFixedWidth(280)
        return made

    def _middle(self) -> QWidget:
        made = card(self._name, self._idea, scrolled(self._stages), spacing=6, margin=10)
        made.setFixedWidth(252)
        return made

    def _right(self) -> QWidget:
        self.figure.setFixedWidth(356)
        across = row(self.figure, scrolled(self._detail), spacing=12)
        across.setStretch(1, 1)
        return card(across, margin=12)

    def _schools_page(self) -> QWidget:
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        for number, question in enumerate(self._teach.teaching.questions.values()):
            box = QComboBox()
            for answer in question.answer:
                box.addItem(answer.name, answer.id)
            box.setAccessibleName(question.name)
            box.setToolTip("The house’s answer; an athlete can have another (Screen, Athletes)")
            box.activated.connect(partial(self._answer, question.id))
            why = label("", "quiet")
            self.school[question.id], self._why[question.id] = box, why
            grid.addWidget(label(question.name, wrap=False), number, 0)
            grid.addWidget(box, number, 1)
            grid.addWidget(why, number, 2)
        grid.setColumnStretch(2, 1)
        tip = "The ladders as this school teaches them"
        back = row(button("Back to the ladders", tip, self._leave_editor, "undo-2", "next"))
        made = card(
            label("House school", "title"),
            label(
                "Good coaches differ here. What you choose changes stages, points and cues at once.",
                "quiet",
            ),
            scrolled(grid),
            label(
                "House words: one for each part, the same in stage, roll call and verdict.", "quiet"
            ),
            self._word_fields(),
            back,
        )
        layout = made.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addStretch(1)
        back.addStretch(1)
        return made

    def _word_fields(self) -> QHBoxLayout:
        """A field for each word that stages add, with the shipped word as its placeholder."""
        line = row(spacing=6)
        known = dict.fromkeys(
            stage.word
            for ladder in self._teach.teaching.ladders.values()
            for stage in ladder.stage
            if stage.word
        )
        for word in known:
            field = QLineEdit()
            field.setPlaceholderText(word)
            field.setAccessibleName(f"House word for {word}")
            field.setToolTip(f"What this house says for “{word}”; empty keeps it")
            field.setMaxLength(24)
            field.setMinimumWidth(48)
            field.editingFinished.connect(self._keep_words)
            self.words[word] = field
            line.addWidget(field)
        return line

    def _keep_words(self) -> None:
        said = {word: " ".join(field.text().split()) for word, field in self.words.items()}
        self._teach.keep_words({word: own for word, own in said.items() if own and own != word})

    # Showing

    def _fill(self) -> None:
        if not self.isVisible():
            return
        self._teach.ensure()
        if self._ladder not in self._teach.teaching.ladders:
            self._ladder = next(iter(self._teach.teaching.ladders))
        self._fill_list()
        self._fill_stages()
        self._fill_schools()

    def _fill_list(self) -> None:
        clear(self._list)
        group = QButtonGroup(self._list)
        teaching = self._teach.teaching
        order = sorted(teaching.ladders.values(), key=lambda one: (one.family, one.name))
        for ladder in order:
            own = " (own)" if ladder.id in teaching.own else ""
            made = self._choice(f"{ladder.name}{own}", ladder.idea, ladder.id == self._ladder)
            made.clicked.connect(partial(self.open_ladder, ladder.id))
            group.addButton(made)
            self._list.addWidget(made)
        is_own = self._ladder in teaching.own
        self.edit.setEnabled(is_own)
        self.remove.setEnabled(is_own)

    def _choice(self, words: str, tip: str, on: bool) -> QPushButton:
        made = button(words, tip, role="point")
        made.setCheckable(True)
        made.setChecked(on)
        return made

    def open_ladder(self, name: str, stage: str = "") -> None:
        self._ladder, self._stage = name, stage
        self._fill()

    def _taught(self) -> tuple[TaughtStage, ...]:
        athlete = self._teach.desk.athlete(self._teach.desk.who)
        return self._teach.stages(self._ladder, athlete)

    def _fill_stages(self) -> None:
        ladder = self._teach.teaching.ladders[self._ladder]
        self._name.setText(ladder.name)
        stages = self._taught()
        left_out = len(ladder.stage) - len(stages)
        note = f" {left_out} left out by the school." if left_out else ""
        self._idea.setText(f"{ladder.idea}{note}")
        clear(self._stages)
        group = QButtonGroup(self._stages)
        if self._stage not in [one.id for one in stages]:
            self._stage = stages[0].id if stages else ""
        for number, one in enumerate(stages, 1):
            made = self._choice(
                f"{number}   {one.stage.name}", one.stage.purpose, one.id == self._stage
            )
            made.clicked.connect(partial(self.open_stage, one.id))
            group.addButton(made)
            self._stages.addWidget(made)
        for problem in self._problems(ladder):
            self._stages.addWidget(with_picture("triangle-alert", "fault", problem))
        self.open_stage(self._stage)

    def _problems(self, ladder: Ladder) -> list[str]:
        faults = self._teach.desk.content.faults.keys()
        return [one.words for one in check_ladder(ladder, self._teach.teaching, faults)]

    def open_stage(self, stage: str) -> None:
        """Show one stage: figure, purpose, dose, points, gate, what to do when stuck."""
        self._stage = stage
        clear(self._detail)
        taught = next((one for one in self._taught() if one.id == stage), None)
        if taught is None:
            self.figure.show_movement(None)
            return
        movement = movement_of(taught.stage)
        athlete = self._teach.desk.athlete(self._teach.desk.who)
        sex = athlete.sex if athlete is not None else ""
        lifter = lifter_for(athlete.stature_m if athlete is not None else None, sex)
        self.figure.show_movement(movement, lifter)
        one = taught.stage
        for widget in (
            label(one.name, "lead"),
            label(one.purpose),
            label(f"{one.movement} · {dose_words(one.dose)}", "measured"),
            label(f"Cue: {taught.cue}"),
            label("POINTS TO CHECK", "head"),
            *(label(f"{number}   {words}") for number, words in enumerate(taught.points, 1)),
            label("GATE", "head"),
            label(f"{one.gate.says} {PACES_SAY[self._teach.teaching.ladders[self._ladder].pace]}"),
            *self._words_of(one),
            *self._watch(taught),
            label("WHEN STUCK", "head"),
            label(one.stuck),
            *self._needs(taught),
            *self._cautions(taught),
        ):
            self._detail.addWidget(widget)
        if one.parallel is not None:
            self._detail.addWidget(label("BESIDE IT", "head"))
            self._detail.addWidget(label(one.parallel.says))

    def _words_of(self, stage: Stage) -> list[QWidget]:
        """Why it is there, its word, other versions, what it cost the athletes of this house."""
        found: list[QWidget] = []
        if stage.why:
            found += [label("WHY", "head"), label(stage.why)]
        if stage.word:
            found.append(
                label(f"Word: {self._teach.words.get(stage.word, stage.word)}", "measured")
            )
        for name, words in (("Easier", stage.easier), ("Harder", stage.harder)):
            if words:
                found.append(label(f"{name}: {words}"))
        cost = self._teach.costs.get((self._ladder, stage.id))
        if cost is not None:
            many = f"{cost.athletes} athlete{'s' if cost.athletes != 1 else ''}"
            span = f", {cost.least_days} to {cost.most_days}" if cost.athletes > 1 else ""
            found.append(
                label(
                    f"Took {cost.median_days:.0f} days here (median of {many}{span}).", "measured"
                )
            )
        return found

    def _watch(self, taught: TaughtStage) -> list[QWidget]:
        catalogue = self._teach.desk.content.faults
        names = [catalogue[one].name for one in taught.stage.watch if one in catalogue]
        if not names:
            return []
        return [label("WATCH FOR", "head"), label(" · ".join(names))]

    def _needs(self, taught: TaughtStage) -> list[QWidget]:
        needs = needs_of_stage(taught.stage)
        checks = self._teach.teaching.checks
        names = [checks[one].name for one in needs.checks if one in checks]
        parts = [*names, *needs.equipment]
        return [label("NEEDS", "head"), label(" · ".join(parts))] if parts else []

    def _cautions(self, taught: TaughtStage) -> list[QWidget]:
        cautions = self._teach.desk.content.cautions
        found = [cautions[one].text for one in cautions_of(taught.stage) if one in cautions]
        if not found:
            return []
        return [
            label("SAFETY", "head"),
            *(with_picture("octagon-alert", "safety", words) for words in found),
        ]

    def _fill_schools(self) -> None:
        for question in self._teach.teaching.questions.values():
            answer = question.named(self._teach.house.get(question.id, question.default))
            box, why = self.school[question.id], self._why[question.id]
            box.setCurrentIndex(box.findData(answer.id))
            why.setText(answer.why)  # type: ignore[attr-defined]
        for word, field in self.words.items():
            if not field.hasFocus():
                field.setText(self._teach.words.get(word, ""))

    # Doing

    def _open_schools(self) -> None:
        self._pages.setCurrentWidget(self.schools)

    def _answer(self, question: str, _row: int) -> None:
        self._teach.choose_school(question, self.school[question].currentData())

    def _leave_editor(self) -> None:
        self._pages.setCurrentIndex(0)

    def _copy(self) -> None:
        ladder = self._teach.teaching.ladders[self._ladder]
        self._begin_own(ladder, ladder.id[:50], f"{ladder.name}, our way")

    def _new(self) -> None:
        self._begin_own(FIRST, "own-ladder", FIRST.name)

    def _begin_own(self, like: Ladder, stem: str, name: str) -> None:
        """Keep a ladder of the coach's own that begins like another, and edit it."""
        number = 1
        while (own := f"{stem}-own-{number}") in self._teach.teaching.ladders:
            number += 1
        named = name if number == 1 else f"{name} {number}"
        self._teach.keep_ladder(like.model_copy(update={"id": own, "name": named}))
        self._teach.ensure()
        self.open_ladder(own)
        self._edit()

    def _edit(self) -> None:
        if self._ladder in self._teach.teaching.own:
            self.editor.open(self._teach.teaching.ladders[self._ladder])
            self._pages.setCurrentWidget(self.editor)

    def _remove(self) -> None:
        if self._ladder in self._teach.teaching.own:
            self._teach.remove_ladder(self._ladder)

    def _choose_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A ladder file", "", LADDER_FILES)
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Read a ladder file and keep it as an own ladder; problems are shown beside its stages."""
        trouble = self._teach.desk.trouble
        try:
            ladder = read_ladder(path.read_bytes().decode("utf-8"), path.name)
        except OSError as error:
            trouble.emit(f"{path.name} cannot be read: {error.strerror}.")
            return
        except UnicodeDecodeError:
            trouble.emit(f"{path.name} is not UTF-8 text, so it is no ladder file.")
            return
        except ContentError as error:
            trouble.emit(f"{error} Nothing was taken.")
            return
        problems = self._problems(ladder)
        self._teach.keep_ladder(ladder)
        self._teach.ensure()
        self.open_ladder(ladder.id)
        if problems:
            trouble.emit(
                f"{ladder.name} is kept with {len(problems)} problem{'s' if len(problems) > 1 else ''}, "
                "shown below its stages. Edit it before you teach it."
            )
        else:
            self._teach.desk.said.emit(f"{ladder.name} is kept as a ladder of your own.")

    def _export(self) -> None:
        ladder = self._teach.teaching.ladders[self._ladder]
        name, _ = QFileDialog.getSaveFileName(
            self, "Write the ladder", f"{ladder.id}.json", "Ladders (*.json)"
        )
        if not name:
            return
        try:
            write_text_safely(Path(name), ladder_document(ladder))
        except OSError as error:
            self._teach.desk.trouble.emit(
                f"{Path(name).name} could not be written ({error.strerror}). "
                "Choose another folder, or free some space, and export again."
            )
            return
        self._teach.desk.said.emit(f"Written: {name}")
