"""A path that is whole: short gaps bridged where the plate goes on as it went, and told to be less sure; rough
marks in line with what was followed."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.simulate import LiftScript
from keen_kettle.core.track import BarTrack, PlateMark, State
from keen_kettle.core.track.joined import in_line
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

    def test_the_point_at_which_the_plate_is_slipping_off_is_part_of_the_gap(self) -> None:
        first = PULL[0] + 10
        slipping = lost(first, first + 4)
        slipping.state[first - 1], slipping.state[first + 4] = State.CHECK, State.CHECK
        for frame in (first - 1, first + 4):
            slipping.y_px[frame] += 0.3 * slipping.r_px[frame]
        off = np.abs(bridge_gaps(slipping).y_px - WHOLE.y_px) / WHOLE.r_px
        self.assertLess(float(off.max()), 0.05)

    def test_what_is_no_short_gap_on_one_way_stays_a_gap(self) -> None:
        k = EVENTS["peak_velocity"]
        long = lost(k - 5, k + 1 + round(LONGEST_GAP_S * FPS))
        elsewhere = lost(k - 5, k)
        elsewhere.x_px[k:] += 2 * float(elsewhere.r_px[0])
        cut = replace(lost(k - 5, k), cuts=np.array([k - 2], np.intp))
        at_the_end = lost(len(WHOLE) - 3, len(WHOLE))
        for track in (long, elsewhere, cut, at_the_end):
            np.testing.assert_array_equal(bridge_gaps(track).state, track.state)


class TestRoughMarks(unittest.TestCase):
    def beside(self, share: float, frame: int) -> BarTrack:
        """The track with a rim's centre in a frame that is so many radii above the plate's."""
        ways = {name: getattr(WHOLE, name).copy() for name in PLACES}
        for name in ("y_px", "still_y_px"):
            ways[name][frame] -= share * WHOLE.r_px[frame]
        state = WHOLE.state.copy()
        state[frame] = State.BY_HAND
        return replace(WHOLE, state=state, **ways)

    def mark(self, frame: int, exact: bool = False) -> PlateMark:
        return PlateMark(frame, 0.0, 0.0, 64.0, exact=exact)

    def test_a_rim_read_beside_the_followed_plate_is_no_leap(self) -> None:
        for frame in (0, PULL[0] + 10, EVENTS["peak_velocity"]):
            placed = in_line(self.beside(-0.08, frame), [self.mark(frame)])
            off = np.hypot(placed.x_px - WHOLE.x_px, placed.y_px - WHOLE.y_px)[frame]
            self.assertLess(float(off), 0.02 * float(WHOLE.r_px[frame]))
            self.assertEqual(placed.state[frame], State.BY_HAND)

    def test_a_first_point_that_is_off_does_not_hide_where_the_lift_begins(self) -> None:
        events = judged(SCRIPT, self.beside(-0.08, 0)).events
        self.assertEqual(events["lift_off"].frame, EVENTS["lift_off"])

    def test_an_exact_mark_and_one_of_another_place_stay(self) -> None:
        for share, exact in ((-0.08, True), (0.5, False)):
            track = self.beside(share, PULL[0])
            placed = in_line(track, [self.mark(PULL[0], exact)])
            np.testing.assert_array_equal(placed.y_px, track.y_px)


if __name__ == "__main__":
    unittest.main()
