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
    turn = quaternions(bones.turns)
    for bone, parent in enumerate(lifter.parents):
        if parent >= 0 and turn[bone] @ turn[parent] < 0:
            turn[bone] *= -1
    shift = bones.places - np.einsum("bij,bj->bi", bones.turns, lifter.heads)
    dual = 0.5 * _times(np.concatenate([np.zeros((len(shift), 1)), shift], 1), turn)
    both = np.concatenate([turn, dual], 1).astype(np.float32)
    everything = np.concatenate([both, _stretches(lifter, bones)], 1)
    w, x, y, z, dw, *rest_of = np.ascontiguousarray((lifter.blend @ everything).T)
    size = np.maximum(np.sqrt(w * w + x * x + y * y + z * z), 1e-9)
    w, v = w / size, np.stack([x, y, z]) / size
    dw, dv = dw / size, np.stack(rest_of[:3]) / size
    rest = _stretched(lifter, rest_of[3:])
    moved = _turned(w, v, rest) + 2 * (w * dv - dw * v + _across(v, dv))
    return _in_rows(moved), _in_rows(_turned(w, v, lifter.normals.T))


def _turned(w: Flesh, v: Flesh, points: Flesh) -> Flesh:
    """Points (3, V) turned by unit quaternions w (V,), v (3, V)."""
    return np.asarray(points + 2 * _across(v, _across(v, points) + w * points), np.float32)


def _across(a: Flesh, b: Flesh) -> Flesh:
    """Vector products of vectors (3, V)."""
    (ax, ay, az), (bx, by, bz) = a, b
    return np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def _in_rows(points: Flesh) -> Flesh:
    return np.ascontiguousarray(points.T, np.float32)


def _stretches(lifter: Lifter, bones: Bones) -> Flesh:
    """What stretching each bone adds to a place p: p times a symmetric matrix, and a shift, both as the
    bone's row of (B, 9)."""
    made = np.zeros((len(lifter.heads), 9))
    for bone, (axis, factor) in bones.stretches.items():
        x, y, z = axis
        along = (factor - 1) * axis
        made[bone, :6] = (*(x * along), *(y * along[1:]), z * along[2])
        made[bone, 6:] = -along * (axis @ lifter.heads[bone])
    return made.astype(np.float32)


def _stretched(lifter: Lifter, blended: list[Flesh]) -> Flesh:
    """The rest pose (3, V) with the limbs at the lengths that the pose wants, from the blended stretches."""
    xx, xy, xz, yy, yz, zz, *shift = blended
    x, y, z = lifter.vertices.T
    moved = xx * x + xy * y + xz * z, xy * x + yy * y + yz * z, xz * x + yz * y + zz * z
    return np.asarray(lifter.vertices.T + np.stack(moved) + np.stack(shift), np.float32)


def _times(a: Array, b: Array) -> Array:
    """Products of quaternions (w, x, y, z), row by row."""
    w = a[:, :1] * b[:, :1] - np.sum(a[:, 1:] * b[:, 1:], 1, keepdims=True)
    v = a[:, :1] * b[:, 1:] + b[:, :1] * a[:, 1:] + np.cross(a[:, 1:], b[:, 1:])
    return np.concatenate([w, v], 1)
