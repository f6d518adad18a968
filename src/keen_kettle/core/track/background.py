"""The camera's own movement, from what stands still behind the lifter.

Corners of the picture away from the lifter are followed from a reference frame to every other
(pyramidal flow, checked backwards), and a similarity is fitted to most of them: shift, roll and
zoom. The plate's place is carried back by it to where a still camera would have seen it. Following
from one reference, not from frame to frame, keeps small errors from adding up; a new reference is
taken when too little of the old one is left in the picture, or the view has leapt. In a dim or plain
hall, and where the lifter fills the picture, corners are few, and those that the codec leaves standing
are none: there the whole background is laid over the reference (by enhanced correlation, which asks
every pixel). A few frames are tried first: most cameras stand still, and then there is nothing more to
do. A pan may be too fast for a few frames, so only frames that could be followed say that.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.overlay import overlay_mask

__all__ = ["MATTERS", "still_path"]

Array = NDArray[np.float64]
Grey = NDArray[np.uint8]
Points = NDArray[np.float32]
Matrix = NDArray[np.float32]

WORK_WIDTH = 640
"""The background is followed at about this many pixels across."""
LIFTER = 2.6
"""The lifter's half width in plate radii; what is nearer to the bar's path is left out."""
FEWEST, LEAST_SHARE = 14, 0.35
MOST_FAILED = 0.1
OVERLAY_LOOKS = 8
PROBES = 40
"""So many frames are looked at first; a camera that stands still in them is left at that."""
MATTERS = 0.012
"""Movement under this share of the plate's diameter is noise: the camera stands still."""


WHOLE_AREA, NEAR_LIFTER, LEAST_ROOM = 60_000, 1.5, 0.1
"""The whole background is laid over with so many pixels, without what is so near to the bar; it must
be such a share of the picture,"""
PLAINLY = 0.6
"""Corners of which so many agree need no second opinion: in plain halls, many stand still with the codec."""
MUCH_ROOM, LEAST_SIDE, MOST_APART_PX = 0.5, 0.08, 1.0
MOST_SHEARED, MOST_GROWN = 1.03, 1.25
LEAST_ALIKE, WHOLE_STEPS, WHOLE_SOFT = 0.93, 25, 5
"""and correlate so well (0.96 to 1.00 where it was right, 0.65 where it was not; drawn films)."""


@dataclass
class _Reference:
    """A frame whose corners are followed, where the bar is on it, and how it lies against the first."""

    grey: Grey
    corners: Points
    to_first: Array
    bar_x_px: float = 0.0


def still_path(
    pictures: Callable[[int], NDArray[np.uint8]],
    x_px: Array,
    y_px: Array,
    radius_px: float,
    cancelled: Callable[[], bool],
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Array, Array, bool]:
    """The plate's path with the camera's movement taken out; shapes (frames,), pixels.

    Comes back unchanged when the background cannot be followed, or hardly moves; whether it could be
    followed comes last. Where it cannot be followed on single frames, the movement is bridged evenly.

    Raises
    ------
    Cancelled
    """
    seen = np.flatnonzero(np.isfinite(x_px))
    path = np.column_stack([x_px, y_px])
    if len(seen) < 2:
        return x_px.copy(), y_px.copy(), False
    probe = seen[:: max(len(seen) // PROBES, 1)]
    shrunk = _Shrunk(pictures, probe, cancelled)
    still, known = path, False
    for frames, share in ((probe, 0.3), (seen, 1.0)):
        carried = _carried_back(shrunk, path, frames, radius_px, cancelled, doubted=not known)
        progress(share)
        known = carried is not None
        if carried is None:
            still = path
            continue
        if not _matters(carried[frames] - path[frames], radius_px):
            return x_px.copy(), y_px.copy(), True
        still = carried
    return still[:, 0].copy(), still[:, 1].copy(), known


def _carried_back(
    shrunk: "_Shrunk",
    path: Array,
    frames: NDArray[np.intp],
    radius_px: float,
    cancelled: Callable[[], bool],
    doubted: bool,
) -> Array | None:
    """The path with some frames carried back to the first; None if too few could be."""
    follower = _Background(radius_px)
    follower.doubted = doubted
    follower.overlay = shrunk.overlay
    away = np.full((len(frames), 2), np.nan)
    for place, number in enumerate(frames):
        _go_on(cancelled)
        small = shrunk(int(number))
        bar_x_px = float(path[number, 0])
        matrix = None if small is None else follower.advance(small, shrunk.zoom, bar_x_px)
        if matrix is not None:
            away[place] = matrix[:, :2] @ path[number] + matrix[:, 2] - path[number]
        elif follower.failed > MOST_FAILED * len(frames) + 3:
            return None
    known = np.isfinite(away[:, 0])
    still = path.copy()
    for side in range(2):
        still[frames, side] += np.interp(frames, frames[known], away[known, side])
    return still


class _Shrunk:
    """The film's pictures in grey at the size at which the background is followed; those that are looked at
    first are kept, and tell what is laid over the film (`overlay`, 0 there)."""

    def __init__(
        self,
        pictures: Callable[[int], NDArray[np.uint8]],
        probe: NDArray[np.intp],
        cancelled: Callable[[], bool],
    ) -> None:
        self._pictures = pictures
        self._kept: dict[int, Grey | None] = {}
        self.zoom = 1.0
        for number in probe:
            _go_on(cancelled)
            self._kept[int(number)] = self(int(number))
        known = [grey for grey in self._kept.values() if grey is not None]
        some = np.unique(np.linspace(0, len(known) - 1, OVERLAY_LOOKS).round().astype(int))
        self.overlay = overlay_mask([known[k] for k in some]) if known else None

    def __call__(self, number: int) -> Grey | None:
        """One picture, (h, w); None where it cannot be read."""
        if number in self._kept:
            return self._kept[number]
        try:
            picture = self._pictures(number)
        except ClipUnreadable:
            return None
        self.zoom = min(WORK_WIDTH / picture.shape[1], 1.0)
        grey = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY)
        by = self.zoom
        return np.asarray(
            cv2.resize(grey, None, fx=by, fy=by, interpolation=cv2.INTER_AREA), np.uint8
        )


def _go_on(cancelled: Callable[[], bool]) -> None:
    if cancelled():
        raise Cancelled("Tracking was stopped; the marks are kept.")


def _matters(away_px: Array, radius_px: float) -> bool:
    """Whether the movement is more than the background's own noise."""
    moved = np.hypot(away_px[:, 0], away_px[:, 1])
    return float(np.percentile(moved, 95)) >= MATTERS * 2 * radius_px


class _Background:
    """Follows the background from frame to frame; `failed` counts frames that could not be."""

    def __init__(self, radius_px: float) -> None:
        self.lifter_px = LIFTER * radius_px
        self.failed = 0
        self.doubted = False
        self.overlay: Grey | None = None
        self.zoom = 1.0
        self.reference: _Reference | None = None
        self.before: tuple[Grey, Array, float] | None = None
        self.last = np.array([[1.0, 0, 0], [0, 1.0, 0]])

    def advance(self, small: Grey, zoom: float, bar_x_px: float) -> Array | None:
        """The matrix (2, 3) from this frame's pixels to the first frame's; None if unknown. The frame comes
        shrunk by `zoom`."""
        self.zoom = zoom
        if self.reference is None:
            corners = self._corners(small, bar_x_px)
            self.reference = _Reference(small, corners, _identity(), bar_x_px)
            return _identity()
        found = self._lately(small) or self._best(self.reference, small, bar_x_px)
        if found is None and self.before is not None:
            # Too far from the reference, or too little of it is left: go on from the last good frame.
            grey, to_first, there_px = self.before
            lately = _Reference(grey, self._corners(grey, there_px), to_first, there_px)
            for guess in (_identity, lambda: _leap(grey, small)):
                self.last = guess()
                found = self._best(lately, small, bar_x_px)
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
            self.reference = _Reference(small, corners, whole, bar_x_px)
            self.last = _identity()
        self.before = (small, whole, bar_x_px)
        matrix = whole.copy()
        matrix[:, 2] /= self.zoom
        return matrix

    def _lately(self, small: Grey) -> tuple[Array, float] | None:
        """By corners of the last good frame, which then is the reference, where few of the old one's agree."""
        assert self.reference is not None
        found, guess = self._fit(self.reference, small), self.last
        if self.before is None or (found is not None and found[1] >= PLAINLY):
            return found
        grey, to_first, there_px = self.before
        if grey is self.reference.grey:
            return None
        lately = _Reference(grey, self._corners(grey, there_px), to_first, there_px)
        self.last = _identity()
        again = self._fit(lately, small)
        if again is None or again[1] < PLAINLY:
            self.last = guess
            return None
        self.reference = lately
        return again

    def _corners(self, small: Grey, bar_x_px: float) -> Points:
        """Corners away from the lifter, who stands where the bar is on this frame."""
        mask = np.full(small.shape, 255, np.uint8)
        left, right = ((bar_x_px + side * self.lifter_px) * self.zoom for side in (-1, 1))
        mask[:, int(max(left, 0)) : int(max(right, 0))] = 0
        if self.overlay is not None:
            mask = np.minimum(mask, self.overlay)
        found = cv2.goodFeaturesToTrack(small, 110, 0.01, 11, mask=mask)
        return np.zeros((0, 1, 2), np.float32) if found is None else found.astype(np.float32)

    def _best(
        self, reference: _Reference, small: Grey, bar_x_px: float
    ) -> tuple[Array, float] | None:
        """By corners where they agree; else by the whole background, if that lies well."""
        before = self.last
        found = self._fit(reference, small)
        if found is not None and found[1] >= PLAINLY:
            return found
        after, self.last = self.last, before
        whole = self._lay_whole(reference, small, bar_x_px, before)
        if whole is None:
            self.last = after
        return whole or found

    def _lay_whole(
        self, reference: _Reference, small: Grey, bar_x_px: float, guess: Array
    ) -> tuple[Array, float] | None:
        """The same from every pixel away from the lifter, and the share of them that is still seen
        (Evangelidis and Psarakis 2008)."""
        k = min(float(np.sqrt(WHOLE_AREA / small.size)), 1.0)
        there, here = (
            np.asarray(cv2.resize(grey, None, fx=k, fy=k, interpolation=cv2.INTER_AREA), np.uint8)
            for grey in (reference.grey, small)
        )
        mask = np.full(there.shape, 255, np.uint8)
        near = NEAR_LIFTER * self.lifter_px / LIFTER
        bars = (reference.bar_x_px, bar_x_px)
        left, right = (min(bars) - near) * self.zoom * k, (max(bars) + near) * self.zoom * k
        mask[:, int(max(left, 0)) : int(max(right, 0))] = 0
        if self.overlay is not None:
            over = cv2.resize(self.overlay, mask.shape[::-1], interpolation=cv2.INTER_NEAREST)
            mask = np.minimum(mask, np.asarray(over, np.uint8))
        if float((mask > 0).mean()) < LEAST_ROOM:
            return None
        begin = np.asarray(guess, np.float32).copy()
        begin[:, 2] *= k
        found = _laid_over(there, here, begin, mask)
        if found is None or (self.doubted and not _sides_agree(there, here, found, mask)):
            return None
        matrix = np.asarray(found, float)
        all_of_it = np.full(here.shape, 255, np.uint8)
        size = (here.shape[1], here.shape[0])
        inside = cv2.warpAffine(all_of_it, matrix, size, flags=cv2.WARP_INVERSE_MAP)
        seen = float((inside[mask > 0] > 0).mean())
        matrix[:, 2] /= k
        self.last = matrix
        return np.asarray(cv2.invertAffineTransform(matrix), float), seen

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
        if not 1 / MOST_GROWN < growth < MOST_GROWN:
            return None
        self.last = np.asarray(matrix, float)
        return np.asarray(cv2.invertAffineTransform(matrix), float), share


def _laid_over(there: Grey, here: Grey, begin: Matrix, mask: Grey) -> Matrix | None:
    """Shift, roll and zoom from one picture to another by all pixels of a mask; None if they are not alike, or
    only when sheared."""
    until = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, WHOLE_STEPS, 1e-4)
    try:
        alike, found = cv2.findTransformECC(
            there, here, begin.copy(), cv2.MOTION_AFFINE, until, mask, WHOLE_SOFT
        )
    except cv2.error:  # it does not converge
        return None
    return _unsheared(np.asarray(found, float), there.shape) if alike >= LEAST_ALIKE else None


def _unsheared(found: Array, shape: tuple[int, ...]) -> Matrix | None:
    """The similarity (2, 3) that lays a picture's middle as an affine matrix does; None if that shears it by
    more than a lens does."""
    (a, b), (c, d) = found[:, :2]
    zooms = np.linalg.svd(found[:, :2], compute_uv=False)
    if zooms[0] > MOST_SHEARED * zooms[1] or not 1 / MOST_GROWN < zooms[0] < MOST_GROWN:
        return None
    turn = np.array([[(a + d) / 2, (b - c) / 2], [(c - b) / 2, (a + d) / 2]])
    middle = np.array([shape[1], shape[0]]) / 2
    shift = found[:, :2] @ middle + found[:, 2] - turn @ middle
    return np.column_stack([turn, shift]).astype(np.float32)


def _sides_agree(there: Grey, here: Grey, found: Matrix, mask: Grey) -> bool:
    """Whether the picture left and right of the lifter moves alike, where there is little of it: else it
    is the lifter that was laid over."""
    if float((mask > 0).mean()) > MUCH_ROOM:
        return True
    middle = float(np.flatnonzero(mask.min(axis=0) == 0).mean())
    ways = []
    for side in (np.arange(mask.shape[1]) < middle, np.arange(mask.shape[1]) >= middle):
        part = np.where(side[None, :], mask, np.uint8(0))
        columns = np.flatnonzero(part.any(axis=0))
        if len(columns) < LEAST_SIDE * mask.shape[1]:
            return True
        own = _laid_over(there, here, found, part)
        if own is None:
            return False
        place = np.array([columns.mean(), mask.shape[0] / 2])
        ways.append((own[:, :2] - found[:, :2]) @ place + own[:, 2] - found[:, 2])
    return float(np.hypot(*(ways[0] - ways[1]))) < MOST_APART_PX


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
