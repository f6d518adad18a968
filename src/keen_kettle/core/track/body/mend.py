"""Looks again where the model has lost the body though it says that it sees one.

While the body straightens, the plate hides its middle, and the model may take plate and arms for
the whole body; the square then stays on the plate. A trunk that looks much shorter than usual tells
it. There the squares of the last and the next good look, one between them and those of the detector
are tried; what gives no trunk of usual length is dropped.

Of a lifter bent low behind the plate the model may make one who sits upright in it, legs and all, or one whose
arms are the trunk, and whose legs it sees nowhere. There squares that lie along a bent trunk are tried too, as
long as the bar is low; where none shows legs, it stays.
"""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_cdt

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.body.holder import LEAST_PERSON, LiftedBar, trunk_of
from keen_kettle.core.track.body.net import JOINTS, Crop, Sighting
from keen_kettle.core.track.body.sparing import SparingNet
from keen_kettle.core.track.pictures import ByNumber

__all__ = ["LEAST_FOR_USUAL", "LEAST_TRUNK", "leaps_to", "mend"]

Box = tuple[float, float, float, float]

LEAST_TRUNK, MOST_TRUNK, LEAST_FOR_USUAL = 0.68, 1.45, 8
"""A trunk that looks so much shorter or longer than usual is something else's."""
LEAP = 0.12
"""Between two looks nobody gets so far (share of the square's side; 0.3 m in a thirtieth of a second)."""
LEAST_LEG = 0.55
"""From hips to ankles in trunks; in the deepest squat it is about three quarters."""
LEAST_KNEE = 0.3
"""Where neither knee is so present, no legs are seen."""
BENT_DEG, BENT_SIZES = (-60.0, 60.0, -40.0, 40.0), (1.0, 1.3)
"""Squares for a trunk bent low: turned so, as large as those beside and larger."""
PATIENCE, SELDOM = 3, 6
"""Where so many looks in a row show nobody, or nobody bent, only each sixth is still looked through."""


def mend(
    pictures: ByNumber,
    net: SparingNet,
    frames: NDArray[np.int32],
    found: dict[int, Sighting],
    cancelled: Callable[[], bool],
    bar: LiftedBar,
    stood: dict[int, int],
    box: Box,
) -> None:
    """Look again where the body has shrunk or collapsed, and change `found` (frame → sighting).

    Parameters
    ----------
    frames : shape (k,), those that were looked at
    stood : frame → an earlier one whose lifter stood as in it, so that one look is enough for both
    box : left, top, right and foot of the film in its pictures, pixels; nobody sees what is beyond

    Raises
    ------
    Cancelled
    """
    if len(found) < LEAST_FOR_USUAL:
        return
    usual = float(np.median([trunk_of(one) for one in found.values()]))

    def fits(one: Sighting | None) -> bool:
        return one is not None and LEAST_TRUNK * usual < trunk_of(one) < MOST_TRUNK * usual

    looks = [int(frame) for frame in frames]
    sitting = _Sitting(bar, box, usual)
    again = _Again(net, sitting, usual, len(looks))
    good = [fits(found.get(f)) and not sitting.sits(found[f], f) for f in looks]
    firm = np.flatnonzero(good)
    if not len(firm):
        return
    mended: dict[int, Sighting | None] = {}
    for row in _in_turn(~np.array(good), np.array([sitting.low(frame) for frame in looks])):
        if cancelled():
            raise Cancelled("Stopped.")
        frame = looks[row]
        alike = stood.get(frame, frame)
        if alike in mended:
            _keep(found, frame, mended[alike])
            continue
        stays = found.get(frame) if fits(found.get(frame)) else None
        if not again.worth(row):
            _keep(found, frame, stays)
            continue
        beside = [*firm[firm < row][-1:], *firm[firm > row][:1]]
        near = [found[looks[k]].next_crop() for k in beside]
        try:
            picture = pictures.bgr(frame)
        except ClipUnreadable:
            continue
        best = again.look(row, frame, picture, near) or stays
        if best is not None and _is_another(best, bar, frame, near):
            best = None
        mended[alike] = best
        _keep(found, frame, best)
        if best is not None and not sitting.sits(best, frame) and not np.any(firm == row):
            firm = np.sort(np.append(firm, row))


def _is_another(sighting: Sighting, bar: LiftedBar, frame: int, near: list[Crop]) -> bool:
    """Whether a body is somebody else's than that of the looks beside."""
    leaps = all(leaps_to(one, sighting.next_crop()) for one in near)
    return bar.forbids(sighting, frame, leaps)


def _keep(found: dict[int, Sighting], frame: int, sighting: Sighting | None) -> None:
    if sighting is None:
        found.pop(frame, None)
    else:
        found[frame] = sighting


def _look_near(
    net: SparingNet, picture: NDArray[np.uint8], near: list[Crop], usual: float
) -> Sighting | None:
    """The best look in the squares of the looks beside, one between them, or the detector's near them."""
    tries = near if len(near) < 2 else [near[0], _between(*near), near[1]]
    best = _best_look(net, picture, tries, usual)
    if best is not None:
        return best
    reach = max(one.side for one in near)
    people = [
        one
        for _, one in net.people(picture)
        if min(np.hypot(one.x - c.x, one.y - c.y) for c in near) < 0.5 * reach
    ]
    return _best_look(net, picture, people, usual)


class _Worth:
    """Which looks are worth going through again: seldom those beside others that showed nothing."""

    def __init__(self, count: int) -> None:
        # The last is beside the first look and the last one.
        self._barren = np.zeros(count + 1, int)

    def trying(self, row: int) -> bool:
        barren = self._barren
        barren[row] = max(barren[row - 1], barren[row + 1])
        return bool(barren[row] < PATIENCE or row % SELDOM == 0)

    def learn(self, row: int, showed: bool) -> None:
        self._barren[row] = 0 if showed else self._barren[row] + 1


class _Sitting:
    """Tells bodies that sit in a low bar: on legs too short, or on none."""

    def __init__(self, bar: LiftedBar, box: Box, usual: float) -> None:
        self._bar, self._box, self._usual = bar, np.array(box), usual

    def low(self, frame: int) -> bool:
        return self._bar.low(frame, self._usual)

    def sits(self, sighting: Sighting, frame: int) -> bool:
        return _collapsed(sighting) or (self.low(frame) and self._legless(sighting))

    def _legless(self, sighting: Sighting) -> bool:
        """Whether neither knee is seen."""
        knees = list(JOINTS["knee"])
        places = sighting.points[knees]
        inside = ((places >= self._box[:2]) & (places < self._box[2:])).all(axis=1)
        seen = np.minimum(sighting.presence, sighting.visible)[knees]
        return float(np.where(inside, seen, 0.0).max()) < LEAST_KNEE


class _Again:
    """Goes through looks once more, as long as that is worth it."""

    def __init__(self, net: SparingNet, sitting: _Sitting, usual: float, count: int) -> None:
        self._net, self._worth = net, _Worth(count)
        self._bent = _Bent(net, sitting, usual, count)
        self._sitting, self._usual = sitting, usual

    def worth(self, row: int) -> bool:
        return self._net.may_mend and self._worth.trying(row)

    def look(
        self, row: int, frame: int, picture: NDArray[np.uint8], near: list[Crop]
    ) -> Sighting | None:
        """The best body in the squares of the looks beside, or bent, as long as the bar is low."""
        best = _look_near(self._net, picture, near, self._usual)
        sitting = self._sitting
        if sitting.low(frame) and (best is None or sitting.sits(best, frame)):
            best = self._bent.look(row, frame, picture, near) or best
        self._worth.learn(row, best is not None and not sitting.sits(best, frame))
        return best


class _Bent:
    """Looks along a trunk bent forward, to either side; seldom where looks beside showed none so."""

    def __init__(self, net: SparingNet, sitting: _Sitting, usual: float, count: int) -> None:
        self._net, self._sitting = net, sitting
        self._usual, self._worth = usual, _Worth(count)

    def look(
        self, row: int, frame: int, picture: NDArray[np.uint8], near: list[Crop]
    ) -> Sighting | None:
        """The best look in such squares, with legs; None where there is none, or it was not tried."""
        if not self._worth.trying(row):
            return None
        squares = [
            Crop(one.x, one.y, size * one.side, turn)
            for one in near
            for size in BENT_SIZES
            for turn in BENT_DEG
        ]
        best = _best_look(
            self._net, picture, squares, self._usual, lambda one: self._sitting.sits(one, frame)
        )
        self._worth.learn(row, best is not None)
        return best


def _collapsed(sighting: Sighting) -> bool:
    """Whether the legs are shorter than those of anybody who squats."""
    hips, feet = (sighting.points[list(JOINTS[name])].mean(axis=0) for name in ("hip", "ankle"))
    return float(np.hypot(*(feet - hips))) < LEAST_LEG * trunk_of(sighting)


def _in_turn(bad: NDArray[np.bool_], low: NDArray[np.bool_]) -> list[int]:
    """Rows of looks that are bad. Those with a low bar come first, as long as the film can wait: the set position
    tells most, and is lost most. And first those beside a good one: each has what was mended before it as its
    neighbour."""
    away = distance_transform_cdt(np.pad(bad, 1, constant_values=True))[1:-1]
    return [int(row) for row in np.lexsort((away, ~low)) if bad[row]]


def _between(a: Crop, b: Crop) -> Crop:
    turn = (b.turn_deg - a.turn_deg + 180) % 360 - 180
    return Crop((a.x + b.x) / 2, (a.y + b.y) / 2, (a.side + b.side) / 2, a.turn_deg + turn / 2)


def _best_look(
    net: SparingNet,
    picture: NDArray[np.uint8],
    crops: Sequence[Crop],
    usual: float,
    refused: Callable[[Sighting], bool] = lambda one: False,
) -> Sighting | None:
    """Of the looks through these squares, each let settle once, the one with the usual trunk; none that is
    refused."""
    best, least = None, max(-np.log(LEAST_TRUNK), np.log(MOST_TRUNK))
    for crop in crops:
        first = net.look(picture, crop)
        for one in (first, net.look(picture, first.next_crop())):
            off = abs(float(np.log(max(trunk_of(one), 1.0) / usual)))
            if one.person >= LEAST_PERSON and off < least and not refused(one):
                best, least = one, off
        if least < 0.1:
            break
    return best


def leaps_to(before: Crop, after: Crop) -> bool:
    """Whether the body is where nobody gets to between two looks."""
    return float(np.hypot(after.x - before.x, after.y - before.y)) > LEAP * before.side
