"""A finding becomes drills with loads, for one athlete with the plates at hand."""

from dataclasses import dataclass

from keen_kettle.core.content import Content
from keen_kettle.core.plan.loads import Load, load_for
from keen_kettle.core.plan.plates import PlateSet
from keen_kettle.core.prescribe import Corrective

__all__ = ["Prescription", "price_corrective"]


@dataclass(frozen=True)
class Prescription:
    """One corrective with its load."""

    corrective: Corrective
    load: Load


def price_corrective(
    one: Corrective, best_kg: float | None, plates: PlateSet, content: Content
) -> Prescription:
    """A corrective with its load; what is done with bells or a stick gets no kilograms."""
    drill = content.drills[one.drill]
    if one.implement == "stick":
        return Prescription(one, Load("stick", None, None, drill.low, drill.high, best_kg))
    if one.implement != "barbell":
        why = f"a {one.implement} with which every point holds"
        return Prescription(one, Load("bell", None, None, drill.low, drill.high, best_kg, why))
    return Prescription(one, load_for(drill, best_kg, plates))
