"""What a clip showed, as it is kept in the athlete's record."""

from datetime import date

from keen_kettle.core.analysis import Assessment, measures_told, sightings_of
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.store import ClipFindings

__all__ = ["findings_from"]


def findings_from(answer: Assessment, clip: int, lift: str, on: date) -> ClipFindings:
    """An answer as it is kept in the athlete's record."""
    family = parse_filmed(lift).family
    return ClipFindings(clip, family, sightings_of(answer, family, on, clip), measures_told(answer))
