"""Trains the reader of rims on crops that `bench.rim_reader` has made: `python -m bench.rim_training FOLDER`
in TensorFlow's own environment."""

import sys
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bench.net_training import small_net, train

LAYERS = ((16, 2), (24, 1), (32, 2), (48, 1), (48, 2), (64, 1), (64, 2))
PARTS = ((0, 2), (2, 3), (3, 5))
"""Which of the numbers told are the place, the size and the narrowness: each has its own uncertainty."""


def net(side: int) -> Any:
    return small_net(side, LAYERS, dropout=0.1, dense=96, said=5 + len(PARTS))


def loss(told: Any, said: Any) -> Any:
    """How unlikely what is told is by what was said: errors as Laplace has them, of the said width."""
    import tensorflow as tf

    unlikely = 0.0
    for number, (first, end) in enumerate(PARTS):
        wide = tf.clip_by_value(said[:, 5 + number], -6.0, 1.0)
        off = tf.reduce_sum(tf.abs(told[:, first:end] - said[:, first:end]), axis=1)
        unlikely += off * tf.exp(-wide) + (end - first) * wide
    return tf.reduce_mean(unlikely)


def measured(said: NDArray[np.float32], told: NDArray[np.float32]) -> dict[str, float]:
    """What the net does on scenes that it has not seen: errors, and the share within the width it says
    (of Laplace's errors 63 % are)."""
    off = np.abs(told - said[:, :5])
    place, size, wide = np.hypot(off[:, 0], off[:, 1]), off[:, 2], np.exp(said[:, 5:])
    return {
        "place_off_median": round(float(np.median(place)), 4),
        "place_off_90": round(float(np.quantile(place, 0.9)), 4),
        "size_off_median": round(float(np.median(size)), 4),
        "size_off_90": round(float(np.quantile(size, 0.9)), 4),
        "size_within_said": round(float(np.mean(size < wide[:, 1])), 3),
        "narrow_off_median": round(float(np.median(np.hypot(off[:, 3], off[:, 4]))), 4),
    }


if __name__ == "__main__":
    train(Path(sys.argv[1]), "rim-reader", 11, 9, net, loss, [0, 4], measured)
