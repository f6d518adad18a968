"""The body: the shipped model on drawn lifters, solving with hands and hidden points, events, measures."""

import csv
import hashlib
import io
import re
import unittest
from dataclasses import replace
from functools import cache
from pathlib import Path
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.errors import Cancelled, NoBodyModel
from keen_kettle.core.export import landmarks_csv, landmarks_trc
from keen_kettle.core.faults import judged_faults
from keen_kettle.core.motion import BODY_UNITS, HandEvent
from keen_kettle.core.motion.body import SQUARE_ON
from keen_kettle.core.motion.body.pull import contact_point
from keen_kettle.core.motion.body.scene import Scene
from keen_kettle.core.simulate import (
    Camera,
    Filming,
    LiftScript,
    SimulatedLift,
    film_frames,
    simulate_lift,
)
from keen_kettle.core.track import BarTrack, Rim, State
from keen_kettle.core.track.body import (
    LANDMARKS,
    BodyHand,
    BodyPoint,
    BodySeed,
    BodySpan,
    BodyTrack,
    PointState,
    PoseNet,
    Sightings,
    evidence,
    find_body,
    frames_to_look_at,
    net,
    solve_body,
    why_no_model,
)

K = {name: number for number, name in enumerate(LANDMARKS)}
CAMERA = Camera()
FPS = 30.0
Floats = np.ndarray


@cache
def lifted(family: str = "clean", receive: str = "full", **faults: float) -> SimulatedLift:
    return simulate_lift(
        LiftScript(family, receive=receive, faults=dict(faults), still_s=0.5, end_s=0.4)
    )


def true_points(lift: SimulatedLift, t_s: Floats) -> Floats:
    """Exact landmarks in pixels, (frames, 9, 2)."""
    poses = [lift.pose(float(t)) for t in t_s]
    return np.stack(
        [CAMERA.to_px(np.array([pose[name] for pose in poses])) for name in LANDMARKS], axis=1
    )


def bar_track(lift: SimulatedLift, t_s: Floats) -> BarTrack:
    """The bar's path as if it had been followed without error."""
    x, y = CAMERA.to_px(lift.bar_m(t_s)).T
    r = 0.225 * CAMERA.px_per_m
    count = len(t_s)
    full = np.full(count, 1.0)
    rim = Rim(float(x[0]), float(y[0]), (r, r), 0.0, True, 0.2, 1.0)
    state = np.full(count, State.GOOD, np.uint8)
    return BarTrack(t_s, x, y, r * full, full, state, rim, x, y, full, 50.0)


def seen_as(points: Floats, t_s: Floats, noise_px: float = 0.0, seed: int = 1) -> Sightings:
    """Sightings of given points, both sides alike, with noise."""
    rng = np.random.default_rng(seed)
    frames = frames_to_look_at(t_s)
    noisy = points[frames][:, None].repeat(2, axis=1)
    noisy = noisy + rng.normal(0, max(noise_px, 1e-9), noisy.shape)
    nose = points[frames, K["ear"], 0] + 20
    shape = (len(frames), 2, len(LANDMARKS))
    return Sightings(
        frames, noisy.astype(np.float32), np.ones(shape, np.float32), nose.astype(np.float32)
    )


def value(answer: Assessment, name: str) -> float:
    """A measure that must be there."""
    found = answer.measures[name].value
    assert found is not None, f"{name}: {answer.measures[name].why}"
    return found


def as_seen(
    _sightings: object, _nodes: object, _front: float, seen: Floats, *_more: object
) -> object:
    """What the model saw, taken at its word."""
    return seen, np.full(seen.shape[:2], np.nan)


class Lifted(unittest.TestCase):
    """A drawn lift, and a model that misreads nothing of it."""

    def setUp(self) -> None:
        patched = mock.patch.object(evidence, "_reread", as_seen)
        patched.start()
        self.addCleanup(patched.stop)
        self.lift = lifted()
        self.t_s = np.arange(0, self.lift.duration_s, 1 / FPS)
        self.true = true_points(self.lift, self.t_s)
        self.bar = bar_track(self.lift, self.t_s)

    def solve(self, seen: Sightings | None, hand: BodyHand | None = None) -> BodyTrack:
        body = solve_body(self.t_s, "right", seen, hand or BodyHand(), self.bar)
        assert body is not None
        return body

    def away(self, body: BodyTrack) -> Floats:
        return np.asarray(np.hypot(body.x_px - self.true[..., 0], body.y_px - self.true[..., 1]))


class TestWeights(unittest.TestCase):
    def test_the_shipped_weights_are_those_that_the_readme_names(self) -> None:
        words = (net.WEIGHTS / "README.md").read_text()
        named = dict(re.findall(r"`(\w+\.tflite)` .*? ([0-9a-f]{64})", words))
        self.assertEqual(len(named), 2)
        for name, digest in named.items():
            found = hashlib.sha256((net.WEIGHTS / name).read_bytes()).hexdigest()
            self.assertEqual(found, digest, name)

    def test_without_its_files_the_model_says_so_and_what_to_do(self) -> None:
        with mock.patch.object(net, "WEIGHTS", Path("/nowhere")):
            self.assertIn("missing", why_no_model())
            with self.assertRaisesRegex(NoBodyModel, "by hand"):
                PoseNet()


class TestModelOnDrawnLifter(unittest.TestCase):
    """The whole chain on painted frames: near side, tight on what can be seen."""

    lift: SimulatedLift
    t_s: Floats
    pictures: list[Floats]

    @classmethod
    def setUpClass(cls) -> None:
        cls.lift = lifted("snatch")
        begin = cls.lift.path.events_s["lowest"]
        cls.t_s = begin + np.arange(8) / FPS
        cls.pictures = [picture for _, picture in film_frames(cls.lift, Filming(fps=FPS), cls.t_s)]

    def bgr(self, number: int) -> Floats:
        return np.asarray(self.pictures[number])

    def test_hip_knee_and_foot_are_found_within_five_percent_of_stature(self) -> None:
        seen = find_body(self, PoseNet())
        self.assertTrue(seen.found.all())
        self.assertEqual(seen.facing(), "right")
        self.assertLess(seen.breadth(), 0.45)
        stature = 1.75 * CAMERA.px_per_m
        true = true_points(self.lift, self.t_s)
        for name in ("hip", "knee", "ankle", "heel"):
            off = np.hypot(*(seen.points[:, 1, K[name]] - true[:, K[name]]).T)
            self.assertLess(float(np.median(off)), 0.05 * stature, name)

    def test_the_lifter_is_found_in_the_dark_too(self) -> None:
        dark = [(0.1 * picture).astype(np.uint8) for picture in self.pictures]
        with mock.patch.object(self, "pictures", dark):
            seen = find_body(self, PoseNet())
        self.assertTrue(seen.found.all())
        true = true_points(self.lift, self.t_s)
        for name in ("hip", "knee", "ankle"):
            off = np.hypot(*(seen.points[:, 1, K[name]] - true[:, K[name]]).T)
            self.assertLess(float(np.median(off)), 0.05 * 1.75 * CAMERA.px_per_m, name)

    def test_two_clicks_on_hip_and_shoulder_find_the_lifter_too(self) -> None:
        true = true_points(self.lift, self.t_s)
        hip, shoulder = true[4, K["hip"]], true[4, K["shoulder"]]
        seed = BodySeed(4, float(hip[0]), float(hip[1]), float(shoulder[0]), float(shoulder[1]))
        with mock.patch.object(PoseNet, "people", return_value=[]):
            seen = find_body(self, PoseNet(), seeds=[seed])
        self.assertTrue(seen.found.all(), "also backwards from the clicks")
        off = np.hypot(*(seen.points[:, 1, K["knee"]] - true[:, K["knee"]]).T)
        self.assertLess(float(np.median(off)), 0.05 * 1.75 * CAMERA.px_per_m)

    def test_frames_before_the_lifter_is_found_are_tried_backwards_from_there(self) -> None:
        asked: list[int] = []
        whole = PoseNet.people

        def late(one: PoseNet, picture: Floats) -> object:
            asked.append(1)
            return whole(one, picture) if len(asked) > 3 else []

        with mock.patch.object(PoseNet, "people", late):
            seen = find_body(self, PoseNet())
        self.assertEqual(len(asked), 4, "the detector sees nobody in the first three")
        self.assertTrue(seen.found.all())

    def test_an_empty_hall_has_nobody(self) -> None:
        blank = [np.full_like(self.pictures[0], 128)] * 8
        with mock.patch.object(self, "pictures", blank):
            seen = find_body(self, PoseNet())
        self.assertFalse(seen.found.any())
        self.assertIsNone(solve_body(self.t_s, "right", seen, BodyHand()))

    def test_it_can_be_stopped(self) -> None:
        with self.assertRaises(Cancelled):
            find_body(self, PoseNet(), cancelled=lambda: True)


class TestSolve(Lifted):
    def test_exact_sightings_come_back(self) -> None:
        off = self.away(self.solve(seen_as(self.true, self.t_s)))
        for name in ("knee", "hip", "shoulder"):
            self.assertLess(float(np.median(off[:, K[name]])), 3.0, name)

    def test_a_film_of_a_few_pictures_is_solved_too(self) -> None:
        for count in (2, 5, 12):
            t_s = self.t_s[:count]
            seen = seen_as(self.true[:count], t_s)
            body = solve_body(t_s, "right", seen, BodyHand(), bar_track(self.lift, t_s))
            assert body is not None
            self.assertEqual(body.x_px.shape, (count, len(LANDMARKS)))
            self.assertTrue(np.isfinite(body.x_px[:, K["hip"]]).all())

    def test_a_foot_seen_on_the_plate_is_assumed_and_stays_on_the_floor(self) -> None:
        points = self.true.copy()
        hidden = np.hypot(
            *(self.true[:, K["ankle"]] - np.column_stack([self.bar.x_px, self.bar.y_px])).T
        )
        behind = hidden < 0.225 * CAMERA.px_per_m
        self.assertGreater(behind.sum(), 10)
        for name in ("toe", "heel", "ankle"):
            points[behind, K[name], 1] -= 90  # the model puts the foot high on the plate
        body = self.solve(seen_as(points, self.t_s))
        for name in ("toe", "heel", "ankle"):
            states = body.state[behind, K[name]]
            self.assertTrue((states == PointState.ASSUMED).all(), name)
            worst = float(self.away(body)[behind, K[name]].max())
            self.assertLess(worst, 0.05 * 1.75 * CAMERA.px_per_m, name)

    def test_a_knee_seen_at_the_hip_takes_the_hip_nowhere_and_bends_forward(self) -> None:
        points = self.true.copy()
        low = slice(0, int(self.lift.path.events_s["lift_off"] * FPS))
        points[low, K["knee"]] = points[low, K["hip"]] + [3, 8]
        for name in ("toe", "heel", "ankle"):
            points[low, K[name], 1] -= 90
        body = self.solve(seen_as(points, self.t_s))
        off = self.away(body)[low]
        self.assertLess(float(off[:, K["hip"]].max()), 0.03 * 1.75 * CAMERA.px_per_m)
        knee, hip, ankle = (body.x_px[low, K[name]] for name in ("knee", "hip", "ankle"))
        self.assertTrue((knee > np.maximum(hip, ankle)).all())

    def test_one_wild_sighting_moves_nothing_far_and_is_not_called_measured(self) -> None:
        points = self.true.copy()
        frame = int(self.lift.path.events_s["lowest"] * FPS) + 5
        points[frame, K["knee"]] += [120, -60]
        body = self.solve(seen_as(points, self.t_s))
        self.assertLess(float(self.away(body)[frame, K["knee"]]), 15)
        self.assertEqual(body.state[frame, K["knee"]], PointState.ASSUMED)

    @settings(max_examples=8, deadline=None)
    @given(st.sampled_from(LANDMARKS), st.integers(5, 100), st.floats(-60, 60), st.floats(-60, 60))
    def test_a_point_set_by_hand_stays_exactly_there(
        self, name: str, frame: int, dx: float, dy: float
    ) -> None:
        self.setUp()
        x, y = self.true[frame, K[name]] + [dx, dy]
        hand = BodyHand().with_point(BodyPoint(frame, name, float(x), float(y)))
        body = self.solve(seen_as(self.true, self.t_s, 2.0), hand)
        np.testing.assert_allclose(body.point(name, frame), [x, y], atol=1e-6)
        self.assertEqual(body.state[frame, K[name]], PointState.BY_HAND)

    def test_with_no_model_points_by_hand_are_filled_between(self) -> None:
        hand = BodyHand()
        for frame in range(10, 70, 6):
            for name in ("knee", "hip", "shoulder", "ankle"):
                x, y = self.true[frame, K[name]]
                hand = hand.with_point(BodyPoint(frame, name, float(x), float(y)))
        body = self.solve(None, hand)
        between = np.setdiff1d(np.arange(10, 65), np.arange(10, 70, 6))
        self.assertTrue((body.state[between, K["hip"]] == PointState.ASSUMED).all())
        off = self.away(body)[between][:, [K["hip"], K["knee"], K["shoulder"]]]
        self.assertLess(float(np.median(off)), 8.0)
        self.assertTrue((body.state[:, K["ear"]] == PointState.MISSING).all())
        self.assertTrue((body.state[75:] == PointState.MISSING).all(), "nothing beyond the hands")

    def test_a_hidden_point_is_gone_and_a_planted_foot_stands_still(self) -> None:
        hand = BodyHand().with_span(BodySpan("hidden", "knee", 40, 50))
        hand = hand.with_span(BodySpan("planted", "foot", 20, 60))
        body = self.solve(seen_as(self.true, self.t_s, 4.0), hand)
        self.assertTrue(np.isnan(body.point("knee", 45)).all())
        self.assertTrue(np.isfinite(body.point("knee", 60)).all())
        self.assertLess(float(np.ptp(body.x_px[22:59, K["toe"]])), 2.0)

    def test_spans_that_touch_become_one_and_can_be_taken_back(self) -> None:
        hand = BodyHand().with_span(BodySpan("hidden", "knee", 5, 9))
        hand = hand.with_span(BodySpan("hidden", "knee", 10, 14))
        self.assertEqual([(one.first, one.last) for one in hand.spans], [(5, 14)])
        self.assertTrue(hand.covers("hidden", "knee", 12))
        self.assertFalse(hand.without_span("hidden", "knee", 12).spans)

    def test_a_leg_seen_upside_down_is_not_believed(self) -> None:
        seen = seen_as(self.true, self.t_s)
        shoulder = seen.points[:, :, K["shoulder"]]
        wrong = seen.points.copy()
        for name, below in (("toe", 0.0), ("heel", 20.0), ("ankle", 30.0), ("knee", 60.0)):
            wrong[-8:, :, K[name]] = shoulder[-8:] + np.array([0.0, below])
        body = self.solve(replace(seen, points=wrong))
        feet = [K["toe"], K["heel"], K["ankle"]]
        last = seen.frames[-1]
        self.assertTrue((body.state[last, feet] == PointState.ASSUMED).all())
        self.assertLess(self.away(body)[last, feet].max(), 0.05 * 1.75 * CAMERA.px_per_m)

    def test_feet_seen_far_apart_are_not_called_measured(self) -> None:
        seen = seen_as(self.true, self.t_s)
        points = seen.points.copy()
        points[80:90, 0, K["ankle"], 0] -= 150
        body = self.solve(replace(seen, points=points))
        frames = seen.frames[80:90]
        self.assertFalse((body.state[frames][:, K["knee"]] == PointState.MEASURED).any())

    def test_turned_round_it_is_the_mirror_image(self) -> None:
        seen = seen_as(self.true, self.t_s, 1.0)
        plain = self.solve(seen)
        flipped = seen.points[:, ::-1].copy()
        flipped[..., 0] = 1280 - flipped[..., 0]
        bar = replace(self.bar, x_px=1280 - self.bar.x_px, still_x_px=1280 - self.bar.still_x_px)
        other = solve_body(
            self.t_s,
            "left",
            replace(seen, points=flipped, nose_x=1280 - seen.nose_x),
            BodyHand(),
            bar,
        )
        assert other is not None
        np.testing.assert_allclose(1280 - other.x_px, plain.x_px, atol=1e-2)


class TestAnswer(Lifted):
    def answer(
        self, hand: tuple[HandEvent, ...] = (), faults: dict[str, float] | None = None
    ) -> tuple[BodyTrack, Assessment]:
        self.lift = lifted("clean", "full", **(faults or {}))
        self.t_s = np.arange(0, self.lift.duration_s, 1 / 60.0)
        self.true = true_points(self.lift, self.t_s)
        self.bar = bar_track(self.lift, self.t_s)
        body = replace(
            self.solve(seen_as(self.true, self.t_s)),
            x_px=self.true[..., 0],
            y_px=self.true[..., 1],
            state=np.zeros(self.true.shape[:2], np.uint8),
        )
        told = ClipSettings(self.lift.script.derivative, events=hand)
        return body, assess(self.bar, told, load_content(), body)

    def test_events_of_the_body_are_where_they_are(self) -> None:
        _, answer = self.answer()
        for name, within_s in (("knee_pass", 0.03), ("extension", 0.06)):
            self.assertEqual(answer.events[name].source, "body")
            self.assertAlmostEqual(
                answer.events[name].t_s, self.lift.truth_events()[name], delta=within_s
            )

    def test_measures_are_those_of_the_exact_pose(self) -> None:
        _, answer = self.answer()
        frame = answer.events["lift_off"].frame
        pose = self.lift.pose(float(self.t_s[frame]))
        way = pose["shoulder"] - pose["hip"]
        trunk = float(np.degrees(np.arctan2(way[1], way[0])))
        self.assertAlmostEqual(value(answer, "trunk_start"), trunk, delta=0.5)
        low = answer.events["lowest"].frame
        pose = self.lift.pose(float(self.t_s[low]))
        above = float(pose["hip"][1] - pose["knee"][1])
        self.assertAlmostEqual(value(answer, "hip_above_knee"), above, delta=0.005)
        self.assertLess(value(answer, "hip_above_knee"), 0.05)
        ahead = self.lift.pose(float(self.t_s[answer.events["knee_pass"].frame]))
        bar = self.lift.bar_m(self.t_s[[answer.events["knee_pass"].frame]])[0]
        self.assertAlmostEqual(
            value(answer, "shoulder_ahead"),
            float(ahead["shoulder"][0] - bar[0]),
            delta=0.01,
        )

    def test_a_lifter_who_is_lost_before_the_finish_is_over_is_measured_all_the_same(self) -> None:
        body, whole = self.answer()
        peak = int(np.argmin(np.abs(self.t_s - self.lift.truth_events()["peak_velocity"])))
        for lost in range(peak - 1, peak + 12):
            x, y = body.x_px.copy(), body.y_px.copy()
            x[lost:], y[lost:] = np.nan, np.nan
            ended = replace(body, x_px=x, y_px=y)
            told = ClipSettings(self.lift.script.derivative)
            answer = assess(self.bar, told, load_content(), ended)
            for told_before in ("trunk_start", "hip_lead", "rise_ratio", "trunk_drop"):
                self.assertAlmostEqual(value(answer, told_before), value(whole, told_before), 3)

    def test_who_rises_out_of_a_tight_picture_on_the_toes_is_told_so(self) -> None:
        body, _ = self.answer(faults={"early-toes": 1.0})
        peak = int(np.argmin(np.abs(self.t_s - self.lift.truth_events()["peak_velocity"])))
        x, y = body.x_px.copy(), body.y_px.copy()
        x[peak - 2 :], y[peak - 2 :] = np.nan, np.nan
        told = ClipSettings(self.lift.script.derivative)
        answer = assess(self.bar, told, load_content(), replace(body, x_px=x, y_px=y))
        self.assertEqual({one.fault for one in answer.findings}, {"early-toes"})
        self.assertIn("does not show that moment", answer.measures["hip_extension"].why)

    def test_each_fault_of_the_body_is_found_and_is_not_there_without_it(self) -> None:
        cases = {
            "hips-shoot": "hips-shoot",
            "incomplete-hip": "incomplete-hip",
            "jump-forward": "jump-forward",
        }
        clean = {one.fault for one in self.answer()[1].findings}
        for degree, fault in cases.items():
            found = {one.fault for one in self.answer(faults={degree: 1.0})[1].findings}
            self.assertIn(fault, found)
            self.assertNotIn(fault, clean)
        bent = value(self.answer(faults={"early-arms": 1.0})[1], "arm_at_extension")
        self.assertLess(bent, value(self.answer()[1], "arm_at_extension") - 10)

    def test_early_toes_and_an_unfinished_hip_are_told_from_one_another_and_from_a_good_lift(
        self,
    ) -> None:
        said = {
            fault: self.answer(faults={fault: 1.0} if fault else {})[1]
            for fault in ("", "incomplete-hip", "early-toes")
        }
        for fault, answer in said.items():
            blamed = {one.fault for one in answer.findings} & set(said)
            self.assertEqual(blamed, {fault} - {""})
        opens = {fault: value(one, "hip_after_heel") for fault, one in said.items()}
        self.assertLess(max(opens[""], opens["incomplete-hip"]), 8)
        self.assertGreater(opens["early-toes"], 25)
        behind = {fault: value(one, "shoulder_over_knee") for fault, one in said.items()}
        self.assertLess(max(behind[""], behind["early-toes"]), -0.07)
        self.assertGreater(behind["incomplete-hip"], -0.02)

    def test_a_foot_that_is_seen_wandering_has_not_left_the_floor(self) -> None:
        body, answer = self.answer()
        plain = value(answer, "hip_at_heel")
        knee = answer.events["knee_pass"].t_s
        wander = np.interp(self.t_s, knee + np.array([-0.1, 0.0, 0.16, 0.2]), [0.04, 0, 0, 0.04])
        heels = body.y_px.copy()
        heels[:, K["heel"]] -= wander * CAMERA.px_per_m
        told = ClipSettings(self.lift.script.derivative)
        seen = assess(self.bar, told, load_content(), replace(body, y_px=heels))
        self.assertAlmostEqual(value(seen, "hip_at_heel"), plain, delta=12)

    def test_an_angle_of_seen_points_is_surer_than_with_one_assumed(self) -> None:
        body, answer = self.answer()
        sure = answer.body
        assert sure is not None
        state = body.state.copy()
        state[:, K["knee"]] = PointState.ASSUMED
        told = ClipSettings(self.lift.script.derivative)
        unsure = assess(self.bar, told, load_content(), replace(body, state=state)).body
        assert unsure is not None
        for joint in ("hip", "knee"):
            self.assertTrue((sure.angle_sigma_deg(joint) < unsure.angle_sigma_deg(joint)).all())
        same = sure.angle_sigma_deg("trunk")
        np.testing.assert_allclose(same, unsure.angle_sigma_deg("trunk"))

    def test_where_the_bar_glides_along_the_thigh_no_place_of_contact_is_made_up(self) -> None:
        _, answer = self.answer()
        assert answer.body is not None
        begin, end = answer.events["knee_pass"].frame, answer.events["extension"].frame
        frames = {name: event.frame for name, event in answer.events.items()}
        knee, hip = answer.body.at("knee"), answer.body.at("hip")
        whys = ("", "where it passes the knee", "no one place")
        for touching, why in zip((0.5, 0.12, None), whys, strict=True):
            # The bar runs along the thigh at a distance that is least at one place, or nowhere.
            share = np.clip((np.arange(len(knee)) - begin) / (end - begin), 0, 1)
            away = 0.05 + (0.4 * np.abs(share - touching) if touching is not None else 0 * share)
            thigh = hip - knee
            normal = np.column_stack([thigh[:, 1], -thigh[:, 0]]) / np.hypot(*thigh.T)[:, None]
            bar = knee + share[:, None] * thigh + away[:, None] * normal
            motion = replace(answer.motion, x_m=bar[:, 0], y_m=bar[:, 1])
            reading = contact_point(Scene(motion, answer.body, frames))
            assert reading is not None
            self.assertEqual(np.isfinite(reading.value), not why, reading)
            self.assertIn(why, reading.why)
            if not why and touching:
                self.assertAlmostEqual(reading.value, touching, delta=0.1)

    def test_a_moved_event_takes_everything_along(self) -> None:
        _, before = self.answer()
        frame = before.events["knee_pass"].frame + 6
        _, after = self.answer((HandEvent("knee_pass", frame),))
        self.assertEqual(after.events["knee_pass"].frame, frame)
        self.assertEqual(after.events["knee_pass"].source, "by hand")
        self.assertNotEqual(value(before, "trunk_knee"), value(after, "trunk_knee"))

    def test_without_a_body_every_body_measure_says_why(self) -> None:
        answer = assess(self.bar, ClipSettings(self.lift.script.derivative), load_content())
        for name in BODY_UNITS:
            self.assertIsNone(answer.measures[name].value)
            self.assertTrue(answer.measures[name].why, name)
        self.assertIn("body is not known", answer.measures["hip_extension"].why)

    def test_a_front_view_gives_no_angles_and_says_so(self) -> None:
        body, _ = self.answer()
        told = ClipSettings(self.lift.script.derivative)
        answer = assess(self.bar, told, load_content(), replace(body, breadth=0.7))
        self.assertIn("side view", answer.measures["hip_extension"].why)
        self.assertTrue(any("not seen from the side" in note for note in answer.notes))

    def test_from_aside_the_bar_is_not_set_against_the_body_and_no_fault_made_of_it(self) -> None:
        body, square = self.answer()
        told = ClipSettings(self.lift.script.derivative)
        turned = replace(self.bar.rim, axes_px=(50.0, 50.0 * np.cos(np.radians(20))))
        for bar, seen in (
            (self.bar, replace(body, breadth=0.3)),
            (replace(self.bar, rim=turned), body),
        ):
            answer = assess(bar, told, load_content(), seen)
            for name in SQUARE_ON:
                self.assertIsNone(answer.measures[name].value, name)
            for name in ("gap_of_thigh", "shoulder_ahead"):
                self.assertIsNotNone(square.measures[name].value, name)
                self.assertIn("right angles", answer.measures[name].why)
            self.assertIsNotNone(answer.measures["hip_extension"].value)
            judged = {one.id for one in judged_faults(answer.measures, "clean", load_content())}
            self.assertNotIn("gap", judged)
            self.assertIn("incomplete-hip", judged)

    def test_landmarks_go_out_as_csv_and_trc_and_come_back(self) -> None:
        body, answer = self.answer()
        rows = list(csv.DictReader(io.StringIO(landmarks_csv(body, answer))))
        self.assertEqual(len(rows), len(body) * len(LANDMARKS))
        hip = next(row for row in rows if row["frame"] == "30" and row["name"] == "hip")
        self.assertAlmostEqual(float(hip["x_px"]), float(body.x_px[30, K["hip"]]), places=1)
        lines = landmarks_trc(body, answer, "lift.trc").splitlines()
        self.assertEqual(lines[2].split("\t")[3], str(len(LANDMARKS) + 1))
        cells = lines[6 + 30].split("\t")
        self.assertEqual(len(cells), 2 + 3 * (len(LANDMARKS) + 1))
        x_mm = float(cells[2 + 3 * K["hip"]])
        self.assertAlmostEqual(x_mm / 1000, float(hip["x_m"]), places=3)


class TestJerk(unittest.TestCase):
    def test_rising_quickly_from_a_deep_receive_is_no_second_jerk(self) -> None:
        lift = lifted("jerk", "split")
        t_s = np.arange(0, lift.duration_s, 1 / 30)
        bar = bar_track(lift, t_s)
        begin = lift.path.events_s["lowest"] + 0.3
        share = np.clip((t_s - begin) / 0.5, 0, 1)
        y = bar.y_px - 0.28 * CAMERA.px_per_m * (3 * share**2 - 2 * share**3)
        bar = replace(bar, y_px=y, still_y_px=y)
        answer = assess(bar, ClipSettings(lift.script.derivative), load_content())
        self.assertEqual(len(answer.reps), 1)
        peak = answer.events["peak_height"].t_s
        self.assertAlmostEqual(peak, lift.path.events_s["peak_height"], delta=0.05)

    def test_dip_drive_and_receive_are_found_and_measured(self) -> None:
        for receive in ("power", "split"):
            lift = lifted("jerk", receive)
            t_s = np.arange(0, lift.duration_s, 1 / 60)
            answer = assess(
                bar_track(lift, t_s),
                ClipSettings(lift.script.derivative, stature_m=1.75),
                load_content(),
            )
            for name in ("dip_start", "dip_bottom", "peak_velocity", "peak_height"):
                self.assertAlmostEqual(
                    answer.events[name].t_s, lift.path.events_s[name], delta=0.05, msg=name
                )
            truth = lift.truth_measures()
            self.assertAlmostEqual(value(answer, "dip_depth"), truth["dip_depth"], delta=0.006)
            self.assertIn("stand", answer.events)
            self.assertEqual(answer.measures["rhythm"].why, "a jerk has no pull")

    def test_a_dip_forward_shows_as_drift(self) -> None:
        drifts = []
        for degree in (0.0, 1.0):
            lift = simulate_lift(
                LiftScript("jerk", receive="power", faults={"dip-forward": degree}, still_s=0.5)
            )
            t_s = np.arange(0, lift.duration_s, 1 / 60)
            answer = assess(
                bar_track(lift, t_s), ClipSettings(lift.script.derivative), load_content()
            )
            drifts.append(value(answer, "dip_drift"))
        self.assertLess(drifts[0], 0.02)
        self.assertGreater(drifts[1], 0.04)

    def test_faults_of_the_dip_are_judged_and_a_good_one_is_praised(self) -> None:
        def judged(stature_m: float | None = 1.75, **faults: float) -> Assessment:
            named = {name.replace("_", "-"): degree for name, degree in faults.items()}
            lift = simulate_lift(LiftScript("jerk", receive="power", faults=named, still_s=0.5))
            t_s = np.arange(0, lift.duration_s, 1 / 60)
            told = ClipSettings(lift.script.derivative, stature_m=stature_m)
            return assess(bar_track(lift, t_s), told, load_content())

        good = judged()
        self.assertEqual(good.findings, ())
        self.assertLessEqual(
            {"dip_drift", "dip_depth_of_stature"}, {one.measure for one in good.praise}
        )
        for faults, name, words in (
            ({"dip_forward": 1.0}, "dip-forward", "forward"),
            ({"dip_depth": 1.0}, "dip-depth", "up to"),
            ({"dip_depth": -1.0}, "dip-depth", "at least"),
        ):
            answer = judged(**faults)
            self.assertEqual([one.fault for one in answer.findings], [name])
            assert answer.diagnosis is not None
            self.assertIn(words, answer.diagnosis.chief.evidence[0].says)
        both = judged(dip_forward=1.0, dip_depth=1.0)
        self.assertEqual({one.fault for one in both.findings}, {"dip-forward", "dip-depth"})
        unknown = judged(stature_m=None, dip_depth=1.0)
        self.assertEqual(unknown.findings, (), "a depth is judged against the height")

    def test_in_a_split_the_feet_are_not_said_to_have_landed_ahead(self) -> None:
        lift = lifted("jerk", "split")
        t_s = np.arange(0, lift.duration_s, 1 / 60)
        told = ClipSettings(lift.script.derivative)
        answer = assess(bar_track(lift, t_s), told, load_content())
        for name in ("foot_shift", "catch_midfoot"):
            self.assertIn("split", answer.measures[name].why)

    def test_a_clean_before_the_jerk_is_not_taken_for_it(self) -> None:
        clean, jerk = lifted("clean"), lifted("jerk", "power")
        first = np.arange(0, clean.duration_s, 1 / 60)
        second = np.arange(0, jerk.duration_s, 1 / 60)
        a, b = bar_track(clean, first), bar_track(jerk, second)
        y = np.concatenate([a.y_px, b.y_px + (a.y_px[-1] - b.y_px[0])])
        x = np.concatenate([a.x_px, b.x_px + (a.x_px[-1] - b.x_px[0])])
        count = len(x)
        whole = replace(
            a,
            t_s=np.arange(count) / 60,
            x_px=x,
            y_px=y,
            still_x_px=x,
            still_y_px=y,
            r_px=np.full(count, a.r_px[0]),
            confidence=np.ones(count),
            state=np.zeros(count, np.uint8),
            sharp=np.ones(count),
        )
        answer = assess(whole, ClipSettings(jerk.script.derivative), load_content())
        self.assertGreater(answer.events["dip_bottom"].frame, len(first))
