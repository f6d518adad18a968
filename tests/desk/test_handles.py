"""The drawn ellipse and its handles, apart from any window: what is pulled follows the hand."""

import os
import unittest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QImage, QPainter

from keen_kettle.core.track import PlateMark, Rim, State
from keen_kettle.desk.stations.review.view.film_marks import Ellipse, ellipse_of, paint_state
from keen_kettle.desk.stations.review.view.loupe import LOUPE_PX, loupe_box, paint_loupe
from tests.desk.base import app

ELLIPSES = st.builds(
    Ellipse,
    x=st.floats(50, 900),
    y=st.floats(50, 600),
    r=st.floats(10, 150),
    narrow=st.floats(0.5, 1.0),
    angle_deg=st.floats(-35, 35),
)


class TestEllipse(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(ELLIPSES)
    def test_its_handles_lie_on_it_and_face_each_other(self, shape: Ellipse) -> None:
        spots = {name: np.array(spot) for name, spot in shape.handles().items()}
        np.testing.assert_allclose(spots["centre"], (shape.x, shape.y))
        np.testing.assert_allclose((spots["left"] + spots["right"]) / 2, spots["centre"], atol=1e-9)
        np.testing.assert_allclose((spots["top"] + spots["bottom"]) / 2, spots["centre"], atol=1e-9)
        high, wide = (
            float(np.hypot(*(spots[name] - spots["centre"]))) for name in ("top", "right")
        )
        self.assertAlmostEqual(high, shape.r, places=6)
        self.assertAlmostEqual(wide, shape.r * shape.narrow, places=6)

    @settings(max_examples=80, deadline=None)
    @given(ELLIPSES, st.sampled_from(["left", "right", "top", "bottom"]))
    def test_a_handle_that_is_let_go_where_it_was_changes_nothing(
        self, shape: Ellipse, handle: str
    ) -> None:
        again = shape.pulled(handle, *shape.handles()[handle])
        self.assertAlmostEqual(again.r, shape.r, places=6)
        self.assertAlmostEqual(again.narrow, shape.narrow, places=6)
        if shape.narrow < 0.98 and abs(shape.angle_deg) > 4:
            self.assertAlmostEqual(again.angle_deg, shape.angle_deg, places=6)

    @settings(max_examples=80, deadline=None)
    @given(ELLIPSES, st.floats(0.7, 1.4))
    def test_the_top_pulled_out_makes_it_higher_and_leaves_its_width(
        self, shape: Ellipse, share: float
    ) -> None:
        x, y = shape.handles()["top"]
        to = shape.x + share * (x - shape.x), shape.y + share * (y - shape.y)
        pulled = shape.pulled("top", *to)
        self.assertAlmostEqual(pulled.r, share * shape.r, places=6)
        width = shape.r * shape.narrow
        if 0.4 <= width / pulled.r <= 1.0:
            self.assertAlmostEqual(pulled.r * pulled.narrow, width, places=6)

    def test_a_found_rim_is_shown_upright_whatever_its_axes_order(self) -> None:
        mark = PlateMark(0, 100, 100, 50)
        for axes, angle in (((40.0, 50.0), 10.0), ((50.0, 40.0), 100.0), ((40.0, 50.0), 190.0)):
            shown = ellipse_of(mark, Rim(101, 99, axes, angle, True, 0.5, 0.9))
            self.assertEqual((shown.x, shown.r, shown.narrow), (101, 50, 0.8))
            self.assertAlmostEqual(shown.angle_deg, 10.0)
        lost = Rim(101, 99, (40.0, 50.0), 0.0, False, 0.5, 0.0)
        self.assertEqual(ellipse_of(mark, lost).x, 100, "without a rim the mark stands")
        exact = PlateMark(0, 100, 100, 50, 0.7, 3.0, exact=True)
        found = Rim(101, 99, (40.0, 50.0), 0.0, True, 0.5, 0.9)
        self.assertEqual(ellipse_of(exact, found).narrow, 0.7, "an exact mark stands as drawn")


class TestLooks(unittest.TestCase):
    def setUp(self) -> None:
        app()

    def painted(self, state: State) -> bytes:
        image = QImage(24, 24, QImage.Format.Format_RGB32)
        image.fill(QColor("black"))
        painter = QPainter(image)
        paint_state(painter, QPointF(12, 12), state)
        painter.end()
        bits = image.constBits()
        assert bits is not None
        return bytes(bits.asarray(image.sizeInBytes()))

    def test_every_state_has_a_shape_of_its_own(self) -> None:
        """Told apart in grey too: by where they paint, not by their colour."""
        shapes = {}
        for state in (State.CHECK, State.BY_HAND, State.REPEATED, State.BRIDGED):
            rows = np.frombuffer(self.painted(state), np.uint8).reshape(24, 24, 4)
            shapes[state] = (rows[..., :3].max(axis=2) > 60).tobytes()
            self.assertIn(1, shapes[state])
        self.assertEqual(len(set(shapes.values())), len(shapes))

    def test_the_loupe_lies_away_from_the_spot_and_shows_it_five_times_as_large(self) -> None:
        film = QRectF(0, 0, 800, 450)
        for x in (100.0, 700.0):
            box = loupe_box(film, QPointF(x, 225))
            self.assertTrue(film.contains(box))
            self.assertFalse(box.contains(QPointF(x, 60)))
        source = QImage(200, 200, QImage.Format.Format_RGB32)
        source.fill(QColor("black"))
        source.setPixelColor(120, 80, QColor("white"))
        shown = QImage(LOUPE_PX, LOUPE_PX, QImage.Format.Format_RGB32)
        painter = QPainter(shown)
        box = QRectF(0, 0, LOUPE_PX, LOUPE_PX)
        paint_loupe(painter, source, box, (120.5, 80.5), lambda _painter, _enlarged: None)
        painter.end()
        middle = LOUPE_PX // 2
        light = [
            (dx, dy)
            for dx in range(-6, 7)
            for dy in range(-6, 7)
            if QColor(shown.pixel(middle + dx, middle + dy)).lightness() > 200
        ]
        self.assertGreaterEqual(len(light), 20)
        self.assertLessEqual(len(light), 36, "one pixel of the film fills five by five")


if __name__ == "__main__":
    unittest.main()
