"""Brings what was committed onto the disk, in a thread of its own: who commits waits for no disk."""

import os
import sqlite3
import threading
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

__all__ = ["DiskKeeper"]

MOST_WAITING_BYTES = 1 << 20
"""Of the log beside the data file; above it the log's content is moved over (house default: small
enough that moving takes tens of milliseconds on a slow disk, large enough for hours by hand)."""


class DiskKeeper:
    """After each commit the log (SQLite's write-ahead log) is flushed, at once but not by the committer.

    A commit is whole from its first moment: a process that is killed loses nothing. Should the power
    fail before the flush, the records stand as they were before that commit, undamaged.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._log = path.with_name(f"{path.name}-wal")
        self._turn = threading.Condition()
        self._committed = self._on_disk = 0
        self._closing = False
        self._thread: threading.Thread | None = None
        self.tell: Callable[[str], None] | None = None
        """Told in words, from the keeper's thread, when the disk refuses."""

    def committed(self) -> None:
        """Something was committed: see that it comes onto the disk."""
        with self._turn:
            self._committed += 1
            if self._thread is None:
                self._thread = threading.Thread(target=self._keep, name="disk", daemon=True)
                self._thread.start()
            self._turn.notify_all()

    def wait(self) -> None:
        """Until all that was committed before this call has been flushed."""
        with self._turn:
            upto = self._committed
            self._turn.wait_for(lambda: self._on_disk >= upto)

    def close(self) -> None:
        """Flush what is left, and end the thread."""
        with self._turn:
            self._closing = True
            self._turn.notify_all()
        if self._thread is not None:
            self._thread.join()

    def _keep(self) -> None:
        while True:
            with self._turn:
                self._turn.wait_for(lambda: self._closing or self._on_disk < self._committed)
                if self._on_disk == self._committed:
                    return
                upto = self._committed
            try:
                self._flush()
            except (OSError, sqlite3.Error) as error:
                self._say(error)
            with self._turn:
                self._on_disk = upto
                self._turn.notify_all()

    def _flush(self) -> None:
        """The log to the disk; its content into the data file when it has grown long."""
        try:
            log = os.open(self._log, os.O_RDONLY)
        except FileNotFoundError:  # the last connection moved it over
            return
        try:
            os.fsync(log)
            waiting = os.fstat(log).st_size
        finally:
            os.close(log)
        if waiting > MOST_WAITING_BYTES:
            with closing(sqlite3.connect(self._path)) as own:
                own.execute("PRAGMA wal_checkpoint(PASSIVE)").fetchone()

    def _say(self, error: Exception) -> None:
        if self.tell is not None:
            self.tell(
                f"The disk did not take what was changed last ({error}). Your records stand here as you "
                f"see them; make a backup on another disk before you switch the computer off."
            )
