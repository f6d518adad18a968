"""The lifter's landmarks: the pose model, following it through a film, solving the body round it."""

from keen_kettle.core.track.body.borne import as_a_plate_is_lifted
from keen_kettle.core.track.body.find import FINDER_VERSION, find_body, frames_to_look_at
from keen_kettle.core.track.body.followed import FollowedBar
from keen_kettle.core.track.body.landmarks import (
    LANDMARKS,
    NEEDED_SIDE_ON,
    SEGMENTS,
    BodyHand,
    BodyPoint,
    BodySeed,
    BodySpan,
    BodyTrack,
    PointState,
    Sightings,
)
from keen_kettle.core.track.body.net import PoseNet, why_no_model
from keen_kettle.core.track.body.solve import solve_body

__all__ = [
    "FINDER_VERSION",
    "LANDMARKS",
    "NEEDED_SIDE_ON",
    "SEGMENTS",
    "BodyHand",
    "BodyPoint",
    "BodySeed",
    "BodySpan",
    "BodyTrack",
    "FollowedBar",
    "PointState",
    "PoseNet",
    "Sightings",
    "as_a_plate_is_lifted",
    "find_body",
    "frames_to_look_at",
    "solve_body",
    "why_no_model",
]
