"""The bar as the search for its lifter needs it."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.mark import BarTrack, State
from keen_kettle.core.track.pictures import in_small

__all__ = ["FollowedBar"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class FollowedBar:
    """Where the bar is in each frame, `px` (frames, 2), NaN where unknown: it tells the lifter from others.

    `radius_px` is the plate's radius; with it patches of the picture are followed too. `camera_px` (frames, 2)
    says how far the camera's movement carried things, `apart` (frames,) which frames show another shot, or
    are cut off: nobody is looked for there.
    """

    px: Array
    radius_px: float | None = None
    camera_px: Array | None = None
    apart: NDArray[np.bool_] | None = None

    @classmethod
    def of(cls, track: BarTrack) -> "FollowedBar":
        """As it was tracked."""
        return cls(
            np.column_stack([track.x_px, track.y_px]),
            max(track.rim.axes_px),
            track.camera_in_all_frames_px(),
            np.asarray(track.state == State.OUTSIDE),
        )

    def smaller(self, by: int) -> "FollowedBar":
        """In pictures that are made so many times smaller."""
        return replace(
            self,
            px=in_small(self.px, by),
            radius_px=None if self.radius_px is None else self.radius_px / by,
            camera_px=None if self.camera_px is None else self.camera_px / by,
        )

    def own(self, frames: NDArray[np.int32]) -> NDArray[np.int32]:
        """Those of the frames (k,) that show the bar's own shot; all of them if none does."""
        own = ~self.apart[frames] if self.apart is not None else np.zeros(len(frames), bool)
        return frames[own] if own.any() else frames

    def camera_in(self, frames: NDArray[np.int32]) -> Array | None:
        """`camera_px` in these frames, (k, 2)."""
        return self.camera_px[frames] if self.camera_px is not None else None
