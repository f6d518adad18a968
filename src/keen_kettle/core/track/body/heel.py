"""Watches the picture of the foot to tell when the heel comes up, which the pose model tells too late.

On the way of the bar up the foot stands, and nothing near it moves but itself. From the look in
which the plate has left the heel alone, small patches of the foot and of the floor beside it are
followed by optical flow. A foot turns about its ball: a patch rises by as much of the heel's rise as
it lies behind that. Which patches are the foot's shows in the end: those that have come up.
"""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.body.flow import Grey, Looks, flow

__all__ = ["heel_rise_px"]

Array = NDArray[np.float64]

LEAST_RISE, FALLS = 0.3, 0.15
"""A way of the bar up is at least so long, and over when it has come down by so much (bodies)."""
SLOWED, SPEED_LOOKS = 0.3, 2
"""The bar has lost most of its speed at such a share of its greatest, over so many looks to either side."""
HEEL_HIGH, EDGE = 0.03, 1.02
"""A heel is so high (bodies), and in sight where it is so far from the plate's middle (radii)."""
LEAST_LOOKS, MIDDLE = 4, (0.5, 0.9)
"""So many looks are needed; the part of those in which it is seen that tells where the foot stood."""
BEHIND, BEFORE, ABOVE, BELOW = 0.05, 0.03, 0.09, 0.04
"""So far behind the heel, before the toe, above and below its height patches are taken (bodies)."""
SHORTEST = 0.08
"""A foot that looks shorter is seen from the front, or is none."""
FLOOR = 0.4
"""So far to both sides of the foot the floor is watched."""
WINDOW, LEAST_WINDOW = 0.05, 7
"""A patch's side (bodies, and pixels at least)."""
MOST, CORNER = 400, 0.002
"""So many patches at most, as plain as this share of the plainest."""
BACK_PX = 0.7
"""A patch that is followed on and back again ends so near to where it began."""
BALL, HINDMOST = 0.25, 0.55
"""The foot turns so far behind the toes, and patches further forward hardly rise (shares of it)."""
LEAST_MOVED_PX, STUCK = 3.0, 0.3
"""Where the camera has moved so far, what has gone by less than such a share of that is a caption."""
COMES_UP, HIGHEST, FEW, LASTS = 0.012, 0.15, 3, 0.6
"""What comes up by so much (bodies) is a heel, unless it is the plate; so many patches are needed that
can be followed over such a share of the looks (what the plate drags along is soon lost)."""


def heel_rise_px(film: Looks, feet: Array, cancelled: Callable[[], bool] = lambda: False) -> Array:
    """How far the heel has come up from where it stood, at each look, shape (k,), pixels.

    NaN where it is not watched: while the plate is before the foot, or the bar does not go up.

    Parameters
    ----------
    feet : shape (k, 3, 2), toe, heel and ankle as the model saw them, pixels; NaN where not

    Raises
    ------
    Cancelled
    """
    rise = np.full(len(film.frames), np.nan)
    for low, top in _ways_up(-film.bar_px[:, 1], film.body_px):
        looks = _in_sight(film, np.arange(low, top + 1), feet)
        if len(looks) >= LEAST_LOOKS:
            rise[looks] = _watched(film.some(looks), feet[looks], cancelled)
    return rise


def _ways_up(up: Array, body_px: float) -> list[tuple[int, int]]:
    """The first and the last look of each way of the bar up."""
    known = np.flatnonzero(np.isfinite(up))
    ways: list[tuple[int, int]] = []
    if not len(known):
        return ways
    low = top = int(known[0])
    for look in known:
        if up[look] > up[top]:
            top = int(look)
        over = up[top] - up[look] > FALLS * body_px
        if over or look == known[-1]:
            if up[top] - up[low] > LEAST_RISE * body_px:
                ways.append((low, _slowed(up, low, top)))
            low = top = int(look)
        elif up[look] <= up[low]:
            low = top = int(look)
    return ways


def _slowed(up: Array, low: int, top: int) -> int:
    """The look of a way up in which the bar has lost most of its speed. The body has finished then; a bar
    that is received high hardly comes down, and goes on up with a lifter who stands elsewhere."""
    looks = np.arange(low, top + 1)
    known = np.isfinite(up[looks])
    height = np.interp(looks, looks[known], up[looks][known])
    ends = np.clip(np.arange(len(looks)) + np.array([[-SPEED_LOOKS], [SPEED_LOOKS]]), 0, top - low)
    speed = height[ends[1]] - height[ends[0]]
    fastest = int(np.argmax(speed))
    slow = np.flatnonzero(speed[fastest:] < SLOWED * speed[fastest])
    return low + fastest + int(slow[0]) if len(slow) else top


def _in_sight(film: Looks, looks: NDArray[np.intp], feet: Array) -> NDArray[np.intp]:
    """The looks of a way up from where the plate has left the foot alone."""
    upper = looks[len(looks) // 2 :]
    heels = feet[upper, 1]
    if not np.isfinite(heels).any():
        return looks[:0]
    top = np.nanmedian(heels, axis=0) - [0.0, HEEL_HIGH * film.body_px]
    clear = np.hypot(*(film.bar_px[looks] - top).T) > _reach_px(film)
    return looks[int(np.argmax(clear)) :] if clear.any() else looks[:0]


def _side_px(film: Looks) -> int:
    return max(int(WINDOW * film.body_px) | 1, LEAST_WINDOW)


def _reach_px(film: Looks) -> float:
    """How near the plate's middle a patch would have the plate's edge in it, which drags it along."""
    return EDGE * film.plate_px + _side_px(film) / 2


def _watched(film: Looks, feet: Array, cancelled: Callable[[], bool]) -> Array:
    """The heel's rise against the first of some looks, (m,)."""
    body_px = film.body_px
    nothing = np.full(len(film.frames), np.nan)
    toe, heel = _standing(feet)
    if not abs(toe[0] - heel[0]) > SHORTEST * body_px:
        return nothing
    way = np.sign(toe[0] - heel[0])
    left, right = sorted((heel[0] - way * BEHIND * body_px, toe[0] + way * BEFORE * body_px))
    above, below = toe[1] - ABOVE * body_px, toe[1] + BELOW * body_px
    try:
        before = film.grey(0)
    except ClipUnreadable:
        return nothing

    def patches(left: float, right: float) -> NDArray[np.float32]:
        places = _patches(before, left, right, above, below)
        away = np.hypot(*(places - film.bar_px[0]).T)
        return np.asarray(places[away > _reach_px(film)])

    foot = patches(left, right)
    aside = FLOOR * body_px
    floor = np.vstack([patches(left - aside, left), patches(right, right + aside)])
    if len(foot) < FEW:
        return nothing
    risen = _risen(film, before, foot, floor, _side_px(film), cancelled)
    behind = (toe[0] - foot[:, 0]) / (toe[0] - heel[0])
    hind = behind > HINDMOST
    return _heel_of(risen[:, hind] * (1 - BALL) / (behind[hind] - BALL), body_px)


def _standing(feet: Array) -> tuple[Array, Array]:
    """Where toe and heel stood, as far as the model tells; NaN where it does not. While the plate is near
    the model sees them in it; later the toe has stayed, and the heel is as far from it as before."""
    some = feet[np.isfinite(feet).all(axis=(1, 2))]
    some = some[int(len(some) * MIDDLE[0]) : int(np.ceil(len(some) * MIDDLE[1]))]
    if not len(some):
        return np.full(2, np.nan), np.full(2, np.nan)
    toe, heel = np.median(some[:, 0], axis=0), np.median(some[:, 1], axis=0)
    long = float(np.median(np.hypot(*(some[:, 1] - some[:, 0]).T)))
    return toe, np.array([toe[0] + np.sign(heel[0] - toe[0]) * long, toe[1]])


def _risen(
    film: Looks,
    first: Grey,
    foot: NDArray[np.float32],
    floor: NDArray[np.float32],
    side: int,
    cancelled: Callable[[], bool],
) -> Array:
    """How far each patch of the foot has risen against the floor in each look, (m, patches); NaN from
    where it is lost."""
    begun, count = np.vstack([foot, floor]), len(foot)
    now, alive, before = begun.copy(), np.ones(len(begun), bool), first
    ways = np.full((len(film.frames), len(begun), 2), np.nan)
    ways[0] = 0.0
    for row in range(1, len(film.frames)):
        if cancelled():
            raise Cancelled("Stopped.")
        try:
            picture = film.grey(row)
        except ClipUnreadable:
            continue
        now, kept = flow(before, picture, now, side, BACK_PX)
        alive &= kept
        before = picture
        ways[row, alive] = (now - begun)[alive]
    camera = np.zeros((len(ways), 2))
    if film.camera_px is not None:
        camera = film.camera_px - film.camera_px[0]
        ways[:, _stuck(ways, camera)] = np.nan
    return _against_floor(ways[:, :count, 1], ways[:, count:, 1], camera[:, 1])


def _stuck(ways: Array, camera: Array) -> NDArray[np.bool_]:
    """Which patches, ways (m, patches, 2), stay where they are in the picture though the camera moves: they
    are a caption's."""
    moved = np.hypot(*camera.T)
    if moved.max() < LEAST_MOVED_PX:
        return np.zeros(ways.shape[1], bool)
    far = np.nan_to_num(np.hypot(*np.moveaxis(ways[moved >= moved.max() / 2], -1, 0)))
    return np.asarray(far.max(axis=0) < STUCK * moved.max())


def _against_floor(foot: Array, floor: Array, camera: Array) -> Array:
    """How far patches of the foot (m, patches) have risen against those of the floor (m, others), or against
    what the camera does (m,) where too few of those are left; all of them downwards in the picture."""
    some = np.isfinite(floor).sum(axis=1) >= FEW
    shift = camera.copy()
    shift[some] = np.nanmedian(floor[some], axis=1)
    return np.asarray(shift[:, None] - foot)


def _heel_of(risen: Array, body_px: float) -> Array:
    """The heel's rise (m,) from what each patch (m, patches) says of it."""
    known = np.isfinite(risen)
    rows = np.flatnonzero(known.sum(axis=1) >= FEW)
    rise = np.full(len(risen), np.nan)
    if not len(rows):
        return rise
    highest = np.nanmax(np.where(known, risen, -np.inf), axis=0)
    mine = (highest > COMES_UP * body_px) & (highest < HIGHEST * body_px)
    mine &= known.mean(axis=0) >= LASTS
    if mine.sum() < FEW:
        return rise
    moves = mine & (highest > 0.5 * float(np.quantile(highest[mine], 0.9)))
    for row in rows:
        told = risen[row, known[row] & moves]
        if len(told) >= FEW:
            rise[row] = float(np.median(told))
    return rise


def _patches(
    picture: Grey, left: float, right: float, above: float, below: float
) -> NDArray[np.float32]:
    """Places (n, 2) in a part of the picture at which flow can be told."""
    high, wide = picture.shape
    x0, x1 = (int(np.clip(round(x), 0, wide)) for x in (left, right))
    y0, y1 = (int(np.clip(round(y), 0, high)) for y in (above, below))
    if x1 - x0 < 4 or y1 - y0 < 4:
        return np.zeros((0, 2), np.float32)
    found = np.asarray(cv2.goodFeaturesToTrack(picture[y0:y1, x0:x1], MOST, CORNER, 1), np.float32)
    if found.ndim < 2:  # an even part of the picture has none
        return np.zeros((0, 2), np.float32)
    return np.asarray(found.reshape(-1, 2) + np.array([x0, y0]), np.float32)
