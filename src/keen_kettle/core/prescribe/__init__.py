"""Correctives: which drills answer a finding for this athlete, and why."""

from keen_kettle.core.prescribe.correctives import (
    AthleteFacts,
    Corrective,
    Refusal,
    choose_correctives,
)

__all__ = ["AthleteFacts", "Corrective", "Refusal", "choose_correctives"]
