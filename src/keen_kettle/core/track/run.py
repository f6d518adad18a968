"""One run from a mark: the plate followed through the pictures one way, and checked on the way back."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import ClipUnreadable
from keen_kettle.core.track.hand import HandWork
from keen_kettle.core.track.mark import State
from keen_kettle.core.track.pictures import Pictures
from keen_kettle.core.track.plate import GOOD, Follower, Point, grey_of
from keen_kettle.core.track.rim import Rim, RimModel
from keen_kettle.core.track.shots import ShotWatch
from keen_kettle.core.track.way import Way

__all__ = ["Patience", "check_back", "follow"]

SEARCH_S = 0.8
"""A lost plate is looked for so long; then the path ends."""
BACK_STEP_S = 1 / 16
"""The way back is checked at about this step."""
BACK_GOOD, BACK_LOST = 0.1, 0.85
BACK_SPREAD, PARTED = 0.2, 0.6
"""The way back agrees within this share of the radius; what it could not check counts so much."""


@dataclass(frozen=True)
class Patience:
    """For how long (s) a plate is followed with less confidence than this, and no good picture in between."""

    seconds: float = np.inf
    confidence: float = 0.0


def follow(
    pictures: Pictures,
    plate: Follower,
    start: int,
    last: int,
    hand: HandWork,
    step: Callable[[int, Point], None],
    stride: int = 1,
    patience: Patience = Patience(),
    one_shot: bool = False,
) -> Way:
    """Follow from frame `start` to frame `last`, forwards or backwards; to the end of the shot, unless all is known to
    be `one_shot`.

    What stays doubtful for longer than one's patience is not followed on, and is given up from where
    the doubt began.
    """
    heading = stride if last >= start else -stride
    way = Way({}, None, last)
    shot = None if one_shot else ShotWatch(grey_of(pictures.bgr(start)))
    before_t = float(pictures.t_s[start])
    doubt: list[int] = []
    doubt_s = 0.0
    for number in range(start + heading, last + (1 if heading > 0 else -1), heading):
        gap_s = abs(float(pictures.t_s[number]) - before_t)
        before_t = float(pictures.t_s[number])
        try:
            picture = pictures.bgr(number)
            grey, hidden = grey_of(picture), hand.hides(number)
            gone = 0 if shot is None else shot.gone(grey)
            if gone and not hidden:
                way.end_shot(number, gone, heading)
                break
            point = plate.pass_over(grey, gap_s) if hidden else plate.advance(picture, grey, gap_s)
        except ClipUnreadable:
            point = plate.lose(gap_s)
        way.points[number] = point
        step(number, point)
        if point.state == State.CHECK and (doubt or point.confidence < patience.confidence):
            doubt.append(number)
            doubt_s += gap_s if point.confidence < patience.confidence else 0.0
        elif point.state == State.GOOD:
            doubt, doubt_s = [], 0.0
        if doubt_s > patience.seconds:
            for given_up in doubt:
                way.points[given_up] = replace(point, x=np.nan, y=np.nan, state=State.LOST)
            break
        if plate.lost_s > SEARCH_S and not hand.hides(number):
            break
    way.settle_rests()
    return way if heading > 0 else way.with_firsts()


def check_back(
    pictures: Pictures,
    way: Way,
    start: int,
    rim: Rim,
    model: RimModel,
    step: Callable[[int, Point], None],
    covered: NDArray[np.uint8] | None,
) -> None:
    """Follow the plate back from the far end of a way and doubt what does not find home. `covered` (h, w) is what
    lies over the film (not 0).

    Where both ways agree, their distance lowers the confidence. If the way back ends elsewhere, the
    two part somewhere: on the far side of that both follow the same wrong thing or the way back has
    slipped, and nothing there is called good. Where the way back was lost it says little.
    """
    seen = way.seen
    if len(seen) < 6:
        return
    end, gap_s = seen[-1], float(np.median(np.abs(np.diff(pictures.t_s[seen]))))
    stride = max(round(BACK_STEP_S / max(gap_s, 1e-6)), 1)
    at = way.points[end]
    scaled = replace(rim, x_px=at.x, y_px=at.y)
    growth = at.r / float(np.mean(rim.axes_px))
    plate = Follower(pictures.bgr(end), scaled, model, covered, growth)
    plate.bend = at.bend

    def silent(number: int, point: Point) -> None:
        step(number, way.points.get(number, point))

    back = follow(pictures, plate, end, start, HandWork(), silent, stride, one_shot=True)
    frames = [n for n in back.points if n in way.points and np.isfinite(way.points[n].x)]
    away = np.array([back.points[n].away_from(way.points[n]) for n in frames])
    if not len(away):
        return
    ahead = (1 if end >= start else -1) * np.array(seen)
    share = _believed(ahead, np.array(frames) * (1 if end >= start else -1), away)
    for number, part in zip(seen, share, strict=True):
        way.points[number] = _weaker(way.points[number], float(part))


def _believed(
    ahead: NDArray[np.intp], frames: NDArray[np.intp], away: NDArray[np.float64]
) -> NDArray[np.float64]:
    """How far each point is still believed, 0 to 1.

    `ahead` (n,) are the seen frames, counted along the way there; `frames` (k,) those of the way back,
    counted alike, and how far it was from the first way in them (NaN where it was lost).
    """
    lost = np.flatnonzero(~np.isfinite(away))
    if len(lost) == 0 and away[-1] > 3 * BACK_GOOD:
        parted = frames[np.argmax(away > BACK_GOOD)]
        return np.where(ahead >= parted, PARTED, 1.0)
    known = np.isfinite(away)
    sort = np.argsort(frames[known])
    near = np.interp(ahead, frames[known][sort], away[known][sort]) if known.any() else 0.0 * ahead
    agreed = np.exp(-((near / BACK_SPREAD) ** 2)) * (BACK_LOST if len(lost) else 1.0)
    checked = ahead >= frames[lost[0]] if len(lost) else np.full(len(ahead), True)
    return np.where(checked, agreed, 1.0)


def _weaker(point: Point, share: float) -> Point:
    if point.state not in (State.GOOD, State.CHECK):
        return point
    confidence = point.confidence * share
    state = State.GOOD if confidence >= GOOD and point.state == State.GOOD else State.CHECK
    return replace(point, confidence=confidence, state=state)
