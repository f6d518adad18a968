"""The bar's path in the picture: the coach's mark, the plate's rim, the blended tracker, scale."""

from keen_kettle.core.track.background import MATTERS, still_path
from keen_kettle.core.track.hand import THINGS, Followed, HandWork, Span
from keen_kettle.core.track.mark import (
    SMALLEST_RADIUS_PX,
    STATES,
    BarTrack,
    MarkedPicture,
    PlateMark,
    Risen,
    Scale,
    State,
    check_diameter,
    scale_from_points,
    scale_from_rim,
    scale_unknown,
)
from keen_kettle.core.track.pictures import Pictures
from keen_kettle.core.track.propose import propose_plate
from keen_kettle.core.track.rim import Rim, fit_rim
from keen_kettle.core.track.tracker import (
    TRACKER_VERSION,
    TrackMemory,
    marked_rim,
    rim_of,
    track_bar,
)
from keen_kettle.core.track.vertical import Vertical, vertical_along

__all__ = [
    "MATTERS",
    "SMALLEST_RADIUS_PX",
    "STATES",
    "THINGS",
    "TRACKER_VERSION",
    "BarTrack",
    "Followed",
    "HandWork",
    "MarkedPicture",
    "Pictures",
    "PlateMark",
    "Rim",
    "Risen",
    "Scale",
    "Span",
    "State",
    "TrackMemory",
    "Vertical",
    "check_diameter",
    "fit_rim",
    "marked_rim",
    "propose_plate",
    "rim_of",
    "scale_from_points",
    "scale_from_rim",
    "scale_unknown",
    "still_path",
    "track_bar",
    "vertical_along",
]
