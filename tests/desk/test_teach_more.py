"""Teach's second reading by clicks and keys: confidence, load, roll call, try-out, jumps, compare, pace."""

import unittest
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QScrollArea

from keen_kettle.core.teach import Visit
from keen_kettle.desk.stations.screen.athletes_page import AthletesPage
from keen_kettle.desk.stations.teach.roll_call import RollCall
from keen_kettle.desk.stations.teach.tryout_page import TryoutPage
from keen_kettle.desk.window.frame import Window
from tests.desk.test_teach import TeachCase


class TestVisitKeys(TeachCase):
    def seen(self, window: Window) -> Visit:
        row = window.stations.teach.widget.visit.chosen()
        assert row is not None
        return window.models.teach.draft(row).visit

    def test_confidence_and_the_verdict_go_round_with_a_key_and_undo(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Bram")
        visit = window.stations.teach.widget.visit
        self.keys(window, "c")
        self.assertEqual(self.seen(window).confidence, "calm")
        self.keys(window, "cc")
        self.assertEqual(self.seen(window).confidence, "afraid")
        self.assertTrue(visit.confidence.buttons["afraid"].isChecked())
        self.keys(window, "c")
        self.assertEqual(self.seen(window).confidence, "", "and none again")
        self.click(visit.verdict, "too heavy")
        self.assertEqual(self.seen(window).verdict, "too heavy")
        self.click(visit.verdict, "too heavy")
        self.assertEqual(self.seen(window).verdict, "", "a second press takes it back")
        self.keys(window, "v")
        self.assertEqual(self.seen(window).verdict, "too light")
        self.press(window, "Ctrl+Z")
        self.assertEqual(self.seen(window).verdict, "")

    def test_a_load_called_too_heavy_brings_a_lighter_one_into_the_advice(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Bram")
        visit = window.stations.teach.widget.visit
        visit.load.setValue(40)
        self.click(visit.verdict, "too heavy")
        self.until(lambda: not window.models.teach.waiting)
        self.settle()
        advice = self.shown(visit.advice)
        self.assertIn("40 kg is too heavy", advice)
        self.assertRegex(advice, r"back to 3[0-9](\.5)? kg")

    def test_fear_is_answered_before_anything_else(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Bram")
        self.keys(window, "accc")
        self.until(lambda: not window.models.teach.waiting)
        self.settle()
        self.assertRegex(
            self.shown(window.stations.teach.widget.visit.advice).lower(), "afraid|confiden"
        )

    def test_every_stage_of_every_athlete_fits_beside_the_table(self) -> None:
        window = self.on("visit")
        visit = window.stations.teach.widget.visit
        area = next(a for a in visit.findChildren(QScrollArea) if a.isAncestorOf(visit.other_fault))
        for row in visit.model.rows:
            self.choose_row(window, row.athlete.name)
            self.settle()
            inside = area.widget()
            assert inside is not None
            self.assertLessEqual(inside.width(), area.width(), row.athlete.name)
            self.assertTrue(visit.other_fault.isVisible(), row.athlete.name)
            for tag in visit.faults.values():
                self.assertGreaterEqual(tag.width(), tag.minimumSizeHint().width(), tag.text())

    def test_roll_call_covers_the_window_and_ticks_answer_by_answer(self) -> None:
        window = self.on("visit", "Kester")
        self.keys(window, "r")
        call = window.findChild(RollCall)
        assert call is not None
        self.assertEqual(call.size(), call.parentWidget().size())  # type: ignore[union-attr]
        self.assertNotIn("big breath", self.shown(call), "the athlete answers first")
        QTest.keyClick(call, Qt.Key.Key_Space)
        self.assertIn("big breath", self.shown(call))
        QTest.keyClick(call, Qt.Key.Key_Backspace)
        self.assertNotIn("big breath", self.shown(call))
        for _ in range(20):
            if call.done == len(call._asked):
                break
            QTest.mouseClick(call, Qt.MouseButton.LeftButton)
        self.assertIn("All answered: lift.", self.shown(call))
        QTest.keyClick(call, Qt.Key.Key_Space)
        self.assertTrue(call.isHidden())
        self.keys(window, "1")
        self.assertEqual(self.seen(window).met, (0,), "keys go on")


class TestPace(TeachCase):
    def test_in_a_session_several_stages_are_gone_through_in_one_visit(self) -> None:
        window = self.on("visit", "Odile")
        visit = window.stations.teach.widget.visit
        odile = self.athlete(window, "Odile").id
        for check in window.models.teach.teaching.checks:
            window.models.teach.screen(odile, check, "pass")
        self.settle()
        names = []
        for _ in range(2):
            row = visit.chosen()
            assert row is not None
            names.append(row.stage)
            self.keys(window, "a")
            visit.reps.setValue(5)
            visit.view.setFocus()
            self.until(lambda: not window.models.teach.waiting)
            self.settle()
            self.assertIn("Advance to", visit.advice.take.text(), self.shown(visit.advice))
            QTest.keyClick(visit.view, Qt.Key.Key_Return)
            self.until(lambda: not window.models.teach.waiting)
            self.settle()
        kept = window.desk.shelf.teaching.visits(odile)
        today = [one.visit.stage for one in kept if one.visit.on == window.desk.today()]
        self.assertEqual(today, names)
        self.assertEqual(len(set(names)), 2)


class TestTryOut(TeachCase):
    def page(self, window: Window) -> TryoutPage:
        page = window.findChild(TryoutPage)
        assert page is not None
        return page

    def attempt(self, page: TryoutPage, variant: str, met: int, liked: str = "") -> None:
        page.variant.setCurrentText(variant)
        page.met.setValue(met)
        if liked:
            page.liked.buttons[liked].click()
        self.click(page, "Keep this try")
        self.settle()

    def test_the_variant_done_best_becomes_their_lift_and_undo_takes_it_back(self) -> None:
        window = self.on("tryout", "Odile")
        page = self.page(window)
        self.attempt(page, "power clean", 2)
        self.assertIn("Two variants at least", self.shown(page))
        self.attempt(page, "hang power clean, above knee", 4, "liked")
        self.assertIn("Done best: hang power clean, above knee", self.shown(page))
        self.assertIn("4 of 4 points, the others at most 2 of 4, liked best", self.shown(page))
        self.click(page, "Make it their lift")
        self.assertEqual(self.athlete(window, "Odile").own_lift, "hang power clean, above knee")
        self.assertIn("Lift for now: hang power clean, above knee", self.shown(page))
        self.press(window, "Ctrl+Z")
        self.assertEqual(self.athlete(window, "Odile").own_lift, "")
        self.press(window, "Ctrl+Z")
        self.settle()
        self.assertNotIn("Done best", self.shown(page))
        self.press(window, "Ctrl+Shift+Z")
        self.settle()
        self.assertIn("Done best", self.shown(page))

    def test_a_word_that_is_no_lift_is_told_and_nothing_is_kept(self) -> None:
        window = self.on("tryout", "Odile")
        said: list[str] = []
        window.desk.trouble.connect(said.append)
        page = self.page(window)
        self.attempt(page, "flying carpet", 2)
        self.assertTrue(said and "flying carpet" in said[0], said)
        self.assertIn("Nothing yet", self.shown(page))
        self.assertEqual(page.met.value(), 2, "what was typed stays")

    def test_jump_heights_are_noted_and_compared(self) -> None:
        window = self.on("tryout", "Odile")
        page = self.page(window)
        self.assertIn("No jump is noted yet", self.shown(page))
        for height in (41, 44):
            page.jump_cm.setValue(height)
            self.click(page, "Note the jump")
            self.settle()
        self.assertIn("44 cm on 23 Nov, +3 cm since 23 Nov.", self.shown(page))
        self.press(window, "Ctrl+Z")
        self.settle()
        self.assertIn("41 cm on 23 Nov.", self.shown(page))


class TestCompare(TeachCase):
    def test_two_movements_are_set_side_by_side_and_written_as_a_sheet(self) -> None:
        window = self.on("compare")
        page = window.stations.teach.widget.compare
        page.boxes[0].setCurrentText("clean pull")
        QTest.keyClick(page.boxes[0], Qt.Key.Key_Return)
        self.settle()
        words = self.shown(page)
        self.assertIn("not at all", words)
        self.assertIn("the pull itself", words)
        path = Path(self.folder) / "sheet.pdf"
        with self.saving(path):
            self.click(page, "Write the sheet")
        self.assertTrue(path.read_bytes().startswith(b"%PDF"))
        self.assertEqual([one.name for one in path.parent.glob(".*part")], [])

    def test_a_name_that_cannot_be_read_says_so_and_writes_nothing(self) -> None:
        window = self.on("compare")
        page = window.stations.teach.widget.compare
        page.boxes[1].setCurrentText("flying carpet")
        QTest.keyClick(page.boxes[1], Qt.Key.Key_Return)
        self.settle()
        self.assertIn("flying carpet", self.shown(page))
        self.assertFalse(page.sheet.isEnabled())

    def test_a_folder_that_is_not_there_is_said_in_words(self) -> None:
        window = self.on("compare")
        said: list[str] = []
        window.desk.trouble.connect(said.append)
        with self.saving(Path(self.folder) / "gone" / "sheet.pdf"):
            self.click(window.stations.teach.widget.compare, "Write the sheet")
        self.assertTrue(said and "Choose another folder" in said[0], said)


class TestHouse(TeachCase):
    def test_the_pace_of_a_group_is_chosen_kept_and_undone(self) -> None:
        window = self.on("athletes")
        group = next(one for one in window.desk.groups if "Beach" in one.name)
        window.desk.choose_who(None, group.id)
        self.settle()
        page = window.findChild(AthletesPage)
        assert page is not None
        page.pace.setCurrentIndex(page.pace.findData("block"))
        page.pace.activated.emit(page.pace.currentIndex())
        self.settle()
        page.weeks.setValue(4)
        self.settle()
        kept = next(one for one in window.desk.shelf.teaching.groups() if one.id == group.id)
        self.assertEqual((kept.pace, kept.weeks), ("block", 4))
        juno = self.athlete(window, "Juno").id
        self.assertEqual(window.models.teach.pace_of(juno), ("block", 4))
        self.press(window, "Ctrl+Z")
        self.press(window, "Ctrl+Z")
        self.settle()
        self.assertEqual(window.models.teach.pace_of(juno)[0], "")
        self.assertEqual(page.pace.currentData(), "")

    def test_a_word_of_the_house_is_said_in_stage_and_roll_call(self) -> None:
        window = self.on("ladders")
        page = window.stations.teach.widget.ladders
        page.open_ladder("clean-bottom-up", "set")
        self.settle()
        self.assertIn("Word: set", self.shown(page))
        self.assertIn("Why" if "Why" in self.shown(page) else "WHY", self.shown(page))
        page.words["set"].setText("build")
        page.words["set"].editingFinished.emit()
        page.open_ladder("clean-bottom-up", "floor-to-knee")
        page.open_ladder("clean-bottom-up", "set")
        self.settle()
        self.assertIn("Word: build", self.shown(page))
        window.desk.choose_who(self.athlete(window, "Kester").id)
        row = next(
            one for one in window.models.teach.rows() if one.athlete.name.startswith("Kester")
        )
        self.assertIn("build", window.models.teach.words_of(row))
        self.press(window, "Ctrl+Z")
        self.assertEqual(window.desk.shelf.house_words(), {})

    def test_what_a_stage_cost_here_is_reckoned_from_the_steps(self) -> None:
        window = self.on("ladders")
        page = window.stations.teach.widget.ladders
        self.assertTrue(window.models.teach.costs)
        ladder, stage = next(iter(window.models.teach.costs))
        page.open_ladder(ladder, stage)
        self.settle()
        self.assertRegex(self.shown(page), r"\d+ days?")

    def test_years_in_the_lifts_and_the_wish_to_lift_are_kept(self) -> None:
        window = self.on("athletes", "Odile")
        form = window.stations.screen.widget.athletes.form
        self.assertEqual(form.lifting.text(), "not said")
        form.lifting.setValue(2)
        form.wants.click()
        self.settle()
        kept = self.athlete(window, "Odile")
        self.assertEqual((kept.lifting_years, kept.wants_lifts), (2.0, True))
        form.lifting.setValue(-0.5)
        self.settle()
        self.assertIsNone(self.athlete(window, "Odile").lifting_years)


if __name__ == "__main__":
    unittest.main()
