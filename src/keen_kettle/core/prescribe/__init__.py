"""Correctives, warm-ups and complexes: what answers what was seen, for this athlete, and why."""

from keen_kettle.core.prescribe.correctives import (
    MOST,
    AthleteFacts,
    Corrective,
    Ended,
    Recommended,
    Refusal,
    choose_correctives,
    cues_of,
    movement_of_drill,
    recommend,
)
from keen_kettle.core.prescribe.evidence import Cause, Sighting, causes_of
from keen_kettle.core.prescribe.first_rep import FirstRep, judge_first_rep
from keen_kettle.core.prescribe.follow import (
    OUTCOMES,
    Effect,
    FollowUp,
    Measured,
    compare_measures,
    compare_sightings,
    house_effects,
    review_days,
)
from keen_kettle.core.prescribe.warm_up import Opening, open_the_body

__all__ = [
    "MOST",
    "OUTCOMES",
    "AthleteFacts",
    "Cause",
    "Corrective",
    "Effect",
    "Ended",
    "FirstRep",
    "FollowUp",
    "Measured",
    "Opening",
    "Recommended",
    "Refusal",
    "Sighting",
    "causes_of",
    "choose_correctives",
    "compare_measures",
    "compare_sightings",
    "cues_of",
    "house_effects",
    "judge_first_rep",
    "movement_of_drill",
    "open_the_body",
    "recommend",
    "review_days",
]
