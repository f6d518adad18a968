"""A movement shown by a body: any instant, from any side, shaded, with what is held.

The side view's figure says where the joints are (see `figure_of`), the lifter's flesh follows. It is
painted face by face from the farthest to the nearest; one light from above and the front, a weaker
one from the camera's side. It shows what is meant; it is no measured lift.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Movement
from keen_kettle.core.simulate.body3d.lift_figure import LiftFigure
from keen_kettle.core.simulate.body3d.lifter import GRIP_HALF_M, PARTS, Lifter, load_lifter
from keen_kettle.core.simulate.body3d.paint import SUB, brightness, paint_faces
from keen_kettle.core.simulate.body3d.pose import Bones, Held, pose_bones
from keen_kettle.core.simulate.body3d.skin import skin
from keen_kettle.core.simulate.figure import Figure, FigurePose, figure_of

__all__ = ["BodyFigure", "Inks3d", "View"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Flesh = NDArray[np.float32]
Colour = tuple[int, int, int]

DISTANCE_M = 11.0
STEPS_A_SECOND = 30
LIGHTS = ((0.55, (0.35, 0.75, 0.56)), (0.25, (-0.3, 0.1, 0.95)))
AMBIENT = 0.30
PLATE_M, PLATE_Z_M, SLEEVE_M = 0.225, (0.685, 0.745), 1.06
BELL_M = {"dumbbell": 0.075, "dumbbell pair": 0.075, "kettlebell": 0.11}
GLASS = 0.42
"""How much of a plate before the body is seen; the body is what the picture is for."""
NARROWEST_M = 0.55
"""Half of the width that is shown at least; a bar seen from the front needs more."""
TWO_HANDED = ("goblet squat", "assisted kettlebell rack")


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


Shown = Figure | LiftFigure
"""What a body can show: a movement as it is meant, or a simulated lift."""


class BodyFigure:
    """One movement, or one simulated lift, on one lifter; asking for an instant twice costs nothing.

    A lift has to be simulated on the lifter's own body.
    """

    def __init__(self, movement: Movement | LiftFigure, lifter: Lifter | None = None) -> None:
        self.lifter = lifter or load_lifter()
        figure = (
            movement if isinstance(movement, LiftFigure) else figure_of(movement, self.lifter.body)
        )
        if figure is None:
            raise ValueError(f"There is no moving figure of {movement.name}.")
        self.figure: Shown = figure
        self._kept: dict[int, tuple[FigurePose, Flesh, Flesh]] = {}
        loads = [figure.pose(key.t_s).load for key in figure.keys]
        tops = [float(one[1]) + PLATE_M for one in loads if one is not None]
        self.tall_m = max(1.06 * self.lifter.stature_m, *tops, 0.0) + 0.06
        """The height that is shown, in metres: the lifter's, or the load's highest place."""

    def bones(self, pose: FigurePose) -> Bones:
        """The lifter's bones in a pose of the figure."""
        right, left = _hands(self.figure, pose)
        return pose_bones(self.lifter, pose.points, right, left, pose.rear_leg)

    def at(self, t_s: float) -> tuple[FigurePose, Flesh, Flesh]:
        """Pose, vertices (V, 3) and normals at an instant, to a thirtieth of a second."""
        key = self._step(t_s)
        if key not in self._kept:
            pose = self.figure.pose(key / STEPS_A_SECOND)
            self._kept[key] = pose, *skin(self.lifter, self.bones(pose))
        return self._kept[key]

    def _step(self, t_s: float) -> int:
        return round(STEPS_A_SECOND * float(np.clip(t_s, 0, self.figure.duration_s)))

    def prepare(self) -> bool:
        """Pose one more instant ahead of its being asked for; whether there was one left."""
        for step in range(self._step(self.figure.duration_s) + 1):
            if step not in self._kept:
                self.at(step / STEPS_A_SECOND)
                return True
        return False

    def picture(
        self,
        t_s: float,
        wide: int,
        high: int,
        inks: Inks3d,
        view: View | None = None,
        ghost_t_s: float | None = None,
        fine: bool = True,
    ) -> Picture:
        """The figure at an instant, shape (high, wide, 4): blue, green, red, opaque.

        A ghost of another instant is laid behind it, faint. `fine` smooths edges by painting at twice
        the size.
        """
        up = 2 if fine else 1
        paper = _Paper(wide * up, high * up, inks, view or View(), self.figure, self.tall_m)
        paper.floor()
        if ghost_t_s is not None:
            self._draw(paper, ghost_t_s)
            paper.fade()
        self._draw(paper, t_s)
        if up == 1:
            return paper.image
        return np.asarray(
            cv2.resize(paper.image, (wide, high), interpolation=cv2.INTER_AREA), np.uint8
        )

    def _draw(self, paper: "_Paper", t_s: float) -> None:
        pose, vertices, normals = self.at(t_s)
        loads = _loads(self.figure, pose)
        for one in loads:
            if not paper.nearer(one):
                paper.load(one)
        paper.body(vertices, normals, self.lifter.quads, self.lifter.parts)
        for one in loads:
            if paper.nearer(one) and one.radius_m == PLATE_M:
                paper.glass(one)
            elif paper.nearer(one):
                paper.load(one)


@dataclass(frozen=True)
class _Load:
    """A disc on the bar or a bell: where, how far aside it begins and ends, its radius in metres."""

    at: Array
    z_m: tuple[float, float]
    radius_m: float


def _hands(figure: Shown, pose: FigurePose) -> tuple[Held, Held]:
    """What each hand holds, by the implement."""
    points, load = pose.points, pose.load
    if load is None:
        free = Held(None, 0.30)
        return free, free
    up = float(np.clip((load[1] - points["shoulder"][1]) / 0.4, 0, 1))
    if figure.implement in ("barbell", "stick"):
        both = Held(load, GRIP_HALF_M[figure.grip], pose.rack, up)
        return both, both
    if figure.implement == "dumbbell pair":
        both = Held(load, 0.24, pose.rack, up)
        return both, both
    if figure.name in TWO_HANDED:
        both = Held(load, 0.06, 0.0, up)
        return both, both
    arm = figure.body.upper_arm_m + figure.body.forearm_m
    hanging = points["shoulder"] + np.array([0.04, -0.97 * arm])
    return Held(load, 0.16, pose.rack, up), Held(hanging, 0.30)


def _loads(figure: Shown, pose: FigurePose) -> list[_Load]:
    if pose.load is None:
        return []
    if figure.implement == "barbell":
        far, near = PLATE_Z_M
        return [_Load(pose.load, (-near, -far), PLATE_M), _Load(pose.load, (far, near), PLATE_M)]
    if figure.implement == "stick":
        return []
    radius = BELL_M[figure.implement]
    if figure.implement == "dumbbell pair":
        return [
            _Load(pose.load, (side * 0.24 - 0.09, side * 0.24 + 0.09), radius) for side in (-1, 1)
        ]
    middle = 0.0 if figure.name in TWO_HANDED else 0.16
    if figure.implement == "kettlebell":
        return [_Load(pose.load + np.array([0.0, -0.12]), (middle, middle), radius)]
    return [_Load(pose.load, (middle - 0.09, middle + 0.09), radius)]


class _Paper:
    """A picture being painted; points in space become places on it."""

    def __init__(
        self, wide: int, high: int, inks: Inks3d, view: View, figure: Shown, tall_m: float
    ) -> None:
        self.image: Picture = np.empty((high, wide, 4), np.uint8)
        self.image[:] = (*inks.ground[::-1], 255)
        self._inks, self._colours = inks, inks.of_parts()
        yaw = -np.radians(view.yaw_deg)
        self._cos, self._sin = float(np.cos(yaw)), float(np.sin(yaw))
        margin = 0.07 * high
        aside = SLEEVE_M * abs(self._sin) if figure.implement in ("barbell", "stick") else 0.0
        self._scale = min((high - 1.6 * margin) / tall_m, 0.48 * wide / max(aside, NARROWEST_M))
        self._floor, self._middle = high - margin, wide / 2
        self._bar = figure.implement
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

    def nearer(self, one: _Load) -> bool:
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

    def glass(self, one: _Load) -> None:
        """A plate before the body: the body is seen through it, its rim stays plain."""
        before = self.image.copy()
        self.load(one)
        self.image[:] = cv2.addWeighted(self.image, GLASS, before, 1 - GLASS, 0)
        outer = max(one.z_m, key=abs)
        self._ring(one.at, outer, one.radius_m, 0.9 * np.array(self._inks.load, float))

    def load(self, one: _Load) -> None:
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
