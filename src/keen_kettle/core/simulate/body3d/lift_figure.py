"""A simulated lift as a figure, so that a body can show it, right or with a fault on purpose."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from keen_kettle.core.simulate.any_lift import simulate_lift
from keen_kettle.core.simulate.bar_path import BODY_FAULTS, FAULT_DEGREES, LiftScript
from keen_kettle.core.simulate.body import Body
from keen_kettle.core.simulate.figure import FigurePose, KeyPosition
from keen_kettle.core.simulate.lift import SimulatedLift

__all__ = ["SHOWN_FAULTS", "LiftFigure", "lift_figure", "plainest_s", "same_moment_s"]

SHOWN_FAULTS = (*FAULT_DEGREES, *BODY_FAULTS, "dip-depth")
"""The faults that a simulated lift can have, by degree."""
POSITIONS = {
    "lift_off": "start",
    "first_pull_end": "knee",
    "power_position": "power position",
    "dip_start": "rack",
    "dip_bottom": "dip",
    "peak_velocity": "extension",
    "lowest": "lowest",
}
JERK_POSITIONS = {"peak_velocity": "drive", "lowest": "receive"}
END_S = 0.1
LOOK_S = 0.04
"""How finely the plainest moment is looked for."""


@dataclass(frozen=True)
class LiftFigure:
    """Asked like any figure: pose at an instant, key positions, what is held (see `Figure`)."""

    name: str
    lift: SimulatedLift
    keys: tuple[KeyPosition, ...]
    implement: str = "barbell"

    @property
    def body(self) -> Body:
        return self.lift.script.body

    @property
    def grip(self) -> str:
        return "snatch" if self.lift.script.family == "snatch" else "clean"

    @property
    def duration_s(self) -> float:
        return float(self.lift.duration_s)

    def pose(self, t_s: float) -> FigurePose:
        t = float(np.clip(t_s, 0.0, self.duration_s))
        bar, pose = self.lift.bar_m(np.array([t]))[0], self.lift.pose(t)
        return FigurePose(
            dict(pose.points), pose.far_leg, bar, self._rack(t, bar, pose["shoulder"])
        )

    def _rack(self, t_s: float, bar: np.ndarray, shoulder: np.ndarray) -> float:
        """How far the bar lies in the front rack (0 to 1)."""
        script, events = self.lift.script, self.lift.path.events_s
        if script.family == "jerk":
            return float(np.clip(1 - (bar[1] - shoulder[1]) / 0.25, 0, 1))
        if script.family != "clean" or script.receive == "none":
            return 0.0
        begin, end = events["peak_height"] - 0.02, events["lowest"]
        return float(np.clip((t_s - begin) / (end - begin), 0.0, 1.0))


def lift_figure(
    family: str, body: Body, faults: Mapping[str, float] | None = None, start: str = "floor"
) -> LiftFigure:
    """A whole lift of a family on a body, with faults by degree (0 right, 1 plainly wrong)."""
    receive = "power" if family == "jerk" else "full"
    lift = simulate_lift(
        LiftScript(family, start, receive, body, dict(faults or {}), still_s=0.4, end_s=0.6)
    )
    words = POSITIONS | (JERK_POSITIONS if family == "jerk" else {})
    found = [
        KeyPosition(words[event], float(t))
        for event, t in lift.path.events_s.items()
        if event in words
    ]
    found.append(KeyPosition("stand", float(lift.duration_s) - END_S))
    keys = tuple(sorted(found, key=lambda one: one.t_s))
    return LiftFigure(lift.script.derivative.name, lift, keys)


def same_moment_s(one: LiftFigure, t_s: float, other: LiftFigure) -> float:
    """The instant of another figure of the same lift that answers an instant of this one: the key
    positions that both have answer each other, between them time runs evenly."""
    there = {key.name: key.t_s for key in other.keys}
    both = [(key.t_s, there[key.name]) for key in one.keys if key.name in there]
    own, others = zip((0.0, 0.0), *both, (one.duration_s, other.duration_s), strict=True)
    return float(np.interp(t_s, own, others))


def plainest_s(right: LiftFigure, wrong: LiftFigure) -> float:
    """The first instant of `wrong` in which its joints and its bar stand as far (root mean square,
    within 3 %) as they ever do from where `right` has them in the same moment: where the fault shows."""
    times = np.arange(0.0, wrong.duration_s, LOOK_S)
    apart = np.array([_apart_m(right, wrong, float(t)) for t in times])
    return float(times[np.argmax(apart >= 0.97 * apart.max())])


def _apart_m(right: LiftFigure, wrong: LiftFigure, t_s: float) -> float:
    here = _places(wrong.pose(t_s))
    there = _places(right.pose(same_moment_s(wrong, t_s, right)))
    return float(np.sqrt(np.mean(np.sum((here - there) ** 2, axis=1))))


def _places(pose: FigurePose) -> np.ndarray:
    """(n, 2) the near side's joints and the bar, metres."""
    points = [pose.points[name] for name in sorted(pose.points)]
    return np.array(points if pose.load is None else [*points, pose.load])
