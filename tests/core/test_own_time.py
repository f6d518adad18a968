"""The time a lifter had where a film leaps or dwells, told from the bar, and a body that follows it."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from keen_kettle.core.track.body import BodyHand, evidence, solve_body
from keen_kettle.core.track.body.own_time import own_time
from tests.core.test_body import FPS, K, as_seen, bar_track, lifted, seen_as, true_points

Floats = np.ndarray


def pulled(t_s: Floats) -> Floats:
    """A bar that speeds up and slows down again, and leans a little, (n, 2), bodies."""
    way = 0.5 * (1 - np.cos(np.pi * np.clip(t_s, 0, 0.9) / 0.9))
    return np.column_stack([0.02 * np.sin(6 * way), -way])


class TestTimeToldByTheBar(unittest.TestCase):
    def setUp(self) -> None:
        self.true_s = np.arange(40) / FPS

    def test_an_even_film_keeps_its_time(self) -> None:
        np.testing.assert_allclose(own_time(self.true_s, pulled(self.true_s)), self.true_s)

    @given(at=st.integers(9, 17), gone=st.integers(2, 5))
    def test_pictures_that_are_missing_give_their_time_back(self, at: int, gone: int) -> None:
        kept = np.delete(self.true_s, np.arange(at, at + gone))
        told = np.diff(own_time(self.true_s[: len(kept)], pulled(kept))) * FPS
        self.assertAlmostEqual(told[at - 1], gone + 1, delta=0.25 * (gone + 1))
        np.testing.assert_allclose(np.delete(told, at - 1), 1.0)

    def test_nearly_the_same_picture_again_takes_next_to_no_time(self) -> None:
        bar = pulled(np.insert(self.true_s, 14, self.true_s[13] + 0.001)[:40])
        told = np.diff(own_time(self.true_s, bar)) * FPS
        self.assertLess(told[13], 0.15)
        np.testing.assert_allclose(np.delete(told, 13), 1.0)

    def test_a_turn_at_the_top_is_no_pause_and_a_lost_bar_tells_nothing(self) -> None:
        top = np.column_stack([0 * self.true_s, (self.true_s - 0.65) ** 2 * 9.81])
        np.testing.assert_allclose(own_time(self.true_s, top), self.true_s)
        top[10:20] = np.nan
        np.testing.assert_allclose(own_time(self.true_s, top), self.true_s)


class TestBodyAcrossALeap(unittest.TestCase):
    def test_a_hip_that_straightens_in_missing_pictures_is_straight_after_them(self) -> None:
        lift = lifted("snatch")
        straight = round(lift.path.events_s["peak_velocity"] * FPS)
        t_s = np.arange(straight + 20) / FPS
        kept = np.delete(t_s, np.arange(straight - 4, straight))
        true, stamped = true_points(lift, kept), t_s[: len(kept)]
        bar = replace(bar_track(lift, kept), t_s=stamped)
        with mock.patch.object(evidence, "_reread", as_seen):
            seen = seen_as(true, stamped, noise_px=3.0)
            body = solve_body(stamped, "right", seen, BodyHand(), bar)
        assert body is not None
        for name in ("hip", "shoulder", "knee"):
            off = np.hypot(body.x_px - true[..., 0], body.y_px - true[..., 1])[:, K[name]]
            around = off[straight - 8 : straight + 2] / seen.body_px()
            self.assertLess(around.max(), 0.05, f"{name}: {np.round(around, 3)}")


if __name__ == "__main__":
    unittest.main()
