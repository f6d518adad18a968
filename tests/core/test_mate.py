"""The near plate of a bar whose far plate is the clearer one, and where there is none."""

import unittest
from collections.abc import Callable
from functools import cache

import numpy as np

from keen_kettle.core.errors import Cancelled
from keen_kettle.core.track import propose_plate
from keen_kettle.core.track.mate import nearer_mate
from keen_kettle.core.track.propose import _nearest_first, _Rated, _round_the_same
from keen_kettle.core.track.rounds import Round
from keen_kettle.core.track.travellers import (
    LEAST_RISE,
    Traveller,
    _without_still_places,
    heights_of,
)
from keen_kettle.core.track.views import look_through
from tests.core.test_eye import hall, plate, shrunk
from tests.core.test_track import Slides

WIDE, HIGH, R, FRAMES = 400, 240, 28.0, 20
NEAR_X, FAR_X, LARGER = 110.0, 240.0, 1.3


def rated(r: float, sure: float, x: float = 100.0, rate: float = 1.0) -> _Rated:
    """Something round that goes down through five views."""
    seen = {k: Round(x, 90.0 + 5 * k, r, 0.5, np.zeros(3), sure) for k in range(5)}
    heights = {k: one.y for k, one in seen.items()}
    return _Rated(Traveller(seen, heights, r, 1.0), r, {}, 0.5, rate)


def near_y(frame: int) -> float:
    """From the floor to the top and down again."""
    return float(np.interp(frame, [0, 3, 10, 13, 19], [196, 196, 84, 84, 196]))


def far_y(frame: int) -> float:
    """The far plate goes less far, as it is farther away."""
    return 120 + (near_y(frame) - 120) / LARGER


@cache
def aside(near: bool = True, far: bool = True, near_grey: int = 30, far_grey: int = 30) -> Slides:
    """A bar seen from aside: the near plate on the left, the far one on the right."""
    background = hall(WIDE, HIGH, 208, seed=3)
    pictures = []
    for frame in range(FRAMES):
        view = background.copy()
        if far:
            plate(view, FAR_X, far_y(frame), R / LARGER, far_grey, 120, 0.05 * frame)
        if near:
            plate(view, NEAR_X, near_y(frame), R, near_grey, 90, 0.05 * frame)
        pictures.append(shrunk(view, 1.0, seed=frame))
    return Slides(pictures)


class TestStanding(unittest.TestCase):
    def traveller(
        self, film: Slides, place: Callable[[int], tuple[float, float]]
    ) -> Traveller | None:
        """What is left of something that is seen at these places."""
        views = look_through(film, 12, lambda: False)
        assert views is not None
        frames = [int(frame) for frame in views.frames]
        seen = {k: Round(*place(frame), R, 0.5, np.zeros(3)) for k, frame in enumerate(frames)}
        heights = {k: one.y for k, one in seen.items()}
        one = Traveller(seen, heights, R, 1.0)
        return _without_still_places(views, one, lambda: False, LEAST_RISE)

    def test_discs_in_a_rack_that_are_seen_in_turn_do_not_travel(self) -> None:
        rack = hall(WIDE, HIGH, 208, seed=3)
        for y in (70.0, 160.0):
            plate(rack, 200, y, R, 40, 110)
        film = Slides([shrunk(rack, 1.0, seed=k) for k in range(12)])
        self.assertIsNone(self.traveller(film, lambda k: (200.0, (70.0, 160.0)[k % 2])))

    def test_a_plate_that_is_lifted_keeps_all_its_sightings(self) -> None:
        kept = self.traveller(aside(far=False), lambda k: (NEAR_X, near_y(k)))
        assert kept is not None
        self.assertEqual(len(kept.seen), 12)


class TestMate(unittest.TestCase):
    def of_the_far_one(self, film: Slides) -> tuple[float, list[float]] | None:
        """The mate's size against the far plate's and how far its places are off the near plate's, in
        radii of that; None where no mate is found."""
        views = look_through(film, 24, lambda: False)
        assert views is not None
        seen = {
            view: Round(FAR_X, far_y(int(frame)), R / LARGER, 0.5, np.zeros(3))
            for view, frame in enumerate(views.frames)
        }
        far = Traveller(seen, heights_of(views, seen), R / LARGER, 1.0)
        mate = nearer_mate(views, far, far.r, lambda: False)
        if mate is None:
            return None
        off = [
            float(np.hypot(one.x - NEAR_X, one.y - near_y(int(views.frames[view])))) / R
            for view, one in mate.seen.items()
        ]
        return mate.r * LARGER / R, off

    def test_the_larger_plate_that_goes_farther_in_step_is_found(self) -> None:
        for grey in (30, 46):
            found = self.of_the_far_one(aside(near_grey=grey))
            assert found is not None
            size, off = found
            self.assertAlmostEqual(size, LARGER, delta=0.1)
            self.assertLess(float(np.median(off)), 0.15)

    def test_a_plate_alone_has_no_mate(self) -> None:
        self.assertIsNone(self.of_the_far_one(aside(near=False)))

    def test_the_near_plate_is_proposed_though_the_far_one_is_clearer(self) -> None:
        film = aside(near_grey=56, far_grey=20)
        mark = propose_plate(film)
        assert mark is not None
        off = np.hypot(mark.x_px - NEAR_X, mark.y_px - near_y(mark.frame))
        self.assertLess(off, 0.15 * R)
        self.assertLess(abs(mark.r_px / R - 1), 0.08)

    def test_of_two_that_surely_are_plates_the_larger_comes_first_though_rated_much_less(
        self,
    ) -> None:
        far = rated(50.0, 0.9, x=240.0, rate=5.0)
        for sure, rate, first in ((0.9, 2.0, True), (0.6, 2.0, False), (0.9, 1.0, False)):
            near = rated(60.0, sure, rate=rate)
            self.assertIs(_nearest_first([far, near])[0], near if first else far)

    def test_a_ring_within_what_looks_more_surely_like_a_plate_is_none(self) -> None:
        ring = rated(14.0, 0.6)
        self.assertTrue(_round_the_same(rated(28.0, 0.9), ring))
        self.assertFalse(_round_the_same(rated(28.0, 0.5), ring), "it looks less like a plate")
        self.assertFalse(_round_the_same(rated(28.0, 0.9, x=130.0), ring), "it is elsewhere")
        self.assertFalse(_round_the_same(ring, ring))

    def test_the_search_can_be_stopped(self) -> None:
        views = look_through(aside(), 24, lambda: False)
        assert views is not None
        seen = {0: Round(FAR_X, far_y(0), R / LARGER, 0.5, np.zeros(3))}
        far = Traveller(seen, heights_of(views, seen), R / LARGER, 1.0)
        with self.assertRaises(Cancelled):
            nearer_mate(views, far, far.r, lambda: True)


if __name__ == "__main__":
    unittest.main()
