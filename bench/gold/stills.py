"""Traces the halls that the quick painter lays behind its lifters: `python -m bench.gold.stills VARIANT`.

Each hall is two flat pictures: its floor seen straight from above, and all that stands at its back, laid
on an upright plane as seen from where a camera usually stands.
"""

import sys
from dataclasses import replace

import cv2
import mitsuba as mi
import numpy as np
from numpy.typing import NDArray

mi.set_variant(sys.argv[1] if len(sys.argv) > 1 else "scalar_rgb")

from bench.gold.rooms import GLASS, HALF, HIGH, ROOMS, Room, room_shapes  # noqa: E402
from keen_kettle.core.simulate.lifelike.halls import (  # noqa: E402
    BACK_PX_A_M,
    BACK_Z_M,
    EYE_M,
    FLOOR_PX_A_M,
    HALF_M,
    HIGH_M,
    NEAR_M,
    STILLS,
)

Light = NDArray[np.float32]

RAYS, ROUNDS, BOUNCES = 64, 3, 5
QUALITY = 82
HALLS: dict[str, tuple[Room, float]] = {
    "tidy": (replace(ROOMS["bright"], window=0.0, boxes=0, lamp=8.0), 0.42),
    "rubber": (
        Room((0.26, 0.26, 0.27), False, platform=False, racks=(-2.7,), boxes=1, seed=12),
        0.19,
    ),
    "racks": (ROOMS["racks"], 0.17),
    "daylight": (ROOMS["glass"], 0.15),
    "bricks": (
        Room((0.36, 0.17, 0.11), True, (0.05, 0.05, 0.052), False, boxes=4, seed=15),
        0.14,
    ),
    "machines": (ROOMS["machines"], 0.09),
    "mirror": (ROOMS["mirror"], 0.19),
    "garage": (replace(ROOMS["cellar"], lattice=24, lamp=5.0), 0.10),
}
"""What stands in each, and how bright the middle of its back is taken (share of white)."""


def trace(room: Room) -> tuple[Light, Light]:
    """(back, floor) as light, rows top-down."""
    shapes = room_shapes(room)
    light = {"type": "path", "max_depth": BOUNCES}
    scene = mi.load_dict({"type": "scene", "integrator": light, **shapes})
    back = _many(scene, _from_the_front())
    floor = _many(scene, _from_above())
    return back, floor


def _many(scene: object, sensor: object) -> Light:
    rounds = [
        np.minimum(np.array(mi.render(scene, sensor=sensor, spp=RAYS, seed=k)), 40.0)
        for k in range(ROUNDS)
    ]
    return np.asarray(np.mean(rounds, axis=0), np.float32)


def _from_the_front() -> object:
    x, y, z = EYE_M
    wide, high = round(2 * HALF_M * BACK_PX_A_M), round(HIGH_M * BACK_PX_A_M)
    away = z - BACK_Z_M
    return mi.load_dict(
        {
            "type": "perspective",
            "fov": float(np.degrees(2 * np.arctan(HALF_M / away))),
            "fov_axis": "x",
            "principal_point_offset_x": 0.0,
            "principal_point_offset_y": float((y - HIGH_M / 2) / HIGH_M),
            "to_world": mi.ScalarTransform4f().look_at([x, y, z], [x, y, 0], [0, 1, 0]),
            "film": _film(wide, high),
            "sampler": {"type": "independent"},
        }
    )


def _from_above() -> object:
    deep = NEAR_M - BACK_Z_M
    wide, high = round(2 * HALF_M * FLOOR_PX_A_M), round(deep * FLOOR_PX_A_M)
    to_world = mi.ScalarTransform4f
    middle = (NEAR_M + BACK_Z_M) / 2
    look = to_world().look_at([0, 0.03, middle], [0, 0, middle], [0, 0, -1])
    return mi.load_dict(
        {
            "type": "orthographic",
            "near_clip": 0.001,
            "to_world": look @ to_world().scale([HALF_M, HALF_M, 1]),
            "film": _film(wide, high),
            "sampler": {"type": "independent"},
        }
    )


def _film(wide: int, high: int) -> dict[str, object]:
    return {
        "type": "hdrfilm",
        "width": wide,
        "height": high,
        "rfilter": {"type": "box"},
        "pixel_format": "rgb",
        "component_format": "float32",
    }


def developed(light: Light, gain: float) -> NDArray[np.uint8]:
    """Display values (blue, green, red) with a soft shoulder."""
    level = light * gain
    level = np.where(level < 0.8, level, 0.8 + 0.2 * np.tanh((level - 0.8) / 0.35))
    shown = np.where(
        level <= 0.0031308, 12.92 * level, 1.055 * np.maximum(level, 1e-6) ** (1 / 2.4) - 0.055
    )
    return np.ascontiguousarray((255 * np.clip(shown, 0, 1) + 0.5).astype(np.uint8)[..., ::-1])


def make(name: str) -> None:
    assert HALF_M < HALF and HIGH_M <= HIGH and GLASS[0][2] < BACK_Z_M
    room, key = HALLS[name]
    back, floor = trace(room)
    high, wide = back.shape[:2]
    gain = key / float(np.median(back[high // 4 : -high // 5, wide // 4 : -wide // 4]))
    for part, light in (("back", back), ("floor", floor)):
        file = STILLS / f"{name}-{part}.webp"
        cv2.imwrite(str(file), developed(light, gain), [cv2.IMWRITE_WEBP_QUALITY, QUALITY])
        print(file.name, f"{file.stat().st_size / 1000:.0f} kB", flush=True)


if __name__ == "__main__":
    for one in sys.argv[2:] or HALLS:
        make(one)
