"""A movement shown by a body: any instant, from any side, shaded, with what is held.

The side view's figure says where the joints are (see `figure_of`), the lifter's flesh follows. It shows
what is meant; it is no measured lift.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Movement
from keen_kettle.core.simulate.body3d.lift_figure import LiftFigure
from keen_kettle.core.simulate.body3d.lifter import GRIP_HALF_M, Lifter, load_lifter
from keen_kettle.core.simulate.body3d.paper import PLATE_M, Inks3d, Load, Paper, View
from keen_kettle.core.simulate.body3d.pose import Bones, Held, pose_bones
from keen_kettle.core.simulate.body3d.skin import skin
from keen_kettle.core.simulate.figure import Figure, FigurePose, figure_of

__all__ = ["BodyFigure"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Flesh = NDArray[np.float32]
Colour = tuple[int, int, int]

STEPS_A_SECOND = 30
PLATE_Z_M = (0.685, 0.745)
BELL_M = {"dumbbell": 0.075, "dumbbell pair": 0.075, "kettlebell": 0.11}
TWO_HANDED = ("goblet squat", "assisted kettlebell rack")


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
        self._ghost: tuple[tuple[object, ...], Picture] | None = None
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
        paper = Paper(
            wide * up, high * up, inks, view or View(), self.figure.implement, self.tall_m
        )
        paper.floor()
        if ghost_t_s is not None:
            self._lay_ghost(paper, ghost_t_s, (self._step(ghost_t_s), wide, high, inks, view, up))
        self._draw(paper, t_s)
        if up == 1:
            return paper.image
        return np.asarray(
            cv2.resize(paper.image, (wide, high), interpolation=cv2.INTER_AREA), np.uint8
        )

    def _lay_ghost(self, paper: Paper, t_s: float, key: tuple[object, ...]) -> None:
        """The faint figure of an instant; while the other moves it stays the same, and is kept."""
        if self._ghost is None or self._ghost[0] != key:
            self._draw(paper, t_s)
            paper.fade()
            self._ghost = key, paper.image.copy()
        paper.image[:] = self._ghost[1]

    def _draw(self, paper: Paper, t_s: float) -> None:
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


def _loads(figure: Shown, pose: FigurePose) -> list[Load]:
    if pose.load is None:
        return []
    if figure.implement == "barbell":
        far, near = PLATE_Z_M
        return [Load(pose.load, (-near, -far), PLATE_M), Load(pose.load, (far, near), PLATE_M)]
    if figure.implement == "stick":
        return []
    radius = BELL_M[figure.implement]
    if figure.implement == "dumbbell pair":
        return [
            Load(pose.load, (side * 0.24 - 0.09, side * 0.24 + 0.09), radius) for side in (-1, 1)
        ]
    middle = 0.0 if figure.name in TWO_HANDED else 0.16
    if figure.implement == "kettlebell":
        return [Load(pose.load + np.array([0.0, -0.12]), (middle, middle), radius)]
    return [Load(pose.load, (middle - 0.09, middle + 0.09), radius)]
