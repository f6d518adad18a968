"""A ring inside a plate is told from the plate's own edge: stripes, and smaller plates before larger ones."""

import unittest

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track import propose_plate
from keen_kettle.core.track.nearby import lies_at
from keen_kettle.core.track.outward import edge_beyond, is_outermost
from keen_kettle.core.track.rim import Rim, fit_rim
from keen_kettle.core.track.rim_reader import ReadRim
from keen_kettle.core.track.rough import rim_by_mark
from tests.core.test_eye import FINE, hall, plate, shrunk
from tests.core.test_track import Slides

Picture = NDArray[np.uint8]
WIDE, HIGH, FLOOR, R = 300, 240, 200, 34.0
STRIPE, SMALLER = (0.80, 0.92), 0.6
PLACES = [(150.0, 166.0), (154.0, 130.0), (150.0, 90.0)]


def circle(picture: Picture, x: float, y: float, r: float, colour: tuple[int, int, int]) -> None:
    at = (round(x * FINE), round(y * FINE))
    cv2.circle(picture, at, round(r * FINE), colour, -1, cv2.LINE_AA)


def filmed(x: float, y: float, what: str = "", seed: int = 5) -> Picture:
    """A dark plate in a hall, with a bright stripe near its rim, or a bright smaller plate before it."""
    picture = hall(WIDE, HIGH, FLOOR)
    plate(picture, x, y, R)
    if what == "stripe":
        circle(picture, x, y, STRIPE[1] * R, (40, 40, 210))
        circle(picture, x, y, STRIPE[0] * R, (30, 30, 30))
    if what == "smaller":
        circle(picture, x, y, SMALLER * R, (190, 190, 190))
        circle(picture, x, y, 0.2 * R, (90, 90, 90))
    return shrunk(picture, seed=seed)


def ring(picture: Picture, x: float, y: float, share: float) -> Rim:
    return fit_rim(picture, x, y, share * R)[0]


class TestOutward(unittest.TestCase):
    def test_the_plates_edge_is_told_from_a_stripe_and_from_a_smaller_plate_inside_it(self) -> None:
        for what, share, light in (
            ("stripe", STRIPE[0], 1.0),
            ("smaller", SMALLER, 1.0),
            ("smaller", SMALLER, 0.5),
        ):
            seen = [((light * filmed(x, y, what)).astype(np.uint8), x, y) for x, y in PLACES]
            rings = [(picture, ring(picture, x, y, share)) for picture, x, y in seen]
            inner = np.median([max(rim.axes_px) for _, rim in rings])
            self.assertLess(abs(inner / (share * R) - 1), 0.04, what)
            beyond = edge_beyond(rings)
            assert beyond is not None
            self.assertLess(abs(beyond * inner / R - 1), 0.04, what)

    def test_beyond_the_plates_own_edge_nothing_goes_along_with_it(self) -> None:
        for what in ("", "stripe", "smaller"):
            rims = [(filmed(x, y, what), Rim(x, y, (R, R), 0.0, True, 0.3, 0.9)) for x, y in PLACES]
            self.assertIsNone(edge_beyond(rims), what)
        racked = [
            (picture, Rim(90.0, 70.0, (16.0, 16.0), 0.0, True, 0.3, 0.9)) for picture, _ in rims
        ]
        self.assertIsNone(edge_beyond(racked))

    def test_an_outline_with_nothing_round_it_is_the_plates(self) -> None:
        for x, y in PLACES:
            own = Rim(x, y, (R, R), 0.0, True, 0.3, 0.9)
            self.assertTrue(is_outermost(filmed(x, y), own), (x, y))
            stripe = Rim(x, y, (STRIPE[1] * R, STRIPE[1] * R), 0.0, True, 0.3, 0.9)
            self.assertFalse(is_outermost(filmed(x, y, "stripe"), stripe), (x, y))
            nowhere = Rim(x, y, (0.8 * R, 0.8 * R), 0.0, True, 0.3, 0.9)
            self.assertFalse(is_outermost(filmed(x, y), nowhere), (x, y))

    def test_edges_within_what_was_read_are_believed_where_they_are_the_outermost(self) -> None:
        x, y = PLACES[1]
        limits = (0.8, 1.2, 1.2)
        for what, size, believed in (("", 1.0, True), ("stripe", STRIPE[1], False)):
            edges = Rim(x, y, (size * R, size * R), 0.0, True, 0.3, 0.9)
            read = ReadRim(x, y, size * R * np.exp(1.5 * 0.05), 1.0, 0.0, 0.05, 0.05)
            self.assertIs(lies_at(filmed(x, y, what), edges, read, limits), believed, what)
        far = ReadRim(x, y, R * np.exp(3.0 * 0.05), 1.0, 0.0, 0.05, 0.05)
        self.assertFalse(lies_at(filmed(x, y), Rim(x, y, (R, R), 0.0, True, 0.3, 0.9), far, limits))

    def test_a_rough_mark_means_the_rim_and_not_the_stripe_inside_it(self) -> None:
        x, y = PLACES[1]
        picture = (0.4 * filmed(x, y, "stripe")).astype(np.uint8)
        for off, size in ((2.0, 0.93), (-2.0, 1.08), (1.0, 1.0), (-1.0, 0.85)):
            rim, _ = rim_by_mark(picture, x + off, y - off, size * R)
            self.assertTrue(rim.found)
            self.assertLess(abs(max(rim.axes_px) / R - 1), 0.04)

    def test_a_mark_as_large_as_the_plate_is_not_drawn_to_a_smaller_one_before_it(self) -> None:
        """From aside the smaller plate, which is nearer, stands beside the middle of the larger."""
        x, y = PLACES[1]
        picture = hall(WIDE, HIGH, FLOOR)
        plate(picture, x, y, R)
        circle(picture, x + 0.1 * R, y, 0.7 * R, (190, 190, 190))
        circle(picture, x + 0.1 * R, y, 0.2 * R, (90, 90, 90))
        for off, size in ((1.0, 1.0), (-1.0, 1.15)):
            rim, _ = rim_by_mark(shrunk(picture), x + off, y - off, size * R)
            self.assertTrue(rim.found)
            self.assertLess(abs(max(rim.axes_px) / R - 1), 0.04)

    def test_a_ring_that_is_marked_as_small_as_it_is_stays(self) -> None:
        x, y = PLACES[1]
        rim, _ = rim_by_mark(filmed(x, y, "smaller"), x, y, SMALLER * R)
        self.assertTrue(rim.found)
        self.assertLess(abs(max(rim.axes_px) / (SMALLER * R) - 1), 0.06)

    def test_the_whole_plate_is_proposed_and_not_the_smaller_one_before_it(self) -> None:
        up = [166.0] * 6 + [166.0 - 86.0 * k / 18 for k in range(19)] + [80.0] * 3
        for what in ("stripe", "smaller"):
            film = Slides([filmed(150.0, y, what, seed=k) for k, y in enumerate(up)])
            mark = propose_plate(film)
            assert mark is not None
            self.assertLess(abs(mark.r_px / R - 1), 0.06, what)
