"""Marks made in a hurry: the rim is found all the same, and none is made up where no plate is."""

import unittest
from functools import cache

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.simulate import Camera, Filming, LiftScript, film_frames, simulate_lift
from keen_kettle.core.simulate.film_truth import truth_document
from keen_kettle.core.simulate.lifelike import PLATES, LifelikePainter
from keen_kettle.core.track import PlateMark, rim_of

RADIUS, MIDDLE = 60, (170, 150)
FAR = st.floats(-0.24, 0.24)


def hall(seed: int) -> np.ndarray:
    """A worn wall with boards, as a camera with some noise sees it."""
    dice = np.random.default_rng(seed)
    wall = np.full((320, 360, 3), (150, 156, 160), np.uint8)
    for x in range(0, 360, 45):
        cv2.line(wall, (x, 0), (x + 6, 320), (120, 124, 128), 2, cv2.LINE_AA)
    rough = cv2.GaussianBlur(dice.normal(0, 22, wall.shape[:2]), (0, 0), 3)[..., None]
    noise = dice.normal(0, 3, wall.shape)
    return np.clip(wall + 3 * rough + noise, 0, 255).astype(np.uint8)


@cache
def with_plate(seed: int) -> np.ndarray:
    """The hall with a plate: ring, hub, sleeve, a shin across its edge, a soft lens."""
    picture = hall(seed)
    cv2.line(picture, (110, 60), (130, 320), (120, 150, 190), 34, cv2.LINE_AA)
    for radius, colour in ((RADIUS, (52, 50, 160)), (30, (120, 120, 190)), (27, (52, 50, 160))):
        cv2.circle(picture, MIDDLE, radius, colour, -1, cv2.LINE_AA)
    cv2.line(picture, MIDDLE, (MIDDLE[0] + 16, MIDDLE[1] + 40), (170, 170, 170), 12, cv2.LINE_AA)
    return cv2.GaussianBlur(picture, (0, 0), 1.4)


CAMERA = Camera(480, 640, 240.0, 560.0, 220.0, distance_m=4.0)


@cache
def film_with_a_line(share: float) -> tuple[np.ndarray, float, float, float]:
    """A lifelike picture with a plumb line drawn through its plate, that share of the radius beside the middle;
    the plate's place and radius."""
    painter = LifelikePainter("tidy", "day", plate=PLATES["blue"])
    lift = simulate_lift(LiftScript("snatch", "floor", "full", painter.body))
    filming = Filming(30, 1 / 400, noise=1.0, painter=painter, camera=CAMERA)
    t_s = np.array([0.1])
    picture = next(iter(film_frames(lift, filming, t_s)))[1].copy()
    truth = truth_document(lift, filming, t_s)
    (x, y), r = truth["bar_px"][0], float(str(truth["plate_radius_px"]))  # type: ignore[index]
    left = int(x + share * r)
    picture[:, left : left + max(int(0.08 * r), 2)] = (70, 230, 110)
    place = int(x - 1.6 * r), int(y + 1.05 * r)
    cv2.putText(picture, "stay over the bar", place, 0, r / 42, (245, 245, 245), 4, cv2.LINE_AA)
    return picture, x, y, r


class TestLinesOverAFilm(unittest.TestCase):
    def right(self) -> int:
        """Of eight rough marks those whose rim is found."""
        found = 0
        for share in (0.3, 0.45):
            picture, x, y, r = film_with_a_line(share)
            dice = np.random.default_rng(3)
            for _ in range(4):
                (right, down), size = dice.normal(0, 0.06 * r, 2), r * (1 + dice.normal(0, 0.06))
                rim, _ = rim_of(picture, PlateMark(0, x + right, y + down, size))
                off = np.hypot(rim.x_px - x, rim.y_px - y) / r
                found += rim.found and off < 0.05 and abs(max(rim.axes_px) / r - 1) < 0.05
        return found

    def test_a_line_drawn_over_the_plate_does_not_draw_the_rim_to_itself(self) -> None:
        self.assertGreaterEqual(self.right(), 7)


class TestRoughMarks(unittest.TestCase):
    @settings(max_examples=15, deadline=None)
    @given(FAR, FAR, st.floats(-0.22, 0.22))
    def test_a_mark_far_off_in_place_and_in_size_finds_the_rim(
        self, right: float, down: float, larger: float
    ) -> None:
        x, y = MIDDLE[0] + right * RADIUS, MIDDLE[1] + down * RADIUS
        rim, model = rim_of(with_plate(1), PlateMark(0, x, y, RADIUS * (1 + larger)))
        self.assertTrue(rim.found)
        self.assertLess(np.hypot(rim.x_px - MIDDLE[0], rim.y_px - MIDDLE[1]), 0.04 * RADIUS)
        self.assertLess(abs(max(rim.axes_px) / RADIUS - 1), 0.04)
        self.assertLess(np.abs(model.colour - (52, 50, 160)).max(), 30)

    def test_where_no_plate_is_the_mark_stands_as_drawn(self) -> None:
        found = 0
        for seed in range(12):
            mark = PlateMark(0, 180.0, 160.0, 50.0)
            rim, _ = rim_of(hall(seed), mark)
            found += rim.found
            if not rim.found:
                self.assertEqual((rim.x_px, rim.y_px, rim.axes_px), (180.0, 160.0, (50.0, 50.0)))
        self.assertLessEqual(found, 1)

    def test_a_mark_on_the_picture_s_edge_is_no_error(self) -> None:
        for x, y in ((0.0, 0.0), (359.0, 319.0), (0.0, 160.0)):
            rim, _ = rim_of(with_plate(2), PlateMark(0, x, y, 40.0))
            self.assertFalse(rim.found)


if __name__ == "__main__":
    unittest.main()
