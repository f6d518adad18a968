"""The bar's path in the picture: the coach's mark, the plate's rim, the blended tracker, scale."""

from keen_kettle.core.track.background import MATTERS, still_path
from keen_kettle.core.track.mark import (
    STATES,
    BarTrack,
    PlateMark,
    Scale,
    State,
    scale_from_rim,
)
from keen_kettle.core.track.rim import Rim, fit_rim
from keen_kettle.core.track.tracker import TRACKER_VERSION, Pictures, track_bar

__all__ = [
    "MATTERS",
    "STATES",
    "TRACKER_VERSION",
    "BarTrack",
    "Pictures",
    "PlateMark",
    "Rim",
    "Scale",
    "State",
    "fit_rim",
    "scale_from_rim",
    "still_path",
    "track_bar",
]
