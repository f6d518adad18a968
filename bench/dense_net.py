"""A small net of full layers that says numbers and how wide their errors are, trained with NumPy alone."""

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.misread import in_spreads

__all__ = ["Net", "trained"]

Rows = NDArray[np.float32]
Net = dict[str, Rows]
"""`mean` and `spread` of what it is told, then `weights_0`, `bias_0` and so on, as the program reads it."""

BATCH, PACE, DECAY, MOST_STEP = 128, 2e-3, 1.0, 5.0
NARROWEST, WIDEST, AT_FIRST = -5.5, 0.0, -3.5
"""Logarithms of the widths that can be said, and what is said before anything is learnt."""


def trained(
    rows: Callable[[np.random.Generator], tuple[Rows, Rows]],
    hidden: tuple[int, ...],
    rounds: int,
    seed: int,
) -> Net:
    """Train on what `rows` gives anew for each round: what is told (n, numbers), and what is to be said of it
    (n, parts, 2). The net says those, and for each part the logarithm of its errors' width (Laplace)."""
    dice = np.random.default_rng(seed)
    told, true = rows(dice)
    mean, spread = told.mean(axis=0), told.std(axis=0) + 0.02
    parts = true.shape[1]
    layers = _Layers((told.shape[1], *hidden, 3 * parts), parts, dice)
    steps = rounds * (len(told) // BATCH)
    for _ in range(rounds):
        told, true = rows(dice)
        order = dice.permutation(len(told))
        for first in range(0, len(order) - BATCH + 1, BATCH):
            some = order[first : first + BATCH]
            layers.learn(in_spreads(told[some], mean, spread), true[some], steps)
    net = {"mean": mean, "spread": spread}
    for number, (weights, bias) in enumerate(zip(layers.weights, layers.biases, strict=True)):
        net |= {f"weights_{number}": weights, f"bias_{number}": bias}
    return net


class _Layers:
    """Full layers, each but the last cut at nought, learning by Adam with a pace that falls as a cosine does."""

    def __init__(self, sizes: tuple[int, ...], parts: int, dice: np.random.Generator) -> None:
        pairs = list(pairwise(sizes))
        self.weights = [
            dice.normal(0, np.sqrt(2 / wide), (wide, said)).astype(np.float32)
            for wide, said in pairs
        ]
        self.biases = [np.zeros(said, np.float32) for _, said in pairs]
        self.weights[-1] *= 0.1
        self.biases[-1][2 * parts :] = AT_FIRST
        every = self._all()
        self._first, self._second = ([np.zeros_like(one) for one in every] for _ in range(2))
        self._step = 0

    def learn(self, told: Rows, true: Rows, steps: int) -> None:
        """One step of so many in all."""
        seen = [told]
        for number, (weights, bias) in enumerate(zip(self.weights, self.biases, strict=True)):
            x = seen[-1] @ weights + bias
            seen.append(np.maximum(x, 0) if number < len(self.weights) - 1 else x)
        slope = _slope(seen[-1], true)
        of_weights, of_biases = [], []
        for number in reversed(range(len(self.weights))):
            of_weights.append(seen[number].T @ slope)
            of_biases.append(slope.sum(axis=0))
            slope = (slope @ self.weights[number].T) * (seen[number] > 0)
        self._go([*of_weights[::-1], *of_biases[::-1]], steps)

    def _go(self, slopes: list[Rows], steps: int) -> None:
        self._step += 1
        pace = PACE * 0.5 * (1 + np.cos(np.pi * self._step / steps))
        steep = float(np.sqrt(sum(float((one**2).sum()) for one in slopes)))
        for k, one in enumerate(self._all()):
            slope = slopes[k] * min(1.0, MOST_STEP / max(steep, 1e-12))
            self._first[k] = 0.9 * self._first[k] + 0.1 * slope
            self._second[k] = 0.999 * self._second[k] + 0.001 * slope**2
            way = self._first[k] / (1 - 0.9**self._step)
            rough = np.sqrt(self._second[k] / (1 - 0.999**self._step)) + 1e-8
            one -= (pace * (way / rough + DECAY * one)).astype(np.float32)

    def _all(self) -> list[Rows]:
        return [*self.weights, *self.biases]


def _slope(said: Rows, true: Rows) -> Rows:
    """How the unlikelihood of the truth (n, parts, 2), by Laplace, changes with what was said (n, 3 parts)."""
    count, parts = true.shape[:2]
    off = said[:, : 2 * parts].reshape(true.shape) - true
    wide = np.clip(said[:, 2 * parts :], NARROWEST, WIDEST)
    apart = np.sqrt(off**2 + 1e-6)
    sharp = np.exp(-wide)
    slope = np.empty_like(said)
    slope[:, : 2 * parts] = (off / apart * sharp[..., None]).reshape(count, -1)
    outside = (said[:, 2 * parts :] < NARROWEST) | (said[:, 2 * parts :] > WIDEST)
    slope[:, 2 * parts :] = np.where(outside, 0.0, 2 - apart.sum(axis=-1) * sharp)
    return np.asarray(slope / count, np.float32)
