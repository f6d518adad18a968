"""From a path in pixels to movement in metres: smoothing, events, measures with uncertainty."""

from keen_kettle.core.motion.bar import BarMotion, bar_motion
from keen_kettle.core.motion.events import EVENT_NAMES, Event, find_events
from keen_kettle.core.motion.measures import Measure, bar_measures

__all__ = [
    "EVENT_NAMES",
    "BarMotion",
    "Event",
    "Measure",
    "bar_measures",
    "bar_motion",
    "find_events",
]
