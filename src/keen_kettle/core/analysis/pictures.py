"""A clip's pictures as tracker and landmark finder want them."""

from concurrent.futures import Future, ThreadPoolExecutor
from types import TracebackType

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.clip import ClipReader
from keen_kettle.core.track.pictures import made_smaller

__all__ = ["AheadPictures", "ReaderPictures"]

FARTHEST_STEP = 16
"""A longer step than this is a jump, and says nothing of the next one."""


class ReaderPictures:
    """A clip reader as the tracker wants it."""

    def __init__(self, reader: ClipReader) -> None:
        self._reader = reader

    @property
    def t_s(self) -> NDArray[np.float64]:
        return self._reader.index.t_s

    def bgr(self, number: int) -> NDArray[np.uint8]:
        return self._shown(number, 1)

    def smaller(self, number: int, by: int) -> NDArray[np.uint8]:
        """A picture with so many times fewer pixels each way, (height // by, width // by, 3)."""
        return self._shown(number, by)

    def _shown(self, number: int, by: int) -> NDArray[np.uint8]:
        frame = self._reader.frame(number)
        small = frame.bgr_smaller(by) if by > 1 else None
        return small if small is not None else made_smaller(frame.bgr(), by)


class AheadPictures(ReaderPictures):
    """The same, with the next picture made ready in a thread while the last one is looked at.

    The next one is guessed from the last step. The reader belongs to that thread; use as a context
    manager.
    """

    def __init__(self, reader: ClipReader) -> None:
        super().__init__(reader)
        self._thread = ThreadPoolExecutor(1, "pictures ahead")
        self._guessed: tuple[int, int, Future[NDArray[np.uint8]]] | None = None
        self._last = 0

    def __enter__(self) -> "AheadPictures":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._thread.shutdown(cancel_futures=True)

    def _shown(self, number: int, by: int) -> NDArray[np.uint8]:
        if self._guessed is not None and self._guessed[:2] == (number, by):
            coming = self._guessed[2]
        else:
            coming = self._thread.submit(super()._shown, number, by)
        picture = coming.result()
        step, self._last = number - self._last, number
        after = number + step
        if 0 < abs(step) <= FARTHEST_STEP and 0 <= after < len(self.t_s):
            self._guessed = after, by, self._thread.submit(super()._shown, after, by)
        else:
            self._guessed = None
        return picture
