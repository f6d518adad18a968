"""How large the plate is: its rim is read in many pictures of its way, and what they agree on is the scale.

In the picture that was marked the rim may be cut off, half behind a limb, or one with its shadow; where the
plate goes it comes free of that. A plate keeps its size, but for what the camera zooms; where that is not known it
may keep it against the size that was followed.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.mark import BarTrack, PlateMark, State
from keen_kettle.core.track.nearby import rim_nearby
from keen_kettle.core.track.outline import Meant
from keen_kettle.core.track.rim import Rim, fit_rim
from keen_kettle.core.track.side_by_side import side_by_side

__all__ = ["RimLooks", "RimReads"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

LOOKS, FEWEST = 12, 4
"""In so many pictures the rim is read, and in so many it must be found to say anything."""
PART = 2.2
"""So many radii round the plate are kept of a picture."""
WHOLE = 1.02
"""A plate is whole in a picture whose edges are so many radii away from its centre."""
ZOOMS = 0.7
"""The size that was followed counts where the rims spread about it by less than so much of how they spread
about one size."""
BESIDE = 3
"""So many seen pictures on either side of the marked one tell where the plate is in it."""
OFF, OFF_SIGMAS, OFF_PLACE = 0.05, 2.0, 0.04
"""A marked rim is another than that of the other pictures if it differs in size by more than the first and so many
of both sigma, or lies off by so many radii."""
ALIKE, ASIDE, OF_OWN = 0.015, 0.08, 0.5
"""What is wrong in all pictures alike: bevels; so much of what a plate looks narrower, for one that is seen aside looks
larger or smaller from place to place; and so much of what each rim is unsure by itself (60 lifelike and path-traced
films: the size is within its sigma in 58 %, within two in 85 %)."""
BESIDE_RIM = 0.25
"""A path that is so many radii from a rim's centre leads beside it."""
PLAINER = 0.1
"""A rim is plainer by so much more support: a line over the film may spoil it everywhere but in the marked picture."""
LIKE = 0.02
"""A rim that differs less from the others in size may be the one to begin from."""
KNOWN = Meant(0.12, 0.015)
"""How well place and size are known when the rim is looked for once more."""
NEAR_SIZE, NEAR_PLACE = 0.03, 0.12


@dataclass(frozen=True)
class RimReads:
    """What many pictures say of the rim in the marked one: its half height `r` in pixels with one relative
    sigma and its centre; how `narrow` it is (width by height); the rim, with its frame, of a picture that shows it plainly; all rims that were `seen`, by
    their frames; and whether the one in the marked picture agrees (`with_marked`)."""

    r: float
    sigma: float
    x: float
    y: float
    narrow: float
    frame: int
    plainest: Rim
    seen: Sequence[tuple[int, Rim]]
    agrees: bool = False

    @property
    def plainest_mark(self) -> PlateMark:
        """The plainest rim as a mark."""
        rim = self.plainest
        narrow, high = rim.axes_px
        return PlateMark(
            self.frame, rim.x_px, rim.y_px, high, narrow / high, rim.angle_deg, exact=True
        )

    def shaped(self, rim: Rim) -> Rim:
        """A rim with how narrow the plate looks in all of them: rings within it are as narrow."""
        return replace(rim, narrow=self.narrow)

    def rim_at(self, x: float, y: float) -> Rim:
        """The rim of this size at a place (pixels) in the marked picture."""
        return self._sized(replace(self.plainest, x_px=x, y_px=y))

    def with_marked(self, marked: Rim) -> "RimReads":
        """Together with the rim that was found in the marked picture by itself, where that agrees."""
        if not marked.found:
            return self
        own = marked.sigma_px / max(marked.axes_px)
        if self._off(marked) > max(OFF, OFF_SIGMAS * float(np.hypot(self.sigma, own))):
            return self
        here, there = own**-2, self.sigma**-2
        log = (here * np.log(max(marked.axes_px)) + there * np.log(self.r)) / (here + there)
        r, sigma = float(np.exp(log)), float((here + there) ** -0.5)
        return replace(self, r=r, sigma=sigma, x=marked.x_px, y=marked.y_px, agrees=True)

    def plainer_than(self, marked: Rim) -> bool:
        """Whether a rim in another picture is plainly better seen than the marked one."""
        return not marked.found or self.plainest.support > marked.support + PLAINER

    def rim_in(self, picture: Picture, marked: Rim) -> tuple[Rim, bool]:
        """The rim in the marked picture (height, width, 3), where `marked` is the one that was found in it by
        itself; and whether that was another, or hardly seen.

        The edges are asked once more with the size known. Where there are none the rim is where it was marked, if
        that agrees, or where the pictures beside have it.
        """
        rim, _ = fit_rim(picture, self.x, self.y, self.r, KNOWN)
        apart = float(np.hypot(rim.x_px - self.x, rim.y_px - self.y)) / self.r
        seen = rim.found and self._off(rim) < NEAR_SIZE and apart < NEAR_PLACE
        if self.agrees and not (seen and apart > OFF_PLACE):
            return self._sized(marked), self.plainest.clear and not marked.clear
        return self._sized(rim) if seen else self.rim_at(self.x, self.y), True

    def passed_by(self, track: BarTrack) -> int:
        """How many of the rims that were seen a path leads beside, or is lost at."""
        beside = [
            np.hypot(track.x_px[k] - rim.x_px, track.y_px[k] - rim.y_px) for k, rim in self.seen
        ]
        return int(np.sum(~(np.array(beside) < BESIDE_RIM * self.r)))

    def _off(self, rim: Rim) -> float:
        return abs(float(np.log(max(rim.axes_px) / self.r)))

    def _sized(self, rim: Rim) -> Rim:
        """A rim of this size, in its own place and shape."""
        grown = self.r / max(rim.axes_px)
        axes = (grown * rim.axes_px[0], grown * rim.axes_px[1])
        return self.shaped(replace(rim, axes_px=axes, sigma_px=self.sigma * self.r, found=True))


class RimLooks:
    """The pictures of a way in which the rim is read. They are cut out as the film is gone through, so that it
    need not be decoded once more."""

    def __init__(
        self, track: BarTrack, marked: int, zoom: Array | None, size: tuple[int, int]
    ) -> None:
        """`zoom` (frames,) is how much larger than in the marked picture the camera shows things, None where that is
        not known; `size` is the pictures' width and height."""
        self._track, self._marked, self._zoom = track, marked, zoom
        self._frames = frozenset(_frames(track, marked, *size))
        self._parts: dict[int, _Part] = {}

    def see(self, number: int, picture: Picture) -> None:
        """Keeps what is round the plate of a picture (height, width, 3), if the rim is to be read in it."""
        if number in self._frames:
            x, y, r = (float(way[number]) for way in _circles(self._track))
            self._parts[number] = _Part.of(picture, x, y, PART * r)

    def reads(self, go_on: Callable[[], None]) -> RimReads | None:
        """The rim in the marked picture, as the pictures that were seen tell it; None where too few do. `go_on`
        is called before each, and may raise."""
        circles = np.column_stack(_circles(self._track))
        numbers = sorted(self._parts)
        rims = side_by_side(lambda k: self._parts[k].rim_near(*circles[k]), numbers, go_on)
        reads = [(k, rim) for k, rim in zip(numbers, rims, strict=True) if rim is not None]
        if len(reads) < FEWEST:
            return None
        return _agreed(self._track, self._marked, self._zoom, reads)


@dataclass(frozen=True)
class _Part:
    """A part of a picture, and where its corner is."""

    picture: Picture
    left: int
    top: int

    @classmethod
    def of(cls, picture: Picture, x: float, y: float, reach: float) -> "_Part":
        left, top = max(int(x - reach), 0), max(int(y - reach), 0)
        part = picture[top : max(int(y + reach), 0), left : max(int(x + reach), 0)]
        return cls(np.ascontiguousarray(part), left, top)

    def rim_near(self, x: float, y: float, r: float) -> Rim | None:
        rim = (
            rim_nearby(self.picture, x - self.left, y - self.top, r) if self.picture.size else None
        )
        return rim and replace(rim, x_px=rim.x_px + self.left, y_px=rim.y_px + self.top)


def _circles(track: BarTrack) -> tuple[Array, Array, Array]:
    return track.x_px, track.y_px, track.r_px


def _frames(track: BarTrack, marked: int, wide: int, high: int) -> list[int]:
    """Pictures in which the plate is wholly seen, spread over its way and over the time."""
    x, y, r = track.x_px, track.y_px, WHOLE * track.r_px
    plain = np.isfinite(x) & np.isin(track.state, (State.GOOD, State.CHECK))
    plain[marked] = False
    whole = plain & (x > r) & (x < wide - r) & (y > r) & (y < high - r)
    frames = np.flatnonzero(whole if whole.sum() >= LOOKS else plain)
    if len(frames) <= LOOKS:
        return [int(frame) for frame in frames]
    gone = np.hypot(
        np.diff(x[frames], prepend=x[frames[0]]), np.diff(y[frames], prepend=y[frames[0]])
    )
    along = np.cumsum(gone / max(float(gone.sum()), 1e-9)) + np.linspace(0, 1, len(frames))
    at = np.searchsorted(along, np.linspace(along[0], along[-1], LOOKS))
    return [int(frames[k]) for k in np.unique(np.minimum(at, len(frames) - 1))]


def _agreed(
    track: BarTrack, marked: int, zoom: Array | None, seen: Sequence[tuple[int, Rim]]
) -> RimReads:
    """What all rims that were `seen` say of its shape, and the sharper half of them of size and place."""
    narrow = float(np.median([rim.width_by_height for _, rim in seen]))
    reads = sorted(seen, key=lambda one: -one[1].support)[: max(FEWEST, len(seen) // 2)]
    frames = np.array([frame for frame, _ in reads])
    sizes = np.array([max(rim.axes_px) for _, rim in reads])
    beside = _beside(track, marked)
    if zoom is not None:
        told = sizes * zoom[marked] / zoom[frames]
    else:
        zoomed = sizes / track.r_px[frames] * float(np.median(track.r_px[beside]))
        told = zoomed if _spread(zoomed) < ZOOMS * _spread(sizes) else sizes
    r = float(np.median(told))
    own = float(np.median([rim.sigma_px for _, rim in reads] / sizes))
    chance = _spread(told) / np.sqrt(len(told))
    sigma = float(np.linalg.norm([ALIKE, ASIDE * max(1 - narrow, 0), OF_OWN * own, chance]))
    centre = np.array([[rim.x_px, rim.y_px] for _, rim in reads])
    path = np.column_stack([track.x_px, track.y_px])
    off = np.median((centre - path[frames]) / track.r_px[frames, None], axis=0)
    x, y = _between(track, marked, beside) + off * r
    alike = [one for one, size in zip(reads, told, strict=True) if abs(np.log(size / r)) <= LIKE]
    frame, plainest = max(alike or reads, key=lambda one: one[1].support)
    return RimReads(r, sigma, float(x), float(y), narrow, frame, plainest, seen)


def _spread(sizes: Array) -> float:
    """One sigma of the sizes' logarithms, by their median distance."""
    logs = np.log(sizes)
    return 1.4826 * float(np.median(np.abs(logs - np.median(logs))))


def _beside(track: BarTrack, marked: int) -> NDArray[np.intp]:
    """The seen pictures next to the marked one, on both sides."""
    seen = np.flatnonzero(track.seen)
    before, after = seen[seen < marked][-BESIDE:], seen[seen > marked][:BESIDE]
    return np.concatenate([before, after])


def _between(track: BarTrack, marked: int, beside: NDArray[np.intp]) -> Array:
    """Where the path goes through the marked picture, by the pictures beside it: (x, y) pixels."""
    path = np.column_stack([track.x_px, track.y_px])[beside]
    if beside[0] < marked < beside[-1]:
        return np.array([np.interp(marked, beside, path[:, axis]) for axis in (0, 1)])
    return np.asarray(path[np.argmin(np.abs(beside - marked))])
