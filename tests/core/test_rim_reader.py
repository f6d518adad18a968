"""The reader of rims: knows what lies within one, says how unsure it is, and is never needed."""

import hashlib
import unittest
from dataclasses import replace
from unittest import mock

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track import nearby, plate_judge, rough, small_nets
from keen_kettle.core.track.rim import Rim
from keen_kettle.core.track.rim_reader import SURE, WEIGHTS, ReadRim, read_rim
from keen_kettle.core.track.rough import rim_by_mark
from tests.core.test_camera import answer, painted
from tests.core.test_rough import MIDDLE, RADIUS, hall, with_plate

X, Y = (float(one) for one in MIDDLE)
Picture = NDArray[np.uint8]


def dim_rim_with_stripe() -> Picture:
    """A dark plate on a dark wall, with a bright stripe at 0.88 of its radius; soft, with noise."""
    picture = np.full((320, 360, 3), 46, np.uint8)
    at = (round(X), round(Y))
    cv2.circle(picture, at, RADIUS, (30, 30, 34), -1, cv2.LINE_AA)
    cv2.circle(picture, at, round(0.88 * RADIUS), (60, 200, 220), 4, cv2.LINE_AA)
    cv2.circle(picture, at, 9, (170, 170, 170), -1, cv2.LINE_AA)
    noise = np.random.default_rng(2).normal(0, 2, picture.shape)
    soft = cv2.GaussianBlur(picture.astype(float), (0, 0), 1.5) + noise
    return np.asarray(np.clip(soft, 0, 255), np.uint8)


class TestReader(unittest.TestCase):
    def test_a_rim_is_read_from_round_about_and_within_what_it_says(self) -> None:
        dice, missed = np.random.default_rng(8), 0
        for _ in range(10):
            (dx, dy), size = dice.normal(0, 0.12, 2), np.exp(dice.normal(0, 0.12))
            read = read_rim(with_plate(1), X + dx * RADIUS, Y + dy * RADIUS, size * RADIUS)
            assert read is not None
            self.assertLess(np.hypot(read.x - X, read.y - Y), 0.06 * RADIUS)
            self.assertLess(abs(read.r / RADIUS - 1), 0.06)
            missed += abs(read.r / RADIUS - 1) > 2 * read.size_sigma
        self.assertLessEqual(missed, 1)

    def test_where_no_plate_is_it_is_less_sure(self) -> None:
        def unsure(picture: Picture, x: float, y: float) -> float:
            read = read_rim(picture, x, y, float(RADIUS))
            assert read is not None
            return max(read.place_sigma, read.size_sigma)

        dice = np.random.default_rng(4)
        walls = [unsure(hall(3), *dice.uniform(60, 260, 2)) for _ in range(12)]
        self.assertLess(unsure(with_plate(1), X, Y), SURE)
        self.assertGreater(np.median(walls), 2 * unsure(with_plate(1), X, Y))

    def test_the_mirrored_picture_is_read_as_the_mirrored_rim(self) -> None:
        picture, (x, y, r) = with_plate(1), (X + 6, Y - 5, 1.1 * RADIUS)
        one = read_rim(picture, x, y, r)
        other = read_rim(np.ascontiguousarray(picture[:, ::-1]), picture.shape[1] - 1 - x, y, r)
        assert one is not None and other is not None
        self.assertAlmostEqual(picture.shape[1] - 1 - other.x, one.x, delta=0.05 * RADIUS)
        self.assertAlmostEqual(other.y, one.y, delta=0.05 * RADIUS)
        self.assertAlmostEqual(other.r, one.r, delta=0.05 * RADIUS)

    def test_a_narrow_plate_is_read_narrow(self) -> None:
        picture = hall(1)
        cv2.ellipse(
            picture, ((X, Y), (1.6 * RADIUS, 2 * RADIUS), 0), (150, 70, 30), -1, cv2.LINE_AA
        )
        read = read_rim(picture, X, Y, float(RADIUS))
        assert read is not None
        self.assertAlmostEqual(read.narrow, 0.8, delta=0.07)

    def test_without_its_library_nothing_is_read_and_edges_are_asked(self) -> None:
        with mock.patch.object(plate_judge, "network", return_value=None):
            with mock.patch("keen_kettle.core.track.rim_reader.network", return_value=None):
                self.assertIsNone(read_rim(with_plate(1), X, Y, float(RADIUS)))
            rim, _ = rim_by_mark(with_plate(1), X + 4, Y - 3, 1.08 * RADIUS)
        self.assertTrue(rim.found)
        self.assertLess(abs(max(rim.axes_px) / RADIUS - 1), 0.05)

    def test_the_weights_are_those_that_the_card_names(self) -> None:
        file = small_nets.WEIGHTS / WEIGHTS
        digest = hashlib.sha256(file.read_bytes()).hexdigest()
        self.assertIn(digest, file.with_name("README.md").read_text())


class TestMeasuredWhereRead(unittest.TestCase):
    def test_a_stripe_within_a_dim_rim_is_not_taken_for_it(self) -> None:
        dice = np.random.default_rng(6)
        for _ in range(6):
            (dx, dy), size = dice.normal(0, 0.1, 2), np.exp(dice.normal(0, 0.1))
            mark = X + dx * RADIUS, Y + dy * RADIUS, size * RADIUS
            rim, _ = rim_by_mark(dim_rim_with_stripe(), *mark)
            self.assertTrue(rim.found)
            self.assertLess(abs(max(rim.axes_px) / RADIUS - 1), 0.06)

    def test_edges_are_believed_only_where_the_rim_was_read(self) -> None:
        picture = with_plate(1)
        near, nearer = (ReadRim(X, Y, k * RADIUS, 1.0, 0.0, 0.03, 0.03) for k in (1.03, 1.0))
        (rim, _), (same, _) = (rough._measured(picture, read, picture) for read in (near, nearer))
        self.assertLess(abs(max(rim.axes_px) / RADIUS - 1), 0.012, "measured by its edge")
        differs = np.log(max(rim.axes_px) / near.r) * nearby.DIFFERS * near.r
        self.assertGreater(rim.sigma_px, abs(differs))
        self.assertGreater(rim.sigma_px, 1.3 * same.sigma_px, "the two differ")
        far = ReadRim(X, Y, 1.3 * RADIUS, 0.9, 10.0, 0.03, 0.03)
        rim, _ = rough._measured(picture, far, picture)
        self.assertEqual(
            (rim.axes_px, rim.angle_deg), ((0.9 * far.r, far.r), 10.0), "as it was read"
        )
        self.assertAlmostEqual(rim.sigma_px, 0.03 * far.r)

    def test_a_rim_whose_edge_is_not_clear_says_so(self) -> None:
        _, track = painted()
        self.assertTrue(track.rim.clear)
        self.assertNotIn("edge is known", " ".join(answer(track).notes))
        unclear = replace(track.rim, sigma_px=0.05 * max(track.rim.axes_px))
        notes = " ".join(answer(replace(track, rim=unclear)).notes)
        self.assertIn("edge is known to 5 % only, and so are lengths and speeds", notes)
        self.assertIn("mark it on a frame", notes)

    def test_the_fewer_edges_a_rim_has_the_nearer_it_lies_to_what_was_read(self) -> None:
        read = ReadRim(100.0, 80.0, 50.0, 0.8, 10.0, 0.04, 0.04)
        edges = Rim(104.0, 80.0, (54.0, 54.0), 0.0, True, 0.5, 0.0)
        none, half, all_round = (
            nearby.between(replace(edges, support=support), read) for support in (0.2, 0.4, 0.9)
        )
        self.assertAlmostEqual(max(none.axes_px), 50.0)
        self.assertAlmostEqual(min(none.axes_px), 40.0)
        self.assertAlmostEqual(none.angle_deg, 10.0)
        self.assertAlmostEqual(half.x_px, 102.0)
        self.assertAlmostEqual(max(half.axes_px), np.sqrt(50.0 * 54.0))
        self.assertAlmostEqual(min(half.axes_px) / max(half.axes_px), 0.9)
        self.assertEqual(all_round.x_px, edges.x_px, "the edges' own")
        self.assertAlmostEqual(max(all_round.axes_px), 54.0)
        flat = nearby.between(replace(edges, axes_px=(54.0, 50.0), support=0.9), read)
        np.testing.assert_allclose(
            flat.radii(np.array([0.0, np.pi / 2])), [54.0, 50.0], err_msg="its own, however turned"
        )


if __name__ == "__main__":
    unittest.main()
