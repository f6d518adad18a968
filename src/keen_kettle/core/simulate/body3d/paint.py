"""Paints a lifter's faces from the farthest to the nearest, each in one colour."""

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["SUB", "brightness", "covered_by", "paint_faces"]

Array = NDArray[np.float64]
Flesh = NDArray[np.float32]
Picture = NDArray[np.uint8]

SUB = 16
"""Corners are placed to a sixteenth of a pixel."""
Lights = tuple[tuple[float, tuple[float, float, float]], ...]


def brightness(normals: Flesh, lights: Lights, ambient: float) -> Array:
    """How bright vertices are, shape (n,), under lights (strength and direction to each), gently rolled
    off; `normals` (n, 3)."""
    light = np.full(len(normals), ambient)
    for strength, way in lights:
        light += strength * np.clip(normals @ np.array(way), 0, 1)
    return np.asarray(1.12 * light**0.75)


def paint_faces(
    image: Picture,
    places: Array,
    near: Array,
    bright: Array,
    quads: NDArray[np.int64],
    colours: Array,
    mirrored: bool = False,
) -> None:
    """Paint the faces that look this way.

    Parameters
    ----------
    image : shape (h, w, 3 or 4), in place
    places : shape (V, 2), pixels; near : (V,), larger is nearer; bright : (V,)
    quads : (F, 4); colours : (F, 3), as the image has its channels
    mirrored : the picture shows the figure the other way round
    """
    corners = places[quads]
    one, other = corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1]
    area = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    front = area > 0.2 if mirrored else area < -0.2
    shown, corners = quads[front], corners[front]
    tint = np.clip(colours[front] * bright[shown].mean(1)[:, None], 0, 255)
    order = np.argsort(near[shown].mean(1))
    fixed = np.round(SUB * corners[order]).astype(np.int32)
    rows = tint[order]
    if image.shape[2] == 4:
        rows = np.column_stack([rows, np.full(len(order), 255.0)])
    fill = cv2.fillConvexPoly
    for face, colour in zip(fixed, rows.tolist(), strict=True):
        fill(image, face, colour, cv2.LINE_8, 4)


def covered_by(
    places: Array, near: Array, quads: NDArray[np.int64], spots: Array, nearer_than: Array
) -> NDArray[np.bool_]:
    """Which spots lie behind a face.

    Parameters
    ----------
    places : shape (V, 2), pixels; near : (V,), larger is nearer
    quads : (F, 4)
    spots : shape (n, 2), pixels; nearer_than : (n,), only faces nearer than this cover a spot

    Returns
    -------
    shape (n,)
    """
    corners, depth = places[quads], near[quads].mean(axis=1)
    low, high = corners.min(axis=1), corners.max(axis=1)
    found = np.zeros(len(spots), bool)
    for k, (spot, least) in enumerate(zip(spots, nearer_than, strict=True)):
        around = (depth > least) & (low <= spot).all(axis=1) & (high >= spot).all(axis=1)
        ways = corners[around] - spot
        after = np.roll(ways, -1, axis=1)
        turns = ways[..., 0] * after[..., 1] - ways[..., 1] * after[..., 0]
        found[k] = bool(((turns >= 0).all(axis=1) | (turns <= 0).all(axis=1)).any())
    return found
