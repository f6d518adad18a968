"""One simulated jerk: dip, drive and receive from the rack, with its exact truth.

The bar's upward velocity is a chain of smooth steps, as in a pull. Until the drive ends the bar
lies on the shoulders; then the lifter goes under it on straightening arms.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from keen_kettle.core.simulate.bar_path import (
    BarPath,
    Chain,
    LiftScript,
    come_to_rest,
    zero_crossing,
)
from keen_kettle.core.simulate.body import Pose, solve_pose, split_legs
from keen_kettle.core.simulate.lift import SimulatedLift

__all__ = ["SimulatedJerk", "simulate_jerk"]

Array = NDArray[np.float64]

DIP_SHARE = 0.095
"""Depth of the dip as a share of stature."""
LOW_SHARE = {"power": 0.88, "split": 0.86}
"""Height of the shoulder when the bar is received, as a share of standing."""
ON_SHOULDERS = np.array([-0.075, -0.015])


@dataclass(frozen=True)
class SimulatedJerk(SimulatedLift):
    """A jerk that can be asked for any instant."""

    def pose(self, t_s: float) -> Pose:
        body = self.script.body
        bar = self.bar_m(np.array([t_s]))[0]
        lean_deg, heel_m, _ = self._keyed_at(t_s)
        shoulder, overhead = self._under(t_s, bar)
        pose = solve_pose(body, bar, shoulder - bar, lean_deg, heel_m, "jerk", 1.0 - overhead)
        split = self._split(t_s)
        if split <= 0.02:
            return pose
        front, rear = split_legs(body, pose, split)
        return Pose(front, rear)

    def truth_measures(self) -> dict[str, float]:
        """Depth and drift of the dip, peak velocity and the bar's rise, from the exact path."""
        events = self.path.events_s
        t = np.linspace(0.0, self.duration_s, 6000)
        x, y, v = self.path.x_m(t), self.path.y_m(t), self.path.vy_mps(t)
        dip = (t >= events["dip_start"]) & (t <= events["dip_bottom"])
        x0, y0 = x[dip][0], y[dip][0]
        return {
            "peak_velocity": float(v.max()),
            "dip_depth": float(y0 - y[dip].min()),
            "dip_drift": float((x[dip] - x0)[np.abs(x[dip] - x0).argmax()]),
        }

    def _under(self, t_s: float, bar: Array) -> tuple[Array, float]:
        """The shoulder, and how far the arms have gone from the rack to overhead (0 to 1)."""
        events, body = self.path.events_s, self.script.body
        begin, end = events["peak_velocity"], events["lowest"]
        share = float(np.clip((t_s - begin) / (end - begin), 0.0, 1.0))
        blend = share**2 * (3 - 2 * share)
        racked = bar + ON_SHOULDERS
        arm = 0.995 * body.arm_seen_m("jerk")
        overhead = bar + np.array([0.012, -arm])
        shoulder = (1 - blend) * racked + blend * overhead
        way = shoulder - bar
        return bar + way * min(1.0, arm / max(float(np.hypot(*way)), 1e-9)), min(2.5 * share, 1.0)

    def _split(self, t_s: float) -> float:
        if self.script.receive != "split":
            return 0.0
        events = self.path.events_s
        out = np.clip((t_s - events["peak_velocity"] - 0.05) / 0.22, 0.0, 1.0)
        back = np.clip((t_s - events["lowest"] - 0.5) / 0.7, 0.0, 1.0)
        return float(min(out, 1 - back))


def simulate_jerk(script: LiftScript) -> SimulatedJerk:
    """The jerk of a script: `receive` "power" or "split"; faults "dip-forward" and "dip-depth" (too deep;
    a degree below 0 makes it too short)."""
    chain, at = _chain(script)
    drift = 0.03 + 0.055 * script.degree("dip-forward")
    forward = 0.005 + 0.055 * script.degree("dip-forward")
    turns = ("dip_start", "dip_bottom", "peak_velocity", "lowest")
    times = np.array([0.0, *(at[name] for name in turns), chain.t[-1]])
    places = np.array([0.03, 0.03, 0.03 + forward, drift, 0.0, 0.0])
    events = {name: t_s for name, t_s in at.items() if name != "recovered"}
    events["lift_off"] = at["dip_start"]
    path = BarPath(np.array(chain.t), np.array(chain.v), np.array(chain.y), times, places, events)
    events["stand"] = come_to_rest(path, at["lowest"])
    keyed = _keyed(at, 20.0 if script.receive == "power" else 10.0)
    return SimulatedJerk(script, path, PchipInterpolator(keyed[:, 0], keyed[:, 1:]))


def _chain(script: LiftScript) -> tuple[Chain, dict[str, float]]:
    """The bar's upward way, and when (s) each part of it begins or ends."""
    body, at = script.body, {}
    tall = body.standing_shoulder_m()
    chain = Chain([0.0], [0.0], [tall - ON_SHOULDERS[1]])
    chain.hold(script.still_s)
    share = DIP_SHARE + 0.05 * script.degree("dip-depth")
    depth, pace = share * body.stature_m, 0.8
    at["dip_start"] = chain.t[-1]
    chain.step(-pace, depth / pace)
    chain.step(0.0, depth / pace)
    at["dip_bottom"] = chain.t[-1]
    v_peak, falls = 1.95, -0.25
    chain.rise(v_peak, depth + 0.02 * body.stature_m)
    begin = at["peak_velocity"] = chain.t[-1]
    low = LOW_SHARE[script.receive] * tall + 0.995 * body.arm_seen_m("jerk")
    chain.step(falls, 2 * (low + 0.02 - chain.y[-1]) / (v_peak + falls))
    at["peak_height"] = begin + zero_crossing(v_peak, falls) * (chain.t[-1] - begin)
    at["catch"] = chain.t[-1]
    chain.step(0.0, 0.16)
    at["lowest"] = chain.t[-1]
    chain.hold(0.5)
    standing = tall + 0.995 * body.arm_seen_m("jerk")
    rise = max(standing - chain.y[-1], 0.02)
    chain.step(0.4, rise / 0.4)
    chain.step(0.0, rise / 0.4)
    at["recovered"] = chain.t[-1]
    chain.hold(script.end_s)
    return chain, at


def _keyed(at: dict[str, float], deep_deg: float) -> Array:
    """Lean of the shank (degrees), height of the heel (m) and a spare column, by time (s)."""
    return np.array(
        [
            (0.0, 2.0, 0.0, 0.0),
            (at["dip_start"], 2.0, 0.0, 0.0),
            (at["dip_bottom"], 24.0, 0.0, 0.0),
            (at["peak_velocity"], 2.0, 0.06, 0.0),
            (at["peak_velocity"] + 0.1, 6.0, 0.05, 0.0),
            (at["lowest"], deep_deg, 0.0, 0.0),
            (at["lowest"] + 0.5, deep_deg, 0.0, 0.0),
            (at["recovered"], 2.0, 0.0, 0.0),
        ]
    )
