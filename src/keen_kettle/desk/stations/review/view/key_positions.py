"""Key positions as pictures in a row; a press, or Alt with its number, goes there."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from keen_kettle.core.motion import Event, event_name
from keen_kettle.desk.kit.theme import colour, font
from keen_kettle.desk.kit.words import KEY_POSITIONS, position_words
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.view.crops import Cut, fetch_cuts
from keen_kettle.desk.stations.review.view.zoom import Box, lifter_box
from keen_kettle.desk.work.workers import Job

__all__ = ["KeyPositions"]

SHOWN_PX = 150
AFTER_MS = 120
"""Decoding begins when the answer has been painted: both want the machine."""
WIDE = 1.35
"""How wide a picture is for its height."""


class KeyPositions(QWidget):
    """The row of pictures."""

    loaded = pyqtSignal()

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._pictures: dict[tuple[int, Cut], QImage] = {}
        self._wanted: list[tuple[int, Cut]] = []
        self._crops: dict[int, Cut] = {}
        self._loading = False
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self._load)
        self.setMouseTracking(True)
        self.setAccessibleName("Key positions")
        self.setToolTip("Key positions: press one to go there (Alt and its number)")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        model.clip_changed.connect(self._on_clip)
        model.answer_changed.connect(self._follow)
        model.frame_shown.connect(lambda _image: self.update())
        self._clip_id = 0
        self._follow()

    def sizeHint(self) -> QSize:
        return QSize(700, 76)

    @property
    def positions(self) -> list[Event]:
        """The key positions that were found, in the order of the lift."""
        answer = self._model.answer
        found = answer.events if answer is not None else {}
        return [found[name] for name in KEY_POSITIONS if name in found]

    @property
    def ready(self) -> bool:
        """Whether every picture that can be shown is there."""
        return all(want in self._pictures for want in self._wanted)

    def words(self, event: Event) -> str:
        clip = self._model.clip
        family = self._model.settings().derivative.family if clip is not None else ""
        return position_words(event.name, family)

    def go(self, number: int) -> None:
        """Go to the key position of that number, from 1."""
        if 1 <= number <= len(self.positions):
            self._model.go_to_frame(self.positions[number - 1].frame)

    def boxes(self) -> list[QRectF]:
        """Where each picture stands."""
        count = len(self.positions)
        if not count:
            return []
        wide = min((self.width() - 4.0 * (count - 1)) / count, 1.75 * self.height())
        return [QRectF(k * (wide + 4), 0, wide, self.height()) for k in range(count)]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            for number, box in enumerate(self.boxes(), 1):
                if box.contains(event.position()):
                    self.go(number)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for number, (box, moment) in enumerate(zip(self.boxes(), self.positions, strict=True), 1):
            if box.contains(event.position()):
                family = self._model.settings().derivative.family
                words = event_name(moment.name, family)
                text = f"{words} (Alt+{number}): {moment.t_s:.2f} s, from the {moment.source}"
                QToolTip.showText(
                    event.globalPosition().toPoint(), text.replace("the by hand", "hand")
                )

    # Pictures

    def _on_clip(self) -> None:
        number = self._model.clip.id if self._model.clip is not None else 0
        if number != self._clip_id:
            self._clip_id = number
            self._pictures.clear()
            self._follow()

    def _follow(self) -> None:
        """Show what is there; fetch what is missing."""
        index, track, body = self._model.index, self._model.track, self._model.body
        box = lifter_box(index, track, body) if index is not None else None
        crops = {event.frame: self._crop(event.frame, box) for event in self.positions}
        self._crops = {frame: crop for frame, crop in crops.items() if crop is not None}
        self._wanted = list(self._crops.items())
        self._idle.start(AFTER_MS)
        self.update()

    def _crop(self, frame: int, box: Box | None) -> Cut | None:
        """The part of the film round the lifter: as high as the lift, in the boxes' proportion."""
        index, track, body = self._model.index, self._model.track, self._model.body
        if index is None or track is None or box is None:
            return None
        _left, top, _right, foot = box
        middle = float(np.interp(frame, *_known(track.x_px)))
        if body is not None and frame < len(body) and np.isfinite(body.x_px[frame]).any():
            middle = (middle + float(np.nanmean(body.x_px[frame]))) / 2
        half = 0.5 * (foot - top) * WIDE
        left, right = max(int(middle - half), 0), min(int(middle + half), index.width_px)
        return Cut(left, int(top), right, int(foot))

    def _load(self) -> None:
        index = self._model.index
        missing = [want for want in self._wanted if want not in self._pictures]
        if index is None or not missing or self._loading:
            return
        self._loading = True
        ratio = self.devicePixelRatioF()

        def work(_job: Job) -> dict[tuple[int, Cut], QImage]:
            return fetch_cuts(index, missing, lambda crop: SHOWN_PX * ratio / crop.high)

        def done(found: dict[tuple[int, Cut], QImage]) -> None:
            self._loading = False
            self._pictures.update(found)
            self.update()
            self.loaded.emit()
            if any(want not in self._pictures for want in self._wanted) and found:
                self._load()

        def failed(_reason: str) -> None:
            self._loading = False

        self._model.desk.jobs.start(work, done, failed)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setFont(font("small"))
        if not self.positions:
            painter.fillRect(self.rect(), colour("raised"))
            painter.setPen(colour("quiet"))
            words = "Key positions appear here, from start to stand, once the bar is tracked."
            if self._model.answer is not None:
                words = "No lift was found, so there are no key positions."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        for number, (box, moment) in enumerate(zip(self.boxes(), self.positions, strict=True), 1):
            here, crop = moment.frame == self._model.frame, self._crops.get(moment.frame)
            painter.fillRect(box, colour("shade"))
            picture = self._pictures.get((moment.frame, crop)) if crop is not None else None
            if picture is not None:
                high = box.height() - 18
                wide = min(picture.width() / picture.height() * high, box.width())
                high = wide * picture.height() / picture.width()
                spot = QRectF(box.center().x() - wide / 2, box.top(), wide, high)
                painter.drawImage(spot, picture)
            foot = QRectF(box.left(), box.bottom() - 18, box.width(), 18)
            painter.fillRect(foot, colour("raised"))
            painter.setPen(colour("brass" if here else "ink"))
            words = painter.fontMetrics().elidedText(
                f"{number} {self.words(moment)}", Qt.TextElideMode.ElideRight, int(box.width()) - 4
            )
            painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, words)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("brass" if here else "edge"), 2 if here else 1))
            painter.drawRect(box.adjusted(1, 1, -1, -1))


def _known(values: NDArray[np.float64]) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
    """The frames whose value is known, and these values."""
    frames = np.flatnonzero(np.isfinite(values))
    return frames, values[frames]
