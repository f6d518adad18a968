"""The camera's own movement, from what stands still behind the lifter.

Corners of the picture away from the lifter are followed from a reference frame to every other
(pyramidal flow, checked backwards), and a similarity is fitted to most of them: shift, roll and
zoom. The plate's place is carried back by it to where a still camera would have seen it. Following
from one reference, not from frame to frame, keeps small errors from adding up; a new reference is
taken when too little of the old one is left in the picture, or the view has leapt. A few frames are
tried first: most cameras stand still, and then there is nothing more to do. A pan may be too fast for
a few frames, so only frames that could be followed say that.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable

__all__ = ["MATTERS", "still_path"]

Array = NDArray[np.float64]
Grey = NDArray[np.uint8]
Points = NDArray[np.float32]

WORK_WIDTH = 640
"""The background is followed at about this many pixels across."""
LIFTER = 2.6
"""The lifter's half width in plate radii; what is nearer to the bar's path is left out."""
FEWEST, LEAST_SHARE = 14, 0.35
MOST_FAILED = 0.1
PROBES = 40
"""So many frames are looked at first; a camera that stands still in them is left at that."""
MATTERS = 0.012
"""Movement under this share of the plate's diameter is noise: the camera stands still."""


@dataclass
class _Reference:
    """A frame whose corners are followed, and how it lies against the first frame."""

    grey: Grey
    corners: Points
    to_first: Array


def still_path(
    pictures: Callable[[int], NDArray[np.uint8]],
    x_px: Array,
    y_px: Array,
    radius_px: float,
    cancelled: Callable[[], bool],
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Array, Array]:
    """The plate's path with the camera's movement taken out; shapes (frames,), pixels.

    Comes back unchanged when the background cannot be followed, or hardly moves. Where it cannot be
    followed on single frames, the movement is bridged evenly.

    Raises
    ------
    Cancelled
    """
    seen = np.flatnonzero(np.isfinite(x_px))
    path = np.column_stack([x_px, y_px])
    if len(seen) < 2:
        return x_px.copy(), y_px.copy()
    probe = seen[:: max(len(seen) // PROBES, 1)]
    still = path
    for frames, share in ((probe, 0.3), (seen, 1.0)):
        carried = _carried_back(pictures, path, frames, radius_px, cancelled)
        progress(share)
        if carried is None:
            still = path
            continue
        if not _matters(carried[frames] - path[frames], radius_px):
            return x_px.copy(), y_px.copy()
        still = carried
    return still[:, 0].copy(), still[:, 1].copy()


def _carried_back(
    pictures: Callable[[int], NDArray[np.uint8]],
    path: Array,
    frames: NDArray[np.intp],
    radius_px: float,
    cancelled: Callable[[], bool],
) -> Array | None:
    """The path with some frames carried back to the first; None if too few could be."""
    follower = _Background(radius_px)
    away = np.full((len(frames), 2), np.nan)
    for place, number in enumerate(frames):
        if cancelled():
            raise Cancelled("Tracking was stopped; the marks are kept.")
        try:
            matrix = follower.advance(pictures(int(number)), float(path[number, 0]))
        except ClipUnreadable:
            matrix = None
        if matrix is not None:
            away[place] = matrix[:, :2] @ path[number] + matrix[:, 2] - path[number]
        elif follower.failed > MOST_FAILED * len(frames) + 3:
            return None
    known = np.isfinite(away[:, 0])
    still = path.copy()
    for side in range(2):
        still[frames, side] += np.interp(frames, frames[known], away[known, side])
    return still


def _matters(away_px: Array, radius_px: float) -> bool:
    """Whether the movement is more than the background's own noise."""
    moved = np.hypot(away_px[:, 0], away_px[:, 1])
    return float(np.percentile(moved, 95)) >= MATTERS * 2 * radius_px


class _Background:
    """Follows the background from frame to frame; `failed` counts frames that could not be."""

    def __init__(self, radius_px: float) -> None:
        self.lifter_px = LIFTER * radius_px
        self.failed = 0
        self.zoom = 1.0
        self.reference: _Reference | None = None
        self.before: tuple[Grey, Array, float] | None = None
        self.last = np.array([[1.0, 0, 0], [0, 1.0, 0]])

    def advance(self, picture: NDArray[np.uint8], bar_x_px: float) -> Array | None:
        """The matrix (2, 3) from this frame's pixels to the first frame's; None if unknown."""
        self.zoom = min(WORK_WIDTH / picture.shape[1], 1.0)
        grey = np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), np.uint8)
        small = np.asarray(
            cv2.resize(grey, None, fx=self.zoom, fy=self.zoom, interpolation=cv2.INTER_AREA),
            np.uint8,
        )
        if self.reference is None:
            self.reference = _Reference(small, self._corners(small, bar_x_px), _identity())
            return _identity()
        found = self._fit(self.reference, small)
        if found is None and self.before is not None:
            # Too far from the reference, or too little of it is left: go on from the last good frame.
            grey, to_first, there_px = self.before
            lately = _Reference(grey, self._corners(grey, there_px), to_first)
            for guess in (_identity, lambda: _leap(grey, small)):
                self.last = guess()
                found = self._fit(lately, small)
                if found is not None:
                    self.reference = lately
                    break
        if found is None:
            self.failed += 1
            return None
        here_to_reference, share = found
        whole = _joined(self.reference.to_first, here_to_reference)
        if share < 0.6:  # much of the reference has left the picture: go on from here
            corners = self._corners(small, bar_x_px)
            if len(corners) >= FEWEST:
                self.reference = _Reference(small, corners, whole)
                self.last = _identity()
        self.before = (small, whole, bar_x_px)
        matrix = whole.copy()
        matrix[:, 2] /= self.zoom
        return matrix

    def _corners(self, small: Grey, bar_x_px: float) -> Points:
        """Corners away from the lifter, who stands where the bar is on this frame."""
        mask = np.full(small.shape, 255, np.uint8)
        left, right = ((bar_x_px + side * self.lifter_px) * self.zoom for side in (-1, 1))
        mask[:, int(max(left, 0)) : int(max(right, 0))] = 0
        found = cv2.goodFeaturesToTrack(small, 110, 0.01, 11, mask=mask)
        return np.zeros((0, 1, 2), np.float32) if found is None else found.astype(np.float32)

    def _fit(self, reference: _Reference, small: Grey) -> tuple[Array, float] | None:
        """From this frame to the reference, and the share of its corners that agree."""
        corners = reference.corners
        if len(corners) < FEWEST:
            return None
        expected = cv2.transform(corners, self.last).astype(np.float32)
        there, found = _flow(reference.grey, small, corners, expected)
        back, home = _flow(small, reference.grey, there, corners)
        miss = np.linalg.norm(back - corners, axis=2).ravel()
        kept = found & home & (miss < 0.7)
        if kept.sum() < FEWEST:
            return None
        matrix, inside = cv2.estimateAffinePartial2D(
            corners[kept], there[kept], method=cv2.RANSAC, ransacReprojThreshold=0.8
        )
        if matrix is None or inside is None:
            return None
        share = float(inside.sum()) / len(corners)
        if inside.sum() < FEWEST or share < LEAST_SHARE:
            return None
        growth = float(np.hypot(matrix[0, 0], matrix[1, 0]))
        if not 0.8 < growth < 1.25:
            return None
        self.last = np.asarray(matrix, float)
        return np.asarray(cv2.invertAffineTransform(matrix), float), share


def _identity() -> Array:
    return np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])


def _leap(before: Grey, now: Grey) -> Array:
    """The shift of the whole picture by phase correlation, where the flow's reach is too short."""
    window = cv2.createHanningWindow((now.shape[1], now.shape[0]), cv2.CV_32F)
    (x, y), _ = cv2.phaseCorrelate(before.astype(np.float32), now.astype(np.float32), window)
    return np.array([[1.0, 0.0, x], [0.0, 1.0, y]])


def _joined(second: Array, first: Array) -> Array:
    """First `first`, then `second`, as one matrix (2, 3)."""
    turned = second[:, :2] @ first[:, :2]
    shift = second[:, :2] @ first[:, 2] + second[:, 2]
    return np.column_stack([turned, shift])


def _flow(
    before: Grey, now: Grey, points: Points, expected: Points
) -> tuple[Points, NDArray[np.bool_]]:
    after, found, _ = cv2.calcOpticalFlowPyrLK(
        before,
        now,
        points,
        expected.copy(),
        winSize=(15, 15),
        maxLevel=2,
        criteria=(cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 20, 0.01),
        flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
    )
    return np.asarray(after, np.float32), np.asarray(found).ravel() == 1
