"""A moving figure for any movement: key positions solved on a body, and the way between them.

A key pose gives the hands, the shoulder, the shank's lean, the heel, and how far the arms are in
the rack or the feet in the split; from these `solve_pose` places the whole figure, so hands never
leave the load and segments keep their lengths. Between key poses these few numbers run smoothly.
The figure shows what is meant, at the pace of teaching; it is no measured lift.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative, Helper, Movement, parse_movement
from keen_kettle.core.simulate.body import Body, solve_pose, split_legs

__all__ = ["Figure", "FigurePose", "KeyPosition", "figure_of"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class _Key:
    """One key pose; lengths in metres, `name` empty where it is only passed through."""

    name: str
    hand: tuple[float, float]
    shoulder: tuple[float, float]
    lean_deg: float = 3.0
    heel_m: float = 0.0
    rack: float = 0.0
    split: float = 0.0
    seconds: float = 0.4


@dataclass(frozen=True)
class KeyPosition:
    """A named position and when the figure is in it."""

    name: str
    t_s: float


@dataclass(frozen=True)
class FigurePose:
    """Landmarks of the near side in metres, the rear leg in a split, and where the load is.

    `rack` says how far the load lies in the front rack (0 to 1).
    """

    points: dict[str, Array]
    rear_leg: dict[str, Array] | None
    load: Array | None
    rack: float = 0.0


@dataclass(frozen=True)
class Figure:
    """A movement that can be asked for any instant; `implement` says what is drawn in the hands."""

    name: str
    implement: str
    body: Body
    grip: str
    keys: tuple[KeyPosition, ...]
    t_s: Array
    values: Array

    @property
    def duration_s(self) -> float:
        return float(self.t_s[-1])

    def pose(self, t_s: float) -> FigurePose:
        """The figure at an instant (held at both ends)."""
        t = float(np.clip(t_s, 0.0, self.duration_s))
        after = int(np.clip(np.searchsorted(self.t_s, t, side="right"), 1, len(self.t_s) - 1))
        u = (t - self.t_s[after - 1]) / (self.t_s[after] - self.t_s[after - 1])
        smooth = u * u * (3 - 2 * u)
        now = (1 - smooth) * self.values[after - 1] + smooth * self.values[after]
        hand, shoulder = now[0:2], now[2:4].copy()
        lean, heel, rack, split = (float(one) for one in now[4:8])
        arm = self.body.arm_seen_m(self.grip)
        apart = float(np.hypot(*(shoulder - hand)))
        if apart > arm:
            hand = shoulder + (hand - shoulder) * arm / apart
        pose = solve_pose(self.body, hand, shoulder - hand, lean, heel, self.grip, rack)
        rear = None
        points = dict(pose.points)
        if split > 0.02:
            points, rear = split_legs(self.body, pose, split)
        load = None if self.implement == "none" else hand
        return FigurePose(points, rear, load, rack)


def figure_of(movement: Movement, body: Body | None = None) -> Figure | None:
    """The figure of a movement, or None where there is none to show (a push-up, say)."""
    body = body or Body()
    if isinstance(movement, Helper) and movement.nature is not None:
        shown = movement.nature.shown_as
        found = figure_of(parse_movement(shown), body) if shown else None
        return replace(found, name=movement.name) if found is not None else None
    poser = _Poser(body, "snatch" if _wide(movement) else "clean", movement.implement)
    if isinstance(movement, Helper):
        make = HELPER_FIGURES.get(movement.figure)
        keys = make(poser) if make is not None else None
    else:
        keys = _jerk(poser, movement) if movement.family == "jerk" else _pull(poser, movement)
    if not keys:
        return None
    keys = [keys[0], replace(keys[0], name="", seconds=0.7), *keys[1:]]
    keys.append(replace(keys[-1], name="", seconds=0.7))
    times = np.concatenate([[0.0], np.cumsum([key.seconds for key in keys[1:]])])
    named = tuple(
        KeyPosition(key.name, float(t)) for key, t in zip(keys, times, strict=True) if key.name
    )
    values = np.array(
        [[*key.hand, *key.shoulder, key.lean_deg, key.heel_m, key.rack, key.split] for key in keys]
    )
    return Figure(movement.name, movement.implement, body, poser.grip, named, times, values)


def _wide(movement: Movement) -> bool:
    if isinstance(movement, Derivative):
        return movement.family == "snatch" and not movement.one_arm
    return "snatch" in movement.name or "overhead" in movement.name or "row" in movement.name


class _Poser:
    """Key poses for one body and one grip."""

    def __init__(self, body: Body, grip: str, implement: str) -> None:
        self.body, self.grip = body, grip
        self.tall = body.standing_shoulder_m()
        self.arm = 0.998 * body.arm_seen_m(grip)
        self.h = body.stature_m
        self.knee = body.ankle_m + body.shank_m
        self.low = 0.225 if implement in ("barbell", "stick") else 0.16
        self.power_y = self.tall - self.arm - 0.045 * self.h

    def hang(
        self, name: str, y: float, ahead: float, lean: float, x: float = 0.03, **more: float
    ) -> _Key:
        """Straight arms on a load at height y, shoulders ahead of it."""
        up = float(np.sqrt(self.arm**2 - ahead**2))
        return _Key(name, (x, y), (x + ahead, min(y + up, self.tall)), lean, **more)

    def stand(self, name: str = "stand", **more: float) -> _Key:
        return _Key(name, (0.07, self.tall - self.arm), (0.0, self.tall), 2.0, **more)

    def at(self, name: str, position: str, **more: float) -> _Key:
        """The start from a position of the grammar."""
        heights = {
            "floor": (self.low, 0.06, 19.0),
            "mid-shin": (max(self.low, 0.17 * self.h), 0.07, 16.0),
            "below knee": (self.knee - 0.06, 0.09, 7.0),
            "knee": (self.knee, 0.10, 4.0),
            "above knee": (self.knee + 0.07, 0.10, 4.0),
            "mid-thigh": (0.5 * (self.knee + 0.07 + self.power_y) + 0.03, 0.07, 8.0),
            "hip": (self.power_y, 0.03, 12.0),
        }
        y, ahead, lean = heights[position]
        x = 0.03 if position in ("floor", "mid-shin") else 0.01
        return self.hang(name, min(y, self.power_y), ahead, lean, x, **more)

    def extension(self, shrug: float = 0.0, **more: float) -> _Key:
        up = self.tall + 0.04 * self.h
        y = up + shrug - self.arm
        return _Key("extension", (0.05, y), (-0.04, up + shrug), 2.0, 0.07, **more)

    def pulled(self, name: str = "high pull") -> _Key:
        share = 0.74 if self.grip == "snatch" else 0.68
        return _Key(name, (0.11, share * self.h), (-0.04, self.tall + 0.02), 2.0, 0.05, seconds=0.2)

    def racked(self, name: str, share: float, lean: float, **more: float) -> _Key:
        y = share * self.tall
        return _Key(name, (0.045, y + 0.015), (-0.03, y), lean, rack=1.0, **more)

    def overhead(self, name: str, share: float, lean: float, **more: float) -> _Key:
        y = share * self.tall
        return _Key(name, (-0.01, y + self.arm), (0.005, y), lean, **more)

    def received(self, family: str, name: str, depth: str, **more: float) -> _Key:
        """Caught: "power", "full" or "tall"."""
        if family == "snatch":
            share, lean = {"power": (0.80, 20.0), "full": (0.56, 33.0), "tall": (1.0, 2.0)}[depth]
            return self.overhead(name, share, lean, **more)
        share, lean = {"power": (0.83, 22.0), "full": (0.63, 33.0), "tall": (1.0, 2.0)}[depth]
        return self.racked(name, share, lean, **more)

    def by_sides(self, name: str, **more: float) -> _Key:
        """No load: hands beside the thighs."""
        return _Key(name, (0.02, self.tall - self.arm), (0.0, self.tall), 2.0, **more)


def _pull(p: _Poser, one: Derivative) -> list[_Key]:
    """A snatch or clean derivative."""
    if one.start == "tall":
        keys = [p.stand("start")]
    else:
        keys = [p.at("start", one.start)]
        if one.countermovement:
            keys.insert(0, p.stand("tall", seconds=0.5))
    if one.start in ("floor", "mid-shin", "below knee"):
        keys.append(p.at("knee", "knee", seconds=0.8))
    elif one.start == "knee":
        keys[-1] = replace(keys[-1], name="start")
    if one.action == "deadlift":
        return [*keys, p.at("power position", "hip", seconds=0.7), p.stand(seconds=0.5)]
    if one.start not in ("hip", "tall"):
        keys.append(p.at("power position", "hip", seconds=0.35))
    if one.action == "shrug" and one.start == "tall":
        return [*keys, replace(p.stand("shrug", seconds=0.3), shoulder=(0.0, p.tall + 0.05))]
    if one.start != "tall" or one.action != "catch":
        shrug = 0.035 if one.action in ("shrug", "jump shrug", "pull") else 0.0
        keys.append(p.extension(shrug, seconds=0.2))
    if one.action == "high pull":
        keys.append(p.pulled())
    if one.receive == "none":
        return [*keys, p.stand("", seconds=0.6)]
    return [*keys, *_receive(p, one)]


def _receive(p: _Poser, one: Derivative) -> list[_Key]:
    over = p.pulled("")
    if one.receive == "muscle":
        name = "lock-out" if one.family == "snatch" else "rack"
        return [over, p.received(one.family, name, "tall", seconds=0.35)]
    if one.receive == "split":
        caught = p.received(one.family, "catch", "power", seconds=0.25)
        return [
            over,
            replace(caught, split=1.0),
            p.received(one.family, "stand", "tall", seconds=0.8),
        ]
    found = [over]
    if one.receive in ("power", "ride-down"):
        found.append(p.received(one.family, "catch", "power", seconds=0.25))
        if one.receive == "ride-down":
            found.append(p.received(one.family, "lowest", "full", seconds=0.8))
    else:
        found.append(p.received(one.family, "catch", "power", seconds=0.2))
        found.append(p.received(one.family, "lowest", "full", seconds=0.25))
    return [*found, p.received(one.family, "stand", "tall", seconds=0.9)]


def _jerk(p: _Poser, one: Derivative) -> list[_Key]:
    behind = one.start == "behind the neck"

    def shouldered(name: str, share: float, lean: float, **more: float) -> _Key:
        made = p.racked(name, share, lean, **more)
        if behind:
            y = share * p.tall
            return replace(made, hand=(-0.10, y + 0.04), rack=0.3)
        return made

    keys = [
        shouldered("rack", 1.0, 2.0),
        shouldered("dip", 0.94, 27.0, seconds=0.4),
        shouldered("drive", 1.03, 2.0, heel_m=0.05, seconds=0.25),
    ]
    if one.receive == "push":
        return [*keys, p.overhead("lock-out", 1.0, 2.0, seconds=0.4)]
    if one.receive == "split":
        return [
            *keys,
            p.overhead("split", 0.88, 4.0, split=1.0, seconds=0.3),
            p.overhead("recovered", 1.0, 2.0, seconds=0.9),
        ]
    depth, lean = (0.90, 16.0) if one.receive == "power" else (0.60, 33.0)
    return [
        *keys,
        p.overhead("catch", depth, lean, seconds=0.3),
        p.overhead("recovered", 1.0, 2.0, seconds=0.7),
    ]


def _squat(name: str, share: float) -> Callable[[_Poser], list[_Key]]:
    def make(p: _Poser) -> list[_Key]:
        def held(at: str, height: float, lean: float, **more: float) -> _Key:
            y = height * p.tall
            if name == "overhead":
                return p.overhead(at, height, lean, **more)
            if name == "back":
                return _Key(at, (-0.06, y + 0.03), (0.04, y), lean, rack=0.2, **more)
            if name == "goblet":
                return _Key(at, (0.2, y - 0.14), (-0.02, y), lean, **more)
            return p.racked(at, height, lean, **more)

        return [
            held("stand", 1.0, 2.0),
            held("bottom", share, 33.0 if share < 0.7 else 18.0, seconds=1.0),
            held("up", 1.0, 2.0, seconds=0.9),
        ]

    return make


def _row_turnover_press(p: _Poser) -> list[_Key]:
    return [
        p.stand("hang"),
        _Key("row", (0.1, 0.74 * p.h), (0.0, p.tall), 2.0, seconds=0.8),
        _Key("turnover", (0.09, p.tall + 0.02), (0.0, p.tall), 2.0, rack=0.4, seconds=0.6),
        p.overhead("press", 1.0, 2.0, seconds=0.8),
    ]


def _swing(top: float, close: float) -> Callable[[_Poser], list[_Key]]:
    def make(p: _Poser) -> list[_Key]:
        behind = _Key("backswing", (-0.16, p.knee + 0.02), (0.27, p.tall * 0.76), 6.0, seconds=0.5)
        high = _Key("top", (close * p.arm, top * p.tall), (-0.03, p.tall), 2.0, seconds=0.5)
        return [p.stand("tall"), behind, high, replace(behind, name="", seconds=0.6)]

    return make


def _jump(p: _Poser) -> list[_Key]:
    crouch = _Key("dip", (-0.12, 0.55 * p.h), (0.14, 0.78 * p.tall), 22.0, seconds=0.5)
    tall = _Key("take-off", (0.2, p.tall + 0.3), (-0.02, p.tall + 0.05), 2.0, 0.1, seconds=0.25)
    return [p.by_sides("stand"), crouch, tall, p.by_sides("land", seconds=0.5)]


HELPER_FIGURES: dict[str, Callable[[_Poser], list[_Key]]] = {
    "front squat": _squat("front", 0.62),
    "goblet squat": _squat("goblet", 0.62),
    "back squat": _squat("back", 0.64),
    "overhead squat": _squat("overhead", 0.56),
    "quarter overhead squat": _squat("overhead", 0.86),
    "snatch balance": lambda p: [
        _Key("shoulders", (-0.10, p.tall + 0.04), (0.0, p.tall), 2.0, rack=0.2),
        _Key("dip", (-0.10, 0.94 * p.tall + 0.04), (0.0, 0.94 * p.tall), 14.0, rack=0.2),
        p.overhead("bottom", 0.56, 33.0, seconds=0.4),
        p.overhead("stand", 1.0, 2.0, seconds=0.9),
    ],
    "rdl": lambda p: [
        p.stand(),
        p.hang("hinge", p.knee + 0.02, 0.2, -2.0, -0.02, seconds=1.1),
        p.stand("tall", seconds=0.9),
    ],
    "slide": lambda p: [
        p.stand(),
        p.hang("above knee", p.knee + 0.08, 0.11, 4.0, 0.01, seconds=0.9),
        p.stand("tall", seconds=0.7),
    ],
    "lift to knee": lambda p: [
        p.at("start", "floor"),
        p.at("knee", "knee", seconds=1.3),
        p.at("back down", "floor", seconds=1.3),
    ],
    "start hold": lambda p: [
        p.stand(),
        p.at("start", "floor", seconds=1.2),
        p.at("", "floor", seconds=2.0),
    ],
    "rack hold": lambda p: [p.racked("rack", 1.0, 2.0), p.racked("", 1.0, 2.0, seconds=2.0)],
    "overhead hold": lambda p: [
        p.stand("hang"),
        p.pulled(""),
        p.overhead("overhead", 1.0, 2.0, seconds=0.7),
    ],
    "press": lambda p: [
        p.racked("rack", 1.0, 2.0),
        p.overhead("lock-out", 1.0, 2.0, seconds=1.0),
    ],
    "press in split": lambda p: [
        p.racked("rack", 0.88, 4.0, split=1.0),
        p.overhead("hold", 0.88, 4.0, split=1.0, seconds=1.0),
    ],
    "jerk balance": lambda p: [
        p.racked("rack", 0.97, 3.0, split=0.5),
        p.racked("dip", 0.92, 8.0, split=0.5, seconds=0.4),
        p.overhead("step", 0.88, 4.0, split=1.0, seconds=0.4),
    ],
    "snatch push press": lambda p: [
        _Key("shoulders", (-0.10, p.tall + 0.04), (0.0, p.tall), 2.0, rack=0.2),
        _Key("dip", (-0.10, 0.93 * p.tall + 0.04), (0.0, 0.93 * p.tall), 16.0, rack=0.2),
        p.overhead("lock-out", 1.0, 2.0, seconds=0.5),
    ],
    "row turnover press": _row_turnover_press,
    "dip and drive": lambda p: [
        p.racked("rack", 1.0, 2.0),
        p.racked("dip", 0.94, 27.0, seconds=0.4),
        p.racked("drive", 1.03, 2.0, heel_m=0.05, seconds=0.25),
        p.racked("rack again", 1.0, 2.0, seconds=0.5),
    ],
    "clean and jerk": lambda p: [
        *_pull(p, Derivative("clean")),
        *_jerk(p, Derivative("jerk", "front rack", "split", "catch", "standing")),
    ],
    "split footwork": lambda p: [
        p.by_sides("stand"),
        replace(
            p.by_sides("split", seconds=0.3),
            hand=(0.02, 0.86 * p.tall - p.arm),
            shoulder=(0.0, 0.86 * p.tall),
            split=1.0,
        ),
        p.by_sides("recovered", seconds=0.9),
    ],
    "extension rehearsal": lambda p: [
        p.at("power position", "hip"),
        p.stand("stand", seconds=0.6),
        p.extension(0.0, seconds=0.4),
        replace(p.extension(0.035, seconds=0.4), name="shrug"),
    ],
    "bail": lambda p: [
        p.racked("rack", 1.0, 2.0),
        p.racked("sit", 0.85, 18.0, seconds=0.6),
        replace(p.stand("let go", seconds=0.4), hand=(0.32, 0.6 * p.tall)),
    ],
    "swing": _swing(0.95, 0.95),
    "high swing": _swing(1.02, 0.5),
    "one-arm high pull": _swing(0.97, 0.25),
    "assisted rack": lambda p: [
        p.stand("hang"),
        _Key("lift", (0.16, 0.8 * p.tall), (0.0, p.tall), 2.0, seconds=0.8),
        _Key("rack", (0.12, 0.93 * p.tall), (-0.02, p.tall), 2.0, seconds=0.5),
    ],
    "jump": _jump,
    "throw": _jump,
    "lunge": lambda p: [
        p.by_sides("stand"),
        replace(
            p.by_sides("bottom", seconds=0.9),
            hand=(0.02, 0.72 * p.tall - p.arm),
            shoulder=(0.0, 0.72 * p.tall),
            split=1.0,
        ),
        p.by_sides("up", seconds=0.9),
    ],
}
