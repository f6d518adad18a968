"""What a clip's answer adds to the athlete's record: the faults seen, and every measure told."""

from datetime import date

import numpy as np

from keen_kettle.core.analysis.assess import Assessment
from keen_kettle.core.prescribe import Sighting

__all__ = ["measures_told", "sightings_of"]

CLOSE = 0.5
"""A finding that is only close to its threshold counts half."""


def sightings_of(answer: Assessment, family: str, on: date, clip: int) -> tuple[Sighting, ...]:
    """The findings of an answer as sightings of a day, each with its plainest evidence (SI units)."""
    found = []
    for one in answer.findings:
        plainest = one.evidence[0]
        found.append(
            Sighting(
                one.fault,
                on,
                family,
                "clip",
                one.severity * (CLOSE if one.close else 1.0),
                one.confidence,
                plainest.measure,
                plainest.value,
                plainest.sigma,
                clip,
            )
        )
    return tuple(found)


def measures_told(answer: Assessment) -> dict[str, tuple[float, float]]:
    """Every measure with a value and a standard uncertainty, by its id (SI units)."""
    return {
        name: (float(one.value), float(one.sigma))
        for name, one in answer.measures.items()
        if one.value is not None
        and one.sigma is not None
        and np.isfinite(one.value)
        and np.isfinite(one.sigma)
    }
