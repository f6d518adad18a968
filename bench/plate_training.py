"""Trains the judge of plates on crops that `bench.plate_judge` has made: `python -m bench.plate_training
FOLDER` in TensorFlow's own environment."""

import sys
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bench.net_training import small_net, train

LAYERS = ((16, 2), (24, 1), (32, 2), (32, 1), (48, 2), (64, 1), (64, 2))


def net(side: int) -> Any:
    return small_net(side, LAYERS, dropout=0.15, dense=64, said=4)


def loss(told: Any, said: Any) -> Any:
    """Cross entropy where it is taught, and the size of the mending's error where there is one."""
    import tensorflow as tf

    right, taught, mended = told[:, 0], told[:, 1], told[:, 5]
    sure = tf.nn.sigmoid_cross_entropy_with_logits(right, said[:, 0]) * taught
    off = tf.reduce_sum(tf.abs(told[:, 2:5] - said[:, 1:]), axis=1) * mended
    return tf.reduce_mean(sure + 2.0 * off)


def measured(said: NDArray[np.float32], told: NDArray[np.float32]) -> dict[str, float]:
    """What the net does on scenes that it has not seen."""
    taught, right = told[:, 1] > 0, told[:, 0] > 0
    yes = said[:, 0] > 0
    mended = told[:, 5] > 0
    off = np.abs(told[mended, 2:5] - said[mended, 1:])
    return {
        "found_of_rims": round(float(yes[right].mean()), 4),
        "false_of_others": round(float(yes[taught & ~right].mean()), 4),
        "place_off_median": round(float(np.median(np.hypot(off[:, 0], off[:, 1]))), 4),
        "size_off_median": round(float(np.median(off[:, 2])), 4),
    }


if __name__ == "__main__":
    train(Path(sys.argv[1]), "plate-judge", 7, 8, net, loss, [2], measured)
