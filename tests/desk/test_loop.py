"""The whole loop by hand: open a clip, mark, track, read, jump, take the corrective, come back."""

import csv
import json
import unittest
from dataclasses import replace
from datetime import date
from functools import partial
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from keen_kettle.core.track import State
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.view.tools import mark_shape
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import StoreFull
from tests.desk.base import DeskCase
from tests.films import film, tracked


def stands_at(review: ReviewModel, number: int) -> bool:
    """Whether the film shows this frame and nothing is on its way."""
    return review.frame == number and not review._frames.waiting


class LoopCase(DeskCase):
    """A window with one clip, marked and tracked."""

    def reviewed(self) -> Window:
        window = self.marked(film("brief"))
        # The test run tracks each film once; the window's own tracking is driven in TestTheLoop.
        clip = window.models.review.clip
        assert clip is not None
        window.desk.shelf.keep_track(clip, tracked("brief"))
        window.desk.reload()
        window.models.review._load_track()
        self.until(lambda: window.models.review.answer is not None)
        self.settle()
        return window


class TestTheLoop(DeskCase):
    def test_from_the_list_to_the_record_and_back_after_closing(self) -> None:
        known = film("brief")
        self.keep(known)
        window = self.open()
        self.assertIn("waits", window.stations.film.widget.model.index(0).data())
        self.open_clip(window)
        say = window.stations.review.widget.say
        self.assertIn("Mark the plate", self.shown(say))
        self.drag_mark(window, known)
        self.until(lambda: window.models.review.rim is not None)
        self.settle()
        self.assertRegex(
            self.shown(say), r"Rim found: \d+ px across, \d\.\d mm a pixel, ±\s\d\s%\."
        )
        rim = window.models.review.rim
        assert rim is not None
        unclear = replace(rim, sigma_px=0.05 * max(rim.axes_px))
        for shown, words in (
            (unclear, r"not clear here: .* ±\s5\s%\. It is read again"),
            (rim, "Rim found:"),
        ):
            window.models.review.rim = shown
            window.models.review.mark_changed.emit()
            self.settle()
            self.assertRegex(self.shown(say), words)
        self.press(window, "T")
        self.assertIn("Tracking the bar", self.shown(say))
        self.until(lambda: window.models.review.answer is not None, 120, "tracking did not end")
        self.settle()
        self.read_the_answer(window)
        self.stand_at_the_finding(window)
        self.until(lambda: "THE ONE THING" in self.shown(say))
        self.click(say, "Take this corrective")
        self.assertIn("In the record. New clip due 07 Dec", self.shown(say))
        self.press(window, "Ctrl+6")
        table = window.stations.record.widget.model
        row = [str(table.index(0, column).data()) for column in range(6)]
        self.assertEqual(row[0], "Wil Dane")
        self.assertEqual(row[3:], ["Bar struck forward", "23 Nov", "in 14 days"])
        window.close()
        self.come_back(row)

    def stand_at_the_finding(self, window: Window) -> None:
        """After tracking, the film stands at the frame that shows the chief finding."""
        answer = window.models.review.answer
        assert answer is not None and answer.diagnosis is not None
        wanted = answer.diagnosis.chief.evidence[0].frame
        self.until(partial(stands_at, window.models.review, wanted))

    def read_the_answer(self, window: Window) -> None:
        say = window.stations.review.widget.say
        self.until(lambda: "THE ONE THING" in self.shown(say), what="the card says nothing")
        words = self.shown(say)
        for part in ("WHAT WAS RIGHT", "THE ONE THING", "WHY", "DO"):
            self.assertIn(part, words)
        self.assertLess(words.index("WHAT WAS RIGHT"), words.index("THE ONE THING"))
        self.assertIn("Brush the bar up along the body", words)
        self.assertIn("up to 6.0 cm is normal", words)
        self.assertIn("of the best clean", words)
        answer = window.models.review.answer
        assert answer is not None and answer.diagnosis is not None
        bump = answer.measures["forward_bump"].value
        assert bump is not None
        self.assertIn(f"goes {100 * bump:.1f} cm forward", words)

    def come_back(self, row: list[str]) -> None:
        """A new window on the same records shows the same."""
        window = self.open()
        self.assertIn("reviewed", window.stations.film.widget.model.index(0).data())
        self.assertEqual(
            [str(window.stations.record.widget.model.index(0, k).data()) for k in range(6)], row
        )
        self.open_clip(window)
        self.until(lambda: window.models.review.answer is not None)
        self.settle()
        self.read_the_answer(window)
        self.assertIn("In the record", self.shown(window.stations.review.widget.say))
        track = window.models.review.track
        assert track is not None
        self.assertEqual(track.state[0], State.BY_HAND)


class TestReview(LoopCase):
    def test_evidence_and_key_positions_go_to_their_frame(self) -> None:
        window = self.reviewed()
        review = window.models.review
        answer = review.answer
        assert answer is not None and answer.diagnosis is not None and review.index is not None
        wanted = answer.diagnosis.chief.evidence[0].frame
        self.click(window.stations.review.widget.say, f"{review.index.t_s[wanted]:.2f} s")
        self.until(lambda: review.frame == wanted)
        positions = window.stations.review.widget.positions
        for name in ("lift_off", "peak_height", "lowest"):
            number = [one.name for one in positions.positions].index(name)
            spot = positions.boxes()[number].center().toPoint()
            QTest.mouseClick(positions, Qt.MouseButton.LeftButton, pos=spot)
            self.until(partial(stands_at, review, answer.events[name].frame))
            self.settle()
            self.assertIn(
                f"frame {review.frame} of", window.stations.review.widget.transport.where.text()
            )

    def test_the_play_head_runs_with_the_film_and_a_click_on_the_time_line_goes_there(self) -> None:
        window = self.reviewed()
        review, rhythm = window.models.review, window.stations.review.widget.rhythm
        assert review.index is not None
        review.go_to_frame(60)
        self.until(lambda: review.frame == 60 and not review._frames.waiting)
        assert rhythm.head_x is not None
        self.assertAlmostEqual(rhythm.axes.time(rhythm.head_x), float(review.index.t_s[60]))
        for share in (0.3, 0.8):
            x = rhythm.axes.box.left() + share * rhythm.axes.box.width()
            QTest.mouseClick(rhythm, Qt.MouseButton.LeftButton, pos=QPoint(round(x), 80))
            wanted = review.index.frame_at(rhythm.axes.time(round(x)))
            self.until(partial(stands_at, review, wanted))
        self.press(window, "W")
        self.assertEqual((rhythm.axes.begin_s, rhythm.axes.end_s), (0.0, review.index.duration_s))

    def test_all_measures_are_listed_with_units_and_what_is_missing_says_why(self) -> None:
        window = self.reviewed()
        self.click(window.stations.review.widget.say, "All measures")
        model = window.stations.review.widget.say.measures.model
        rows = {
            model.index(k, 0).data(): (
                model.index(k, 1).data(),
                model.index(k, 1).data(Qt.ItemDataRole.ToolTipRole),
            )
            for k in range(model.rowCount())
        }
        self.assertRegex(rows["Peak velocity"][0], r"^1\.\d\d ± 0\.\d\d\sm/s$")
        self.assertRegex(rows["Peak power on the bar"][0], r"W$")
        assert window.models.review.clip is not None
        window.models.review.change_clip("no mass", mass_kg=None)
        self.until(
            lambda: (
                window.models.review.answer
                and window.models.review.answer.measures["peak_power"].value is None
            )
        )
        self.settle()
        self.assertEqual(model.index(list(rows).index("Peak power on the bar"), 1).data(), "–")
        tip = model.index(list(rows).index("Peak power on the bar"), 1).data(
            Qt.ItemDataRole.ToolTipRole
        )
        self.assertIn("mass is not given", tip)

    def test_settings_change_the_numbers_at_once_and_can_be_undone(self) -> None:
        window = self.reviewed()
        review, fields = window.models.review, window.stations.review.widget.say.setup

        def rise() -> float:
            assert review.answer is not None
            return review.answer.measures["rise"].value or 0.0

        before = rise()
        fields.diameter.setValue(400)
        self.until(lambda: abs(rise() - before * 400 / 450) < 1e-6)
        self.press(window, "Ctrl+Z")
        self.until(lambda: abs(rise() - before) < 1e-9)
        self.assertEqual(fields.diameter.value(), 450)
        self.press(window, "Ctrl+Shift+Z")
        self.until(lambda: abs(rise() - before * 400 / 450) < 1e-6)

    def test_the_other_facing_turns_forward_into_rearward(self) -> None:
        window = self.reviewed()
        review = window.models.review
        assert review.answer is not None
        shift = review.answer.measures["net_shift"].value
        assert shift is not None
        self.click(window.stations.review.widget.say, "Set-up")
        self.click(window.stations.review.widget.say.setup, "left")
        self.until(
            lambda: (
                review.answer
                and abs((review.answer.measures["net_shift"].value or 0) + shift) < 1e-9
            )
        )

    def test_the_path_is_painted_over_the_film_and_in_the_lane(self) -> None:
        window = self.reviewed()
        window.models.review.go_to_frame(70)
        self.until(
            lambda: window.models.review.frame == 70 and not window.models.review._frames.waiting
        )
        self.settle(0.1)
        from keen_kettle.desk.kit.theme import colour

        chalk = colour("chalk")
        for widget in (window.stations.review.widget.film, window.stations.review.widget.lane):
            image = widget.grab().toImage()
            near = sum(
                abs(image.pixelColor(x, y).red() - chalk.red())
                + abs(image.pixelColor(x, y).blue() - chalk.blue())
                < 16
                for x in range(image.width())
                for y in range(0, image.height(), 3)
            )
            self.assertGreater(near, 40)

    def test_the_lane_stands_at_the_films_own_horizon_and_scale(self) -> None:
        window = self.reviewed()
        transform = window.stations.review.widget.film.transform
        answer = window.models.review.answer
        assert transform is not None and answer is not None
        self.assertEqual(
            window.stations.review.widget.lane.height(), window.stations.review.widget.film.height()
        )
        top_film = window.stations.review.widget.film.mapTo(window, QPoint(0, 0)).y()
        self.assertEqual(
            window.stations.review.widget.lane.mapTo(window, QPoint(0, 0)).y(), top_film
        )

    def test_ctrl_arrows_move_a_mark_by_a_quarter_of_a_pixel(self) -> None:
        window = self.marked(film("brief"))
        view, review = window.stations.review.widget.film, window.models.review
        self.until(lambda: review.rim is not None and review.rim.found)
        before = mark_shape(review)
        assert before is not None
        QTest.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClick(view, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClick(view, Qt.Key.Key_Plus, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        after = mark_shape(review)
        assert after is not None and review.mark_here is not None
        moved = (after.x - before.x, after.y - before.y, after.r - before.r)
        np.testing.assert_allclose(moved, (0.25, -0.25, 0.25), atol=1e-9)
        self.assertTrue(review.mark_here.exact, "what was set to part of a pixel stays as it is")
        for _ in range(4):
            self.press(window, "Ctrl+Z")
        assert review.clip is not None
        self.assertEqual(review.clip.marks, ())


class TestTracking(DeskCase):
    def test_a_mark_can_be_set_with_keys_alone(self) -> None:
        known = film("brief")
        self.keep(known)
        window = self.open()
        self.open_clip(window)
        view, review = window.stations.review.widget.film, window.models.review
        QTest.keyClick(view, Qt.Key.Key_Return)
        self.settle()
        mark = review.mark_here
        assert mark is not None and review.index is not None
        self.assertEqual((mark.x_px, mark.y_px), (320, 180))
        QTest.keyClick(view, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        assert review.clip is not None
        self.assertEqual(review.clip.marks[0].x_px, 319.75)

    def test_tracking_can_be_stopped_and_the_mark_is_kept(self) -> None:
        window = self.marked(film("brief"))
        self.press(window, "T")
        self.until(lambda: window.stations.review.widget.say.progress.value() > 20)
        self.press(window, "Esc")
        self.until(lambda: not window.models.review.tracking)
        self.settle()
        assert window.models.review.clip is not None
        self.assertEqual(len(window.models.review.clip.marks), 1)
        self.assertIsNone(window.models.review.track)
        self.assertIn("Ready to track", self.shown(window.stations.review.widget.say))

    def test_closing_the_window_while_tracking_loses_nothing(self) -> None:
        window = self.marked(film("brief"))
        self.press(window, "T")
        self.until(lambda: window.stations.review.widget.say.progress.value() > 10)
        window.close()
        again = self.open()
        self.open_clip(again)
        assert again.models.review.clip is not None
        self.assertEqual(len(again.models.review.clip.marks), 1)
        self.assertIn("Ready to track", self.shown(again.stations.review.widget.say))

    def test_a_mark_that_is_only_a_click_is_refused_in_words(self) -> None:
        known = film("brief")
        self.keep(known)
        window = self.open()
        self.open_clip(window)
        QTest.mouseClick(
            window.stations.review.widget.film, Qt.MouseButton.LeftButton, pos=QPoint(300, 200)
        )
        self.settle()
        self.assertIn("too small to follow", self.shown(window.notice))
        assert window.models.review.clip is not None
        self.assertEqual(window.models.review.clip.marks, ())


class TestPrescribe(LoopCase):
    def test_the_finding_is_carried_over_with_load_plates_dose_and_caution(self) -> None:
        window = self.reviewed()
        self.click(window, "Look closer on Prescribe")
        words = self.shown(window.stations.prescribe.widget)
        for part in (
            "For Wil Dane",
            "THE FINDING",
            "Bar struck forward",
            "WHERE IT USUALLY COMES FROM",
            "CUES",
        ):
            self.assertIn(part, words)
        lines = [
            one.text()
            for one in window.stations.prescribe.widget.findChildren(QLineEdit)
            if one.isVisible()
        ]
        self.assertTrue(any("sets of" in one for one in lines), lines)
        self.assertIn("never a person", words)
        self.assertIn("a licensed health professional", words)
        self.click(window.stations.prescribe.widget, "Take this corrective")
        self.assertIn(
            "In the record since 23 Nov. New clip due 07 Dec.",
            self.shown(window.stations.prescribe.widget),
        )
        self.assertEqual(len(window.desk.correctives), 1)
        self.press(window, "Ctrl+Z")
        self.assertEqual(window.desk.correctives, [])
        self.find(window.stations.prescribe.widget, "Take this corrective")

    def test_a_caution_on_record_changes_the_drills_and_says_why(self) -> None:
        window = self.reviewed()
        athlete = window.models.review.athlete
        assert athlete is not None
        window.desk.choose_who(athlete.id)
        self.press(window, "F2")
        window.stations.screen.widget.athletes.form.cautions["wrist"].click()
        self.settle()
        self.press(window, "Ctrl+5")
        words = self.shown(window.stations.prescribe.widget)
        self.assertIn("Passed over", words)
        self.assertIn("wrist or elbow on record", words)

    def test_a_check_that_is_not_passed_keeps_its_drills_away_at_once(self) -> None:
        window = self.reviewed()
        athlete = window.models.review.athlete
        assert athlete is not None
        self.press(window, "Ctrl+5")
        self.assertNotIn("front rack is not passed", self.shown(window.stations.prescribe.widget))
        window.desk.choose_who(athlete.id)
        self.press(window, "Ctrl+1")
        self.click(window.stations.screen.widget, "Screening")
        checks = window.stations.screen.widget.screening._states["front-rack"]
        for state, passed_over in (("not yet", True), ("pass", False)):
            self.press(window, "Ctrl+1")
            checks[state].click()
            self.settle()
            self.press(window, "Ctrl+5")
            words = self.shown(window.stations.prescribe.widget)
            self.assertEqual("front rack is not passed" in words, passed_over, words)

    def test_other_plates_change_the_load(self) -> None:
        window = self.reviewed()
        self.press(window, "Ctrl+6")
        window.stations.record.widget.plates.pairs.setText("20 × 2, 10")
        window.stations.record.widget.plates.pairs.editingFinished.emit()
        self.settle()
        for offer in window.models.offers.offers:
            if offer.load.loading is not None and offer.load.kind == "share":
                self.assertIn(offer.load.loading.total_kg, (20, 40, 60, 80, 100))

    def test_a_best_that_is_not_known_is_asked_for(self) -> None:
        window = self.reviewed()
        athlete = window.models.review.athlete
        assert athlete is not None
        from dataclasses import replace

        window.desk.change_athlete(replace(athlete, bests_kg={}))
        self.settle()
        self.press(window, "Ctrl+5")
        self.assertIn(
            "no best of this lift is known; enter it on Record",
            self.shown(window.stations.prescribe.widget),
        )

    def test_without_an_athlete_the_corrective_waits(self) -> None:
        window = self.reviewed()
        window.models.review.change_clip("no athlete", athlete_id=None)
        self.settle()
        window.models.offers.take(window.models.offers.offers[0])
        self.assertIn("Choose the athlete", self.shown(window.notice))
        self.assertEqual(window.desk.correctives, [])


class TestExport(LoopCase):
    def test_json_and_both_tables_hold_what_is_shown(self) -> None:
        window = self.reviewed()
        answer = window.models.review.answer
        assert answer is not None
        with self.saving(self.room / "a.json"):
            self.press(window, "Ctrl+E")
        whole = json.loads((self.room / "a.json").read_text())
        self.assertEqual(whole["schema"], "keen-kettle-analysis")
        self.assertAlmostEqual(
            whole["measures"]["loop"]["value"], answer.measures["loop"].value or 0, places=4
        )
        with self.saving(self.room / "path.csv"):
            self.press(window, "Ctrl+Shift+E")
        with (self.room / "path.csv").open(newline="") as file:
            rows = list(csv.DictReader(file))
        self.assertEqual(len(rows), len(film("brief").bar_px))
        self.assertEqual(rows[0]["state"], "by hand")
        with self.saving(self.room / "measures.csv"):
            self.press(window, "Ctrl+Alt+E")
        with (self.room / "measures.csv").open(newline="") as file:
            named = {row["measure"]: row for row in csv.DictReader(file)}
        self.assertEqual(named["peak_velocity"]["unit"], "m/s")
        self.assertIn("Written", window.statusBar().currentMessage())  # type: ignore[union-attr]

    def test_a_full_disk_is_said_and_the_former_file_stays(self) -> None:
        window = self.reviewed()
        out = self.room / "old.json"
        out.write_text("former")
        full = OSError(28, "No space left on device")
        with (
            self.saving(out),
            mock.patch("keen_kettle.core.export.document.os.fsync", side_effect=full),
        ):
            self.press(window, "Ctrl+E")
        self.assertIn("No space left on device", self.shown(window.notice))
        self.assertEqual(out.read_text(), "former")


class TestFullStore(LoopCase):
    def test_a_change_that_cannot_be_saved_is_said_and_not_shown_as_done(self) -> None:
        window = self.reviewed()
        shelf = window.desk.shelf
        with mock.patch.object(
            shelf.prescribing,
            "take_corrective",
            side_effect=StoreFull("The disk is full. What was saved is safe."),
        ):
            window.models.offers.take(window.models.offers.offers[0])
        self.settle()
        self.assertIn("The disk is full", self.shown(window.notice))
        self.assertNotIn("In the record", self.shown(window.stations.review.widget.say))
        self.assertNotIn(
            "take", window.actions_by_id["undo"].text(), "what was not done cannot be undone"
        )
        self.click(window.notice, "Close")
        self.assertFalse(window.notice.isVisible())
        self.click(window.stations.review.widget.say, "Take this corrective")
        self.assertEqual(len(window.desk.correctives), 1)
        self.assertEqual(window.desk.correctives[0].review_on, date(2026, 12, 7))


if __name__ == "__main__":
    unittest.main()
