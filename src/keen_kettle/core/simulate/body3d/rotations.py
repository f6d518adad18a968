"""Rotations in space as 3 × 3 matrices; vectors are x forward, y up, z to the lifter's right."""

import math

import numpy as np
from numpy.typing import NDArray

__all__ = ["about", "part", "quaternions", "stretch", "swing", "unit", "vector_product"]

Array = NDArray[np.float64]


def unit(v: Array) -> Array:
    """A direction (3,) of length one."""
    # Single vectors: Python's own numbers are several times as fast as NumPy's, here and below.
    return np.asarray(v / max(math.sqrt(v @ v), 1e-12))


def vector_product(a: Array, b: Array) -> Array:
    """The vector product of two vectors (3,)."""
    (ax, ay, az), (bx, by, bz) = a.tolist(), b.tolist()
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def swing(a: Array, b: Array) -> Array:
    """The smallest rotation (3, 3) that turns direction a into direction b, both of shape (3,)."""
    a, b = unit(a), unit(b)
    return _turned(vector_product(a, b), 1.0, 1 / max(1 + float(a @ b), 1e-6))


def about(axis: Array, angle: float) -> Array:
    """The rotation by an angle in radians about an axis (Rodrigues)."""
    return _turned(unit(np.asarray(axis, float)), math.sin(angle), 1 - math.cos(angle))


def _turned(axis: Array, once: float, twice: float) -> Array:
    """1 + once K + twice K² (3, 3), where K times a vector is the axis' vector product with it."""
    x, y, z = axis.tolist()
    xy, xz, yz = twice * x * y, twice * x * z, twice * y * z
    xx, yy, zz = twice * x * x, twice * y * y, twice * z * z
    return np.array(
        [
            [1 - yy - zz, xy - once * z, xz + once * y],
            [xy + once * z, 1 - xx - zz, yz - once * x],
            [xz - once * y, yz + once * x, 1 - xx - yy],
        ]
    )


def part(rotation: Array, share: float) -> Array:
    """A share of a rotation (3, 3), about the same axis."""
    angle = float(np.arccos(np.clip((np.trace(rotation) - 1) / 2, -1, 1)))
    axis = np.array(
        [
            rotation[2, 1] - rotation[1, 2],
            rotation[0, 2] - rotation[2, 0],
            rotation[1, 0] - rotation[0, 1],
        ]
    )
    return np.eye(3) if np.linalg.norm(axis) < 1e-9 else about(axis, share * angle)


def stretch(axis: Array, factor: float) -> Array:
    """The matrix (3, 3) that makes everything longer along one axis of shape (3,)."""
    a = unit(axis)
    return np.asarray(np.eye(3) + (factor - 1) * np.outer(a, a))


def quaternions(rotations: Array) -> Array:
    """Unit quaternions (w, x, y, z) of rotations, shape (n, 3, 3) to (n, 4).

    By the largest of the four (S. W. Shepperd, 1978), so that no division is near zero.
    """
    m = rotations
    trace = m[:, 0, 0] + m[:, 1, 1] + m[:, 2, 2]
    four = np.stack(
        [trace, *(2 * m[:, k, k] - trace for k in range(3))], axis=1
    )  # 4 q² - 1 of w, x, y, z
    best = four.argmax(1)
    made = np.empty((len(m), 4))
    skew = np.stack(
        [m[:, 2, 1] - m[:, 1, 2], m[:, 0, 2] - m[:, 2, 0], m[:, 1, 0] - m[:, 0, 1]], axis=1
    )
    for kind in range(4):
        rows = best == kind
        if not rows.any():
            continue
        size = 0.5 * np.sqrt(1 + four[rows, kind])
        if kind == 0:
            made[rows, 0] = size
            made[rows, 1:] = skew[rows] / (4 * size[:, None])
            continue
        k = kind - 1
        made[rows, 0] = skew[rows, k] / (4 * size)
        made[rows, kind] = size
        for other in range(3):
            if other != k:
                made[rows, 1 + other] = (m[rows, k, other] + m[rows, other, k]) / (4 * size)
    return np.asarray(made / np.linalg.norm(made, axis=1, keepdims=True))
