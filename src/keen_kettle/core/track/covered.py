"""What lies over the film: captions and signs, which stay where they are while the plate goes away.

They are known by their edges: of those in the place where the plate was marked, a caption's are there
in every picture. What stands still behind the plate is there in every picture too, once the plate has
gone; leaving that out does no harm. While the camera moves, nothing else is there in every picture, and
they are known wherever the plate may come. Once the plate has been followed, they are what stays while it
passes behind, whatever the camera does.
"""

from collections.abc import Callable, Mapping

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import ClipUnreadable
from keen_kettle.core.track.overlay import overlay_mask

__all__ = ["cleared", "covered_part", "laid_over", "passed_behind", "uncovered"]

Array = NDArray[np.float64]
Grey = NDArray[np.uint8]
Picture = NDArray[np.uint8]

LOOKS, MOST_LOOKS = 24, 40
SELDOM = 15
"""An edge is there in every picture that is there in all but so many per cent of the looks (a picture
may be damaged, somebody may pass)."""
LEAST_STEEP = 12.0
"""Grey levels a pixel (Sobel's sum divided by eight) of an edge that counts."""
WIDER_SHARE, WIDER_PX = 0.03, 2
"""How far a letter reaches from its edge."""
REACH, LEAST_COVERED, MOST_COVERED = 1.25, 0.03, 0.7
FILLED, RINGS = 1.15, 12
CLEARED, INPAINT_PX = 2.0, 4
"""So many radii round a mark words are painted over, each pixel by what is so near to it."""
BEFORE, BESIDE = 0.9, 1.3
"""An edge lies on the plate's place within so many radii of its centre, and away from it beyond so many."""
MOSTLY, FEWEST_BEFORE, FEWEST_BESIDE, LEAST_EDGES = 0.85, 1, 3, 0.015
"""What lies over the film is there in this share of the pictures that have the plate behind it, and of those
that have not, and there must be so many of both; and so much of it, as a share of the plate's area (of 26 lifelike films
twenty without words had 0.0006 at most, six with words 0.045 and more)."""
GOES_ON, JOINED_PX = 2.0, 3
"""It goes on for up to so many radii where edges that last are joined by gaps of twice so many pixels."""
SMALL_WIDE = 640
"""Whole pictures are looked at no wider than this."""


def covered_part(
    pictures: Callable[[int], Picture], frames: NDArray[np.intp], x: float, y: float, r: float
) -> Grey | None:
    """Which pixels round a marked plate belong to something that lies over the film (255, else 0), shape
    of the picture; None where that is too little to matter, or nearly all of the plate.

    Parameters
    ----------
    pictures : a film's pictures by number, BGR
    frames : the frames to ask, from all of the way that was followed
    x, y, r : the marked plate in pixels
    """
    room = _room(x, y, REACH * r)
    looks, shape = _looks(pictures, frames, lambda grey: grey[room])
    if len(looks) < LOOKS // 3:
        return None
    over = _wider(_lasting(looks), r)
    rows, columns = np.mgrid[: over.shape[0], : over.shape[1]]
    disc = np.hypot(columns + room[1].start - x, rows + room[0].start - y) <= r
    share = float(over[disc].mean()) if disc.any() else 0.0
    if not LEAST_COVERED < share < MOST_COVERED:
        return None
    whole = np.zeros(shape, np.uint8)
    whole[room] = 255 * over
    return whole


def laid_over(
    pictures: Callable[[int], Picture], frames: NDArray[np.intp], r: float
) -> Grey | None:
    """Which pixels belong to something that lies over a film whose camera moves (255, else 0), shape of the
    picture; None where nothing does. Parameters as in `covered_part`.
    """
    small, (high, wide) = _looks(pictures, frames, _small)
    if len(small) < LOOKS // 3:
        return None
    apart = overlay_mask(small)
    if apart is None:
        return None
    over = _wider(_lasting(small) & (apart == 0), r * small[0].shape[1] / wide)
    whole = cv2.resize(over, (wide, high), interpolation=cv2.INTER_NEAREST)
    return np.asarray(255 * whole, np.uint8) if whole.any() else None


def passed_behind(
    looks: Mapping[int, tuple[Grey, float]], path: Array, r: float, shape: tuple[int, int]
) -> Grey | None:
    """Which pixels belong to something behind which the plate passes (255, else 0), shape of the picture; None
    where nothing does.

    A wall is hidden while the plate is before it; what lies over the film is there whether it is or not.

    Parameters
    ----------
    looks : some of the pictures by their numbers, small and in grey, and by how much they were made smaller
    path : where the plate was followed (frames, 2), pixels; NaN where it was not
    r : its radius in pixels
    shape : height and width of a whole picture
    """
    seen = [(*looks[k], path[k]) for k in sorted(looks) if np.isfinite(path[k]).all()]
    seen = seen[:: -(-len(seen) // MOST_LOOKS) or 1]
    if len(seen) < LOOKS // 3 or len({(grey.shape, by) for grey, by, _ in seen}) > 1:
        return None
    by, places = seen[0][1], np.array([place for _, _, place in seen])
    reach = (BESIDE + GOES_ON) * r
    left, top = np.maximum(by * (places.min(axis=0) - reach), 0).astype(int)
    right, foot = np.maximum(by * (places.max(axis=0) + reach) + 1, 0).astype(int)
    room = slice(top, foot), slice(left, right)
    over = _on_the_way([grey[room] for grey, _, _ in seen], by * places - [left, top], by * r)
    if over is None:
        return None
    small = np.zeros(seen[0][0].shape, np.uint8)
    small[room] = 255 * over
    high, wide = shape
    return np.asarray(cv2.resize(small, (wide, high), interpolation=cv2.INTER_NEAREST), np.uint8)


def _on_the_way(looks: list[Grey], places: Array, r: float) -> Grey | None:
    """Which pixels of some looks belong to something behind which a plate of radius `r` passes that is at `places`
    (looks, 2): 1, else 0."""
    if not looks[0].size:
        return None
    edges = [_steps(grey) for grey in looks]
    usual = np.mean(edges, axis=0)
    way = usual / np.maximum(np.hypot(*usual), 1e-6)
    rows, columns = np.mgrid[: usual.shape[1], : usual.shape[2]]
    steep = np.zeros((3, *rows.shape), np.uint8)
    asked = np.zeros_like(steep)
    for steps, (x, y) in zip(edges, places, strict=True):
        away = np.hypot(columns - x, rows - y) / r
        there = (steps * way).sum(axis=0) > LEAST_STEEP
        for kind, part in enumerate((away < BEFORE, away > BESIDE, away >= 0)):
            asked[kind] += part
            steep[kind] += part & there
    before, beside, lasting = steep >= MOSTLY * asked
    over = before & beside & (asked[0] >= FEWEST_BEFORE) & (asked[1] >= FEWEST_BESIDE)
    if over.sum() < LEAST_EDGES * np.pi * r**2:
        return None
    return _wider(_with_the_rest(over, lasting, r), r)


def _with_the_rest(
    over: NDArray[np.bool_], lasting: NDArray[np.bool_], r: float
) -> NDArray[np.bool_]:
    """Together with the lasting edges that hang together with them, near by: a word goes on where the plate has
    not been."""
    near = cv2.dilate(over.astype(np.uint8), _square(round(GOES_ON * r)))
    joined = cv2.dilate((lasting | over).astype(np.uint8), _square(JOINED_PX))
    _, parts = cv2.connectedComponents(near * joined)
    with_some = np.isin(parts, np.unique(parts[over]))
    return over | (lasting & with_some)


def _square(reach: int) -> NDArray[np.uint8]:
    return np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)


def _looks(
    pictures: Callable[[int], Picture], frames: NDArray[np.intp], take: Callable[[Grey], Grey]
) -> tuple[list[Grey], tuple[int, int]]:
    """What is taken of some of the frames' pictures without their colours, and the whole pictures' shape."""
    looks, shape = [], (0, 0)
    for number in frames[:: max(len(frames) // LOOKS, 1)]:
        try:
            grey = np.asarray(cv2.cvtColor(pictures(int(number)), cv2.COLOR_BGR2GRAY), np.uint8)
        except ClipUnreadable:
            continue
        looks.append(take(grey))
        shape = (grey.shape[0], grey.shape[1])
    return looks, shape


def _small(grey: Grey) -> Grey:
    """No wider than `SMALL_WIDE`."""
    zoom = min(SMALL_WIDE / grey.shape[1], 1.0)
    size = (round(zoom * grey.shape[1]), round(zoom * grey.shape[0]))
    return np.asarray(cv2.resize(grey, size, interpolation=cv2.INTER_AREA), np.uint8)


def _lasting(looks: list[Grey]) -> NDArray[np.bool_]:
    """Which pixels are an edge, and the same one, in all of the pictures but a few."""
    stack = np.stack([_steps(grey) for grey in looks])
    usual = stack.mean(axis=0)
    way = usual / np.maximum(np.hypot(*usual), 1e-6)
    along = (stack * way).sum(axis=1)
    return np.asarray(np.percentile(along, SELDOM, axis=0) > LEAST_STEEP)


def _wider(edges: NDArray[np.bool_], r: float) -> Grey:
    """All that is near to edges (1, else 0): a letter is wider than its edge."""
    reach = WIDER_PX + round(WIDER_SHARE * r)
    return np.asarray(cv2.dilate(edges.astype(np.uint8), _square(reach)), np.uint8)


def _room(x: float, y: float, reach: float) -> tuple[slice, slice]:
    """The rows and columns round a place, as far as there are any on the upper and left side."""
    left, right = max(int(x - reach), 0), max(int(x + reach) + 1, 0)
    top, foot = max(int(y - reach), 0), max(int(y + reach) + 1, 0)
    return slice(top, foot), slice(left, right)


def _steps(grey: Grey) -> NDArray[np.float32]:
    """How steeply a picture goes across and down, shape (2, height, width)."""
    soft = cv2.GaussianBlur(grey, (0, 0), 0.8)
    across, down = (cv2.Sobel(soft, cv2.CV_32F, *one) for one in ((1, 0), (0, 1)))
    return np.asarray(np.stack([across, down]) / 8, np.float32)


def cleared(picture: Picture, over: Grey, x: float, y: float, r: float) -> Picture:
    """A picture (h, w, 3) in which what lies over it (h, w; not 0) round a place is filled by what is
    beside it (inpainting after Telea)."""
    room = _room(x, y, CLEARED * r)
    if not over[room].any():
        return picture
    shown = picture.copy()
    shown[room] = cv2.inpaint(picture[room], over[room], INPAINT_PX, cv2.INPAINT_TELEA)
    return shown


def uncovered(grey: Grey, covered: Grey, x: float, y: float, r: float) -> Grey:
    """The picture with the covered part of a plate filled by what is seen as far from its centre."""
    rows, columns = _room(x, y, FILLED * r)
    room, hidden = grey[rows, columns].copy(), covered[rows, columns] > 0
    if not room.size or hidden.all() or not hidden.any():
        return grey
    yy, xx = np.mgrid[
        rows.start : rows.start + room.shape[0], columns.start : columns.start + room.shape[1]
    ]
    ring = np.minimum(np.hypot(xx - x, yy - y) / (FILLED * r) * RINGS, RINGS - 1).astype(int)
    whole = float(np.median(room[~hidden]))
    for number in range(RINGS):
        here = ring == number
        seen = room[here & ~hidden]
        room[here & hidden] = float(np.median(seen)) if len(seen) else whole
    filled = grey.copy()
    filled[rows, columns] = room
    return filled
