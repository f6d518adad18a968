"""Two movements set against each other, for an athlete who asks why; as a sheet for paper too."""

from pathlib import Path

from PyQt6.QtCore import QMarginsF, QRectF, Qt
from PyQt6.QtGui import QFont, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen
from PyQt6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QVBoxLayout, QWidget

from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import HELPERS, Contrast, Movement, compare_movements, parse_movement
from keen_kettle.desk.kit.builders import button, card, clear, label, name_edit, row, scrolled
from keen_kettle.desk.kit.theme import FAMILY
from keen_kettle.desk.shared.figure_view import FigureView
from keen_kettle.desk.state.teach.teach_model import TeachModel

__all__ = ["ComparePage", "write_contrast_sheet"]

STAGE_HIGH_PX = 290
COMMON = (
    *("clean", "power clean", "hang power clean, above knee", "clean pull", "clean high pull"),
    *("hang clean jump shrug, mid-thigh", "snatch", "power snatch", "snatch pull"),
    *("push press", "power jerk", "split jerk"),
)


class ComparePage(QWidget):
    """Two boxes that can be typed into, both figures, and the lines in which they differ."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach
        self.movements: list[Movement | None] = [None, None]
        self.boxes = [self._box("First movement", 1), self._box("Second movement", 0)]
        self.figures = [FigureView(), FigureView()]
        self._lines = QGridLayout()
        self._lines.setHorizontalSpacing(18)
        self._lines.setVerticalSpacing(8)
        for place, share in enumerate((1, 2, 2)):
            self._lines.setColumnStretch(place, share)
        self._trouble = label("", "fault")
        self.sheet = button(
            "Write the sheet …", "One page of this as a PDF, to hand over", self._write, "download"
        )
        chosen = row(
            self.boxes[0], label("against", "quiet", wrap=False), self.boxes[1], self.sheet
        )
        chosen.setStretch(0, 1)
        chosen.setStretch(2, 1)
        holder = QWidget()
        holder.setLayout(self._lines)
        for figure in self.figures:
            figure.setFixedWidth(324)
            figure.stage.setFixedHeight(STAGE_HIGH_PX)  # so that both stand to one scale
        beside = row(self.figures[0], scrolled(holder), self.figures[1], spacing=16)
        beside.setStretch(1, 1)
        for figure in self.figures:
            beside.setAlignment(figure, Qt.AlignmentFlag.AlignTop)
        body = card(
            label("Two movements side by side", "title"),
            label(
                "What begins where, how high the bar must come, what limits the load, what it is for.",
                "quiet",
            ),
            chosen,
            self._trouble,
            beside,
        )
        layout = body.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.setStretch(4, 1)
        self.setLayout(row(body))
        self._fill()

    def _box(self, name: str, at: int) -> QComboBox:
        made = QComboBox()
        made.setEditable(True)
        made.addItems([*COMMON, *sorted(HELPERS)])
        made.setCurrentIndex(at)
        name_edit(made, name, "Choose a movement, or type it as you say it")
        made.activated.connect(lambda _row: self._fill())
        line = made.lineEdit()
        assert line is not None
        line.editingFinished.connect(self._fill)
        return made

    def contrasts(self) -> tuple[Contrast, ...]:
        first, second = self.movements
        if first is None or second is None:
            return ()
        names = {key: check.name.lower() for key, check in self._teach.teaching.checks.items()}
        return compare_movements(first, second, names)

    def _fill(self) -> None:
        troubles = []
        for number, box in enumerate(self.boxes):
            try:
                self.movements[number] = parse_movement(box.currentText())
            except UnknownLift as error:
                self.movements[number] = None
                troubles.append(str(error))
            movement = self.movements[number]
            self.figures[number].show_movement(movement)
        self._trouble.setText(" ".join(troubles))
        self._trouble.setVisible(bool(troubles))
        self.sheet.setEnabled(not troubles)
        clear(self._lines)
        lines = self.contrasts()
        for place, one in enumerate(self.movements):
            if lines and one is not None:
                self._lines.addWidget(label(one.name, "lead"), 0, 1 + place)
        for number, line in enumerate(lines, 1):
            role = "" if line.differs else "quiet"
            self._lines.addWidget(label(line.about, "quiet"), number, 0)
            self._lines.addWidget(label(line.first, role), number, 1)
            self._lines.addWidget(label(line.second, role), number, 2)

    def _write(self) -> None:
        first, second = self.movements
        if first is None or second is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Write the sheet", f"{first.name} against {second.name}.pdf", "PDF (*.pdf)"
        )
        if not name:
            return
        desk = self._teach.desk
        caution = desk.content.cautions["first"].text
        if write_contrast_sheet(Path(name), (first.name, second.name), self.contrasts(), caution):
            desk.said.emit(f"Written: {name}")
        else:
            desk.trouble.emit(
                f"{Path(name).name} could not be written. Choose another folder, or free some space."
            )


def write_contrast_sheet(
    path: Path, names: tuple[str, str], lines: tuple[Contrast, ...], caution: str
) -> bool:
    """One A4 page with both movements in two columns; whether it could be written."""
    part = path.with_name(f".{path.name}.part")
    pdf = QPdfWriter(str(part))
    pdf.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    pdf.setPageMargins(QMarginsF(18, 18, 18, 18), QPageLayout.Unit.Millimeter)
    pdf.setResolution(144)
    pdf.setTitle(f"{names[0]} against {names[1]}")
    paint = QPainter()
    if not paint.begin(pdf):
        part.unlink(missing_ok=True)
        return False
    wide, y = pdf.width(), 0.0
    columns = (0.0, 0.24 * wide, 0.63 * wide)
    widths = (0.22 * wide, 0.36 * wide, 0.36 * wide)

    def say(words: str, place: int, at: float, size: float, bold: bool = False) -> float:
        font = QFont(FAMILY)
        font.setPointSizeF(size)
        font.setBold(bold)
        paint.setFont(font)
        room = QRectF(columns[place], at, widths[place], 4000)
        flags = int(Qt.TextFlag.TextWordWrap)
        paint.drawText(room, flags, words)
        return float(paint.boundingRect(room, flags, words).height())

    titles = [name[:1].upper() + name[1:] for name in names]
    y += max(say(title, place, y, 15, True) for place, title in enumerate(titles, 1)) + 18
    for line in lines:
        high = max(
            say(line.about, 0, y, 10),
            say(line.first, 1, y, 12, line.differs),
            say(line.second, 2, y, 12, line.differs),
        )
        y += high + 18
        paint.setPen(QPen(Qt.GlobalColor.lightGray, 1))
        paint.drawLine(0, int(y - 8), int(wide), int(y - 8))
        paint.setPen(QPen(Qt.GlobalColor.black, 1))
    columns = (0.0, columns[1], columns[2])
    widths = (float(wide), widths[1], widths[2])
    say(caution, 0, pdf.height() - 90, 8)
    paint.end()
    try:
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
        return False
    return path.stat().st_size > 0
