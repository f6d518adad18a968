"""The ground that judging and prescribing stand on: names of derivatives and their phases."""

from keen_kettle.core.lifts.derivative import (
    PHASES,
    Derivative,
    all_derivatives,
    format_derivative,
    parse_derivative,
    phases_of,
)

__all__ = [
    "PHASES",
    "Derivative",
    "all_derivatives",
    "format_derivative",
    "parse_derivative",
    "phases_of",
]
