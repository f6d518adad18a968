"""A hall is laid over itself by what is plain in it, whatever else moves or stands."""

import unittest

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from keen_kettle.core.track import still_path
from keen_kettle.core.track.laying import Anchor, Laid, Small, leap, small_of

Floats = NDArray[np.float64]
Grey = NDArray[np.uint8]

WIDE, HIGH = 300, 150
MIDDLE = np.array([WIDE, HIGH]) / 2
IDENTITY = np.eye(2, 3)
ALL = np.full((HIGH, WIDE), 255, np.uint8)


def clouds(seed: int, contrast: float, soft: float) -> Floats:
    """Something uneven, larger than a picture of the hall by 60 pixels all round."""
    grain = np.random.default_rng(seed).normal(0, 1, (HIGH + 120, WIDE + 120))
    made = np.asarray(cv2.GaussianBlur(grain, (0, 0), soft), float)
    return np.asarray(contrast * made / made.std())


def boxes() -> Floats:
    """A grey wall with two boxes before it, as large as the clouds."""
    wall = np.full((HIGH + 120, WIDE + 120), 60.0)
    wall[150:200, 80:130] = 95.0
    wall[160:195, 300:330] = 110.0
    return wall


def seen(hall: Floats, way: Floats, seed: int = 0, noise: float = 1.0) -> Grey:
    """A picture of the hall, under a way (2, 3) from the unmoved picture's pixels."""
    from_hall = np.column_stack([way[:, :2], way[:, 2] - way[:, :2] @ [60, 60]])
    view = cv2.warpAffine(hall, from_hall, (WIDE, HIGH))
    view = view + np.random.default_rng(seed).normal(0, noise, view.shape)
    return np.asarray(view.clip(0, 255), np.uint8)


def moved(x: float, y: float, zoom: float = 1.0, roll_deg: float = 0.0) -> Floats:
    """A shift, zoom and roll about the picture's middle, (2, 3)."""
    turn = np.radians(roll_deg)
    how = zoom * np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    return np.column_stack([how, MIDDLE - how @ MIDDLE + [x, y]])


def off_px(laid: Laid, true: Floats) -> float:
    """How far a way is from the true one, at most at the picture's corners."""
    corners = np.array([[0, 0], [WIDE, 0], [0, HIGH], [WIDE, HIGH]], float)
    away = corners @ (laid.way[:, :2] - true[:, :2]).T + laid.way[:, 2] - true[:, 2]
    return float(np.hypot(*away.T).max())


class TestLaying(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.floats(-3, 3), st.floats(-3, 3), st.floats(0.98, 1.02), st.floats(-1.5, 1.5))
    def test_shift_zoom_and_roll_are_found(
        self, x: float, y: float, zoom: float, roll: float
    ) -> None:
        hall, true = 90 + clouds(1, 20, 4), moved(x, y, zoom, roll)
        anchor = Anchor(small_of(seen(hall, IDENTITY)), ALL)
        laid = anchor.laid(small_of(seen(hall, true, 1)), IDENTITY)
        self.assertLess(off_px(laid, true), 0.25)
        self.assertGreater(laid.share, 0.9)

    def test_what_a_codec_leaves_standing_does_not_hold_it_back(self) -> None:
        """A weak wall stays where it was in the picture; only two boxes go with the camera."""
        wall, true = clouds(2, 1.6, 1.5)[60:-60, 60:-60], moved(4, -2)

        def shown(way: Floats, seed: int) -> Small:
            view = seen(boxes(), way, seed).astype(float)
            return small_of(np.asarray((view + wall).clip(0, 255), np.uint8))

        anchor = Anchor(shown(IDENTITY, 0), ALL)
        laid = anchor.laid(shown(true, 1), moved(2, -1))
        self.assertLess(off_px(laid, true), 0.6)
        self.assertLess(laid.misfit, 0.9 * anchor.misfit(shown(true, 1), IDENTITY))

    def test_a_lifter_who_rises_does_not_carry_the_hall_along(self) -> None:
        hall, lifter = boxes() + clouds(3, 8, 3), clouds(4, 20, 5) + 120
        anchor = None
        laid = None
        for k in range(20):
            view = seen(hall, IDENTITY, k).astype(float)
            view[10:140, 100:200] = lifter[60 + 3 * k : 190 + 3 * k, 160:260]
            small = small_of(np.asarray(view.clip(0, 255), np.uint8))
            if anchor is None:
                anchor = Anchor(small, ALL)
                continue
            laid = anchor.laid(small, IDENTITY if laid is None else laid.way)
            anchor.learn(laid)
            self.assertLess(off_px(laid, IDENTITY), 0.7, k)

    def test_how_unsure_it_is_where_all_hangs_on_one_thing(self) -> None:
        """The same noise over a whole hall, and over a blank wall with one box."""
        blank = np.full((HIGH + 120, WIDE + 120), 90.0)
        blank[100:160, 100:170] = 90 + clouds(13, 20, 3)[100:160, 100:170]
        unsure = []
        for hall in (90 + clouds(13, 20, 3), blank):
            anchor = Anchor(small_of(seen(hall, IDENTITY)), ALL)
            laid = anchor.laid(small_of(seen(hall, moved(1, 1), 1, 3.0)), IDENTITY)
            unsure.append(anchor.unsure_px(laid))
        self.assertLess(unsure[0], 0.1)
        self.assertGreater(unsure[1], 3 * unsure[0])

    def test_laid_rightly_it_differs_less_than_a_little_aside(self) -> None:
        hall = 90 + clouds(5, 20, 4)
        anchor, other = (
            Anchor(small_of(seen(hall, IDENTITY)), ALL),
            small_of(seen(hall, IDENTITY, 1)),
        )
        laid = anchor.laid(other, IDENTITY)
        self.assertLess(laid.misfit, 0.3 * anchor.misfit_aside(other, laid))
        elsewhere = small_of(seen(90 + clouds(6, 20, 4), IDENTITY))
        lost = anchor.laid(elsewhere, IDENTITY)
        self.assertGreater(lost.misfit, 0.8 * anchor.misfit_aside(elsewhere, lost))

    def test_light_that_flickers_moves_nothing(self) -> None:
        hall, true = 90 + clouds(1, 20, 4), moved(2, -1, 1.01, 0.5)
        anchor = Anchor(small_of(seen(hall, IDENTITY)), ALL)
        for gain, more in ((1.2, 0.0), (0.8, 0.0), (1.0, 25.0), (0.9, -20.0)):
            laid = anchor.laid(small_of(seen(gain * hall + more, true, 1)), IDENTITY)
            self.assertLess(off_px(laid, true), 0.3, (gain, more))

    def test_what_is_out_of_sight_does_not_fit(self) -> None:
        hall = 90 + clouds(5, 20, 4)
        anchor, other = (
            Anchor(small_of(seen(hall, IDENTITY)), ALL),
            small_of(seen(hall, IDENTITY, 1)),
        )
        self.assertEqual(anchor.misfit(other, moved(0.9 * WIDE, 0)), np.inf)
        self.assertLess(anchor.misfit(other, moved(0.5 * WIDE, 0)), np.inf)

    def test_a_blank_wall_is_not_plain(self) -> None:
        blank = small_of(np.full((HIGH, WIDE), 90, np.uint8))
        self.assertFalse(Anchor(blank, ALL).plain)

    def test_a_leap_of_the_whole_picture_is_seen(self) -> None:
        hall = 90 + clouds(7, 20, 4)
        shift = leap(small_of(seen(hall, IDENTITY)), small_of(seen(hall, moved(21, -14), 1)))
        self.assertLess(float(np.hypot(*(shift[:, 2] - [21, -14]))), 2.0)


class TestFilled(unittest.TestCase):
    """Films upright, in which the lifter leaves only the edges of the hall, before which he rises."""

    COUNT, RADIUS = 40, 40.0

    def film(
        self, pan_px: float, contrast: float = 4.0, lifter_px: int = 64, boxed: bool = True
    ) -> tuple[list[NDArray[np.uint8]], Floats, Floats]:
        """Pictures, where the bar is in them, and where it is with the camera still. The hall is 85 pixels wider
        than the lifter, and has boxes in it if it is `boxed`."""
        hall = (boxes() if boxed else 90) + clouds(8, contrast, 3)
        lifter = clouds(9, 30, 5) + 120
        views, rise = [], np.linspace(0, 60, self.COUNT)
        away = pan_px * np.linspace(0, 1, self.COUNT) ** 2
        first = round(142 - (lifter_px + 86) / 2)
        for k in range(self.COUNT):
            view = seen(hall, moved(-away[k], 0), k).astype(float)
            left, top = round(142 - lifter_px / 2 - away[k]), round(rise[k])
            view[8:145, left : left + lifter_px] = lifter[
                60 + top : 197 + top, 160 : 160 + lifter_px
            ]
            view = view[:, first : first + lifter_px + 86].clip(0, 255)
            views.append(np.repeat(np.asarray(view, np.uint8)[:, :, None], 3, axis=2))
        still = np.column_stack([np.full(self.COUNT, 141.0 - first), 110 - rise])
        return views, still - np.column_stack([away, 0 * away]), still

    def test_a_pan_is_taken_out(self) -> None:
        views, bar, still = self.film(30.0)
        found = still_path(views.__getitem__, bar[:, 0], bar[:, 1], self.RADIUS, lambda: False)
        self.assertTrue(found.known)
        off = np.hypot(*(found.points - still).T) / (2 * self.RADIUS)
        self.assertLess(float(off.max()), 0.03)

    def test_a_striking_lifter_does_not_outweigh_a_weak_hall(self) -> None:
        views, bar, still = self.film(25.0, 4.0, 110, boxed=False)
        found = still_path(views.__getitem__, bar[:, 0], bar[:, 1], 26.0, lambda: False)
        self.assertTrue(found.known)
        self.assertLess(float(np.hypot(*(found.points - still).T).max()), 3.0)

    def test_a_lifter_who_is_followed_is_no_camera(self) -> None:
        """Before a hall that shows next to nothing the camera would seem to sink as the bar rises."""
        views, bar, _ = self.film(0.0, 0.5, 110, boxed=False)
        found = still_path(views.__getitem__, bar[:, 0], bar[:, 1], 26.0, lambda: False)
        self.assertFalse(found.known)
        np.testing.assert_array_equal(found.points, bar)

    def test_a_pan_between_bars_is_taken_out(self) -> None:
        """The bars stand still, whatever the camera does."""
        views, bar, still = self.film(30.0)
        barred = [np.pad(one, ((30, 30), (0, 0), (0, 0))) for one in views]
        found = still_path(
            barred.__getitem__, bar[:, 0], bar[:, 1] + 30, self.RADIUS, lambda: False
        )
        self.assertTrue(found.known)
        off = np.hypot(*(found.points - [0, 30] - still).T) / (2 * self.RADIUS)
        self.assertLess(float(off.max()), 0.03)

    def test_a_camera_that_stands_stands(self) -> None:
        views, bar, _ = self.film(0.0)
        found = still_path(views.__getitem__, bar[:, 0], bar[:, 1], self.RADIUS, lambda: False)
        self.assertTrue(found.known)
        np.testing.assert_array_equal(found.points, bar)


if __name__ == "__main__":
    unittest.main()
