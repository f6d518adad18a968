"""Which instant of a lift each frame of a film shows: repeats, drops, stutters, freezes, an opening before it."""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.filming import Filming
from keen_kettle.core.simulate.lift import SimulatedLift

__all__ = [
    "frame_times",
    "frozen_frames",
    "lift_times",
    "opening_share",
    "pictures_shown",
]

Array = NDArray[np.float64]


def frame_times(lift: SimulatedLift, filming: Filming) -> Array:
    """The frames' times that cover the lift, shape (frames,), in seconds of the film."""
    begin, end = filming.shows_s or (0.0, lift.duration_s)
    if filming.runs and filming.runs_slow:
        pictures = np.resize(filming.runs, max(int(np.ceil((end - begin) * filming.fps)), 1))
        return np.arange(int(pictures.sum())) / filming.fps
    held = filming.opening_s + sum(seconds for _, seconds in filming.freezes)
    times = np.arange(0.0, (end - begin) * filming.repeat + held, 1.0 / filming.fps)
    rng = np.random.default_rng(filming.seed + 104729)
    times[1:] += filming.jitter / filming.fps * rng.uniform(-0.5, 0.5, len(times) - 1)
    kept = rng.uniform(size=len(times)) >= filming.dropped
    kept[0] = True
    return times[kept]


def pictures_shown(filming: Filming, times_s: Array) -> NDArray[np.intp]:
    """Which frame's picture each frame shows, shape (frames,): its own, or an earlier one again."""
    count = len(times_s)
    shown = _run_starts(filming, count)
    rng = np.random.default_rng(filming.seed + 15485863)
    again = rng.uniform(size=count) < filming.stuttered
    for number in np.flatnonzero(again[1:]) + 1:
        shown[number] = shown[number - 1]
    frozen = frozen_frames(filming, times_s)
    for number in np.flatnonzero(frozen[1:] & frozen[:-1]) + 1:
        shown[number] = shown[number - 1]
    return shown


def _run_starts(filming: Filming, count: int) -> NDArray[np.intp]:
    """The first frame of the run of like pictures to which each of so many frames belongs."""
    if not filming.runs:
        return np.arange(count) // filming.repeat * filming.repeat
    ends = np.cumsum(np.resize(filming.runs, count))
    starts = np.concatenate([[0], ends])
    return starts[np.searchsorted(ends, np.arange(count), side="right")]


def lift_times(filming: Filming, times_s: Array) -> Array:
    """The instant of the lift that each frame shows, shape (frames,), in seconds."""
    first = filming.shows_s[0] if filming.shows_s else 0.0
    shown = pictures_shown(filming, times_s)
    if filming.runs and filming.runs_slow:
        return np.asarray(first + np.unique(shown, return_inverse=True)[1] / filming.fps)
    run = np.maximum(times_s - filming.opening_s, 0.0)
    for begin, end, held in _spans(filming):
        inside = np.clip(times_s - begin, 0.0, end - begin)
        run -= np.where(times_s > begin, inside, 0.0)
        run = np.where((times_s >= begin) & (times_s < end), held, run)
    return np.asarray(first + (run / filming.repeat)[shown])


def frozen_frames(filming: Filming, times_s: Array) -> NDArray[np.bool_]:
    """Which frames, shape (frames,), belong to a picture that is held."""
    frozen = np.zeros(len(times_s), bool)
    for begin, end, _ in _spans(filming):
        frozen |= (times_s >= begin) & (times_s < end)
    return frozen


def opening_share(filming: Filming, times_s: Array) -> Array:
    """How much of the opening's picture lies over each frame, shape (frames,), 0 to 1."""
    if not filming.opening_s:
        return np.zeros(len(times_s))
    left = (filming.opening_s + filming.dissolve_s / 2 - times_s) / max(filming.dissolve_s, 1e-9)
    return np.clip(left, 0.0, 1.0)


def _spans(filming: Filming) -> list[tuple[float, float, float]]:
    """Begin and end of every freeze in seconds of the film, and the running time that is held (seconds of
    the film without opening and freezes)."""
    spans, before = [], filming.opening_s
    first = filming.shows_s[0] if filming.shows_s else 0.0
    for instant, seconds in sorted(filming.freezes):
        held = (instant - first) * filming.repeat
        spans.append((held + before, held + before + seconds, held))
        before += seconds
    return spans
