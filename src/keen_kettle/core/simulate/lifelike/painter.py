"""Paints a simulated lift with a body of flesh: light of the hall, shadows on its floor, real plates.

The near plate's outer face, the joints and the camera are those of the truth; the flesh follows.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body3d import Bones, Held, Lifter, load_lifter, pose_bones, skin
from keen_kettle.core.simulate.body3d.lifter import GRIP_HALF_M, MeasuredBody
from keen_kettle.core.simulate.body3d.paint import brightness, covered_by, paint_faces
from keen_kettle.core.simulate.camera import PLATE_DEPTH_M, Camera
from keen_kettle.core.simulate.lifelike.bystander import paint_box, seated_flesh, standing_flesh
from keen_kettle.core.simulate.lifelike.dress import dressed
from keen_kettle.core.simulate.lifelike.halls import (
    BACK_Z_M,
    GLASS_M,
    LIGHTS,
    WALL_Z_M,
    paint_lifelike_hall,
)
from keen_kettle.core.simulate.lifelike.plates import (
    PLATES,
    PlateLook,
    paint_plate_3d,
    paint_sleeve,
    plate_outlines,
)
from keen_kettle.core.simulate.lifelike.walker import walker_flesh
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.scene import Look, bell_centre_m, paint_bell

__all__ = ["PLATES", "LifelikePainter", "PlateLook", "Wear", "bones_of"]

Picture = NDArray[np.uint8]
Array = NDArray[np.float64]
Colour = tuple[int, int, int]

FAR_SCALE = 4
"""Shadows are painted at a quarter of the size."""
WITHIN_M = 0.16
"""A joint lies less deep within its own limb; what is nearer than that covers it."""
CLASS_Z_M, STICK_HALF_M = -1.9, 0.75
CLASS_SHIRTS = ((60, 90, 160), (150, 130, 60), (70, 70, 74))
SMALL_CLOTH = 0.07
"""How much the shade of single faces differs: folds, weave, hair."""


@dataclass(frozen=True)
class Wear:
    """What the lifter wears and looks like; colours as (blue, green, red)."""

    shirt: Colour = (104, 66, 40)
    shorts: Colour = (48, 44, 42)
    skin: Colour = (122, 150, 196)
    hair: Colour = (30, 36, 48)
    shoe: Colour = (196, 198, 204)
    loose_shorts: bool = False
    long_hair: bool = False

    def of_parts(self) -> Array:
        eye = (40, 44, 50)
        return np.array([self.skin, self.hair, self.shoe, self.shirt, self.shorts, eye], float)


@dataclass(frozen=True)
class LifelikePainter:
    """How the film looks: hall and light, who lifts in what, which plates, how sharp, who stands by.

    `soft_px` is the blur of lens and codec on everything (one sigma), `bystander` puts somebody behind
    the lifter (`seated` on a box), `walker` lets somebody walk by there during the lift, and the hall with
    a mirror shows the lifter in it where it `reflects`. `load` is "plates", or "stick" or "kettlebell",
    neither of which has a plate; `class_of` so many lift sticks behind. The lift has to be simulated on the lifter's own body (`body`).
    """

    hall_name: str = "rubber"
    light: str = "neon"
    lifter: str = "man"
    wear: Wear = field(default_factory=Wear)
    plate: PlateLook = field(default_factory=PlateLook)
    soft_px: float = 0.9
    stack: int = 1
    bystander: bool = False
    walker: bool = False
    reflects: bool = False
    seated: bool = False
    load: str = "plates"
    class_of: int = 0

    @property
    def body(self) -> MeasuredBody:
        """The lifter's own lengths, on which the lift is simulated."""
        return load_lifter(self.lifter).body

    def hall(self, camera: Camera, rng: np.random.Generator) -> Picture:
        """The still hall, with whoever stands by."""
        picture = paint_lifelike_hall(self.hall_name, self.light, camera, rng)
        if self.bystander:
            self._stand_by(picture, camera)
        return picture

    def paint(self, picture: Picture, lift: SimulatedLift, instant: float, camera: Camera) -> None:
        """Lifter, bar and plates at an instant, in place."""
        lifter = dressed(self.lifter, self.wear.loose_shorts, self.wear.long_hair)
        bar = lift.bar_m(np.array([instant]))[0]
        far = bar - np.array([0.0, float(lift.tip_m(np.array([instant]))[0])])
        bones = bones_of(lifter, lift, instant)
        vertices, normals = skin(lifter, bones)
        if self.reflects:
            self._in_the_glass(picture, vertices, normals, lifter, bar, camera)
        if self.walker:
            lifted_s = lift.path.events_s.get("lift_off", lift.duration_s / 2)
            self._walk_by(picture, instant - lifted_s - 0.4, camera)
        for number in range(self.class_of):
            self._lift_along(picture, lift, instant, camera, number)
        self._shadows(picture, vertices, bar, camera)
        stacked = range(self.stack if self.load == "plates" else 0)
        for k in stacked:
            self._plate(picture, far, 0.055 * k - PLATE_DEPTH_M, camera, instant, 0.7)
        if self.load != "kettlebell":
            paint_sleeve(picture, camera, (far, bar), -PLATE_DEPTH_M, PLATE_DEPTH_M, 0.014, 0.8)
        self._flesh(picture, vertices, normals, lifter, camera)
        for k in reversed(stacked):
            self._plate(picture, bar, PLATE_DEPTH_M - 0.055 * k, camera, instant, 1.0)
        if self.load == "kettlebell":
            centre = bell_centre_m("kettlebell", bar, lift.pose(instant))
            paint_bell(picture, camera, centre, Look(implement="kettlebell", plate_diameter_m=0.21))
        elif self.load == "plates" and self.plate.sleeve:
            outer = PLATE_DEPTH_M + 0.36
            paint_sleeve(picture, camera, (bar, bar), PLATE_DEPTH_M, outer, 0.025, 1.0)
        if self.soft_px > 0.2:
            soft = cv2.GaussianBlur(picture, (0, 0), self.soft_px)
            picture[:] = soft

    def joints(
        self, lift: SimulatedLift, instant: float
    ) -> tuple[dict[str, Array], dict[str, Array]]:
        """The landmarks of the near and of the far side in space; ear, toe and heel lie as far aside as they
        do at rest."""
        lifter = load_lifter(self.lifter)
        bones = bones_of(lifter, lift, instant)
        pose = lift.pose(instant)
        far_leg = pose.points if pose.far_leg is None else pose.far_leg
        return (
            _landmarks_of(lifter, bones, pose.points, "R"),
            _landmarks_of(lifter, bones, far_leg, "L"),
        )

    def covers(
        self, lift: SimulatedLift, instant: float, camera: Camera, places: Array
    ) -> list[str]:
        """What lies before each of some places, (n, 3) in space: "plate", "body", or nothing ("")."""
        spots = camera.to_px(places[:, :2], places[:, 2])
        lifter = dressed(self.lifter, self.wear.loose_shorts, self.wear.long_hair)
        vertices, _ = skin(lifter, bones_of(lifter, lift, instant))
        corners, near = _seen(vertices, camera)
        _, deep = _seen(places.astype(np.float32), camera)
        behind = covered_by(corners, near, lifter.quads, spots, deep + WITHIN_M)
        found = ["body" if one else "" for one in behind]
        if self.load == "plates":
            bar = lift.bar_m(np.array([instant]))[0]
            _, whole = plate_outlines(camera, bar, PLATE_DEPTH_M, self.plate)
            outline = whole.astype(np.float32)
            for k, (x, y) in enumerate(spots.tolist()):
                if cv2.pointPolygonTest(outline, (x, y), False) >= 0:
                    found[k] = "plate"
        return found

    # Parts

    def _plate(
        self,
        picture: Picture,
        bar: Array,
        depth: float,
        camera: Camera,
        instant: float,
        shade: float,
    ) -> None:
        spin = 0.35 * float(np.sin(2.1 * instant)) * float(bar[1] > 0.26)
        tint = LIGHTS[self.light].tint
        paint_plate_3d(picture, camera, bar, depth, spin, self.plate, shade, tint)

    def _flesh(
        self,
        picture: Picture,
        vertices: NDArray[np.float32],
        normals: NDArray[np.float32],
        lifter: Lifter,
        camera: Camera,
    ) -> None:
        places, near = _seen(vertices, camera)
        light = LIGHTS[self.light]
        sign = 1.0 if camera.facing == "right" else -1.0
        lit = normals * np.array([sign, 1.0, 1.0], np.float32)
        bright = brightness(lit, light.lights, light.ambient)
        colours = self.wear.of_parts()[lifter.parts] * _weave(len(lifter.quads))[:, None]
        colours = colours * np.array(light.tint)
        paint_faces(picture, places, near, bright, lifter.quads, colours, sign < 0)

    def _shadows(
        self, picture: Picture, vertices: NDArray[np.float32], bar: Array, camera: Camera
    ) -> None:
        """Soft shadow of the body on the floor, and the darker one where plates and feet touch it."""
        high, wide = picture.shape[:2]
        mask = np.zeros((high // FAR_SCALE + 1, wide // FAR_SCALE + 1), np.float32)
        fallen = np.column_stack([vertices[:, 0] - 0.25 * vertices[:, 1], np.zeros(len(vertices))])
        spots = camera.to_px(fallen, vertices[:, 2] - 0.12 * vertices[:, 1]) / FAR_SCALE
        inside = (spots >= 0).all(1) & (spots[:, 0] < mask.shape[1]) & (spots[:, 1] < mask.shape[0])
        rows = spots[inside].astype(int)
        mask[rows[:, 1], rows[:, 0]] = 1
        size = max(int(0.05 * camera.px_per_m / FAR_SCALE), 1)
        mask = np.asarray(cv2.dilate(mask, np.ones((2 * size + 1, 2 * size + 1))))
        mask = np.asarray(cv2.GaussianBlur(mask, (0, 0), 1.6 * size)) * LIGHTS[self.light].shadow
        low = float(np.clip(1 - (bar[1] - 0.225) / 0.25, 0, 1)) * (self.load == "plates")
        for depth in (-PLATE_DEPTH_M, PLATE_DEPTH_M) if low > 0 else ():
            spot = camera.to_px(np.array([bar[0], 0.0]), depth) / FAR_SCALE
            axes = (
                int(0.17 * camera.px_per_m / FAR_SCALE) + 1,
                max(int(0.02 * camera.px_per_m / FAR_SCALE), 1),
            )
            pool = np.zeros_like(mask)
            cv2.ellipse(pool, (int(spot[0]), int(spot[1])), axes, 0, 0, 360, 1.0, -1)
            mask = np.maximum(
                mask,
                self.plate.contact * low * np.asarray(cv2.GaussianBlur(pool, (0, 0), 1.2 * size)),
            )
        whole = cv2.resize(mask, (wide, high), interpolation=cv2.INTER_LINEAR)[..., None]
        picture[:] = (picture * (1 - np.clip(whole, 0, 0.85))).astype(np.uint8)

    def _in_the_glass(
        self,
        picture: Picture,
        vertices: NDArray[np.float32],
        normals: NDArray[np.float32],
        lifter: Lifter,
        bar: Array,
        camera: Camera,
    ) -> None:
        """Lifter and plate as the mirror on the wall shows them: behind it, as far as they stand before it."""
        seen = picture.copy()
        depth = 2 * WALL_Z_M - PLATE_DEPTH_M
        self._plate(seen, bar, depth, camera, 0.0, 0.8)
        behind = vertices * [1, 1, -1] + [0, 0, 2 * WALL_Z_M]
        turned = np.asarray(normals * [1, 1, -1], np.float32)
        flipped = replace(lifter, quads=lifter.quads[:, ::-1])
        self._flesh(seen, np.asarray(behind, np.float32), turned, flipped, camera)
        seen = np.asarray(cv2.GaussianBlur(seen, (0, 0), 1.0))
        left, right, foot, head = GLASS_M
        corners = np.array([(left, foot), (right, foot), (right, head), (left, head)])
        mask = np.zeros(picture.shape[:2], np.uint8)
        outline = np.round(camera.to_px(corners, BACK_Z_M)).astype(np.int32)
        cv2.fillConvexPoly(mask, outline, 1)
        picture[mask > 0] = (0.86 * seen[mask > 0]).astype(np.uint8)

    def _walk_by(self, picture: Picture, since_s: float, camera: Camera) -> None:
        other = load_lifter("woman" if self.lifter != "woman" else "tall man")
        vertices, normals = walker_flesh(other, since_s)
        self._flesh(picture, vertices, normals, other, camera)

    def _lift_along(
        self, picture: Picture, lift: SimulatedLift, instant: float, camera: Camera, number: int
    ) -> None:
        """One of a class who does the same behind with a stick, a little later than the one before."""
        lifter = load_lifter(self.lifter)
        then = float(np.clip(instant - 0.15 * (number + 1), 0.0, lift.duration_s))
        vertices, normals = skin(lifter, bones_of(lifter, lift, then))
        aside = np.array([1.5 * (number - (self.class_of - 1) / 2), 0.0, CLASS_Z_M])
        hands = lift.hands_m(np.array([then]))[0] + aside[:2]
        ends = CLASS_Z_M - STICK_HALF_M, CLASS_Z_M + STICK_HALF_M
        paint_sleeve(picture, camera, (hands, hands), *ends, 0.013, 1.1)
        shirt = CLASS_SHIRTS[number % len(CLASS_SHIRTS)]
        other = replace(self, wear=replace(self.wear, shirt=shirt))
        other._flesh(picture, np.asarray(vertices + aside, np.float32), normals, lifter, camera)

    def _stand_by(self, picture: Picture, camera: Camera) -> None:
        """Somebody else behind, to one side."""
        other = load_lifter("woman" if self.lifter != "woman" else "tall man")
        if self.seated:
            paint_box(picture, camera, LIGHTS[self.light].tint)
        vertices, normals = seated_flesh(other) if self.seated else standing_flesh(other)
        self._flesh(picture, vertices, normals, other, camera)


def _landmarks_of(
    lifter: Lifter, bones: Bones, leg: Mapping[str, Array], side: str
) -> dict[str, Array]:
    """One side's landmarks in space; `leg` has its toe and heel, shape (2,) each."""
    named = {
        "hip": "upperleg01",
        "knee": "lowerleg01",
        "ankle": "foot",
        "shoulder": "upperarm01",
        "elbow": "lowerarm01",
        "wrist": "wrist",
    }
    found = {name: bones.places[lifter.index[f"{bone}.{side}"]] for name, bone in named.items()}
    sign = 1.0 if side == "R" else -1.0
    foot = float(found["ankle"][2])
    for name, aside in (("toe", foot + 0.03 * sign), ("heel", foot - 0.02 * sign)):
        found[name] = np.append(leg[name], aside)
    head = lifter.index["head"]
    off = (lifter.ear - lifter.heads[head]) * [1, 1, sign]
    found["ear"] = bones.places[head] + bones.turns[head] @ off
    return found


@lru_cache(maxsize=8)
def _weave(faces: int) -> Array:
    """How the shade of each face differs, the same in every frame."""
    return 1 + SMALL_CLOTH * np.random.default_rng(faces).normal(0, 1, faces)


def _seen(vertices: NDArray[np.float32], camera: Camera) -> tuple[Array, Array]:
    """Places in the picture and nearness of points in space."""
    deep = vertices[:, 2].astype(float)
    across = vertices[:, 0] * (1.0 if camera.facing == "right" else -1.0)
    yaw = np.radians(camera.yaw_deg)
    near = deep * np.cos(yaw) - across * np.sin(yaw)
    return camera.to_px(vertices[:, :2].astype(float), deep), near


def bones_of(lifter: Lifter, lift: SimulatedLift, instant: float) -> Bones:
    """The lifter's bones at an instant of a lift."""
    pose, bar = lift.pose(instant), lift.hands_m(np.array([instant]))[0]
    family = "snatch" if lift.script.family == "snatch" else "clean"
    rack = lift._rack_share(instant) if lift.script.family == "clean" else 0.0
    if lift.script.family == "jerk":
        rack = float(np.clip(1 - (bar[1] - pose["shoulder"][1]) / 0.25, 0, 1))
    up = float(np.clip((bar[1] - pose["shoulder"][1]) / 0.4, 0, 1))
    held = Held(bar, GRIP_HALF_M[family], rack, up)
    return pose_bones(lifter, pose.points, held, held, pose.far_leg)
