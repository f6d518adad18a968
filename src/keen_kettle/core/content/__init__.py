"""The shipped content (measures, faults, drills, cautions), checked as it is loaded."""

from keen_kettle.core.content.load import (
    Band,
    Caution,
    Content,
    Drill,
    Fault,
    MeasureWords,
    Rule,
    load_content,
)

__all__ = [
    "Band",
    "Caution",
    "Content",
    "Drill",
    "Fault",
    "MeasureWords",
    "Rule",
    "load_content",
]
