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

__all__ = ["WEIGHTS", "crop_of", "judge_circles", "judge_is_there"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS = Path(__file__).parent / "weights" / "plate-judge.tflite"
CROP_PX, REACH = 48, 1.6
"""A crop's side in pixels, and how many radii it reaches from its centre to each side."""
SOFT_UNDER, SOFTNESS = 0.7, 0.4
"""A crop that is so much smaller than the picture is softened first, or fine patterns alias."""
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
    crops = np.stack([crop_of(picture, *map(float, one)) for one in circles])
    said = _run(network, _evened(crops))
    sure = 1 / (1 + np.exp(-np.clip(said[:, 0], -30, 30)))
    step = np.clip(said[:, 1:], -MOST_MENDED, MOST_MENDED)
    mended = np.array(circles, float)
    mended[:, :2] += step[:, :2] * mended[:, 2:]
    mended[:, 2] *= np.exp(step[:, 2])
    return sure, mended


def crop_of(picture: Picture, x: float, y: float, r: float) -> Picture:
    """The square round a circle as the net sees it, shape (CROP_PX, CROP_PX, 3); beyond the picture its
    edge is repeated."""
    k = CROP_PX / (2 * REACH * r)
    reach = REACH * r + 3
    high, wide = picture.shape[:2]
    left, right = (int(min(max(x + side * reach, 0), wide)) for side in (-1, 1))
    top, foot = (int(min(max(y + side * reach, 0), high)) for side in (-1, 1))
    room = picture[max(top - 1, 0) : foot + 1, max(left - 1, 0) : right + 1]
    if not room.size:
        return np.zeros((CROP_PX, CROP_PX, 3), np.uint8)
    if k < SOFT_UNDER:
        room = np.asarray(cv2.GaussianBlur(room, (0, 0), SOFTNESS / k), np.uint8)
    x, y = x - max(left - 1, 0), y - max(top - 1, 0)
    matrix = np.array([[k, 0, CROP_PX / 2 - k * x], [0, k, CROP_PX / 2 - k * y]])
    size = (CROP_PX, CROP_PX)
    made = cv2.warpAffine(room, matrix, size, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(made, np.uint8)


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
