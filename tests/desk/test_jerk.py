"""A jerk in the window: judged, answered with a drill of its own, and loaded from the right best."""

import unittest
from dataclasses import replace

from keen_kettle.desk.window.frame import Window
from tests.desk.base import DeskCase


class TestJerk(DeskCase):
    def reviewed(self) -> Window:
        """A jerk that tips forward in the dip."""
        return self.measured("dip", lift="power jerk")

    def test_the_one_thing_of_a_jerk_is_said_with_its_evidence_and_drill(self) -> None:
        window = self.reviewed()
        words = self.shown(window.stations.review.widget.say)
        self.assertIn("Straight down like a lift in its shaft.", words)
        self.assertIn("Tips forward in the dip", words)
        self.assertIn("forward on the way down", words)
        self.assertIn("Dip and hold", words)
        self.assertIn("of the best clean", words)
        bottom = window.models.review.answer.events["dip_bottom"].frame  # type: ignore[union-attr]
        self.assertAlmostEqual(window.models.review.frame, bottom, delta=3)
        self.click(window.stations.review.widget.say, "Take this corrective")
        self.assertEqual([one.name for one in window.desk.correctives], ["Dip and hold"])

    def test_its_own_best_goes_before_that_of_the_clean(self) -> None:
        window = self.reviewed()
        athlete = window.models.review.athlete
        assert athlete is not None
        window.desk.choose_who(athlete.id)
        self.press(window, "F2")
        form = window.stations.screen.widget.athletes.form
        form.jerk.setValue(90.0)
        self.settle()
        self.press(window, "Ctrl+5")
        self.assertIn("of the best jerk", self.shown(window.stations.prescribe.widget))
        self.press(window, "Ctrl+Z")
        self.settle()
        self.assertIn("of the best clean", self.shown(window.stations.prescribe.widget))

    def test_a_wrist_on_record_leaves_no_drill_and_prescribe_says_why(self) -> None:
        window = self.reviewed()
        athlete = window.models.review.athlete
        assert athlete is not None
        window.desk.change_athlete(replace(athlete, cautions=frozenset({"wrist"})))
        self.settle()
        self.assertIn(
            "No drill that answers this fits", self.shown(window.stations.review.widget.say)
        )
        self.press(window, "Ctrl+5")
        self.assertIn("no load in the rack", self.shown(window.stations.prescribe.widget))


if __name__ == "__main__":
    unittest.main()
