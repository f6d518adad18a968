"""Work that the window owes itself, one piece in a turn of the event loop.

What a new answer sets off (cards, lists, actions, the time line) would hold the window up if it were
done at a stroke. Between two pieces it paints, and answers keys and the mouse.
"""

from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import QObject, QTimer

__all__ = ["IdleCall"]


class IdleCall(QObject):
    """Calls something once when the window is next idle, however often it is asked for."""

    def __init__(self, work: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        self.work = work

    def ask(self) -> None:
        _CALLS.take(self)


class _IdleCalls:
    """The pieces that wait; the one that was asked for first goes first."""

    def __init__(self) -> None:
        self._waiting: dict[IdleCall, None] = {}

    def take(self, piece: IdleCall) -> None:
        if not self._waiting:
            QTimer.singleShot(0, self._next)
        self._waiting.setdefault(piece)

    def _next(self) -> None:
        piece = next(iter(self._waiting))
        del self._waiting[piece]
        if self._waiting:
            QTimer.singleShot(0, self._next)
        if not sip.isdeleted(piece):
            piece.work()


_CALLS = _IdleCalls()
