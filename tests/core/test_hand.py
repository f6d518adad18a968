"""Cuts, spans, fixed points, limits, the way back, and what is found again."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.errors import MarkError
from keen_kettle.core.track import (
    BarTrack,
    HandWork,
    PlateMark,
    Span,
    State,
    TrackMemory,
    track_bar,
)
from keen_kettle.core.track.spans import bridge_slips
from tests.core.test_track import Picture, Slides, disc

MARK = PlateMark(0, 80, 120, 30)


def moving(count: int, x: float = 80.0, y: float = 120.0, pace: float = 2.0) -> list[Picture]:
    return [disc(x + pace * k, y, 30, seed=k) for k in range(count)]


def wall(count: int) -> list[Picture]:
    rng = np.random.default_rng(98)
    return [
        np.clip(150 + rng.normal(0, 2, (240, 320, 3)), 0, 255).astype(np.uint8)
        for _ in range(count)
    ]


def other_hall(count: int) -> list[Picture]:
    """Another shot: a dark hall with stripes and a plate at another place."""
    pictures = []
    for k in range(count):
        picture = 255 - disc(220, 90 + k, 30, seed=k)
        picture[:, ::40] = 20
        pictures.append(picture)
    return pictures


class TestCuts(unittest.TestCase):
    def test_a_cut_ends_the_path_and_a_mark_after_it_goes_on(self) -> None:
        pictures = Slides(moving(14) + other_hall(14))
        track = track_bar(pictures, [MARK])
        self.assertEqual(track.cuts.tolist(), [14])
        self.assertTrue(np.isfinite(track.x_px[:14]).all())
        self.assertTrue((track.state[14:] == State.OUTSIDE).all())
        self.assertEqual(track.share(State.LOST), 0.0)
        both = track_bar(pictures, [MARK, PlateMark(20, 220, 96, 30)])
        self.assertEqual(both.cuts.tolist(), [14])
        self.assertTrue(np.isfinite(both.x_px).all())
        self.assertLess(abs(float(both.y_px[27]) - 103), 1.5)

    def test_a_moving_plate_or_camera_is_no_cut(self) -> None:
        fast = track_bar(Slides(moving(12, pace=14.0)), [MARK])
        self.assertEqual(len(fast.cuts), 0)

    def test_a_hand_that_jerks_before_a_wall_of_slats_is_no_cut(self) -> None:
        slats = np.full((280, 320, 3), 60, np.uint8)
        slats[(np.arange(280) // 8) % 2 == 0] = 190
        slats[:, 60:110] //= 2
        slats[90:120, 200:290] = 240
        pictures = []
        for k in range(14):
            jerk = 20 if k < 7 else 28
            picture = slats[jerk : jerk + 240].copy()
            plate = disc(160, 140 - jerk, 30)
            inside = np.hypot(*np.mgrid[jerk - 140 : jerk + 100, -160:160]) < 30
            picture[inside] = plate[inside]
            pictures.append(picture)
        track = track_bar(Slides(pictures), [PlateMark(0, 160, 120, 30)])
        self.assertEqual(track.cuts.tolist(), [])
        self.assertTrue(np.isfinite(track.x_px).all())

    def test_a_bar_is_found_after_pictures_that_were_shown_again_for_long(self) -> None:
        before = moving(10, pace=3.0)
        held = [before[-1]] * 11
        after = [disc(107 + 61 + 3.0 * k, 120, 30, seed=40 + k) for k in range(10)]
        track = track_bar(Slides(before + held + after), [MARK])
        off = np.abs(track.x_px[21:] - (168 + 3.0 * np.arange(10)))
        self.assertLess(float(np.nanmax(off)), 1.5)
        self.assertTrue(np.isfinite(track.x_px[21:]).all())
        self.assertTrue((track.state[22:] == State.GOOD).all())


class TestFoundAgain(unittest.TestCase):
    def test_what_is_found_after_a_gap_is_never_called_good(self) -> None:
        pictures = moving(12) + wall(20) + [disc(126, 120, 30, seed=90 + k) for k in range(10)]
        track = track_bar(Slides(pictures), [MARK])
        self.assertTrue((track.state[13:31] == State.LOST).all())
        self.assertTrue((track.state[34:] == State.CHECK).all())
        self.assertLess(abs(float(track.x_px[-1]) - 126), 1.5)
        confirmed = track_bar(Slides(pictures), [MARK, PlateMark(41, 126, 120, 30)])
        self.assertTrue((confirmed.state[34:41] == State.GOOD).all())

    def test_a_path_that_does_not_find_home_is_doubted(self) -> None:
        """Half-way a like plate takes over while the true one is covered: nothing after is good."""
        pictures = moving(14)
        for k in range(14, 30):
            picture = disc(250, 60, 30, seed=k)
            pictures.append(picture)
        track = track_bar(Slides(pictures), [MARK])
        self.assertFalse((track.state[14:] == State.GOOD).any())
        self.assertTrue((track.state[1:12] == State.GOOD).all())


class TestRests(unittest.TestCase):
    def test_a_bar_that_stops_is_at_rest_and_not_repeated(self) -> None:
        still = [disc(104, 120, 30, seed=77)] * 30
        track = track_bar(Slides(moving(13) + still), [MARK])
        self.assertEqual(int((track.state == State.REPEATED).sum()), 0)
        self.assertTrue(track.seen[1:].all())


class TestFixedPoints(unittest.TestCase):
    def test_an_exact_mark_stands_to_a_part_of_a_pixel(self) -> None:
        exact = PlateMark(6, 93.25, 119.5, 30, 0.9, 10.0, exact=True)
        track = track_bar(Slides(moving(14)), [MARK, exact])
        self.assertEqual((track.x_px[6], track.y_px[6]), (93.25, 119.5))
        self.assertEqual(track.state[6], State.BY_HAND)
        alone = track_bar(Slides(moving(14)), [replace(exact, frame=0, x_px=80.0, y_px=120.0)])
        self.assertAlmostEqual(max(alone.rim.axes_px), 30)
        self.assertAlmostEqual(min(alone.rim.axes_px), 27)

    def test_what_was_followed_before_is_not_followed_twice(self) -> None:
        class Counted(Slides):
            asked = 0

            def bgr(self, number: int) -> Picture:
                self.asked += 1
                return super().bgr(number)

        memory, second = TrackMemory(), PlateMark(20, 120, 120, 30, exact=True)
        pictures = Counted(moving(24))
        track_bar(pictures, [MARK], memory=memory)
        first_cost, pictures.asked = pictures.asked, 0
        again = track_bar(pictures, [MARK], memory=memory)
        self.assertLess(pictures.asked, 0.1 * first_cost)
        with_memory = track_bar(pictures, [MARK, second], memory=memory)
        without = track_bar(pictures, [MARK, second])
        np.testing.assert_allclose(with_memory.x_px, without.x_px, atol=1e-9)
        self.assertEqual(again.state[0], State.BY_HAND)
        hidden = HandWork((Span(10, 14, "hidden"),))
        pictures.asked = 0
        after = track_bar(pictures, [MARK], hand=hidden, memory=memory)
        self.assertLess(pictures.asked, 0.65 * first_cost, "the plate only is followed once more")
        anew = track_bar(pictures, [MARK], hand=hidden)
        for one, other in ((after.still_x_px, anew.still_x_px), (after.x_px, anew.x_px)):
            np.testing.assert_allclose(one, other, atol=0.05)
        np.testing.assert_array_equal(after.same, anew.same)
        self.assertEqual(after.vertical, anew.vertical)
        self.assertLess(abs(after.rim.axes_px[1] / anew.rim.axes_px[1] - 1), 0.002)


class TestSpans(unittest.TestCase):
    def track(self, hand: HandWork) -> BarTrack:
        return track_bar(Slides(moving(24)), [MARK], hand=hand)

    def test_a_hidden_span_is_a_gap_and_a_bridged_one_a_smooth_curve(self) -> None:
        hidden = self.track(HandWork((Span(10, 14, "hidden"),)))
        self.assertTrue((hidden.state[10:15] == State.HIDDEN).all())
        self.assertTrue(np.isnan(hidden.x_px[10:15]).all())
        self.assertTrue(np.isfinite(hidden.x_px[15:]).all())
        self.assertTrue(
            (hidden.state[16:] == State.GOOD).all(), "what was hidden is the same plate"
        )
        bridged = self.track(HandWork((Span(10, 14, "bridged"),)))
        self.assertTrue((bridged.state[10:15] == State.BRIDGED).all())
        np.testing.assert_allclose(bridged.x_px[10:15], 80 + 2.0 * np.arange(10, 15), atol=0.6)

    def test_where_the_plate_was_slipped_off_for_a_moment_the_way_is_bridged(self) -> None:
        true = self.track(HandWork())
        x, state, confidence = true.x_px.copy(), true.state.copy(), true.confidence.copy()
        x[10:14] = x[9]
        state[10:14], confidence[10:14] = State.CHECK, 0.05
        slipped = replace(true, x_px=x, state=state, confidence=confidence)
        slow = replace(slipped, t_s=slipped.t_s * 5)
        mended = bridge_slips(slipped)
        self.assertTrue((mended.state[10:14] == State.BRIDGED).all())
        np.testing.assert_allclose(mended.x_px, true.x_px, atol=0.6)
        for kept in (
            replace(slipped, x_px=true.x_px),  # it was there all the time
            replace(slipped, confidence=np.maximum(confidence, 0.3)),  # something was recognised
            slow,  # too long to know what it did
        ):
            np.testing.assert_array_equal(bridge_slips(kept).x_px, kept.x_px)
        end = replace(
            slipped, state=np.where(np.arange(24) > 13, State.LOST, state).astype(np.uint8)
        )
        gone = replace(end, x_px=np.where(np.arange(24) > 13, np.nan, x))
        np.testing.assert_array_equal(bridge_slips(gone).x_px, gone.x_px)

    def test_of_a_long_doubt_what_was_slipped_before_it_snaps_back_is_bridged(self) -> None:
        true = self.track(HandWork())
        x, state, confidence = true.x_px.copy(), true.state.copy(), true.confidence.copy()
        state[3:20], confidence[3:20] = State.CHECK, 0.05
        doubted = replace(true, x_px=x, state=state, confidence=confidence)
        np.testing.assert_array_equal(bridge_slips(doubted).x_px, true.x_px)
        slipped = x.copy()
        slipped[14:18] = x[13]
        mended = bridge_slips(replace(doubted, x_px=slipped))
        self.assertTrue((mended.state[14:18] == State.BRIDGED).all())
        self.assertEqual(mended.state[18], State.CHECK)
        np.testing.assert_allclose(mended.x_px, true.x_px, atol=1.0)

    def test_a_bridge_without_a_far_side_stays_a_gap(self) -> None:
        track = self.track(HandWork((Span(18, 23, "bridged"),)))
        self.assertTrue((track.state[18:] == State.HIDDEN).all())

    def test_only_the_frames_between_the_limits_are_followed(self) -> None:
        track = track_bar(
            Slides(moving(24)), [PlateMark(8, 96, 120, 30)], hand=HandWork(first=5, last=15)
        )
        self.assertTrue((track.state[:5] == State.OUTSIDE).all())
        self.assertTrue((track.state[16:] == State.OUTSIDE).all())
        self.assertTrue(np.isfinite(track.x_px[5:16]).all())
        with self.assertRaisesRegex(MarkError, "between the first and the last"):
            self.track(HandWork(first=5, last=15))

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.tuples(
                st.integers(0, 40), st.integers(0, 12), st.sampled_from(["hidden", "bridged"])
            ),
            max_size=7,
        )
    )
    def test_spans_never_overlap_and_the_newest_wins(
        self, rows: list[tuple[int, int, str]]
    ) -> None:
        hand = HandWork()
        wanted: dict[int, str] = {}
        for first, more, kind in rows:
            hand = hand.with_span(Span(first, first + more, kind))
            wanted |= dict.fromkeys(range(first, first + more + 1), kind)
        found: dict[int, str] = {}
        for span in hand.spans:
            for frame in range(span.first, span.last + 1):
                self.assertNotIn(frame, found)
                found[frame] = span.kind
        self.assertEqual(found, wanted)
        for frame in wanted:
            self.assertTrue(hand.hides(frame))
            self.assertFalse(hand.without_span_at(frame).hides(frame))


if __name__ == "__main__":
    unittest.main()
