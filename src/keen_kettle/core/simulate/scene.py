"""Paints one instant of a simulated lift: hall, lifter with clothes, bar and plate.

Everything moving is painted with sub-pixel coordinates (1/256 of a pixel), so that the picture's
plate centre is the truth's plate centre. Colours are BGR.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body import Body, Pose

__all__ = ["Camera", "Look", "paint_hall", "paint_lift"]

Picture = NDArray[np.uint8]
Array = NDArray[np.float64]
Colour = tuple[float, float, float]

SHIFT = 8
FAT_PX = 0.6
"""OpenCV's smooth circles come out this much too wide (measured by their area)."""


@dataclass(frozen=True)
class Camera:
    """A side view at right angles to the bar, far enough away to be orthographic.

    `facing` is "right" or "left": where the lifter looks in the picture.
    """

    width_px: int = 1280
    height_px: int = 720
    px_per_m: float = 285.0
    floor_px: float = 655.0
    middle_px: float = 640.0
    facing: str = "right"

    def to_px(self, metres: Array) -> Array:
        """Metres (x front, y up; shape (..., 2)) to pixels (x right, y down)."""
        sign = 1.0 if self.facing == "right" else -1.0
        m = np.asarray(metres, dtype=float)
        return np.stack(
            [
                self.middle_px + sign * self.px_per_m * m[..., 0],
                self.floor_px - self.px_per_m * m[..., 1],
            ],
            axis=-1,
        )


@dataclass(frozen=True)
class Look:
    """Colours and sizes of what is painted."""

    shirt: Colour = (138, 92, 48)
    shorts: Colour = (58, 52, 46)
    skin: Colour = (128, 158, 205)
    hair: Colour = (34, 42, 58)
    shoe: Colour = (205, 208, 214)
    plate: Colour = (52, 50, 48)
    plate_ring: Colour = (70, 96, 172)
    wall: Colour = (148, 152, 150)
    plate_diameter_m: float = 0.45
    girth: float = 1.0


def paint_hall(camera: Camera, look: Look, rng: np.random.Generator) -> Picture:
    """The still background: boarded wall, a window band, a shelf, a floor with a platform."""
    h, w = camera.height_px, camera.width_px
    k = camera.px_per_m
    hall = np.empty((h, w, 3), np.float32)
    rows = np.linspace(0.92, 1.06, h, dtype=np.float32)[:, None, None]
    hall[:] = np.array(look.wall, np.float32) * rows
    floor = int(camera.floor_px)
    board = int(0.42 * k)
    for x in range(-board, w, board):
        shade = float(rng.uniform(0.93, 1.05))
        hall[:floor, max(x, 0) : x + board] *= shade
        cv2.line(hall, (x, 0), (x, floor), (96, 98, 96), 2, cv2.LINE_AA)
    top = max(int(camera.floor_px - 2.35 * k), 0)
    for x in range(int(0.2 * k), w, int(1.6 * k)):
        pane = (slice(top, top + int(0.5 * k)), slice(x, x + int(1.1 * k)))
        hall[pane] = hall[pane] * 0.25 + np.array((226, 222, 214), np.float32) * 0.72
        cv2.rectangle(hall, (x, top), (x + int(1.1 * k), top + int(0.5 * k)), (82, 84, 88), 4)
    _paint_shelf(hall, camera, rng)
    hall[floor:] = np.array((72, 78, 84), np.float32)
    near, far = int(camera.floor_px + 0.02 * k), floor - int(0.03 * k)
    cv2.rectangle(
        hall,
        (int(camera.middle_px - 1.3 * k), far),
        (int(camera.middle_px + 1.3 * k), h),
        (96, 124, 158),
        -1,
    )
    for y in range(near, h, max(int(0.07 * k), 6)):
        cv2.line(
            hall,
            (int(camera.middle_px - 1.3 * k), y),
            (int(camera.middle_px + 1.3 * k), y),
            (82, 108, 140),
            1,
        )
    grain = rng.normal(0, 1, (h // 2 + 1, w // 2 + 1)).astype(np.float32)
    wide = np.asarray(cv2.resize(cv2.GaussianBlur(grain, (0, 0), 1.2), (w, h)), np.float32)
    hall += 9 * wide[..., None]
    return np.clip(cv2.GaussianBlur(hall, (0, 0), 0.9), 0, 255).astype(np.uint8)


def _paint_shelf(hall: NDArray[np.float32], camera: Camera, rng: np.random.Generator) -> None:
    """Rescue boards and boxes along the wall, some edges and colours behind the lifter."""
    k = camera.px_per_m
    y = int(camera.floor_px - 0.95 * k)
    x = int(0.15 * k)
    while x < camera.width_px - int(0.2 * k):
        width, height = int(rng.uniform(0.18, 0.45) * k), int(rng.uniform(0.15, 0.42) * k)
        colour = tuple(float(c) for c in rng.uniform(70, 190, 3))
        cv2.rectangle(hall, (x, y - height), (x + width, y), colour, -1)
        cv2.rectangle(hall, (x, y - height), (x + width, y), (60, 62, 66), 2)
        x += width + int(rng.uniform(0.05, 0.3) * k)
    cv2.rectangle(hall, (0, y), (camera.width_px, y + int(0.04 * k)), (74, 92, 112), -1)


def paint_lift(
    picture: Picture,
    pose: Pose,
    bar: Array,
    spin_rad: float,
    body: Body,
    camera: Camera,
    look: Look,
) -> None:
    """Paint lifter, bar and plates into `picture` (in place)."""
    px = {name: camera.to_px(point) for name, point in pose.points.items()}
    bar_px = camera.to_px(bar)
    k = camera.px_per_m
    sign = 1.0 if camera.facing == "right" else -1.0
    unit = body.stature_m / 1.75 * look.girth * k
    far = np.array([0.03 * k * sign, -0.012 * k])
    _plate(picture, bar_px + far, spin_rad, k, look, dim=0.5)
    for shade, off in ((0.72, far * 0.6), (1.0, np.zeros(2))):
        _leg(picture, px, off, unit, look, shade, sign)
        if shade < 1:
            _arm(picture, px, bar_px, off, unit, look, shade)
    _trunk(picture, px, unit, look, sign)
    _arm(picture, px, bar_px, np.zeros(2), unit, look, 1.0)
    _plate(picture, bar_px, spin_rad, k, look, dim=1.0)


def _leg(
    picture: Picture,
    px: dict[str, Array],
    off: Array,
    unit: float,
    look: Look,
    shade: float,
    sign: float,
) -> None:
    hip, knee, ankle = px["hip"] + off, px["knee"] + off, px["ankle"] + off
    heel, toe = px["heel"] + off, px["toe"] + off
    _limb(picture, knee, ankle, 0.062 * unit, 0.042 * unit, look.skin, shade)
    _limb(picture, hip, knee, 0.092 * unit, 0.064 * unit, look.skin, shade)
    _limb(picture, hip, hip + 0.62 * (knee - hip), 0.098 * unit, 0.084 * unit, look.shorts, shade)
    along = (toe - heel) / max(float(np.hypot(*(toe - heel))), 1e-9)
    up = np.array([along[1], -along[0]]) * sign
    sole = np.array(
        [heel, toe, toe + up * 0.045 * unit, ankle + up * 0.05 * unit, heel + up * 0.085 * unit]
    )
    _polygon(picture, sole, look.shoe, shade)


def _trunk(picture: Picture, px: dict[str, Array], unit: float, look: Look, sign: float) -> None:
    hip, shoulder, ear = px["hip"], px["shoulder"], px["ear"]
    _limb(picture, shoulder, ear, 0.05 * unit, 0.05 * unit, look.skin, 0.9)
    waist = hip + 0.35 * (shoulder - hip)
    _limb(picture, hip, waist, 0.112 * unit, 0.1 * unit, look.shorts, 1.0)
    _limb(
        picture,
        waist,
        shoulder + 0.04 * (hip - shoulder),
        0.105 * unit,
        0.112 * unit,
        look.shirt,
        1.0,
    )
    radius = 0.098 * unit
    _disc(picture, ear, radius, look.skin)
    _disc(picture, ear + np.array([-0.25 * sign, -0.3]) * radius, 0.86 * radius, look.hair)
    face = ear + np.array([0.42 * sign, 0.12]) * radius
    _disc(picture, face, 0.66 * radius, look.skin)
    _disc(picture, face + np.array([0.3 * sign, -0.2]) * radius, 0.1 * radius, (40, 44, 52))
    nose = face + np.array([[0.5 * sign, -0.12], [0.86 * sign, 0.16], [0.5 * sign, 0.24]]) * radius
    _polygon(picture, nose, look.skin, 0.96)


def _arm(
    picture: Picture,
    px: dict[str, Array],
    bar_px: Array,
    off: Array,
    unit: float,
    look: Look,
    shade: float,
) -> None:
    shoulder, elbow, hand = px["shoulder"] + off, px["elbow"] + off, bar_px + off
    _limb(picture, elbow, hand, 0.042 * unit, 0.032 * unit, look.skin, shade)
    _limb(picture, shoulder, elbow, 0.056 * unit, 0.044 * unit, look.skin, shade)
    _limb(
        picture,
        shoulder,
        shoulder + 0.45 * (elbow - shoulder),
        0.062 * unit,
        0.054 * unit,
        look.shirt,
        shade,
    )
    _disc(picture, hand, 0.042 * unit, tuple(c * shade for c in look.skin))


def _limb(
    picture: Picture, a: Array, b: Array, ra: float, rb: float, colour: Colour, shade: float
) -> None:
    """A tapered round limb, darker at its edges than along its middle."""
    for share, light in ((1.0, 0.78), (0.74, 0.93), (0.42, 1.05)):
        tone = tuple(min(c * shade * light, 255.0) for c in colour)
        _disc(picture, a, ra * share, tone)
        _disc(picture, b, rb * share, tone)
        way = b - a
        apart = float(np.hypot(*way))
        if apart > 1e-6:
            side = np.array([-way[1], way[0]]) / apart * share
            _polygon(
                picture,
                np.array([a + side * ra, b + side * rb, b - side * rb, a - side * ra]),
                tone,
                1.0,
            )


def _plate(
    picture: Picture, centre: Array, spin_rad: float, k: float, look: Look, dim: float
) -> None:
    """A bumper plate: rubber, moulded ring, blocks of lettering, steel hub and the sleeve's end."""
    r = look.plate_diameter_m / 2 * k
    _disc(picture, centre, r, tuple(c * 1.7 * dim for c in look.plate))
    _disc(picture, centre, 0.97 * r, tuple(c * 0.8 * dim for c in look.plate))
    _disc(picture, centre, 0.91 * r, tuple(c * dim for c in look.plate))
    _disc(picture, centre, 0.80 * r, tuple(c * dim for c in look.plate_ring))
    _disc(picture, centre, 0.72 * r, tuple(c * 0.86 * dim for c in look.plate))
    for step, width in ((0.0, 0.5), (2.1, 0.36), (4.0, 0.62)):
        angles = spin_rad + step + np.linspace(0, width, 8)
        rim = np.column_stack([np.cos(angles), np.sin(angles)])
        block = np.vstack([centre + rim * 0.66 * r, centre + rim[::-1] * 0.48 * r])
        _polygon(picture, block, (196, 198, 200), dim)
    _disc(picture, centre, 0.26 * r, tuple(c * dim for c in (150, 152, 156)))
    _disc(picture, centre, 0.2 * r, tuple(c * dim for c in (98, 100, 104)))
    _disc(picture, centre, 0.11 * r, tuple(c * dim for c in (176, 180, 184)))
    mark = centre + 0.055 * r * np.array([np.cos(spin_rad), np.sin(spin_rad)])
    _disc(picture, mark, 0.03 * r, (60, 60, 62))


def _disc(picture: Picture, centre: Array, radius: float, colour: tuple[float, ...]) -> None:
    scale = 1 << SHIFT
    at = (round(centre[0] * scale), round(centre[1] * scale))
    cv2.circle(
        picture, at, max(round((radius - FAT_PX) * scale), 1), colour, -1, cv2.LINE_AA, SHIFT
    )


def _polygon(
    picture: Picture, points: Array, colour: Colour | tuple[float, ...], shade: float
) -> None:
    fixed = np.round(points * (1 << SHIFT)).astype(np.int32)
    tone = tuple(min(c * shade, 255.0) for c in colour)
    cv2.fillPoly(picture, [fixed], tone, cv2.LINE_AA, SHIFT)
