"""Fit: grip widths, overhead height and what goes under the plates, drawn and in numbers."""

from dataclasses import replace
from functools import partial
from math import sqrt

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QVBoxLayout, QWidget

from keen_kettle.core.simulate.body3d import FrontPicture, Lifter, front_picture, lifter_for
from keen_kettle.core.teach import BodyLengths, Fit, fit_grips, start_height
from keen_kettle.desk.kit.builders import button, card, column, label, number_field, row
from keen_kettle.desk.kit.theme import colour, font, theme
from keen_kettle.desk.shared.body_inks import body_inks
from keen_kettle.desk.shared.who_needed import AthletePage
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.store import Athlete

__all__ = ["FitDrawing", "FitPage", "body_of"]

LENGTHS = {
    "arm": ("Arm", "Shoulder joint to the middle of the closed hand"),
    "breadth": ("Shoulders", "From shoulder joint to shoulder joint"),
    "shoulder": ("Shoulder height", "Floor to shoulder joint, standing tall, without shoes"),
    "crease": ("Hip crease", "Floor to the fold of the hip, without shoes"),
}
PLATES = (("450 mm plates", 0.45), ("350 mm plates", 0.35), ("no plates", 0.05))


def body_of(athlete: Athlete) -> BodyLengths | None:
    """The lengths that are known; None without a height."""
    if athlete.stature_m is None:
        return None
    known = {f"{name}_m": length for name, length in athlete.lengths_m.items() if name in LENGTHS}
    return BodyLengths(athlete.stature_m, **known)


class FitDrawing(QWidget):
    """Front view: the bar in the hip crease, hanging for the clean, and overhead."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._fit: Fit | None = None
        self._body: BodyLengths | None = None
        self._lifter: Lifter | None = None
        self._kept: dict[object, FrontPicture] = {}
        self.setMinimumSize(420, 380)
        self.setAccessibleName("Grips from the front")
        self.setToolTip("From the front, to scale; the body is a model at this height")

    def show_fit(self, body: BodyLengths | None, fit: Fit | None, sex: str = "") -> None:
        self._body, self._fit = body, fit
        self._lifter = lifter_for(body.stature_m, sex) if body is not None else None
        self._kept = {}
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        fit = self._fit
        if self._body is None or fit is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        parts: tuple[tuple[str, float | None, bool], ...] = (
            ("snatch, in the crease", fit.snatch_m, False),
            ("clean, hanging", fit.clean_m, False),
            ("snatch, overhead", fit.snatch_m, True),
        )
        wide, high = self.width() // 3, self.height() - 24
        for number, (words, width, overhead) in enumerate(parts):
            painter.save()
            painter.translate(number * wide, 0)
            self._paint_one(painter, (wide, high), width, overhead)
            painter.setPen(colour("quiet"))
            painter.setFont(font("small"))
            painter.drawText(QRectF(0, high, wide, 20), Qt.AlignmentFlag.AlignHCenter, words)
            painter.restore()
        painter.setPen(colour("quiet"))
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignRight, "model, not measured")

    def _paint_one(
        self, painter: QPainter, size: tuple[int, int], width: float | None, overhead: bool
    ) -> None:
        body = self._body
        assert body is not None
        tall = body.stature_m
        arm = body.arm_m or 0.38 * tall
        breadth = body.breadth_m or 0.20 * tall
        shoulder = (body.shoulder_m or 0.80 * tall) + (0.03 * tall if overhead else 0)
        crease = body.crease_m or 0.49 * tall
        bar = None
        if width is not None:
            deep = sqrt(max(arm**2 - ((width - breadth) / 2) ** 2, 0.0))
            bar = shoulder + deep if overhead else shoulder - deep
        shown = self._picture(bar, width or 0.5, size)
        image = QImage(shown.image.tobytes(), *size, 4 * size[0], QImage.Format.Format_RGB32)
        painter.drawImage(0, 0, image)

        def to(x: float, y: float) -> QPointF:
            return QPointF(*shown.place(x, y))

        painter.setPen(QPen(colour("quiet"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(to(-0.34, crease), to(0.34, crease))
        if width is None or bar is None:
            return
        painter.setPen(QPen(colour("chalk"), 3))
        painter.drawLine(to(-0.66, bar), to(0.66, bar))
        self._paint_size(painter, to(-width / 2, bar), to(width / 2, bar), f"{100 * width:.0f} cm")
        if overhead:
            painter.setPen(QPen(colour("chalk"), 2))
            painter.drawLine(to(0, tall), to(0, bar))
            painter.drawLine(to(-0.06, tall), to(0.06, tall))
            words = f"{100 * (bar - tall):.0f} cm"
            painter.drawText(to(0, (tall + bar) / 2) + QPointF(8, 5), words)

    def _picture(self, bar: float | None, width: float, size: tuple[int, int]) -> FrontPicture:
        assert self._lifter is not None and self._body is not None
        key = (bar, width, size, theme().name)
        if key not in self._kept:
            tall = 1.36 * self._body.stature_m
            inks = body_inks("raised")
            self._kept[key] = front_picture(self._lifter, bar, width, size, inks, tall)
        return self._kept[key]

    def _paint_size(self, painter: QPainter, a: QPointF, b: QPointF, words: str) -> None:
        painter.setPen(QPen(colour("chalk"), 2))
        painter.setFont(font("text"))
        for end in (a, b):
            painter.drawLine(end + QPointF(0, -9), end + QPointF(0, 9))
        box = QRectF(a.x(), a.y() - 26, b.x() - a.x(), 18)
        painter.fillRect(
            QRectF(box.center().x() - 28, box.top() + 1, 56, 17), colour("raised", 0.85)
        )
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


class FitPage(AthletePage):
    """Drawing and numbers for the chosen athlete, with the coach's own value beside them."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(
            teach,
            "Fit an athlete",
            "From height, arm length and shoulder breadth the grips are geometry: a width to begin with, which you confirm with the bar in hand.",
            parent,
        )
        self._filling = False
        self._fit: Fit | None = None
        self.drawing = FitDrawing()
        self._title = label("", "title")
        self._words = label("", "quiet")
        self.lengths: dict[str, QDoubleSpinBox] = {}
        self.own: dict[str, QDoubleSpinBox] = {}
        self._reckoned = {name: label("", "measured") for name in ("snatch", "clean")}
        self._overhead = label("")
        self._contact = label("")
        self.plates = QComboBox()
        self.start = QComboBox()
        self._under = label("", "lead")
        side = column(self._grips_card(), self._lengths_card(), self._start_card(), spacing=12)
        side.addStretch(1)
        holder = QWidget()
        holder.setFixedWidth(452)
        holder.setLayout(side)
        drawn = card(self._title, self._words, self.drawing)
        inner = drawn.layout()
        assert isinstance(inner, QVBoxLayout)
        inner.setStretch(2, 1)
        across = row(drawn, holder, spacing=12)
        across.setStretch(0, 1)
        self.lay_out(across)

    def _grips_card(self) -> QWidget:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        for place, words in enumerate(("", "Reckoned", "Yours, confirmed", "")):
            grid.addWidget(label(words, "head", wrap=False), 0, place)
        for number, (name, words) in enumerate(
            (("snatch", "Snatch grip"), ("clean", "Clean grip")), 1
        ):
            field = number_field(0, 170, 1, " cm", 0)
            field.setSpecialValueText("not confirmed")
            field.setAccessibleName(f"{words}, confirmed")
            field.setToolTip("Between the middles of the hands, as you found it right")
            field.valueChanged.connect(lambda _value: self._keep())
            self.own[name] = field
            take = button(
                "Take", "Take the reckoned width as confirmed", partial(self._take, name), "check"
            )
            grid.addWidget(label(words, wrap=False), number, 0)
            grid.addWidget(self._reckoned[name], number, 1)
            grid.addWidget(field, number, 2)
            grid.addWidget(take, number, 3)
        grid.setColumnStretch(1, 1)
        return card(label("Grips", "lead"), grid, self._overhead, self._contact)

    def _lengths_card(self) -> QWidget:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        for number, (name, (words, tip)) in enumerate(LENGTHS.items()):
            field = number_field(0, 200, 0.5, " cm", 1)
            field.setSpecialValueText("from height")
            field.setToolTip(tip)
            field.setAccessibleName(words)
            field.valueChanged.connect(lambda _value: self._keep())
            self.lengths[name] = field
            grid.addWidget(label(words, "quiet", wrap=False), number // 2, 2 * (number % 2))
            grid.addWidget(field, number // 2, 2 * (number % 2) + 1)
        return card(label("Measured lengths make it surer", "lead"), grid)

    def _start_card(self) -> QWidget:
        for words, diameter in PLATES:
            self.plates.addItem(words, diameter)
        self.start.addItems(("floor", "mid-shin", "below knee"))
        for box, words, tip in (
            (self.plates, "Plates", "The largest plates on the bar"),
            (self.start, "Begin at", "Higher for those who cannot hold the floor start yet"),
        ):
            box.setAccessibleName(words)
            box.setToolTip(tip)
            box.activated.connect(lambda _row: self._show_start())
        line = row(
            label("With", "quiet", wrap=False),
            self.plates,
            label("begin at", "quiet", wrap=False),
            self.start,
        )
        line.addStretch(1)
        return card(label("What goes under the plates", "lead"), line, self._under)

    def fill(self, athlete: Athlete) -> None:
        self._filling = True
        for name, field in self.lengths.items():
            field.setValue(100 * athlete.lengths_m.get(name, 0.0))
        for name, field in self.own.items():
            field.setValue(100 * athlete.grips_m.get(name, 0.0))
        state = self.teach.person(athlete).state_of("start-position")
        if state == "not yet" and self.start.currentText() == "floor":
            self.start.setCurrentText("below knee")
        self._filling = False
        self._title.setText(f"Fit of {athlete.name}")
        body = body_of(athlete)
        self._fit = fit_grips(body) if body is not None else None
        self.drawing.show_fit(body, self._fit, athlete.sex)
        self._show_numbers(athlete)
        self._show_start()

    def _show_numbers(self, athlete: Athlete) -> None:
        fit = self._fit
        if fit is None:
            self._words.setText("Enter the height (Athletes) and the grips are reckoned from it.")
            for one in (*self._reckoned.values(), self._overhead, self._contact):
                one.setText("–")
            return
        if fit.guessed:
            self._words.setText(f"From height, not measured: {', '.join(fit.guessed)}.")
        else:
            self._words.setText("From measured lengths.")
        if fit.snatch_m is None:
            self._reckoned["snatch"].setText("–")
            self._overhead.setText(fit.why_not)
        else:
            self._reckoned["snatch"].setText(
                f"{100 * fit.snatch_m:.0f} ± {100 * fit.snatch_sigma_m:.0f} cm"
            )
            assert fit.overhead_m is not None
            usual = "as it should be" if 0.18 <= fit.overhead_m <= 0.32 else "20 to 30 is usual"
            self._overhead.setText(
                f"Overhead the bar stands {100 * fit.overhead_m:.0f} cm above the crown ({usual})."
            )
        self._reckoned["clean"].setText(
            f"{100 * fit.clean_m:.0f} ± {100 * fit.clean_sigma_m:.0f} cm"
        )
        self._contact.setText(
            f"The clean’s bar hangs {100 * fit.contact_share:.0f} % of the way from knee to hip crease."
        )

    def _show_start(self) -> None:
        athlete = self.athlete
        if athlete is None:
            return
        if athlete.stature_m is None and self.start.currentText() != "floor":
            self._under.setText("Enter the height first.")
            return
        height = start_height(
            athlete.stature_m or 1.7, self.plates.currentData(), self.start.currentText()
        )
        self._under.setText(height.says)

    def _take(self, name: str) -> None:
        if self._fit is None:
            return
        width = self._fit.snatch_m if name == "snatch" else self._fit.clean_m
        if width is not None:
            self.own[name].setValue(round(100 * width))

    def _keep(self) -> None:
        athlete = self.athlete
        if self._filling or athlete is None:
            return
        lengths = {n: f.value() / 100 for n, f in self.lengths.items() if f.value() > 0}
        grips = {n: f.value() / 100 for n, f in self.own.items() if f.value() > 0}
        self.teach.desk.change_athlete(replace(athlete, lengths_m=lengths, grips_m=grips))
