"""The rim of a plate of which place and size are nearly known: where the net reads it, by the edges that lie there.

A rough mark may mean any of many outlines, so they are all tried (`rough`). Here one is enough, and that
costs a third.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.outline import Expected, ellipse_along
from keen_kettle.core.track.outward import is_outermost
from keen_kettle.core.track.rays import REACH, SHARP_EDGE_PX, edges_along, places_along
from keen_kettle.core.track.rim import (
    RAYS,
    Rim,
    edges_about,
    fit_outline,
    fit_rim,
    ridges,
    with_softness,
)
from keen_kettle.core.track.rim_reader import ReadRim, read_rim

__all__ = ["MOST_OF_SIZE", "as_known", "as_read", "between", "lies_at", "rim_nearby"]

Picture = NDArray[np.uint8]

MOST_OF_SIZE = 0.5
"""A rim that is so much larger or smaller than it should be (logarithm) is another one."""
WIDTHS, FEWEST_RAYS, PLAIN = (0.06, 0.025), 20, 0.2
"""Within about so many radii of the outline edges are asked, wider first; so many must be so plain."""
ROUND, TELLING = 0.975, (10.0, 60.0)
"""What is read as less narrow is round. An edge is plain by what most rays have at their strongest, within limits."""
NARROW_SIGMA, LEAN_SIGMA = 0.05, 0.2
"""How far the narrowness that was read is off, and the lean (radians): one sigma."""
LIMITS, DEEPEST = (0.8, 2.0, 1.5), 2.5
"""How many sigma edges may lie within the rim that was read, outside of it, and aside; and within it if nothing goes
round them."""
DIFFERS = 0.5
"""So much of what the two sizes differ by goes into the uncertainty."""
FEW, MOST = 0.2, 0.6
"""Edges of so little support say nothing beside what was read, and from the second on all."""
AS_READ = 0.3
"""What the support of a rim counts that stands as it was read, for its edges lie elsewhere."""


def rim_nearby(picture: Picture, x: float, y: float, r: float) -> Rim | None:
    """The rim of a plate that is known to be about there, to a tenth of its radius or so; None where none is seen.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    x, y, r : centre and radius in pixels
    """
    read = read_rim(picture, x, y, r)
    if read is None:
        alone, _ = fit_rim(picture, x, y, r)
        return alone if alone.found else None
    if not read.sure or abs(np.log(read.r / r)) >= MOST_OF_SIZE:
        return None
    rim = _by_edges(picture, read)
    if rim is not None and lies_at(picture, rim, read, LIMITS):
        return between(rim, read)
    return as_read(read, AS_READ * rim.support if rim is not None else 0.0)


def as_read(read: ReadRim, support: float) -> Rim:
    """The rim as it was read."""
    axes, sigma = (read.narrow * read.r, read.r), read.size_sigma * read.r
    return Rim(read.x, read.y, axes, read.tilt_deg, True, sigma, support)


def as_known(read: ReadRim) -> Expected:
    """What a reading tells before the edges next to it are asked."""
    place, lean = read.place_sigma / float(np.sqrt(2)), float(np.radians(read.tilt_deg))
    sigma = (place, place, read.size_sigma, NARROW_SIGMA, LEAN_SIGMA)
    return Expected((0.0, 0.0, 1.0, read.narrow, lean), sigma)


def between(rim: Rim, read: ReadRim) -> Rim:
    """A rim that was measured near to where it was read: the edges' own where most rays have one, and nearer to
    what was read the fewer have; the less sure the more the two sizes differ."""
    weight = float(np.clip((rim.support - FEW) / (MOST - FEW), 0.0, 1.0))
    across, down = rim.axes_px
    lean = rim.angle_deg + (90.0 if across > down else 0.0)
    wide, high = sorted(rim.axes_px)
    bent = _bend(wide / high, lean), _bend(read.narrow, read.tilt_deg)
    along, across = weight * bent[0] + (1 - weight) * bent[1]
    size = float(np.exp(weight * np.log(high) + (1 - weight) * np.log(read.r)))
    return replace(
        rim,
        x_px=weight * rim.x_px + (1 - weight) * read.x,
        y_px=weight * rim.y_px + (1 - weight) * read.y,
        axes_px=(size * (1 - float(np.hypot(along, across))), size),
        angle_deg=float(np.degrees(np.arctan2(across, along) / 2)),
        sigma_px=float(np.hypot(rim.sigma_px, DIFFERS * (high - read.r))),
    )


def _bend(narrow: float, lean_deg: float) -> NDArray[np.float64]:
    """How much narrower, along and across: the mean of two of these is that of the outlines."""
    turn = np.radians(2 * lean_deg)
    return (1 - narrow) * np.array([np.cos(turn), np.sin(turn)])


def lies_at(picture: Picture, rim: Rim, read: ReadRim, limits: tuple[float, float, float]) -> bool:
    """Whether a rim lies as near to where it was read as `limits` says (sigma within, outside and aside), or
    farther within it with nothing round it: a stripe has its rim round it, a rim that was read too large has not."""
    within, outside, aside = limits
    larger = float(np.log(max(rim.axes_px) / read.r)) / read.size_sigma
    apart = float(np.hypot(rim.x_px - read.x, rim.y_px - read.y)) / (read.r * read.place_sigma)
    if not (-DEEPEST < larger < outside and apart < aside):
        return False
    return larger > -within or is_outermost(picture, rim)


def _by_edges(picture: Picture, read: ReadRim) -> Rim | None:
    """The outline through the edges that lie next to the one that was read; None where there are too few."""
    angles = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
    shares = np.linspace(1 - 1.5 * REACH, 1 + 1.5 * REACH, 2 * places_along(read.r))
    far = np.full(RAYS, read.r)
    edges, inside = edges_along(
        picture, read.x, read.y, angles, far, shares, None, 1.0, SHARP_EDGE_PX
    )
    if inside.sum() < FEWEST_RAYS:
        return None
    usual = float(np.clip(np.percentile(edges[inside].max(axis=1), 40), *TELLING))
    crests = ridges(edges, usual)
    found = Rim(read.x, read.y, (read.narrow * read.r, read.r), read.tilt_deg, True, 0.0, 0.0)
    for width in WIDTHS:
        guess = _outline(found, read)
        expected = ellipse_along(angles, guess[None])[0]
        place, height = edges_about(edges, crests, shares, expected, max(width, 0.7 / read.r))
        plain = inside & (height > PLAIN)
        if plain.sum() < FEWEST_RAYS:
            return None
        support = float(height[plain].sum() / inside.sum())
        mark = Rim(read.x, read.y, (read.r, read.r), 0.0, True, 0.0, support)
        rim = fit_outline(guess, angles[plain], place[plain], mark, as_known(read))
        if rim is None:
            return None
        found = rim
    return with_softness(picture, found, angles)


def _outline(rim: Rim, read: ReadRim) -> NDArray[np.float64]:
    """A rim as an outline (see `ellipse_along`) about the place that was read; a circle where that is round."""
    wide, high = rim.axes_px
    bent = (wide / high, np.radians(rim.angle_deg)) if read.narrow <= ROUND else (1.0, 0.0)
    return np.array([rim.x_px - read.x, rim.y_px - read.y, high, *bent]) / [
        read.r,
        read.r,
        read.r,
        1,
        1,
    ]
