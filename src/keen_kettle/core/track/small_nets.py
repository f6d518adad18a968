"""The small nets that look at squares of a picture: their squares, their light taken out, and how they run.

They are taught on drawn scenes (see `weights/README.md`). Where the library that runs them is missing there
is no net, and edges alone are asked.
"""

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["WEIGHTS", "SmallNet", "crops_of", "evened", "network"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS = Path(__file__).parent / "weights"
SOFT_UNDER, SOFTNESS, SOFT_STEP = 0.7, 0.4, 1.15
"""A crop that is so much smaller than the picture is softened first, or fine patterns alias; those that are
smaller by up to one such step together."""
EVEN_LEVELS = 6.0
BATCH = 2
"""So many crops are shown at once: more are no faster, and the last ones would be padded."""


def crops_of(picture: Picture, circles: Array, side: int, reach: float) -> Picture:
    """The squares round circles (n, 3) as a net sees them, shape (n, side, side, 3), from each centre so many
    radii to each side; beyond the picture its edge is repeated."""
    made = np.zeros((len(circles), side, side, 3), np.uint8)
    smaller = side / (2 * reach * circles[:, 2])
    step = np.rint(np.log(smaller) / np.log(SOFT_STEP))
    step[smaller >= SOFT_UNDER] = 0
    for one in np.unique(step):
        among = np.flatnonzero(step == one)
        room, left, top = _room_round(picture, circles[among], reach)
        if one:
            room = np.asarray(cv2.GaussianBlur(room, (0, 0), SOFTNESS / SOFT_STEP**one), np.uint8)
        for n in among:
            (x, y, _), k = circles[n], smaller[n]
            begin = side / 2 - k * np.array([x - left, y - top])
            matrix = np.array([[k, 0, begin[0]], [0, k, begin[1]]])
            size, edge = (side, side), cv2.BORDER_REPLICATE
            made[n] = cv2.warpAffine(room, matrix, size, borderMode=edge)
    return made


def _room_round(picture: Picture, circles: Array, reach_r: float) -> tuple[Picture, int, int]:
    """The part of the picture round all circles (n, 3), and where its left and top edges are."""
    reach = reach_r * circles[:, 2] + 4
    high, wide = picture.shape[:2]
    left, top = (int((circles[:, k] - reach).min()) for k in (0, 1))
    right, foot = (int((circles[:, k] + reach).max()) + 1 for k in (0, 1))
    left, right = min(max(left, 0), wide - 1), min(max(right, 1), wide)
    top, foot = min(max(top, 0), high - 1), min(max(foot, 1), high)
    return picture[top:foot, left:right], left, top


def evened(crops: Picture) -> NDArray[np.float32]:
    """Crops (n, side, side, 3) without their light: the mean colour taken out, divided by the spread of all three."""
    flat = crops.reshape(len(crops), -1, 3).astype(np.float32)
    flat -= np.full((1, flat.shape[1]), 1 / flat.shape[1], np.float32) @ flat
    spread = np.sqrt(np.einsum("npc,npc->n", flat, flat) / flat[0].size)
    return np.asarray(
        (flat / (spread + EVEN_LEVELS)[:, None, None]).reshape(crops.shape), np.float32
    )


class SmallNet:
    """The net of a file of weights, asked for so many crops at a time; threads that ask at once have one each.

    `made` makes an interpreter ready.
    """

    def __init__(self, made: Callable[[], Any]) -> None:
        self._made = made
        self._idle = [made()]

    def said_of(self, crops: NDArray[np.float32]) -> NDArray[np.float32]:
        """What the net says of each crop (n, side, side, 3), shape (n, numbers)."""
        try:
            runs = self._idle.pop()
        except IndexError:
            runs = self._made()
        try:
            return _said_by(runs, crops)
        finally:
            self._idle.append(runs)


@lru_cache(maxsize=2)
def network(weights: str) -> SmallNet | None:
    """The net of a file of weights; None where the library that runs it is missing."""
    try:
        from ai_edge_litert.interpreter import Interpreter  # 0.2 s, and needed only here
    except ImportError:
        return None

    def made() -> Any:
        runs = Interpreter(str(WEIGHTS / weights), num_threads=1)
        entry = runs.get_input_details()[0]
        runs.resize_tensor_input(entry["index"], (BATCH, *entry["shape"][1:]))
        runs.allocate_tensors()
        return runs

    return SmallNet(made)


def _said_by(runs: Any, crops: NDArray[np.float32]) -> NDArray[np.float32]:
    """The crops are shown so many at once, the last ones padded."""
    entry = runs.get_input_details()[0]["index"]
    out = runs.get_output_details()[0]["index"]
    said = []
    for first in range(0, len(crops), BATCH):
        part = crops[first : first + BATCH]
        whole = np.zeros((BATCH, *crops.shape[1:]), np.float32)
        whole[: len(part)] = part
        runs.set_tensor(entry, whole)
        runs.invoke()
        said.append(np.array(runs.get_tensor(out))[: len(part)])
    return np.concatenate(said)
