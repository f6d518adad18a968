"""One whole simulated lift: bar and lifter at any instant, with its exact truth."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from keen_kettle.core.simulate.bar_path import BarPath, LiftScript, bar_path
from keen_kettle.core.simulate.body import REACH_SHARE, Body, Pose, knee_place, solve_pose

__all__ = ["SimulatedLift", "hanging_shoulder", "simulate_pull"]

Array = NDArray[np.float64]
SETTLES_S = 0.05
STAYS = 0.7
"""Where the bar strays forward, the shoulder stays behind by so much of that (house default)."""
SET = (20.0, 0.0, 0.07)
"""The set position on the floor: shank lean (degrees), heel height and shoulder ahead of the bar (m)."""
SHOOTS_S = 0.3
"""So long before lift-off hips begin to shoot up."""
SHRUG_SHARE = 0.02
"""How far shoulders are drawn up, as a share of stature (house default)."""


@dataclass(frozen=True)
class SimulatedLift:
    """A lift that can be asked for any instant.

    `bar_m(t_s)` gives shape (n, 2) in metres; `pose(t_s)` the landmarks of one instant.
    `keyed` runs through (shank lean in degrees, heel height in metres, shoulder ahead of the
    bar in metres).
    """

    script: LiftScript
    path: BarPath
    keyed: PchipInterpolator

    @property
    def duration_s(self) -> float:
        return self.path.duration_s

    def bar_m(self, t_s: Array) -> Array:
        t = np.atleast_1d(np.asarray(t_s, dtype=float))
        return np.column_stack([self.path.x_m(t), self.path.y_m(t)])

    def hands_m(self, t_s: Array) -> Array:
        """Where the hands are, shape (n, 2) in metres: on the bar, unless it is let go."""
        return self.bar_m(t_s)

    def tip_m(self, t_s: Array) -> Array:
        """How much higher the bar's near end is than its far one, shape (n,) in metres."""
        return np.zeros(len(np.atleast_1d(t_s)))

    def lifts_s(self) -> list[dict[str, float]]:
        """The events (s) of every lift in it, in order."""
        return [self.truth_events()]

    def pose(self, t_s: float) -> Pose:
        bar, body = self.bar_m(np.array([t_s]))[0], self.script.body
        lean_deg, heel_m, ahead_m = self._keyed_at(t_s)
        ahead_m -= STAYS * float(self.path.strays_m(np.array([t_s]))[0])
        foot_x_m = self._foot_x_m(t_s)
        knee = knee_place(body, lean_deg, heel_m, foot_x_m)
        return solve_pose(
            body,
            bar,
            self._shoulder_m(t_s, bar, knee, ahead_m) - bar,
            lean_deg,
            heel_m,
            self.script.family,
            self._rack_share(t_s),
            foot_x_m,
            self._shrug_m(t_s),
        )

    def truth_events(self) -> dict[str, float]:
        """The bar's events, and those of the body from exact poses: bar at the knee, extension."""
        return dict(self._events)

    @cached_property
    def _events(self) -> dict[str, float]:
        found = dict(self.path.events_s)
        events = self.path.events_s
        if self.script.family != "jerk" and self.script.start == "floor":
            t = np.linspace(events["lift_off"], events["peak_velocity"], 400)
            knee = [float(self.pose(float(one))["knee"][1]) for one in t]
            over = self.bar_m(t)[:, 1] >= knee
            if over.any():
                found["knee_pass"] = float(t[int(np.argmax(over))])
        begin = events.get("power_position", events.get("dip_bottom", 0.0))
        end = min(events["peak_height"], events["peak_velocity"] + 0.12)
        t = np.linspace(begin, end, 400)
        straight = [_hip_and_knee(self.pose(float(one))) for one in t]
        found["extension"] = float(t[int(np.argmax(straight))])
        return found

    def truth_measures(self) -> dict[str, float]:
        """Bar measures straight from the exact path (densely sampled), SI units.

        The definitions are those of docs/how-measures-work.md, with the true events.
        """
        events = self.path.events_s
        t = np.linspace(0.0, self.duration_s, 6000)
        x, y, v = self.path.x_m(t), self.path.y_m(t), self.path.vy_mps(t)

        def span(first: str, last: str) -> NDArray[np.bool_]:
            return np.asarray((t >= events[first]) & (t <= events[last]))

        x0 = float(self.path.x_m(np.array([events["lift_off"]]))[0])
        x_power = float(self.path.x_m(np.array([events["power_position"]]))[0])
        first = span("lift_off", "first_pull_end")
        between = span("first_pull_end", "peak_velocity")
        after = span("power_position", "peak_height")
        truth = {
            "peak_velocity": float(np.interp(events["peak_velocity"], t, v)),
            "peak_height": float(np.interp(events["peak_height"], t, y)),
            "loop": float((x[span("power_position", "lowest")] - x0).max()),
            "forward_bump": float(x[after].max() - x_power),
            "forward_velocity": float(np.gradient(x, t)[after].max()),
        }
        if self.script.start == "floor":
            second_mean = v[span("power_position", "peak_velocity")].mean()
            truth["rhythm"] = float(second_mean / v[first].mean())
            fastest = v[first].max()
            truth["velocity_dip"] = float(max(0.0, 1 - v[between].min() / fastest))
        return truth

    def _rack_share(self, t_s: float) -> float:
        if self.script.family != "clean" or self.script.receive == "none":
            return 0.0
        begin, end = self.path.events_s["peak_height"] - 0.02, self.path.events_s["lowest"]
        return min(max((t_s - begin) / (end - begin), 0.0), 1.0)

    def _foot_x_m(self, t_s: float) -> float:
        events, jump = self.path.events_s, self.script.degree("jump-forward")
        begin = events["peak_velocity"] + 0.04
        share = min(max((t_s - begin) / max(events["lowest"] - begin - 0.03, 0.05), 0.0), 1.0)
        return float(0.1 * jump * share**2 * (3 - 2 * share))

    def _shrug_m(self, t_s: float) -> float:
        """The shoulders go up as the body finishes, and come down under the bar."""
        events, most = self.path.events_s, SHRUG_SHARE * self.script.body.stature_m
        power, peak = events["power_position"], events["peak_velocity"]
        up = min(max((t_s - power) / (peak - power) * 2 - 1, 0.0), 1.0)
        down = min(max((t_s - peak) / (events["lowest"] - peak), 0.0), 1.0)
        return float(most * up**2 * (3 - 2 * up) * (1 - down))

    def _bent_arm(self, t_s: float) -> float:
        """How much of the arm's length is left when the arms bend early."""
        events, early = self.path.events_s, self.script.degree("early-arms")
        begin, end = events["first_pull_end"], events["power_position"]
        return 1.0 - 0.13 * early * min(max((t_s - begin) / max(end - begin, 0.05), 0.0), 1.0)

    def _keyed_at(self, t_s: float) -> tuple[float, float, float]:
        lean, heel, ahead = self.keyed(min(max(t_s, self.keyed.x[0]), self.keyed.x[-1]))
        return float(lean), float(heel), float(ahead)

    def _shoulder_m(self, t_s: float, bar: Array, knee: Array, ahead_m: float) -> Array:
        """Where the shoulder is: above the bar on straight arms, then under it, then with it."""
        script, events = self.script, self.path.events_s
        arm = script.body.arm_seen_m(script.family) * 0.998
        bent, lower = self._bent_arm(t_s), 0.03 * script.degree("incomplete-hip")
        lower -= self._shrug_m(t_s)
        pulling = hanging_shoulder(script.body, script.family, bar, knee, ahead_m, bent, lower)
        if script.receive == "none" or t_s <= events["peak_velocity"]:
            return pulling
        carried = bar + self._catch_offset(arm)
        way_on = (t_s - events["peak_velocity"]) / (events["lowest"] - events["peak_velocity"])
        share = min(max(way_on, 0.0), 1.0)
        blend = float(share**2 * (3 - 2 * share))
        shoulder = (1 - blend) * pulling + blend * carried
        shoulder[0] -= 0.12 * 4 * blend * (1 - blend)
        way = shoulder - bar
        apart = float(np.hypot(*way))
        return bar + way * min(1.0, arm / max(apart, 1e-9))

    def _catch_offset(self, arm: float) -> Array:
        if self.script.family == "snatch":
            return np.array([0.015, -0.995 * arm])
        return np.array([-0.075, -0.015])


def hanging_shoulder(
    body: Body,
    grip: str,
    hand: Array,
    knee: Array,
    ahead_m: float,
    bent: float = 1.0,
    lower_m: float = 0.0,
) -> Array:
    """The shoulder, shape (2,) in metres, above a hand on long arms (`bent`: what is left of their length),
    `ahead_m` before it, and no higher than thigh and trunk reach from the knee, less `lower_m`."""
    arm = body.arm_seen_m(grip) * 0.998 * bent
    reach = REACH_SHARE * (body.thigh_m + body.trunk_m) - lower_m
    across = float(hand[0]) + ahead_m - float(knee[0])
    tallest = float(knee[1]) + float(np.sqrt(max(reach**2 - across**2, 0.0)))
    hanging = hand[1] + float(np.sqrt(max(arm**2 - ahead_m**2, 0.0)))
    return np.array([hand[0] + ahead_m, -_soft_max(-hanging, -tallest, 0.01)])


def simulate_pull(script: LiftScript) -> SimulatedLift:
    """A snatch, a clean, or a pull: the keyed body settings laid along the bar's events."""
    path = bar_path(script)
    events = path.events_s
    deep = {"full": 33.0, "power": 22.0, "none": 3.0}[script.receive]
    hang = script.start == "hang"
    shoot, short = script.degree("hips-shoot"), script.degree("incomplete-hip")
    toes, behind = script.degree("early-toes"), script.degree("back-behind-bar")
    # Hips that shoot up do so while the plates still stand; a good trunk keeps its angle until the
    # bar has left, and opens by 10 to 15 degrees up to the knee.
    off = (6.0, 0.0, 0.10) if hang else (SET[0] - 7.0 * shoot, 0.0, SET[2] + 0.05 * shoot)
    at_knee = (7.0 - 5.0 * shoot + 5.0 * behind, 0.0, 0.03 + 0.13 * shoot - 0.15 * behind)
    # The heels leave the floor when the hip is nearly straight.
    power, peak = events["power_position"], events["peak_velocity"]
    nearly_straight = power + 0.85 * (peak - power)
    settle, upright = min(events["lowest"] + 0.5, path.duration_s - 0.3), path.duration_s - 0.25
    if settle < events["lowest"] + SETTLES_S:  # the film ends soon after
        left = path.duration_s - events["lowest"]
        settle, upright = events["lowest"] + left / 3, events["lowest"] + 2 * left / 3
    rows = [
        # instant, shank lean (degrees), heel (m), shoulder ahead of the bar (m)
        (0.0, *((2.0, 0.0, -0.03) if hang else SET)),
        *([] if hang else [(max(events["lift_off"] - SHOOTS_S, events["lift_off"] / 2), *SET)]),
        (events["lift_off"], *off),
        (events["first_pull_end"] + 0.02, *at_knee),
        (events["power_position"], 12.0, 0.004 + 0.05 * toes, 0.03 + 0.03 * short - 0.06 * behind),
        (nearly_straight, 9.0, 0.02 + 0.05 * toes, -0.06 + 0.08 * short),
        (events["peak_velocity"], 9.0, 0.07 - 0.03 * short, -0.10 + 0.11 * short),
        *([(events["peak_height"], 9.0, 0.06, -0.10)] if script.receive == "none" else []),
        (events["lowest"], deep, 0.0, -0.03),
        (settle, deep, 0.0, -0.03),
        (upright, 2.0, 0.0, -0.03),
    ]
    keyed = np.array(rows)
    return SimulatedLift(script, path, PchipInterpolator(keyed[:, 0], keyed[:, 1:]))


def _hip_and_knee(pose: Pose) -> float:
    """Hip and knee angle together, in degrees."""
    total = 0.0
    for a, b, c in (("knee", "hip", "shoulder"), ("hip", "knee", "ankle")):
        u, v = pose[a] - pose[b], pose[c] - pose[b]
        share = float(u @ v) / float(np.hypot(*u) * np.hypot(*v))
        total += float(np.degrees(np.arccos(min(max(share, -1.0), 1.0))))
    return total


def _soft_max(a: float, b: float, softness: float) -> float:
    return float(softness * np.logaddexp(a / softness, b / softness))
