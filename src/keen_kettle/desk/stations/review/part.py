"""What Review hands to the window: the station, and two clips beside each other over it."""

from collections.abc import Callable, Mapping
from functools import partial

from PyQt6.QtWidgets import QMenu

from keen_kettle.desk.kit.action import Action
from keen_kettle.desk.shared.station_part import Stage, StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.state.review.playback import SPEEDS
from keen_kettle.desk.stations.review.by_hand import body_actions, drawing_actions, hand_actions
from keen_kettle.desk.stations.review.compare.page import ComparePage
from keen_kettle.desk.stations.review.station import ReviewStation

__all__ = ["ReviewPart"]

SPEED_WORDS = ("Full speed", "1/2 speed", "1/4 speed", "1/8 speed")


class ReviewPart(StationPart):
    name = "Review"
    help = "The film, the bar's path, the one thing to say."
    picture = "activity"

    def __init__(self, models: Models, stage: Stage) -> None:
        super().__init__(models)
        self._models, self._stage = models, stage
        self._widget = ReviewStation(
            models.review,
            models.offers,
            models.hand,
            models.body,
            models.drawing,
            models.suggested,
        )
        self.compare = ComparePage(models.compare, models.review, stage.back)
        review = models.review
        for signal in (review.clip_changed, review.answer_changed, review.tracking_changed):
            signal.connect(self.badge_changed)
        for signal in (
            review.mark_changed,
            review.marking_changed,
            models.hand.changed,
            models.body.changed,
            models.drawing.changed,
            models.suggested.changed,
        ):
            signal.connect(self.changed)
        for signal in (self.changed, self.badge_changed):
            signal.connect(self._allow_drawing)
        models.desk.station_changed.connect(lambda _name: self._allow_drawing())
        self._allow_drawing()

    @property
    def widget(self) -> ReviewStation:
        return self._widget

    @property
    def over(self) -> tuple[ComparePage]:
        return (self.compare,)

    def badge(self) -> str:
        waiting = sum(bool(clip.waits) for clip in self._models.desk.clips_of_who())
        return f"{waiting} to do" if waiting else ""

    def take_menus(self, menus: Mapping[str, QMenu]) -> None:
        self._widget.transport.draw.setMenu(menus["Draw"])

    def retinted(self) -> None:
        self._widget.rhythm.redraw()

    def _allow_drawing(self) -> None:
        review = self._models.review
        idle = not review.marking and not review.tracking
        self._widget.transport.draw.setEnabled(self.on_film() and idle)

    # What can be done

    def actions(self) -> tuple[Action, ...]:
        models, on_film = self._models, self.on_film
        return (
            *self._playing(),
            *self._tracking(),
            *self._judging(),
            *hand_actions(models.review, models.hand, on_film),
            *body_actions(models.review, models.body, on_film),
            *self._key_positions(),
            *drawing_actions(models.review, models.drawing, on_film),
        )

    def on_film(self) -> bool:
        """Whether a film is open, and seen."""
        return self._models.review.index is not None and self._models.desk.station == self.name

    def _playing(self) -> tuple[Action, ...]:
        review = self._models.review

        def made(
            name: str, words: str, keys: tuple[str, ...], help: str, do: Callable[[], object]
        ) -> Action:
            return Action(name, words, "Film", keys, help, do, self.on_film)

        return (
            made(
                "play",
                "Play or pause",
                ("Space",),
                "Plays at the chosen speed.",
                review.playback.toggle,
            ),
            made(
                *("back", "One frame back", ("Left", ","), "Hold to run backwards."),
                partial(self._step, -1),
            ),
            made(
                *("forward", "One frame on", ("Right", "."), "Hold to run forwards."),
                partial(self._step, 1),
            ),
            made("back_ten", "Ten frames back", ("Shift+Left",), "", partial(review.step, -10)),
            made("forward_ten", "Ten frames on", ("Shift+Right",), "", partial(review.step, 10)),
            made("first", "First frame", ("Home",), "", partial(review.go_to_frame, 0)),
            made("last", "Last frame", ("End",), "", partial(review.go_to_frame, 1 << 30)),
            *(
                made(
                    *(f"speed_{number}", words, (str(number),), ""),
                    partial(review.playback.set_speed, speed),
                )
                for number, (words, speed) in enumerate(zip(SPEED_WORDS, SPEEDS, strict=True), 1)
            ),
        )

    def _tracking(self) -> tuple[Action, ...]:
        review = self._models.review

        def idle() -> bool:
            return self.on_film() and not review.tracking

        def marked() -> bool:
            return idle() and review.clip is not None and bool(review.clip.marks)

        return (
            Action(
                *("mark", "Mark the plate", "Review", ("M",)),
                "Centre and rim of the near plate, on the frame that is shown.",
                partial(review.set_marking, True),
                idle,
            ),
            Action(
                *("unmark", "Remove the marks", "Review", ("Ctrl+M",), "Start the clip over."),
                review.remove_marks,
                marked,
            ),
            Action(
                *("track", "Track the bar", "Review", ("T",)),
                "Follow the plate through the film.",
                review.start_tracking,
                lambda: marked() and review.track is None,
            ),
            Action(
                *("stop", "Stop, or turn down a suggestion", "Review", ("Esc",)),
                "The mark is kept.",
                self._stop,
                self._may_stop,
            ),
        )

    def _judging(self) -> tuple[Action, ...]:
        # Long: a table, one entry after another.
        models = self._models
        review, offers, suggested = models.review, models.offers, models.suggested
        return (
            Action(
                *("take", "Take the first corrective", "Review", ("Ctrl+Return",)),
                "Write it to the athlete's record.",
                lambda: offers.take(offers.offers[0]),
                lambda: bool(offers.offers) and offers.open_finding,
            ),
            *(
                Action(
                    *(f"answer_{number}", f"Answer {number}", "Review", (f"Ctrl+Alt+{number}",)),
                    "To the question that tells the causes of a fault apart.",
                    partial(self._answer, number),
                    partial(self._may_answer, number),
                )
                for number in range(1, 5)
            ),
            Action(
                *("accept", "Accept what is suggested", "Review", ("A",)),
                "Whose clip it is, the plate that was found, where the lifter looks, which lift it is.",
                suggested.accept,
                lambda: self.on_film() and bool(suggested.kind),
            ),
            Action(
                *("rep_before", "The lift before", "Review", ("[",), "In a clip of several lifts."),
                partial(review.step_rep, -1),
                lambda: review.answer is not None and review.answer.rep > 0,
            ),
            Action(
                *("rep_after", "The next lift", "Review", ("]",), "In a clip of several lifts."),
                partial(review.step_rep, 1),
                lambda: (
                    review.answer is not None and review.answer.rep + 1 < len(review.answer.reps)
                ),
            ),
            Action(
                *("beside", "Beside another clip", "Review", ("Ctrl+B",)),
                "All measures of two clips: left and right arm, before and after.",
                self._open_compare,
                lambda: self.on_film() and review.answer is not None,
            ),
            Action(
                *("closer", "Close to the lifter", "Review", ("Z",)),
                "Again: the whole picture. The wheel enlarges what is under it; drag moves it.",
                self._widget.film.look_closer,
                self.on_film,
            ),
            Action(
                *("whole", "Whole film on the time line", "Review", ("W",), "Or only the lift."),
                self._widget.rhythm.switch_whole,
                checkable=True,
            ),
        )

    def _key_positions(self) -> tuple[Action, ...]:
        return tuple(
            Action(
                *(f"moment_{number}", f"Go to moment {number}", "Body", (f"Alt+{number}",)),
                "A key position of the lift, in their order over the time line.",
                partial(self._go_to_moment, number),
                partial(self._has_moment, number),
            )
            for number in range(1, 10)
        )

    # How it is done

    def _step(self, by: int) -> None:
        """A frame on or back; beside another clip, a key position."""
        if self._stage.shows(self.compare):
            self.compare.model.step(by)
        else:
            self._models.review.step(by)

    def _has_moment(self, number: int) -> bool:
        return self.on_film() and number <= len(self._widget.positions.positions)

    def _go_to_moment(self, number: int) -> None:
        if self._stage.shows(self.compare):
            self.compare.model.go(number)
        else:
            self._widget.positions.go(number)

    def _open_compare(self) -> None:
        self._stage.show_page(self.compare)
        self.compare.open()
        self.changed.emit()

    def _may_answer(self, number: int) -> bool:
        question = self._models.offers.question
        here = self._models.desk.station == self.name
        return here and question is not None and number <= len(question.answer)

    def _answer(self, number: int) -> None:
        """The answer to the splitting question of the open clip."""
        offers = self._models.offers
        if offers.question is not None:
            offers.answer(offers.question.answer[number - 1].id)

    def _may_stop(self) -> bool:
        models = self._models
        return (
            self._stage.shows(self.compare)
            or models.review.tracking
            or bool(models.review.tool.name)
            or models.hand.span_from is not None
            or models.drawing.chosen >= 0
            or bool(models.suggested.kind)
        )

    def _stop(self) -> None:
        models = self._models
        if self._stage.shows(self.compare):
            self._stage.back()
            return
        if models.suggested.kind == "plate":
            models.suggested.decline()  # marking goes on, by hand
            return
        drawing = bool(models.drawing.tool) or models.drawing.chosen >= 0
        models.review.stop_tracking()
        models.review.tool.lay_down()
        models.hand.drop_span()
        models.body.drop_point()
        models.drawing.leave()
        if not drawing:
            models.suggested.decline()
