"""Views laid over one another: by the hall, not by the lifter, whatever has more to hold to."""

import unittest

import cv2
import numpy as np

from keen_kettle.core.track.views import Views, look_through

WIDE, HIGH, COUNT = 480, 270, 16


class Film:
    """Pictures made by a function of their number."""

    def __init__(self, pictures: list[np.ndarray]) -> None:
        self._pictures = pictures
        self.t_s = np.arange(len(pictures)) / 8.0

    def bgr(self, number: int) -> np.ndarray:
        return self._pictures[number]


def hall(seed: int, lift_px: float = 0.0, pan_px: float = 0.0) -> np.ndarray:
    """A plain wall with a door and two posts; before it a lifter full of corners, lifted so high."""
    dice = np.random.default_rng(seed)
    wall = np.full((HIGH, WIDE + 240, 3), (168, 172, 170), np.uint8)
    wall[210:] = (86, 88, 90)
    for x, wide in ((150, 80), (330, 14), (520, 18)):
        cv2.rectangle(wall, (x, 40), (x + wide, 210), (110, 118, 126), -1)
    left = 120 + round(pan_px)
    picture = wall[:, left : left + WIDE].copy()
    lifter = np.kron(dice.integers(0, 255, (15, 10, 3)), np.ones((8, 8, 1))).astype(np.uint8)
    x, y = 250 - round(pan_px), round(110 - lift_px)
    picture[y : y + lifter.shape[0], x : x + lifter.shape[1]] = lifter
    noise = np.random.default_rng(int(97 * lift_px + pan_px + 1000)).normal(0, 2, picture.shape)
    return np.clip(picture + noise, 0, 255).astype(np.uint8)


def seen(pictures: list[np.ndarray]) -> Views:
    views = look_through(Film(pictures), COUNT, lambda: False)
    assert views is not None
    return views


class TestViews(unittest.TestCase):
    def test_before_a_plain_wall_the_lift_is_not_taken_for_the_camera(self) -> None:
        views = seen([hall(3, lift_px=5.0 * k) for k in range(COUNT)])
        self.assertEqual(len(views), COUNT)
        self.assertLess(np.abs(views.laid[:, :, 2]).max(), 6.0)
        moves = np.array([one[110:200, 255:325].mean() for one in views.moving])
        still = np.array([one[30:80, 40:200].mean() for one in views.moving])
        self.assertGreater(moves.mean(), 0.4)
        self.assertLess(still.mean(), 0.1)

    def test_a_picture_frozen_for_most_of_the_film_leaves_room_for_the_lift(self) -> None:
        still = hall(3)
        film = [still] * 200 + [hall(3, lift_px=5.0 * k) for k in range(COUNT)]
        views = seen(film)
        self.assertGreater(int((views.frames >= 199).sum()), COUNT // 2)
        quiet = [hall(3, lift_px=0.1 * k) for k in range(COUNT)]
        np.testing.assert_array_equal(seen(quiet).frames, np.arange(COUNT), "noise is no stillness")

    def test_a_pan_is_followed_while_the_lifter_moves_otherwise(self) -> None:
        pans = [6.0 * (k - COUNT // 2) for k in range(COUNT)]
        views = seen([hall(5, 5.0 * k, pan) for k, pan in enumerate(pans)])
        self.assertEqual(len(views), COUNT)
        middle = pans[int(np.argmin(np.abs(views.laid[:, 0, 2])))]
        off = views.laid[:, 0, 2] - (np.round(pans) - round(middle))
        self.assertLess(np.abs(off).max(), 6.0)
        self.assertLess(np.abs(views.laid[:, 1, 2]).max(), 6.0)

    def test_another_shot_is_left_out(self) -> None:
        dice = np.random.default_rng(8)
        other = np.kron(dice.integers(0, 255, (27, 48, 3)), np.ones((10, 10, 1))).astype(np.uint8)
        views = seen([hall(3, 5.0 * k) for k in range(11)] + [other] * 5)
        self.assertEqual(views.frames.tolist(), list(range(11)))


if __name__ == "__main__":
    unittest.main()
