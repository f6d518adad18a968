"""The demo's correctives: one that is due, two that run, and those of the season that have ended."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from keen_kettle.core.content import load_content
from keen_kettle.store import KeptComplex, Prescribed, Shelf

__all__ = ["lay_out_correctives"]


@dataclass(frozen=True)
class _Taken:
    """One corrective, days counted back from today; without an outcome it runs."""

    athlete: str
    fault: str
    drill: str
    family: str
    load_kg: float | None
    days: int
    outcome: str = ""


TAKEN = (
    _Taken("Maren Holtby", "bounce-forward", "boundary-line", "snatch", 20.0, 14),
    _Taken("Juno Averdale", "early-arms", "power-position-lift", "clean", 25.0, 4),
    _Taken("Bram Fennick", "unsteady-overhead", "overhead-squat-pause", "snatch", 30.0, 9),
    _Taken("Maren Holtby", "high-catch", "ridden-down", "snatch", 30.0, 62, "gone"),
    _Taken("Ines Varga-Lund", "bounce-forward", "boundary-line", "snatch", 20.0, 70, "improved"),
    _Taken("Rufus Ebbing", "bounce-forward", "boundary-line", "clean", 20.0, 55, "unchanged"),
    _Taken("Bram Fennick", "bounce-forward", "boundary-line", "clean", 20.0, 48, "gone"),
    _Taken("Wystan Keel", "slow-elbows", "rack-hold", "clean", 55.0, 40, "improved"),
)


def lay_out_correctives(shelf: Shelf, numbers: Mapping[str, int], today: date) -> None:
    """Keep them, and a complex of the house."""
    content = load_content()
    for one in TAKEN:
        drill = content.drills[one.drill]
        day = today - timedelta(days=one.days)
        name = drill.name.format(family=one.family)
        shelf.prescribing.take_corrective(
            Prescribed(
                numbers[one.athlete],
                None,
                one.fault,
                one.drill,
                one.family,
                name[:1].upper() + name[1:],
                one.load_kg,
                drill.dose,
                "chosen by the coach",
                day,
                day + timedelta(days=14),
                cue=drill.cue_outer,
                outcome=one.outcome,
                ended_on=day + timedelta(days=16) if one.outcome else None,
                outcome_says="by the coach's eye" if one.outcome else "",
            )
        )
    text = "power snatch + snatch balance + behind-the-neck power jerk + overhead squat"
    shelf.prescribing.keep_complex(KeptComplex("Overhead day", text, today))
