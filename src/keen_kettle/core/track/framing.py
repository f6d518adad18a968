"""Where in its pictures a film is: editors lay an upright one between bars, plain ones or its own blurred picture.

What stands in bars does not move with the camera, and what moves in blurred sides moves otherwise: neither is a
hall by which the camera can be followed.
"""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Framing", "Part", "film_part", "small_grey"]

Grey = NDArray[np.uint8]
Stack = NDArray[np.float32]
Part = tuple[slice, slice]

ALIKE, MOSTLY, LASTS, STEADY = 4.0, 0.6, 4.0, 0.98
"""A line of pixels is part of a plain bar where most of it is within so many grey levels of the bar's colour (there
may be words on it), and nearly all of it stays within so many all through the film."""
EVEN = 0.02
"""Bars are of one colour, and as wide as each other but for this share of the picture."""
FINE_PX, DULL, STEP, STANDS_OUT, MOST_SIDE = 2.0, 0.3, 1.2, 3.0, 0.42
"""Sides are blurred if their detail, finer than so many pixels, is at most this share of what is between them, and a
step of so many grey levels parts them from it, so many times as great as nearly all in them. They are alike, and no
wider than this share each."""
LOOKS, WORK_WIDTH = 8, 640
"""So many pictures tell it; they are looked at no wider than so many pixels."""
LEAST_SIDE, LEAST_PART, INWARD_PX = 0.02, 0.15, 2
"""Narrower sides are none; no less than this share of the picture's area is a film. It is taken a little inward."""


def film_part(greys: Sequence[Grey]) -> Part:
    """The rows and columns of the film within its pictures (each (h, w), grey, from all over the film)."""
    stack = np.stack(greys).astype(np.float32)
    high, wide = stack.shape[1:]
    rows, columns = _between_bars(stack.transpose(0, 2, 1)), _between_bars(stack)
    inner = stack[:, rows, columns]
    if not min(inner.shape) or inner.shape[1] * inner.shape[2] < LEAST_PART * high * wide:
        return slice(0, high), slice(0, wide)
    sides, caps = _between_blurred(inner), _between_blurred(inner.transpose(0, 2, 1))
    return _inward(rows, caps, high), _inward(columns, sides, wide)


def small_grey(picture: NDArray[np.uint8]) -> tuple[Grey, float]:
    """A picture (h, w, 3) in grey, no wider than need be to see the hall, and by how much it was made smaller."""
    by = min(WORK_WIDTH / picture.shape[1], 1.0)
    grey = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY)
    small = cv2.resize(grey, None, fx=by, fy=by, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.uint8), by


class Framing:
    """Where a film lies in its pictures, as some of `count` of them tell that come one after another."""

    def __init__(self, count: int) -> None:
        self._every = max(count // LOOKS, 1)
        self._seen = 0
        self._size = 0, 0
        self._looks: list[Grey] = []

    def see(self, picture: NDArray[np.uint8]) -> None:
        """One picture, (h, w, 3)."""
        if self._seen % self._every == 0:
            self._size = picture.shape[1], picture.shape[0]
            self._looks.append(small_grey(picture)[0])
        self._seen += 1

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom in pixels of the pictures that were seen: their edges if there are no bars."""
        if not self._looks:
            return 0.0, 0.0, 0.0, 0.0
        rows, columns = film_part(self._looks)
        by = np.array(self._size) / self._looks[0].shape[::-1]
        edges = np.array([[columns.start, rows.start], [columns.stop, rows.stop]]) * by
        left, top, right, bottom = edges.ravel().tolist()
        return left, top, right, bottom


def _between_bars(stack: Stack) -> slice:
    """The columns between plain bars at the left and the right of pictures (looks, h, w)."""
    wide = stack.shape[2]
    steady = (np.ptp(stack, axis=0) <= LASTS).mean(axis=0) >= STEADY
    colour = np.median(stack[:, :, [0, -1]])
    plain = steady & ((np.abs(stack - colour) <= ALIKE).mean(axis=(0, 1)) >= MOSTLY)
    left, right = _run(plain), _run(plain[::-1])
    if abs(left - right) > EVEN * wide or not min(left, right):
        return slice(0, wide)
    return slice(left, max(wide - right, left))


def _run(yes: NDArray[np.bool_]) -> int:
    """How many of them in a row are true from the first on, if that is more than a line or two."""
    count = len(yes) if yes.all() else int(np.argmin(yes))
    return count if count > LEAST_SIDE * len(yes) else 0


def _between_blurred(stack: Stack) -> slice:
    """The columns between blurred sides that are alike, of pictures (looks, h, w)."""
    wide = stack.shape[2]
    fine = [np.abs(one - cv2.GaussianBlur(one, (0, 0), FINE_PX)).mean(axis=0) for one in stack]
    detail = np.mean(fine, axis=0)
    steps = np.zeros(wide)
    steps[1:-1] = np.median(np.abs(stack[:, :, 2:] - stack[:, :, :-2]), axis=1).mean(axis=0)
    both = np.minimum(steps, steps[::-1])
    first, last = int(LEAST_SIDE * wide) + 2, int(MOST_SIDE * wide)
    if last <= first:
        return slice(0, wide)
    at = first + int(np.argmax(both[first:last]))
    side = max(at - int(3 * FINE_PX), 1)
    outside = np.r_[:side, wide - side : wide]
    dull = np.percentile(detail[outside], 75) <= DULL * np.median(detail[at : wide - at])
    parted = both[at] >= max(STEP, STANDS_OUT * np.percentile(steps[outside], 95))
    return slice(at, wide - at) if dull and parted else slice(0, wide)


def _inward(outer: slice, inner: slice, whole: int) -> slice:
    """One range within another, a little smaller where it is not the whole."""
    first, last = outer.start + inner.start, outer.start + inner.stop
    return slice(first + INWARD_PX * (first > 0), last - INWARD_PX * (last < whole))
