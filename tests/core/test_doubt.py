"""How sure points and instants of the body are: where it is lost, behind a high bar, at the finish."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.track import State
from keen_kettle.core.track.body import LANDMARKS, BodyTrack, PointState, Sightings, evidence
from tests.core.test_body import CAMERA, FPS, Floats, K, Lifted, seen_as


class TestLost(Lifted):
    def near(self, middle_s: float, half_s: float) -> Floats:
        return np.asarray(np.abs(self.t_s - middle_s) < half_s)

    def test_where_the_model_leaps_again_and_again_nothing_is_measured(self) -> None:
        peak = self.lift.path.events_s["peak_velocity"]
        wild, points = np.flatnonzero(self.near(peak, 0.5)), self.true.copy()
        points[wild[::2]] += (0.4 * CAMERA.px_per_m, 0.0)
        lost, plain = (self.solve(seen_as(one, self.t_s)) for one in (points, self.true))
        there, later = self.near(peak, 0.2), self.t_s > peak + 1.5
        self.assertTrue((lost.state[there] == PointState.ASSUMED).all())
        for name in ("shoulder", "ear"):
            more = lost.sigma_px[there, K[name]] / plain.sigma_px[there, K[name]]
            self.assertGreater(float(more.min()), 2.0, name)
        np.testing.assert_array_equal(lost.state[later], plain.state[later])

    def test_a_lift_itself_is_no_leap(self) -> None:
        body = self.solve(seen_as(self.true, self.t_s))
        finish = self.near(self.lift.path.events_s["peak_velocity"], 0.1)
        self.assertTrue((body.state[finish, K["ear"]] == PointState.MEASURED).all())


class TestFit(Lifted):
    def test_what_scatters_more_about_the_solved_body_is_less_sure(self) -> None:
        """And what it says holds: two thirds or more of its errors are within one uncertainty."""
        said = []
        for noise in (0.006, 0.018):
            seen = seen_as(self.true, self.t_s)
            body = self.solve(seen_as(self.true, self.t_s, noise * seen.body_px()))
            knee = K["knee"]
            sure = body.state[:, knee] == PointState.MEASURED
            said.append(float(np.median(body.sigma_px[sure, knee])))
            off = np.abs(body.x_px - self.true[..., 0])[sure, knee]
            self.assertGreater(float((off < body.sigma_px[sure, knee]).mean()), 0.66, noise)
        self.assertGreater(said[1], 1.3 * said[0])

    def test_one_point_that_scatters_makes_no_other_less_sure(self) -> None:
        rng, points = np.random.default_rng(3), self.true.copy()
        body_px = seen_as(self.true, self.t_s).body_px()
        points[:, K["ear"]] += rng.normal(0, 0.03 * body_px, (len(points), 2))
        wild, plain = (self.solve(seen_as(one, self.t_s)) for one in (points, self.true))
        more = np.median(wild.sigma_px / plain.sigma_px, axis=0)
        self.assertGreater(more[K["ear"]], 1.5)
        self.assertAlmostEqual(float(more[K["knee"]]), 1.0, delta=0.1)


class TestFastBar(Lifted):
    def test_a_hip_behind_a_fast_bar_is_less_sure_than_behind_a_slow_one(self) -> None:
        body = self.solve(seen_as(self.true, self.t_s))
        fast = int(np.argmin(np.abs(self.t_s - self.lift.path.events_s["peak_velocity"])))
        share = body.sigma_px[[fast, 0], K["hip"]] / body.sigma_px[[fast, 0], K["knee"]]
        self.assertGreater(share[0], 1.3 * share[1])

    def test_a_hip_that_straightens_fast_is_not_smoothed_short(self) -> None:
        """Right sightings that are only half believed: next to nothing is lost of what they agree on."""
        seen = seen_as(self.true, self.t_s)
        unsure_px = 0.03 * seen.body_px()
        half = mock.patch.object(
            evidence, "_reread", lambda *asked: (asked[3], np.full(asked[3].shape[:2], unsure_px))
        )
        with half:
            body = self.solve(seen)
        near = np.abs(self.t_s - self.lift.path.events_s["peak_velocity"]) < 0.2
        off = (body.x_px - self.true[..., 0])[near, K["hip"]]
        self.assertLess(np.abs(off).max(), 0.012 * seen.body_px())


class TestRepeats(Lifted):
    def test_a_look_at_a_repeated_picture_is_one_at_the_frame_that_showed_it_first(self) -> None:
        again = np.array([0, 0, 1, 0, 1, 1, 0, 1, 1], bool)
        looks = np.zeros((4, 2, len(LANDMARKS)))
        for frames, told in (([0, 2, 4, 8], [0, 1, 3, 6]), ([3, 4, 5, 6], [3, 4, 5, 6])):
            seen = Sightings(
                np.array(frames, np.int32),
                np.zeros((*looks.shape, 2), np.float32),
                looks.astype(np.float32),
                np.zeros(4, np.float32),
            )
            self.assertEqual(seen.as_first_shown(again).frames.tolist(), told)

    def test_a_film_of_which_only_repeats_were_looked_at_is_solved_as_well(self) -> None:
        """Every second frame shows the one before again, and just those were looked at."""
        shown = np.arange(len(self.t_s)) // 2 * 2
        repeats = shown != np.arange(len(self.t_s))
        self.bar = replace(
            self.bar, state=np.where(repeats, State.REPEATED, State.GOOD).astype(np.uint8)
        )
        seen = seen_as(self.true[shown], self.t_s)
        odd = np.flatnonzero(seen.frames % 2)
        rows = ("frames", "points", "presence", "nose_x")
        body = self.solve(replace(seen, **{name: getattr(seen, name)[odd] for name in rows}))
        whole = self.solve(seen)
        for name in ("hip", "shoulder", "elbow"):
            off = np.hypot(body.x_px - whole.x_px, body.y_px - whole.y_px)[:-1, K[name]]
            self.assertLess(float(np.nanmax(off)), 1.0, name)
            self.assertTrue((body.state == whole.state)[1:-1, K[name]].all(), name)

    def test_between_two_looks_that_are_far_apart_a_point_is_less_sure(self) -> None:
        seen = seen_as(self.true, self.t_s)
        peak = int(np.argmin(np.abs(self.t_s - self.lift.path.events_s["peak_velocity"])))
        kept = np.flatnonzero(np.abs(seen.frames - peak) > 3)
        rows = ("frames", "points", "presence", "nose_x")
        body = self.solve(replace(seen, **{name: getattr(seen, name)[kept] for name in rows}))
        grown = body.sigma_px[peak] / self.solve(seen).sigma_px[peak]
        self.assertGreater(float(grown[K["shoulder"]]), 2.0)
        off = np.hypot(*(body.x_px - self.true[..., 0], body.y_px - self.true[..., 1]))
        self.assertLess(float((off / body.sigma_px)[peak, K["shoulder"]]), 2.5)


class TestHighBar(Lifted):
    def test_a_shoulder_behind_the_bar_in_the_rack_is_less_sure_than_over_a_low_one(self) -> None:
        body = self.solve(seen_as(self.true, self.t_s))
        low = self.t_s < self.lift.path.events_s["lift_off"]
        racked = self.t_s > self.lift.path.events_s["lowest"] + 0.5
        low_px, high_px = (np.median(body.sigma_px[part, K["shoulder"]]) for part in (low, racked))
        self.assertGreater(float(high_px), 1.5 * float(low_px))
        knee_px = [float(np.median(body.sigma_px[part, K["knee"]])) for part in (low, racked)]
        self.assertLessEqual(knee_px[1], knee_px[0])


class TestArmsAndFeet(Lifted):
    def body(self, elbow_sigma: float, hip_waits: bool = False) -> BodyTrack:
        true = self.true.copy()
        if hip_waits:
            before = self.t_s <= self.lift.path.events_s["peak_velocity"] + 1.5 / FPS
            true[before, K["hip"], 0] -= 0.2 * CAMERA.px_per_m
        sigma = np.full(true.shape[:2], 2.0)
        sigma[:, LANDMARKS.index("elbow")] = elbow_sigma * CAMERA.px_per_m
        return replace(
            self.solve(seen_as(self.true, self.t_s)),
            x_px=true[..., 0],
            y_px=true[..., 1],
            sigma_px=sigma,
            state=np.zeros(true.shape[:2], np.uint8),
        )

    def answer(self, body: BodyTrack) -> Assessment:
        told = ClipSettings(self.lift.script.derivative)
        return assess(self.bar, told, load_content(), body)

    def test_elbows_that_the_plate_hides_are_not_timed(self) -> None:
        seen, hidden = (
            self.answer(self.body(sigma)).measures["elbow_turnover"] for sigma in (0.01, 0.6)
        )
        assert seen.value is not None and seen.sigma is not None
        self.assertLess(seen.sigma, 0.1)
        self.assertIsNone(hidden.value)
        self.assertIn("plate hides the elbow", hidden.why or "")
        before = self.body(0.01)
        x_px = before.x_px.copy()
        high = self.t_s > self.lift.path.events_s["peak_velocity"]
        x_px[high, K["elbow"]] = self.bar.x_px[high] + 0.15 * CAMERA.px_per_m
        never_behind = self.answer(replace(before, x_px=x_px)).measures["elbow_turnover"]
        self.assertIsNone(never_behind.value)
        self.assertIn("plate hides the elbow", never_behind.why or "")

    def test_a_jump_is_as_sure_as_the_toe_was_seen_before_it(self) -> None:
        seen = self.body(0.01)
        assumed, elsewhere = seen.state.copy(), seen.x_px.copy()
        before = self.t_s < self.lift.path.events_s["peak_velocity"]
        assumed[before, K["toe"]] = PointState.ASSUMED
        elsewhere[before, K["toe"]] -= 0.7 * CAMERA.px_per_m
        plain, guessed, wrong = (
            self.answer(one).measures["foot_shift"]
            for one in (seen, replace(seen, state=assumed), replace(seen, x_px=elsewhere))
        )
        assert plain.sigma is not None and guessed.sigma is not None
        self.assertAlmostEqual(guessed.sigma / plain.sigma, 1 / 0.35, delta=0.3)
        self.assertIsNone(wrong.value)
        self.assertIn("not seen where it stood", wrong.why or "")

    def test_a_hip_that_is_never_so_bent_at_the_finish_is_not_read(self) -> None:
        """A body that was taken for another one: the hip is far behind and below."""
        plain = self.body(0.01)
        astray = plain.x_px.copy()
        astray[:, K["hip"]] -= 0.6 * CAMERA.px_per_m
        said = self.answer(replace(plain, x_px=astray)).measures["hip_extension"]
        self.assertIsNone(said.value)
        self.assertIn("not read while it finishes", said.why or "")

    def test_arms_are_judged_at_the_greatest_speed_at_the_latest(self) -> None:
        for waits in (False, True):
            answer = self.answer(self.body(0.01, waits))
            arm = answer.measures["arm_at_extension"]
            assert arm.frame is not None
            self.assertLessEqual(arm.frame, answer.events["peak_velocity"].frame)


if __name__ == "__main__":
    unittest.main()
