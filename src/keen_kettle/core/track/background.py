"""The camera's own movement, from what stands still behind the lifter.

Each frame is laid over a reference frame by what is plain in the hall (`laying`), which gives shift, roll
and zoom. The plate's place is carried back by them to where a still camera would have seen it. Laying over
one reference, not over the frame before, keeps small errors from adding up; a new reference is taken when
too little of the old one is left in the picture. A few frames are tried first: most cameras stand still, and
then there is nothing more to do. A pan may be too fast for a few frames, so only frames that could be
followed say that.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.framing import film_part, small_grey
from keen_kettle.core.track.laying import Anchor, Laid, Small, joined, leap, small_of
from keen_kettle.core.track.overlay import overlay_mask

__all__ = ["MATTERS", "PROBES", "Glance", "StillPath", "still_path"]

Array = NDArray[np.float64]
Grey = NDArray[np.uint8]
Glance = tuple[Grey, float]
"""A picture in grey, made smaller, and by how much."""

LIFTER, NEAR_LIFTER, MAY_BE = 2.6, 1.5, 0.2
"""The lifter's half width in plate radii. What is nearer to the bar than the second is left out, and what is
nearer than the first counts so little: in some views it is the lifter, in others all that is left of the hall."""
MOST_FAILED, LEFT = 0.1, 0.6
"""So many frames may not be followed. Where so little of a reference is seen the next one is taken."""
SURELY, PLAINLY, STANDS_OUT, AS_WELL = 0.1, 0.3, 0.75, 1.5
"""A frame that hardly differs (0.65 grey levels) is laid rightly; one that is differs less than the same a little
aside by the second factor plainly, by the third at least. Unmoved, the frames of a camera that stands differ at
most so much more than laid (up to 1.2 in 62 lifelike films, those of one that moves from 2.7 on in 64)."""
UNSURE = 0.01
"""Where by more of a diameter in one frame of ten all hangs on one part of the picture, the hall is too plain to
tell the camera's movement from the lifter's (0.006 at most in 64 lifelike films; from 0.013 on where before a plain
wall the movement was off by more than 2 %)."""
AGAINST = 0.6
"""A rise of more than a diameter is left at so much of it at least when the camera's movement is taken out (at 0.8
in 64 lifelike films)."""
LOOKS = 8
PROBES, FEWEST_GLANCES = 40, 30
"""So many frames are looked at first; a camera that stands still in them is left at that."""
MATTERS = 0.012
"""Movement under this share of the plate's diameter is noise: the camera stands still."""


@dataclass(frozen=True)
class StillPath:
    """A path (n, 2) in pixels as a camera that stands would have seen it, and how much larger than to that one the
    hall is shown in each frame, (n,); `known` says whether the camera's movement could be told."""

    points: Array
    zoom: Array
    known: bool


def still_path(
    pictures: Callable[[int], NDArray[np.uint8]],
    x_px: Array,
    y_px: Array,
    radius_px: float,
    cancelled: Callable[[], bool],
    progress: Callable[[float], None] = lambda share: None,
    home: int = 0,
    glances: Mapping[int, Glance] | None = None,
) -> StillPath:
    """The plate's path (frames,), pixels, as the camera would have seen it from where it is in the frame `home`
    (or in the one seen next to it). `glances` are pictures that were looked at before, small, by number: with
    enough of them a film whose camera stands need not be read once more.

    Comes back unchanged when the background cannot be followed, or hardly moves. Where it cannot be followed
    on single frames, the movement is bridged evenly.

    Raises
    ------
    Cancelled
    """
    seen = np.flatnonzero(np.isfinite(x_px))
    path = np.column_stack([x_px, y_px])
    as_it_is = StillPath(path, np.ones(len(path)), False)
    if len(seen) < 2:
        return as_it_is
    glances = glances or {}
    known = seen[np.isin(seen, list(glances))]
    enough = known if len(known) >= FEWEST_GLANCES else seen
    probe = enough[:: max(len(enough) // PROBES, 1)]
    shrunk = _Shrunk(pictures, probe, cancelled, glances)
    still = as_it_is
    for frames, share in ((probe, 0.3), (seen, 1.0)):
        carried = _carried_back(shrunk, path, frames, radius_px, cancelled, home)
        progress(share)
        if carried is None:
            still = as_it_is
            continue
        if not _matters(carried.points[frames] - path[frames], radius_px):
            return replace(as_it_is, known=True)
        still = carried
    against = still.known and _against(path[seen], still.points[seen], radius_px)
    return as_it_is if against else still


def _against(path: Array, still: Array, radius_px: float) -> bool:
    """Whether the camera would have sunk while the bar rose, and risen while it sank: then it was the lifter that
    was followed. Nobody films so."""
    seen, left = (np.subtract(*np.percentile(one[:, 1], [98, 2])) for one in (path, still))
    return bool(seen > 2 * radius_px and left < AGAINST * seen)


def _carried_back(
    shrunk: "_Shrunk",
    path: Array,
    frames: NDArray[np.intp],
    radius_px: float,
    cancelled: Callable[[], bool],
    home: int,
) -> StillPath | None:
    """The path with some frames carried to where the camera is at home; None if too few could be."""
    follower = _Background(radius_px, shrunk.overlay)
    known: list[int] = []
    ways: list[Array] = []
    for number in frames:
        _go_on(cancelled)
        small, bar = shrunk(int(number)), path[number] - shrunk.corner_px
        matrix = None if small is None else follower.advance(small, shrunk.zoom, float(bar[0]))
        if matrix is not None:
            known.append(int(number))
            ways.append(matrix)
        elif follower.failed > MOST_FAILED * len(frames) + 3:
            return None
    if follower.stands:
        return StillPath(path, np.ones(len(path)), True)
    if follower.unsure > UNSURE or not ways:
        return None
    back = cv2.invertAffineTransform(ways[int(np.argmin(np.abs(np.array(known) - home)))])
    to_home = [joined(np.asarray(back, float), way) for way in ways]
    bars = path[known] - shrunk.corner_px
    away = np.array(
        [way[:, :2] @ bar + way[:, 2] - bar for way, bar in zip(to_home, bars, strict=True)]
    )
    still = path.copy()
    for side in range(2):
        still[frames, side] += np.interp(frames, known, away[:, side])
    zoom = [float(abs(np.linalg.det(way[:, :2]))) ** -0.5 for way in to_home]
    return StillPath(still, np.interp(np.arange(len(path)), known, zoom), True)


class _Shrunk:
    """The film's pictures in grey at the size at which the background is followed, without bars that it may lie
    between (`corner_px` is where it begins, in the film's pixels). Those that are looked at first are kept, and
    tell what is laid over the film (`overlay`, 0 there)."""

    def __init__(
        self,
        pictures: Callable[[int], NDArray[np.uint8]],
        probe: NDArray[np.intp],
        cancelled: Callable[[], bool],
        glances: Mapping[int, Glance],
    ) -> None:
        self._pictures, self._glances = pictures, glances
        self.zoom = 1.0
        kept: dict[int, Grey | None] = {}
        for number in probe:
            _go_on(cancelled)
            kept[int(number)] = self._whole(int(number))
        known = [grey for grey in kept.values() if grey is not None]
        some = np.unique(np.linspace(0, len(known) - 1, LOOKS).round().astype(int))
        looks = [known[k] for k in some] if known else []
        self._part = film_part(looks) if looks else (slice(None), slice(None))
        rows, columns = self._part
        self.corner_px = np.array([columns.start or 0, rows.start or 0]) / self.zoom
        self.overlay = overlay_mask([grey[self._part] for grey in looks])
        self._kept = {k: None if grey is None else grey[self._part] for k, grey in kept.items()}

    def __call__(self, number: int) -> Grey | None:
        """One picture, (h, w); None where it cannot be read."""
        if number in self._kept:
            return self._kept[number]
        whole = self._whole(number)
        return None if whole is None else whole[self._part]

    def _whole(self, number: int) -> Grey | None:
        try:
            grey, self.zoom = self._glances.get(number) or small_grey(self._pictures(number))
        except ClipUnreadable:
            return None
        return grey


def _go_on(cancelled: Callable[[], bool]) -> None:
    if cancelled():
        raise Cancelled("Tracking was stopped; the marks are kept.")


def _matters(away_px: Array, radius_px: float) -> bool:
    """Whether the movement is more than the background's own noise."""
    moved = np.hypot(away_px[:, 0], away_px[:, 1])
    return float(np.percentile(moved, 95)) >= MATTERS * 2 * radius_px


class _Background:
    """Follows the background from frame to frame; `failed` counts frames that could not be."""

    def __init__(self, radius_px: float, overlay: Grey | None) -> None:
        self.failed = 0
        self._radius_px, self._overlay = radius_px, overlay
        self._anchor: Anchor | None = None
        self._to_first = self._last = _identity()
        self._before: Small | None = None
        self._differs = np.zeros(2)
        self._unsure: list[float] = []

    @property
    def unsure(self) -> float:
        """In one frame of ten more than so much of a diameter hangs on one part of the picture."""
        return float(np.percentile(self._unsure, 90)) if self._unsure else 0.0

    @property
    def stands(self) -> bool:
        """Whether the frames lie nearly as well where they are: the camera has not moved."""
        unmoved, laid = self._differs
        return bool(unmoved < AS_WELL * laid)

    def advance(self, grey: Grey, zoom: float, bar_x_px: float) -> Array | None:
        """The matrix (2, 3) from this frame's pixels to the first frame's; None if unknown. The frame comes
        shrunk by `zoom`; in the film's pixels the bar is at `bar_x_px`."""
        small = small_of(grey)
        if self._anchor is None:
            self._begin(small, grey.shape, zoom, bar_x_px, _identity())
            return _identity()
        laid = self._laid(self._anchor, small)
        if laid is None:
            self.failed += 1
            return None
        self._last, self._before = laid.way, small
        diameter = 2 * self._radius_px * zoom * small.by
        self._unsure.append(self._anchor.unsure_px(laid) / diameter)
        self._differs += self._anchor.misfit(small, self._to_first), laid.misfit
        self._anchor.learn(laid)
        whole = joined(self._to_first, np.asarray(cv2.invertAffineTransform(laid.way), float))
        if laid.share < LEFT:
            self._begin(small, grey.shape, zoom, bar_x_px, whole)
        matrix = whole.copy()
        matrix[:, 2] /= zoom * small.by
        return matrix

    def _begin(
        self, small: Small, shape: tuple[int, ...], zoom: float, bar_x_px: float, to_first: Array
    ) -> None:
        """Take a frame as the reference."""
        mask = np.full(shape[:2], 255, np.uint8)
        for reach, counts in ((LIFTER, MAY_BE), (NEAR_LIFTER, 0.0)):
            left, right = ((bar_x_px + k * reach * self._radius_px) * zoom for k in (-1, 1))
            mask[:, int(max(left, 0)) : int(max(right, 0))] = round(255 * counts)
        if self._overlay is not None:
            mask = np.minimum(mask, self._overlay)
        self._anchor, self._to_first = Anchor(small, mask), to_first
        self._last, self._before = _identity(), small

    def _laid(self, anchor: Anchor, small: Small) -> Laid | None:
        """How this frame lies over the reference: near to where the last one lay; if that is not plain, also
        where the whole picture has leapt to since, and as the reference itself lies."""
        if not anchor.plain:
            return None
        assert self._before is not None
        near = anchor.laid(small, self._last)
        if near.misfit < SURELY:
            return near
        aside = anchor.misfit_aside(small, near)
        if near.misfit < PLAINLY * aside:
            return near
        others = (joined(leap(self._before, small), self._last), _identity())
        best = min((near, *(anchor.laid(small, one) for one in others)), key=lambda one: one.misfit)
        return best if best.misfit < STANDS_OUT * aside else None


def _identity() -> Array:
    return np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
