"""The helper process: answers, errors in words, progress, stopping, holding, and being killed."""

import os
import signal
import subprocess
import sys
import threading
import time
import unittest
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from unittest import mock

from keen_kettle.core.errors import Cancelled, KettleError, MarkError
from keen_kettle.desk.work.tools import Stopped, Tell, Tools
from keen_kettle.desk.work.worker_process import WorkerProcess, _nursery


@dataclass(frozen=True)
class Count:
    """Counts to a number, a little at a time; answers with its own process's number."""

    to: int
    pause_s: float = 0.0
    trouble: str = ""

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> int:
        for k in range(self.to):
            if stopped():
                raise Cancelled("Stopped.")
            time.sleep(self.pause_s)
            tell((k + 1) / self.to)
        if self.trouble == "known":
            raise MarkError("The mark is off the picture.")
        if self.trouble:
            raise ZeroDivisionError(self.trouble)
        return os.getpid()


def never() -> bool:
    return False


class TestWorkerProcess(unittest.TestCase):
    def setUp(self) -> None:
        self.worker = WorkerProcess()
        self.addCleanup(self.worker.close)

    def test_one_other_process_does_all_tasks_and_tells_how_far_it_is(self) -> None:
        shares: list[float] = []
        first = self.worker.ask(Count(5), shares.append, never)
        self.assertEqual(shares[-1], 1.0)
        self.assertEqual(sorted(shares), shares)
        self.assertNotEqual(first, os.getpid())
        self.assertEqual(self.worker.ask(Count(1), shares.append, never), first)

    def test_a_process_that_was_warmed_does_the_first_task(self) -> None:
        self.worker.warm()
        process = self.worker._process
        assert process is not None
        self.worker.warm()
        self.assertEqual(self.worker.ask(Count(1), lambda _share: None, never), process.pid)

    def test_warming_never_waits_for_a_task(self) -> None:
        over = threading.Event()
        asking = threading.Thread(
            target=lambda: self.worker.ask(Count(40, 0.05), lambda _share: over.wait(5), never)
        )
        asking.start()
        while not self.worker._lock.locked():
            time.sleep(0.005)
        self.worker.warm()
        self.assertTrue(asking.is_alive(), "it was not waited for")
        over.set()
        asking.join(30)

    def test_errors_come_back_in_words_and_the_process_goes_on(self) -> None:
        with self.assertRaisesRegex(MarkError, "off the picture"):
            self.worker.ask(Count(1, trouble="known"), print, never)
        with self.assertRaisesRegex(KettleError, "did not expect.*nought"):
            self.worker.ask(Count(1, trouble="nought"), lambda _share: None, never)
        self.assertGreater(self.worker.ask(Count(1), lambda _share: None, never), 0)

    def test_a_task_is_stopped_also_while_it_is_held(self) -> None:
        shares: list[float] = []
        with self.assertRaises(Cancelled):
            self.worker.ask(Count(1000, 0.01), shares.append, lambda: len(shares) > 3)
        self.worker.hold(True)
        begun = time.monotonic()
        with self.assertRaises(Cancelled):
            self.worker.ask(
                Count(1000, 0.01), shares.append, lambda: time.monotonic() > begun + 0.5
            )

    def test_a_held_task_rests_and_goes_on(self) -> None:
        shares: list[float] = []
        answers: list[object] = []

        def work() -> None:
            answers.append(self.worker.ask(Count(60, 0.02), shares.append, never))

        worker = threading.Thread(target=work)
        worker.start()
        while len(shares) < 3:
            time.sleep(0.01)
        self.worker.hold(True)
        time.sleep(0.3)
        rested = len(shares)
        time.sleep(0.4)
        self.assertEqual(len(shares), rested)
        self.assertLess(rested, 60)
        self.worker.hold(False)
        worker.join(20)
        self.assertEqual(len(answers), 1)

    def test_a_killed_process_is_told_and_the_next_task_gets_a_new_one(self) -> None:
        number = self.worker.ask(Count(1), lambda _share: None, never)

        def kill(_share: float) -> None:
            os.kill(number, signal.SIGKILL)

        with self.assertRaisesRegex(KettleError, "ended without an answer.*try it again"):
            self.worker.ask(Count(200, 0.02), kill, never)
        self.assertNotEqual(self.worker.ask(Count(1), lambda _share: None, never), number)

    def test_a_killed_process_is_told_though_its_pipe_stays_open(self) -> None:
        context = _nursery()
        make, kept = context.Pipe, []

        def pipe() -> tuple[Connection, Connection]:
            mine, theirs = make()
            kept.append(os.dup(theirs.fileno()))
            self.addCleanup(os.close, kept[-1])
            return mine, theirs

        with mock.patch.object(context, "Pipe", pipe):
            number = self.worker.ask(Count(1), lambda _share: None, never)
            with self.assertRaisesRegex(KettleError, "ended without an answer"):
                self.worker.ask(
                    Count(200, 0.02), lambda _share: os.kill(number, signal.SIGKILL), never
                )
        self.assertEqual(len(kept), 1)

    def test_what_is_asked_while_the_window_closes_starts_no_process(self) -> None:
        self.worker.close()
        with self.assertRaises(Cancelled):
            self.worker.ask(Count(1), lambda _share: None, never)
        self.assertFalse(self.worker.awake)

    def test_what_nobody_wants_any_more_is_not_begun(self) -> None:
        with self.assertRaises(Cancelled):
            self.worker.ask(Count(1), lambda _share: None, lambda: True)
        self.assertFalse(self.worker.awake)

    def test_a_short_task_is_done_once_more_when_its_process_is_killed(self) -> None:
        answer_worker = WorkerProcess(tries=2)
        self.addCleanup(answer_worker.close)
        number = answer_worker.ask(Count(1), lambda _share: None, never)
        killed: list[int] = []

        def kill(_share: float) -> None:
            if not killed:
                killed.append(number)
                os.kill(number, signal.SIGKILL)

        again = answer_worker.ask(Count(20, 0.02), kill, never)
        self.assertEqual(killed, [number])
        self.assertNotEqual(again, number)

    def test_a_process_that_rests_gives_its_memory_back(self) -> None:
        number = self.worker.ask(Count(1), lambda _share: None, never)
        self.worker.rest()
        self.assertFalse(self.worker.awake)
        self.assertFalse(Path(f"/proc/{number}").exists())
        self.assertNotEqual(self.worker.ask(Count(1), lambda _share: None, never), number)

    def test_when_the_program_is_killed_its_helpers_end(self) -> None:
        words = (
            "import time; from keen_kettle.desk.work.worker_process import WorkerProcess\n"
            "from tests.desk.test_worker_process import Count, never\n"
            "worker = WorkerProcess()\n"  # held, or it is closed as soon as it has answered
            "print(worker.ask(Count(1), lambda share: None, never), flush=True)\n"
            "time.sleep(60)\n"
        )
        program = subprocess.Popen([sys.executable, "-c", words], stdout=subprocess.PIPE, text=True)
        assert program.stdout is not None
        helper = Path(f"/proc/{int(program.stdout.readline())}")
        self.assertTrue(helper.exists())
        program.kill()
        program.communicate()
        end = time.monotonic() + 10
        while helper.exists() and time.monotonic() < end:
            time.sleep(0.05)
        self.assertFalse(helper.exists())

    def test_closing_leaves_a_task_without_blaming_anyone(self) -> None:
        closing = threading.Timer(0.3, self.worker.close)
        closing.start()
        with self.assertRaises(Cancelled):
            self.worker.ask(Count(400, 0.05), lambda _share: None, never)
        closing.join()
