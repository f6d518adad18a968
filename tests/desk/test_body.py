"""The body on the desk: found in the background, dragged, hidden, planted; key positions; moved events."""

from dataclasses import replace
from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from keen_kettle.core.track.body import LANDMARKS, PointState
from keen_kettle.desk.state.records.reading import NOT_SAID
from keen_kettle.desk.state.review import body_model
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import Shelf, database_file
from tests.desk.base import DeskCase
from tests.films import film, sightings, tracked

K = {name: number for number, name in enumerate(LANDMARKS)}


class BodyCase(DeskCase):
    """Cases on a tracked clip with its body."""

    def opened(self) -> Window:
        """A tracked clip whose sightings are in the store."""
        known = film("brief")
        self.keep(known)
        shelf = Shelf(database_file(self.folder))
        clip = replace(shelf.clips()[0], marks=(known.mark(),))
        shelf.change_clip(clip.id, marks=clip.marks)
        shelf.keep_track(clip, tracked("brief"))
        shelf.keep_sightings(clip, sightings("brief"))
        shelf.close()
        window = self.open()
        self.open_clip(window)
        review = window.models.review
        self.until(lambda: review.answer is not None, 30)
        self.done(window)
        return window

    def done(self, window: Window) -> None:
        """Wait until nothing is being worked out any more."""
        quiet = 0
        while quiet < 5:
            self.settle()
            busy = window.desk.jobs.busy or window.models.review._frames.waiting
            quiet = 0 if busy else quiet + 1

    def spot(self, window: Window, name: str) -> QPoint:
        """Where a landmark lies on the screen."""
        view = window.stations.review.widget.film
        place = window.models.body.place(name, window.models.review.frame)
        assert view.transform is not None and place is not None
        return view.transform.to_widget(*place).toPoint()


class TestBodyOnTheDesk(BodyCase):
    def test_a_tracked_clip_gets_its_body_events_and_measures(self) -> None:
        window = self.opened()
        answer = window.models.review.answer
        assert answer is not None
        self.assertIn("extension", answer.events)
        self.assertIsNotNone(answer.measures["trunk_start"].value)
        self.assertEqual(
            [event.name for event in window.stations.review.widget.positions.positions][:2],
            ["lift_off", "knee_pass"],
        )

    def test_a_dragged_point_is_kept_all_follows_and_undo_brings_it_back(self) -> None:
        window = self.opened()
        review, view = window.models.review, window.stations.review.widget.film
        assert review.answer is not None and review.body is not None
        review.go_to_frame(review.answer.events["lowest"].frame)
        self.done(window)
        before = review.answer.measures["hip_above_knee"].value
        here = self.spot(window, "hip")
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=here)
        for part in (4, 9, 14):
            QTest.mouseMove(view, here + QPoint(0, -part))
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=here + QPoint(0, -14))
        self.done(window)
        assert before is not None and review.body is not None and review.answer is not None
        self.assertEqual(review.body.state[review.frame, K["hip"]], PointState.BY_HAND)
        after = review.answer.measures["hip_above_knee"].value
        assert after is not None
        self.assertGreater(after, before + 0.02)
        window.actions_by_id["undo"].trigger()
        self.done(window)
        assert review.answer is not None
        self.assertAlmostEqual(review.answer.measures["hip_above_knee"].value, before, places=6)

    def test_hidden_planted_and_freed_by_keys(self) -> None:
        window = self.opened()
        review = window.models.review
        assert review.answer is not None
        review.go_to_frame(review.answer.events["lowest"].frame)
        self.done(window)
        view = window.stations.review.widget.film
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=self.spot(window, "knee"))
        self.done(window)
        self.assertEqual(window.models.body.chosen, "knee")
        window.actions_by_id["body_hide"].trigger()
        self.done(window)
        self.assertIsNone(window.models.body.place("knee", review.frame))
        self.assertIn("knee", review.answer.measures["hip_above_knee"].why if review.answer else "")
        window.actions_by_id["body_free"].trigger()
        self.done(window)
        self.assertIsNotNone(window.models.body.place("knee", review.frame))
        window.actions_by_id["body_plant"].trigger()
        self.done(window)
        assert review.clip is not None
        self.assertTrue(review.clip.body.covers("planted", "foot", review.frame))

    def test_an_event_is_dragged_along_the_time_line_and_goes_back(self) -> None:
        window = self.opened()
        review, rhythm = window.models.review, window.stations.review.widget.rhythm
        assert review.answer is not None
        found = review.answer.events["knee_pass"].frame
        spot = rhythm.flag_spots()["knee_pass"].toPoint()
        self.assertIn(
            rhythm.flag_at(rhythm.flag_spots()["knee_pass"]), ("knee_pass", "first_pull_end")
        )
        name = rhythm.flag_at(rhythm.flag_spots()["knee_pass"])
        QTest.mousePress(rhythm, Qt.MouseButton.LeftButton, pos=spot)
        for step in (10, 20, 30):
            QTest.mouseMove(rhythm, spot + QPoint(step, 0))
        QTest.mouseRelease(rhythm, Qt.MouseButton.LeftButton, pos=spot + QPoint(30, 0))
        self.done(window)
        assert review.answer is not None
        self.assertEqual(review.answer.events[name].source, "by hand")
        self.assertGreater(review.answer.events[name].frame, found)
        QTest.mouseDClick(
            rhythm, Qt.MouseButton.LeftButton, pos=rhythm.flag_spots()[name].toPoint()
        )
        self.done(window)
        assert review.answer is not None
        self.assertNotEqual(review.answer.events[name].source, "by hand")

    def test_key_positions_are_one_press_or_one_key_away(self) -> None:
        window = self.opened()
        review, row = window.models.review, window.stations.review.widget.positions
        for number in (2, 1, 3):
            window.actions_by_id[f"moment_{number}"].trigger()
            self.done(window)
            self.assertEqual(review.frame, row.positions[number - 1].frame)
        QTest.mouseClick(row, Qt.MouseButton.LeftButton, pos=row.boxes()[1].center().toPoint())
        self.done(window)
        self.assertEqual(review.frame, row.positions[1].frame)
        self.assertFalse(window.actions_by_id["moment_9"].isEnabled() and len(row.positions) < 9)

    def test_facing_and_lift_are_suggested_and_one_key_takes_or_refuses_each(self) -> None:
        window = self.opened()
        review = window.models.review
        window.actions_by_id["turn"].trigger()
        self.done(window)
        self.assertEqual(window.models.suggested.kind, "facing")
        self.press(window, "A")
        self.done(window)
        assert review.clip is not None
        self.assertEqual(review.clip.facing, film("brief").truth["facing"])
        review.change_clip("state another lift", lift="snatch")
        self.done(window)
        self.assertIn("looks like a clean", window.models.suggested.words)
        self.press(window, "Esc")
        self.assertEqual(window.models.suggested.kind, "")
        review.change_clip("state another lift", lift="hang clean, above knee")
        self.done(window)
        self.assertEqual(window.models.suggested.kind, "", "turned down once, it is not said again")
        window.models.suggested._declined.clear()
        window._enable()
        self.press(window, "A")
        self.done(window)
        self.assertEqual(review.clip.lift, "clean")
        window.actions_by_id["undo"].trigger()
        self.done(window)
        self.assertEqual(review.clip.lift, "hang clean, above knee")

    def test_opened_again_the_body_is_there_without_looking(self) -> None:
        window = self.opened()
        window.close()
        with mock.patch.object(BodyModel, "look") as look:
            again = self.open()
            again.desk.open_clip(again.desk.clips[0].id)
            self.until(lambda: again.models.review.body is not None, 60)
            self.done(again)
        look.assert_not_called()

    def test_the_wrong_facing_is_noticed_and_one_key_turns_it(self) -> None:
        window = self.opened()
        assert window.models.review.clip is not None
        self.assertIsNone(window.models.body.facing_seen)
        window.actions_by_id["turn"].trigger()
        self.done(window)
        self.assertEqual(window.models.review.clip.facing, "left")
        self.assertEqual(window.models.body.facing_seen, "right")
        window.actions_by_id["turn"].trigger()
        self.done(window)
        self.assertIsNone(window.models.body.facing_seen)

    def looked_for(self, guess: dict[str, str]) -> Window:
        """A tracked clip that is said to face left, after its lifter has been looked for."""
        known = film("brief")
        number = self.keep(known)
        shelf = Shelf(database_file(self.folder))
        shelf.change_clip(number, marks=(known.mark(),), facing="left", guess=guess)
        shelf.keep_track(shelf.clip(number), tracked("brief"))
        shelf.close()
        self.blind.stop()
        window = self.open()
        with mock.patch.object(window.desk.looking_worker, "ask", return_value=sightings("brief")):
            self.open_clip(window)
            self.until(lambda: window.models.body.sightings is not None, 30)
            self.done(window)
        return window

    def test_where_nobody_said_where_the_lifter_looks_it_is_read_from_the_film(self) -> None:
        window = self.looked_for({"facing": NOT_SAID})
        review = window.models.review
        assert review.clip is not None and review.answer is not None
        self.assertEqual((review.clip.facing, review.clip.guess), ("right", {}))
        self.assertEqual(window.models.suggested.kind, "")
        self.press(window, "Ctrl+Z")
        self.done(window)
        self.assertEqual(review.clip.facing, "left", "it can be taken back")
        self.assertEqual(window.models.suggested.kind, "facing")

    def test_what_the_coach_said_stands_until_he_takes_what_is_read(self) -> None:
        window = self.looked_for({})
        assert window.models.review.clip is not None
        self.assertEqual(window.models.review.clip.facing, "left")
        self.assertEqual(window.models.suggested.kind, "facing")

    def test_without_a_model_the_card_says_so_and_points_can_be_set(self) -> None:
        with mock.patch.object(body_model, "why_no_model", return_value="The model is missing."):
            window = self.opened()
        self.assertIn("model is missing", window.stations.review.widget.say.body_words.text())
        self.assertFalse(window.actions_by_id["body_find"].isEnabled())


class TestLooking(DeskCase):
    looks = True

    def test_the_body_is_looked_for_after_tracking_and_the_window_stays_awake(self) -> None:
        window = self.marked(film("brief"))
        review = window.models.review
        self.press(window, "T")
        self.until(lambda: review.answer is not None, 90)
        self.assertIsNone(review.body, "bar measures are there before the body")
        self.until(lambda: window.models.body.searching)
        self.assertIn("Looking for", window.stations.review.widget.say.body_words.text())
        self.until(lambda: review.body is not None, 120)
        assert review.clip is not None
        self.assertIsNotNone(window.desk.shelf.sightings(review.clip))
