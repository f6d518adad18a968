"""The ground that judging, teaching and prescribing stand on: movements, their names and nature."""

from keen_kettle.core.lifts.compare import Contrast, compare_movements
from keen_kettle.core.lifts.derivative import (
    ACTIONS,
    FAMILIES,
    IMPLEMENTS,
    POSITIONS,
    RECEIVES,
    Derivative,
    all_derivatives,
    filmed_derivatives,
    format_derivative,
    why_illegal,
)
from keen_kettle.core.lifts.helpers import HELPERS, Helper
from keen_kettle.core.lifts.naming import parse_derivative, parse_filmed, parse_movement
from keen_kettle.core.lifts.nature import (
    CHECKS,
    JERK_PHASES,
    PHASES,
    Movement,
    Needs,
    catch_limits_load,
    needs_of,
    phases_of,
    positions_of,
    relative_range,
)

__all__ = [
    "ACTIONS",
    "CHECKS",
    "FAMILIES",
    "HELPERS",
    "IMPLEMENTS",
    "JERK_PHASES",
    "PHASES",
    "POSITIONS",
    "RECEIVES",
    "Contrast",
    "Derivative",
    "Helper",
    "Movement",
    "Needs",
    "all_derivatives",
    "catch_limits_load",
    "compare_movements",
    "filmed_derivatives",
    "format_derivative",
    "needs_of",
    "parse_derivative",
    "parse_filmed",
    "parse_movement",
    "phases_of",
    "positions_of",
    "relative_range",
    "why_illegal",
]
