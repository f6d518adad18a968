"""From a path in pixels to movement in metres: smoothing, events, measures with uncertainty."""

from keen_kettle.core.motion.bar import BarMotion, bar_motion
from keen_kettle.core.motion.clock import (
    IN_DIAMETERS,
    TRUST_REPEATS,
    Clock,
    film_clock,
    in_diameters,
    repeated_share,
    without_times,
)
from keen_kettle.core.motion.events import EVENT_NAMES, Event, find_events
from keen_kettle.core.motion.measures import Measure, bar_measures
from keen_kettle.core.motion.reps import Rep, split_reps

__all__ = [
    "EVENT_NAMES",
    "IN_DIAMETERS",
    "TRUST_REPEATS",
    "BarMotion",
    "Clock",
    "Event",
    "Measure",
    "Rep",
    "bar_measures",
    "bar_motion",
    "film_clock",
    "find_events",
    "in_diameters",
    "repeated_share",
    "split_reps",
    "without_times",
]
