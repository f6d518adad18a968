"""What lies along rays that run out from a centre: colours, edges, and their peaks."""

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = [
    "REACH",
    "SHARP_EDGE_PX",
    "blurred",
    "edge_votes",
    "edges_along",
    "local_peaks",
    "peak_places",
    "places_along",
    "sample_along",
]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

REACH = 0.2
"""How far from the expected rim edges are looked for, as a share of the radius."""
SHARP_EDGE_PX = 1.6
"""Half the width over which a sharp edge is read."""


def places_along(radius: float) -> int:
    return int(np.clip(2 * REACH * radius * 1.6, 24, 72))


def sample_along(
    picture: Picture, x: float, y: float, angles: Array, radii: Array, shares: Array
) -> tuple[Array, NDArray[np.bool_]]:
    """Colours along the rays, shape (rays, places, 3), and which lie in the picture."""
    reach = radii[:, None] * shares[None, :]
    at_x = x + np.cos(angles)[:, None] * reach
    at_y = y + np.sin(angles)[:, None] * reach
    high, wide = picture.shape[:2]
    seen = (at_x >= 0) & (at_x <= wide - 1) & (at_y >= 0) & (at_y <= high - 1)
    colours = cv2.remap(
        picture,
        at_x.astype(np.float32),
        at_y.astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return np.asarray(colours, np.float32), np.asarray(seen, bool)


def edges_along(
    picture: Picture,
    x: float,
    y: float,
    angles: Array,
    radii: Array,
    shares: Array,
    colour: Array | None,
    spread: float,
    half_px: float = SHARP_EDGE_PX,
) -> tuple[Array, NDArray[np.bool_]]:
    """Edge strength along each ray, shape (rays, places), and which rays lie in the picture."""
    lines, seen = sample_along(picture, x, y, angles, radii, shares)
    step_px = float(radii.mean()) * (shares[1] - shares[0])
    wide = max(1, round(half_px / step_px))
    kernel = np.concatenate([-np.ones(wide), [0.0], np.ones(wide)]) / wide
    smooth = cv2.GaussianBlur(lines, (3, 3), 0.7)
    edge = cv2.filter2D(smooth, cv2.CV_32F, kernel[None, :], borderType=cv2.BORDER_REPLICATE)
    squares = cv2.split(edge * edge)
    strength = np.sqrt(squares[0] + squares[1] + squares[2])
    if colour is not None:
        inner = np.empty_like(smooth)
        inner[:, wide + 1 :] = smooth[:, : -(wide + 1)]
        inner[:, : wide + 1] = smooth[:, :1]
        blue, green, red = cv2.split(np.abs(inner - colour.astype(np.float32)))
        apart = np.maximum(np.maximum(blue, green), red)
        strength = strength * np.exp(-0.5 * (apart / (2 * spread)) ** 2)
    return np.asarray(strength, np.float64), np.asarray(seen.all(axis=1), bool)


def edge_votes(lines: NDArray[np.float32]) -> NDArray[np.float32]:
    """Compressed strength (0 to 1), shape (rays, places), where a colour of `lines` (rays, places, 3) steps most
    along its ray or column."""
    step = np.zeros(lines.shape[:2], np.float32)
    outer = (lines[:, 4:] + lines[:, 3:-1]) / 2
    inner = (lines[:, :-4] + lines[:, 1:-3]) / 2
    blue, green, red = cv2.split((outer - inner) ** 2)
    step[:, 2:-2] = np.sqrt(blue + green + red)
    crest = np.zeros(step.shape, bool)
    middle = step[:, 1:-1]
    crest[:, 1:-1] = (middle >= step[:, :-2]) & (middle > step[:, 2:]) & (middle > 4)
    return np.where(crest, np.minimum(np.sqrt(step / 25.0), 1), 0).astype(np.float32)


def local_peaks(edges: Array) -> NDArray[np.bool_]:
    """Where the edge strength (rays, samples) is a local peak along its ray."""
    peak = np.zeros(edges.shape, bool)
    middle = edges[:, 1:-1]
    peak[:, 1:-1] = (middle >= edges[:, :-2]) & (middle > edges[:, 2:])
    return peak


def blurred(values: Array, sigma: float) -> Array:
    """Values (rays, samples) smoothed along each ray only; `sigma` in samples."""
    return np.asarray(cv2.GaussianBlur(values, (0, 0), sigma, sigmaY=0.01), np.float64)


def peak_places(edges: Array, top: NDArray[np.intp], shares: Array) -> Array:
    """The place of each ray's peak between samples, (rays,) shares of the radius, from its column `top`
    (rays,) of `edges` (rays, samples)."""
    rows = np.arange(len(edges))
    left, mid, right = edges[rows, top - 1], edges[rows, top], edges[rows, top + 1]
    bend = left - 2 * mid + right
    offset = np.where(np.abs(bend) > 1e-9, 0.5 * (left - right) / np.where(bend == 0, 1, bend), 0.0)
    return np.asarray(shares[top] + np.clip(offset, -0.5, 0.5) * (shares[1] - shares[0]))
