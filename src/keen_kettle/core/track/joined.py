"""One path from the runs of all marks: between two marks both directions are blended, and rough marks are put in line
with what was followed from them."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.mark import BarTrack, PlateMark, State
from keen_kettle.core.track.plate import GOOD, Point
from keen_kettle.core.track.rim import Rim
from keen_kettle.core.track.way import Way

__all__ = ["as_track", "in_line", "joined"]

BESIDE, BESIDE_S, FEWEST = 6, 0.25, 5
"""The nearest seen points, so many, no farther away than this, tell where the plate is in a rough mark, if they are
as many as the last."""
SPREADS, MOST_OFF = 3.0, 0.2
"""They are believed where that is farther from the rim's centre than so much of their own spread; what is so many radii
off is another place."""


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


def in_line(track: BarTrack, ordered: Sequence[PlateMark]) -> BarTrack:
    """The path with the points of rough marks where their neighbours have the plate, on a parabola.

    A rim's centre is read within some hundredths of the radius, and the plate is followed by its rings and its look,
    which may lie beside that. One point of another kind is a leap; in the first picture of a film, a bar that
    rises already.
    """
    x, y = track.x_px.copy(), track.y_px.copy()
    for mark in ordered:
        here = np.array([x[mark.frame], y[mark.frame]])
        again = (track.x_px == here[0]) & (track.y_px == here[1])
        away_s = track.t_s - track.t_s[mark.frame]
        own = np.flatnonzero(track.seen & ~again & (np.abs(away_s) <= BESIDE_S))
        near = own[np.argsort(np.abs(away_s[own]), kind="stable")[:BESIDE]]
        if mark.exact or len(near) < FEWEST:
            continue
        ways = np.column_stack([x[near], y[near]])
        bent = np.polyfit(away_s[near], ways, 2)
        spread = float(np.std(ways - np.vander(away_s[near], 3) @ bent))
        off = float(np.hypot(*(bent[-1] - here)))
        if SPREADS * spread < off < MOST_OFF * float(track.r_px[mark.frame]):
            x[again], y[again] = bent[-1]
    return replace(track, x_px=x, y_px=y, still_x_px=x.copy(), still_y_px=y.copy())
