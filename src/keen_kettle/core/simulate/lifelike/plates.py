"""Plates as films show them: a face with ring, letters and hub, a rim with thickness, wear, light."""

from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.camera import Camera

__all__ = [
    "PLATES",
    "THICK_M",
    "PlateLook",
    "paint_plate_3d",
    "paint_sleeve",
    "plate_face",
    "plate_outlines",
]

Picture = NDArray[np.uint8]
Canvas = NDArray[np.float32]
Array = NDArray[np.float64]
Colour = tuple[float, float, float]

FACE_PX = 384
THICK_M, BEFORE_M = 0.055, 0.03
STRIPE = (0.80, 0.92)
STEEL = (150.0, 152.0, 154.0)


@dataclass(frozen=True)
class PlateLook:
    """Colours are (blue, green, red). `letters` and `hub` say how much they stand out (0 to 1), `lit`
    how much brighter the upper half is, `contact` how dark the shadow under it is (0 to 1); a `stripe`
    may run near the rim, and an iron plate of `before_m` across may hang before it."""

    colour: Colour = (40.0, 38.0, 38.0)
    ring: Colour = (58.0, 56.0, 56.0)
    letters: float = 0.6
    hub: float = 0.8
    lit: float = 0.22
    contact: float = 0.6
    sleeve: bool = True
    diameter_m: float = 0.45
    seed: int = 0
    stripe: Colour | None = None
    before_m: float = 0.0


PLATES = {
    "black": PlateLook(),
    "green": PlateLook((44.0, 78.0, 34.0), (58.0, 96.0, 48.0)),
    "yellow": PlateLook((40.0, 160.0, 186.0), (60.0, 180.0, 206.0), 0.5),
    "red": PlateLook((42.0, 40.0, 150.0), (60.0, 60.0, 172.0)),
    "blue": PlateLook((140.0, 78.0, 36.0), (160.0, 96.0, 52.0)),
    "iron": PlateLook((92.0, 94.0, 96.0), (112.0, 114.0, 116.0), 0.35, 0.5),
    "dark": PlateLook((28.0, 27.0, 27.0), (33.0, 32.0, 32.0), 0.5, 0.9, 0.12),
}
"""Usual plates by name."""


def paint_plate_3d(
    picture: Picture,
    camera: Camera,
    bar: Array,
    depth_m: float,
    spin_rad: float,
    look: PlateLook,
    shade: float,
    tint: Colour,
) -> None:
    """A plate round the bar (shape (2,), metres) whose outer face lies at a depth (negative: the far one,
    seen from inside)."""
    r = look.diameter_m / 2
    front = depth_m if depth_m > 0 else depth_m + THICK_M
    side = np.array(look.colour) * np.array(tint) * 0.55 * shade
    _, whole = plate_outlines(camera, bar, depth_m, look)
    cv2.fillConvexPoly(
        picture, np.round(16 * whole).astype(np.int32), side.tolist(), cv2.LINE_AA, 4
    )
    c, s = np.cos(spin_rad), np.sin(spin_rad)
    right, up = r * np.array([c, s]), r * np.array([-s, c])
    corners = np.array([up - right, up + right, right - up, -right - up])
    square = camera.to_px(bar + corners, front)
    _lay_face(picture, look, square, _ring(camera, bar, front, r), shade, tint)
    if look.before_m and depth_m > 0:
        iron = replace(PLATES["iron"], diameter_m=look.before_m, lit=look.lit)
        paint_plate_3d(picture, camera, bar, depth_m + BEFORE_M, spin_rad, iron, shade, tint)


def plate_outlines(
    camera: Camera, bar: Array, depth_m: float, look: PlateLook
) -> tuple[Array, Array]:
    """Where the edge of a plate's face is painted, and that of the whole plate with its thickness, each
    shape (n, 2) in pixels; from aside they differ."""
    r = look.diameter_m / 2
    inner = depth_m - np.sign(depth_m) * THICK_M
    front, behind = max(depth_m, inner), min(depth_m, inner)
    face = _ring(camera, bar, front, r)
    both = np.concatenate([_ring(camera, bar, behind, r), face]).astype(np.float32)
    return face, np.asarray(cv2.convexHull(both)[:, 0], np.float64)


def _ring(camera: Camera, bar: Array, depth: float, r: float, corners: int = 72) -> Array:
    turn = np.linspace(0, 2 * np.pi, corners, endpoint=False)
    return camera.to_px(bar + r * np.column_stack([np.cos(turn), np.sin(turn)]), depth)


def _lay_face(
    picture: Picture, look: PlateLook, square: Array, rim: Array, shade: float, tint: Colour
) -> None:
    """Lay the face's square, as it is seen (its four corners, from the upper left one round), into the picture;
    `rim` is the face's edge there, shape (n, 2)."""
    face = plate_face(look)
    high, wide = picture.shape[:2]
    left, top = np.maximum(rim.min(axis=0) - 2, 0).astype(int)
    right, foot = np.minimum(rim.max(axis=0) + 4, [wide, high]).astype(int)
    if left >= right or top >= foot:
        return
    flat = np.array([(0, 0), (FACE_PX, 0), (FACE_PX, FACE_PX), (0, FACE_PX)], np.float32)
    seen = cv2.getPerspectiveTransform(flat, (square - [left, top]).astype(np.float32))
    size = (right - left, foot - top)
    laid = np.asarray(cv2.warpPerspective(face, seen, size, flags=cv2.INTER_AREA), np.float32)
    cover = laid[..., 3:4]
    middle, half = rim[:, 1].mean(), np.ptp(rim[:, 1]) / 2
    rows = (np.arange(top, foot) - middle) / max(half, 1)
    lit = (1 - look.lit * rows)[:, None, None].astype(np.float32)
    colour = laid[..., :3] * lit * (shade * np.array(tint, np.float32))
    room = picture[top:foot, left:right]
    room[:] = np.clip(room * (1 - cover) + colour, 0, 255).astype(np.uint8)


@lru_cache(maxsize=32)
def plate_face(look: PlateLook) -> Canvas:
    """The plate's face as a square picture, its fourth channel the cover; colours are multiplied in."""
    size, c = FACE_PX, FACE_PX / 2
    rng = np.random.default_rng(look.seed + 11)
    yy, xx = np.mgrid[:size, :size].astype(np.float32)
    away = np.hypot(xx - c + 0.5, yy - c + 0.5) / c
    face = np.empty((size, size, 4), np.float32)
    face[..., :3] = np.array(look.colour, np.float32)
    for low, high, colour in ((0.93, 1.0, look.ring), (0.80, 0.855, look.ring)):
        face[(away >= low) & (away <= high), :3] = np.array(colour, np.float32)
    if look.stripe is not None:
        face[(away >= STRIPE[0]) & (away <= STRIPE[1]), :3] = np.array(look.stripe, np.float32)
    bright = np.array((205, 205, 205), np.float32)
    letters = _letters(away, np.arctan2(yy - c, xx - c), rng) * look.letters
    face[..., :3] = face[..., :3] * (1 - letters[..., None]) + bright * letters[..., None]
    for low, high, colour in ((0.40, 0.46, STEEL), (0.0, 0.13, STEEL)):
        ring = ((away >= low) & (away <= high))[..., None] * np.float32(look.hub)
        face[..., :3] = face[..., :3] * (1 - ring) + np.array(colour, np.float32) * ring
    worn = cv2.GaussianBlur(rng.normal(0, 1, (size, size)).astype(np.float32), (0, 0), 5)
    face[..., :3] *= (1 + 0.09 * worn / max(float(worn.std()), 1e-6))[..., None]
    cover = np.clip((1 - away) * c + 0.5, 0, 1)
    face[..., 3] = cover
    face[..., :3] *= cover[..., None]
    return face


def _letters(away: Canvas, turn: Canvas, rng: np.random.Generator) -> Canvas:
    """Blocks of lettering along two arcs between 0.55 and 0.75 of the radius."""
    band = np.zeros((40, 300), np.float32)
    x = 6
    while x < 288:
        wide = int(rng.integers(10, 24))
        cv2.rectangle(band, (x, 6), (min(x + wide, 294), 34), 1.0, -1)
        cv2.rectangle(band, (x + 4, 12), (min(x + wide - 4, 290), 28), 0.0, -1)
        x += wide + int(rng.integers(6, 12))
    found = np.zeros_like(away)
    for begin in (-2.4, 0.7):
        u = ((turn - begin) % (2 * np.pi)) / 1.75 * 300
        v = (0.75 - away) / 0.20 * 40
        found = np.maximum(
            found, cv2.remap(band, u.astype(np.float32), v.astype(np.float32), cv2.INTER_LINEAR)
        )
    return np.asarray(found, np.float32)


def paint_sleeve(
    picture: Picture,
    camera: Camera,
    ends: tuple[Array, Array],
    z0: float,
    z1: float,
    radius: float,
    shade: float,
) -> None:
    """A steel cylinder along the bar, from its end at depth `z0` to that at `z1` (shape (2,) each, metres): a
    bright band with darker edges, and its end's cap."""
    first, last = camera.to_px(ends[0], z0), camera.to_px(ends[1], z1)
    thick = max(round(2 * radius * camera.scale_at(z1)), 1)
    tone = [shade * one for one in STEEL]
    cv2.line(picture, _spot(first), _spot(last), [0.55 * one for one in tone], thick, cv2.LINE_AA)
    cv2.line(picture, _spot(first), _spot(last), tone, max(thick // 2, 1), cv2.LINE_AA)
    if z1 > 0:
        size = max(radius * camera.scale_at(z1), 1.0)
        cv2.circle(picture, _spot(last), round(size), [1.15 * one for one in tone], -1, cv2.LINE_AA)


def _spot(place: Array) -> tuple[int, int]:
    return round(float(place[0])), round(float(place[1]))
