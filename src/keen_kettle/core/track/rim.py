"""The plate's rim: found once from the coach's mark, then followed by its edge.

Rays run out from the centre. Along each, an edge counts as rim when the colour steps, and when
the inner side has the colour that the plate has just inside its rim. A robust fit (Tukey weights)
of all edge places gives the shift and the growth; the share of rays that agree is the support.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Rim", "RimFit", "RimModel", "fit_rim", "rim_as_drawn"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

RAYS = 96
REACH = 0.2
"""How far from the expected rim edges are looked for, as a share of the radius."""
EDGE_SIGMA_PX = 0.2
HAND_SIGMA_PX = 1.5
OBLIQUE, MOST_BEND = 0.965, 0.15
KEPT_TRIES = 8
LARGER_SHARE = 0.88
OUTER_SHARE, ELLIPSE_MARGIN = 0.55, 1.08


@dataclass(frozen=True)
class Rim:
    """An ellipse: centre, half axes and the angle of the first axis, in pixels and degrees.

    `found` is False when no rim was seen and the coach's circle stands as drawn; `sigma_px` is
    the standard uncertainty of an axis.
    """

    x_px: float
    y_px: float
    axes_px: tuple[float, float]
    angle_deg: float
    found: bool
    sigma_px: float
    support: float

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
        shares = np.linspace(1 - REACH, 1 + REACH, _samples(float(radii.mean())))
        edges, inside = _edges(picture, x, y, self.angles, radii, shares, self.colour, self.spread)
        prior = np.exp(-0.5 * ((shares - 1) / width) ** 2)
        firm = np.sqrt(np.minimum(edges / self.strength, 1.0)) * (edges > 0.04 * self.strength)
        top = np.clip((_local(edges) * firm * prior).argmax(axis=1), 1, len(shares) - 2)
        place, height = _parabola(edges, top, shares), (firm * prior)[np.arange(len(edges)), top]
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


def fit_rim(picture: Picture, x: float, y: float, r: float) -> tuple[Rim, RimModel]:
    """Find the plate's rim near a marked circle and learn what it looks like.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    x, y, r : the coach's circle in pixels

    Returns
    -------
    The rim (the circle itself with `found` False when too few rays agree) and the model that
    follows it in other frames.
    """
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    rim = _ellipse_near(picture, x, y, r, angles)
    if rim is None or rim.support < 0.3:
        rim = Rim(x, y, (r, r), 0.0, False, 0.03 * r, 0.0)
    return rim, _learn(picture, rim, angles)


def rim_as_drawn(
    picture: Picture, x: float, y: float, axes_px: tuple[float, float], angle_deg: float
) -> tuple[Rim, RimModel]:
    """The ellipse that was drawn by hand, taken at its word, and the model that follows it."""
    rim = Rim(x, y, axes_px, angle_deg, True, HAND_SIGMA_PX, 1.0)
    return rim, _learn(picture, rim, np.linspace(0, 2 * np.pi, RAYS, endpoint=False))


def _ellipse_near(picture: Picture, x: float, y: float, r: float, angles: Array) -> Rim | None:
    """The upright ellipse that most rays have an edge on, then a fit through those edges.

    Edge strength is compressed, so that a strong edge on some rays (the far plate's, a limb's)
    does not outvote a weaker one that goes all the way round.
    """
    shares = np.linspace(1 - 1.5 * REACH, 1 + 1.5 * REACH, 2 * _samples(r))
    edges, inside = _edges(picture, x, y, angles, np.full(len(angles), r), shares, None, 1.0)
    if inside.sum() < 20:
        return None
    ridges = _ridges(edges)
    guess, support = _outline(ridges, shares, angles, inside, r)
    expected = _rays_to_ellipse(angles, guess[None])[0]
    far = np.abs(shares[None, :] - expected[:, None])
    near = ridges * np.exp(-0.5 * (far / max(0.01, 0.5 / r)) ** 2)
    top = np.clip(near.argmax(axis=1), 1, len(shares) - 2)
    rows = np.arange(len(angles))
    place, height = _parabola(edges, top, shares), near[rows, top]
    agreeing = inside & (height > 0.2)
    if agreeing.sum() < 20:
        return None
    reach = (place * r)[agreeing]
    points = np.column_stack(
        [x + np.cos(angles[agreeing]) * reach, y + np.sin(angles[agreeing]) * reach]
    )
    seen = support * float(agreeing.sum() / inside.sum())
    return _fit_rim_points(points, seen, r, bool(guess[3] == 1.0))


def _blurred(values: Array, sigma: float) -> Array:
    """Smoothed along each ray only."""
    return np.asarray(cv2.GaussianBlur(values, (0, 0), sigma, sigmaY=0.01), np.float64)


def _ridges(edges: Array) -> Array:
    """Compressed edge strength (0 to 1) where it is a local peak along its ray, else 0."""
    return np.where(_local(edges) & (edges > 4.0), np.sqrt(np.minimum(edges / 60.0, 1.0)), 0.0)


def _local(edges: Array) -> NDArray[np.bool_]:
    """Where the edge strength is a local peak along its ray."""
    peak = np.zeros(edges.shape, bool)
    middle = edges[:, 1:-1]
    peak[:, 1:-1] = (middle >= edges[:, :-2]) & (middle > edges[:, 2:])
    return peak


def _rays_to_ellipse(angles: Array, outlines: Array) -> Array:
    """Distance along each ray from the origin to ellipses, shape (outlines, rays).

    An outline is (dx, dy, half height, half width as a share of it, tilt in radians), lengths in
    shares of the radius.
    """
    dx, dy, high, narrow, tilt = (outlines[:, k, None] for k in range(5))
    turned = angles[None] - tilt
    c, s = np.cos(turned) / narrow, np.sin(turned)
    ox = (dx * np.cos(tilt) + dy * np.sin(tilt)) / narrow
    oy = dy * np.cos(tilt) - dx * np.sin(tilt)
    a, b = c**2 + s**2, c * ox + s * oy
    root = np.sqrt(np.maximum(b**2 - a * (ox**2 + oy**2 - high**2), 0.0))
    return np.asarray((b + root) / a)


CIRCLES = (np.linspace(-0.12, 0.12, 7), np.arange(0.82, 1.19, 0.03), np.ones(1), np.zeros(1))
ELLIPSES = (
    np.linspace(-0.12, 0.12, 6),
    np.arange(0.84, 1.17, 0.04),
    np.array([0.94, 0.87, 0.8]),
    np.radians([-24.0, -12.0, 0.0, 12.0, 24.0]),
)
"""Where the search begins: shifts (both ways), half heights, narrowness, tilts."""


def _outline(
    ridges: Array, shares: Array, angles: Array, inside: NDArray[np.bool_], r: float
) -> tuple[Array, float]:
    """The circle or ellipse that most rays have an edge on, and the share of rays.

    Votes are blurred as wide as the grid's steps, coarse first, and the best few are followed down,
    so that a rim far from the mark is not missed between two steps. A circle is believed unless an
    ellipse has clearly more votes (a narrow ellipse can always pick up a few stray edges). Of
    concentric outlines with nearly as many votes the largest is the rim: rings lie inside it.
    """
    rays, gap = np.flatnonzero(inside), float(shares[1] - shares[0])
    best: list[tuple[Array, float]] = []
    for shifts, highs, narrows, tilts in (CIRCLES, ELLIPSES):
        whole = np.meshgrid(shifts, shifts, highs, narrows, tilts, indexing="ij")
        tries = np.column_stack([axis.ravel() for axis in whole])
        fewer = rays[::2]
        for step in (0.04, 0.02, 0.01, 0.005):
            votes = _votes(ridges, 0.45 * step / gap, 0.7 / (gap * r))
            score = _score(tries, votes, shares, angles, fewer)
            kept = tries[np.argsort(score)[::-1][:KEPT_TRIES]]
            tries = _around(kept, step / 2, len(narrows) > 1)
            fewer = rays
        score = _score(tries, votes, shares, angles, rays)
        near_best = np.flatnonzero(score >= LARGER_SHARE * score.max(initial=0.0))
        largest = tries[near_best[np.argmax(tries[near_best, 2])]]
        best.append(_outermost(largest, votes, shares, angles, rays))
    circle, ellipse = best
    return ellipse if ellipse[1] > ELLIPSE_MARGIN * circle[1] else circle


def _outermost(
    top: Array, votes: Array, shares: Array, angles: Array, rays: NDArray[np.intp]
) -> tuple[Array, float]:
    """The largest of the concentric outlines that have nearly as many votes as the best."""
    sizes = np.tile(top, (161, 1))
    sizes[:, 2] *= np.linspace(0.9, 1.3, 161)
    score = _score(sizes, votes, shares, angles, rays)
    peak = np.flatnonzero((score[1:-1] >= score[:-2]) & (score[1:-1] > score[2:])) + 1
    good = peak[score[peak] >= OUTER_SHARE * score[peak].max(initial=0.0)]
    chosen = int(good[-1]) if len(good) else int(score.argmax())
    return sizes[chosen], float(score[chosen])


def _votes(ridges: Array, sigma: float, narrowest: float) -> Array:
    """Ridges blurred along their rays to peaks of about 1."""
    wide = max(sigma, narrowest)
    return np.minimum(_blurred(ridges, wide) * wide * 2.5066, 1.0)


def _around(kept: Array, step: float, ellipse: bool) -> Array:
    """Every outline with its neighbours one step away in each direction."""
    steps = np.array(list(np.ndindex((3, 3, 3, 3, 3) if ellipse else (3, 3, 3, 1, 1)))) - 1.0
    if not ellipse:
        steps[:, 3:] = 0.0
    steps *= step * np.array([1.0, 1.0, 1.0, 1.0, 4.0])
    tries = (kept[:, None, :] + steps[None]).reshape(-1, 5)
    tries[:, 3] = np.clip(tries[:, 3], 0.7, 1.0)
    return np.unique(tries.round(5), axis=0)


def _score(
    tries: Array, votes: Array, shares: Array, angles: Array, rays: NDArray[np.intp]
) -> Array:
    """Mean vote over the visible rays, less for what lies aside of the mark or is of another size."""
    at = _rays_to_ellipse(angles[rays], tries)
    column = np.rint((at - shares[0]) / (shares[1] - shares[0])).astype(np.intp)
    on = (column >= 0) & (column < len(shares))
    got = np.where(on, votes[rays[None], np.clip(column, 0, len(shares) - 1)], 0.0).mean(axis=1)
    dx, dy, high = tries[:, 0], tries[:, 1], tries[:, 2]
    return np.asarray(got * np.exp(-9.0 * (dx**2 + dy**2) - 30.0 * (high - 1) ** 2))


def _fit_rim_points(points: Array, support: float, r: float, circle: bool) -> Rim | None:
    """Least-squares circle or ellipse, twice dropping what lies off it; None if it is no plate."""
    kept, spread = points, 1.0
    for _ in range(3):
        if circle:
            cx, cy, d1 = _circle_through(kept)
            d2, turn = d1, 0.0
        else:
            (cx, cy), (d1, d2), turn = cv2.fitEllipseAMS(np.asarray(kept, np.float32))
        rim = Rim(float(cx), float(cy), (d1 / 2, d2 / 2), float(turn), True, 0.0, 0.0)
        from_middle = kept - [cx, cy]
        bearing = np.arctan2(from_middle[:, 1], from_middle[:, 0])
        miss = np.abs(np.hypot(*from_middle.T) - rim.radii(bearing))
        fine = miss <= max(2.5 * float(np.median(miss)), 0.3)
        if fine.sum() < 16:
            break
        spread = float(np.sqrt(np.mean(miss[fine] ** 2)))
        kept = kept[fine]
    shape_ok = 0.6 < d1 / max(d2, 1e-6) < 1.67 and 0.75 < (d1 + d2) / 4 / r < 1.25
    if not shape_ok or len(kept) < 16:
        return None
    # Neighbouring rays share pixels: count a quarter of them as independent. Bevels and blur
    # shift the edge of a whole rim alike, which no fit can see.
    sigma = float(np.hypot(spread / np.sqrt(len(kept) / 4), EDGE_SIGMA_PX))
    return Rim(rim.x_px, rim.y_px, rim.axes_px, rim.angle_deg, True, float(sigma), support)


def _circle_through(points: Array) -> tuple[float, float, float]:
    """Centre and diameter of the algebraic least-squares circle (Kåsa)."""
    middle = points.mean(axis=0)
    near = points - middle
    rows = np.column_stack([2 * near, np.ones(len(near))])
    a, b, c = np.linalg.lstsq(rows, (near**2).sum(axis=1), rcond=None)[0]
    return float(middle[0] + a), float(middle[1] + b), 2 * float(np.sqrt(c + a**2 + b**2))


def _learn(picture: Picture, rim: Rim, angles: Array) -> RimModel:
    radii = rim.radii(angles)
    inner, seen = _sample(picture, rim.x_px, rim.y_px, angles, radii, np.array([0.95, 0.965]))
    rows = inner[seen.all(axis=1)].reshape(-1, 3) if seen.any() else inner.reshape(-1, 3)
    colour = np.median(rows, axis=0)
    spread = float(np.clip(1.5 * np.median(np.abs(rows - colour).max(axis=1)), 18, 60))
    shares = np.linspace(1 - REACH, 1 + REACH, _samples(float(radii.mean())))
    edges, inside = _edges(picture, rim.x_px, rim.y_px, angles, radii, shares, colour, spread)
    near = np.abs(shares - 1) < 0.06
    peak = edges[:, near].max(axis=1)
    strength = float(np.median(peak[inside])) if inside.any() else 1.0
    return RimModel(angles, radii, colour, spread, max(strength, 3.0))


def _samples(radius: float) -> int:
    return int(np.clip(2 * REACH * radius * 1.6, 24, 72))


def _sample(
    picture: Picture, x: float, y: float, angles: Array, radii: Array, shares: Array
) -> tuple[Array, NDArray[np.bool_]]:
    """Colours along the rays, shape (rays, places, 3), and which lie in the picture."""
    reach = radii[:, None] * shares[None, :]
    at_x = x + np.cos(angles)[:, None] * reach
    at_y = y + np.sin(angles)[:, None] * reach
    high, wide = picture.shape[:2]
    seen = (at_x >= 0) & (at_x <= wide - 1) & (at_y >= 0) & (at_y <= high - 1)
    colours = cv2.remap(
        picture,
        at_x.astype(np.float32),
        at_y.astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return np.asarray(colours, np.float32), np.asarray(seen, bool)


def _edges(
    picture: Picture,
    x: float,
    y: float,
    angles: Array,
    radii: Array,
    shares: Array,
    colour: Array | None,
    spread: float,
) -> tuple[Array, NDArray[np.bool_]]:
    """Edge strength along each ray, shape (rays, places), and which rays lie in the picture."""
    lines, seen = _sample(picture, x, y, angles, radii, shares)
    step_px = float(radii.mean()) * (shares[1] - shares[0])
    wide = max(1, round(1.6 / step_px))
    kernel = np.concatenate([-np.ones(wide), [0.0], np.ones(wide)]) / wide
    smooth = cv2.GaussianBlur(lines, (3, 3), 0.7)
    edge = cv2.filter2D(smooth, cv2.CV_32F, kernel[None, :], borderType=cv2.BORDER_REPLICATE)
    strength = np.sqrt(np.einsum("ijk,ijk->ij", edge, edge))
    if colour is not None:
        inner = np.empty_like(smooth)
        inner[:, wide + 1 :] = smooth[:, : -(wide + 1)]
        inner[:, : wide + 1] = smooth[:, :1]
        apart = np.abs(inner - colour).max(axis=-1)
        strength = strength * np.exp(-0.5 * (apart / (2 * spread)) ** 2)
    return np.asarray(strength, np.float64), np.asarray(seen.all(axis=1), bool)


def _parabola(edges: Array, top: NDArray[np.intp], shares: Array) -> Array:
    """The place of each ray's peak between samples, from its column `top`."""
    rows = np.arange(len(edges))
    left, mid, right = edges[rows, top - 1], edges[rows, top], edges[rows, top + 1]
    bend = left - 2 * mid + right
    offset = np.where(np.abs(bend) > 1e-9, 0.5 * (left - right) / np.where(bend == 0, 1, bend), 0.0)
    return np.asarray(shares[top] + np.clip(offset, -0.5, 0.5) * (shares[1] - shares[0]))


def _robust(across: Array, away: Array, weight: Array, limit: float) -> tuple[Array, Array]:
    """Weighted least squares with Tukey's biweight; the answer and each ray's agreement (0 to 1)."""
    agree: Array = np.ones(len(away))
    answer: Array = np.zeros(across.shape[1])
    for turn in range(7):
        w = weight * agree
        normal = across.T @ (across * w[:, None])
        # A little damping on growth and bend keeps them still when only part of the rim is seen.
        damped = np.diag(normal)[2:] * np.array([0.02, 0.05, 0.05])[: across.shape[1] - 2]
        normal += np.diag(np.concatenate([np.zeros(2), damped]) + 1e-6)
        answer = np.asarray(np.linalg.solve(normal, across.T @ (w * away)), np.float64)
        wide = limit * (3.0 if turn < 2 else 1.5 if turn < 4 else 1.0)
        miss = np.abs(away - across @ answer) / wide
        agree = np.where(miss < 1, (1 - miss**2) ** 2, 0.0)
    return answer, agree
