"""Two ways to guess where the plate went: the flow of its corners, and its remembered look."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Guess", "Look", "contrast", "flow_guess"]

Grey = NDArray[np.uint8]
Points = NDArray[np.float32]

SIDE = 44
"""Templates are compared at this many pixels a side."""
FEWEST_CORNERS, AROUND_PX = 6, 8
"""With fewer nothing is followed; what lies round a corner is asked so far."""
LEVELS, LEVELS_HOME = 4, 2
"""So many sizes of the pictures are asked where a corner went; fewer for the way home, which is known but for what
the way on was off."""
LEAST_SEEN = 0.2
"""With less of it in the picture a template says nothing."""


@dataclass(frozen=True)
class Guess:
    """A place for the plate's centre, how well it is supported (0 to 1), and what it weighs against others."""

    x_px: float
    y_px: float
    support: float
    weight: float = 0.25


def flow_guess(
    before: Grey,
    now: Grey,
    x: float,
    y: float,
    r: float,
    shift: tuple[float, float],
    covered: Grey | None = None,
) -> Guess | None:
    """Follow the corners inside the plate: pyramidal flow, forward-backward check, similarity.

    `x, y, r` is the plate in `before`; `shift` the expected movement in pixels; corners in what is
    `covered` (see `covered_part`) are left out. None when too few corners agree.
    """
    reach = int(np.ceil(1.6 * r + np.hypot(*shift))) + 16
    left, top = max(int(x) - reach, 0), max(int(y) - reach, 0)
    region = (slice(top, max(int(y) + reach, 0)), slice(left, max(int(x) + reach, 0)))
    before, now = before[region], now[region]
    if min(before.shape[:2], default=0) < 12:
        return None
    hidden = None if covered is None else covered[region]
    first = _corners(before, x - left, y - top, r, hidden)
    if first is None:
        return None
    expected = first + np.array(shift, np.float32)
    window = int(np.clip(r / 3, 9, 21)) | 1
    after, there = _flow(before, now, first, expected, window, LEVELS)
    back, home = _flow(now, before, after, first, window, LEVELS_HOME)
    miss = np.linalg.norm(back - first, axis=2).ravel()
    kept = there & home & (miss < 0.8)
    if kept.sum() < FEWEST_CORNERS:
        return None
    matrix, inlier = cv2.estimateAffinePartial2D(
        first[kept], after[kept], method=cv2.RANSAC, ransacReprojThreshold=1.2
    )
    if matrix is None or inlier is None:
        return None
    growth = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    if not 0.9 < growth < 1.1:
        return None
    place = matrix @ np.array([x - left, y - top, 1.0]) + (left, top)
    return Guess(float(place[0]), float(place[1]), float(inlier.mean() * kept.mean()))


def _corners(grey: Grey, x: float, y: float, r: float, hidden: Grey | None) -> Points | None:
    """Corners on the plate, shape (n, 1, 2), asked for in no more of the picture than it fills; None where
    they are too few."""
    reach = int(0.92 * r) + AROUND_PX
    left, top = max(round(x) - reach, 0), max(round(y) - reach, 0)
    here = (slice(top, max(round(y) + reach, 0)), slice(left, max(round(x) + reach, 0)))
    mask = np.zeros(grey[here].shape, np.uint8)
    if not mask.size:
        return None
    cv2.circle(mask, (round(x) - left, round(y) - top), int(0.92 * r), 255, -1)
    if hidden is not None:
        mask[hidden[here] > 0] = 0
    corners = cv2.goodFeaturesToTrack(grey[here], 60, 0.02, max(2.0, r / 14), mask=mask)
    if corners is None or len(corners) < FEWEST_CORNERS:
        return None
    return np.asarray(corners + np.array([left, top]), np.float32)


def _flow(
    before: Grey, now: Grey, points: Points, expected: Points, window: int, levels: int
) -> tuple[Points, NDArray[np.bool_]]:
    """Where the points went, looked for in so many sizes of the pictures, and which of them were found."""
    after, found, _ = cv2.calcOpticalFlowPyrLK(
        before,
        now,
        points,
        expected.copy(),
        winSize=(window, window),
        maxLevel=levels - 1,
        criteria=(cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 20, 0.01),
        flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
    )
    return np.asarray(after, np.float32), np.asarray(found).ravel() == 1


@dataclass
class Look:
    """The plate's look as a small grey square, compared by normalised correlation."""

    square: NDArray[np.float32]
    zoom: float

    @staticmethod
    def of(grey: Grey, x: float, y: float, r: float) -> "Look":
        zoom = min(SIDE / (1.5 * r), 1.0)
        return Look(_square(grey, x, y, zoom, _size(r, zoom)), zoom)

    def renew(self, grey: Grey, x: float, y: float, share: float) -> None:
        """Blend in what the plate looks like now."""
        fresh = _square(grey, x, y, self.zoom, self.square.shape[0])
        self.square = (1 - share) * self.square + share * fresh

    def sharpness(self, grey: Grey, x: float, y: float) -> float:
        """How crisp the plate is at a place: the variance of its second differences."""
        now = _square(grey, x, y, self.zoom, self.square.shape[0])
        return float(cv2.Laplacian(now, cv2.CV_32F).var())

    def find(self, grey: Grey, x: float, y: float, reach: float) -> Guess:
        """The best place within `reach` pixels of (x, y), to a fraction of a pixel."""
        size = self.square.shape[0]
        steps = max(int(np.ceil(reach * self.zoom)), 2)
        field = _square(grey, x, y, self.zoom, size + 2 * steps)
        seen = self._seen(grey, x, y)
        found = cv2.matchTemplate(field, self.square, cv2.TM_CCOEFF_NORMED, mask=seen)
        match = np.nan_to_num(np.asarray(found, np.float32), nan=0.0, posinf=0.0, neginf=0.0)
        _, top, _, (col, row) = cv2.minMaxLoc(match)
        dx, dy = _parabola(match[row, :], col), _parabola(match[:, col], row)
        return Guess(
            x + (col + dx - steps) / self.zoom,
            y + (row + dy - steps) / self.zoom,
            float(np.clip(top, 0, 1)) if np.isfinite(top) else 0.0,
        )

    def _seen(self, grey: Grey, x: float, y: float) -> NDArray[np.float32] | None:
        """Which part of the square lies in the picture, where its edge cuts the plate; None where all does
        (or hardly any)."""
        size = self.square.shape[0]
        places = (np.arange(size) - (size - 1) / 2) / self.zoom
        rows = (y + places >= 0) & (y + places <= grey.shape[0] - 1)
        columns = (x + places >= 0) & (x + places <= grey.shape[1] - 1)
        if (rows.all() and columns.all()) or rows.mean() * columns.mean() < LEAST_SEEN:
            return None
        return np.outer(rows, columns).astype(np.float32)

    def likeness(self, grey: Grey, x: float, y: float) -> float:
        """Correlation at a given place, best within a pixel or two."""
        return self.find(grey, x, y, 2.0 / self.zoom).support


def contrast(grey: Grey, x: float, y: float, r: float) -> float:
    """How far the plate stands out: the mean difference across its rim, in grey levels."""
    turns = np.linspace(0, 2 * np.pi, 96, endpoint=False)
    high, wide = grey.shape
    rings = []
    for share in (0.88, 1.14):
        cols = np.round(x + share * r * np.cos(turns)).astype(int)
        rows = np.round(y + share * r * np.sin(turns)).astype(int)
        inside = (cols >= 0) & (cols < wide) & (rows >= 0) & (rows < high)
        values = np.full(len(turns), np.nan)
        values[inside] = grey[rows[inside], cols[inside]]
        rings.append(values)
    apart = np.abs(rings[0] - rings[1])
    return float(np.nanmedian(apart)) if np.isfinite(apart).any() else 0.0


def _size(r: float, zoom: float) -> int:
    return max(round(1.5 * r * zoom), 9) | 1


def _square(grey: Grey, x: float, y: float, zoom: float, size: int) -> NDArray[np.float32]:
    half = (size - 1) / 2
    matrix = np.array([[1 / zoom, 0, x - half / zoom], [0, 1 / zoom, y - half / zoom]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    taken = cv2.warpAffine(grey, matrix, (size, size), flags=flags, borderMode=cv2.BORDER_REPLICATE)
    return taken.astype(np.float32)


def _parabola(line: NDArray[np.float32], top: int) -> float:
    if not 0 < top < len(line) - 1:
        return 0.0
    left, mid, right = (float(v) for v in line[top - 1 : top + 2])
    bend = left - 2 * mid + right
    return float(np.clip(0.5 * (left - right) / bend, -0.5, 0.5)) if bend < -1e-9 else 0.0
