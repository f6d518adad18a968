"""A process of its own for long looking, so that the window's own thread never waits for it.

Loading the pose model and following a bar hold Python's one lock for stretches that are felt in
the window; in another process they are not. A task is a small picklable value with a method
`run(tools, tell, stopped)`; its result, its error and its progress come back over a pipe. When the
process dies, the task fails in words, and the next one gets a new process.
"""

import contextlib
import multiprocessing
import os
import signal
from collections.abc import Callable
from dataclasses import replace
from multiprocessing.connection import Connection
from threading import Lock
from typing import Any, Protocol

import numpy as np

from keen_kettle.core.analysis import AheadPictures, ClipSettings, Study, lift_shown, study
from keen_kettle.core.clip import ClipIndex, ClipReader
from keen_kettle.core.content import Content, load_content
from keen_kettle.core.errors import KettleError
from keen_kettle.core.track.body import BodySeed, PoseNet, Sightings, find_body, why_no_model

__all__ = ["Aide", "LookForBody", "LookThrough", "Task", "Tools"]

POLL_S = 0.03
Tell = Callable[[float], None]
Stopped = Callable[[], bool]


class Tools:
    """What a process keeps at hand between tasks."""

    def __init__(self) -> None:
        self._net: PoseNet | None = None
        self._content: Content | None = None

    def content(self) -> Content:
        """The shipped content, read once."""
        self._content = self._content or load_content()
        return self._content

    def net(self) -> PoseNet:
        """The pose model, loaded once."""
        self._net = self._net or PoseNet()
        return self._net


class Task(Protocol):
    """Something that can be done in another process; every field of it can be pickled."""

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> object: ...


class LookForBody:
    """Look for the lifter in a film.

    `bar_px` (frames, 2) is where the bar is, `seeds` are the coach's clicks.
    """

    def __init__(
        self,
        index: ClipIndex,
        bar_px: np.ndarray[Any, np.dtype[np.float64]],
        seeds: tuple[BodySeed, ...],
    ) -> None:
        self.index, self.bar_px, self.seeds = index, bar_px, seeds

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Sightings:
        with ClipReader(self.index) as reader, AheadPictures(reader) as pictures:
            return find_body(pictures, tools.net(), self.bar_px, self.seeds, tell, stopped)


class LookThrough:
    """Find plate, path and lifter in a film, and which lift it shows; gives (Study, settings)."""

    def __init__(self, index: ClipIndex, settings: ClipSettings) -> None:
        self.index, self.settings = index, settings

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> tuple[Study, ClipSettings]:
        with ClipReader(self.index) as reader, AheadPictures(reader) as pictures:
            net = tools.net if not why_no_model() else None
            found = study(pictures, net, self.settings.marks, self.settings.hand, tell, stopped)
        told = replace(self.settings, centre_px=self.index.centre_px)
        return found, lift_shown(found, told, tools.content())


class Aide:
    """One helper process; it is started by the first task and stays.

    `ask` blocks, so it is called from a job's thread; only one task runs at a time.
    """

    def __init__(self, patience: int = 0) -> None:
        self._patience = patience
        self._lock = Lock()
        self._process: multiprocessing.process.BaseProcess | None = None
        self._pipe: Connection | None = None
        self._held = False

    def ask(self, task: Task, tell: Tell, stopped: Stopped) -> Any:
        """The task's result.

        Raises
        ------
        KettleError
            As the task does, or when the process died.
        Cancelled
        """
        with self._lock:
            pipe = self._start()
            try:
                pipe.send(task)
                return self._follow(pipe, tell, stopped)
            except (EOFError, OSError) as error:
                self._drop()
                raise KettleError(
                    "The helper that looks through films ended without an answer. "
                    "Nothing is lost; try it again."
                ) from error

    def warm(self) -> None:
        """Start the process before it is needed: starting one is felt in the window."""
        if self._lock.acquire(blocking=False):
            try:
                self._start()
            finally:
                self._lock.release()

    def hold(self, on: bool) -> None:
        """Let the task rest, and go on."""
        self._held = on

    def close(self) -> None:
        """End the process; a task under way is dropped."""
        process = self._process
        if process is not None and process.is_alive():
            process.terminate()
            process.join(5)

    def _start(self) -> Connection:
        if self._pipe is not None and self._process is not None and self._process.is_alive():
            return self._pipe
        self._drop()
        # A fresh interpreter: a fork would copy the window's threads and locks.
        context = multiprocessing.get_context("spawn")
        mine, theirs = context.Pipe()
        process = context.Process(target=_serve, args=(theirs, self._patience), daemon=True)
        process.start()
        theirs.close()
        self._process, self._pipe = process, mine
        return mine

    def _drop(self) -> None:
        self.close()
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


def _serve(pipe: Connection, patience: int) -> None:
    """The process: one task after another, until the window goes."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(patience)
    tools = Tools()
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
