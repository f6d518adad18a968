"""A third way to guess where the plate went: by the rings that it is made of.

A plate turns on its bar, and the bar's end sticks out of it towards the camera, so that a remembered
look changes and is drawn to that end, which is often the brightest thing on it. But whatever turns and
whatever sticks out, each ring about the centre keeps its usual colour: the median along it, which letters
and a bar's end hardly move. The centre is where most of the plate agrees with its rings (Gauss–Newton on the
rings' own slopes, as in inverse compositional alignment: Baker and Matthews 2004).
"""

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.cues import Guess

__all__ = ["RingView", "Rings"]

Array = NDArray[np.float64]
Soft = NDArray[np.float32]
Mask = NDArray[np.bool_]
Grey = NDArray[np.uint8]
Picture = NDArray[np.uint8]

TURNS = 40
INNERMOST, OUTERMOST, PLACES = 0.22, 0.96, 14
"""Rings between these shares of the rim; within the first the bar's end begins."""
SPREADS, LEAST_SPREAD, MOVED_PX = 2.0, 7.0, 0.7
"""A place agrees within so many usual spreads of its ring, of at least so many grey levels, and what a centre that is
off by so much would change."""
STRUCTURED = 0.25
"""Rings tell something if one colour for all of them would lose such a share of the plate."""
ROUNDS, STEP, FARTHEST, NEAR_PX = 8, 0.12, 0.5, 0.05
"""Steps of at most such a share of the radius each and the last all together; they end with one that is so short."""
PLAIN = 0.7
"""A plate so much like its mark is there; what is less so may be found farther off, out of focus."""
LOOSE, TIGHT = 3.0, 1.5
"""So many times the usual spread counts a little at first, and in the last rounds."""
LEAST_IN_PICTURE = 0.35
LEAST_GAIN, MOST_GAIN, LIGHT_ROUNDS = 0.5, 1.6, 2
"""A plate becomes so much darker or brighter on its way, not more."""
MOST_GROWN = 1.4
SMALL_PX, SOFT_PX, BROAD_PX, LEAST_PART = 48.0, 1.0, 4.0, 8
"""Pictures are made so small that a larger plate has about this radius, then softened, a little and much."""
WEIGHT = 0.5
"""What the rings tell counts twice as much as a look."""


@dataclass(frozen=True)
class _Colours:
    """What is wanted along the rings, (3, n) BGR for all turns and places, how it changes when the centre goes
    `across` and `down` by a pixel, and the sums over the colours of their squares and their product (3, n)."""

    wanted: Array
    across: Array
    down: Array
    squares: Array

    @staticmethod
    def of(rings: Array, turns: Array, step_px: float) -> "_Colours":
        """From one colour a ring (3, places), that lie `step_px` apart."""
        steep = np.gradient(rings, step_px, axis=1)
        every = np.ones(len(turns))
        wanted, across, down = (
            (share[:, None] * one[:, None, :]).reshape(3, -1)
            for share, one in ((every, rings), (-np.cos(turns), steep), (-np.sin(turns), steep))
        )
        squares = np.array([(across * across), (across * down), (down * down)]).sum(axis=1)
        return _Colours(wanted, across, down, squares)

    def step(self, off: Array, weight: Array) -> Array:
        """The shift (2,) of the centre that brings what is seen onto the rings."""
        xx, xy, yy = (float(one) for one in self.squares @ weight)
        x, y = (float((one * off).sum(axis=0) @ weight) for one in (self.across, self.down))
        damp = 1e-3 * (xx + yy) + 1e-6
        xx, yy = xx + damp, yy + damp
        return np.array([yy * x - xy * y, xx * y - xy * x]) / (xx * yy - xy * xy)


@dataclass(frozen=True)
class Rings:
    """The rings of a plate, in a picture that is made smaller by `zoom`, and how far they are kept.

    `turns` (turns,) radians and `radii_px` (turns,) the rim along them; `fine` are their colours and `broad`
    those far out of focus; `spread` (n,) grey levels; `full` is the share of the plate that agreed at the
    mark, `flat` what would agree with one colour for all.
    """

    turns: Array
    radii_px: Array
    zoom: float
    fine: _Colours
    broad: _Colours
    spread: Array
    full: float
    flat: float

    @staticmethod
    def of(
        picture: Picture,
        x: float,
        y: float,
        turns: Array,
        radii_px: Array,
        covered: Grey | None = None,
        growth: float = 1.0,
    ) -> "Rings | None":
        """Those of a marked plate that has grown since, shape (height, width, 3) BGR; None where they tell
        nothing. What is `covered` (see `covered_part`) is left out."""
        every = np.arange(0, len(turns), max(len(turns) // TURNS, 1))
        turns, radii_px = turns[every], radii_px[every]
        zoom = 1 / max(round(float(radii_px.mean()) / SMALL_PX), 1)
        reach = 1.3 * growth * float(radii_px.max())
        part, hidden, corner = _part(picture, x, y, reach, zoom, covered)
        if part is None:
            return None
        place, radii_px = zoom * (np.array([x, y]) - corner), zoom * radii_px
        values, seen = _along(part, hidden, place, turns, growth * radii_px)
        by_turns = seen.reshape(len(turns), PLACES)
        if seen.mean() < LEAST_IN_PICTURE or by_turns.sum(axis=0).min() < TURNS // 8:
            return None
        rings = _usual(values, seen, len(turns))
        step_px = growth * float(radii_px.mean()) * (OUTERMOST - INNERMOST) / (PLACES - 1)
        fine = _Colours.of(rings, turns, step_px)
        off = np.where(seen, np.abs(values - fine.wanted).max(axis=0), np.nan)
        usual = np.nanmedian(off.reshape(by_turns.shape), axis=0)
        steep = np.abs(np.gradient(rings, step_px, axis=1)).max(axis=0)
        spread = np.maximum(SPREADS * usual, LEAST_SPREAD) + MOVED_PX * steep
        spread = np.tile(spread, len(turns))
        full = float((off < spread)[seen].mean())
        away = np.abs(values - np.median(values[:, seen], axis=1)[:, None]).max(axis=0)
        flat = float((away < spread)[seen].mean())
        if full - flat < STRUCTURED:
            return None
        blurred, there = _along(_broad(part), hidden, place, turns, growth * radii_px)
        broad = _Colours.of(_usual(blurred, there, len(turns)), turns, step_px)
        return Rings(turns, radii_px, zoom, fine, broad, spread, full, flat)

    def view(
        self, picture: Picture, x: float, y: float, reach: float, covered: Grey | None = None
    ) -> "RingView | None":
        """The part of a picture about a place, made ready to be looked through; None where that is little."""
        reach += 1.1 * float(self.radii_px.max()) / self.zoom * MOST_GROWN
        soft, hidden, corner = _part(picture, x, y, reach, self.zoom, covered)
        return None if soft is None else RingView(self, corner, soft, hidden)

    def off(
        self, values: Array, seen: Mask, loose: float, colours: _Colours
    ) -> tuple[Array, Array]:
        """How far each place is off what is wanted, in a light that is found along, (3, n), and how much it
        counts, (n,)."""
        wanted, weight = colours.wanted, seen.astype(float)
        for _ in range(LIGHT_ROUNDS):
            share = weight / max(float(weight.sum()), 1e-9)
            about = wanted - (wanted @ share)[:, None]
            off = values - (values @ share)[:, None]
            along, power = ((about * one).sum(axis=0) @ share for one in (off, about))
            gain = min(max(float(along) / max(float(power), 1e-9), LEAST_GAIN), MOST_GAIN)
            off -= gain * about
            far = np.abs(off).max(axis=0) / (2 * loose * self.spread)
            weight = seen * np.maximum(1 - far * far, 0.0) ** 2
        return off, weight


@dataclass(frozen=True)
class RingView:
    """Part of a picture, made smaller, that begins at `corner` (2,) pixels, shape (height, width, 3), a little out
    of focus; and what is `hidden` of it (height, width), 0 where it is not."""

    rings: Rings
    corner: Array
    fine: Soft
    hidden: Soft | None

    @cached_property
    def broad(self) -> Soft:
        """Far out of focus."""
        return _broad(self.fine)

    def find(self, x: float, y: float, growth: float) -> Guess | None:
        """The best place near (x, y), of a plate that has grown; None where too little of it is in sight, or
        it is not near. What is not plainly there is looked for far out of focus first."""
        begun = self.rings.zoom * (np.array([x, y]) - self.corner)
        likeness, place = self._sharpened(begun, begun, growth)
        if likeness < PLAIN:
            there = self._drawn(begun, begun, growth, self.broad, self.rings.broad, LOOSE)
            other = (0.0, None) if there is None else self._sharpened(there, begun, growth)
            if place is None or other[0] > likeness:
                likeness, place = other
        if place is None:
            return None
        x, y = (float(one) for one in place / self.rings.zoom + self.corner)
        return Guess(x, y, likeness, WEIGHT)

    def _sharpened(self, place: Array, begun: Array, growth: float) -> tuple[float, Array | None]:
        """How alike the plate is where the rings draw one to in focus, and that place (2,)."""
        there: Array | None = place
        for loose in (LOOSE, TIGHT):
            if there is not None:
                there = self._drawn(there, begun, growth, self.fine, self.rings.fine, loose)
        return (0.0, None) if there is None else (self._likeness(there, growth), there)

    def _drawn(
        self, place: Array, begun: Array, growth: float, soft: Soft, colours: _Colours, loose: float
    ) -> Array | None:
        """The place (2,) to which the rings draw one, not far from where it was begun; None where there is none."""
        rings, radius = self.rings, float(self.rings.radii_px.mean()) * growth
        for _ in range(ROUNDS):
            values, seen = self._along(soft, place, growth)
            if seen.mean() < LEAST_IN_PICTURE:
                return None
            step = colours.step(*rings.off(values, seen, loose, colours))
            far = float(np.hypot(step[0], step[1]))
            place = place + step * min(1.0, STEP * radius / max(far, 1e-9))
            if np.hypot(*(place - begun)) > FARTHEST * radius:
                return None
            if far < NEAR_PX:
                break
        return place

    def likeness(self, x: float, y: float, growth: float) -> float:
        """How much of the plate agrees with its rings at a place: 1 as at the mark, 0 as one colour would."""
        return self._likeness(self.rings.zoom * (np.array([x, y]) - self.corner), growth)

    def _likeness(self, place: Array, growth: float) -> float:
        rings = self.rings
        values, seen = self._along(self.fine, place, growth)
        if seen.mean() < LEAST_IN_PICTURE:
            return 0.0
        off, _ = rings.off(values, seen, 1.0, rings.fine)
        agree = float((np.abs(off).max(axis=0) < rings.spread)[seen].mean())
        return float(np.clip((agree - rings.flat) / (rings.full - rings.flat), 0.0, 1.0))

    def _along(self, soft: Soft, place: Array, growth: float) -> tuple[Array, Mask]:
        rings = self.rings
        return _along(soft, self.hidden, place, rings.turns, growth * rings.radii_px)


def _usual(values: Array, seen: Mask, turns: int) -> Array:
    """The median colour along each ring, (3, places)."""
    shown = np.where(seen, values, np.nan).reshape(3, turns, PLACES)
    return np.asarray(np.nanmedian(shown, axis=1))


def _part(
    picture: Picture, x: float, y: float, reach: float, zoom: float, covered: Grey | None
) -> tuple[Soft | None, Soft | None, Array]:
    """The part of a picture about a place, softened and made smaller, what is covered of it (not 0; None where
    nothing is), and its corner (2,) in pixels; None where it is next to nothing."""
    left, top = max(int(x - reach), 0), max(int(y - reach), 0)
    room = (slice(top, max(int(y + reach), 0)), slice(left, max(int(x + reach), 0)))
    part, corner = picture[room], np.array([left, top], float)
    by = round(1 / zoom)
    high, wide = part.shape[0] // by, part.shape[1] // by
    if min(high, wide) < LEAST_PART:
        return None, None, corner

    def small(whole: NDArray[np.uint8]) -> NDArray[np.uint8]:
        even = whole[: high * by, : wide * by]
        return np.asarray(cv2.resize(even, (wide, high), interpolation=cv2.INTER_AREA), np.uint8)

    soft = cv2.GaussianBlur(small(part), (0, 0), SOFT_PX)
    hidden = None if covered is None else np.asarray(small(covered[room]), np.float32)
    # The first of the small pixels lies in the middle of those that it stands for.
    return np.asarray(soft, np.float32), hidden, corner + (by - 1) / 2


def _broad(soft: Soft) -> Soft:
    return np.asarray(cv2.GaussianBlur(soft, (0, 0), BROAD_PX), np.float32)


def _along(
    soft: Soft, hidden: Soft | None, place: Array, turns: Array, radii_px: Array
) -> tuple[Array, Mask]:
    """Colours along the rings, shape (3, n), turn by turn, and which lie in sight (n,)."""
    reach = radii_px[:, None] * np.linspace(INNERMOST, OUTERMOST, PLACES)
    at_x = (place[0] + np.cos(turns)[:, None] * reach).astype(np.float32)
    at_y = (place[1] + np.sin(turns)[:, None] * reach).astype(np.float32)
    high, wide = soft.shape[:2]
    seen = (at_x >= 0) & (at_x <= wide - 1) & (at_y >= 0) & (at_y <= high - 1)
    if hidden is not None:
        seen &= cv2.remap(hidden, at_x, at_y, cv2.INTER_LINEAR) == 0
    taken = cv2.remap(soft, at_x, at_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    values = np.ascontiguousarray(taken.reshape(-1, 3).T, float)
    return values, np.asarray(seen, bool).ravel()
