"""Where a shot ends: cuts, dissolves and fades do, pans and light do not."""

import unittest

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track import PlateMark, State, track_bar
from keen_kettle.core.track.shots import ShotEnds, ShotWatch
from tests.core.test_hand import MARK, moving, other_hall
from tests.core.test_track import Picture, Slides

Grey = NDArray[np.uint8]
Light = NDArray[np.float64]


def hall(seed: int) -> Grey:
    """A wide hall of large and small things, as large as two pictures side by side."""
    rng = np.random.default_rng(seed)
    rough = cv2.resize(rng.uniform(40, 210, (9, 24)).astype(np.float32), (640, 240))
    fine = cv2.resize(rng.uniform(-25, 25, (60, 160)).astype(np.float32), (640, 240))
    return np.asarray(np.clip(rough + fine, 0, 255), np.uint8)


def noisy(pictures: list[Light]) -> list[Grey]:
    rng = np.random.default_rng(5)
    return [np.clip(one + rng.normal(0, 2, one.shape), 0, 255).astype(np.uint8) for one in pictures]


def plain(picture: Grey, count: int) -> list[Light]:
    return [picture.astype(float)] * count


def mixed(before: Grey, after: Grey, count: int) -> list[Light]:
    shares = np.arange(1, count + 1) / (count + 1)
    return [(1 - share) * before.astype(float) + share * after.astype(float) for share in shares]


def ended(pictures: list[Grey]) -> list[tuple[int, int]]:
    """In which pictures the first shot is found to have ended, and how many belong to it no more."""
    watch = ShotWatch(pictures[0])
    found = [(number, watch.gone(one)) for number, one in enumerate(pictures[1:], 1)]
    return [(number, gone) for number, gone in found if gone]


class TestShots(unittest.TestCase):
    def setUp(self) -> None:
        self.one, self.other = hall(1)[:, :320], hall(2)[:, :320]

    def test_a_dissolve_ends_the_shot_where_it_begins_both_ways(self) -> None:
        for count in (4, 12, 30):
            between = mixed(self.one, self.other, count)
            film = noisy(plain(self.one, 20) + between + plain(self.other, 20))
            for pictures in (film, film[::-1]):
                number, gone = ended(pictures)[0]
                self.assertLessEqual(number, 20 + count)
                self.assertGreaterEqual(number + 1 - gone, 20)
                self.assertLessEqual(number + 1 - gone, 20 + count // 4 + 1)

    def test_a_fade_into_black_ends_it(self) -> None:
        black = np.zeros_like(self.one)
        film = noisy(plain(self.one, 10) + mixed(self.one, black, 12) + plain(black, 3))
        self.assertTrue(ended(film))

    def test_a_cut_ends_it_at_once(self) -> None:
        film = noisy(plain(self.one, 10) + plain(self.other, 10))
        self.assertEqual(ended(film)[0], (10, 1))

    def test_a_cut_in_the_dark_does_too_and_noise_there_does_not(self) -> None:
        dim, other = (one // 6 for one in (self.one, self.other))
        self.assertEqual(ended(noisy(plain(dim, 10) + plain(other, 10)))[0], (10, 1))
        self.assertEqual(ended(noisy(plain(dim, 20) + plain(dim // 4, 20))), [])

    def test_a_pan_light_and_whoever_walks_by_do_not(self) -> None:
        wide = hall(3)
        pan = [wide[:, 6 * k : 6 * k + 320] for k in range(50)]
        light = [self.one * (1 - 0.02 * k) for k in range(30)]
        walking = []
        for k in range(40):
            picture = self.one.copy()
            picture[:, max(10 * k - 180, 0) : 10 * k] = 30
            walking.append(picture)
        for film in (pan, light, walking):
            self.assertEqual(ended(noisy([one.astype(float) for one in film])), [])

    def test_lamps_that_flicker_over_a_pan_do_not(self) -> None:
        wide = 90 + 0.15 * (hall(3).astype(float) - 125)
        glow = 1 + 0.15 * np.sin(2 * np.pi * np.arange(50) / 40)
        pan = [glow[k] * wide[:, 6 * k : 6 * k + 320] for k in range(50)]
        self.assertEqual(ended(noisy(pan)), [])

    def test_words_that_come_and_go_do_not(self) -> None:
        even = 100 + 0.1 * (self.one.astype(float) - 125)
        words = even.copy()
        words[90:130, 30:290] = 250
        self.assertEqual(ended(noisy([even] * 5 + [words] * 5 + [even] * 5)), [])

    def test_all_ends_of_a_film(self) -> None:
        third = hall(4)[:, :320]
        film = plain(self.one, 15) + plain(self.other, 15) + mixed(self.other, third, 10)
        ends = ShotEnds()
        for number, grey in enumerate(noisy(film + plain(third, 15))):
            ends.see(number, grey)
        self.assertEqual(ends.begins[0], 15)
        self.assertTrue(30 <= ends.begins[1] <= 33, ends.begins)


class TestPathOverADissolve(unittest.TestCase):
    def film(self) -> list[Picture]:
        first, second = moving(20), other_hall(20)
        between = [one.astype(np.uint8) for one in mixed(first[-1], second[0], 10)]
        return [*first, *between, *second]

    def test_the_path_ends_where_it_begins_and_what_follows_is_not_lost(self) -> None:
        track = track_bar(Slides(self.film()), [MARK])
        self.assertTrue(np.isfinite(track.x_px[:20]).all())
        self.assertFalse(np.isfinite(track.x_px[24:]).any())
        self.assertTrue((track.state[30:] == State.OUTSIDE).all())
        self.assertEqual(track.share(State.LOST), 0.0)

    def test_a_mark_in_either_shot_follows_both(self) -> None:
        track = track_bar(Slides(self.film()), [MARK, PlateMark(40, 220, 100, 30)])
        self.assertEqual(len(track.cuts), 2)
        self.assertTrue(np.isfinite(track.x_px[:20]).all())
        self.assertTrue(np.isfinite(track.x_px[30:]).all())
        self.assertLess(abs(float(track.y_px[49]) - 109), 1.5)


class TestRepeats(unittest.TestCase):
    def test_on_the_way_back_too_the_first_of_equal_pictures_is_its_own(self) -> None:
        shown = [one for one in moving(12, pace=4.0) for _ in range(3)]
        last = PlateMark(35, 80 + 4 * 11, 120, 30)
        for mark in (MARK, last):
            track = track_bar(Slides(shown), [mark])
            self.assertEqual(np.flatnonzero(~track.held[3:33]).tolist(), list(range(0, 30, 3)))
            self.assertTrue(np.isfinite(track.x_px).all())
