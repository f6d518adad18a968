"""A lifter who stands and holds a bar, seen from the front: for grips."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body import solve_pose
from keen_kettle.core.simulate.body3d.lifter import Lifter
from keen_kettle.core.simulate.body3d.paper import Inks3d, Paper, View
from keen_kettle.core.simulate.body3d.pose import Held, pose_bones
from keen_kettle.core.simulate.body3d.skin import skin

__all__ = ["FrontPicture", "front_picture"]

FROM_THE_FRONT = View(90.0)
BEFORE_M = 0.05
"""How far before the shoulders a bar hangs."""
HALF_M = 0.72
"""Half of the width that is shown: what lies between the plates of a bar."""
MOST_LONGER = 1.2


@dataclass(frozen=True)
class FrontPicture:
    """The picture, shape (high, wide, 4), and where on it a place in space is: metres to the right of the
    middle and above the floor become pixels."""

    image: NDArray[np.uint8]
    paper: Paper

    def place(self, aside_m: float, up_m: float) -> tuple[float, float]:
        (x, y), *_ = self.paper.project(np.array([[0.0, up_m, -aside_m]]))[0].tolist()
        return x, y


def front_picture(
    lifter: Lifter,
    bar_m: float | None,
    grip_m: float,
    size: tuple[int, int],
    inks: Inks3d,
    tall_m: float,
) -> FrontPicture:
    """The lifter with the hands so far apart on a bar at a height; without a height nothing is held.

    `size` is (wide, high) in pixels, `tall_m` the height that the picture shows.
    """
    body = lifter.body
    shoulder = np.array([0.0, body.standing_shoulder_m()])
    hangs = bar_m is not None and bar_m < shoulder[1]
    high = bar_m if bar_m is not None else shoulder[1] - 0.9 * body.arm_seen_m("clean")
    hand = np.array([BEFORE_M if hangs or bar_m is None else 0.0, high])
    pose = solve_pose(body, hand, shoulder - hand, 1.0, 0.0, "clean", 0.0)
    up = 0.0 if hangs or bar_m is None else 1.0
    held = Held(hand if bar_m is not None else None, grip_m / 2, 0.0, up, 1.0)
    if bar_m is not None:
        held = replace(held, longer=_longer(lifter, shoulder, np.append(hand, grip_m / 2)))
    bones = pose_bones(lifter, pose.points, held, held)
    paper = Paper(*size, inks, FROM_THE_FRONT, "none", tall_m, HALF_M)
    paper.floor()
    paper.body(*skin(lifter, bones), lifter.quads, lifter.parts)
    return FrontPicture(paper.image, paper)


def _longer(lifter: Lifter, shoulder: NDArray[np.float64], hand: NDArray[np.float64]) -> float:
    """How much longer than the lifter's the arms are that reach this bar: it stands where the athlete's
    own lengths put it."""
    aside = float(lifter.head("upperarm01.R")[2])
    whole = lifter.between("upperarm01.R", "lowerarm01.R") + lifter.between(
        "lowerarm01.R", "wrist.R"
    )
    apart = float(np.linalg.norm(hand - [*shoulder, aside])) - lifter.palm_m
    return float(np.clip(apart / (0.995 * whole), 1 / MOST_LONGER, MOST_LONGER))
