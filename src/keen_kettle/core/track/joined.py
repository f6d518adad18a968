"""One path from the runs of all marks: between two marks both directions are blended."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.mark import BarTrack, PlateMark, State
from keen_kettle.core.track.plate import GOOD, Point
from keen_kettle.core.track.rim import Rim
from keen_kettle.core.track.way import Way

__all__ = ["as_track", "joined"]


def joined(
    ways: list[Way], ordered: Sequence[PlateMark], rims: dict[int, Rim], count: int
) -> list[Point | None]:
    """Blend the two directions between anchors by nearness and confidence."""
    points: list[Point | None] = [None] * count
    for number in range(count):
        known = (way.points[number] for way in ways if number in way.points)
        offers = [point for point in known if np.isfinite(point.x)]
        if len(offers) == 1:
            points[number] = offers[0]
        elif offers:
            left = max(mark.frame for mark in ordered if mark.frame <= number)
            right = min(mark.frame for mark in ordered if mark.frame >= number)
            share = (number - left) / max(right - left, 1)
            points[number] = _blended(offers[0], offers[1], share)
    for mark in ordered:
        rim = rims[mark.frame]
        points[mark.frame] = Point(
            rim.x_px, rim.y_px, float(np.mean(rim.axes_px)), 1.0, State.BY_HAND
        )
    return points


def _blended(left: Point, right: Point, share: float) -> Point:
    a = (1 - share) * left.confidence + 1e-6
    b = share * right.confidence + 1e-6
    a, b = a / (a + b), b / (a + b)
    apart = right.away_from(left)
    confidence = (a * left.confidence + b * right.confidence) * float(
        np.exp(-((apart / 0.15) ** 2))
    )
    if State.REPEATED in (left.state, right.state):
        state = State.REPEATED
    else:
        state = State.GOOD if confidence >= GOOD else State.CHECK
    return Point(
        a * left.x + b * right.x,
        a * left.y + b * right.y,
        a * left.r + b * right.r,
        confidence,
        state,
        left.sharp,
    )


def as_track(
    t_s: NDArray[np.float64], points: list[Point | None], rim: Rim, cuts: NDArray[np.intp]
) -> BarTrack:
    """The path of a film with pictures at `t_s` (frames,) seconds, from its points (None where there is none), the
    rim that was marked and the frames `cuts` (k,) that begin another shot."""
    nothing = Point(np.nan, np.nan, np.nan, 0.0, State.LOST)
    filled = [point or nothing for point in points]
    return BarTrack(
        t_s=np.asarray(t_s, float),
        x_px=np.array([p.x for p in filled]),
        y_px=np.array([p.y for p in filled]),
        r_px=np.array([p.r for p in filled]),
        confidence=np.array([p.confidence for p in filled]),
        state=np.array([p.state for p in filled], np.uint8),
        rim=rim,
        still_x_px=np.array([p.x for p in filled]),
        still_y_px=np.array([p.y for p in filled]),
        sharp=np.array([p.sharp for p in filled]),
        contrast=0.0,
        cuts=cuts,
    )
