"""Faults: what a fault looks like beside the right way, by degree, on the same body."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QComboBox, QSlider, QWidget

from keen_kettle.core.prescribe import Cause
from keen_kettle.core.simulate.body3d import (
    SHOWN_FAULTS,
    LiftFigure,
    lift_figure,
    lifter_for,
    plainest_s,
    same_moment_s,
)
from keen_kettle.desk.kit.builders import Sheet, button, card, column, label, row, scrolled
from keen_kettle.desk.shared.figure_view import FigureView
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel

__all__ = ["FaultsPage"]

JERK_FAULTS = ("dip-forward", "dip-depth")
STEPS = 10


class FaultsPage(QWidget):
    """Two bodies, one slider: nothing at its left end, plainly wrong at its right end."""

    def __init__(self, model: CorrectiveModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model
        self._lifter = lifter_for()
        self._wrong = lift_figure("snatch", self._lifter.body)
        self.fault = QComboBox()
        faults = model.desk.content.faults
        for name in sorted(SHOWN_FAULTS, key=lambda one: faults[one].name):
            self.fault.addItem(faults[name].name, name)
        self.fault.setAccessibleName("Fault")
        self.fault.setToolTip("The faults that a model can show")
        self.fault.activated.connect(lambda _row: self._show())
        self.lift = QComboBox()
        self.lift.setAccessibleName("Lift")
        self.lift.setToolTip("In which lift it is shown")
        self.lift.activated.connect(lambda _row: self._show())
        self.degree = QSlider(Qt.Orientation.Horizontal)
        self.degree.setRange(0, STEPS)
        self.degree.setValue(STEPS)
        self.degree.setAccessibleName("How much of the fault")
        self.degree.setToolTip("From none at the left to plainly wrong at the right")
        self.degree.valueChanged.connect(lambda _value: self._on_degree())
        self.right, self.wrong = FigureView(), FigureView()
        for one, other in ((self.right, self.wrong), (self.wrong, self.right)):
            one.stage.turned.connect(partial(self._turn_with, one, other))
        both = button("Play both slowly", "Both move together", self._play_both, "play", "next")
        head = row(label("Right, and wrong on purpose", "title", wrap=False))
        head.addStretch(1)
        for words, field in (("Fault", self.fault), ("Lift", self.lift), ("Degree", self.degree)):
            head.addWidget(label(words, "quiet", wrap=False))
            head.addWidget(field)
        head.addWidget(both)
        self._wrong_head = label("", "fault")
        self._words = Sheet()
        pair = row(
            card(label("The right way", "lead"), self.right),
            card(self._wrong_head, self.wrong),
            scrolled(self._words),
            spacing=12,
        )
        for place, share in enumerate((4, 4, 3)):
            pair.setStretch(place, share)
        layout = column(head, pair, spacing=10)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        chief = next((one.fault for one in self._causes() if one.fault in SHOWN_FAULTS), None)
        if chief is not None:
            self.fault.setCurrentIndex(self.fault.findData(chief))
        self._show()

    def _causes(self) -> Sequence[Cause]:
        self.model.ensure()
        return self.model.recommended.causes

    @property
    def chosen(self) -> str:
        return str(self.fault.currentData())

    def _figure(self, degree: float) -> LiftFigure:
        return lift_figure(self.lift.currentText(), self._lifter.body, {self.chosen: degree})

    def _show(self) -> None:
        """Another fault or lift: both bodies anew."""
        athlete = self.model.athlete
        self._lifter = lifter_for(
            athlete.stature_m if athlete is not None else None,
            athlete.sex if athlete is not None else "",
        )
        lifts = ["jerk"] if self.chosen in JERK_FAULTS else ["snatch", "clean"]
        if [self.lift.itemText(k) for k in range(self.lift.count())] != lifts:
            self.lift.clear()
            self.lift.addItems(lifts)
        right, plain = self._figure(0.0), self._figure(1.0)
        at_s = plainest_s(right, plain)
        self.right.show_movement(right, self._lifter)
        self.right.go_to(same_moment_s(plain, at_s, right))
        self._show_wrong(plain, at_s)
        self._fill_words()

    def _on_degree(self) -> None:
        self._show_wrong(self._wrong, self.wrong.at_s)

    def _show_wrong(self, was: LiftFigure, at_s: float) -> None:
        """The fault by the chosen degree, in the moment that `was` stands in."""
        share = self.degree.value() / STEPS
        self._wrong_head.setText(
            f"{self.model.desk.content.faults[self.chosen].name}, {100 * share:.0f} %"
        )
        self._wrong = self._figure(share)
        self.wrong.show_movement(self._wrong, self._lifter)
        self.wrong.go_to(same_moment_s(was, at_s, self._wrong))

    def _fill_words(self) -> None:
        content = self.model.desk.content
        fault = content.faults[self.chosen]
        drills = [one for one in content.drills.values() if self.chosen in one.answers]
        later = ", ".join(content.faults[one].name.lower() for one in fault.leads_to)
        family = self.lift.currentText()
        parts: list[QWidget] = [
            label(fault.name, "title"),
            label(fault.one_thing, "lead"),
            label(fault.why),
            label("WHERE IT USUALLY COMES FROM", "head"),
            label(fault.comes_from),
        ]
        if later:
            parts += [label("LEADS TO", "head"), label(f"{later[:1].upper()}{later[1:]}.")]
        names = [one.name.format(family=family) for one in drills if family in one.families]
        if names:
            parts += [
                label("DRILLS", "head"),
                label("\n".join(n[:1].upper() + n[1:] for n in names)),
            ]
        parts.append(label("Models show what is meant; they are no measured lifts.", "small"))
        self._words.fill(column(*parts, spacing=6))

    def _turn_with(self, one: FigureView, other: FigureView) -> None:
        if abs(one.stage.yaw_deg - other.stage.yaw_deg) > 0.01:
            other.stage.turn(one.stage.yaw_deg)

    def _play_both(self) -> None:
        for one in (self.right, self.wrong):
            one.play_from_start()
