"""Simple bodies as triangles: boxes, cylinders, turned profiles, flat pieces. Axes: x across to the right,
y up, z towards the camera, in metres."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Mesh", "box", "cylinder", "flat", "joined", "turned"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Mesh:
    """Corners (V, 3), triangles (T, 3) into them, and places on a texture (V, 2), if it has one."""

    corners: Array
    triangles: NDArray[np.int64]
    places: Array | None = None

    def moved(self, by: tuple[float, float, float]) -> "Mesh":
        return Mesh(self.corners + np.array(by), self.triangles, self.places)


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> Mesh:
    span = np.subtract(high, low)
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)]) * span + low
    sides = ((0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3))
    rows = [row for a, b, c, d in sides for row in ((a, b, c), (a, c, d))]
    return Mesh(corners, np.array(rows))


def turned(profile: list[tuple[float, float]], around: int = 96) -> Mesh:
    """A profile of (radius, z) from the front's middle round to the back, turned about z; its texture is
    laid over it from the front, the whole of it as wide as the largest radius."""
    turn = np.linspace(0, 2 * np.pi, around, endpoint=False)
    rings = [
        np.column_stack([r * np.cos(turn), r * np.sin(turn), np.full(around, z)])
        for r, z in profile
    ]
    rows = []
    this = np.arange(around)
    that = (this + 1) % around
    for k in range(len(profile) - 1):
        first, second = k * around, (k + 1) * around
        rows.append(np.column_stack([this + first, this + second, that + first]))
        rows.append(np.column_stack([that + first, this + second, that + second]))
    corners = np.concatenate(rings)
    places = corners[:, :2] / (2 * max(r for r, _ in profile)) + 0.5
    return Mesh(corners, np.concatenate(rows), places)


def cylinder(z0: float, z1: float, radius: float) -> Mesh:
    """Along z, closed at both ends."""
    return turned([(1e-4, z1), (radius, z1), (radius, z0), (1e-4, z0)], 40)


def flat(corners: list[tuple[float, float, float]], times: tuple[float, float] = (1, 1)) -> Mesh:
    """A four-cornered piece, from its lower left corner round; the texture is repeated so many times."""
    across, up = times
    places = np.array([[0, 0], [across, 0], [across, up], [0, up]], float)
    return Mesh(np.array(corners, float), np.array([[0, 1, 2], [0, 2, 3]]), places)


def joined(meshes: list[Mesh]) -> Mesh:
    """Several as one; the texture goes along if all have one."""
    firsts = np.cumsum([0, *(len(mesh.corners) for mesh in meshes)])
    rows = [mesh.triangles + first for mesh, first in zip(meshes, firsts, strict=False)]
    places = [mesh.places for mesh in meshes if mesh.places is not None]
    whole = np.concatenate(places) if len(places) == len(meshes) else None
    return Mesh(np.concatenate([mesh.corners for mesh in meshes]), np.concatenate(rows), whole)
