"""Clothes and hair that hide joints: knee-length loose shorts, long hair bound at the back."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body3d import Lifter, load_lifter, vertex_normals
from keen_kettle.core.simulate.body3d.lifter import PARTS

__all__ = ["dressed"]

Array = NDArray[np.float64]
SKIN, HAIR, SHORTS = (PARTS.index(one) for one in ("skin", "hair", "shorts"))
HEM, LOOSE_FROM = 0.9, 0.1
"""Shares of the thigh at which shorts end, and from which they stand off."""
LOOSE_M = 0.035
"""How far they stand off the thigh at the hem."""
RINGS, ROUND = 7, 10
HAIR_LONG_M, HAIR_THICK_M = 0.34, 0.042


@lru_cache(maxsize=8)
def dressed(name: str, loose_shorts: bool, long_hair: bool) -> Lifter:
    """One of `LIFTERS` in other clothes, with other hair; the joints are where they were."""
    lifter = load_lifter(name)
    if loose_shorts:
        lifter = _in_loose_shorts(lifter)
    return _with_long_hair(lifter) if long_hair else lifter


def _in_loose_shorts(lifter: Lifter) -> Lifter:
    """Down to the knee, standing off the thighs more and more."""
    vertices = lifter.vertices.copy()
    cloth = np.zeros(len(vertices), bool)
    for side in ("L", "R"):
        hip, knee = lifter.head(f"upperleg01.{side}"), lifter.head(f"lowerleg01.{side}")
        bones = [lifter.index[f"upperleg0{k}.{side}"] for k in (1, 2)]
        mine = (lifter.weight_of * np.isin(lifter.bone_of, bones)).sum(axis=1) > 0.5
        way = knee - hip
        share = (vertices - hip) @ way / (way @ way)
        out = vertices - hip - share[:, None] * way
        out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-6)
        off = LOOSE_M * np.clip((share - LOOSE_FROM) / (HEM - LOOSE_FROM), 0, 1)
        worn = mine & (share < HEM)
        cloth |= worn
        vertices[worn] += (off[:, None] * out)[worn].astype(np.float32)
    parts = lifter.parts.copy()
    parts[(parts == SKIN) & cloth[lifter.quads].all(axis=1)] = SHORTS
    normals = vertex_normals(vertices, lifter.quads)
    return replace(lifter, vertices=vertices, normals=normals, parts=parts)


def _with_long_hair(lifter: Lifter) -> Lifter:
    """Bound at the back of the head; above it goes with the head, below it lies on the back."""
    first = len(lifter.vertices)
    share = np.linspace(0, 1, RINGS)
    by = lifter.stature_m / 1.75
    begin = lifter.ear * [1, 1, 0] + by * np.array([-0.085, 0.06, 0.0])
    middle = begin + by * np.column_stack(
        [-0.05 * np.sin(np.pi * share) - 0.03 * share, -HAIR_LONG_M * share, 0 * share]
    )
    thick = by * HAIR_THICK_M * np.sqrt(np.sin(np.pi * (0.08 + 0.88 * share)))
    turn = np.linspace(0, 2 * np.pi, ROUND, endpoint=False)
    ring = np.column_stack([np.cos(turn), np.zeros(ROUND), np.sin(turn)])
    tube = (middle[:, None] + thick[:, None, None] * ring).reshape(-1, 3).astype(np.float32)
    row, k = np.divmod(np.arange((RINGS - 1) * ROUND), ROUND)
    at, beside = first + row * ROUND + k, first + row * ROUND + (k + 1) % ROUND
    quads = np.concatenate(
        [lifter.quads, np.column_stack([at, at + ROUND, beside + ROUND, beside])[:, ::-1]]
    )
    vertices = np.concatenate([lifter.vertices, tube])
    normals = vertex_normals(vertices, quads)
    outward = (normals[first:] * np.tile(ring, (RINGS, 1))).sum()
    if outward < 0:
        quads[len(lifter.quads) :] = quads[len(lifter.quads) :, ::-1]
        normals = vertex_normals(vertices, quads)
    slots = lifter.bone_of.shape[1]
    bones, weights = (
        np.zeros((len(tube), slots), np.int64),
        np.zeros((len(tube), slots), np.float32),
    )
    bones[:, :2] = lifter.index["head"], lifter.index["spine01"]
    down = np.repeat(share**0.7, ROUND)
    weights[:, 0], weights[:, 1] = 1 - down, down
    return replace(
        lifter,
        vertices=vertices,
        normals=normals,
        quads=quads,
        parts=np.append(lifter.parts, np.full((RINGS - 1) * ROUND, HAIR, lifter.parts.dtype)),
        bone_of=np.concatenate([lifter.bone_of, bones]),
        weight_of=np.concatenate([lifter.weight_of, weights]),
    )
