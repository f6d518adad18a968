"""From a path in pixels to movement in metres: smoothing, events, measures with uncertainty."""

from keen_kettle.core.motion.bar import BarMotion, bar_motion
from keen_kettle.core.motion.body import (
    ANGLES,
    BODY_UNITS,
    BodyMotion,
    add_body_events,
    body_measures,
    body_motion,
)
from keen_kettle.core.motion.clock import (
    IN_DIAMETERS,
    TRUST_REPEATS,
    Clock,
    film_clock,
    in_diameters,
    repeated_share,
    without_times,
)
from keen_kettle.core.motion.drawings import (
    BAR,
    DRAWN,
    ELSEWHERE,
    Drawing,
    DrawnValue,
    Filmed,
    Shown,
    Spot,
    place_spot,
    show_drawing,
)
from keen_kettle.core.motion.events import (
    EVENT_NAMES,
    Event,
    event_name,
    first_event,
)
from keen_kettle.core.motion.hand_events import HandEvent, with_hand_events
from keen_kettle.core.motion.jerk import find_jerk_events, jerk_measures
from keen_kettle.core.motion.measures import Measure, bar_measures
from keen_kettle.core.motion.pace import bar_pace
from keen_kettle.core.motion.pause import Pause, pause_on_the_way
from keen_kettle.core.motion.read_lift import family_is_read, read_lift
from keen_kettle.core.motion.reps import Rep, split_reps

__all__ = [
    "ANGLES",
    "BAR",
    "BODY_UNITS",
    "DRAWN",
    "ELSEWHERE",
    "EVENT_NAMES",
    "IN_DIAMETERS",
    "TRUST_REPEATS",
    "BarMotion",
    "BodyMotion",
    "Clock",
    "Drawing",
    "DrawnValue",
    "Event",
    "Filmed",
    "HandEvent",
    "Measure",
    "Pause",
    "Rep",
    "Shown",
    "Spot",
    "add_body_events",
    "bar_measures",
    "bar_motion",
    "bar_pace",
    "body_measures",
    "body_motion",
    "event_name",
    "family_is_read",
    "film_clock",
    "find_jerk_events",
    "first_event",
    "in_diameters",
    "jerk_measures",
    "pause_on_the_way",
    "place_spot",
    "read_lift",
    "repeated_share",
    "show_drawing",
    "split_reps",
    "with_hand_events",
    "without_times",
]
