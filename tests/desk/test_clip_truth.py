"""What the window says about a clip's own truth: several lifts, camera, slow motion, the check."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.desk.window.frame import Window
from tests.desk.base import DeskCase
from tests.films import film, twice


class TrackedCase(DeskCase):
    """A window with a tracked clip open; the film is the test's own copy."""

    def tracked(self) -> Window:
        known = film("hang")
        place = self.room / "mine.mp4"
        place.write_bytes(known.path.read_bytes())
        return self.measured("hang", "hang power clean", place)


class TestSeveralLifts(DeskCase):
    def test_each_lift_of_a_clip_is_judged_by_itself(self) -> None:
        known = twice("hang")
        self.keep(known, lift="hang power clean")
        window = self.open()
        self.open_clip(window)
        self.drag_mark(window, known)
        self.press(window, "T")
        review = window.models.review
        self.until(lambda: review.answer is not None, 90, "it was not tracked")
        self.settle()
        assert review.answer is not None
        self.assertEqual(len(review.answer.reps), 2)
        bar = window.stations.review.widget.reps
        self.assertIn("Lift 1 of 2", self.shown(bar))
        self.assertFalse(bar.before.isEnabled())
        first = review.answer.events["peak_velocity"]
        self.press(window, "]")
        self.until(lambda: review.answer is not None and review.answer.rep == 1)
        self.settle()
        self.assertIn("Lift 2 of 2", self.shown(bar))
        second = review.answer.events["peak_velocity"]
        self.assertGreater(second.t_s, first.t_s + 2)
        self.assertEqual(review.frame, review.answer.reps[1].events["lift_off"].frame)
        self.press(window, "[")
        self.until(lambda: review.answer is not None and review.answer.rep == 0)


class TestSetUp(TrackedCase):
    def test_the_filming_rate_sets_the_clock_and_the_time_line_follows(self) -> None:
        window = self.tracked()
        review, rhythm = window.models.review, window.stations.review.widget.rhythm
        assert review.answer is not None
        self.assertFalse(window.stations.review.widget.reps.isVisible(), "one lift needs no choice")
        before = review.answer.measures["peak_velocity"].value
        window.stations.review.widget.say.setup.capture.setValue(45)
        self.until(lambda: review.answer is not None and review.answer.clock.slowed > 1.2)
        after = review.answer.measures["peak_velocity"].value
        assert before is not None and after is not None
        self.assertAlmostEqual(after / before, 45 / 25, delta=0.1)
        rhythm.show_whole(True)
        self.settle()
        assert review.index is not None
        self.assertAlmostEqual(rhythm.axes.end_s, review.index.duration_s * 25 / 45, delta=0.02)
        self.press(window, "Ctrl+Z")
        self.until(lambda: review.answer is not None and review.answer.clock.slowed == 1)
        self.assertEqual(rhythm._speed_words(), "velocity, m/s")
        slow = replace(review.answer, clock=review.answer.clock.at_pace(3.0))
        with mock.patch.object(type(review), "answer", slow):
            self.assertEqual(rhythm._speed_words(), "velocity, times not known")

    def test_the_clip_check_is_beside_the_film_before_and_after_tracking(self) -> None:
        known = film("left")
        self.keep(known, lift="snatch")
        window = self.open()
        self.open_clip(window)
        say = window.stations.review.widget.say
        say._check_fold.open_up(True)
        self.settle()
        self.assertIn("Frames a second: 30 a second", self.shown(say))
        self.assertIn("known once the bar is tracked", self.shown(say))
        self.drag_mark(window, known)
        self.press(window, "T")
        self.until(lambda: window.models.review.answer is not None, 90)
        self.settle()
        words = self.shown(say)
        self.assertIn("Speeds may be trusted", words)
        self.assertIn("Camera: still", words)


class TestBurnt(TrackedCase):
    def test_the_film_goes_out_with_its_path_slowed_and_the_original_stays(self) -> None:
        window = self.tracked()
        source = self.room / "mine.mp4"
        before = source.read_bytes()
        window.models.review.playback.set_speed(0.5)
        path = self.room / "out.mp4"
        with self.saving(path):
            self.press(window, "Ctrl+Shift+F")
        self.until(lambda: window.files.writing is None, 60, "it was not written")
        self.assertEqual(source.read_bytes(), before)
        index, old = read_index(path), read_index(source)
        self.assertEqual(len(index), len(old))
        self.assertAlmostEqual(index.duration_s, 2 * old.duration_s, delta=0.05)
        assert window.models.review.track is not None
        frame = len(index) // 2
        with ClipReader(index) as new, ClipReader(old) as plain:
            apart = np.abs(new.frame(frame).bgr().astype(int) - plain.frame(frame).bgr())
        x, y = window.models.review.track.x_px[frame], window.models.review.track.y_px[frame]
        near = apart[int(y) - 4 : int(y) + 5, int(x) - 4 : int(x) + 5]
        self.assertGreater(float(near.mean()), 30, "the bar's place is drawn")
        self.assertLess(float(np.median(apart)), 4, "the rest is as it was")

    def test_it_can_be_stopped_and_never_overwrites_its_source(self) -> None:
        window = self.tracked()
        path = self.room / "out.mp4"
        with self.saving(path):
            self.press(window, "Ctrl+Shift+F")
        self.press(window, "Esc")
        self.until(lambda: window.files.writing is None, 30)
        self.assertEqual([one.name for one in self.room.glob("*out*")], [])
        with self.saving(self.room / "mine.mp4"):
            self.press(window, "Ctrl+Shift+F")
        self.until(lambda: window.files.writing is None, 30)
        self.assertIn("the original is never touched", self.shown(window.notice))
        with self.saving(self.room / "nowhere" / "out.mp4"):
            self.press(window, "Ctrl+Shift+F")
        self.until(lambda: window.files.writing is None, 30)
        self.assertIn("could not be written", self.shown(window.notice))


if __name__ == "__main__":
    unittest.main()
