"""Prescribe: the finding laid out on the left, one or two priced drills beside it."""

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from keen_kettle.core.plan import Prescription
from keen_kettle.desk.kit.builders import button, card, clear, column, label, with_picture
from keen_kettle.desk.kit.words import evidence_words, load_words, side_words
from keen_kettle.desk.state.prescribe.prescribe_model import PrescribeModel
from keen_kettle.desk.work.idle_calls import Soon

__all__ = ["PrescribeStation"]


class PrescribeStation(QWidget):
    """Rebuilt whenever the finding, the athlete, the plates or the record change."""

    def __init__(self, model: PrescribeModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        inside = QWidget()
        self._body = QVBoxLayout(inside)
        self._body.setContentsMargins(16, 16, 16, 16)
        self._body.setSpacing(12)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inside)
        self.setLayout(column(scroll))
        self._soon = Soon(self._rebuild, self)
        model.changed.connect(self._soon.ask)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._rebuild()

    def _rebuild(self) -> None:
        if not self.isVisible():
            return  # it is built when it is shown
        clear(self._body)
        model = self._model
        if model.finding is None:
            self._say_empty()
            return
        athlete = model.athlete
        who = athlete.name if athlete is not None else "an athlete yet to be chosen"
        self._body.addWidget(label(f"For {who}", "title"))
        columns = QHBoxLayout()
        columns.setSpacing(12)
        columns.addWidget(self._finding_card(), 3)
        for number, offer in enumerate(model.offers):
            columns.addWidget(self._offer_card(offer, first=number == 0), 4)
        if not model.offers:
            columns.addWidget(
                card(label("No drill fits", "lead"), label("The reasons are below.", "quiet")), 4
            )
        self._body.addLayout(columns)
        if model.refused:
            words = "\n".join(f"{one.name} – {one.reason}." for one in model.refused)
            self._body.addWidget(
                card(label("Passed over", "lead"), label(words, "quiet"), spacing=4)
            )
        self._body.addStretch(1)
        cautions = model.desk.content.cautions
        self._body.addWidget(label(f"{cautions['floor'].text} {cautions['first'].text}", "small"))

    def _say_empty(self) -> None:
        review = self._model.review
        self._body.addStretch(1)
        if review.answer is not None and review.answer.judged:
            self._body.addWidget(label("Nothing to correct in this clip", "title"))
            self._body.addWidget(
                label(
                    "No fault was seen in what was judged, so there is no drill to prescribe.",
                    "quiet",
                )
            )
        else:
            self._body.addWidget(label("No finding to answer yet", "title"))
            self._body.addWidget(
                label(
                    "Review a clip first. Its chief finding is laid out here with the drills that answer it, loaded for the athlete and the plates at hand.",
                    "quiet",
                )
            )
        line = QHBoxLayout()
        line.addWidget(
            button(
                "Go to Film",
                "Choose a clip",
                lambda: self._model.desk.go_to("Film"),
                "film",
                "next",
            )
        )
        line.addStretch(1)
        self._body.addLayout(line)
        self._body.addStretch(2)

    def _finding_card(self) -> QWidget:
        model, content = self._model, self._model.desk.content
        finding = model.finding
        assert finding is not None
        fault = content.faults[finding.fault]
        made = card(
            label("THE FINDING", "head"),
            with_picture("triangle-alert", "fault", fault.name),
            *(label(evidence_words(one, content)) for one in finding.evidence),
            label("WHERE IT USUALLY COMES FROM", "head"),
            label(fault.comes_from),
            label("SAY", "head"),
            label(fault.one_thing, "lead"),
            label(fault.why, "quiet"),
            button(
                "Back to the film", "See it on Review", lambda: model.desk.go_to("Review"), "film"
            ),
        )
        made.layout().addStretch(1)  # type: ignore[union-attr]
        return made

    def _offer_card(self, offer: Prescription, first: bool) -> QWidget:
        model, content = self._model, self._model.desk.content
        drill = content.drills[offer.corrective.drill]
        parts: list[QWidget] = [
            label("DO" if first else "OR", "head"),
            label(offer.corrective.name, "lead"),
            label(f"Chosen because it {offer.corrective.reason}.", "quiet"),
            label(
                load_words(offer.load, model.best_lift), "lead" if offer.load.loading else "fault"
            ),
        ]
        if side_words(offer.load):
            parts.append(label(side_words(offer.load), "measured"))
        parts += [
            label(drill.dose),
            label("HOW", "head"),
            label(drill.how),
            label("WHY", "head"),
            label(drill.why),
            label("CUES", "head"),
            label(f"Outer: {drill.cue_outer}\nInner: {drill.cue_inner}"),
        ]
        parts += [
            with_picture("octagon-alert", "safety", content.cautions[one].text)
            for one in drill.cautions
        ]
        made = card(*parts)
        layout = made.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addStretch(1)
        layout.addWidget(self._take(offer, first))
        return made

    def _take(self, offer: Prescription, first: bool) -> QWidget:
        model = self._model
        taken = model.taken(offer)
        if taken is not None:
            return with_picture(
                "check",
                "right",
                f"In the record since {taken.taken_on:%d %b}. New clip due {taken.review_on:%d %b}.",
            )
        return button(
            "Take this corrective",
            "Write it to the athlete's record",
            lambda: model.take(offer),
            "plus",
            "next" if first else "",
        )
