"""Session: the sheet as it will be printed, and what it is for; out as PDF, picture, table, calendar."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QDate, QRectF, Qt
from PyQt6.QtGui import (
    QImage,
    QPageLayout,
    QPageSize,
    QPainter,
    QPaintEvent,
    QPdfWriter,
    QShowEvent,
)
from PyQt6.QtWidgets import QCheckBox, QComboBox, QDateEdit, QFileDialog, QScrollArea, QWidget

from keen_kettle.core.export import session_calendar, session_csv, session_ods
from keen_kettle.desk.kit.builders import button, card, column, label, number_field, row
from keen_kettle.desk.kit.theme import colour
from keen_kettle.desk.state.prescribe.complex_model import ComplexModel
from keen_kettle.desk.state.prescribe.session_model import SessionModel
from keen_kettle.desk.stations.prescribe.lift_box import LiftBox
from keen_kettle.desk.stations.prescribe.session_paper import (
    PAPERS,
    Sheet,
    paint_sheet,
    sheet_image,
)
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["SessionPage", "write_sheet_pdf"]

PREVIEW_PX = 780
PICTURE_PX = 1654
PAGES = {"A4": QPageSize.PageSizeId.A4, "Letter": QPageSize.PageSizeId.Letter}


class _Preview(QWidget):
    """The page as it will be on paper, as wide as there is room."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._image = QImage()
        self.setAccessibleName("The session sheet as it will be printed")

    def show_image(self, image: QImage) -> None:
        self._image = image
        self.setFixedSize(image.size() / 2)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(self.rect()), self._image)
        painter.setPen(colour("edge"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


class SessionPage(QWidget):
    """The page on the left; whom it is for and how it leaves on the right."""

    def __init__(
        self, model: SessionModel, complexes: ComplexModel, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.model, self._complexes = model, complexes
        self.preview = _Preview()
        self.lift = LiftBox(complexes.set_lift)
        self._make_fields(model)
        self._says = label("", "quiet")
        self._title = label("", "title")
        self.exits = [
            button("Write PDF …", "One page, to print or send", self._pdf, "download", "next"),
            button("Write picture (PNG) …", "The page as a picture", self._png, "image"),
            button("Write table (ODS) …", "For a spreadsheet", self._ods, "download"),
            button("Write table (CSV) …", "Rows with commas", self._csv, "download"),
            button("Write calendar entry …", "For its day (iCalendar)", self._calendar, "download"),
        ]
        scroll = QScrollArea()
        scroll.setWidget(self.preview)
        scroll.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        side = card(
            self._title,
            self._says,
            label("LIFT OF THE DAY", "head"),
            self.lift,
            label("DAY", "head"),
            self.on,
            label("TIME", "head"),
            self.minutes,
            self.with_complex,
            label("PAPER", "head"),
            self.paper,
            label("TAKE IT ALONG", "head"),
            *self.exits,
            spacing=6,
        )
        holder = QWidget()
        holder.setFixedWidth(320)
        inside = column(side)
        inside.addStretch(1)
        holder.setLayout(inside)
        self.setLayout(row(scroll, holder, spacing=16))
        self._idle = IdleCall(self._rebuild, self)
        model.changed.connect(self._idle.ask)

    def _make_fields(self, model: SessionModel) -> None:
        """Day, time, complex, paper."""
        self.on = QDateEdit()
        self.on.setCalendarPopup(True)
        self.on.setDisplayFormat("ddd d MMM yyyy")
        self.on.setAccessibleName("Day of the session")
        self.on.setToolTip("The day that stands on the sheet and in the calendar")
        self.on.dateChanged.connect(lambda day: model.set_on(day.toPyDate()))
        self.minutes = number_field(15, 180, 5, " min", 0)
        self.minutes.setAccessibleName("Minutes of the session")
        self.minutes.setToolTip("What does not fit is left out from the end, and said")
        self.minutes.valueChanged.connect(lambda value: model.set_minutes(int(value)))
        self.with_complex = QCheckBox("With the complex from the bench")
        self.with_complex.setToolTip("Athletes who may not do it get one of their own")
        self.with_complex.toggled.connect(model.set_with_complex)
        self.paper = QComboBox()
        self.paper.addItems(list(PAPERS))
        self.paper.setAccessibleName("Paper")
        self.paper.setToolTip("The page's size")
        self.paper.activated.connect(lambda _row: self._rebuild())

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._rebuild()

    def sheet(self) -> Sheet:
        """The page as it now stands."""
        model, content = self.model, self.model.desk.content
        return Sheet(
            model.title or "Session",
            model.on,
            model.first_rep.instead.name if not model.first_rep.passed else self._complexes.lift,
            model.minutes,
            tuple(model.sessions),
            self._complexes.versions() if model.with_complex else {},
            (content.cautions["floor"].text, content.cautions["first"].text),
            model.left_over,
        )

    def _rebuild(self) -> None:
        if not self.isVisible():
            return
        model = self.model
        model.ensure()
        people = model.people()
        self._title.setText(model.title or "Whose session?")
        self._says.setText(self._words(len(people)))
        self.lift.show_lift(self._complexes.lift)
        for field in (self.on, self.minutes, self.with_complex):
            field.blockSignals(True)
        self.on.setDate(QDate(model.on.year, model.on.month, model.on.day))
        self.minutes.setValue(model.minutes)
        self.with_complex.setChecked(model.with_complex)
        for field in (self.on, self.minutes, self.with_complex):
            field.blockSignals(False)
        for one in self.exits:
            one.setEnabled(bool(model.sessions) and not model.working)
        self.preview.show_image(sheet_image(self.sheet(), self.paper.currentText(), 2 * PREVIEW_PX))

    def _words(self, people: int) -> str:
        model = self.model
        if not people:
            return "Choose an athlete or a group above (Who): the sheet is made for them."
        if model.working:
            return "Working out everybody’s loads …"
        longest = max((one.minutes for one in model.sessions), default=0.0)
        words = f"{people} athletes on one page" if people > 1 else "One page"
        more = f"; {model.left_over} more do not fit on it" if model.left_over else ""
        words = f"{words}, about {longest:.0f} min{more}."
        if model.with_complex and self._complexes.problems:
            words += " The string on the bench is not possible yet, so it holds no complex."
        return words

    # Out

    def _save(self, name: str, kind: str, write: Callable[[Path], object]) -> None:
        """Ask where, write it whole or not at all, and say so."""
        desk = self.model.desk
        asked = f"{self.model.title} {self.model.on:%Y-%m-%d}.{name}"
        chosen, _ = QFileDialog.getSaveFileName(self, "Write the session", asked, kind)
        if not chosen:
            return
        path = Path(chosen)
        part = path.with_name(f".{path.name}.part")
        try:
            write(part)
            part.replace(path)
        except OSError as error:
            part.unlink(missing_ok=True)
            desk.trouble.emit(
                f"{path.name} could not be written ({error.strerror}). Choose another folder, or "
                "free some space."
            )
            return
        desk.said.emit(f"Written: {path}")

    def _pdf(self) -> None:
        paper, sheet = self.paper.currentText(), self.sheet()
        self._save("pdf", "PDF (*.pdf)", lambda path: write_sheet_pdf(path, sheet, paper))

    def _png(self) -> None:
        image = sheet_image(self.sheet(), self.paper.currentText(), PICTURE_PX)

        def write(path: Path) -> None:
            if not image.save(str(path), "PNG"):
                raise OSError(5, "the picture could not be written")

        self._save("png", "PNG (*.png)", write)

    def _ods(self) -> None:
        data = session_ods(self.model.sessions)
        self._save("ods", "OpenDocument spreadsheet (*.ods)", lambda path: path.write_bytes(data))

    def _csv(self) -> None:
        text = session_csv(self.model.sessions)
        self._save("csv", "CSV (*.csv)", lambda path: path.write_text(text, encoding="utf-8"))

    def _calendar(self) -> None:
        model = self.model
        data = session_calendar(model.title, model.sessions, model.on, model.minutes)
        self._save("ics", "iCalendar (*.ics)", lambda path: path.write_bytes(data))


def write_sheet_pdf(path: Path, sheet: Sheet, paper: str) -> None:
    """One page as a PDF.

    Raises
    ------
    OSError
        It cannot be written there.
    """
    pdf = QPdfWriter(str(path))
    pdf.setPageSize(QPageSize(PAGES[paper]))
    pdf.setPageMargins(QPageLayout().margins())
    pdf.setResolution(288)
    pdf.setTitle(f"{sheet.title}, {sheet.on:%Y-%m-%d}")
    painter = QPainter()
    if not painter.begin(pdf):
        raise OSError(13, "no file can be made there")
    paint_sheet(painter, sheet, paper, pdf.width() / PAPERS[paper].width())
    painter.end()
    if not path.is_file() or path.stat().st_size == 0:
        raise OSError(28, "it was not wholly written")
