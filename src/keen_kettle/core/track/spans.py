"""Spans of frames that the coach has set by hand: hidden ones stay a gap, bridged ones are filled."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicHermiteSpline

from keen_kettle.core.track.hand import HandWork
from keen_kettle.core.track.mark import BarTrack, State

__all__ = ["apply_spans"]

Array = NDArray[np.float64]

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
        if span.kind == "bridged":
            _bridge(track.t_s, (x, y, r), state, confidence, span.first, span.last)
    return replace(track, x_px=x, y_px=y, r_px=r, state=state, confidence=confidence)


def _bridge(
    t_s: Array,
    curves: tuple[Array, Array, Array],
    state: NDArray[np.uint8],
    confidence: Array,
    first: int,
    last: int,
) -> None:
    seen = np.flatnonzero(np.isfinite(curves[0]) & (state != State.REPEATED))
    before, after = seen[seen < first][-SLOPE_FRAMES:], seen[seen > last][:SLOPE_FRAMES]
    if len(before) < 2 or len(after) < 2:
        return
    empty = np.flatnonzero(state[first : last + 1] == State.HIDDEN) + first
    for values in curves:
        slopes = [np.polyfit(t_s[side], values[side], 1)[0] for side in (before, after)]
        ends = [before[-1], after[0]]
        curve = CubicHermiteSpline(t_s[ends], values[ends], slopes)
        values[empty] = curve(t_s[empty])
    state[empty] = State.BRIDGED
    confidence[empty] = 0.5
