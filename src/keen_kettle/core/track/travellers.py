"""What travels: round things that are seen in many of a film's pictures, keep to one column, and rise.

Those of one size and colour are linked from picture to picture. What surely looks like a plate is
looked for where it was missed.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.plate_judge import CROP_PX, REACH
from keen_kettle.core.track.plate_looks import judged_rounds, plate_in_column
from keen_kettle.core.track.rounds import Round, rounds_in
from keen_kettle.core.track.side_by_side import side_by_side
from keen_kettle.core.track.small_nets import crops_of
from keen_kettle.core.track.views import Views, go_on

__all__ = [
    "FEWEST_SEEN",
    "LEAST_RISE",
    "QUITE_SURE",
    "SURELY",
    "Traveller",
    "heights_of",
    "rounds_of",
    "travellers",
]

Array = NDArray[np.float64]

SEEDS, TRAVELLERS = 60, 6
ALIKE_SIZE, ASIDE_RADII, ALIKE_COLOUR, LEAST_LINK = 0.07, 2.2, 25.0, 0.12
"""A round thing is the same one again: log of its size, column, colour (Lab), vote after all that."""
FEWEST_SEEN, LEAST_SEEN = 4, 0.2
LEAST_RISE, SIDEWAYS, SIDEWAYS_OF_RISE = 0.7, 1.0, 0.5
"""A plate rises by so many radii, and goes aside by no more than so many and so much of its rise."""
SURELY, ENOUGH_SEEN = 0.6, 0.6
"""What looks so surely like a plate is looked for where it was missed, until it is seen in so many of the
views."""
ELSEWHERE, STANDS, EVEN_LEVELS = 0.7, 0.75, 2.0
"""A place that is left by so many radii, and twice looks so much the same then (correlation: up to 0.7 where a
plate has gone, 0.8 and more where a disc stands), was none of its way."""
QUITE_SURE, NOT_AT_ALL = 0.8, 0.25
"""Where something looks so like a plate, what does so little is not asked any more."""


@dataclass(frozen=True)
class Traveller:
    """A round thing through the views: where it is seen and how high in the reference's place (by number of
    view), its size in the first guess, and the score by which the first are taken."""

    seen: dict[int, Round]
    heights: dict[int, float]
    r: float
    score: float

    @property
    def sure(self) -> float:
        """How surely it looks like a plate, on average where it is seen (0 to 1)."""
        return float(np.mean([one.sure for one in self.seen.values()] or [0.0]))

    @property
    def rise(self) -> float:
        """How far apart the highest and the lowest place are in which it is seen, in radii."""
        return float(np.ptp(list(self.heights.values()))) / self.r


def rounds_of(views: Views, cancelled: Callable[[], bool]) -> list[list[Round]]:
    """The round things of each view, those that look like plates first.

    Raises
    ------
    Cancelled
    """
    shown = zip(views.pictures, views.edges, strict=True)
    return side_by_side(
        lambda one: judged_rounds(one[0], rounds_in(*one)), shown, partial(go_on, cancelled)
    )


def travellers(
    views: Views,
    found: list[list[Round]],
    cancelled: Callable[[], bool],
    least_rise: float = LEAST_RISE,
) -> list[Traveller]:
    """Of the round things `found` in each view those that rise by so many radii, each once; where one surely
    looks like a plate, those that do at all.

    Raises
    ------
    Cancelled
    """
    everything = [(k, one) for k, many in enumerate(found) for one in many]
    everything.sort(key=lambda item: -item[1].vote * np.sqrt(item[1].r))
    grown = []
    for view, seed in everything[:SEEDS]:
        go_on(cancelled)
        traveller = _grow(views, found, view, seed, least_rise)
        if traveller is not None:
            grown.append(traveller)
    grown.sort(key=lambda one: -one.score)
    kept: list[Traveller] = []
    for one in grown:
        if not any(_same(one, other) for other in kept):
            kept.append(one)

    def followed(one: Traveller) -> Traveller | None:
        gone = _without_still_places(views, one, cancelled, least_rise)
        return None if gone is None else _completed(views, gone, cancelled)

    left = side_by_side(followed, kept[:TRAVELLERS], partial(go_on, cancelled))
    return _likely([one for one in left if one is not None])


def _without_still_places(
    views: Views, one: Traveller, cancelled: Callable[[], bool], least_rise: float
) -> Traveller | None:
    """Less the sightings whose places look the same when it is seen elsewhere: discs in a rack, say, that
    somebody uncovers in turn; None if what is left does not travel."""
    there = list(one.seen)
    places = np.array([views.in_reference(k, one.seen[k].x, one.seen[k].y) for k in there])
    away = np.hypot(*(places[:, None] - places).transpose(2, 0, 1)) > ELSEWHERE * one.r
    looks = []
    for view in there:
        go_on(cancelled)
        looks.append(_grey_crops(views, view, places, one.r))
    # [of view, of place]: how alike a place looks in that view and when it was taken for the plate's.
    here = np.array([looks[k][k] for k in range(len(there))])
    alike = np.array([(seen * here).mean(axis=1) for seen in looks])
    stands = ((alike > STANDS) & away).sum(axis=0) >= 2
    left = {view: one.seen[view] for view, still in zip(there, stands, strict=True) if not still}
    return one if len(left) == len(there) else _as_traveller(views, left, one.r, least_rise)


def _grey_crops(views: Views, view: int, places: Array, r: float) -> NDArray[np.float32]:
    """What a view shows at places (n, 2) of the reference, grey, (n, pixels) with mean 0 and spread 1."""
    circles = np.array([(*views.from_reference(view, place), r) for place in places])
    crops = crops_of(views.pictures[view], circles, CROP_PX, REACH)
    grey = np.array([cv2.cvtColor(crop, cv2.COLOR_BGR2GRAY) for crop in crops], np.float32)
    grey = grey.reshape(len(grey), -1)
    grey -= grey.mean(axis=1, keepdims=True)
    return np.asarray(grey / (grey.std(axis=1, keepdims=True) + EVEN_LEVELS), np.float32)


def _completed(views: Views, one: Traveller, cancelled: Callable[[], bool]) -> Traveller:
    """A traveller that surely looks like a plate, with more of the views in which it was missed: it is
    looked for up and down its column, until it is seen often enough."""
    enough = ENOUGH_SEEN * len(views)
    if one.sure < SURELY or len(one.seen) >= enough:
        return one
    column = float(np.median([views.in_reference(k, at.x, at.y)[0] for k, at in one.seen.items()]))
    seen = dict(one.seen)
    for view in (k for k in range(len(views)) if k not in one.seen):
        go_on(cancelled)
        if len(seen) >= enough:
            break
        picture, moving = views.pictures[view], views.moving[view]
        found = plate_in_column(picture, moving, views.laid[view], column, one.r)
        if found is not None:
            seen[view] = found
    return replace(one, seen=seen, heights=heights_of(views, seen))


def _grow(
    views: Views, found: list[list[Round]], view: int, seed: Round, least_rise: float
) -> Traveller | None:
    """Follow one round thing through all views, by size, colour and column."""
    column = views.in_reference(view, seed.x, seed.y)[0]
    seen = {view: seed}
    for k, many in enumerate(found):
        if k == view:
            continue
        best, least = None, LEAST_LINK
        for one in many:
            size = np.log(one.r / seed.r) / ALIKE_SIZE
            if (
                abs(size) > 1.8
                or abs(views.in_reference(k, one.x, one.y)[0] - column) > ASIDE_RADII * seed.r
            ):
                continue
            colour = float(np.linalg.norm(one.colour - seed.colour)) / ALIKE_COLOUR
            value = one.vote * np.exp(-0.5 * (size**2 + colour**2))
            if value > least:
                best, least = one, value
        if best is not None:
            seen[k] = best
    return _as_traveller(views, seen, seed.r, least_rise)


def _as_traveller(
    views: Views, seen: dict[int, Round], r: float, least_rise: float
) -> Traveller | None:
    """What was seen as a traveller; None unless it is seen often enough and rises."""
    if len(seen) < max(FEWEST_SEEN, LEAST_SEEN * len(views)):
        return None
    places = np.array([views.in_reference(k, one.x, one.y) for k, one in seen.items()])
    rise = float(np.ptp(np.sort(places[:, 1])[1:-1])) / r
    aside = float(np.ptp(np.percentile(places[:, 0], [10, 90]))) / r
    if rise < least_rise or aside > SIDEWAYS + SIDEWAYS_OF_RISE * rise:
        return None
    votes = sum(one.vote for one in seen.values()) / len(views)
    score = votes * np.sqrt(r) * min(rise, 1.5) / (1 + 0.3 * max(aside - 0.8, 0))
    return Traveller(seen, heights_of(views, seen), r, float(score))


def heights_of(views: Views, seen: dict[int, Round]) -> dict[int, float]:
    """How high what is seen lies in the reference's place, in small pixels down from the top."""
    return {view: float(views.in_reference(view, one.x, one.y)[1]) for view, one in seen.items()}


def _same(a: Traveller, b: Traveller) -> bool:
    """Whether two travellers are mostly the same sightings."""
    shared = sum(b.seen.get(k) is one for k, one in a.seen.items())
    return 0.8 < a.r / b.r < 1.25 and shared > 0.3 * len(a.seen)


def _likely(found: list[Traveller]) -> list[Traveller]:
    """Where one surely looks like a plate, those that do at all; otherwise all."""
    if max((one.sure for one in found), default=0.0) < QUITE_SURE:
        return found
    return [one for one in found if one.sure > NOT_AT_ALL]
