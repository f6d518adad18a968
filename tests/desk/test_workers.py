"""Threads: results, errors, progress and cancelling come back; stale frames do not."""

import os
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QObject
from PyQt6.QtGui import QImage

from keen_kettle.core.clip import ClipIndex, write_clip
from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.desk.work.idle_calls import IdleCall
from keen_kettle.desk.work.workers import GIVE_WAY, FrameService, Job, Jobs
from tests.core.test_clip import numbered
from tests.desk.base import DeskCase, answer_worker
from tests.desk.test_worker_process import Count


class TestJobs(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.jobs = Jobs()
        self.addCleanup(self.jobs.stop_all)
        self.got: list[tuple[str, object]] = []

    def run_job(self, work: Callable[[Job], object]) -> Job:
        return self.jobs.start(
            work,
            lambda result: self.got.append(("done", result)),
            lambda words: self.got.append(("failed", words)),
            lambda share: self.got.append(("progress", share)),
            lambda: self.got.append(("cancelled", None)),
        )

    def test_a_result_and_its_progress_come_back(self) -> None:
        def work(job: Job) -> int:
            for step in range(5):
                job.tell(step / 4)
            return 42

        self.run_job(work)
        self.until(lambda: ("done", 42) in self.got)
        shares = [share for kind, share in self.got if kind == "progress"]
        self.assertEqual(shares, [0, 0.25, 0.5, 0.75, 1.0])
        self.until(lambda: not self.jobs.busy)

    def test_long_work_gives_way_to_the_window(self) -> None:
        def work(_job: Job) -> int:
            return os.getpriority(os.PRIO_PROCESS, threading.get_native_id())

        here = os.getpriority(os.PRIO_PROCESS, threading.get_native_id())
        self.run_job(work)
        self.until(lambda: self.got)
        self.assertEqual(self.got[0], ("done", max(here, GIVE_WAY)))
        self.assertEqual(os.getpriority(os.PRIO_PROCESS, threading.get_native_id()), here)

    def test_an_error_is_said_in_its_own_words(self) -> None:
        def work(_job: Job) -> None:
            raise ClipUnreadable("The film is torn. Copy it again.")

        self.run_job(work)
        self.until(lambda: self.got)
        self.assertEqual(self.got, [("failed", "The film is torn. Copy it again.")])

    def test_an_error_that_nobody_foresaw_is_shown_too(self) -> None:
        def work(_job: Job) -> float:
            return 1 / len(self.got)

        self.run_job(work)
        self.until(lambda: self.got)
        self.assertIn("ZeroDivisionError", str(self.got[0]))

    def test_a_stopped_job_says_cancelled_and_nothing_else(self) -> None:
        def work(job: Job) -> None:
            while not job.stopped():
                time.sleep(0.002)
            raise Cancelled("stopped")

        job = self.run_job(work)
        self.settle()
        job.stop()
        self.until(lambda: self.got)
        self.assertEqual(self.got, [("cancelled", None)])

    def test_closing_stops_all(self) -> None:
        def work(job: Job) -> None:
            while not job.stopped():
                time.sleep(0.002)

        for _ in range(3):
            self.run_job(work)
        self.assertTrue(self.jobs.busy)
        self.jobs.stop_all()
        self.jobs.wait_all()
        self.assertFalse(self.jobs.busy)

    def test_a_helper_does_a_task_unless_it_is_not_wanted_any_more(self) -> None:
        def ask(wanted: bool) -> None:
            self.jobs.ask(
                answer_worker,
                Count(3),
                lambda result: self.got.append(("done", result)),
                lambda words: self.got.append(("failed", words)),
                lambda: self.got.append(("cancelled", None)),
                unless=lambda: not wanted,
            )
            self.until(lambda: not self.jobs.busy, 30)

        ask(wanted=False)
        self.assertEqual(self.got.pop(), ("cancelled", None))
        ask(wanted=True)
        kind, process = self.got.pop()
        self.assertEqual(kind, "done")
        self.assertNotEqual(process, os.getpid())


class TestSoon(DeskCase):
    """Pieces of laying out: once each, one in a turn, in the order they were asked for."""

    def setUp(self) -> None:
        super().setUp()
        self.settle()  # what an earlier window still owed itself
        self.home = QObject()
        self.done: list[str] = []

    def soon(self, name: str) -> IdleCall:
        return IdleCall(lambda: self.done.append(name), self.home)

    def test_a_turn_takes_one_piece_and_each_is_done_once(self) -> None:
        first, second = self.soon("first"), self.soon("second")
        for piece in (first, second, first, second):
            piece.ask()
        seen = []
        for _turn in range(6):
            self.app.processEvents()
            seen.append(len(self.done))
        self.assertEqual(self.done, ["first", "second"])
        self.assertIn(1, seen, "a turn of its own for each")
        first.ask()
        self.settle()
        self.assertEqual(self.done, ["first", "second", "first"])

    def test_a_piece_that_is_gone_holds_nobody_up(self) -> None:
        gone, other = self.soon("gone"), self.soon("other")
        gone.ask()
        other.ask()
        sip.delete(gone)
        self.settle()
        self.assertEqual(self.done, ["other"])

    def test_a_piece_may_wait_for_others(self) -> None:
        other = self.soon("other")

        def wait() -> None:
            other.ask()
            self.until(lambda: self.done, 2)
            self.done.append("waited")

        IdleCall(wait, self.home).ask()
        self.settle()
        self.assertEqual(self.done, ["other", "waited"])


class TestFrames(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.room / "frames.mp4"
        write_clip(self.path, ((n / 30, numbered(n)) for n in range(60)), 30, key_interval=60)
        self.service = FrameService()
        self.addCleanup(self.service.stop)
        self.numbers: list[int] = []
        self.words: list[str] = []
        self.opened: list[ClipIndex] = []
        self.service.opened.connect(self.opened.append)
        self.service.shown.connect(self.add)
        self.service.failed.connect(self.words.append)

    def add(self, number: int, image: QImage) -> None:
        self.assertFalse(image.isNull())
        self.numbers.append(number)

    def test_only_the_newest_request_is_answered(self) -> None:
        self.service.open(self.path)
        self.until(lambda: self.opened)
        for number in range(50):
            self.service.ask(number)
        self.until(lambda: 49 in self.numbers)
        self.settle()
        self.assertEqual(self.numbers[-1], 49)
        self.assertLess(len(self.numbers), 25, "most requests were stale and dropped")
        self.assertFalse(self.service.waiting)

    def test_a_film_that_cannot_be_read_is_said(self) -> None:
        for path, words in (
            (self.room / "gone.mp4", "no file"),
            (self.make_text(), "cannot be read"),
        ):
            self.words.clear()
            self.service.open(path)
            self.until(lambda: self.words)
            self.assertIn(words, self.words[0])

    def make_text(self) -> Path:
        path = self.room / "text.mp4"
        path.write_text("text")
        return path

    def test_opening_another_film_drops_the_first_ones_frames(self) -> None:
        other = self.room / "other.mp4"
        write_clip(other, ((n / 30, numbered(n)) for n in range(8)), 30)
        self.service.open(self.path)
        self.service.open(other)
        self.until(lambda: self.opened)
        self.settle()
        self.assertEqual([len(index) for index in self.opened], [8])
        self.service.ask(7)
        self.until(lambda: self.numbers == [7])


if __name__ == "__main__":
    unittest.main()
