"""What helper processes do for the window: killed, failing, and asked more often than is wanted."""

import os
import signal
import unittest
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from keen_kettle.core.errors import KettleError
from keen_kettle.desk.window.frame import Window
from tests.desk.base import DeskCase, answer_worker
from tests.films import film


class TestReckoner(DeskCase):
    def say_mass(self, window: Window, kilos: float) -> None:
        """As the coach does: unfold the set-up, type the mass."""
        say = window.stations.review.widget.say
        if not say.setup.isVisible():
            QTest.mouseClick(say._setup_fold.head, Qt.MouseButton.LeftButton)
        say.setup.mass.setFocus()
        say.setup.mass.selectAll()
        QTest.keyClicks(say.setup.mass, f"{kilos:.1f}")
        QTest.keyClick(say.setup.mass, Qt.Key.Key_Return)

    def power(self, window: Window) -> float:
        answer = window.models.review.answer
        assert answer is not None
        value = answer.measures["peak_power"].value
        assert value is not None
        return value

    def test_a_killed_worker_is_replaced_and_nobody_notices(self) -> None:
        window = self.measured("brief")
        before, process = self.power(window), answer_worker._process
        assert process is not None and process.pid is not None
        os.kill(process.pid, signal.SIGKILL)
        self.say_mass(window, 120.0)
        self.until(lambda: abs(self.power(window) / before - 2.0) < 0.02, 30)
        self.assertNotEqual(self.pid(), process.pid)
        self.assertFalse(window.notice.isVisible())

    def pid(self) -> int | None:
        return answer_worker._process.pid if answer_worker._process is not None else None

    def test_a_worker_that_cannot_is_told_and_the_next_change_tries_again(self) -> None:
        window = self.measured("brief")
        before = self.power(window)
        lost = KettleError("The helper ended without an answer. Nothing is lost; try it again.")
        with mock.patch.object(answer_worker, "ask", side_effect=lost):
            self.say_mass(window, 90.0)
            self.until(lambda: "try it again" in self.shown(window.notice))
        self.assertEqual(self.power(window), before, "the former answer stays")
        self.assertIn(
            "90\u00a0kg", window.stations.review.widget.title.text(), "what was said is kept"
        )
        self.say_mass(window, 120.0)
        self.until(lambda: abs(self.power(window) / before - 2.0) < 0.02, 30)

    def test_of_many_changes_only_the_newest_is_worked_out(self) -> None:
        window = self.measured("brief")
        before = self.power(window)
        with mock.patch.object(answer_worker, "_follow", wraps=answer_worker._follow) as done:
            for kilos in (70.0, 80.0, 90.0, 100.0, 110.0, 120.0):
                window.models.review.change_clip("say the mass", mass_kg=kilos)
            self.until(lambda: not window.desk.jobs.busy, 30)
            self.assertLess(done.call_count, 6)
        self.assertAlmostEqual(self.power(window) / before, 2.0, delta=0.02)

    def test_what_is_said_of_a_clip_reads_only_the_clips_again(self) -> None:
        window = self.measured("brief")
        everything: list[bool] = []
        window.desk.records_changed.connect(lambda: everything.append(True))
        self.say_mass(window, 120.0)
        self.settle()
        self.assertIn("120\u00a0kg", window.stations.review.widget.title.text())
        self.assertEqual(everything, [])
        window.stations.review.widget.film.setFocus()
        self.press(window, "Ctrl+Z")
        self.settle()
        self.assertIn("60\u00a0kg", window.stations.review.widget.title.text())


class TestPlateSearch(DeskCase):
    searches = True

    def test_a_mark_by_hand_ends_the_search_and_taken_back_begins_it_anew(self) -> None:
        known = film("hang")
        self.keep(known, lift="hang power clean")
        window = self.open()
        self.open_clip(window)
        self.assertTrue(window.models.hand.searching)
        self.drag_mark(window, known)
        self.until(lambda: not window.models.hand.searching, 20)
        self.assertIsNone(window.models.hand.proposed)
        card = window.stations.review.widget.say
        self.until(lambda: "Ready to track" in self.shown(card))
        self.press(window, "Ctrl+Z")
        self.until(lambda: window.models.hand.proposed is not None, 60, "nothing was proposed")

    def test_a_search_that_fails_is_told_and_no_longer_waited_for(self) -> None:
        self.keep(film("hang"))
        window = self.open()
        lost = KettleError("The helper ended without an answer. Nothing is lost; try it again.")
        with mock.patch.object(window.desk.looking_worker, "ask", side_effect=lost):
            self.open_clip(window)
            self.until(lambda: "try it again" in self.shown(window.notice))
        self.assertFalse(window.models.hand.searching)
        self.settle()
        self.assertNotIn("looked for", self.shown(window.stations.review.widget.say))


if __name__ == "__main__":
    unittest.main()
