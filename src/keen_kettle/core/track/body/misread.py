"""What the pose model is known to misread of a lifter: where each point rather is, and how unsure that is.

The model was taught on people of all kinds, and few of them stood behind a plate: there it draws the hip
forward and down to the plate's edge, and feet up. It does so in much the same way each time, so that a small
net of our own can take it back. It is told what the model sees of both sides, how present that is to it, and
where the plate is and how large; it has seen drawn lifters only (`./kettle bench misreadings`).
"""

from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.landmarks import LANDMARKS
from keen_kettle.core.track.small_nets import WEIGHTS

__all__ = ["Reread", "in_spreads", "reread", "said_of", "told_of"]

Array = NDArray[np.float64]
Weights = NDArray[np.float32]

COUNT, HIP = len(LANDMARKS), LANDMARKS.index("hip")
PRESENCE = slice(4 * COUNT, 6 * COUNT)
"""Where in what the net is told the presence is."""
STRANGE, FARTHEST = 5.0, 4.0
"""So many spreads from the mean one in a thousand of the bodies that it was taught on had a point, or the plate; it
is told of no more than so many."""


class Reread(NamedTuple):
    """Where the near side's points rather are, shape (n, 9, 2), and their standard uncertainty each way (n, 9);
    bodies. Bodies like none that the net was taught on stay as they were seen, and it says nothing of them (NaN).

    The uncertainty is the width of errors as Laplace has them: of 100 on films that the net was not shown 56 are
    within it. What is solved from many looks is surer: of what is called measured 75 to 79 are, and 94 to 97
    within twice that."""

    points: Array
    sigma: Array


def reread(points: Array, presence: Array, bar: Array, plate: Array, front: float) -> Reread:
    """The near side of a body behind a plate, as the model's word for it is to be taken.

    Parameters
    ----------
    points : shape (n, 2, 9, 2), near and far side as the model sees them, in bodies (shank, thigh and trunk
        together), down counted positive; NaN where it sees nobody, and so is the answer
    presence : shape (n, 2, 9), from 0 to 1
    bar : shape (n, 2), the plate's middle; plate : shape (n,), its radius; bodies
    front : 1 where the lifter faces to the right, else -1
    """
    way = np.array([front, 1.0])
    told = told_of(points * way, presence, bar * way, plate)
    off, wide = said_of(_net(), told)
    strange = _away(told) > STRANGE
    off[strange], wide[strange] = 0.0, np.nan
    return Reread(points[:, 0] + off * way, wide)


def told_of(points: Array, presence: Array, bar: Array, plate: Array) -> Weights:
    """What the net is told, shape (n, numbers): points and plate counted from the middle of the hips."""
    count = len(points)
    middle = points[:, :, HIP].mean(axis=1)
    rows = (
        (points - middle[:, None, None]).reshape(count, -1),
        presence.reshape(count, -1),
        bar - middle,
        plate[:, None],
    )
    return np.concatenate(rows, axis=1).astype(np.float32)


def in_spreads(told: Weights, mean: Weights, spread: Weights) -> Weights:
    """What the net is told, counted in spreads from what is usual, and never farther than it has learnt."""
    return np.asarray(np.clip((told - mean) / spread, -FARTHEST, FARTHEST), np.float32)


def said_of(net: dict[str, Weights], told: Weights) -> tuple[Array, Array]:
    """How far off each point of the near side is (n, 9, 2), and the width of that (n, 9): full layers, each but
    the last cut at nought."""
    x = in_spreads(told, net["mean"], net["spread"])
    layers = sum(name.startswith("weights") for name in net)
    for layer in range(layers):
        x = x @ net[f"weights_{layer}"] + net[f"bias_{layer}"]
        x = np.maximum(x, 0.0) if layer < layers - 1 else x
    off, wide = x[:, : 2 * COUNT].astype(float), np.exp(x[:, 2 * COUNT :].astype(float))
    return off.reshape(-1, COUNT, 2), wide


def _away(told: Weights) -> Array:
    """How far points and plate are from those that the net was taught on, shape (n,): the farthest of them, in
    spreads."""
    net = _net()
    off = np.abs((told - net["mean"]) / net["spread"])
    off[:, PRESENCE] = 0.0
    return np.asarray(off.max(axis=1))


@cache
def _net() -> dict[str, Weights]:
    with np.load(WEIGHTS / "misreadings.npz") as kept:
        return {name: kept[name].astype(np.float32) for name in kept.files}
