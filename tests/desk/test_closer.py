"""Looking closer at the film: the part round the lifter, the wheel, the hand that moves the picture."""

import os
import unittest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest

from keen_kettle.core.clip import write_clip
from keen_kettle.desk.stations.review.view.zoom import Zoom
from keen_kettle.desk.window.frame import Window
from tests.desk.base import DeskCase
from tests.films import film

WIDGET = QSizeF(700, 400)
FILMS = st.sampled_from([QSizeF(1280, 720), QSizeF(720, 1280), QSizeF(640, 640)])


class TestFraming(unittest.TestCase):
    def assert_filled(self, zoom: Zoom, film_size: QSizeF) -> None:
        """No empty edge on a side that the film could fill, and none of it is out of reach."""
        transform = zoom.transform(WIDGET, film_size)
        for begin, long, room in (
            (transform.left, transform.scale * film_size.width(), WIDGET.width()),
            (transform.top, transform.scale * film_size.height(), WIDGET.height()),
        ):
            if long >= room:
                self.assertLessEqual(begin, 1e-6)
                self.assertGreaterEqual(begin + long, room - 1e-6)
            else:
                self.assertAlmostEqual(begin, (room - long) / 2)

    @settings(max_examples=80, deadline=None)
    @given(
        FILMS,
        st.lists(
            st.tuples(st.floats(0.5, 2.5), st.floats(0, 700), st.floats(0, 400)),
            min_size=1,
            max_size=6,
        ),
        st.tuples(st.floats(-900, 900), st.floats(-900, 900)),
    )
    def test_whatever_the_hand_does_the_film_fills_its_place(
        self, size: QSizeF, turns: list[tuple[float, float, float]], by: tuple[float, float]
    ) -> None:
        zoom = Zoom()
        for times, x, y in turns:
            zoom.closer(times, QPointF(x, y), WIDGET, size)
            self.assert_filled(zoom, size)
        if not zoom.whole:
            zoom.pan(QPointF(*by), WIDGET, size)
        self.assert_filled(zoom, size)

    @settings(max_examples=60, deadline=None)
    @given(st.floats(1.2, 6.0), st.floats(250, 450), st.floats(150, 250))
    def test_what_is_under_the_pointer_stays_there(self, times: float, x: float, y: float) -> None:
        zoom, size = Zoom(), QSizeF(1280, 720)
        before = zoom.transform(WIDGET, size).to_film(QPointF(x, y))
        zoom.closer(times, QPointF(x, y), WIDGET, size)
        after = zoom.transform(WIDGET, size).to_film(QPointF(x, y))
        np.testing.assert_allclose(after, before, atol=1e-6)

    def test_the_lifters_box_is_all_seen_and_fills_the_height(self) -> None:
        zoom, size = Zoom(), QSizeF(720, 1280)
        zoom.show_lifter((200.0, 300.0, 600.0, 1100.0))
        seen = zoom.transform(WIDGET, size).box_in_film(QRectF(0, 0, 700, 400))
        self.assertAlmostEqual(seen.top(), 300)
        self.assertAlmostEqual(seen.bottom(), 1100)
        self.assertLessEqual(seen.left(), 200)
        self.assertGreaterEqual(seen.right(), 600)

    def test_a_new_clip_keeps_to_the_lifter_but_not_to_a_place(self) -> None:
        zoom, size = Zoom(), QSizeF(1280, 720)
        zoom.closer(3.0, QPointF(350, 200), WIDGET, size)
        zoom.next_clip()
        self.assertTrue(zoom.whole)
        zoom.show_lifter((200.0, 100.0, 600.0, 600.0))
        zoom.next_clip()
        self.assertTrue(zoom.whole, "the new film's lifter is not known yet")
        self.assertTrue(zoom.on_lifter)


class TestCloser(DeskCase):
    def turn(self, window: Window, spot: QPointF, notches: int) -> None:
        view = window.stations.review.widget.film
        event = QWheelEvent(
            spot,
            view.mapToGlobal(spot),
            QPoint(),
            QPoint(0, 120 * notches),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        self.app.sendEvent(view, event)
        self.settle()

    def test_a_plate_is_marked_and_tracked_while_the_picture_is_enlarged(self) -> None:
        known = film("hang")
        self.keep(known, lift="hang power clean")
        window = self.open()
        self.open_clip(window)
        view, review = window.stations.review.widget.film, window.models.review
        assert view.transform is not None
        x, y = known.bar_px[0]
        whole = view.transform.scale
        self.turn(window, view.transform.to_widget(x, y), 5)
        self.assertGreater(view.transform.scale, 2 * whole)
        spot = view.transform.to_widget(x, y)
        self.drag_mark(window, known)
        assert review.clip is not None
        mark = review.clip.marks[0]
        self.assertLess(np.hypot(mark.x_px - x, mark.y_px - y), 1.5)
        self.press(window, "T")
        self.until(lambda: review.answer is not None, 90)
        self.assertEqual(view.transform.to_widget(x, y), spot, "tracking moves no picture")
        # The lane keeps to the film: the same height is the same height.
        self.press(window, "Z")
        self.assertAlmostEqual(view.transform.scale, whole)
        self.press(window, "Z")
        box = view.zoom
        self.assertTrue(box.on_lifter and not box.whole)
        self.find(window.stations.review.widget.transport, "All of it")
        bar = known.bar_px
        for x, y in (bar[bar[:, 1].argmin()], bar[bar[:, 1].argmax()]):
            self.assertTrue(QRectF(view.rect()).contains(view.transform.to_widget(x, y)))

    def test_the_hand_moves_an_enlarged_picture_and_marks_nothing(self) -> None:
        known = film("hang")
        window = self.marked(known)
        view, review = window.stations.review.widget.film, window.models.review
        self.press(window, "T")
        self.until(lambda: review.answer is not None, 90)
        assert view.transform is not None and review.clip is not None
        marks, centre = review.clip.marks, QPointF(view.rect().center())
        self.turn(window, centre, 6)
        before = view.transform
        begin, end = QPoint(30, 30), QPoint(90, 60)
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=begin)
        self._move(view, QPointF(end))
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end)
        self.assertAlmostEqual(view.transform.left, before.left + 60)
        self.assertAlmostEqual(view.transform.top, before.top + 30)
        self.assertEqual(review.clip.marks, marks)
        self.turn(window, centre, -20)
        self.assertTrue(view.zoom.whole)

    def test_a_film_held_upright_comes_close_by_itself(self) -> None:
        rng = np.random.default_rng(3)
        path = self.room / "upright.mp4"
        pictures = rng.integers(60, 200, (6, 320, 180, 3), dtype=np.uint8)
        write_clip(path, ((k / 30, one) for k, one in enumerate(pictures)), 30)
        self.keep(path=path)
        window = self.open()
        self.open_clip(window)
        view = window.stations.review.widget.film
        self.assertTrue(view.zoom.on_lifter)
        self.assertTrue(view.zoom.whole, "nobody is found yet")
        self.press(window, "Z")
        self.assertFalse(view.zoom.on_lifter)

    def test_before_tracking_it_says_when_it_can_come_close(self) -> None:
        self.keep(film("hang"))
        window = self.open()
        self.open_clip(window)
        self.press(window, "Z")
        bar = window.statusBar()
        assert bar is not None
        self.assertIn("once the bar is tracked", bar.currentMessage())


if __name__ == "__main__":
    unittest.main()
