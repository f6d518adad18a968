"""The square that follows the lifter from look to look, and where he is looked for when it has lost him.

The square of the look before comes first, then the last good one, turned towards a low bar too: to that he bends.
Where somebody else was seen in it, that one is painted out. Who holds a bar that is up is below it, as far beside it as
before. At last the detector is asked for everyone. A lifter who is lost is looked for in a few looks more, and then
seldom: what lies between is filled from where he is found, and each look that shows nobody costs one that might.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.head import Heads
from keen_kettle.core.track.body.holder import (
    LEAST_PERSON,
    LiftedBar,
    holder,
    painted_out,
    settled,
    trunk_of,
)
from keen_kettle.core.track.body.landmarks import BodySeed, crop_side_of
from keen_kettle.core.track.body.mend import LEAST_FOR_USUAL, LEAST_TRUNK, leaps_to
from keen_kettle.core.track.body.net import Crop, Sighting, crop_between
from keen_kettle.core.track.body.sparing import SparingNet
from keen_kettle.core.track.body.stands import Stands

__all__ = ["Search", "strays"]

Picture = NDArray[np.uint8]

FARTHEST_STEP, MOST_GROWTH = 0.35, 1.45
"""Between two looks the square moves by so much of its side at most, and grows or shrinks so."""
GONE, GONE_DEG, MOST_AGAIN = 0.04, 15.0, 2
"""A square that is off by so much of its side, or turned so much, is looked through again."""
PATIENCE, LOST_ASKS = 3.0, 6
"""A lifter who is lost is looked for in so many looks, from then on in each sixth: a fifth of a second, and what lies
between is filled from where he is found."""
BENDS_DEG, SURELY, LOW_TRUNKS = (20.0, 40.0), 0.8, 1.5
"""Who is lost while the bar is low is looked for in squares turned so towards it, and must be as plain as this
there; low is so many trunks above its lowest place."""
BELOW, ROOM = (1.0, 2.0, 0.4), 2.5
"""So many trunks below a bar in the rack, overhead, or on its way are the hips; a square is so much larger than a body
reaches."""


class Search:
    """The square that follows one person."""

    def __init__(
        self, net: SparingNet, bar: LiftedBar, heads: Heads, begin: Crop | None = None
    ) -> None:
        self._net, self._bar, self._heads = net, bar, heads
        self._crop = self._last = begin
        self._other: Sighting | None = None
        self._patience, self._trunk_px = PATIENCE, 0.0
        self._trunks: list[float] = []
        self._stands = Stands()
        self.since = -1
        """The frame since which the lifter stands as in the one looked at last."""

    def begin_at(self, seed: BodySeed) -> None:
        """From here on the one whose hip and shoulder the coach has clicked on is followed."""
        self._stands.forget()
        self._trunks.clear()
        self._heads.begin()
        hip = np.array([seed.hip_x, seed.hip_y])
        way = np.array([seed.shoulder_x, seed.shoulder_y]) - hip
        trunk = max(float(np.hypot(*way)), 1.0)
        self._crop = crop_between(hip, hip + way / trunk * crop_side_of(trunk))

    def look(self, picture: Picture, frame: int) -> Sighting | None:
        """Who is seen in a frame; whoever stands as he did is not looked at again."""
        self._net.next_look()
        kept = self._stands.still(picture)
        if kept is not None and not self._bar.forbids(kept, frame, leaps=False):
            return kept
        self.since = frame
        seen = self._look(picture, frame)
        if seen is None:
            self._stands.forget()
        else:
            self._stands.learn(picture, seen)
        return seen

    def _look(self, picture: Picture, frame: int) -> Sighting | None:
        self._patience = min(self._patience + 1 / LOST_ASKS, PATIENCE)
        self._other = None
        if self._crop is None:
            if self._patience < 1:
                return None
            self._patience -= 1
        for search in (self._there, self._bent, self._without_other, self._below, self._named):
            sighting = search(picture, frame)
            if sighting is not None:
                return sighting
        self._crop = None
        return None

    def _there(self, picture: Picture, frame: int) -> Sighting | None:
        """The lifter in the square of the look before, or in the last good one."""
        tries = [self._crop] if self._crop is not None else []
        if self._last is not None and self._last is not self._crop:
            tries.append(self._last)
        for crop in tries:
            sighting = self._try(picture, frame, crop, crop)
            if sighting is not None:
                return sighting
        return None

    def _named(self, picture: Picture, frame: int) -> Sighting | None:
        """The lifter among those whom the detector names."""
        person = self._again(picture, frame) if self._net.may_search else None
        sighting = self._try(picture, frame, person, None) if person is not None else None
        if sighting is None:
            return None
        # The detector's square is rough: look again through the body's own.
        firm = settled(self._net, picture, sighting.next_crop())
        return self._try(picture, frame, firm.next_crop(), None) or sighting

    def _try(
        self,
        picture: Picture,
        frame: int,
        crop: Crop,
        before: Crop | None,
        least: float = LEAST_PERSON,
    ) -> Sighting | None:
        begun, sighting = crop, self._heads.look(self._net, picture, crop)
        after = sighting.next_crop()
        if sighting.person < least or (before is not None and strays(before, after)):
            return None
        # The body has gone on since the look before, and may reach out of that look's square: look
        # again through its own, until that stands still.
        for _ in range(MOST_AGAIN):
            if not _has_gone(crop, after) or not self._net.may_search:
                break
            again = self._heads.look(self._net, picture, after)
            if again.person < LEAST_PERSON or strays(after, again.next_crop()):
                break
            crop, sighting, after = after, again, again.next_crop()
        if self._shrunk(sighting):
            return None
        if self._bar.forbids(sighting, frame, leaps_to(begun, after)):
            self._other = sighting
            return None
        self._bar.learn(sighting, frame)
        self._heads.learn(picture, sighting)
        self._crop = self._last = after
        self._trunks.append(trunk_of(sighting))
        self._trunk_px = float(np.median(self._trunks))
        return sighting

    def _shrunk(self, sighting: Sighting) -> bool:
        """Whether a body is too small to be the lifter: the model makes one of plate and arms."""
        known = len(self._trunks) >= LEAST_FOR_USUAL
        return known and trunk_of(sighting) < LEAST_TRUNK * self._trunk_px

    def _bent(self, picture: Picture, frame: int) -> Sighting | None:
        """The lifter in the last good square, turned towards a low bar: to that he bends, and the model hardly knows
        him but in a square that lies as he does."""
        last, bar = self._last, self._bar.at(frame)
        if last is None or not self._net.may_search or not np.isfinite(bar).all():
            return None
        if not self._bar.low(frame, LOW_TRUNKS * self._trunk_px):
            return None
        way = 1 if bar[0] > last.x else -1
        for turn in BENDS_DEG:
            crop = replace(last, turn_deg=last.turn_deg + way * turn)
            sighting = self._try(picture, frame, crop, last, SURELY)
            if sighting is not None:
                return sighting
        return None

    def _without_other(self, picture: Picture, frame: int) -> Sighting | None:
        """The lifter in the last good square, where the one who was seen in it instead is painted out."""
        if self._other is None or self._last is None or not self._net.may_search:
            return None
        return self._try(painted_out(picture, self._other), frame, self._last, self._last)

    def _below(self, picture: Picture, frame: int) -> Sighting | None:
        """The lifter below a bar that is up, as far beside it as he was: in the rack, overhead, or pulling."""
        under = self._bar.under(frame)
        if under is None or not self._net.may_search:
            return None
        for below in BELOW:
            y = under[1] + below * self._trunk_px
            crop = Crop(float(under[0]), float(y), ROOM * crop_side_of(self._trunk_px))
            sighting = self._try(picture, frame, crop, None)
            if sighting is not None:
                return sighting
        return None

    def _again(self, picture: Picture, frame: int) -> Crop | None:
        """Where the lifter is when the square has lost him: a bystander may be all that the detector
        names, so whoever is taken must have a hand at the bar, as far as that is known."""
        bar = self._bar.at(frame)
        if self._last is None or not np.isfinite(bar).all():
            return self._nearest(self._net.people(picture), frame)
        crop = holder(self._net, picture, bar)
        gone = (
            crop is None or np.hypot(crop.x - self._last.x, crop.y - self._last.y) > self._last.side
        )
        return None if gone else crop

    def _nearest(self, people: list[tuple[float, Crop]], frame: int) -> Crop | None:
        """Of several people the one where the lifter was, or nearest to the bar for their size."""
        if not people:
            return None
        place = None
        if self._last is not None:
            place = np.array([self._last.x, self._last.y])
        elif np.isfinite(self._bar.at(frame)).all():
            place = self._bar.at(frame)
        if place is None:
            return max(people, key=lambda one: one[1].side)[1]
        middle = place

        def away(crop: Crop) -> float:
            return float(np.hypot(crop.x - middle[0], crop.y - middle[1])) / crop.side

        return min((crop for _, crop in people), key=away)


def _has_gone(before: Crop, after: Crop) -> bool:
    """Whether the body has left the middle of its square, or no longer fills it as usual."""
    moved = float(np.hypot(after.x - before.x, after.y - before.y))
    turned = abs((after.turn_deg - before.turn_deg + 180) % 360 - 180)
    growth = after.side / max(before.side, 1.0)
    return moved > GONE * before.side or abs(growth - 1) > 2 * GONE or turned > GONE_DEG


def strays(before: Crop, after: Crop) -> bool:
    """Whether a body is farther from its square, or larger or smaller, than anybody gets between two looks."""
    moved = float(np.hypot(after.x - before.x, after.y - before.y))
    growth = after.side / max(before.side, 1.0)
    return moved > FARTHEST_STEP * before.side or not 1 / MOST_GROWTH < growth < MOST_GROWTH
