"""The bar's path while it is being followed."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["GrowingPath"]


@dataclass
class GrowingPath:
    """Points as they come while tracking; shape (frames,), NaN where not yet known."""

    x_px: NDArray[np.float64]
    y_px: NDArray[np.float64]

    @classmethod
    def blank(cls, frames: int) -> "GrowingPath":
        return cls(np.full(frames, np.nan), np.full(frames, np.nan))
