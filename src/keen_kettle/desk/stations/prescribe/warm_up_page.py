"""Warm-up: mobility by need, bar positions, the build-up with its plates, and the first rep as gate."""

from functools import partial

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QGridLayout, QToolButton, QWidget

from keen_kettle.core.prescribe.warm_up import Opened
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
from keen_kettle.desk.state.prescribe.warm_up_model import WarmUpModel
from keen_kettle.desk.stations.prescribe.lift_box import LiftBox
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["WarmUpPage"]


class WarmUpPage(QWidget):
    """Left what opens the body, right what leads to the first working set."""

    def __init__(self, model: WarmUpModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model
        self.lift = LiftBox(model.set_lift)
        self.minutes = number_field(1, 30, 1, " min", 0)
        self.minutes.setAccessibleName("Minutes for mobility and bar")
        self.minutes.setToolTip("What the opening may take; what does not fit is left out and said")
        self.minutes.valueChanged.connect(lambda value: model.set_minutes(int(value)))
        self.working = number_field(0, 400, 1, " kg", 1)
        self.working.setAccessibleName("First working set")
        self.working.setToolTip("The load that the build-up leads to")
        self.working.valueChanged.connect(model.set_working)
        self._title = label("", "title", wrap=False)
        head = row(self._title)
        head.addStretch(1)
        for words, field in (
            ("Lift", self.lift),
            ("Opening", self.minutes),
            ("First working set", self.working),
        ):
            head.addWidget(label(words, "quiet", wrap=False))
            head.addWidget(field)
        self._opening, self._build = Sheet(), Sheet()
        body = row(scrolled(self._opening), scrolled(self._build), spacing=16)
        body.setStretch(0, 5)
        body.setStretch(1, 6)
        layout = column(head, body, spacing=10)
        layout.setStretch(1, 1)
        self.setLayout(layout)
        self._idle = IdleCall(self._rebuild, self)
        model.changed.connect(self._idle.ask)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._rebuild()

    def _rebuild(self) -> None:
        if not self.isVisible():
            return
        model = self.model
        model.ensure()
        self._title.setText(f"Warm-up for {model.who}" if model.who else "Warm-up")
        self.lift.show_lift(model.lift.name)
        for field, value in (
            (self.minutes, float(model.minutes)),
            (self.working, model.planned_kg or 0.0),
        ):
            field.blockSignals(True)
            field.setValue(value)
            field.blockSignals(False)
        self._fill_opening()
        self._fill_build()

    def _fill_opening(self) -> None:
        opening = self.model.opening
        if opening is None:
            return
        parts = column(spacing=12)
        number = 1
        for head, steps in (
            ("FROM THE GROUND UP", opening.mobility),
            ("WITH STICK OR EMPTY BAR, SLOW BEFORE FAST", opening.bar),
        ):
            grid = QGridLayout()
            grid.setHorizontalSpacing(12)
            grid.setVerticalSpacing(8)
            grid.setColumnStretch(1, 1)
            grid.setColumnMinimumWidth(0, 20)
            grid.setColumnMinimumWidth(3, 40)
            for at, one in enumerate(steps):
                self._line(grid, at, number, one)
                number += 1
            holder = QWidget()
            holder.setLayout(grid)
            seconds = sum(one.seconds for one in steps)
            nothing = label("No minutes are left for this.", "quiet")
            parts.addWidget(
                card(label(f"{head} · {_minutes(seconds)}", "head"), holder if steps else nothing)
            )
        if self.model.running:
            parts.addWidget(self._running_card())
        if opening.left_out:
            reasons: dict[str, list[str]] = {}
            for name, why in opening.left_out:
                reasons.setdefault(why, []).append(name)
            words = "\n".join(f"{', '.join(names)}: {why}." for why, names in reasons.items())
            parts.addWidget(card(label("Left out", "lead"), label(words, "quiet"), spacing=4))
        self._opening.fill(parts)

    def _running_card(self) -> QWidget:
        """What was prescribed, before the build-up begins."""
        lines: list[QWidget] = [label("THEN THE CORRECTIVES THAT RUN", "head")]
        for one in self.model.running:
            load = f", {show_kg(one.load_kg)}" if one.load_kg is not None else ""
            lines.append(label(f"{one.name}: {one.dose}{load}"))
            lines.append(label(f"{one.cue} New clip due {one.review_on:%-d %b}.".strip(), "small"))
        return card(*lines, spacing=4)

    @staticmethod
    def _line(grid: QGridLayout, at: int, number: int, one: Opened) -> None:
        grid.addWidget(label(str(number), "quiet", wrap=False), at, 0)
        words = column(label(one.name), spacing=0)
        if one.why:
            words.addWidget(label(one.why, "small"))
        grid.addLayout(words, at, 1)
        grid.addWidget(label(one.dose, "measured", wrap=False), at, 2)
        grid.addWidget(label(f"{one.seconds} s", "quiet", wrap=False), at, 3)

    def _fill_build(self) -> None:
        model = self.model
        parts = column(spacing=12)
        parts.addWidget(self._build_card())
        parts.addWidget(self._gate_card())
        cautions = model.desk.content.cautions
        parts.addWidget(label(f"{cautions['floor'].text} {cautions['first'].text}", "small"))
        self._build.fill(parts)

    def _build_card(self) -> QWidget:
        model = self.model
        kilos = model.working_kg
        if kilos is None:
            why = (
                "No best of this lift is known: enter it on Screen, or say above what the first "
                "working set weighs."
                if model.who
                else "Choose an athlete above, or say what the first working set weighs."
            )
            return card(label("BUILD UP", "head"), label(why, "quiet"))
        if not model.steps:
            return card(
                label("BUILD UP", "head"),
                label(f"The work is done with the empty bar, {show_kg(kilos)}.", "lead"),
            )
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(3, 1)
        empty = model.desk.plates.empty_kg
        grid.addWidget(label(f"{show_kg(empty)}", "quiet", wrap=False), 0, 0)
        grid.addWidget(label("empty bar: the positions", "quiet", wrap=False), 0, 2)
        for at, one in enumerate(model.steps, 1):
            last = at == len(model.steps)
            grid.addWidget(
                label(show_kg(one.loading.total_kg), "title" if last else "lead", wrap=False), at, 0
            )
            reps = "" if last else f"× {one.reps}"
            grid.addWidget(label(reps, "", wrap=False), at, 1)
            grid.addWidget(PlatesPicture(one.loading.per_side_kg, 46), at, 2)
            changes = f"{one.changes} plate{'s' if one.changes != 1 else ''} a side to change"
            words = "first working set; " + changes if last else changes
            grid.addWidget(label(words, "quiet"), at, 3)
        holder = QWidget()
        holder.setLayout(grid)
        return card(label("BUILD UP", "head"), holder)

    def _gate_card(self) -> QWidget:
        """The first rep with the bar: what did not hold changes today."""
        model = self.model
        toggles: list[QWidget] = []
        for name in model.positions:
            made = QToolButton()
            made.setText(name.capitalize())
            made.setCheckable(True)
            made.setChecked(name in model.failed)
            made.setToolTip(f"Press if the {name} did not hold in the first rep")
            made.setAccessibleName(f"Did not hold: {name}")
            made.clicked.connect(partial(model.toggle_position, name))
            toggles.append(made)
        keys = column(spacing=4)
        packed(keys, toggles, 560, self, left=True)
        first = model.first_rep
        parts: list[QWidget] = [
            label("THE FIRST REP WITH THE BAR IS TODAY’S GATE", "head"),
            label("Press what did not hold.", "quiet"),
        ]
        holder = QWidget()
        holder.setLayout(keys)
        parts.append(holder)
        if model.filmed and model.filmed != model.failed:
            parts.append(
                button(
                    f"As today’s clip shows: {', '.join(model.filmed)}",
                    "Take what was filmed today as the first rep",
                    model.take_filmed,
                    "film",
                )
            )
        picture = "check" if first.passed else "arrow-right"
        parts += [with_picture(picture, "right", words) for words in first.says]
        if not first.passed:
            parts.append(label(f"Today: {first.instead.name}", "lead"))
        return card(*parts, spacing=6)


def _minutes(seconds: int) -> str:
    return f"{seconds // 60} MIN {seconds % 60:02d} S" if seconds >= 60 else f"{seconds} S"
