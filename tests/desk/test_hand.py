"""Work by hand on a track, through the real window: points, spans, clicks, handles, the proposal."""

import unittest
from collections.abc import Callable
from functools import partial

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from keen_kettle.core.track import HandWork, State
from keen_kettle.desk.state.review.drawing_model import TOOLS
from keen_kettle.desk.stations.review.view.film_view import FilmView
from keen_kettle.desk.stations.review.view.tools import mark_shape
from keen_kettle.desk.window.frame import Window
from tests.desk.base import DeskCase
from tests.films import film

LAST = 66
"""So far the bar is followed: no work by hand lies behind it, and the rest takes its time each time."""
CTRL = Qt.KeyboardModifier.ControlModifier


class HandCase(DeskCase):
    def tracked(self) -> Window:
        return self.measured("hang", "hang power clean", hand=HandWork(last=LAST))

    def go(self, window: Window, frame: int) -> None:
        window.models.review.go_to_frame(frame)
        self.until(partial(self.shows, window, frame))

    def shows(self, window: Window, frame: int) -> bool:
        return window.models.review.frame == frame and not window.models.review._frames.waiting

    def again(self, window: Window) -> None:
        """Until the path is tracked anew and its measures stand."""
        review = window.models.review
        self.settle()
        self.until(lambda: not review.tracking and review.answer is not None, 90)
        self.settle()

    def state(self, window: Window, frame: int) -> State:
        assert window.models.review.track is not None
        return State(window.models.review.track.state[frame])

    def place(self, window: Window, frame: int) -> tuple[float, float]:
        track = window.models.review.track
        assert track is not None
        return float(track.x_px[frame]), float(track.y_px[frame])


class TestPoints(HandCase):
    def test_a_point_is_dragged_kept_tracked_from_and_taken_back(self) -> None:
        window = self.tracked()
        self.go(window, 40)
        before = self.place(window, 40)
        view = window.stations.review.widget.film
        transform = view.transform
        assert transform is not None
        spot = transform.to_widget(*before).toPoint()
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=spot)
        self._move(view, transform.to_widget(before[0] + 8, before[1]))
        self.assertIsNotNone(view._loupe_at, "the loupe shows the place enlarged")
        to = transform.to_widget(before[0] + 8, before[1]).toPoint()
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=to)
        self.again(window)
        self.assertEqual(self.state(window, 40), State.BY_HAND)
        moved = self.place(window, 40)
        self.assertAlmostEqual(moved[0] - before[0], 8, delta=1.5)
        self.assertIn("by hand", window.stations.review.widget.say.tools.count.text())
        self.press(window, "Ctrl+Z")
        self.again(window)
        self.assertEqual(self.place(window, 40), before)

    def test_keys_move_a_point_by_a_quarter_of_a_pixel(self) -> None:
        window = self.tracked()
        self.go(window, 30)
        before = self.place(window, 30)
        view = window.stations.review.widget.film
        view.setFocus()
        QTest.keyClick(view, Qt.Key.Key_Left, CTRL)
        self.again(window)
        self.assertEqual(self.place(window, 30), (before[0] - 0.25, before[1]))
        QTest.keyClick(view, Qt.Key.Key_Down, CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.again(window)
        self.assertEqual(self.place(window, 30), (before[0] - 0.25, before[1] + 2))

    def test_clicking_through_predicts_and_keeps_every_click(self) -> None:
        window = self.tracked()
        hand, review = window.models.hand, window.models.review
        self.go(window, 50)
        truth = film("brief").bar_px
        view = window.stations.review.widget.film
        self.press(window, "C")
        transform = view.transform
        assert transform is not None
        for frame in (50, 51, 52):
            self.until(partial(self.shows, window, frame))
            QTest.mouseClick(
                view, Qt.MouseButton.LeftButton, pos=transform.to_widget(*truth[frame]).toPoint()
            )
        self.until(lambda: review.frame == 53 and not review._frames.waiting)
        expected = hand.prediction
        assert expected is not None
        self.assertLess(np.hypot(*(np.array(expected) - truth[53])), 8)
        QTest.keyClick(view, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(len(hand.clicked), 4)
        self.press(window, "C")
        self.again(window)
        for frame in (50, 51, 52, 53):
            self.assertEqual(self.state(window, frame), State.BY_HAND)
        assert review.clip is not None
        self.assertEqual(len(review.clip.marks), 5)
        self.press(window, "Ctrl+Z")
        self.again(window)
        self.assertEqual(len(review.clip.marks), 1)


class TestSpans(HandCase):
    def test_a_span_is_bridged_hidden_cleared_and_undone(self) -> None:
        window = self.tracked()
        review = window.models.review
        self.go(window, 30)
        self.press(window, "B")
        self.go(window, 36)
        self.press(window, "J")
        self.again(window)
        self.assertEqual(self.state(window, 33), State.BRIDGED)
        assert review.answer is not None
        self.assertIn("7 frames are bridged", " ".join(review.answer.notes))
        self.press(window, "H")
        self.again(window)
        self.assertEqual(self.state(window, 36), State.HIDDEN, "without a begun span: this frame")
        self.assertEqual(self.state(window, 33), State.BRIDGED)
        self.go(window, 33)
        self.press(window, "Shift+H")
        self.again(window)
        self.assertEqual(self.state(window, 33), State.GOOD)
        for _ in range(3):
            self.press(window, "Ctrl+Z")
            self.again(window)
        assert review.clip is not None
        self.assertEqual(review.clip.hand.spans, ())

    def test_the_first_and_last_frame_can_be_set_and_a_wrong_one_is_refused(self) -> None:
        window = self.tracked()
        review = window.models.review
        assert review.index is not None and review.clip is not None
        last = len(review.index) - 10
        self.go(window, last)
        self.press(window, "Shift+J")
        self.again(window)
        self.assertEqual(self.state(window, last + 1), State.OUTSIDE)
        self.go(window, 20)
        self.press(window, "Shift+B")
        self.settle()
        self.assertIn("Mark it between them first", self.shown(window.notice))
        self.assertIsNone(review.clip.hand.first)

    def test_the_next_doubtful_frame_is_found(self) -> None:
        window = self.tracked()
        review = window.models.review
        assert review.track is not None
        review.track.state[60:64] = State.CHECK
        self.go(window, 5)
        self.press(window, "N")
        self.until(lambda: review.frame == 60)
        self.assertEqual(window.models.hand.span, (60, 63), "a doubtful stretch is one span")
        self.press(window, "N")
        self.settle()
        status = window.statusBar()
        assert status is not None
        self.assertIn("No doubtful frame", status.currentMessage())


class TestMarksAndScale(HandCase):
    def test_a_handle_makes_an_ellipse_that_stands_as_drawn(self) -> None:
        window = self.marked(film("brief"))
        review, view = window.models.review, window.stations.review.widget.film
        self.until(lambda: review.rim is not None and review.rim.found)
        shown, transform = mark_shape(review), view.transform
        assert shown is not None and transform is not None
        begin = transform.to_widget(*shown.handles()["right"])
        end = transform.to_widget(shown.x + 0.8 * shown.r, shown.y)
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=begin.toPoint())
        self._move(view, end)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end.toPoint())
        self.settle()
        assert review.clip is not None
        mark = review.clip.marks[0]
        self.assertTrue(mark.exact)
        self.assertAlmostEqual(mark.narrow, 0.8, delta=0.03)
        self.assertAlmostEqual(mark.x_px, shown.x, delta=0.01)

    def test_two_points_and_no_scale(self) -> None:
        window = self.tracked()
        review, view = window.models.review, window.stations.review.widget.film
        setup = window.stations.review.widget.say.setup
        window.stations.review.widget.say._setup_fold.open_up(True)
        self.press(window, "Shift+M")
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(100, 200))
        self._move(view, QPointF(300, 200))
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(300, 200))
        self.until(lambda: review.answer is not None and review.answer.scale.by == "points")
        transform = view.transform
        assert review.answer is not None and transform is not None
        self.assertAlmostEqual(review.answer.scale.m_per_px, transform.scale / 200, delta=1e-4)
        setup.apart.setValue(50)
        self.until(lambda: review.answer is not None and review.answer.scale.m_per_px < 0.6 / 200)
        setup.scale.setCurrentIndex(setup.scale.findData("none"))
        setup.scale.activated.emit(setup.scale.currentIndex())
        self.until(lambda: review.answer is not None and review.answer.scale.by == "none")
        self.settle()
        self.assertIn("no scale", self.shown(window.stations.review.widget.say))

    def test_the_vertical_is_set_by_a_line_and_taken_back(self) -> None:
        window = self.tracked()
        review, view = window.models.review, window.stations.review.widget.film
        setup = window.stations.review.widget.say.setup
        window.stations.review.widget.say._setup_fold.open_up(True)
        self.settle()
        assert review.track is not None and review.answer is not None
        before = review.answer.measures["net_shift"].value
        self.press(window, "Shift+U")
        self.drag(view, QPoint(100, 300), QPoint(114, 100))
        self.until(lambda: review.clip is not None and review.clip.upright is not None)
        self.until(lambda: "leans 4.0° right" in self.shown(setup))
        self.until(
            lambda: (
                review.answer is not None and review.answer.measures["net_shift"].value != before
            )
        )
        self.assertIn(
            "4.0° askew, by your line", " ".join(review.answer.notes if review.answer else ())
        )
        self.press(window, "Shift+U")
        self.drag(view, QPoint(100, 300), QPoint(200, 290))
        self.assertIn("stands upright", self.shown(window.notice))
        self.assertIn("leans 4.0° right", self.shown(setup), "the line before is kept")
        self.click(setup, "As found")
        assert review.clip is not None
        self.assertIsNone(review.clip.upright)
        self.press(window, "Ctrl+Z")
        assert review.clip is not None
        self.assertIsNotNone(review.clip.upright)

    def test_one_tool_at_a_time_and_the_work_of_the_one_before_is_kept(self) -> None:
        window = self.tracked()
        review, hand = window.models.review, window.models.hand
        view = window.stations.review.widget.film
        self.go(window, 30)
        self.press(window, "C")
        spot = self.place(window, 30)
        transform = view.transform
        assert transform is not None
        QTest.mouseClick(
            view, Qt.MouseButton.LeftButton, pos=transform.to_widget(spot[0] + 2, spot[1]).toPoint()
        )
        self.assertEqual(len(hand.clicked), 1)
        self.press(window, "Shift+U")
        self.assertEqual((hand.clicking, hand.measuring), (False, "upright"))
        assert review.clip is not None
        self.assertIn(30, [mark.frame for mark in review.clip.marks], "the click is kept")
        self.again(window)
        self.press(window, "L")
        self.assertEqual((hand.measuring, window.models.drawing.tool), ("", "line"))
        self.press(window, "Ctrl+Shift+K")
        self.assertEqual((window.models.drawing.tool, window.models.body.seeding), ("", True))
        self.press(window, "M")
        self.assertEqual((window.models.body.seeding, review.marking), (False, True))
        self.press(window, "Esc")
        self.assertFalse(review.marking or review.tool.name)
        self.assertEqual(view.cursor().shape(), Qt.CursorShape.ArrowCursor)

    def test_every_tool_says_over_the_film_what_to_do_and_leaves_at_escape(self) -> None:
        window = self.tracked()
        models, view = window.models, window.stations.review.widget.film
        takes: list[Callable[[], None]] = [
            *(partial(models.drawing.choose_tool, kind) for kind in TOOLS),
            *(partial(models.hand.start_measuring, what) for what in ("scale", "upright")),
            *(models.hand.toggle_clicking, models.body.start_seeding),
            partial(models.review.set_marking, True),
        ]
        said = set()
        for take in takes:
            take()
            self.settle(0)
            said.add(view.hint)
            self.assertEqual(view.cursor().shape(), Qt.CursorShape.CrossCursor, view.hint)
            self.press(window, "Esc")
            self.assertEqual(models.review.tool.name, "")
        self.assertEqual(len(said - {""}), len(takes))

    def drag(self, view: FilmView, begin: QPoint, end: QPoint) -> None:
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=begin)
        self._move(view, QPointF(end))
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end)
        self.settle()

    def test_a_second_thing_has_marks_and_a_path_of_its_own(self) -> None:
        window = self.tracked()
        review, setup = window.models.review, window.stations.review.widget.say.setup
        setup.thing.setCurrentIndex(setup.thing.findData("cap"))
        setup.thing.activated.emit(setup.thing.currentIndex())
        self.until(lambda: review.clip is not None and review.clip.thing == "cap")
        self.settle()
        assert review.clip is not None
        self.assertEqual(review.clip.marks, ())
        self.assertEqual(review.clip.diameter_mm, 50)
        self.assertIsNone(review.track)
        self.assertEqual(len(review.also_followed), 1, "the plate's path is still shown")
        setup.thing.setCurrentIndex(setup.thing.findData("plate"))
        setup.thing.activated.emit(setup.thing.currentIndex())
        self.until(lambda: review.track is not None and review.answer is not None)
        self.assertEqual(review.clip.diameter_mm, 450)


class TestProposal(DeskCase):
    searches = True

    def test_the_plate_is_proposed_and_one_key_accepts_and_tracks_it(self) -> None:
        known = film("hang")
        self.keep(known, lift="hang power clean")
        window = self.open()
        self.open_clip(window)
        review = window.models.review
        self.until(lambda: window.models.hand.proposed is not None, 180, "nothing was proposed")
        self.settle()
        self.assertIn("Is this the near plate?", self.shown(window.stations.review.widget.say))
        self.press(window, "A")
        self.assertEqual(window.stations.review.widget.film.hint, "")
        self.until(lambda: review.answer is not None, 180)
        assert review.track is not None
        x, y = known.bar_px[len(known.bar_px) // 2]
        frame = len(known.bar_px) // 2
        self.assertLess(np.hypot(review.track.x_px[frame] - x, review.track.y_px[frame] - y), 4)
        self.press(window, "Ctrl+Z")
        self.settle()
        assert review.clip is not None
        self.assertEqual(review.clip.marks, ())


if __name__ == "__main__":
    unittest.main()
