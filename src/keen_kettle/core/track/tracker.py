"""Tracks the plate through a film from the coach's marks, and checks itself backwards.

From each mark by hand the plate is followed both ways (`plate`); between two marks both directions
are blended. Where only one mark leads, the plate is also followed back from the far end: what does
not find its way back to the mark is not called good. Then the camera's own movement is found behind
the lifter and taken out (`background`).
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, MarkError
from keen_kettle.core.track.background import PROBES, Glance, still_path
from keen_kettle.core.track.covered import cleared, covered_part, laid_over, passed_behind
from keen_kettle.core.track.cues import contrast
from keen_kettle.core.track.framing import small_grey
from keen_kettle.core.track.hand import HandWork
from keen_kettle.core.track.joined import as_track, in_line, joined
from keen_kettle.core.track.mark import BarTrack, PlateMark, State
from keen_kettle.core.track.pictures import (
    Pictures,
    SmallerPictures,
    in_large,
    made_smaller,
    times_too_large,
)
from keen_kettle.core.track.plate import Follower, Point, grey_of
from keen_kettle.core.track.rim import Rim, RimModel, rim_as_drawn
from keen_kettle.core.track.rough import rim_by_mark
from keen_kettle.core.track.run import Patience, check_back, follow
from keen_kettle.core.track.same import same_pictures
from keen_kettle.core.track.shots import ShotEnds
from keen_kettle.core.track.size import RimLooks, RimReads
from keen_kettle.core.track.spans import apply_spans, bridge_gaps, bridge_slips, without_other_shots
from keen_kettle.core.track.vertical import Vertical, find_vertical
from keen_kettle.core.track.way import Way

__all__ = ["TRACKER_VERSION", "TrackMemory", "marked_rim", "rim_of", "track_bar"]

TRACKER_VERSION = 22
UPRIGHT_LOOKS = 3
DOUBT_S, LONG_DOUBT_S, DOUBTFUL = 0.8, 1.5, 0.48
"""A mark that is centred on nothing round is not followed in doubt for longer than the first; a plate not for longer
than the second with less confidence than this (of five films followed in doubt for 1.3 s and more it is 0.5 to 0.6
in three that are followed rightly, and 0.3 and 0.46 in two that are not)."""
PLATE_SHARE = 0.75
"""The share of the work that following the plate takes; the background takes the rest."""
EVERY = slice(None)
LEAST_GONE, FEWEST_TO_DOUBT = 0.2, 12
"""What is plainly seen away from the mark in less than this share of the pictures may be a caption that lies
over the plate."""
CAMERA_MOVES, ALIKE = 0.15, 0.2
"""A camera that moves by so many radii shows what lies over the film; it is not asked again for a path that is
within the second of the one before."""
MOSTLY, AS_WELL = 0.5, 0.9
"""A rim that many pictures tell is believed against a marked one that is as plain where less than the first of its
path is plain. A path that begins in another picture is as plain if so much of the first one's is."""


@dataclass(frozen=True)
class _Looked:
    """What a film shows along a path that was `followed`, with the rim of the mark `leading`.

    `track` is that path again, without what lies `over` the film (not 0; None where nothing does) and with the
    camera's movement; `zoom` as in `_Work`; `reads` the rims along it; `begins` the frames with which another shot
    begins; `same` (frames,) the repeats; `vertical` the hall's.
    """

    leading: PlateMark
    followed: BarTrack
    track: BarTrack
    over: NDArray[np.uint8] | None
    zoom: NDArray[np.float64] | None
    reads: RimReads | None
    begins: Sequence[int]
    same: NDArray[np.bool_]
    vertical: Vertical

    def leads_along(self, leading: PlateMark, followed: BarTrack) -> bool:
        """Whether it holds for another path: one that is nearly the same wherever it is seen, and seen where the
        rim is plainest (it may be followed anew from there)."""
        seen = np.isfinite(followed.x_px)
        there = self.reads is None or bool(seen[self.reads.frame])
        return leading == self.leading and there and _agree(followed, self.followed, seen)


@dataclass
class TrackMemory:
    """What was done already, so that a new mark or span costs only what it changes.

    A run depends on nothing but its mark, its direction, the hidden spans and whether what lies over the
    film is left out; a shorter one is the beginning of a longer one. `glances` are some of the pictures that were
    met on the ways, small, by number; `looked` what the film shows along the paths.
    """

    ways: dict[tuple[object, ...], tuple[Way, Rim]] = field(default_factory=dict)
    rims: dict[PlateMark, tuple[Rim, RimModel]] = field(default_factory=dict)
    glances: dict[int, Glance] = field(default_factory=dict)
    looked: list[_Looked] = field(default_factory=list)


@dataclass(frozen=True)
class _Glancing:
    """Pictures of which some are kept small as they are met."""

    pictures: Pictures
    kept: dict[int, Glance]
    every: int

    @property
    def t_s(self) -> NDArray[np.float64]:
        return self.pictures.t_s

    def bgr(self, number: int) -> NDArray[np.uint8]:
        picture = self.pictures.bgr(number)
        if number % self.every == 0 and number not in self.kept:
            self.kept[number] = small_grey(picture)
        return picture


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
        track = in_line(track, self.ordered)
        return apply_spans(bridge_gaps(bridge_slips(track)), self.hand)

    def looked_along(self, followed: BarTrack) -> _Looked:
        """What the film shows along a path; looked for once in paths that are nearly the same."""
        for looked in self.memory.looked:
            if looked.leads_along(self.leading, followed):
                over, self.zoom = looked.over, looked.zoom
                track = followed if over is None else self.follow(over)
                return replace(looked, track=track.with_camera_of(looked.track))
        track = self.stilled(followed)
        over = self.laid_over(track)
        if over is not None:
            track = self.stilled_like(self.follow(over), track)
        high, wide = self.pictures.bgr(self.marked).shape[:2]
        shots, looks = ShotEnds(), RimLooks(track, self.marked, self.zoom, (wide, high))

        def see(number: int, picture: NDArray[np.uint8], grey: NDArray[np.uint8]) -> None:
            shots.see(number, grey)
            looks.see(number, picture)

        same = _same(self.pictures, track, self.cancelled, see)
        reads = looks.reads(self._go_on) if not self.leading.exact else None
        vertical = _vertical(self.pictures, track, shots.begins, self.marked)
        looked = _Looked(
            self.leading, followed, track, over, self.zoom, reads, shots.begins, same, vertical
        )
        self.memory.looked.append(looked)
        return looked

    def sized(self, looked: _Looked) -> BarTrack:
        """With the rim that many pictures tell. Where the only marked one shows another, the plate is followed
        anew from a picture that shows it plainly."""
        track, reads, over = looked.track, looked.reads, looked.over
        if reads is None:
            return track
        track = replace(track, rim=reads.shaped(track.rim))
        reads = reads.with_marked(track.rim)
        doubtful = _plainly(track) < MOSTLY * track.seen.sum()
        plainer = doubtful or reads.plainer_than(track.rim)
        if not (reads.agrees or plainer):
            return track
        rim, other = reads.rim_in(self.pictures.bgr(self.marked), track.rim)
        anew = other and plainer and len(self.ordered) == 1
        again = self._from_plainest(reads, over) if anew else None
        if again is None or not _better(again, track, reads):
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
            self.memory.glances,
        )
        x, y = still.points.T.copy()
        self.zoom = still.zoom if still.known else None
        return replace(track, still_x_px=x, still_y_px=y, camera_known=still.known)

    def laid_over(self, track: BarTrack) -> NDArray[np.uint8] | None:
        """What lies over the film, if the plate comes behind it; otherwise None."""
        r = float(np.mean(track.rim.axes_px))
        over = self._laid_over_moving(r) if self._camera_moves(track, r) else None
        if over is not None and any(way.comes_near(over, r) for way in self.ways):
            return over
        shape = self.pictures.bgr(self.marked).shape
        path = np.column_stack([track.x_px, track.y_px])
        return passed_behind(self.memory.glances, path, r, shape[:2])

    def _camera_moves(self, track: BarTrack, r: float) -> bool:
        return track.camera_known and track.camera_moved_px >= CAMERA_MOVES * r

    def _laid_over_moving(self, r: float) -> NDArray[np.uint8] | None:
        """What stays where it is while the hall moves."""
        t_s, both = self.pictures.t_s, zip(self.ways, self.runs, strict=True)
        shots = [way.shot(t_s, anchor.frame) for way, (anchor, _) in both]
        return laid_over(self.pictures.bgr, np.unique(np.concatenate(shots)), r)

    def _run(self, anchor: PlateMark, last: int, over: NDArray[np.uint8] | None) -> Way:
        """One run, remembered if it can be; checked backwards where no other mark ends it."""
        heading = 1 if last >= anchor.frame else -1
        key = (anchor, heading, self.hand.spans, over is None)
        kept = self.memory.ways.get(key)
        if kept is None or heading * kept[0].last < heading * last:
            pictures = self._glancing()
            picture = pictures.bgr(anchor.frame)
            rim, model = self._rim(anchor, picture, over)
            patience = Patience(LONG_DOUBT_S, DOUBTFUL) if rim.found else Patience(DOUBT_S, 1.0)

            def onward(covered: NDArray[np.uint8] | None) -> Way:
                plate = Follower(picture, rim, model, covered)
                return follow(
                    pictures,
                    plate,
                    anchor.frame,
                    last,
                    self.hand,
                    self._step,
                    patience=patience,
                )

            way, covered = onward(over), over
            if over is None:
                way, covered = _uncovered(self.pictures, onward, way, anchor.frame, rim)
            kept = self.memory.ways[key] = (way, rim)
            if last in (self.runs[0][1], self.runs[-1][1]):
                check_back(self.pictures, way, anchor.frame, rim, model, self._step, covered)
        else:
            for number, point in kept[0].points.items():
                if heading * number <= heading * last:
                    self._step(number, point)
        way, self.rims[anchor.frame] = kept
        shorter = {n: p for n, p in way.points.items() if heading * n <= heading * last}
        cut = way.cut if way.cut is not None and heading * way.cut <= heading * last else None
        return Way(shorter, cut, last)

    def _rim(
        self, anchor: PlateMark, picture: NDArray[np.uint8], over: NDArray[np.uint8] | None
    ) -> tuple[Rim, RimModel]:
        """The rim of a mark, looked for once; and once more without what lies over it, where it was not found."""
        if anchor not in self.memory.rims:
            self.memory.rims[anchor] = rim_of(picture, anchor)
        found = self.memory.rims[anchor]
        if over is None or found[0].found:
            return found
        return rim_of(cleared(picture, over, anchor.x_px, anchor.y_px, anchor.r_px), anchor)

    def _glancing(self) -> _Glancing:
        first, last = self.hand.limits(len(self.pictures.t_s))
        return _Glancing(self.pictures, self.memory.glances, max((last - first) // PROBES, 1))

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
    by = times_too_large(pictures.bgr(leading.frame))
    pictures = SmallerPictures(pictures, by) if by > 1 else pictures
    ordered, leading = [mark.smaller(by) for mark in ordered], leading.smaller(by)

    def told(number: int, x: float, y: float, state: State) -> None:
        found(number, in_large(x, by), in_large(y, by), state)

    runs = _runs(ordered, *hand.limits(len(pictures.t_s)))
    memory = memory or TrackMemory()
    work = _Work(pictures, ordered, runs, leading, hand, memory, progress, cancelled, told)
    return _followed(work).larger(by)


def _followed(work: _Work) -> BarTrack:
    """The whole track, with all that the film tells along it."""
    pictures = work.pictures
    looked = work.looked_along(work.follow(None))
    track, same, vertical = work.sized(looked), looked.same, looked.vertical
    if not _agree(track, looked.track):
        same = _same(pictures, track, work.cancelled)
        vertical = _vertical(pictures, track, looked.begins, work.marked)
    track = without_other_shots(track, [*looked.begins, *track.cuts])
    grey, rim = grey_of(pictures.bgr(work.marked)), track.rim
    clear = contrast(grey, rim.x_px, rim.y_px, float(np.mean(rim.axes_px)))
    return replace(track, same=same, contrast=clear, vertical=vertical)


def _same(
    pictures: Pictures,
    track: BarTrack,
    cancelled: Callable[[], bool],
    seen: Callable[[int, NDArray[np.uint8], NDArray[np.uint8]], None] = lambda *_: None,
) -> NDArray[np.bool_]:
    plate = np.column_stack([track.x_px, track.y_px, track.r_px])
    return same_pictures(pictures.bgr, len(track), cancelled, plate, seen)


def _vertical(pictures: Pictures, track: BarTrack, begins: Sequence[int], marked: int) -> Vertical:
    """The hall's vertical, in the place of the camera to which the path is carried back, from the marked one of the
    shots that begin so."""
    track = without_other_shots(track, [*begins, *track.cuts])
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
    onward: Callable[[NDArray[np.uint8] | None], Way],
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
    other = onward(covered) if covered is not None else way
    return (other, covered) if other.gone(rim) > way.gone(rim) else (way, None)


def _better(again: BarTrack, track: BarTrack, reads: RimReads) -> bool:
    """Whether a path that begins in another picture is to be believed: it leads to more of the rims that were seen, or
    to as many, and is as plain, nearly."""
    passed, before = reads.passed_by(again), reads.passed_by(track)
    as_plain = _plainly(again) >= AS_WELL * _plainly(track)
    return passed < before or (passed == before and as_plain)


def _plainly(track: BarTrack) -> int:
    return int(np.sum(track.state == State.GOOD))


def _agree(one: BarTrack, other: BarTrack, frames: NDArray[np.bool_] | slice = EVERY) -> bool:
    """Whether two paths are nearly the same in some frames, and seen in the same of them."""
    away = np.hypot(one.x_px - other.x_px, one.y_px - other.y_px)[frames]
    known = (np.isfinite(one.x_px) == np.isfinite(other.x_px))[frames]
    return bool(known.all() and np.nanmax(away, initial=0.0) < ALIKE * np.mean(one.rim.axes_px))


def marked_rim(picture: NDArray[np.uint8], mark: PlateMark) -> Rim:
    """The plate's rim by its mark in a film's picture (height, width, 3), as it is found when that is followed."""
    by = times_too_large(picture)
    return rim_of(made_smaller(picture, by), mark.smaller(by))[0].larger(by)


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
