"""Halls to be traced: floor, walls, windows, mirror, racks with like plates, machines. All in metres, the
lifter's middle at the origin; textures are drawn here, light comes from lamps and windows."""

from dataclasses import dataclass
from typing import Any

import cv2
import mitsuba as mi
import numpy as np
from numpy.typing import NDArray

from bench.gold.meshes import Mesh, box, cylinder, flat, joined, turned
from keen_kettle.core.simulate.camera import PLATE_DEPTH_M
from keen_kettle.core.simulate.lifelike.plates import PLATES, THICK_M, PlateLook, plate_face

__all__ = [
    "GLASS",
    "ROOMS",
    "Room",
    "bar_meshes",
    "matt",
    "mesh_shape",
    "picture_texture",
    "plate_mesh",
    "room_shapes",
]

Canvas = NDArray[np.float32]
Colour = tuple[float, float, float]
Rng = np.random.Generator

WALL_Z, HIGH, HALF = -2.9, 3.4, 6.5
GLASS = [(x, y, WALL_Z + 0.03) for x, y in ((0.1, 0.2), (3.2, 0.2), (3.2, 2.2), (0.1, 2.2))]
"""The mirror's corners, in the room that has one."""


@dataclass(frozen=True)
class Room:
    """What stands in a hall; colours are linear (red, green, blue). `lamp` and `window` say how bright."""

    wall: Colour = (0.42, 0.41, 0.38)
    bricks: bool = True
    floor: Colour = (0.024, 0.024, 0.026)
    platform: bool = True
    window: float = 0.0
    lamp: float = 9.0
    mirror: bool = False
    racks: tuple[float, ...] = ()
    rack_plate: str = "black"
    lattice: int = 0
    boxes: int = 3
    seed: int = 1


ROOMS = {
    "brick": Room(window=14.0, racks=(-2.6,)),
    "glass": Room(bricks=False, window=30.0, lamp=4.0, boxes=5, seed=2),
    "mirror": Room(bricks=False, mirror=True, racks=(-3.0,), seed=3),
    "racks": Room((0.30, 0.30, 0.32), racks=(-3.1, -1.5, 0.5, 2.0), rack_plate="green", seed=4),
    "machines": Room((0.12, 0.12, 0.13), False, racks=(-1.4,), lattice=150, platform=False, seed=5),
    "cellar": Room(
        (0.10, 0.09, 0.085), True, (0.016, 0.016, 0.017), False, lamp=3.0, boxes=6, seed=6
    ),
    "bright": Room((0.62, 0.62, 0.60), False, (0.10, 0.10, 0.11), window=8.0, boxes=2, seed=7),
}


def room_shapes(room: Room) -> dict[str, object]:
    """All that stands still, as shapes of the scene by name."""
    rng = np.random.default_rng(room.seed)
    shapes: dict[str, object] = {"sky": _sky(room, rng)}
    shapes["floor"] = mesh_shape(
        flat([(-HALF, 0, 4), (HALF, 0, 4), (HALF, 0, WALL_Z), (-HALF, 0, WALL_Z)], (7, 4)),
        matt(picture_texture(_speckle(rng, room.floor))),
    )
    wall = _bricks(rng, room.wall) if room.bricks else _panels(rng, room.wall)
    shapes["wall"] = mesh_shape(
        flat(
            [(-HALF, 0, WALL_Z), (HALF, 0, WALL_Z), (HALF, HIGH, WALL_Z), (-HALF, HIGH, WALL_Z)],
            (4, 1),
        ),
        matt(picture_texture(wall)),
    )
    if room.platform:
        corners = [
            (-1.25, 0.004, 1.1),
            (1.25, 0.004, 1.1),
            (1.25, 0.004, -1.1),
            (-1.25, 0.004, -1.1),
        ]
        shapes["platform"] = mesh_shape(flat(corners), matt(picture_texture(_boards(rng))))
    if room.window:
        shapes |= _windows(room)
    if room.mirror:
        silver: dict[str, object] = {"type": "conductor", "material": "Ag"}
        silver["specular_reflectance"] = {"type": "rgb", "value": 0.82}
        shapes["mirror"] = mesh_shape(flat(GLASS), silver)
    for number, x in enumerate(room.racks):
        shapes |= _rack(rng, number, x, PLATES[room.rack_plate])
    if room.lattice:
        shapes["lattice"] = mesh_shape(_lattice(rng, room.lattice), matt((0.10, 0.10, 0.11)))
    for number in range(room.boxes):
        x, wide, high = rng.uniform(-4.5, 4.2), rng.uniform(0.3, 0.9), rng.uniform(0.2, 0.9)
        piece = box((x, 0, WALL_Z + 0.1), (x + wide, high, WALL_Z + 0.6))
        tone = tuple(float(one) for one in rng.uniform(0.02, 0.35, 3))
        shapes[f"box{number}"] = mesh_shape(piece, matt(tone))
    return shapes


def bar_meshes(stack: int) -> tuple[Mesh, Mesh]:
    """(steel, plates) with the bar's axis on z through the origin; outer faces where the truth has them."""
    steel = [cylinder(-PLATE_DEPTH_M, PLATE_DEPTH_M, 0.014)]
    plates = []
    for sign in (1.0, -1.0):
        low, high = sorted((sign * PLATE_DEPTH_M, sign * (PLATE_DEPTH_M + 0.36)))
        steel.append(cylinder(low, high, 0.025))
        for k in range(stack):
            whole = plate_mesh()
            front = PLATE_DEPTH_M - THICK_M * k
            if sign > 0:
                plates.append(whole.moved((0, 0, front)))
            else:
                plates.append(
                    Mesh(whole.corners * [1, 1, -1], whole.triangles[:, ::-1], whole.places).moved(
                        (0, 0, -front)
                    )
                )
    return joined(steel), joined(plates)


def plate_mesh(diameter_m: float = 0.45) -> Mesh:
    """A plate with its outer face at z = 0: hub, sunk web, raised rim with rounded edges."""
    r = diameter_m / 2
    profile = [
        (0.026, 0.0),
        (0.12 * r, 0.0),
        (0.14 * r, -0.006),
        (0.78 * r, -0.008),
        (0.84 * r, 0.0),
    ]
    profile += [
        (0.985 * r, 0.0),
        (r, -0.004),
        (r, -THICK_M + 0.004),
        (0.985 * r, -THICK_M),
        (0.026, -THICK_M),
    ]
    return turned(profile)


# Materials


def matt(colour: object) -> dict[str, object]:
    value = {"type": "rgb", "value": list(colour)} if isinstance(colour, tuple) else colour
    return {"type": "twosided", "below": {"type": "diffuse", "reflectance": value}}


def picture_texture(picture: Canvas) -> dict[str, object]:
    """Linear (red, green, blue), rows top-down."""
    return {
        "type": "bitmap",
        "bitmap": mi.Bitmap(np.ascontiguousarray(picture, np.float32)),
        "raw": True,
    }


def plate_texture(look: PlateLook) -> dict[str, object]:
    """The face that the quick painter lays on, as albedo: from display values to linear ones."""
    face = plate_face(look)
    colour = face[..., :3] / np.maximum(face[..., 3:4], 1e-3)
    linear = (np.clip(colour, 0, 255) / 255) ** 2.2
    return picture_texture(np.clip(linear[..., ::-1], 0.004, 0.85))


def mesh_shape(mesh: Mesh, material: dict[str, object], name: str = "piece") -> Any:
    props = mi.Properties()
    props["mesh_bsdf"] = mi.load_dict(material)
    with_places = mesh.places is not None
    shape = mi.Mesh(
        name, len(mesh.corners), len(mesh.triangles), props=props, has_vertex_texcoords=with_places
    )
    told = mi.traverse(shape)
    told["vertex_positions"] = np.asarray(mesh.corners, np.float32).ravel()
    told["faces"] = np.asarray(mesh.triangles, np.uint32).ravel()
    if mesh.places is not None:
        told["vertex_texcoords"] = np.asarray(mesh.places, np.float32).ravel()
    told.update()
    return shape


# Parts


def _sky(room: Room, rng: Rng) -> dict[str, object]:
    """The rest of the hall as light from far away: rows of lamps above, walls, a dark floor."""
    high, wide = 64, 128
    up = (0.5 - (np.arange(high) + 0.5) / high) * np.pi
    sky = np.empty((high, wide, 3), np.float32)
    sky[:] = (
        np.where(up > 0.5, 0.40, np.where(up > -0.08, 0.26, 0.06))[:, None, None] * room.lamp / 9
    )
    for left in range(4, wide, 16):
        sky[11:14, left : left + 8] = room.lamp * np.array([1.0, 0.96, 0.88])
        sky[4:6, left : left + 14] = room.lamp * np.array([1.0, 0.96, 0.88])
    for _ in range(6):
        left = int(rng.integers(0, wide - 10))
        sky[28:35, left : left + int(rng.integers(3, 9))] *= rng.uniform(0.2, 1.5)
    return {"type": "envmap", "bitmap": mi.Bitmap(sky), "scale": 1.0}


def _windows(room: Room) -> dict[str, object]:
    shapes: dict[str, object] = {}
    bars = []
    to_world = mi.ScalarTransform4f
    for number, x in enumerate((-3.0, -1.3, 0.4, 2.1)):
        glow = [0.86 * room.window, 0.95 * room.window, room.window]
        shapes[f"window{number}"] = {
            "type": "rectangle",
            "to_world": to_world().translate([x, 2.1, WALL_Z + 0.03])
            @ to_world().scale([0.7, 0.6, 1]),
            "emitter": {"type": "area", "radiance": {"type": "rgb", "value": glow}},
        }
        bars += [
            box((at - 0.02, 1.5, WALL_Z + 0.04), (at + 0.02, 2.7, WALL_Z + 0.09))
            for at in (x - 0.7, x, x + 0.7)
        ]
        bars.append(box((x - 0.7, 2.08, WALL_Z + 0.04), (x + 0.7, 2.12, WALL_Z + 0.09)))
    shapes["window bars"] = mesh_shape(joined(bars), matt((0.25, 0.25, 0.25)))
    return shapes


def _rack(rng: Rng, number: int, x: float, look: PlateLook) -> dict[str, object]:
    """Uprights and beams with six plates seen face on."""
    z = WALL_Z + 0.5
    steel = [box((at - 0.03, 0, z - 0.03), (at + 0.03, 2.3, z + 0.03)) for at in (x, x + 1.25)]
    steel += [
        box((x, y - 0.02, z - 0.02), (x + 1.25, y + 0.02, z + 0.02)) for y in (0.28, 1.0, 2.25)
    ]
    shapes: dict[str, object] = {
        f"rack{number}": mesh_shape(joined(steel), matt((0.03, 0.03, 0.034)))
    }
    plates = []
    for k in range(6):
        whole = plate_mesh(float(rng.choice([0.45, 0.45, 0.45, 0.32])))
        turn = rng.uniform(0, 6)
        c, s = np.cos(turn), np.sin(turn)
        corners = whole.corners @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
        place = (x + 0.12 + 0.5 * (k % 3), 0.28 + 0.72 * (k // 3), z + 0.12)
        plates.append(Mesh(corners, whole.triangles, whole.places).moved(place))
    shapes[f"racked{number}"] = mesh_shape(joined(plates), matt(plate_texture(look)))
    return shapes


def _lattice(rng: Rng, count: int) -> Mesh:
    """Bars and beams of machines: many straight edges."""
    pieces = []
    for _ in range(count):
        x, y, z = rng.uniform(-4.2, 4.2), rng.uniform(0.05, 2.4), WALL_Z + rng.uniform(0.15, 0.9)
        long, thick = rng.uniform(0.3, 1.4), rng.uniform(0.012, 0.04)
        size = (long, thick) if rng.uniform() < 0.5 else (thick, long)
        pieces.append(box((x, y, z), (x + size[0], y + size[1], z + thick)))
    return joined(pieces)


def _grain(rng: Rng, high: int, wide: int, size: float) -> Canvas:
    small = rng.normal(0, 1, (max(int(high / size), 2), max(int(wide / size), 2))).astype(
        np.float32
    )
    return np.asarray(cv2.resize(small, (wide, high), interpolation=cv2.INTER_CUBIC), np.float32)


def _speckle(rng: Rng, base: Colour, size: int = 768) -> Canvas:
    picture = np.empty((size, size, 3), np.float32)
    picture[:] = np.array(base, np.float32) * (1 + 0.2 * _grain(rng, size, size, 50))[..., None]
    for x, y in rng.integers(0, size, (4500, 2)):
        tone = [float(one * rng.uniform(1.5, 9)) for one in base]
        cv2.circle(picture, (int(x), int(y)), int(rng.integers(1, 3)), tone, -1, cv2.LINE_AA)
    return np.clip(picture, 0.003, 0.8)


def _boards(rng: Rng, size: int = 768) -> Canvas:
    picture = np.empty((size, size, 3), np.float32)
    for top in range(0, size, 48):
        tone = np.array([0.33, 0.20, 0.10], np.float32) * rng.uniform(0.75, 1.2)
        picture[top : top + 48] = tone * (1 + 0.14 * _grain(rng, 48, size, 5))[..., None]
        picture[top : top + 2] *= 0.4
    return np.clip(picture, 0.01, 0.9)


def _bricks(rng: Rng, base: Colour, size: int = 1024) -> Canvas:
    picture = np.empty((size, size, 3), np.float32)
    picture[:] = np.array(base, np.float32) * 0.6
    step = size // 26
    for row, top in enumerate(range(0, size, step)):
        for left in range(-(row % 2) * step, size, 2 * step):
            piece = picture[top + 3 : top + step, max(left + 3, 0) : left + 2 * step]
            piece[:] = np.array(base, np.float32) * rng.uniform(0.85, 1.12)
    return np.clip(picture * (1 + 0.07 * _grain(rng, size, size, 20))[..., None], 0.01, 0.9)


def _panels(rng: Rng, base: Colour, size: int = 1024) -> Canvas:
    picture = np.empty((size, size, 3), np.float32)
    picture[:] = np.array(base, np.float32)
    left = 0
    while left < size:
        step = int(rng.uniform(80, 220))
        picture[:, left : left + step] *= rng.uniform(0.85, 1.12)
        picture[:, left : left + 4] *= 0.55
        left += step
    picture[int(0.72 * size) :] *= 0.45
    return np.clip(picture * (1 + 0.05 * _grain(rng, size, size, 40))[..., None], 0.01, 0.9)
