"""Who, the lists, athletes, plates and the record, by clicks and typing."""

import unittest
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QAbstractItemModelTester, QTest

from keen_kettle.core.errors import KettleError
from keen_kettle.core.plan import PlateSet
from keen_kettle.desk.kit.theme import theme
from keen_kettle.desk.stations.record.plates_card import pairs_words, parse_pairs
from keen_kettle.store import NewClip, Prescribed, Shelf, database_file
from tests.desk.base import TODAY, DeskCase
from tests.desk.models import ModelCase
from tests.films import film


def a_corrective(athlete: int, review_on: date, name: str = "Muscle snatch") -> Prescribed:
    return Prescribed(
        athlete,
        None,
        "loop",
        "muscle-lift",
        "snatch",
        name,
        30.0,
        "3 sets of 5",
        "isolates it",
        TODAY,
        review_on,
    )


class TestFirstStart(DeskCase):
    def test_the_cautions_come_first_and_only_once(self) -> None:
        window = self.open()
        words = self.shown(window)
        self.assertIn("Before you begin", words)
        self.assertIn("no medical device", words)
        self.click(window, "I have read this")
        self.assertIn("No clips yet", self.shown(window))
        window.close()
        again = self.open()
        self.assertNotIn("Before you begin", self.shown(again))
        again.actions_by_id["cautions"].trigger()
        self.settle()
        self.assertIn("Before you begin", self.shown(again))

    def test_empty_stations_teach_and_offer_the_way_on(self) -> None:
        self.keep()
        window = self.open()
        self.press(window, "Ctrl+4")
        self.assertIn("No film is open", self.shown(window))
        self.press(window, "Ctrl+5")
        self.assertIn("No finding to answer yet", self.shown(window))
        self.press(window, "Ctrl+6")
        self.assertIn("No correctives are running", self.shown(window))
        self.press(window, "Ctrl+5")
        self.click(window.stations.prescribe.widget, "Go to Film")
        self.assertEqual(window.desk.station, "Film")


class TestPlates(DeskCase):
    def test_plates_are_written_as_coaches_say_them(self) -> None:
        self.assertEqual(
            parse_pairs("20 × 2, 2.5, 15x1,  5*3"), ((20.0, 2), (15.0, 1), (5.0, 3), (2.5, 1))
        )
        self.assertEqual(parse_pairs(""), ())
        plates = PlateSet()
        self.assertEqual(parse_pairs(pairs_words(plates)), plates.pairs)
        for wrong in ("twenty", "20 × 0", "20 × 99", "-5", "0", "80", "20;10"):
            with self.assertRaisesRegex(KettleError, "write for example"):
                parse_pairs(wrong)

    def test_wrong_plates_are_said_beside_the_field_and_nothing_is_lost(self) -> None:
        self.keep()
        window = self.open()
        self.press(window, "Ctrl+6")
        plates = window.stations.record.widget.plates
        plates.pairs.setFocus()
        plates.pairs.setText("20, heavy ones")
        QTest.keyClick(plates.pairs, Qt.Key.Key_Return)
        self.settle()
        self.assertIn("heavy ones", plates.wrong.text())
        self.assertEqual(window.desk.plates, PlateSet())
        self.assertEqual(plates.pairs.text(), "20, heavy ones")
        plates.pairs.setText("20, 10")
        QTest.keyClick(plates.pairs, Qt.Key.Key_Return)
        self.settle()
        self.assertFalse(plates.wrong.isVisible())
        self.assertEqual(window.desk.plates.pairs, ((20.0, 1), (10.0, 1)))


class TestRecord(DeskCase):
    def test_due_correctives_are_named_and_one_can_be_withdrawn_and_brought_back(self) -> None:
        self.keep()
        shelf = Shelf(database_file(self.folder))
        athlete = shelf.athletes()[0].id
        for days, name in ((7, "Later"), (0, "Now"), (-3, "Late")):
            shelf.prescribing.take_corrective(
                a_corrective(athlete, date.fromordinal(TODAY.toordinal() + days), name)
            )
        shelf.close()
        window = self.open()
        self.press(window, "Ctrl+6")
        model = window.stations.record.widget.model
        due = {model.index(k, 1).data(): model.index(k, 5).data() for k in range(3)}
        self.assertEqual(due, {"Later": "in 7 days", "Now": "due today", "Late": "3 days overdue"})
        self.assertIn("2 due", " ".join(made.text() for made in window.strip._buttons.values()))
        window.stations.record.widget.table.selectRow(0)
        self.click(window.stations.record.widget, "Withdraw the chosen one")
        self.assertEqual(model.rowCount(), 2)
        window.actions_by_id["undo"].trigger()
        self.assertEqual(model.rowCount(), 3)


class TestLists(DeskCase):
    def test_the_who_and_the_filter_choose_the_clips(self) -> None:
        self.keep(film("brief"), name="Ann Bell")
        self.keep(film("hang"), lift="hang power clean", name="Cal Dorn")
        window = self.open()
        shown = window.stations.film.widget.shown
        self.assertEqual(shown.rowCount(), 2)
        QTest.keyClicks(window.stations.film.widget.search, "HANG")
        self.assertEqual(shown.rowCount(), 1)
        window.stations.film.widget.search.clear()
        window.who.setCurrentIndex(window.who.findText("Ann Bell"))
        window.who.activated.emit(window.who.currentIndex())
        self.settle()
        self.assertEqual(shown.rowCount(), 1)
        self.assertIn("Clips of Ann Bell", self.shown(window.stations.film.widget))
        self.assertIn("1 clip", window.strip._buttons["Film"].text())
        window.desk.choose_who(None)
        self.assertEqual(shown.rowCount(), 2)

    def test_the_models_keep_qts_rules(self) -> None:
        self.keep(film("brief"))
        window = self.open()
        mode = QAbstractItemModelTester.FailureReportingMode.Fatal
        models = (
            window.stations.film.widget.model,
            window.stations.record.widget.model,
            window.stations.review.widget.say.measures.model,
        )
        testers = [QAbstractItemModelTester(model, mode) for model in models]
        window.desk.reload()
        shelf = window.desk.shelf
        shelf.prescribing.take_corrective(a_corrective(window.desk.athletes[0].id, TODAY))
        window.desk.reload()
        window.desk.choose_who(window.desk.athletes[0].id)
        self.assertEqual(len(testers), 3)
        self.assertEqual(window.stations.record.widget.model.rowCount(), 1)


class TestReading(ModelCase):
    """Only what an act has touched is read again."""

    def test_changed_new_and_removed_clips_are_read_one_by_one(self) -> None:
        first, second = self.keep("brief"), self.keep("hang")
        desk = self.models().desk
        stays = next(clip for clip in desk.clips if clip.id == second)
        with mock.patch.object(desk.shelf, "clips", wraps=desk.shelf.clips) as read:
            desk.change_clips("set a mass", {first: {"mass_kg": 88.0}})
            desk.undo_stack.undo()
            desk.undo_stack.redo()
        self.assertEqual([list(call.args[0]) for call in read.call_args_list], 3 * [[first]])
        self.assertEqual({one.id: one.mass_kg for one in desk.clips}, {first: 88.0, second: 60.0})
        self.assertIs(next(one for one in desk.clips if one.id == second), stays)
        desk.remove_clip(next(one for one in desk.clips if one.id == first))
        self.assertEqual([one.id for one in desk.clips], [second])
        desk.undo_stack.undo()
        self.assertEqual({one.id for one in desk.clips}, {first, second})
        self.assertEqual(desk.clips, desk.shelf.clips(), "in the same order, too")

    def test_an_athletes_facts_do_not_read_clips_and_reach_the_open_one(self) -> None:
        number = self.keep("brief")
        models = self.models()
        self.open(models, number)
        desk, review = models.desk, models.review
        before = review.answer
        with mock.patch.object(desk.shelf, "clips") as read:
            desk.change_athlete(replace(desk.athletes[0], stature_m=1.62))
        read.assert_not_called()
        self.until(lambda: review.answer is not None and review.answer is not before)
        assert review.settings().stature_m is not None
        self.assertEqual(review.settings().stature_m, 1.62)

    def test_a_list_leaves_pictures_where_they_are(self) -> None:
        desk = self.models().desk
        new = NewClip(Path("/films/a.mp4"), "aa", 9, 0.3, TODAY, thumbnail=b"a picture")
        number = desk.shelf.add_clip(new)
        self.assertEqual([one.thumbnail for one in desk.shelf.clips()], [b""])
        self.assertEqual(desk.shelf.thumbnail(number), b"a picture")
        desk.reread_clips([number])
        desk.remove_clip(desk.clips[0])
        desk.undo_stack.undo()
        self.assertEqual(desk.shelf.thumbnail(number), b"a picture", "it comes back whole")


class TestWindow(DeskCase):
    def test_the_window_opens_where_and_how_it_was_left(self) -> None:
        self.keep()
        window = self.open()
        window.actions_by_id["daylight"].trigger()
        self.settle()
        window.close()
        self.assertTrue(window._settings.contains("geometry"))
        again = self.open()
        self.assertTrue(again.actions_by_id["daylight"].isChecked())
        self.assertEqual(theme().name, "daylight")
        again.actions_by_id["daylight"].trigger()

    def test_the_keys_page_names_every_action(self) -> None:
        self.keep()
        window = self.open()
        self.press(window, "F1")
        words = self.shown(window.keys)
        for action in window.actions_known.known:
            self.assertIn(action.words, words)
        self.click(window.keys, "Back")
        self.assertTrue(window.stations.film.widget.isVisible())


if __name__ == "__main__":
    unittest.main()
