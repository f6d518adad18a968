"""The synthesiser keeps its own promises: closed forms, joint limits, faults by degree."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.simulate import (
    FAULT_DEGREES,
    Body,
    Camera,
    Filming,
    LiftScript,
    film_frames,
    render_clip,
    simulate_lift,
)

SCRIPTS = st.builds(
    LiftScript,
    family=st.sampled_from(["snatch", "clean"]),
    start=st.sampled_from(["floor", "hang"]),
    receive=st.sampled_from(["full", "power", "none"]),
    body=st.builds(Body, stature_m=st.floats(1.45, 2.0)),
    faults=st.dictionaries(st.sampled_from(FAULT_DEGREES), st.floats(0, 1)),
    pause_s=st.sampled_from([0.0, 0.0, 0.8]),
    fidget_m=st.sampled_from([0.0, 0.0, 0.09]),
)


class TestSimulatedLift(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(SCRIPTS)
    def test_height_is_the_integral_of_upward_velocity(self, script: LiftScript) -> None:
        path = simulate_lift(script).path
        t = np.linspace(0, path.duration_s, 4000)
        v, y = path.vy_mps(t), path.y_m(t)
        risen = np.concatenate([[0], np.cumsum((v[1:] + v[:-1]) / 2 * np.diff(t))])
        np.testing.assert_allclose(y - y[0], risen, atol=2e-3)
        self.assertGreaterEqual(float(y.min()), 0.2249)

    @settings(max_examples=40, deadline=None)
    @given(SCRIPTS)
    def test_every_figure_is_a_possible_one(self, script: LiftScript) -> None:
        lift = simulate_lift(script)
        body = script.body
        for t in np.linspace(0, lift.duration_s, 25):
            pose = lift.pose(float(t))
            lengths = {
                ("ankle", "knee"): body.shank_m,
                ("knee", "hip"): body.thigh_m,
                ("hip", "shoulder"): body.trunk_m,
            }
            for (a, b), wanted in lengths.items():
                found = float(np.hypot(*(pose[b] - pose[a])))
                self.assertLess(abs(found - wanted), 0.12 * wanted, f"{a}–{b} at {t:.2f} s")
            self.assertLessEqual(pose["hip"][1], pose["shoulder"][1])
            reach = float(np.hypot(*(pose["shoulder"] - lift.bar_m(np.array([t]))[0])))
            self.assertLessEqual(reach, body.upper_arm_m + body.forearm_m + 1e-6)

    def test_a_film_that_ends_soon_after_the_pull_is_no_trouble(self) -> None:
        for end_s in (0.02, 0.1, 0.3, 0.6):
            lift = simulate_lift(LiftScript(receive="none", end_s=end_s))
            times = np.linspace(0, lift.duration_s, 60)
            knees = [lift.pose(float(t))["knee"][1] for t in times]
            self.assertLess(float(np.abs(np.diff(knees)).max()), 0.1)

    def test_each_fault_grows_with_its_degree(self) -> None:
        measure = {
            "loop": "loop",
            "bounce-forward": "forward_bump",
            "rushed-first-pull": "rhythm",
            "deep-rebend": "velocity_dip",
        }
        for fault in FAULT_DEGREES:
            values = [
                simulate_lift(LiftScript(faults={fault: degree})).truth_measures()[measure[fault]]
                for degree in (0.0, 0.4, 0.8)
            ]
            if fault == "rushed-first-pull":
                values = [-value for value in values]
            self.assertLess(values[0], values[1], fault)
            self.assertLess(values[1], values[2], fault)

    def test_a_demonstration_pauses_at_the_knee_and_a_fidget_ends_on_the_floor(self) -> None:
        plain, slow = (
            simulate_lift(LiftScript("clean", **more)).path  # type: ignore[arg-type]
            for more in ({}, {"pause_s": 1.2, "fidget_m": 0.09})
        )
        t = np.arange(0, slow.duration_s, 0.01)
        rise = slow.y_m(t) - slow.y_m(t[:1])
        before = t < slow.events_s["lift_off"]
        self.assertAlmostEqual(float(rise[before].max()), 0.09, places=3)
        self.assertAlmostEqual(float(rise[before][-1]), 0.0, delta=0.003)
        between = (t > slow.events_s["first_pull_end"]) & (t < slow.events_s["power_position"])
        self.assertGreaterEqual(np.count_nonzero(np.abs(slow.vy_mps(t))[between] < 1e-6), 119)
        self.assertAlmostEqual(
            float(slow.y_m(np.array([slow.events_s["peak_height"]]))[0]),
            float(plain.y_m(np.array([plain.events_s["peak_height"]]))[0]),
            places=6,
        )

    def test_events_come_in_their_order(self) -> None:
        events = simulate_lift(LiftScript()).path.events_s
        self.assertEqual(list(events.values()), sorted(events.values()))


class TestFilming(unittest.TestCase):
    def test_the_same_seed_gives_the_same_picture_and_another_does_not(self) -> None:
        lift = simulate_lift(LiftScript())
        times = np.array([1.2])
        small = Camera(320, 180, 70.0, 164.0, 160.0)
        one, two, other = (
            next(film_frames(lift, Filming(seed=seed, camera=small), times))[1]
            for seed in (3, 3, 4)
        )
        np.testing.assert_array_equal(one, two)
        self.assertTrue((one != other).any())

    def test_facing_left_is_the_mirror_of_facing_right(self) -> None:
        right, left = Camera(facing="right"), Camera(facing="left")
        spot = np.array([0.3, 1.0])
        self.assertAlmostEqual(right.to_px(spot)[0] - 640, 640 - left.to_px(spot)[0])

    def test_a_clip_and_its_truth_agree_in_length_and_time(self) -> None:
        with tempfile.TemporaryDirectory() as room:
            path = Path(room) / "short.mp4"
            camera = Camera(320, 180, 70.0, 164.0, 160.0)
            lift = simulate_lift(LiftScript("clean", "hang", "none"))
            times = np.arange(0, 0.5, 1 / 30)
            truth = render_clip(lift, Filming(fps=30, camera=camera), path, times)
            index = read_index(path)
            self.assertEqual(len(index), len(times))
            np.testing.assert_allclose(index.t_s, times, atol=1e-4)
            self.assertIn('"bar_px"', truth.read_text())
            with ClipReader(index) as reader:
                self.assertEqual(reader.frame(3).bgr().shape, (180, 320, 3))


if __name__ == "__main__":
    unittest.main()
