"""The plate's rim: found once from the coach's mark, then followed by its edge.

Rays run out from the centre. Along each, an edge counts as rim when the colour steps, and when
the inner side has the colour that the plate has just inside its rim. A robust fit (Tukey weights)
of all edge places gives the shift and the growth; the share of rays that agree is the support.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.outline import (
    BY_HAND,
    FEWEST_HIGH,
    LOW_DOWN,
    ROUGHLY,
    Expected,
    Meant,
    ellipse_along,
    outline_of,
    votes_along,
)
from keen_kettle.core.track.pictures import in_large
from keen_kettle.core.track.rays import (
    REACH,
    SHARP_EDGE_PX,
    edges_along,
    local_peaks,
    peak_places,
    places_along,
    sample_along,
)

__all__ = [
    "SHARP_SUPPORT",
    "Rim",
    "RimFit",
    "RimModel",
    "edges_about",
    "fit_outline",
    "fit_rim",
    "learnt",
    "ridges",
    "rim_as_drawn",
    "rim_unseen",
    "with_softness",
]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

RAYS = 96
EDGE_SIGMA_PX = 0.2
HAND_SIGMA_PX = 1.5
OBLIQUE, MOST_BEND = 0.965, 0.15
SHARP_SUPPORT, STANDING_OUT = 0.5, 0.22
"""A rim with so much support is believed as it is; else edges are looked for over a wider step too,
and what more of the rays agree on than on other sizes of the same outline is believed."""
SOFT_EDGE = 0.035
"""The half width of that step as a share of the radius: blur, compression and bevels spread a real
rim over several per cent of it."""
SOFT_SIGMA, SHARP_WIDTH_PX, OF_WIDTH = 0.02, 3.0, 0.3
"""Where in a soft edge the rim lies is not seen: that makes at least so much of the radius in a rim
that only stands out, and so much of an edge's width over that of a sharp one."""
WIDEST_EDGE, PLATEAU = 0.08, 0.7
CLEAR = 0.033
"""Soft edges come to 2 to 3 %; a rim that is less sure was read, or little of it is seen."""
DRAGGED = 0.015
"""Rays that point down end at a shadow when they lie so far out from the circle through the others."""


@dataclass(frozen=True)
class Rim:
    """An ellipse: centre, half axes and the angle of the first axis, in pixels and degrees.

    `found` is False when no rim was seen and the coach's circle stands as drawn; `sigma_px` is
    the standard uncertainty of an axis. `narrow` is its width by its height as many pictures show it, None where
    only this one tells it.
    """

    x_px: float
    y_px: float
    axes_px: tuple[float, float]
    angle_deg: float
    found: bool
    sigma_px: float
    support: float
    narrow: float | None = None

    @property
    def width_by_height(self) -> float:
        """How much narrower than high the plate looks: 1 seen from the side."""
        if self.narrow is not None:
            return self.narrow
        a, b = self.axes_px
        turned = np.radians(self.angle_deg)
        across = np.hypot(a * np.cos(turned), b * np.sin(turned))
        return float(across / np.hypot(a * np.sin(turned), b * np.cos(turned)))

    @property
    def clear(self) -> bool:
        """Whether its edge is seen well enough to be measured."""
        return self.found and self.sigma_px <= CLEAR * max(self.axes_px)

    def larger(self, by: int) -> "Rim":
        """In pictures that are so many times larger."""
        across, down = self.axes_px
        return replace(
            self,
            x_px=in_large(self.x_px, by),
            y_px=in_large(self.y_px, by),
            axes_px=(by * across, by * down),
            sigma_px=by * self.sigma_px,
        )

    def radii(self, angles: Array) -> Array:
        """The rim's distance from its centre along each angle (radians)."""
        a, b = self.axes_px
        turned = angles - np.radians(self.angle_deg)
        return np.asarray(a * b / np.hypot(b * np.cos(turned), a * np.sin(turned)))


@dataclass(frozen=True)
class RimFit:
    """Where the rim was found from a starting place: centre, growth, support from 0 to 1.

    `bend` is how the outline has changed its shape against the marked one (shares of the radius
    that go with the cosine and the sine of twice the angle): a turned plate looks different from
    place to place.
    """

    x_px: float
    y_px: float
    growth: float
    support: float
    visible: float
    bend: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class RimModel:
    """What was learnt on the marked frame: shape, inner colour, usual edge strength."""

    angles: Array
    radii_px: Array
    colour: Array
    spread: float
    strength: float

    @property
    def oblique(self) -> bool:
        """Whether the plate is seen so much from the side that its outline changes on its way."""
        return float(self.radii_px.min()) < OBLIQUE * float(self.radii_px.max())

    def fit(
        self,
        picture: Picture,
        x: float,
        y: float,
        growth: float = 1.0,
        bend: tuple[float, float] = (0.0, 0.0),
    ) -> RimFit:
        """Solve shift, growth and bend from a starting place, in two rounds (the second closer)."""
        found = RimFit(x, y, growth, 0.0, 0.0, bend)
        for width in (0.07, 0.035):
            found = self._round(picture, found, width)
        return found

    def _round(self, picture: Picture, begin: RimFit, width: float) -> RimFit:
        x, y, growth = begin.x_px, begin.y_px, begin.growth
        twice = np.column_stack([np.cos(2 * self.angles), np.sin(2 * self.angles)])
        radii = self.radii_px * growth * (1 + twice @ np.array(begin.bend))
        shares = np.linspace(1 - REACH, 1 + REACH, places_along(float(radii.mean())))
        edges, inside = edges_along(
            picture, x, y, self.angles, radii, shares, self.colour, self.spread
        )
        prior = np.exp(-0.5 * ((shares - 1) / width) ** 2)
        firm = np.sqrt(np.minimum(edges / self.strength, 1.0)) * (edges > 0.04 * self.strength)
        top = np.clip((local_peaks(edges) * firm * prior).argmax(axis=1), 1, len(shares) - 2)
        place, height = peak_places(edges, top, shares), (firm * prior)[np.arange(len(edges)), top]
        usable = inside & (height > 0.2)
        visible = float(inside.mean())
        if usable.sum() < 10:
            return RimFit(x, y, growth, 0.0, visible, begin.bend)
        away = (place - 1) * radii
        across = np.column_stack(
            [np.cos(self.angles), np.sin(self.angles), radii, twice * radii[:, None]]
        )
        if not self.oblique:
            across = across[:, :3]
        weight = np.where(usable, height, 0.0)
        limit = 0.035 * float(radii.mean()) + 0.8
        answer, agree = _robust(across, away, weight, limit)
        support = float(np.sum(weight * agree) / max(inside.sum(), 1))
        shift = np.clip(answer[:2], -0.25 * radii.mean(), 0.25 * radii.mean())
        more = np.array(begin.bend) + (answer[3:] if self.oblique else 0.0)
        bend = np.clip(more, -MOST_BEND, MOST_BEND)
        return RimFit(
            x + float(shift[0]),
            y + float(shift[1]),
            growth * float(np.clip(1 + answer[2], 0.93, 1.07)),
            support,
            visible,
            (float(bend[0]), float(bend[1])),
        )


def fit_rim(
    picture: Picture,
    x: float,
    y: float,
    r: float,
    meant: Meant = ROUGHLY,
    known: Expected = BY_HAND,
) -> tuple[Rim, RimModel]:
    """Find the plate's rim near a marked circle and learn what it looks like.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    x, y, r : the coach's circle in pixels
    known : what is known of the rim before

    Returns
    -------
    The rim (the circle itself with `found` False when too few rays agree) and the model that
    follows it in other frames.
    """
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    rim = _ellipse_near(picture, x, y, r, angles, meant, known)
    if rim is None or rim.support < SHARP_SUPPORT:
        soft = _ellipse_near(picture, x, y, r, angles, meant, known, SOFT_EDGE * r)
        rim = _standing_out(picture, rim, soft)
    if rim is None:
        return rim_unseen(picture, x, y, r)
    rim = with_softness(picture, rim, angles)
    return rim, learnt(picture, rim)


def rim_unseen(picture: Picture, x: float, y: float, r: float) -> tuple[Rim, RimModel]:
    """The marked circle as it stands, where no rim is seen, and the model that follows it."""
    rim = Rim(x, y, (r, r), 0.0, False, 0.03 * r, 0.0)
    return rim, learnt(picture, rim)


def rim_as_drawn(
    picture: Picture, x: float, y: float, axes_px: tuple[float, float], angle_deg: float
) -> tuple[Rim, RimModel]:
    """The ellipse that was drawn by hand, taken at its word, and the model that follows it."""
    rim = Rim(x, y, axes_px, angle_deg, True, HAND_SIGMA_PX, 1.0)
    return rim, learnt(picture, rim)


FIT_ROUNDS, FEWEST_RAYS, NARROW = 8, 16, (0.55, 1.25)
TOO_UNSURE = 0.035
"""Edges that leave the size more open than this tell no rim."""


def _ellipse_near(
    picture: Picture,
    x: float,
    y: float,
    r: float,
    angles: Array,
    meant: Meant,
    known: Expected,
    half_px: float = SHARP_EDGE_PX,
) -> Rim | None:
    """The upright ellipse that most rays have an edge on, then a fit through those edges.

    Edge strength is compressed, so that a strong edge on some rays (the far plate's, a limb's)
    does not outvote a weaker one that goes all the way round.
    """
    shares = np.linspace(1 - 1.5 * REACH, 1 + 1.5 * REACH, 2 * places_along(r))
    far = np.full(len(angles), r)
    edges, inside = edges_along(picture, x, y, angles, far, shares, None, 1.0, half_px)
    if inside.sum() < 20:
        return None
    usual = 60.0
    if half_px > SHARP_EDGE_PX:
        strongest = edges[inside].max(axis=1)
        usual = float(np.clip(np.percentile(strongest, 40), 10.0, 60.0))
    crests = ridges(edges, usual)
    guess, support = outline_of(crests, shares, angles, inside, r, meant)
    expected = ellipse_along(angles, guess[None])[0]
    place, height = edges_about(edges, crests, shares, expected, max(0.01, 0.5 / r))
    agreeing = inside & (height > 0.2)
    if agreeing.sum() < 20:
        return None
    reach, bearing = (place * r)[agreeing], angles[agreeing]
    seen = support * float(agreeing.sum() / inside.sum())
    if guess[3] == 1.0:
        off = np.column_stack([np.cos(bearing) * reach, np.sin(bearing) * reach])
        kept = ~_dragged(off, bearing, r)
        reach, bearing = reach[kept], bearing[kept]
    mark = Rim(x, y, (r, r), 0.0, True, 0.0, seen)
    return fit_outline(guess, bearing, reach / r, mark, known)


def edges_about(
    edges: Array, crests: Array, shares: Array, expected: Array, width: float
) -> tuple[Array, Array]:
    """Where along each ray (shares of the radius), and how plain (0 to 1), the edge is that is nearest to the
    `expected` place (rays,), within about a `width`. `edges` and `crests` (as of `ridges`) have the shape (rays,
    places)."""
    far = np.abs(shares[None, :] - expected[:, None])
    near = crests * np.exp(-0.5 * (far / width) ** 2)
    top = np.clip(near.argmax(axis=1), 1, len(shares) - 2)
    return peak_places(edges, top, shares), near[np.arange(len(near)), top]


def _dragged(points: Array, angles: Array, r: float) -> NDArray[np.bool_]:
    """Which points belong to the shadow below a plate that rests on the floor.

    There the plate's own edge is weak and the shadow's is strong, and pulls the circle down: so
    the circle through the rays that do not point down says where the rim is.
    """
    low = np.sin(angles) > LOW_DOWN
    none = np.zeros(len(points), bool)
    if (~low).sum() < FEWEST_HIGH or not low.any():
        return none
    high = points[~low]
    for _ in range(3):
        cx, cy, across = _circle_through(high)
        miss = np.abs(np.hypot(*(high - [cx, cy]).T) - across / 2)
        fine = miss <= max(2.5 * float(np.median(miss)), 0.3)
        if fine.all() or fine.sum() < FEWEST_HIGH // 2:
            break
        high = high[fine]
    beyond = np.hypot(*(points - [cx, cy]).T) - across / 2
    limit = max(DRAGGED * r, 1.0)
    if float(np.median(beyond[low])) < limit:
        return none
    return np.asarray(low & (beyond > 0.5 * limit))


def ridges(edges: Array, usual: float = 60.0) -> Array:
    """Compressed edge strength (0 to 1), shape (rays, places), where it is a local peak along its ray, else 0."""
    strong = np.sqrt(np.minimum(edges / usual, 1.0))
    return np.where(local_peaks(edges) & (edges > 4.0), strong, 0.0)


def _standing_out(picture: Picture, *rims: Rim | None) -> Rim | None:
    """The rim that stands out most from the other sizes of its own outline; None if none does."""
    rated = [(_clearness(picture, rim), rim) for rim in rims if rim is not None]
    if not rated:
        return None
    clear, rim = max(rated, key=lambda pair: pair[0])
    if clear < STANDING_OUT:
        return None
    spread = float(np.hypot(rim.sigma_px, SOFT_SIGMA * max(rim.axes_px)))
    return replace(rim, support=max(rim.support, min(clear, SHARP_SUPPORT)), sigma_px=spread)


def with_softness(picture: Picture, rim: Rim, angles: Array) -> Rim:
    """The rim with the uncertainty that the width of its edge adds, along `angles` (rays,).

    The width is twice the half step over which the colours on both sides first differ by most of
    what they differ by at all (median over the rays).
    """
    radii = rim.radii(angles)
    r = float(radii.mean())
    halves = np.arange(0.5, max(WIDEST_EDGE * r, 3.0), 0.5) / r
    shares = np.concatenate([1 - halves[::-1], 1 + halves])
    colours, seen = sample_along(picture, rim.x_px, rim.y_px, angles, radii, shares)
    lines = colours[seen.all(axis=1)]
    if len(lines) < 20:
        return rim
    count = len(halves)
    step = np.sqrt(((lines[:, count:] - lines[:, count - 1 :: -1]) ** 2).sum(axis=2))
    median = np.median(step, axis=0)
    reached = int(np.argmax(median >= PLATEAU * median.max()))
    width = 2 * float(halves[reached]) * r
    more = OF_WIDTH * max(width - SHARP_WIDTH_PX, 0.0)
    return replace(rim, sigma_px=float(np.hypot(rim.sigma_px, more)))


def _clearness(picture: Picture, rim: Rim) -> float:
    """Share of the rays that agree on this outline, less the share that agrees on other sizes.

    Each ray is measured by its own strongest edge: contrast differs round a rim and between films.
    The fewer rays the picture holds, the more easily they agree by chance; by the root of that it is
    made less.
    """
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    radii = rim.radii(angles)
    r = float(radii.mean())
    shares = np.arange(0.78, 1.221, max(0.005, 0.5 / r))
    gap = float(shares[1] - shares[0])
    step = max(1.6, 0.03 * r)
    edges, _ = edges_along(picture, rim.x_px, rim.y_px, angles, radii, shares, None, 1.0, step)
    _, seen = sample_along(picture, rim.x_px, rim.y_px, angles, radii, np.array([0.95, 1.05]))
    inside = seen.all(axis=1)
    if inside.sum() < 20:
        return 0.0
    edges = edges[inside]
    strongest = np.maximum(edges.max(axis=1, keepdims=True), 8.0)
    peaks = np.where(local_peaks(edges) & (edges > 3.0), np.sqrt(edges / strongest), 0.0)
    agree = votes_along(peaks, 0.0125 / gap, 0.7).mean(axis=0)
    away = np.abs(shares - 1)
    clear = agree[away < max(0.012, 0.6 * gap)].max() - np.median(agree[away > 0.05])
    return float(clear * np.sqrt(inside.mean()))


def fit_outline(
    guess: Array, angles: Array, reach: Array, mark: Rim, known: Expected = BY_HAND
) -> Rim | None:
    """The circle or ellipse through edges at `reach` (rays,), shares of the mark's radius, along `angles`;
    None if it is no plate's.

    Least squares of the distances along the rays, with what is `known` before: a hand marks a plate
    within a tenth or so, and plates look round. Where an arc is missing the edges alone would fit many
    ellipses; then this holds the answer, and the uncertainty (the square root of the half height's
    variance, from the normal equations) says how little the edges have told.
    """
    free = 3 if guess[3] == 1.0 else 5
    prior = np.array(known.outline)[:free]
    trust = 1 / np.array(known.sigma)[:free] ** 2
    at, spread = guess.astype(float).copy(), 0.01
    fine = np.ones(len(reach), bool)
    for turn in range(FIT_ROUNDS):
        miss = reach - ellipse_along(angles, at[None])[0]
        size = np.abs(miss)
        if turn:
            fine = size <= max(2.5 * float(np.median(size)), 0.3 / mark.axes_px[0])
        if fine.sum() < FEWEST_RAYS:
            return None
        spread = max(float(np.sqrt(np.mean(miss[fine] ** 2))), 0.1 / mark.axes_px[0])
        slopes = _slopes(at, angles, free)[fine]
        # Neighbouring rays share pixels: a quarter of them count as independent.
        worth = 0.25 / spread**2
        normal = worth * slopes.T @ slopes + np.diag(trust)
        at[:free] += np.linalg.solve(
            normal, worth * slopes.T @ miss[fine] + trust * (prior - at[:free])
        )
        at[3] = np.clip(at[3], *NARROW)
    dx, dy, high, narrow, tilt = (float(one) for one in at)
    r = mark.axes_px[0]
    unsure = float(np.sqrt(np.linalg.inv(normal)[2, 2]))
    plate = 0.6 < narrow < 1.67 and 0.75 < high * (1 + narrow) / 2 < 1.25
    if not plate or unsure > TOO_UNSURE:
        return None
    # Bevels and blur shift the edge of a whole rim alike, which no fit can see.
    sigma = float(np.hypot(unsure * r, EDGE_SIGMA_PX))
    axes, turned = (high * narrow * r, high * r), float(np.degrees(tilt))
    return Rim(mark.x_px + dx * r, mark.y_px + dy * r, axes, turned, True, sigma, mark.support)


def _slopes(at: Array, angles: Array, free: int) -> Array:
    """How the outline's distances change with each of its first `free` numbers, shape (rays, free)."""
    step = 1e-4
    changed = at + step * np.eye(5)[:free]
    return (ellipse_along(angles, changed) - ellipse_along(angles, at[None])).T / step


def _circle_through(points: Array) -> tuple[float, float, float]:
    """Centre and diameter of the algebraic least-squares circle (Kåsa)."""
    middle = points.mean(axis=0)
    near = points - middle
    rows = np.column_stack([2 * near, np.ones(len(near))])
    a, b, c = np.linalg.lstsq(rows, (near**2).sum(axis=1), rcond=None)[0]
    return float(middle[0] + a), float(middle[1] + b), 2 * float(np.sqrt(c + a**2 + b**2))


def learnt(picture: Picture, rim: Rim) -> RimModel:
    """What a rim looks like in a picture (height, width, 3), to follow it."""
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    radii = rim.radii(angles)
    inner, seen = sample_along(picture, rim.x_px, rim.y_px, angles, radii, np.array([0.95, 0.965]))
    rows = inner[seen.all(axis=1)].reshape(-1, 3) if seen.any() else inner.reshape(-1, 3)
    colour = np.median(rows, axis=0)
    spread = float(np.clip(1.5 * np.median(np.abs(rows - colour).max(axis=1)), 18, 60))
    shares = np.linspace(1 - REACH, 1 + REACH, places_along(float(radii.mean())))
    edges, inside = edges_along(picture, rim.x_px, rim.y_px, angles, radii, shares, colour, spread)
    near = np.abs(shares - 1) < 0.06
    peak = edges[:, near].max(axis=1)
    strength = float(np.median(peak[inside])) if inside.any() else 1.0
    return RimModel(angles, radii, colour, spread, max(strength, 3.0))


def _robust(across: Array, away: Array, weight: Array, limit: float) -> tuple[Array, Array]:
    """Weighted least squares with Tukey's biweight; the answer and each ray's agreement (0 to 1)."""
    count = across.shape[1]
    agree: Array = np.ones(len(away))
    answer: Array = np.zeros(count)
    products = (across[:, :, None] * across[:, None, :]).reshape(-1, count * count)
    wanted = across * away[:, None]
    # A little damping on growth and bend keeps them still when only part of the rim is seen.
    damped = 1 + np.array([0.0, 0.0, 0.02, 0.05, 0.05])[:count]
    for turn in range(7):
        w = weight * agree
        normal = (w @ products).reshape(count, count)
        normal.flat[:: count + 1] *= damped
        normal.flat[:: count + 1] += 1e-6
        answer = np.asarray(np.linalg.solve(normal, w @ wanted), np.float64)
        wide = limit * (3.0 if turn < 2 else 1.5 if turn < 4 else 1.0)
        close = np.maximum(1 - ((away - across @ answer) / wide) ** 2, 0.0)
        agree = close * close
    return answer, agree
