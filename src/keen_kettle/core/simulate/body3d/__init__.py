"""A body of flesh for every movement: baked lifters, posed by our own figures, skinned and painted."""

from keen_kettle.core.simulate.body3d.figure import BodyFigure
from keen_kettle.core.simulate.body3d.front import FrontPicture, front_picture
from keen_kettle.core.simulate.body3d.lift_figure import (
    SHOWN_FAULTS,
    LiftFigure,
    lift_figure,
    plainest_s,
    same_moment_s,
)
from keen_kettle.core.simulate.body3d.lifter import (
    LIFTERS,
    Lifter,
    lifter_for,
    load_lifter,
    vertex_normals,
)
from keen_kettle.core.simulate.body3d.paper import Inks3d, View
from keen_kettle.core.simulate.body3d.pose import Bones, Held, pose_bones
from keen_kettle.core.simulate.body3d.skin import skin

__all__ = [
    "LIFTERS",
    "SHOWN_FAULTS",
    "BodyFigure",
    "Bones",
    "FrontPicture",
    "Held",
    "Inks3d",
    "LiftFigure",
    "Lifter",
    "View",
    "front_picture",
    "lift_figure",
    "lifter_for",
    "load_lifter",
    "plainest_s",
    "pose_bones",
    "same_moment_s",
    "skin",
    "vertex_normals",
]
