"""The bar's movement in metres, smoothed, with an uncertainty for every velocity."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from keen_kettle.core.motion.smooth import choose_cutoff, low_pass, noise_gain
from keen_kettle.core.track import BarTrack, Scale, State

__all__ = ["BarMotion", "bar_motion"]

Array = NDArray[np.float64]

LONGEST_BRIDGE_S = 0.12
"""Shorter gaps are bridged by interpolation; longer ones stay gaps."""
CUTOFF_SHARE = 0.6
"""One sigma of the smoothing, as a share of what a 1.5 times higher cut-off changes (calibrated)."""
MISSING_SHARE = 1.5
"""One sigma of what missing pictures do, as a share of what straight lines between the others change (exact
paths with repeated and dropped pictures)."""
STAMP_SIGMA_S = 0.0005
"""Stamps are rounded to a millisecond by some containers, and rows are not exposed all at once."""
GAP = 1.5
"""Pictures are missing where the next one comes after more than so many times the usual time."""
CURVES = ("x", "y", "vx", "vy", "ay", "bias_x", "bias_y")
FEWEST = 8
"""Fewer frames cannot be smoothed."""
LEAST_NOISE_PX, RESTING_STEP = 0.1, 0.05
"""No path is surer than this from frame to frame; a bar that has made less than this share of its largest
step up rests (house defaults)."""
TRACKING_SIGMA = 0.0025
"""A tracked place's slow wander, as a share of the plate's diameter (RMS on the bench)."""


@dataclass(frozen=True)
class BarMotion:
    """The bar in metres over the film's frames; all arrays have shape (frames,).

    x is positive to the front of the lifter, y up, and both start from the first seen frame
    (lift-off is subtracted by the measures). NaN where the bar is not known. `vx_mps`, `vy_mps`,
    `ay_mps2` come from the smoothed path; `vx_sigma_mps` and `vy_sigma_mps` are the velocities'
    standard uncertainties from pixel noise, time stamps, smoothing and scale. `raw_y_m` and `raw_x_m` are
    unsmoothed. `position_sigma_m` is the noise from frame to frame; `place_sigma_m` joins it with
    the tracker's slow wander, which no smoothing shows.
    """

    t_s: Array
    raw_x_m: Array
    raw_y_m: Array
    x_m: Array
    y_m: Array
    vx_mps: Array
    vy_mps: Array
    ay_mps2: Array
    vx_sigma_mps: Array
    vy_sigma_mps: Array
    position_sigma_m: float
    place_sigma_m: float
    cutoff_hz: float
    scale_sigma: float
    confidence: Array
    frame_s: float
    """The usual time between two pictures that are not the same."""
    held: NDArray[np.bool_] | None = None
    """Frames that show the picture before them again."""
    rested: NDArray[np.intp] | None = None
    """Those of them, (k,), that end a rest: the bar is still there."""
    even: bool = True
    """Whether speeds can be compared with each other (see `Clock`)."""
    lean_sigma: float = 0.0
    """How far forward a rise of one metre may look because the vertical is not known better."""

    @property
    def own_frames(self) -> NDArray[np.intp]:
        """The frames, (k,), that tell where the bar is in their own moment: those that do not show the picture
        before them again, and the last of a rest."""
        known = np.isfinite(self.raw_y_m)
        own = known if self.held is None else known & ~self.held
        if self.rested is not None:
            own[self.rested[known[self.rested]]] = True
        return np.flatnonzero(own)

    def apart_s(self, first: int, last: int) -> float:
        """The longest time between two pictures of their own round and between two frames."""
        own = self.own_frames
        begin = max(int(np.searchsorted(own, first, side="right")) - 1, 0)
        end = int(np.searchsorted(own, last, side="left")) + 1
        times = self.t_s[own[begin : max(end, begin + 2)]]
        return float(np.max(np.diff(times), initial=0.0))


def bar_motion(
    track: BarTrack,
    scale: Scale,
    facing: str,
    cutoff_hz: float | None = None,
    steady: bool = True,
) -> BarMotion:
    """Smooth a track and turn it into metres.

    Parameters
    ----------
    facing : "right" or "left", where the lifter looks in the picture
    cutoff_hz : low-pass cut-off; None finds it by residual analysis of the height
    steady : take the camera's own movement out, where it was found
    """
    own = track.seen & ~track.held
    seen = np.flatnonzero(own)
    if len(seen) < FEWEST:
        return _unknown(track, scale)
    raw_x, raw_y = _in_metres(track, scale, facing, steady, int(seen[0]))
    frame_s = float(np.median(np.diff(track.t_s[seen])))
    rate = 1.0 / frame_s
    told = _with_holds(track, seen)
    spans = _spans(track.t_s, told, track.held)
    if cutoff_hz is None:
        cutoff_hz = _cutoff(track.t_s, (raw_x, raw_y), max(spans, key=len), rate)
    curves = {name: np.full(len(track), np.nan) for name in CURVES}
    missed = [
        _smooth_span(raw_x, raw_y, span, rate, cutoff_hz, curves, track)
        for span in spans
        if len(span) >= FEWEST
    ]
    noise = _noise(missed, raw_y[seen] if track.held.any() else None, rate, cutoff_hz)
    noise = max(noise, LEAST_NOISE_PX * scale.m_per_px)
    _, gain_v = noise_gain(rate, cutoff_hz)
    return BarMotion(
        t_s=track.t_s,
        raw_x_m=_hold(np.where(own, raw_x, np.nan), track.held),
        raw_y_m=_hold(np.where(own, raw_y, np.nan), track.held),
        x_m=curves["x"],
        y_m=curves["y"],
        vx_mps=curves["vx"],
        vy_mps=curves["vy"],
        ay_mps2=curves["ay"],
        vx_sigma_mps=_speed_sigma(curves["vx"], curves["bias_x"], gain_v, noise, scale),
        vy_sigma_mps=_speed_sigma(curves["vy"], curves["bias_y"], gain_v, noise, scale),
        position_sigma_m=noise,
        place_sigma_m=float(np.hypot(noise, TRACKING_SIGMA * scale.diameter_mm / 1000)),
        cutoff_hz=cutoff_hz,
        scale_sigma=scale.relative_sigma,
        confidence=track.confidence,
        frame_s=frame_s,
        held=np.asarray(track.held),
        rested=np.setdiff1d(told, seen),
        lean_sigma=float(np.tan(np.radians(track.vertical.sigma_deg))),
    )


def _in_metres(
    track: BarTrack, scale: Scale, facing: str, steady: bool, first: int
) -> tuple[Array, Array]:
    """How far forward and up the bar is from where it is in the frame `first`, (frames,) each, metres."""
    x_px = track.still_x_px if steady else track.x_px
    y_px = track.still_y_px if steady else track.y_px
    across, up = track.vertical.upright(x_px - x_px[first], y_px[first] - y_px)
    sign = 1.0 if facing == "right" else -1.0
    return sign * across * scale.m_per_px, up * scale.m_per_px


def _cutoff(t_s: Array, ways: tuple[Array, Array], longest: NDArray[np.intp], rate: float) -> float:
    """The cut-off (Hz) that both ways need, found on the longest span."""
    evened = (_even(t_s[longest], way[longest], rate)[1] for way in ways)
    return max(choose_cutoff(values, rate) for values in evened)


def _speed_sigma(v: Array, bias: Array, gain: float, noise: float, scale: Scale) -> Array:
    """Standard uncertainty of a velocity (frames,), m/s: from noise, time stamps, smoothing and scale.

    A stamp that is off moves the point by velocity × that time.
    """
    placed = noise**2 + (STAMP_SIGMA_S * v) ** 2
    return np.asarray(np.sqrt(gain**2 * placed + bias**2 + (scale.relative_sigma * v) ** 2))


def _unknown(track: BarTrack, scale: Scale) -> BarMotion:
    """Where the bar is seen in too few frames, its movement is not known."""
    blank = np.full(len(track), np.nan)
    return BarMotion(
        *(track.t_s, blank, blank, blank, blank, blank, blank, blank, blank, blank),
        position_sigma_m=0.0,
        place_sigma_m=0.0,
        cutoff_hz=0.0,
        scale_sigma=scale.relative_sigma,
        confidence=track.confidence,
        frame_s=float(np.median(np.diff(track.t_s))),
    )


def _noise(missed: list[Array], in_order: Array | None, rate: float, cutoff_hz: float) -> float:
    """The noise of a height from frame to frame, metres.

    `missed` are the residuals of the smoothing; what the filter took away is the noise less the part
    that it let through. Where pictures repeat, uneven times would pass for noise; the heights
    `in_order` do not know them.
    """
    gain_p, _ = noise_gain(rate, cutoff_hz)
    residual = np.concatenate(missed) if missed else np.zeros(1)
    noise = float(np.sqrt(np.mean(residual**2) / max(1 - gain_p**2, 0.2)))
    if in_order is None:
        return noise
    bends = np.abs(np.diff(in_order, 2))
    return min(noise, float(1.4826 * np.median(bends) / np.sqrt(6)))


def _hold(values: Array, held: NDArray[np.bool_]) -> Array:
    """A repeated picture shows what the one before it showed."""
    out = values.copy()
    for frame in np.flatnonzero(held):
        if frame and not np.isfinite(out[frame]):
            out[frame] = out[frame - 1]
    return out


def _with_holds(track: BarTrack, seen: NDArray[np.intp]) -> NDArray[np.intp]:
    """The seen frames, and the last one of each picture that stood for long with the bar at rest, (k,).

    A picture that is shown again says nothing of its own moment, but where nothing in the hall moves
    every picture is the one before: at the end of that the bar is still there, and what it makes in
    the next picture is not spread over all of the rest. A picture that an editor has frozen in the
    pull is told by the step before it.
    """
    held = track.held
    ends = np.flatnonzero(held & ~np.append(held[1:], False) & np.isfinite(track.x_px))
    place = np.searchsorted(seen, ends) - 1
    ends, place = ends[place >= 0], place[place >= 0]
    steps = np.hypot(np.diff(track.x_px[seen], prepend=0), np.diff(track.y_px[seen], prepend=0))
    steps[0] = 0.0
    # Against what is lifted: a bar that is dropped falls several times as fast.
    lifted = float(np.max(-np.diff(track.y_px[seen]), initial=0.0)) or float(np.max(steps))
    resting = steps <= RESTING_STEP * lifted
    # In the middle of the movement pictures may be shown as long: then a long one is no rest.
    moving = ~resting[1:-1] & ~resting[2:]
    longest = float(np.max(np.diff(track.t_s[seen])[1:][moving], initial=0.0))
    stood = track.t_s[ends] - track.t_s[seen[place]] > max(LONGEST_BRIDGE_S, longest)
    return np.union1d(seen, ends[stood & resting[place]])


def _spans(t_s: Array, seen: NDArray[np.intp], held: NDArray[np.bool_]) -> list[NDArray[np.intp]]:
    """Seen frames, split where more than the longest bridge is missing. What a repeated picture shows
    is known, so a run of them parts nothing, however long."""
    usual = float(np.median(np.diff(t_s[seen])))
    unknown = np.cumsum(~held)
    between = np.diff(unknown[seen]) - 1
    apart = np.diff(t_s[seen]) > max(LONGEST_BRIDGE_S, 2.5 * usual)
    breaks = np.flatnonzero(apart & (between > 0)) + 1
    return list(np.split(seen, breaks))


def _even(
    t_s: Array, values: Array, rate: float, shown: NDArray[np.bool_] | None = None
) -> tuple[Array, Array, Array]:
    """Evenly spaced times, and the values there (each (n,)): on a curve through the known ones, and on
    straight lines between those that are `shown` and not bridged (all, unless it is said). They differ where
    pictures are missing: lines lie too low round the fastest.
    """
    count = max(round((t_s[-1] - t_s[0]) * rate) + 1, 2)
    grid = np.linspace(t_s[0], t_s[-1], count)
    lines = np.interp(grid, t_s, values)
    curve = lines
    if len(t_s) >= FEWEST and float(np.max(np.diff(t_s))) >= GAP * float(np.median(np.diff(t_s))):
        curve = np.asarray(PchipInterpolator(t_s, values)(grid))
    if shown is not None and 0 < shown.sum() < len(shown):
        lines = np.interp(grid, t_s[shown], values[shown])
    return grid, curve, lines


def _smooth_span(
    raw_x: Array,
    raw_y: Array,
    span: NDArray[np.intp],
    rate: float,
    cutoff_hz: float,
    curves: dict[str, Array],
    track: BarTrack,
) -> Array:
    """Smooth one span into `curves`; returns the height residuals of its seen frames."""
    t_s, held, shown = track.t_s, track.held, track.state[span] != State.BRIDGED
    grid, even_x, lines_x = _even(t_s[span], raw_x[span], rate, shown)
    _, even_y, lines_y = _even(t_s[span], raw_y[span], rate, shown)
    step = grid[1] - grid[0]
    x, y = low_pass(even_x, rate, cutoff_hz), low_pass(even_y, rate, cutoff_hz)
    vx, vy = np.gradient(x, step), np.gradient(y, step)
    ay = np.gradient(vy, step)
    # How much the answer hangs on the cut-off, and on what is missing, is the smoothing's own uncertainty.
    bias_x, bias_y = (
        np.hypot(
            CUTOFF_SHARE * (np.gradient(low_pass(even, rate, 1.5 * cutoff_hz), step) - v),
            0.0
            if lines is even
            else MISSING_SHARE * (np.gradient(low_pass(lines, rate, cutoff_hz), step) - v),
        )
        for even, lines, v in ((even_x, lines_x, vx), (even_y, lines_y, vy))
    )
    last = int(span[-1])
    while last + 1 < len(t_s) and held[last + 1]:
        last += 1
    frames = np.arange(span[0], last + 1)
    rows = {"x": x, "y": y, "vx": vx, "vy": vy, "ay": ay, "bias_x": bias_x, "bias_y": bias_y}
    for name, values in rows.items():
        curves[name][frames] = np.interp(t_s[frames], grid, values)
    return np.asarray(raw_y[span] - np.interp(t_s[span], grid, y))
