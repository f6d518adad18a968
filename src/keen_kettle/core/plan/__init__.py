"""Loads: what the plates at hand can make, and what a drill weighs for an athlete."""

from keen_kettle.core.plan.loads import Load, load_for
from keen_kettle.core.plan.plates import STANDARD_PLATES, Loading, PlateSet, make_load

__all__ = ["STANDARD_PLATES", "Load", "Loading", "PlateSet", "load_for", "make_load"]
