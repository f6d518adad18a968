"""The clips as a list: rows with picture, who, what, when, and what waits; filters over them."""

from typing import Any

from PyQt6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QRectF,
    QSize,
    QSortFilterProxyModel,
    Qt,
)
from PyQt6.QtGui import QFont, QPainter, QPainterPath, QPen, QPixmap
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.units import show_kg
from keen_kettle.desk.kit.theme import colour, font, icon
from keen_kettle.desk.state.intake.queue_model import QueueModel
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.store import Clip

__all__ = ["CLIP", "ClipFilter", "ClipList", "ClipRow", "state_words"]

Index = QModelIndex | QPersistentModelIndex
CLIP = Qt.ItemDataRole.UserRole


def state_words(clip: Clip, share: float | None = None) -> tuple[str, str, str]:
    """What waits in a clip: words, colour token, icon; `share` is how far the background is."""
    if share is not None:
        return f"being measured, {100 * share:.0f} %", "chalk", "activity"
    if clip.background == "due":
        return "in the queue", "quiet", "list-ordered"
    if clip.waits == "confirm":
        return "whose is it?", "brass", "circle-question-mark"
    if clip.background == "failed" and not clip.tracked:
        return "not measured", "ember", "triangle-alert"
    if clip.tracked and clip.waits:
        return "measured, not seen", "brass", "circle-dot"
    if clip.tracked:
        return "reviewed", "sage", "check"
    if clip.marks:
        return "marked, not tracked", "brass", "activity"
    return "waits for a review", "brass", "circle-dot"


class ClipList(QAbstractListModel):
    """The clips of the chosen who."""

    def __init__(self, queue: QueueModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._queue, desk = queue, queue.desk
        self._desk = desk
        self._clips: list[Clip] = []
        self._pictures: dict[int, QPixmap] = {}
        self._idle = IdleCall(self.reload, self)
        desk.clips_changed.connect(self._idle.ask)
        desk.records_changed.connect(self._idle.ask)
        desk.who_changed.connect(self.reload)
        queue.changed.connect(self._show_progress)
        self.reload()

    def _show_progress(self) -> None:
        """Only the row of the clip that is being looked through changes."""
        for number, clip in enumerate(self._clips):
            if clip.id == self._queue.running:
                self.dataChanged.emit(self.index(number), self.index(number))

    def state(self, clip: Clip) -> tuple[str, str, str]:
        """What waits in a clip, now."""
        running = clip.id == self._queue.running
        return state_words(clip, self._queue.share if running else None)

    def reload(self) -> None:
        new = self._desk.clips_of_who()
        if [clip.id for clip in new] == [clip.id for clip in self._clips]:
            self._clips = new
            if new:
                self.dataChanged.emit(self.index(0), self.index(len(new) - 1))
            return
        self.beginResetModel()
        self._clips = new
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._clips)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self._clips):
            return None
        clip = self._clips[index.row()]
        if role == CLIP:
            return clip
        if role == Qt.ItemDataRole.DisplayRole:
            return f"{self.title(clip)} {self.details(clip)} {clip.path.name} {self.state(clip)[0]}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{clip.path}\n{clip.trouble}".strip()
        if role == Qt.ItemDataRole.DecorationRole:
            return self._picture(clip)
        return None

    def title(self, clip: Clip) -> str:
        athlete = self._desk.athlete(clip.athlete_id)
        name = athlete.name if athlete is not None else "No athlete yet"
        return f"{name}?" if clip.waits == "confirm" and athlete is not None else name

    def details(self, clip: Clip) -> str:
        mass = f", {show_kg(clip.mass_kg)}" if clip.mass_kg else ""
        return f"{clip.lift}{mass}"

    def _picture(self, clip: Clip) -> QPixmap:
        if clip.id not in self._pictures:
            picture = QPixmap()
            picture.loadFromData(self._desk.shelf.thumbnail(clip.id))
            self._pictures[clip.id] = picture
        return self._pictures[clip.id]


class ClipRow(QStyledItemDelegate):
    """A clip as a row: picture, who and what, when, and what waits."""

    HEIGHT = 112

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(400, self.HEIGHT)

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        clip = index.data(CLIP)
        if painter is None or not isinstance(clip, Clip):
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(option.rect).adjusted(2, 4, -8, -4)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(QPen(colour("brass" if chosen else "edge"), 1.5 if chosen else 1))
        painter.setBrush(colour("raised"))
        painter.drawRoundedRect(box, 6, 6)
        self._paint_picture(painter, box, index.data(Qt.ItemDataRole.DecorationRole))
        source = index.model()
        assert isinstance(source, ClipFilter)
        clips = source.sourceModel()
        assert isinstance(clips, ClipList)
        left, width = box.left() + 184, box.width() - 184 - 210
        rows = (
            (clips.title(clip), "lead", "ink", QFont.Weight.DemiBold),
            (clips.details(clip), "text", "ink", QFont.Weight.Normal),
            (
                f"{clip.filmed_on:%a %d %b %Y}  ·  {clip.duration_s:.1f} s"
                + (f"  ·  {clip.path.name}" if clip.waits == "confirm" else ""),
                "small",
                "quiet",
                QFont.Weight.Normal,
            ),
        )
        for number, (words, size, token, weight) in enumerate(rows):
            painter.setFont(font(size, weight))
            painter.setPen(colour(token))
            spot = QRectF(left, box.top() + 16 + 26 * number, width, 24)
            words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(width))
            painter.drawText(spot, Qt.AlignmentFlag.AlignVCenter, words)
        words, token, picture = clips.state(clip)
        icon(picture, token).paint(
            painter, int(box.right()) - 196, int(box.center().y()) - 9, 18, 18
        )
        painter.setFont(font("text"))
        painter.setPen(colour(token))
        spot = QRectF(box.right() - 170, box.center().y() - 12, 166, 24)
        painter.drawText(spot, Qt.AlignmentFlag.AlignVCenter, words)
        painter.restore()

    @staticmethod
    def _paint_picture(painter: QPainter, box: QRectF, picture: QPixmap) -> None:
        place = QRectF(box.left() + 8, box.top() + 8, 160, box.height() - 16)
        clip = QPainterPath()
        clip.addRoundedRect(place, 4, 4)
        painter.save()
        painter.setClipPath(clip)
        painter.fillRect(place, colour("shade"))
        if not picture.isNull():
            ratio = picture.width() / picture.height()
            high = min(place.height(), place.width() / ratio)
            inner = QRectF(0, 0, high * ratio, high)
            inner.moveCenter(place.center())
            painter.drawPixmap(inner, picture, QRectF(picture.rect()))
        painter.restore()


class ClipFilter(QSortFilterProxyModel):
    """The clips that are asked for: by words, by family, by day, or only those that wait."""

    def __init__(self, desk: DeskModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._today = desk.today
        self.family = ""
        self.days: int | None = None
        self.only_waiting = False
        self.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)

    def ask(
        self, family: str | None = None, days: int | None = -1, only_waiting: bool | None = None
    ) -> None:
        """Change what is asked for; what is left out stays (days: -1)."""
        self.family = self.family if family is None else family
        self.days = self.days if days == -1 else days
        self.only_waiting = self.only_waiting if only_waiting is None else only_waiting
        self.invalidateFilter()

    def filterAcceptsRow(self, number: int, parent: Index) -> bool:
        source = self.sourceModel()
        assert isinstance(source, ClipList)
        clip = source.index(number).data(CLIP)
        if self.only_waiting and not clip.waits:
            return False
        if self.family and parse_filmed(clip.lift).family != self.family:
            return False
        if self.days is not None and (self._today() - clip.filmed_on).days > self.days:
            return False
        return super().filterAcceptsRow(number, parent)  # type: ignore[arg-type]
