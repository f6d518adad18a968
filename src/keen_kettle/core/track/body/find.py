"""Follows the lifter with the pose model through a film, about thirty looks a second.

It begins where the lifter is plain: with the bar a third of its way up, when the trunk is clear of the
plate. (Bent low behind the plate the model may settle on a wrong body and stay with it as long as
nothing moves.) There the detector is asked for everyone in the picture, and of them the one is taken
who has a hand at the bar. From there it goes on to the end of the film, and back to its beginning;
each look gives the square for the next one (`search`). A body without a hand at the bar is not followed
to where it leaps, nor while the bar is up. A head that the picture cuts off is put back (`head`), and a
foot that it cuts off is not seen. Once the lifter is found again, the empty frames before are tried from
there. The coach's own clicks on hip and shoulder begin the search anew from their frame, both ways.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.body.carry import carry
from keen_kettle.core.track.body.flow import Looks
from keen_kettle.core.track.body.followed import FollowedBar
from keen_kettle.core.track.body.head import Heads
from keen_kettle.core.track.body.heel import heel_rise_px
from keen_kettle.core.track.body.holder import (
    LEAST_PERSON,
    LiftedBar,
    holder,
)
from keen_kettle.core.track.body.landmarks import (
    LANDMARKS,
    BodySeed,
    Sightings,
)
from keen_kettle.core.track.body.mend import leaps_to, mend
from keen_kettle.core.track.body.net import JOINTS, Crop, PoseModel, Sighting
from keen_kettle.core.track.body.search import Search, strays
from keen_kettle.core.track.body.sparing import SparingNet
from keen_kettle.core.track.framing import Framing
from keen_kettle.core.track.pictures import Pictures, SmallerPictures, film_too_large

__all__ = ["FINDER_VERSION", "find_body", "frames_to_look_at"]

Array = NDArray[np.float64]

FINDER_VERSION = 16
LOOKS_PER_SECOND = 30.0
PLAIN_RISES = (0.35, 0.6, 0.15)
"""Shares of the bar's rise at which the lifter is looked for first."""
PLENTY_PX = 8.0
"""A bar that rises by less gives no hint where the lifter is plain."""
FINDING = 0.7
"""The model's looks take about so much of the whole time."""
CAP, PLATE = 0.05, 0.24
"""What is followed and smaller than this (bodies) is a sleeve's cap; a plate about it is no larger than that."""
CUT = 0.05
"""A foot whose lowest point is seen so near to the picture's lower edge (bodies) or beyond it is cut off, mostly, and
squeezed into the picture: its ankle comes out up to 16 % of the body too high (120 lifelike films)."""
NOSE = 0
FOOT = LANDMARKS[:3]
ORDER = np.array([JOINTS[name] for name in LANDMARKS]).T


def frames_to_look_at(t_s: Array) -> NDArray[np.int32]:
    """Frames (k,) about a thirtieth of a second apart, the first and the last among them; `t_s` (frames,)
    in seconds."""
    count = len(t_s)
    gap_s = float(np.median(np.diff(t_s))) if count > 1 else 1.0
    step = max(round(1 / LOOKS_PER_SECOND / max(gap_s, 1e-6)), 1)
    return np.unique(np.append(np.arange(0, count, step), count - 1)).astype(np.int32)


def find_body(
    pictures: Pictures,
    net: PoseModel,
    followed: FollowedBar | None = None,
    seeds: Sequence[BodySeed] = (),
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Sightings:
    """Look for the lifter in all frames that `frames_to_look_at` gives, and that show the bar's own shot.

    Parameters
    ----------
    followed : the bar, where one is
    seeds : hip and shoulder as clicked by the coach, in any shot

    Raises
    ------
    Cancelled
    """
    by = film_too_large(pictures)
    if by == 1:
        return _found_in(pictures, net, followed, seeds, progress, cancelled)
    bar = followed.smaller(by) if followed is not None else None
    small, clicks = SmallerPictures(pictures, by), [seed.smaller(by) for seed in seeds]
    return _found_in(small, net, bar, clicks, progress, cancelled).larger(by)


def _found_in(
    pictures: Pictures,
    net: PoseModel,
    followed: FollowedBar | None,
    seeds: Sequence[BodySeed],
    progress: Callable[[float], None],
    cancelled: Callable[[], bool],
) -> Sightings:
    """The same in a film that is not too large."""
    frames = frames_to_look_at(pictures.t_s)
    if followed is not None and not seeds:
        frames = followed.own(frames)
    bar_px = followed.px if followed is not None else None
    sparing = SparingNet(net, len(frames))
    framing, bar = Framing(len(frames)), LiftedBar(bar_px)
    found: dict[int, Sighting] = {}
    stood: dict[int, int] = {}
    starts = {int(frames[np.argmin(np.abs(frames - seed.frame))]): seed for seed in seeds}
    plain = None if seeds else _plain_start(pictures, sparing, frames, bar_px, cancelled)
    begin, first = plain or (0, None)
    heads, done = Heads(), 0
    for way in _ways(pictures, sparing, frames, begin, first, heads):
        heads.begin()
        search = Search(sparing, bar, heads, first)
        for frame in way:
            if cancelled():
                raise Cancelled("Stopped.")
            try:
                picture = pictures.bgr(int(frame))
            except ClipUnreadable:
                continue
            framing.see(picture)
            seed = starts.get(int(frame))
            if seed is not None:
                search.begin_at(seed)
            sighting = search.look(picture, int(frame))
            if sighting is not None:
                found[int(frame)] = sighting
            if search.since != frame:
                stood[int(frame)] = search.since
            done += 1
            progress(FINDING * done / len(frames))
    for start in sorted({*starts, *_found_again(frames, found)}):
        _back_from(pictures, sparing, frames, start, found, cancelled, bar)
    mend(pictures, sparing, frames, found, cancelled, bar, stood, framing.box)
    seen = _gather(frames, found, framing.box)
    if followed is None or followed.radius_px is None or not len(found):
        return seen
    at, camera = followed.px[frames], followed.camera_in(frames)
    film = Looks(pictures, frames, at, followed.radius_px, seen.body_px(), camera)
    return _with_patches(film, seen, begin, progress, cancelled)


def _plain_start(
    pictures: Pictures,
    net: PoseModel,
    frames: NDArray[np.int32],
    bar_px: Array | None,
    cancelled: Callable[[], bool],
) -> tuple[int, Crop | None]:
    """The look to begin with, and the square of whoever has a hand at the bar there; the first look
    and None where the bar tells nothing."""
    for row in _plain_looks(frames, bar_px):
        if cancelled():
            raise Cancelled("Stopped.")
        assert bar_px is not None
        try:
            picture = pictures.bgr(int(frames[row]))
        except ClipUnreadable:
            continue
        crop = holder(net, picture, bar_px[frames[row]])
        if crop is not None:
            return row, crop
    return 0, None


def _ways(
    pictures: Pictures,
    net: PoseModel,
    frames: NDArray[np.int32],
    begin: int,
    first: Crop | None,
    heads: Heads,
) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """On from the look to begin with, and back from it; back first if the lifter's head is cut off there: he is
    bent before, and it is whole."""
    on, back = frames[begin:], frames[:begin][::-1]
    if first is None:
        return on, back
    picture = pictures.bgr(int(frames[begin]))
    heads.learn(picture, net.look(picture, first))
    return (back, on) if heads.cut else (on, back)


def _plain_looks(frames: NDArray[np.int32], bar_px: Array | None) -> list[int]:
    """Looks with the bar on its way up in its largest rise, the plainest first."""
    if bar_px is None:
        return []
    up = -bar_px[frames, 1]
    known = np.flatnonzero(np.isfinite(up))
    if len(known) < 2 or np.ptp(up[known]) < PLENTY_PX:
        return []
    lowest = np.minimum.accumulate(up[known])
    top = int(np.argmax(up[known] - lowest))
    low = int(np.argmin(up[known][: top + 1]))
    rise = up[known[low : top + 1]]
    looks = [rise[0] + share * (rise[-1] - rise[0]) for share in PLAIN_RISES]
    return [int(known[low + np.argmax(rise >= height)]) for height in looks]


def _found_again(frames: NDArray[np.int32], found: dict[int, Sighting]) -> list[int]:
    """Looks in which the lifter is found after one in which nobody was."""
    looks = [int(frame) for frame in frames]
    return [b for a, b in pairwise(looks) if b in found and a not in found]


def _back_from(
    pictures: Pictures,
    net: PoseModel,
    frames: NDArray[np.int32],
    start: int,
    found: dict[int, Sighting],
    cancelled: Callable[[], bool],
    bar: LiftedBar,
) -> None:
    """From where the lifter is known backwards, over the frames in which nobody was found."""
    at = found.get(start)
    for frame in frames[frames < start][::-1]:
        if at is None or int(frame) in found:
            return
        if cancelled():
            raise Cancelled("Stopped.")
        before = at.next_crop()
        try:
            at = net.look(pictures.bgr(int(frame)), before)
        except ClipUnreadable:
            return
        if at.person < LEAST_PERSON or strays(before, at.next_crop()):
            return
        if bar.forbids(at, int(frame), leaps_to(before, at.next_crop())):
            return
        found[int(frame)] = at


def _with_patches(
    film: Looks,
    seen: Sightings,
    begin: int,
    progress: Callable[[float], None],
    cancelled: Callable[[], bool],
) -> Sightings:
    """With what patches of the picture tell of the heel, and of how the body moves between looks; where
    the model has lost the body it is carried on by them."""
    side = {"right": 1, "left": 0}.get(seen.facing() or "", 1)
    if film.plate_px < CAP * film.body_px:
        film = replace(film, plate_px=PLATE * film.body_px)

    def tell(share: float) -> None:
        progress(FINDING + (1 - FINDING) * share)

    near = seen.points[:, side].astype(float)
    on = carry(film, near, seen.presence[:, side].astype(float), begin, tell, cancelled)
    feet = np.where(on.carried[:, None, None], np.nan, on.points[:, : len(FOOT)])
    heel = heel_rise_px(film, feet, cancelled)
    points, presence = seen.points.copy(), seen.presence.copy()
    for one in np.flatnonzero(on.carried):
        # The other side goes along; where nobody was seen it is taken to be the same.
        shift = np.nan_to_num(on.points[one] - near[one])
        points[one] = np.where(np.isfinite(points[one]), points[one] + shift, on.points[one])
        presence[one] = np.maximum(presence[one], LEAST_PERSON)
    return replace(
        seen,
        points=points,
        presence=presence,
        heel_px=heel.astype(np.float32),
        moves=on.moves.astype(np.float32),
        carried=on.carried,
    )


def _gather(
    frames: NDArray[np.int32],
    found: dict[int, Sighting],
    box: tuple[float, float, float, float],
) -> Sightings:
    """Everything as arrays; a point beyond the film's edges, which nobody can see, has no presence, and no point
    of a foot that the lower edge cuts off."""
    points = np.full((len(frames), 2, len(LANDMARKS), 2), np.nan, np.float32)
    presence = np.zeros((len(frames), 2, len(LANDMARKS)), np.float32)
    nose_x = np.full(len(frames), np.nan, np.float32)
    for row, frame in enumerate(frames):
        sighting = found.get(int(frame))
        if sighting is not None:
            points[row] = sighting.points[ORDER]
            presence[row] = np.minimum(sighting.presence, sighting.visible)[ORDER]
            beyond = ((points[row] < box[:2]) | (points[row] >= box[2:])).any(axis=-1)
            presence[row][beyond] = 0.0
            nose_x[row] = sighting.points[NOSE, 0]
    seen = Sightings(frames, points, presence, nose_x)
    lowest = points[:, :, : len(FOOT), 1].max(axis=2)
    presence[:, :, : len(FOOT)][lowest > box[3] - CUT * seen.body_px()] = 0.0
    return seen
