"""Body measures of a lift seen from the side, each with its uncertainty or why it is missing.

A measure names the events and the landmarks it rests on. Its uncertainty joins those of the points
where it is read, and what its events' uncertainty would change. Where a point was only assumed
(behind the plate, say) the measure says so.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.body import pull, receive, scene
from keen_kettle.core.motion.body.movement import BodyMotion
from keen_kettle.core.motion.body.scene import Reading, Scene
from keen_kettle.core.motion.events import Event
from keen_kettle.core.motion.measures import Measure

__all__ = ["BODY_UNITS", "SQUARE_ON", "body_measures"]

Array = NDArray[np.float64]

NO_BODY = "the lifter's body is not known in this clip"
NOT_SQUARE = "this needs a view at right angles to the bar; this one is from aside"
NOT_SIDE_ON = "this needs a side view; the lifter is not seen from the side"


@dataclass(frozen=True)
class _Rule:
    """How a measure is read. `lifts` says for which: "pull", "floor", "catch", "overhead", "rack",
    "jerk", "split" or "feet level"; all that are named must hold."""

    id: str
    unit: str
    events: tuple[str, ...]
    points: tuple[str, ...]
    read: Callable[[Scene], Reading | None]
    lifts: tuple[str, ...] = ()


LEG, TRUNK, ARM = ("hip", "knee", "ankle"), ("hip", "shoulder"), ("shoulder", "elbow", "wrist")
FOOT = ("toe", "heel")
PULL = ("power_position", "extension")
HEELS_UP = ("lift_off", "power_position", "peak_velocity")
"""What a heel is seen against needs no finished body: a tight picture cuts that off."""
BY_BODY = {"knee_pass", "extension"}
"""Moments that are read off the body alone."""

RULES = (
    _Rule(
        "trunk_start", "deg", ("lift_off",), TRUNK, scene.angle_at("trunk", "lift_off"), ("floor",)
    ),
    _Rule("trunk_knee", "deg", ("knee_pass",), TRUNK, pull.trunk_at_knee, ("floor",)),
    _Rule("trunk_drop", "deg", ("lift_off", "knee_pass"), TRUNK, pull.trunk_drop, ("floor",)),
    _Rule("trunk_open", "deg", ("lift_off", "peak_velocity"), TRUNK, pull.trunk_open, ("floor",)),
    _Rule(
        "shoulder_midfoot",
        "m",
        ("lift_off", "peak_velocity"),
        ("shoulder",),
        pull.shoulder_midfoot,
        ("floor",),
    ),
    _Rule(
        "hip_start",
        "deg",
        ("lift_off",),
        ("knee", *TRUNK),
        scene.angle_at("hip", "lift_off"),
        ("floor",),
    ),
    _Rule("knee_start", "deg", ("lift_off",), LEG, scene.angle_at("knee", "lift_off"), ("floor",)),
    _Rule("bar_midfoot_start", "m", ("lift_off",), FOOT, scene.bar_midfoot("lift_off"), ("floor",)),
    _Rule("hip_lead", "m", ("lift_off", "knee_pass"), TRUNK, pull.hip_lead, ("floor",)),
    _Rule("rise_ratio", "1", ("lift_off", "knee_pass"), TRUNK, pull.rise_ratio, ("floor",)),
    _Rule(
        "shoulder_ahead",
        "m",
        ("knee_pass",),
        ("shoulder",),
        scene.ahead_of_bar("shoulder", "knee_pass"),
        ("floor",),
    ),
    _Rule(
        "knee_ahead",
        "m",
        ("knee_pass",),
        ("knee",),
        scene.ahead_of_bar("knee", "knee_pass"),
        ("floor",),
    ),
    _Rule("knee_rebend", "deg", PULL, LEG, pull.knee_rebend, ("pull",)),
    _Rule("hip_drop", "m", PULL, ("hip",), pull.hip_drop, ("pull",)),
    _Rule("contact_point", "1", PULL, ("knee", "hip"), pull.contact_point, ("pull",)),
    _Rule("gap_power", "m", ("power_position",), ("hip",), scene.gap("power_position"), ("pull",)),
    _Rule("gap_extension", "m", ("extension",), ("hip",), scene.gap("extension"), ("pull",)),
    _Rule("gap_of_thigh", "1", ("extension",), ("hip", "knee"), pull.gap_of_thigh, ("pull",)),
    _Rule("heel_lead", "s", HEELS_UP, FOOT, pull.heel_lead, ("pull",)),
    _Rule(
        "hip_at_heel",
        "deg",
        HEELS_UP,
        ("knee", *TRUNK, *FOOT),
        pull.hip_at_heel,
        ("pull",),
    ),
    _Rule(
        "hip_after_heel",
        "deg",
        ("lift_off", *PULL),
        ("knee", *TRUNK, *FOOT),
        pull.hip_after_heel,
        ("pull",),
    ),
    _Rule(
        "shoulder_over_knee",
        "1",
        ("peak_velocity",),
        ("knee", "shoulder"),
        pull.shoulder_over_knee,
        ("pull",),
    ),
    _Rule("hip_extension", "deg", ("extension",), ("knee", *TRUNK), scene.greatest("hip")),
    _Rule("knee_extension", "deg", ("extension",), LEG, scene.greatest("knee")),
    _Rule(
        "ankle_extension", "deg", ("extension",), ("knee", "ankle", *FOOT), scene.greatest("ankle")
    ),
    _Rule("ankle_gain", "deg", PULL, ("knee", "ankle", *FOOT), pull.ankle_gain, ("pull",)),
    _Rule(
        "extension_spread", "s", ("extension",), (*LEG, "shoulder", *FOOT), pull.extension_spread
    ),
    _Rule("arm_at_extension", "deg", PULL, ("knee", "hip", *ARM), pull.arm_at_extension, ("pull",)),
    _Rule(
        "foot_shift",
        "m",
        ("extension", "lowest"),
        ("toe",),
        receive.foot_shift,
        ("catch", "feet level"),
    ),
    _Rule("air_time", "s", ("extension", "lowest"), FOOT, receive.air_time, ("catch",)),
    _Rule("hip_above_knee", "m", ("lowest",), ("hip", "knee"), receive.hip_above_knee, ("catch",)),
    _Rule(
        "catch_midfoot",
        "m",
        ("lowest",),
        FOOT,
        scene.bar_midfoot("lowest"),
        ("catch", "feet level"),
    ),
    _Rule("trunk_catch", "deg", ("lowest",), TRUNK, scene.angle_at("trunk", "lowest"), ("catch",)),
    _Rule("rack_elbow", "deg", ("lowest",), ("shoulder", "elbow"), receive.rack_elbow, ("rack",)),
    _Rule(
        "elbow_turnover",
        "s",
        ("peak_height", "lowest"),
        ("elbow", "shoulder"),
        receive.elbow_turnover,
        ("rack",),
    ),
    _Rule("elbow_catch", "deg", ("lowest",), ARM, scene.elbow_at("lowest"), ("overhead",)),
    _Rule("elbow_rebend", "deg", ("lowest", "stand"), ARM, receive.elbow_rebend, ("overhead",)),
    _Rule(
        "overhead_shoulder",
        "m",
        ("lowest",),
        ("shoulder",),
        scene.bar_over("shoulder", "lowest"),
        ("overhead",),
    ),
    _Rule(
        "overhead_hip", "m", ("lowest",), ("hip",), scene.bar_over("hip", "lowest"), ("overhead",)
    ),
    _Rule("head_behind", "m", ("stand",), ("ear",), scene.bar_over("ear", "stand"), ("overhead",)),
    _Rule("dip_lean", "deg", ("dip_start", "dip_bottom"), TRUNK, receive.dip_lean, ("jerk",)),
    _Rule(
        "knee_rebend_after_drive",
        "deg",
        ("extension", "lowest"),
        LEG,
        receive.rebend_after_drive,
        ("jerk",),
    ),
    _Rule(
        "front_shin", "deg", ("lowest",), ("knee", "ankle", "toe"), receive.front_shin, ("split",)
    ),
    _Rule("back_knee", "deg", ("lowest",), (*LEG, "toe"), receive.back_knee, ("split",)),
    _Rule("split_length", "m", ("lowest",), (), receive.split_length, ("split",)),
)

SQUARE_ON = frozenset(
    {
        *("bar_midfoot_start", "shoulder_ahead", "knee_ahead", "contact_point"),
        *("gap_power", "gap_extension", "gap_of_thigh", "catch_midfoot"),
        *("overhead_shoulder", "overhead_hip", "head_behind"),
        "arm_at_extension",
    }
)
"""What a view from aside does not allow. Most set the bar's end against the body forwards: it stands
nearer to the camera, and looks shifted. A bent arm looks too short."""

BODY_UNITS = {rule.id: rule.unit for rule in RULES}

WHY_NOT = {
    "pull": "a jerk has no pull",
    "floor": "this belongs to a lift from the floor",
    "catch": "a pull has no catch",
    "overhead": "the bar does not go overhead",
    "rack": "the bar does not come to the shoulders",
    "jerk": "this belongs to a jerk",
    "split": "this belongs to a lift received in the split",
    "feet level": "in a split the feet part on purpose",
}


def body_measures(
    bar: BarMotion,
    body: BodyMotion | None,
    events: dict[str, Event],
    derivative: Derivative,
) -> dict[str, Measure]:
    """All body measures by id; those that cannot be judged say why.

    Definitions stand with each function of `pull` and `receive`. `body` is None where nothing is known
    of the lifter's body.
    """
    fits = _kinds(derivative)
    frames = {name: event.frame for name, event in events.items()}
    scene = Scene(bar, body, frames) if body is not None else None
    return {rule.id: _measure(rule, scene, events, fits) for rule in RULES}


def _kinds(derivative: Derivative) -> set[str]:
    kinds = set()
    jerk = derivative.family == "jerk"
    kinds |= {"jerk"} if jerk else {"pull"}
    kinds |= {"floor"} if derivative.start == "floor" else set()
    kinds |= {"catch"} if derivative.has_catch else set()
    if derivative.has_catch:
        kinds |= {"rack"} if derivative.family == "clean" else {"overhead"}
    kinds |= {"split"} if derivative.receive == "split" else {"feet level"}
    return kinds


def _measure(rule: _Rule, scene: Scene | None, events: dict[str, Event], fits: set[str]) -> Measure:
    def missing(why: str) -> Measure:
        return Measure(rule.id, None, None, rule.unit, None, why)

    unfit = next((kind for kind in rule.lifts if kind not in fits), None)
    if unfit is not None:
        return missing(WHY_NOT[unfit])
    if scene is None:
        return missing(NO_BODY)
    body = scene.body
    if not body.side_on:
        return missing(NOT_SIDE_ON)
    if rule.id in SQUARE_ON and not body.square_on:
        return missing(NOT_SQUARE)
    absent = [name for name in rule.events if name not in events]
    if absent:
        return missing(_which_moment(absent) if events else "no lift was found")
    reading = rule.read(scene)
    if reading is None or not np.isfinite([reading.value, reading.sigma]).all():
        return missing(_what_is_missing(rule, scene, reading))
    shares = [_event_share(rule, scene, events[name], reading.value) for name in rule.events]
    points = rule.points if reading.points is None else reading.points
    firm = body.firm(*points)[reading.frame]
    sigma = float(np.sqrt(np.sum(np.square([reading.sigma, *shares]))))
    return Measure(rule.id, reading.value, sigma, rule.unit, reading.frame, assumed=not firm)


def _which_moment(absent: list[str]) -> str:
    if set(absent) <= BY_BODY:
        return "the body does not show that moment; set its points by hand"
    return "that moment of the lift is not found"


def _event_share(rule: _Rule, scene: Scene, event: Event, value: float) -> float:
    """What moving one event by its uncertainty would change (a frame at least, then scaled)."""
    step = max(1, round(event.sigma_s / scene.bar.frame_s))
    changes = [0.0]
    for moved in (event.frame - step, event.frame + step):
        if 0 <= moved < len(scene.bar.t_s):
            other = rule.read(scene.with_event(event.name, moved))
            if other is not None and np.isfinite(other.value):
                changes.append(abs(other.value - value))
    change = sum(changes) / max(len(changes) - 1, 1)
    return change * event.sigma_s / (step * scene.bar.frame_s)


def _what_is_missing(rule: _Rule, scene: Scene, reading: Reading | None) -> str:
    frame = reading.frame if reading is not None else scene.frames[rule.events[0]]
    unknown = [name for name in rule.points if not np.isfinite(scene.body.at(name)[frame]).all()]
    if unknown:
        return f"the {unknown[0]} is not known there; set it by hand"
    return reading.why if reading is not None and reading.why else "it does not happen in this lift"
