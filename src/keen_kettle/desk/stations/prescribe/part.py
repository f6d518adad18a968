"""What Prescribe hands to the window."""

from functools import partial

from keen_kettle.desk.kit.action import Action
from keen_kettle.desk.shared.station_part import Page, StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.stations.prescribe.station import PrescribeStation

__all__ = ["PrescribePart"]


class PrescribePart(StationPart):
    name = "Prescribe"
    help = "Drills, warm-up, complex, session sheet."
    picture = "stethoscope"
    pages = (
        Page(
            *("correctives", "Correctives", "Correctives", "Shift+F2"),
            "What was seen, and the drills for it.",
        ),
        Page("warmup", "Warm-up", "Warm-up", "Shift+F3", "Opening, build-up, the first rep."),
        Page("complex", "Complex", "Complex", "Shift+F4", "The best string for what is wanted."),
        Page("session", "Session", "Session sheet", "Shift+F5", "One page, to print or send."),
        Page("drills", "Drills", "Drills", "Shift+F6", "The library, and your own drills."),
        Page("faults", "Faults", "Faults shown", "Shift+F7", "Beside the right way, by degree."),
    )

    def __init__(self, models: Models) -> None:
        super().__init__(models)
        self._desk, self._offers = models.desk, models.offers
        self._correctives = models.correctives
        self._widget = PrescribeStation(models.correctives)
        models.offers.changed.connect(self.badge_changed)

    @property
    def widget(self) -> PrescribeStation:
        return self._widget

    def open(self, tab: str) -> None:
        self._widget.tabs.open(tab)

    def badge(self) -> str:
        runs = [one for one in self._desk.correctives_of_who() if one.runs]
        due = sum(one.review_on <= self._desk.today() for one in runs)
        return f"{due} due" if due else "1 new" if self._offers.open_finding else ""

    def actions(self) -> tuple[Action, ...]:
        return tuple(
            Action(
                *(f"answer_{number}", f"Answer {number}", "Review", (f"Ctrl+Alt+{number}",)),
                "To the question that tells the causes of a fault apart.",
                partial(self._correctives.answer_number, number),
                self._may_answer,
            )
            for number in range(1, 5)
        )

    def _may_answer(self) -> bool:
        """On Review the keys belong to the open clip's question, if it has one."""
        return self._desk.station != "Review" or self._offers.question is None
