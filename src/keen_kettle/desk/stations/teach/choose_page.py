"""Choosing: ranked ladders with reasons for one athlete, and where they stand on every ladder."""

from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from keen_kettle.core.teach import (
    JUMPS,
    Choice,
    Place,
    StageTime,
    carried_levels,
    choose_ladders,
    place_on,
)
from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    label,
    row,
    scrolled,
    with_picture,
)
from keen_kettle.desk.shared.who_needed import AthletePage
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.stations.teach.stage_strip import StageStrip
from keen_kettle.store import Athlete

__all__ = ["ChoosePage"]

BEST = 4
"""Choices that are shown whole; the rest are folded."""


class ChoosePage(AthletePage):
    """Rebuilt when the athlete, the screening or the places change."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(
            teach,
            "Choose a ladder for an athlete",
            "Aim, screening, age, training, equipment and time give a ranked list with reasons, and a stage to begin on. You choose.",
            parent,
        )
        self._all = False
        self._choices = QVBoxLayout()
        self._choices.setSpacing(10)
        self._places = QVBoxLayout()
        self._places.setSpacing(8)
        across = row(scrolled(self._choices), scrolled(self._places), spacing=12)
        across.setStretch(0, 5)
        across.setStretch(1, 6)
        self.lay_out(across)

    def fill(self, athlete: Athlete) -> None:
        person = self.teach.person(athlete)
        steps = [one.step for one in self.teach.steps_of(athlete.id)]
        teaching = self.teach.teaching
        carried = carried_levels(steps, teaching)
        group = self.teach.desk.chosen_group
        choices = choose_ladders(
            person,
            teaching,
            carried=carried,
            class_size=len(group.athletes) if group is not None else 1,
        )
        today = self.teach.desk.today()
        places = [
            place_on(ladder, steps, person, teaching, today, carried.get(ladder.family, 0))
            for ladder in teaching.ladders.values()
        ]
        standing = {place.ladder for place in places if place.stage is not None}
        self._fill_choices(athlete, choices, standing)
        self._fill_places(athlete, places)

    def _fill_choices(self, athlete: Athlete, choices: list[Choice], standing: set[str]) -> None:
        clear(self._choices)
        self._choices.addWidget(label(f"Ladders for {athlete.name}", "title"))
        shown = choices if self._all else choices[:BEST]
        for number, choice in enumerate(shown, 1):
            self._choices.addWidget(self._choice_card(athlete, number, choice, standing))
        if len(choices) > BEST:
            words = "Only the best" if self._all else f"And {len(choices) - BEST} more"
            more = button(words, "Show or fold the rest", self._flip, "chevron-down")
            self._choices.addLayout(row(more))

    def _flip(self) -> None:
        self._all = not self._all
        self.show_again()

    def _choice_card(
        self, athlete: Athlete, number: int, choice: Choice, standing: set[str]
    ) -> QWidget:
        parts: list[QWidget | QHBoxLayout] = [label(f"{number}   {choice.name}", "lead")]
        parts += [with_picture("check", "right", words) for words in choice.reasons_for]
        parts += [with_picture("triangle-alert", "", words) for words in choice.reasons_against]
        if choice.ladder == JUMPS:
            words = (
                "Jumps, box jumps and throws in place of a ladder; come back to this page later."
            )
            parts.append(label(words, "quiet"))
        elif choice.ladder in standing:
            parts.append(label("Is on this ladder now.", "measured"))
        elif choice.start is not None:
            begin = button(
                f"Begin at {choice.start_name}",
                f"Put {athlete.name} on this ladder",
                partial(self.teach.begin, athlete, choice.ladder, choice.start),
                "flag",
                "next" if number == 1 and not standing else "",
            )
            line = row(begin)
            line.addStretch(1)
            parts.append(line)
        else:
            parts.append(label("Not open now.", "fault"))
        return card(*parts, spacing=4, margin=12)

    def _fill_places(self, athlete: Athlete, places: list[Place]) -> None:
        clear(self._places)
        self._places.addWidget(label("Where the athlete stands", "title"))
        self._places.addWidget(
            label(
                "Skill carries over: what was passed on one ladder counts on the others.", "quiet"
            )
        )
        order = sorted(places, key=lambda one: (one.stage is None, one.name))
        for place in order:
            self._places.addWidget(self._place_card(athlete, place))

    def _place_card(self, athlete: Athlete, place: Place) -> QWidget:
        strip = StageStrip(place)
        if place.stage is None:
            known = sum(one.state == "carried" for one in place.stages)
            words = (
                f"{known} of {len(place.stages)} known from other ladders" if known else "not begun"
            )
            return card(row(label(place.name), label(words, "small")), strip, spacing=4, margin=10)
        here = next((one for one in place.stages if one.state == "here"), None)
        held = "held here since" if place.held else "since"
        words = f"{here.name} {held} {place.since:%d %b %Y}" if here is not None else ""
        times = " · ".join(_time_words(one) for one in place.stages if one.days is not None)
        return card(
            row(label(place.name, "lead"), label(words, "measured")),
            strip,
            label(times, "small"),
            spacing=4,
            margin=10,
        )


def _time_words(one: StageTime) -> str:
    days = f"{one.days} day{'s' if one.days != 1 else ''}"
    return f"{one.name} {days}, from {one.since:%d %b}" if one.since is not None else one.name
