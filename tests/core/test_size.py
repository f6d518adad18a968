"""The plate's size by many pictures: where the marked one hides the rim, others show it."""

import unittest
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled
from keen_kettle.core.track import (
    BarTrack,
    PlateMark,
    State,
    rim_of,
    scale_from_rim,
    track_bar,
)
from keen_kettle.core.track.size import RimLooks

Picture = NDArray[np.uint8]

RADIUS, COUNT, REST = 40.0, 36, 8
WIDE, HIGH = 420, 360
RISE = 150 * np.concatenate(
    [np.zeros(REST), 0.5 - 0.5 * np.cos(np.linspace(0, np.pi, COUNT - REST))]
)


def hall() -> NDArray[np.float64]:
    """A wall with boards and boxes, larger than the picture."""
    dice = np.random.default_rng(4)
    wall = np.full((HIGH, WIDE, 3), (150.0, 156.0, 160.0))
    for x in range(12, WIDE, 52):
        cv2.line(wall, (x, 0), (x + 4, HIGH), (112.0, 118.0, 124.0), 3, cv2.LINE_AA)
    for x in (20, 330):
        cv2.rectangle(wall, (x, 250), (x + 60, 300), (70.0, 120.0, 160.0), -1)
    return wall + 18 * cv2.GaussianBlur(dice.normal(0, 3, (HIGH, WIDE)), (0, 0), 3)[..., None]


@dataclass
class Film:
    """A plate that rests and goes up before a hall. While it rests boards hide all of it but its middle, if it is
    `hidden`, or a bench one side of it, if that stands `before` it; from the first picture to the last the camera
    comes nearer by `zooms`. Seen from aside it is as `narrow` as that."""

    hidden: bool = False
    before: bool = False
    narrow: float = 1.0
    zooms: float = 1.0

    def __post_init__(self) -> None:
        self.t_s = np.arange(COUNT) / 30
        self.zoom = np.linspace(1, self.zooms, COUNT)
        self._hall = hall()
        self._drawn: dict[int, Picture] = {}

    def place(self, number: int) -> NDArray[np.float64]:
        """Where the plate's centre is, by its way: (x, y) pixels."""
        middle = np.array([WIDE / 2, HIGH / 2])
        return np.asarray(middle + self.zoom[number] * np.array([0, 100 - RISE[number]]))

    def bgr(self, number: int) -> Picture:
        if number not in self._drawn:
            self._drawn[number] = self.drawn(number)
        return self._drawn[number].copy()

    def drawn(self, number: int) -> Picture:
        picture = self._hall.copy()
        centre = (WIDE // 2, round(HIGH / 2 + 100 - RISE[number]))
        for share, colour in ((1.0, (46, 44, 150)), (0.45, (120, 120, 190)), (0.4, (46, 44, 150))):
            axes = (round(16 * share * RADIUS * self.narrow), round(16 * share * RADIUS))
            middle = (16 * centre[0], 16 * centre[1])
            cv2.ellipse(picture, middle, axes, 0, 0, 360, colour, -1, cv2.LINE_AA, 4)
        cv2.line(picture, centre, (centre[0] + 9, centre[1] + 16), (190, 190, 190), 6, cv2.LINE_AA)
        if self.hidden and number < REST:
            boards, open_at = self._hall.copy(), np.zeros((HIGH, WIDE), np.uint8)
            cv2.circle(open_at, centre, round(0.74 * RADIUS), 255, -1)
            picture = np.where(open_at[..., None] > 0, picture, boards)
        if self.before and number < REST:
            left = round(centre[0] + 0.6 * RADIUS)
            cv2.rectangle(picture, (left, centre[1] - 60), (left + 50, HIGH), (60, 52, 48), -1)
        k = float(self.zoom[number])
        move = np.array([[k, 0, (1 - k) * WIDE / 2], [0, k, (1 - k) * HIGH / 2]])
        seen = cv2.warpAffine(picture, move, (WIDE, HIGH), flags=cv2.INTER_LINEAR)
        noise = np.random.default_rng(number).normal(0, 2, seen.shape)
        shown = np.clip(cv2.GaussianBlur(seen, (0, 0), 1.0) + noise, 0, 255)
        return np.asarray(shown, np.uint8)

    def mark(self, number: int) -> PlateMark:
        """A mark made in a hurry."""
        x, y = self.place(number)
        r = self.zoom[number] * RADIUS
        return PlateMark(number, float(x + 0.06 * r), float(y - 0.05 * r), float(0.95 * r))


def off_px(film: Film, track: BarTrack, frames: range) -> float:
    return max(
        float(np.hypot(track.x_px[k] - film.place(k)[0], track.y_px[k] - film.place(k)[1]))
        for k in frames
    )


class TestSize(unittest.TestCase):
    def test_a_rim_that_the_marked_picture_hides_is_read_where_it_is_free(self) -> None:
        film = Film(hidden=True)
        alone = rim_of(film.bgr(2), film.mark(2))[0]
        self.assertLess(max(alone.axes_px), 0.85 * RADIUS, "the hole in the boards")
        track = track_bar(film, [film.mark(2)])
        self.assertAlmostEqual(max(track.rim.axes_px) / RADIUS, 1.0, delta=0.03)
        self.assertTrue(track.rim.found)
        self.assertLess(off_px(film, track, range(REST, COUNT)), 0.04 * RADIUS)
        self.assertEqual(int(np.sum(track.state == State.BY_HAND)), 0, "no hand set a point")

    def test_a_rim_that_is_plain_stays_and_is_surer(self) -> None:
        film = Film()
        alone = rim_of(film.bgr(2), film.mark(2))[0]
        track = track_bar(film, [film.mark(2)])
        self.assertAlmostEqual(max(track.rim.axes_px) / RADIUS, 1.0, delta=0.02)
        self.assertLess(track.rim.sigma_px, alone.sigma_px)
        self.assertEqual(track.state[2], State.BY_HAND)

    def test_what_stands_before_the_plate_does_not_turn_it(self) -> None:
        film = Film(before=True, narrow=0.93)
        followed = track_bar(film, [film.mark(3)])
        self.assertAlmostEqual(followed.rim.width_by_height, 0.93, delta=0.012)
        angle = scale_from_rim(followed.rim, 450.0).view_angle_deg
        self.assertAlmostEqual(angle, np.degrees(np.arccos(0.93)), delta=2)

    def test_where_the_camera_comes_nearer_size_and_path_are_those_of_the_marked_picture(
        self,
    ) -> None:
        film = Film(zooms=1.25)
        for number in (2, COUNT - 3):
            track = track_bar(film, [film.mark(number)])
            k = float(film.zoom[number])
            self.assertAlmostEqual(max(track.rim.axes_px) / (k * RADIUS), 1.0, delta=0.025)
            rise = float(track.still_y_px[REST - 2] - track.still_y_px[-1])
            self.assertAlmostEqual(rise / (k * RISE[-1]), 1.0, delta=0.02)

    def test_an_ellipse_that_was_drawn_stays_as_it_was_drawn(self) -> None:
        x, y = Film().place(2)
        mark = PlateMark(2, float(x), float(y), 1.1 * RADIUS, 0.9, 0.0, exact=True)
        rim = track_bar(Film(), [mark]).rim
        np.testing.assert_allclose(rim.axes_px, (0.99 * RADIUS, 1.1 * RADIUS))

    def test_a_ring_inside_a_plate_that_is_marked_does_not_become_the_plate(self) -> None:
        x, y = Film().place(2)
        rim = track_bar(Film(), [PlateMark(2, float(x), float(y), 0.44 * RADIUS)]).rim
        self.assertAlmostEqual(max(rim.axes_px) / (0.45 * RADIUS), 1.0, delta=0.08)

    def test_reading_can_be_stopped(self) -> None:
        film = Film()
        track = track_bar(film, [film.mark(2)])
        looks = RimLooks(track, 2, None, (WIDE, HIGH))
        for number in range(COUNT):
            looks.see(number, film.bgr(number))

        def stop() -> None:
            raise Cancelled("stopped")

        with self.assertRaises(Cancelled):
            looks.reads(stop)
        self.assertIsNotNone(looks.reads(lambda: None))


if __name__ == "__main__":
    unittest.main()
