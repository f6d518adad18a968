"""Spans of frames that are not followed: by hand, hidden ones stay a gap and bridged ones are filled; where
the plate was slipped off or lost for a moment (a caption, somebody who walks by), that is bridged too; shots in
which nothing was marked are none of the path's."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicHermiteSpline

from keen_kettle.core.track.hand import HandWork
from keen_kettle.core.track.mark import BarTrack, State

__all__ = ["apply_spans", "bridge_gaps", "bridge_slips", "without_other_shots"]

Array = NDArray[np.float64]
Curve = Callable[[NDArray[np.intp]], Array]

WEAK, BLIND, LONGEST_SLIP_S, BESIDE = 0.4, 0.15, 0.35, 0.2
"""A slip is no longer than this, below the first confidence all along and below the second
somewhere, and so far beside the curve (radii). Of 284 lifelike films two had one, 0.75 and 0.35 radii beside
it, and then lay 0.08 and 0.04 off the truth; two others of so little confidence lay 0.04 beside the curve."""
SNAP, SNAPS, HURRIES = 0.3, 2.0, 1.5
"""In a longer doubtful stretch a point that goes so far in one frame (radii, and times what it goes after
that) snaps back to the plate; a bridge that is so much faster than its ends joins the wrong places."""
BRIDGED_CONFIDENCE = 0.5
LONGEST_GAP_S, GAP_HURRIES, DOUBTS = 0.35, 2.0, 2
"""Over a longer gap no curve is to be believed, nor one that is so much faster than its ends: a gap that holds the
fastest of a simulated pull is up to 1.9 times as fast. So many doubtful points between a gap and good ones are part
of it: the plate was slipping off there."""
SLOPE_FRAMES, SLOPE_S, BENT_FRAMES = 5, 0.15, 4
"""The velocity at a bridge's ends is that of the seen frames within this time beside it, and of so many at least: of
a parabola through them, where they are enough for one. Gaps of 0.13 to 0.27 s in simulated pulls then move events
by 0.1 to 0.2 pictures in the mean; straight lines, which are late where the bar gathers speed, by 0.1 to 0.3."""


def apply_spans(track: BarTrack, hand: HandWork) -> BarTrack:
    """The track with its spans: outside the limits and hidden nothing, bridged a smooth curve.

    A bridge is the cubic that meets place and velocity on both sides (Hermite); without seen frames
    on both sides it stays a gap.
    """
    x, y, r = track.x_px.copy(), track.y_px.copy(), track.r_px.copy()
    state, confidence = track.state.copy(), track.confidence.copy()
    first, last = hand.limits(len(track))
    outside = np.ones(len(track), bool)
    outside[first : last + 1] = False

    def blank(frames: NDArray[np.bool_], as_state: State) -> None:
        for values in (x, y, r):
            values[frames] = np.nan
        confidence[frames] = 0.0
        state[frames] = as_state

    blank(outside, State.OUTSIDE)
    for span in hand.spans:
        frames = np.zeros(len(track), bool)
        frames[max(span.first, 0) : span.last + 1] = True
        blank(frames & (state != State.BY_HAND), State.HIDDEN)
    for span in hand.spans:
        curve = None
        if span.kind == "bridged":
            curve = _curve(track.t_s, (x, y, r), state, span.first, span.last)
        if curve is not None:
            empty = np.flatnonzero(state[span.first : span.last + 1] == State.HIDDEN) + span.first
            x[empty], y[empty], r[empty] = curve(empty)
            state[empty], confidence[empty] = State.BRIDGED, BRIDGED_CONFIDENCE
    return replace(track, x_px=x, y_px=y, r_px=r, state=state, confidence=confidence)


def without_other_shots(track: BarTrack, begins: Iterable[int]) -> BarTrack:
    """The track that calls no bar lost where another shot is shown, in which nothing was followed: another shot
    begins with each of these frames."""
    state = track.state.copy()
    for first, after in pairwise(sorted({0, *begins, len(track)})):
        shot = slice(first, after)
        if not np.isfinite(track.x_px[shot]).any():
            state[shot][state[shot] == State.LOST] = State.OUTSIDE
    return replace(track, state=state)


def bridge_slips(track: BarTrack) -> BarTrack:
    """The track with its slips bridged: short stretches in which hardly anything was recognised, and whose
    points lie beside the curve that joins what was seen before and after."""
    x, y, r = track.x_px.copy(), track.y_px.copy(), track.r_px.copy()
    state, confidence = track.state.copy(), track.confidence.copy()
    for first, end in _stretches((track.state == State.CHECK) & (track.confidence < WEAK)):
        if _took_s(track, first, end) > LONGEST_SLIP_S:
            first, end = _before_a_snap(track, first, end)
        frames = np.arange(first, end)
        if not len(frames) or track.confidence[frames].min() > BLIND:
            continue
        curve = _curve(track.t_s, (x, y, r), state, first, end - 1)
        if curve is None:
            continue
        bridged = curve(frames)
        beside = np.hypot(x[frames] - bridged[0], y[frames] - bridged[1])
        far = beside.max() > BESIDE * float(np.mean(track.rim.axes_px))
        if far and not _hurries(track, curve, frames, HURRIES):
            x[frames], y[frames], r[frames] = bridged
            state[frames], confidence[frames] = State.BRIDGED, BRIDGED_CONFIDENCE
    return replace(track, x_px=x, y_px=y, r_px=r, state=state, confidence=confidence)


def bridge_gaps(track: BarTrack) -> BarTrack:
    """The track with its short gaps bridged, where the plate goes on as it went: what was not recognised for a moment
    parts no lift."""
    x, y, r = track.x_px.copy(), track.y_px.copy(), track.r_px.copy()
    state, confidence = track.state.copy(), track.confidence.copy()
    for first, end in (_with_doubts(track, *gap) for gap in _stretches(track.state == State.LOST)):
        cut = ((track.cuts >= first) & (track.cuts <= end)).any()
        if cut or _took_s(track, first, end) > LONGEST_GAP_S:
            continue
        curve = _curve(track.t_s, (x, y, r), state, first, end - 1)
        if curve is None or _hurries(track, curve, np.arange(first - 1, end + 1), GAP_HURRIES):
            continue
        frames = np.arange(first, end)
        x[frames], y[frames], r[frames] = curve(frames)
        state[frames], confidence[frames] = State.BRIDGED, BRIDGED_CONFIDENCE
    return replace(track, x_px=x, y_px=y, r_px=r, state=state, confidence=confidence)


def _with_doubts(track: BarTrack, first: int, end: int) -> tuple[int, int]:
    """A gap with the doubtful points beside it that part it from good ones, if it is a short one with them."""
    before = track.state[max(first - DOUBTS - 1, 0) : first][::-1]
    after = track.state[end : end + DOUBTS + 1]
    grown = first - _doubts(before), end + _doubts(after)
    return grown if _took_s(track, *grown) <= LONGEST_GAP_S else (first, end)


def _doubts(states: NDArray[np.uint8]) -> int:
    """How many of some states (k,) are doubtful before a good one comes; 0 if none does."""
    good = np.flatnonzero(states == State.GOOD)
    return int(good[0]) if len(good) and (states[: good[0]] == State.CHECK).all() else 0


def _stretches(frames: NDArray[np.bool_]) -> NDArray[np.intp]:
    """The stretches (k, 2) of frames (n,) that are true: the first of each, and the one after its last."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], frames, [False]]).astype(int)))
    return edges.reshape(-1, 2)


def _took_s(track: BarTrack, first: int, end: int) -> float:
    return float(track.t_s[min(end, len(track) - 1)] - track.t_s[max(first - 1, 0)])


def _hurries(track: BarTrack, curve: Curve, frames: NDArray[np.intp], times: float) -> bool:
    """Whether a curve goes so many times faster over some frames (n,) than the plate before and after them: then
    the slip is longer, or what follows is another place."""
    sides = (
        slice(max(frames[0] - SLOPE_FRAMES, 0), frames[0]),
        slice(frames[-1] + 1, frames[-1] + 1 + SLOPE_FRAMES),
    )
    speeds = [
        np.hypot(np.diff(track.x_px[part]), np.diff(track.y_px[part])) / np.diff(track.t_s[part])
        for part in sides
    ]
    most = max(float(np.nanmax(one, initial=0.0)) for one in speeds)
    x, y, _ = curve(frames)
    way = np.hypot(np.diff(x), np.diff(y)) / np.diff(track.t_s[frames])
    return bool(way.max(initial=0.0) > times * most)


def _before_a_snap(track: BarTrack, first: int, end: int) -> tuple[int, int]:
    """Of a long doubtful stretch the part in which the plate was slipped off: as long as a slip may be,
    before the point snaps back, farther in one frame than it goes after that; empty where none does."""
    last = min(end, len(track) - 1)
    steps = np.hypot(np.diff(track.x_px), np.diff(track.y_px))
    least = SNAP * float(np.mean(track.rim.axes_px))

    def after(k: int) -> float:
        return float(np.nanmedian([*steps[k + 1 : k + 1 + SLOPE_FRAMES], np.inf]))

    snaps = [k for k in range(first, last) if steps[k] > max(least, SNAPS * after(k))]
    if not snaps:
        return first, first
    back = snaps[-1] + 1
    begin = int(np.searchsorted(track.t_s, track.t_s[back] - LONGEST_SLIP_S, side="right"))
    return max(begin + 1, first), back


def _curve(
    t_s: Array,
    curves: tuple[Array, Array, Array],
    state: NDArray[np.uint8],
    first: int,
    last: int,
) -> Curve | None:
    """Cubics (3, n) that meet place and velocity on both sides of a stretch; None where a side is missing."""
    seen = np.flatnonzero(np.isfinite(curves[0]) & (state != State.REPEATED))
    before, after = seen[seen < first], seen[seen > last]
    if len(before) < 2 or len(after) < 2:
        return None
    ends = np.array([before[-1], after[0]])
    near = (
        np.union1d(before[-SLOPE_FRAMES:], before[t_s[before] > t_s[ends[0]] - SLOPE_S]),
        np.union1d(after[:SLOPE_FRAMES], after[t_s[after] < t_s[ends[1]] + SLOPE_S]),
    )
    joined = []
    for values in curves:
        slopes = [
            _slope(t_s[side] - t_s[end], values[side]) for side, end in zip(near, ends, strict=True)
        ]
        joined.append(CubicHermiteSpline(t_s[ends], values[ends], slopes))
    return lambda frames: np.array([one(t_s[frames]) for one in joined])


def _slope(t_s: Array, values: Array) -> float:
    """How fast values (n,) change at the time 0."""
    return float(np.polyfit(t_s, values, 2 if len(t_s) >= BENT_FRAMES else 1)[-2])
