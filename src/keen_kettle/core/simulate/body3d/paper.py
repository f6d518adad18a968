"""A picture being painted: points in space become places on it, faces are lit, loads are drawn.

It is painted face by face from the farthest to the nearest; one light from above and the front, a
weaker one from the camera's side.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body3d.lifter import PARTS
from keen_kettle.core.simulate.body3d.paint import SUB, brightness, paint_faces

__all__ = ["PLATE_M", "Inks3d", "Load", "Paper", "View"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Flesh = NDArray[np.float32]
Colour = tuple[int, int, int]

DISTANCE_M = 11.0
LIGHTS = ((0.55, (0.35, 0.75, 0.56)), (0.25, (-0.3, 0.1, 0.95)))
AMBIENT = 0.30
PLATE_M, SLEEVE_M = 0.225, 1.06
GLASS = 0.42
"""How much of a plate before the body is seen; the body is what the picture is for."""
NARROWEST_M = 0.55
"""Half of the width that is shown at least; a bar seen from the front needs more."""


@dataclass(frozen=True)
class View:
    """From where: 0° is from the lifter's right side, 90° from the front."""

    yaw_deg: float = 0.0


@dataclass(frozen=True)
class Inks3d:
    """Colours as (red, green, blue): parts of the body, the load, the floor line, the ground."""

    skin: Colour
    hair: Colour
    shoe: Colour
    shirt: Colour
    shorts: Colour
    load: Colour
    floor: Colour
    ground: Colour

    def of_parts(self) -> Array:
        eye = tuple(int(0.5 * one) for one in self.hair)
        rows = [self.skin, self.hair, self.shoe, self.shirt, self.shorts, eye]
        assert len(rows) == len(PARTS)
        return np.array(rows, float)


@dataclass(frozen=True)
class Load:
    """A disc on the bar or a bell: where, how far aside it begins and ends, its radius in metres."""

    at: Array
    z_m: tuple[float, float]
    radius_m: float


class Paper:
    """A picture being painted; points in space become places on it."""

    def __init__(
        self,
        wide: int,
        high: int,
        inks: Inks3d,
        view: View,
        implement: str,
        tall_m: float,
        half_m: float = NARROWEST_M,
    ) -> None:
        self.image: Picture = np.empty((high, wide, 4), np.uint8)
        self.image[:] = (*inks.ground[::-1], 255)
        self._inks, self._colours = inks, inks.of_parts()
        yaw = -np.radians(view.yaw_deg)
        self._cos, self._sin = float(np.cos(yaw)), float(np.sin(yaw))
        margin = 0.07 * high
        aside = SLEEVE_M * abs(self._sin) if implement in ("barbell", "stick") else 0.0
        self._scale = min((high - 1.6 * margin) / tall_m, 0.48 * wide / max(aside, half_m))
        self._floor, self._middle = high - margin, wide / 2
        self._bar = implement
        self._thick = max(round(self._scale / 110), 1)

    def project(self, points: Array) -> tuple[Array, Array]:
        """Places (n, 2) in pixels and nearness (n,) in metres of points (n, 3) in space."""
        x, y, z = points[:, 0], points[:, 1], points[:, 2]
        across = x * self._cos + z * self._sin
        near = z * self._cos - x * self._sin
        larger = self._scale * DISTANCE_M / (DISTANCE_M - near)
        eye = 1.0
        horizon = self._floor - self._scale * eye
        return np.column_stack([self._middle + larger * across, horizon - larger * (y - eye)]), near

    def floor(self) -> None:
        colour = (*self._inks.floor[::-1], 255)
        y = round(self._floor + 2)
        wide = self.image.shape[1]
        cv2.line(self.image, (round(0.03 * wide), y), (round(0.97 * wide), y), colour, self._thick)

    def fade(self) -> None:
        """What was painted so far becomes faint: only a ghost of it stays."""
        ground = np.array((*self._inks.ground[::-1], 255), np.float32)
        self.image[:] = (0.30 * self.image + 0.70 * ground).astype(np.uint8)

    def nearer(self, one: Load) -> bool:
        """Whether a load is in front of the body as it is seen."""
        centre = np.array([[one.at[0], one.at[1], sum(one.z_m) / 2]])
        return bool(self.project(centre)[1][0] > 0)

    def body(
        self, vertices: Flesh, normals: Flesh, quads: NDArray[np.int64], parts: Picture
    ) -> None:
        """Every face that looks this way, from the farthest to the nearest."""
        places, near = self.project(vertices.astype(float))
        colours = self._colours[parts][:, ::-1]
        paint_faces(self.image, places, near, self._lit(normals), quads, colours)

    def _lit(self, normals: Flesh) -> Array:
        """How bright each vertex is."""
        seen = np.column_stack(
            [
                normals[:, 0] * self._cos + normals[:, 2] * self._sin,
                normals[:, 1],
                normals[:, 2] * self._cos - normals[:, 0] * self._sin,
            ]
        )
        return brightness(seen.astype(np.float32), LIGHTS, AMBIENT)

    def glass(self, one: Load) -> None:
        """A plate before the body: the body is seen through it, its rim stays plain."""
        before = self.image.copy()
        self.load(one)
        self.image[:] = cv2.addWeighted(self.image, GLASS, before, 1 - GLASS, 0)
        outer = max(one.z_m, key=abs)
        self._ring(one.at, outer, one.radius_m, 0.9 * np.array(self._inks.load, float))

    def load(self, one: Load) -> None:
        """A plate with its sleeve, or a bell."""
        ink = np.array(self._inks.load, float)
        inner, outer = sorted(one.z_m, key=abs)
        sleeve = np.sign(outer) * SLEEVE_M
        if self._bar == "barbell" and one.radius_m == PLATE_M:
            self._stroke(one.at, 0.0, outer, 0.55 * ink)
        if self._bar == "kettlebell":
            self._ring(one.at + np.array([0.0, 0.11]), inner, 0.05, 0.6 * ink)
        shades = ((inner, 0.45, 1.0), (outer, 0.62, 1.0), (outer, 0.52, 0.86), (outer, 0.8, 0.26))
        for z, shade, share in shades if one.radius_m == PLATE_M else shades[:2]:
            self._disc(one.at, z, share * one.radius_m, shade * ink)
        if self._bar == "barbell" and one.radius_m == PLATE_M:
            self._stroke(one.at, outer, sleeve, 0.9 * ink)

    def _ring(self, at: Array, z: float, radius: float, colour: Array) -> None:
        fixed = np.round(SUB * self.project(_circle(at, z, radius))[0]).astype(np.int32)
        ink = (*colour[::-1].tolist(), 255)
        cv2.polylines(self.image, [fixed], True, ink, self._thick + 1, cv2.LINE_AA, 4)

    def _disc(self, at: Array, z: float, radius: float, colour: Array) -> None:
        fixed = np.round(SUB * self.project(_circle(at, z, radius))[0]).astype(np.int32)
        cv2.fillConvexPoly(self.image, fixed, (*colour[::-1].tolist(), 255), cv2.LINE_AA, 4)

    def _stroke(self, at: Array, z0: float, z1: float, colour: Array) -> None:
        ends = self.project(np.array([[at[0], at[1], z0], [at[0], at[1], z1]]))[0]
        first, second = (tuple(int(v) for v in np.round(SUB * end)) for end in ends)
        ink = (*colour[::-1].tolist(), 255)
        cv2.line(self.image, first, second, ink, 3 * self._thick, cv2.LINE_AA, 4)


def _circle(at: Array, z: float, radius: float, corners: int = 48) -> Array:
    turn = np.linspace(0, 2 * np.pi, corners, endpoint=False)
    across, up = at[0] + radius * np.cos(turn), at[1] + radius * np.sin(turn)
    return np.column_stack([across, up, np.full(corners, z)])
