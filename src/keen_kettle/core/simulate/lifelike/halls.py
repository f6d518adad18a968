"""Still halls, laid out in space and seen by the film's own camera: floor, platform, wall, what stands there.

Every hall is a few parts with textures of its own; the light tints all of it and says from where the
lifter is lit.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.camera import Camera

__all__ = ["GLASS_M", "HALLS", "LIGHTS", "WALL_Z_M", "Light", "paint_lifelike_hall"]

Picture = NDArray[np.uint8]
Canvas = NDArray[np.float32]
Array = NDArray[np.float64]
Rng = np.random.Generator
Colour = tuple[float, float, float]

WALL_Z_M = -2.6
WIDE_M, NEAR_M = 6.0, 3.0
GLASS_M = (-0.6, 2.9, 0.25, 2.3)
"""The mirror of the hall that has one: from, to (forward), foot, head."""
PX_A_M = 150
"""Textures of floor and wall have so many pixels a metre."""


@dataclass(frozen=True)
class Light:
    """How a hall is lit: its tint (blue, green, red), and lights on the lifter (strength, way)."""

    tint: Colour
    ambient: float
    lights: tuple[tuple[float, tuple[float, float, float]], ...]
    shadow: float


LIGHTS = {
    "day": Light((1.02, 1.0, 0.97), 0.36, ((0.55, (0.3, 0.8, 0.5)), (0.2, (-0.6, 0.2, 0.7))), 0.45),
    "neon": Light((1.0, 1.02, 0.96), 0.45, ((0.5, (0.0, 0.95, 0.3)),), 0.30),
    "dim": Light((0.52, 0.54, 0.58), 0.26, ((0.32, (-0.4, 0.8, 0.4)),), 0.35),
}


def paint_lifelike_hall(name: str, light: str, camera: Camera, rng: Rng) -> Picture:
    """The still background of a hall of `HALLS` under a light of `LIGHTS`, as the camera sees it."""
    canvas = np.full((camera.height_px, camera.width_px, 3), 46, np.float32)
    HALLS[name](canvas, camera, rng)
    canvas *= np.array(LIGHTS[light].tint, np.float32)
    h, w = canvas.shape[:2]
    fall = np.linspace(1.06, 0.94, h, dtype=np.float32)[:, None, None]
    uneven = cv2.resize(
        rng.normal(0, 1, (5, 7)).astype(np.float32), (w, h), interpolation=cv2.INTER_CUBIC
    )
    canvas *= fall * (1 + 0.05 * uneven[..., None])
    return np.clip(canvas, 0, 255).astype(np.uint8)


# Parts


def _quad(camera: Camera, corners: list[tuple[float, float, float]]) -> Array:
    """Places of corners in space: forward, up, towards the camera."""
    space = np.array(corners)
    return camera.to_px(space[:, :2], space[:, 2])


def _lay(
    canvas: Canvas, camera: Camera, texture: Canvas, corners: list[tuple[float, float, float]]
) -> None:
    """A texture on a flat four-cornered piece of the hall, from its top left corner round."""
    to = _quad(camera, corners).astype(np.float32)
    high, wide = texture.shape[:2]
    source = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], np.float32)
    turn = cv2.getPerspectiveTransform(source, to)
    size = (canvas.shape[1], canvas.shape[0])
    laid = cv2.warpPerspective(texture, turn, size, flags=cv2.INTER_AREA)
    inside = cv2.warpPerspective(np.ones((high, wide), np.float32), turn, size)[..., None]
    canvas[:] = canvas * (1 - inside) + np.asarray(laid, np.float32) * inside


def _grain(rng: Rng, high: int, wide: int, size: float) -> Canvas:
    """Smooth noise of about one, in patches of a size in pixels."""
    small = rng.normal(0, 1, (max(int(high / size), 2), max(int(wide / size), 2)))
    return np.asarray(
        cv2.resize(small.astype(np.float32), (wide, high), interpolation=cv2.INTER_CUBIC)
    )


def _floor(canvas: Canvas, camera: Camera, rng: Rng, base: Colour, speckled: bool = True) -> None:
    wide, deep = int(2 * WIDE_M * PX_A_M), int((NEAR_M - WALL_Z_M) * PX_A_M)
    texture = np.empty((deep, wide, 3), np.float32)
    texture[:] = np.array(base, np.float32) * (1 + 0.12 * _grain(rng, deep, wide, 60))[..., None]
    for _ in range(26000 if speckled else 0):
        x, y = int(rng.integers(0, wide)), int(rng.integers(0, deep))
        tone = rng.uniform(0.6, 2.6)
        colour = tuple(float(tone * one * rng.uniform(0.8, 1.3)) for one in base)
        cv2.circle(texture, (x, y), int(rng.integers(1, 3)), colour, -1)
    _lay(
        *(canvas, camera, texture),
        [(-WIDE_M, 0, WALL_Z_M), (WIDE_M, 0, WALL_Z_M), (WIDE_M, 0, NEAR_M), (-WIDE_M, 0, NEAR_M)],
    )


def _platform(canvas: Canvas, camera: Camera, rng: Rng, tone: Colour = (92, 128, 166)) -> None:
    wide, deep = int(2.6 * PX_A_M), int(2.4 * PX_A_M)
    texture = np.empty((deep, wide, 3), np.float32)
    for top in range(0, deep, 18):
        texture[top : top + 18] = np.array(tone, np.float32) * rng.uniform(0.85, 1.12)
        texture[top : top + 1] *= 0.6
    texture *= (1 + 0.07 * _grain(rng, deep, wide, 14))[..., None]
    _lay(canvas, camera, texture, [(-1.3, 0, -1.2), (1.3, 0, -1.2), (1.3, 0, 1.2), (-1.3, 0, 1.2)])


def _wall(canvas: Canvas, camera: Camera, texture: Canvas) -> None:
    _lay(
        *(canvas, camera, texture),
        [
            *((-WIDE_M, 3.4, WALL_Z_M), (WIDE_M, 3.4, WALL_Z_M)),
            *((WIDE_M, 0, WALL_Z_M), (-WIDE_M, 0, WALL_Z_M)),
        ],
    )


def _plain_wall(rng: Rng, base: Colour) -> Canvas:
    high, wide = int(3.4 * PX_A_M), int(2 * WIDE_M * PX_A_M)
    texture = np.empty((high, wide, 3), np.float32)
    texture[:] = np.array(base, np.float32) * (1 + 0.05 * _grain(rng, high, wide, 90))[..., None]
    return texture


def _brick_wall(rng: Rng, base: Colour) -> Canvas:
    texture = _plain_wall(rng, base)
    high, wide = texture.shape[:2]
    for row, top in enumerate(range(0, high, 13)):
        for left in range((row % 2) * 18, wide, 36):
            texture[top : top + 12, left : left + 34] *= rng.uniform(0.78, 1.18)
        texture[top + 12 : top + 13] *= 0.62
    return texture


def _panel_wall(rng: Rng, base: Colour) -> Canvas:
    texture = _plain_wall(rng, base)
    wide = texture.shape[1]
    left = 0
    while left < wide:
        step = int(rng.uniform(60, 150))
        texture[:, left : left + step] *= rng.uniform(0.86, 1.1)
        texture[:, left : left + 2] *= 0.55
        left += step
    return texture


def _windows(texture: Canvas, rng: Rng, glow: float) -> None:
    """A band of windows with bars; much brighter than the wall."""
    high = texture.shape[0]
    top, foot = int(0.22 * high), int(0.5 * high)
    for left in range(int(rng.integers(20, 90)), texture.shape[1], 210):
        pane = texture[top:foot, left : left + 150]
        pane[:] = np.array((1.02, 1.0, 0.95), np.float32) * glow
        pane *= np.linspace(1.08, 0.85, foot - top, dtype=np.float32)[:, None, None]
        for share in (0.0, 0.5, 0.985):
            at = left + int(share * 149)
            texture[top:foot, at : at + 3] = 60
        texture[(top + foot) // 2 : (top + foot) // 2 + 3, left : left + 150] = 60


def _post(canvas: Canvas, camera: Camera, x: float, z: float, high: float, tone: Colour) -> None:
    foot, head = _quad(camera, [(x, 0, z), (x, high, z)])
    thick = max(int(0.055 * camera.scale_at(z)), 1)
    cv2.line(canvas, _at(foot), _at(head), tone, thick, cv2.LINE_AA)


def _beam(
    canvas: Canvas, camera: Camera, x0: float, x1: float, y: float, z: float, tone: Colour
) -> None:
    first, last = _quad(camera, [(x0, y, z), (x1, y, z)])
    cv2.line(
        canvas, _at(first), _at(last), tone, max(int(0.045 * camera.scale_at(z)), 1), cv2.LINE_AA
    )


def _at(place: Array) -> tuple[int, int]:
    return int(np.clip(place[0], -20000, 20000)), int(np.clip(place[1], -20000, 20000))


def _round(
    canvas: Canvas, camera: Camera, x: float, y: float, z: float, r: float, tone: Colour
) -> None:
    """A plate on a peg: face, ring, hub."""
    centre = _quad(camera, [(x, y, z)])[0]
    size = r * camera.scale_at(z)
    narrow = float(np.cos(np.radians(camera.yaw_deg)))
    for share, shade in ((1.0, 0.75), (0.95, 1.0), (0.8, 0.8), (0.42, 1.25), (0.16, 1.9)):
        colour = tuple(float(np.clip(shade * one, 0, 255)) for one in tone)
        axes = (max(int(share * size * narrow), 1), max(int(share * size), 1))
        cv2.ellipse(canvas, _at(centre), axes, 0, 0, 360, colour, -1, cv2.LINE_AA)


def _rack(
    canvas: Canvas, camera: Camera, rng: Rng, x: float, z: float, rounds: int, tone: Colour
) -> None:
    """Uprights with plates on pegs in two rows."""
    steel = (44.0, 42.0, 40.0)
    for at in (x, x + 1.1):
        _post(canvas, camera, at, z, 2.3, steel)
    for y in (0.3, 1.1, 2.25):
        _beam(canvas, camera, x, x + 1.1, y, z, steel)
    for k in range(rounds):
        r = float(rng.choice([0.225, 0.225, 0.16, 0.12]))
        at = x + 0.14 + 0.42 * (k % 3) + rng.uniform(-0.04, 0.04)
        y = 0.27 + 0.72 * (k // 3) + rng.uniform(-0.03, 0.03)
        shade = rng.uniform(0.7, 1.3)
        colour = tuple(float(shade * one) for one in tone)
        _round(canvas, camera, at, y, z + 0.1, r, colour)  # type: ignore[arg-type]


def _lattice(canvas: Canvas, camera: Camera, rng: Rng, z: float, count: int) -> None:
    """Bars, cables and handles of machines: many straight edges at every angle."""
    for _ in range(count):
        x, y = rng.uniform(-4.5, 4.5), rng.uniform(0.1, 2.4)
        way = rng.normal(0, 0.5, 2)
        if rng.uniform() < 0.75:  # most of it stands or lies
            way[int(rng.integers(0, 2))] *= 0.06
        ends = _quad(camera, [(x, y, z), (x + way[0], max(y + way[1], 0.0), z)])
        tone = float(rng.uniform(25, 150))
        colour = (tone, tone * rng.uniform(0.9, 1.1), tone * rng.uniform(0.85, 1.1))
        thick = max(int(rng.uniform(0.015, 0.06) * camera.scale_at(z)), 1)
        cv2.line(canvas, _at(ends[0]), _at(ends[1]), colour, thick, cv2.LINE_AA)


def _boxes(canvas: Canvas, camera: Camera, rng: Rng, z: float, count: int) -> None:
    for _ in range(count):
        x, wide, high = rng.uniform(-4, 4), rng.uniform(0.2, 0.8), rng.uniform(0.2, 0.9)
        corners = _quad(camera, [(x, high, z), (x + wide, high, z), (x + wide, 0, z), (x, 0, z)])
        tone = tuple(float(one) for one in rng.uniform(30, 170, 3))
        cv2.fillConvexPoly(canvas, np.round(corners).astype(np.int32), tone, cv2.LINE_AA)
        cv2.polylines(
            canvas, [np.round(corners).astype(np.int32)], True, (40, 40, 40), 1, cv2.LINE_AA
        )


# Halls


def _tidy(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    _wall(canvas, camera, _plain_wall(rng, (168, 172, 174)))
    _floor(canvas, camera, rng, (64, 66, 66), speckled=False)
    _platform(canvas, camera, rng)


def _rubber(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    _wall(canvas, camera, _panel_wall(rng, (120, 124, 128)))
    _floor(canvas, camera, rng, (42, 42, 44))
    _rack(canvas, camera, rng, -2.6, -2.2, 6, (46, 46, 48))


def _racks(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    _wall(canvas, camera, _brick_wall(rng, (112, 122, 132)))
    _floor(canvas, camera, rng, (40, 41, 43))
    _platform(canvas, camera, rng, (78, 108, 142))
    for x, tone in (
        (-3.2, (44, 44, 150)),
        (-1.6, (50, 48, 46)),
        (0.4, (150, 84, 44)),
        (1.9, (50, 48, 46)),
    ):
        _rack(canvas, camera, rng, x, -2.1, 6, tone)


def _daylight(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    wall = _plain_wall(rng, (104, 108, 112))
    _windows(wall, rng, 236)
    _wall(canvas, camera, wall)
    _floor(canvas, camera, rng, (48, 50, 52))
    _platform(canvas, camera, rng)
    _boxes(canvas, camera, rng, -2.3, 5)


def _bricks(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    _wall(canvas, camera, _brick_wall(rng, (84, 98, 138)))
    _floor(canvas, camera, rng, (58, 60, 60))
    _boxes(canvas, camera, rng, -2.2, 4)


def _machines(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    _wall(canvas, camera, _plain_wall(rng, (92, 94, 98)))
    _floor(canvas, camera, rng, (38, 39, 41))
    _lattice(canvas, camera, rng, -2.2, 260)
    _rack(canvas, camera, rng, -1.4, -1.9, 6, (48, 48, 48))
    _lattice(canvas, camera, rng, -1.8, 90)


def _mirror(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    _wall(canvas, camera, _panel_wall(rng, (136, 138, 140)))
    _floor(canvas, camera, rng, (46, 46, 48))
    glass = _plain_wall(rng, (98, 100, 102))[:300, :520]
    glass[150:] = glass[150:] * 0.55
    for _ in range(40):
        a, b = rng.integers(0, 520, 2), rng.integers(0, 300, 2)
        tone = float(rng.uniform(40, 170))
        cv2.line(
            glass,
            (int(a[0]), int(b[0])),
            (int(a[1]), int(b[1])),
            (tone, tone, tone),
            3,
            cv2.LINE_AA,
        )
    glass = np.asarray(cv2.GaussianBlur(glass, (0, 0), 1.5), np.float32)
    z = WALL_Z_M + 0.02
    left, right, foot, head = GLASS_M
    _lay(
        canvas,
        camera,
        glass,
        [(left, head, z), (right, head, z), (right, foot, z), (left, foot, z)],
    )
    _rack(canvas, camera, rng, -2.7, -2.2, 6, (60, 110, 60))


def _garage(canvas: Canvas, camera: Camera, rng: Rng) -> None:
    _wall(canvas, camera, _panel_wall(rng, (96, 102, 104)))
    _floor(canvas, camera, rng, (76, 80, 84), speckled=False)
    _boxes(canvas, camera, rng, -2.4, 9)
    _lattice(canvas, camera, rng, -2.3, 50)


HALLS: dict[str, Callable[[Canvas, Camera, Rng], None]] = {
    "tidy": _tidy,
    "rubber": _rubber,
    "racks": _racks,
    "daylight": _daylight,
    "bricks": _bricks,
    "machines": _machines,
    "mirror": _mirror,
    "garage": _garage,
}
"""What stands behind the lifter, by name."""
