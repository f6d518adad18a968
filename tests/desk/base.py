"""A real window on records of its own, driven by clicks and keys; leaves nothing behind."""

import atexit
import os
import shutil
import tempfile
import time
import unittest
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import mock

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt, QThread
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QFileDialog,
    QLabel,
    QWidget,
)

from keen_kettle.core.clip import ClipReader, content_hash, read_index
from keen_kettle.core.track import HandWork
from keen_kettle.demo import lay_out_people
from keen_kettle.desk import start
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.window.frame import Window
from keen_kettle.desk.work.worker_process import WorkerProcess
from keen_kettle.store import Athlete, NewAthlete, NewClip, Shelf, database_file
from keen_kettle.store.thumbnail import thumbnail_of
from tests.films import TestFilm, film, tracked

__all__ = ["TODAY", "DeskCase", "answer_worker", "app"]

TODAY = date(2026, 11, 23)


def app() -> QApplication:
    """The one application object of the test run (kept: Qt ends with its last reference)."""
    if not _kept:
        made = QApplication.instance() or QApplication(["kettle-test"])
        assert isinstance(made, QApplication)
        _kept.append(made)
    return _kept[0]


_kept: list[QApplication] = []


class SharedWorker(WorkerProcess):
    """Serves all windows of the test run; one that closes leaves it to the next."""

    def close(self) -> None:
        """It ends with the test run."""


answer_worker = SharedWorker(tries=2)
atexit.register(answer_worker._end)
_club: list[Path] = []
_new: list[Path] = []


class DeskCase(unittest.TestCase):
    """Opens windows on a folder that goes away; checks that no window and no thread is left.

    The search for the plate is off (it takes seconds) unless a case says `searches`, and that for
    the body unless it says `looks`.
    """

    searches = False
    looks = False

    def setUp(self) -> None:
        self.app = app()
        if not self.searches:
            off = mock.patch.object(HandModel, "propose", return_value=None)
            off.start()
            self.addCleanup(off.stop)
        if not self.looks:
            self.blind = mock.patch.object(BodyModel, "look", return_value=None)
            self.blind.start()
            self.addCleanup(self.blind.stop)
        room = tempfile.TemporaryDirectory(prefix="kettle-desk-")
        self.addCleanup(room.cleanup)
        self.room = Path(room.name)
        self.folder = self.room / "kept"
        self.folder.mkdir()
        self._lay_new_file()
        self._windows: list[Window] = []
        self.addCleanup(self._leave_nothing)

    def _lay_new_file(self) -> None:
        """A data file as the program makes it at its first start (that itself: tests/store)."""
        if not _new:
            room = tempfile.mkdtemp(prefix="kettle-new-")
            atexit.register(shutil.rmtree, room, ignore_errors=True)
            Shelf(database_file(Path(room))).close()
            _new.append(database_file(Path(room)))
        shutil.copy(_new[0], database_file(self.folder))

    def _leave_nothing(self) -> None:
        for window in self._windows:
            if window.isVisible():
                window.close()
        self.app.processEvents()
        for window in self._windows:
            running = [thread for thread in window.findChildren(QThread) if thread.isRunning()]
            self.assertEqual(running, [], "a thread is left over")
        self.assertFalse([one for one in self.app.topLevelWidgets() if one.isVisible()])
        for window in self._windows:
            window.deleteLater()
        self._windows.clear()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)

    # Records

    def keep(
        self,
        known: TestFilm | None = None,
        lift: str = "clean",
        name: str = "Wil Dane",
        path: Path | None = None,
    ) -> int:
        """Keep an athlete with bests and, if given, a film of theirs; returns the clip's id."""
        shelf = Shelf(database_file(self.folder))
        try:
            shelf.keep_cautions_read()
            athlete = shelf.add_athlete(NewAthlete(name, 1.75, {"snatch": 70.0, "clean": 100.0}))
            place = path or (known.path if known is not None else None)
            if place is None:
                return 0
            index = read_index(place)
            with ClipReader(index) as reader:
                picture = thumbnail_of(reader)
            return shelf.add_clip(
                NewClip(
                    place,
                    content_hash(place),
                    len(index),
                    index.duration_s,
                    TODAY,
                    athlete,
                    lift,
                    60.0,
                    thumbnail=picture,
                )
            )
        finally:
            shelf.close()

    def keep_club(self) -> None:
        """Keep the demo's dozen athletes with their teaching, without films."""
        if not _club:
            room = tempfile.mkdtemp(prefix="kettle-club-")
            atexit.register(shutil.rmtree, room, ignore_errors=True)
            shelf = Shelf(Path(room) / "club.sqlite")
            shelf.keep_cautions_read()
            lay_out_people(shelf, TODAY)
            shelf.close()
            _club.append(Path(room) / "club.sqlite")
        shutil.copy(_club[0], database_file(self.folder))

    def athlete(self, window: Window, name: str) -> Athlete:
        return next(one for one in window.desk.athletes if one.name.startswith(name))

    def open(self) -> Window:
        window = start.make_window(self.app, self.folder, False, lambda: TODAY, answer_worker)
        window.resize(1280, 800)
        window.show()
        self._windows.append(window)
        window.activateWindow()
        self.assertTrue(QTest.qWaitForWindowActive(window))
        return window

    # Driving

    def until(
        self, ready: Callable[[], object], seconds: float = 15, what: str = "it did not happen"
    ) -> None:
        end = time.monotonic() + seconds
        while not ready():
            self.assertLess(time.monotonic(), end, what)
            self.app.processEvents()
            time.sleep(0.003)

    def settle(self, seconds: float = 0.05) -> None:
        """Let what was asked for happen: some time, and some turns of the event loop."""
        end = time.monotonic() + seconds
        turns = 0
        while time.monotonic() < end or turns < 12:
            self.app.processEvents()
            time.sleep(0.003)
            turns += 1

    def open_clip(self, window: Window) -> None:
        """Choose the (first) clip on Film and press the button that opens it."""
        QTest.mouseClick(window.stations.film.widget.open, Qt.MouseButton.LeftButton)
        review = window.models.review
        self.until(
            lambda: review.index is not None and not review._frames.waiting,
            what="the film did not open",
        )
        self.settle()

    def drag_mark(self, window: Window, known: TestFilm, frame: int = 0) -> None:
        """Press on the plate's centre on the film, drag to its rim, let go."""
        view = window.stations.review.widget.film
        transform = view.transform
        assert transform is not None
        x, y = known.bar_px[frame]
        radius = known.truth["plate_radius_px"]
        centre = transform.to_widget(x, y).toPoint()
        rim = transform.to_widget(x - radius, y).toPoint()
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=centre)
        for share in (0.3, 0.7, 1.0):
            self._move(view, QPointF(centre) + (QPointF(rim) - QPointF(centre)) * share)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=rim)
        self.settle()

    def marked(self, known: TestFilm) -> Window:
        """A window with this film open and its plate marked by hand."""
        self.keep(known)
        window = self.open()
        self.open_clip(window)
        self.drag_mark(window, known)
        return window

    def measured(
        self,
        name: str,
        lift: str = "clean",
        path: Path | None = None,
        hand: HandWork | None = None,
    ) -> Window:
        """A window with a film of the test run, tracked before, open on Review with its answer; `path` is a copy of
        its own, `hand` what was set by hand."""
        self.keep(film(name), lift=lift, path=path)
        shelf = Shelf(database_file(self.folder))
        marked = replace(shelf.clips()[0], marks=(film(name).mark(),), hand=hand or HandWork())
        shelf.change_clip(marked.id, marks=marked.marks, hand=marked.hand)
        shelf.keep_track(marked, tracked(name))
        shelf.close()
        window = self.open()
        self.open_clip(window)
        self.until(
            lambda: window.models.review.answer is not None and not window.desk.jobs.busy, 30
        )
        self.settle()
        return window

    @staticmethod
    def _move(view: QWidget, to: QPointF) -> None:
        QTest.mouseMove(view, to.toPoint())
        QTest.qWait(15)

    def press(self, window: Window, keys: str) -> None:
        """Use an action by its key, as the window's shortcut would (it must be enabled by then)."""
        wanted = QKeySequence(keys)
        action = next(one for one in window.actions_by_id.values() if wanted in one.shortcuts())
        self.until(action.isEnabled, 5, f"{action.text()} is not enabled")
        combination = wanted[0]
        target = self.app.focusWidget() or window
        QTest.keyClick(target, combination.key(), combination.keyboardModifiers())
        self.settle(0.02)

    def find(self, root: QWidget, words: str) -> QAbstractButton:
        """The visible button that says this."""
        found = [
            one
            for one in root.findChildren(QAbstractButton)
            if one.isVisible() and words in one.text()
        ]
        self.assertTrue(found, f"no visible button says “{words}”; shown: {self.shown(root)}")
        return found[0]

    def click(self, root: QWidget, words: str) -> None:
        made = self.find(root, words)
        self.assertTrue(made.isEnabled(), f"“{words}” is not enabled")
        QTest.mouseClick(made, Qt.MouseButton.LeftButton, pos=QPoint(12, made.height() // 2))
        self.settle(0.02)

    # Reading

    def texts(self, root: QWidget) -> Iterator[str]:
        for one in root.findChildren(QLabel):
            if one.isVisible() and one.text():
                yield one.text().replace("\u00a0", " ").replace("\u2060", "")

    def shown(self, root: QWidget) -> str:
        """All words that labels show, one a line."""
        return "\n".join(self.texts(root))

    def choosing(self, *paths: Path | None) -> "mock._patch[mock.MagicMock]":
        """The next file dialogs answer with these paths."""
        answers = [(str(path) if path is not None else "", "") for path in paths]
        return mock.patch.object(QFileDialog, "getOpenFileName", side_effect=answers)

    def saving(self, path: Path) -> "mock._patch[mock.MagicMock]":
        return mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), ""))
