"""Follows the lifter with the pose model through a film, about thirty looks a second.

The first look asks the detector for everyone in the picture and takes the person nearest to the
bar. From there each look gives the square for the next one. When the person is lost (bent low, or
walked before), the last good square is tried once more, then the detector, and of its people the
one nearest to where the lifter was; otherwise that frame stays empty and the search goes on. Once
the lifter is found again, the empty frames before are tried backwards from there. The coach's own
clicks on hip and shoulder begin the search anew from their frame, both ways.
"""

from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.body.landmarks import (
    LANDMARKS,
    BodySeed,
    Sightings,
    crop_side_of,
)
from keen_kettle.core.track.body.net import JOINTS, Crop, PoseNet, Sighting, crop_between

__all__ = ["FINDER_VERSION", "find_body", "frames_to_look_at"]

Array = NDArray[np.float64]

FINDER_VERSION = 2
LOOKS_PER_SECOND = 30.0
LEAST_PERSON = 0.5
FARTHEST_STEP, MOST_GROWTH = 0.35, 1.45
"""Between two looks the square moves by so much of its side at most, and grows or shrinks so."""
NOSE = 0
ORDER = np.array([JOINTS[name] for name in LANDMARKS]).T


class _Pictures(Protocol):
    @property
    def t_s(self) -> Array: ...

    def bgr(self, number: int) -> NDArray[np.uint8]: ...


def frames_to_look_at(t_s: Array) -> NDArray[np.int32]:
    """Frames about a thirtieth of a second apart, the first and the last among them."""
    count = len(t_s)
    step = max(round(1 / LOOKS_PER_SECOND / max(float(np.median(np.diff(t_s))), 1e-6)), 1)
    return np.unique(np.append(np.arange(0, count, step), count - 1)).astype(np.int32)


def find_body(
    pictures: _Pictures,
    net: PoseNet,
    bar_px: Array | None = None,
    seeds: Sequence[BodySeed] = (),
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Sightings:
    """Look for the lifter in all frames that `frames_to_look_at` gives.

    Parameters
    ----------
    bar_px : shape (frames, 2), where the bar is (NaN where unknown); tells the lifter from others
    seeds : hip and shoulder as clicked by the coach

    Raises
    ------
    Cancelled
    """
    frames = frames_to_look_at(pictures.t_s)
    search = _Search(net, bar_px)
    found: dict[int, Sighting] = {}
    starts = {int(frames[np.argmin(np.abs(frames - seed.frame))]): seed for seed in seeds}
    for done, frame in enumerate(frames):
        if cancelled():
            raise Cancelled("Stopped.")
        try:
            picture = pictures.bgr(int(frame))
        except ClipUnreadable:
            continue
        seed = starts.get(int(frame))
        if seed is not None:
            search.begin_at(seed)
        sighting = search.look(picture, int(frame))
        if sighting is not None:
            found[int(frame)] = sighting
        progress((done + 1) / len(frames))
    for start in sorted({*starts, *_found_again(frames, found)}):
        _back_from(pictures, net, frames, start, found, cancelled)
    return _gather(frames, found)


def _found_again(frames: NDArray[np.int32], found: dict[int, Sighting]) -> list[int]:
    """Looks in which the lifter is found after one in which nobody was."""
    looks = [int(frame) for frame in frames]
    return [b for a, b in pairwise(looks) if b in found and a not in found]


def _back_from(
    pictures: _Pictures,
    net: PoseNet,
    frames: NDArray[np.int32],
    start: int,
    found: dict[int, Sighting],
    cancelled: Callable[[], bool],
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
        if at.person < LEAST_PERSON or _strays(before, at.next_crop()):
            return
        found[int(frame)] = at


class _Search:
    """The square that follows one person."""

    def __init__(self, net: PoseNet, bar_px: Array | None) -> None:
        self._net, self._bar_px = net, bar_px
        self._crop: Crop | None = None
        self._last: Crop | None = None

    def begin_at(self, seed: BodySeed) -> None:
        hip = np.array([seed.hip_x, seed.hip_y])
        way = np.array([seed.shoulder_x, seed.shoulder_y]) - hip
        trunk = max(float(np.hypot(*way)), 1.0)
        self._crop = crop_between(hip, hip + way / trunk * crop_side_of(trunk))

    def look(self, picture: NDArray[np.uint8], frame: int) -> Sighting | None:
        tries = [self._crop] if self._crop is not None else []
        if self._last is not None and self._last is not self._crop:
            tries.append(self._last)
        for crop in tries:
            sighting = self._try(picture, crop, crop)
            if sighting is not None:
                return sighting
        person = self._nearest(self._net.people(picture), frame)
        if person is not None:
            sighting = self._try(picture, person, None)
            if sighting is not None:
                # The detector's square is rough: look again through the body's own.
                return self._try(picture, sighting.next_crop(), None) or sighting
        self._crop = None
        return None

    def _try(self, picture: NDArray[np.uint8], crop: Crop, before: Crop | None) -> Sighting | None:
        sighting = self._net.look(picture, crop)
        after = sighting.next_crop()
        if sighting.person < LEAST_PERSON or (before is not None and _strays(before, after)):
            return None
        self._crop = self._last = after
        return sighting

    def _nearest(self, people: list[tuple[float, Crop]], frame: int) -> Crop | None:
        """Of several people the one where the lifter was, or nearest to the bar for their size."""
        if not people:
            return None
        place = None
        if self._last is not None:
            place = np.array([self._last.x, self._last.y])
        elif self._bar_px is not None and np.isfinite(self._bar_px[frame]).all():
            place = self._bar_px[frame]
        if place is None:
            return max(people, key=lambda one: one[1].side)[1]
        middle = place

        def away(crop: Crop) -> float:
            return float(np.hypot(crop.x - middle[0], crop.y - middle[1])) / crop.side

        return min((crop for _, crop in people), key=away)


def _strays(before: Crop, after: Crop) -> bool:
    moved = float(np.hypot(after.x - before.x, after.y - before.y))
    growth = after.side / max(before.side, 1.0)
    return moved > FARTHEST_STEP * before.side or not 1 / MOST_GROWTH < growth < MOST_GROWTH


def _gather(frames: NDArray[np.int32], found: dict[int, Sighting]) -> Sightings:
    points = np.full((len(frames), 2, len(LANDMARKS), 2), np.nan, np.float32)
    presence = np.zeros((len(frames), 2, len(LANDMARKS)), np.float32)
    nose_x = np.full(len(frames), np.nan, np.float32)
    for row, frame in enumerate(frames):
        sighting = found.get(int(frame))
        if sighting is not None:
            points[row] = sighting.points[ORDER]
            presence[row] = np.minimum(sighting.presence, sighting.visible)[ORDER]
            nose_x[row] = sighting.points[NOSE, 0]
    return Sightings(frames, points, presence, nose_x)
