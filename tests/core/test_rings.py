"""A plate is found by its rings, whatever turns on it or sticks out of it."""

import unittest

import cv2
import numpy as np

from keen_kettle.core.track import PlateMark, State, rim_of, track_bar
from keen_kettle.core.track.cues import Guess
from keen_kettle.core.track.plate import Follower, grey_of
from keen_kettle.core.track.rings import Rings

RADIUS, WIDE, HIGH, COUNT = 36, 420, 360, 60
TURNS = np.linspace(0, 2 * np.pi, 120, endpoint=False)
FLOOR = (120, 150, 170)
Picture = np.ndarray


def plate(
    picture: Picture, x: float, y: float, turned_deg: float = 0.0, end: tuple[float, float] = (0, 0)
) -> None:
    """A black plate with a red ring, letters that turn with it, and a bar's end that sticks out of it."""
    at, fine = (round(16 * x), round(16 * y)), {"lineType": cv2.LINE_AA, "shift": 4}
    cv2.circle(picture, at, 16 * RADIUS, (32, 30, 30), -1, **fine)
    cv2.circle(picture, at, 16 * 30, (40, 30, 130), 6, **fine)
    cv2.circle(picture, at, 16 * 14, (92, 90, 90), 2, **fine)
    for letter in range(0, 100, 20):
        way = np.radians(turned_deg + letter)
        place = x + 21 * np.cos(way), y + 21 * np.sin(way)
        cv2.circle(
            picture, (round(16 * place[0]), round(16 * place[1])), 32, (130,) * 3, -1, **fine
        )
    far = round(16 * (x + end[0])), round(16 * (y + end[1]))
    cv2.line(picture, at, far, (225, 228, 230), 9, cv2.LINE_AA, 4)


def view(x: float, y: float, light: float = 1.0, **more: object) -> Picture:
    picture = np.full((HIGH, WIDE, 3), 70, np.uint8)
    plate(picture, x, y, **more)  # type: ignore[arg-type]
    return np.asarray(np.clip(light * picture.astype(float), 0, 255), np.uint8)


def rings(picture: Picture, x: float, y: float) -> Rings | None:
    return Rings.of(picture, x, y, TURNS, np.full(len(TURNS), float(RADIUS)))


class TestRings(unittest.TestCase):
    def setUp(self) -> None:
        found = rings(view(200, 180, end=(-10, 22)), 200, 180)
        assert found is not None
        self.rings = found

    def test_the_centre_is_found_of_a_plate_that_has_turned_and_whose_bar_end_points_elsewhere(
        self,
    ) -> None:
        for light in (1.0, 0.7, 1.3):
            picture = view(203.4, 171.7, light, turned_deg=140, end=(16, -14))
            about = self.rings.view(picture, 200, 180, RADIUS)
            assert about is not None
            guess = about.find(196.0, 177.0, 1.0)
            assert guess is not None, light
            self.assertLess(np.hypot(guess.x_px - 203.4, guess.y_px - 171.7), 0.5, light)
            self.assertGreater(guess.support, 0.75, light)
            self.assertLess(about.likeness(203.4, 171.7 + 0.4 * RADIUS, 1.0), 0.4, light)

    def test_a_plate_of_one_colour_has_no_rings_and_one_out_of_sight_is_not_found(self) -> None:
        plain = np.full((HIGH, WIDE, 3), 70, np.uint8)
        cv2.circle(plain, (200, 180), RADIUS, (30, 30, 30), -1)
        self.assertIsNone(rings(plain, 200, 180))
        about = self.rings.view(view(200, 180), 2.0, 180, RADIUS)
        assert about is not None
        self.assertIsNone(about.find(-0.9 * RADIUS, 180, 1.0))
        self.assertIsNone(self.rings.view(view(200, 180), 4 * WIDE, 180, RADIUS))


class SlidingEnd:
    """A plate seen from the front and above: its bar's end slides over it while it goes up, from before a
    bright floor to before a dark wall."""

    def __init__(self) -> None:
        self.t_s = np.arange(COUNT) / 30.0
        dice = np.random.default_rng(3)
        self.y = np.empty(COUNT)
        self._pictures = []
        for number in range(COUNT):
            share = float(np.clip((number - 5) / 45, 0, 1))
            self.y[number] = 300 - 210 * share * share * (3 - 2 * share)
            picture = np.full((HIGH, WIDE, 3), 38, np.uint8)
            picture[250:] = FLOOR
            end = (-8 - 10 * share, 26 - 40 * share)
            plate(picture, 200, self.y[number], turned_deg=90 * share, end=end)
            noise = dice.normal(0, 3, picture.shape)
            self._pictures.append(np.clip(picture + noise, 0, 255).astype(np.uint8))

    def bgr(self, number: int) -> Picture:
        return np.asarray(self._pictures[number])


def plain(y: float, end: tuple[float, float]) -> Picture:
    """A plate of one dark colour on a floor, or before dim windows in a dark wall, and its bar's end."""
    picture = np.full((HIGH, WIDE, 3), 30, np.uint8)
    picture[250:] = FLOOR
    for left in range(20, WIDE, 100):
        picture[60:140, left : left + 80] = 60
    at, far = (200 * 16, round(16 * y)), (round(16 * (200 + end[0])), round(16 * (y + end[1])))
    cv2.circle(picture, at, 16 * RADIUS, (24,) * 3, -1, cv2.LINE_AA, 4)
    cv2.line(picture, at, far, (225, 228, 230), 9, cv2.LINE_AA, 4)
    noise = np.random.default_rng(int(y)).normal(0, 3, picture.shape)
    return np.asarray(np.clip(picture + noise, 0, 255), np.uint8)


class TestBarEnd(unittest.TestCase):
    def test_the_plate_is_followed_and_its_bar_end_is_not(self) -> None:
        film = SlidingEnd()
        track = track_bar(film, [PlateMark(0, 200, film.y[0], RADIUS)])
        off = np.hypot(track.x_px - 200, track.y_px - film.y)
        self.assertTrue(np.isfinite(off).all(), np.flatnonzero(~np.isfinite(off)))
        self.assertLess(off.max(), 0.06 * RADIUS)
        self.assertGreater(float(np.mean(track.state == State.GOOD)), 0.5)

    def test_of_two_places_for_a_plate_without_rings_the_rim_tells(self) -> None:
        marked = plain(300, (0, 26))
        self.assertIsNone(rings(marked, 200, 300))
        follower = Follower(marked, *rim_of(marked, PlateMark(0, 200, 300, RADIUS)))
        for y in (90, 110, 130):
            now = plain(y, (-10, -20))
            look = follower.first.find(grey_of(now), 200, y, 30)
            self.assertGreater(abs(look.y_px - y), 0.5 * RADIUS, "drawn to the bar's end")
            chosen = follower._choose(now, grey_of(now), [Guess(200, y, 0.9), look])
            assert chosen is not None
            self.assertLess(np.hypot(chosen.x - 200, chosen.y - y), 0.05 * RADIUS)


if __name__ == "__main__":
    unittest.main()
