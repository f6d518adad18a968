"""One way of an answer: each question once, and shown once, whatever asked for it."""

import sqlite3
import unittest
from collections import Counter
from contextlib import closing
from unittest import mock

from keen_kettle.core.motion import HandEvent
from keen_kettle.core.track.body import LANDMARKS, PointState
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.state.review.answer_model import News
from keen_kettle.desk.state.review.event_model import EventModel
from keen_kettle.store import StoreError, database_file
from tests.desk.models import ModelCase
from tests.films import film


class AnswerCase(ModelCase):
    def opened(self) -> Models:
        self.number = self.keep("brief")
        models = self.models()
        self.open(models, self.number)
        self.seen: Counter[str] = Counter()
        self.news: list[News] = []
        review = models.review
        for name in ("clip_changed", "tracking_changed", "answer_changed", "mark_changed"):
            getattr(review, name).connect(lambda *_, name=name: self.seen.update([name]))
        review.answer_changed.connect(self.news.append)
        self.trips_before = review.answers.trips
        return models

    def trips(self, models: Models) -> int:
        return models.review.answers.trips - self.trips_before

    def lowest(self, models: Models) -> int:
        assert models.review.answer is not None
        return models.review.answer.events["lowest"].frame

    def drag_hip(self, models: Models, to: float) -> None:
        """The hip of the frame on show under the hand, so many pixels from where it was."""
        self.hip = getattr(self, "hip", None) or models.body.place("hip", models.review.frame)
        assert self.hip is not None
        models.body.draw_point("hip", self.hip[0], self.hip[1] - to)


class TestOneWay(AnswerCase):
    def test_opening_a_measured_clip_shows_one_answer_with_its_body(self) -> None:
        number = self.keep("brief")
        models, shown = self.models(), []
        models.review.answer_changed.connect(lambda _: shown.append(models.review.body))
        self.open(models, number)
        self.assertEqual(len(shown), 1)
        self.assertIsNotNone(shown[0])
        self.assertEqual(models.review.answers.trips, 1)

    def test_the_answer_is_kept_with_the_clip_and_shown_when_it_is_opened_again(self) -> None:
        number = self.keep("brief")
        first = self.models()
        self.open(first, number)
        again = self.models()
        self.open(again, number)
        self.assertEqual(again.review.answers.trips, 0)
        assert first.review.answer is not None and again.review.answer is not None
        self.assertEqual(again.review.answer.measures, first.review.answer.measures)
        self.assertIsNotNone(again.review.body)
        again.review.change_clip("set the plate", diameter_mm=400.0)
        self.quiet(again)
        self.assertEqual(again.review.answers.trips, 1, "what has changed is worked out")

    def test_an_answer_that_cannot_be_read_is_worked_out_again(self) -> None:
        number = self.keep("brief")
        self.open(self.models(), number)
        with closing(sqlite3.connect(database_file(self.folder))) as raw:
            raw.execute("UPDATE assessments SET data = x'00ff'")
            raw.commit()
        again = self.models()
        self.open(again, number)
        self.assertEqual(again.review.answers.trips, 1)

    def test_a_point_let_go_makes_one_trip_and_is_told_once(self) -> None:
        models = self.opened()
        models.review.go_to_frame(self.lowest(models))
        self.quiet(models)
        self.drag_hip(models, 14)
        self.quiet(models)
        self.seen.clear()
        self.trips_before = models.review.answers.trips
        models.body.keep_point()
        self.quiet(models)
        self.assertEqual(self.trips(models), 1)
        self.assertEqual(self.seen, {"clip_changed": 1, "answer_changed": 1})
        self.assertFalse(self.news[-1].held)
        body = models.review.body
        assert body is not None
        state = body.state[models.review.frame, LANDMARKS.index("hip")]
        self.assertEqual(state, PointState.BY_HAND)

    def test_while_it_is_dragged_the_numbers_follow_and_nothing_is_kept(self) -> None:
        models = self.opened()
        review = models.review
        review.go_to_frame(self.lowest(models))
        self.quiet(models)
        heights = []
        for by in (6, 12, 18):
            self.drag_hip(models, by)
            self.quiet(models)
            assert review.answer is not None
            heights.append(review.answer.measures["hip_above_knee"].value or 0.0)
        self.assertEqual(heights, sorted(heights))
        self.assertGreater(heights[2], heights[0] + 0.01)
        self.assertTrue(all(one.held for one in self.news))
        self.assertEqual(models.desk.shelf.clip(self.number).body.points, ())
        with mock.patch.object(models.desk.shelf.prescribing, "keep_findings") as kept:
            self.drag_hip(models, 24)
            self.quiet(models)
        kept.assert_not_called()

    def test_let_go_without_keeping_all_is_as_before_without_a_trip(self) -> None:
        models = self.opened()
        review, before = models.review, models.review.answer
        review.go_to_frame(self.lowest(models))
        self.quiet(models)
        self.drag_hip(models, 14)
        self.quiet(models)
        trips = review.answers.trips
        models.body.drop_point()
        self.assertIs(review.answer, before)
        self.assertEqual(review.answers.trips, trips)

    def test_a_hand_faster_than_the_answers_gets_the_newest(self) -> None:
        models = self.opened()
        review = models.review
        review.go_to_frame(self.lowest(models))
        self.quiet(models)
        for by in range(1, 31):
            self.drag_hip(models, by)
        self.quiet(models)
        self.assertLess(self.trips(models), 4)
        assert review.body is not None and self.hip is not None
        self.assertAlmostEqual(review.body.point("hip", review.frame)[1], self.hip[1] - 30, 3)

    def test_an_event_under_the_hand_and_kept(self) -> None:
        models = self.opened()
        review, moves = models.review, EventModel(models.review)
        assert review.answer is not None
        found = review.answer.events["lift_off"].frame
        moves.move("lift_off", found + 2)
        self.quiet(models)
        assert review.answer is not None
        self.assertEqual(review.answer.events["lift_off"].frame, found + 2)
        self.assertEqual([one.body for one in self.news], [False], "the body stands")
        moves.keep()
        self.quiet(models)
        self.assertEqual(review.clip.events, (HandEvent("lift_off", found + 2),))  # type: ignore[union-attr]

    def test_a_point_of_the_path_under_the_hand_moves_the_numbers(self) -> None:
        models = self.opened()
        review = models.review
        assert review.answer is not None and review.track is not None
        frame = review.answer.events["peak_height"].frame
        before = review.answer.measures["peak_height"].value
        review.go_to_frame(frame)
        self.quiet(models)
        x, y = review.track.x_px[frame], review.track.y_px[frame]
        models.hand.draw_point(float(x), float(y) - 12)
        self.quiet(models)
        assert before is not None and review.answer is not None
        self.assertGreater(review.answer.measures["peak_height"].value or 0.0, before + 0.005)

    def test_the_first_mark_under_the_hand_moves_the_scale(self) -> None:
        models = self.opened()
        review, mark = models.review, film("brief").mark()
        assert review.answer is not None
        before = review.answer.scale.m_per_px
        review.show_frame(0)
        self.quiet(models)
        review.draw_mark(mark.x_px, mark.y_px, 1.25 * mark.r_px, exact=True)
        self.quiet(models)
        assert review.answer is not None
        drawn = 450 / 1000 / (2 * 1.25 * mark.r_px)
        self.assertAlmostEqual(review.answer.scale.m_per_px / drawn, 1.0, delta=0.01)
        self.assertNotAlmostEqual(review.answer.scale.m_per_px, before, delta=0.1 * before)

    def test_what_cannot_be_kept_goes_back_to_where_it_was(self) -> None:
        models = self.opened()
        review, before = models.review, models.review.answer
        review.go_to_frame(self.lowest(models))
        self.quiet(models)
        self.drag_hip(models, 14)
        self.quiet(models)
        full = StoreError("The disk is full.")
        with mock.patch.object(models.desk.shelf, "change_clips", side_effect=full):
            models.body.keep_point()
            self.quiet(models)
        self.assertIs(review.answer, before)

    def test_a_failure_is_told_once_and_not_asked_again(self) -> None:
        models = self.opened()
        told: list[str] = []
        models.desk.trouble.connect(told.append)
        with mock.patch.object(
            models.desk.answer_worker, "ask", side_effect=StoreError("It broke.")
        ):
            models.review.change_clip("set the mass", diameter_mm=400.0)
            self.quiet(models)
        self.assertEqual(told, ["It broke."])
        models.review.change_clip("set the mass", diameter_mm=380.0)
        self.quiet(models)
        self.assertIsNotNone(models.review.answer)


if __name__ == "__main__":
    unittest.main()
