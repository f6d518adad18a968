"""Which pictures of a film show the one before them again, told from the pictures alone.

Films from the web, messengers and editors repeat pictures to slow a lift down, to reach another
rate, or to freeze it. Coding changes a repeat a little and a moving lifter changes a picture much,
so the mean changes of a film make two heaps; the border is looked for between them.
"""

from collections.abc import Callable
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.shrunk import shrunk

__all__ = ["same_pictures", "without_slow"]

Array = NDArray[np.float64]

WIDE_PX = 320
LEAST, MOST = 0.06, 0.35
"""Grey levels (mean of the small picture) between which the border lies: repeats that only the coding
changed stay below about 0.15, pictures of their own above about 0.4."""
UNKNOWN = 99.0
STIRS, STIRS_TIMES, ROUND_PLATE = 0.5, 5.0, 1.3
"""Where a picture that looks the same on the whole differs round the plate (so many radii) by more than
this (grey levels), and so many times as much as such pictures mostly do there, the bar has moved a little."""
CREEPS_PX = 1.0
"""What goes on by so much in pictures that look alike moves slowly, and they are no repeats."""
FEWEST = 8


def same_pictures(
    bgr: Callable[[int], NDArray[np.uint8]],
    count: int,
    cancelled: Callable[[], bool] = lambda: False,
    plate: Array | None = None,
    seen: Callable[
        [int, NDArray[np.uint8], NDArray[np.uint8]], None
    ] = lambda number, picture, grey: None,
) -> NDArray[np.bool_]:
    """True for every frame whose picture is the one before it again; shape (count,).

    A line that is drawn on a frozen picture makes it another one for one frame; a frame that cannot
    be read is no repeat. `plate` (count, 3) is where the plate is (x, y, radius in pixels, NaN where
    unknown): a lift that begins slowly hardly changes a picture anywhere else. `seen` is told every
    picture (number, the picture, and without its colours): whoever else wants to look through the film need not read it again.

    Raises
    ------
    Cancelled
    """
    changes, near = np.full(count, UNKNOWN), np.full(count, np.nan)
    before: tuple[NDArray[np.uint8], NDArray[np.float32]] | None = None
    for number in range(count):
        if cancelled():
            raise Cancelled("Tracking was stopped; the marks are kept.")
        try:
            picture = bgr(number)
            grey = np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), np.uint8)
        except ClipUnreadable:
            before = None
            continue
        seen(number, picture, grey)
        small = _small(grey)
        if before is not None and before[1].shape == small.shape:
            changes[number] = float(np.mean(np.abs(small - before[1])))
            if plate is not None:
                near[number] = _change_near(before[0], grey, plate[number - 1])
        before = grey, small
    same = np.asarray(changes < _border(changes[changes < UNKNOWN]))
    if plate is None:
        return same
    same = without_slow(same, plate[:, 0], plate[:, 1])
    if not np.isfinite(near[same]).any():
        return same
    stirs = near > max(STIRS, STIRS_TIMES * float(np.nanmedian(near[same])))
    return np.asarray(same & ~stirs)


def _change_near(before: NDArray[np.uint8], now: NDArray[np.uint8], plate: Array) -> float:
    """The mean change of a picture round the plate, grey levels; NaN where that is not known."""
    if not np.isfinite(plate).all():
        return float("nan")
    x, y, reach = plate[0], plate[1], ROUND_PLATE * plate[2]
    rows = slice(max(int(y - reach), 0), max(int(y + reach), 0))
    columns = slice(max(int(x - reach), 0), max(int(x + reach), 0))
    if not before[rows, columns].size:
        return float("nan")
    return float(np.mean(cv2.absdiff(before[rows, columns], now[rows, columns])))


def without_slow(same: NDArray[np.bool_], x_px: Array, y_px: Array) -> NDArray[np.bool_]:
    """The repeats without runs in which the plate that is followed goes on: a bar that begins or ends
    slowly hardly changes a picture. In a repeat it stays, and jumps with the next picture.

    Parameters
    ----------
    same, x_px, y_px : shape (frames,); where the plate is, NaN where unknown
    """
    own = np.flatnonzero(~same)
    kept = same.copy()
    for before, after in pairwise(own):
        if after - before < 2:
            continue
        x, y = (path[[before, after - 1, after]] for path in (x_px, y_px))
        crept, jump = np.hypot(np.diff(x), np.diff(y))
        if crept > max(CREEPS_PX, jump):
            kept[before + 1 : after] = False
    return kept


def _small(grey: NDArray[np.uint8]) -> NDArray[np.float32]:
    high = max(round(WIDE_PX * grey.shape[0] / grey.shape[1]), 1)
    return np.asarray(shrunk(grey, WIDE_PX, high), np.float32)


def _border(changes: Array) -> float:
    """Otsu's border (1979) on the logarithm of the changes, held within limits."""
    if len(changes) < FEWEST:
        return LEAST
    counts, edges = np.histogram(np.log10(changes + 0.005), 60)
    middles = (edges[:-1] + edges[1:]) / 2
    below, moment = np.cumsum(counts), np.cumsum(counts * middles)
    total, whole = below[-1], moment[-1]
    both = np.maximum(below * (total - below), 1)
    apart = np.where(below < total, (whole * below - moment * total) ** 2 / both, 0)
    return float(np.clip(10 ** middles[int(np.argmax(apart))], LEAST, MOST))
