"""Known lifts as films with repeated, dropped and slowed pictures show them: what is said must hold."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.simulate import (
    Filming,
    LiftScript,
    RoutineScript,
    SimulatedLift,
    frame_times,
    simulate_lift,
)
from keen_kettle.core.simulate.film_time import lift_times, pictures_shown
from tests.core.test_motion import track_of

NOISE_PX = 0.3


def uneven(seed: int) -> tuple[int, ...]:
    """For how many frames the camera's pictures are shown, one after the other, while it goes on."""
    dice = np.random.default_rng(seed)
    return tuple(dice.choice([1, 1, 1, 2, 2, 3, 6], 60).tolist())


TRUE_TIMES: dict[str, dict[str, Any]] = {
    "24 a second": {"fps": 24.0},
    "one in six dropped": {"dropped": 0.16},
    "one in four shown again": {"stuttered": 0.25},
    "20 in 30": {"runs": (1, 2)},
    **{f"uneven {seed}": {"runs": uneven(seed)} for seed in (30, 31, 33)},
}
"""The films' times are the lift's."""
SLOW: dict[str, dict[str, Any]] = {
    "four times": {"repeat": 4},
    "eight times": {"repeat": 8},
    "unevenly": {"runs": uneven(4), "runs_slow": True},
}


def filmed(lift: SimulatedLift, **how: Any) -> Assessment:
    """The answer to an exact path with a little noise, of a film with such times."""
    filming = Filming(**{"fps": 30.0, "seed": 5, **how})
    times = frame_times(lift, filming)
    shown = pictures_shown(filming, times)
    bar = lift.bar_m(lift_times(filming, times))
    track = track_of(times, bar[:, 0], bar[:, 1])
    off = np.random.default_rng(1).normal(0, NOISE_PX, (len(times), 2))[shown]
    x, y = track.x_px + off[:, 0], track.y_px + off[:, 1]
    same = np.concatenate([[False], shown[1:] == shown[:-1]])
    track = replace(track, x_px=x, y_px=y, still_x_px=x, still_y_px=y, same=same)
    return assess(track, ClipSettings(lift.script.derivative, "right"), load_content())


class TestUneven(unittest.TestCase):
    def test_good_lifts_are_not_blamed_for_missing_pictures(self) -> None:
        for family, receive in (("clean", "full"), ("snatch", "full"), ("clean", "none")):
            lift = simulate_lift(LiftScript(family, receive=receive, still_s=0.5, end_s=0.5))
            for words, how in {**TRUE_TIMES, **SLOW}.items():
                with self.subTest(family=family, receive=receive, film=words):
                    answer = filmed(lift, **how)
                    self.assertEqual(len(answer.reps), 1)
                    self.assertEqual(answer.findings, ())

    def test_speeds_hold_within_their_uncertainty_or_are_left_out_and_said(self) -> None:
        for family in ("clean", "snatch"):
            lift = simulate_lift(LiftScript(family, still_s=0.5, end_s=0.5))
            truth = lift.truth_measures()
            for words, how in TRUE_TIMES.items():
                found = filmed(lift, **how).measures
                for name in ("peak_velocity", "rhythm", "velocity_dip"):
                    with self.subTest(family=family, film=words, measure=name):
                        one = found[name]
                        if one.value is None:
                            self.assertIn("from one picture to the next", one.why)
                            self.assertNotIn(
                                words, ("24 a second", "one in six dropped", "20 in 30")
                            )
                        else:
                            assert one.sigma is not None
                            self.assertLess(abs(one.value - truth[name]), 4 * one.sigma)

    def test_a_rest_in_which_every_picture_is_the_same_is_no_gap(self) -> None:
        lift = simulate_lift(LiftScript("clean", still_s=0.52, end_s=0.5))
        plain, rested = (filmed(lift, runs=runs) for runs in ((), (15, *(1,) * 400)))
        self.assertLess(rested.events["lift_off"].sigma_s, 0.03)
        for name in ("rhythm", "velocity_dip", "time_to_peak_velocity"):
            here, there = rested.measures[name].value, plain.measures[name].value
            assert here is not None and there is not None
            self.assertAlmostEqual(here, there, delta=0.1)

    def test_faults_are_still_told(self) -> None:
        for fault in ("loop", "bounce-forward", "deep-rebend"):
            lift = simulate_lift(LiftScript("clean", faults={fault: 1.0}))
            for words in ("24 a second", "one in six dropped", "20 in 30"):
                with self.subTest(fault=fault, film=words):
                    told = [one.fault for one in filmed(lift, **TRUE_TIMES[words]).findings]
                    self.assertIn(fault, told)

    def test_lifts_of_a_set_are_found_however_it_is_shown(self) -> None:
        hang_pull: dict[str, Any] = {"moves": ("rest", "deadlift", "hold", "pull", "settle")}
        dropped = {"moves": ("rest", "deadlift", "hold", "high pull", "drop")}
        shrug = {"start": "hang", "moves": ("hold", "shrug", "hold"), "rise_m": 0.11}
        shrugs = {"start": "hang", "moves": ("hold", *3 * ("shrug", "hold")), "rise_m": 0.08}
        for words, script, how in (
            ("a shrug in slow motion", shrug, SLOW["eight times"]),
            ("shrugs with two pictures dropped in a row", shrugs, {"dropped": 0.16}),
            ("a deadlift and a pull from the hang", hang_pull, SLOW["unevenly"]),
            ("a deadlift, and a high pull that falls", dropped, {"stuttered": 0.25}),
        ):
            for family in ("clean", "snatch"):
                with self.subTest(words, family=family):
                    lift = simulate_lift(RoutineScript(family, **script))
                    answer = filmed(lift, **how)
                    self.assertEqual(len(answer.reps), len(lift.lifts_s()))
                    if "hang" in words or "falls" in words:
                        top = answer.motion.y_m[answer.events["peak_height"].frame]
                        self.assertAlmostEqual(top, np.nanmax(answer.motion.y_m), delta=0.02)


if __name__ == "__main__":
    unittest.main()
