"""Builds and solves the normal equations of points over time; banded, so that it is quick.

Unknowns are the points of all looks, look after look. No term joins looks that lie more than two
apart, so the matrix has a narrow band and a clip is solved in milliseconds.
"""

import numpy as np
from numpy.typing import NDArray

__all__ = ["Normal"]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

RIDGE = 1e-3
"""Keeps points that nothing pulls at where they are."""
CAUCHY = 2.0
"""Residuals of so many sigmas pull half as much as they would."""


class Normal:
    """One linearised least-squares problem round `points` (looks n, points m, 2)."""

    def __init__(self, points: Array) -> None:
        self._points = points
        self._n, self._m = points.shape[:2]
        self._width = 2 * self._m
        self._reach = 3 * self._width
        size = self._n * self._width
        self._band = np.zeros((self._reach, size))
        self._band[0] = RIDGE
        self._right = np.zeros(size)

    def pull(self, target: Array, sigma: Array, robust: bool) -> None:
        """Towards (n, m, 2) targets with sigmas (n, m); NaN targets and endless sigmas pull not."""
        off = target - self._points
        known = np.isfinite(off[..., 0]) & np.isfinite(sigma)
        off = np.where(known[..., None], off, 0.0)
        weight = np.where(known, 1 / np.where(known, sigma, 1.0) ** 2, 0.0)
        if robust:
            away = np.hypot(off[..., 0], off[..., 1]) * np.sqrt(weight)
            weight = weight / (1 + (away / CAUCHY) ** 2)
        both = np.repeat(weight.reshape(self._n, self._m, 1), 2, axis=2)
        self._band[0] += both.ravel()
        self._right += (both * off).ravel()

    def hold_length(
        self, a: int, b: int, length: float, sigma: float, at_most: bool = False
    ) -> None:
        """The way from point a to point b keeps its length in every look, or is no longer."""
        apart, along = self._way(a, b)
        rows = np.concatenate([-along, along], axis=1)
        weight = _cauchy((length - apart) / sigma) / sigma**2
        if at_most:
            weight = np.where(apart > length, 1 / sigma**2, 0.0)
        self._add(self._n, _columns(a, b), rows, length - apart, weight)

    def hold_share(self, a: int, b: int, c: int, share: float, sigma: Array, robust: Mask) -> None:
        """The way from a to b is `share` times that from b to c (a limb turned out of the picture);
        sigma (n,), endless where it need not be."""
        first, along = self._way(a, b)
        second, further = self._way(b, c)
        rows = np.concatenate([-along, along + share * further, -share * further], axis=1)
        off = share * second - first
        held = np.isfinite(sigma)
        safe = np.where(held, sigma, 1.0)
        weight = np.where(held, np.where(robust, _cauchy(off / safe), 1.0) / safe**2, 0.0)
        self._add(self._n, _columns(a, b, c), rows, off, weight)

    def stand(self, a: int, sigma: Array, robust: Mask) -> None:
        """Point a does not move from look to look (n - 1,), but for sudden steps where robust."""
        if self._n < 2:
            return
        moved = np.diff(self._points[:, a], axis=0)
        ease = np.where(robust, _cauchy(np.hypot(moved[:, 0], moved[:, 1]) / sigma), 1.0)
        for axis in (0, 1):
            rows = np.tile([-1.0, 1.0], (self._n - 1, 1))
            columns = np.array([2 * a + axis, 2 * a + axis + self._width])
            self._add(self._n - 1, columns, rows, -moved[:, axis], ease / sigma**2)

    def carry(self, a: int, b: int, share: Array, move: Array, sigma: Array) -> None:
        """From each look to the next the place that lies `share` (n - 1,) of the way from a to b moves by
        `move` (n - 1, 2), to within `sigma` (n - 1,), unless the rest says otherwise; NaN: not known."""
        if self._n < 2:
            return
        known = np.isfinite(move).all(axis=1) & np.isfinite(share)
        part = np.where(known, share, 0.5)
        steps = np.diff(self._points, axis=0)
        off = move - (1 - part)[:, None] * steps[:, a] - part[:, None] * steps[:, b]
        off = np.where(known[:, None], off, 0.0)
        safe = np.where(known, sigma, 1.0)
        weight = np.where(known, _cauchy(np.hypot(off[:, 0], off[:, 1]) / safe) / safe**2, 0.0)
        rows = np.column_stack([part - 1, -part, 1 - part, part])
        for axis in (0, 1):
            now = np.array([2 * a + axis, 2 * b + axis])
            columns = np.concatenate([now, now + self._width])
            self._add(self._n - 1, columns, rows, off[:, axis], weight)

    def ground(self, a: int, y: float, sigma: Array) -> None:
        """Point a lies at a height, unless something says otherwise; sigma (n,), endless: not."""
        off = y - self._points[:, a, 1]
        held = np.isfinite(sigma)
        safe = np.where(held, sigma, 1.0)
        weight = np.where(held, _cauchy(off / safe) / safe**2, 0.0)
        self._add(self._n, np.array([2 * a + 1]), np.ones((self._n, 1)), off, weight)

    def smooth(self, t_s: Array, acceleration: Array) -> None:
        """No point is accelerated by much more than its own usual value at each look (n, m)."""
        if self._n < 3:
            return
        before, after = np.diff(t_s)[:-1], np.diff(t_s)[1:]
        rows = 2 * np.column_stack(
            [1 / (before * (before + after)), -1 / (before * after), 1 / (after * (before + after))]
        )
        weight = np.repeat(1 / acceleration[1:-1] ** 2, 2, axis=1)
        places = self._points.reshape(self._n, self._width)
        looks = [slice(k, self._n - 2 + k) for k in range(3)]
        now = sum(rows[:, k, None] * places[looks[k]] for k in range(3))
        right = self._right.reshape(self._n, self._width)
        for i in range(3):
            right[looks[i]] -= weight * rows[:, i, None] * now
            for j in range(i + 1):
                apart = self._band[(i - j) * self._width].reshape(self._n, self._width)
                apart[looks[j]] += weight * (rows[:, i] * rows[:, j])[:, None]

    def step(self) -> Array:
        """The points after one step."""
        from scipy.linalg import solveh_banded  # loaded here: it takes a while

        change = solveh_banded(self._band, self._right, lower=True, check_finite=False)
        return np.asarray(self._points + np.asarray(change).reshape(self._points.shape))

    def alone_sigma(self) -> Array:
        """How uncertain each point is, (n, m), from the terms of its own look alone: the mean of both
        directions."""
        width = self._width
        whole = np.zeros((self._n, width, width))
        for off in range(width):
            below = self._band[off].reshape(self._n, width)[:, : width - off]
            rows = np.arange(width - off)
            whole[:, rows + off, rows] = below
            whole[:, rows, rows + off] = below
        spread = np.diagonal(np.linalg.inv(whole), axis1=1, axis2=2)
        return np.asarray(np.sqrt(spread.reshape(self._n, self._m, 2).mean(axis=2)))

    def _way(self, a: int, b: int) -> tuple[Array, Array]:
        """How far point b is from point a, and the direction."""
        way = self._points[:, b] - self._points[:, a]
        apart = np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-9)
        return apart, way / apart[:, None]

    def _add(
        self, count: int, columns: NDArray[np.intp], rows: Array, off: Array, weight: Array
    ) -> None:
        """Terms of the first `count` looks that touch `columns` (counted from each look's first unknown)."""
        right = self._right.reshape(self._n, self._width)
        places = [divmod(int(column), self._width) for column in columns]
        for i, (later, column) in enumerate(places):
            weighted = rows[:, i] * weight
            right[later : later + count, column] += weighted * off
            for j, (other, beside) in enumerate(places):
                apart = int(columns[i] - columns[j])
                if apart >= 0:
                    band = self._band[apart].reshape(self._n, self._width)
                    band[other : other + count, beside] += weighted * rows[:, j]


def _columns(*points: int) -> NDArray[np.intp]:
    return np.array([2 * k + axis for k in points for axis in (0, 1)])


def _cauchy(sigmas: Array) -> Array:
    """Weights that let go of residuals far beyond `CAUCHY` sigmas."""
    return np.asarray(1 / (1 + (sigmas / CAUCHY) ** 2))
