"""Where in its pictures a film is, between plain bars and between blurred sides."""

import unittest

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from keen_kettle.core.track.framing import film_part

Grey = NDArray[np.uint8]

WIDE, HIGH, LOOKS = 240, 320, 6


def hall(seed: int = 0, steady: bool = False) -> list[Grey]:
    """Looks at an upright film of something uneven that moves, unless it is steady."""
    grain = np.random.default_rng(seed).normal(0, 1, (HIGH + 60, WIDE + 60))
    fine, broad = (cv2.GaussianBlur(grain, (0, 0), soft) for soft in (1.2, 9))
    made = 110 + 25 * fine / fine.std() + 30 * broad / broad.std()
    shifts = [0 if steady else 7 * k for k in range(LOOKS)]
    views = (made[shift : shift + HIGH, shift : shift + WIDE] for shift in shifts)
    return [np.asarray(view.clip(0, 255), np.uint8) for view in views]


def between(film: list[Grey], side: int, colour: int) -> list[Grey]:
    """The film between plain bars."""
    return [np.pad(one, ((0, 0), (side, side)), constant_values=colour) for one in film]


def blurred(film: list[Grey], side: int) -> list[Grey]:
    """The film before its own picture, enlarged and blurred."""
    whole = []
    for one in film:
        ground = cv2.GaussianBlur(cv2.resize(one, (WIDE + 2 * side, HIGH)), (0, 0), 12)
        ground[:, side : side + WIDE] = one
        whole.append(np.asarray(ground, np.uint8))
    return whole


class TestFilmPart(unittest.TestCase):
    def assert_part(
        self, looks: list[Grey], rows: tuple[int, int], columns: tuple[int, int]
    ) -> None:
        down, across = film_part(looks)
        found = np.array([down.start, down.stop, across.start, across.stop])
        self.assertLessEqual(np.abs(found - [*rows, *columns]).max(), 5, (down, across))

    def test_a_film_that_fills_its_pictures_is_whole(self) -> None:
        for seed in range(4):
            self.assertEqual(film_part(hall(seed)), (slice(0, HIGH), slice(0, WIDE)))

    @settings(max_examples=15, deadline=None)
    @given(st.integers(12, 200), st.sampled_from([0, 16, 255]))
    def test_plain_bars_are_none_of_it(self, side: int, colour: int) -> None:
        self.assert_part(between(hall(1), side, colour), (0, HIGH), (side, side + WIDE))
        lying = [one.T for one in between(hall(1), side, colour)]
        self.assert_part(lying, (side, side + WIDE), (0, HIGH))

    def test_bars_with_words_on_them_are_none_of_it(self) -> None:
        looks = between(hall(2), 80, 0)
        for one in looks:
            cv2.putText(one, "set 3", (4, 60), cv2.FONT_HERSHEY_SIMPLEX, 0.7, 255, 2)
        self.assert_part(looks, (0, HIGH), (80, 80 + WIDE))

    def test_blurred_sides_are_none_of_it(self) -> None:
        for side in (60, 150):
            self.assert_part(blurred(hall(3), side), (0, HIGH), (side, side + WIDE))

    def test_a_dark_wall_at_one_side_is_the_hall(self) -> None:
        looks = hall(4, steady=True)
        for one in looks:
            one[:, :70] = 9
        self.assertEqual(film_part(looks), (slice(0, HIGH), slice(0, WIDE)))

    def test_a_picture_that_is_all_plain_is_whole(self) -> None:
        plain = [np.full((HIGH, WIDE), 40, np.uint8)] * LOOKS
        self.assertEqual(film_part(plain), (slice(0, HIGH), slice(0, WIDE)))


if __name__ == "__main__":
    unittest.main()
