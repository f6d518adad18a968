"""Says of a circle in a picture how surely it is a plate's rim, and where the rim near it lies.

A small net, taught on drawn scenes (see `weights/README.md`), looks at the square round each circle. It
knows what a plate looks like where edges say little: dark before dark, cut by the picture's edge, a
hub that is louder than the rim. It never decides alone: what it names must travel, and its rim must
be found in the film.
"""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.small_nets import crops_of, evened, network

__all__ = ["CROP_PX", "REACH", "WEIGHTS", "judge_circles", "judge_is_there"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS = "plate-judge.tflite"
CROP_PX, REACH = 48, 1.6
"""A crop's side in pixels, and how many radii it reaches from its centre to each side."""
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
    net = network(WEIGHTS)
    if net is None or not len(circles):
        return np.zeros(len(circles)), np.array(circles, float).reshape(-1, 3)
    said = net.said_of(evened(crops_of(picture, circles, CROP_PX, REACH)))
    sure = 1 / (1 + np.exp(-np.clip(said[:, 0], -30, 30)))
    step = np.clip(said[:, 1:], -MOST_MENDED, MOST_MENDED)
    mended = np.array(circles, float)
    mended[:, :2] += step[:, :2] * mended[:, 2:]
    mended[:, 2] *= np.exp(step[:, 2])
    return sure, mended


def judge_is_there() -> bool:
    """Whether the library that runs the net is installed."""
    return network(WEIGHTS) is not None
