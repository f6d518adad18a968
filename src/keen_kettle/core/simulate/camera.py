"""Where the camera stands and what it sees: a side view, or one from the side, from near, from low.

A scene point has x to the front of the lifter, y up and z towards the camera, the lifter's middle at
z = 0. The camera looks level; it stands `distance_m` away at `height_m`, turned round the lifter by
`yaw_deg`, and is held `roll_deg` askew. An infinite distance gives an orthographic view.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["PLATE_DEPTH_M", "Camera"]

Array = NDArray[np.float64]

PLATE_DEPTH_M = 0.66
"""The near plate's face lies this far in front of the lifter's middle, the far one behind it."""


@dataclass(frozen=True)
class Camera:
    """A camera; `px_per_m` holds at the lifter's middle.

    `facing` is "right" or "left": where the lifter looks in the picture. `floor_px` is the row of
    the floor and `middle_px` the column of the lifter's middle.
    """

    width_px: int = 1280
    height_px: int = 720
    px_per_m: float = 285.0
    floor_px: float = 655.0
    middle_px: float = 640.0
    facing: str = "right"
    distance_m: float = np.inf
    height_m: float = 1.0
    yaw_deg: float = 0.0
    roll_deg: float = 0.0

    @property
    def plain(self) -> bool:
        """A level side view from very far away, at right angles to the bar."""
        return np.isinf(self.distance_m) and self.yaw_deg == 0 and self.roll_deg == 0

    def scale_at(self, depth_m: float) -> float:
        """Pixels per metre at a distance in front of the lifter's middle."""
        if np.isinf(self.distance_m):
            return self.px_per_m
        return self.px_per_m * self.distance_m / (self.distance_m - depth_m)

    def to_px(self, metres: Array, depth_m: float | Array = 0.0) -> Array:
        """Metres (x front, y up; shape (..., 2)) at a depth (or one for each) to pixels (x right, y
        down)."""
        m = np.asarray(metres, dtype=float)
        across = (1.0 if self.facing == "right" else -1.0) * m[..., 0]
        yaw = np.radians(self.yaw_deg)
        aside = across * np.cos(yaw) + depth_m * np.sin(yaw)
        near = depth_m * np.cos(yaw) - across * np.sin(yaw)
        k = self.px_per_m
        if np.isfinite(self.distance_m):
            k = k * self.distance_m / (self.distance_m - near)
        horizon = self.floor_px - self.px_per_m * self.height_m
        x = k * aside
        y = horizon - self.floor_px - k * (m[..., 1] - self.height_m)
        roll = np.radians(self.roll_deg)
        level = np.stack([x, y], axis=-1)
        if roll:
            pivot = np.array([self.width_px / 2 - self.middle_px, horizon - self.floor_px])
            turn = np.array([[np.cos(roll), -np.sin(roll)], [np.sin(roll), np.cos(roll)]])
            level = (level - pivot) @ turn.T + pivot
        return np.asarray(level + np.array([self.middle_px, self.floor_px]))
