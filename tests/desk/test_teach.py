"""Teach by clicks and keys: the board, a group's visit, decisions, ladders, choosing."""

import json
import unittest
from datetime import timedelta
from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from keen_kettle.core.teach import Step, Visit
from keen_kettle.desk.state.teach.board_row import state_of_row
from keen_kettle.desk.stations.teach.stage_strip import StageStrip
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import KeptStep, KeptVisit, Shelf, StoreFull, database_file
from keen_kettle.store.teaching import TeachingRecords
from tests.desk.base import TODAY, DeskCase


class TeachCase(DeskCase):
    def on(self, page: str, who: str = "") -> Window:
        self.keep_club()
        window = self.open()
        if who:
            window.desk.choose_who(self.athlete(window, who).id)
        window.open_page(page)
        self.until(lambda: not window.models.teach.waiting)
        self.settle()
        return window

    def states(self, window: Window) -> dict[str, str]:
        return {row.athlete.name: state_of_row(row)[1] for row in window.models.teach.rows()}

    def choose_row(self, window: Window, name: str) -> None:
        visit = window.stations.teach.widget.visit
        for number, row in enumerate(visit.model.rows):
            if row.athlete.name.startswith(name):
                visit.view.selectRow(number)
                visit.view.setFocus()
                self.settle(0.02)
                return
        self.fail(f"{name} is not in the visit")

    def keys(self, window: Window, keys: str) -> None:
        QTest.keyClicks(window.stations.teach.widget.visit.view, keys)
        self.settle(0.02)


class TestBoard(TeachCase):
    def test_it_says_who_is_where_due_stuck_or_has_a_caution(self) -> None:
        window = self.on("board")
        self.assertEqual(
            self.states(window),
            {
                "Talia Brandreef": "step back: safety",
                "Juno Averdale": "gate open: advance",
                "Ines Varga-Lund": "gate open: advance",
                "Rufus Ebbing": "stuck",
                "Kester Moyle": "swap",
                "Bram Fennick": "on the way",
                "Maren Holtby": "on the way",
                "Odile Marsh": "on the way",
                "Pia Sandstrake": "on the way",
                "Tobias Quell": "holds here",
                "Wystan Keel": "holds here",
                "Senna Duncraig": "no ladder yet",
            },
        )
        board = window.stations.teach.widget.board
        self.assertEqual(board.model.index(0, 0).data(), "Talia Brandreef", "most urgent first")
        self.assertIn("pain was flagged", self.shown(board))
        self.assertIn("1 safety", window.strip._buttons["Teach"].text())
        for words, count in (("Due", 2), ("Stuck", 2), ("Caution", 3), ("Everybody", 12)):
            self.click(board, f"{words} {count}")
            self.assertEqual(board.model.rowCount(), count, words)
        QTest.keyClicks(board.filter, "jerk bal")
        self.assertEqual(board.model.rowCount(), 1)

    def test_it_says_what_changed_in_the_last_week(self) -> None:
        window = self.on("board")
        words = self.shown(window.stations.teach.widget.board)
        self.assertIn("Juno Averdale: advance – Deadlift", words)
        self.assertNotIn("Bram Fennick: advance", words)

    def test_a_decision_moves_the_athlete_is_kept_with_its_reason_and_undone(self) -> None:
        window = self.on("board")
        board = window.stations.teach.widget.board
        board.advice.why.setText("saw it myself")
        self.click(board, "Step back to Clean pull")
        talia = self.athlete(window, "Talia").id
        row = window.models.teach.row(talia, "clean-bottom-up")
        assert row is not None
        self.assertEqual((row.stage, row.since), ("clean-pull", TODAY))
        last = window.desk.shelf.teaching.steps(talia)[-1]
        self.assertEqual((last.step.kind, last.why), ("step back", "saw it myself"))
        self.assertIn("Talia Brandreef: step back", self.shown(board))
        self.press(window, "Ctrl+Z")
        row = window.models.teach.row(talia, "clean-bottom-up")
        assert row is not None
        self.assertEqual(row.stage, "jump-shrug")

    def test_somebody_without_a_ladder_is_sent_to_choosing(self) -> None:
        window = self.on("board", "Senna")
        self.click(window.stations.teach.widget.board, "Choose a ladder")
        self.assertEqual(window.stations.teach.widget.tabs.here, "Choose")
        self.assertIn("Ladders for Senna Duncraig", self.shown(window.stations.teach.widget.choose))

    def test_an_empty_board_says_where_to_begin(self) -> None:
        window = self.open()
        window._cautions_read()
        self.press(window, "F5")
        self.assertIn("Enter athletes under Screen", self.shown(window.stations.teach.widget.board))
        self.press(window, "F6")
        self.assertIn(
            "Nobody here stands on a ladder", self.shown(window.stations.teach.widget.visit)
        )
        self.press(window, "F8")
        self.click(window.stations.teach.widget.choose, "Enter athletes")
        self.assertEqual(window.stations.screen.widget.tabs.here, "Athletes")


class TestVisits(TeachCase):
    def test_a_group_is_marked_with_keys_alone(self) -> None:
        window = self.on("visit")
        window.desk.choose_who(None, next(g.id for g in window.desk.groups if "Beach" in g.name))
        self.settle()
        visit = window.stations.teach.widget.visit
        self.assertEqual(len(visit.model.rows), 3)
        for _ in range(3):
            self.keys(window, "a+")
            QTest.keyClick(visit.view, Qt.Key.Key_Down)
        self.assertIn("3 of 3 marked", self.shown(visit))
        for row in visit.model.rows:
            kept = window.models.teach.draft(row).visit
            self.assertEqual((len(kept.met), kept.enjoyment), (kept.asked, 1))

    def test_each_key_does_what_the_line_says(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Bram")
        visit = window.stations.teach.widget.visit

        def now() -> Visit:
            row = visit.chosen()
            assert row is not None
            return window.models.teach.draft(row).visit

        self.keys(window, "13")
        self.assertEqual(now().met, (0, 2))
        self.keys(window, "1")
        self.assertEqual(now().met, (2,))
        self.keys(window, "-")
        self.assertEqual(now().enjoyment, -1)
        self.keys(window, "++")
        self.assertEqual(now().enjoyment, 1)
        self.keys(window, "9")
        self.assertEqual(now().met, (2,), "there is no ninth point")
        self.keys(window, "l")
        self.assertTrue(visit.load.hasFocus())
        QTest.keyClicks(visit.load, "42.5")
        QTest.keyClick(visit.load, Qt.Key.Key_Return)
        self.settle(0.02)
        self.assertEqual(now().load_kg, 42.5)
        self.assertTrue(visit.view.hasFocus(), "back to the group")
        self.keys(window, "p")
        self.assertTrue(now().pain)
        self.assertIn("step back: safety", self.shown(visit))
        self.press(window, "Ctrl+Z")
        self.assertFalse(now().pain)

    def test_faults_are_tagged_with_a_click_watched_ones_first(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Bram")
        visit = window.stations.teach.widget.visit
        self.click(visit, "Slow elbows")
        visit.other_fault.setCurrentIndex(visit.other_fault.findData("knees-in"))
        visit.other_fault.activated.emit(visit.other_fault.currentIndex())
        self.settle()
        row = visit.chosen()
        assert row is not None
        self.assertEqual(window.models.teach.draft(row).visit.faults, ("slow-elbows", "knees-in"))
        self.assertIn("Knees cave", visit.other_fault.itemText(0))
        assert row.advice is not None
        self.assertTrue(row.advice.safety, "knees that cave are flagged for safety")

    def test_the_rule_answers_at_once_and_enter_takes_it(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Juno")
        self.keys(window, "a")
        visit = window.stations.teach.widget.visit
        self.assertIn("on to “Clean pull”", self.shown(visit))
        QTest.keyClick(visit.view, Qt.Key.Key_Return)
        self.settle()
        juno = self.athlete(window, "Juno").id
        kept = window.desk.shelf.teaching.visits(juno)[-1]
        self.assertEqual((kept.advised, kept.decided), ("advance", "advance"))
        self.assertIn("two visits running", kept.reason)
        row = window.models.teach.row(juno, "clean-bottom-up")
        assert row is not None
        self.assertEqual((row.stage, row.visits), ("clean-pull", ()))

    def test_the_coach_decides_otherwise(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Juno")
        card = window.stations.teach.widget.visit.advice
        words = [card.other.itemText(k) for k in range(card.other.count())]
        self.assertIn("Hold here for good", words)
        card.why.setText("school trip")
        card.other.setCurrentIndex(words.index("Hold here for good"))
        card.other.activated.emit(card.other.currentIndex())
        self.settle()
        self.assertEqual(self.states(window)["Juno Averdale"], "holds here")
        self.choose_row(window, "Juno")
        card.other.setCurrentIndex(1)
        self.assertIn("Advance", card.other.currentText())
        card.other.activated.emit(1)
        self.settle()
        self.assertEqual(self.states(window)["Juno Averdale"], "on the way")

    def test_a_swap_leaves_the_old_ladder_and_begins_at_an_equal_stage(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Rufus")
        visit = window.stations.teach.widget.visit
        row = visit.chosen()
        assert row is not None and row.advice is not None and row.advice.to is not None
        ladder, stage = row.advice.to
        visit.advice.take_advice()
        self.settle()
        rufus = self.athlete(window, "Rufus").id
        self.assertIsNone(window.models.teach.row(rufus, "clean-bottom-up"))
        moved = window.models.teach.row(rufus, ladder)
        assert moved is not None
        self.assertEqual(moved.stage, stage)
        self.press(window, "Ctrl+Z")
        self.assertIsNotNone(window.models.teach.row(rufus, "clean-bottom-up"))

    def test_a_visit_is_there_after_closing_and_opening(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Odile")
        self.keys(window, "12")
        window.close()
        again = self.open()
        again.open_page("visit")
        self.settle()
        self.choose_row(again, "Odile")
        row = again.stations.teach.widget.visit.chosen()
        assert row is not None
        self.assertEqual(again.models.teach.draft(row).visit.met, (0, 1))

    def test_what_cannot_be_saved_is_said_and_not_shown_as_kept(self) -> None:
        window = self.on("visit")
        self.choose_row(window, "Odile")
        full = StoreFull("This could not be saved (disk full).")
        with mock.patch.object(TeachingRecords, "keep_visit", side_effect=full):
            self.keys(window, "1")
        self.assertIn("disk full", self.shown(window.notice))
        self.assertIn("0 of 11 marked", self.shown(window.stations.teach.widget.visit))
        self.assertFalse(window.desk.undo_stack.canUndo())


class TestLadders(TeachCase):
    def test_a_stage_shows_its_figure_in_every_position_and_moving(self) -> None:
        window = self.on("ladders")
        page = window.stations.teach.widget.ladders
        page.open_ladder("clean-bottom-up")
        self.settle()
        self.click(page, "10   Clean")
        words = self.shown(page)
        self.assertIn("Three of five singles", words)
        self.assertIn("Rushed first pull", words)
        for name, made in page.figure._keys.items():
            made.click()
            self.assertEqual(page.figure.stage._name, name)
        page.figure._keys["start"].click()
        self.click(page.figure, "Play slowly")
        self.until(lambda: page.figure.at_s > 0.9, what="the figure does not move")
        self.click(page.figure, "Stop")
        at = page.figure.at_s
        self.settle()
        self.assertEqual(page.figure.at_s, at)
        stage = page.figure.stage
        self.click(page.figure, "Turn")
        self.assertEqual(stage.yaw_deg, 35.0)
        QTest.mousePress(stage, Qt.MouseButton.LeftButton, pos=QPoint(60, 80))
        for x in (90, 120, 160):
            QTest.mouseMove(stage, QPoint(x, 80))
            QTest.qWait(10)
        QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=QPoint(160, 80))
        self.assertGreater(stage.yaw_deg, 60.0)
        self.click(page.figure, "Turn")
        self.assertEqual(stage.yaw_deg, 0.0)
        page.figure.stand_in("lowest")
        self.click(page.figure, "Ghost")
        self.assertIsNotNone(stage._ghost_s)

    def test_the_house_school_changes_the_ladder_at_once_and_says_why(self) -> None:
        window = self.on("ladders")
        page = window.stations.teach.widget.ladders
        page.open_ladder("clean-bottom-up")
        self.assertIn(
            "6   High pull from the floor",
            [one.text() for one in page.findChildren(type(page.copy))],
        )
        self.click(page, "House school")
        box = page.school["high-pull"]
        box.setCurrentText("no")
        box.activated.emit(1)
        self.settle()
        self.assertIn("pulling with the arms", self.shown(page))
        self.click(page, "Back to the ladders")
        self.assertIn("1 left out by the school", self.shown(page))
        self.press(window, "Ctrl+Z")
        self.assertNotIn("left out", self.shown(page))

    def copied(self) -> Window:
        window = self.on("ladders")
        page = window.stations.teach.widget.ladders
        page.open_ladder("jerk")
        self.click(page, "Copy")
        self.settle()
        return window

    def test_a_copy_is_edited_stage_by_stage_and_checked(self) -> None:
        window = self.copied()
        editor = window.stations.teach.widget.ladders.editor
        self.assertTrue(editor.isVisible())
        self.assertIn("every gate can open", self.shown(editor))
        editor.movement.setEditText("hang pc ak")
        line = editor.movement.lineEdit()
        assert line is not None
        line.editingFinished.emit()
        editor.movement.setEditText("power clen")
        line.editingFinished.emit()
        self.settle()
        self.assertIn("Did you mean “power clean”", self.shown(editor))
        editor.movement.setEditText("power clean")
        line.editingFinished.emit()
        editor.load.setCurrentText("share")
        editor.load.activated.emit(0)
        editor.high.setValue(110)
        self.settle()
        self.assertIn("never planned above 100 %", self.shown(editor))
        editor.high.setValue(80)
        editor.checks.setPlainText("one point")
        self.settle()
        self.assertIn("Not kept yet", self.shown(editor))
        editor.checks.setPlainText("one point\nanother")
        self.settle()
        editor.watch.setText("loop; Slow elbows; yawning")
        editor.watch.editingFinished.emit()
        self.settle()
        self.assertIn("no fault “yawning”", self.shown(editor))
        own = window.models.teach.teaching.ladders["jerk-own-1"]
        self.assertEqual(own.stage[0].watch, ("loop", "slow-elbows", "yawning"))
        self.assertEqual(own.stage[0].checks, ("one point", "another"))
        self.assertEqual((own.stage[0].movement, own.stage[0].dose.high), ("power clean", 0.8))
        self.assertEqual(
            window.models.teach.teaching.ladders["jerk"].stage[0].movement, "strict press"
        )

    def test_a_new_ladder_begins_with_one_stage_that_can_be_taught(self) -> None:
        window = self.on("ladders")
        self.click(window.stations.teach.widget.ladders, "New")
        self.assertIn(
            "every gate can open", self.shown(window.stations.teach.widget.ladders.editor)
        )
        self.assertEqual(len(window.models.teach.teaching.ladders), 12)
        window.actions_by_id["undo"].trigger()
        window.models.teach.ensure()
        self.assertEqual(len(window.models.teach.teaching.ladders), 11)

    def test_stages_are_moved_added_taken_out_and_brought_back(self) -> None:
        window = self.copied()
        editor = window.stations.teach.widget.ladders.editor

        def order() -> list[str]:
            window.models.teach.ensure()
            return [one.id for one in window.models.teach.teaching.ladders["jerk-own-1"].stage]

        before = order()
        self.click(editor, "Later")
        self.assertEqual(order()[:2], ["footwork", "strict-press"])
        self.click(editor, "Add a stage")
        self.assertIn("strict-press-2", order())
        self.click(editor, "Take out")
        self.assertEqual(len(order()), len(before))
        for _ in range(3):
            window.actions_by_id["undo"].trigger()
        self.assertEqual(order(), before)
        self.click(editor, "Done")
        self.click(window.stations.teach.widget.ladders, "Remove")
        window.models.teach.ensure()
        self.assertNotIn("jerk-own-1", window.models.teach.teaching.ladders)

    def test_a_ladder_goes_out_to_a_file_and_comes_back(self) -> None:
        window = self.on("ladders")
        page = window.stations.teach.widget.ladders
        page.open_ladder("jerk")
        path = self.room / "jerk.json"
        with self.saving(path):
            self.click(page, "Export")
        document = json.loads(path.read_text())
        document["ladder"] |= {"id": "theirs", "name": "Jerk, from a friend"}
        document["ladder"]["stage"][0]["movement"] = "frobnicate"
        path.write_text(json.dumps(document))
        with self.choosing(path):
            self.click(page, "Import")
        self.settle()
        self.assertIn("kept with 1 problem", self.shown(window.notice))
        self.assertIn("“frobnicate” is not a lift", self.shown(page))
        self.assertIn("theirs", window.models.teach.teaching.own)
        with self.saving(self.room / "nowhere" / "x.json"):
            self.click(page, "Export")
        self.assertIn("could not be written", self.shown(window.notice))

    def test_broken_files_are_refused_in_words(self) -> None:
        window = self.on("ladders")
        page = window.stations.teach.widget.ladders
        path = self.room / "ladder.toml"
        for data, expected in (
            (b"\xff\xfe", "not UTF-8"),
            (b"[[", "not valid TOML"),
            (b'schema = "x"', "no ladder file"),
        ):
            path.write_bytes(data)
            with self.choosing(path):
                self.click(page, "Import")
            self.assertIn(expected, self.shown(window.notice))
        with self.choosing(self.room / "gone.toml"):
            self.click(page, "Import")
        self.assertIn("cannot be read", self.shown(window.notice))
        self.assertEqual(len(window.models.teach.teaching.ladders), 11)


class TestChoosing(TeachCase):
    def test_ranked_ladders_with_reasons_and_a_start(self) -> None:
        window = self.on("choose", "Senna")
        page = window.stations.teach.widget.choose
        words = self.shown(page)
        self.assertIn("Ladders for Senna Duncraig", words)
        self.assertIn("to be screened on the way", words)
        self.click(page, "more")
        self.assertIn("Jumps and throws instead", self.shown(page))
        begin = self.find(page, "Begin at")
        self.assertTrue(begin.isEnabled())
        QTest.mouseClick(begin, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertIn("Is on this ladder now", self.shown(page))
        self.assertNotEqual(self.states(window)["Senna Duncraig"], "no ladder yet")
        self.press(window, "Ctrl+Z")
        self.assertEqual(self.states(window)["Senna Duncraig"], "no ladder yet")

    def test_the_place_on_every_ladder_with_dates_and_times(self) -> None:
        window = self.on("choose", "Rufus")
        page = window.stations.teach.widget.choose
        words = self.shown(page)
        self.assertIn("Clean pull since 10 Oct 2026", words)
        self.assertIn("Deadlift 26 days", words)
        self.assertIn("known from other ladders", words)
        strips = page.findChildren(StageStrip)
        self.assertEqual(len([one for one in strips if one.isVisible()]), 11)


class TestLongRecords(TeachCase):
    def test_three_years_of_visits_leave_only_the_newest_on_the_board(self) -> None:
        self.keep_club()
        shelf = Shelf(database_file(self.folder))
        odile = next(one for one in shelf.athletes() if one.name == "Odile Marsh")
        for number in range(120):
            day = TODAY - timedelta(days=400 - number)
            visit = Visit(day, "clean-class-sticks", "slide", (0,), 3)
            shelf.teaching.keep_visit(KeptVisit(odile.id, visit))
        shelf.teaching.take_step(
            KeptStep(odile.id, Step(TODAY, "clean-class-sticks", "turnover", "advance"))
        )
        shelf.close()
        window = self.open()
        window.open_page("board")
        self.settle()
        row = window.models.teach.row(odile.id, "clean-class-sticks")
        assert row is not None
        self.assertEqual((row.stage, row.visits), ("turnover", ()))


if __name__ == "__main__":
    unittest.main()
