"""A plate that is partly hidden while it rests, by a caption or by the picture's edge, is followed."""

import unittest

import cv2
import numpy as np

from keen_kettle.core.track import PlateMark, State, track_bar
from keen_kettle.core.track.covered import (
    cleared,
    covered_part,
    laid_over,
    passed_behind,
    uncovered,
)
from keen_kettle.core.track.framing import small_grey
from tests.core.test_size import RADIUS as SIZE
from tests.core.test_size import Film as Moving
from tests.core.test_size import hall

RADIUS, REST = 34, (180, 250)
WIDE, HIGH, COUNT = 360, 300, 60


def plate_y(number: int) -> float:
    """The plate rests, goes up within twenty pictures, and stays there."""
    share = float(np.clip((number - 10) / 20, 0, 1))
    return REST[1] - 170 * share * share * (3 - 2 * share)


class Film:
    def __init__(self, caption: bool, moves: bool = True, foot: int = HIGH) -> None:
        self.t_s = np.arange(COUNT) / 30.0
        dice = np.random.default_rng(4)
        rough = cv2.GaussianBlur(dice.normal(0, 30, (HIGH, WIDE)).astype(np.float32), (0, 0), 4)
        hall = np.clip(110 + 4 * rough, 0, 255).astype(np.uint8)
        self._pictures = []
        for number in range(COUNT):
            picture = cv2.cvtColor(hall, cv2.COLOR_GRAY2BGR)
            at = (REST[0], round(plate_y(number) if moves else REST[1]))
            cv2.circle(picture, at, RADIUS, (44, 42, 40), -1, cv2.LINE_AA)
            cv2.circle(picture, at, 20, (70, 66, 64), 3, cv2.LINE_AA)
            cv2.circle(picture, at, 4, (190, 190, 190), -1, cv2.LINE_AA)
            if caption:
                place, font = (96, 246), cv2.FONT_HERSHEY_DUPLEX
                cv2.putText(picture, "third set, heavy", place, font, 0.7, (250,) * 3, 2, 16)
                cv2.line(picture, (172, 0), (172, HIGH), (60, 220, 80), 2)
            noise = np.random.default_rng(number).normal(0, 2, picture.shape)
            self._pictures.append(np.clip(picture + noise, 0, 255).astype(np.uint8)[:foot])

    def bgr(self, number: int) -> np.ndarray:
        return np.asarray(self._pictures[number])


def mark() -> PlateMark:
    return PlateMark(0, float(REST[0]), float(REST[1]), float(RADIUS))


class TestCovered(unittest.TestCase):
    def test_the_plate_under_a_caption_is_followed_when_it_goes(self) -> None:
        film = Film(caption=True)
        track = track_bar(film, [mark()])
        off = np.hypot(track.x_px - REST[0], track.y_px - [plate_y(k) for k in range(COUNT)])
        self.assertLess(np.nanmax(off), 0.15 * RADIUS)
        self.assertTrue(np.isfinite(off).all())

    def test_only_what_stays_is_left_out(self) -> None:
        frames = np.arange(COUNT)
        part = covered_part(Film(caption=True).bgr, frames, *REST, RADIUS)
        assert part is not None
        self.assertGreater(part[236:248, 150:210].mean(), 200, "the words")
        self.assertEqual(part[REST[1] + 26, REST[0] + 10], 0, "the plate's lower part")
        self.assertIsNone(covered_part(Film(caption=False).bgr, frames, *REST, RADIUS))

    def test_a_bar_that_rests_all_the_time_is_no_caption(self) -> None:
        film = Film(caption=False, moves=False)
        track = track_bar(film, [mark()])
        self.assertLess(np.nanmax(np.abs(track.y_px - REST[1])), 0.1 * RADIUS)
        self.assertTrue(np.isfinite(track.y_px).all())

    def test_the_left_out_part_is_filled_from_the_ring_it_lies_in(self) -> None:
        plain = cv2.cvtColor(Film(caption=False).bgr(0), cv2.COLOR_BGR2GRAY)
        shown = plain.copy()
        hidden = np.zeros_like(plain)
        hidden[240:256, 140:220] = 255
        shown[hidden > 0] = 255
        filled = uncovered(np.asarray(shown), np.asarray(hidden), *REST, RADIUS)
        disc = np.hypot(*(np.mgrid[:HIGH, :WIDE] - np.array(REST[::-1])[:, None, None])) < 30
        away = np.abs(filled.astype(int) - plain)[disc & (hidden > 0)]
        self.assertLess(np.median(away), 12)
        self.assertTrue((filled[~disc & (hidden == 0)] == shown[~disc & (hidden == 0)]).all())


class PannedFilm:
    """A plate that goes up behind words, while the camera goes along a hall and up a little, or stands."""

    COUNT = 60

    def __init__(
        self,
        pans: bool = True,
        radius: int = 15,
        rest: int = 225,
        words: int = 226,
        said: range = range(COUNT),
    ) -> None:
        self.radius = radius
        self.t_s = np.arange(self.COUNT) / 30.0
        dice = np.random.default_rng(7)
        rough = cv2.GaussianBlur(dice.normal(0, 30, (420, 700)).astype(np.float32), (0, 0), 3)
        hall = np.clip(105 + 3 * rough, 0, 255).astype(np.uint8)
        self.bar = np.zeros((self.COUNT, 2))
        self._pictures = []
        for number in range(self.COUNT):
            along, up = (2.0 * number, 0.6 * number) if pans else (90.0, 0.0)
            share = float(np.clip((number - 10) / 35, 0, 1))
            rise = 150 * share * share * (3 - 2 * share)
            self.bar[number] = 330 - along, rest + up - rise
            shift = np.array([[1.0, 0, -along], [0, 1, up - 60]])
            picture = cv2.warpAffine(hall, shift, (WIDE, HIGH))
            picture = cv2.cvtColor(picture, cv2.COLOR_GRAY2BGR)
            at = (round(self.bar[number, 0]), round(self.bar[number, 1]))
            cv2.circle(picture, at, self.radius, (110, 84, 70), -1, cv2.LINE_AA)
            cv2.circle(picture, at, round(0.6 * radius), (96, 100, 100), -1, cv2.LINE_AA)
            font = cv2.FONT_HERSHEY_DUPLEX
            if number in said:
                cv2.putText(picture, "stay over it", (160, words), font, 1.2, (250,) * 3, 5, 16)
            noise = np.random.default_rng(number).normal(0, 2, picture.shape)
            self._pictures.append(np.clip(picture + noise, 0, 255).astype(np.uint8))

    def bgr(self, number: int) -> np.ndarray:
        return np.asarray(self._pictures[number])


class TestWordsBeforeAMovingCamera(unittest.TestCase):
    def setUp(self) -> None:
        self.film = PannedFilm()

    def test_only_the_words_lie_over_the_film(self) -> None:
        over = laid_over(self.film.bgr, np.arange(self.film.COUNT), self.film.radius)
        assert over is not None
        self.assertGreater(float((over[204:226, 164:350] > 0).mean()), 0.6, "the words")
        self.assertLess(float((over[:185] > 0).mean() + (over[240:] > 0).mean()), 0.01, "the hall")

    def test_the_plate_behind_them_is_followed_and_they_are_not(self) -> None:
        film = self.film
        track = track_bar(film, [PlateMark(0, film.bar[0, 0], film.bar[0, 1], film.radius)])
        off = np.hypot(track.x_px - film.bar[:, 0], track.y_px - film.bar[:, 1])
        self.assertTrue(np.isfinite(off).all(), np.flatnonzero(~np.isfinite(off)))
        self.assertLess(off.max(), 0.2 * film.radius)


class TestPassedBehind(unittest.TestCase):
    def setUp(self) -> None:
        self.film = PannedFilm(pans=False, radius=24, rest=245, words=205)

    def over(self, frames: range) -> np.ndarray | None:
        looks = {k: small_grey(self.film.bgr(k)) for k in frames}
        return passed_behind(looks, self.film.bar, self.film.radius, (HIGH, WIDE))

    def test_words_that_the_plate_passes_behind_are_known_and_the_wall_is_not(self) -> None:
        over = self.over(range(0, 60, 2))
        assert over is not None
        self.assertGreater(float((over[183:205, 218:262] > 0).mean()), 0.6, "the words")
        self.assertEqual(int((over[:165] > 0).sum() + (over[223:] > 0).sum()), 0, "the wall")
        self.assertIsNone(self.over(range(45, 60)), "before they are passed they may be the wall's")

    def test_words_are_cleared_by_what_is_beside_them(self) -> None:
        over = self.over(range(0, 60, 2))
        assert over is not None
        shown, (x, y) = self.film.bgr(0), self.film.bar[0]
        clear = cleared(shown, over, float(x), float(y), self.film.radius)
        words, away = over > 0, over == 0
        self.assertGreater(int(shown[words].max()), 245)
        self.assertLess(float(np.quantile(clear[199:204, 222:258], 0.9)), 200)
        np.testing.assert_array_equal(clear[away], shown[away])

    def test_the_plate_is_followed_behind_them(self) -> None:
        film = self.film
        track = track_bar(film, [PlateMark(0, film.bar[0, 0], film.bar[0, 1], film.radius)])
        off = np.hypot(track.x_px - film.bar[:, 0], track.y_px - film.bar[:, 1])
        self.assertTrue(np.isfinite(off).all())
        self.assertLess(off.max(), 0.2 * film.radius)


class TestWordsThatComeAndGo(unittest.TestCase):
    def test_they_hold_no_plate_back(self) -> None:
        """Their corners stand, and so does the look of the plate that has them before it; its rim goes on."""
        film = PannedFilm(pans=False, radius=30, rest=245, words=165, said=range(22, 45))
        track = track_bar(film, [PlateMark(0, film.bar[0, 0], film.bar[0, 1], film.radius)])
        off = np.hypot(track.x_px - film.bar[:, 0], track.y_px - film.bar[:, 1])
        self.assertTrue(np.isfinite(off).all(), "words that come are no cut")
        self.assertLess(off.max(), 0.1 * film.radius)


class TestCutPlate(unittest.TestCase):
    def test_a_plate_that_rests_with_its_centre_below_the_picture_is_followed_down_to_it(
        self,
    ) -> None:
        foot = REST[1] - round(0.3 * RADIUS)
        film = Film(caption=False, foot=foot)
        whole = next(k for k in range(COUNT) if plate_y(k) < foot - RADIUS)
        track = track_bar(film, [PlateMark(whole, REST[0], plate_y(whole), RADIUS)])
        off = np.hypot(track.x_px - REST[0], track.y_px - [plate_y(k) for k in range(COUNT)])
        self.assertTrue(np.isfinite(off).all())
        self.assertLess(off.max(), 0.1 * RADIUS)


class GoneForAMoment(Moving):
    """In three pictures the plate is gone, and something pale and round is seen 1.2 radii aside."""

    GONE = range(18, 21)

    def drawn(self, number: int) -> np.ndarray:
        if number not in self.GONE:
            return super().drawn(number)
        picture = hall()
        x, y = self.place(number)
        at = (round(x - 1.2 * SIZE), round(y + 0.3 * SIZE))
        cv2.circle(picture, at, round(SIZE), (118.0, 120.0, 146.0), -1, cv2.LINE_AA)
        noise = np.random.default_rng(number).normal(0, 2, picture.shape)
        shown = cv2.GaussianBlur(picture, (0, 0), 1.0) + noise
        return np.asarray(np.clip(shown, 0, 255), np.uint8)


class TestLeaps(unittest.TestCase):
    def test_a_plate_that_is_gone_for_a_moment_does_not_leap_to_what_is_hardly_like_it(
        self,
    ) -> None:
        film = GoneForAMoment()
        track = track_bar(film, [film.mark(2)])
        true = np.array([film.place(k) for k in range(len(track))])
        off = np.hypot(track.x_px - true[:, 0], track.y_px - true[:, 1]) / SIZE
        self.assertLess(float(off.max()), 0.1)
        bridged = np.flatnonzero(track.state == State.BRIDGED)
        np.testing.assert_array_equal(bridged, film.GONE)


if __name__ == "__main__":
    unittest.main()
