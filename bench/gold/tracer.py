"""A painter that traces light: the same lift, camera and truth as the quick painter's, in rooms of its own.

Runs only where the path tracer is installed (`bench.gold.make` sees to it). The still room is traced
once with many rays; in each picture what moves is traced anew, and its shadows are laid on the still
room as the ratio of light with and without the lifter, so that the grain is the same all over.
"""

from dataclasses import dataclass, field, replace
from typing import Any

import cv2
import mitsuba as mi
import numpy as np
from numpy.typing import NDArray

from bench.gold.meshes import Mesh
from bench.gold.rooms import (
    GLASS,
    ROOMS,
    WALL_Z,
    bar_meshes,
    matt,
    mesh_shape,
    plate_texture,
    room_shapes,
)
from keen_kettle.core.simulate import Camera
from keen_kettle.core.simulate.body3d import load_lifter, skin
from keen_kettle.core.simulate.lifelike import LifelikePainter
from keen_kettle.core.simulate.lifelike.painter import bones_of
from keen_kettle.core.simulate.lift import SimulatedLift

__all__ = ["TracedPainter"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Light = NDArray[np.float32]

BOUNCES = 4
HALL_RAYS, COVER_RAYS = 192, 16
BRIGHTEST = 40.0
SHADOW_SIGMA_PX = 2.2
STEEL = {
    "type": "roughconductor",
    "alpha": 0.25,
    "specular_reflectance": {"type": "rgb", "value": 0.6},
}


@dataclass(frozen=True)
class TracedPainter(LifelikePainter):
    """As the quick painter; `room` is one of `ROOMS`, `key` how bright the picture is exposed, `rays` how many
    a pixel of what moves gets in each instant."""

    room: str = "brick"
    key: float = 0.17
    rays: int = 24
    _scenes: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)

    def hall(self, camera: Camera, rng: np.random.Generator) -> Picture:
        stage = _Stage(self, camera)
        self._scenes["stage"] = stage
        return stage.developed(stage.still)

    def paint(self, picture: Picture, lift: SimulatedLift, instant: float, camera: Camera) -> None:
        stage: _Stage = self._scenes["stage"]
        light, (left, top, wide, high) = stage.traced(lift, instant)
        picture[top : top + high, left : left + wide] = stage.developed(light, (left, top))
        if self.soft_px > 0.2:
            picture[:] = cv2.GaussianBlur(picture, (0, 0), self.soft_px)


class _Stage:
    """The scene of one film, and its still room as seen by the film's camera."""

    def __init__(self, painter: TracedPainter, camera: Camera) -> None:
        self.painter, self.camera = painter, camera
        self.lifter = load_lifter(painter.lifter)
        self.side = 1.0 if camera.facing == "right" else -1.0
        self.seed = 0
        room = ROOMS[painter.room]
        shapes = room_shapes(room)
        self.mirrored = room.mirror
        if painter.bystander:
            shapes["bystander"] = self._bystander()
        moving = self._moving_shapes()
        light = {"type": "path", "max_depth": BOUNCES}
        self.whole = mi.load_dict({"type": "scene", "integrator": light, **shapes, **moving})
        self.alone = mi.load_dict(
            {"type": "scene", "integrator": {"type": "depth"}, **self._moving_shapes()}
        )
        self.told = mi.traverse(self.whole), mi.traverse(self.alone)
        empty = mi.load_dict({"type": "scene", "integrator": light, **shapes})
        box = (0, 0, camera.width_px, camera.height_px)
        rounds = [self._render(empty, box, HALL_RAYS // 8) for _ in range(8)]
        self.still: Light = np.mean(rounds, axis=0)
        bright = np.clip(self.still.mean(axis=2), 1e-3, 1)
        self.gain = painter.key / float(np.exp(np.log(bright).mean()))

    def traced(
        self, lift: SimulatedLift, instant: float
    ) -> tuple[Light, tuple[int, int, int, int]]:
        """The light of the part of the picture in which something moves, and that part."""
        flesh, steel, plates = self._placed(lift, instant)
        box = self._part(np.concatenate([flesh, steel, plates]))
        left, top, wide, high = box
        seen = self._render(self.whole, box, self.painter.rays)
        cover = self._cover(box)
        still = self.still[top : top + high, left : left + wide]
        open_share = 1 - cover
        clear = (open_share > 0.98).astype(np.float32)[..., None]
        level, before = (_spread(light * clear) for light in (seen, still))
        ratio = np.clip((level + 1e-5) / (before + 1e-5), 0.05, 1.6)
        ground = still * ratio
        if self.mirrored:
            glass = self._glass(box)[..., None]
            ground = ground * (1 - glass) + cv2.GaussianBlur(seen, (0, 0), 0.8) * glass
        own = clear * ground + (1 - clear) * seen
        edge = np.minimum(1, _from_border(high, wide, self._open_sides(box)) / 6)[..., None]
        return edge * own + (1 - edge) * still, box

    def developed(self, light: Light, corner: tuple[int, int] = (0, 0)) -> Picture:
        """From light to display values: exposure, falling off to the corners, soft shoulder."""
        high, wide = light.shape[:2]
        y = np.arange(high)[:, None] + corner[1] - self.camera.height_px / 2
        x = np.arange(wide)[None, :] + corner[0] - self.camera.width_px / 2
        far = (x**2 + y**2) / (self.camera.width_px**2 + self.camera.height_px**2) * 4
        level = light * (self.gain * (1 - 0.22 * far))[..., None]
        level = np.where(level < 0.8, level, 0.8 + 0.2 * np.tanh((level - 0.8) / 0.35))
        shown = np.where(
            level <= 0.0031308, 12.92 * level, 1.055 * np.maximum(level, 1e-6) ** (1 / 2.4) - 0.055
        )
        return np.ascontiguousarray((255 * np.clip(shown, 0, 1) + 0.5).astype(np.uint8)[..., ::-1])

    # Shapes

    def _moving_shapes(self) -> dict[str, Any]:
        steel, plates = bar_meshes(self.painter.stack)
        self.steel, self.plates = steel, plates
        return {
            "lifter": self._flesh_shape(self.lifter.vertices.astype(float)),
            "steel": mesh_shape(steel, STEEL),
            "plates": mesh_shape(plates, matt(plate_texture(self.painter.plate))),
        }

    def _flesh_shape(self, vertices: Array) -> Any:
        quads = self.lifter.quads
        triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
        tones = (self.painter.wear.of_parts()[self.lifter.parts][:, ::-1] / 255) ** 2.2
        shape = mesh_shape(
            Mesh(vertices * [self.side, 1, 1], triangles),
            matt({"type": "mesh_attribute", "name": "face_tone"}),
        )
        shape.add_attribute("face_tone", 3, np.tile(tones, (2, 1)).astype(np.float32).ravel())
        return shape

    def _bystander(self) -> Any:
        """Somebody who stands behind, to one side, at rest."""
        vertices = self.lifter.vertices.astype(float) + np.array([-1.15, 0.0, -1.3])
        return self._flesh_shape(vertices)

    def _placed(self, lift: SimulatedLift, instant: float) -> tuple[Array, Array, Array]:
        bar = lift.bar_m(np.array([instant]))[0]
        bones = bones_of(self.lifter, lift, instant)
        flesh = skin(self.lifter, bones)[0].astype(float) * [self.side, 1, 1]
        spin = 0.35 * float(np.sin(2.1 * instant)) * float(bar[1] > 0.26) * self.side
        c, s = np.cos(spin), np.sin(spin)
        turn = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])
        to = np.array([self.side * bar[0], bar[1], 0.0])
        steel, plates = self.steel.corners + to, self.plates.corners @ turn.T + to
        for told in self.told:
            for name, corners in (("lifter", flesh), ("steel", steel), ("plates", plates)):
                key = next(
                    k for k, _ in told if k.startswith(name) and k.endswith("vertex_positions")
                )
                told[key] = mi.Float(corners.astype(np.float32).ravel())
            told.update()
        return flesh, steel, plates

    # Rendering

    def _render(self, scene: Any, box: tuple[int, int, int, int], rays: int) -> Light:
        self.seed += 1
        made = mi.render(scene, sensor=self._sensor(box, "rgb"), spp=rays, seed=self.seed)
        return np.minimum(np.array(made, np.float32), BRIGHTEST)

    def _cover(self, box: tuple[int, int, int, int]) -> Light:
        """How much of each pixel is covered by what moves."""
        self.seed += 1
        made = mi.render(
            self.alone, sensor=self._sensor(box, "rgba"), spp=COVER_RAYS, seed=self.seed
        )
        return np.asarray(np.array(made, np.float32)[..., 3])

    def _sensor(self, box: tuple[int, int, int, int], channels: str) -> Any:
        camera = self.camera
        left, top, wide, high = box
        yaw, roll = np.radians([camera.yaw_deg, camera.roll_deg])
        focal = camera.px_per_m * camera.distance_m
        near = np.array([-np.sin(yaw), 0.0, np.cos(yaw)])
        right = np.array([np.cos(yaw), 0.0, np.sin(yaw)])
        eye = camera.distance_m * near + [0, camera.height_m, 0]
        horizon = camera.floor_px - camera.px_per_m * camera.height_m
        pivot = np.array([camera.width_px / 2, horizon])
        turn = np.array([[np.cos(roll), -np.sin(roll)], [np.sin(roll), np.cos(roll)]])
        middle = turn @ (np.array([camera.middle_px, horizon]) - pivot) + pivot
        # The picture is turned clockwise by the roll (rows go down), so the camera is turned the other way.
        above = np.cos(roll) * np.array([0, 1.0, 0]) - np.sin(roll) * right
        film = {
            "type": "hdrfilm",
            "width": camera.width_px,
            "height": camera.height_px,
            "crop_offset_x": left,
            "crop_offset_y": top,
            "crop_width": wide,
            "crop_height": high,
            "rfilter": {"type": "box"},
            "pixel_format": channels,
            "component_format": "float32",
        }
        return mi.load_dict(
            {
                "type": "perspective",
                "fov": float(np.degrees(2 * np.arctan(camera.width_px / 2 / focal))),
                "fov_axis": "x",
                "near_clip": 0.05,
                "principal_point_offset_x": float(
                    (camera.width_px / 2 - middle[0]) / camera.width_px
                ),
                "principal_point_offset_y": float(
                    (camera.height_px / 2 - middle[1]) / camera.height_px
                ),
                "to_world": mi.ScalarTransform4f().look_at(
                    origin=eye.tolist(), target=(eye - near).tolist(), up=above.tolist()
                ),
                "film": film,
                "sampler": {"type": "independent"},
            }
        )

    def _part(self, corners: Array) -> tuple[int, int, int, int]:
        """The part of the picture that what moves, its shadow on the floor and its mirror image lie in."""
        fallen = corners * [1, 0, 1]
        pieces = [corners, fallen]
        if self.mirrored:
            pieces.append(corners * [1, 1, -1] + [0, 0, 2 * WALL_Z])
        places = np.concatenate([self._to_px(piece[::5]) for piece in pieces])
        wide, high = self.camera.width_px, self.camera.height_px
        spread = int(0.22 * self.camera.px_per_m)
        left, top = np.clip(places.min(axis=0).astype(int) - spread, 0, [wide - 8, high - 8])
        right, foot = np.clip(places.max(axis=0).astype(int) + spread, 8, [wide, high])
        return int(left), int(top), int(max(right - left, 8)), int(max(foot - top, 8))

    def _to_px(self, space: Array) -> Array:
        plain = replace(self.camera, facing="right")
        return plain.to_px(space[:, :2], space[:, 2])

    def _open_sides(self, box: tuple[int, int, int, int]) -> tuple[bool, bool, bool, bool]:
        left, top, wide, high = box
        camera = self.camera
        return left > 0, top > 0, left + wide < camera.width_px, top + high < camera.height_px

    def _glass(self, box: tuple[int, int, int, int]) -> Light:
        mask = np.zeros((self.camera.height_px, self.camera.width_px), np.uint8)
        cv2.fillConvexPoly(mask, np.round(self._to_px(np.array(GLASS))).astype(np.int32), 1)
        left, top, wide, high = box
        return mask[top : top + high, left : left + wide].astype(np.float32)


def _spread(light: Light) -> Light:
    return np.asarray(cv2.GaussianBlur(light, (0, 0), SHADOW_SIGMA_PX), np.float32)


def _from_border(high: int, wide: int, open_sides: tuple[bool, bool, bool, bool]) -> Light:
    """How far each pixel is from the part's borders; the picture's own edges are none."""
    left, top, right, foot = open_sides
    across, down = np.arange(wide, dtype=np.float32), np.arange(high, dtype=np.float32)
    far = np.float32(1e6)
    x = np.minimum(across if left else far, (wide - 1 - across) if right else far)
    y = np.minimum(down if top else far, (high - 1 - down) if foot else far)
    whole = np.broadcast_to(x, (high, wide)).astype(np.float32)
    return np.minimum(whole, np.broadcast_to(y, (high,))[:, None].astype(np.float32))
