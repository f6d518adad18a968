"""Short gaps in the path: bridged where the plate goes on as it went, and told to be less sure."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.simulate import LiftScript
from keen_kettle.core.track import BarTrack, State
from keen_kettle.core.track.spans import LONGEST_GAP_S, bridge_gaps
from tests.core.test_motion import PLACES, judged, motion_of, simulated

SCRIPT = LiftScript("clean", receive="power")
FPS = 30
LIFT, WHOLE = simulated(SCRIPT, fps=FPS)
EVENTS = {name: event.frame for name, event in judged(SCRIPT, WHOLE).events.items()}
PULL = EVENTS["lift_off"], EVENTS["catch"]


def lost(first: int, end: int, track: BarTrack = WHOLE) -> BarTrack:
    """The track whose bar is lost from one frame until another."""
    gone = slice(first, end)
    state, confidence = track.state.copy(), track.confidence.copy()
    state[gone], confidence[gone] = State.LOST, 0.0
    ways = {name: getattr(track, name).copy() for name in PLACES}
    for way in ways.values():
        way[gone] = np.nan
    return replace(track, state=state, confidence=confidence, **ways)


def bridged(track: BarTrack) -> BarTrack:
    found = bridge_gaps(track)
    return replace(found, still_x_px=found.x_px, still_y_px=found.y_px)


class TestShortGaps(unittest.TestCase):
    def test_without_a_bridge_a_gap_in_the_pull_takes_its_beginning(self) -> None:
        late = judged(SCRIPT, lost(PULL[0] + 8, PULL[0] + 13)).events
        self.assertNotIn("lift_off", late)

    @settings(max_examples=12, deadline=None)
    @given(st.integers(PULL[0], PULL[1] - 4), st.integers(3, 6))
    def test_a_short_gap_anywhere_in_the_lift_moves_no_event(self, first: int, count: int) -> None:
        track = bridged(lost(first, first + count))
        self.assertTrue((track.state[first : first + count] == State.BRIDGED).all())
        events = judged(SCRIPT, track).events
        for name in ("lift_off", "peak_velocity", "peak_height"):
            self.assertLessEqual(abs(events[name].frame - EVENTS[name]), 2, name)

    def test_the_speed_over_a_gap_is_less_sure_and_rightly_so(self) -> None:
        sure, off = motion_of(WHOLE).vy_sigma_mps, []
        for first in range(PULL[0], EVENTS["peak_velocity"], 2):
            gap = slice(first, first + 5)
            motion = motion_of(bridged(lost(gap.start, gap.stop)))
            self.assertGreater(motion.vy_sigma_mps[gap].mean(), sure[gap].mean())
            t = WHOLE.t_s[gap]
            true = (LIFT.bar_m(t + 1e-3)[:, 1] - LIFT.bar_m(t - 1e-3)[:, 1]) / 2e-3
            off.append(np.abs(motion.vy_mps[gap] - true) / motion.vy_sigma_mps[gap])
        self.assertGreater(float((np.concatenate(off) < 1).mean()), 0.68)
        self.assertGreater(float((np.concatenate(off) < 2).mean()), 0.93)

    def test_what_is_no_short_gap_on_one_way_stays_a_gap(self) -> None:
        k = EVENTS["peak_velocity"]
        long = lost(k - 5, k + 1 + round(LONGEST_GAP_S * FPS))
        elsewhere = lost(k - 5, k)
        elsewhere.x_px[k:] += 2 * float(elsewhere.r_px[0])
        cut = replace(lost(k - 5, k), cuts=np.array([k - 2], np.intp))
        at_the_end = lost(len(WHOLE) - 3, len(WHOLE))
        for track in (long, elsewhere, cut, at_the_end):
            np.testing.assert_array_equal(bridge_gaps(track).state, track.state)


if __name__ == "__main__":
    unittest.main()
