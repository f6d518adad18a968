"""Watches a folder in which films arrive, by whatever means, and hands over those that are whole.

A film is whole when its size and its time have not changed between two looks. What has been handed
over once is remembered by name, size and time, so that a clip that the coach removes does not come
back.
"""

import os
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from keen_kettle.desk.state.intake.queue_model import QueueModel
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.records.reading import FILM_ENDINGS
from keen_kettle.desk.work.workers import Job
from keen_kettle.store import StoreError
from keen_kettle.store.records import InboxRecord

__all__ = ["Inbox"]

Stamps = dict[str, tuple[int, float]]


class Inbox(QObject):
    """The watched folder."""

    changed = pyqtSignal()

    LOOK_MS = 5000
    AGAIN_MS = 1500
    """Between two looks, and between two looks at a film that may still be growing."""

    def __init__(self, desk: DeskModel, queue: QueueModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk, self._queue = desk, queue
        self._record = desk.shelf.inbox()
        self._last: Stamps = {}
        self._looking = False
        self.missing = False
        self._watcher = QFileSystemWatcher(self)
        self._watcher.directoryChanged.connect(lambda _path: self._timer.start(200))
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.look)
        self._begin()

    @property
    def folder(self) -> Path | None:
        return self._record.folder

    def watch(self, folder: Path | None) -> None:
        """Watch this folder from now on; None watches none."""
        self._keep(InboxRecord(folder, {}))
        self._last = {}
        self._begin()
        if folder is not None:
            self._desk.said.emit(f"Films that arrive in {folder} come into the queue.")
        self.changed.emit()

    def close(self) -> None:
        self._timer.stop()
        watched = self._watcher.directories()
        if watched:
            self._watcher.removePaths(watched)

    def _begin(self) -> None:
        watched = self._watcher.directories()
        if watched:
            self._watcher.removePaths(watched)
        self._timer.stop()
        self.missing = False
        if self.folder is not None:
            self._watcher.addPath(str(self.folder))
            self._timer.start(0)

    def look(self) -> None:
        """Look into the folder, away from the window: it may lie on a slow disk."""
        folder = self.folder
        if folder is None or self._looking:
            return
        self._looking = True

        def looked(found: Stamps | None) -> None:
            self._looking = False
            if folder == self.folder:
                self._take(folder, found)

        def failed(reason: str) -> None:
            self._looking = False
            self._desk.trouble.emit(reason)

        self._desk.jobs.start(lambda _job: _stamps(_job, folder), looked, failed)

    def _take(self, folder: Path, found: Stamps | None) -> None:
        if self.missing != (found is None):
            self.missing = found is None
            self.changed.emit()
            if found is not None and str(folder) not in self._watcher.directories():
                self._watcher.addPath(str(folder))
        found = found or {}
        new = {name: stamp for name, stamp in found.items() if self._record.seen.get(name) != stamp}
        whole = [name for name, stamp in new.items() if self._last.get(name) == stamp and stamp[0]]
        self._last = found
        if whole and not self._queue.is_reading:
            stamps = {name: found[name] for name in whole}

            def done() -> None:
                self._keep(replace(self._record, seen={**self._record.seen, **stamps}))

            self._queue.take_in([folder / name for name in sorted(whole)], done=done)
        self._timer.start(self.AGAIN_MS if new else self.LOOK_MS)

    def _keep(self, record: InboxRecord) -> None:
        self._record = record
        try:
            self._desk.shelf.keep_inbox(record)
        except StoreError as error:
            self._desk.trouble.emit(str(error))


def _stamps(job: Job, folder: Path) -> Stamps | None:
    """Size and time of every film in a folder; None if it is not there."""
    try:
        with os.scandir(folder) as entries:
            return {
                entry.name: (entry.stat().st_size, entry.stat().st_mtime)
                for entry in entries
                if Path(entry.name).suffix.lower() in FILM_ENDINGS and entry.is_file()
            }
    except OSError:
        return None
