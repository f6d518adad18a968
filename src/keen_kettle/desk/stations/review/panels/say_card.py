"""The say card: what was right, the one thing, why, and what to do; measures and set-up below it."""

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFrame,
    QProgressBar,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QWidget,
)

from keen_kettle.core.analysis import Assessment
from keen_kettle.core.content import Split
from keen_kettle.core.faults import Diagnosis, Finding, judged_faults
from keen_kettle.core.plan import Prescription
from keen_kettle.core.track import Rim
from keen_kettle.desk.kit.builders import Sheet, button, column, label, row, with_picture
from keen_kettle.desk.kit.words import evidence_words, fault_words, load_words, praise_words
from keen_kettle.desk.state.prescribe.prescribe_model import PrescribeModel
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.panels.check_list import CheckList
from keen_kettle.desk.stations.review.panels.hand_tools import HandTools
from keen_kettle.desk.stations.review.panels.measure_list import MeasureList
from keen_kettle.desk.stations.review.panels.setup_fields import SetupFields
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["SayCard"]

MOST_PRAISE = 2
MARK_THE_PLATE = (
    "Mark the plate",
    "1  Press on the centre of the near plate.\n2  Drag out to its rim and let go.\n"
    "3  Check the set-up below, then track the bar.",
)
NONE_FOUND = (
    "No plate was found",
    "Looked for: a round thing that goes up with the bar, all over the film. Quickest now: press on "
    "the near plate’s centre here and drag out to its rim; or go to another frame, where it is whole "
    "and sharp.",
)


class SayCard(QFrame):
    """One column that always holds the next step."""

    rebuilt = pyqtSignal()

    def __init__(
        self,
        model: ReviewModel,
        offers: PrescribeModel,
        hand: HandModel,
        body: BodyModel,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._model, self._offers, self._hand, self._body = model, offers, hand, body
        self.setProperty("role", "card")
        self.setFixedWidth(344)
        self._said, self._foot = column(), column()
        self._said_sheet, self._foot_sheet = Sheet(), Sheet()
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setRange(0, 1000)
        self.body_words = label("", "small")
        self.body_words.setVisible(False)
        self.setup = SetupFields(model, hand)
        self.measures = MeasureList(model)
        self.check = CheckList(model)
        self.tools = HandTools(model, hand)
        self._tools_fold = _Fold("By hand", self.tools)
        self._setup_fold = _Fold("Set-up", self.setup)
        self._check_fold = _Fold("Clip check", self.check)
        self.check.summed_up.connect(self._check_fold.head.setText)
        self._measures_fold = _Fold("All measures", self.measures)
        inside = QWidget()
        inside.setLayout(
            column(
                *(self._said_sheet, self.progress, self.body_words, self._measures_fold),
                *(self._tools_fold, self._setup_fold, self._check_fold),
                spacing=10,
                margin=14,
            )
        )
        inside.layout().addStretch(1)  # type: ignore[union-attr]
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inside)
        foot = column(self._foot_sheet)
        foot.setContentsMargins(14, 8, 14, 12)
        self.setLayout(column(scroll, foot, spacing=0))
        self._state = ""
        self._idle = IdleCall(self._rebuild, self)
        self._follow()
        self._rebuild()

    def _follow(self) -> None:
        """Whatever is shown here is asked for again when it has changed."""
        model, idle = self._model, self._idle
        model.clip_changed.connect(idle.ask)
        model.mark_changed.connect(self._on_mark)
        model.marking_changed.connect(idle.ask)
        model.tracking_changed.connect(idle.ask)
        model.tracking_progress.connect(lambda share: self.progress.setValue(int(1000 * share)))
        self._offers.changed.connect(idle.ask)
        self._hand.changed.connect(self._on_mark)
        self._body.changed.connect(self._say_body)
        self._body.progress.connect(self._say_body)
        model.answer_changed.connect(self._on_answer)

    def _on_answer(self) -> None:
        self._say_body()
        self._idle.ask()

    def _on_mark(self) -> None:
        if self._model.draft is None:
            self._idle.ask()

    def _rebuild(self) -> None:
        model = self._model
        self._said, self._foot = column(spacing=6), column()
        state = self._which()
        if state == "empty":
            self._say_empty()
        elif state == "loading":
            self._said.addWidget(label("Opening the film …", "quiet"))
        elif state == "mark":
            self._say_mark()
        elif state == "track":
            self._say_track()
        elif state == "tracking":
            self._say_tracking()
        elif model.answer is not None:
            self._say_answer(model.answer)
        else:
            self._said.addWidget(label("Working out the measures …", "quiet"))
        self._said_sheet.fill(self._said)
        self._foot_sheet.fill(self._foot)
        if state != self._state:
            self._setup_fold.open_up(state in ("mark", "track"))
            lost = model.answer is not None and not model.answer.judged
            self._tools_fold.open_up(state == "answer" and lost)
            self._state = state
        self._setup_fold.setVisible(state not in ("empty", "loading"))
        self._check_fold.setVisible(state not in ("empty", "loading"))
        self._measures_fold.setVisible(state == "answer" and model.answer is not None)
        self._tools_fold.setVisible(state == "answer")
        self.progress.setVisible(state == "tracking")
        self.rebuilt.emit()

    def _say_body(self, share: float = 0.0) -> None:
        """One line on the lifter's landmarks: being looked for, found, or why not."""
        body, words = self._body, ""
        if self._model.answer is not None:
            if body.searching:
                words = f"Looking for the lifter’s body: {100 * share:.0f} %"
            elif body.why_not:
                words = f"{body.why_not} Angles come from points set by hand."
            elif body.track is None and body.sightings is not None:
                words = "Nobody was found. Show where the lifter is (Ctrl+Shift+K)."
        self.body_words.setText(words)
        self.body_words.setVisible(bool(words))

    def _which(self) -> str:
        model = self._model
        if model.clip is None:
            return "empty"
        if model.index is None:
            return "loading"
        if model.tracking:
            return "tracking"
        if model.track is not None:
            return "answer"
        return "track" if model.clip.marks else "mark"

    # What is said before there is an answer

    def _say_empty(self) -> None:
        self._add(label("No film is open", "lead"))
        self._add(
            label(
                "Choose a clip on Film. Review measures the bar and finds the one thing to say.",
                "quiet",
            )
        )
        self._add(
            button(
                "Go to Film",
                "Choose a clip",
                lambda: self._model.desk.go_to("Film"),
                "film",
                "next",
            )
        )

    def _say_proposed(self) -> None:
        self._add(label("Is this the near plate?", "lead"))
        self._add(
            label(
                "It is the round thing that travels in this film. Take it, or mark the plate yourself.",
                "quiet",
            )
        )
        self._add(
            button(
                "Yes, track it",
                "Accept the proposed plate and track it (A)",
                self._hand.accept,
                "activity",
                "next",
            )
        )
        correct = button(
            "Correct it first", "Drag the ring’s handles, then track", self._hand.correct, "pencil"
        )
        no = button(
            "No", "It is not the near plate: mark it yourself (Esc)", self._hand.turn_down, "x"
        )
        beside = QWidget()
        beside.setLayout(row(correct, no))
        self._add(beside)

    def _say_mark(self) -> None:
        if self._hand.proposed is not None:
            self._say_proposed()
            return
        lead, words = MARK_THE_PLATE
        if self._hand.none_found:
            lead, words = NONE_FOUND
        self._add(label(lead, "lead"))
        self._add(label(words, "quiet"))
        if self._hand.searching:
            self._add(label("Meanwhile the plate is looked for in the film …", "quiet"))
        if not self._model.marking:
            self._add(
                button(
                    "Start marking",
                    "Mark the near plate on this frame (M)",
                    lambda: self._model.set_marking(True),
                    "circle-dot",
                )
            )
        if not self._hand.searching:
            self._add(
                button(
                    "Another frame",
                    "A frame farther on, where the plate may be clear",
                    self._hand.another_frame,
                    "film",
                )
            )

    def _say_track(self) -> None:
        self._add(label("Ready to track", "lead"))
        rim = self._model.rim
        if rim is None:
            words, role = "Looking for the plate’s rim …", "quiet"
        elif rim.found:
            clip = self._model.clip
            assert clip is not None
            words, role = _rim_words(rim, clip.diameter_mm)
        else:
            words, role = (
                "The rim is not clear here. Track all the same: it is read again where the bar goes. Or drag "
                "the circle to fit; then it stands as you set it.",
                "fault",
            )
        self._add(
            with_picture(
                {"right": "check", "fault": "triangle-alert"}.get(role, "info"), role, words
            )
        )
        self._add(
            button(
                "Track the bar",
                "Follow the plate through the film (T)",
                self._model.start_tracking,
                "activity",
                "next",
            )
        )
        self._add(
            button(
                "Mark again",
                "Draw the mark anew (M)",
                lambda: self._model.set_marking(True),
                "circle-dot",
            )
        )

    def _say_tracking(self) -> None:
        self._add(label("Tracking the bar …", "lead"))
        self.progress.setValue(0)
        self._add(
            button("Stop tracking", "Stop; the mark is kept (Esc)", self._model.stop_tracking, "x")
        )

    # The answer

    def _say_answer(self, answer: Assessment) -> None:
        if not answer.judged:
            self._say_notes(answer)
            if self._model.track is not None and answer.notes:
                self._offer_hand()
            return
        content = self._model.desk.content
        if answer.praise:
            self._head("What was right")
            for one in answer.praise[:MOST_PRAISE]:
                self._add(with_picture("check", "right", praise_words(one, content)))
        self._head("The one thing")
        if answer.diagnosis is None:
            self._say_clean(answer)
        else:
            self._say_diagnosis(answer, answer.diagnosis)
        self._say_notes(answer)

    def _say_notes(self, answer: Assessment) -> None:
        """What to be careful with; below what to say, so that it pushes nothing out of sight."""
        for note in answer.notes:
            self._add(with_picture("triangle-alert", "fault", note))

    def _offer_hand(self) -> None:
        self._add(
            button(
                "Go to the doubtful frames",
                "The next doubtful or lost frame (N)",
                lambda: self._hand.next_doubt(1),
                "arrow-right",
                "next",
            )
        )
        self._add(
            button(
                "Mark the plate again",
                "Mark the plate on this frame (M)",
                lambda: self._model.set_marking(True),
                "circle-dot",
            )
        )

    def _say_diagnosis(self, answer: Assessment, diagnosis: Diagnosis) -> None:
        content, chief = self._model.desk.content, diagnosis.chief
        self._add(label(content.faults[chief.fault].one_thing, "title"))
        self._add(label(content.faults[chief.fault].why, "quiet"))
        self._head("Why")
        self._say_finding(chief, "triangle-alert")
        for chain in diagnosis.chains:
            names = " → ".join(content.faults[fault].name.lower() for fault in chain[1:])
            later = next(f for f in answer.findings if f.fault == chain[-1])
            self._add(label(f"It leads to: {names}", "quiet"))
            self._say_finding(later, "")
        if diagnosis.others:
            names = fault_words(diagnosis.others, content)
            self._add(label(f"Also seen: {names}. First things first.", "quiet"))
        self._say_offers()

    def _say_clean(self, answer: Assessment) -> None:
        """Nothing was found: say what was looked for, and what was not."""
        content, family = self._model.desk.content, self._model.settings().derivative.family
        names = [one.name.lower() for one in judged_faults(answer.measures, family, content)]
        if not names:
            self._add(label("Measured, not judged.", "lead"))
            said = f"No fault of a {family} is judged by the program yet. The eye is yours."
        else:
            self._add(label("Nothing to correct in what was judged.", "lead"))
            body = "" if answer.body is not None else " The body was not found."
            said = f"Judged: {', '.join(names)}.{body} All else is yours to look at."
        self._add(label(said, "quiet"))

    def _say_finding(self, finding: Finding, picture: str) -> None:
        model, content = self._model, self._model.desk.content
        if picture:
            self._add(with_picture(picture, "fault", content.faults[finding.fault].name))
        for one in finding.evidence:
            t_s = model.times_s[one.frame] if model.index is not None else 0.0
            go = button(
                f"{t_s:.2f} s",
                f"See it: go to frame {one.frame}",
                partial(model.go_to_frame, one.frame),
                "film",
                "link",
            )
            go.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
            line = QWidget()
            line.setLayout(row(label(evidence_words(one, content)), go, spacing=4))
            self._add(line)

    def _say_offers(self) -> None:
        self._head("Do")
        offers = self._offers
        if not offers.offers:
            self._add(
                label(
                    "No drill that answers this fits the athlete and the equipment. Prescribe says why.",
                    "quiet",
                )
            )
        if offers.question is not None:
            self._ask(offers.question)
        for number, offer in enumerate(offers.offers):
            self._say_offer(offer, first=number == 0)
        self._add(
            button(
                "Look closer on Prescribe",
                "Cues, plates, cautions and reasons",
                lambda: self._model.desk.go_to("Prescribe"),
                "arrow-right",
                "link",
            )
        )

    def _ask(self, question: Split) -> None:
        """The question that tells the causes apart; an answer changes the drill."""
        self._add(label(question.asks))
        for number, one in enumerate(question.answer, 1):
            self._add(
                button(
                    f"{number}   {one.says}",
                    f"{one.because} (Ctrl+Alt+{number})",
                    partial(self._offers.answer, one.id),
                )
            )

    def _say_offer(self, offer: Prescription, first: bool) -> None:
        self._add(label(offer.corrective.name, "lead" if first else ""))
        drill = self._model.desk.content.drills[offer.corrective.drill]
        self._add(label(f"{load_words(offer.load, self._offers.best_lift)}\n{drill.dose}", "quiet"))
        cautions = self._model.desk.content.cautions
        for one in drill.cautions:
            self._add(with_picture("octagon-alert", "safety", cautions[one].text))
        # The next action, or that it is done, stays in sight however long the card is.
        place = self._foot if first else self._said
        taken = self._offers.taken(offer)
        if taken is not None:
            words = f"In the record. New clip due {taken.review_on:%d %b}."
            place.addWidget(with_picture("check", "right", words))
            return
        place.addWidget(
            button(
                "Take this corrective" if first else "Take this one",
                f"Write “{offer.corrective.name}” to the athlete's record",
                lambda: self._offers.take(offer),
                "plus",
                "next" if first else "",
            )
        )

    def _head(self, words: str) -> None:
        head = label(words.upper(), "head", wrap=False)
        head.setContentsMargins(0, 6, 0, 0)
        self._add(head)

    def _add(self, widget: QWidget) -> None:
        self._said.addWidget(widget)


class _Fold(QWidget):
    """A heading that folds its content away."""

    def __init__(self, words: str, inside: QWidget) -> None:
        super().__init__()
        self._inside = inside
        self.head = QToolButton()
        self.head.setText(words)
        self.head.setCheckable(True)
        self.head.setProperty("role", "fold")
        self.head.setToolTip(f"Show or hide: {words.lower()}")
        self.head.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.head.toggled.connect(self._on_toggled)
        self.setLayout(column(self.head, inside, spacing=6))
        self._on_toggled(False)

    def open_up(self, on: bool) -> None:
        self.head.setChecked(on)

    def _on_toggled(self, on: bool) -> None:
        self._inside.setVisible(on)
        self.head.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)


def _rim_words(rim: Rim, diameter_mm: float) -> tuple[str, str]:
    """What the rim that was found says of the scale, and its role."""
    across_px = 2 * max(rim.axes_px)
    unsure = 100 * rim.sigma_px / max(rim.axes_px)
    found = f"{across_px:.0f} px across, {diameter_mm / across_px:.1f} mm a pixel, ±\u00a0{unsure:.0f}\u00a0%"
    if rim.clear:
        return f"Rim found: {found}.", "right"
    return (
        f"Rim found, but its edge is not clear here: {found}. It is read again where the bar goes; if the ring "
        "is far off, drag it.",
        "",
    )
