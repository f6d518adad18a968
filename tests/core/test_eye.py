"""Rims, plates and verticals as real films show them: soft, dark, in shadow, cut, on a moving camera."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from unittest import mock

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import MarkError
from keen_kettle.core.track import PlateMark, propose, propose_plate
from keen_kettle.core.track.propose import _inner_ring, _Seen, _without_standing
from keen_kettle.core.track.rim import Rim, fit_rim
from keen_kettle.core.track.travellers import QUITE_SURE, Traveller
from keen_kettle.core.track.vertical import UNKNOWN_HELD_DEG, find_vertical, vertical_along
from keen_kettle.core.track.views import Views
from tests.core.test_track import Slides

Picture = NDArray[np.uint8]
FINE = 4
"""Drawn so many times larger and shrunk, so that edges lie between pixels."""


def plate(
    picture: Picture,
    x: float,
    y: float,
    r: float,
    grey: int = 30,
    ring: int = 90,
    turn: float = 0.0,
) -> None:
    """A plate with a ring of letters and a hub that are clearer than its rim."""
    at = (round(x * FINE), round(y * FINE))

    def disc(share: float, tone: int, thick: int = -1) -> None:
        wide = thick if thick < 0 else max(round(thick * r * FINE / 100), 1)
        cv2.circle(picture, at, round(share * r * FINE), (tone,) * 3, wide, cv2.LINE_AA)

    disc(1.0, grey)
    disc(0.64, ring, 5)
    for k in range(3):
        angle = turn + 2.1 * k
        spot = (x + 0.5 * r * np.cos(angle), y + 0.5 * r * np.sin(angle))
        cv2.circle(
            picture,
            (round(spot[0] * FINE), round(spot[1] * FINE)),
            round(0.08 * r * FINE),
            (ring,) * 3,
            -1,
        )
    disc(0.3, ring - 20)


def hall(wide: int, high: int, floor: int, seed: int = 1, lean_deg: float = 0.0) -> Picture:
    """A wall with posts, boxes and racked discs before a dark floor (at the drawing's size)."""
    rng = np.random.default_rng(seed)
    picture = np.full((high * FINE, wide * FINE, 3), 74, np.uint8)
    slope = np.tan(np.radians(lean_deg))
    for x in range(-40, wide + 40, 46):
        foot, top = round((x - slope * floor / 2) * FINE), round((x + slope * floor / 2) * FINE)
        tone = int(rng.integers(50, 110))
        cv2.line(picture, (foot, floor * FINE), (top, 0), (tone,) * 3, 3 * FINE, cv2.LINE_AA)
    for _ in range(14):
        x, y = int(rng.integers(0, wide)), int(rng.integers(0, floor))
        colour = tuple(int(v) for v in rng.integers(40, 170, 3))
        cv2.rectangle(
            picture,
            (x * FINE, y * FINE),
            ((x + int(rng.integers(8, 40))) * FINE, (y + int(rng.integers(8, 30))) * FINE),
            colour,
            -1,
        )
    for x in range(20, wide, 70):
        plate(picture, x, 0.35 * floor, 16, 46, 70)
    picture[floor * FINE :] = 46
    return picture


def shrunk(picture: Picture, soft: float = 0.8, noise: float = 2.0, seed: int = 5) -> Picture:
    high, wide = picture.shape[0] // FINE, picture.shape[1] // FINE
    small = cv2.resize(picture, (wide, high), interpolation=cv2.INTER_AREA)
    grain = np.random.default_rng(seed).normal(0, noise, small.shape)
    seen = cv2.GaussianBlur(small, (0, 0), soft).astype(float) + grain
    return np.clip(seen, 0, 255).astype(np.uint8)


class TestSoftRims(unittest.TestCase):
    X, Y = 150.25, 120.5

    def rims(self, r: float, soft: float, shadow: int = 0, grey: int = 30) -> list[Rim]:
        """Rims from six rough marks."""
        rng = np.random.default_rng(4)
        picture = np.full((240 * FINE, 300 * FINE, 3), 62, np.uint8)
        floor = self.Y + r
        picture[round((floor - 0.3 * r) * FINE) :] = 46
        if shadow:
            below = (round(self.X * FINE), round((self.Y + shadow) * FINE))
            cv2.circle(picture, below, round(r * FINE), (grey,) * 3, -1)
            picture[: round(self.Y * FINE)] = 62
        plate(picture, self.X, self.Y, r, grey)
        seen = shrunk(picture, soft)
        marks = rng.normal(0, 0.04 * r, (6, 2))
        sizes = r * rng.uniform(0.95, 1.05, 6)
        return [
            fit_rim(seen, self.X + dx, self.Y + dy, size)[0]
            for (dx, dy), size in zip(marks, sizes, strict=True)
        ]

    def test_a_soft_weak_rim_is_found_from_a_rough_mark(self) -> None:
        for r in (34, 60, 90):
            for rim in self.rims(r, 2.5):
                with self.subTest(r=r):
                    self.assertTrue(rim.found)
                    self.assertLess(abs(max(rim.axes_px) / r - 1), 0.03)

    def test_a_soft_rim_says_that_its_scale_is_less_sure(self) -> None:
        sharp, soft = self.rims(60, 0.8)[0], self.rims(60, 2.5)[0]
        self.assertLess(sharp.sigma_px / 60, 0.01)
        self.assertGreater(soft.sigma_px / 60, 0.02)

    def test_the_shadow_on_the_floor_does_not_drag_the_circle_down(self) -> None:
        for r, shadow in ((60, 12), (90, 10), (90, 16)):
            for rim in self.rims(r, 0.8, shadow):
                with self.subTest(r=r, shadow=shadow):
                    self.assertLess(abs(rim.y_px - self.Y) / (2 * r), 0.015)
                    self.assertLess(abs(max(rim.axes_px) / r - 1), 0.025)

    def test_nothing_round_is_no_rim(self) -> None:
        """Random places in a cluttered hall: at most one in a hundred passes."""
        seen = shrunk(hall(300, 240, 200), 1.2)
        rng = np.random.default_rng(9)
        empty = []
        for _ in range(40):
            x, y, r = rng.uniform([60, 110, 25], [240, 190, 50])
            empty.append(fit_rim(seen, float(x), float(y), float(r))[0].found)
        self.assertLessEqual(sum(empty), 1)


class TestPlates(unittest.TestCase):
    WIDE, HIGH, FLOOR = 320, 240, 205

    def film(
        self,
        place: Callable[[int], tuple[float, float]],
        r: float = 30,
        frames: int = 40,
        camera: Callable[[int], int] = lambda k: 0,
        far: float = 0.0,
        above: float = 0.0,
    ) -> Slides:
        """A plate that moves over a cluttered hall; `camera` shifts the view, `far` adds the plate
        at the bar's other end at this share of the size, `above` one that hangs so much higher."""
        background = hall(self.WIDE + 120, self.HIGH, self.FLOOR)
        pictures = []
        for k in range(frames):
            left = (60 + camera(k)) * FINE
            view = background[:, left : left + self.WIDE * FINE].copy()
            x, y = place(k)
            x -= camera(k)
            if above:
                plate(view, place(0)[0] - camera(k), place(0)[1] - above, r)
            if far:
                plate(view, x + 0.9 * r, y - 0.25 * r, far * r, 40, 110)
            plate(view, x, y, r, turn=0.05 * k)
            pictures.append(shrunk(view, 1.0, seed=k))
        return Slides(pictures)

    @staticmethod
    def lifted(low: float, high: float, x: float = 150.0) -> Callable[[int], tuple[float, float]]:
        """From the floor at frame 10 to the top at 22, and down again."""

        def place(k: int) -> tuple[float, float]:
            share = float(np.interp(k, [0, 10, 22, 28, 38], [0, 0, 1, 1, 0]))
            return x, low + share * (high - low)

        return place

    def near(self, mark: PlateMark | None, place: tuple[float, float], r: float) -> None:
        assert mark is not None
        self.assertLess(np.hypot(mark.x_px - place[0], mark.y_px - place[1]), 0.15 * r)
        self.assertLess(abs(mark.r_px / r - 1), 0.08)

    def test_a_dark_plate_among_racked_ones_is_found_and_its_ring_is_not(self) -> None:
        place = self.lifted(175, 75)
        mark = propose_plate(self.film(place))
        assert mark is not None
        self.near(mark, place(mark.frame), 30)

    def test_a_partial_pull_is_enough(self) -> None:
        place = self.lifted(175, 141)
        mark = propose_plate(self.film(place))
        assert mark is not None
        self.near(mark, place(mark.frame), 30)

    def test_a_shrug_is_enough(self) -> None:
        def place(k: int) -> tuple[float, float]:
            return 150.0, 120.0 - 13.0 * float(np.interp(k, [0, 12, 20, 26, 38], [0, 0, 1, 1, 0]))

        mark = propose_plate(self.film(place))
        assert mark is not None
        self.near(mark, place(mark.frame), 30)

    def test_a_bar_that_is_only_rolled_is_not(self) -> None:
        def place(k: int) -> tuple[float, float]:
            return 140.0 + 20.0 * float(np.interp(k, [0, 12, 20, 26, 38], [0, 0, 1, 1, 0])), 175.0

        self.assertIsNone(propose_plate(self.film(place)))

    def test_where_the_near_plate_is_seen_but_not_its_rim_the_far_one_is_not_proposed(self) -> None:
        film = self.film(self.lifted(175, 75))
        confirmed, mates = propose._confirmed, []

        def larger(film: propose._Film, one: propose._Rated) -> propose._Rated:
            mates.append(replace(one, r=1.3 * one.r))
            return mates[-1]

        def only_the_far_one(
            film: propose._Film, one: propose._Rated, rise: float
        ) -> PlateMark | None:
            return None if one in mates else confirmed(film, one, rise)

        near = mock.patch.object(propose, "_mate", larger)
        with near, mock.patch.object(propose, "_confirmed", only_the_far_one):
            self.assertIsNone(propose_plate(film))
        self.assertGreater(min(one.traveller.sure for one in mates), QUITE_SURE)

    def test_a_plate_that_rests_half_out_of_the_picture_is_found(self) -> None:
        place = self.lifted(226, 110)
        mark = propose_plate(self.film(place))
        assert mark is not None
        self.near(mark, place(mark.frame), 30)

    def test_what_is_proposed_has_its_centre_in_the_picture(self) -> None:
        place = self.lifted(246, 110)
        mark = propose_plate(self.film(place))
        assert mark is not None
        self.assertLess(mark.y_px, self.HIGH)
        self.near(mark, place(mark.frame), 30)
        seen = self.seen(self.film(self.lifted(230, 110)), 30.0, 230.0, 110.0)
        below = replace(seen[0], rim=replace(seen[0].rim, y_px=self.HIGH + 3.0))
        self.assertEqual([one.middle_is_seen for one in (*seen, below)], [True, True, False])

    def test_a_panned_camera_does_not_set_the_hall_in_motion(self) -> None:
        place = self.lifted(175, 75)

        def camera(k: int) -> int:
            return int(50 * np.sin(k / 12))

        mark = propose_plate(self.film(place, camera=camera))
        assert mark is not None
        x, y = place(mark.frame)
        self.near(mark, (x - camera(mark.frame), y), 30)

    def test_of_two_plates_on_one_bar_the_near_one_is_taken(self) -> None:
        place = self.lifted(175, 75)
        mark = propose_plate(self.film(place, far=0.72))
        assert mark is not None
        self.near(mark, place(mark.frame), 30)

    def test_where_the_near_one_is_refused_the_far_one_is_not_taken(self) -> None:
        film = self.film(self.lifted(175, 75), far=0.72)
        confirmed, sizes = propose._confirmed, []

        def not_the_near_one(
            film: propose._Film, one: propose._Rated, rise: float
        ) -> PlateMark | None:
            sizes.append(one.r / film.views.zoom)
            return None if sizes[-1] > 27 else confirmed(film, one, rise)

        no_mate = mock.patch.object(propose, "_mate", return_value=None)
        with no_mate, mock.patch.object(propose, "_confirmed", not_the_near_one):
            self.assertIsNone(propose_plate(film))
        self.assertLess(min(sizes), 24, "the far one was asked too")

    def test_where_nothing_round_is_lifted_nothing_is_proposed(self) -> None:
        resting = self.film(lambda k: (150.0, 175.0))
        self.assertIsNone(propose_plate(resting))
        passing = self.film(lambda k: (20.0 + 7 * k, 110 + 3 * np.sin(k / 2)))
        self.assertIsNone(propose_plate(passing))

    @staticmethod
    def seen(film: Slides, r: float, *heights: float) -> list[_Seen]:
        """The rims at 150 across, found in the pictures 0 and 24 at these heights."""
        views = Views(1.0, np.array([0, 24]), [], np.array([np.eye(2, 3)] * 2), [])
        rims = [
            (film.bgr(frame), fit_rim(film.bgr(frame), 150.0, y, r)[0])
            for frame, y in zip((0, 24), heights, strict=True)
        ]
        return [_Seen(k, 24 * k, picture, rim, views) for k, (picture, rim) in enumerate(rims)]

    def test_what_stands_at_both_ends_of_a_way_has_not_travelled(self) -> None:
        """A plate that is tipped by half its radius, below one that hangs in its column."""
        film = self.film(self.lifted(175, 160), above=95)
        seen = self.seen(film, 30.0, 175.0, 80.0)
        self.assertEqual(_without_standing(seen), seen[:1])
        gone = self.film(self.lifted(175, 80))
        way = self.seen(gone, 30.0, 175.0, 80.0)
        self.assertEqual(_without_standing(way), way)

    def test_a_ring_that_rises_little_within_a_larger_rim_is_no_plate(self) -> None:
        film = self.film(self.lifted(170, 156), r=36)
        rings = self.seen(film, 23.0, 170.0, 156.0)
        self.assertLess(max(max(one.rim.axes_px) for one in rings), 27)
        self.assertTrue(_inner_ring(rings, 14.0, lambda: False))
        self.assertFalse(_inner_ring(rings, 100.0, lambda: False))

    def test_rings_that_are_less_clear_than_other_sizes_are_no_rim(self) -> None:
        dull = propose._Ring(1.0, 0.1, -0.02, np.zeros(24))
        views = Views(1.0, np.array([0]), [], np.eye(2, 3)[None], [])
        one = Traveller({}, {}, 30.0, 1.0)
        rings = mock.patch.object(propose, "_rings_of", return_value=[dull])
        with rings, mock.patch.object(propose, "_stacked_rings", return_value=((), ())):
            self.assertIsNone(propose._rate(views, one))

    def test_a_plate_that_is_lifted_past_one_in_a_rack_is_found(self) -> None:
        place = self.lifted(175, 85)
        mark = propose_plate(self.film(place, above=95))
        assert mark is not None
        self.near(mark, place(mark.frame), 30)

    def test_a_hard_cut_to_another_hall_is_not_taken_for_a_lift(self) -> None:
        first = self.film(lambda k: (150.0, 175.0), frames=20)
        other = self.film(lambda k: (150.0, 95.0), frames=20)
        pictures = [*first.pictures, *(picture[:, ::-1].copy() for picture in other.pictures)]
        self.assertIsNone(propose_plate(Slides(pictures)))


class TestVertical(unittest.TestCase):
    def test_a_line_drawn_either_way_gives_its_lean(self) -> None:
        up = vertical_along((100, 300, 100 + 200 * np.tan(np.radians(3)), 100), held=False)
        x1, y1, x2, y2 = 100, 300, 100 + 200 * np.tan(np.radians(3)), 100
        down = vertical_along((x2, y2, x1, y1), held=True)
        self.assertAlmostEqual(up.lean_deg, 3.0, places=6)
        self.assertAlmostEqual(down.lean_deg, 3.0, places=6)
        self.assertLess(up.sigma_deg, down.sigma_deg)
        self.assertGreater(vertical_along((0, 70, 0, 0), False).sigma_deg, up.sigma_deg)

    def test_a_line_that_is_short_or_lies_is_refused(self) -> None:
        for line, words in (((0, 0, 5, 50), "too short"), ((0, 0, 200, 10), "upright")):
            with self.assertRaisesRegex(MarkError, words):
                vertical_along(line, held=False)

    def find(self, lean_deg: float, held: bool = True) -> tuple[float, float, bool]:
        seen = shrunk(hall(480, 270, 230, lean_deg=lean_deg), 0.9)
        found = find_vertical(lambda k: seen, [0], np.array([240.0]), 20.0, held)
        return found.lean_deg, found.sigma_deg, found.found

    def test_the_lean_of_posts_is_found(self) -> None:
        for lean in (-5.0, -2.0, 0.0, 1.0, 4.0):
            found, sigma, seen = self.find(lean)
            with self.subTest(lean=lean):
                self.assertTrue(seen)
                self.assertLess(abs(found - lean), max(3 * sigma, 0.5))

    def test_bars_beside_a_film_are_no_posts(self) -> None:
        bare = np.full((270, 480, 3), 90, np.uint8)
        barred = np.pad(bare, ((0, 0), (170, 170), (0, 0)))
        found = find_vertical(lambda k: barred, [0, 1, 2], np.array([410.0]), 20.0, True)
        self.assertFalse(found.found, "their edges stand upright in every picture")
        leaning = shrunk(hall(480, 270, 230, lean_deg=4.0), 0.9)
        barred = np.pad(leaning, ((0, 0), (170, 170), (0, 0)))
        found = find_vertical(lambda k: barred, [0, 1, 2], np.array([410.0]), 20.0, True)
        self.assertLess(abs(found.lean_deg - 4.0), max(3 * found.sigma_deg, 0.5))

    def test_where_nothing_stands_upright_it_says_so(self) -> None:
        bare = np.full((270, 480, 3), 90, np.uint8)
        found = find_vertical(lambda k: bare, [0], np.array([240.0]), 20.0, True)
        self.assertFalse(found.found)
        self.assertEqual((found.lean_deg, found.sigma_deg), (0.0, UNKNOWN_HELD_DEG))


if __name__ == "__main__":
    unittest.main()
