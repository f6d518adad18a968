"""Small pictures cut out of a film."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from PyQt6.QtGui import QImage

from keen_kettle.core.clip import ClipIndex, ClipReader
from keen_kettle.core.errors import KettleError

__all__ = ["Cut", "fetch_cuts"]


@dataclass(frozen=True)
class Cut:
    """Which part of the film a picture shows (pixels)."""

    left: int
    top: int
    right: int
    bottom: int

    @property
    def high(self) -> int:
        return self.bottom - self.top


def fetch_cuts(
    index: ClipIndex, wanted: Sequence[tuple[int, Cut]], zoom: Callable[[Cut], float]
) -> dict[tuple[int, Cut], QImage]:
    """The pictures of some frames, cut and made small; frames that cannot be read are left out."""
    found = {}
    with ClipReader(index) as reader:
        for frame, cut in sorted(wanted, key=lambda want: want[0]):
            try:
                whole = reader.frame(frame).bgra()
            except KettleError:
                continue
            part = whole[cut.top : cut.bottom, cut.left : cut.right]
            scale = zoom(cut)
            how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
            small = np.ascontiguousarray(
                cv2.resize(part, None, fx=scale, fy=scale, interpolation=how)
            )
            high, wide = small.shape[:2]
            image = QImage(small.tobytes(), wide, high, 4 * wide, QImage.Format.Format_RGB32)
            found[frame, cut] = image.copy()
    return found
