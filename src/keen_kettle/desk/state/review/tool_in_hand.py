"""One tool at a time on the film: whoever takes another leaves the first, and its work is kept."""

from collections.abc import Callable

__all__ = ["ToolInHand"]


class ToolInHand:
    """Which tool the next press on the film belongs to; "" for none."""

    def __init__(self) -> None:
        self.name = ""
        self._leave: Callable[[], None] = _nothing

    def take(self, name: str, leave: Callable[[], None]) -> None:
        """Take a tool in hand; `leave` keeps its work and ends it when another one is taken."""
        if self.name != name:
            self.lay_down()
        self.name, self._leave = name, leave

    def lay_down(self) -> None:
        """Leave whatever is in hand."""
        leave, self.name, self._leave = self._leave, "", _nothing
        leave()

    def done(self, name: str) -> None:
        """A tool has ended by itself."""
        if self.name == name:
            self.name, self._leave = "", _nothing


def _nothing() -> None:
    pass
