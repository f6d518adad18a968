"""Tracks the plate through a film from the coach's marks, and checks itself backwards.

From each mark by hand the plate is followed both ways (`plate`); between two marks both directions
are blended. Where only one mark leads, the plate is also followed back from the far end: what does
not find its way back to the mark is not called good. Then the camera's own movement is found behind
the lifter and taken out (`background`).
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable, MarkError
from keen_kettle.core.track.background import still_path
from keen_kettle.core.track.covered import covered_part, laid_over
from keen_kettle.core.track.cues import contrast
from keen_kettle.core.track.hand import HandWork
from keen_kettle.core.track.joined import as_track, joined
from keen_kettle.core.track.mark import BarTrack, PlateMark, State
from keen_kettle.core.track.plate import GOOD, Follower, Point, grey_of
from keen_kettle.core.track.rim import Rim, RimModel, rim_as_drawn
from keen_kettle.core.track.rough import rim_by_mark
from keen_kettle.core.track.same import same_pictures
from keen_kettle.core.track.shots import ShotEnds, ShotWatch
from keen_kettle.core.track.size import RimLooks, RimReads
from keen_kettle.core.track.spans import apply_spans, bridge_slips, without_other_shots
from keen_kettle.core.track.vertical import Vertical, find_vertical
from keen_kettle.core.track.way import Way

__all__ = ["TRACKER_VERSION", "Pictures", "TrackMemory", "rim_of", "track_bar"]

TRACKER_VERSION = 17
UPRIGHT_LOOKS = 3
DOUBT_S, LONG_DOUBT_S, DOUBTFUL = 0.8, 1.5, 0.48
"""A mark that is centred on nothing round is not followed in doubt for longer than the first; a plate not for longer
than the second with less confidence than this (of five films followed in doubt for 1.3 s and more it is 0.5 to 0.6
in three that are followed rightly, and 0.3 and 0.46 in two that are not)."""
SEARCH_S = 0.8
"""A lost plate is looked for so long; then the path ends."""
PLATE_SHARE = 0.75
"""The share of the work that following the plate takes; the background takes the rest."""
BACK_STEP_S = 1 / 16
"""The way back is checked at about this step."""
LEAST_GONE, FEWEST_TO_DOUBT = 0.2, 12
"""What is plainly seen away from the mark in less than this share of the pictures may be a caption that lies
over the plate."""
CAMERA_MOVES, ALIKE = 0.15, 0.2
"""A camera that moves by so many radii shows what lies over the film; it is not asked again for a path that is
within the second of the one before."""
AS_WELL, ASTRAY = 0.9, 0.15
"""A path that begins in another picture is believed if it is as plain as the first one, nearly, or if that one led so
far beside the rims (radii)."""
BACK_GOOD, BACK_LOST = 0.1, 0.85
BACK_SPREAD, PARTED = 0.2, 0.6
"""The way back agrees within this share of the radius; what it could not check counts so much."""


class Pictures(Protocol):
    """A film as the tracker needs it."""

    @property
    def t_s(self) -> NDArray[np.float64]: ...

    def bgr(self, number: int) -> NDArray[np.uint8]: ...


@dataclass(frozen=True)
class _Patience:
    """For how long (s) a plate is followed with less confidence than this, and no good picture in between."""

    seconds: float = np.inf
    confidence: float = 0.0


@dataclass
class TrackMemory:
    """Runs that were done already, so that a new mark costs only what it changes.

    A run depends on nothing but its mark, its direction, the hidden spans and whether what lies over the
    film is left out; a shorter one is the beginning of a longer one.
    """

    ways: dict[tuple[object, ...], tuple[Way, Rim]] = field(default_factory=dict)


@dataclass
class _Work:
    """One film that is being followed: what is asked, and what is known by now.

    `ordered` are the marks by their frames, `leading` is the one that gives the rim, in the frame `marked`; `rims`
    are those found by the marks' frames. `zoom` is how much larger than in that frame the camera shows things,
    where that is known.
    """

    pictures: Pictures
    ordered: Sequence[PlateMark]
    runs: Sequence[tuple[PlateMark, int]]
    leading: PlateMark
    hand: HandWork
    memory: TrackMemory
    progress: Callable[[float], None]
    cancelled: Callable[[], bool]
    found: Callable[[int, float, float, State], None]
    rims: dict[int, Rim] = field(default_factory=dict)
    ways: list[Way] = field(default_factory=list)
    zoom: NDArray[np.float64] | None = None
    done: int = 0
    told: float = 0.0

    def __post_init__(self) -> None:
        self.marked = self.leading.frame

    def follow(self, over: NDArray[np.uint8] | None) -> BarTrack:
        """The path from all marks; by what lies over the film (not 0) the plate is not looked for."""
        self.ways = [self._run(anchor, end, over) for anchor, end in self.runs]
        cuts = np.array(sorted({way.cut for way in self.ways if way.cut is not None}), np.intp)
        points = joined(self.ways, self.ordered, self.rims, len(self.pictures.t_s))
        track = as_track(self.pictures.t_s, points, self.rims[self.leading.frame], cuts)
        return apply_spans(bridge_slips(track), self.hand)

    def sized(self, track: BarTrack, looks: RimLooks, over: NDArray[np.uint8] | None) -> BarTrack:
        """With the rim that many pictures tell. Where the only marked one shows another, the plate is followed
        anew from a picture that shows it plainly."""
        reads = looks.reads(self._go_on) if not self.leading.exact else None
        if reads is None:
            return track
        reads = reads.with_marked(track.rim)
        rim, other = reads.rim_in(self.pictures.bgr(self.marked), track.rim)
        again = self._from_plainest(reads, over) if other and len(self.ordered) == 1 else None
        if again is None or (reads.aside < ASTRAY and _plainly(again) < AS_WELL * _plainly(track)):
            return track.with_rim(rim)
        return self.stilled_like(again, track)

    def _from_plainest(self, reads: RimReads, over: NDArray[np.uint8] | None) -> BarTrack | None:
        """Followed from a picture that shows the rim plainly; None where that does not lead to the
        marked one."""
        plain = reads.plainest_mark
        self.ordered, self.leading = [plain], plain
        self.runs = _runs(self.ordered, *self.hand.limits(len(self.pictures.t_s)))
        track = self.follow(over)
        x, y = float(track.x_px[self.marked]), float(track.y_px[self.marked])
        if not np.isfinite(x):
            return None
        state = track.state.copy()
        state[plain.frame] = State.GOOD
        return replace(track, state=state, rim=reads.rim_at(x, y))

    def stilled_like(self, track: BarTrack, before: BarTrack) -> BarTrack:
        """With the camera's movement that was known before, where that was for nearly the same path."""
        return track.with_camera_of(before) if _agree(track, before) else self.stilled(track)

    def stilled(self, track: BarTrack) -> BarTrack:
        """With the path as a camera that stands still, as it does in the marked picture, would have seen it."""
        still = still_path(
            self.pictures.bgr,
            track.x_px,
            track.y_px,
            float(np.mean(track.rim.axes_px)),
            self.cancelled,
            lambda share: self._tell(PLATE_SHARE + (1 - PLATE_SHARE) * share),
            self.marked,
        )
        x, y = still.points.T.copy()
        self.zoom = still.zoom if still.known else None
        return replace(track, still_x_px=x, still_y_px=y, camera_known=still.known)

    def laid_over(self, track: BarTrack) -> NDArray[np.uint8] | None:
        """What lies over a film whose camera moves, if the plate comes behind it; otherwise None."""
        r = float(np.mean(track.rim.axes_px))
        if not track.camera_known or track.camera_moved_px < CAMERA_MOVES * r:
            return None
        t_s, both = self.pictures.t_s, zip(self.ways, self.runs, strict=True)
        shots = [way.shot(t_s, anchor.frame) for way, (anchor, _) in both]
        over = laid_over(self.pictures.bgr, np.unique(np.concatenate(shots)), r)
        near = over is not None and any(way.comes_near(over, r) for way in self.ways)
        return over if near else None

    def _run(self, anchor: PlateMark, last: int, over: NDArray[np.uint8] | None) -> Way:
        """One run, remembered if it can be; checked backwards where no other mark ends it."""
        heading = 1 if last >= anchor.frame else -1
        key = (anchor, heading, self.hand.spans, over is None)
        kept = self.memory.ways.get(key)
        if kept is None or heading * kept[0].last < heading * last:
            picture = self.pictures.bgr(anchor.frame)
            rim, model = rim_of(picture, anchor)
            patience = _Patience(LONG_DOUBT_S, DOUBTFUL) if rim.found else _Patience(DOUBT_S, 1.0)

            def follow(covered: NDArray[np.uint8] | None) -> Way:
                plate = Follower(picture, rim, model, covered)
                return _follow(
                    self.pictures,
                    plate,
                    anchor.frame,
                    last,
                    self.hand,
                    self._step,
                    patience=patience,
                )

            way, covered = follow(over), over
            if over is None:
                way, covered = _uncovered(self.pictures, follow, way, anchor.frame, rim)
            kept = self.memory.ways[key] = (way, rim)
            if last in (self.runs[0][1], self.runs[-1][1]):
                _check_back(self.pictures, way, anchor.frame, rim, model, self._step, covered)
        else:
            for number, point in kept[0].points.items():
                if heading * number <= heading * last:
                    self._step(number, point)
        way, self.rims[anchor.frame] = kept
        shorter = {n: p for n, p in way.points.items() if heading * n <= heading * last}
        cut = way.cut if way.cut is not None and heading * way.cut <= heading * last else None
        return Way(shorter, cut, last)

    def _step(self, number: int, point: Point) -> None:
        self._go_on()
        self.done += 1
        self.found(number, point.x, point.y, point.state)
        total = max(sum(abs(end - anchor.frame) for anchor, end in self.runs), 1)
        self._tell(min(PLATE_SHARE * self.done / total, PLATE_SHARE))

    def _go_on(self) -> None:
        if self.cancelled():
            raise Cancelled("Tracking was stopped; the marks are kept.")

    def _tell(self, share: float) -> None:
        """How much is done; never less than before."""
        self.told = max(self.told, share)
        self.progress(self.told)


def track_bar(
    pictures: Pictures,
    marks: Sequence[PlateMark],
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
    found: Callable[[int, float, float, State], None] = lambda number, x, y, state: None,
    hand: HandWork | None = None,
    memory: TrackMemory | None = None,
) -> BarTrack:
    """Track the plate through every frame of a film.

    Parameters
    ----------
    pictures : the film; times in seconds
    marks : at least one plate mark; the first gives the scale's rim
    progress : told the share done, 0 to 1
    cancelled : asked every frame; True stops the work
    found : told each new point as it comes (frame, x, y, state)
    hand : spans that are hidden or bridged, first and last frame
    memory : runs done before; new ones are added

    Raises
    ------
    MarkError
        No mark, or one that is not on the picture.
    Cancelled
    """
    hand = hand or HandWork()
    ordered = _marks_within(pictures, marks, hand)
    leading = next(mark for mark in marks if mark in ordered)
    runs = _runs(ordered, *hand.limits(len(pictures.t_s)))
    memory = memory or TrackMemory()
    work = _Work(pictures, ordered, runs, leading, hand, memory, progress, cancelled, found)
    track = work.stilled(work.follow(None))
    over = work.laid_over(track)
    if over is not None:
        track = work.stilled_like(work.follow(over), track)
    high, wide = pictures.bgr(leading.frame).shape[:2]
    shots, looks = ShotEnds(), RimLooks(track, leading.frame, work.zoom, (wide, high))

    def see(number: int, picture: NDArray[np.uint8], grey: NDArray[np.uint8]) -> None:
        shots.see(number, grey)
        looks.see(number, picture)

    same = _same(pictures, track, cancelled, see)
    other = work.sized(track, looks, over)
    if not _agree(other, track):
        same = _same(pictures, other, cancelled)
    grey, rim = grey_of(pictures.bgr(leading.frame)), other.rim
    clear = contrast(grey, rim.x_px, rim.y_px, float(np.mean(rim.axes_px)))
    track = without_other_shots(other, [*shots.begins, *other.cuts])
    track = replace(track, contrast=clear, same=same)
    return replace(track, vertical=_vertical(pictures, track, leading.frame))


def _same(
    pictures: Pictures,
    track: BarTrack,
    cancelled: Callable[[], bool],
    seen: Callable[[int, NDArray[np.uint8], NDArray[np.uint8]], None] = lambda *_: None,
) -> NDArray[np.bool_]:
    plate = np.column_stack([track.x_px, track.y_px, track.r_px])
    return same_pictures(pictures.bgr, len(track), cancelled, plate, seen)


def _vertical(pictures: Pictures, track: BarTrack, marked: int) -> Vertical:
    """The hall's vertical, in the place of the camera to which the path is carried back."""
    seen = np.flatnonzero(np.isfinite(track.x_px))
    held = track.camera_moved_px > 0
    near = np.sort(seen[np.argsort(np.abs(seen - marked))[:UPRIGHT_LOOKS]])
    first = near if held else seen[:: max(len(seen) // UPRIGHT_LOOKS, 1)]
    radius = float(np.mean(track.rim.axes_px))
    looks = [int(frame) for frame in first[:UPRIGHT_LOOKS]]
    return find_vertical(pictures.bgr, looks, track.x_px, radius, held)


def _runs(ordered: Sequence[PlateMark], first: int, last: int) -> list[tuple[PlateMark, int]]:
    """Which way to go from each anchor: to both ends of the film and to its neighbours."""
    runs = [(ordered[0], first)]
    for left, right in itertools.pairwise(ordered):
        runs += [(left, right.frame - 1), (right, left.frame + 1)]
    return [*runs, (ordered[-1], last)]


def _uncovered(
    pictures: Pictures,
    follow: Callable[[NDArray[np.uint8] | None], Way],
    way: Way,
    start: int,
    rim: Rim,
) -> tuple[Way, NDArray[np.uint8] | None]:
    """A way on which the plate is not looked for by what lies over it, and that; the way as it is where
    nothing does, or where it goes no farther without.

    A plate that was hardly seen away from its place may have been a caption.
    """
    if len(way.seen) < FEWEST_TO_DOUBT or way.gone(rim) > LEAST_GONE:
        return way, None
    frames = np.array(sorted([start, *way.seen]), np.intp)
    r = float(np.mean(rim.axes_px))
    covered = covered_part(pictures.bgr, frames, rim.x_px, rim.y_px, r)
    other = follow(covered) if covered is not None else way
    return (other, covered) if other.gone(rim) > way.gone(rim) else (way, None)


def _plainly(track: BarTrack) -> int:
    return int(np.sum(track.state == State.GOOD))


def _agree(one: BarTrack, other: BarTrack) -> bool:
    """Whether two paths are nearly the same and seen in the same pictures."""
    away = np.hypot(one.x_px - other.x_px, one.y_px - other.y_px)
    known = np.isfinite(one.x_px) == np.isfinite(other.x_px)
    return bool(known.all() and np.nanmax(away, initial=0.0) < ALIKE * np.mean(one.rim.axes_px))


def rim_of(picture: NDArray[np.uint8], mark: PlateMark) -> tuple[Rim, RimModel]:
    """The plate's rim by its mark in a picture (height, width, 3): found near it, or as drawn if the mark
    is exact."""
    if mark.exact:
        axes = (mark.r_px * mark.narrow, mark.r_px)
        return rim_as_drawn(picture, mark.x_px, mark.y_px, axes, mark.angle_deg)
    return rim_by_mark(picture, mark.x_px, mark.y_px, mark.r_px)


def _marks_within(
    pictures: Pictures, marks: Sequence[PlateMark], hand: HandWork
) -> list[PlateMark]:
    """The marks that lie between the film's limits, in order; MarkError where there is none."""
    if not marks:
        raise MarkError("Mark the plate once (centre and rim) before tracking.")
    count = len(pictures.t_s)
    ordered = sorted(marks, key=lambda mark: mark.frame)
    high, wide = pictures.bgr(min(max(ordered[0].frame, 0), count - 1)).shape[:2]
    for mark in ordered:
        mark.check_against(count, wide, high)
    first, last = hand.limits(count)
    within = [mark for mark in ordered if first <= mark.frame <= last]
    if not within:
        raise MarkError("No mark lies between the first and the last frame that you have set.")
    return within


def _follow(
    pictures: Pictures,
    plate: Follower,
    start: int,
    last: int,
    hand: HandWork,
    step: Callable[[int, Point], None],
    stride: int = 1,
    patience: _Patience = _Patience(),
) -> Way:
    """Follow from frame `start` to frame `last`, forwards or backwards.

    What stays doubtful for longer than one's patience is not followed on, and is given up from where
    the doubt began.
    """
    heading = stride if last >= start else -stride
    way, shot = Way({}, None, last), ShotWatch(grey_of(pictures.bgr(start)))
    before_t = float(pictures.t_s[start])
    doubt: list[int] = []
    doubt_s = 0.0
    for number in range(start + heading, last + (1 if heading > 0 else -1), heading):
        gap_s = abs(float(pictures.t_s[number]) - before_t)
        before_t = float(pictures.t_s[number])
        try:
            picture = pictures.bgr(number)
            grey, hidden = grey_of(picture), hand.hides(number)
            gone = shot.gone(grey)
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


def _check_back(
    pictures: Pictures,
    way: Way,
    start: int,
    rim: Rim,
    model: RimModel,
    step: Callable[[int, Point], None],
    covered: NDArray[np.uint8] | None,
) -> None:
    """Follow the plate back from the far end of a way and doubt what does not find home.

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

    back = _follow(pictures, plate, end, start, HandWork(), silent, stride)
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
