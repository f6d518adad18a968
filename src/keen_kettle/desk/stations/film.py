"""Film: the clips of the chosen who, with what waits in each; adding a clip."""

from collections.abc import Callable
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
from PyQt6.QtWidgets import (
    QLineEdit,
    QListView,
    QStackedWidget,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.units import show_kg
from keen_kettle.desk.desk_model import DeskModel
from keen_kettle.desk.parts import button, card, column, label, row
from keen_kettle.desk.theme import colour, font, icon
from keen_kettle.store import Clip

__all__ = ["ClipList", "FilmStation", "state_words"]

Index = QModelIndex | QPersistentModelIndex
CLIP = Qt.ItemDataRole.UserRole


def state_words(clip: Clip) -> tuple[str, str, str]:
    """What waits in a clip: words, colour token, icon."""
    if clip.tracked:
        return "reviewed", "sage", "check"
    if clip.marks:
        return "marked, not tracked", "brass", "activity"
    return "waits for a review", "brass", "circle-dot"


class ClipList(QAbstractListModel):
    """The clips of the chosen who."""

    def __init__(self, desk: DeskModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._clips: list[Clip] = []
        self._pictures: dict[int, QPixmap] = {}
        desk.records_changed.connect(self.reload)
        desk.who_changed.connect(self.reload)
        self.reload()

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
            return (
                f"{self.title(clip)} {self.details(clip)} {clip.path.name} {state_words(clip)[0]}"
            )
        if role == Qt.ItemDataRole.ToolTipRole:
            return str(clip.path)
        if role == Qt.ItemDataRole.DecorationRole:
            return self._picture(clip)
        return None

    def title(self, clip: Clip) -> str:
        athlete = self._desk.athlete(clip.athlete_id)
        return athlete.name if athlete is not None else "No athlete yet"

    def details(self, clip: Clip) -> str:
        mass = f", {show_kg(clip.mass_kg)}" if clip.mass_kg else ""
        return f"{clip.lift}{mass}"

    def _picture(self, clip: Clip) -> QPixmap:
        if clip.id not in self._pictures:
            picture = QPixmap()
            picture.loadFromData(clip.thumbnail)
            self._pictures[clip.id] = picture
        return self._pictures[clip.id]


class _ClipRow(QStyledItemDelegate):
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
        assert isinstance(source, QSortFilterProxyModel)
        clips = source.sourceModel()
        assert isinstance(clips, ClipList)
        left, width = box.left() + 184, box.width() - 184 - 210
        rows = (
            (clips.title(clip), "lead", "ink", QFont.Weight.DemiBold),
            (clips.details(clip), "text", "ink", QFont.Weight.Normal),
            (
                f"{clip.filmed_on:%a %d %b %Y}  ·  {clip.duration_s:.1f} s",
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
        words, token, picture = state_words(clip)
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


class FilmStation(QWidget):
    """The list, and beside it how to add and how to film."""

    def __init__(
        self, desk: DeskModel, add_clip: Callable[[], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._desk = desk
        self.model = ClipList(desk, self)
        self._shown = QSortFilterProxyModel(self)
        self._shown.setSourceModel(self.model)
        self._shown.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Type to filter: athlete, lift, state …")
        self.search.setAccessibleName("Filter the clips")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._shown.setFilterFixedString)
        self.list = QListView()
        self.list.setModel(self._shown)
        self.list.setItemDelegate(_ClipRow(self.list))
        self.list.setAccessibleName("Clips")
        self.list.setUniformItemSizes(True)
        self.list.setMouseTracking(True)
        self.list.activated.connect(lambda _index: self._open())
        selection = self.list.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._show_next())
        self.open = button(
            "Review this clip",
            "Open the chosen clip on Review (Enter)",
            self._open,
            "arrow-right",
            "next",
        )
        self._pages = QStackedWidget()
        self._pages.addWidget(self._list_page())
        self._pages.addWidget(self._empty_page(add_clip))
        self.setLayout(row(self._pages, self._side(add_clip), spacing=16, margin=16))
        self.model.modelReset.connect(self._on_reset)
        desk.who_changed.connect(self._on_reset)
        self._on_reset()

    def _list_page(self) -> QWidget:
        page = QWidget()
        self._title = label("Clips", "title", wrap=False)
        self.open.setMinimumWidth(280)
        below = row(self.open)
        below.addStretch(1)
        page.setLayout(
            column(row(self._title, self.search, spacing=16), self.list, below, spacing=10)
        )
        return page

    def _empty_page(self, add_clip: Callable[[], None]) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.addStretch(1)
        layout.addWidget(label("No clips yet", "title"))
        layout.addWidget(
            label(
                "A clip is a film of one lift, from the side. Keen Kettle measures the bar, finds the one thing to say, and prescribes the drill.",
                "quiet",
            )
        )
        layout.addLayout(
            row(button("Add the first clip …", "Choose a film (Ctrl+O)", add_clip, "plus", "next"))
        )
        layout.addStretch(2)
        return page

    def _side(self, add_clip: Callable[[], None]) -> QWidget:
        tips = label(
            "Side view, at right angles to the bar.\n"
            "Camera at hip height, steady, 4 to 6 m away.\n"
            "Whole plate, feet and overhead bar in the picture.\n"
            "Light behind the camera.\n"
            "60 frames a second or more, if the phone can.",
            "quiet",
        )
        privacy = label(self._desk.content.cautions["privacy"].text, "small")
        add = button("Add a clip …", "Choose a film (Ctrl+O)", add_clip, "plus")
        side = column(
            card(
                label("Add a clip", "lead"),
                label("Choose a film, or drop it anywhere on this window.", "quiet"),
                add,
            ),
            card(label("Filming so that it can be measured", "lead"), tips),
            privacy,
            spacing=12,
        )
        side.addStretch(1)
        made = QWidget()
        made.setFixedWidth(316)
        made.setLayout(side)
        return made

    def _on_reset(self) -> None:
        empty = self.model.rowCount() == 0
        self._pages.setCurrentIndex(1 if empty else 0)
        athlete = self._desk.athlete(self._desk.who)
        self._title.setText(f"Clips of {athlete.name}" if athlete is not None else "Clips")
        if not empty and not self.list.currentIndex().isValid():
            waiting = [k for k in range(self._shown.rowCount()) if not self._clip_in(k).tracked]
            self.list.setCurrentIndex(self._shown.index(waiting[0] if waiting else 0, 0))
        self._show_next()

    def _clip_in(self, number: int) -> Clip:
        clip = self._shown.index(number, 0).data(CLIP)
        assert isinstance(clip, Clip)
        return clip

    def _chosen(self) -> Clip | None:
        clip = self.list.currentIndex().data(CLIP)
        return clip if isinstance(clip, Clip) else None

    def _show_next(self) -> None:
        clip = self._chosen()
        self.open.setEnabled(clip is not None)
        self.open.setText(
            "Look at this review" if clip is not None and clip.tracked else "Review this clip"
        )

    def _open(self) -> None:
        clip = self._chosen()
        if clip is not None:
            self._desk.open_clip(clip.id)
