"""What was kept comes onto the disk at once, and nobody who keeps something waits for that."""

import errno
import os
import sqlite3
import threading
from contextlib import closing
from unittest import mock

from keen_kettle.store import NewAthlete, Shelf
from keen_kettle.store import disk_keeper as keeper
from tests.store.test_shelf import ShelfCase, a_clip

flush = os.fsync


class Disk:
    """Stands in for a slow or broken disk: counts what is flushed."""

    def __init__(self) -> None:
        self.flushed: list[int] = []
        self.lets_go = threading.Event()
        self.lets_go.set()
        self.breaks = False

    def fsync(self, file: int) -> None:
        self.lets_go.wait(20)
        if self.breaks:
            raise OSError(errno.EIO, os.strerror(errno.EIO))
        flush(file)
        self.flushed.append(os.fstat(file).st_size)


class TestDisk(ShelfCase):
    def setUp(self) -> None:
        super().setUp()
        self.disk = Disk()
        broken = mock.patch.object(os, "fsync", self.disk.fsync)
        broken.start()
        self.addCleanup(broken.stop)
        self.addCleanup(self.disk.lets_go.set)

    def names(self) -> list[str]:
        """As another reader of the file sees them."""
        with closing(sqlite3.connect(self.file)) as raw:
            return [name for (name,) in raw.execute("SELECT name FROM athletes ORDER BY id")]

    def a_shelf(self) -> Shelf:
        made = self.shelf()
        self.addCleanup(self.disk.lets_go.set)  # before it is closed: closing waits for the disk
        return made

    def test_what_is_kept_is_flushed_and_reading_flushes_nothing(self) -> None:
        shelf = self.a_shelf()
        shelf.add_athlete(NewAthlete("Ida Moor"))
        shelf.wait_for_the_disk()
        self.assertEqual(len(self.disk.flushed), 1)
        shelf.athletes()
        shelf.change_athlete(99, notes="nobody has this number")
        shelf.wait_for_the_disk()
        self.assertEqual(len(self.disk.flushed), 1)

    def test_who_keeps_something_does_not_wait_for_a_slow_disk(self) -> None:
        shelf = self.a_shelf()
        self.disk.lets_go.clear()
        shelf.add_athlete(NewAthlete("Ida Moor"))
        shelf.add_athlete(NewAthlete("Jon Pike"))
        self.assertEqual(self.disk.flushed, [])
        self.assertEqual(self.names(), ["Ida Moor", "Jon Pike"])
        self.disk.lets_go.set()
        shelf.wait_for_the_disk()
        self.assertIn(len(self.disk.flushed), (1, 2))  # two commits may go in one flush

    def test_closing_waits_until_all_is_on_the_disk(self) -> None:
        shelf = self.shelf()
        self.disk.lets_go.clear()
        shelf.add_athlete(NewAthlete("Ida Moor"))
        threading.Timer(0.05, self.disk.lets_go.set).start()
        shelf.close()
        self.assertEqual(len(self.disk.flushed), 1)
        self.assertEqual(self.names(), ["Ida Moor"])

    def test_a_disk_that_refuses_is_told_and_the_next_act_is_kept(self) -> None:
        shelf = self.a_shelf()
        told: list[str] = []
        shelf.when_the_disk_refuses(told.append)
        self.disk.breaks = True
        shelf.add_athlete(NewAthlete("Ida Moor"))
        shelf.wait_for_the_disk()
        self.assertEqual(len(told), 1)
        self.assertIn("make a backup on another disk", told[0])
        self.disk.breaks = False
        shelf.add_athlete(NewAthlete("Jon Pike"))
        shelf.wait_for_the_disk()
        self.assertEqual((len(told), len(self.disk.flushed)), (1, 1))
        self.assertEqual(self.names(), ["Ida Moor", "Jon Pike"])

    def test_a_long_log_is_moved_into_the_data_file(self) -> None:
        shelf = self.a_shelf()
        before = self.file.stat().st_size
        shelf.add_clip(a_clip(thumbnail=os.urandom(2 * keeper.MOST_WAITING_BYTES)))
        shelf.wait_for_the_disk()
        self.assertGreater(self.file.stat().st_size, before + keeper.MOST_WAITING_BYTES)
        self.assertEqual(len(shelf.thumbnail(1)), 2 * keeper.MOST_WAITING_BYTES)
