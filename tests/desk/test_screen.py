"""Screen by clicks and keys: athletes, class lists, leaving, screening, fit."""

import json
import unittest
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QAbstractItemModelTester, QTest

from keen_kettle.core.teach import fit_grips
from keen_kettle.desk.stations.screen.athletes_page import AthletesPage
from keen_kettle.desk.stations.screen.fit_page import body_of
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import StoreFull
from keen_kettle.store.teaching import TeachingRecords
from tests.desk.base import TODAY, DeskCase
from tests.films import film


class ScreenCase(DeskCase):
    def on(self, page: str, who: str = "") -> Window:
        self.keep_club()
        window = self.open()
        if who:
            window.desk.choose_who(self.athlete(window, who).id)
        window.open_page(page)
        self.settle()
        return window

    def page(self, window: Window) -> AthletesPage:
        return window.stations.screen.widget.athletes


class TestEntering(ScreenCase):
    def enter(self, page: AthletesPage, name: str) -> None:
        page.name.setFocus()
        QTest.keyClicks(page.name, name)
        QTest.keyClick(page.name, Qt.Key.Key_Return)
        self.settle(0.02)

    def test_a_class_is_entered_with_the_keyboard_alone(self) -> None:
        self.keep()
        window = self.open()
        self.press(window, "F2")
        page = self.page(window)
        page.group.setEditText("Tuesday class")
        for number in range(20):
            self.enter(page, f"Pupil {number:02}")
            self.assertTrue(page.name.hasFocus(), "the next name is waited for")
        self.assertEqual(len(window.desk.athletes), 21)
        self.assertEqual(len(window.desk.groups[0].athletes), 20)
        self.assertEqual(page.table.shown.rowCount(), 21)
        page.table.view.setFocus()
        self.press(window, "Ctrl+Z")
        self.assertEqual(len(window.desk.athletes), 20)
        self.press(window, "Ctrl+Y")
        self.assertEqual(len(window.desk.groups[0].athletes), 20)

    def test_what_is_known_is_entered_in_the_same_line(self) -> None:
        self.keep()
        window = self.open()
        self.press(window, "F2")
        page = self.page(window)
        page.born.setValue(2009)
        page.tall.setValue(171)
        self.enter(page, "  Zoe   Ash ")
        kept = self.athlete(window, "Zoe")
        self.assertEqual((kept.name, kept.birth_year, kept.stature_m), ("Zoe Ash", 2009, 1.71))

    def test_a_name_is_needed_and_must_tell_apart(self) -> None:
        self.keep()
        window = self.open()
        self.press(window, "F2")
        page = self.page(window)
        self.click(page, "Enter")
        self.assertIn("a name first", self.shown(window.notice))
        self.enter(page, "wil dane")
        self.assertIn("already", self.shown(window.notice))
        self.assertEqual(len(window.desk.athletes), 1)
        self.assertEqual(page.name.text(), "wil dane", "what was typed is not lost")

    def test_two_groups_of_one_name_become_one(self) -> None:
        window = self.on("athletes", "Senna")
        form = self.page(window).form
        QTest.keyClicks(form.new_group, "MORNING adults")
        QTest.keyClick(form.new_group, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(len(window.desk.groups), 3)
        QTest.keyClicks(form.new_group, "New moon")
        QTest.keyClick(form.new_group, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(len(window.desk.groups), 4)
        group = next(one for one in window.desk.groups if one.name == "New moon")
        self.assertEqual(group.athletes, {self.athlete(window, "Senna").id})

    def test_a_group_is_renamed_removed_and_brought_back(self) -> None:
        window = self.on("athletes")
        boats = next(one for one in window.desk.groups if one.name == "Rescue boats")
        window.desk.choose_who(None, boats.id)
        self.settle()
        page = self.page(window)
        for name, expected in (("morning ADULTS", "Rescue boats"), ("Boats", "Boats")):
            page.group_name.setText(name)
            page.group_name.editingFinished.emit()
            self.settle()
            chosen = window.desk.chosen_group
            assert chosen is not None
            self.assertEqual(chosen.name, expected)
        self.assertIn("a group called morning ADULTS already", self.shown(window.notice))
        self.click(page, "Remove group")
        self.assertEqual(len(window.desk.groups), 2)
        self.assertEqual(len(window.desk.athletes), 12)
        window.actions_by_id["undo"].trigger()
        self.assertEqual({one.name: len(one.athletes) for one in window.desk.groups}["Boats"], 6)


class TestFacts(ScreenCase):
    def test_changed_facts_are_kept_at_once_and_can_be_undone(self) -> None:
        window = self.on("athletes", "Senna")
        form = self.page(window).form
        form.height_cm.setValue(174)
        form.cautions["back"].click()
        form.aim.setCurrentText("weightlifting")
        form.aim.activated.emit(0)
        form.equipment["ball"].click()
        form.notes.setPlainText("left-handed")
        self.until(lambda: self.athlete(window, "Senna").notes == "left-handed")
        kept = self.athlete(window, "Senna")
        self.assertEqual((kept.stature_m, kept.cautions), (1.74, {"back"}))
        self.assertIn("ball", kept.equipment)
        for _ in range(5):
            window.actions_by_id["undo"].trigger()
        self.assertEqual(self.athlete(window, "Senna").stature_m, 1.72)
        self.settle()
        self.assertEqual(form.height_cm.value(), 172)
        self.assertFalse(form.cautions["back"].isChecked())

    def test_a_name_cannot_be_taken_away_or_taken_twice(self) -> None:
        window = self.on("athletes", "Senna")
        form = self.page(window).form
        for name in ("", "Kester Moyle"):
            form.name.setText(name)
            form.name.editingFinished.emit()
            self.assertEqual(form.name.text(), "Senna Duncraig")
        self.assertIn("Kester Moyle already", self.shown(window.notice))

    def test_minors_ask_for_a_guardians_consent(self) -> None:
        window = self.on("athletes", "Odile")
        form = self.page(window).form
        self.assertTrue(form.consent.isVisible())
        window.desk.choose_who(self.athlete(window, "Bram").id)
        self.settle()
        self.assertFalse(form.consent.isVisible())

    def test_a_school_of_their_own_wins_over_the_houses(self) -> None:
        window = self.on("athletes", "Bram")
        form = self.page(window).form
        form._school_fold.click()
        box = form.school["high-pull"]
        box.setCurrentText("no")
        box.activated.emit(box.currentIndex())
        self.settle()
        bram = self.athlete(window, "Bram")
        self.assertEqual(bram.school, {"high-pull": "no"})
        stages = [one.id for one in window.models.teach.stages("clean-bottom-up", bram)]
        self.assertNotIn("high-pull", stages)
        self.assertIn(
            "high-pull", [one.id for one in window.models.teach.stages("clean-bottom-up")]
        )

    def test_a_photo_is_kept_small_and_what_is_no_picture_is_refused(self) -> None:
        window = self.on("athletes", "Bram")
        form = self.page(window).form
        good, bad = self.room / "face.png", self.room / "face.jpg"
        QImage(900, 700, QImage.Format.Format_RGB32).save(str(good))
        bad.write_bytes(b"no picture")
        with self.choosing(bad, good):
            self.click(form, "Photo")
            self.assertIn("no picture that can be read", self.shown(window.notice))
            self.click(form, "Photo")
        photo = self.athlete(window, "Bram").photo
        assert photo is not None
        self.assertEqual(QImage.fromData(photo).width(), 240)
        self.settle()
        self.assertTrue(form.photo.isVisible())

    def test_choosing_a_row_chooses_who_and_the_filter_narrows(self) -> None:
        window = self.on("athletes")
        table = self.page(window).table
        QTest.keyClicks(table.filter, "shoulder")
        self.assertEqual(table.shown.rowCount(), 1)
        table.view.selectRow(0)
        self.settle()
        self.assertEqual(window.who.currentText(), "Pia Sandstrake")
        self.assertEqual(self.page(window).form.title.text(), "Pia Sandstrake")

    def test_a_group_is_a_who(self) -> None:
        window = self.on("athletes")
        place = window.who.findText("Rescue boats (6)")
        window.who.setCurrentIndex(place)
        window.who.activated.emit(place)
        self.settle()
        self.assertEqual(self.page(window).table.shown.rowCount(), 6)
        self.assertEqual(window.who.currentText(), "Rescue boats (6)")
        self.assertEqual(len(window.desk.people()), 6)


class TestLeaving(ScreenCase):
    def test_an_archived_athlete_leaves_the_boards_and_comes_back(self) -> None:
        window = self.on("athletes", "Rufus")
        page = self.page(window)
        self.click(page.form, "Archive")
        self.settle()
        self.assertEqual(len(window.models.teach.rows()), 0, "the who is this athlete, who is away")
        window.desk.choose_who(None)
        self.assertEqual(len(window.desk.active), 11)
        self.assertEqual(window.who.findText("Rufus Ebbing"), -1)
        page.archived.click()
        self.settle()
        page.table.view.selectRow(0)
        self.settle()
        self.click(page.form, "Bring back")
        self.assertEqual(len(window.desk.active), 12)

    def test_deleting_asks_writes_everything_and_then_forgets(self) -> None:
        self.keep(film("brief"), name="Wil Dane")
        window = self.open()
        wil = window.desk.athletes[0]
        window.desk.choose_who(wil.id)
        self.press(window, "F2")
        page = self.page(window)
        self.click(page.form, "Delete")
        self.assertIn("with 1 clip, 0 visits", self.shown(page.question))
        self.click(page.question, "Keep")
        self.assertFalse(page.question.isVisible())
        self.click(page.form, "Delete")
        with self.saving(Path("")):
            self.click(page.question, "Export, then delete")
        self.assertEqual(len(window.desk.athletes), 1, "no file, no deletion")
        path = self.room / "wil.json"
        with self.saving(path):
            self.click(page.question, "Export, then delete")
        self.assertEqual((window.desk.athletes, window.desk.clips), ([], []))
        kept = json.loads(path.read_text())
        self.assertEqual((kept["athlete"]["name"], len(kept["clips"])), ("Wil Dane", 1))
        self.assertFalse(window.desk.undo_stack.canUndo())
        self.assertTrue(film("brief").path.exists(), "the film stays unless asked otherwise")

    def test_films_go_only_when_asked_and_a_failed_export_deletes_nothing(self) -> None:
        place = self.room / "mine.mp4"
        place.write_bytes(film("brief").path.read_bytes())
        self.keep(film("brief"), path=place)
        window = self.open()
        window.desk.choose_who(window.desk.athletes[0].id)
        self.press(window, "F2")
        page = self.page(window)
        self.click(page.form, "Delete")
        page.films.setChecked(True)
        with self.saving(self.room / "nowhere" / "x.json"):
            self.click(page.question, "Export, then delete")
        self.assertIn("Nothing was deleted", self.shown(window.notice))
        self.assertTrue(place.exists())
        with self.saving(self.room / "x.json"):
            self.click(page.question, "Export, then delete")
        self.assertFalse(place.exists())


class TestClassLists(ScreenCase):
    def write(self, text: str) -> Path:
        path = self.room / "class.csv"
        path.write_text(text, encoding="utf-8")
        return path

    def test_the_preview_says_what_is_taken_and_nothing_is_kept_before(self) -> None:
        window = self.on("athletes")
        page = self.page(window)
        text = (
            "name,born,height,group,shoe\nAda Brook,2008,168,Juniors,40\n"
            "Bram Fennick,1990,,,\nCal Dorn,soon,,Juniors,\n"
        )
        with self.choosing(self.write(text)):
            self.click(page, "Take a class list")
        words = self.shown(page.roster)
        self.assertIn("2 to take, 1 not", words)
        self.assertIn("not taken: shoe", words)
        model = page.roster.model
        last = [model.index(k, 6).data() for k in range(3)]
        self.assertEqual(last[0], "taken")
        self.assertIn("kept already", last[1])
        self.assertIn("taken without born “soon”", last[2])
        self.assertEqual(len(window.desk.athletes), 12)
        self.click(page.roster, "Take these 2 athletes")
        self.assertEqual(len(window.desk.athletes), 14)
        self.assertIn("Juniors", [one.name for one in window.desk.groups])
        self.press(window, "Ctrl+Z")
        self.assertEqual(len(window.desk.athletes), 12)

    def test_a_file_that_is_no_list_is_refused_in_words(self) -> None:
        window = self.on("athletes")
        page = self.page(window)
        with self.choosing(self.write("height\n170\n")):
            self.click(page, "Take a class list")
        self.assertIn("No column is called “name”", self.shown(window.notice))
        with self.choosing(self.room / "gone.csv"):
            self.click(page, "Take a class list")
        self.assertIn("cannot be read", self.shown(window.notice))
        self.assertFalse(page.roster.isVisible())

    def test_ten_thousand_rows_are_shown_without_delay_and_can_be_left(self) -> None:
        window = self.on("athletes")
        page = self.page(window)
        rows = "".join(f"Row {number}\n" for number in range(10_000))
        with self.choosing(self.write("name\n" + rows)):
            self.click(page, "Take a class list")
        self.assertEqual(page.roster.model.rowCount(), 10_000)
        self.assertIn("2000 to take, 8000 not", self.shown(page.roster))
        self.click(page.roster, "Take nothing")
        self.assertEqual(len(window.desk.athletes), 12)


class TestScreening(ScreenCase):
    def test_a_check_is_set_with_a_click_dated_and_undone(self) -> None:
        window = self.on("screening", "Senna")
        page = window.stations.screen.widget.screening
        page._states["front-rack"]["not yet"].click()
        self.settle()
        words = self.shown(page)
        self.assertIn("Do: Strap rack", words)
        self.assertIn("0 of 9 passed", words)
        page._states["front-rack"]["pass"].click()
        self.settle()
        self.assertIn("1 of 9 passed", self.shown(page))
        senna = self.athlete(window, "Senna").id
        kept = window.desk.shelf.teaching.screenings(senna)
        self.assertEqual([(one.state, one.on) for one in kept], [("pass", TODAY)])
        self.press(window, "Ctrl+Z")
        self.assertTrue(page._states["front-rack"]["not yet"].isChecked())
        self.press(window, "Ctrl+Z")
        self.assertTrue(page._states["front-rack"]["not tested"].isChecked())

    def test_keys_set_the_check_with_the_focus_and_the_history_is_shown(self) -> None:
        window = self.on("screening", "Senna")
        page = window.stations.screen.widget.screening
        made = page._states["bailing"]["not tested"]
        made.setFocus()
        QTest.keyClick(made, Qt.Key.Key_P)
        self.settle()
        self.assertTrue(page._states["bailing"]["pass"].isChecked())
        self.click(page, "Bailing practised")
        self.assertIn("Practise before any load", self.shown(page))

    def test_results_are_facts_that_the_rule_reads(self) -> None:
        window = self.on("screening", "Juno")
        juno = self.athlete(window, "Juno").id
        self.until(lambda: not window.models.teach.waiting)
        row = window.models.teach.row(juno, "clean-bottom-up")
        assert row is not None and row.advice is not None
        self.assertEqual(row.advice.kind, "advance")
        page = window.stations.screen.widget.screening
        page._states["start-position"]["not yet"].click()
        self.settle()
        row = window.models.teach.row(juno, "clean-bottom-up")
        assert row is not None and row.advice is not None
        self.assertIn("Start position", row.advice.reason)

    def test_without_an_athlete_everybody_is_one_click_away(self) -> None:
        window = self.on("screening")
        self.click(window.stations.screen.widget.screening, "Kester Moyle")
        self.assertIn(
            "Screening of Kester Moyle", self.shown(window.stations.screen.widget.screening)
        )

    def test_what_cannot_be_saved_is_said_and_nothing_changes(self) -> None:
        window = self.on("screening", "Senna")
        page = window.stations.screen.widget.screening
        with mock.patch.object(
            TeachingRecords, "screen", side_effect=StoreFull("The disk is full.")
        ):
            page._states["front-rack"]["pass"].click()
            self.settle()
        self.assertIn("The disk is full", self.shown(window.notice))
        self.assertTrue(page._states["front-rack"]["not tested"].isChecked())
        self.assertFalse(window.desk.undo_stack.canUndo())


class TestFit(ScreenCase):
    def test_the_numbers_are_the_geometrys_and_a_measured_length_changes_them(self) -> None:
        window = self.on("fit", "Kester")
        page = window.stations.screen.widget.fit
        body = body_of(self.athlete(window, "Kester"))
        assert body is not None
        fit = fit_grips(body)
        assert fit.snatch_m is not None
        before = f"{100 * fit.snatch_m:.0f} ± {100 * fit.snatch_sigma_m:.0f} cm"
        self.assertIn(before, self.shown(page))
        page.lengths["arm"].setValue(80)
        self.settle()
        self.assertNotIn(before, self.shown(page))
        self.assertEqual(self.athlete(window, "Kester").lengths_m, {"arm": 0.8})
        self.assertIn("not measured: shoulder breadth", self.shown(page))

    def test_the_reckoned_width_is_confirmed_beside_it(self) -> None:
        window = self.on("fit", "Bram")
        page = window.stations.screen.widget.fit
        self.click(page, "Take")
        self.assertGreater(self.athlete(window, "Bram").grips_m["snatch"], 1.0)
        page.own["clean"].setValue(52)
        self.assertEqual(self.athlete(window, "Bram").grips_m["clean"], 0.52)
        self.press(window, "Ctrl+Z")
        self.assertNotIn("clean", self.athlete(window, "Bram").grips_m)

    def test_who_cannot_hold_the_floor_start_gets_the_bar_raised(self) -> None:
        window = self.on("fit", "Kester")
        page = window.stations.screen.widget.fit
        self.assertEqual(page.start.currentText(), "below knee")
        self.assertIn("29 cm of blocks or plates", self.shown(page))
        window.desk.choose_who(self.athlete(window, "Bram").id)
        self.settle()
        page.start.setCurrentText("floor")
        page.plates.setCurrentText("no plates")
        page.plates.activated.emit(2)
        self.assertIn("20 cm of blocks", self.shown(page))

    def test_without_a_height_it_says_what_is_missing(self) -> None:
        window = self.on("athletes", "Bram")
        self.page(window).form.height_cm.setValue(0)
        window.open_page("fit")
        self.settle()
        self.assertIn("Enter the height", self.shown(window.stations.screen.widget.fit))


class TestModels(ScreenCase):
    def test_the_tables_keep_qts_rules(self) -> None:
        window = self.on("athletes")
        mode = QAbstractItemModelTester.FailureReportingMode.Fatal
        models = (
            self.page(window).table.model,
            self.page(window).roster.model,
            window.stations.teach.widget.board.model,
            window.stations.teach.widget.visit.model,
        )
        testers = [QAbstractItemModelTester(model, mode) for model in models]
        for page in ("board", "visit", "athletes"):
            window.open_page(page)
            self.settle()
        window.desk.choose_who(self.athlete(window, "Juno").id)
        window.desk.reload()
        self.settle()
        self.assertEqual(len(testers), 4)


if __name__ == "__main__":
    unittest.main()
