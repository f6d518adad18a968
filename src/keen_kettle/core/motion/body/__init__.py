"""The lifter's body in motion: places and angles over time, its events, and its measures."""

from keen_kettle.core.motion.body.events import add_body_events
from keen_kettle.core.motion.body.measures import BODY_UNITS, SQUARE_ON, body_measures
from keen_kettle.core.motion.body.movement import ANGLES, BodyMotion, body_motion, plate_nearer

__all__ = [
    "ANGLES",
    "BODY_UNITS",
    "SQUARE_ON",
    "BodyMotion",
    "add_body_events",
    "body_measures",
    "body_motion",
    "plate_nearer",
]
