"""Long work runs here, away from the window: frames for showing, and jobs with progress and cancel."""

import contextlib
import os
import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QThread, pyqtSignal, pyqtSlot
from PyQt6.QtGui import QImage

from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.errors import Cancelled, KettleError
from keen_kettle.desk.work.tools import Task
from keen_kettle.desk.work.worker_process import WorkerProcess
from keen_kettle.store import StoreError

__all__ = ["BEHIND", "GIVE_WAY", "FrameService", "Job", "Jobs"]

GIVE_WAY = 5
"""How much what the coach waits for gives way to the window (niceness)."""
BEHIND = 10
"""And what comes by itself after that."""


class Job(QThread):
    """One piece of work: `work(job)` runs in a thread; its result or its error comes back as a signal.

    The work calls `job.tell(share)` and looks at `job.stopped()`.
    """

    progress = pyqtSignal(float)
    done = pyqtSignal(object)
    failed = pyqtSignal(str)
    cancelled = pyqtSignal()

    def __init__(self, work: "Callable[[Job], object]", parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._work = work
        self._stop = False
        self._told = -1.0

    def run(self) -> None:
        _give_way()
        try:
            result = self._work(self)
        except Cancelled:
            self.cancelled.emit()
        except (KettleError, StoreError) as error:
            self.failed.emit(str(error))
        except Exception as error:  # whatever else happens must be shown, not lost in a thread
            self.failed.emit(f"Something went wrong that the program did not expect: {error!r}.")
        else:
            self.done.emit(result)

    def tell(self, share: float) -> None:
        if share >= 1 or share - self._told > 0.005:
            self._told = share
            self.progress.emit(share)

    def stopped(self) -> bool:
        return self._stop

    def stop(self) -> None:
        self._stop = True


def _give_way() -> None:
    """On Linux each thread has a niceness of its own: the window's thread goes before this one and
    those that it begins (decoders). Done again, it changes nothing."""
    with contextlib.suppress(OSError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), GIVE_WAY)


class Jobs(QObject):
    """Keeps running jobs alive, and stops them all when the window closes."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._running: set[Job] = set()
        self._closed = False

    def start(
        self,
        work: Callable[[Job], object],
        done: Callable[[Any], None],
        failed: Callable[[str], None],
        progress: Callable[[float], None] | None = None,
        cancelled: Callable[[], None] | None = None,
    ) -> Job:
        job = Job(work, self)
        if self._closed:  # the window is going; what comes back would find nobody
            return job
        told = (
            *((job.done, done), (job.failed, failed)),
            *((job.progress, progress), (job.cancelled, cancelled)),
        )
        for signal, call in told:
            if call is not None:
                signal.connect(partial(self._tell, call))
        job.finished.connect(lambda: self._running.discard(job))
        job.finished.connect(job.deleteLater)
        self._running.add(job)
        job.start()
        return job

    def _tell(self, call: Callable[..., None], *news: object) -> None:
        """Who asked may be gone by the time at which the window has closed."""
        if not self._closed:
            call(*news)

    def ask(
        self,
        worker: WorkerProcess,
        task: Task,
        done: Callable[[Any], None],
        failed: Callable[[str], None],
        cancelled: Callable[[], None] | None = None,
        unless: Callable[[], bool] = lambda: False,
    ) -> Job:
        """Have a helper process do a task; it is left as soon as `unless` says so."""

        def work(job: Job) -> object:
            return worker.ask(task, job.tell, lambda: job.stopped() or unless())

        return self.start(work, done, failed, cancelled=cancelled)

    @property
    def busy(self) -> bool:
        return bool(self._running)

    def stop_all(self) -> None:
        """Tell all work to stop, and start none any more."""
        self._closed = True
        for job in list(self._running):
            job.stop()

    def wait_all(self) -> None:
        """Wait until nothing runs."""
        for job in list(self._running):
            job.wait()
        self._running.clear()


class _FrameReader(QObject):
    """Lives in the frame thread: opens films, decodes the frame that was asked for last."""

    opened = pyqtSignal(int, object)
    shown = pyqtSignal(int, int, QImage)
    failed = pyqtSignal(int, str)

    def __init__(self) -> None:
        super().__init__()
        self.newest = 0
        self._reader: ClipReader | None = None

    @pyqtSlot(int, object)
    def open(self, ticket: int, path: Path) -> None:
        self.close()
        _give_way()
        try:
            index = read_index(path)
            self._reader = ClipReader(index)
        except KettleError as error:
            self.failed.emit(ticket, str(error))
            return
        self.opened.emit(ticket, index)

    @pyqtSlot(int, int)
    def show(self, ticket: int, number: int) -> None:
        if ticket != self.newest or self._reader is None:
            return
        try:
            picture = self._reader.frame(number).bgra()
        except (KettleError, IndexError) as error:
            self.failed.emit(ticket, str(error))
            return
        high, wide = picture.shape[:2]
        image = QImage(picture.tobytes(), wide, high, 4 * wide, QImage.Format.Format_RGB32)
        self.shown.emit(ticket, number, image.copy())

    @pyqtSlot()
    def close(self) -> None:
        if self._reader is not None:
            self._reader.close()
            self._reader = None


class FrameService(QObject):
    """Frames for showing. Only the newest request is answered; older ones are dropped."""

    opened = pyqtSignal(object)
    shown = pyqtSignal(int, QImage)
    failed = pyqtSignal(str)
    _open = pyqtSignal(int, object)
    _show = pyqtSignal(int, int)
    _close = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._thread = QThread(self)
        self._reader = _FrameReader()
        self._reader.moveToThread(self._thread)
        self._open.connect(self._reader.open)
        self._show.connect(self._reader.show)
        self._close.connect(self._reader.close)
        self._reader.opened.connect(self._on_opened)
        self._reader.shown.connect(self._on_shown)
        self._reader.failed.connect(self._on_failed)
        self._ticket = 0
        self.waiting = False
        self._thread.start()

    def open(self, path: Path) -> None:
        self._open.emit(self._next(), path)

    def ask(self, number: int) -> None:
        self.waiting = True
        self._show.emit(self._next(), number)

    def stop(self) -> None:
        self._next()
        self._close.emit()
        self._thread.quit()
        self._thread.wait()

    def _next(self) -> int:
        self._ticket += 1
        self._reader.newest = self._ticket
        return self._ticket

    def _on_opened(self, ticket: int, index: object) -> None:
        if ticket == self._ticket:
            self.opened.emit(index)

    def _on_shown(self, ticket: int, number: int, image: QImage) -> None:
        if ticket == self._ticket:
            self.waiting = False
            self.shown.emit(number, image)

    def _on_failed(self, ticket: int, reason: str) -> None:
        if ticket == self._ticket:
            self.waiting = False
            self.failed.emit(reason)
