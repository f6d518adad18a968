"""Where one shot of a film ends: cut from one picture to the next, or dissolved into the next over some."""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.shrunk import shrunk

__all__ = ["ShotEnds", "ShotWatch"]

Array = NDArray[np.float64]
Grey = NDArray[np.uint8]
Small = NDArray[np.float32]

CUT_LEVELS, LEAST_LEVELS, OF_SPREAD = 8.0, 3.0, 0.6
CUT_LIKENESS, CUT_ROWS, FARTHEST_JERK = 0.6, 48, 0.25
"""Another shot differs by so many grey levels (in a dim film by fewer, so much of the pictures' own spread; not
before a bare wall) and is alike by less than this, at so many rows, however it is laid over the one before by
up to so much of its size."""
STANDS = 1.5
"""Where most of a picture changes by fewer levels the shot goes on, and words have come or gone."""
LENGTHS = (4, 6, 11, 20, 36, 60)
"""A dissolve is looked for over so many pictures."""
MOST_LEFT, BACKWARDS, BETWEEN, FEWEST_BETWEEN = 0.38, 0.08, (0.12, 0.88), 2
"""In a dissolve every picture is a mixture of its ends: so much of their difference is left unexplained (in
films of moving cameras, real and drawn, at least 0.42), the share of the later one falls by no more than
this, and so many pictures lie plainly between."""


class ShotWatch:
    """Sees pictures (height, width) in their order, or backwards, and tells when the shot has ended."""

    def __init__(self, first: Grey) -> None:
        self._before, self._small = first, _small(first)
        self._seen = _Seen(_level(self._small))

    def gone(self, grey: Grey) -> int:
        """How many pictures, this one included, belong to the shot no more; 0 while it goes on."""
        before, self._before = self._before, grey
        a, self._small = self._small, _small(grey)
        self._seen.see(_level(self._small))
        return 1 if _is_cut(before, grey, a, self._small) else self._dissolved()

    def _dissolved(self) -> int:
        seen = self._seen
        lengths = np.array([one for one in LENGTHS if one < seen.count], np.intp)
        _, middle = seen.shares(lengths // 2, lengths)
        for length in (int(one) for one in lengths[middle <= MOST_LEFT]):
            if _unlike(seen.ago(length), _level(self._small)):
                shares, left = seen.shares(np.arange(length, -1, -1), length)
                if _mixes(shares) and float(left.max()) <= MOST_LEFT:
                    return length + 1 - int(np.argmax(shares > BETWEEN[0]))
        return 0


class _Seen:
    """The last pictures of a shot, small, and what each has in common with each: the products of how they differ from
    the first (of the pictures themselves nothing would be left of them in single precision)."""

    def __init__(self, first: Small) -> None:
        self._first = first
        self._differ = np.zeros((max(LENGTHS) + 1, first.size), np.float32)
        self._products = np.zeros((len(self._differ), len(self._differ)))
        self.count = 1
        self._at = 0

    def see(self, small: Small) -> None:
        self._at = (self._at + 1) % len(self._differ)
        self.count = min(self.count + 1, len(self._differ))
        self._differ[self._at] = (small - self._first).ravel()
        self._products[self._at] = self._products[:, self._at] = (
            self._differ @ self._differ[self._at]
        )

    def ago(self, back: int) -> Small:
        """The picture so many before the last one."""
        row = self._differ[(self._at - back) % len(self._differ)]
        return np.asarray(self._first + row.reshape(self._first.shape), np.float32)

    def shares(self, ago: NDArray[np.intp], begin: NDArray[np.intp] | int) -> tuple[Array, Array]:
        """The last one's share in each of the pictures so many before it (n,), if they are mixtures of the last and the
        one `begin` pictures before it, and how much of what these differ by that leaves; (n,) each."""
        p, last = self._products, self._at
        rows, first = ((self._at - one) % len(self._differ) for one in (ago, begin))
        along = p[rows, last] - p[rows, first] - p[first, last] + p[first, first]
        far = p[rows, rows] - 2 * p[rows, first] + p[first, first]
        square = np.maximum(p[last, last] - 2 * p[last, first] + p[first, first], 1e-9)
        shares = along / square
        return shares, np.sqrt(np.maximum(far / square - shares**2, 0.0))


class ShotEnds:
    """Sees all pictures of a film, and keeps the frames with which another shot begins."""

    def __init__(self) -> None:
        self.begins: list[int] = []
        self._shot: ShotWatch | None = None

    def see(self, number: int, grey: Grey) -> None:
        gone = self._shot.gone(grey) if self._shot is not None else 0
        if gone:
            self.begins.append(number - gone + 1)
        if gone or self._shot is None:
            self._shot = ShotWatch(grey)


def _mixes(shares: Array) -> bool:
    """Whether one picture gives way to the other by and by."""
    between = (shares > BETWEEN[0]) & (shares < BETWEEN[1])
    return float(np.diff(shares).min()) >= -BACKWARDS and int(between.sum()) >= FEWEST_BETWEEN


def _is_cut(before: Grey, now: Grey, a: Small, b: Small) -> bool:
    """Whether one shot ends and another begins: the two pictures (small: `a`, `b`) have little in common,
    wherever the one is laid over the other (a hand that jerks before a wall of slats changes every pixel)."""
    high = before.shape[0]
    step = max(high // 40, 1)
    coarse = cv2.absdiff(before[::step, ::step].copy(), now[::step, ::step].copy())
    if float(coarse.mean()) < LEAST_LEVELS or np.median(np.abs(a - b)) < STANDS:
        return False
    return _unlike(a, b)


def _unlike(a: Small, b: Small) -> bool:
    """Whether two small pictures have little in common, however the one is laid over the other."""
    differ = float(np.abs(a - b).mean())
    if differ < LEAST_LEVELS:
        return False
    spread = min(float(np.abs(one - one.mean()).mean()) for one in (a, b))
    dim = max(LEAST_LEVELS, OF_SPREAD * spread)
    levels = min(CUT_LEVELS, dim) if spread >= LEAST_LEVELS else CUT_LEVELS
    if differ < levels or _alike(a, b) >= CUT_LIKENESS:
        return False
    high, wide = a.shape
    window = cv2.createHanningWindow((wide, high), cv2.CV_32F)
    (dx, dy), _ = cv2.phaseCorrelate(a - a.mean(), b - b.mean(), window)
    x, y = round(dx), round(dy)
    if max(abs(x) / wide, abs(y) / high) > FARTHEST_JERK:
        return True
    over = a[max(-y, 0) : high - max(y, 0), max(-x, 0) : wide - max(x, 0)]
    under = b[max(y, 0) : high + min(y, 0), max(x, 0) : wide + min(x, 0)]
    return _alike(over, under) < CUT_LIKENESS


def _alike(a: Small, b: Small) -> float:
    """How two pictures of one size correlate."""
    a, b = a - a.mean(), b - b.mean()
    return float((a * b).sum() / max(float(np.sqrt((a**2).sum() * (b**2).sum())), 1e-6))


def _level(small: Small) -> Small:
    """It without its brightness: lamps that flicker, and a camera that turns to the window, give way by and by too,
    and so does what they light."""
    return np.asarray(small - small.mean(), np.float32)


def _small(grey: Grey) -> Small:
    high, wide = grey.shape
    return np.asarray(shrunk(grey, max(round(CUT_ROWS * wide / high), 8), CUT_ROWS), np.float32)
