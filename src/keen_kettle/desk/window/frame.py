"""The one window: who and where at the top, the station below, notices between."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QSettings, QSize
from PyQt6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeySequence,
)
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QMainWindow,
    QStackedWidget,
    QStatusBar,
    QWidget,
)

from keen_kettle.desk.kit.builders import column, label, row
from keen_kettle.desk.kit.theme import retint, use_theme
from keen_kettle.desk.kit.tokens import DAYLIGHT, DUSK
from keen_kettle.desk.state.intake.inbox import Inbox
from keen_kettle.desk.state.intake.queue_model import QueueModel
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel
from keen_kettle.desk.state.prescribe.prescribe_model import PrescribeModel
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.review.beside_model import BesideModel
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import SPEEDS, ReviewModel
from keen_kettle.desk.state.review.suggestion_model import SuggestionModel
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.state.teach.trial_model import TrialModel
from keen_kettle.desk.stations.film.station import FilmStation
from keen_kettle.desk.stations.prescribe.station import PrescribeStation
from keen_kettle.desk.stations.record.station import RecordStation
from keen_kettle.desk.stations.review.compare.page import BesidePage
from keen_kettle.desk.stations.review.station import ReviewStation
from keen_kettle.desk.stations.screen.station import ScreenStation
from keen_kettle.desk.stations.teach.station import TeachStation
from keen_kettle.desk.window.actions import ACTIONS, MENUS
from keen_kettle.desk.window.badges import badges, open_finding
from keen_kettle.desk.window.exporting import EXPORTS
from keen_kettle.desk.window.files import Files
from keen_kettle.desk.window.help_pages import cautions_page, keys_page
from keen_kettle.desk.window.loop_strip import LoopStrip
from keen_kettle.desk.window.notice import Notice
from keen_kettle.desk.work.idle_calls import Soon
from keen_kettle.store import StoreError

__all__ = ["PAGES", "Window"]

PAGES = {
    "athletes": ("Screen", "Athletes"),
    "screening": ("Screen", "Screening"),
    "fit": ("Screen", "Fit"),
    "board": ("Teach", "Board"),
    "visit": ("Teach", "Visit"),
    "ladders": ("Teach", "Ladders"),
    "choose": ("Teach", "Choose"),
    "tryout": ("Teach", "Try-out"),
    "compare": ("Teach", "Compare"),
    "correctives": ("Prescribe", "Correctives"),
    "warmup": ("Prescribe", "Warm-up"),
    "complex": ("Prescribe", "Complex"),
    "session": ("Prescribe", "Session"),
    "drills": ("Prescribe", "Drills"),
    "faults": ("Prescribe", "Faults"),
}


class Window(QMainWindow):
    """Holds the models and the stations, and gives every action its work."""

    def __init__(self, desk: DeskModel, settings: QSettings, title: str) -> None:
        super().__init__()
        self.desk = desk
        self._settings = settings
        self.review = ReviewModel(desk, self)
        self.hand = HandModel(self.review, self)
        self.body = BodyModel(self.review, self.hand, self)
        self.drawing = DrawingModel(self.review, self.body, self)
        self.suggested = SuggestionModel(self.review, self.hand, self.body, self)
        self.teach = TeachModel(desk, self)
        self.correctives = CorrectiveModel(desk, self.review, self.teach, self)
        self.offers = PrescribeModel(desk, self.review, self.correctives, self)
        self.trials = TrialModel(desk, self)
        self.queue = QueueModel(self.review, self.hand, self.body, self.teach, self)
        self.inbox = Inbox(desk, self.queue, self)
        self.notice = Notice()
        self.files = Files(self, self.review, self.queue, self.inbox, self.notice, settings)
        self.setWindowTitle(title)
        self.setAcceptDrops(True)
        self.setMinimumSize(QSize(1080, 700))
        self.actions_by_id: dict[str, QAction] = {}
        self._make_actions()
        self._build()
        self._follow()
        self._restore()
        desk.reload()
        self._soon_teach = Soon(self.teach.ensure, self)
        desk.records_changed.connect(self._soon_teach.ask)
        self._soon_teach.ask()
        self._on_station(desk.station)

    # Building

    def _build(self) -> None:
        self.who = QComboBox()
        self.who.setFixedWidth(184)
        self.who.setAccessibleName("Who")
        self.who.setToolTip("Whom everything on the screen is about")
        self.strip = LoopStrip()
        self.screen_station = ScreenStation(self.desk, self.teach)
        self.teach_station = TeachStation(self.teach, self.trials)
        files = self.files
        self.film = FilmStation(
            self.queue, self.inbox, files.add_clip, files.add_folder, files.choose_inbox
        )
        self.review_station = ReviewStation(
            self.review, self.offers, self.hand, self.body, self.drawing, self.suggested
        )
        self.review_station.transport.draw.setMenu(self._draw_menu)
        self.prescribe = PrescribeStation(self.correctives)
        self.record = RecordStation(self.desk)
        self.stack = QStackedWidget()
        self._stations: dict[str, QWidget] = {
            "Screen": self.screen_station,
            "Teach": self.teach_station,
            "Film": self.film,
            "Review": self.review_station,
            "Prescribe": self.prescribe,
            "Record": self.record,
        }
        for station in self._stations.values():
            self.stack.addWidget(station)
        self.cautions = cautions_page(self.desk.content, self._cautions_read)
        self.keys = keys_page(self._back)
        self.stack.addWidget(self.cautions)
        self.stack.addWidget(self.keys)
        self.beside = BesidePage(BesideModel(self.review, self), self.review, self._back)
        self.stack.addWidget(self.beside)
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
        self.setStatusBar(QStatusBar())

    def _make_actions(self) -> None:
        bar = self.menuBar()
        assert bar is not None
        menus = {name: bar.addMenu(f"&{name}") for name in MENUS}
        for words in ACTIONS:
            made = QAction(words.words, self)
            made.setShortcuts([QKeySequence(keys) for keys in words.keys])
            made.setStatusTip(words.help)
            made.triggered.connect(lambda _on, name=words.id: self._works()[name]())
            menu = menus[words.menu]
            assert menu is not None
            menu.addAction(made)
            self.actions_by_id[words.id] = made
        self._draw_menu = menus["Draw"]
        for name in ("daylight", "whole"):
            self.actions_by_id[name].setCheckable(True)

    def _works(self) -> dict[str, Callable[[], object]]:
        review, desk = self.review, self.desk
        works: dict[str, Callable[[], object]] = {
            "quit": self.close,
            "undo": desk.undo_stack.undo,
            "redo": desk.undo_stack.redo,
            "play": lambda: review.pause() if review.playing else review.play(),
            "back": partial(self._step, -1),
            "forward": partial(self._step, 1),
            "back_ten": lambda: review.step(-10),
            "forward_ten": lambda: review.step(10),
            "first": lambda: review.go_to_frame(0),
            "last": lambda: review.go_to_frame(1 << 30),
            "mark": lambda: review.set_marking(True),
            "unmark": review.remove_marks,
            "track": review.start_tracking,
            "stop": self._stop,
            "take": lambda: self.offers.take(self.offers.offers[0]),
            "accept": self._accept,
            "remove_clip": self._remove_clip,
            "rep_before": lambda: review.step_rep(-1),
            "rep_after": lambda: review.step_rep(1),
            "whole": lambda: self.review_station.rhythm.show_whole(
                self.actions_by_id["whole"].isChecked()
            ),
            "closer": lambda: self.review_station.film.look_closer(),
            "daylight": self._switch_theme,
            "beside": self._open_beside,
            "keys": lambda: self.stack.setCurrentWidget(self.keys),
            "cautions": lambda: self.stack.setCurrentWidget(self.cautions),
        }
        works |= self.hand.works() | self.body.works() | self.drawing.works()
        works |= self.queue.works() | self.files.works()
        for number in range(1, 10):
            works[f"moment_{number}"] = partial(self._go_to_moment, number)
        for number, speed in enumerate(SPEEDS, 1):
            works[f"speed_{number}"] = partial(review.set_speed, speed)
        for name in self._stations:
            works[f"go_{name.lower()}"] = partial(self._go, name)
        for name in PAGES:
            works[name] = partial(self.open_page, name)
        for number in range(1, 5):
            works[f"answer_{number}"] = partial(self._answer, number)
        for name in EXPORTS:
            works[name] = partial(self.files.export, name)
        return works

    def _follow(self) -> None:
        desk, review = self.desk, self.review
        desk.station_changed.connect(self._on_station)
        state, enable = Soon(self._show_state, self), Soon(self._enable, self)
        desk.records_changed.connect(self._fill_who)
        desk.clips_changed.connect(state.ask)
        desk.who_changed.connect(self._fill_who)
        desk.who_changed.connect(state.ask)
        desk.said.connect(self._say)
        desk.trouble.connect(lambda words: self.notice.say(words))
        desk.clip_missing.connect(self.files.ask_for_film)
        self.strip.chosen.connect(self._go)
        self.who.activated.connect(lambda _row: self._choose_who())
        desk.page_wanted.connect(self.open_page)
        self.teach.advice_ready.connect(state.ask)
        self.teach.row_changed.connect(lambda *_: state.ask())
        for signal in (
            review.clip_changed,
            review.answer_changed,
            review.tracking_changed,
            self.offers.changed,
        ):
            signal.connect(state.ask)
        for signal in (
            review.mark_changed,
            review.marking_changed,
            self.hand.changed,
            self.body.changed,
            self.drawing.changed,
            self.suggested.changed,
            self.files.changed,
            self.queue.changed,
        ):
            signal.connect(enable.ask)
        selection = self.film.list.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: enable.ask())
        desk.undo_stack.indexChanged.connect(lambda _index: enable.ask())

    # What is shown

    def _on_station(self, name: str) -> None:
        self.stack.setCurrentWidget(self._stations[name])
        self._show_state()

    def _go(self, name: str) -> None:
        self.desk.go_to(name)
        self._on_station(name)

    def open_page(self, name: str) -> None:
        """Go to a page of Screen, Teach or Prescribe."""
        station, page = PAGES[name]
        tabs = {
            "Screen": self.screen_station.tabs,
            "Teach": self.teach_station.tabs,
            "Prescribe": self.prescribe.tabs,
        }
        tabs[station].open(page)
        self._go(station)

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
        self.strip.show_state(self.desk.station, badges(self.desk, self.teach, self.offers))
        self._enable()

    def _enable(self) -> None:
        review = self.review
        on_film = review.index is not None and self.desk.station == "Review"
        marked = review.clip is not None and bool(review.clip.marks)
        enabled = {
            "closer": on_film,
            "mark": on_film and not review.tracking,
            "unmark": on_film and marked and not review.tracking,
            "track": on_film and marked and not review.tracking and review.track is None,
            "stop": self.stack.currentWidget() is self.beside
            or review.tracking
            or review.marking
            or self.hand.busy
            or self.body.seeding
            or bool(self.drawing.tool)
            or self.drawing.chosen >= 0
            or bool(self.suggested.kind)
            or self.files.writing is not None,
            "export_film": review.answer is not None and self.files.writing is None,
            "accept": self.film.whose.ready
            if self.desk.station == "Film"
            else on_film and bool(self.suggested.kind),
            "beside": on_film and review.answer is not None,
            "remove_clip": self.desk.station == "Film" and self.film.chosen is not None,
            "rep_before": review.answer is not None and review.answer.rep > 0,
            "rep_after": review.answer is not None
            and review.answer.rep + 1 < len(review.answer.reps),
            "take": bool(self.offers.offers) and open_finding(self.offers),
            "undo": self.desk.undo_stack.canUndo() and not review.tracking,
            "redo": self.desk.undo_stack.canRedo() and not review.tracking,
        }
        playing = ("play", "back", "forward", "back_ten", "forward_ten", "first", "last")
        enabled |= dict.fromkeys((*playing, "speed_1", "speed_2", "speed_3", "speed_4"), on_film)
        enabled |= dict.fromkeys(EXPORTS, review.answer is not None)
        for name in ("export_landmarks", "export_trc"):
            enabled[name] = review.answer is not None and review.body is not None
        enabled |= self.hand.possible(on_film) | self.body.possible(on_film)
        enabled |= self.drawing.possible(on_film) | self.queue.possible()
        self.review_station.transport.draw.setEnabled(enabled["draw_line"])
        moments = len(self.review_station.moments.moments) if on_film else 0
        enabled |= {f"moment_{number}": number <= moments for number in range(1, 10)}
        for name, on in enabled.items():
            self.actions_by_id[name].setEnabled(on)
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

    # Intents

    def _accept(self) -> None:
        """Take what is suggested: on Film whose clip it is, on Review what was read from it."""
        if self.desk.station == "Film":
            self.film.confirm()
        else:
            self.suggested.accept()

    def _answer(self, number: int) -> None:
        """The answer to the splitting question on show: on Review that of the open clip."""
        question = self.offers.question
        if self.desk.station == "Review" and question is not None:
            if number <= len(question.answer):
                self.offers.answer(question.answer[number - 1].id)
        else:
            self.correctives.answer_number(number)

    def _back(self) -> None:
        self._on_station(self.desk.station)

    def _step(self, by: int) -> None:
        """A frame on or back; beside another clip, a key position."""
        if self.stack.currentWidget() is self.beside:
            self.beside.model.step(by)
        else:
            self.review.step(by)

    def _go_to_moment(self, number: int) -> None:
        if self.stack.currentWidget() is self.beside:
            self.beside.model.go(number)
        else:
            self.review_station.moments.go(number)

    def _open_beside(self) -> None:
        self.stack.setCurrentWidget(self.beside)
        self.beside.open()
        self._enable()

    def _remove_clip(self) -> None:
        if self.film.chosen is not None:
            self.desk.remove_clip(self.film.chosen)

    def _stop(self) -> None:
        if self.stack.currentWidget() is self.beside:
            self._back()
            return
        if self.suggested.kind == "plate":
            self.suggested.decline()  # marking goes on, by hand
            return
        self.files.stop()
        self.review.stop_tracking()
        self.review.set_marking(False)
        self.hand.stop()
        self.body.stop()
        if not (self.drawing.tool or self.drawing.chosen >= 0):
            self.suggested.decline()
        self.drawing.stop()

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
        retint(self)
        self.review_station.rhythm.redraw()

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
        self.review.close()
        self.inbox.close()
        self.desk.jobs.stop_all()
        self.queue.close()
        self.desk.close()
        super().closeEvent(event)
