"""Who holds the bar: of several people the lifter, and nobody who stands by."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.net import JOINTS, Crop, PoseModel, Sighting

__all__ = [
    "LEAST_PERSON",
    "LiftedBar",
    "holder",
    "painted_out",
    "people_round",
    "settled",
    "trunk_of",
]

Array = NDArray[np.float64]

LEAST_PERSON = 0.5
TRUNK = ("shoulder", "hip")
HOLDS, LET_GO, MOST_SETTLING, STANDS = 0.75, 1.4, 4, 0.015
"""A hand that is nearer to the bar than so many trunks holds it, one that is farther away has let it go.
A first look is repeated through its own square until that stands: moves by less than so much of it."""
ARM, TALLEST = 0.75, 2.5
"""Nobody reaches farther from the middle of his square than so many of its sides. A square so many times as high as
the picture is nobody's (1.5 in the closest lifelike films; in blurred pictures the detector names some of 3 to 4)."""
KNOWN_BESIDE, MOST_ASIDE = 6, 0.65
"""After so many looks it is known how far beside the bar the lifter is; he gets no farther from there than so
many trunks (under the bar it is about a foot)."""
BENT_TO = 1.0
"""A bar so many trunks above its lowest place is at the hips."""
CLOSER = 0.5
"""The part round the bar, as a share of the picture's longer side."""
COVER = 0.5
"""Whoever has no hand at the bar is painted out by so much of the square's side round the body."""

ROUND = 0.25
"""A body reaches so many trunks round its joints."""


class LiftedBar:
    """Where the bar is, and who cannot be the lifter because of it."""

    def __init__(self, bar_px: Array | None) -> None:
        self._px = bar_px
        self._half_up_px = self._third_up_px = self._foot_px = -np.inf
        self._beside: list[tuple[float, float]] = []
        if bar_px is not None and np.isfinite(bar_px[:, 1]).any():
            top, foot = float(np.nanmin(bar_px[:, 1])), float(np.nanmax(bar_px[:, 1]))
            self._foot_px = foot
            self._half_up_px, self._third_up_px = (top + foot) / 2, (top + 2 * foot) / 3

    def at(self, frame: int) -> Array:
        return self._px[frame] if self._px is not None else np.full(2, np.nan)

    def low(self, frame: int, trunk_px: float) -> bool:
        """Whether the bar is so low that its lifter may be bent to it; where it is not known he may be."""
        bar = self.at(frame)
        return not np.isfinite(bar).all() or bool(bar[1] > self._foot_px - BENT_TO * trunk_px)

    def learn(self, sighting: Sighting, frame: int) -> None:
        """How far beside the bar the hips of one who holds it are, once it is on its way up."""
        bar = self.at(frame)
        if (
            np.isfinite(bar).all()
            and bar[1] < self._third_up_px
            and _hand_away(sighting, bar) < HOLDS
        ):
            self._beside.append((_hips(sighting)[0] - bar[0], trunk_of(sighting)))

    def under(self, frame: int) -> Array | None:
        """The place above its lifter's hips at the height of a bar in the upper half of its way; None where that is
        not known."""
        bar = self.at(frame)
        if not bar[1] < self._half_up_px or len(self._beside) < KNOWN_BESIDE:
            return None
        return np.array([bar[0] + np.median(self._beside, axis=0)[0], bar[1]])

    def forbids(self, sighting: Sighting, frame: int, leaps: bool) -> bool:
        """A body is somebody else's if it leaps there, or the bar is in the upper half of its way (somebody
        holds it then), and it holds no bar, or stands elsewhere beside it than the lifter did."""
        bar = self.at(frame)
        if not np.isfinite(bar).all() or not (leaps or bar[1] < self._half_up_px):
            return False
        if _hand_away(sighting, bar) >= (HOLDS if leaps else LET_GO):
            return True
        if len(self._beside) < KNOWN_BESIDE:
            return False
        usual, trunk = np.median(self._beside, axis=0)
        return bool(abs(_hips(sighting)[0] - bar[0] - usual) > MOST_ASIDE * trunk)


def holder(net: PoseModel, picture: NDArray[np.uint8], bar: Array) -> Crop | None:
    """The square of the one who has a hand at the bar (shape (2,), pixels); whoever has none is painted
    out, and the detector asked again: it likes to name only the plainest person. At last it is asked of
    the part round the bar alone: in a wide picture a lifter may be too small for it."""
    people = [crop for _, crop in net.people(picture)]
    found = _with_a_hand(net, picture, bar, people)
    if found is None:
        found = _with_a_hand(net, picture, bar, _without(net, picture, people))
    return found or _with_a_hand(net, picture, bar, _round(net, picture, bar))


def people_round(net: PoseModel, picture: NDArray[np.uint8]) -> list[Crop]:
    """The squares of everybody who is found in a picture (shape (h, w, 3)), also beside the plainest ones."""
    first = [crop for _, crop in net.people(picture)]
    return [*first, *_without(net, picture, first)]


def _with_a_hand(
    net: PoseModel, picture: NDArray[np.uint8], bar: Array, people: Sequence[Crop]
) -> Crop | None:
    """Of these people the one who has a hand at the bar."""
    reach = [
        one
        for one in people
        if np.hypot(one.x - bar[0], one.y - bar[1]) < ARM * one.side
        and one.side < TALLEST * picture.shape[0]
    ]
    looks = [settled(net, picture, crop) for crop in reach]
    hands = [(_hand_away(one, bar), one) for one in looks if one.person >= LEAST_PERSON]
    nearest = min(hands, key=lambda pair: pair[0], default=None)
    holds = nearest is not None and nearest[0] < HOLDS
    return nearest[1].next_crop() if nearest is not None and holds else None


def _round(net: PoseModel, picture: NDArray[np.uint8], bar: Array) -> list[Crop]:
    """Who is there in the part of a picture round the bar, half as wide or high as all of it."""
    half = CLOSER * max(picture.shape[:2]) / 2
    left, top = np.maximum(bar - half, 0).astype(int)
    right, foot = (bar + half).astype(int)
    part = np.ascontiguousarray(picture[top:foot, left:right])
    if not part.size:
        return []
    return [replace(one, x=one.x + left, y=one.y + top) for _, one in net.people(part)]


def _without(net: PoseModel, picture: NDArray[np.uint8], people: Sequence[Crop]) -> list[Crop]:
    """Who else is there when these people are painted out."""
    if not people:
        return []
    boxes = []
    for crop in people:
        middle, reach = np.array([crop.x, crop.y]), COVER * crop.side * np.array([0.5, 1.0])
        boxes.append((middle - reach, middle + reach))
    return [crop for _, crop in net.people(_covered(picture, boxes))]


def painted_out(picture: NDArray[np.uint8], body: Sighting) -> NDArray[np.uint8]:
    """A picture (h, w, 3) without somebody: a box round the joints in the picture's mean colour."""
    joints = body.points[[number for pair in JOINTS.values() for number in pair]]
    margin = ROUND * trunk_of(body)
    return _covered(picture, [(joints.min(axis=0) - margin, joints.max(axis=0) + margin)])


def _covered(picture: NDArray[np.uint8], boxes: Sequence[tuple[Array, Array]]) -> NDArray[np.uint8]:
    """A picture (h, w, 3) in which boxes (two corners, (x, y) each) have its mean colour."""
    rest = picture.copy()
    for low, high in boxes:
        (left, top), (right, foot) = (np.maximum(one, 0).astype(int) for one in (low, high))
        rest[top:foot, left:right] = picture.mean(axis=(0, 1)).astype(np.uint8)
    return rest


def settled(net: PoseModel, picture: NDArray[np.uint8], crop: Crop) -> Sighting:
    """The look at a picture (shape (h, w, 3)) through a rough square, repeated through its own until that
    stands still."""
    sighting = net.look(picture, crop)
    for _ in range(MOST_SETTLING):
        after = sighting.next_crop()
        moved = float(np.hypot(after.x - crop.x, after.y - crop.y))
        if moved < STANDS * after.side and abs(after.side / crop.side - 1) < 2 * STANDS:
            break
        crop, sighting = after, net.look(picture, after)
    return sighting


def _hand_away(sighting: Sighting, bar: Array) -> float:
    """How far the nearer hand is from the bar, in trunks."""
    hands = sighting.points[list(JOINTS["wrist"])] - bar
    return float(np.hypot(*hands.T).min()) / max(trunk_of(sighting), 1.0)


def _hips(sighting: Sighting) -> Array:
    """The middle of the hips."""
    return np.asarray(sighting.points[list(JOINTS["hip"])].mean(axis=0))


def trunk_of(sighting: Sighting) -> float:
    """How long the trunk looks, from the middle of the shoulders to that of the hips."""
    shoulders, hips = (sighting.points[list(JOINTS[name])].mean(axis=0) for name in TRUNK)
    return float(np.hypot(*(shoulders - hips)))
