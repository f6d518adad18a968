"""Still halls, seen by the film's own camera: a floor, and what stands at the back.

Both are flat pictures, traced once with the light of lamps and windows (`./kettle bench halls`), and laid
where they are in space. Chance picks what part of a hall is seen and how its picture is toned; the light
tints all of it and says from where the lifter is lit.
"""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.camera import Camera

__all__ = ["BACK_Z_M", "GLASS_M", "HALLS", "LIGHTS", "WALL_Z_M", "Light", "paint_lifelike_hall"]

Picture = NDArray[np.uint8]
Canvas = NDArray[np.float32]
Array = NDArray[np.float64]
Rng = np.random.Generator
Corner = tuple[float, float, float]

STILLS = Path(__file__).with_name("stills")
BACK_PX_A_M, FLOOR_PX_A_M = 160, 125
HALF_M, HIGH_M, NEAR_M = 5.8, 3.1, 3.4
"""Pictures of halls reach so far to both sides, up, and towards the camera; beyond, they go on:
mirrored to the sides, and upward as their uppermost row is."""
BACK_Z_M = -2.25
"""The plane on which all that stands at the back is laid."""
EYE_M = (0.0, 1.1, 5.0)
"""From where the back was traced."""
WALL_Z_M = -2.9
_SHRUNK = (EYE_M[2] - BACK_Z_M) / (EYE_M[2] - WALL_Z_M)
MIRROR_ASIDE_M = -0.5
"""The hall with the mirror stands so far aside, so that the lifter is before the glass."""
GLASS_M = (
    *(MIRROR_ASIDE_M + x * _SHRUNK for x in (0.1, 3.2)),
    *(EYE_M[1] + (y - EYE_M[1]) * _SHRUNK for y in (0.2, 2.2)),
)
"""The mirror of the hall that has one, on the plane of the back: from, to (across), foot, head."""
HALLS = ("tidy", "rubber", "racks", "daylight", "bricks", "machines", "mirror", "garage")
"""What stands behind the lifter, by name."""
MOST_ASIDE_M = 0.3
"""A lifter stands so far beside the middle of the platform at most."""


@dataclass(frozen=True)
class Light:
    """How a hall is lit: its tint (blue, green, red), and lights on the lifter (strength, way)."""

    tint: tuple[float, float, float]
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
    aside = float(rng.uniform(-MOST_ASIDE_M, MOST_ASIDE_M))
    turned = bool(rng.integers(0, 2))
    if name == "mirror":  # where its glass is must be known
        aside, turned = MIRROR_ASIDE_M, False
    left, right = aside - HALF_M, aside + HALF_M
    _lay(
        *(canvas, camera, _still(name, "back", turned)),
        [
            *((left, HIGH_M, BACK_Z_M), (right, HIGH_M, BACK_Z_M)),
            *((right, 0, BACK_Z_M), (left, 0, BACK_Z_M)),
        ],
    )
    _lay(
        *(canvas, camera, _still(name, "floor", turned)),
        [(left, 0, BACK_Z_M), (right, 0, BACK_Z_M), (right, 0, NEAR_M), (left, 0, NEAR_M)],
        begins=True,
    )
    return _toned(canvas, LIGHTS[light], rng)


def _toned(canvas: Canvas, light: Light, rng: Rng) -> Picture:
    """As this camera takes it: brighter or darker, tinted, uneven to the corners."""
    level = np.clip(canvas / 255, 0, 1) ** float(rng.uniform(0.88, 1.14))
    level *= 255 * np.array(light.tint, np.float32) * rng.uniform(0.96, 1.04, 3).astype(np.float32)
    high, wide = level.shape[:2]
    fall = np.linspace(1.06, 0.94, high, dtype=np.float32)[:, None, None]
    small = rng.normal(0, 1, (5, 7)).astype(np.float32)
    uneven = np.asarray(cv2.resize(small, (wide, high), interpolation=cv2.INTER_CUBIC))
    return np.clip(level * fall * (1 + 0.05 * uneven[..., None]), 0, 255).astype(np.uint8)


@lru_cache(maxsize=8)
def _still(name: str, part: str, turned: bool) -> Canvas:
    picture = cv2.imread(str(STILLS / f"{name}-{part}.webp"))
    assert picture is not None
    return np.asarray(picture[:, ::-1] if turned else picture, np.float32)


def _lay(
    canvas: Canvas, camera: Camera, texture: Canvas, corners: list[Corner], begins: bool = False
) -> None:
    """A texture on a flat four-cornered piece of the hall, from its top left corner round, and what
    goes on beyond its edges (but not over the first, where it `begins` there).

    The hall does not turn round with the lifter: its corners are across the picture, not forward.
    """
    space = np.array(corners)
    if camera.facing == "left":
        space[:, 0] *= -1
    to = camera.to_px(space[:, :2], space[:, 2]).astype(np.float32)
    seen = camera.to_px(space[:2, :2].mean(axis=0) * [1, 0], BACK_Z_M)
    high, wide = texture.shape[:2]
    source = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], np.float32)
    back = np.linalg.inv(cv2.getPerspectiveTransform(source, to))
    x, y = np.arange(canvas.shape[1]), np.arange(canvas.shape[0])[:, None]
    u, v, deep = (row[0] * x + row[1] * y + row[2] for row in back)
    # A part of the piece may be behind the camera; the place `seen` is before it.
    mine = deep * (back[2] @ np.array([*seen, 1.0])) > 0
    if begins:
        mine &= v / deep >= 0
    across = _mirrored(u / deep, wide)
    down = np.maximum(_mirrored(v / deep, high) if begins else v / deep, 0).astype(np.float32)
    laid = cv2.remap(texture, across, down, cv2.INTER_LINEAR)
    canvas[mine] = laid[mine]


def _mirrored(at: Array, long: int) -> Canvas:
    """Places along a texture of this length that goes on mirrored beyond both its ends."""
    last = long - 1
    return np.asarray(np.abs((at + last) % (2 * last) - last), np.float32)
