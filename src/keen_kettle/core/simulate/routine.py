"""One film of several things done with the bar: sets, shrugs, high pulls, a deadlift before a hang, lowering.

What is done is a row of moves. Upward velocity is a chain of smooth steps as in `bar_path`, so heights are
exact; the bar is on the floor, at the hang, or at the top of a pull when a move ends, and each move says
from which of these it begins.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.simulate.bar_path import (
    FLOOR_Y_M,
    BarPath,
    Chain,
    LiftScript,
    first_seen_rise,
    zero_crossing,
)
from keen_kettle.core.simulate.body import Pose, knee_place, solve_pose
from keen_kettle.core.simulate.lift import SimulatedLift, hanging_shoulder

__all__ = ["MOVES", "RoutineLift", "RoutineScript", "simulate_routine"]

Array = NDArray[np.float64]

SLOWLY_MPS, OFF_FLOOR_MPS = 0.7, 0.9
"""The quickest of a deadlift, and of a bar that passes the knee (house defaults)."""
BOUNCE = 0.3
"""How much of its speed a dropped plate keeps on the floor (house default)."""
TIPPED_S, SHRUGGED_S = 0.4, 0.16
HANDS_FALL_S = 0.9
DIES_OUT_MPS2 = 6.3
"""With which a pull ends, as in `bar_path`."""
HIGH_PULL_DIES_MPS2 = 3.5
"""With which a bar slows down that the arms go on pulling (house default)."""
RAISED_ELBOW = 0.9
"""How far of what they can the elbows rise in a high pull (house default)."""
AFTER_S = 0.1


@dataclass(frozen=True)
class RoutineScript(LiftScript):
    """What is done with the bar, in turn (`MOVES`), and how: a shrug raises the bar by `rise_m`, a high
    pull takes it `above_shoulder_m` over the standing shoulder, a tipped bar's near end goes up by `tip_m`, a
    pull that is held springs back from its top by `spring_m`, holds last `hold_s`, and a bar is lowered no quicker than `lower_mps`."""

    receive: str = "none"
    moves: tuple[str, ...] = ("deadlift",)
    rise_m: float = 0.1
    above_shoulder_m: float = 0.1
    tip_m: float = 0.09
    spring_m: float = 0.1
    hold_s: float = 0.5
    lower_mps: float = 1.0

    @property
    def derivative(self) -> Derivative:
        """What a coach would state: a pull, from the hang where the bar is not pulled from the floor."""
        pulls = [k for k, move in enumerate(self.moves) if move in ("pull", "high pull", "shrug")]
        floor = self.start == "floor" and "deadlift" not in self.moves[: pulls[0] if pulls else 0]
        start, support = ("floor", "floor") if floor else ("above knee", "hang")
        return Derivative(self.family, start, "none", "pull", support)

    @property
    def stand_y_m(self) -> float:
        """How high the bar hangs on long arms (m)."""
        return self.body.standing_shoulder_m() - self.body.arm_seen_m(self.family) - 0.02


@dataclass(frozen=True)
class RoutineLift(SimulatedLift):
    """A routine that can be asked for any instant.

    `lifts` holds the events of every lift in it, in order; the path's are those of the first. The near end
    of the bar is `tip` higher than the far one; after `let_go_s` the hands are no longer on the bar.
    """

    lifts: tuple[dict[str, float], ...] = ()
    tip: PchipInterpolator | None = None
    let_go_s: float = np.inf

    def hands_m(self, t_s: Array) -> Array:
        t = np.atleast_1d(np.asarray(t_s, dtype=float))
        held = self.bar_m(np.minimum(t, self.let_go_s))
        held[:, 1] -= self.tip_m(t) / 2
        share = np.clip((t - self.let_go_s) / HANDS_FALL_S, 0, 1)[:, None]
        share = share**2 * (3 - 2 * share)
        assert isinstance(self.script, RoutineScript)
        beside = np.array([0.07, self.script.stand_y_m])
        return np.asarray((1 - share) * held + share * beside)

    def tip_m(self, t_s: Array) -> Array:
        t = np.atleast_1d(np.asarray(t_s, dtype=float))
        return np.zeros(len(t)) if self.tip is None else np.asarray(self.tip(t))

    def lifts_s(self) -> list[dict[str, float]]:
        return list(self.lifts)

    def pose(self, t_s: float) -> Pose:
        body, grip = self.script.body, self.script.family
        hand = self.hands_m(np.array([t_s]))[0]
        lean_deg, heel_m, ahead_m = self._keyed_at(t_s)
        knee = knee_place(body, lean_deg, heel_m)
        shoulder = hanging_shoulder(body, grip, hand, knee, ahead_m)
        pose = solve_pose(body, hand, shoulder - hand, lean_deg, heel_m, grip, 0.0)
        slack = max(body.arm_seen_m(grip) ** 2 - float(np.sum((shoulder - hand) ** 2)), 0.0)
        share = float(np.clip((hand[1] - self._stand_y_m - 0.1) / 0.15, 0, 1))
        raised = (shoulder + hand) / 2 + np.array([0.0, RAISED_ELBOW * np.sqrt(slack) / 2])
        elbow = (1 - share) * pose["elbow"] + share * raised
        return Pose({**pose.points, "elbow": elbow})

    def truth_events(self) -> dict[str, float]:
        """The events of the first lift; none where nothing is lifted."""
        return dict(self.path.events_s)

    def truth_measures(self) -> dict[str, float]:
        """How high and how fast the first lift goes, from the exact path."""
        events = self.path.events_s
        if not events:
            return {}
        fastest, highest = (np.array([events[one]]) for one in ("peak_velocity", "peak_height"))
        return {
            "peak_velocity": float(self.path.vy_mps(fastest)[0]),
            "peak_height": float(self.path.y_m(highest)[0]),
        }

    @property
    def _stand_y_m(self) -> float:
        assert isinstance(self.script, RoutineScript)
        return self.script.stand_y_m


@dataclass
class _Making:
    """A routine in the making: the chain of the bar's velocity, what goes sideways, how the lifter stands."""

    script: RoutineScript
    chain: Chain
    sides: list[tuple[float, float]] = field(default_factory=list)
    stances: list[tuple[float, float, float, float]] = field(default_factory=list)
    tips: list[tuple[float, float]] = field(default_factory=lambda: [(0.0, 0.0)])
    lifts: list[dict[str, float]] = field(default_factory=list)
    deadlifts: list[dict[str, float]] = field(default_factory=list)
    let_go_s: float = np.inf

    @property
    def now(self) -> float:
        return self.chain.t[-1]

    @property
    def y(self) -> float:
        return self.chain.y[-1]

    @property
    def knee_y(self) -> float:
        return self.script.body.ankle_m + self.script.body.shank_m

    @property
    def power_y(self) -> float:
        return self.script.stand_y_m + 0.02 - 0.045 * self.script.body.stature_m

    @property
    def place(self) -> str:
        """Where the bar is: "floor", "hang" or "top"."""
        if self.y < FLOOR_Y_M + 0.01:
            return "floor"
        return "top" if self.y > self.script.stand_y_m + 0.02 else "hang"

    def stance(self, name: str) -> None:
        """How the lifter stands now: lean of the shank (degrees), heel (m), shoulder ahead of the bar (m);
        and where the bar is sideways (m)."""
        over, back = (0.065, 9.0) if self.script.family == "snatch" else (0.09, 4.0)
        lean, heel, ahead, x = {
            "floor": (19.0, 0.0, 0.06, 0.03),
            "knee": (back, 0.0, over, -0.005),
            "power": (12.0, 0.004, 0.03, -0.025),
            "tall": (2.0, 0.07, -0.05, 0.01),
            "hang": (2.0, 0.0, -0.03, 0.01),
            "high": (2.0, 0.06, -0.05, 0.06),
            "let go": (2.0, 0.0, -0.03, 0.06),
        }[name]
        self.stances.append((self.now, lean, heel, ahead))
        self.sides.append((self.now, x))

    def to(self, y: float, v: float) -> None:
        """To a height and to rest there, as quick as `v` half-way."""
        seconds = abs(y - self.y) / v
        self.chain.step(v if y > self.y else -v, seconds)
        self.chain.step(0.0, seconds)

    def lifted(self, begin: float, **events: float) -> dict[str, float]:
        """The events of what ends now at its highest."""
        early = dict.fromkeys(("first_pull_end", "power_position"), begin)
        return {"lift_off": begin, **early, **events, "peak_height": self.now, "lowest": self.now}


def _rest(making: _Making) -> None:
    making.chain.hold(making.script.still_s)
    making.stance("floor" if making.place == "floor" else "hang")


def _hold(making: _Making) -> None:
    """What is at the top springs back a little first."""
    if making.place == "top":
        spring = making.script.spring_m
        making.to(making.y - spring, 1.2)
        making.to(making.y + 0.7 * spring, 1.0)
        making.stance("tall")
    making.chain.hold(making.script.hold_s)
    making.stance({"floor": "floor", "hang": "hang", "top": "tall"}[making.place])


def _deadlift(making: _Making) -> None:
    begin, top = making.now, making.script.stand_y_m
    knee = (making.knee_y - making.y) / (top - making.y)
    seconds = 2 * (top - making.y) / SLOWLY_MPS
    making.to(top, SLOWLY_MPS)
    # The rise is a smooth step in velocity up and down; its way is shared as the time nearly is.
    making.stances.append((begin + seconds * (0.2 + 0.6 * knee), 6.0, 0.0, 0.07))
    making.stance("hang")
    making.deadlifts.append(making.lifted(begin, peak_velocity=begin + seconds / 2))


def _lower(making: _Making) -> None:
    """From the top or the hang to the floor."""
    if making.place == "top":
        making.to(making.script.stand_y_m, 1.6 * making.script.lower_mps)
        making.stance("hang")
    making.to(FLOOR_Y_M, making.script.lower_mps)
    making.stance("floor")


def _shrug(making: _Making) -> None:
    begin, rise = making.now, making.script.rise_m
    making.to(making.y + rise, rise / SHRUGGED_S)
    making.stance("tall")
    making.lifts.append(making.lifted(begin, peak_velocity=begin + SHRUGGED_S))
    making.to(making.y - rise, rise / SHRUGGED_S)
    making.stance("hang")
    making.lifts[-1]["lowest"] = making.now


def _pull(making: _Making) -> None:
    """From the floor, or from the hang after a dip to above the knee, to its highest."""
    _pull_to(making, None)


def _high_pull(making: _Making) -> None:
    script = making.script
    _pull_to(making, script.body.standing_shoulder_m() + script.above_shoulder_m)


def _pull_to(making: _Making, high_m: float | None) -> None:
    chain, body = making.chain, making.script.body
    snatch = making.script.family == "snatch"
    drives = (0.15 if snatch else 0.11) * body.stature_m
    v_peak = 1.7 if snatch else 1.4
    if high_m is not None:
        left = max(high_m - making.power_y - drives, 0.05)
        v_peak = max(v_peak, float(np.sqrt(2 * HIGH_PULL_DIES_MPS2 * left)))
    if making.place == "hang":
        making.to(making.knee_y + 0.07, 0.5)
        making.stance("knee")
        begin = making.now
    else:
        begin = making.now
        chain.rise(OFF_FLOOR_MPS, 0.45 * (making.knee_y - making.y))
        chain.rise(OFF_FLOOR_MPS, making.knee_y - 0.01 - making.y)
        making.stance("knee")
    first_end = making.now
    chain.rise(1.0, making.power_y - making.y)
    making.stance("power")
    power = making.now
    chain.rise(v_peak, drives)
    making.stance("tall")
    fastest = making.now
    if high_m is None:
        dies_out, down = (v_peak + 0.2) / DIES_OUT_MPS2, -0.2
        chain.step(down, dies_out)
        peak = fastest + zero_crossing(v_peak, down) * dies_out
    else:
        chain.rise(0.0, high_m - making.y)
        peak = making.now
    making.stance("tall" if high_m is None else "high")
    events = {"first_pull_end": first_end, "power_position": power, "peak_velocity": fastest}
    making.lifts.append({**making.lifted(begin, **events), "peak_height": peak})


def _settle(making: _Making) -> None:
    """Down from the top to the hang."""
    making.to(making.script.stand_y_m, 0.9)
    making.stance("hang")


def _drop(making: _Making) -> None:
    """Let go: it falls, springs once from the floor, and lies."""
    chain, fall = making.chain, making.y - FLOOR_Y_M
    making.let_go_s = making.now
    hits = float(np.sqrt(2 * 9.81 * fall))
    chain.step(-hits, 2 * fall / hits)
    bounce = BOUNCE * hits
    chain.step(bounce, 0.0)
    chain.step(-bounce, 2 * bounce / 9.81)
    chain.step(0.0, 0.0)
    making.stance("let go")
    chain.hold(making.script.end_s)
    making.stance("let go")


def _tip(making: _Making) -> None:
    """The near end up and down again, as when a plate is put right."""
    tip = making.script.tip_m
    for height in (tip, 0.0):
        making.to(FLOOR_Y_M + height, tip / TIPPED_S)
        making.tips.append((making.now, height))
    making.stance("floor")


MOVES: dict[str, tuple[tuple[str, ...], Callable[[_Making], None]]] = {
    "rest": (("floor", "hang"), _rest),
    "hold": (("floor", "hang", "top"), _hold),
    "deadlift": (("floor",), _deadlift),
    "shrug": (("hang",), _shrug),
    "pull": (("floor", "hang"), _pull),
    "high pull": (("floor", "hang"), _high_pull),
    "settle": (("top",), _settle),
    "lower": (("hang", "top"), _lower),
    "drop": (("hang", "top"), _drop),
    "tip": (("floor",), _tip),
}
"""Every move, and where the bar is when it may begin."""


def simulate_routine(script: RoutineScript) -> RoutineLift:
    """The routine of a script; ValueError where a move cannot follow the one before."""
    making = _Making(script, Chain([0.0], [0.0], [FLOOR_Y_M]))
    known = [MOVES.get(move) for move in script.moves]
    if script.start == "hang":
        making.chain.y[0] = script.stand_y_m
    making.stance("hang" if script.start == "hang" else "floor")
    for name, move in zip(script.moves, known, strict=True):
        if move is None or making.place not in move[0]:
            raise ValueError(f"“{name}” cannot begin with the bar at the {making.place}.")
        move[1](making)
    making.chain.hold(AFTER_S)
    lifts = making.lifts or making.deadlifts
    chain = making.chain
    sides = _columns(making.sides, making.now)
    t, v, y = np.array(chain.t), np.array(chain.v), np.array(chain.y)
    path = BarPath(t, v, y, *sides, lifts[0] if lifts else {})
    for lift in lifts:
        seen = first_seen_rise(path, lift["lift_off"])
        for event in ("lift_off", "first_pull_end", "power_position"):
            lift[event] = max(lift[event], seen)
    times, stances = _columns(making.stances, making.now)
    tip = PchipInterpolator(*_columns(making.tips, making.now)) if len(making.tips) > 1 else None
    keyed = PchipInterpolator(times, stances)
    return RoutineLift(script, path, keyed, tuple(lifts), tip, making.let_go_s)


def _columns(rows: Sequence[tuple[float, ...]], end_s: float) -> tuple[Array, Array]:
    """Instants that grow, (n,), and what is there, (n,) or (n, k); the last holds to the end."""
    table = np.array([*rows, (end_s, *rows[-1][1:])])
    kept = np.append(np.diff(table[:, 0]) > 1e-9, True)
    values = table[kept, 1:]
    return table[kept, 0], values[:, 0] if values.shape[1] == 1 else values
