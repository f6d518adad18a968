"""Film: the clips of the chosen who, with what waits in each; how clips come in."""

from collections.abc import Callable

from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QLineEdit,
    QListView,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.lifts import FAMILIES
from keen_kettle.desk.kit.builders import button, card, column, label, row, with_role
from keen_kettle.desk.kit.theme import dress
from keen_kettle.desk.state.intake.inbox import Inbox
from keen_kettle.desk.state.intake.queue_model import QueueModel
from keen_kettle.desk.stations.film.clip_list import CLIP, ClipFilter, ClipList, ClipRow
from keen_kettle.desk.stations.film.inbox_card import InboxCard
from keen_kettle.desk.stations.film.queue_bar import QueueBar
from keen_kettle.desk.stations.film.whose_card import WhoseCard
from keen_kettle.store import Clip

__all__ = ["FilmStation"]

DAYS = (("any day", None), ("today", 0), ("last 7 days", 7), ("last 30 days", 30))


class FilmStation(QWidget):
    """The list with its filters, and beside it whose the chosen clip is and how to add and film."""

    def __init__(
        self,
        queue: QueueModel,
        inbox: Inbox,
        add_clip: Callable[[], None],
        add_folder: Callable[[], None],
        choose_inbox: Callable[[], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._queue, desk = queue, queue.desk
        self._desk = desk
        self.model = ClipList(queue, self)
        self.shown = ClipFilter(desk, self)
        self.shown.setSourceModel(self.model)
        self._make_list()
        self.open = button(
            "Review this clip",
            "Open the chosen clip on Review (Enter)",
            self._open,
            "arrow-right",
            "next",
        )
        self.again = button(
            "Measure it in the background",
            "Find plate, path and lifter in the background",
            self._look_again,
            "rotate-ccw",
        )
        self.trouble = label("", "quiet")
        self.whose = WhoseCard(queue)
        self.bar = QueueBar(queue)
        self.entrance = InboxCard(inbox, add_clip, add_folder, choose_inbox)
        self._pages = QStackedWidget()
        self._pages.addWidget(self._list_page())
        self._pages.addWidget(self._empty_page(add_clip))
        left = column(self._pages, self.bar, spacing=10)
        left.setStretch(0, 1)
        whole = row(left, self._side(), spacing=16, margin=16)
        whole.setStretch(0, 1)
        self.setLayout(whole)
        self.model.modelReset.connect(self._on_reset)
        self.model.dataChanged.connect(lambda *_: self._show_next())
        self.shown.layoutChanged.connect(self._show_next)
        desk.who_changed.connect(self._on_reset)
        desk.clips_changed.connect(self._show_counts)
        self._on_reset()

    def _make_list(self) -> None:
        """The list, and what narrows it."""
        self.search = QLineEdit()
        self.search.setPlaceholderText("Type to filter: athlete, lift, state …")
        self.search.setAccessibleName("Filter the clips")
        self.search.setToolTip("Words of athlete, lift, file name or state")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.shown.setFilterFixedString)
        self.list = QListView()
        self.list.setModel(self.shown)
        self.list.setItemDelegate(ClipRow(self.list))
        self.list.setAccessibleName("Clips")
        self.list.setUniformItemSizes(True)
        self.list.setMouseTracking(True)
        self.list.activated.connect(lambda _index: self._open())
        selection = self.list.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._show_next())

    def _list_page(self) -> QWidget:
        page = QWidget()
        self._title = label("Clips", "title", wrap=False)
        self.open.setMinimumWidth(280)
        below = row(self.open, self.again)
        below.addStretch(1)
        page.setLayout(
            column(
                row(self._title, self.search, spacing=16),
                self._filters(),
                self.list,
                self.trouble,
                below,
                spacing=10,
            )
        )
        return page

    def _filters(self) -> QWidget:
        self.all, self.waiting = QToolButton(), QToolButton()
        group = QButtonGroup(self)
        for made, words, tip in (
            (self.all, "All", "Every clip"),
            (self.waiting, "Waiting", "Only clips that wait for you"),
        ):
            made.setText(words)
            made.setCheckable(True)
            made.setToolTip(tip)
            made.setAccessibleName(f"{words} clips")
            made.setMinimumHeight(30)
            group.addButton(made)
        self.all.setChecked(True)
        self.waiting.toggled.connect(lambda on: self._ask(only_waiting=on))
        self.family, self.days = QComboBox(), QComboBox()
        for words, family in (("any lift", ""), *((f"{one}s", one) for one in FAMILIES)):
            self.family.addItem(words, family)
        for words, days in DAYS:
            self.days.addItem(words, days)
        for box, name, tip in (
            (self.family, "Lift", "Only clips of this lift and its derivatives"),
            (self.days, "Day", "Only clips filmed since then"),
        ):
            box.setAccessibleName(name)
            box.setToolTip(tip)
        self.family.activated.connect(lambda _row: self._ask(family=self.family.currentData()))
        self.days.activated.connect(lambda _row: self._ask(days=self.days.currentData()))
        line = row(self.all, self.waiting, self.family, self.days)
        line.addStretch(1)
        made_line = QWidget()
        made_line.setLayout(line)
        return made_line

    def _ask(self, **wanted: object) -> None:
        self.shown.ask(**wanted)  # type: ignore[arg-type]
        self._choose_first()

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

    def _side(self) -> QWidget:
        tips = label(
            "Side view, at right angles to the bar.\n"
            "Camera at hip height, steady, 4 to 6 m away.\n"
            "Whole plate, feet and overhead bar in the picture.\n"
            "Light behind the camera.\n"
            "60 frames a second or more, if the phone can.",
            "quiet",
        )
        privacy = label(self._desk.content.cautions["privacy"].text, "small")
        self.tips = card(label("Filming so that it can be measured", "lead"), tips)
        side = column(self.whose, self.entrance, self.tips, privacy, spacing=12)
        side.addStretch(1)
        made = QWidget()
        made.setFixedWidth(316)
        made.setLayout(side)
        return made

    def _on_reset(self) -> None:
        self._pages.setCurrentIndex(1 if self.model.rowCount() == 0 else 0)
        athlete = self._desk.athlete(self._desk.who)
        self._title.setText(f"Clips of {athlete.name}" if athlete is not None else "Clips")
        self._choose_first()
        self._show_counts()

    def _choose_first(self) -> None:
        """Without a chosen clip, the first that waits is chosen."""
        rows = range(self.shown.rowCount())
        if rows and not self.list.currentIndex().isValid():
            waiting = [k for k in rows if self._clip_in(k).waits]
            self.list.setCurrentIndex(self.shown.index(waiting[0] if waiting else 0, 0))
        self._show_next()

    def _show_counts(self) -> None:
        waiting = len(self._queue.waiting())
        self.waiting.setText(f"Waiting ({waiting})" if waiting else "Waiting")

    def _clip_in(self, number: int) -> Clip:
        clip = self.shown.index(number, 0).data(CLIP)
        assert isinstance(clip, Clip)
        return clip

    @property
    def chosen(self) -> Clip | None:
        """The chosen clip."""
        clip = self.list.currentIndex().data(CLIP)
        return clip if isinstance(clip, Clip) else None

    def _show_next(self) -> None:
        clip = self.chosen
        self.open.setEnabled(clip is not None)
        seen = clip is not None and clip.tracked and not clip.waits
        self.open.setText("Look at this review" if seen else "Review this clip")
        failed = clip is not None and clip.background in ("", "failed") and not clip.marks
        self.again.setVisible(failed)
        tried = clip is not None and bool(clip.trouble)
        self.trouble.setVisible(failed and tried)
        self.trouble.setText(f"Not measured: {clip.trouble}" if clip is not None else "")
        self.again.setText("Try to measure it again" if tried else "Measure it in the background")
        self.whose.show_clip(clip)
        # Brass is for one thing: first whose it is, then the review.
        with_role(self.open, "" if self.whose.ready else "next")
        dress(self.open, "arrow-right", "ink" if self.whose.ready else "on_brass")
        self.tips.setVisible(self.whose.isHidden())

    def confirm(self) -> None:
        """Confirm the chosen clip's guess, and choose the next that waits to be confirmed."""
        clip = self.chosen
        if clip is None or not self.whose.ready:
            return
        self.whose.confirm()
        for number in range(self.shown.rowCount()):
            if self._clip_in(number).waits == "confirm":
                self.list.setCurrentIndex(self.shown.index(number, 0))
                break

    def _look_again(self) -> None:
        clip = self.chosen
        if clip is not None:
            self._queue.again(clip)

    def _open(self) -> None:
        clip = self.chosen
        if clip is not None:
            self._desk.open_clip(clip.id)
