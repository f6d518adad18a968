"""Lays pictures of a hall over one of them by what is plain in it: shift, roll and zoom.

Every pixel counts by its contrast, since a codec leaves weak ones where they were; less where there is much
of it all round, since one striking thing must not outweigh the hall; differences count less the greater they
are, since those are people; and what differs in picture after picture counts no more. So the way is found under
which the plain parts of the hall differ least, however few they are. (Lucas and Kanade 1981 with the
reference's steps, as Baker and Matthews 2004, and Geman and McClure's weights.)
"""

from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Anchor", "Laid", "Small", "joined", "leap", "small_of"]

Array = NDArray[np.float64]
Floats = NDArray[np.float32]
Grey = NDArray[np.uint8]

AREA, SOFT_PX = 45_000, 1.0
"""Pictures are laid at so many pixels, softened so."""
CONTRAST_PX, LEAST_LEVELS, MOST_LEVELS = 7, 1.0, 12.0
"""A pixel counts by the spread of those round it, from so many grey levels on, and no more than so many."""
ROUND, EVENS = 0.2, 0.3
"""Contrast counts less by how much of it there is so far round (of the width), added to this share of the usual."""
PEOPLE, MOST_LEVELS_OFF, LEARNS, LEAST = 12.0, 25.0, 0.2, 0.02
"""A difference of so many grey levels is more likely somebody than the hall. How much a pixel usually differs is
learnt, no difference as more than so many, so fast; then it counts less, down to so little."""
NOISE = 2.0
"""Grey levels by which a hall may differ from itself."""
STEPS, STILL_PX, WILD, LEAST_SEEN = 12, 0.03, 0.3, 0.2
"""A way is settled in so many steps at most, until one is so small; one that zooms or turns so much leads nowhere,
and so does a way under which so little is seen."""
SOME, NEARLY_PX = 8, 0.15
"""Each so many places tell the way nearly, to steps as short as this."""
LIGHT_STEPS, MOST_GAIN = 2, 0.5
"""Light is told in so many steps; no picture has so much more contrast."""
LEAP_BY = 0.4
"""Pictures are made so much smaller again to see how far they have leapt."""
PARTS = 8
"""The picture is parted so, across, to see what hangs on one part of it."""
BEYOND = -1e3
FEWEST, MOST = 300, 12_000
"""So many plain pixels are needed, and so many are enough."""
ASIDE = 0.025
"""So far aside, of the width, pictures that are laid rightly differ more."""


@dataclass(frozen=True)
class Small:
    """A picture as others are laid: softened grey levels (h, w), made smaller by `by`."""

    levels: Floats
    by: float


@dataclass(frozen=True)
class Laid:
    """How a picture lies over an anchor: the way there (2, 3) in small pixels, by how many grey levels they
    differ at each plain place (n,), where it shows anything (n,), the mean of log(1 + (those levels / NOISE)²),
    which is infinite where it shows too little, and how much of what is plain it shows (0 to 1)."""

    way: Array
    away: Floats
    seen: NDArray[np.bool_]
    misfit: float
    share: float


def small_of(grey: Grey) -> Small:
    """A grey picture (h, w) as it is laid."""
    by = min(float(np.sqrt(AREA / grey.size)), 1.0)
    small = cv2.resize(grey, None, fx=by, fy=by, interpolation=cv2.INTER_AREA)
    return Small(np.asarray(cv2.GaussianBlur(small.astype(np.float32), (0, 0), SOFT_PX)), by)


def joined(second: Array, first: Array) -> Array:
    """First `first`, then `second`, as one way (2, 3)."""
    turned = second[:, :2] @ first[:, :2]
    shift = second[:, :2] @ first[:, 2] + second[:, 2]
    return np.column_stack([turned, shift])


def leap(before: Small, now: Small) -> Array:
    """The shift of a whole picture, (2, 3), by phase correlation."""
    a, b = (
        cv2.resize(one.levels, None, fx=LEAP_BY, fy=LEAP_BY, interpolation=cv2.INTER_AREA)
        for one in (before, now)
    )
    (x, y), _ = cv2.phaseCorrelate(a, b, cv2.createHanningWindow(a.shape[::-1], cv2.CV_32F))
    return np.array([[1.0, 0.0, x / LEAP_BY], [0.0, 1.0, y / LEAP_BY]])


class Anchor:
    """A picture over which others are laid.

    Parameters
    ----------
    small : the picture
    mask : shape (height, width) of any size, how much each place counts, 0 to 255
    """

    def __init__(self, small: Small, mask: Grey) -> None:
        levels, around = small.levels, (CONTRAST_PX, CONTRAST_PX)
        spread = cv2.blur(levels * levels, around) - cv2.blur(levels, around) ** 2
        contrast = np.sqrt(np.maximum(np.asarray(spread), 0.0))
        self._size = levels.shape[1], levels.shape[0]
        # What does not count lends its contrast to what is round it.
        counts = cv2.erode(cv2.resize(mask, self._size), np.ones(around, np.uint8))
        weight = _even(np.clip(contrast - LEAST_LEVELS, 0.0, MOST_LEVELS))
        weight *= counts / np.float32(255)
        columns, rows = np.nonzero(weight.T)
        step = len(rows) // MOST + 1
        self._rows, self._columns = rows[::step], columns[::step]
        borders = np.linspace(0, self._size[0], PARTS + 1)
        self._parts = [slice(*ends) for ends in pairwise(np.searchsorted(self._columns, borders))]
        self._weight = self._counts = np.asarray(self._of(weight), np.float32)
        self._usual = np.zeros(len(self._weight), np.float32)
        self._levels = self._of(levels)
        slopes = (cv2.Sobel(levels, cv2.CV_32F, *way, scale=1 / 8) for way in ((1, 0), (0, 1)))
        gx, gy = (self._of(np.asarray(one)) for one in slopes)
        self._places = np.array([self._columns, self._rows, np.ones(len(self._rows))], np.float64)
        self._middle = np.array(self._size) / 2
        x, y = self._columns - self._middle[0], self._rows - self._middle[1]
        slopes_of = [gx * x + gy * y, gy * x - gx * y, gx, gy]
        self._slopes = np.stack(slopes_of).astype(np.float32)

    @property
    def plain(self) -> bool:
        """Whether there is enough in it to lay others by."""
        return len(self._weight) >= FEWEST

    def laid(self, small: Small, way: Array) -> Laid:
        """Another picture laid over this one, near to a way (2, 3) there, so that they differ least."""
        for places, still_px in ((slice(None, None, SOME), NEARLY_PX), (slice(None), STILL_PX)):
            for _ in range(STEPS):
                away, seen = self._away(small, way, places)
                counts = self._counts[places] * seen * _likely(away)
                grow, turn, *shift = _settled(*self._bend(away, counts, places))
                if not np.hypot(grow, turn) < WILD:
                    break
                # By so much this picture would have to go to meet the other: it is taken off the way instead.
                own = np.array([[1 + grow, -turn], [turn, 1 + grow]])
                back = way[:, :2] @ np.linalg.inv(own)
                moved = self._middle - own @ self._middle + np.array(shift)
                way = np.column_stack([back, way[:, 2] - back @ moved])
                if np.hypot(*shift) + np.hypot(grow, turn) * max(self._middle) < still_px:
                    break
        return self._as_laid(small, way)

    def _bend(self, away: Floats, counts: Floats, places: slice) -> tuple[Array, Array]:
        """The normal equations (4, 4) and (4,) of some places, by their differences and how much they count."""
        slopes = self._slopes[:, places]
        weighed = slopes * counts
        return (weighed @ slopes.T).astype(float), (weighed @ away).astype(float)

    def unsure_px(self, laid: Laid) -> float:
        """How far a picture would be shifted otherwise without one or another part of it, small pixels; one
        sigma (the jackknife of Tukey 1958). It is great where all hangs on one thing, such as the lifter."""
        counts = self._counts * laid.seen * _likely(laid.away)
        bends, pulls = zip(
            *(self._bend(laid.away[part], counts[part], part) for part in self._parts),
            strict=True,
        )
        bend, pull = sum(bends), sum(pulls)
        without = [_settled(bend - b, pull - p)[2:] for b, p in zip(bends, pulls, strict=True)]
        return float(np.sqrt((PARTS - 1) * np.var(without, axis=0).sum()))

    def misfit(self, small: Small, way: Array) -> float:
        """How much a picture differs if it lies so, as `Laid` says."""
        return self._as_laid(small, way).misfit

    def misfit_aside(self, small: Small, laid: Laid) -> float:
        """How much a picture differs where it is laid a little aside of this."""
        aside = ASIDE * self._size[0]
        others = []
        for x, y in ((aside, 0.0), (-aside, 0.0), (0.0, aside), (0.0, -aside)):
            others.append(self._as_laid(small, laid.way + np.array([[0, 0, x], [0, 0, y]])).misfit)
        return float(np.median(others))

    def learn(self, laid: Laid) -> None:
        """Learn from a picture, as it lies, what is no part of the hall."""
        away = np.minimum(np.abs(laid.away), np.float32(MOST_LEVELS_OFF))
        self._usual += LEARNS * (away - self._usual) * laid.seen
        self._counts = self._weight * np.clip(1 - self._usual / PEOPLE, LEAST, 1.0)

    def _as_laid(self, small: Small, way: Array) -> Laid:
        away, seen = self._away(small, way)
        counts = self._counts * seen
        shown = float(counts.sum())
        share = shown / max(float(self._counts.sum()), 1e-9)
        off = np.log1p((away / np.float32(NOISE)) ** 2)
        misfit = float(off @ counts) / shown if share > LEAST_SEEN else np.inf
        return Laid(way, away, seen, misfit, share)

    def _away(
        self, small: Small, way: Array, places: slice = slice(None)
    ) -> tuple[Floats, NDArray[np.bool_]]:
        """By how much another picture differs at the plain places, and where it shows anything. Brighter or
        dimmer light, and more or less contrast, are no differences."""
        x, y = (way @ self._places[:, places]).astype(np.float32)
        there = cv2.remap(
            small.levels, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=BEYOND
        ).ravel()
        seen = np.asarray(there > -1.0)
        away = np.asarray(np.where(seen, there - self._levels[places], 0.0), np.float32)
        return (away - self._light(away, seen, places)) * seen, seen

    def _light(self, away: Floats, seen: NDArray[np.bool_], places: slice) -> Floats:
        """What of the differences (n,) is light: as much everywhere, and more where it is bright."""
        step = max(len(away) * SOME // len(self._levels), 1)
        some = away[::step][seen[::step]]
        light = np.full(len(away), np.median(some) if len(some) else 0.0, np.float32)
        levels, counted = self._levels[places], self._counts[places] * seen
        for _ in range(LIGHT_STEPS):
            counts = counted * _likely(away - light)
            whole = float(counts.sum()) + 1e-9
            bright = levels - np.float32(float(counts @ levels) / whole)
            level = float(counts @ away) / whole
            weighed = counts * bright
            gain = float(weighed @ away) / (float(weighed @ bright) + 1e-6 * whole)
            light = np.float32(level) + np.float32(np.clip(gain, -MOST_GAIN, MOST_GAIN)) * bright
        return np.asarray(light, np.float32)

    def _of(self, picture: Floats) -> Floats:
        """What a picture (h, w) shows at the plain places, (n,)."""
        return np.asarray(picture[self._rows, self._columns])


def _even(contrast: Floats) -> Floats:
    """Contrast (h, w) that counts less where there is much of it all round."""
    reach = int(ROUND * contrast.shape[1]) | 1
    round_it = np.asarray(cv2.blur(contrast, (reach, reach), borderType=cv2.BORDER_REFLECT))
    usual = round_it.mean()
    return np.asarray(contrast * usual / (round_it + EVENS * usual + 1e-9), np.float32)


def _settled(bend: Array, pull: Array) -> Array:
    bend = bend + 1e-6 * (np.trace(bend) + 1) * np.eye(4)
    return np.asarray(np.linalg.solve(bend, pull))


def _likely(away: Floats) -> Floats:
    """How likely differences (n,) are the hall's own, 0 to 1."""
    return np.asarray(1 / (1 + (away / np.float32(PEOPLE)) ** 2) ** 2, np.float32)
