"""What is done with a bar besides one lift: exact paths, possible figures, and what the program makes of them."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.simulate import (
    MOVES,
    Body,
    Camera,
    Filming,
    RoutineScript,
    film_frames,
    frame_times,
    simulate_lift,
)
from keen_kettle.core.simulate.film_truth import truth_document
from keen_kettle.core.simulate.lifelike import LifelikePainter
from keen_kettle.core.simulate.routine import RoutineLift
from tests.core.test_motion import track_of

SETS = (
    ("rest", "deadlift", "hold", "pull", "settle"),
    ("rest", *4 * ("pull", "lower")),
    ("rest", "high pull", "drop"),
    ("rest", "tip", "rest", "pull", "hold"),
    ("rest", *3 * ("deadlift", "hold", "lower", "rest")),
)
HUNG = (("hold", "shrug", "hold"), ("hold", "lower", "rest"), ("hold", *2 * ("pull", "settle")))
FAMILIES = st.sampled_from(["snatch", "clean"])
SCRIPTS = st.one_of(
    *(
        st.builds(
            RoutineScript, family=FAMILIES, start=st.just(start), moves=st.sampled_from(moves)
        )
        for start, moves in (("floor", SETS), ("hang", HUNG))
    )
)


def routine(*moves: str, family: str = "clean", start: str = "floor", **more: Any) -> RoutineLift:
    script = RoutineScript(family, start, moves=moves, still_s=0.4, **more)
    lift = simulate_lift(script)
    assert isinstance(lift, RoutineLift)
    return lift


class TestRoutine(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(SCRIPTS, st.floats(1.45, 2.0))
    def test_every_figure_is_a_possible_one_and_holds_the_bar(
        self, script: RoutineScript, stature_m: float
    ) -> None:
        lift = simulate_lift(replace(script, body=Body(stature_m)))
        body = lift.script.body
        for t in np.linspace(0, lift.duration_s, 40):
            pose, hand = lift.pose(float(t)), lift.hands_m(np.array([t]))[0]
            for a, b, wanted in (
                ("ankle", "knee", body.shank_m),
                ("knee", "hip", body.thigh_m),
                ("hip", "shoulder", body.trunk_m),
            ):
                self.assertLess(abs(np.hypot(*(pose[b] - pose[a])) - wanted), 0.12 * wanted)
            reach = float(np.hypot(*(pose["shoulder"] - hand)))
            self.assertLessEqual(reach, body.upper_arm_m + body.forearm_m + 1e-6)
            self.assertLess(float(np.hypot(*(pose["wrist"] - hand))), 0.06)

    @settings(max_examples=30, deadline=None)
    @given(SCRIPTS)
    def test_each_lift_begins_low_and_ends_at_its_highest(self, script: RoutineScript) -> None:
        lift = simulate_lift(script)
        self.assertGreaterEqual(lift.path.y_m(np.linspace(0, lift.duration_s, 3000)).min(), 0.2249)
        for one in lift.lifts_s():
            t = np.linspace(one["lift_off"], one["peak_height"], 400)
            y = lift.path.y_m(t)
            self.assertTrue((np.diff(y) > -1e-9).all())
            after = lift.path.y_m(np.array([one["peak_height"] + 0.03]))[0]
            self.assertLessEqual(float(after), float(y[-1]) + 1e-9)

    def test_a_bar_that_is_let_go_falls_freely_and_the_hands_stay(self) -> None:
        lift = routine("rest", "high pull", "drop", above_shoulder_m=0.1)
        top = lift.lifts[0]["peak_height"]
        y = float(lift.path.y_m(np.array([top]))[0])
        self.assertAlmostEqual(y, lift.script.body.standing_shoulder_m() + 0.1, places=6)
        falls_s = np.sqrt(2 * (y - 0.225) / 9.81)
        landed = float(lift.path.y_m(np.array([top + falls_s]))[0])
        self.assertAlmostEqual(landed, 0.225, places=3)
        hand, bar = lift.hands_m(np.array([top + 0.42]))[0], lift.bar_m(np.array([top + 0.42]))[0]
        self.assertGreater(hand[1] - bar[1], 0.2)

    def test_a_move_that_cannot_follow_is_refused_in_words(self) -> None:
        for moves in (("lower",), ("pull", "tip"), ("rest", "jump")):
            with self.assertRaisesRegex(ValueError, "cannot begin with the bar at the"):
                routine(*moves)
        self.assertTrue({move for moves in (*SETS, *HUNG) for move in moves} == set(MOVES))

    def test_what_a_coach_would_state(self) -> None:
        self.assertEqual(routine("rest", "pull", "settle").script.derivative.name, "clean pull")
        hung = routine("rest", "deadlift", "hold", "high pull", "settle").script.derivative
        self.assertEqual(hung.support, "hang")

    def test_a_tipped_bar_has_its_near_plate_higher_than_the_far_one(self) -> None:
        lift = routine("rest", "tip", "rest", tip_m=0.12)
        painter = LifelikePainter("tidy", "day")
        camera = Camera(320, 180, 70, 165, 160, distance_m=4.0)
        filming = Filming(fps=30, noise=0, camera=camera, painter=painter)
        times = frame_times(lift, filming)
        truth = truth_document(lift, filming, times)
        near, far = np.array(truth["bar_px"]), np.array(truth["far_end_px"])
        highest = int(np.argmin(near[:, 1]))
        self.assertAlmostEqual(float(lift.tip_m(times).max()), 0.12, places=2)
        self.assertLess(near[highest, 1], near[0, 1] - 8)
        np.testing.assert_allclose(far[highest], far[0], atol=0.5)
        pictures = [frame for _, frame in film_frames(lift, filming, times[[0, highest]])]
        x, y = near[0].astype(int)
        box = np.s_[y - 20 : y + 18, x - 20 : x + 20]
        changed = np.abs(pictures[1].astype(int) - pictures[0])[box]
        self.assertGreater(float(changed.mean()), 2.0)
        self.assertEqual(truth["lifts_s"], [])


class TestWhatTheProgramMakesOfIt(unittest.TestCase):
    """Exact paths with a little noise: how many lifts there are, and where they begin and end."""

    def assessed(self, lift: RoutineLift) -> Assessment:
        t = np.arange(0, lift.duration_s, 1 / 30)
        bar = lift.bar_m(t)
        track = track_of(t, bar[:, 0], bar[:, 1], 0.3)
        return assess(track, ClipSettings(lift.script.derivative, "right"), load_content())

    def test_every_lift_is_found_with_its_own_events(self) -> None:
        cases: tuple[tuple[str, tuple[str, ...], dict[str, float]], ...] = (
            ("floor", ("rest", *4 * ("pull", "lower")), {"lower_mps": 1.8}),
            ("floor", ("rest", "high pull", "drop"), {}),
            ("floor", ("rest", "pull", "hold"), {"hold_s": 1.5}),
            ("floor", ("rest", *3 * ("deadlift", "hold", "lower", "rest")), {}),
            ("floor", ("rest", "tip", "rest", "pull", "settle"), {}),
            ("hang", ("hold", *3 * ("pull", "settle", "hold")), {}),
            ("hang", ("hold", *3 * ("shrug", "hold")), {"rise_m": 0.09}),
        )
        for start, moves, more in cases:
            for family in ("clean", "snatch"):
                with self.subTest(family=family, moves=moves):
                    lift = routine(*moves, family=family, start=start, **more)
                    self._as_it_was(lift, self.assessed(lift))

    def test_the_deadlift_before_a_hang_is_no_lift(self) -> None:
        for family in ("clean", "snatch"):
            for action in ("pull", "high pull"):
                with self.subTest(family=family, action=action):
                    lift = routine("rest", "deadlift", "hold", action, "settle", family=family)
                    self._as_it_was(lift, self.assessed(lift))

    def test_a_bar_that_is_only_lowered_makes_no_lift_and_one_only_tipped_is_asked_about(
        self,
    ) -> None:
        for family in ("clean", "snatch"):
            lowered = self.assessed(routine("hold", "lower", "rest", family=family, start="hang"))
            self.assertEqual(lowered.reps, ())
            tipped = self.assessed(routine("rest", "tip", "rest", family=family))
            assert tipped.barely is not None
            self.assertAlmostEqual(tipped.barely, 0.09, delta=0.01)
            self.assertEqual(tipped.findings, ())

    def _as_it_was(self, lift: RoutineLift, answer: Assessment) -> None:
        self.assertEqual(len(answer.reps), len(lift.lifts))
        for rep, one in zip(answer.reps, lift.lifts, strict=True):
            for event in ("lift_off", "peak_height"):
                self.assertAlmostEqual(rep.events[event].t_s, one[event], delta=0.11)


if __name__ == "__main__":
    unittest.main()
