"""Says of a circle in a picture how surely it is a plate's rim, and where the rim near it lies.

A small net, taught on drawn scenes (see `weights/plate-judge.md`), looks at the square round each circle. It
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

from keen_kettle.core.track.rounds import Round, colour_round

__all__ = [
    "CROP_PX",
    "REACH",
    "WEIGHTS",
    "crop_of",
    "judge_circles",
    "judged_rounds",
    "plate_in_column",
]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS = Path(__file__).parent / "weights" / "plate-judge.tflite"
CROP_PX, REACH = 48, 1.6
"""A crop's side in pixels, and how many radii it reaches from its centre to each side."""
SOFT_UNDER, SOFTNESS = 0.7, 0.4
"""A crop that is so much smaller than the picture is softened first, or fine patterns alias."""
EVEN_LEVELS = 6.0
BATCH, INPUT = 32, (CROP_PX, CROP_PX, 3)
MOST_MENDED = 0.45
SCALES = np.array([1.0, 1.4, 1.9, 2.6, 3.6])
"""What is round may be a hub: rims are looked for round it, so many times as large."""
LARGEST, MAYBE, SURE = 0.26, 0.25, 0.4
SAME_PLACE, SAME_SIZE = 0.35, 0.3
PLAIN_VOTE, SURE_VOTE = 0.1, 0.6
MOST = 6
SCAN, SCANNED, LEAST_MOVING = 0.3, (-0.5, -0.2, 0.1, 0.4), 0.05
"""How closely a column is looked through, and how far aside of it (radii)."""


def judged_rounds(picture: Picture, found: list[Round]) -> list[Round]:
    """Round things and the rims round them that look like plates', the surest first; the others after them.

    What looks like a plate votes by how surely it does.
    """
    if not found or _network() is None:
        return found
    most = LARGEST * min(picture.shape[:2])
    tries = np.array([(one.x, one.y, one.r * k) for one in found for k in SCALES])
    sure, mended = judge_circles(picture, tries[tries[:, 2] <= most])
    maybe = mended[(sure > MAYBE) & (mended[:, 2] <= most)]
    sure, mended = judge_circles(picture, maybe)
    kept: list[Round] = []
    for k in np.argsort(sure)[::-1]:
        if sure[k] < SURE or len(kept) == MOST:
            break
        x, y, r = (float(one) for one in mended[k])
        if not any(_alike(x, y, r, one) for one in kept):
            vote = PLAIN_VOTE + SURE_VOTE * float(sure[k])
            kept.append(Round(x, y, r, vote, colour_round(picture, x, y, r), float(sure[k])))
    return [*kept, *(one for one in found if not any(_alike(one.x, one.y, one.r, k) for k in kept))]


def plate_in_column(
    picture: Picture, moving: NDArray[np.float32], laid: Array, x: float, r: float
) -> Round | None:
    """The plate of a size that moves near a column, the surest; None where nothing there looks like one.

    `laid` (2, 3) leads from this picture to the place in which the column `x` is known.
    """
    high, wide = picture.shape[:2]
    rows = np.arange(0.2 * r, high, SCAN * r)
    back = cv2.invertAffineTransform(laid)
    column = back[0, 0] * x + back[0, 1] * rows + back[0, 2]
    tries = np.concatenate(
        [np.column_stack([column + k * r, rows, np.full(len(rows), r)]) for k in SCANNED]
    )
    inside = (tries[:, 0] > 0) & (tries[:, 0] < wide)
    tries = tries[inside]
    about = cv2.blur(moving, (max(int(r), 1), max(int(r), 1)))
    tries = tries[about[tries[:, 1].astype(int), tries[:, 0].astype(int)] > LEAST_MOVING]
    sure, mended = judge_circles(picture, tries)
    sure, mended = judge_circles(picture, mended[sure > MAYBE])
    fits = np.abs(np.log(mended[:, 2] / r)) < SAME_SIZE if len(mended) else np.zeros(0, bool)
    if not fits.any() or sure[fits].max() < SURE:
        return None
    best = int(np.argmax(np.where(fits, sure, 0.0)))
    at_x, at_y, size = (float(one) for one in mended[best])
    vote = PLAIN_VOTE + SURE_VOTE * float(sure[best])
    colour = colour_round(picture, at_x, at_y, size)
    return Round(at_x, at_y, size, vote, colour, float(sure[best]))


def _alike(x: float, y: float, r: float, other: Round) -> bool:
    near = np.hypot(x - other.x, y - other.y) < SAME_PLACE * max(r, other.r)
    return bool(near and abs(np.log(r / other.r)) < SAME_SIZE)


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
    left, right = (int(np.clip(x + side * reach, 0, wide)) for side in (-1, 1))
    top, foot = (int(np.clip(y + side * reach, 0, high)) for side in (-1, 1))
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


def _evened(crops: Picture) -> NDArray[np.float32]:
    """Crops without their light: the mean colour taken out, divided by the spread of all three."""
    plain = crops.astype(np.float32)
    plain -= plain.mean(axis=(1, 2), keepdims=True)
    return np.asarray(plain / (plain.std(axis=(1, 2, 3), keepdims=True) + EVEN_LEVELS), np.float32)


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
