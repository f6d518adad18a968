"""Paints the still hall behind the lifter: wall, windows, shelf, platform, and racked plates if wanted."""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.camera import Camera
from keen_kettle.core.simulate.scene import Look, Picture, paint_plate

__all__ = ["paint_hall"]


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
    if look.racked:
        _paint_rack(hall, camera, look)
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


def _paint_rack(hall: NDArray[np.float32], camera: Camera, look: Look) -> None:
    """Plates like those on the bar, in two rows on the wall."""
    k = camera.px_per_m
    flat = Camera(camera.width_px, camera.height_px, k, camera.floor_px, camera.middle_px)
    for y_m in (0.32, 1.12):
        beam = int(camera.floor_px - (y_m - 0.26) * k)
        cv2.rectangle(hall, (0, beam), (camera.width_px, beam + int(0.03 * k)), (70, 74, 80), -1)
        for step in range(-6, 7):
            spot = np.array([0.52 * step + 0.2, y_m])
            paint_plate(hall, flat, spot, 0.0, 0.7 * step, look, dim=0.9)  # type: ignore[arg-type]
