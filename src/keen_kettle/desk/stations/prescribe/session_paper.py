"""The session sheet on paper: one page, for one athlete or a whole group, read at arm's length.

It is painted in points on a page of its real size, so preview, picture, print and PDF are the same.
Where there is more than a page holds, everything is set a little smaller, until it fits.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QFont, QImage, QPainter, QPen

from keen_kettle.core.plan import Block, Line, Loading, Session
from keen_kettle.core.units import show_kg
from keen_kettle.desk.kit.theme import FAMILY
from keen_kettle.desk.kit.tokens import DAYLIGHT
from keen_kettle.desk.shared.plates_picture import paint_side

__all__ = ["PAPERS", "Sheet", "paint_sheet", "sheet_image"]

PAPERS = {"A4": QSizeF(595.0, 842.0), "Letter": QSizeF(612.0, 792.0)}
"""Pages in points (1/72 inch)."""
MARGIN, FOOT = 34.0, 44.0
SMALLEST, STEP = 0.62, 0.04
BODY, LEAD, TITLE, SMALL = 12.5, 16.0, 25.0, 9.0
VERSION_WORDS = {
    "barbell": "With a bar",
    "dumbbell pair": "With dumbbells",
    "kettlebell": "With a bell",
}


@dataclass(frozen=True)
class Sheet:
    """What the page shows; `versions` are the complex's parts by implement."""

    title: str
    on: date
    lift: str
    minutes: int
    sessions: tuple[Session, ...]
    versions: Mapping[str, tuple[str, ...] | None] = field(default_factory=dict)
    cautions: tuple[str, ...] = ()
    more: int = 0
    """Athletes of the group that are not on this page."""


def sheet_image(sheet: Sheet, paper: str, wide_px: int) -> QImage:
    """The page as a picture of a width in pixels."""
    size = PAPERS[paper]
    image = QImage(
        wide_px, round(wide_px * size.height() / size.width()), QImage.Format.Format_RGB32
    )
    image.fill(QColor(DAYLIGHT.raised))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_sheet(painter, sheet, paper, wide_px / size.width())
    painter.end()
    return image


def paint_sheet(painter: QPainter, sheet: Sheet, paper: str, scale: float) -> float:
    """Paint the page; `scale` is the device's pixels a point. Returns the size of type used (1 is
    full size)."""
    painter.scale(scale, scale)
    size = PAPERS[paper]
    factor = 1.0
    while factor > SMALLEST and _Page(painter, size, factor, False).write(sheet) > (
        size.height() - FOOT
    ):
        factor -= STEP
    _Page(painter, size, factor, True).write(sheet)
    return factor


class _Page:
    """Writes from top to bottom; without `real` it only measures."""

    def __init__(self, painter: QPainter, size: QSizeF, factor: float, real: bool) -> None:
        self._painter, self._size, self._factor, self._real = painter, size, factor, real
        self._y = MARGIN
        self._wide = size.width() - 2 * MARGIN

    def write(self, sheet: Sheet) -> float:
        """Everything; returns how far down it reached."""
        self._head(sheet)
        if len(sheet.sessions) == 1:
            self._single(sheet.sessions[0])
        elif sheet.sessions:
            self._group(sheet)
        self._versions(sheet)
        self._left_out(sheet)
        reached = self._y
        self._foot(sheet)
        return reached

    # Pieces

    def _text(
        self,
        words: str,
        x: float,
        y: float,
        wide: float,
        size: float = BODY,
        bold: bool = False,
        ink: str = "ink",
        right: bool = False,
    ) -> float:
        """Words in a column from a point; returns their height."""
        font = QFont(FAMILY)
        font.setPixelSize(max(round(size * self._factor), 5))
        font.setWeight(QFont.Weight.Bold if bold else QFont.Weight.Normal)
        self._painter.setFont(font)
        flags = int(Qt.TextFlag.TextWordWrap) | int(
            (Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft).value
        )
        room = QRectF(x, y, wide, 4000)
        bounds = self._painter.boundingRect(room, flags, words)
        if self._real:
            self._painter.setPen(QColor(getattr(DAYLIGHT, ink)))
            self._painter.drawText(room, flags, words)
        return float(bounds.height())

    def _rule(self, heavy: bool = False) -> None:
        if self._real:
            self._painter.setPen(
                QPen(QColor(DAYLIGHT.ink if heavy else DAYLIGHT.edge), 1.2 if heavy else 0.8)
            )
            self._painter.drawLine(QPointF(MARGIN, self._y), QPointF(MARGIN + self._wide, self._y))

    def _plates(self, loading: Loading, x: float, y: float, wide: float, high: float) -> None:
        if self._real and loading.per_side_kg:
            paint_side(
                self._painter,
                QRectF(x, y, wide, high),
                loading.per_side_kg,
                QColor(DAYLIGHT.quiet),
                QColor(DAYLIGHT.edge),
                QColor(DAYLIGHT.ink),
            )

    def _head(self, sheet: Sheet) -> None:
        f = self._factor
        day = f"{sheet.on:%A, %-d %B %Y}"
        high = self._text(sheet.title, MARGIN, self._y, 0.62 * self._wide, TITLE, True)
        self._text(
            day, MARGIN + 0.62 * self._wide, self._y + 2, 0.38 * self._wide, BODY, right=True
        )
        self._text(
            f"{sheet.lift} · {sheet.minutes} min",
            MARGIN + 0.62 * self._wide,
            self._y + 19 * f,
            0.38 * self._wide,
            BODY,
            True,
            right=True,
        )
        self._y += max(high, 36 * f) + 6 * f
        self._rule(heavy=True)
        self._y += 8 * f

    # One athlete

    def _single(self, session: Session) -> None:
        for block in session.blocks:
            self._block(block)

    def _block(self, block: Block) -> None:
        f = self._factor
        self._text(block.title, MARGIN, self._y, 90 * f, BODY, True, "brass")
        self._text(f"{block.minutes:.0f} min", MARGIN, self._y + 16 * f, 90 * f, SMALL, ink="quiet")
        left, top = MARGIN + 96 * f, self._y
        if block.title == "Warm-up":
            self._warm_up(block, left)
        else:
            for line in block.lines:
                self._line(line, left)
        self._y = max(self._y, top + 30 * f) + 5 * f
        self._rule()
        self._y += 7 * f

    def _warm_up(self, block: Block, left: float) -> None:
        """Mobility and positions run on in words; the build-up stands in a row with its plates."""
        f = self._factor
        wide = MARGIN + self._wide - left
        words = [line for line in block.lines if line.loading is None]
        steps = [line for line in block.lines if line.loading is not None]
        text = " · ".join(f"{line.what} {line.dose}".strip() for line in words)
        self._y += self._text(text, left, self._y, wide, BODY - 1.5) + 5 * f
        if not steps:
            return
        each = wide / max(len(steps), 4)
        for number, line in enumerate(steps):
            assert line.loading is not None
            x = left + number * each
            self._text(
                f"{show_kg(line.loading.total_kg)} {line.dose}", x, self._y, each, BODY, True
            )
            self._plates(line.loading, x, self._y + 17 * f, each - 12, 26 * f)
        self._y += 48 * f

    def _line(self, line: Line, left: float) -> None:
        f = self._factor
        wide = MARGIN + self._wide - left
        loaded = line.loading is not None
        words = wide - (150 * f if loaded else 0)
        top = self._y
        high = self._text(line.what, left, top, words, LEAD, True)
        high += self._text(line.dose, left, top + high, words, BODY)
        if line.note:
            high += self._text(line.note, left, top + high, words, BODY - 2, ink="quiet")
        if line.loading is not None:
            x = left + words + 10 * f
            self._text(show_kg(line.loading.total_kg), x, top, 140 * f, LEAD + 3, True)
            self._plates(line.loading, x, top + 25 * f, 140 * f, 32 * f)
            high = max(high, 60 * f)
        self._y = top + high + 5 * f

    # A group

    def _group(self, sheet: Sheet) -> None:
        f = self._factor
        first = sheet.sessions[0].block("Warm-up")
        if first is not None:
            text = " · ".join(
                f"{line.what} {line.dose}".strip() for line in first.lines if line.loading is None
            )
            self._text("Warm-up", MARGIN, self._y, 80 * f, BODY, True, "brass")
            left = MARGIN + 84 * f
            self._y += self._text(text, left, self._y, self._wide - 84 * f, BODY - 2) + 5 * f
        shared = _most_common(sheet.sessions)
        if shared:
            self._text("Complex", MARGIN, self._y, 80 * f, BODY, True, "brass")
            left = MARGIN + 84 * f
            self._y += (
                self._text(shared, left, self._y, self._wide - 84 * f, LEAD - 1, True) + 5 * f
            )
        self._rule(heavy=True)
        self._y += 5 * f
        for session in sheet.sessions:
            self._row(session, shared)
        if sheet.more:
            words = f"{sheet.more} more of the group: choose a smaller one for another page."
            self._y += self._text(words, MARGIN, self._y, self._wide, SMALL, ink="quiet")

    def _row(self, session: Session, shared: str) -> None:
        """One athlete of a group: loads with plates, and what is only theirs."""
        f, top = self._factor, self._y
        shares = (0.17, 0.25, 0.36, 0.22)
        x = [MARGIN + sum(shares[:k]) * self._wide for k in range(4)]
        wide = [share * self._wide - 8 for share in shares]
        highs = [self._text(session.athlete, x[0], top, wide[0], BODY, True)]
        line = _first_line(session, "Complex")
        if line is not None:
            high = 0.0
            if line.what != shared:
                high = self._text(line.what, x[1], top, wide[1], BODY - 2.5)
            highs.append(high + self._loaded(line, x[1], top + high, wide[1]))
        high = 0.0
        for title in ("Skill", "Correctives"):
            block = session.block(title)
            for one in block.lines if block is not None else ():
                load = f", {show_kg(one.loading.total_kg)}" if one.loading is not None else ""
                words = f"{one.what}: {one.dose}{load}"
                high += self._text(words, x[2], top + high, wide[2], BODY - 2) + 2 * f
        highs.append(high)
        line = _first_line(session, "Main work")
        if line is not None:
            high = self._text(f"{line.what} {line.dose}", x[3], top, wide[3], BODY - 2)
            highs.append(high + self._loaded(line, x[3], top + high, wide[3]))
        self._y = top + max(*highs, 20 * f) + 4 * f
        self._rule()
        self._y += 4 * f

    def _loaded(self, line: Line, x: float, y: float, wide: float) -> float:
        f = self._factor
        if line.loading is None:
            return self._text(line.note, x, y, wide, BODY - 2.5, ink="quiet")
        self._text(show_kg(line.loading.total_kg), x, y, 62 * f, BODY + 2, True)
        self._plates(line.loading, x + 62 * f, y, wide - 62 * f, 22 * f)
        return 24 * f

    # Below

    def _versions(self, sheet: Sheet) -> None:
        """The complex with bar, dumbbells and bell, side by side."""
        f = self._factor
        shown = {name: parts for name, parts in sheet.versions.items() if parts is not None}
        if len(shown) < 2:
            return
        each = self._wide / len(shown)
        highs = []
        for number, (implement, parts) in enumerate(shown.items()):
            x = MARGIN + number * each
            high = self._text(VERSION_WORDS[implement], x, self._y, each - 10, SMALL + 1, True)
            words = " + ".join(part.removeprefix(f"{implement} ") for part in parts)
            highs.append(high + self._text(words, x, self._y + high, each - 10, SMALL + 1))
        self._y += max(highs) + 6 * f

    def _left_out(self, sheet: Sheet) -> None:
        if len(sheet.sessions) == 1 and sheet.sessions[0].left_out:
            words = "Left out: " + "; ".join(sheet.sessions[0].left_out) + "."
            self._y += self._text(words, MARGIN, self._y, self._wide, SMALL, ink="quiet") + 4

    def _foot(self, sheet: Sheet) -> None:
        words = " ".join(sheet.cautions)
        factor = self._factor
        self._factor = 1.0
        y = self._size.height() - FOOT + 2
        self._text(words, MARGIN, y, self._wide, 6.6, ink="quiet")
        self._factor = factor


def _most_common(sessions: Sequence[Session]) -> str:
    """The complex that most of the group do, as it is written."""
    counts: dict[str, int] = {}
    for session in sessions:
        line = _first_line(session, "Complex")
        if line is not None:
            counts[line.what] = counts.get(line.what, 0) + 1
    return max(counts, key=lambda words: counts[words], default="")


def _first_line(session: Session, title: str) -> Line | None:
    block = session.block(title)
    return block.lines[0] if block is not None else None
