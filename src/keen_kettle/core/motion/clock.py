"""Whether a film's times are the lift's times, and how to set them right.

A film can be slower than the lift in two ways: filmed at a high rate and saved at a low one, or
slowed afterwards by showing pictures several times. In both, heights, order and angles are right and
speeds are not. Where pictures are repeated, the path tells which clock is the lift's: it is smooth in
the lift's own time. Told at how many pictures a second it was filmed, the clock is set right: the
pictures that differ are that far apart.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.measures import Measure
from keen_kettle.core.track import BarTrack

__all__ = [
    "IN_DIAMETERS",
    "TRUST_REPEATS",
    "Clock",
    "film_clock",
    "in_diameters",
    "repeated_share",
    "without_times",
]

TRUST_REPEATS = 0.2
"""Above this share of repeated pictures a film's times are not believed."""
DOUBTFUL_REPEATS, FEW_REPEATS = 0.1, 0.04
"""Below the first, film times that are uneven are still believed; below the second, all are."""
MOVING_SHARE, LEAST_MOVING_PX, WINDOW = 0.006, 0.2, 6
"""The bar moves plainly when it makes this share of the plate's diameter a frame over so many frames
both ways."""
CLEARLY, SMOOTH = 0.8, 0.025
"""One clock is the right one if the path is so much smoother in it, and even if it is so smooth
(diameters; house defaults from repeated, slowed and dropped pictures of known lifts)."""
FEWEST_ROUGH, LONGEST_ROUGH, FEWEST_MOVING = 6, 60, 12
GOES_ON = 0.2
FROZEN_S, FROZEN_TIMES, FROZEN_STEP = 0.25, 3, 2.0
STAYS, MOSTLY_HELD = 0.04, 0.8
"""A picture that stands for so long in the movement, so many times longer than others do, is frozen by an
editor, if the bar then goes on by no more than so many of its steps. The bar stays when it makes less
than this share of its usual step (house defaults)."""
HELD_STEP = 1e-3
"""What a repeated picture lasts in a clock that counts pictures, as a share of a step."""
SUPPOSED_M = 0.45
IN_DIAMETERS = "diameters"
"""The unit of lengths where there is no scale."""
TIMED_UNITS = ("m/s", "s", "W", "N")
RATIOS = ("rhythm", "velocity_dip")
"""Ratios of speeds: they hold only where pictures come evenly."""


Run = NDArray[np.intp]
"""Frames that show one picture again."""


@dataclass(frozen=True)
class Clock:
    """Times for every frame in seconds, and how far they can be believed.

    `slowed` is how many times slower than life the film runs (1: as filmed). `trusted`: they are the
    lift's times. `even`: speeds can at least be compared with each other, since all pictures are as
    far apart. `hangs`: about how many times too long the bar hung in the air in the film's own times
    (see `bar_pace`; 1: it did not), which is taken out.
    """

    t_s: NDArray[np.float64]
    slowed: float
    trusted: bool
    even: bool = True
    frozen_s: float = 0.0
    """How long pictures are frozen while the bar moves; that is taken out."""
    hangs: float = 1.0

    def at_pace(self, pace: float) -> "Clock":
        """The clock of a film that runs about so many times slower: near enough for what counts in tenths of a
        second, but not the lift's own."""
        t_s = self.t_s[0] + (self.t_s - self.t_s[0]) / pace
        return replace(self, t_s=t_s, slowed=self.slowed * pace, trusted=False, hangs=pace)


@dataclass(frozen=True)
class _Roughness:
    """How far the height is from a smooth curve in diameters (median over what moves), in the film's
    time and in differing pictures, and whether these come evenly."""

    film: float = 1.0
    pictures: float = 1.0
    even: bool = False


def film_clock(track: BarTrack, capture_fps: float | None) -> Clock:
    """The lift's own times.

    Where pictures are shown again while the bar moves, either the film's time is right (a film
    brought to a higher rate) or every differing picture is one step of the lift (slow motion, frozen
    pictures), or neither (pictures dropped and others held).

    Parameters
    ----------
    capture_fps : pictures a second when it was filmed; None takes the film's times, unless it
        repeats its pictures
    """
    runs, moves = _runs_in_movement(track)
    frozen = _frozen(track, runs, moves)
    repeated = _share(track, runs, moves, frozen)
    if not frozen.any():
        return _clock(track, frozen, repeated, capture_fps)
    usual = float(np.median(np.diff(track.t_s)))
    steps = np.diff(track.t_s, prepend=track.t_s[0])
    thawed = np.where(frozen, HELD_STEP * usual, steps)
    track = replace(track, t_s=track.t_s[0] + np.cumsum(thawed))
    clock = _clock(track, frozen, repeated, capture_fps)
    return replace(clock, frozen_s=float(np.sum(steps[frozen])))


def _clock(
    track: BarTrack, frozen: NDArray[np.bool_], repeated: float, capture_fps: float | None
) -> Clock:
    """The clock of a film whose frozen pictures last no time any more."""
    usual = float(np.median(np.diff(track.t_s)[~frozen[1:]]))
    if repeated <= FEW_REPEATS:
        if capture_fps is None:
            return Clock(track.t_s, 1.0, True)
        slowed = capture_fps * usual
        return Clock(track.t_s / slowed, slowed, True)
    if capture_fps is not None:
        return _by_pictures(track, usual, repeated, 1.0 / capture_fps, True, True)
    rough = _roughness(track, np.cumsum(~frozen))
    if rough.film < CLEARLY * rough.pictures:
        return Clock(track.t_s, 1.0, repeated <= TRUST_REPEATS or rough.film < SMOOTH)
    if rough.pictures >= CLEARLY * rough.film and repeated <= TRUST_REPEATS:
        return Clock(track.t_s, 1.0, repeated <= DOUBTFUL_REPEATS, False)
    evenly = rough.even and rough.pictures < SMOOTH
    return _by_pictures(track, usual, repeated, usual, False, evenly)


def _by_pictures(
    track: BarTrack, usual: float, repeated: float, step_s: float, trusted: bool, even: bool
) -> Clock:
    """A clock in which every differing picture is one step further; `usual` is the film's own step."""
    steps = np.where(track.repeats, HELD_STEP * step_s, step_s)
    steps[0] = 0.0
    slowed = usual / step_s / max(1.0 - repeated, 0.02)
    return Clock(track.t_s[0] + np.cumsum(steps), slowed, trusted, even)


def _roughness(track: BarTrack, at: NDArray[np.intp]) -> _Roughness:
    """Predict each differing picture's height from its four neighbours, in both clocks; `at` (frames,)
    counts the film's frames without those that are frozen."""
    own = np.flatnonzero(track.seen & ~track.held)
    moving = _moving(track)
    y = track.still_y_px / (2 * max(track.rim.axes_px))
    film, pictures, runs = [], [], []
    for k in range(2, len(own) - 2):
        near = own[k - 2 : k + 3]
        if not moving[near].all() or at[near[-1]] - at[near[0]] > LONGEST_ROUGH:
            continue
        others = near[[0, 1, 3, 4]]
        film.append(_miss((at[others] - at[near[2]]).astype(float), y[others], y[near[2]]))
        pictures.append(_miss(np.array([-2.0, -1.0, 1.0, 2.0]), y[others], y[near[2]]))
        runs.append(int(at[own[k + 1]] - at[own[k]]))
    if len(film) < FEWEST_ROUGH:
        return _Roughness()
    short, long = np.percentile(runs, [10, 90])
    even = bool(long <= 1.5 * short + 0.5)
    return _Roughness(float(np.median(film)), float(np.median(pictures)), even)


def _miss(at: NDArray[np.float64], values: NDArray[np.float64], here: float) -> float:
    """How far a parabola through the neighbours misses the point between them."""
    return abs(float(np.polyfit(at / float(np.ptp(at)), values, 2)[-1]) - here)


def repeated_share(track: BarTrack) -> float:
    """Share of repeated pictures while the bar moves.

    While it rests, all pictures are alike. A run of repeats lies in a movement when the bar goes on
    after it as it came: before, over it and after by a good part of its usual step, and over it by no
    more than a few of the others (a bar that comes to rest slowly also changes no picture), and in
    the same direction (a bar that lies between two lifts turns round).
    """
    runs, moves = _runs_in_movement(track)
    return _share(track, runs, moves, _frozen(track, runs, moves))


def _share(track: BarTrack, runs: list[Run] | None, moves: int, frozen: NDArray[np.bool_]) -> float:
    if runs is None:
        moving = _moving(track)
        return float(np.mean(track.held[moving])) if moving.any() else 0.0
    repeats = sum(len(run) for run in runs if not frozen[run].any())
    return repeats / max(repeats + moves, 1)


def _runs_in_movement(track: BarTrack) -> tuple[list[Run] | None, int]:
    """The runs of repeats over which the bar goes on as it came, and how many pictures of their own show
    it moving; None where too few show anything."""
    moving = _moving(track)
    own, ways, steps = _own_steps(track)
    if not moving.any() or len(own) < FEWEST_ROUGH:
        return None, 0
    plainly = moving[own[:-1]] & moving[own[1:]]
    usual = float(np.median(steps[plainly])) if plainly.any() else np.inf
    runs, moves = [], int(plainly.sum())
    for k in range(1, len(steps) - 1):
        between = np.arange(own[k] + 1, own[k + 1])
        between = between[track.held[between]]
        around = min(steps[k - 1], steps[k + 1])
        least = GOES_ON * max(usual, steps[k])
        onward = float(ways[k - 1] @ ways[k + 1]) > 0
        if len(between) and onward and steps[k] >= GOES_ON * usual and around >= least:
            runs.append(between)
            moves += not plainly[k]
    return runs, moves


def _own_steps(
    track: BarTrack,
) -> tuple[NDArray[np.intp], NDArray[np.float64], NDArray[np.float64]]:
    """The frames with pictures of their own (k,), the bar's ways between them (k - 1, 2), and how long
    these are (k - 1,); pixels."""
    own = np.flatnonzero(track.seen & ~track.held)
    ways = np.column_stack([np.diff(track.x_px[own]), np.diff(track.y_px[own])])
    return own, ways, np.hypot(ways[:, 0], ways[:, 1])


def _frozen(track: BarTrack, runs: list[Run] | None, moves: int) -> NDArray[np.bool_]:
    """Frames of pictures that an editor has frozen while the bar moves, shape (frames,).

    What is drawn on a frozen picture makes it another one for a frame, but the bar stays where it is.
    """
    frozen = np.zeros(len(track), bool)
    if runs is None:
        return frozen
    own, ways, steps = _own_steps(track)
    moving = steps[_moving(track)[own[:-1]]]
    if not len(moving):
        return frozen
    usual = float(np.median(moving))
    # Pictures that are shown once count as runs of none.
    lengths = [len(run) for run in runs] + [0] * max(moves - len(runs), 0)
    longest = FROZEN_TIMES * max(float(np.percentile(lengths, 75)), 1.0) if lengths else 1.0
    goes = np.flatnonzero(steps > STAYS * usual)
    frame_s = float(np.median(np.diff(track.t_s)[~track.held[1:]]))
    for into, out, on in zip(goes, goes[1:], goes[2:], strict=False):
        frames = np.arange(own[into + 1] + 1, own[out + 1])
        if len(frames) <= longest or float(np.mean(track.held[frames])) < MOSTLY_HELD:
            continue
        stood = len(frames) * frame_s
        beside = steps[[into, on]]
        goes_on = float(ways[into] @ ways[on]) > 0 and beside.min() >= GOES_ON * max(
            usual, steps[out]
        )
        if stood >= FROZEN_S and goes_on and steps[out] <= FROZEN_STEP * beside.max():
            frozen[frames] = True
    return frozen


def _moving(track: BarTrack) -> NDArray[np.bool_]:
    """Frames in which the bar moves plainly against the plate's own size: from frame to frame, or, where
    pictures are shown so often that this tells of few, from each picture to the next."""
    seen = np.flatnonzero(track.seen)
    if len(seen) < 2:
        return np.zeros(len(track), bool)
    plain = max(MOVING_SHARE * 2 * max(track.rim.axes_px), LEAST_MOVING_PX)
    frames = np.arange(len(track))
    path = np.column_stack([np.interp(frames, seen, v[seen]) for v in (track.x_px, track.y_px)])
    moving = (_pace(path) > plain) & (frames >= seen[0]) & (frames <= seen[-1])
    own = np.flatnonzero(track.seen & ~track.held)
    if int(moving[own].sum()) < FEWEST_MOVING and len(own) > 1:
        moving[own[_pace(path[own]) > plain]] = True
    return np.asarray(moving)


def _pace(path: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far it goes in a step, over some steps both ways, at each place of a path (n, 2); shape (n,)."""
    steps = np.arange(len(path))
    ahead, behind = np.minimum(steps + WINDOW, len(path) - 1), np.maximum(steps - WINDOW, 0)
    return np.asarray(np.hypot(*(path[ahead] - path[behind]).T) / np.maximum(ahead - behind, 1))


def without_times(measures: dict[str, Measure], clock: Clock, why: str) -> dict[str, Measure]:
    """The measures without those that the clock does not carry: all that hang on true times (speed,
    time, power, force), and ratios of speeds where pictures come unevenly."""

    def told(one: Measure) -> bool:
        timed = one.unit in TIMED_UNITS and not clock.trusted
        return not timed and (clock.even or one.id not in RATIOS)

    return {
        name: one
        if told(one) or one.value is None
        else Measure(one.id, None, None, one.unit, None, why)
        for name, one in measures.items()
    }


def in_diameters(measures: dict[str, Measure], why: str) -> dict[str, Measure]:
    """The measures of a clip without scale: lengths in plate diameters, what needs metres blank.

    They were reckoned with a plate of 450 mm, which drops out again.
    """
    return {name: _in_diameters(one, why) for name, one in measures.items()}


def _in_diameters(one: Measure, why: str) -> Measure:
    of_stature = one.id in ("peak_height_of_stature", "dip_depth_of_stature")
    if one.value is None or (one.unit in ("1", "s", "deg") and not of_stature):
        return one
    if one.unit != "m":
        return Measure(one.id, None, None, one.unit, None, why)
    sigma = one.sigma / SUPPOSED_M if one.sigma is not None else None
    return replace(one, value=one.value / SUPPOSED_M, sigma=sigma, unit=IN_DIAMETERS)
