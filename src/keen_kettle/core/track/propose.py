"""Proposes the near plate without a click: a round thing that goes up and down a long way.

Circles are looked for on an early picture. Each is then searched, by its look, in pictures all over
the film: racked plates stay where they are, heads and wheels do not look like plates, and the plate
of the bar that is lifted travels. Of those that travel, the one with the clearest rim is proposed.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.cues import Grey
from keen_kettle.core.track.mark import SMALLEST_RADIUS_PX, PlateMark
from keen_kettle.core.track.rim import Rim, fit_rim

__all__ = ["propose_plate"]

LOOK_WIDTH = 640
SAMPLES = 20
FIRST_TRIES = (0.0, 0.06, 0.15, 0.3)
"""Where in the film circles are looked for, one after the other until one will do."""
SMALLEST, LARGEST = 0.018, 0.2
"""A plate's radius as a share of the picture's longer and shorter side."""
LOOK_RADIUS = 10.0
"""Circles are searched for with their radius shrunk to so many pixels."""
MOST_CIRCLES, MOST_LOOKED, MOST_RIMS = 100, 28, 5
LEAST_CHANGE = 6.0
"""Grey levels by which a place changes in some picture when its plate has left it."""
LEAST_TRAVEL, LEAST_LIKENESS, LEAST_SEEN = 1.6, 0.55, 0.4
"""The plate rises by so many radii; it is known again so well, in such a share of the pictures."""
LEAST_SUPPORT, OUTER_SUPPORT = 0.35, 0.5
WIDER = (1.12, 1.25, 1.4)


class _Pictures(Protocol):
    @property
    def t_s(self) -> NDArray[np.float64]: ...

    def bgr(self, number: int) -> NDArray[np.uint8]: ...


@dataclass(frozen=True)
class _Circle:
    """A circle in the small picture: how far it travels (radii), in what share of the views it is
    known again, and in what share of them its own place is empty."""

    x: float
    y: float
    r: float
    travel: float = 0.0
    seen: float = 0.0
    left: float = 0.0


def propose_plate(
    pictures: _Pictures, cancelled: Callable[[], bool] = lambda: False
) -> PlateMark | None:
    """The near plate of the bar that moves, as a mark; None where nothing round is seen to travel.

    Raises
    ------
    Cancelled
    """
    count = len(pictures.t_s)
    numbers = np.unique(np.linspace(0, count - 1, min(SAMPLES, count)).round().astype(int))
    zoom, views = _small_views(pictures, numbers, cancelled)
    if len(views) < 4:
        return None
    for share in FIRST_TRIES:
        number = int(share * (count - 1))
        if cancelled():
            raise Cancelled("The search for the plate was stopped.")
        try:
            picture = pictures.bgr(number)
        except ClipUnreadable:
            continue
        small = _small(picture, zoom)
        left = [one for one in _circles(small) if _changes(small, one, views) > LEAST_CHANGE]
        circles = [_travelling(small, one, views) for one in left[:MOST_LOOKED]]
        moving = [c for c in circles if c.travel >= LEAST_TRAVEL and c.seen >= LEAST_SEEN]
        best = _clearest(picture, zoom, _apart(moving), cancelled)
        if best is not None:
            r = max(best.axes_px)
            return PlateMark(number, best.x_px, best.y_px, r)
    return None


def _small_views(
    pictures: _Pictures, numbers: NDArray[np.intp], cancelled: Callable[[], bool]
) -> tuple[float, list[Grey]]:
    zoom, views = 1.0, []
    for number in numbers:
        if cancelled():
            raise Cancelled("The search for the plate was stopped.")
        try:
            picture = pictures.bgr(int(number))
        except ClipUnreadable:
            continue
        zoom = min(LOOK_WIDTH / max(picture.shape[:2]), 1.0)
        views.append(_small(picture, zoom))
    return zoom, views


def _small(picture: NDArray[np.uint8], zoom: float) -> Grey:
    grey = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY)
    return np.asarray(
        cv2.resize(grey, None, fx=zoom, fy=zoom, interpolation=cv2.INTER_AREA), np.uint8
    )


def _circles(small: Grey) -> list[_Circle]:
    """Circles by their edges, best first; concentric ones and ovals come out as circles too."""
    least = max(SMALLEST * max(small.shape), 5.0)
    most = LARGEST * min(small.shape)
    found = cv2.HoughCircles(
        cv2.GaussianBlur(small, (0, 0), 1.0),
        cv2.HOUGH_GRADIENT,
        1.5,
        least,
        param1=90,
        param2=24,
        minRadius=int(least),
        maxRadius=max(int(most), int(least) + 1),
    )
    if found is None:
        return []
    rows = np.asarray(found, float).reshape(-1, 3)[:MOST_CIRCLES]
    return [_Circle(float(x), float(y), float(r)) for x, y, r in rows]


def _box(small: Grey, circle: _Circle) -> tuple[slice, slice]:
    half, x, y = int(0.7 * circle.r), round(circle.x), round(circle.y)
    return slice(max(y - half, 0), y + half + 1), slice(max(x - half, 0), x + half + 1)


def _changes(small: Grey, circle: _Circle, views: list[Grey]) -> float:
    """By how much the circle's place changes in most of the views that differ (grey levels)."""
    box = _box(small, circle)
    here = small[box]
    if not here.size:
        return 0.0
    away = [cv2.mean(cv2.absdiff(here, view[box]))[0] for view in views]
    return float(np.percentile(away, 70))


def _travelling(small: Grey, circle: _Circle, views: list[Grey]) -> _Circle:
    """How far the circle's look travels over the film, and in what share of the views it is seen."""
    left, right = max(int(circle.x - 5 * circle.r), 0), int(circle.x + 5 * circle.r)
    zoom = min(LOOK_RADIUS / circle.r, 1.0)

    def smaller(view: Grey) -> Grey:
        part = view[:, left:right]
        return np.asarray(cv2.resize(part, None, fx=zoom, fy=zoom, interpolation=cv2.INTER_AREA))

    here_now = smaller(small)
    half = round(0.8 * circle.r * zoom)
    x, y = round((circle.x - left) * zoom), round(circle.y * zoom)
    high, wide = here_now.shape
    if not (half <= x < wide - half and half <= y < high - half) or half < 3:
        return circle
    look = here_now[y - half : y + half + 1, x - half : x + half + 1]
    if float(look.std()) < 4:
        return circle
    heights, likeness, here = [], [], []
    for view in views:
        match = cv2.matchTemplate(smaller(view), look, cv2.TM_CCOEFF_NORMED)
        _, top, _, (_, row) = cv2.minMaxLoc(match)
        heights.append((row + half) / zoom)
        likeness.append(top)
        home = match[max(y - half - 1, 0) : y - half + 2, max(x - half - 1, 0) : x - half + 2]
        here.append(float(home.max(initial=0.0)))
    known = np.array(likeness) >= LEAST_LIKENESS
    if not known.any():
        return circle
    rows = np.array(heights, float)[known]
    travel = float(np.percentile(rows, 95) - np.percentile(rows, 5)) / circle.r
    left_it = float(np.mean(np.array(here) < LEAST_LIKENESS))
    return _Circle(circle.x, circle.y, circle.r, travel, float(known.mean()), left_it)


def _apart(circles: list[_Circle]) -> list[_Circle]:
    """The best few that do not lie on one another, by how far they travel and are known again."""
    kept: list[_Circle] = []
    for one in sorted(
        circles, key=lambda c: c.seen * min(c.travel, 6.0) * (0.05 + c.left) ** 2, reverse=True
    ):
        if all(np.hypot(one.x - k.x, one.y - k.y) > 0.4 * max(one.r, k.r) for k in kept):
            kept.append(one)
    return kept[:MOST_RIMS]


def _clearest(
    picture: NDArray[np.uint8],
    zoom: float,
    circles: list[_Circle],
    cancelled: Callable[[], bool],
) -> Rim | None:
    """The candidate with the clearest rim, and of its rings the outermost."""
    best: tuple[float, Rim] | None = None
    for circle in circles:
        if cancelled():
            raise Cancelled("The search for the plate was stopped.")
        r = circle.r / zoom
        if r < SMALLEST_RADIUS_PX:
            continue
        rim, _ = fit_rim(picture, circle.x / zoom, circle.y / zoom, r)
        size = max(rim.axes_px) / max(picture.shape[:2])
        score = rim.support * circle.seen * size * (0.05 + circle.left) ** 2
        if rim.found and rim.support >= LEAST_SUPPORT and (best is None or score > best[0]):
            best = (score, rim)
    return _outermost(picture, best[1]) if best is not None else None


def _outermost(picture: NDArray[np.uint8], ring: Rim) -> Rim:
    """The largest rim round the same centre: what was found first may be a ring inside it."""
    chosen, r = ring, max(ring.axes_px)
    for wider in WIDER:
        rim, _ = fit_rim(picture, ring.x_px, ring.y_px, wider * r)
        aside = float(np.hypot(rim.x_px - ring.x_px, rim.y_px - ring.y_px))
        clear = rim.found and rim.support >= OUTER_SUPPORT * ring.support
        if clear and aside < 0.08 * r and max(rim.axes_px) > 1.05 * max(chosen.axes_px):
            chosen = rim
    return chosen
