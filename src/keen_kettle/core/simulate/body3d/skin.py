"""Vertices from bones: dual quaternion skinning, so that a bent seat and a twisted arm keep their flesh.

Limbs that are longer or shorter than the baked ones are stretched at rest first (linearly blended),
then everything is moved rigidly by blended dual quaternions (L. Kavan et al., 2007). Bones that are
blended together lie near each other in the tree, so each bone's quaternion is taken on its parent's
side of the double cover.
"""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body3d.lifter import Lifter
from keen_kettle.core.simulate.body3d.pose import Bones
from keen_kettle.core.simulate.body3d.rotations import quaternions

__all__ = ["skin"]

Array = NDArray[np.float64]
Flesh = NDArray[np.float32]


def skin(lifter: Lifter, bones: Bones) -> tuple[Flesh, Flesh]:
    """The lifter's vertices (V, 3) in metres and their normals, moved by its bones."""
    rest = _stretched(lifter, bones)
    turn = quaternions(bones.turns)
    for bone, parent in enumerate(lifter.parents):
        if parent >= 0 and turn[bone] @ turn[parent] < 0:
            turn[bone] *= -1
    shift = bones.places - np.einsum("bij,bj->bi", bones.turns, lifter.heads)
    dual = 0.5 * _times(np.concatenate([np.zeros((len(shift), 1)), shift], 1), turn)
    both = np.concatenate([turn, dual], 1).astype(np.float32)
    blended = np.einsum("vk,vkq->vq", lifter.weight_of, both[lifter.bone_of])
    size = np.linalg.norm(blended[:, :4], axis=1, keepdims=True)
    blended /= np.maximum(size, 1e-9)
    w, v = blended[:, :1], blended[:, 1:4]
    dw, dv = blended[:, 4:5], blended[:, 5:8]
    moved = _turned(w, v, rest) + 2 * (w * dv - dw * v + np.cross(v, dv))
    return np.asarray(moved, np.float32), _turned(w, v, lifter.normals)


def _turned(w: Flesh, v: Flesh, points: Flesh) -> Flesh:
    """Points turned by unit quaternions (w, v), row by row."""
    return np.asarray(points + 2 * np.cross(v, np.cross(v, points) + w * points), np.float32)


def _stretched(lifter: Lifter, bones: Bones) -> Flesh:
    """The rest pose with the limbs at the lengths that the pose wants."""
    which = [bone for bone in bones.stretches if abs(bones.stretches[bone][1] - 1) > 1e-4]
    if not which:
        return lifter.vertices
    made = np.zeros((len(lifter.heads), 3, 3), np.float32)
    for bone in which:
        axis, factor = bones.stretches[bone]
        made[bone] = (factor - 1) * np.outer(axis, axis)
    found = lifter.vertices.copy()
    for k in range(lifter.bone_of.shape[1]):
        own = lifter.bone_of[:, k]
        rows = np.flatnonzero(np.isin(own, which) & (lifter.weight_of[:, k] > 0.01))
        away = lifter.vertices[rows] - lifter.heads[own[rows]].astype(np.float32)
        moved = np.einsum("vij,vj->vi", made[own[rows]], away)
        found[rows] += lifter.weight_of[rows, k, None] * moved
    return found


def _times(a: Array, b: Array) -> Array:
    """Products of quaternions (w, x, y, z), row by row."""
    w = a[:, :1] * b[:, :1] - np.sum(a[:, 1:] * b[:, 1:], 1, keepdims=True)
    v = a[:, :1] * b[:, 1:] + b[:, :1] * a[:, 1:] + np.cross(a[:, 1:], b[:, 1:])
    return np.concatenate([w, v], 1)
