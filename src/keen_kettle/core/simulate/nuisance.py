"""What spoils real films: shadows on the wall, people walking past, captions and lines burnt in."""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body import Pose
from keen_kettle.core.simulate.camera import Camera
from keen_kettle.core.simulate.scene import Picture

__all__ = ["paint_arrow", "paint_caption", "paint_passer_by", "paint_shadow", "title_card"]

Array = NDArray[np.float64]

SHADOW_M = np.array([-0.42, -0.06])
"""Where the lamp throws the shadow, against what casts it."""


def paint_shadow(picture: Picture, pose: Pose, bar: Array, camera: Camera) -> None:
    """Darken the wall where lifter and plate keep the light off (before they are painted); `bar` has shape
    (2,), metres."""
    mask = np.zeros(picture.shape[:2], np.uint8)
    k = camera.px_per_m
    points = {name: camera.to_px(point + SHADOW_M) for name, point in pose.points.items()}
    for a, b in (("ankle", "knee"), ("knee", "hip"), ("hip", "shoulder"), ("shoulder", "ear")):
        ends = [tuple(int(v) for v in points[name]) for name in (a, b)]
        cv2.line(mask, ends[0], ends[1], 255, max(int(0.2 * k), 1))
    spot = camera.to_px(bar + SHADOW_M)
    cv2.circle(mask, (int(spot[0]), int(spot[1])), int(0.225 * k), 255, -1)
    soft = cv2.blur(mask, (9, 9)).astype(np.float32)[..., None] / 255
    picture[:] = (picture * (1 - 0.42 * soft)).astype(np.uint8)


def paint_passer_by(picture: Picture, share: float, camera: Camera) -> None:
    """Somebody carries a mat past, between camera and lifter, from left to right (share 0 to 1)."""
    k = 1.25 * camera.px_per_m
    x = -0.4 * k + share * (camera.width_px + 0.8 * k)
    floor = camera.floor_px + 0.1 * k
    swing = 0.28 * k * np.sin(26 * share)
    for foot, tone in ((swing, (62, 58, 52)), (-swing, (74, 70, 64))):
        hip = (int(x), int(floor - 0.9 * k))
        cv2.line(picture, hip, (int(x + foot), int(floor)), tone, int(0.15 * k), cv2.LINE_AA)
    neck = (int(x), int(floor - 1.45 * k))
    cv2.line(picture, (int(x), int(floor - 0.9 * k)), neck, (92, 70, 120), int(0.34 * k))
    cv2.circle(picture, (int(x), int(floor - 1.68 * k)), int(0.12 * k), (120, 150, 196), -1)
    mat = [(int(x + side * 0.27 * k), int(floor - up * k)) for side, up in ((-1, 1.15), (1, 0.12))]
    cv2.rectangle(picture, mat[0], mat[1], (140, 118, 62), -1)
    cv2.rectangle(picture, mat[0], mat[1], (92, 78, 40), 2)


def paint_caption(picture: Picture, camera: Camera) -> None:
    """A line of words low in the picture and a plumb line, as some programs burn them in."""
    scale = camera.height_px / 720
    x, y = int(0.5 * camera.width_px), int(0.87 * camera.height_px)
    cv2.line(
        picture, (x + int(18 * scale), 0), (x + int(18 * scale), camera.height_px), (60, 220, 90), 2
    )
    corner = (int(0.12 * camera.width_px), y)
    cv2.putText(
        picture,
        "stay over the bar - set 3",
        corner,
        cv2.FONT_HERSHEY_SIMPLEX,
        1.7 * scale,
        (245, 245, 245),
        max(int(4 * scale), 1),
        cv2.LINE_AA,
    )


def paint_arrow(picture: Picture) -> None:
    """An arrow into the middle of the picture, as some draw on a picture that they hold."""
    high, wide = picture.shape[:2]
    begin, end = (int(0.72 * wide), int(0.2 * high)), (int(0.55 * wide), int(0.5 * high))
    cv2.arrowedLine(picture, begin, end, (40, 220, 250), max(high // 110, 2), cv2.LINE_AA)


def title_card(camera: Camera) -> Picture:
    """A title as films from editors begin with: a few words on a plain ground."""
    high, wide = camera.height_px, camera.width_px
    fall = np.linspace(1.15, 0.75, high)[:, None, None]
    card = np.clip(np.array((96, 70, 52)) * fall * np.ones((1, wide, 1)), 0, 255).astype(np.uint8)
    scale = min(high, wide) / 500
    for row, words in enumerate(("Pulls, week 3", "stay over the bar")):
        spot = (int(0.12 * wide), int((0.45 + 0.16 * row) * high))
        thick = max(int(3 * scale), 1)
        cv2.putText(
            card, words, spot, cv2.FONT_HERSHEY_SIMPLEX, 1.2 * scale, (235, 235, 235), thick
        )
    return card
