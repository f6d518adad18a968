"""A process of its own for looking and reckoning, so that the window's own thread never waits.

Numbers hold Python's one lock for stretches that are felt in the window; in another process they
are not. A task is a small picklable value with a method `run(tools, tell, stopped)`; its result, its
error and its progress come back over a pipe. When the process dies, the task fails in words (or is
done once more, where it is short), and the next one gets a new process.
"""

import contextlib
import multiprocessing
import multiprocessing.context
import os
import signal
from functools import cache
from multiprocessing.connection import Connection
from threading import Lock
from typing import Any

from keen_kettle.core.errors import Cancelled, KettleError
from keen_kettle.desk.work.tools import Stopped, Task, Tell, Tools

__all__ = ["WorkerProcess"]

POLL_S = 0.03
LOADED_BEFORE = [
    *("scipy.interpolate", "scipy.linalg", "scipy.signal"),
    "keen_kettle.desk.work.tasks",
]
"""Loaded before the first task comes."""


class WorkerProcess:
    """One helper process; it is started by the first task and stays.

    `ask` blocks, so it is called from a job's thread; only one task runs at a time. It gives way to
    others by its `patience` (niceness), and makes so many `tries` at a task when the process dies.
    """

    def __init__(self, patience: int = 0, tries: int = 1) -> None:
        self._patience = patience
        self._tries = tries
        self._lock = Lock()
        self._process: multiprocessing.process.BaseProcess | None = None
        self._pipe: Connection | None = None
        self._held = self._closed = False

    def ask(self, task: Task, tell: Tell, stopped: Stopped) -> Any:
        """The task's result.

        Raises
        ------
        KettleError
            As the task does, or when the process died.
        Cancelled
        """
        with self._lock:
            if stopped():
                raise Cancelled("It is not wanted any more.")
            for left in reversed(range(self._tries)):
                try:
                    pipe = self._start()
                    pipe.send(task)
                    return self._follow(pipe, tell, stopped)
                except (EOFError, OSError) as error:
                    self._drop()
                    if self._closed:
                        raise Cancelled("The window is closed.") from error
                    if not left:
                        raise KettleError(
                            "The helper that does the long work ended without an answer. "
                            "Nothing is lost; try it again."
                        ) from error
        raise AssertionError("a task is tried at least once")

    @property
    def awake(self) -> bool:
        """Whether there is a process, and it lives."""
        process = self._process
        return process is not None and process.is_alive()

    def warm(self) -> None:
        """Start the process before it is needed: starting one is felt in the window."""
        if self._lock.acquire(blocking=False):
            try:
                self._start()
            finally:
                self._lock.release()

    def rest(self) -> None:
        """Give back the memory of a process that has nothing to do; the next task starts another."""
        if self._lock.acquire(blocking=False):
            try:
                self._drop()
            finally:
                self._lock.release()

    def hold(self, on: bool) -> None:
        """Let the task rest, and go on."""
        self._held = on

    def close(self) -> None:
        """End the process for good; a task under way is dropped."""
        self._closed = True
        self._end()

    def _end(self) -> None:
        process = self._process
        if process is not None and process.is_alive():
            process.terminate()
            process.join(5)

    def _start(self) -> Connection:
        if self._pipe is not None and self.awake:
            return self._pipe
        self._drop()
        if self._closed:
            raise EOFError
        context = _nursery()
        mine, theirs = context.Pipe()
        process = context.Process(target=_serve, args=(theirs, self._patience), daemon=True)
        process.start()
        theirs.close()
        self._process, self._pipe = process, mine
        return mine

    def _drop(self) -> None:
        self._end()
        if self._pipe is not None:
            self._pipe.close()
        self._process = self._pipe = None

    def _follow(self, pipe: Connection, tell: Tell, stopped: Stopped) -> object:
        asked_to_stop = held = False
        while True:
            if stopped() and not asked_to_stop:
                asked_to_stop = True
                pipe.send("stop")
            elif self._held != held and not asked_to_stop:
                held = self._held
                pipe.send("hold" if held else "go on")
            if not pipe.poll(POLL_S):
                # The end of a pipe may not come through where another process has got hold of it.
                if (self._closed or not self.awake) and not pipe.poll():
                    raise EOFError
                continue
            kind, value = pipe.recv()
            if kind == "share":
                tell(value)
            elif kind == "done":
                return value
            elif kind == "error":
                raise value
            else:
                raise KettleError(f"Something went wrong that the program did not expect: {value}.")


@cache
def _nursery() -> multiprocessing.context.ForkServerContext:
    """Where processes come from: one that has loaded what tasks need and does nothing else.

    A fork of the program itself would copy the window's threads and locks, and a fresh interpreter
    would load for a second or two.
    """
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(LOADED_BEFORE)
    return context


def _serve(pipe: Connection, patience: int) -> None:
    """The process: one task after another, until the window goes."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(patience)
    tools = Tools()
    tools.content()
    with contextlib.suppress(EOFError, OSError):
        while True:
            task = pipe.recv()
            if not isinstance(task, str):  # words that came after the last task had ended
                _do(pipe, task, tools)


def _do(pipe: Connection, task: Task, tools: Tools) -> None:
    told = [-1.0]
    over = [False]

    def tell(share: float) -> None:
        if share >= 1 or share - told[0] > 0.01:
            told[0] = share
            pipe.send(("share", share))

    def stopped() -> bool:
        held = False
        while held or (not over[0] and pipe.poll()):
            word = pipe.recv()
            over[0] = over[0] or word == "stop"
            held = word == "hold" and not over[0]
        return over[0]

    answer: tuple[str, object]
    try:
        answer = "done", task.run(tools, tell, stopped)
    except KettleError as error:
        answer = "error", error
    except Exception as error:  # whatever else happens must be shown in the window
        answer = "odd", repr(error)
    pipe.send(answer)
