"""The one window: who and where at the top, the station below, notices between."""

from functools import cached_property

from PyQt6.QtCore import QElapsedTimer, QSettings, QSize
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QMainWindow,
    QStackedWidget,
    QStatusBar,
    QWidget,
)

from keen_kettle.desk.kit.action import Action
from keen_kettle.desk.kit.builders import column, label, row
from keen_kettle.desk.kit.theme import retint, use_theme, wear_theme
from keen_kettle.desk.kit.tokens import DAYLIGHT, DUSK
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.window.actions import Actions, export_actions, going_actions
from keen_kettle.desk.window.files import Files
from keen_kettle.desk.window.help_pages import cautions_page, keys_page
from keen_kettle.desk.window.loop_strip import LoopStrip
from keen_kettle.desk.window.notice import Notice
from keen_kettle.desk.window.stations import Stations
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.store import StoreError

__all__ = ["Window"]

JUST_SAID_MS = 500


class Window(QMainWindow):
    """Holds models and stations, and makes menus and strip from what the stations hand over."""

    def __init__(self, desk: DeskModel, settings: QSettings, title: str) -> None:
        super().__init__()
        self.desk = desk
        self._settings = settings
        self.models = Models(desk, self)
        self.notice = Notice()
        self.files = Files(
            self,
            self.models.review,
            self.models.queue,
            self.models.inbox,
            self.notice,
            settings,
        )
        self._said = QElapsedTimer()
        self._said_on: QWidget | None = None
        self.setWindowTitle(title)
        self.setAcceptDrops(True)
        self.setMinimumSize(QSize(1080, 700))
        self.stack = QStackedWidget()
        self.stations = Stations(self.models, self.files, self)
        self._make_actions()
        self._build()
        self._follow()
        self._restore()
        desk.records_changed.emit()  # everything is built now
        desk.clips_changed.emit()
        self._idle_teach = IdleCall(self.models.teach.ensure, self)
        desk.records_changed.connect(self._idle_teach.ask)
        self._idle_teach.ask()
        self._on_station(desk.station)
        wear_theme(self)

    # Building

    def _make_actions(self) -> None:
        bar = self.menuBar()
        assert bar is not None
        self.actions_known = Actions(bar)
        for part in self.stations.in_order:
            self.actions_known.add(part.actions(), part.name)
        self.actions_known.add(export_actions(self.files))
        self.actions_known.add(going_actions(self.stations, self._go, self.open_page))
        self.actions_known.add(self._own_actions())
        self.actions_by_id = self.actions_known.by_id
        for part in self.stations.in_order:
            part.take_menus(self.actions_known.menus)

    def _own_actions(self) -> tuple[Action, ...]:
        stack, review = self.desk.undo_stack, self.models.review
        return (
            Action("quit", "Quit", "File", ("Ctrl+Q",), "Everything is saved already.", self.close),
            Action(
                *("undo", "Undo", "Edit", ("Ctrl+Z",), "Take back what was done last."),
                *(stack.undo, lambda: stack.canUndo() and not review.tracking),
            ),
            Action(
                *("redo", "Redo", "Edit", ("Ctrl+Shift+Z", "Ctrl+Y"), "Do it again."),
                *(stack.redo, lambda: stack.canRedo() and not review.tracking),
            ),
            Action(
                *("daylight", "Daylight theme", "View", ("Ctrl+L",)),
                "Light surfaces for a bright hall.",
                self._switch_theme,
                checkable=True,
            ),
            Action(
                *("keys", "Keys", "Help", ("F1",), "All actions and their keys."),
                lambda: self.show_page(self.keys),
            ),
            Action(
                *("cautions", "Cautions", "Help", ()),
                "What to keep in mind before anyone lifts.",
                lambda: self.show_page(self.cautions),
            ),
        )

    def _build(self) -> None:
        self.who = QComboBox()
        self.who.setFixedWidth(184)
        self.who.setAccessibleName("Who")
        self.who.setToolTip("Whom everything on the screen is about")
        self.strip = LoopStrip(self.stations.in_order)
        self.cautions = cautions_page(self.desk.content, self._cautions_read)
        top = row(label("Who", "quiet", wrap=False), self.who, spacing=8)
        top.addSpacing(16)
        top.addWidget(self.strip)
        top.addStretch(1)
        top.setContentsMargins(12, 8, 12, 4)
        around = row(self.notice)
        around.setContentsMargins(12, 0, 12, 0)
        body = QWidget()
        layout = column(top, around, self.stack, spacing=4)
        layout.setStretch(2, 1)
        body.setLayout(layout)
        self.setCentralWidget(body)
        parts = self.stations.in_order
        over = [page for part in parts for page in part.over]
        for page in (*(part.widget for part in parts), self.cautions, *over):
            self.stack.addWidget(page)
        self.setStatusBar(QStatusBar())

    def _follow(self) -> None:
        desk = self.desk
        desk.station_changed.connect(self._on_station)
        state, enable = IdleCall(self._show_state, self), IdleCall(self._enable, self)
        desk.records_changed.connect(self._fill_who)
        desk.clips_changed.connect(state.ask)
        desk.who_changed.connect(self._fill_who)
        desk.who_changed.connect(state.ask)
        desk.said.connect(self._say)
        desk.trouble.connect(lambda words: self.notice.say(words))
        desk.clip_missing.connect(self.files.ask_for_film)
        desk.page_wanted.connect(self.open_page)
        self.strip.chosen.connect(self._go)
        self.who.activated.connect(lambda _row: self._choose_who())
        for part in self.stations.in_order:
            part.badge_changed.connect(state.ask)
            part.changed.connect(enable.ask)
        self.files.changed.connect(enable.ask)
        desk.undo_stack.indexChanged.connect(lambda _index: enable.ask())

    # What is shown

    @cached_property
    def keys(self) -> QWidget:
        """All actions and their keys; made when it is first asked for."""
        page = keys_page(self.actions_known.known, self.back)
        self.stack.addWidget(page)
        return page

    def show_page(self, page: QWidget) -> None:
        """Lay a page over the stations."""
        self.stack.setCurrentWidget(page)
        self._leave_words_behind(page)

    def shows(self, page: QWidget) -> bool:
        """Whether this is what is seen."""
        return self.stack.currentWidget() is page

    def back(self) -> None:
        """To the station on which the coach was."""
        self._on_station(self.desk.station)

    def _on_station(self, name: str) -> None:
        self.show_page(self.stations.named(name).widget)
        self._show_state()

    def _leave_words_behind(self, page: QWidget) -> None:
        """What was said on another page (what to do next there, say) means nothing on this one; words that
        lead here are said just before."""
        if (
            page is not self._said_on
            and self._said.isValid()
            and self._said.elapsed() > JUST_SAID_MS
        ):
            bar = self.statusBar()
            assert bar is not None
            bar.clearMessage()

    def _go(self, name: str) -> None:
        self.desk.go_to(name)
        self._on_station(name)

    def open_page(self, name: str) -> None:
        """Go to a station's page, by its action."""
        part = self.stations.with_page(name)
        part.open(next(page.tab for page in part.pages if page.id == name))
        self._go(part.name)

    def _choose_who(self) -> None:
        chosen = self.who.currentData()
        if isinstance(chosen, str):
            self.desk.choose_who(None, int(chosen.removeprefix("group ")))
        else:
            self.desk.choose_who(chosen)

    def _fill_who(self) -> None:
        self.who.clear()
        self.who.addItem("Everyone", None)
        for group in self.desk.groups:
            self.who.addItem(f"{group.name} ({len(group.athletes)})", f"group {group.id}")
        self.who.insertSeparator(self.who.count())
        for one in self.desk.active:
            self.who.addItem(one.name, one.id)
        chosen = self.desk.who
        if chosen is None and self.desk.group is not None:
            place = self.who.findData(f"group {self.desk.group}")
        else:
            place = self.who.findData(chosen)
        self.who.setCurrentIndex(max(place, 0))

    def _show_state(self) -> None:
        badges = {part.name: part.badge() for part in self.stations.in_order}
        self.strip.show_state(self.desk.station, badges)
        self._enable()

    def _enable(self) -> None:
        self.actions_known.enable(self.desk.station)
        stack = self.desk.undo_stack
        self.actions_by_id["undo"].setText(
            f"Undo: {stack.undoText()}" if stack.canUndo() else "Undo"
        )
        self.actions_by_id["redo"].setText(
            f"Redo: {stack.redoText()}" if stack.canRedo() else "Redo"
        )

    def _say(self, words: str) -> None:
        bar = self.statusBar()
        assert bar is not None
        bar.showMessage(words, 8000)
        self._said_on = self.stack.currentWidget()
        self._said.start()

    def _cautions_read(self) -> None:
        try:
            self.desk.shelf.keep_cautions_read()
        except StoreError as error:
            self.notice.say(str(error))
        self._on_station(self.desk.station)

    def show_cautions_once(self) -> None:
        """At the first start the cautions come before everything else."""
        if not self.desk.shelf.cautions_read():
            self.stack.setCurrentWidget(self.cautions)

    def _switch_theme(self) -> None:
        daylight = self.actions_by_id["daylight"].isChecked()
        self._settings.setValue("daylight", daylight)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        use_theme(app, DAYLIGHT if daylight else DUSK)
        wear_theme(self)
        retint(self)
        for part in self.stations.in_order:
            part.retinted()

    # Dropping films

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        mime = event.mimeData() if event is not None else None
        if event is not None and mime is not None and any(url.isLocalFile() for url in mime.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        mime = event.mimeData() if event is not None else None
        if event is None or mime is None:
            return
        event.acceptProposedAction()
        self.files.dropped(mime)

    # Opening and closing

    def _restore(self) -> None:
        geometry = self._settings.value("geometry")
        if geometry is None or not self.restoreGeometry(geometry):
            self.resize(1280, 800)
        daylight = self._settings.value("daylight", False, type=bool)
        self.actions_by_id["daylight"].setChecked(daylight)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._settings.setValue("geometry", self.saveGeometry())
        self._settings.sync()
        self.desk.undo_stack.indexChanged.disconnect()
        self.models.close()
        super().closeEvent(event)
