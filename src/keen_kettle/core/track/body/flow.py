"""Follows small patches of the lifter from look to look, by optical flow.

The model finds a joint anew in each look, off by a centimetre or two in its own way each time, and
worse while a plate goes by. How far shirt and skin have moved between two looks can be told to a
few millimetres. Patches are laid along shank, thigh, trunk, upper arm and neck, outside the plate;
what those near each end of a segment do together is what that part of it does.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.landmarks import CARRIED, LANDMARKS
from keen_kettle.core.track.pictures import ByNumber

__all__ = ["Grey", "Looks", "flow", "grey", "part_moves"]

Array = NDArray[np.float64]
Grey = NDArray[np.uint8]

SHARES = ((0.05, 0.16, 0.27, 0.38, 0.49), (0.51, 0.62, 0.73, 0.84, 0.95))
BESIDE = (-0.015, 0.0, 0.015)
"""Where patches lie: along a segment (shares of it, two halves), and beside its middle (bodies)."""
PATCH, LEAST_PATCH, BODY_PX = 0.06, 9, 220.0
"""A patch's side (bodies, and pixels at least), in a picture in which a body is no larger than this."""
BACK_PX, EDGE = 0.7, 1.08
"""Followed on and back again a patch ends so near to where it began; plates reach so far (radii)."""
FEW, TOGETHER = 5, 0.008
"""So many patches of a half agree, half of them within so much (bodies)."""
AROUND = 0.25
"""So much round the lifter is looked at (bodies)."""


@dataclass(frozen=True)
class Looks:
    """The looks at a lift in which patches are followed.

    `frames` has shape (k,); `bar_px` (k, 2) is the bar in each of them, NaN where it is not known;
    `plate_px` is the plate's radius, `body_px` shank, thigh and trunk together, and `camera_px` (k, 2) how
    far the camera's movement carried things (None where that is not known).
    """

    pictures: ByNumber
    frames: NDArray[np.int32]
    bar_px: Array
    plate_px: float
    body_px: float
    camera_px: Array | None = None

    def grey(self, look: int) -> Grey:
        """The picture of a look without its colours; raises ClipUnreadable."""
        return grey(self.pictures, int(self.frames[look]))

    def some(self, looks: NDArray[np.intp]) -> "Looks":
        """These looks alone."""
        camera = self.camera_px[looks] if self.camera_px is not None else None
        return replace(self, frames=self.frames[looks], bar_px=self.bar_px[looks], camera_px=camera)


def grey(pictures: ByNumber, frame: int) -> Grey:
    """A frame without its colours, shape (height, width)."""
    return np.asarray(cv2.cvtColor(pictures.bgr(frame), cv2.COLOR_BGR2GRAY))


def flow(
    before: Grey, after: Grey, places: NDArray[np.float32], side: int, back_px: float
) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Where patches (n, 2) have gone from one picture to the next, and whether they come back (n,)."""
    there, found = _follow(before, after, places, side)
    back, again = _follow(after, before, there, side)
    return there, found & again & (np.hypot(*(back - places).T) < back_px)


def _follow(
    before: Grey, after: Grey, places: NDArray[np.float32], side: int
) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    begin = np.zeros_like(places)
    there, found, _ = cv2.calcOpticalFlowPyrLK(
        before, after, places, begin, winSize=(side, side), maxLevel=2
    )
    return np.asarray(there, np.float32), np.asarray(found)[:, 0] > 0


def part_moves(
    before: Grey, after: Grey, points: Array, bar_px: Array, plate_px: float, body_px: float
) -> Array:
    """How parts of the body move from one look to another, shape (segments, 2, 3).

    For each segment of `CARRIED` and each half of it: where along the segment (a share), and the way
    across and down in pixels; NaN where it cannot be told.

    Parameters
    ----------
    points : shape (9, 2), the landmarks in the look before
    bar_px : shape (2, 2), the bar in both looks; NaN where it is not known
    plate_px : the plate's radius
    body_px : shank, thigh and trunk together
    """
    places, shares = _patches(points, body_px)
    corner, size = _part(before, points, body_px)
    scale = min(1.0, BODY_PX / body_px)
    parts = [_shrunk(one, corner, size, scale) for one in (before, after)]
    side = max(int(PATCH * body_px * scale) | 1, LEAST_PATCH)
    begun = ((places - corner) * scale).astype(np.float32)
    ended, follows = flow(parts[0], parts[1], begun.reshape(-1, 2), side, BACK_PX)
    way = (ended.reshape(places.shape) - begun) / scale
    with np.errstate(invalid="ignore"):
        hidden = np.hypot(*np.moveaxis(places - bar_px[0], -1, 0)) < EDGE * plate_px
        hidden |= np.hypot(*np.moveaxis(places + way - bar_px[1], -1, 0)) < EDGE * plate_px
    clear = follows.reshape(hidden.shape) & ~hidden
    told = np.full((len(CARRIED), 2, 3), np.nan)
    for segment, half in np.ndindex(told.shape[:2]):
        mine = clear[segment, half]
        if mine.sum() < FEW:
            continue
        middle = np.median(way[segment, half][mine], axis=0)
        apart = np.hypot(*(way[segment, half][mine] - middle).T)
        if np.median(apart) < TOGETHER * body_px:
            near = apart <= np.maximum(np.median(apart), TOGETHER * body_px / 2)
            told[segment, half, 0] = shares[half][mine][near].mean()
            told[segment, half, 1:] = way[segment, half][mine][near].mean(axis=0)
    return told


def _patches(points: Array, body_px: float) -> tuple[Array, Array]:
    """Places (segments, 2, patches, 2) and their shares of the segment (2, patches)."""
    along, beside = np.meshgrid(SHARES[0] + SHARES[1], BESIDE, indexing="ij")
    ends = np.array([[points[LANDMARKS.index(name)] for name in pair] for pair in CARRIED])
    way = ends[:, 1] - ends[:, 0]
    across = np.column_stack([-way[:, 1], way[:, 0]]) / np.maximum(np.hypot(*way.T), 1.0)[:, None]
    places = (
        ends[:, None, 0]
        + along.ravel()[:, None] * way[:, None]
        + beside.ravel()[:, None] * body_px * across[:, None]
    )
    return places.reshape(len(CARRIED), 2, -1, 2), along.reshape(2, -1)


def _part(picture: Grey, points: Array, body_px: float) -> tuple[Array, tuple[int, int]]:
    """Upper left corner and size (wide, high) of the part of the picture round the lifter."""
    high, wide = picture.shape
    low = np.floor(points.min(axis=0) - AROUND * body_px)
    top = np.ceil(points.max(axis=0) + AROUND * body_px)
    low = np.clip(low, 0, [wide - 16, high - 16])
    top = np.clip(top, low + 16, [wide, high])
    return low, (int(top[0] - low[0]), int(top[1] - low[1]))


def _shrunk(picture: Grey, corner: Array, size: tuple[int, int], scale: float) -> Grey:
    x, y = (int(one) for one in corner)
    part = picture[y : y + size[1], x : x + size[0]]
    if scale >= 1.0:
        return np.ascontiguousarray(part)
    return np.asarray(cv2.resize(part, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA))
