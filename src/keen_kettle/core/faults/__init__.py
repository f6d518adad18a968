"""Judging: measures become findings and praise; findings become one cause."""

from keen_kettle.core.faults.causes import ORDER, Diagnosis, find_cause
from keen_kettle.core.faults.judge import Evidence, Finding, Praise, judge, judged_faults, praise

__all__ = [
    "ORDER",
    "Diagnosis",
    "Evidence",
    "Finding",
    "Praise",
    "find_cause",
    "judge",
    "judged_faults",
    "praise",
]
