"""Two clips of one athlete side by side: values of both, and what differs by more than chance."""

import unittest
from dataclasses import replace
from datetime import date

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtGui import QFontMetrics
from PyQt6.QtWidgets import QTableView

from keen_kettle.core.motion import Measure
from keen_kettle.desk.state.review.compare_model import Pair, clip_words
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import Shelf, database_file
from tests.desk.base import DeskCase
from tests.films import film, tracked


def measure(value: float | None, sigma: float | None = 0.1, unit: str = "m") -> Measure:
    return Measure("loop", value, sigma if value is not None else None, unit, 0)


class TestPair(unittest.TestCase):
    def test_a_difference_is_clear_beyond_two_of_its_own_sigmas(self) -> None:
        self.assertFalse(Pair(measure(1.0), measure(1.27)).clear)
        self.assertTrue(Pair(measure(1.0), measure(1.3)).clear)
        self.assertAlmostEqual(Pair(measure(1.0), measure(1.3)).difference or 0, -0.3)

    def test_what_is_not_known_or_of_another_unit_has_none(self) -> None:
        self.assertIsNone(Pair(measure(None), measure(1.0)).difference)
        self.assertFalse(Pair(measure(1.0), measure(9.0, unit="diameters")).clear)


class TestBeside(DeskCase):
    def two(self) -> None:
        """A clean forward of the body today, and a hang clean of the same athlete before."""
        self.keep(film("brief"))
        self.keep(film("hang"), lift="hang power clean", name="Ora Linde")
        shelf = Shelf(database_file(self.folder))
        first, second = sorted(shelf.clips(), key=lambda clip: clip.id)
        for clip, name in ((first, "brief"), (second, "hang")):
            clip = replace(clip, marks=(film(name).mark(),), athlete_id=first.athlete_id)
            if name == "hang":
                clip = replace(clip, filmed_on=date(2026, 11, 9))
            shelf.change_clip(
                clip.id, marks=clip.marks, athlete_id=clip.athlete_id, filmed_on=clip.filmed_on
            )
            shelf.keep_track(clip, tracked(name))
        shelf.close()

    def laid_beside(self) -> Window:
        """The window with the first clip open and the other one beside it."""
        window = self.open()
        window.desk.open_clip(min(clip.id for clip in window.desk.clips))
        self.until(lambda: window.models.review.answer is not None, 30)
        self.press(window, "Ctrl+B")
        return window

    def cut(self, view: QTableView, rows: dict[str, int]) -> list[str]:
        """The names in the first column that are longer than their row has room for."""
        metrics, room = QFontMetrics(view.font()), QRect(0, 0, view.columnWidth(0) - 20, 1000)
        return [
            name
            for name, row in rows.items()
            if metrics.boundingRect(room, Qt.TextFlag.TextWordWrap, name).height()
            > view.rowHeight(row)
        ]

    def test_all_measures_of_two_clips_stand_side_by_side(self) -> None:
        self.two()
        window = self.laid_beside()
        page = window.stations.review.compare
        self.until(lambda: page.table.rowCount() > 0, 30)
        self.assertIn("09 Nov 2026, hang power clean", page.other.currentText())
        rows = {page.table.index(k, 0).data(): k for k in range(page.table.rowCount())}
        number = rows["Forward bump"] if "Forward bump" in rows else rows["Peak velocity"]
        here, there, off = (page.table.index(number, place).data() for place in (1, 2, 3))
        answer = window.models.review.answer
        assert answer is not None
        self.assertNotEqual(here, "–")
        self.assertNotEqual(there, "–")
        self.assertTrue(off == "within uncertainty" or off[0] in "+−")
        clear = [page.table.index(k, 3).data() for k in range(page.table.rowCount())]
        self.assertTrue(any(words[0] == "+" for words in clear), clear)
        self.assertIn("differ by more than their uncertainty", self.shown(page))
        page.view.setFixedWidth(520)
        self.until(lambda: not self.cut(page.view, rows), 5)
        self.press(window, "Esc")
        self.assertIs(window.stack.currentWidget(), window.stations.review.widget)

    def test_both_clips_stand_in_the_same_position_to_one_scale_and_horizon(self) -> None:
        self.two()
        window = self.laid_beside()
        page = window.stations.review.compare
        view, model = page.pictures, page.model
        self.until(lambda: model.there is not None and view.ready, 60)
        self.assertEqual(model.position, "power_position", "no body: no extension")
        here, there = view.panels()
        assert here is not None and there is not None
        self.assertNotEqual(here.frame, there.frame)
        levels, scales = [], []
        for panel in (here, there):
            side = panel.side
            begin = side.answer.events["lift_off"].frame
            levels.append(panel.transform.to_widget(0, float(side.track.y_px[begin])).y())
            scales.append(panel.transform.scale / side.answer.scale.m_per_px)
        self.assertAlmostEqual(levels[0], levels[1], places=6)
        self.assertAlmostEqual(scales[0], scales[1], places=6)
        picture = view.grab().toImage()
        for panel in (here, there):
            spot = panel.box.center().toPoint()
            around = {picture.pixel(spot.x() + k, spot.y() + 2 * k) for k in range(-30, 30)}
            self.assertGreater(len(around), 20, "a film is seen there")
        self.press(window, "Right")
        self.assertEqual(model.position, model.positions()[2])
        self.press(window, "Alt+1")
        self.assertEqual(model.position, "lift_off")
        self.click(page, "lowest")
        self.assertEqual(model.position, "lowest")
        first = view.panels()[0]
        assert first is not None
        self.assertEqual(first.frame, first.side.answer.events["lowest"].frame)

    def test_a_film_that_is_away_is_said_in_its_place(self) -> None:
        self.two()
        shelf = Shelf(database_file(self.folder))
        other = max(shelf.clips(), key=lambda clip: clip.id)
        shelf.change_clip(other.id, path=self.room / "gone.mp4")
        shelf.close()
        window = self.laid_beside()
        page = window.stations.review.compare
        self.until(lambda: page.model.there is not None and page.pictures.ready, 60)
        here, there = page.pictures.panels()
        self.assertIsNotNone(here)
        self.assertIsNone(there)
        self.assertIn("away", page.pictures.why_empty(1))
        self.assertGreater(page.table.rowCount(), 10)

    def test_without_another_clip_it_says_so(self) -> None:
        self.keep(film("brief"))
        shelf = Shelf(database_file(self.folder))
        clip = replace(shelf.clips()[0], marks=(film("brief").mark(),))
        shelf.change_clip(clip.id, marks=clip.marks)
        shelf.keep_track(clip, tracked("brief"))
        shelf.close()
        window = self.open()
        self.open_clip(window)
        self.until(lambda: window.models.review.answer is not None, 30)
        self.press(window, "Ctrl+B")
        self.assertIn("no other measured clip", self.shown(window.stations.review.compare))

    def test_a_one_arm_lift_says_which_side_it_shows(self) -> None:
        self.two()
        shelf = Shelf(database_file(self.folder))
        clip = replace(shelf.clips()[0], lift="dumbbell power snatch", facing="left")
        shelf.close()
        self.assertIn("left side", clip_words(clip))
        self.assertNotIn("side", clip_words(replace(clip, lift="snatch")))
