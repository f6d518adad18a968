"""The lift synthesiser: a lifter and a bar with exact truth, and clips painted from them."""

from keen_kettle.core.simulate.any_lift import simulate_lift
from keen_kettle.core.simulate.bar_path import (
    BODY_FAULTS,
    FAULT_DEGREES,
    BarPath,
    LiftScript,
    bar_path,
)
from keen_kettle.core.simulate.body import LANDMARKS, Body, Pose
from keen_kettle.core.simulate.camera import Camera
from keen_kettle.core.simulate.figure import Figure, FigurePose, KeyPosition, figure_of
from keen_kettle.core.simulate.film import film_frames, render_clip
from keen_kettle.core.simulate.film_time import frame_times
from keen_kettle.core.simulate.filming import Filming
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.routine import MOVES, RoutineScript
from keen_kettle.core.simulate.scene import Look

__all__ = [
    "BODY_FAULTS",
    "FAULT_DEGREES",
    "LANDMARKS",
    "MOVES",
    "BarPath",
    "Body",
    "Camera",
    "Figure",
    "FigurePose",
    "Filming",
    "KeyPosition",
    "LiftScript",
    "Look",
    "Pose",
    "RoutineScript",
    "SimulatedLift",
    "bar_path",
    "figure_of",
    "film_frames",
    "frame_times",
    "render_clip",
    "simulate_lift",
]
