"""Somebody behind the lifter, to one side: standing, or seated on a box."""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body import two_link
from keen_kettle.core.simulate.body3d import Held, Lifter, pose_bones, skin
from keen_kettle.core.simulate.camera import Camera

__all__ = ["paint_box", "seated_flesh", "standing_flesh"]

Flesh = NDArray[np.float32]
Picture = NDArray[np.uint8]

PLACE_M = (-1.15, 0.0, -1.3)
"""Where they are against the lifter's middle: forward, up, towards the camera."""
SEAT_M, BOX_HALF_M = 0.44, (0.24, 0.22)
BOX_TONES = {"front": (52, 66, 84), "top": (70, 88, 110)}


def standing_flesh(lifter: Lifter) -> tuple[Flesh, Flesh]:
    """Vertices (V, 3) and normals of somebody at rest."""
    return lifter.vertices + np.array(PLACE_M, np.float32), lifter.normals


def seated_flesh(lifter: Lifter) -> tuple[Flesh, Flesh]:
    """Vertices (V, 3) and normals of somebody who sits and leans forward, hands on the knees."""
    body = lifter.body
    hip = np.array([0.0, SEAT_M + 0.09])
    ankle = np.array([0.9 * body.thigh, body.ankle])
    knee = two_link(hip, ankle, body.thigh, body.shank, 1.0)
    shoulder = hip + body.trunk * np.array([np.sin(0.3), np.cos(0.3)])
    hands = Held(knee + np.array([-0.05, 0.08]), 0.16)
    points = {
        "hip": hip,
        "knee": knee,
        "ankle": ankle,
        "toe": np.array([ankle[0] + 0.7 * body.foot, 0.0]),
        "heel": np.array([ankle[0] - 0.3 * body.foot, 0.0]),
        "shoulder": shoulder,
        "elbow": shoulder + np.array([0.02, -0.3]),
    }
    vertices, normals = skin(lifter, pose_bones(lifter, points, hands, hands))
    return vertices + np.array(PLACE_M, np.float32), normals


def paint_box(picture: Picture, camera: Camera, tint: tuple[float, float, float]) -> None:
    """What they sit on, in place."""
    x, _, z = PLACE_M
    wide, deep = BOX_HALF_M
    sides = {
        "top": [
            (x - wide, z - deep),
            (x + wide, z - deep),
            (x + wide, z + deep),
            (x - wide, z + deep),
        ],
        "front": [
            (x - wide, z + deep),
            (x + wide, z + deep),
            (x + wide, z + deep),
            (x - wide, z + deep),
        ],
    }
    for name, corners in sides.items():
        heights = [SEAT_M] * 4 if name == "top" else [SEAT_M, SEAT_M, 0.0, 0.0]
        flat = np.array([(at, high) for (at, _), high in zip(corners, heights, strict=True)])
        outline = camera.to_px(flat, np.array([depth for _, depth in corners]))
        tone = [float(one) for one in np.array(BOX_TONES[name]) * tint]
        cv2.fillConvexPoly(picture, np.round(outline).astype(np.int32), tone, cv2.LINE_AA)
