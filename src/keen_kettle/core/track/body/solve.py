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

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.arms import elbows_back, hanging_elbows
from keen_kettle.core.track.body.doubt import (
    doubt_as_before,
    doubt_of,
    feet_stand,
    loses_the_body,
)
from keen_kettle.core.track.body.evidence import (
    COUNT,
    FAR_GRIP_SIGMA,
    FLOOR_SIGMA,
    ROW_OF,
    SHARES,
    Evidence,
    behind_plate,
    camera_of,
    covered_by_plate,
    gather,
    gripping,
    how_fast,
    repeats_of,
    usual_lengths,
)
from keen_kettle.core.track.body.landmarks import (
    CARRIED,
    LANDMARKS,
    BodyHand,
    BodyTrack,
    PointState,
    Sightings,
)
from keen_kettle.core.track.body.least_squares import Normal
from keen_kettle.core.track.mark import BarTrack

__all__ = ["solve_body"]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

SEEN_SIGMA = dict(
    zip(LANDMARKS, (0.020, 0.018, 0.014, 0.012, 0.014, 0.012, 0.016, 0.018, 0.012), strict=True)
)
"""How far off a sighting usually is, as a share of the body."""
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
ACCELERATION = dict(zip(LANDMARKS, (12.0, 12.0, 9.0, 9.0, 8.0, 8.0, 18.0, 18.0, 10.0), strict=True))
"""Usual accelerations, bodies per second squared."""
HIP_DRIVES = 4.0
"""The hip throws the bar: while that is fast, it is accelerated by so many times more (in simulated lifts 35, with
a slow bar 2 to 10). Shoulder and knee are too, but lengths hold them to it; let loose themselves, elbow and
ear wander behind the bar."""
STEP = {"toe": 0.0008, "heel": 0.012}
"""A standing foot moves no more than this from look to look (robust: steps may be large)."""
CARRY_SIGMA, CARRY_GROWS, CARRY_MOST = 0.0005, 0.028, 0.0035
"""How exactly patches of the picture tell how a part of the body moves from look to look: what stands is told
best, and what moves with the root of how far it does (69,000 moves in 80 lifelike films; bodies)."""
GRIP_SIGMA = 0.035
"""The wrist of a hand on the bar lies about so far from the bar's middle."""
UPPER_ARM, FOREARM, ARM_SIGMA = 0.25, 0.29, 0.01
LONGEST_ARM = 1.25
ARM_SHARE, ARM_SHARE_SIGMA = 0.9, 0.03
"""Arms lean out of the picture: they look shorter than they are, both halves alike."""
OVERHEAD = 0.25
"""A bar so far above or below the shoulder hangs on arms that are nearly straight."""
UNSEEABLE = ("toe", "heel", "ankle", "wrist")
"""Behind a plate these are not believed at all; the others a little."""
LITTLE, FAINT = 5.0, 1.5
LEAST_PRESENCE = 0.3
LEAST_SPREAD = 0.5
"""However sure it is of where a point rather is, it is not believed to less than so much of what is usual."""
FAR_OFF = 3.0
"""A sighting so many sigmas from the solved point was wrong."""
OUT_OF_PROPORTION, LEAST_OUT = 0.25, 0.05
"""A segment that is seen so much longer or shorter than usual makes its ends doubtful."""
HAND_SIGMA, STILL_SIGMA = 0.0008, 0.0004
ROUNDS, STEPS = 3, 5
MOST_BACK = 0.03
"""A knee may be seen so far behind the line from ankle to hip: a straight one, from a little aside."""
FEW_STEPS, FEW_LOOKS, NEAR_S, MOVED = 3, 3, 0.3, 1e-3
"""From a near answer these do, so near in time to a point that has moved by so much; the looks beside
them hold the rest."""
LENGTH_DOUBT = 0.06
"""What a length in the picture may be off, of itself."""


def solve_body(
    t_s: Array,
    facing: str,
    sightings: Sightings | None,
    hand: BodyHand,
    bar: BarTrack | None = None,
    with_plate: bool = True,
    near: BodyTrack | None = None,
) -> BodyTrack | None:
    """The near side's points in every frame; None when nothing at all is known of the body.

    Parameters
    ----------
    t_s : shape (frames,), seconds
    facing : "right" or "left"; the near side is that side of the lifter
    bar : the bar's path, which tells what the plate covers, where the hands are and how the
        camera moved
    with_plate : whether a plate is followed (a bell or a sleeve's cap covers nothing)
    near : an answer for nearly the same (a point is under the hand): only what is near in time to a
        point that has moved is solved again
    """
    again = repeats_of(bar, len(t_s))
    if sightings is not None:
        sightings = sightings.as_first_shown(again)
    gathered = gather(t_s, facing, sightings, hand, bar, with_plate)
    if gathered is None:
        return None
    evidence = elbows_back(gathered)
    lengths = usual_lengths(evidence)
    camera = camera_of(bar, len(t_s))
    begun = _as_before(evidence, near, camera) if near is not None else None
    points, covered = _solve(evidence, lengths, begun)
    states, sure = _states(evidence, points, covered, lengths)
    breadth = sightings.breadth() if sightings is not None else float("nan")
    apart = sightings.feet_apart_px(len(t_s)) if sightings is not None else None
    if near is not None:
        doubt = doubt_as_before(states, near.sigma_px[evidence.nodes] / evidence.unit)
    else:
        told = _told_by_others(evidence, points, covered, lengths)
        doubt = doubt_of(evidence, states, points, told)
    whole = _to_frames(
        evidence, points, states, sure, doubt, t_s, camera, facing, lengths, breadth, again
    )
    heel = sightings.heel_in_all_px(len(t_s)) if sightings is not None else None
    return replace(whole, apart_px=apart, heel_px=heel)


def _as_before(e: Evidence, near: BodyTrack, camera: Array) -> Array:
    """Points (n, 9, 2) of an earlier answer at these looks, NaN where it has none."""
    px = np.stack([near.x_px, near.y_px], axis=-1)[e.nodes]
    return np.asarray((px - camera[e.nodes][:, None]) / e.unit)


def _solve(
    e: Evidence, lengths: dict[tuple[str, str], float], begun: Array | None
) -> tuple[Array, Mask]:
    """Points (n, 9, 2) and what was behind the plate (n, 9), from scratch or from `begun`."""
    covered = covered_by_plate(e, e.seen)
    points = _begin(e, covered)
    if begun is not None:
        return _solve_near(e, lengths, np.where(np.isfinite(begun), begun, points), covered)
    for _ in range(ROUNDS):
        points = _knees_to_the_front(e, points)
        sigma = _seen_sigma(e, covered, _in_proportion(e, lengths))
        for _ in range(STEPS):
            points = _better(e, lengths, points, sigma)
        covered = covered_by_plate(e, e.seen) | behind_plate(e, points)
    return points, covered


def _solve_near(
    e: Evidence, lengths: dict[tuple[str, str], float], begun: Array, covered: Mask
) -> tuple[Array, Mask]:
    """The same from an answer for nearly the same; far from the points that have moved it stands."""
    with np.errstate(invalid="ignore"):
        moved = (np.hypot(*(e.hand - begun).transpose(2, 0, 1)) > MOVED).any(axis=1)
    covered = covered | behind_plate(e, begun)
    points = np.where(np.isfinite(e.hand), e.hand, begun)
    if not moved.any():
        return points, covered
    away = np.abs(e.t_s[:, None] - e.t_s[moved]).min(axis=1)
    near = np.flatnonzero(away < NEAR_S)
    part = slice(max(near[0] - FEW_LOOKS, 0), near[-1] + 1 + FEW_LOOKS)
    stays = np.tile(np.where(away < NEAR_S, np.inf, STILL_SIGMA)[part, None], (1, COUNT))
    some = e.part(part)
    sigma = _seen_sigma(some, covered[part], _in_proportion(some, lengths))
    for _ in range(FEW_STEPS):
        points[part] = _better(some, lengths, points[part], sigma, (begun[part], stays))
    return points, covered


def _grip(e: Evidence) -> tuple[Array, Array]:
    """Targets (n, 9, 2) and sigmas (n, 9) that hold the wrist at the bar, where nothing tells it better."""
    target = np.full((len(e.nodes), COUNT, 2), np.nan)
    target[:, ROW_OF["wrist"]] = e.gripped
    sigma = np.full((len(e.nodes), COUNT), np.inf)
    sigma[gripping(e) & ~e.reread[:, ROW_OF["wrist"]], ROW_OF["wrist"]] = (
        GRIP_SIGMA if e.grip is None else FAR_GRIP_SIGMA
    )
    return target, sigma


def _seen_sigma(e: Evidence, covered: Mask, fits: Mask) -> Array:
    """How much each sighting may be off, (n, 9); infinite where it is not believed.

    Where it is known how the model misreads lifters, that says it; elsewhere what lies behind the plate or
    is out of proportion is doubted.
    """
    sigma = np.tile([SEEN_SIGMA[name] for name in LANDMARKS], (len(e.nodes), 1))
    least = LEAST_SPREAD * sigma
    sigma = np.where(e.sure < LEAST_PRESENCE, FAINT * sigma, sigma)
    deaf = np.array([name in UNSEEABLE for name in LANDMARKS])
    sigma = np.where(covered | ~fits, np.where(deaf, np.inf, LITTLE * sigma), sigma)
    sigma = np.where(e.reread, np.maximum(e.spread, least), sigma)
    if e.carried is not None:
        sigma[e.carried] *= FAINT
    unseen = ~np.isfinite(e.seen[..., 0]) | e.hidden | np.isfinite(e.hand[..., 0])
    return np.where(unseen, np.inf, sigma)


def _begin(e: Evidence, covered: Mask) -> Array:
    """A first answer: what was seen or set, with straight ways between."""
    deaf = np.array([name in UNSEEABLE for name in LANDMARKS])
    begun = np.where((covered & deaf & ~e.reread)[..., None], np.nan, e.seen)
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
    stands = feet_stand(e)
    for name, level in e.floor.items():
        begun[stands[:, ROW_OF[name]], ROW_OF[name], 1] = level
    middle = np.nanmean(begun, axis=(0, 1))
    begun = np.where(np.isfinite(begun), begun, middle)
    # A foot is held by three lengths, which a foot the wrong way round fits as well: it begins
    # under the ankle, toes to the front, wherever it is not seen so.
    toe, heel, ankle = ROW_OF["toe"], ROW_OF["heel"], ROW_OF["ankle"]
    long = SHARES["toe", "heel"]
    astray = (begun[:, toe, 0] - begun[:, heel, 0]) * e.front < 0.4 * long
    astray &= covered[:, toe] | covered[:, heel] | ~np.isfinite(e.seen[:, toe, 0])
    begun[astray, heel] = begun[astray, ankle] + np.array([-0.25 * e.front * long, 0.25 * long])
    begun[astray, toe] = begun[astray, heel] + np.array([e.front * long, 0.0])
    return begun


def _knees_to_the_front(e: Evidence, points: Array) -> Array:
    """Knees that bend backwards are put on the other side of the line from ankle to hip: two lengths fit
    both, and where a plate covers the leg nothing else would tell."""
    ankle, knee, hip = (points[:, ROW_OF[name]] for name in ("ankle", "knee", "hip"))
    along = hip - ankle
    along = along / np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    ahead = e.front * np.column_stack([-along[:, 1], along[:, 0]])
    off = ((knee - ankle) * ahead).sum(axis=1)
    astray = (off < -MOST_BACK) & ~np.isfinite(e.hand[:, ROW_OF["knee"], 0])
    mended = points.copy()
    mended[astray, ROW_OF["knee"]] -= 2 * (off[:, None] * ahead)[astray]
    return mended


def _better(
    e: Evidence,
    lengths: dict[tuple[str, str], float],
    points: Array,
    seen_sigma: Array,
    stays: tuple[Array, Array] | None = None,
) -> Array:
    """One Gauss–Newton step; `stays` are places and sigmas of points that stay."""
    normal = _of_each_look(e, lengths, points, seen_sigma)
    if stays is not None:
        normal.pull(*stays, robust=False)
    for name, step in STEP.items():
        steps = np.where(e.planted[:-1], STILL_SIGMA, step)
        normal.stand(ROW_OF[name], steps, ~e.planted[:-1])
    if e.moves is not None:
        for segment, (a, b) in enumerate(CARRIED):
            for half in (0, 1):
                told = e.moves[:, segment, half]
                far = CARRY_GROWS * np.sqrt(np.hypot(told[:, 1], told[:, 2]))
                sigma = np.clip(far, CARRY_SIGMA, CARRY_MOST)
                normal.carry(ROW_OF[a], ROW_OF[b], told[:, 0], told[:, 1:], sigma)
    normal.smooth(e.t_s, _accelerations(e))
    return normal.step()


def _accelerations(e: Evidence) -> Array:
    """Each point's usual acceleration at each look, (n, 9)."""
    usual = np.tile([ACCELERATION[name] for name in LANDMARKS], (len(e.nodes), 1))
    usual[:, ROW_OF["hip"]] *= 1 + HIP_DRIVES * how_fast(e)
    return usual


def _of_each_look(
    e: Evidence,
    lengths: dict[tuple[str, str], float],
    points: Array,
    seen_sigma: Array,
    length_doubt: float = 0.0,
) -> Normal:
    """All that pulls at the points of a look within it; the lengths may be off by a share of theirs."""
    normal = Normal(points)
    normal.pull(e.hand, np.full(points.shape[:2], HAND_SIGMA), robust=False)
    normal.pull(e.seen, seen_sigma, robust=True)
    for (a, b), sigma in RIGID.items():
        sigma = float(np.hypot(sigma, length_doubt * lengths[a, b]))
        normal.hold_length(ROW_OF[a], ROW_OF[b], lengths[a, b], sigma)
    normal.pull(*_grip(e), robust=False)
    normal.pull(*hanging_elbows(e), robust=False)
    shoulder, elbow, wrist = ROW_OF["shoulder"], ROW_OF["elbow"], ROW_OF["wrist"]
    normal.hold_length(shoulder, elbow, UPPER_ARM, ARM_SIGMA, at_most=True)
    normal.hold_length(elbow, wrist, FOREARM, ARM_SIGMA, at_most=True)
    above = points[:, shoulder, 1] - e.bar[:, 1]
    with np.errstate(invalid="ignore"):
        stretched = np.where(gripping(e) & (np.abs(above) > OVERHEAD), ARM_SHARE_SIGMA, np.inf)
        normal.hold_share(shoulder, elbow, wrist, ARM_SHARE, stretched, ~(above > OVERHEAD))
    stands = feet_stand(e)
    for name, level in e.floor.items():
        k = ROW_OF[name]
        believed = np.isfinite(seen_sigma[:, k]) & (name != "toe") & ~stands[:, k]
        normal.ground(k, level, np.where(believed, np.inf, FLOOR_SIGMA[name]))
    return normal


def _states(
    e: Evidence, points: Array, covered: Mask, lengths: dict[tuple[str, str], float]
) -> tuple[NDArray[np.uint8], Array]:
    """State (n, 9) of each point and how sure it is (n, 9).

    The model's own presence says little: it is low for limbs in plain sight and high for a foot
    behind a plate. So agreement decides: with the solved point, and of the segments' lengths.
    """
    usual = np.array([SEEN_SIGMA[name] for name in LANDMARKS])
    off = np.hypot(*(points - e.seen).transpose(2, 0, 1)) / usual
    with np.errstate(invalid="ignore"):
        measured = (off <= FAR_OFF) & ~covered & _in_proportion(e, lengths)
    measured[:, : ROW_OF["knee"] + 1] &= ~e.astride[:, None]
    if e.carried is not None:
        measured[e.carried] = False
    measured[loses_the_body(e)] = False
    state = np.where(measured, PointState.MEASURED, PointState.ASSUMED).astype(np.uint8)
    state[np.isfinite(e.hand[..., 0])] = PointState.BY_HAND
    state[e.hidden & (state != PointState.BY_HAND)] = PointState.HIDDEN
    never = ~(np.isfinite(e.seen[..., 0]) | np.isfinite(e.hand[..., 0])).any(axis=0)
    state[:, never] = PointState.MISSING
    sure = np.where(measured, np.clip(1 - off / (2 * FAR_OFF), 0.3, 1.0), 0.3)
    sure[state == PointState.BY_HAND] = 1.0
    sure[(state == PointState.HIDDEN) | (state == PointState.MISSING)] = 0.0
    return state, sure


def _in_proportion(e: Evidence, lengths: dict[tuple[str, str], float]) -> Mask:
    """(n, 9): whether no segment that ends in a sighting is badly out of its usual length.

    Hip and shoulder are not blamed for a segment whose other end fits nowhere while they fit another one:
    a knee that is seen at the hip says nothing against the hip.
    """
    count = len(e.seen)
    bad: dict[tuple[str, str], Mask] = {}
    good = np.zeros((count, COUNT), int)
    for a, b in RIGID:
        way = e.seen[:, ROW_OF[a]] - e.seen[:, ROW_OF[b]]
        with np.errstate(invalid="ignore"):
            off = np.abs(np.hypot(way[:, 0], way[:, 1]) - lengths[a, b])
            bad[a, b] = off > np.maximum(OUT_OF_PROPORTION * lengths[a, b], LEAST_OUT)
        fine = np.isfinite(off) & ~bad[a, b]
        good[:, ROW_OF[a]] += fine
        good[:, ROW_OF[b]] += fine
    fits = np.ones((count, COUNT), bool)
    for (a, b), wrong in bad.items():
        for end, other in ((a, b), (b, a)):
            spared = (good[:, ROW_OF[end]] > 0) & (good[:, ROW_OF[other]] == 0)
            fits[:, ROW_OF[end]] &= ~wrong | (spared & (end in ("hip", "shoulder")))
    # Arms lean out of the picture: seen too short they may be right, too long never.
    arm = e.seen[:, ROW_OF["elbow"]] - e.seen[:, ROW_OF["shoulder"]]
    with np.errstate(invalid="ignore"):
        fits[:, ROW_OF["elbow"]] &= ~(np.hypot(arm[:, 0], arm[:, 1]) > LONGEST_ARM * UPPER_ARM)
    # A foot at the end of a wrong shank is on something else.
    fits[:, [ROW_OF["toe"], ROW_OF["heel"]]] &= fits[:, [ROW_OF["ankle"]]]
    return fits


def _told_by_others(
    e: Evidence, points: Array, covered: Mask, lengths: dict[tuple[str, str], float]
) -> Array:
    """How uncertain each point behind the plate is (n, 9), bodies, by what the rest of the body tells of
    it: shank, thigh and trunk leave a hip little room. Endless where nothing hides it: what was seen
    in plain sight and does not fit is not made surer by its neighbours."""
    seen = _seen_sigma(e, covered, _in_proportion(e, lengths))
    told = _of_each_look(e, lengths, points, seen, LENGTH_DOUBT).alone_sigma()
    return np.where(covered, told, np.inf)


def _to_frames(
    e: Evidence,
    points: Array,
    states: NDArray[np.uint8],
    sure: Array,
    doubt: Array,
    t_s: Array,
    camera: Array,
    facing: str,
    lengths: dict[tuple[str, str], float],
    breadth: float,
    again: Mask,
) -> BodyTrack:
    """From the looks to all frames: smooth curves between them, back in the film's pixels."""
    from scipy.interpolate import CubicSpline  # loaded here: it takes a while

    count = len(t_s)
    x, y = np.full((count, COUNT), np.nan), np.full((count, COUNT), np.nan)
    sigma, confidence = x.copy(), np.zeros((count, COUNT))
    state = np.full((count, COUNT), PointState.MISSING, np.uint8)
    frames = np.arange(e.nodes[0], e.nodes[-1] + 1)
    own_s = np.interp(t_s[frames], t_s[e.nodes], e.t_s)
    smooth = (CubicSpline(e.t_s, points)(own_s) if len(e.nodes) >= 2 else points) * e.unit
    x[frames] = smooth[..., 0] + camera[frames, 0:1]
    y[frames] = smooth[..., 1] + camera[frames, 1:2]
    nearest = np.abs(own_s[:, None] - e.t_s).argmin(axis=1)
    state[frames] = states[nearest]
    between = np.ones(count, bool)
    between[e.nodes] = False
    lent = between[frames][:, None] & (state[frames] == PointState.BY_HAND)
    state[frames] = np.where(lent, PointState.ASSUMED, state[frames])
    sigma[frames] = np.hypot(doubt[nearest], _between_looks(e, own_s, nearest)) * e.unit
    confidence[frames] = sure[nearest]
    # The same picture again shows the body where it was.
    first = np.maximum.accumulate(np.where(again, 0, np.arange(count)))
    copied = again & (first >= frames[0]) & (state != PointState.BY_HAND).all(axis=1)
    for whole_way in (x, y, sigma, confidence, state):
        whole_way[copied] = whole_way[first[copied]]
    gone = state == PointState.MISSING
    for values in (x, y, sigma):
        values[gone] = np.nan
    px = {pair: length * e.unit for pair, length in lengths.items()}
    whole = BodyTrack(t_s, x, y, sigma, confidence, state, facing, px, breadth)
    return _with_exact_hand(whole, e, camera)


def _between_looks(e: Evidence, own_s: Array, nearest: NDArray[np.intp]) -> Array:
    """How far points may be off the smooth way between two looks (frames, 9), bodies, at their usual
    accelerations: a curve of second derivative a is off its chord by a (t - t0) (t1 - t) / 2."""
    after = np.clip(np.searchsorted(e.t_s, own_s), 1, max(len(e.t_s) - 1, 1))
    if len(e.t_s) < 2:
        return np.zeros((len(own_s), COUNT))
    away = np.maximum((own_s - e.t_s[after - 1]) * (e.t_s[after] - own_s), 0.0)
    return np.asarray(_accelerations(e)[nearest] * away[:, None] / 2)


def _with_exact_hand(track: BodyTrack, e: Evidence, camera: Array) -> BodyTrack:
    """Points set by hand lie exactly where they were set."""
    x, y = track.x_px.copy(), track.y_px.copy()
    for row, k in zip(*np.nonzero(np.isfinite(e.hand[..., 0])), strict=True):
        frame = e.nodes[row]
        x[frame, k], y[frame, k] = e.hand[row, k] * e.unit + camera[frame]
    return replace(track, x_px=x, y_px=y)
