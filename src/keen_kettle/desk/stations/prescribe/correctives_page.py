"""Correctives: what was seen of an athlete, what runs, and the two drills that answer it best."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from keen_kettle.core.content import Split
from keen_kettle.core.plan import Prescription, best_for
from keen_kettle.core.prescribe import OUTCOMES, Cause, Corrective
from keen_kettle.core.units import show_value
from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    column,
    label,
    row,
    with_picture,
)
from keen_kettle.desk.kit.words import evidence_words
from keen_kettle.desk.state.prescribe.corrective_model import CorrectiveModel, Followed
from keen_kettle.desk.stations.prescribe.drill_card import drill_card
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["CorrectivesPage"]

MINUTES = (None, 5, 8, 10, 15, 20)
MOST_CAUSES = 4
OUTCOME_PICTURE = {
    "improved": ("check", "right"),
    "gone": ("check", "right"),
    "worse": ("triangle-alert", "fault"),
    "unchanged": ("triangle-alert", "fault"),
}


class CorrectivesPage(QWidget):
    """Rebuilt whenever what was seen, the athlete, the plates or the record change."""

    def __init__(self, model: CorrectiveModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model
        self._body = QVBoxLayout()
        self._body.setContentsMargins(0, 0, 8, 0)
        self._body.setSpacing(12)
        inside = QWidget()
        inside.setLayout(self._body)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inside)
        self.setLayout(column(scroll))
        self._idle = IdleCall(self._rebuild, self)
        model.changed.connect(self._idle.ask)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._rebuild()

    def _rebuild(self) -> None:
        if not self.isVisible():
            return  # it is built when it is shown
        model = self.model
        model.ensure()
        clear(self._body)
        if not model.recommended.causes and not model.running:
            self._say_empty()
            return
        self._body.addLayout(self._head())
        columns = QHBoxLayout()
        columns.setSpacing(12)
        left = column(spacing=12)
        due = [one for one in model.running if model.due(one.kept)]
        for one in due:
            left.addWidget(self._running_card(one))
        if model.recommended.causes:
            left.addWidget(self._seen_card(model.recommended.causes))
        for one in model.running:
            if one not in due:
                left.addWidget(self._running_card(one))
        left.addStretch(1)
        columns.addLayout(left, 7)
        self._add_picks(columns)
        self._body.addLayout(columns)
        if model.recommended.refused:
            self._body.addWidget(self._passed_over())
        self._body.addStretch(1)
        cautions = model.desk.content.cautions
        self._body.addWidget(label(f"{cautions['floor'].text} {cautions['first'].text}", "small"))

    def _head(self) -> QHBoxLayout:
        athlete = self.model.athlete
        who = athlete.name if athlete is not None else "an athlete yet to be chosen"
        minutes = QComboBox()
        for one in MINUTES:
            minutes.addItem("as long as it takes" if one is None else f"{one} min", one)
        minutes.setCurrentIndex(MINUTES.index(self.model.minutes))
        minutes.setAccessibleName("Minutes for correctives")
        minutes.setToolTip("How long all of it may take; drills that do not fit are passed over")
        minutes.activated.connect(lambda _row: self.model.set_minutes(minutes.currentData()))
        line = row(label(f"For {who}", "title", wrap=False))
        line.addStretch(1)
        line.addWidget(label("Time", "quiet", wrap=False))
        line.addWidget(minutes)
        return line

    # What was seen

    def _seen_card(self, causes: Sequence[Cause]) -> QWidget:
        content = self.model.desk.content
        chief = causes[0]
        fault = content.faults[chief.fault]
        parts: list[QWidget] = [
            label("THE FINDING", "head"),
            with_picture(
                "octagon-alert" if chief.safety else "triangle-alert",
                "safety" if chief.safety else "fault",
                fault.name,
            ),
            label(self._how_often(chief), "quiet"),
            *self._evidence(chief),
        ]
        if self.model.recommended.question is not None:
            parts.append(self._question(self.model.recommended.question))
        said = self.model.answers.get(chief.fault)
        split = content.splits.get(chief.fault)
        if said and split is not None:
            parts.append(self._answered(split, said))
        parts += [
            label("WHERE IT USUALLY COMES FROM", "head"),
            label(fault.comes_from),
            label("SAY", "head"),
            label(fault.one_thing, "lead"),
            label(fault.why, "quiet"),
        ]
        if causes[1:]:
            parts.append(label("ALSO SEEN", "head"))
        for one in causes[1:MOST_CAUSES]:
            name = content.faults[one.fault].name
            parts.append(label(f"{name}. {self._how_often(one)}"))
        if causes[MOST_CAUSES:]:
            parts.append(label(f"and {len(causes) - MOST_CAUSES} more", "quiet"))
        return card(*parts, spacing=6)

    def _how_often(self, one: Cause) -> str:
        content = self.model.desk.content
        names = ", ".join(content.faults[name].name.lower() for name in one.explains)
        words = one.says + (f"; explains {names}" if names else "")
        words += ("; a pattern" if one.pattern else "") + "."
        return words[:1].upper() + words[1:]

    def _evidence(self, cause: Cause) -> list[QWidget]:
        """What the open clip, or the newest one, measured."""
        content, review = self.model.desk.content, self.model.review
        answer, newest = review.answer, cause.newest
        if answer is not None and review.clip is not None and review.clip.id == newest.clip_id:
            found = next((one for one in answer.findings if one.fault == cause.fault), None)
            lines: list[QWidget] = [
                label(evidence_words(one, content)) for one in (found.evidence if found else ())
            ]
            back = button(
                "Back to the film",
                "See it on Review",
                lambda: self.model.desk.go_to("Review"),
                "film",
                "link",
            )
            return [*lines, back]
        known = newest.measure in content.measures
        if newest.value is None or newest.clip_id is None or not known:
            return [label("Tagged by the coach.", "quiet")] if newest.source != "clip" else []
        words = content.measures[newest.measure]
        text = f"{words.name}: {show_value(newest.value, words)} on {newest.on:%-d %b}."
        number = newest.clip_id
        go = button(
            "Open the clip",
            "See it on Review",
            lambda: self.model.desk.open_clip(number),
            "film",
            "link",
        )
        return [label(text), go]

    def _question(self, split: Split) -> QWidget:
        """The one question that would change the drill, answered by a button or its key."""
        made = column(label("ONE QUESTION FIRST", "head"), label(split.asks, "lead"), spacing=4)
        for number, one in enumerate(split.answer, 1):
            made.addWidget(
                button(
                    f"{number}   {one.says}",
                    f"{one.because} (Ctrl+Alt+{number})",
                    partial(self.model.answer, split.fault, one.id),
                )
            )
        holder = QWidget()
        holder.setLayout(made)
        return holder

    def _answered(self, split: Split, said: str) -> QWidget:
        answer = next((one for one in split.answer if one.id == said), None)
        words = answer.says if answer is not None else said
        line = row(label(f"{split.asks} {words}.", "quiet"))
        line.addWidget(
            button(
                "Ask again",
                "Take the answer back",
                partial(self.model.answer, split.fault, ""),
                role="link",
            )
        )
        holder = QWidget()
        holder.setLayout(line)
        return holder

    # What runs

    def _running_card(self, one: Followed) -> QWidget:
        model, kept = self.model, one.kept
        content = model.desk.content
        due = model.due(kept)
        fault = content.faults[kept.fault].name.lower() if kept.fault in content.faults else ""
        parts: list[QWidget] = [
            label("DUE NOW" if due else "RUNS", "head"),
            label(kept.name, "lead"),
            label(
                f"For {fault}, since {kept.taken_on:%-d %b}. "
                f"{'New clip was due' if due else 'New clip due'} {kept.review_on:%-d %b}.",
                "quiet",
            ),
            *self._before_and_after(one),
        ]
        outcome = one.found.outcome
        if outcome:
            picture, role = OUTCOME_PICTURE[outcome]
            parts.append(with_picture(picture, role, f"{outcome.capitalize()}: {one.found.says}."))
            if outcome == "unchanged":
                parts.append(label("Ended as unchanged, another drill takes its place.", "quiet"))
        else:
            parts.append(label(f"Not to be said yet: {one.found.says}.", "quiet"))
        parts += self._ends(one, due)
        return card(*parts, spacing=6)

    def _before_and_after(self, one: Followed) -> list[QLabel]:
        if one.before is None or one.before.measure not in self.model.desk.content.measures:
            return []
        words = self.model.desk.content.measures[one.before.measure]
        before = show_value(one.before.value, words)
        if one.after is None:
            return [label(f"{words.name}: {before} before.")]
        after = show_value(one.after.value, words)
        sigma = show_value((one.before.sigma**2 + one.after.sigma**2) ** 0.5, words)
        return [
            label(
                f"{words.name}: {before} → {after} on {one.after.on:%-d %b}; "
                f"the difference is known to ± {sigma}."
            )
        ]

    def _ends(self, one: Followed, due: bool) -> list[QWidget]:
        """What was found, in one press; another outcome, or another week, from the box."""
        model, outcome = self.model, one.found.outcome
        made: list[QWidget] = []
        if outcome:
            made.append(
                button(
                    f"End it: {outcome}",
                    "It ends so, and is counted for the house",
                    partial(model.end, one, outcome),
                    "check",
                    "next",
                )
            )
        if due or outcome:
            box = QComboBox()
            box.addItem("Say otherwise …" if outcome else "Say what became of it …", "")
            for name in OUTCOMES:
                if name != outcome:
                    box.addItem(f"End it: {name}", name)
            box.addItem("Another week", "week")
            box.setAccessibleName(f"What became of {one.kept.name}")
            box.setToolTip("The coach’s own word counts")
            box.activated.connect(lambda _row: self._end_as(one, box.currentData()))
            made.append(box)
        return made

    def _end_as(self, one: Followed, said: str) -> None:
        if said == "week":
            self.model.go_on(one.kept)
        elif said:
            self.model.end(one, said)

    # What to do

    def _add_picks(self, columns: QHBoxLayout) -> None:
        model = self.model
        for number, offer in enumerate(model.picks):
            columns.addWidget(self._pick_card(offer, number), 8)
        if not model.picks and model.recommended.causes:
            columns.addWidget(
                card(
                    label("No drill fits", "lead"),
                    label(model.recommended.none or "The reasons are below.", "quiet"),
                ),
                8,
            )

    def _pick_card(self, offer: Prescription, number: int) -> QWidget:
        model, one = self.model, offer.corrective
        athlete = model.athlete
        lift, _ = best_for(one.family, athlete.bests_kg if athlete is not None else {})
        effect = model.effects.get((one.drill, one.fault))
        taken = model.taken(one)
        return drill_card(
            offer,
            model.desk.content,
            lift,
            model.cues(model.desk.content.drills[one.drill]),
            head="DO" if number == 0 else "AND",
            effect=effect,
            swap=self._swap_box(one),
            taken=taken,
            take=partial(model.take, offer),
            first=number == 0,
        )

    def _swap_box(self, one: Corrective) -> QComboBox | None:
        """The other drills that fit, to be taken in this one's place."""
        picked = {offer.corrective.drill for offer in self.model.picks}
        offers = (*self.model.recommended.picks, *self.model.recommended.others)
        others = [other for other in offers if other.drill not in picked]
        if not others:
            return None
        box = QComboBox()
        box.addItem("Another drill instead …", "")
        for other in others:
            fault = self.model.desk.content.faults[other.fault].name.lower()
            box.addItem(f"{other.name} – {fault}", other.drill)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setAccessibleName(f"Instead of {one.name}")
        box.setToolTip("The other drills that fit; the chosen one takes this place")

        def chosen(_row: int) -> None:
            if box.currentData():
                self.model.swap(one.drill, box.currentData())

        box.activated.connect(chosen)
        return box

    def _passed_over(self) -> QWidget:
        reasons: dict[str, list[str]] = {}
        for one in self.model.recommended.refused:
            names = reasons.setdefault(one.reason, [])
            if one.name not in names:
                names.append(one.name)
        words = "\n".join(f"{', '.join(names)} – {why}." for why, names in reasons.items())
        return card(label("Passed over", "lead"), label(words, "quiet"), spacing=4)

    # Nothing

    def _say_empty(self) -> None:
        model = self.model
        review = model.review
        self._body.addStretch(1)
        judged = review.answer is not None and review.answer.judged and model.about_the_open_clip
        if judged:
            self._body.addWidget(label("Nothing to correct in this clip", "title"))
            words = "No fault was seen in what was judged, so there is no drill to prescribe."
        elif model.athlete is not None:
            self._body.addWidget(label(f"Nothing seen of {model.athlete.name} yet", "title"))
            words = (
                "Faults that clips show and that are tagged on visits are gathered here, with the "
                "drills that answer them. Review a clip, or tag what you see on Teach, Visit."
            )
        else:
            self._body.addWidget(label("No finding to answer yet", "title"))
            words = (
                "Choose an athlete above, or review a clip first. What was seen is laid out here "
                "with the drills that answer it, loaded for the athlete and the plates at hand."
            )
        self._body.addWidget(label(words, "quiet"))
        line = row(
            button("Go to Film", "Choose a clip", lambda: model.desk.go_to("Film"), "film", "next"),
            button(
                "Go to the visit",
                "Tag what you see (Teach, Visit)",
                lambda: model.desk.page_wanted.emit("visit"),
                "list-checks",
            ),
        )
        line.addStretch(1)
        self._body.addLayout(line)
        self._body.addStretch(2)
