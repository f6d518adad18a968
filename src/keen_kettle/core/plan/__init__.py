"""Loads: what the plates at hand can make, and what a corrective weighs for an athlete."""

from keen_kettle.core.plan.loads import Load, best_for, load_for
from keen_kettle.core.plan.plates import STANDARD_PLATES, Loading, PlateSet, make_load
from keen_kettle.core.plan.prescription import REVIEW_AFTER_DAYS, Prescription, prescribe

__all__ = [
    "REVIEW_AFTER_DAYS",
    "STANDARD_PLATES",
    "Load",
    "Loading",
    "PlateSet",
    "Prescription",
    "best_for",
    "load_for",
    "make_load",
    "prescribe",
]
