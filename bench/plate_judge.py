"""Teaches the judge of plates anew: `./kettle bench plate-judge`.

Scenes are drawn, circles in them cut out and told (a rim, none, where the rim is); then a small net is
trained on them in an environment of its own (TensorFlow, which the program never needs).
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.net_making import PORTION, Rows, make_net
from bench.plate_scenes import draw_scene
from keen_kettle.core.track.plate_judge import CROP_PX, REACH
from keen_kettle.core.track.small_nets import crops_of

SCENES, HELD_BACK, SEED = 20_000, 1_500, 7
RIGHT_PLACE, RIGHT_SIZE = 0.15, 0.12
"""Within so much of the radius, in place and in the logarithm of its size, a circle is a rim;"""
NEAR_PLACE, NEAR_SIZE = 0.30, 0.24
"""beyond so much it is none; between, neither is taught."""
MENDED_PLACE, MENDED_SIZE = 0.42, 0.36
"""So far off it is told where the rim lies."""


def rows_of(portion: int) -> Rows:
    """Crops and what they are: [is a rim, taught, place and size of the rim, mended]."""
    cv2.setNumThreads(1)
    dice = np.random.default_rng([SEED, portion])
    crops, told = [], []
    for _ in range(PORTION):
        scene = draw_scene(dice, plate=bool(dice.uniform() < 0.75))
        round_about = _circles(dice, scene.plate, scene.picture.shape[0])
        circles = [*round_about, *_on_others(dice, scene.others)]
        crops.append(crops_of(scene.picture, np.array(circles), CROP_PX, REACH))
        told += [_told(x, y, r, scene.plate) for x, y, r in circles]
    return np.concatenate(crops), np.array(told, np.float32)


def _circles(
    dice: np.random.Generator, plate: tuple[float, float, float] | None, side: int
) -> list[tuple[float, float, float]]:
    if plate is None:
        sizes = dice.uniform(14, 46, 4)
        places = side / 2 + dice.normal(0, 26, (4, 2))
        return [(float(x), float(y), float(one)) for (x, y), one in zip(places, sizes, strict=True)]
    x, y, r = plate
    made = []
    for place, size in (
        (dice.normal(0, 0.05, 2), dice.normal(0, 0.04)),
        (dice.normal(0, 0.08, 2), dice.normal(0, 0.06)),
        (dice.uniform(-0.35, 0.35, 2), dice.uniform(-0.33, 0.33)),
        (dice.uniform(-0.35, 0.35, 2), dice.uniform(-0.33, 0.33)),
        (dice.normal(0, 0.06, 2), np.log(dice.uniform(0.25, 0.72))),
        (dice.normal(0, 0.2, 2), np.log(dice.uniform(1.35, 2.4))),
        (_aside(dice), np.log(dice.uniform(0.5, 1.5))),
    ):
        made.append((x + place[0] * r, y + place[1] * r, float(r * np.exp(size))))
    return made


def _on_others(
    dice: np.random.Generator, others: tuple[tuple[float, float, float], ...]
) -> list[tuple[float, float, float]]:
    """Circles on what is round but no plate: balls and bells, from which plates are hardest to tell."""
    return [
        (x + dx * r, y + dy * r, r * float(np.exp(size)))
        for x, y, r in others
        for (dx, dy), size in zip(
            dice.normal(0, 0.06, (3, 2)), dice.normal(0, 0.08, 3), strict=True
        )
    ]


def _aside(dice: np.random.Generator) -> NDArray[np.float64]:
    turn = dice.uniform(0, 2 * np.pi)
    return dice.uniform(0.4, 1.6) * np.array([np.cos(turn), np.sin(turn)])


def _told(
    x: float, y: float, r: float, plate: tuple[float, float, float] | None
) -> tuple[float, ...]:
    if plate is None:
        return 0.0, 1.0, 0.0, 0.0, 0.0, 0.0
    dx, dy, size = (plate[0] - x) / r, (plate[1] - y) / r, float(np.log(plate[2] / r))
    off = float(np.hypot(dx, dy))
    right = off < RIGHT_PLACE and abs(size) < RIGHT_SIZE
    taught = right or off > NEAR_PLACE or abs(size) > NEAR_SIZE
    mended = off < MENDED_PLACE and abs(size) < MENDED_SIZE
    return float(right), float(taught), dx, dy, size, float(mended)


def report_plate_judge() -> None:
    """Draw, train, and put the net and its card where the program looks for them."""
    make_net("plate-judge", "plate_training", rows_of, SCENES, HELD_BACK)
