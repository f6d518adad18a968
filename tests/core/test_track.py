"""The tracker against films whose truth is known to a hundredth of a pixel."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import cast

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from keen_kettle.core.analysis import ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index, set_rotation, write_clip
from keen_kettle.core.content import load_content
from keen_kettle.core.errors import Cancelled, MarkError
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.track import HandWork, PlateMark, State, fit_rim, scale_from_rim, track_bar
from keen_kettle.core.track.plate import Follower, Point
from keen_kettle.core.track.run import Patience, follow
from keen_kettle.core.track.tracker import DOUBTFUL, LONG_DOUBT_S
from tests.films import film, tracked

Picture = NDArray[np.uint8]


class Slides:
    """A handful of pictures as a film of 50 frames a second."""

    def __init__(self, pictures: list[Picture]) -> None:
        self.pictures = pictures
        self.t_s = np.arange(len(pictures)) / 50

    def bgr(self, number: int) -> Picture:
        return self.pictures[number]


def disc(x: float, y: float, r: float, seed: int = 1, ellipse: float = 1.0) -> Picture:
    """A dark plate with light blocks on it before a grainy wall."""
    rng = np.random.default_rng(seed)
    wall = np.clip(150 + rng.normal(0, 2, (240, 320, 3)), 0, 255).astype(np.uint8)
    centre, axes = (round(x * 256), round(y * 256)), (round(r * ellipse * 256), round(r * 256))
    cv2.ellipse(wall, centre, axes, 0, 0, 360, (45, 45, 48), -1, cv2.LINE_AA, 8)
    for angle in (20, 140, 260):
        at = np.radians(angle)
        spot = (round((x + 0.5 * r * np.cos(at)) * 256), round((y + 0.5 * r * np.sin(at)) * 256))
        cv2.circle(wall, spot, round(0.14 * r * 256), (200, 205, 210), -1, cv2.LINE_AA, 8)
    return wall


class TestRim(unittest.TestCase):
    def test_a_rough_mark_is_drawn_to_the_rim(self) -> None:
        for dx, dy, dr in ((3, -2, 3), (-3, 3, -3), (0, 0, 4), (4, 0, 0)):
            rim, _ = fit_rim(disc(160.3, 120.6, 40), 160 + dx, 120 + dy, 40 + dr)
            self.assertTrue(rim.found)
            self.assertLess(np.hypot(rim.x_px - 160.3, rim.y_px - 120.6), 0.6)
            self.assertLess(abs(max(rim.axes_px) - 40.3), 1.0)

    @settings(max_examples=30, deadline=None)
    @given(
        st.floats(120, 200),
        st.floats(95, 145),
        st.floats(18, 70),
        st.floats(-0.06, 0.06),
        st.floats(-0.06, 0.06),
        st.floats(0.94, 1.06),
    )
    def test_any_rough_mark_on_any_plate_is_drawn_to_its_rim(
        self, x: float, y: float, r: float, dx: float, dy: float, grown: float
    ) -> None:
        rim, model = fit_rim(disc(x, y, r), x + dx * r, y + dy * r, grown * r)
        self.assertTrue(rim.found)
        self.assertLess(np.hypot(rim.x_px - x, rim.y_px - y), 0.02 * r + 0.6)
        self.assertLess(abs(max(rim.axes_px) - r), 0.02 * r + 1.0)
        again = model.fit(disc(x, y, r, seed=2), x + 0.05 * r, y - 0.05 * r)
        self.assertLess(np.hypot(again.x_px - x, again.y_px - y), 0.02 * r + 0.6)
        self.assertGreater(again.support, 0.4)

    def test_a_picture_without_the_plate_gives_the_rim_no_support(self) -> None:
        _, model = fit_rim(disc(160, 120, 40), 160, 120, 40)
        rng = np.random.default_rng(77)
        wall = np.clip(150 + rng.normal(0, 2, (240, 320, 3)), 0, 255).astype(np.uint8)
        self.assertLess(model.fit(wall, 160, 120).support, 0.15)

    def test_a_plate_half_off_the_picture_is_followed_by_what_is_seen(self) -> None:
        _, model = fit_rim(disc(160, 120, 40), 160, 120, 40)
        found = model.fit(disc(160, 225, 40, seed=3), 162, 223)
        self.assertLess(np.hypot(found.x_px - 160, found.y_px - 225), 1.2)
        self.assertLess(found.visible, 0.8)

    def test_a_plate_seen_at_an_angle_keeps_its_height_as_scale(self) -> None:
        rim, _ = fit_rim(disc(160, 120, 50, ellipse=0.8), 160, 120, 49)
        scale = scale_from_rim(rim, 450)
        self.assertAlmostEqual(scale.m_per_px, 0.45 / 100, delta=0.0002)
        self.assertAlmostEqual(scale.view_angle_deg, np.degrees(np.arccos(0.8)), delta=5)

    def test_no_rim_leaves_the_coachs_circle_and_says_so(self) -> None:
        wall = np.full((240, 320, 3), 140, np.uint8)
        rim, _ = fit_rim(wall, 160, 120, 40)
        self.assertFalse(rim.found)
        self.assertEqual((rim.x_px, rim.y_px, rim.axes_px), (160, 120, (40, 40)))
        self.assertGreaterEqual(scale_from_rim(rim, 450).relative_sigma, 0.03)

    def test_a_wrong_diameter_is_refused(self) -> None:
        rim, _ = fit_rim(disc(160, 120, 40), 160, 120, 40)
        with self.assertRaisesRegex(MarkError, "outside 20 to 700"):
            scale_from_rim(rim, 12)


class TestMarks(unittest.TestCase):
    def test_marks_off_the_film_are_refused_in_plain_words(self) -> None:
        bad = (
            (PlateMark(99, 10, 10, 20), "frames 0 to 9"),
            (PlateMark(0, 400, 10, 20), "off the picture"),
            (PlateMark(0, 10, 10, 2), "too small"),
            (PlateMark(0, 10, 10, 999), "larger than the picture"),
            (PlateMark(0, float("nan"), 10, 20), "off the picture"),
        )
        for mark, words in bad:
            with self.assertRaisesRegex(MarkError, words):
                mark.check_against(10, 320, 240)
        with self.assertRaisesRegex(MarkError, "Mark the plate once"):
            track_bar(Slides([disc(100, 100, 30)]), [])


class TestDoubt(unittest.TestCase):
    """How long a plate is followed that may no longer be it, at fifty pictures a second."""

    @staticmethod
    def way(*parts: tuple[int, float, State]) -> list[int]:
        """The pictures in which a plate is given, that is seen so many times, so surely, in such states."""
        points = [
            Point(10.0, 10.0, 5.0, sure, state)
            for times, sure, state in parts
            for _ in range(times)
        ]
        told = iter(points)

        class Told:
            lost_s = 0.0

            def advance(self, _picture: Picture, _grey: Picture, _gap_s: float) -> Point:
                return next(told)

        film = Slides([np.zeros((20, 20, 3), np.uint8)] * (len(points) + 1))
        patience = Patience(LONG_DOUBT_S, DOUBTFUL)
        way = follow(
            film,
            cast(Follower, Told()),
            0,
            len(points),
            HandWork(),
            lambda *_: None,
            patience=patience,
        )
        return [number for number, point in way.points.items() if np.isfinite(point.x)]

    def test_a_long_weak_doubt_ends_the_path_where_it_began(self) -> None:
        seen = self.way((20, 0.9, State.GOOD), (10, 0.55, State.CHECK), (100, 0.45, State.CHECK))
        self.assertEqual(seen, list(range(1, 31)))

    def test_a_doubt_that_is_short_or_resolved_or_less_weak_does_not(self) -> None:
        weak, good = (60, 0.4, State.CHECK), (5, 0.7, State.GOOD)
        self.assertEqual(len(self.way(weak, good, weak)), 125)
        self.assertEqual(len(self.way((300, 0.55, State.CHECK))), 300)


class TestTracking(unittest.TestCase):
    def test_films_are_followed_within_two_hundredths_of_a_plate(self) -> None:
        for name in ("brief", "left", "hang"):
            track, known = tracked(name), film(name)
            away = np.hypot(*(np.column_stack([track.x_px, track.y_px]) - known.bar_px).T)
            diameter = 2 * known.truth["plate_radius_px"]
            self.assertLess(float(np.sqrt(np.mean(away**2))), 0.02 * diameter, name)
            good = track.state == State.GOOD
            self.assertGreater(float(good.mean()), 0.85, name)
            self.assertGreater(float((away[good] < 0.03 * diameter).mean()), 0.97, name)

    def test_a_later_mark_tracks_both_ways(self) -> None:
        known = film("hang")
        middle = len(known.bar_px) // 2
        with ClipReader(read_index(known.path)) as reader:
            track = track_bar(ReaderPictures(reader), [known.mark(middle)])
        away = np.hypot(*(np.column_stack([track.x_px, track.y_px]) - known.bar_px).T)
        self.assertEqual(track.state[middle], State.BY_HAND)
        self.assertLess(float(np.nanmax(away)), 0.06 * 2 * known.truth["plate_radius_px"])

    def test_a_film_turned_by_the_phone_gives_the_same_path(self) -> None:
        known = film("hang")
        with tempfile.TemporaryDirectory() as room, ClipReader(read_index(known.path)) as reader:
            path = Path(room) / "turned.mp4"
            span = range(50, 75)
            turned = (
                (float(reader.index.t_s[k]), np.rot90(reader.frame(k).bgr(), 1).copy())
                for k in span
            )
            write_clip(path, turned, 30, key_interval=200)
            set_rotation(path, 90)
            index = read_index(path)
            self.assertEqual((index.width_px, index.height_px), (640, 360))
            with ClipReader(index) as upright:
                mark = replace(known.mark(50), frame=0)
                track = track_bar(ReaderPictures(upright), [mark])
        away = np.hypot(*(np.column_stack([track.x_px, track.y_px]) - known.bar_px[50:75]).T)
        self.assertLess(float(np.nanmax(away)), 0.03 * 2 * known.truth["plate_radius_px"])

    def test_dropped_frames_change_neither_path_nor_speed(self) -> None:
        known = film("brief")
        rng = np.random.default_rng(12)
        with tempfile.TemporaryDirectory() as room, ClipReader(read_index(known.path)) as reader:
            path = Path(room) / "dropped.mp4"
            kept = [0, *np.flatnonzero(rng.random(len(reader.index)) > 0.25)[1:].tolist()]
            pictures = ((float(reader.index.t_s[k]), reader.frame(k).bgr()) for k in kept)
            write_clip(path, pictures, 25)
            with ClipReader(read_index(path)) as gaps:
                self.assertGreater(gaps.index.uneven_share, 0.1)
                track = track_bar(ReaderPictures(gaps), [known.mark()])
        away = np.hypot(*(np.column_stack([track.x_px, track.y_px]) - known.bar_px[kept]).T)
        self.assertLess(
            float(np.sqrt(np.nanmean(away**2))), 0.02 * 2 * known.truth["plate_radius_px"]
        )
        answer = assess(track, ClipSettings(Derivative("clean")), load_content())
        peak = answer.measures["peak_velocity"]
        assert peak.value is not None and peak.sigma is not None
        truth = known.truth["measures"]["peak_velocity"]
        self.assertLess(abs(peak.value - truth), max(3 * peak.sigma, 0.05 * truth))

    def test_a_plate_that_is_gone_is_lost_not_guessed(self) -> None:
        moving = [disc(80 + 2.0 * k, 120, 30, seed=k) for k in range(20)]
        rng = np.random.default_rng(99)
        empty = [
            np.clip(150 + rng.normal(0, 2, (240, 320, 3)), 0, 255).astype(np.uint8)
            for _ in range(20)
        ]
        track = track_bar(Slides(moving + empty), [PlateMark(0, 80, 120, 30)])
        self.assertTrue((track.state[22:] == State.LOST).all())
        self.assertTrue(np.isnan(track.x_px[22:]).all())
        self.assertLess(float(np.abs(track.x_px[:20] - (80 + 2.0 * np.arange(20))).max()), 1.5)

    def test_a_second_mark_picks_the_plate_up_again(self) -> None:
        rng = np.random.default_rng(98)
        empty = [
            np.clip(150 + rng.normal(0, 2, (240, 320, 3)), 0, 255).astype(np.uint8)
            for _ in range(16)
        ]
        before = [disc(80 + 2.0 * k, 120, 30, seed=k) for k in range(14)]
        after = [disc(200 - 2.0 * k, 90, 30, seed=50 + k) for k in range(14)]
        pictures = Slides(before + empty + after)
        track = track_bar(pictures, [PlateMark(0, 80, 120, 30), PlateMark(30, 200, 90, 30)])
        self.assertTrue((track.state[19:28] == State.LOST).all())
        self.assertLess(abs(float(track.x_px[43]) - (200 - 26)), 1.5)

    def test_a_repeated_frame_holds_the_bar_and_is_flagged(self) -> None:
        pictures: list[Picture] = []
        for k in range(12):
            pictures += [disc(80 + 3.0 * k, 120, 30, seed=k)] * 2
        track = track_bar(Slides(pictures), [PlateMark(0, 80, 120, 30)])
        # The first pair comes before it is known that the plate moves.
        self.assertTrue((track.state[3::2] == State.REPEATED).all())
        np.testing.assert_allclose(track.x_px[3::2], track.x_px[2::2], atol=1e-9)
        self.assertFalse(track.seen[3::2].any())

    def test_tracking_can_be_stopped_and_tells_how_far_it_is(self) -> None:
        pictures = Slides([disc(80 + 2.0 * k, 120, 30, seed=k) for k in range(12)])
        told: list[float] = []
        with self.assertRaises(Cancelled):
            track_bar(pictures, [PlateMark(0, 80, 120, 30)], told.append, lambda: len(told) >= 5)
        self.assertEqual(told, sorted(told))
        self.assertLess(told[-1], 0.6)

    def test_the_same_film_gives_the_same_track(self) -> None:
        pictures = Slides([disc(80 + 2.0 * k, 120, 30, seed=k) for k in range(10)])
        one, two = (track_bar(pictures, [PlateMark(0, 81, 119, 31)]) for _ in range(2))
        np.testing.assert_array_equal(one.x_px, two.x_px)
        self.assertEqual(one.rim, replace(two.rim))


if __name__ == "__main__":
    unittest.main()
