"""The facts about one athlete that measuring and prescribing read; kept when they are entered."""

from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QLineEdit, QWidget

from keen_kettle.desk.desk_model import DeskModel
from keen_kettle.desk.parts import button, column, label, number_field
from keen_kettle.store import Athlete, NewAthlete

__all__ = ["AthleteCard"]

CAUTIONS = ("shoulder", "wrist", "elbow", "back")
EQUIPMENT = ("bar", "stick", "blocks")


class AthleteCard(QFrame):
    """Shows the chosen athlete, or takes a new one when everyone is chosen."""

    def __init__(self, desk: DeskModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._filling = False
        self.setProperty("role", "card")
        self._title = label("", "lead")
        self._why = label("", "quiet")
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name")
        self.stature = number_field(0, 2.5, 0.01, " m", 2)
        self.snatch = number_field(0, 400, 0.5, " kg", 1)
        self.clean = number_field(0, 400, 0.5, " kg", 1)
        for field in (self.stature, self.snatch, self.clean):
            field.setSpecialValueText("not known")
        self.cautions = {name: QCheckBox(name) for name in CAUTIONS}
        self.equipment = {name: QCheckBox(name) for name in EQUIPMENT}
        self.enter = button(
            "Enter this athlete", "Keep the new athlete", self._enter, "plus", "next"
        )
        self.setLayout(
            column(self._title, self._why, self._grid(), self.enter, spacing=10, margin=14)
        )
        self.name.editingFinished.connect(self._keep)
        for field in (self.stature, self.snatch, self.clean):
            field.valueChanged.connect(lambda _value: self._keep())
        for box in (*self.cautions.values(), *self.equipment.values()):
            box.toggled.connect(lambda _on: self._keep())
        desk.who_changed.connect(self._fill)
        desk.records_changed.connect(self._on_records)
        self._fill()

    def _grid(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        fields = (
            ("Name", self.name, "Name of the athlete"),
            ("Height", self.stature, "Standing height in metres"),
            ("Best snatch", self.snatch, "Loads of snatch drills are reckoned from it"),
            ("Best clean", self.clean, "Loads of clean drills are reckoned from it"),
        )
        for number, (words, field, tip) in enumerate(fields):
            grid.addWidget(label(words, "quiet", wrap=False), number, 0)
            grid.addWidget(field, number, 1, 1, 3)
            field.setToolTip(tip)
            field.setAccessibleName(words)
        for at, words, boxes, tip in (
            (4, "Cautions", self.cautions, "Drills that load this are passed over"),
            (6, "At hand", self.equipment, "Drills that need what is not at hand are passed over"),
        ):
            grid.addWidget(label(words, "quiet", wrap=False), at, 0)
            for number, box in enumerate(boxes.values()):
                box.setToolTip(tip)
                grid.addWidget(box, at + number // 2, 1 + number % 2)
        grid.setColumnStretch(3, 1)
        return grid

    def _athlete(self) -> Athlete | None:
        return self._desk.athlete(self._desk.who)

    def _on_records(self) -> None:
        if self._athlete() is not None:
            self._fill()

    def _fill(self) -> None:
        athlete = self._athlete()
        shown = athlete or NewAthlete("")
        self._filling = True
        self._title.setText(shown.name if athlete is not None else "New athlete")
        self._why.setText(
            "Changes are kept at once."
            if athlete is not None
            else "Or choose an athlete above to see and change theirs."
        )
        self.name.setText(shown.name)
        self.stature.setValue(shown.stature_m or 0)
        self.snatch.setValue(shown.bests_kg.get("snatch", 0))
        self.clean.setValue(shown.bests_kg.get("clean", 0))
        for name, box in self.cautions.items():
            box.setChecked(name in shown.cautions)
        for name, box in self.equipment.items():
            box.setChecked(name in shown.equipment)
        self.enter.setVisible(athlete is None)
        self._filling = False

    def _entered(self) -> NewAthlete:
        bests = {"snatch": self.snatch.value(), "clean": self.clean.value()}
        return NewAthlete(
            name=self.name.text().strip(),
            stature_m=self.stature.value() or None,
            bests_kg={lift: kilos for lift, kilos in bests.items() if kilos > 0},
            cautions=frozenset(name for name, box in self.cautions.items() if box.isChecked()),
            equipment=frozenset(name for name, box in self.equipment.items() if box.isChecked()),
        )

    def _keep(self) -> None:
        athlete = self._athlete()
        if self._filling or athlete is None:
            return
        new = self._entered()
        if not new.name:
            self._fill()
            return
        self._desk.change_athlete(
            replace(
                athlete,
                name=new.name,
                stature_m=new.stature_m,
                bests_kg={**athlete.bests_kg, **new.bests_kg},
                cautions=new.cautions,
                equipment=new.equipment,
            )
        )

    def _enter(self) -> None:
        new = self._entered()
        if not new.name:
            self._desk.trouble.emit("Give the athlete a name first; the rest can follow later.")
            self.name.setFocus()
            return
        if any(one.name.casefold() == new.name.casefold() for one in self._desk.athletes):
            self._desk.trouble.emit(
                f"There is an athlete called {new.name} already. Choose a name that tells them apart."
            )
            self.name.setFocus()
            return
        self._desk.add_athlete(new)
