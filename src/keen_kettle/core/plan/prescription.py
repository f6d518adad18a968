"""A finding becomes drills with loads, for one athlete with the plates at hand."""

from dataclasses import dataclass

from keen_kettle.core.content import Content
from keen_kettle.core.plan.loads import Load, load_for
from keen_kettle.core.plan.plates import PlateSet
from keen_kettle.core.prescribe import AthleteFacts, Corrective, Refusal, choose_correctives

__all__ = ["REVIEW_AFTER_DAYS", "Prescription", "prescribe"]

REVIEW_AFTER_DAYS = 14
"""A corrective stays for two to three weeks; the new clip is due at the early end."""


@dataclass(frozen=True)
class Prescription:
    """One corrective with its load."""

    corrective: Corrective
    load: Load


def prescribe(
    fault: str,
    family: str,
    athlete: AthleteFacts,
    best_kg: float | None,
    plates: PlateSet,
    content: Content,
) -> tuple[list[Prescription], list[Refusal]]:
    """At most two priced correctives, best first, and the drills that do not fit, with why."""
    chosen, refused = choose_correctives(fault, family, athlete, content)
    priced = [
        Prescription(one, load_for(content.drills[one.drill], best_kg, plates)) for one in chosen
    ]
    return priced, refused
