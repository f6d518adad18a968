"""Trying out: a few variants in one visit, the one that becomes the athlete's lift, and jump heights."""

from functools import partial

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    label,
    name_edit,
    number_field,
    row,
    scrolled,
    with_role,
)
from keen_kettle.desk.kit.theme import colour, dress
from keen_kettle.desk.shared.who_needed import AthletePage
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.state.teach.trial_model import TrialModel
from keen_kettle.desk.stations.teach.choices import Choices
from keen_kettle.store import Athlete, Jump, KeptTry

__all__ = ["JumpChart", "TryoutPage"]

VARIANTS = (
    *("hang power clean, above knee", "hang power clean, hip", "power clean", "clean pull"),
    *("hang power snatch, above knee", "hang power snatch, mid-shin", "power snatch"),
    *("dumbbell hang power snatch, knee", "dumbbell pair hang power clean, above knee"),
    *("kettlebell hang power snatch, knee", "hang clean jump shrug, mid-thigh", "box jump"),
)
LIKED = {"disliked": -1, "so-so": 0, "liked": 1}
WORDS = {value: word for word, value in LIKED.items()}


class TryoutPage(AthletePage):
    """Left: what was tried today and what speaks for which; right: jumps over the weeks."""

    def __init__(
        self, teach: TeachModel, trials: TrialModel, parent: QWidget | None = None
    ) -> None:
        super().__init__(
            teach,
            "Try out lifts with an athlete",
            "Three or four variants in one visit, one or two sets each: the one that is done best and liked becomes their lift for now.",
            parent,
        )
        self.trials = trials
        left = self._tries()
        right = self._jumps()
        across = row(left, right, spacing=12)
        across.setStretch(0, 3)
        across.setStretch(1, 2)
        self.lay_out(across)
        trials.changed.connect(self.show_again)

    def _jumps(self) -> QWidget:
        """Jump heights over time."""
        self.jump_cm = number_field(0, 150, 1, " cm", 0)
        self.jump_cm.setAccessibleName("Jump height")
        self.jump_cm.setToolTip("Height of the best jump today, measured by hand")
        self.note = button(
            "Note the jump", "Keep this height with today's day", self._jump, "arrow-up"
        )
        self.chart = JumpChart()
        self._jump_words = label("", "quiet")
        right = card(
            label("Jump height", "title"),
            label("An outcome that every athlete understands, beside stage and load.", "quiet"),
            row(self.jump_cm, self.note),
            self.chart,
            self._jump_words,
        )
        inner = right.layout()
        assert isinstance(inner, QVBoxLayout)
        inner.addStretch(1)
        return right

    def _tries(self) -> QWidget:
        """What is tried, how it went, and what was tried today."""
        self._title = label("", "title")
        self._own = label("", "measured")
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        self._best = QVBoxLayout()
        self._best.setSpacing(6)
        self.variant = QComboBox()
        self.variant.setEditable(True)
        self.variant.addItems(VARIANTS)
        name_edit(self.variant, "Variant", "What is tried: choose, or type it as you say it")
        self.met = number_field(0, 9, 1, " points met", 0)
        self.asked = number_field(1, 9, 1, " asked", 0)
        self.asked.setValue(4)
        self.speed = number_field(0, 6, 0.05, " m/s", 2)
        self.speed.setSpecialValueText("speed not measured")
        for field, name, tip in (
            (self.met, "Points met", "How many of the points were there"),
            (self.asked, "Points asked", "How many points you looked at"),
            (self.speed, "Peak speed", "Of the bar, where a clip gave it"),
        ):
            field.setAccessibleName(name)
            field.setToolTip(tip)
        self.liked = Choices("Liked", tuple(LIKED), "How the athlete found it", lambda _word: None)
        self.add = button("Keep this try", "One line for this variant", self._add, "plus", "next")
        left = card(
            self._title,
            self._own,
            self.variant,
            row(self.met, self.asked, self.speed),
            row(self.liked, self.add),
            label("TRIED TODAY", "head"),
            scrolled(self._rows),
            self._best,
        )
        layout = left.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.setStretch(6, 1)
        return left

    def fill(self, athlete: Athlete) -> None:
        self._title.setText(f"Try-out: {athlete.name}")
        self._own.setText(f"Lift for now: {athlete.own_lift}" if athlete.own_lift else "")
        self._own.setVisible(bool(athlete.own_lift))
        clear(self._rows)
        tried = self.trials.tries_today()
        for one in tried:
            self._rows.addWidget(self._line(one))
        if not tried:
            self._rows.addWidget(label("Nothing yet. Begin with what you would bet on.", "quiet"))
        self._fill_best(len(tried))
        self._fill_jumps()

    def _line(self, one: KeptTry) -> QWidget:
        made = QWidget()
        speed = f" · {one.tried.speed_mps:.2f} m/s" if one.tried.speed_mps else ""
        words = f"{one.tried.met} of {one.tried.asked} points · {WORDS[one.tried.liked]}{speed}"
        away = button(
            "", f"Take {one.tried.movement} back", partial(self.trials.drop_try, one), "x"
        )
        line = row(label(one.tried.movement), label(words, "measured", wrap=False), away)
        line.setStretch(0, 1)
        made.setLayout(line)
        return made

    def _fill_best(self, count: int) -> None:
        clear(self._best)
        best = self.trials.best()
        with_role(self.add, "" if best is not None else "next")
        dress(self.add, "plus", "ink" if best is not None else "on_brass")
        if best is None:
            words = "Two variants at least, and one that stands out." if count else ""
            self._best.addWidget(label(words, "quiet"))
            return
        movement = best.best.movement
        self._best.addWidget(label(f"Done best: {movement} ({best.reason}).", "lead"))
        take = button(
            "Make it their lift",
            "Their lift for now; another try-out may change it",
            partial(self.trials.make_own, movement),
            "check",
            "next",
        )
        line = row(take)
        line.addStretch(1)
        self._best.addLayout(line)

    def _fill_jumps(self) -> None:
        jumps = self.trials.jumps()
        self.chart.show_jumps(jumps)
        if not jumps:
            self._jump_words.setText("No jump is noted yet.")
            return
        first, last = jumps[0], jumps[-1]
        gained = 100 * (last.height_m - first.height_m)
        since = f", {gained:+.0f} cm since {first.on:%d %b}" if len(jumps) > 1 else ""
        self._jump_words.setText(f"{100 * last.height_m:.0f} cm on {last.on:%d %b}{since}.")

    def _add(self) -> None:
        kept = self.trials.add_try(
            self.variant.currentText(),
            round(self.met.value()),
            round(self.asked.value()),
            LIKED.get(self.liked.choice, 0),
            self.speed.value() or None,
        )
        if kept:
            self.met.setValue(0)
            self.speed.setValue(0)
            self.liked.show_choice("")

    def _jump(self) -> None:
        self.jump_cm.interpretText()
        self.trials.add_jump(self.jump_cm.value() / 100)
        self.jump_cm.setValue(0)


class JumpChart(QWidget):
    """Heights over days, as measured: points joined by a line, the first and last with their value."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._jumps: list[Jump] = []
        self.setFixedHeight(240)
        self.setAccessibleName("Jump heights over time")

    def show_jumps(self, jumps: list[Jump]) -> None:
        self._jumps = jumps
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self._jumps:
            return
        paint = QPainter(self)
        paint.setRenderHint(QPainter.RenderHint.Antialiasing)
        days = [one.on.toordinal() for one in self._jumps]
        heights = [100 * one.height_m for one in self._jumps]
        low, high = min(heights) - 3, max(heights) + 3
        wide, tall = self.width() - 64, self.height() - 40
        places = [
            QPointF(
                24 + wide * (day - days[0]) / max(days[-1] - days[0], 1),
                16 + tall * (high - height) / (high - low),
            )
            for day, height in zip(days, heights, strict=True)
        ]
        paint.setPen(QPen(colour("chalk"), 2))
        paint.drawPolyline(QPolygonF(places))
        paint.setBrush(colour("chalk"))
        for place in places:
            paint.drawEllipse(place, 3, 3)
        paint.setPen(QPen(colour("ink")))
        for number in {0, len(places) - 1}:
            at = places[number] + QPointF(-10, -8 if number else 20)
            paint.drawText(at, f"{heights[number]:.0f} cm")
        paint.setPen(QPen(colour("quiet")))
        paint.drawText(
            self.rect().adjusted(24, 0, -8, -2),
            int(Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft),
            f"{self._jumps[0].on:%d %b} – {self._jumps[-1].on:%d %b}",
        )
