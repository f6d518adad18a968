"""The bar's exact path through one lift, with faults turned on by degree.

Upward velocity is a chain of smooth steps: from `v0` to `v1` over a duration `d` it runs as
v0 + (v1 - v0)(3u² - 2u³), so each step rises by d(v0 + v1)/2 exactly, and height targets give the
durations in closed form. Sideways the bar runs through a few knots on a cubic with zero end slopes.
"""

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.simulate.body import Body

__all__ = [
    "BODY_FAULTS",
    "FAULT_DEGREES",
    "FLOOR_Y_M",
    "BarPath",
    "Chain",
    "LiftScript",
    "bar_path",
    "come_to_rest",
    "first_seen_rise",
    "zero_crossing",
]

Array = NDArray[np.float64]

FAULT_DEGREES = ("loop", "bounce-forward", "rushed-first-pull", "deep-rebend")
"""Faults of the bar's path ..."""
BODY_FAULTS = (
    *("hips-shoot", "back-behind-bar", "incomplete-hip", "early-arms", "early-toes"),
    *("jump-forward", "dip-forward"),
)
"""... and of the body."""


MOST_ACCELERATION_MPS2 = 14.0
"""With which a bar leaves the floor, however it is rushed (house default)."""

FIDGET_MPS, STOPS_IN_M = 0.3, 0.05
FLOOR_Y_M = 0.225
"""Where the bar is while plates of the usual size lie on the floor."""


@dataclass(frozen=True)
class LiftScript:
    """What is lifted and how well.

    `family` is "snatch", "clean" or "jerk"; `start` "floor" or "hang" (a jerk begins in the rack);
    `receive` "full", "power" or "none" (a pull), for a jerk "power" or "split". `faults` maps a fault id to its degree: 0 clean, 1 plainly there.
    From the floor the bar may be held at the knee for `pause_s`, as in a demonstration, and be lifted by
    `fidget_m` and set down once before it goes up.
    """

    family: str = "snatch"
    start: str = "floor"
    receive: str = "full"
    body: Body = field(default_factory=Body)
    faults: dict[str, float] = field(default_factory=dict)
    still_s: float = 0.8
    end_s: float = 0.7
    pause_s: float = 0.0
    fidget_m: float = 0.0

    @property
    def derivative(self) -> Derivative:
        """What is lifted, by its name's parts; a hang begins above the knee."""
        if self.family == "jerk":
            return Derivative("jerk", "front rack", self.receive, "catch", "standing")
        action = "pull" if self.receive == "none" else "catch"
        start = "above knee" if self.start == "hang" else "floor"
        return Derivative(self.family, start, self.receive, action, self.start)

    def degree(self, fault: str) -> float:
        return float(self.faults.get(fault, 0.0))


@dataclass(frozen=True)
class BarPath:
    """Exact bar kinematics on any times, and the instants that matter.

    `events_s` holds lift_off, first_pull_end, power_position, peak_velocity, peak_height and
    lowest in seconds; where the bar is caught also catch (it falls fastest) and stand (it is
    within 1 cm of where it then rests). x is positive to the front of the lifter with 0 at mid-foot; y is above
    the floor.
    """

    step_t_s: Array
    step_v_mps: Array
    step_y_m: Array
    knot_t_s: Array
    knot_x_m: Array
    events_s: dict[str, float]
    meant: tuple[Array, Array] | None = None
    """The knots (s, m) of the same path without its faults."""

    @property
    def duration_s(self) -> float:
        return float(self.step_t_s[-1])

    def y_m(self, t_s: Array) -> Array:
        index, u, d, v0, dv = self._steps(t_s)
        return np.asarray(self.step_y_m[index] + d * (v0 * u + dv * (u**3 - u**4 / 2)))

    def vy_mps(self, t_s: Array) -> Array:
        _, u, _, v0, dv = self._steps(t_s)
        return np.asarray(v0 + dv * (3 * u**2 - 2 * u**3))

    def x_m(self, t_s: Array) -> Array:
        clipped = np.minimum(np.maximum(t_s, self.knot_t_s[0]), self.knot_t_s[-1])
        return np.asarray(self._x_curve(clipped))

    def strays_m(self, t_s: Array) -> Array:
        """How far forward the bar is of where it would be without faults."""
        if self.meant is None:
            return np.zeros(np.shape(t_s))
        clipped = np.minimum(np.maximum(t_s, self.knot_t_s[0]), self.knot_t_s[-1])
        return np.asarray(self._x_curve(clipped) - self._meant_curve(clipped))

    @cached_property
    def _meant_curve(self) -> PchipInterpolator:
        assert self.meant is not None
        return PchipInterpolator(*self.meant)

    @cached_property
    def _x_curve(self) -> PchipInterpolator:
        return PchipInterpolator(self.knot_t_s, self.knot_x_m)

    def _steps(self, t_s: Array) -> tuple[NDArray[np.intp], Array, Array, Array, Array]:
        t = np.minimum(np.maximum(np.asarray(t_s, dtype=float), 0.0), self.duration_s)
        index = np.searchsorted(self.step_t_s, t, side="right") - 1
        index = np.minimum(np.maximum(index, 0), len(self.step_v_mps) - 2)
        d = self.step_t_s[index + 1] - self.step_t_s[index]
        u = (t - self.step_t_s[index]) / d
        v0 = self.step_v_mps[index]
        return index, u, d, v0, self.step_v_mps[index + 1] - v0


@dataclass
class Chain:
    """Velocity steps laid end to end: instants, velocities and heights at their ends."""

    t: list[float]
    v: list[float]
    y: list[float]

    def hold(self, seconds: float) -> None:
        self.step(self.v[-1], seconds)

    def step(self, v_end: float, seconds: float) -> None:
        self.y.append(self.y[-1] + seconds * (self.v[-1] + v_end) / 2)
        self.t.append(self.t[-1] + seconds)
        self.v.append(v_end)

    def rise(self, v_end: float, metres: float) -> None:
        self.step(v_end, 2 * metres / (self.v[-1] + v_end))


def bar_path(script: LiftScript) -> BarPath:
    """The bar's exact path for a script (closed form; see the module's words)."""
    body = script.body
    snatch = script.family == "snatch"
    stature = body.stature_m
    arm = body.arm_seen_m("snatch" if snatch else "clean")
    knee_y = body.ankle_m + body.shank_m
    power_y = (body.standing_shoulder_m() - arm) - 0.045 * stature
    chain = Chain([0.0], [0.0], [FLOOR_Y_M])
    v_peak = (2.0 if snatch else 1.6) - 0.15 * script.degree("rushed-first-pull")
    v_peak += {"full": 0.0, "power": 0.35 if snatch else 0.4, "none": -0.25}[script.receive]
    to_power = _from_hang if script.start == "hang" else _from_floor
    lift_off, first_end = to_power(chain, script, v_peak, knee_y, power_y)
    power = chain.t[-1]
    higher = 0.03 if script.receive == "power" else 0.0
    chain.rise(v_peak, ((0.11 if snatch else 0.105) + higher) * stature)
    peak_v = chain.t[-1]
    finish = _finish(chain, script, v_peak)
    chain.hold(script.end_s)
    events = {
        "lift_off": lift_off,
        "first_pull_end": first_end,
        "power_position": power,
        "peak_velocity": peak_v,
        **finish,
    }
    knots_t, knots_x = _sideways(script, events, chain.t[-1])
    path = BarPath(
        np.array(chain.t),
        np.array(chain.v),
        np.array(chain.y),
        knots_t,
        knots_x,
        events,
        _sideways(replace(script, faults={}), events, chain.t[-1]),
    )
    if script.start == "floor":
        events["lift_off"] = first_seen_rise(path, lift_off)
    if script.receive != "none":
        events["stand"] = come_to_rest(path, events["lowest"])
    return path


def _from_hang(
    chain: Chain, script: LiftScript, v_peak: float, knee_y: float, power_y: float
) -> tuple[float, float]:
    """Down into the hang and up to the power position; when the bar is lifted, and passes the thighs."""
    _lower_to_hang(chain, script, power_y, knee_y)
    lift_off = chain.t[-1]
    chain.rise(0.75 * v_peak, 0.55 * (power_y - chain.y[-1]))
    first_end = chain.t[-1]
    chain.rise(0.8 * v_peak, power_y - chain.y[-1])
    return lift_off, first_end


def _from_floor(
    chain: Chain, script: LiftScript, v_peak: float, knee_y: float, power_y: float
) -> tuple[float, float]:
    """From the floor to the power position; when the bar is lifted, and ends its first pull."""
    rushed, rebend = script.degree("rushed-first-pull"), script.degree("deep-rebend")
    v_first = 1.0 + rushed * (0.97 * v_peak - 1.0)
    chain.hold(script.still_s)
    if script.fidget_m:
        _fidget(chain, script.fidget_m)
        chain.hold(script.still_s)
    lift_off = chain.t[-1]
    quick = (0.2 - 0.14 * rushed) * (knee_y - FLOOR_Y_M) / 0.28
    chain.rise(v_first, max(quick, v_first**2 / (2 * MOST_ACCELERATION_MPS2)))
    chain.rise(v_first * 1.05, knee_y - 0.01 - chain.y[-1])
    first_end = chain.t[-1]
    if script.pause_s:
        chain.rise(0.0, STOPS_IN_M)
        chain.hold(script.pause_s)
    dip = 0.04 + 0.05 * rushed + 0.5 * rebend
    chain.rise(v_first * 1.05 * (1 - dip), power_y - chain.y[-1])
    return lift_off, first_end


def come_to_rest(path: BarPath, lowest: float) -> float:
    """When the bar has come within 1 cm of where it rests: what an eye would call standing."""
    t = np.linspace(lowest, path.duration_s, 4000)
    y = path.y_m(t)
    return float(t[np.argmax(y >= y[-1] - 0.01)])


def first_seen_rise(path: BarPath, begin: float) -> float:
    """When the plates have left the floor by 2 mm: what an eye would call lift-off."""
    t = np.linspace(begin, begin + 0.4, 2000)
    return float(t[np.searchsorted(path.y_m(t), path.y_m(t[:1])[0] + 0.002)])


def _fidget(chain: Chain, metres: float) -> None:
    """Up a little and down again, as when the grip is tried."""
    seconds = metres / FIDGET_MPS
    for v_end in (FIDGET_MPS, 0.0, -FIDGET_MPS, 0.0):
        chain.step(v_end, seconds)


def _lower_to_hang(chain: Chain, script: LiftScript, power_y: float, knee_y: float) -> None:
    stand_y = power_y + 0.045 * script.body.stature_m
    chain.y[0] = stand_y
    chain.hold(script.still_s)
    fall = stand_y - (knee_y + 0.07)
    chain.step(-0.45, fall / 0.45)
    chain.step(0.0, fall / 0.45)
    chain.hold(0.25)


def _finish(chain: Chain, script: LiftScript, v_peak: float) -> dict[str, float]:
    """Turnover, catch and recovery (or the way down of a pull), and the instants in it."""
    body = script.body
    stand_y = _standing_bar_m(script)
    if script.receive == "none":
        begin, v0 = chain.t[-1], chain.v[-1]
        chain.step(-0.9, (v0 + 0.9) / 6.3)
        peak = begin + zero_crossing(v0, -0.9) * (chain.t[-1] - begin)
        fall = chain.y[-1] - (body.standing_shoulder_m() - body.arm_seen_m(script.family) - 0.02)
        chain.step(0.0, 2 * max(fall, 0.05) / 0.9)
        return {"peak_height": peak, "lowest": chain.t[-1]}
    low_y = _lowest_bar_m(script)
    begin, y0 = chain.t[-1], chain.y[-1]
    v_drop = _drop_velocity(v_peak, y0, low_y)
    chain.step(-v_drop, (v_peak + v_drop) / 6.3)
    peak = begin + zero_crossing(v_peak, -v_drop) * (chain.t[-1] - begin)
    catch = chain.t[-1]
    chain.step(0.0, v_drop / 5.0)
    lowest = chain.t[-1]
    chain.hold(0.45)
    rise = stand_y - chain.y[-1]
    pace = 0.75 if script.receive == "full" else 0.5
    chain.step(pace, rise / pace)
    chain.step(0.0, rise / pace)
    return {"peak_height": peak, "catch": catch, "lowest": lowest}


def _standing_bar_m(script: LiftScript) -> float:
    shoulder = script.body.standing_shoulder_m()
    return shoulder + (script.body.arm_seen_m("snatch") if script.family == "snatch" else 0.02)


def _lowest_bar_m(script: LiftScript) -> float:
    shoulder = script.body.standing_shoulder_m()
    if script.family == "snatch":
        share = {"full": 0.54, "power": 0.69}[script.receive]
        return shoulder * share + script.body.arm_seen_m("snatch")
    return shoulder * {"full": 0.66, "power": 0.83}[script.receive]


def _drop_velocity(v_peak: float, y0: float, low_y: float) -> float:
    """The fall's speed that ends in `low_y`: rise (v² - w²)/12.6 and then fall w²/10."""
    target = y0 + v_peak**2 / 12.6 - low_y
    return float(np.sqrt(max(target, 0.01) / (1 / 12.6 + 1 / 10)))


def zero_crossing(v0: float, v1: float) -> float:
    """Where a smooth step from v0 to v1 passes zero, as a share of its duration."""
    share = v0 / (v0 - v1)
    roots = np.roots([-2.0, 3.0, 0.0, -share])
    real = roots[np.abs(roots.imag) < 1e-9].real
    return float(real[(real >= 0) & (real <= 1)][0])


def _sideways(script: LiftScript, events: dict[str, float], end_s: float) -> tuple[Array, Array]:
    """Knots of the sideways path: rearward off the floor, brush, then back over the feet."""
    loop, bounce = script.degree("loop"), script.degree("bounce-forward")
    snatch = script.family == "snatch"
    hang = script.start == "hang"
    start_x = -0.01 if hang else 0.03
    knee_x = start_x - (0.0 if hang else 0.035)
    power_x = start_x - (0.02 if hang else 0.055) + (0.09 if hang else 0.13) * loop
    out_x = power_x + 0.035 + 0.125 * bounce + (0.02 if snatch else 0.0) * loop
    over_x = start_x - 0.06 + 0.05 * max(loop, bounce)
    brush_t = (events["power_position"] + events["peak_velocity"]) / 2
    brush_x = power_x + 0.1 * (out_x - power_x)
    out_t = events["peak_velocity"] + 0.12 - 0.08 * min(bounce, 1.0)
    times = [0.0, events["lift_off"], events["first_pull_end"], events["power_position"]]
    places = [start_x, start_x, knee_x, power_x]
    times += [brush_t, out_t]
    places += [brush_x, out_x]
    if script.receive == "none":
        times += [events["lowest"], end_s]
        places += [start_x - 0.02, start_x - 0.02]
    else:
        times += [max(events["lowest"], out_t + 0.15), events["lowest"] + 0.6, end_s]
        places += [over_x, over_x + 0.01, over_x]
    return np.array(times), np.array(places)
