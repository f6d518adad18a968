"""Repeated pictures, and what follows from them: which clock is the lift's, and where lifts are."""

import unittest
from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.motion import film_clock, repeated_share
from keen_kettle.core.motion.rises import rises
from keen_kettle.core.simulate import LiftScript, SimulatedLift, simulate_lift
from keen_kettle.core.track import BarTrack, State
from keen_kettle.core.track.same import same_pictures, without_slow
from tests.core.test_motion import track_of

Array = NDArray[np.float64]

RUNS = {
    "twice": [2],
    "four times": [4],
    "eight times": [8],
    "irregular": [1, 1, 1, 2, 2, 3, 6],
}


def shown(lift: SimulatedLift, fps: float, runs: list[int], seed: int = 3) -> BarTrack:
    """A lift filmed at a rate, each picture shown as often as the runs say, saved at 30 a second."""
    rng = np.random.default_rng(seed)
    own = np.arange(0, lift.duration_s, 1 / fps)
    often = rng.choice(runs, len(own)) if len(set(runs)) > 1 else np.full(len(own), runs[0])
    pictures = np.repeat(np.arange(len(own)), often)
    path = lift.bar_m(own[pictures])
    track = track_of(np.arange(len(pictures)) / 30, path[:, 0], path[:, 1], 0.0)
    noise = rng.normal(0, 0.2, (2, len(own)))[:, pictures]
    x, y = track.x_px + noise[0], track.y_px + noise[1]
    same = np.concatenate([[False], np.diff(pictures) == 0])
    return replace(track, x_px=x, y_px=y, still_x_px=x, still_y_px=y, same=same)


def lifted(family: str = "snatch", receive: str = "full") -> SimulatedLift:
    return simulate_lift(LiftScript(family, receive=receive, still_s=0.5, end_s=0.5))


def answer(track: BarTrack, lift: SimulatedLift, **more: float) -> Assessment:
    return assess(track, ClipSettings(lift.script.derivative, **more), load_content())  # type: ignore[arg-type]


class TestClock(unittest.TestCase):
    def test_lifts_in_repeated_pictures_are_found_where_they_are(self) -> None:
        for name, runs in RUNS.items():
            for receive in ("full", "none"):
                lift = lifted(receive=receive)
                track = shown(lift, 30.0, runs)
                found = answer(track, lift)
                with self.subTest(runs=name, receive=receive):
                    self.assertEqual(len(found.reps), 1)
                    for event in ("lift_off", "peak_height"):
                        true = round(lift.path.events_s[event] * 30)
                        own = np.cumsum(~track.held) - 1  # which picture each frame shows
                        self.assertLessEqual(abs(own[found.events[event].frame] - true), 3, event)

    def test_even_slow_motion_leaves_ratios_and_uneven_pictures_take_them(self) -> None:
        lift = lifted()
        even = answer(shown(lift, 30.0, RUNS["four times"]), lift)
        self.assertEqual((even.clock.trusted, even.clock.even), (False, True))
        self.assertIsNone(even.measures["peak_velocity"].value)
        ratio = even.measures["rhythm"].value
        assert ratio is not None
        self.assertAlmostEqual(ratio, lift.truth_measures()["rhythm"], delta=0.35)
        uneven = answer(_with_drops(lift), lift)
        self.assertFalse(uneven.clock.even)
        self.assertIsNone(uneven.measures["rhythm"].value)
        self.assertIsNotNone(uneven.measures["rise"].value)
        self.assertIn("Heights, order and angles hold", " ".join(uneven.notes))

    def test_repeats_take_no_time_where_the_plate_is_lost_either(self) -> None:
        lift = lifted()
        track = shown(lift, 30.0, RUNS["four times"])
        lost = slice(12, int(4 * 30 * lift.path.events_s["lift_off"]) - 8)
        x, y, state = track.x_px.copy(), track.y_px.copy(), track.state.copy()
        x[lost] = y[lost] = np.nan
        state[lost] = State.LOST
        hidden = replace(track, x_px=x, y_px=y, still_x_px=x, still_y_px=y, state=state)
        times, whole = film_clock(hidden, None).t_s, film_clock(track, None).t_s
        np.testing.assert_allclose(times, whole, atol=0.1)
        self.assertGreater(4 * (whole[lost.stop] - whole[0]), 0.9 * lost.stop / 30)

    def test_a_film_brought_to_a_higher_rate_keeps_its_own_time(self) -> None:
        """Every third picture is the one before again: twenty differ in each second."""
        lift = lifted()
        t = np.arange(0, lift.duration_s, 1 / 30)
        number = np.arange(len(t))
        pictures = number - (number % 3 == 2)
        path = lift.bar_m(t[pictures])
        track = track_of(t, path[:, 0], path[:, 1], 0.1)
        same = np.concatenate([[False], np.diff(pictures) == 0])
        clock = film_clock(replace(track, same=same), None)
        self.assertTrue(clock.trusted)
        np.testing.assert_allclose(clock.t_s, t)

    def test_told_the_rate_the_speeds_of_slow_motion_are_true(self) -> None:
        lift = lifted()
        found = answer(shown(lift, 120.0, RUNS["four times"]), lift, capture_fps=120.0)
        measure = found.measures["peak_velocity"]
        assert measure.value is not None and measure.sigma is not None
        true = lift.truth_measures()["peak_velocity"]
        self.assertLess(abs(measure.value - true), 3 * measure.sigma + 0.02)

    def test_a_freeze_holds_the_point_and_parts_nothing(self) -> None:
        lift = lifted()
        track = shown(lift, 30.0, [1])
        knee = int(lift.path.events_s["first_pull_end"] * 30)
        order = np.concatenate([np.arange(knee), np.full(45, knee), np.arange(knee, len(track))])
        frozen = track_of(np.arange(len(order)) / 30, np.zeros(len(order)), np.zeros(len(order)))
        fields = {
            name: getattr(track, name)[order]
            for name in ("x_px", "y_px", "still_x_px", "still_y_px")
        }
        same = np.concatenate([[False], np.diff(order) == 0])
        found = answer(replace(frozen, same=same, **fields), lift)
        self.assertEqual(len(found.reps), 1)
        self.assertTrue(np.isfinite(found.motion.y_m[knee : knee + 45]).all())

    def test_where_all_moving_pictures_repeat_nothing_breaks(self) -> None:
        lift = lifted()
        track = shown(lift, 30.0, [1])
        found = answer(replace(track, same=np.ones(len(track), bool)), lift)
        self.assertEqual(found.reps, ())


class TestSlowMotion(unittest.TestCase):
    """Films that were filmed fast and saved at 30 a second: no picture is repeated."""

    LIFTS = (
        ("snatch", "floor", "full"),
        ("snatch", "hang", "power"),
        ("clean", "floor", "full"),
        ("clean", "blocks", "power"),
        ("clean", "floor", "none"),
        ("jerk", "front rack", "split"),
    )

    def lifts(self) -> Iterator[SimulatedLift]:
        for family, start, receive in self.LIFTS:
            script = LiftScript(family, start, receive, still_s=0.5, end_s=0.5)
            yield simulate_lift(script)

    def test_a_film_as_slow_as_life_is_believed(self) -> None:
        for lift in self.lifts():
            found = answer(shown(lift, 30.0, [1]), lift)
            self.assertEqual((found.clock.trusted, found.clock.hangs), (True, 1.0))
            self.assertIsNotNone(found.measures["peak_velocity"].value)

    def test_a_bar_that_hangs_in_the_air_too_long_tells_slow_motion(self) -> None:
        for lift in self.lifts():
            found = answer(shown(lift, 120.0, [1]), lift)
            self.assertFalse(found.clock.trusted)
            self.assertLess(abs(np.log(found.clock.slowed / 4)), 0.35)
            speed = found.measures["peak_velocity"]
            self.assertIsNone(speed.value)
            self.assertIn("slow motion", speed.why)
            self.assertTrue({"peak_velocity", "peak_height"} <= set(found.events))
            self.assertIn("how many frames a second the phone took", " ".join(found.notes))

    def test_events_are_where_they_are_in_slow_motion(self) -> None:
        jerk = simulate_lift(LiftScript("jerk", "front rack", "split", still_s=0.5, end_s=0.5))
        self.assertIn("dip_bottom", answer(shown(jerk, 240.0, [1]), jerk).events)
        for times in (2, 4, 8):
            lift = lifted()
            found = answer(shown(lift, 30.0 * times, [1]), lift)
            ratio = found.measures["rhythm"].value
            assert ratio is not None
            self.assertAlmostEqual(ratio, lift.truth_measures()["rhythm"], delta=0.35)
            for event in ("lift_off", "peak_velocity", "peak_height", "lowest"):
                away = found.events[event].frame / (30 * times) - lift.path.events_s[event]
                self.assertLess(abs(away), 0.04, (times, event))

    def test_a_bar_that_is_lifted_slowly_and_held_is_no_slow_motion(self) -> None:
        t = np.arange(0, 5, 1 / 30)
        height = (
            0.55 * np.interp(t, [1, 2.6], [0, 1]) ** 2 * (3 - 2 * np.interp(t, [1, 2.6], [0, 1]))
        )
        noise = np.random.default_rng(4).normal(0, 0.001, (2, len(t)))
        found = answer(track_of(t, noise[0], 0.225 + height + noise[1]), lifted())
        self.assertTrue(found.reps)
        self.assertEqual((found.clock.trusted, found.clock.hangs), (True, 1.0))

    def test_told_the_rate_the_speeds_are_true(self) -> None:
        lift = lifted()
        found = answer(shown(lift, 120.0, [1]), lift, capture_fps=120.0)
        value = found.measures["peak_velocity"].value
        assert value is not None
        self.assertAlmostEqual(value, lift.truth_measures()["peak_velocity"], delta=0.05)
        gentle = answer(shown(lift, 120.0, [1]), lift, capture_fps=30.0)
        self.assertTrue(gentle.clock.trusted, "who says so has lifted so slowly")


def _with_drops(lift: SimulatedLift) -> BarTrack:
    """Pictures held for seven and twenty frames inside the pull, and one in four dropped."""
    track = shown(lift, 30.0, [1])
    rng = np.random.default_rng(8)
    kept = np.flatnonzero(rng.random(len(track)) > 0.25)
    often = rng.choice([1, 1, 2, 4, 7], len(kept))
    order = np.repeat(kept, often)
    shell = track_of(np.arange(len(order)) / 30, np.zeros(len(order)), np.zeros(len(order)))
    fields = {
        name: getattr(track, name)[order] for name in ("x_px", "y_px", "still_x_px", "still_y_px")
    }
    return replace(shell, same=np.concatenate([[False], np.diff(order) == 0]), **fields)


class TestRises(unittest.TestCase):
    @given(
        st.lists(st.floats(0.06, 1.5), min_size=1, max_size=4),
        st.integers(6, 40),
        st.floats(0.0, 0.002),
    )
    @settings(max_examples=40, deadline=None)
    def test_every_rise_is_found_once_whatever_its_height_and_pace(
        self, heights: list[float], frames: int, noise: float
    ) -> None:
        least = max(heights)
        heights = [max(height, 0.1 * least) for height in heights]
        smooth = (1 - np.cos(np.linspace(0, np.pi, frames))) / 2
        parts = [np.zeros(10)]
        for height in heights:
            parts += [height * smooth, np.full(4, height), height * smooth[::-1], np.zeros(10)]
        y = np.concatenate(parts)
        y = y + np.random.default_rng(1).normal(0, noise + 1e-9, len(y))
        found = rises(y, None, noise)
        self.assertEqual(len(found), len(heights))
        for one, height in zip(found, heights, strict=True):
            self.assertAlmostEqual(one.rise_m, height, delta=0.05 * height + 8 * noise)

    def test_what_is_cut_off_at_either_end_is_told(self) -> None:
        y = np.sin(np.linspace(-np.pi / 2, np.pi / 2, 41))
        whole = rises(np.concatenate([np.full(10, -1.0), y, np.full(10, 1.0)]), None, 0.001)
        self.assertEqual([(one.begun, one.ended) for one in whole], [(True, True)])
        cut = rises(y[15:28], None, 0.001)
        self.assertEqual([(one.begun, one.ended) for one in cut], [(False, False)])

    def test_after_pictures_that_are_all_alike_a_quick_start_is_told_from_a_cut(self) -> None:
        """A shrug at 24 a second is soon at full speed; a picture that was held before a cut is not."""
        shrug = np.array([0.0, 0.9, 2.6, 4.8, 6.9, 8.3, 8.9, 8.6]) / 100
        cut = np.array([0.0, 2.1, 4.3, 6.6, 8.6, 10.2, 11.0, 10.7]) / 100
        for heights, begun in ((shrug, True), (cut, False)):
            y = np.concatenate([np.zeros(12), heights])
            held = np.arange(len(y)) < 13
            held[0] = False
            found = rises(y, held, 0.001)
            self.assertEqual([one.begun for one in found], [begun])
            held[1], y[1] = False, -0.0005  # and the second of them is not quite the first
            found = rises(y, held, 0.001)
            self.assertEqual([one.begun for one in found], [begun])


class TestSame(unittest.TestCase):
    @staticmethod
    def pictures(order: list[int]) -> list[NDArray[np.uint8]]:
        """A square that moves with the number, each shown picture with coding noise of its own."""
        rng = np.random.default_rng(2)
        hall = rng.integers(60, 120, (90, 160, 3)).astype(float)
        made = []
        for number in order:
            picture = hall.copy()
            picture[20:60, 20 + 3 * number : 50 + 3 * number] = 200
            picture += rng.normal(0, 0.4, picture.shape).round()
            made.append(np.clip(picture, 0, 255).astype(np.uint8))
        return made

    def test_repeats_are_told_from_the_pictures_alone(self) -> None:
        order = [0, 1, 1, 2, 3, 3, 3, 4, 5, 6, 6, 7]
        pictures = self.pictures(order)
        same = same_pictures(lambda k: pictures[k], len(order))
        wanted = [False, *(a == b for a, b in pairwise(order))]
        self.assertEqual(same.tolist(), wanted)

    def test_where_nothing_repeats_nothing_is_said_to(self) -> None:
        pictures = self.pictures(list(range(12)))
        self.assertFalse(same_pictures(lambda k: pictures[k], 12).any())

    def test_a_picture_that_cannot_be_read_is_no_repeat_and_stopping_works(self) -> None:
        pictures = self.pictures([0] * 12)

        def bgr(number: int) -> NDArray[np.uint8]:
            if number == 5:
                raise ClipUnreadable("damaged")
            return pictures[number]

        same = same_pictures(bgr, 12)
        self.assertFalse(same[5] or same[6])
        with self.assertRaises(Cancelled):
            same_pictures(bgr, 12, lambda: True)

    def test_what_stirs_round_the_plate_makes_a_picture_of_its_own(self) -> None:
        """A large hall in which only the plate moves, by a pixel or so."""
        rng = np.random.default_rng(5)
        hall = rng.integers(60, 120, (360, 640, 3)).astype(np.uint8)
        ways = [0.0] * 8 + [0.9, 0.9, 1.8, 1.8, 2.7, 3.6, 3.6]
        pictures = []
        for number, up in enumerate(ways):
            picture = hall.copy()
            centre = (320 * 16, round((250 - up) * 16))
            cv2.circle(picture, centre, 40 * 16, (30, 30, 30), -1, cv2.LINE_AA, 4)
            if number == 3:
                picture[10, 10] += 1  # as coding leaves a repeat
            pictures.append(picture)
        plate = np.column_stack([np.full(15, 320.0), 250 - np.array(ways), np.full(15, 40.0)])
        same = same_pictures(lambda k: pictures[k], 15, plate=plate)
        self.assertFalse(same[[8, 10, 12, 13]].any(), "the plate moves in these")
        self.assertTrue(same[[9, 11, 14]].all(), "these are shown again")

    def test_where_the_plate_is_not_known_all_goes_by_the_whole_picture(self) -> None:
        pictures = self.pictures([0, 1, 1, 2, 3, 3, 4, 5, 6, 6, 7, 8])
        whole = same_pictures(lambda k: pictures[k], 12)
        unknown = same_pictures(lambda k: pictures[k], 12, plate=np.full((12, 3), np.nan))
        self.assertEqual(unknown.tolist(), whole.tolist())


class TestSlowPictures(unittest.TestCase):
    def test_a_bar_that_begins_slowly_repeats_no_picture(self) -> None:
        """Alike pictures over which the plate goes on are no repeats; those after which it jumps are."""
        creeps, jumps = np.zeros(30), np.zeros(30)
        same = np.zeros(30, bool)
        same[5:25] = True
        creeps[4:] = 0.2 * np.arange(26)
        jumps[25:] = 4.0
        still = np.zeros(30)
        self.assertFalse(without_slow(same, still, creeps).any())
        np.testing.assert_array_equal(without_slow(same, still, jumps), same)
        np.testing.assert_array_equal(without_slow(same, still, still), same, "and rest is rest")

    def test_a_bar_that_lies_between_two_lifts_is_no_frozen_picture(self) -> None:
        """Down, still, up again: rest. Up, still, up again: pictures were held."""
        down, up, still = np.linspace(0.6, 0, 31), np.linspace(0, 0.6, 31), np.zeros(30)
        held = np.concatenate([np.zeros(31, bool), np.ones(30, bool), np.zeros(31, bool)])
        for name, y, stands_s in (
            ("between lifts", np.concatenate([down, still, up + 0.02]), 0.0),
            ("held on the way", np.concatenate([up, still + 0.6, up + 0.62]), 1.0),
        ):
            track = track_of(np.arange(len(y)) / 30, np.zeros(len(y)), y, 0.0)
            clock = film_clock(replace(track, same=held), None)
            self.assertAlmostEqual(clock.frozen_s, stands_s, delta=0.05, msg=name)
            self.assertEqual(
                repeated_share(replace(track, same=held)), 0.0, "that is no slow motion"
            )


class TestFrozen(unittest.TestCase):
    """An editor stops the film in the lift, and draws on it."""

    def frozen(self, lift: SimulatedLift, at: str, seconds: float, drawn: bool) -> BarTrack:
        track = shown(lift, 30.0, [1])
        frame = round(lift.path.events_s[at] * 30)
        stands = round(30 * seconds)
        order = np.insert(np.arange(len(track)), frame + 1, [frame] * stands)
        same = np.concatenate([[False], np.diff(order) == 0])
        if drawn:
            same[[frame + 6, frame + stands - 3]] = False
        ways = {
            name: getattr(track, name)[order]
            for name in ("x_px", "y_px", "still_x_px", "still_y_px", "r_px", "state")
        }
        more = {name: getattr(track, name)[order] for name in ("confidence", "sharp")}
        return replace(track, **ways, **more, t_s=np.arange(len(order)) / 30, same=same)

    def test_it_changes_neither_events_nor_speeds_nor_findings(self) -> None:
        lift = lifted()
        plain = answer(shown(lift, 30.0, [1]), lift)
        for at in ("first_pull_end", "power_position", "peak_velocity"):
            for drawn in (False, True):
                with self.subTest(at=at, drawn=drawn):
                    found = answer(self.frozen(lift, at, 3.0, drawn), lift)
                    self.assertAlmostEqual(found.clock.frozen_s, 3.0, delta=0.1)
                    self.assertTrue(found.clock.trusted)
                    for name in ("peak_velocity", "rise"):
                        one, other = found.measures[name], plain.measures[name]
                        assert one.value is not None and other.value is not None
                        self.assertAlmostEqual(one.value, other.value, delta=0.08 * other.value)
                    self.assertEqual(
                        [one.fault for one in found.findings],
                        [one.fault for one in plain.findings],
                    )
                    self.assertIn("Pictures are frozen for 3.0 s", " ".join(found.notes))

    def test_a_lifter_who_waits_at_the_knee_is_not_frozen(self) -> None:
        """A pause in a demonstration pull: the bar slows down, and the pictures differ or do not."""
        up = 0.4 * (1 - np.cos(np.linspace(0, np.pi, 31))) / 2
        y = np.concatenate([np.zeros(20), up, np.full(60, 0.4), 0.4 + up, np.full(20, 0.8)])
        track = track_of(np.arange(len(y)) / 30, np.zeros(len(y)), y, 0.0)
        same = np.concatenate([[False], np.diff(y) == 0])
        clock = film_clock(replace(track, same=same), None)
        self.assertEqual(clock.frozen_s, 0.0)
        np.testing.assert_array_equal(clock.t_s, track.t_s)


if __name__ == "__main__":
    unittest.main()
