"""A tool on the film, and what is held with it between a press and its release."""

from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter

__all__ = ["At", "Hold", "Tool"]


@dataclass(frozen=True)
class At:
    """A place under the pointer, in film pixels; `reach` is how near is near enough there. `loose` (Alt)
    keeps a spot where the hand is, whatever is near."""

    x: float
    y: float
    reach: float
    loose: bool = False


class Hold:
    """Something in the hand, from a press to its release."""

    loupe = True
    """Whether what lies under it is shown enlarged."""

    def move(self, at: At) -> None:
        """The hand goes there."""

    def let_go(self, at: At) -> None:
        """The hand lets go there: what was done is kept."""


class Tool:
    """What presses on the film do; `names` are those under which it is taken in hand."""

    names: tuple[str, ...] = ()
    cursor = Qt.CursorShape.CrossCursor
    loupe = True

    @property
    def hint(self) -> str:
        """The line of help over the film."""
        return ""

    def press(self, at: At) -> Hold | None:
        """A press: what the hand holds from then on."""
        return None

    def hover(self, at: At) -> None:
        """The pointer moves with nothing held."""

    def enter(self) -> bool:
        """The Enter key; whether it meant something."""
        return False

    def paint(self, painter: QPainter, enlarged: float) -> None:
        """What it has drawn so far, in film coordinates; lines keep their width."""
