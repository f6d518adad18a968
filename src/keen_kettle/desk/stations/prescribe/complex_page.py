"""Complex: what it is to be for, the best string, the string on the bench, others of another kind."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QInputDialog,
    QLineEdit,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.content import OwnMovement
from keen_kettle.core.plan import ComplexLoad
from keen_kettle.core.prescribe.complexes import SCHOOLS, Complex
from keen_kettle.core.units import show_kg
from keen_kettle.desk.kit.builders import (
    Sheet,
    button,
    card,
    column,
    label,
    number_field,
    packed,
    row,
    scrolled,
    with_picture,
)
from keen_kettle.desk.shared.plates_picture import PlatesPicture
from keen_kettle.desk.state.prescribe.complex_model import ComplexModel
from keen_kettle.desk.state.prescribe.movement_model import MovementModel
from keen_kettle.desk.stations.prescribe.lift_box import LiftBox
from keen_kettle.desk.stations.prescribe.movement_editor import MovementEditor, own_line
from keen_kettle.desk.stations.prescribe.string_bench import StringBench
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["ComplexPage"]

CHIPS_PX = 1240
VERSION_WORDS = {"barbell": "Bar", "dumbbell pair": "Dumbbells", "kettlebell": "One bell"}


class ComplexPage(QWidget):
    """The wish above, the bench in the middle, price and alternatives below."""

    def __init__(
        self, model: ComplexModel, movements: MovementModel, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.model, self.movements = model, movements
        self.lift = LiftBox(model.set_lift)
        self.school = self._school_box()
        self.most = self._count("Parts at most", 2, 6)
        self.overhead = self._count("Movements overhead at most", 0, 6)
        self._wanted, self._below = Sheet(), Sheet()
        self.bench = StringBench(model)
        self.typed = QLineEdit()
        self.typed.setAccessibleName("Type a complex")
        self.typed.setPlaceholderText(
            "Type one: power snatch + overhead squat + 2 hang snatch, hip"
        )
        self.typed.setToolTip("Parts joined by “+”, as you say them; Enter lays it on the bench")
        self.typed.returnPressed.connect(self._type)
        self._title = label("", "title", wrap=False)
        head = row(self._title)
        head.addStretch(1)
        for words, field in (
            ("Lift", self.lift),
            ("School", self.school),
            ("Parts", self.most),
            ("Overhead", self.overhead),
        ):
            head.addWidget(label(words, "quiet", wrap=False))
            head.addWidget(field)
        below = scrolled(self._below)
        layout = column(head, self._wanted, self.bench, self._line(), below, spacing=10)
        layout.setStretch(4, 1)
        whole = QWidget()
        whole.setLayout(layout)
        self.editor = MovementEditor(movements, self._leave)
        self._pages = QStackedWidget()
        self._pages.addWidget(whole)
        self._pages.addWidget(self.editor)
        self.setLayout(column(self._pages))
        self._idle = IdleCall(self._rebuild, self)
        model.changed.connect(self._idle.ask)
        self.bench.chosen_changed.connect(lambda _number: self._dress_line())

    def _school_box(self) -> QComboBox:
        box = QComboBox()
        box.addItem("Any school", "")
        for name, says in SCHOOLS.items():
            box.addItem(name.capitalize(), name)
            box.setItemData(box.count() - 1, says, 3)
        box.setAccessibleName("School of complexes")
        box.setToolTip(
            "One of each part; the same lift from ever lower starts; a pull, then the lift"
        )
        box.activated.connect(lambda _row: self.model.set_school(box.currentData()))
        return box

    def _count(self, words: str, low: int, high: int) -> QDoubleSpinBox:
        made = number_field(low, high, 1, "", 0)
        made.setAccessibleName(words)
        made.setToolTip(f"{words}; arrow keys change it")
        made.setFixedWidth(48)
        made.valueChanged.connect(lambda _value: self._on_limits())
        return made

    def _on_limits(self) -> None:
        self.model.set_limits(int(self.most.value()), self.model.reps, int(self.overhead.value()))

    def _line(self) -> QWidget:
        """What changes the chosen part, and the line in which a string is typed."""
        self.fewer = button("–", "One repetition less of the chosen part", partial(self._reps, -1))
        self.more = button("+", "One repetition more of the chosen part", partial(self._reps, 1))
        self.out = button("Take out", "Take the chosen part out (Delete)", self._take_out, "x")
        self._reps_of = label("", "quiet", wrap=False)
        keep = button("Keep this one …", "Keep the string under a name", self._keep, "star")
        line = row(self._reps_of, self.fewer, self.more, self.out, self.typed, keep)
        line.setStretch(4, 1)
        holder = QWidget()
        holder.setLayout(line)
        return holder

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._rebuild()

    def _rebuild(self) -> None:
        if not self.isVisible():
            return
        model = self.model
        model.ensure()
        person = model.person.name
        self._title.setText(f"A complex for {person}" if person else "A complex")
        self.lift.show_lift(model.lift)
        self.school.setCurrentIndex(self.school.findData(model.school))
        for field, value in ((self.most, model.most), (self.overhead, model.overhead)):
            field.blockSignals(True)
            field.setValue(value)
            field.blockSignals(False)
        self._fill_wanted()
        self._fill_below()
        self._dress_line()

    def _fill_wanted(self) -> None:
        """What it is for, as toggles; those that the athlete's faults ask for say so."""
        model = self.model
        asked, wanted = model.asked(), model.wanted
        chips: list[QWidget] = []
        for quality in model.desk.content.qualities.values():
            made = QToolButton()
            made.setText(quality.name + (" •" if quality.id in asked else ""))
            made.setCheckable(True)
            made.setChecked(quality.id in wanted)
            faults = [
                model.desk.content.faults[one].name.lower()
                for one in quality.answers
                if model.weights.get(one)
            ]
            why = f" Asked for by: {', '.join(faults)}." if faults else ""
            made.setToolTip(quality.says + why)
            made.setAccessibleName(f"Wanted: {quality.name}")
            made.clicked.connect(partial(model.toggle, quality.id))
            chips.append(made)
        place = QVBoxLayout()
        place.setSpacing(4)
        packed(place, chips, CHIPS_PX, self, left=True)
        words = "It is to train (• asked for by what was seen)"
        self._wanted.fill(column(label(words, "quiet"), place, spacing=4))

    def _fill_below(self) -> None:
        left = column(self._price_card(), spacing=12)
        versions = self._versions_card()
        if versions is not None:
            left.addWidget(versions)
        left.addStretch(1)
        right = column(self._others_card(), spacing=12)
        right.addWidget(self._kept_card())
        right.addStretch(1)
        both = row(spacing=12)
        both.addLayout(left, 5)
        both.addLayout(right, 6)
        self._below.fill(both)

    # The string

    def _price_card(self) -> QWidget:
        model = self.model
        parts: list[QWidget] = [label("THE STRING ON THE BENCH", "head")]
        if model.trouble:
            parts.append(with_picture("triangle-alert", "fault", model.trouble))
        if model.unknown:
            parts.append(self._as_own(model.unknown))
        one = model.string
        for problem in model.problems:
            words = f"Between {problem.joint} and {problem.joint + 1}: {problem.why}."
            parts.append(with_picture("triangle-alert", "fault", words))
        if model.problems:
            parts += self._mend()
        for movement in dict.fromkeys(model.movements):
            against = model.shut(movement)
            if against:
                parts.append(
                    with_picture("octagon-alert", "safety", f"{movement.name}: {against}.")
                )
        if model.person.name and model.person.beginner:
            words = (
                "Still new to these lifts: a stage at a time, with a stick; a string comes later."
            )
            parts.append(with_picture("triangle-alert", "fault", words))
        if one is not None:
            parts += self._price(one, model.load(one))
        elif not model.problems:
            parts.append(label("A string has at least two parts.", "quiet"))
        found = model.found
        if found is not None and found.why_none:
            parts.append(with_picture("octagon-alert", "safety", found.why_none))
        if found is not None and found.lift_says:
            parts.append(with_picture("octagon-alert", "safety", found.lift_says))
        parts += [label(f"{note}", "quiet") for note in (found.notes if found else ())]
        if found is not None and found.untested:
            parts.append(label(f"To be tested first: {'; '.join(found.untested)}.", "fault"))
        return card(*parts, spacing=6)

    def _as_own(self, name: str) -> QWidget:
        make = partial(self._edit, None, name)
        tip = "Say where the load is before and after it; then the string is read"
        line = row(button(f"Make “{name}” your own movement", tip, make, "plus", "next"))
        line.addStretch(1)
        holder = QWidget()
        holder.setLayout(line)
        return holder

    def _mend(self) -> list[QWidget]:
        mended = self.model.mended()
        if mended is None:
            return [label("Nothing put between mends it: change the order or a part.", "quiet")]
        names = " + ".join(mended.names)
        return [
            label(f"Possible with the fewest movements put in: {names}", "quiet"),
            button("Mend it", "Put these movements in", self.model.mend, "check", "next"),
        ]

    def _price(self, one: Complex, load: ComplexLoad) -> list[QWidget]:
        model = self.model
        weakest = one.parts[load.weakest].name
        parts: list[QWidget] = []
        if load.loading is not None and load.limit_kg is not None and load.share is not None:
            line = row(label(show_kg(load.loading.total_kg), "title", wrap=False))
            if load.loading.per_side_kg:
                line.addWidget(PlatesPicture(load.loading.per_side_kg, 46))
            line.addStretch(1)
            holder = QWidget()
            holder.setLayout(line)
            parts.append(holder)
            parts.append(
                label(
                    f"{100 * load.share:.0f} % of what its weakest part carries: {weakest}, about "
                    f"{load.limit_kg:.0f} kg once."
                )
            )
        else:
            parts.append(label(f"No load: {load.why_not}. Its weakest part: {weakest}.", "fault"))
        moves = f"{_moves(one)} between"
        parts.append(
            label(
                f"{one.reps} reps · {moves} · a set takes about {one.set_s:.0f} s · four sets with "
                f"rests {one.minutes:.0f} min",
                "measured",
            )
        )
        qualities = model.desk.content.qualities
        for part in one.parts:
            names = ", ".join(qualities[name].name for name in part.trains)
            if names:
                parts.append(label(f"{part.name}: {names}{self._answers(part.trains)}", "quiet"))
        if one.misses:
            names = ", ".join(qualities[name].name for name in one.misses)
            parts.append(label(f"Not trained by it: {names}.", "fault"))
        return parts

    def _answers(self, trains: Sequence[str]) -> str:
        """The athlete's faults that a part answers."""
        content, weights = self.model.desk.content, self.model.weights
        faults = [
            content.faults[fault].name.lower()
            for name in trains
            for fault in content.qualities[name].answers
            if weights.get(fault)
        ]
        return f" – answers {', '.join(dict.fromkeys(faults))}" if faults else ""

    def _versions_card(self) -> QWidget | None:
        versions = self.model.versions()
        if not versions:
            return None
        lines = []
        for implement, names in versions.items():
            words = " + ".join(names) if names is not None else "no legal string of this kind"
            lines.append(label(f"{VERSION_WORDS[implement]}: {words}", "" if names else "quiet"))
        return card(label("THE SAME WITH OTHER IMPLEMENTS", "head"), *lines, spacing=6)

    # Others

    def _others_card(self) -> QWidget:
        found = self.model.found
        if found is None or found.best is None:
            words = "Looking for the best string …" if self.model.searching else "None was found."
            return card(label("OFFERED", "head"), label(words, "quiet"))
        offers = (found.best, *found.alternatives)
        parts: list[QWidget] = [
            label("OFFERED", "head"),
            *(self._offer(one, best=number == 0) for number, one in enumerate(offers)),
        ]
        if found.ruled_out:
            parts.append(label("LEFT OUT", "head"))
            parts += [
                label(f"{_some(one.names)}: {one.why}.", "quiet") for one in found.ruled_out[:4]
            ]
        return card(*parts, spacing=6)

    def _offer(self, one: Complex, best: bool) -> QWidget:
        model = self.model
        here = model.names == [part.name for part in one.parts]
        qualities = model.desk.content.qualities
        covers = ", ".join(qualities[name].name for name in one.covers) or "nothing that is wanted"
        school = SCHOOLS[one.school] if one.school else ""
        school = school[:1].upper() + school[1:]
        words = column(
            label(one.says, "lead" if best else ""),
            label(f"{'Best. ' if best else ''}{school}. Trains {covers}; {_moves(one)}.", "quiet"),
            spacing=0,
        )
        line = row(spacing=12)
        line.addLayout(words, 1)
        if here:
            line.addWidget(label("on the bench", "measured", wrap=False))
        else:
            line.addWidget(
                button("Take this one", "Lay it on the bench", partial(model.use, one), "arrow-up")
            )
        holder = QWidget()
        holder.setLayout(line)
        return holder

    def _kept_card(self) -> QWidget:
        parts: list[QWidget] = [label("YOUR OWN", "head")]
        if not self.model.kept and not self.movements.movements:
            parts.append(label("Strings you keep, and movements that you name.", "quiet"))
        for one in self.model.kept:
            line = row(spacing=6)
            line.addLayout(column(label(one.name), label(one.text, "quiet"), spacing=0), 1)
            line.addWidget(
                button(
                    "Take this one",
                    "Lay it on the bench",
                    partial(self.model.type_in, one.text),
                    "arrow-up",
                )
            )
            line.addWidget(
                button("", f"Remove “{one.name}”", partial(self.model.drop, one), "trash-2")
            )
            holder = QWidget()
            holder.setLayout(line)
            parts.append(holder)
        parts += [own_line(self.movements, one, self._edit) for one in self.movements.movements]
        line = row(
            button(
                "New movement", "One that has no name here yet", partial(self._edit, None), "plus"
            )
        )
        line.addStretch(1)
        holder = QWidget()
        holder.setLayout(line)
        return card(*parts, holder, spacing=6)

    # Own movements

    def _edit(self, one: OwnMovement | None, name: str = "") -> None:
        self.editor.begin(one, name)
        self._pages.setCurrentIndex(1)

    def _leave(self, made: OwnMovement | None) -> None:
        self._pages.setCurrentIndex(0)
        if made is not None and self.model.unknown:
            self._type()

    # Intents

    def _type(self) -> None:
        if self.typed.text().strip() and self.model.type_in(self.typed.text()):
            self.typed.clear()

    def _dress_line(self) -> None:
        at, model = self.bench.chosen, self.model
        inside = 0 <= at < len(model.movements)
        for one in (self.fewer, self.more, self.out):
            one.setEnabled(inside)
        self.fewer.setEnabled(inside and model.counts[at] > 1)
        self._reps_of.setText(f"Part {at + 1}" if inside else "No part chosen")

    def _reps(self, by: int) -> None:
        at = self.bench.chosen
        if 0 <= at < len(self.model.counts):
            self.model.set_count(at, max(self.model.counts[at] + by, 1))

    def _take_out(self) -> None:
        self.model.remove(self.bench.chosen)

    def _keep(self) -> None:
        if len(self.model.movements) < 2:
            return
        name, kept = QInputDialog.getText(self, "Keep this complex", "What do you call it?")
        if kept:
            self.model.keep(name)


def _some(names: Sequence[str]) -> str:
    more = f" and {len(names) - 3} more" if len(names) > 3 else ""
    words = ", ".join(names[:3]) + more
    return words[:1].upper() + words[1:]


def _moves(one: Complex) -> str:
    return f"{one.moves} move{'s' if one.moves != 1 else ''}"
