"""Teaches the reader of rims anew: `./kettle bench rim-reader`.

Scenes with a plate are drawn, squares round rough and nearer circles are cut out and told what the rim's
outline is; then a small net is trained on them in an environment of its own.
"""

import cv2
import numpy as np

from bench.net_making import PORTION, Rows, make_net
from bench.plate_scenes import Scene, draw_scene
from keen_kettle.core.track.rim_reader import CROP_PX, REACH
from keen_kettle.core.track.small_nets import crops_of

__all__ = ["report_rim_reader"]

SCENES, HELD_BACK, SEED = 30_000, 1_500, 11
OFFS = ((0.14, 0.14), (0.14, 0.14), (0.05, 0.05), (0.05, 0.05))
"""How far the circles lie off the rim: one sigma of their place (each way) and of the size's logarithm."""


def rows_of(portion: int) -> Rows:
    """Crops and the outline in each, shape (n, 5): the rim's centre and the logarithm of its half height as
    shares of the circle's radius, and how much it is narrower, along and across (see `told`)."""
    cv2.setNumThreads(1)
    dice = np.random.default_rng([SEED, portion])
    crops, rows = [], []
    for _ in range(PORTION):
        scene = draw_scene(dice, plate=True, dressed=True)
        assert scene.plate is not None
        x, y, r = scene.plate
        circles = [
            (x + dx * r, y + dy * r, r * float(np.exp(dice.normal(0, size))))
            for place, size in OFFS
            for dx, dy in [dice.normal(0, place, 2)]
        ]
        crops.append(crops_of(scene.picture, np.array(circles), CROP_PX, REACH))
        rows += [told(scene, *circle) for circle in circles]
    return np.concatenate(crops), np.array(rows, np.float32)


def told(scene: Scene, x: float, y: float, r: float) -> tuple[float, ...]:
    assert scene.plate is not None
    px, py, high = scene.plate
    less, turn = 1 - scene.narrow, 2 * np.radians(scene.tilt)
    off = (px - x) / r, (py - y) / r, float(np.log(high / r))
    return *off, float(less * np.cos(turn)), float(less * np.sin(turn))


def report_rim_reader() -> None:
    """Draw, train, and put the net and its card where the program looks for them."""
    make_net("rim-reader", "rim_training", rows_of, SCENES, HELD_BACK)
