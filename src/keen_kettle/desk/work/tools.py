"""What a task of a helper process is, and what the process keeps at hand for it."""

from collections.abc import Callable
from typing import Protocol

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
