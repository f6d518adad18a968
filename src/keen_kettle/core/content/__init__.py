"""The shipped content (measures, faults, drills, cautions, ladders), checked as it is loaded."""

from keen_kettle.core.content.ladders import (
    AIMS,
    Answer,
    Check,
    Dose,
    Gate,
    Ladder,
    Question,
    Stage,
    Strand,
    Teaching,
    load_teaching,
    read_ladder,
)
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
    "AIMS",
    "Answer",
    "Band",
    "Caution",
    "Check",
    "Content",
    "Dose",
    "Drill",
    "Fault",
    "Gate",
    "Ladder",
    "MeasureWords",
    "Question",
    "Rule",
    "Stage",
    "Strand",
    "Teaching",
    "load_content",
    "load_teaching",
    "read_ladder",
]
