"""The Prescribe station driven as a coach does: findings, drills, warm-up, complex, sheet, library."""

import csv
import json
import unittest
from datetime import date, timedelta
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QComboBox, QInputDialog, QLineEdit, QToolButton

from keen_kettle.core.content import load_content
from keen_kettle.core.prescribe import Sighting
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import ClipFindings, KeptComplex, NewClip, Prescribed
from tests.desk.base import TODAY, DeskCase


class PrescribeCase(DeskCase):
    def club(self, name: str = "Bram Fennick") -> Window:
        """The demo's club with one of them chosen."""
        self.keep_club()
        window = self.open()
        window.desk.choose_who(self.athlete(window, name).id)
        return window

    def seen(self, window: Window, fault: str, days: int = 3, value: float = 0.12) -> int:
        """Keep a clip of the chosen athlete that showed a fault; the clip's number."""
        day = TODAY - timedelta(days)
        family = "clean" if fault == "slow-elbows" else "snatch"
        shelf, athlete = window.desk.shelf, window.desk.who
        film = Path(f"/films/{fault}-{days}-{value}.mp4")
        clip = shelf.add_clip(NewClip(film, film.stem, 90, 1.5, day, athlete, family, waits=""))
        measure = {"bounce-forward": "forward_bump", "loop": "loop"}.get(fault, "")
        rows: tuple[Sighting, ...] = ()
        if value:
            rows = (Sighting(fault, day, "snatch", "clip", 2.0, 0.9, measure, value, 0.01, clip),)
        told = {measure: (value or 0.01, 0.005)} if measure else {}
        shelf.prescribing.keep_findings(ClipFindings(clip, family, rows, told))
        window.desk.reload()
        self.settle()
        return clip

    def taken(self, window: Window, fault: str, drill: str, days: int) -> None:
        """Keep a corrective that was taken some days ago."""
        day = TODAY - timedelta(days)
        assert window.desk.who is not None
        window.desk.shelf.prescribing.take_corrective(
            Prescribed(
                *(window.desk.who, None, fault, drill, "snatch", "The drill", 20.0, "3 sets of 5"),
                *("isolates it", day, day + timedelta(14)),
                measure="forward_bump",
                before_value=0.13,
                before_sigma=0.005,
            )
        )
        window.desk.reload()
        self.settle()

    def pick(self, box: QComboBox, words: str) -> None:
        """Choose an entry of a box as a hand would."""
        row = next(k for k in range(box.count()) if words in box.itemText(k))
        box.setCurrentIndex(row)
        box.activated.emit(row)
        self.settle()


class TestCorrectivesPage(PrescribeCase):
    def test_everything_that_was_seen_is_laid_out_and_the_drill_can_be_changed_before_it_is_taken(
        self,
    ) -> None:
        window = self.club()
        self.seen(window, "bounce-forward", 9)
        self.seen(window, "bounce-forward", 2)
        self.press(window, "Ctrl+5")
        words = self.shown(window.stations.prescribe.widget)
        for part in ("For Bram Fennick", "Bar struck forward", "2 times", "pattern", "DO", "AND"):
            self.assertIn(part, words)
        page = window.stations.prescribe.widget.correctives
        dose = next(
            one for one in page.findChildren(QLineEdit) if one.isVisible() and "sets" in one.text()
        )
        dose.setText("2 sets of 4")
        self.click(page, "Take this corrective")
        kept = window.desk.correctives[0]
        self.assertEqual((kept.dose, kept.measure), ("2 sets of 4", "forward_bump"))
        self.assertEqual(kept.before_value, 0.12)
        self.assertIn("In the record since 23 Nov", self.shown(page))

    def test_a_visit_s_tag_alone_is_enough(self) -> None:
        window = self.club("Juno Averdale")
        row = window.models.teach.row(window.desk.who or 0, "clean-bottom-up")
        assert row is not None
        window.models.teach.toggle_fault(row, "early-arms")
        self.press(window, "Shift+F2")
        words = self.shown(window.stations.prescribe.widget)
        self.assertIn("Arms bend early", words)
        self.assertIn("Tagged by the coach", words)
        self.find(window.stations.prescribe.widget, "Take this corrective")

    def test_one_key_answers_the_question_and_changes_the_drill(self) -> None:
        window = self.club()
        self.seen(window, "slow-elbows")
        self.press(window, "Shift+F2")
        self.assertIn("Why are the elbows late?", self.shown(window.stations.prescribe.widget))
        self.press(window, "Ctrl+Alt+2")
        self.settle()
        words = self.shown(window.stations.prescribe.widget)
        self.assertIn("Front rack holds", words)
        self.assertIn("no time was spent in the rack", words)
        self.press(window, "Ctrl+Z")
        self.settle()
        self.assertNotIn(
            "no time was spent in the rack", self.shown(window.stations.prescribe.widget)
        )

    def test_another_drill_takes_the_place_of_a_pick(self) -> None:
        window = self.club()
        self.seen(window, "loop")
        self.press(window, "Shift+F2")
        page, model = window.stations.prescribe.widget.correctives, window.models.correctives
        before = [one.corrective.drill for one in model.picks]
        box = next(b for b in page.findChildren(QComboBox) if "Another drill" in b.itemText(0))
        wanted = box.itemData(1)
        self.pick(box, box.itemText(1))
        model.ensure()
        after = [one.corrective.drill for one in model.picks]
        self.assertEqual(after[1:], before[1:])
        self.assertEqual(after[0], wanted)

    def test_few_minutes_pass_drills_over(self) -> None:
        window = self.club()
        self.seen(window, "bounce-forward")
        self.press(window, "Shift+F2")
        box = next(
            b
            for b in window.stations.prescribe.widget.correctives.findChildren(QComboBox)
            if "as long" in b.itemText(0)
        )
        self.pick(box, "5 min")
        self.assertIn("takes 9 min", self.shown(window.stations.prescribe.widget))

    def test_nothing_seen_says_where_to_go(self) -> None:
        window = self.club("Senna Duncraig")
        self.press(window, "Shift+F2")
        self.assertIn(
            "Nothing seen of Senna Duncraig yet", self.shown(window.stations.prescribe.widget)
        )
        self.click(window.stations.prescribe.widget, "Go to the visit")
        self.assertEqual(window.desk.station, "Teach")


class TestFollowing(PrescribeCase):
    def test_a_new_clip_says_whether_it_helped_and_the_house_counts_it(self) -> None:
        window = self.club()
        self.taken(window, "bounce-forward", "boundary-line", 14)
        self.seen(window, "bounce-forward", 1, 0.09)
        self.press(window, "Shift+F2")
        words = self.shown(window.stations.prescribe.widget)
        self.assertIn("DUE NOW", words)
        self.assertIn("13.0 cm → 9.0 cm", words)
        self.assertIn("Improved", words)
        self.click(window.stations.prescribe.widget, "End it: improved")
        ended = window.desk.correctives[0]
        self.assertEqual((ended.outcome, ended.after_value), ("improved", 0.09))
        self.assertIn("helped 1 of 1 here", self.shown(window.stations.prescribe.widget))
        self.press(window, "Ctrl+6")
        self.assertIn("improved", window.stations.record.widget.model.index(0, 5).data())
        self.press(window, "Ctrl+Z")
        self.assertTrue(window.desk.correctives[0].runs)

    def test_unchanged_offers_another_drill_and_says_why(self) -> None:
        window = self.club()
        self.seen(window, "bounce-forward", 20, 0.13)
        self.press(window, "Shift+F2")
        window.models.correctives.ensure()
        first = window.models.correctives.picks[0].corrective.drill
        self.taken(window, "bounce-forward", first, 14)
        self.seen(window, "bounce-forward", 1, 0.128)
        self.assertIn("Unchanged", self.shown(window.stations.prescribe.widget))
        self.click(window.stations.prescribe.widget, "End it: unchanged")
        window.models.correctives.ensure()
        self.assertNotIn(first, [one.corrective.drill for one in window.models.correctives.picks])
        self.assertIn("tried until", self.shown(window.stations.prescribe.widget))

    def test_without_a_clip_nothing_is_claimed_and_it_can_go_on(self) -> None:
        window = self.club()
        self.taken(window, "bounce-forward", "boundary-line", 15)
        self.press(window, "Shift+F2")
        self.assertIn(
            "no clip since that shows this measure", self.shown(window.stations.prescribe.widget)
        )
        box = next(
            b
            for b in window.stations.prescribe.widget.correctives.findChildren(QComboBox)
            if "what became" in b.itemText(0)
        )
        self.pick(box, "Another week")
        self.assertEqual(window.desk.correctives[0].review_on, TODAY + timedelta(7))
        self.assertIn("RUNS", self.shown(window.stations.prescribe.widget))

    def test_what_a_clip_shows_is_kept_whether_or_not_a_drill_is_taken(self) -> None:
        window = self.measured("brief")
        clip = window.models.review.clip
        assert clip is not None
        kept = window.desk.shelf.prescribing
        self.until(lambda: kept.findings_of(clip.id) is not None)
        found = kept.findings_of(clip.id)
        assert found is not None and clip.athlete_id is not None
        self.assertIn("forward_bump", found.measures)
        faults = [one.fault for one in kept.sightings()[clip.athlete_id]]
        self.assertIn("bounce-forward", faults)
        self.assertEqual(window.desk.correctives, [])


class TestWarmUp(PrescribeCase):
    def test_opening_build_up_and_gate(self) -> None:
        window = self.club()
        self.press(window, "Shift+F3")
        page, model = (
            window.stations.prescribe.widget.warm_up,
            window.stations.prescribe.widget.opening,
        )
        self.settle()
        words = self.shown(page)
        for part in (
            "Warm-up for Bram Fennick",
            "FROM THE GROUND UP",
            "BUILD UP",
            "first working set",
        ):
            self.assertIn(part, words)
        planned = model.working_kg
        assert planned is not None
        knee = next(b for b in page.findChildren(QToolButton) if b.text() == "Knee")
        QTest.mouseClick(knee, Qt.MouseButton.LeftButton)
        self.settle()
        assert model.working_kg is not None
        self.assertLess(model.working_kg, planned)
        self.assertIn("Knee did not hold", self.shown(page))
        self.assertIn("Today: hang", self.shown(page))

    def test_what_was_filmed_today_can_be_the_gate(self) -> None:
        window = self.club()
        self.seen(window, "bounce-forward", 0)
        self.press(window, "Shift+F3")
        self.settle()
        self.click(window.stations.prescribe.widget.warm_up, "As today’s clip shows: extension")
        self.assertEqual(window.stations.prescribe.widget.opening.failed, ("extension",))
        self.assertIn("The finish was not there", self.shown(window.stations.prescribe.widget))

    def test_minutes_lift_and_load_are_changed_in_place(self) -> None:
        window = self.club()
        self.press(window, "Shift+F3")
        page, model = (
            window.stations.prescribe.widget.warm_up,
            window.stations.prescribe.widget.opening,
        )
        self.settle()
        page.minutes.setValue(3)
        self.settle()
        assert model.opening is not None
        self.assertLessEqual(model.opening.seconds, 180)
        self.assertIn("no minutes left", self.shown(page))
        page.working.setValue(60)
        self.settle()
        self.assertEqual(model.steps[-1].loading.total_kg, 60)
        line = page.lift.lineEdit()
        assert line is not None
        line.setText("pwr snatch")
        line.editingFinished.emit()
        self.settle()
        self.assertEqual(model.lift.name, "power snatch")

    def test_what_runs_is_part_of_it(self) -> None:
        window = self.club()
        self.taken(window, "bounce-forward", "boundary-line", 3)
        self.press(window, "Shift+F3")
        self.assertIn("THEN THE CORRECTIVES THAT RUN", self.shown(window.stations.prescribe.widget))


class TestComplexPage(PrescribeCase):
    def composed(self) -> Window:
        window = self.club()
        self.press(window, "Shift+F4")
        composer = window.stations.prescribe.widget.composer
        self.until(lambda: composer.found is not None and not composer.searching)
        self.settle()
        return window

    def test_the_best_string_is_laid_out_priced_and_others_are_offered(self) -> None:
        window = self.composed()
        words = self.shown(window.stations.prescribe.widget.complex)
        for part in ("A complex for Bram Fennick", "OFFERED", "of what its weakest part carries"):
            self.assertIn(part, words)
        composer = window.stations.prescribe.widget.composer
        before = composer.names
        self.click(window.stations.prescribe.widget.complex, "Take this one")
        self.assertNotEqual(composer.names, before)

    def test_another_wish_another_string(self) -> None:
        window = self.composed()
        composer = window.stations.prescribe.widget.composer
        chips = {
            b.text().removesuffix(" •"): b
            for b in window.stations.prescribe.widget.complex.findChildren(QToolButton)
            if b.accessibleName().startswith("Wanted")
        }
        for name in ("dip and drive", "footwork"):
            if not chips[name].isChecked():
                QTest.mouseClick(chips[name], Qt.MouseButton.LeftButton)
                self.settle()
                chips = {
                    b.text().removesuffix(" •"): b
                    for b in window.stations.prescribe.widget.complex.findChildren(QToolButton)
                    if b.accessibleName().startswith("Wanted") and b.isVisible()
                }
        self.until(lambda: not composer.searching)
        assert composer.found is not None and composer.found.best is not None
        self.assertLessEqual(
            {"dip", "feet"}, {*composer.found.best.covers, *composer.found.best.misses}
        )

    def test_a_typed_string_is_checked_mended_and_kept(self) -> None:
        window = self.composed()
        page, composer = (
            window.stations.prescribe.widget.complex,
            window.stations.prescribe.widget.composer,
        )
        page.typed.setText("clean + hang snatch")
        QTest.keyClick(page.typed, Qt.Key.Key_Return)
        self.settle()
        self.assertIn("Between 1 and 2", self.shown(page))
        self.click(page, "Mend it")
        self.assertEqual(len(composer.movements), 3)
        self.assertEqual(composer.problems, ())
        with mock.patch.object(QInputDialog, "getText", return_value=("Mixed day", True)):
            self.click(page, "Keep this one")
        self.assertEqual(
            [one.name for one in window.desk.shelf.prescribing.complexes()], ["Mixed day"]
        )
        page.typed.setText("power clean + mixed day")
        QTest.keyClick(page.typed, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(
            composer.names[:2], ["power clean", "clean"], "a name stands for its parts"
        )
        composer.remove(0)
        page.typed.setText("clean + wobble")
        QTest.keyClick(page.typed, Qt.Key.Key_Return)
        self.settle()
        self.assertIn("Part 2", self.shown(page))
        self.assertEqual(page.typed.text(), "clean + wobble", "it stays to be mended")
        self.assertEqual(len(composer.movements), 3)

    def test_an_unknown_part_becomes_a_movement_of_one_s_own_without_leaving_the_page(self) -> None:
        window = self.club()
        self.press(window, "Shift+F4")
        page = window.stations.prescribe.widget.complex
        page.typed.setText("pause clean pull + power clean + front squat")
        QTest.keyClick(page.typed, Qt.Key.Key_Return)
        self.settle()
        self.assertIn("“pause clean pull” is not a lift", self.shown(page))
        self.click(page, "Make “pause clean pull” your own movement")
        editor = page.editor
        self.assertEqual(editor.name.text(), "pause clean pull")
        self.assertIn("trains", self.shown(editor))
        self.assertFalse(editor.keep.isEnabled())
        QTest.mouseClick(editor.chips["floor"], Qt.MouseButton.LeftButton)
        editor.name.setText("power clean")
        self.assertIn("known here already", self.shown(editor))
        editor.name.setText("pause clean pull")
        editor.shown_as.setEditText("clean pull")
        self.assertTrue(editor.keep.isEnabled(), self.shown(editor))
        self.assertIn("start position", self.shown(editor))
        self.click(editor, "Keep this movement")
        self.settle()
        names = ["pause clean pull", "power clean", "front squat"]
        self.assertEqual(
            window.stations.prescribe.widget.composer.names, names, "the string is read at once"
        )
        self.assertIn("floor to hip", self.shown(page))
        self.click(page, "Change it")
        editor.share.setValue(50)
        self.click(editor, "Keep this movement")
        self.settle()
        string = window.stations.prescribe.widget.composer.string
        assert string is not None
        self.assertEqual((string.parts[0].limit, string.weakest), (0.5, 0))
        self.press(window, "Ctrl+Z")
        self.press(window, "Ctrl+Z")
        self.assertEqual(window.desk.own_movements, {})

    def test_parts_are_dragged_into_another_order_and_moved_by_keys(self) -> None:
        window = self.composed()
        composer, bench = (
            window.stations.prescribe.widget.composer,
            window.stations.prescribe.widget.complex.bench,
        )
        composer.type_in("power clean + front squat + snatch")
        self.settle()
        second, last = bench.part_rect(1), bench.part_rect(2)
        QTest.mousePress(bench, Qt.MouseButton.LeftButton, pos=second.center().toPoint())
        for share in (0.4, 0.8, 1.0):
            to = second.center() + (last.center() - second.center()) * share + QPointF(20, 0)
            QTest.mouseMove(bench, to.toPoint())
            QTest.qWait(15)
        self.assertTrue(composer.problems_if(1, 3), "shown while it is dragged")
        self.assertEqual(composer.problems, (), "and not yet so")
        QTest.mouseRelease(
            bench, Qt.MouseButton.LeftButton, pos=last.center().toPoint() + QPoint(20, 0)
        )
        self.settle()
        self.assertEqual(composer.names, ["power clean", "snatch", "front squat"])
        self.assertIn("Between 2 and 3", self.shown(window.stations.prescribe.widget.complex))
        bench.setFocus()
        bench.chosen = 2
        QTest.keyClick(bench, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(composer.names, ["power clean", "front squat", "snatch"])
        self.assertEqual(composer.problems, ())
        QTest.keyClick(bench, Qt.Key.Key_Delete)
        self.assertEqual(composer.names, ["power clean", "snatch"])

    def test_repetitions_change_the_load(self) -> None:
        window = self.composed()
        page, composer = (
            window.stations.prescribe.widget.complex,
            window.stations.prescribe.widget.composer,
        )
        composer.type_in("power clean + front squat")
        self.settle()
        one = composer.string
        assert one is not None
        light = composer.load(one)
        page.bench.choose(0)
        for _ in range(6):
            self.click(page, "+")
        self.assertEqual(composer.counts[0], 7)
        heavy = composer.string
        assert heavy is not None and light.loading is not None
        after = composer.load(heavy)
        assert after.loading is not None
        self.assertLess(after.loading.total_kg, light.loading.total_kg)

    def test_a_shoulder_on_record_is_told_why_nothing_goes_overhead(self) -> None:
        window = self.club("Pia Sandstrake")
        self.press(window, "Shift+F4")
        composer = window.stations.prescribe.widget.composer
        composer.set_lift("snatch")
        composer.ensure()
        self.until(lambda: composer.found is not None and not composer.searching)
        self.settle()
        self.assertIn("shoulder on record", self.shown(window.stations.prescribe.widget.complex))


class TestSessionPage(PrescribeCase):
    def sheet(self, window: Window) -> None:
        self.press(window, "Shift+F5")
        model = window.stations.prescribe.widget.sheet
        self.until(lambda: bool(model.sessions) and not model.working, what="no session was made")
        self.settle()

    def write(self, window: Window, words: str, path: Path) -> None:
        with self.saving(path):
            self.click(window.stations.prescribe.widget.session, words)

    def test_one_athlete_s_sheet_is_written_in_every_form(self) -> None:
        window = self.club("Maren Holtby")
        self.sheet(window)
        for words, name, begins in (
            ("PDF", "a.pdf", b"%PDF"),
            ("PNG", "a.png", b"\x89PNG"),
            ("ODS", "a.ods", b"PK"),
            ("CSV", "a.csv", b"athlete"),
            ("calendar", "a.ics", b"BEGIN:VCALENDAR"),
        ):
            path = self.room / name
            self.write(window, words, path)
            self.assertTrue(path.read_bytes().startswith(begins), name)
        self.assertEqual([p.name for p in self.room.glob(".*")], [])
        rows = list(csv.DictReader((self.room / "a.csv").read_text().splitlines()))
        self.assertEqual({row["athlete"] for row in rows}, {"Maren Holtby"})

    def test_a_group_stands_on_one_page_each_with_their_own_loads(self) -> None:
        window = self.club()
        group = next(one for one in window.desk.groups if "boats" in one.name)
        window.desk.choose_who(None, group.id)
        self.sheet(window)
        sheet = window.stations.prescribe.widget.session.sheet()
        self.assertEqual(
            {one.athlete for one in sheet.sessions}, {one.name for one in window.desk.people()}
        )
        self.assertEqual(sheet.title, group.name)

    def test_a_disk_that_is_full_is_said_and_leaves_nothing_behind(self) -> None:
        window = self.club("Maren Holtby")
        self.sheet(window)
        path = self.room / "a.csv"
        with mock.patch.object(Path, "replace", side_effect=OSError(28, "No space left on device")):
            self.write(window, "CSV", path)
        self.assertIn("No space left on device", self.shown(window.notice))
        self.assertEqual(list(self.room.glob("*a.csv*")), [])

    def test_day_time_and_paper_are_on_the_sheet(self) -> None:
        window = self.club("Maren Holtby")
        self.sheet(window)
        page, model = (
            window.stations.prescribe.widget.session,
            window.stations.prescribe.widget.sheet,
        )
        page.on.setDate(page.on.date().addDays(2))
        page.minutes.setValue(25)
        page.with_complex.click()
        self.until(lambda: not model.working)
        self.settle()
        self.assertEqual(page.sheet().on, date(2026, 11, 25))
        self.assertTrue(all(one.block("Complex") is None for one in model.sessions))
        self.assertLessEqual(model.sessions[0].minutes, 25)
        tall = page.preview.height()
        self.pick(page.paper, "Letter")
        self.assertLess(page.preview.height(), tall)

    def test_nobody_chosen_says_so(self) -> None:
        self.keep()
        window = self.open()
        self.press(window, "Shift+F5")
        self.assertIn("Choose an athlete or a group", self.shown(window.stations.prescribe.widget))


class TestDrillsPage(PrescribeCase):
    def test_drills_are_found_by_words_fault_and_equipment(self) -> None:
        window = self.club()
        self.press(window, "Shift+F6")
        page = window.stations.prescribe.widget.drills
        whole = page.table.rowCount()
        page.typed.setText("elbow rack")
        self.settle()
        self.assertLess(page.table.rowCount(), whole)
        page.typed.clear()
        self.pick(page.boxes["fault"], "Slow elbows")
        self.assertTrue(all("slow-elbows" in one.answers for one in page.table.rows))
        self.pick(page.boxes["thing"], "Blocks")
        self.assertEqual(page.table.rowCount(), 0)
        self.assertIn("No drill holds all of this", self.shown(page))
        page.model.narrow(fault="early-arms", thing="")
        self.settle()
        shown = page.boxes["fault"].currentText(), page.boxes["thing"].currentText()
        self.assertEqual(shown, ("Arms bend early", "Any equipment"), "whoever has chosen it")

    def test_an_own_version_goes_before_the_shipped_one_and_can_be_taken_back(self) -> None:
        window = self.club()
        self.press(window, "Shift+F6")
        page = window.stations.prescribe.widget.drills
        page.typed.setText("muscle")
        self.settle()
        self.click(page, "Make it your own")
        page.editor.fields["dose"].setText("4 sets of 4")
        self.click(page, "Keep this drill")
        self.assertEqual(window.desk.content.drills["muscle-lift"].dose, "4 sets of 4")
        self.assertIn("4 sets of 4", self.shown(page))
        self.press(window, "Ctrl+Z")
        shipped = load_content().drills["muscle-lift"]
        self.assertEqual(window.desk.content.drills["muscle-lift"], shipped)

    def test_a_new_drill_is_checked_while_it_is_written(self) -> None:
        window = self.club()
        self.press(window, "Shift+F6")
        page = window.stations.prescribe.widget.drills
        self.click(page, "New drill")
        editor = page.editor
        self.assertFalse(editor.keep.isEnabled())
        for name, words in (
            ("name", "Snatch from a low box"),
            ("dose", "4 sets of 2"),
            ("cue_outer", "Stay over it"),
            ("cue_inner", "Chest up"),
            ("families", "snatch"),
            ("answers", "Wobbly knees"),
            ("phases", "first pull"),
            ("movement", "power snatch"),
        ):
            editor.fields[name].setText(words)
        for text in editor.texts.values():
            text.setPlainText("Because it helps.")
        self.assertIn("no fault", self.shown(page))
        editor.fields["answers"].setText("Loop, early-arms")
        self.assertTrue(editor.keep.isEnabled(), self.shown(page))
        self.click(page, "Keep this drill")
        made = window.desk.own_drills["snatch-from-a-low-box"]
        self.assertEqual(made.answers, ("loop", "early-arms"))
        self.assertTrue(made.catches and made.overhead, "its movement is caught overhead")

    def test_drills_are_handed_out_and_taken_in(self) -> None:
        window = self.club()
        self.press(window, "Shift+F6")
        page, path = window.stations.prescribe.widget.drills, self.room / "drills.json"
        own = window.desk.content.drills["muscle-lift"].model_copy(
            update={"id": "mine", "name": "Mine"}
        )
        window.stations.prescribe.widget.library.keep(own)
        window.desk.shelf.prescribing.keep_complex(
            KeptComplex("Mine own", "power clean + front squat", TODAY)
        )
        self.click(page, "New movement")
        page.movement_editor.name.setText("pause pull")
        QTest.mouseClick(page.movement_editor.chips["floor"], Qt.MouseButton.LeftButton)
        self.click(page.movement_editor, "Keep this movement")
        self.assertIn("YOUR OWN MOVEMENTS", self.shown(page))
        with self.saving(path):
            self.click(page, "Hand out")
        window.stations.prescribe.widget.movements.drop(window.desk.own_movements["pause pull"])
        window.stations.prescribe.widget.library.drop(own)
        strings = window.desk.shelf.prescribing.complexes
        for kept in strings():
            window.desk.shelf.prescribing.drop_complex(kept.id)
        with self.choosing(path):
            self.click(page, "Take in")
        made = window.desk.own_drills["mine"]
        self.assertEqual(made, own.model_copy(update={"racked": True, "overhead": True}))
        self.assertEqual([one.name for one in strings()], ["Mine own"])
        self.assertIn("pause pull", window.desk.own_movements)
        self.press(window, "Ctrl+Z")
        self.assertEqual((strings(), window.desk.own_drills), ([], {}))
        self.assertEqual(window.desk.own_movements, {})
        for text, words in (
            ("{", "JSON"),
            (json.dumps({"schema": "keen-kettle-drills", "schema_version": 1}), "no drill"),
        ):
            path.write_text(text)
            with self.choosing(path):
                self.click(page, "Take in")
            self.assertIn(words, self.shown(window.notice))
            self.assertIn("Nothing was taken in", self.shown(window.notice))


class TestFaultsPage(PrescribeCase):
    def test_a_fault_is_shown_by_degree_beside_the_right_way(self) -> None:
        window = self.club()
        self.seen(window, "bounce-forward")
        self.press(window, "Shift+F7")
        page = window.stations.prescribe.widget.faults
        self.settle()
        self.assertEqual(page.chosen, "bounce-forward", "what was seen of the athlete comes first")
        self.assertIn("Bar struck forward, 100 %", self.shown(page))
        self.assertGreater(page.wrong.at_s, 0.3, "it stands where the fault shows")
        self.assertGreater(page.right.at_s, 0.3)
        page.wrong.stand_in("extension")

        def farthest(degree: int) -> float:
            page.degree.setValue(degree)
            body = page.wrong.body
            assert body is not None
            times = [k / 20 for k in range(int(20 * body.figure.duration_s))]
            return max(float(body.figure.pose(t).load[0]) for t in times)  # type: ignore[index]

        plain, half, none = (farthest(degree) for degree in (10, 5, 0))
        self.assertGreater(plain, half)
        self.assertGreater(half, none)
        self.assertIn("0 %", self.shown(page))
        here = next(key.t_s for key in page.wrong.body.figure.keys if key.name == "extension")  # type: ignore[union-attr]
        self.assertAlmostEqual(page.wrong.at_s, here, 6, "it stays in the position it stood in")
        page.right.stage.turn(40)
        self.assertEqual(page.wrong.stage.yaw_deg, 40)
        self.pick(page.fault, "Tips forward in the dip")
        self.assertEqual(page.lift.currentText(), "jerk")
        self.assertIn("Dip and hold", self.shown(page))

    def test_every_fault_that_is_offered_can_be_shown(self) -> None:
        window = self.club()
        self.press(window, "Shift+F7")
        page = window.stations.prescribe.widget.faults
        for row in range(page.fault.count()):
            self.pick(page.fault, page.fault.itemText(row))
            self.assertIsNotNone(page.wrong.body, page.chosen)
            self.assertGreaterEqual(len(page.wrong._keys), 4, page.chosen)


if __name__ == "__main__":
    unittest.main()
