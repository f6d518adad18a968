"""What a task of a helper process is, and what the process keeps at hand for it."""

from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis import Stages
from keen_kettle.core.clip import ClipIndex, ClipReader
from keen_kettle.core.content import Content, load_content
from keen_kettle.core.track.body import PoseNet

__all__ = ["Stopped", "Task", "Tell", "Tools"]

Tell = Callable[[float], None]
Stopped = Callable[[], bool]


class Tools:
    """What a process keeps at hand between tasks."""

    def __init__(self) -> None:
        self._net: PoseNet | None = None
        self._content: Content | None = None
        self._picture: tuple[tuple[object, ...], NDArray[np.uint8]] | None = None
        self.stages = Stages()
        """The stages of the clip that was answered last."""

    def content(self) -> Content:
        """The shipped content, read once."""
        self._content = self._content or load_content()
        return self._content

    def picture(self, index: ClipIndex, frame: int) -> NDArray[np.uint8]:
        """A film's picture, blue, green, red; the last one is kept, for the mark is drawn on it."""
        made = index.path.stat().st_mtime_ns if index.path.is_file() else 0
        which = index.path, made, frame
        if self._picture is None or self._picture[0] != which:
            with ClipReader(index, cache_bytes=1) as reader:
                self._picture = which, reader.frame(frame).bgr()
        return self._picture[1]

    def net(self) -> PoseNet:
        """The pose model, loaded once."""
        self._net = self._net or PoseNet()
        return self._net


class Task(Protocol):
    """Something that can be done in another process; every field of it can be pickled."""

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> object: ...
