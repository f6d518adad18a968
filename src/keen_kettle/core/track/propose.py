"""Proposes the near plate without a click: a round thing that goes up and down with the bar.

Round things are found in pictures all over the film by their moving edges. Those of one size and
colour that keep to one column and rise are linked. Round the centre of each such traveller the
pictures are stacked: what does not travel with it washes out, and of the rings that stay the largest
clear one is the rim (hubs and letters lie inside it). The far plate travels too: of two that go
together the larger one is nearer. At last the rim must be found in the pictures themselves.
"""

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import ClipUnreadable
from keen_kettle.core.track.mark import SMALLEST_RADIUS_PX, MarkedPicture, PlateMark, Risen
from keen_kettle.core.track.mate import nearer_mate
from keen_kettle.core.track.outward import edge_beyond, rim_round
from keen_kettle.core.track.parts import FilmPart, parts_of
from keen_kettle.core.track.pictures import Pictures, SmallerPictures, film_too_large
from keen_kettle.core.track.rays import edge_votes
from keen_kettle.core.track.rim import Rim, fit_rim
from keen_kettle.core.track.rough import rim_by_mark
from keen_kettle.core.track.rounds import ring_points
from keen_kettle.core.track.side_by_side import side_by_side
from keen_kettle.core.track.travellers import (
    FEWEST_SEEN,
    LEAST_RISE,
    QUITE_SURE,
    SURELY,
    Traveller,
    rounds_of,
    travellers,
)
from keen_kettle.core.track.views import Views, go_on, look_through

__all__ = ["propose_plate"]

Array = NDArray[np.float64]

FEWEST_VIEWS, MOST_VIEWS, VIEWS_PER_SECOND = 18, 24, 4.5
"""Pictures that are looked through: in a short film fewer lie as close together (of 60 plates 59 right, with 24 in
each film 60)."""
FINALISTS = 3
EASIER, LOOK_WEIGHT = 0.5, 2.0
"""What looks like a plate may be so much less clear, and is rated so much higher."""
RIM_AT_LEAST, RIM_AT_MOST = 0.88, 1.25
"""Where something looks quite surely like a plate, its rim is so many times as large as it was judged."""
RING_STEP, RING_FROM, RING_TO, MOST_OF_PICTURE = 0.02, 0.85, 4.0, 0.27
NARROWS = (1.0, 0.96, 0.91, 0.86, 0.81)
"""Rings are stacked round and, as plates look from aside, narrower."""
NEARLY_AS_CLEAR, SAME_RING, RIM_SEEN = 0.75, 0.08, 0.08
LEAST_RING, LEAST_MATE, LEAST_OVER = 0.42, 0.38, 0.15
"""How clear a stacked rim is (agreeing share of its outline), and how much over other sizes."""
NEARER, NEARER_IF_SURE, LARGER = 0.6, 0.3, 1.08
"""The larger of two plates that go together is the near one if it is rated so much of the other; seen from far aside
its rim is narrower and less plain, and where both quite surely look like plates the second will do. So much larger."""
SMALL_RISE, HARDLY = 0.3, 0.9
"""Where nothing rises as in a lift, what surely looks like a plate may rise by fewer radii, as in a shrug. It is seen
nowhere else then: what goes farther, but not plainly, is several things."""
TRIES, LEAST_FITS, SAME_SIZE, SAME_RIM, CONFIRMED_RISE = 6, 0.4, 0.15, 0.05, 0.5
PLAINLY_RISEN, ROUND_IT, CONCENTRIC, WITHIN, BESIDE = 1.2, (1.3, 1.6, 2.0, 2.5), 0.12, 0.3, 0.5
"""What rises by fewer radii may be the ring inside a larger rim, so many times as large, round the same centre
(in the small pictures, nearly); what is so many of its radii away lies beside it."""
LEAST_SHOWN = 0.48
"""The rating times the share of the pictures in which it is seen. Of 76 plates on lifelike films the 18 that were rated
lowest came to 0.9 or more, of 16 on path-traced ones the least to 1.3; a shirt and walkers in a real film of other
things to 0.07 to 0.34."""
SHARP = 0.85
"""Of rims nearly as clear as the clearest, the earliest is proposed."""


@dataclass(frozen=True)
class _Rated:
    """A traveller with its rim's radius (small pixels), how clear that is in each view, in all of
    them together, and the rating by which travellers are compared."""

    traveller: Traveller
    r: float
    clear_in: dict[int, float]
    ring: float
    rate: float

    def share_of(self, views: Views) -> float:
        """In which share of the views it is seen."""
        return len(self.traveller.seen) / len(views)


@dataclass(frozen=True)
class _Proposal:
    """A mark and its traveller's rating."""

    mark: PlateMark
    rate: float


@dataclass(frozen=True)
class _Seen:
    """A rim as it is found in one of the film's pictures."""

    view: int
    frame: int
    picture: NDArray[np.uint8] = field(compare=False, repr=False)
    rim: Rim
    views: Views

    @property
    def place(self) -> Array:
        """Its centre in the reference's place, (2,) small pixels."""
        zoom = self.views.zoom
        return self.views.in_reference(self.view, zoom * self.rim.x_px, zoom * self.rim.y_px)

    @property
    def middle_is_seen(self) -> bool:
        """Whether its centre lies in the picture, as that of a mark must."""
        high, wide = self.picture.shape[:2]
        return bool(0 <= self.rim.x_px <= wide - 1 and 0 <= self.rim.y_px <= high - 1)

    @property
    def marked(self) -> MarkedPicture:
        mark = PlateMark(self.frame, self.rim.x_px, self.rim.y_px, max(self.rim.axes_px))
        return MarkedPicture(self.picture, mark)

    def in_picture(self, place: Array) -> tuple[float, float]:
        """Where a place (2,) of the reference lies in its picture, in pixels."""
        x, y = self.views.from_reference(self.view, place)
        return x / self.views.zoom, y / self.views.zoom


def propose_plate(
    pictures: Pictures,
    cancelled: Callable[[], bool] = lambda: False,
    fits: Callable[[Risen], bool] = lambda risen: True,
) -> PlateMark | None:
    """The near plate of the bar that moves, as a mark; None where nothing round is seen to travel, or what
    does is none, as `fits` tells of it.

    Raises
    ------
    Cancelled
    """
    by = film_too_large(pictures)
    if by > 1:
        pictures = SmallerPictures(pictures, by)
    for parts in parts_of(pictures, cancelled):
        offers = (_proposed_in(part, cancelled, fits) for part in parts)
        found = [offer for offer in offers if offer is not None]
        if found:
            return max(found, key=lambda offer: offer.rate).mark.larger(by)
    return None


def _proposed_in(
    pictures: FilmPart,
    cancelled: Callable[[], bool],
    fits: Callable[[Risen], bool],
) -> _Proposal | None:
    samples = int(np.clip(VIEWS_PER_SECOND * pictures.lasts_s, FEWEST_VIEWS, MOST_VIEWS))
    views = look_through(pictures, samples, cancelled)
    if views is None:
        return None
    rounds = rounds_of(views, cancelled)
    film = _Film(pictures, views, cancelled, fits)
    lifted = _nearest_of(film, travellers(views, rounds, cancelled), CONFIRMED_RISE)
    if lifted is not None:
        return lifted
    hardly = travellers(views, rounds, cancelled, SMALL_RISE)
    plates = [one for one in hardly if one.sure >= QUITE_SURE and one.rise < HARDLY]
    return _nearest_of(film, plates, SMALL_RISE * CONFIRMED_RISE / LEAST_RISE)


@dataclass(frozen=True)
class _Film:
    """What is asked of: the film's pictures, some of them as views, whether to stop, and whether what rises
    may be a plate."""

    pictures: FilmPart
    views: Views
    cancelled: Callable[[], bool]
    fits: Callable[[Risen], bool]

    def go_on(self) -> None:
        go_on(self.cancelled)


def _nearest_of(film: _Film, every: list[Traveller], least_rise: float) -> _Proposal | None:
    """The nearest plate of those that travel; its rims rise by so many radii. None also where the near one is
    seen but its rim is not found: the far one would be wrong."""
    rates = side_by_side(partial(_rate, film.views), every, film.go_on)
    rated = [one for one in rates if one is not None]
    refused: list[_Rated] = []
    for one in _nearest_first(rated)[:FINALISTS]:
        if any(_round_the_same(other, one) for other in rated):
            continue
        mark = _confirmed(film, one, least_rise)
        if mark is None:
            refused.append(one)
            continue
        if any(_nearer_by(other, one) for other in refused):
            return None
        nearer = _mate(film, one)
        better = nearer and _confirmed(film, nearer, least_rise)
        far = nearer is not None and better is None and nearer.traveller.sure >= QUITE_SURE
        if far or one.rate * one.share_of(film.views) < LEAST_SHOWN:
            return None
        mark = better or mark
        return _Proposal(replace(mark, frame=film.pictures.first + mark.frame), one.rate)
    return None


# Its rim


def _rate(views: Views, traveller: Traveller) -> _Rated | None:
    """The traveller with its rim, the largest ring that is nearly as clear as the clearest when all
    views are stacked; None if that is not clear enough."""
    rings = [
        ring for narrow in NARROWS for ring in _rings_of(*_stacked_rings(views, traveller, narrow))
    ]
    if traveller.sure >= QUITE_SURE:
        judged = float(np.median([one.r for one in traveller.seen.values()])) / traveller.r
        rings = [ring for ring in rings if RIM_AT_LEAST < ring.share / judged < RIM_AT_MOST]
    meant = [_meant(ring, traveller) for ring in rings]
    if max(meant, default=0.0) <= 0:
        return None
    rim = max(
        (
            ring
            for ring, much in zip(rings, meant, strict=True)
            if much >= NEARLY_AS_CLEAR * max(meant)
        ),
        key=lambda ring: (round(ring.share / SAME_RING), ring.over),
    )
    easier = 1 - EASIER * traveller.sure
    if rim.clear < easier * LEAST_MATE or rim.over < easier * LEAST_OVER:
        return None
    r, seen = rim.share * traveller.r, len(traveller.seen) / len(views)
    rate = rim.over * np.sqrt(rim.clear * r * seen) * (1 + LOOK_WEIGHT * traveller.sure)
    clear_in = dict(zip(traveller.seen, rim.in_views.tolist(), strict=True))
    return _Rated(traveller, r, clear_in, rim.clear, float(rate))


def _meant(ring: "_Ring", traveller: Traveller) -> float:
    """How much clearer than others a ring is, and more where the judge of plates has seen the rim: a ring
    of letters may be clearer than the rim round it."""
    off = float(np.log(ring.share)) / RIM_SEEN
    return ring.over * (1 + traveller.sure * float(np.exp(-0.5 * off**2)))


@dataclass(frozen=True)
class _Ring:
    """A ring's size as a share of the first guess, how clear it is in all views together, how much
    clearer than other sizes, and how clear in each view."""

    share: float
    clear: float
    over: float
    in_views: Array


def _rings_of(shares: Array, rings: Array) -> list[_Ring]:
    """The sizes at which the stack is clearer than round about."""
    enough = np.isfinite(rings).mean(axis=0) >= 0.5
    counted = np.maximum(np.isfinite(rings).sum(axis=0), 1)
    profile = np.where(enough, np.nansum(rings, axis=0) / counted, 0.0)
    if not (profile > 0).any():
        return []
    base = float(np.median(profile[profile > 0]))
    crests = np.flatnonzero((profile[1:-1] >= profile[:-2]) & (profile[1:-1] > profile[2:])) + 1
    return [
        _Ring(
            float(shares[k]),
            float(profile[k]),
            float(profile[k]) - base,
            np.nan_to_num(rings[:, k]),
        )
        for k in crests
    ]


def _stacked_rings(views: Views, traveller: Traveller, narrow: float) -> tuple[Array, Array]:
    """Sizes (half heights as shares of the first guess), and in each view the share of a ring of that
    size that has an edge: shape (views, sizes), NaN where less than about half of it is seen."""
    high, wide = views.pictures[0].shape[:2]
    most = max(MOST_OF_PICTURE * min(high, wide) / traveller.r, 1.3)
    shares = np.exp(np.arange(np.log(RING_FROM), np.log(min(RING_TO, most)), RING_STEP))
    across, down = ring_points(shares * traveller.r, 72)
    rows = []
    for view, one in traveller.seen.items():
        x, y = (one.x + narrow * across).astype(np.float32), (one.y + down).astype(np.float32)
        lines = cv2.remap(views.soft[view], x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        moves = cv2.remap(views.moving[view], x, y, cv2.INTER_LINEAR)
        inside = (x > 1) & (x < wide - 2) & (y > 1) & (y < high - 2)
        votes = edge_votes(np.asarray(lines, np.float32)) * (0.3 + 0.7 * np.asarray(moves))
        votes = cv2.GaussianBlur(votes.astype(np.float32), (0, 0), 1.3, sigmaY=0.01) * 3.26
        votes = np.where(inside, np.minimum(votes, 1.0), 0.0)
        seen = inside.mean(axis=0)
        mean = votes.sum(axis=0) / np.maximum(inside.sum(axis=0), 1)
        rows.append(np.where(seen > 0.55, mean, np.nan))
    return shares, np.array(rows)


# Which of them


def _nearest_first(rated: list[_Rated]) -> list[_Rated]:
    """The best rated first; before it the larger plate at the other end of its bar, if there is one."""
    plain = [one for one in rated if one.ring >= LEAST_RING * (1 - EASIER * one.traveller.sure)]
    clear = sorted(plain, key=lambda one: -one.rate)
    if not clear:
        return []
    top = clear[0]
    mates = [
        one
        for one in rated
        if one.rate >= (NEARER_IF_SURE if _both_sure(one, top) else NEARER) * top.rate
        and one.r > LARGER * top.r
        and _together(one.traveller, top.traveller)
    ]
    if mates:
        nearer = max(mates, key=lambda one: one.rate * one.r)
        return [nearer, *(one for one in clear if one is not nearer)]
    return clear


def _both_sure(one: _Rated, other: _Rated) -> bool:
    return min(one.traveller.sure, other.traveller.sure) >= QUITE_SURE


def _round_the_same(larger: _Rated, one: _Rated) -> bool:
    """Whether one is a ring within something larger that looks more surely like a plate, though the rim of
    that may be too dim to be found."""
    a, b = larger.traveller, one.traveller
    if larger.r < ROUND_IT[0] * one.r or a.sure < max(QUITE_SURE, b.sure):
        return False
    apart = [
        np.hypot(a.seen[k].x - b.seen[k].x, a.seen[k].y - b.seen[k].y)
        for k in a.seen.keys() & b.seen
    ]
    return len(apart) >= FEWEST_SEEN and float(np.median(apart)) < WITHIN * larger.r


def _nearer_by(larger: _Rated, one: _Rated) -> bool:
    """Whether something larger that quite surely looks like a plate goes with one, beside it: the near plate."""
    a, b = larger.traveller, one.traveller
    both = a.seen.keys() & b.seen
    if a.sure < QUITE_SURE or larger.r < LARGER * one.r or len(both) < FEWEST_SEEN:
        return False
    aside = np.median([abs(a.seen[k].x - b.seen[k].x) for k in both])
    return bool(aside > BESIDE * larger.r) and _together(a, b)


def _mate(film: _Film, one: _Rated) -> _Rated | None:
    """The larger plate at the other end of its bar; None where nothing there looks like one."""
    mate = nearer_mate(film.views, one.traveller, one.r, film.cancelled)
    nearer = _rate(film.views, mate) if mate is not None and mate.sure >= SURELY else None
    return nearer if nearer is not None and nearer.r > LARGER * one.r else None


def _together(a: Traveller, b: Traveller) -> bool:
    """Whether two travellers rise and fall together, as far as they are seen in the same views."""
    both = sorted(set(a.heights) & set(b.heights))
    if len(both) < FEWEST_SEEN:
        return True
    ya, yb = (np.array([one.heights[k] for k in both]) for one in (a, b))
    return bool(ya.std() < 1 or yb.std() < 1 or np.corrcoef(ya, yb)[0, 1] > 0.6)


def _confirmed(film: _Film, one: _Rated, least_rise: float) -> PlateMark | None:
    """The rim as it is found in the film's own pictures, low, half-way and high; None unless enough
    of them show it, it rises by so many radii in them too, and it may be a plate's."""
    views, r = film.views, one.r / film.views.zoom
    if r < SMALLEST_RADIUS_PX:
        return None
    tried = _clearest_by_height(one)
    found = _rims_in(film, one, tried)
    if len(found) < max(2, LEAST_FITS * len(tried)):
        return None
    found = _outermost(_without_standing(found))
    rise = float(np.ptp([one.place[1] for one in found])) / views.zoom if found else 0.0
    size = float(np.median([max(one.rim.axes_px) for one in found] or [r]))
    if rise < least_rise * size:
        return None
    if rise < PLAINLY_RISEN * size and _inner_ring(found, rise, film.cancelled):
        return None
    mark = _mark_of([one for one in found if one.middle_is_seen], size)
    if mark is None:
        return None
    marked = MarkedPicture(film.pictures.bgr(mark.frame), mark)
    low, high = (end(found, key=lambda one: float(one.place[1])) for end in (max, min))
    return mark if film.fits(Risen(marked, low.marked, high.marked, rise / size)) else None


def _rims_in(film: _Film, one: _Rated, tried: list[int]) -> list[_Seen]:
    """The rims of about the right size that are found in some views' pictures: by their edges, or, of what looks
    quite surely like a plate, as they are read."""
    views, r, shown = film.views, one.r / film.views.zoom, []
    for view in tried:
        film.go_on()
        with suppress(ClipUnreadable):
            shown.append((view, film.pictures.bgr(int(views.frames[view]))))

    def seen(view: int, picture: NDArray[np.uint8]) -> _Seen | None:
        place = one.traveller.seen[view]
        rough = picture, place.x / views.zoom, place.y / views.zoom, r
        rim, _ = fit_rim(*rough)
        if not rim.found and one.traveller.sure >= QUITE_SURE:
            rim, _ = rim_by_mark(*rough)
        if not rim.found or abs(max(rim.axes_px) / r - 1) >= SAME_SIZE:
            return None
        return _Seen(view, int(views.frames[view]), picture, rim, views)

    rims = side_by_side(lambda each: seen(*each), shown, film.go_on)
    return [rim for rim in rims if rim is not None]


def _mark_of(found: list["_Seen"], size: float) -> PlateMark | None:
    """The earliest of the rims nearly as clear as the clearest, of those of about the usual size (pixels), as
    it is found once more when its mark is taken."""
    usual = [one for one in found if abs(max(one.rim.axes_px) / size - 1) < SAME_RIM] or found
    if not usual:
        return None
    sharpest = max(one.rim.support for one in usual)
    clear = [one for one in usual if one.rim.support >= SHARP * sharpest]
    first = min(clear, key=lambda one: one.frame)
    near = first.rim.x_px, first.rim.y_px, max(first.rim.axes_px)
    again, _ = rim_by_mark(first.picture, *near)
    taken = replace(first, rim=again)
    rim = again if again.found and taken.middle_is_seen else first.rim
    return PlateMark(first.frame, rim.x_px, rim.y_px, max(rim.axes_px))


def _outermost(found: list["_Seen"]) -> list["_Seen"]:
    """The rims round those that were found, where these are rings inside a plate: what lies between goes
    along with them."""
    share = edge_beyond([(one.picture, one.rim) for one in found]) if len(found) > 1 else None
    if share is None:
        return found
    rims = [(one, rim_round(one.picture, one.rim, share)) for one in found]
    larger = [replace(one, rim=rim[0]) for one, rim in rims if rim is not None]
    return larger if len(larger) >= max(2, 0.5 * len(found)) else found


def _without_standing(found: list["_Seen"]) -> list["_Seen"]:
    """Those that travel: where the lowest or the highest is also there in the other's picture it stands (a
    plate in a rack above the bar, say), and so do all in its place."""
    low, high = (end(found, key=lambda one: float(one.place[1])) for end in (max, min))
    for mine, other in ((low, high), (high, low)):
        size = max(mine.rim.axes_px)
        x, y = other.in_picture(mine.place)
        again, _ = fit_rim(other.picture, x, y, size)
        near = float(np.hypot(again.x_px - x, again.y_px - y)) < CONCENTRIC * size
        if again.found and near and abs(max(again.axes_px) / size - 1) < SAME_RIM:
            reach = CONCENTRIC * size * mine.views.zoom
            found = [one for one in found if np.hypot(*(one.place - mine.place)) > reach]
    return found


def _inner_ring(found: list["_Seen"], rise_px: float, cancelled: Callable[[], bool]) -> bool:
    """Whether rims that rise little lie within a larger one, of which the same rise is too little: the ring
    round the hub of a plate that is only tipped or moved."""
    within = 0
    for one in found:
        rim, r = one.rim, max(one.rim.axes_px)
        for share in ROUND_IT:
            go_on(cancelled)
            outer, _ = fit_rim(one.picture, rim.x_px, rim.y_px, share * r)
            apart = float(np.hypot(outer.x_px - rim.x_px, outer.y_px - rim.y_px))
            size = max(outer.axes_px)
            larger = outer.found and size > ROUND_IT[0] * r and apart < CONCENTRIC * size
            if larger and rise_px < CONFIRMED_RISE * size:
                within += 1
                break
    return within >= 0.5 * len(found)


def _clearest_by_height(one: _Rated) -> list[int]:
    """The views in which the rim is clearest: some where it is low, some half-way, some high."""
    views = sorted(one.clear_in, key=lambda view: -one.clear_in[view])
    heights = np.array([one.traveller.heights[view] for view in views])
    third = np.digitize(heights, np.linspace(heights.min(), heights.max(), 4)[1:3])
    return [views[k] for part in range(3) for k in np.flatnonzero(third == part)[: TRIES // 3]]
