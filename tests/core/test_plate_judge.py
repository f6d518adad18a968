"""The judge of plates: sure of rims, not of what is round otherwise; mends circles; never needed."""

import hashlib
import unittest
from unittest import mock

import cv2
import numpy as np

from keen_kettle.core.track import plate_judge
from keen_kettle.core.track.plate_judge import CROP_PX, REACH, WEIGHTS, judge_circles
from keen_kettle.core.track.plate_looks import judged_rounds, plate_in_column, plate_near
from keen_kettle.core.track.rounds import Round
from keen_kettle.core.track.small_nets import WEIGHTS as ROOM
from keen_kettle.core.track.small_nets import crops_of
from tests.core.test_rough import MIDDLE, RADIUS, hall, with_plate

X, Y = (float(one) for one in MIDDLE)


def a_round(x: float, y: float, r: float) -> Round:
    return Round(x, y, r, 0.3, np.zeros(3))


class TestJudge(unittest.TestCase):
    def test_a_rim_is_sure_its_hub_and_the_wall_are_not(self) -> None:
        circles = np.array(
            [(X, Y, RADIUS), (X, Y, 28.0), (X + RADIUS, Y, RADIUS), (X, Y, 2.2 * RADIUS)]
        )
        sure, _ = judge_circles(with_plate(1), circles)
        self.assertGreater(sure[0], 0.99)
        self.assertLess(sure[1], sure[0], "a hub may look like a small plate, but less so")
        self.assertLess(sure[2:].max(), 0.3)
        dice = np.random.default_rng(3)
        places = np.column_stack([dice.uniform(40, 300, (20, 2)), dice.uniform(20, 60, 20)])
        self.assertLess(np.mean(judge_circles(hall(4), places)[0] > 0.5), 0.1)

    def test_a_head_a_bell_and_a_dark_ball_are_no_plates(self) -> None:
        picture = hall(2)
        for share in np.linspace(1, 0.1, 40):
            ink = tuple((np.array([30, 30, 30]) * (1.3 - 0.4 * share)).tolist())
            at = (round(80 - 12 * (1 - share)), round(90 - 18 * (1 - share)))
            cv2.circle(picture, at, round(50 * share), ink, -1, cv2.LINE_AA)
        cv2.ellipse(picture, (300, 80), (26, 34), 0, 0, 360, (120, 150, 200), -1, cv2.LINE_AA)
        cv2.ellipse(picture, (298, 60), (26, 20), 0, 0, 360, (30, 35, 40), -1, cv2.LINE_AA)
        cv2.circle(picture, (200, 240), 40, (30, 30, 32), -1, cv2.LINE_AA)
        cv2.ellipse(picture, (200, 200), (24, 26), 0, 180, 360, (30, 30, 32), 8, cv2.LINE_AA)
        picture = np.asarray(cv2.GaussianBlur(picture, (0, 0), 1.3))
        round_things = [(80.0, 90.0, 50.0), (300.0, 80.0, 31.0), (200.0, 240.0, 40.0)]
        sure, _ = judge_circles(picture, np.array(round_things))
        self.assertLess(sure.max(), 0.3)

    def test_a_circle_that_is_off_is_mended(self) -> None:
        dice = np.random.default_rng(5)
        for _ in range(12):
            (dx, dy), size = dice.uniform(-0.25, 0.25, 2), np.exp(dice.uniform(-0.22, 0.22))
            at = plate_near(with_plate(1), X + dx * RADIUS, Y + dy * RADIUS, RADIUS * size)
            assert at is not None
            self.assertLess(np.hypot(at[0] - X, at[1] - Y), 0.08 * RADIUS)
            self.assertLess(abs(at[2] / RADIUS - 1), 0.08)
        self.assertIsNone(plate_near(hall(6), 180, 160, 50))

    def test_round_a_hub_the_rim_is_found_and_in_a_column_the_plate(self) -> None:
        picture = with_plate(1)
        first, *others = judged_rounds(picture, [a_round(X + 2, Y, 27.0), a_round(60, 60, 20)])
        self.assertGreater(first.sure, 0.8)
        self.assertLess(abs(first.r / RADIUS - 1), 0.08)
        self.assertEqual(len(others), 2, "what was found otherwise stays")
        moving = np.ones(picture.shape[:2], np.float32)
        seen = plate_in_column(picture, moving, np.eye(2, 3), X + 0.2 * RADIUS, 1.1 * RADIUS)
        assert seen is not None
        self.assertLess(np.hypot(seen.x - X, seen.y - Y), 0.1 * RADIUS)
        self.assertIsNone(plate_in_column(picture, 0 * moving, np.eye(2, 3), X, RADIUS))
        self.assertIsNone(plate_in_column(hall(3), moving, np.eye(2, 3), X, RADIUS))

    def test_without_its_library_nothing_is_sure_and_nothing_is_lost(self) -> None:
        found = [a_round(X, Y, 27.0)]
        with mock.patch.object(plate_judge, "network", return_value=None):
            sure, mended = judge_circles(with_plate(1), np.array([(X, Y, RADIUS)]))
            self.assertEqual((sure.tolist(), mended.tolist()), ([0.0], [[X, Y, RADIUS]]))
            self.assertEqual(judged_rounds(with_plate(1), found), found)
            self.assertIsNone(plate_near(with_plate(1), X, Y, RADIUS))

    def test_crops_reach_beyond_the_picture(self) -> None:
        circles = np.array([(0.0, 0, 40), (359, 319, 60), (-500, 0, 10), (X, Y, 900), (X, Y, 30)])
        crops = crops_of(with_plate(1), circles, CROP_PX, REACH)
        self.assertEqual(crops.shape, (5, 48, 48, 3))
        for circle, crop in zip(circles, crops, strict=True):
            alone = crops_of(with_plate(1), circle[None], CROP_PX, REACH)[0]
            self.assertLess(np.abs(crop.astype(int) - alone).max(), 3)

    def test_the_weights_are_those_that_the_card_names(self) -> None:
        digest = hashlib.sha256((ROOM / WEIGHTS).read_bytes()).hexdigest()
        self.assertIn(digest, (ROOM / "README.md").read_text())


if __name__ == "__main__":
    unittest.main()
