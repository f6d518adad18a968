"""Somebody who walks by behind the lifter: a plain gait on a lifter's own legs."""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body import two_link
from keen_kettle.core.simulate.body3d import Held, Lifter, pose_bones, skin

__all__ = ["WALK_Z_M", "walker_flesh"]

Array = NDArray[np.float64]
Flesh = NDArray[np.float32]

WALK_Z_M = -1.1
"""Walks so far behind the lifter's middle."""
PERIOD_S, STANCE, STEP_M, LIFT_M = 1.08, 0.6, 0.33, 0.11
SPEED_M_S = 2 * STEP_M / (STANCE * PERIOD_S)
"""So that a foot on the floor does not slide."""


def walker_flesh(lifter: Lifter, since_s: float) -> tuple[Flesh, Flesh]:
    """Vertices (V, 3) and normals of somebody walking forward, who passes the lifter's middle at 0."""
    near, far = _leg(lifter, since_s / PERIOD_S), _leg(lifter, since_s / PERIOD_S + 0.5)
    hip = _hip(lifter)
    trunk, palm = lifter.body.trunk, lifter.body.upper + lifter.body.fore
    shoulder = hip + np.array([0.015, trunk])
    swing = 0.5 * np.sin(2 * np.pi * since_s / PERIOD_S)
    points = {"hip": hip, "shoulder": shoulder, "elbow": shoulder - np.array([0.05, 0.3]), **near}
    arms = [
        Held(shoulder + 0.93 * palm * np.array([np.sin(a), -np.cos(a)]), lifter.body.half_shoulder)
        for a in (-swing, swing)
    ]
    vertices, normals = skin(lifter, pose_bones(lifter, points, arms[0], arms[1], far))
    vertices = vertices + np.array([SPEED_M_S * since_s, 0.0, WALK_Z_M], np.float32)
    return vertices, normals


def _hip(lifter: Lifter) -> Array:
    body = lifter.body
    return np.array([0.0, body.ankle + 0.965 * (body.shank + body.thigh)])


def _leg(lifter: Lifter, phase: float) -> dict[str, Array]:
    """Knee, ankle, toe and heel against the hip's place, at a phase of the gait (one: a whole step pair)."""
    body, phase = lifter.body, phase % 1.0
    if phase < STANCE:
        share = phase / STANCE
        x, lift = STEP_M * (1 - 2 * share), 0.05 * max(share - 0.7, 0) / 0.3
        pitch = 0.35 * max(share - 0.7, 0) / 0.3
    else:
        share = (phase - STANCE) / (1 - STANCE)
        x = -STEP_M * np.cos(np.pi * share)
        lift, pitch = 0.05 * (1 - share) + LIFT_M * np.sin(np.pi * share), 0.35 * (1 - share)
    ankle = np.array([x, body.ankle + lift])
    hip = _hip(lifter)
    reach = 0.998 * (body.shank + body.thigh)
    way = hip - ankle
    if np.hypot(*way) > reach:
        ankle = hip - way / np.hypot(*way) * reach
    along = np.array([np.cos(pitch), -np.sin(pitch)])
    sole = ankle - [0.0, body.ankle]
    return {
        "knee": two_link(hip, ankle, body.thigh, body.shank, 1.0),
        "ankle": ankle,
        "toe": sole + 0.7 * body.foot * along,
        "heel": sole - 0.3 * body.foot * along,
    }
