"""A head that the picture's upper edge cuts off is put back, so that the model still knows the body.

The model looks for a head first, and of a body without one it makes somebody smaller, or nobody. A lifter whom the
picture has room for only as long as he is bent loses his head as he stands up. It is taken from the last look
in which it was whole, and set on above the picture, where his shoulders say.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.holder import LEAST_PERSON, trunk_of
from keen_kettle.core.track.body.net import JOINTS, Crop, PoseModel, Sighting

__all__ = ["Heads"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

HALF, NARROW = 0.28, 0.85
"""A head with its hair reaches so far up and down from the ears (trunks), and not as far to the sides."""
SURE, AS_LARGE = 0.9, 1.25
"""A head is taken from a look in which ears and person are as sure as this, and if it is as large as the one before,
or nearly so; and so is the body that is seen with it."""
TRIES, OFF, PULLED, EDGE = 3, 0.2, 0.5, 0.1
"""A head that was set on so far from where the shoulders say (trunks) is set on anew, so much of the way nearer.
Shoulders that are nearer to the picture's edge than the last are cut off."""
ASIDE, HANGS = 0.25, 0.5
"""What goes so much of the way with a head that is set on so far away hangs on it."""


@dataclass(frozen=True)
class _Head:
    """What a head looks like (h, w, 3), and where that is head (h, w)."""

    look: Picture
    shown: NDArray[np.bool_]

    @staticmethod
    def of(picture: Picture, seen: Sighting) -> "_Head | None":
        """That of a body; None if it is not whole in the picture."""
        half = round(HALF * trunk_of(seen))
        x, y = (round(float(one)) for one in seen.points[list(JOINTS["ear"])].mean(axis=0))
        high, wide = picture.shape[:2]
        if not half or not (half <= x < wide - half and half <= y < high - half):
            return None
        look = picture[y - half : y + half, x - half : x + half].copy()
        shown = np.zeros(look.shape[:2], np.uint8)
        cv2.ellipse(shown, (half, half), (round(NARROW * half), half), 0, 0, 360, 1, -1)
        return _Head(look, shown > 0)

    @property
    def half(self) -> int:
        return int(self.look.shape[0]) // 2

    def is_of(self, seen: Sighting) -> bool:
        """Whether somebody is seen who is about as large as the one whose head this is."""
        size = HALF * trunk_of(seen) / self.half
        return seen.person >= LEAST_PERSON and 1 / AS_LARGE < size < AS_LARGE


class Heads:
    """The lifter's head as it was seen last: where its ears are, how far they go from look to look, and how it sits
    on the shoulders."""

    def __init__(self) -> None:
        self._head: _Head | None = None
        self._half = 0.0
        self.begin()

    @property
    def cut(self) -> bool:
        """Whether it is not whole, and was not seen before."""
        return self._head is None and bool(self._at[1] < self._half)

    def begin(self) -> None:
        """Begin elsewhere in the film: where the head is has to be seen first."""
        self._at, self._goes, self._neck = np.full(2, np.nan), np.zeros(2), np.zeros(2)

    def look(self, net: PoseModel, picture: Picture, crop: Crop) -> Sighting:
        """The joints in a square of a picture (h, w, 3), that is given its head if it has lost it. Somebody of
        another size without a head is nobody, and so is one whose shoulders are cut off, too."""
        head = self._head
        if head is None or not (self._at + self._goes)[1] < head.half:
            return net.look(picture, crop)
        best = self._best(head, net, picture, crop)
        if best is not None:
            return _only_seen(head, net, picture, crop, *best)
        seen = net.look(picture, crop)
        return seen if head.is_of(seen) else replace(seen, person=0.0)

    def _best(
        self, head: _Head, net: PoseModel, picture: Picture, crop: Crop
    ) -> tuple[Sighting, Array] | None:
        """The surest look of some with the head set on, and where its ears were then; None if none shows a body of
        its size with shoulders in the picture."""
        best: tuple[Sighting, Array] | None = None
        at = self._at + self._goes
        for _ in range(TRIES):
            seen = _with(head, net, picture, at, crop)
            trunk, shoulders = trunk_of(seen), _shoulders(seen)
            if not head.is_of(seen):
                at = self._at
                continue
            if shoulders[1] < EDGE * trunk:
                break
            if best is None or seen.person > best[0].person:
                best = seen, at
            off = shoulders + self._neck - at
            if seen.person >= SURE and np.hypot(*off) < OFF * trunk:
                break
            at = at + PULLED * off
        return best

    def learn(self, picture: Picture, seen: Sighting) -> None:
        """Where the head is, and if it is whole, how it looks."""
        ears = seen.points[list(JOINTS["ear"])]
        at = ears.mean(axis=0)
        self._goes = np.nan_to_num(at - self._at)
        if at[1] >= 0:
            self._neck = at - _shoulders(seen)
        else:
            # It is seen where it was put, and would go on for ever.
            self._goes = PULLED * self._goes
        self._at, self._half = at, HALF * trunk_of(seen)
        sure = min(seen.person, *seen.presence[list(JOINTS["ear"])]) >= SURE
        if sure and (self._head is None or self._head.is_of(seen)):
            self._head = _Head.of(picture, seen) or self._head


def _with(head: _Head, net: PoseModel, picture: Picture, at: Array, crop: Crop) -> Sighting:
    """The joints in a square of a picture to which a head is added above its edge, its ears at a place (2,)."""
    x, y = (round(float(one)) - head.half for one in at)
    added = max(-y, 0)
    whole = cv2.copyMakeBorder(
        picture, added, 0, 0, 0, cv2.BORDER_CONSTANT, value=cv2.mean(picture)
    )
    part = whole[y + added : y + added + 2 * head.half, max(x, 0) : max(x + 2 * head.half, 0)]
    look, shown = (one[:, max(-x, 0) :][:added, : part.shape[1]] for one in (head.look, head.shown))
    part[:added][shown] = look[shown]
    seen = net.look(
        np.asarray(whole, np.uint8), Crop(crop.x, crop.y + added, crop.side, crop.turn_deg)
    )
    return Sighting(seen.points - [0, added], seen.presence, seen.visible, seen.person)


def _only_seen(
    head: _Head, net: PoseModel, picture: Picture, crop: Crop, seen: Sighting, at: Array
) -> Sighting:
    """A look in which what only hangs on the head has no presence: it goes with the head where that is set on
    higher, and so is not seen itself. Where there is nobody then, shoulders and head do."""
    aside = ASIDE * trunk_of(seen)
    other = _with(head, net, picture, at - [0.0, aside], crop)
    if head.is_of(other):
        hangs = seen.points[:, 1] - other.points[:, 1] > HANGS * aside
    else:
        hangs = np.arange(len(seen.points)) <= max(JOINTS["shoulder"])
    return replace(seen, presence=np.where(hangs, 0.0, seen.presence))


def _shoulders(seen: Sighting) -> Array:
    """The middle of the shoulders."""
    return np.asarray(seen.points[list(JOINTS["shoulder"])].mean(axis=0))
