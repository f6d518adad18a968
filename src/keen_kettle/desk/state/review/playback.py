"""Playing the open film: by the clock, at one of four speeds; a frame that is late is left out."""

from collections.abc import Callable

from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal

from keen_kettle.core.clip import ClipIndex
from keen_kettle.desk.work.workers import FrameService

__all__ = ["SPEEDS", "Playback"]

SPEEDS = (1.0, 0.5, 0.25, 0.125)
TICK_MS = 8


class Playback(QObject):
    """Asks for the frame that is due; `where` tells the film (if one is open) and the frame on show."""

    changed = pyqtSignal()

    def __init__(
        self,
        frames: FrameService,
        where: Callable[[], tuple[ClipIndex | None, int]],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._frames, self._where = frames, where
        self.speed = 1.0
        self._clock = QElapsedTimer()
        self._clock_from_s = 0.0
        self._ticker = QTimer(self)
        self._ticker.setInterval(TICK_MS)
        self._ticker.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        return self._ticker.isActive()

    def play(self) -> None:
        """From the frame on show; from the first one at the end."""
        index, frame = self._where()
        if index is None:
            return
        self._start_clock(0.0 if frame >= len(index) - 1 else float(index.t_s[frame]))
        self._ticker.start()
        self.changed.emit()

    def pause(self) -> None:
        if self.playing:
            self._ticker.stop()
            self.changed.emit()

    def toggle(self) -> None:
        if self.playing:
            self.pause()
        else:
            self.play()

    def set_speed(self, speed: float) -> None:
        index, frame = self._where()
        self.speed = speed
        if self.playing and index is not None:
            self._start_clock(float(index.t_s[frame]))
        self.changed.emit()

    def _start_clock(self, from_s: float) -> None:
        self._clock_from_s = from_s
        self._clock.start()

    def _tick(self) -> None:
        index, frame = self._where()
        if index is None or self._frames.waiting:
            return
        now = self._clock_from_s + self.speed * self._clock.nsecsElapsed() / 1e9
        number = index.frame_at(now)
        if number != frame:
            self._frames.ask(number)
        if now >= index.duration_s:
            self.pause()
