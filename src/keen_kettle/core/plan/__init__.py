"""Loads, build-ups and sessions: what the plates at hand make of what was prescribed."""

from keen_kettle.core.plan.build_up import BuildStep, build_up, plate_changes
from keen_kettle.core.plan.complex_load import ComplexLoad, load_complex
from keen_kettle.core.plan.loads import Load, best_for, load_for
from keen_kettle.core.plan.plates import STANDARD_PLATES, Loading, PlateSet, make_load
from keen_kettle.core.plan.prescription import Prescription, price_corrective
from keen_kettle.core.plan.session import (
    Block,
    Line,
    Session,
    SessionFacts,
    SheetText,
    make_session,
    working_load,
)
from keen_kettle.core.plan.versions import VERSIONS, complex_versions, version_of

__all__ = [
    "STANDARD_PLATES",
    "VERSIONS",
    "Block",
    "BuildStep",
    "ComplexLoad",
    "Line",
    "Load",
    "Loading",
    "PlateSet",
    "Prescription",
    "Session",
    "SessionFacts",
    "SheetText",
    "best_for",
    "build_up",
    "complex_versions",
    "load_complex",
    "load_for",
    "make_load",
    "make_session",
    "plate_changes",
    "price_corrective",
    "version_of",
    "working_load",
]
