"""Which instant of a lift each frame of a film shows: repeats, drops, stutters, freezes, an opening before it."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.lift import SimulatedLift

__all__ = [
    "Timing",
    "frame_times",
    "frozen_frames",
    "lift_times",
    "opening_share",
    "pictures_shown",
]

Array = NDArray[np.float64]


class Timing(Protocol):
    """What of `Filming` says how the film's time runs."""

    @property
    def fps(self) -> float: ...
    @property
    def seed(self) -> int: ...
    @property
    def repeat(self) -> int: ...
    @property
    def jitter(self) -> float: ...
    @property
    def dropped(self) -> float: ...
    @property
    def stuttered(self) -> float: ...
    @property
    def freezes(self) -> tuple[tuple[float, float], ...]: ...
    @property
    def opening_s(self) -> float: ...
    @property
    def dissolve_s(self) -> float: ...
    @property
    def shows_s(self) -> tuple[float, float] | None: ...
    @property
    def runs(self) -> tuple[int, ...]: ...
    @property
    def runs_slow(self) -> bool: ...


def frame_times(lift: SimulatedLift, timing: Timing) -> Array:
    """The frames' times that cover the lift, shape (frames,), in seconds of the film."""
    begin, end = timing.shows_s or (0.0, lift.duration_s)
    if timing.runs and timing.runs_slow:
        pictures = np.resize(timing.runs, max(int(np.ceil((end - begin) * timing.fps)), 1))
        return np.arange(int(pictures.sum())) / timing.fps
    held = timing.opening_s + sum(seconds for _, seconds in timing.freezes)
    times = np.arange(0.0, (end - begin) * timing.repeat + held, 1.0 / timing.fps)
    rng = np.random.default_rng(timing.seed + 104729)
    times[1:] += timing.jitter / timing.fps * rng.uniform(-0.5, 0.5, len(times) - 1)
    kept = rng.uniform(size=len(times)) >= timing.dropped
    kept[0] = True
    return times[kept]


def pictures_shown(timing: Timing, times_s: Array) -> NDArray[np.intp]:
    """Which frame's picture each frame shows, shape (frames,): its own, or an earlier one again."""
    count = len(times_s)
    shown = _run_starts(timing, count)
    rng = np.random.default_rng(timing.seed + 15485863)
    again = rng.uniform(size=count) < timing.stuttered
    for number in np.flatnonzero(again[1:]) + 1:
        shown[number] = shown[number - 1]
    frozen = frozen_frames(timing, times_s)
    for number in np.flatnonzero(frozen[1:] & frozen[:-1]) + 1:
        shown[number] = shown[number - 1]
    return shown


def _run_starts(timing: Timing, count: int) -> NDArray[np.intp]:
    """The first frame of the run of like pictures to which each of so many frames belongs."""
    if not timing.runs:
        return np.arange(count) // timing.repeat * timing.repeat
    ends = np.cumsum(np.resize(timing.runs, count))
    starts = np.concatenate([[0], ends])
    return starts[np.searchsorted(ends, np.arange(count), side="right")]


def lift_times(timing: Timing, times_s: Array) -> Array:
    """The instant of the lift that each frame shows, shape (frames,), in seconds."""
    first = timing.shows_s[0] if timing.shows_s else 0.0
    shown = pictures_shown(timing, times_s)
    if timing.runs and timing.runs_slow:
        return np.asarray(first + np.unique(shown, return_inverse=True)[1] / timing.fps)
    run = np.maximum(times_s - timing.opening_s, 0.0)
    for begin, end, held in _spans(timing):
        inside = np.clip(times_s - begin, 0.0, end - begin)
        run -= np.where(times_s > begin, inside, 0.0)
        run = np.where((times_s >= begin) & (times_s < end), held, run)
    return np.asarray(first + (run / timing.repeat)[shown])


def frozen_frames(timing: Timing, times_s: Array) -> NDArray[np.bool_]:
    """Which frames, shape (frames,), belong to a picture that is held."""
    frozen = np.zeros(len(times_s), bool)
    for begin, end, _ in _spans(timing):
        frozen |= (times_s >= begin) & (times_s < end)
    return frozen


def opening_share(timing: Timing, times_s: Array) -> Array:
    """How much of the opening's picture lies over each frame, shape (frames,), 0 to 1."""
    if not timing.opening_s:
        return np.zeros(len(times_s))
    left = (timing.opening_s + timing.dissolve_s / 2 - times_s) / max(timing.dissolve_s, 1e-9)
    return np.clip(left, 0.0, 1.0)


def _spans(timing: Timing) -> list[tuple[float, float, float]]:
    """Begin and end of every freeze in seconds of the film, and the running time that is held (seconds of
    the film without opening and freezes)."""
    spans, before = [], timing.opening_s
    first = timing.shows_s[0] if timing.shows_s else 0.0
    for instant, seconds in sorted(timing.freezes):
        held = (instant - first) * timing.repeat
        spans.append((held + before, held + before + seconds, held))
        before += seconds
    return spans
