"""Solves the near side of the body over a whole clip from what the model saw and the coach set.

The model is often sure and wrong, so its word is only one of several. All points of all looks are
solved together by least squares: each sighting pulls its point, the less the worse it fits; shank,
thigh, trunk and foot keep their usual lengths; feet stay where they are but for sudden steps; the
wrist stays at the bar; nothing jerks. What lies behind the tracked plate cannot be seen: a foot or
wrist there is not believed at all, other points little, and all are called assumed. Points set by
hand hold, and the rest is solved round them. With no sightings the same is done from the points
set by hand alone.

Lengths are in units of the body (shank, thigh and trunk together), in the picture of a camera that
stands still.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.landmarks import (
    LANDMARKS,
    BodyHand,
    BodyTrack,
    PointState,
    Sightings,
)
from keen_kettle.core.track.body.least_squares import Normal
from keen_kettle.core.track.mark import BarTrack, State

__all__ = ["solve_body"]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

K = {name: number for number, name in enumerate(LANDMARKS)}
COUNT = len(LANDMARKS)

SEEN_SIGMA = dict(
    zip(LANDMARKS, (0.020, 0.018, 0.014, 0.012, 0.014, 0.012, 0.016, 0.018, 0.012), strict=True)
)
"""How far off a sighting usually is, as a share of the body."""
STATED_SIGMA = dict(
    zip(LANDMARKS, (0.030, 0.020, 0.020, 0.010, 0.014, 0.021, 0.022, 0.030, 0.012), strict=True)
)
"""How far off a solved point is that was seen, each way (RMS on rendered films of other seeds)."""
RIGID = {
    ("toe", "heel"): 0.010,
    ("heel", "ankle"): 0.008,
    ("toe", "ankle"): 0.010,
    ("ankle", "knee"): 0.010,
    ("knee", "hip"): 0.014,
    ("hip", "shoulder"): 0.025,
    ("shoulder", "ear"): 0.05,
}
"""How much a segment's length in the picture changes (arms turn out of the picture; they may)."""
SHARES = {
    ("toe", "heel"): 0.19,
    ("heel", "ankle"): 0.055,
    ("toe", "ankle"): 0.155,
    ("ankle", "knee"): 0.315,
    ("knee", "hip"): 0.315,
    ("hip", "shoulder"): 0.37,
    ("shoulder", "ear"): 0.17,
}
"""Usual lengths as shares of the body, where a clip does not show them (Body's segment table)."""
ACCELERATION = dict(zip(LANDMARKS, (12.0, 12.0, 9.0, 9.0, 8.0, 8.0, 18.0, 18.0, 10.0), strict=True))
"""Usual accelerations, bodies per second squared."""
STEP = {"toe": 0.0008, "heel": 0.012}
"""A standing foot moves no more than this from look to look (robust: steps may be large)."""
FLOOR_SIGMA = {"toe": 0.006, "heel": 0.006, "ankle": 0.010}
"""Feet stand at the height at which they mostly do; heels are held there only while unseen."""
ASTRIDE = 0.3
"""Feet seen so far apart: which of them is the near one cannot be told."""
GRIP_SIGMA = 0.035
"""The wrist of a hand on the bar lies about so far from the bar's middle ..."""
LET_GO = 0.6
"""... and a hand that is seen this far from it has let go."""
VOTES = 11
UPPER_ARM, FOREARM, ARM_SIGMA = 0.25, 0.29, 0.01
ARM_SHARE, ARM_SHARE_SIGMA = 0.9, 0.03
"""Arms lean out of the picture: they look shorter than they are, both halves alike."""
OVERHEAD = 0.25
"""A bar so far above or below the shoulder hangs on arms that are nearly straight."""
BEHIND = 1.04
"""A point within so many plate radii of its middle lies behind the plate."""
UNSEEABLE = ("toe", "heel", "ankle", "wrist")
"""Behind a plate these are not believed at all; the others a little."""
LITTLE, FAINT = 5.0, 1.5
LEAST_PRESENCE = 0.3
FAR_OFF = 3.0
"""A sighting so many sigmas from the solved point was wrong."""
OUT_OF_PROPORTION, LEAST_OUT = 0.25, 0.05
"""A segment that is seen so much longer or shorter than usual makes its ends doubtful."""
HAND_SIGMA, STILL_SIGMA = 0.0008, 0.0004
ROUNDS, STEPS = 3, 5
GUESS_GROWTH = 4.0


@dataclass(frozen=True)
class _Evidence:
    """All that pulls at the points of the looks (`nodes`), in units of the body.

    `seen` (n, 9, 2), NaN where not; `sure` (n, 9) presence; `hand` (n, 9, 2); `hidden` (n, 9);
    `planted` (n,) from this node to the next; `bar` (n, 2); `plate` (n,) radius, NaN if none;
    `astride` (n,) where one foot is far before the other; `floor` where feet mostly stand.
    """

    nodes: NDArray[np.int32]
    t_s: Array
    seen: Array
    sure: Array
    hand: Array
    hidden: Mask
    planted: Mask
    bar: Array
    plate: Array
    astride: Mask
    unit: float
    floor: dict[str, float]


def solve_body(
    t_s: Array,
    facing: str,
    sightings: Sightings | None,
    hand: BodyHand,
    bar: BarTrack | None = None,
    with_plate: bool = True,
) -> BodyTrack | None:
    """The near side's points in every frame; None when nothing at all is known of the body.

    Parameters
    ----------
    t_s : shape (frames,), seconds
    facing : "right" or "left"; the near side is that side of the lifter
    bar : the bar's path, which tells what the plate covers, where the hands are and how the
        camera moved
    with_plate : whether a plate is followed (a bell or a sleeve's cap covers nothing)
    """
    evidence = _evidence(t_s, facing, sightings, hand, bar, with_plate)
    if evidence is None:
        return None
    lengths = _lengths(evidence)
    points, covered = _solve(evidence, lengths)
    states, sure = _states(evidence, points, covered, lengths)
    breadth = sightings.breadth() if sightings is not None else float("nan")
    camera = _camera(bar, len(t_s))
    apart = sightings.feet_apart_px(len(t_s)) if sightings is not None else None
    whole = _to_frames(evidence, points, states, sure, t_s, camera, facing, lengths, breadth)
    return replace(whole, apart_px=apart)


def _evidence(
    t_s: Array,
    facing: str,
    sightings: Sightings | None,
    hand: BodyHand,
    bar: BarTrack | None,
    with_plate: bool,
) -> _Evidence | None:
    count = len(t_s)
    side = 1 if facing == "right" else 0
    looked = np.zeros(0, np.int32)
    if sightings is not None and sightings.found.any():
        looked = sightings.frames[sightings.found]
    set_by_hand = np.array([p.frame for p in hand.points if 0 <= p.frame < count], np.int32)
    known = np.concatenate([looked, set_by_hand])
    if not len(known):
        return None
    steps = sightings.frames if sightings is not None else _evenly(t_s, known.min(), known.max())
    inside = steps[(steps >= known.min()) & (steps <= known.max())]
    nodes = np.unique(np.concatenate([inside, known])).astype(np.int32)
    row_of = {int(frame): row for row, frame in enumerate(nodes)}
    seen = np.full((len(nodes), COUNT, 2), np.nan)
    sure = np.zeros((len(nodes), COUNT))
    apart = np.zeros(len(nodes))
    camera = _camera(bar, count)[nodes]
    if sightings is not None:
        rows = [row_of[int(frame)] for frame in looked]
        seen[rows] = sightings.possible(side)[sightings.found]
        sure[rows] = sightings.presence[sightings.found, side]
        feet = sightings.points[sightings.found, :, K["ankle"], 0]
        apart[rows] = np.abs(feet[:, 0] - feet[:, 1])
    by_hand = np.full_like(seen, np.nan)
    for p in hand.points:
        if p.frame in row_of and p.name in K:
            by_hand[row_of[p.frame], K[p.name]] = p.x, p.y
    seen -= camera[:, None]
    by_hand -= camera[:, None]
    unit = _unit(seen, by_hand)
    hidden = np.zeros((len(nodes), COUNT), bool)
    planted = np.zeros(len(nodes), bool)
    for span in hand.spans:
        frames = (nodes >= span.first) & (nodes <= span.last)
        if span.kind == "hidden" and span.name in K:
            hidden[frames, K[span.name]] = True
        elif span.kind == "planted":
            planted[:-1] |= frames[:-1] & frames[1:]
    place, plate = _bar_at(bar, nodes, with_plate)
    gathered = _Evidence(
        nodes,
        t_s[nodes],
        seen / unit,
        sure,
        by_hand / unit,
        hidden,
        planted,
        (place - camera) / unit,
        plate / unit,
        apart > ASTRIDE * unit,
        unit,
        {},
    )
    return replace(gathered, floor=_floor(gathered))


def _floor(e: _Evidence) -> dict[str, float]:
    """The height at which each point of the foot mostly is when it can be seen (median)."""
    hidden = _behind(e, e.seen) | e.hidden
    found = {}
    for name in FLOOR_SIGMA:
        y = np.where(hidden[:, K[name]] | e.astride, np.nan, e.seen[:, K[name], 1])
        y = y[np.isfinite(y)]
        if len(y) >= 5:
            found[name] = float(np.median(y))
    return found


def _evenly(t_s: Array, first: int, last: int) -> NDArray[np.int32]:
    step = max(round(1 / 30 / max(float(np.median(np.diff(t_s))), 1e-6)), 1)
    return np.arange(first, last + 1, step, dtype=np.int32)


def _camera(bar: BarTrack | None, count: int) -> Array:
    """How far the camera's movement carried things, (frames, 2)."""
    return np.zeros((count, 2)) if bar is None else bar.camera_in_all_frames_px()


def _bar_at(
    bar: BarTrack | None, nodes: NDArray[np.int32], with_plate: bool
) -> tuple[Array, Array]:
    """The bar's place and the plate's radius at the nodes; NaN where unknown."""
    if bar is None:
        return np.full((len(nodes), 2), np.nan), np.full(len(nodes), np.nan)
    place = np.column_stack([bar.x_px, bar.y_px])[nodes]
    place[(bar.state == State.LOST)[nodes]] = np.nan
    radius = max(bar.rim.axes_px) if with_plate else np.nan
    return place, np.full(len(nodes), radius)


def _unit(seen: Array, by_hand: Array) -> float:
    """Shank, thigh and trunk together in pixels, from whatever shows them (median)."""
    points = np.where(np.isfinite(by_hand), by_hand, seen)
    sizes = []
    for (a, b), share in SHARES.items():
        if share < 0.3:
            continue
        way = points[:, K[a]] - points[:, K[b]]
        apart = np.hypot(way[:, 0], way[:, 1])
        apart = apart[np.isfinite(apart)]
        if len(apart):
            sizes.append(float(np.median(apart)) / share)
    if sizes:
        return max(float(np.median(sizes)), 8.0)
    known = points[np.isfinite(points[..., 0])]
    return max(float(np.ptp(known, axis=0).max(initial=0.0)), 100.0)


def _lengths(e: _Evidence) -> dict[tuple[str, str], float]:
    """Usual length of every segment: the median over looks in which both its ends can be seen."""
    points = np.where(np.isfinite(e.hand), e.hand, e.seen)
    clear = np.isfinite(e.hand[..., 0]) | (~_covered(e, e.seen) & ~e.hidden)
    found = {}
    for (a, b), share in SHARES.items():
        way = points[:, K[a]] - points[:, K[b]]
        apart = np.hypot(way[:, 0], way[:, 1])
        both = clear[:, K[a]] & clear[:, K[b]] & np.isfinite(apart)
        found[a, b] = float(np.median(apart[both])) if both.sum() >= 1 else share
    return found


def _behind(e: _Evidence, points: Array) -> Mask:
    """Which points (n, 9, 2) lie behind the plate."""
    away = np.hypot(*(points - e.bar[:, None]).transpose(2, 0, 1))
    with np.errstate(invalid="ignore"):
        return np.asarray(away < BEHIND * e.plate[:, None])


def _solve(e: _Evidence, lengths: dict[tuple[str, str], float]) -> tuple[Array, Mask]:
    """Points (n, 9, 2) and what was behind the plate (n, 9)."""
    covered = _covered(e, e.seen)
    points = _begin(e, covered)
    for _ in range(ROUNDS):
        sigma = _seen_sigma(e, covered, _in_proportion(e, lengths))
        for _ in range(STEPS):
            points = _better(e, lengths, points, sigma)
        covered = _covered(e, e.seen) | _behind(e, points)
    return points, covered


def _covered(e: _Evidence, points: Array) -> Mask:
    """What the plate hides: all that lies behind it, and the wrist of a hand on the bar."""
    hidden = _behind(e, points)
    hidden[:, K["wrist"]] |= _gripping(e) & np.isfinite(e.plate)
    return hidden


def _grip(e: _Evidence) -> tuple[Array, Array]:
    """Targets (n, 9, 2) and sigmas (n, 9) that hold the wrist at the bar."""
    target = np.full((len(e.nodes), COUNT, 2), np.nan)
    target[:, K["wrist"]] = e.bar
    sigma = np.full((len(e.nodes), COUNT), np.inf)
    sigma[_gripping(e), K["wrist"]] = GRIP_SIGMA
    return target, sigma


def _gripping(e: _Evidence) -> Mask:
    """Looks in which the hand is on the bar, as far as can be seen."""
    away = np.hypot(*(e.seen[:, K["wrist"]] - e.bar).T)
    with np.errstate(invalid="ignore"):
        near = (~(away > LET_GO)).astype(float)
    # One wild sighting is no hand that lets go: the looks round it vote.
    votes = np.convolve(near, np.ones(VOTES), mode="same") / np.convolve(
        np.ones(len(near)), np.ones(VOTES), mode="same"
    )
    return np.asarray(np.isfinite(e.bar[:, 0]) & (votes >= 0.5))


def _seen_sigma(e: _Evidence, covered: Mask, fits: Mask) -> Array:
    """How much each sighting may be off, (n, 9); infinite where it is not believed."""
    sigma = np.tile([SEEN_SIGMA[name] for name in LANDMARKS], (len(e.nodes), 1))
    sigma = np.where(e.sure < LEAST_PRESENCE, FAINT * sigma, sigma)
    deaf = np.array([name in UNSEEABLE for name in LANDMARKS])
    doubtful = covered | ~fits
    sigma = np.where(doubtful, np.where(deaf, np.inf, LITTLE * sigma), sigma)
    unseen = ~np.isfinite(e.seen[..., 0]) | e.hidden | np.isfinite(e.hand[..., 0])
    return np.where(unseen, np.inf, sigma)


def _begin(e: _Evidence, covered: Mask) -> Array:
    """A first answer: what was seen or set, with straight ways between."""
    deaf = np.array([name in UNSEEABLE for name in LANDMARKS])
    begun = np.where((covered & deaf)[..., None], np.nan, e.seen)
    begun = np.where(e.hidden[..., None], np.nan, begun)
    begun = np.where(np.isfinite(e.hand), e.hand, begun)
    for k in range(COUNT):
        known = np.isfinite(begun[:, k, 0])
        if not known.any():
            begun[:, k] = e.seen[:, k]
            known = np.isfinite(begun[:, k, 0])
        for axis in (0, 1):
            values = begun[known, k, axis]
            begun[:, k, axis] = np.interp(e.t_s, e.t_s[known], values) if known.any() else np.nan
    middle = np.nanmean(begun, axis=(0, 1))
    return np.where(np.isfinite(begun), begun, middle)


def _better(
    e: _Evidence, lengths: dict[tuple[str, str], float], points: Array, seen_sigma: Array
) -> Array:
    """One Gauss–Newton step."""
    normal = Normal(points)
    normal.pull(e.hand, np.full(points.shape[:2], HAND_SIGMA), robust=False)
    normal.pull(e.seen, seen_sigma, robust=True)
    for (a, b), sigma in RIGID.items():
        normal.hold_length(K[a], K[b], lengths[a, b], sigma)
    normal.pull(*_grip(e), robust=False)
    shoulder, elbow, wrist = K["shoulder"], K["elbow"], K["wrist"]
    normal.hold_length(shoulder, elbow, UPPER_ARM, ARM_SIGMA, at_most=True)
    normal.hold_length(elbow, wrist, FOREARM, ARM_SIGMA, at_most=True)
    above = points[:, shoulder, 1] - e.bar[:, 1]
    with np.errstate(invalid="ignore"):
        stretched = np.where(_gripping(e) & (np.abs(above) > OVERHEAD), ARM_SHARE_SIGMA, np.inf)
        normal.hold_share(shoulder, elbow, wrist, ARM_SHARE, stretched, ~(above > OVERHEAD))
    for name, step in STEP.items():
        steps = np.where(e.planted[:-1], STILL_SIGMA, step)
        normal.stand(K[name], steps, ~e.planted[:-1])
    for name, level in e.floor.items():
        believed = np.isfinite(seen_sigma[:, K[name]]) & (name != "toe")
        normal.ground(K[name], level, np.where(believed, np.inf, FLOOR_SIGMA[name]))
    normal.smooth(e.t_s, np.array([ACCELERATION[name] for name in LANDMARKS]))
    return normal.step()


def _states(
    e: _Evidence, points: Array, covered: Mask, lengths: dict[tuple[str, str], float]
) -> tuple[NDArray[np.uint8], Array]:
    """State (n, 9) of each point and how sure it is (n, 9).

    The model's own presence says little: it is low for limbs in plain sight and high for a foot
    behind a plate. So agreement decides: with the solved point, and of the segments' lengths.
    """
    usual = np.array([SEEN_SIGMA[name] for name in LANDMARKS])
    off = np.hypot(*(points - e.seen).transpose(2, 0, 1)) / usual
    with np.errstate(invalid="ignore"):
        measured = (off <= FAR_OFF) & ~covered & _in_proportion(e, lengths)
    measured[:, : K["knee"] + 1] &= ~e.astride[:, None]
    state = np.where(measured, PointState.MEASURED, PointState.ASSUMED).astype(np.uint8)
    state[np.isfinite(e.hand[..., 0])] = PointState.BY_HAND
    state[e.hidden & (state != PointState.BY_HAND)] = PointState.HIDDEN
    never = ~(np.isfinite(e.seen[..., 0]) | np.isfinite(e.hand[..., 0])).any(axis=0)
    state[:, never] = PointState.MISSING
    sure = np.where(measured, np.clip(1 - off / (2 * FAR_OFF), 0.3, 1.0), 0.3)
    sure[state == PointState.BY_HAND] = 1.0
    sure[(state == PointState.HIDDEN) | (state == PointState.MISSING)] = 0.0
    return state, sure


def _in_proportion(e: _Evidence, lengths: dict[tuple[str, str], float]) -> Mask:
    """(n, 9): whether no segment that ends in a sighting is badly out of its usual length."""
    fits = np.ones(e.seen.shape[:2], bool)
    for a, b in RIGID:
        way = e.seen[:, K[a]] - e.seen[:, K[b]]
        with np.errstate(invalid="ignore"):
            off = np.abs(np.hypot(way[:, 0], way[:, 1]) - lengths[a, b])
            bad = off > np.maximum(OUT_OF_PROPORTION * lengths[a, b], LEAST_OUT)
        fits[:, K[a]] &= ~bad
        fits[:, K[b]] &= ~bad
    # A foot at the end of a wrong shank is on something else.
    fits[:, [K["toe"], K["heel"]]] &= fits[:, [K["ankle"]]]
    return fits


def _sigma(e: _Evidence, state: NDArray[np.uint8]) -> Array:
    """Standard uncertainty (n, 9), bodies: more, the longer a point has not been seen."""
    usual = np.array([STATED_SIGMA[name] for name in LANDMARKS])
    sigma = np.tile(usual, (len(state), 1))
    for k in range(COUNT):
        firm = np.flatnonzero(
            (state[:, k] == PointState.MEASURED) | (state[:, k] == PointState.BY_HAND)
        )
        if not len(firm):
            sigma[:, k] *= GUESS_GROWTH
            continue
        gap = np.abs(e.t_s[:, None] - e.t_s[firm]).min(axis=1)
        guessed = state[:, k] != PointState.MEASURED
        sigma[:, k] *= np.where(guessed, 1 + (GUESS_GROWTH - 1) * np.minimum(gap / 0.25, 1), 1)
    by_hand = state == PointState.BY_HAND
    sigma[by_hand] = np.minimum(sigma, 0.006)[by_hand]
    return sigma


def _to_frames(
    e: _Evidence,
    points: Array,
    states: NDArray[np.uint8],
    sure: Array,
    t_s: Array,
    camera: Array,
    facing: str,
    lengths: dict[tuple[str, str], float],
    breadth: float,
) -> BodyTrack:
    """From the looks to all frames: smooth curves between them, back in the film's pixels."""
    from scipy.interpolate import CubicSpline  # loaded here: it takes a while

    count = len(t_s)
    x, y = np.full((count, COUNT), np.nan), np.full((count, COUNT), np.nan)
    sigma, confidence = x.copy(), np.zeros((count, COUNT))
    state = np.full((count, COUNT), PointState.MISSING, np.uint8)
    frames = np.arange(e.nodes[0], e.nodes[-1] + 1)
    if len(e.nodes) >= 2:
        smooth = CubicSpline(e.t_s, points)(t_s[frames]) * e.unit
    else:
        smooth = points * e.unit
    x[frames] = smooth[..., 0] + camera[frames, 0:1]
    y[frames] = smooth[..., 1] + camera[frames, 1:2]
    nearest = np.abs(t_s[frames][:, None] - e.t_s).argmin(axis=1)
    state[frames] = states[nearest]
    between = np.ones(count, bool)
    between[e.nodes] = False
    lent = between[frames][:, None] & (state[frames] == PointState.BY_HAND)
    state[frames] = np.where(lent, PointState.ASSUMED, state[frames])
    sigma[frames] = _sigma(e, states)[nearest] * e.unit
    confidence[frames] = sure[nearest]
    gone = state == PointState.MISSING
    for values in (x, y, sigma):
        values[gone] = np.nan
    px = {pair: length * e.unit for pair, length in lengths.items()}
    whole = BodyTrack(t_s, x, y, sigma, confidence, state, facing, px, breadth)
    return _with_exact_hand(whole, e, camera)


def _with_exact_hand(track: BodyTrack, e: _Evidence, camera: Array) -> BodyTrack:
    """Points set by hand lie exactly where they were set."""
    x, y = track.x_px.copy(), track.y_px.copy()
    for row, k in zip(*np.nonzero(np.isfinite(e.hand[..., 0])), strict=True):
        frame = e.nodes[row]
        x[frame, k], y[frame, k] = e.hand[row, k] * e.unit + camera[frame]
    return replace(track, x_px=x, y_px=y)
