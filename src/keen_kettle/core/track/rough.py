"""From a rough mark to the rim: read by a net, measured by its edges; or by edges and colours alone.

A hand that marks in a hurry is off by a tenth of the radius and more, in place and in size; then arcs
of limbs, of inner rings and of the true rim near the mark make a false outline. Where something looks
like a plate its rim is read, and edges are asked near to it. Elsewhere many outlines are tried over
all that may be meant: the share of the rays that have an edge there, and how many divide one colour
(the plate's) from others, say which it is.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.nearby import MOST_OF_SIZE, as_known, as_read, between, lies_at
from keen_kettle.core.track.outline import (
    ROUGHLY,
    Meant,
    around_outlines,
    ellipse_along,
    votes_along,
    votes_at,
)
from keen_kettle.core.track.outward import edge_beyond, rim_round
from keen_kettle.core.track.plate_looks import plate_near
from keen_kettle.core.track.rays import SHARP_EDGE_PX, edges_along, local_peaks, sample_along
from keen_kettle.core.track.rim import (
    SHARP_SUPPORT,
    Rim,
    RimModel,
    fit_rim,
    learnt,
    rim_unseen,
)
from keen_kettle.core.track.rim_reader import ReadRim, read_rim

__all__ = ["rim_by_mark"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

RAYS = 96
NEAREST, FARTHEST = 0.3, 1.85
"""From where to where along the rays edges are read, as shares of the marked radius."""
STEP = 0.04
SHIFTS = np.linspace(-0.4, 0.4, 17)
SIZES = np.arange(0.7, 1.42, STEP)
SHAPES = (
    (SIZES, np.ones(1), np.zeros(1)),
    (SIZES[::2], np.array([0.9, 0.8]), np.radians([-15.0, 0.0, 15.0])),
)
"""Half heights, narrowness and tilts of the outlines that are tried, circles first."""
TRUST = 0.35
"""How far off a mark usually is, in place and in the logarithm of its size (one sigma, generous)."""
KEPT, APART = 6, 0.07
"""So many outlines of each shape are asked for their colours, at least so far from each other."""
COLOUR_WEIGHT, DIVIDED = 0.7, 0.35
"""What colours weigh beside edges, and how far a rim without a sharp edge must divide them: right ones
do by 0.45 to 1, outlines of chance by less than 0.4, most of them by nothing (see `./kettle bench eye`)."""
TRUSTED = 1.5
"""Close to a rim that was read edges are looked for within about so many of its sigma."""
PLAIN = 0.3
"""The support that edges need which are looked for more widely."""
WIDELY, CLOSELY = (0.5, 3.0, 1.5), (0.8, 1.2, 1.2)
"""How many sigma edges may lie within the rim that was read, outside of it, and aside: stripes and smaller plates lie
inside a rim, but nothing outside goes round it."""
MOST_OF_MARK = 1.3
"""A rim round the one that was found is no larger than so many times the mark."""
LINES, ROUND, SAME_RIM = 0.2, 2.5, 0.02
"""Lines thinner than about half of the first (radii) are taken away, so far round a mark; rims are one that differ by
no more than the last, in place and in size."""
FEWEST_RAYS, LEAST_SPREAD = 20, 8.0
INNER, OUTER = np.array([0.84, 0.88, 0.92, 0.95]), np.array([1.05, 1.09, 1.13])


def rim_by_mark(picture: Picture, x: float, y: float, r: float) -> tuple[Rim, RimModel]:
    """The rim that a rough mark means, and the model that follows it.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    x, y, r : the marked circle in pixels, up to about a third of the radius off

    Returns
    -------
    As of `fit_rim`: the marked circle itself, with `found` False, where nothing there looks like a plate
    and no outline that is seen divides the colour of one from what is around it. Where another rim is found
    once thin lines are taken away, plainer and surer, they had drawn it to themselves.
    """
    rim, model = _rim_in(picture, x, y, r, picture)
    if not rim.found:
        return rim, model
    bare, _ = _rim_in(_without_lines(picture, x, y, r), x, y, r, picture)
    surer = bare.sigma_px / max(bare.axes_px) < rim.sigma_px / max(rim.axes_px)
    plainer = bare.found and surer and bare.support > rim.support
    if not plainer or _are_one(bare, rim):
        return rim, model
    return bare, learnt(picture, bare)


def _without_lines(picture: Picture, x: float, y: float, r: float) -> Picture:
    """A picture without the thin lines about a mark: what is drawn over a film, and letters."""
    reach, across = ROUND * r, 2 * round(LINES * r / 2) + 1
    rows, columns = (slice(max(int(at - reach), 0), max(int(at + reach), 0)) for at in (y, x))
    part = np.ascontiguousarray(picture[rows, columns])
    if across < 3 or not part.size:
        return picture
    plain = picture.copy()
    plain[rows, columns] = cv2.medianBlur(part, across)
    return plain


def _are_one(one: Rim, other: Rim) -> bool:
    size = max(other.axes_px)
    apart = float(np.hypot(one.x_px - other.x_px, one.y_px - other.y_px)) / size
    return max(apart, abs(float(np.log(max(one.axes_px) / size)))) < SAME_RIM


def _rim_in(
    picture: Picture, x: float, y: float, r: float, filmed: Picture
) -> tuple[Rim, RimModel]:
    """The rim that a rough mark means, as a picture shows it; `filmed` is the same one with all its lines."""
    meant = plate_near(picture, x, y, r)
    if meant is not None:
        # The mark may be far off, and what is seen a smaller plate or what is left of one that is cut.
        between = (x + meant[0]) / 2, (y + meant[1]) / 2, float(np.sqrt(r * meant[2]))
        read = read_rim(picture, *between)
        if read is not None and read.sure and abs(np.log(read.r / r)) < MOST_OF_SIZE:
            return _measured(picture, read, filmed)
    found = _by_edges(picture, x, y, r)
    return _outermost(picture, found, r) if found[0].found else found


def _measured(picture: Picture, read: ReadRim, filmed: Picture) -> tuple[Rim, RimModel]:
    """The rim by its edges near to where it was read; as it was read where they lie elsewhere (on a stripe
    within it, say) or nowhere. What goes round them is asked of the picture as it was `filmed`: without thin
    lines the ring between a stripe and its rim is gone."""
    about = Meant(TRUSTED * read.place_sigma, TRUSTED * read.size_sigma)
    for meant, least, limits in ((ROUGHLY, PLAIN, WIDELY), (about, 0.0, CLOSELY)):
        rim, model = fit_rim(picture, read.x, read.y, read.r, meant, as_known(read))
        if rim.found and rim.support >= least and lies_at(filmed, rim, read, limits):
            return between(rim, read), model
    stands = as_read(read, rim.support)
    return stands, (model if rim.found else learnt(picture, stands))


def _outermost(picture: Picture, found: tuple[Rim, RimModel], r: float) -> tuple[Rim, RimModel]:
    """The rim round the one that was found, where that is a stripe or a smaller plate inside it and the
    mark allows for it."""
    rim = found[0]
    share = edge_beyond([(picture, rim)])
    if share is None or share * max(rim.axes_px) > MOST_OF_MARK * r:
        return found
    return rim_round(picture, rim, share) or found


def _by_edges(picture: Picture, x: float, y: float, r: float) -> tuple[Rim, RimModel]:
    """The rim by its edges and colours alone."""
    near = fit_rim(picture, x, y, r)
    if near[0].found and near[0].support > SHARP_SUPPORT:
        return near
    far = fit_rim(picture, *_nearer(picture, x, y, r))
    if far[0].found:
        again = fit_rim(picture, far[0].x_px, far[0].y_px, max(far[0].axes_px))
        far = again if again[0].found else far
    for found in (far, near):
        if found[0].found and _colours_apart(picture, found[0]) >= DIVIDED:
            return found
    return rim_unseen(picture, x, y, r)


def _nearer(picture: Picture, x: float, y: float, r: float) -> tuple[float, float, float]:
    """Centre and half height of a better circle to look for the rim from than the marked one."""
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    tries, votes = _outlines(picture, x, y, r, angles)
    middles = np.zeros_like(tries)
    middles[:, 2:] = tries[:, 2:]
    radii = r * ellipse_along(angles, middles)
    worth = [
        vote * (1 + COLOUR_WEIGHT * _divides(picture, x + r * one[0], y + r * one[1], reach))
        for one, vote, reach in zip(tries, votes, radii, strict=True)
    ]
    dx, dy, high = tries[int(np.argmax(worth))][:3]
    return x + r * float(dx), y + r * float(dy), r * float(high)


def _colours_apart(picture: Picture, rim: Rim) -> float:
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    return _divides(picture, rim.x_px, rim.y_px, rim.radii(angles))


def _outlines(picture: Picture, x: float, y: float, r: float, angles: Array) -> tuple[Array, Array]:
    """The best of the outlines, shape (n, 5) as in `ellipse_along`, and what their edges speak for."""
    shares = np.arange(NEAREST, FARTHEST, max(0.012, 0.6 / r))
    gap = float(shares[1] - shares[0])
    far = np.full(len(angles), r)
    half_px = max(SHARP_EDGE_PX, 0.03 * r)
    edges, _ = edges_along(picture, x, y, angles, far, shares, None, 1.0, half_px)
    _, seen = sample_along(picture, x, y, angles, far, shares)
    usual = np.percentile(np.where(seen, edges, 0.0), 97, axis=1, keepdims=True)
    strong = np.sqrt(np.minimum(edges / np.maximum(usual, 12.0), 1.0))
    ridges = np.where(local_peaks(edges) & (edges > 4.0) & seen, strong, 0.0)
    votes = votes_along(ridges, 0.45 * STEP / gap, 0.7 / (gap * r))
    kept: list[Array] = []
    worth: list[float] = []
    for sizes, narrows, tilts in SHAPES:
        grid = np.meshgrid(SHIFTS, SHIFTS, sizes, narrows, tilts, indexing="ij")
        tries = np.column_stack([axis.ravel() for axis in grid])
        tries = tries[np.hypot(tries[:, 0], tries[:, 1]) <= SHIFTS[-1]]
        score = _score(tries, votes, seen, shares, angles)
        for one in _different(tries, score):
            closer, vote = _closer(tries[one], votes, seen, shares, angles, len(narrows) > 1)
            kept.append(closer)
            worth.append(vote)
    return np.array(kept), np.array(worth)


def _closer(
    one: Array, votes: Array, seen: NDArray[np.bool_], shares: Array, angles: Array, ellipse: bool
) -> tuple[Array, float]:
    """The best outline less than a step from this one, for edges fall between two steps."""
    vote = 0.0
    for step in (0.5 * STEP, 0.25 * STEP):
        around = around_outlines(one[None], step, ellipse)
        score = _score(around, votes, seen, shares, angles)
        one, vote = around[int(np.argmax(score))], float(score.max())
    return one, vote


def _score(
    tries: Array, votes: Array, seen: NDArray[np.bool_], shares: Array, angles: Array
) -> Array:
    """Mean vote over the rays that see the outline, less the farther it is from the mark."""
    rays = np.arange(0, len(angles), 2)
    at = ellipse_along(angles[rays], tries)
    voted, visible = votes_at(at, shares, (votes * seen)[rays], seen[rays].astype(float))
    got = voted.sum(axis=1)
    off = np.hypot(tries[:, 0], tries[:, 1]) ** 2 + np.log(tries[:, 2]) ** 2
    return np.asarray(got / np.maximum(visible.sum(axis=1), 16) * np.exp(-0.5 * off / TRUST**2))


def _different(tries: Array, score: Array) -> list[int]:
    """The best few that are not the same outline one step aside."""
    picked: list[int] = []
    for one in np.argsort(score)[::-1]:
        if all(np.abs(tries[one, :3] - tries[k, :3]).max() > APART for k in picked):
            picked.append(int(one))
            if len(picked) == KEPT:
                break
    return picked


def _divides(picture: Picture, x: float, y: float, radii: Array) -> float:
    """How well an outline, by its radii, divides the plate's colour from what is around it (mean over
    its rays, 1: all do; alike inside and outside counts nothing, the wrong way round against it)."""
    angles = np.linspace(0, 2 * np.pi, len(radii), endpoint=False)
    shares = np.concatenate([INNER, OUTER])
    lines, seen = sample_along(picture, x, y, angles, radii, shares)
    rays = lines[seen.all(axis=1)]
    if len(rays) < FEWEST_RAYS:
        return 0.0
    inner = np.median(rays[:, : len(INNER)], axis=1)
    outer = np.median(rays[:, len(INNER) :], axis=1)
    colour = np.median(inner, axis=0)
    inside = np.abs(inner - colour).max(axis=1)
    outside = np.abs(outer - colour).max(axis=1)
    spread = max(1.5 * float(np.median(inside)), LEAST_SPREAD)
    return float(np.mean(np.clip((outside - inside) / (2 * spread), -1.0, 1.0)))
