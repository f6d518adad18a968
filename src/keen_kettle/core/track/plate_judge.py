"""Says of a circle in a picture how surely it is a plate's rim, and where the rim near it lies.

A small net, taught on drawn scenes (see `weights/README.md`), looks at the square round each circle. It
knows what a plate looks like where edges say little: dark before dark, cut by the picture's edge, a
hub that is louder than the rim. It never decides alone: what it names must travel, and its rim must
be found in the film.
"""

from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["WEIGHTS", "crops_of", "judge_circles", "judge_is_there"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS = Path(__file__).parent / "weights" / "plate-judge.tflite"
CROP_PX, REACH = 48, 1.6
"""A crop's side in pixels, and how many radii it reaches from its centre to each side."""
SOFT_UNDER, SOFTNESS, SOFT_STEP = 0.7, 0.4, 1.15
"""A crop that is so much smaller than the picture is softened first, or fine patterns alias; those that are
smaller by up to one such step together."""
EVEN_LEVELS = 6.0
BATCH, INPUT = 16, (CROP_PX, CROP_PX, 3)
MOST_MENDED = 0.45


def judge_circles(picture: Picture, circles: Array) -> tuple[Array, Array]:
    """How surely circles are rims, and the rims near them.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    circles : shape (n, 3), centre and radius in pixels

    Returns
    -------
    sure (n,), 0 to 1, and mended circles (n, 3). Where the library that runs the net is missing, nothing
    is sure and nothing is mended.
    """
    network = _network()
    if network is None or not len(circles):
        return np.zeros(len(circles)), np.array(circles, float).reshape(-1, 3)
    said = _run(network, _evened(crops_of(picture, circles)))
    sure = 1 / (1 + np.exp(-np.clip(said[:, 0], -30, 30)))
    step = np.clip(said[:, 1:], -MOST_MENDED, MOST_MENDED)
    mended = np.array(circles, float)
    mended[:, :2] += step[:, :2] * mended[:, 2:]
    mended[:, 2] *= np.exp(step[:, 2])
    return sure, mended


def crops_of(picture: Picture, circles: Array) -> Picture:
    """The squares round circles (n, 3) as the net sees them, shape (n, CROP_PX, CROP_PX, 3); beyond the
    picture its edge is repeated."""
    made = np.zeros((len(circles), CROP_PX, CROP_PX, 3), np.uint8)
    smaller = CROP_PX / (2 * REACH * circles[:, 2])
    step = np.rint(np.log(smaller) / np.log(SOFT_STEP))
    step[smaller >= SOFT_UNDER] = 0
    for one in np.unique(step):
        among = np.flatnonzero(step == one)
        room, left, top = _room_round(picture, circles[among])
        if one:
            room = np.asarray(cv2.GaussianBlur(room, (0, 0), SOFTNESS / SOFT_STEP**one), np.uint8)
        for n in among:
            (x, y, _), k = circles[n], smaller[n]
            begin = CROP_PX / 2 - k * np.array([x - left, y - top])
            matrix = np.array([[k, 0, begin[0]], [0, k, begin[1]]])
            size, edge = (CROP_PX, CROP_PX), cv2.BORDER_REPLICATE
            made[n] = cv2.warpAffine(room, matrix, size, borderMode=edge)
    return made


def _room_round(picture: Picture, circles: Array) -> tuple[Picture, int, int]:
    """The part of the picture round all circles (n, 3), and where its left and top edges are."""
    reach = REACH * circles[:, 2] + 4
    high, wide = picture.shape[:2]
    left, top = (int((circles[:, k] - reach).min()) for k in (0, 1))
    right, foot = (int((circles[:, k] + reach).max()) + 1 for k in (0, 1))
    left, right = min(max(left, 0), wide - 1), min(max(right, 1), wide)
    top, foot = min(max(top, 0), high - 1), min(max(foot, 1), high)
    return picture[top:foot, left:right], left, top


def judge_is_there() -> bool:
    """Whether the library that runs the net is installed."""
    return _network() is not None


def _evened(crops: Picture) -> NDArray[np.float32]:
    """Crops without their light: the mean colour taken out, divided by the spread of all three."""
    flat = crops.reshape(len(crops), -1, 3).astype(np.float32)
    flat -= np.full((1, flat.shape[1]), 1 / flat.shape[1], np.float32) @ flat
    spread = np.sqrt(np.einsum("npc,npc->n", flat, flat) / flat[0].size)
    return np.asarray(
        (flat / (spread + EVEN_LEVELS)[:, None, None]).reshape(crops.shape), np.float32
    )


@lru_cache(maxsize=1)
def _network() -> Any | None:
    try:
        from ai_edge_litert.interpreter import Interpreter  # 0.2 s, and needed only here
    except ImportError:
        return None
    network = Interpreter(str(WEIGHTS), num_threads=1)
    network.resize_tensor_input(network.get_input_details()[0]["index"], (BATCH, *INPUT))
    network.allocate_tensors()
    return network


def _run(network: Any, crops: NDArray[np.float32]) -> NDArray[np.float32]:
    """What the net says of each crop, shape (n, 4); it is asked for so many at once, the last ones padded."""
    entry = network.get_input_details()[0]["index"]
    out = network.get_output_details()[0]["index"]
    said = []
    for first in range(0, len(crops), BATCH):
        part = crops[first : first + BATCH]
        whole = np.zeros((BATCH, *INPUT), np.float32)
        whole[: len(part)] = part
        network.set_tensor(entry, whole)
        network.invoke()
        said.append(np.array(network.get_tensor(out))[: len(part)])
    return np.concatenate(said)
