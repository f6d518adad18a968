"""Several lifts in one clip: each is found, with its own events and measures."""

import unittest

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import parse_derivative
from keen_kettle.core.motion import BarMotion, bar_measures, bar_motion, split_reps
from keen_kettle.core.simulate import LiftScript, SimulatedLift, simulate_lift
from keen_kettle.core.track import scale_from_rim
from tests.core.test_motion import track_of

Array = NDArray[np.float64]


def joined(
    lifts: list[SimulatedLift], lower_s: float = 1.3, rest_s: float = 0.4, fps: float = 60
) -> tuple[BarMotion, list[float]]:
    """Lifts one after the other, the bar lowered smoothly between them; when each begins."""
    xs: list[Array] = []
    begins = []
    frames = 0
    for number, lift in enumerate(lifts):
        begins.append(frames / fps)
        times = np.arange(0, lift.duration_s, 1 / fps)
        xs.append(lift.bar_m(times))
        frames += len(times)
        if number + 1 < len(lifts):
            a, b = xs[-1][-1], lifts[number + 1].bar_m(np.array([0.0]))[0]
            u = np.linspace(0, 1, round(lower_s * fps))[:, None]
            way = a + (b - a) * (3 * u**2 - 2 * u**3)
            rest = np.repeat(b[None], round(rest_s * fps), axis=0)
            xs += [way, rest]
            frames += len(way) + len(rest)
    path = np.vstack(xs)
    track = track_of(np.arange(len(path)) / fps, path[:, 0], path[:, 1], 0.3)
    return bar_motion(track, scale_from_rim(track.rim, 450.0), "right"), begins


def lift(name: str, start: str = "floor", receive: str = "full", **faults: float) -> SimulatedLift:
    script = LiftScript(name, start, receive, faults=faults, still_s=0.4, end_s=0.4)
    return simulate_lift(script)


class TestBarely(unittest.TestCase):
    def assessed(self, rise_m: float) -> Assessment:
        """A bar that goes up and stays, in a second, with as much drift forward as a loop has."""
        t = np.arange(0, 2.5, 1 / 60)
        u = np.clip((t - 0.8) / 0.7, 0, 1)
        share = 3 * u**2 - 2 * u**3
        track = track_of(t, 0.2 * share, 0.225 + rise_m * share, 0.3)
        return assess(track, ClipSettings(parse_derivative("snatch pull")), load_content())

    def test_a_bar_that_is_only_tipped_is_asked_about_and_not_judged(self) -> None:
        tipped = self.assessed(0.09)
        assert tipped.barely is not None
        self.assertAlmostEqual(tipped.barely, 0.09, delta=0.01)
        self.assertIn("rises by 9 cm only", " ".join(tipped.notes))
        self.assertEqual((tipped.findings, tipped.praise, tipped.diagnosis), ((), (), None))

    def test_a_low_pull_is_a_lift(self) -> None:
        pulled = self.assessed(0.25)
        self.assertIsNone(pulled.barely)
        self.assertTrue(pulled.judged)
        self.assertTrue(pulled.findings or pulled.praise)


class TestReps(unittest.TestCase):
    def test_three_lifts_are_three_with_their_own_events(self) -> None:
        lifts = [lift("snatch"), lift("snatch", loop=0.9), lift("snatch")]
        motion, begins = joined(lifts)
        derivative = parse_derivative("snatch")
        reps = split_reps(motion, derivative)
        self.assertEqual(len(reps), 3)
        for rep, one, begin in zip(reps, lifts, begins, strict=True):
            for name in ("lift_off", "peak_velocity", "peak_height"):
                wanted = begin + one.path.events_s[name]
                self.assertAlmostEqual(rep.events[name].t_s, wanted, delta=0.05, msg=name)
            self.assertTrue(rep.received)
        loops = []
        for rep in reps:
            loop = bar_measures(motion, rep.events, derivative, None, None, 0.45)["loop"].value
            assert loop is not None
            loops.append(loop)
        self.assertGreater(loops[1], loops[0] + 0.04)
        self.assertAlmostEqual(loops[2], loops[0], delta=0.01)

    def test_touch_and_go_comes_apart_at_the_floor(self) -> None:
        lifts = [lift("clean", receive="power"), lift("clean", receive="power")]
        motion, _ = joined(lifts, lower_s=0.9, rest_s=0.0)
        reps = split_reps(motion, parse_derivative("power clean"))
        self.assertEqual(len(reps), 2)
        self.assertEqual(reps[0].last, reps[1].first)
        self.assertLess(float(motion.y_m[reps[1].first]), 0.06)

    def test_lifts_from_the_hang_come_apart_too(self) -> None:
        motion, _ = joined([lift("clean", "hang", "power")] * 3)
        self.assertEqual(len(split_reps(motion, parse_derivative("hang power clean"))), 3)

    def test_pulls_are_counted_and_have_nothing_to_receive(self) -> None:
        motion, _ = joined([lift("snatch", receive="none")] * 2)
        reps = split_reps(motion, parse_derivative("snatch pull"))
        self.assertEqual([rep.received for rep in reps], [None, None])

    def test_a_lift_that_comes_back_to_the_floor_was_not_received(self) -> None:
        good, motion_of = lift("snatch"), lift("snatch")
        times = np.arange(0, motion_of.duration_s, 1 / 60)
        path = motion_of.bar_m(times)
        peak = int(np.searchsorted(times, motion_of.path.events_s["peak_height"]))
        fall = path[peak, 1] - 4.0 * (times[peak:] - times[peak]) ** 2
        path[peak:, 1] = np.maximum(fall, path[0, 1])
        track = track_of(times, path[:, 0], path[:, 1], 0.3)
        motion = bar_motion(track, scale_from_rim(track.rim, 450.0), "right")
        reps = split_reps(motion, parse_derivative("snatch"))
        self.assertEqual([rep.received for rep in reps], [False])
        whole, _ = joined([good])
        self.assertEqual(
            [r.received for r in split_reps(whole, parse_derivative("snatch"))], [True]
        )

    def test_a_jerk_after_the_clean_and_a_rebound_are_no_repetitions(self) -> None:
        one = lift("clean")
        times = np.arange(0, one.duration_s, 1 / 60)
        path = one.bar_m(times)
        top = path[-1]
        u = np.linspace(0, 1, 24)[:, None]
        jerk = top + np.array([0.0, 0.5]) * (3 * u**2 - 2 * u**3)
        held = np.repeat(jerk[-1:], 40, axis=0)
        t = np.arange(0, 0.8, 1 / 60)[:, None]
        drop = np.maximum(jerk[-1] - np.array([0.0, 4.9]) * t**2, [top[0], 0.225])
        t = np.arange(0, 0.5, 1 / 60)[:, None]
        bounce = drop[-1] + np.array([0.0, 1.0]) * (2.4 * t - 4.9 * t**2).clip(0)
        path = np.vstack([path, jerk, held, drop, bounce, np.repeat(drop[-1:], 30, axis=0)])
        track = track_of(np.arange(len(path)) / 60, path[:, 0], path[:, 1], 0.3)
        motion = bar_motion(track, scale_from_rim(track.rim, 450.0), "right")
        self.assertEqual(len(split_reps(motion, parse_derivative("clean"))), 1)

    def test_every_frame_belongs_to_the_lift_round_it(self) -> None:
        lifts = [lift("clean"), lift("clean")]
        motion, begins = joined(lifts)
        track = track_of(motion.t_s, motion.raw_x_m, motion.raw_y_m)
        answer = assess(track, ClipSettings(parse_derivative("clean")), load_content())
        self.assertEqual(len(answer.reps), 2)
        for number, begin in enumerate(begins):
            at = begin + lifts[number].path.events_s["peak_velocity"]
            frame = int(np.searchsorted(track.t_s, at))
            span = answer.span_at(frame)
            self.assertEqual(
                (span.start, span.stop - 1), (answer.reps[number].first, answer.reps[number].last)
            )
            self.assertTrue(span.start <= frame < span.stop)
        alone = joined([lift("clean")])[0]
        track = track_of(alone.t_s, alone.raw_x_m, alone.raw_y_m)
        answer = assess(track, ClipSettings(parse_derivative("clean")), load_content())
        self.assertEqual(answer.span_at(40), slice(0, len(track)))

    def test_no_lift_is_no_repetition(self) -> None:
        t = np.arange(0, 3, 1 / 60)
        track = track_of(t, np.zeros_like(t), np.full_like(t, 0.3), 0.4)
        motion = bar_motion(track, scale_from_rim(track.rim, 450.0), "right")
        self.assertEqual(split_reps(motion, parse_derivative("clean")), [])


if __name__ == "__main__":
    unittest.main()
