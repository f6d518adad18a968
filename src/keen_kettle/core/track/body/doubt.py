"""How uncertain each point of the body is: as seen, as carried on from where it was, as others tell it.

Where it is known how the model misreads lifters, that says how unsure each point is.

Above the hips the bar hides shoulder, hip and the folded arm together, and none of them tells where the
others are; there all are less sure. Where the model loses the body again and again, what it sees
between is no surer.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from keen_kettle.core.track.body.evidence import COUNT, ROW_OF, Evidence, how_fast
from keen_kettle.core.track.body.landmarks import CARRIED, LANDMARKS, PointState

__all__ = ["doubt_as_before", "doubt_of", "feet_stand", "loses_the_body"]

Array = NDArray[np.float64]

STATED_SIGMA = dict(
    zip(LANDMARKS, (0.030, 0.028, 0.016, 0.028, 0.026, 0.026, 0.026, 0.030, 0.028), strict=True)
)
"""How far off a solved point is that was seen, each way (68 % of hand-marked points of real films)."""
LEAST_DOUBT, LOOKS_BESIDE = 0.45, 5
"""A point that is reread is never surer than so much of that; what is said of it is the median of so many looks."""
GUESS_GROWTH, GROWS_S = 4.0, 0.25
"""A point that is not seen gets so much more uncertain, in so long."""
CARRIED_SLOWER = 0.25
"""Where patches of the picture tell how it moves, only as fast as this."""
FOLDED, FOLDED_DOUBT = 0.28, 3.0
BAR_HIGH, HIGH_DOUBT = 0.35, {"shoulder": 1.7, "hip": 1.5, "ankle": 1.5}
"""From so much of the way from hip to shoulder on the bar is high (what is seen of a shoulder there is as much
less sure as what is not; 100 lifelike films)."""
FAST_DOUBT = 1.0
"""A hip is so much less sure while the bar is fast: it moves fastest then, at the plate's edge, and is read as
more usual than it is (with this the hip's angle at the finish of 33 lifelike films is within one sigma in 64 %,
within 1.645 in 91 %)."""
LOST_SHARE, LOST_S = 0.3, 0.5
"""Where the model sees nobody, another body or one that leaps in such a share of the looks so near, it has lost
the body (of 156 lifelike films four in the pull; in three of them the shoulder was 8 to 17 % off)."""
LEAP, LEAPS_PER_BAR = 1.8, 1.5
"""Nobody's head or shoulder is faster (bodies per second) than this and so many times the bar together."""
USUAL_MISFIT = dict(
    zip(LANDMARKS, (0.67, 0.46, 0.56, 0.55, 0.45, 0.51, 0.52, np.nan, 0.32), strict=True)
)
"""So far are the solved points of a film from where they were seen, in their uncertainties (root mean square each
way; median of 145 lifelike films; wrists are seen too seldom)."""
MISFIT_COUNTS, SURER, MISFIT_LOOKS, MOST_MISFIT = 0.77, 0.82, 10, 6.0
"""A point that fits as usual is so much surer than said above; one that fits worse or better in that film, by that
power of it (the likeliest on the same films; from so many looks on, and none counts more)."""
LEAST_SCALE, MOST_SCALE = 0.5, 3.0
UNSURE_FOOT, BELOW_HIP, STANDS = 0.025, 0.1, 0.03
"""A foot of which the model is less sure stands where feet mostly do as long as the bar is so far below the hip: then
it is the plate that hides it, and nobody has left the floor. So it is off by about so much (48 lifelike films)."""
HAND = 0.006


def doubt_of(e: Evidence, state: NDArray[np.uint8], points: Array, told: Array) -> Array:
    """Standard uncertainty (n, 9), bodies: more, the longer a point has not been seen, unless others tell
    it, and for the elbow of a folded arm (in the rack it is seldom told from forearm and plate).

    Parameters
    ----------
    state : shape (n, 9), `PointState` codes
    points : shape (n, 9, 2), the solved points
    told : shape (n, 9), how uncertain a point is by what the rest of the body tells of it
    """
    usual = _usual()
    sigma = np.tile(usual, (len(state), 1))
    unseen_s = _clocks(e)
    for k in range(COUNT):
        firm = np.flatnonzero(
            (state[:, k] == PointState.MEASURED) | (state[:, k] == PointState.BY_HAND)
        )
        if not len(firm):
            sigma[:, k] *= GUESS_GROWTH
            continue
        gap = np.abs(unseen_s[:, k, None] - unseen_s[firm, k]).min(axis=1)
        guessed = state[:, k] != PointState.MEASURED
        grown = usual[k] * (1 + (GUESS_GROWTH - 1) * np.minimum(gap / GROWS_S, 1))
        least = np.maximum(told[:, k], usual[k])
        sigma[:, k] = np.where(guessed, np.minimum(grown, least), usual[k])
    wrist, shoulder, elbow = (ROW_OF[name] for name in ("wrist", "shoulder", "elbow"))
    folded = np.hypot(*(points[:, wrist] - points[:, shoulder]).T) < FOLDED
    sigma[folded, elbow] *= FOLDED_DOUBT
    high = _bar_is_high(e, points)
    for name, doubt in HIGH_DOUBT.items():
        guessed = (state[:, ROW_OF[name]] != PointState.MEASURED) | (name == "shoulder")
        sigma[high & guessed, ROW_OF[name]] *= doubt
    said = np.maximum(_lately(e.spread), LEAST_DOUBT * usual)
    sigma = np.where(e.reread & np.isfinite(said), said, sigma)
    stands = np.where(feet_stand(e), np.fmin(sigma, STANDS), sigma)
    rows = [ROW_OF[name] for name in e.floor]
    sigma[:, rows] = stands[:, rows]
    sigma[:, elbow] = np.fmax(sigma[:, elbow], np.hypot(*(points - e.seen)[:, elbow].T))
    sigma[:, ROW_OF["hip"]] *= 1 + FAST_DOUBT * how_fast(e)
    sigma *= _by_fit(e, state, points, sigma)
    lost = loses_the_body(e)
    sigma[lost] = np.maximum(sigma, GUESS_GROWTH * usual)[lost]
    by_hand = state == PointState.BY_HAND
    sigma[by_hand] = np.minimum(sigma, HAND)[by_hand]
    return sigma


def feet_stand(e: Evidence) -> NDArray[np.bool_]:
    """Points (n, 9) of which the model is not sure, in looks in which feet stand on the floor."""
    low = e.bar[:, 1] - e.seen[:, ROW_OF["hip"], 1]
    with np.errstate(invalid="ignore"):
        return np.asarray((e.spread > UNSURE_FOOT) & (low > BELOW_HIP)[:, None])


def _by_fit(e: Evidence, state: NDArray[np.uint8], points: Array, sigma: Array) -> Array:
    """How much less sure points (n, 9) are than said, by how well what is seen of each fits the solved body in
    this film; a point that is not seen is no surer for it."""
    scale = np.ones_like(sigma)
    misfit = np.abs(points - e.seen) / sigma[..., None]
    seen = (state == PointState.MEASURED) & np.isfinite(misfit).all(axis=-1)
    for k, usual in enumerate(USUAL_MISFIT.values()):
        looks = np.minimum(misfit[seen[:, k], k], MOST_MISFIT)
        if len(looks) < MISFIT_LOOKS or np.isnan(usual):
            continue
        fits = SURER * (np.sqrt((looks**2).mean()) / usual) ** MISFIT_COUNTS
        fits = float(np.clip(fits, LEAST_SCALE, MOST_SCALE))
        scale[:, k] = np.where(seen[:, k], fits, max(fits, 1.0))
    return scale


def _lately(spread: Array) -> Array:
    """The uncertainty (n, 9) that is said in the looks about each."""
    return np.asarray(median_filter(spread, (LOOKS_BESIDE, 1), mode="nearest"))


def _bar_is_high(e: Evidence, points: Array) -> NDArray[np.bool_]:
    """In which looks (n,) the bar is before the upper trunk, or above."""
    hip, shoulder = points[:, ROW_OF["hip"], 1], points[:, ROW_OF["shoulder"], 1]
    with np.errstate(invalid="ignore"):
        return np.asarray(hip - e.bar[:, 1] > BAR_HIGH * np.abs(hip - shoulder))


def loses_the_body(e: Evidence) -> NDArray[np.bool_]:
    """In which looks (n,) the model loses the body again and again."""
    nobody = ~np.isfinite(e.seen[:, ROW_OF["shoulder"], 0])
    if nobody.all():
        return np.zeros(len(nobody), bool)
    bad = nobody.copy()
    if e.carried is not None:
        bad |= e.carried
    took = np.maximum(np.diff(e.t_s), 1e-6)
    upper = e.seen[:, [ROW_OF["shoulder"], ROW_OF["ear"]]]
    speed = np.hypot(*np.diff(upper, axis=0).transpose(2, 0, 1)).max(axis=1) / took
    bars = np.nan_to_num(np.hypot(*np.diff(e.bar, axis=0).T) / took)
    with np.errstate(invalid="ignore"):
        bad[1:] |= speed > LEAP + LEAPS_PER_BAR * bars
    near = np.abs(e.t_s[:, None] - e.t_s) <= LOST_S
    return np.asarray((near * bad).sum(axis=1) >= LOST_SHARE * near.sum(axis=1))


def doubt_as_before(state: NDArray[np.uint8], before: Array) -> Array:
    """That of an answer for nearly the same, (n, 9): as it was before, but for what the hand has set."""
    sigma = np.where(np.isfinite(before), before, GUESS_GROWTH * _usual())
    return np.where(state == PointState.BY_HAND, np.minimum(sigma, HAND), sigma)


def _usual() -> Array:
    return np.array([STATED_SIGMA[name] for name in LANDMARKS])


def _clocks(e: Evidence) -> Array:
    """Time for each point (n, 9), s, that runs slower while a patch beside it tells how it moves."""
    steps = np.repeat(np.diff(e.t_s)[:, None], COUNT, axis=1)
    if e.moves is not None:
        known = np.isfinite(e.moves[..., 0])
        for segment, pair in enumerate(CARRIED):
            for half, name in enumerate(pair):
                steps[known[:, segment, half], ROW_OF[name]] *= CARRIED_SLOWER
    steps = np.maximum(steps, CARRIED_SLOWER * np.diff(e.t_s)[:, None])
    return np.concatenate([np.zeros((1, COUNT)), np.cumsum(steps, axis=0)])
