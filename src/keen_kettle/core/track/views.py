"""Some pictures of a film laid over one another, and what moves in them.

A camera in the hand carries everything along. So every picture is laid over one of them by what
stands still (features, a similarity), and a place moves where it differs from most of the others.
What cannot be laid over the rest belongs to another shot, and is left out.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, partial
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.laying import joined
from keen_kettle.core.track.pictures import Pictures
from keen_kettle.core.track.rounds import MovingEdges, moving_edges
from keen_kettle.core.track.side_by_side import side_by_side

__all__ = ["Views", "go_on", "look_through"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Grey = NDArray[np.uint8]
Share = NDArray[np.float32]

WIDEST_PX = 640
MOVING_WIDE_PX = 160.0
FEATURES, FARTHEST_MATCH = 750, 55
FEWEST_MATCHES, FEWEST_AGREEING, LEAST_AGREEING = 15, 12, 0.3
MOST_ZOOM = 1.4
"""Between two pictures of a shot the view grows or shrinks by so much at most."""
REFERENCES = (0.5, 0.25, 0.75)
CHANGES_LEVELS, MOSTLY = 0.35, 0.7
"""Two pictures of a film that differ by less than this (grey levels) show the same; if that is so for
most of them, others are taken."""
LEAST_LAID = 0.4
"""Where fewer can be laid over any of them, the hall has nothing to hold to: it is taken as still."""
STILL = np.eye(2, 3)
AS_WELL = 1.04
"""What lies nearly as well where it is has not moved."""
SETTLING_PX, MAY_SETTLE = (3.0, 1.0, 0.5), 3.0
"""Steps (small pixels) in which a place is settled, if it does not begin so much worse than the best."""
DIFFERENT_LEVELS, LEAST_ALIKE, LEAST_REACH = 15, 0.35, 0.4
"""Differences over so many grey levels count as this. A picture belongs to the shot if its steps are so
alike (0.58 to 0.95 within a shot, 0.17 over a hard cut, on drawn films), and so much of it lies over
the middle one."""
MOST_OTHERS, PLAIN_LEVELS, FULL_LEVELS = 0.6, 3.0, 12.0
"""A place moves when it differs from so many of the others by so many grey levels over the noise."""


@dataclass(frozen=True)
class Views:
    """Pictures of one shot, shrunk by `zoom`.

    `frames` (n,) are their numbers in the film; `laid` (n, 2, 3) leads from each to the place of the
    reference; `moving` says for every pixel how surely it moves (0 to 1).
    """

    zoom: float
    frames: NDArray[np.intp]
    pictures: list[Picture]
    laid: Array
    moving: list[Share]

    def __len__(self) -> int:
        return len(self.pictures)

    @cached_property
    def soft(self) -> list[Picture]:
        """The pictures of the views, softened a little."""
        return [_softened(picture, 0.8) for picture in self.pictures]

    @cached_property
    def edges(self) -> list[MovingEdges | None]:
        """The moving edges of each view."""
        shown = zip(self.pictures, self.moving, strict=True)
        return side_by_side(lambda view: moving_edges(*view), shown)

    def in_reference(self, view: int, x: float, y: float) -> Array:
        """Where a place of a view (small pixels) lies in the reference's place, (2,)."""
        matrix = self.laid[view]
        return np.asarray(matrix[:, :2] @ [x, y] + matrix[:, 2])

    def from_reference(self, view: int, place: Array) -> tuple[float, float]:
        """Where a place (2,) of the reference lies in a view, in small pixels."""
        back = cv2.invertAffineTransform(self.laid[view])
        x, y = back[:, :2] @ place + back[:, 2]
        return float(x), float(y)


def look_through(pictures: Pictures, most: int, cancelled: Callable[[], bool]) -> Views | None:
    """At most so many pictures, evenly from the whole film; None where too few can be read.

    Raises
    ------
    Cancelled
    """
    count = len(pictures.t_s)
    even = np.unique(np.linspace(0, count - 1, min(most, count)).round().astype(int))
    read = _read(pictures, even, cancelled)
    lively = _lively(read, most)
    if lively is not None:
        read = _read(pictures, lively, cancelled)
    if len(read) < 4:
        return None
    frames, small = list(read), list(read.values())
    zoom = _zoom(pictures.bgr(frames[0]))
    laid = _laid(small, cancelled)
    kept = [k for k, matrix in enumerate(laid) if matrix is not None]
    small = [small[k] for k in kept]
    matrices = np.array([matrix for matrix in laid if matrix is not None])
    moving = _moving(small, matrices, cancelled)
    return Views(zoom, np.array([frames[k] for k in kept], np.intp), small, matrices, moving)


def _read(
    pictures: Pictures, numbers: NDArray[np.intp], cancelled: Callable[[], bool]
) -> dict[int, Picture]:
    """The shrunk pictures of these frames, by number; those that cannot be read are left out."""
    found = {}
    for number in numbers:
        go_on(cancelled)
        try:
            picture = pictures.bgr(int(number))
        except ClipUnreadable:
            continue
        found[int(number)] = _shrunk(picture, _zoom(picture))
    return found


def _zoom(picture: Picture) -> float:
    return float(min(WIDEST_PX / max(picture.shape[:2]), 1.0))


def _lively(read: dict[int, Picture], most: int) -> NDArray[np.intp] | None:
    """So many frames evenly over the parts of the film in which anything changes; None where it mostly
    does. A picture that is frozen for seconds would take the place of the lift."""
    numbers = list(read)
    spans = [
        (a, b)
        for a, b in pairwise(numbers)
        if float(np.mean(cv2.absdiff(read[a], read[b]))) > CHANGES_LEVELS
    ]
    if not spans or len(spans) >= MOSTLY * (len(numbers) - 1):
        return None
    before = np.concatenate([[0], np.cumsum([b - a for a, b in spans])])
    at = np.linspace(0, before[-1], most)
    which = np.minimum(np.searchsorted(before, at, side="right") - 1, len(spans) - 1)
    begins = np.array([a for a, _ in spans])
    return np.unique((begins[which] + at - before[which]).round().astype(int))


def go_on(cancelled: Callable[[], bool]) -> None:
    """Raises Cancelled when the search for the plate is to stop."""
    if cancelled():
        raise Cancelled("The search for the plate was stopped.")


def _shrunk(picture: Picture, zoom: float) -> Picture:
    small = cv2.resize(picture, None, fx=zoom, fy=zoom, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.uint8)


# Laying over one another


@dataclass(frozen=True)
class _Glance:
    """What a picture is laid by: its features, itself made tiny and grey, and how much smaller that is."""

    places: NDArray[np.float32]
    looks: NDArray[np.uint8] | None
    tiny: Grey
    zoom: float


def _laid(small: list[Picture], cancelled: Callable[[], bool]) -> list[Array | None]:
    """For each picture the similarity to one of them; None for those of other shots."""
    glances = side_by_side(_glance, small, partial(go_on, cancelled))
    best: list[Array | None] = []
    for share in REFERENCES:
        go_on(cancelled)
        middle = min(int(share * len(small)), len(small) - 1)
        tried = _over(glances, middle, cancelled)
        if sum(one is not None for one in tried) > sum(one is not None for one in best):
            best = tried
        if all(one is not None for one in best):
            break
    if sum(one is not None for one in best) < max(4, LEAST_LAID * len(small)):
        return [STILL.copy() for _ in small]
    return best


def _glance(picture: Picture) -> _Glance:
    finder = cv2.ORB.create(FEATURES, fastThreshold=8)
    points, looks = finder.detectAndCompute(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), None)
    places = np.array([point.pt for point in points], np.float32).reshape(-1, 2)
    known = None if looks is None else np.asarray(looks, np.uint8)
    zoom = MOVING_WIDE_PX / max(picture.shape[:2])
    tiny = cv2.cvtColor(_softened(_shrunk(picture, zoom)), cv2.COLOR_BGR2GRAY)
    return _Glance(places, known, np.asarray(tiny, np.uint8), zoom)


def _over(glances: list[_Glance], middle: int, cancelled: Callable[[], bool]) -> list[Array | None]:
    """The similarities to the picture `middle`, each the one under which the two differ least.

    Before a plain wall most features are the lifter's own, and what they agree on is the lift, not
    the camera: so what they say is weighed against a camera that stands still, or as its neighbour.
    """
    count = len(glances)
    laid: list[Array | None] = [None] * count
    laid[middle] = STILL.copy()

    def onwards(step: int) -> None:
        for k in range(middle + step, count if step > 0 else -1, step):
            go_on(cancelled)
            laid[k] = _best_laid(glances[k], glances[middle], glances[k - step], laid[k - step])

    side_by_side(onwards, (1, -1), partial(go_on, cancelled))
    return laid


def _best_laid(
    here: _Glance, middle: _Glance, beside: _Glance, beside_laid: Array | None
) -> Array | None:
    """How a picture lies over the middle one: as features say, straight or over its neighbour, or as
    its neighbour does, or as it is; None where what is seen has too little in common: another shot."""
    said = _similarities(here, middle)
    likely = [STILL]
    if beside_laid is not None:
        if not np.array_equal(beside_laid, STILL):
            likely.append(beside_laid)
        if not said:
            said = [joined(beside_laid, step) for step in _similarities(here, beside)]
    if said:
        likely.append(min(said, key=lambda one: _misfit(middle, here, one)))
    misfits = [_misfit(middle, here, one) for one in likely]
    may_be = [
        one
        for one, misfit in zip(likely, misfits, strict=True)
        if misfit <= MAY_SETTLE * min(misfits)
    ]
    best = min(
        (_settled(middle, here, one) for one in may_be), key=lambda one: _misfit(middle, here, one)
    )
    least = _misfit(middle, here, best)
    if _alike(middle, here, best) < LEAST_ALIKE:
        return None
    return STILL.copy() if _misfit(middle, here, STILL) < AS_WELL * least else best


def _similarities(a: _Glance, b: _Glance) -> list[Array]:
    """Shift, turn and growth from one picture to another by what most matches agree on, and by what
    most of the others agree on."""
    if a.looks is None or b.looks is None:
        return []
    matches = cv2.BFMatcher(cv2.NORM_HAMMING, crossCheck=True).match(a.looks, b.looks)
    close = [one for one in matches if one.distance < FARTHEST_MATCH]
    here = a.places[[one.queryIdx for one in close]]
    there = b.places[[one.trainIdx for one in close]]
    found: list[Array] = []
    while len(here) >= FEWEST_MATCHES and len(found) < 2:
        matrix, agree = cv2.estimateAffinePartial2D(
            here, there, method=cv2.RANSAC, ransacReprojThreshold=2.0
        )
        agrees = np.asarray(agree).ravel() > 0
        if matrix is None or agrees.sum() < FEWEST_AGREEING or agrees.mean() < LEAST_AGREEING:
            break
        growth = float(np.hypot(matrix[0, 0], matrix[1, 0]))
        if 1 / MOST_ZOOM < growth < MOST_ZOOM:
            found.append(np.asarray(matrix, float))
        here, there = here[~agrees], there[~agrees]
    return found


def _settled(middle: _Glance, here: _Glance, matrix: Array) -> Array:
    """The same, shifted for as long as that makes the two differ less."""
    least = _misfit(middle, here, matrix)
    for step in SETTLING_PX:
        ways = [(x * step, y * step) for x in (-1, 0, 1) for y in (-1, 0, 1) if x or y]
        while True:
            tried = [_moved(matrix, x / here.zoom, y / here.zoom) for x, y in ways]
            misfits = [_misfit(middle, here, one) for one in tried]
            if min(misfits) >= least:
                break
            least, matrix = min(misfits), tried[int(np.argmin(misfits))]
    return matrix


def _moved(matrix: Array, x: float, y: float) -> Array:
    return np.column_stack([matrix[:, :2], matrix[:, 2] + (x, y)])


def _misfit(middle: _Glance, here: _Glance, matrix: Array) -> float:
    """By how many grey levels a picture, laid over the middle one, differs on average where it reaches
    (great differences count no more than some: those are people)."""
    high, wide = middle.tiny.shape[:2]
    to_middle = _in_small(matrix, here.zoom)
    over = cv2.warpAffine(here.tiny, to_middle, (wide, high))
    reach = _reach(to_middle, wide, high)
    if cv2.countNonZero(reach) < LEAST_REACH * reach.size:
        return float("inf")
    away = np.minimum(cv2.absdiff(middle.tiny, over), DIFFERENT_LEVELS)
    return float(cv2.mean(away, reach)[0])


def _reach(matrix: Array, wide: int, high: int) -> Grey:
    """Where a picture of this size, laid so, reaches wholly: 255, else 0."""
    laid = cv2.warpAffine(np.full((high, wide), 255, np.uint8), matrix, (wide, high))
    return np.asarray(cv2.threshold(laid, 254, 255, cv2.THRESH_BINARY)[1], np.uint8)


def _alike(middle: _Glance, here: _Glance, matrix: Array) -> float:
    """How alike the steps of two pictures are where they lie over one another (-1 to 1)."""
    high, wide = middle.tiny.shape[:2]
    to_middle = _in_small(matrix, here.zoom)
    over = np.asarray(cv2.warpAffine(here.tiny, to_middle, (wide, high)), np.uint8)
    inside = cv2.erode(_reach(to_middle, wide, high), np.ones((5, 5), np.uint8)) > 0
    a, b = (_steps(one)[inside] for one in (middle.tiny, over))
    if len(a) < 2 or a.std() == 0 or b.std() == 0:
        return 1.0 if len(a) > 1 and a.std() == b.std() else 0.0
    return float(np.corrcoef(a, b)[0, 1])


def _steps(tiny: Grey) -> Array:
    """How steep a picture is, loud steps hushed."""
    grey = tiny.astype(np.float32)
    steep = np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1))
    return np.asarray(np.minimum(np.sqrt(steep), 8.0))


def _in_small(matrix: Array, zoom: float) -> Array:
    """The same similarity between pictures that are made smaller."""
    made = matrix.copy()
    made[:, 2] *= zoom
    return made


# What moves


def _moving(small: list[Picture], laid: Array, cancelled: Callable[[], bool]) -> list[Share]:
    """For each picture how surely each place differs from most of the others (0 to 1)."""
    high, wide = small[0].shape[:2]
    zoom = MOVING_WIDE_PX / max(high, wide)
    tiny = [_softened(_shrunk(picture, zoom)) for picture in small]
    whole = [np.vstack([_in_small(one, zoom), [0, 0, 1]]) for one in laid]

    def moving(k: int) -> Share:
        back = np.linalg.inv(whole[k])
        others = [
            _differs(tiny[k], other, (back @ whole[j])[:2])
            for j, other in enumerate(tiny)
            if j != k
        ]
        rank = int(MOST_OTHERS * len(others))
        most = np.partition(np.stack(others), rank, axis=0)[rank].astype(np.float32)
        sure = (most - 2.0 * float(np.median(most)) - PLAIN_LEVELS) / FULL_LEVELS
        sure = cv2.dilate(np.clip(sure, 0, 1), np.ones((3, 3), np.uint8))
        return np.asarray(cv2.resize(sure, (wide, high)), np.float32)

    return side_by_side(moving, range(len(tiny)), partial(go_on, cancelled))


def _softened(picture: Picture, sigma_px: float = 0.7) -> Picture:
    return np.asarray(cv2.GaussianBlur(picture, (0, 0), sigma_px), np.uint8)


def _differs(here: Picture, other: Picture, to_here: Array) -> Picture:
    """By how much another picture differs, laid over this one; nothing where it does not reach."""
    high, wide = here.shape[:2]
    over = cv2.warpAffine(other, to_here, (wide, high), flags=cv2.INTER_LINEAR)
    blue, green, red = cv2.split(cv2.absdiff(here, np.asarray(over, np.uint8)))
    away = cv2.max(cv2.max(blue, green), red)
    return np.asarray(cv2.bitwise_and(away, _reach(to_here, wide, high)), np.uint8)
