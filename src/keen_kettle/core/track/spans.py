"""Spans of frames that are not followed: by hand, hidden ones stay a gap and bridged ones are filled; where
the plate was slipped off for a moment (a caption, somebody who walks by), that is bridged too; shots in which
nothing was marked are none of the path's."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicHermiteSpline

from keen_kettle.core.track.hand import HandWork
from keen_kettle.core.track.mark import BarTrack, State

__all__ = ["apply_spans", "bridge_slips", "without_other_shots"]

Array = NDArray[np.float64]

WEAK, BLIND, LONGEST_SLIP_S, BESIDE = 0.4, 0.15, 0.35, 0.2
"""A slip is no longer than this, below the first confidence all along and below the second
somewhere, and so far beside the curve (radii). Of 284 lifelike films two had one, 0.75 and 0.35 radii beside
it, and then lay 0.08 and 0.04 off the truth; two others of so little confidence lay 0.04 beside the curve."""
SNAP, SNAPS, HURRIES = 0.3, 2.0, 1.5
"""In a longer doubtful stretch a point that goes so far in one frame (radii, and times what it goes after
that) snaps back to the plate; a bridge that is so much faster than its ends joins the wrong places."""
BRIDGED_CONFIDENCE = 0.5
SLOPE_FRAMES = 5
"""The velocity at a bridge's ends is that of so many frames beside it."""


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
    weak = (track.state == State.CHECK) & (track.confidence < WEAK)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], weak, [False]]).astype(int)))
    for first, end in edges.reshape(-1, 2):
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
        if far and not _hurries(track, first, end, bridged):
            x[frames], y[frames], r[frames] = bridged
            state[frames], confidence[frames] = State.BRIDGED, BRIDGED_CONFIDENCE
    return replace(track, x_px=x, y_px=y, r_px=r, state=state, confidence=confidence)


def _took_s(track: BarTrack, first: int, end: int) -> float:
    return float(track.t_s[min(end, len(track) - 1)] - track.t_s[max(first - 1, 0)])


def _hurries(track: BarTrack, first: int, end: int, bridged: Array) -> bool:
    """Whether a curve (3, n) goes faster than the plate before and after it: then the slip is longer."""
    sides = slice(max(first - SLOPE_FRAMES, 0), first), slice(end, end + SLOPE_FRAMES)
    speeds = [
        np.hypot(np.diff(track.x_px[part]), np.diff(track.y_px[part])) / np.diff(track.t_s[part])
        for part in sides
    ]
    most = max(float(np.nanmax(one, initial=0.0)) for one in speeds)
    way = np.hypot(np.diff(bridged[0]), np.diff(bridged[1])) / np.diff(track.t_s[first:end])
    return bool(way.max(initial=0.0) > HURRIES * most)


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
) -> Callable[[NDArray[np.intp]], Array] | None:
    """Cubics (3, n) that meet place and velocity on both sides of a stretch; None where a side is missing."""
    seen = np.flatnonzero(np.isfinite(curves[0]) & (state != State.REPEATED))
    before, after = seen[seen < first][-SLOPE_FRAMES:], seen[seen > last][:SLOPE_FRAMES]
    if len(before) < 2 or len(after) < 2:
        return None
    ends = [before[-1], after[0]]
    joined = []
    for values in curves:
        slopes = [np.polyfit(t_s[side], values[side], 1)[0] for side in (before, after)]
        joined.append(CubicHermiteSpline(t_s[ends], values[ends], slopes))
    return lambda frames: np.array([one(t_s[frames]) for one in joined])
