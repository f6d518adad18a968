"""A camera held in the hand, slow motion, repeated pictures: what is taken out, and what is said."""

import unittest
from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis import Assessment, ClipCheck, ClipSettings, assess, check_clip
from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.content import load_content
from keen_kettle.core.errors import Cancelled
from keen_kettle.core.motion import film_clock, repeated_share
from keen_kettle.core.simulate import (
    Camera,
    Filming,
    LiftScript,
    film_frames,
    simulate_lift,
)
from keen_kettle.core.simulate.film_hand import camera_offsets_px
from keen_kettle.core.simulate.film_time import frame_times
from keen_kettle.core.simulate.film_truth import plate_px, truth_document
from keen_kettle.core.track import BarTrack, PlateMark, still_path, track_bar
from keen_kettle.core.track.overlay import overlay_mask

Floats = NDArray[np.float64]
Grey = NDArray[np.uint8]

CONTENT = load_content()
SMALL = Camera(640, 360, 142.0, 327.0, 320.0)
SCRIPT = LiftScript("clean", "hang", "power", still_s=0.3, end_s=0.2)


class Painted:
    """Painted frames as a film, without a file."""

    def __init__(self, filming: Filming) -> None:
        lift, self.filming = simulate_lift(SCRIPT), filming
        times = frame_times(lift, filming)
        rows = list(film_frames(lift, filming, times))
        self.t_s = np.array([row[0] for row in rows])
        self.frames = [row[1] for row in rows]
        self.truth = truth_document(lift, filming, times)
        self.bar_px = np.array(self.truth["bar_px"])
        self.camera_px = np.array(self.truth["camera_px"])

    def bgr(self, number: int) -> NDArray[np.uint8]:
        return self.frames[number]


@cache
def painted(**more: float) -> tuple[Painted, BarTrack]:
    film = Painted(Filming(fps=30, camera=SMALL, seed=301, **more))  # type: ignore[arg-type]
    x, y = film.bar_px[0]
    return film, track_bar(film, [PlateMark(0, x + 1, y - 1, 33.0)])


def answer(track: BarTrack, **more: object) -> Assessment:
    settings = ClipSettings(SCRIPT.derivative)
    return assess(track, replace(settings, **more), CONTENT)  # type: ignore[arg-type]


class TestCamera(unittest.TestCase):
    def test_a_still_camera_leaves_the_path_as_it_is(self) -> None:
        _, track = painted()
        np.testing.assert_array_equal(track.still_x_px, track.x_px)
        self.assertEqual(track.camera_moved_px, 0.0)
        self.assertFalse([note for note in answer(track).notes if "camera" in note])

    def test_shake_and_pan_are_taken_out(self) -> None:
        film, track = painted(shake_px=4.0, pan_px=60.0)
        still = film.bar_px + film.camera_px
        away = np.hypot(track.still_x_px - still[:, 0], track.still_y_px - still[:, 1])
        self.assertLess(float(np.sqrt(np.nanmean(away**2))), 0.015 * 64, "1.5 % of the diameter")
        raw = np.hypot(track.x_px - film.bar_px[:, 0], track.y_px - film.bar_px[:, 1])
        self.assertLess(
            float(np.sqrt(np.nanmean(raw**2))), 0.015 * 64, "on the film it is exact too"
        )
        self.assertGreater(track.camera_moved_px, 40)

    def test_the_measures_are_those_of_the_lift_and_the_note_says_that_it_mattered(self) -> None:
        film, track = painted(shake_px=4.0, pan_px=60.0)
        wanted = film.truth["measures"]
        assert isinstance(wanted, dict)
        taken, left = answer(track), answer(track, steady=False)
        for name in ("loop", "peak_velocity"):
            value = taken.measures[name].value
            assert value is not None
            self.assertAlmostEqual(value, wanted[name], delta=0.05)
        apart = np.nanmax(np.abs(left.motion.x_m - taken.motion.x_m))
        self.assertGreater(float(apart), 0.3, "60 px of pan are 0.42 m at this scale")
        self.assertIn("that is taken out", " ".join(taken.notes))
        self.assertIn("that is left in", " ".join(left.notes))

    def test_roll_tilt_and_zoom_of_a_hand_are_taken_out(self) -> None:
        film, track = painted(shake_px=2.0, tilt_px=20.0, rolls_deg=3.0, zooms=1.2)
        still = plate_px(simulate_lift(SCRIPT), film.filming, np.array(film.truth["lift_s"]))
        away = np.hypot(track.still_x_px - still[:, 0], track.still_y_px - still[:, 1])
        self.assertLess(float(np.sqrt(np.nanmean(away**2))), 0.02 * 64, "2 % of the diameter")
        self.assertGreater(float(np.abs(film.bar_px - still).max()), 30, "and it did move")

    def test_where_nothing_stands_still_the_path_is_left_alone(self) -> None:
        blank = np.full((120, 160, 3), 90, np.uint8)
        x, y = np.linspace(60, 80, 12), np.linspace(90, 30, 12)
        still = still_path(lambda _number: blank, x, y, 12.0, lambda: False)
        np.testing.assert_array_equal(still.points, np.column_stack([x, y]))
        self.assertFalse(still.known, "and nobody can tell how the camera moved")

    def hall_in_a_hand(
        self, bare: bool, zooms: float = 1.0, caption: bool = False
    ) -> tuple[list[Grey], Floats, Floats]:
        """A nearly plain hall without corners (soft clouds, noise) that sways; a lifter's blot goes up
        before it. Without clouds (`bare`: nothing but the blot) there is nothing to go by. It `zooms`
        about the picture's middle, and a bright `caption` may be laid over it. The way back of the bar's place comes last.
        """
        rng = np.random.default_rng(8)
        clouds = cv2.GaussianBlur(rng.normal(0, 1, (300, 420)).astype(np.float32), (0, 0), 14)
        clouds = 60 + (0 if bare else 260) * clouds
        count = 24
        t = np.arange(count) / 40
        sway = np.column_stack([9 * np.sin(6 * t), 7 * np.sin(9 * t)])
        sway -= sway[0]
        true = np.column_stack([np.full(count, 160.0), 180 - 90 * t])
        zoom, middle = (zooms**t)[:, None], np.array([160.0, 120.0])
        bar = zoom * (true - sway - middle) + middle
        views = []
        for k in range(count):
            grown = float(1 / zoom[k, 0])
            shift = sway[k] + [50, 30] + (1 - grown) * middle
            move = np.array([[grown, 0, shift[0]], [0, grown, shift[1]]])
            view = cv2.warpAffine(clouds, move, (320, 240), flags=cv2.WARP_INVERSE_MAP)
            cv2.circle(view, (round(bar[k, 0]), round(bar[k, 1])), 16, 20.0, -1)
            view = view + rng.normal(0, 3, view.shape)
            grey = np.clip(view, 0, 255).astype(np.uint8)
            if caption:
                cv2.putText(grey, "third set", (4, 232), 2, 0.8, 250, 2, cv2.LINE_AA)
            views.append(np.repeat(grey[:, :, None], 3, axis=2))
        return views, bar, true - bar

    def test_a_plain_hall_without_corners_is_laid_over_as_a_whole(self) -> None:
        views, bar, sway = self.hall_in_a_hand(bare=False)
        found = still_path(views.__getitem__, bar[:, 0], bar[:, 1], 16.0, lambda: False)
        self.assertTrue(found.known)
        off = np.hypot(*(found.points - bar - sway).T)
        self.assertGreater(float(np.hypot(*sway.T).max()), 8)
        self.assertLess(float(off.max()), 1.0, "of a plate of 32 pixels")

    def test_a_plain_hall_is_laid_over_though_the_hand_zooms_or_a_caption_stands_on_it(
        self,
    ) -> None:
        for zooms, caption in ((1.12, False), (1.0, True)):
            views, bar, back = self.hall_in_a_hand(False, zooms, caption)
            found = still_path(views.__getitem__, bar[:, 0], bar[:, 1], 16.0, lambda: False)
            self.assertTrue(found.known)
            off = np.hypot(*(found.points - bar - back).T)
            self.assertGreater(float(np.hypot(*back.T).max()), 8)
            self.assertLess(float(off.max()), 1.6, (zooms, caption))

    def test_what_is_laid_over_a_film_is_told_from_a_hall_that_stands_still(self) -> None:
        rng = np.random.default_rng(3)
        hall = cv2.resize(rng.uniform(40, 120, (40, 60)).astype(np.float32), (480, 300))

        def views(step: int, caption: bool) -> list[Grey]:
            made = []
            for k in range(6):
                view = hall[:240, step * k : step * k + 320] + rng.normal(0, 2, (240, 320))
                grey = np.clip(view, 0, 255).astype(np.uint8)
                if caption:
                    cv2.putText(grey, "third set", (20, 220), 2, 0.9, 250, 2, cv2.LINE_AA)
                made.append(grey)
            return made

        mask = overlay_mask(views(12, caption=True))
        assert mask is not None
        self.assertEqual(int(mask[212, 40]), 0, "on the words")
        self.assertEqual(int(mask[60, 160]), 255, "on the hall")
        self.assertIsNone(overlay_mask(views(12, caption=False)), "nothing is laid over it")
        self.assertIsNone(overlay_mask(views(0, caption=True)), "the hall stands as the words do")

    def test_where_only_the_lifter_is_seen_the_camera_is_not_known(self) -> None:
        views, bar, _ = self.hall_in_a_hand(bare=True)
        found = still_path(views.__getitem__, bar[:, 0], bar[:, 1], 16.0, lambda: False)
        self.assertFalse(found.known)
        np.testing.assert_array_equal(found.points, bar)

    def test_a_whole_diameter_of_quick_pan_zoom_or_roll_is_taken_out(self) -> None:
        """A hall of blots seen through a camera that does what hands do; the bar goes up in it."""
        rng = np.random.default_rng(5)
        hall = rng.uniform(0, 255, (120, 200)).astype(np.float32)
        hall = cv2.resize(hall, (1600, 960), interpolation=cv2.INTER_CUBIC).clip(0, 255)
        hall = np.repeat(hall.astype(np.uint8)[:, :, None], 3, axis=2)
        count, radius = 90, 40.0
        t = np.linspace(0, 1, count)
        bar = np.column_stack([np.full(count, 800.0), 620 - 300 * t])
        for name, aside, zoom, roll, homes in (
            ("quick pan", 90 * np.tanh(25 * (t - 0.35)), np.ones(count), np.zeros(count), (0, 60)),
            ("zoom", np.zeros(count), 1 + 0.5 * t, np.zeros(count), (60,)),
            ("roll", 60 * np.sin(7 * t), np.ones(count), 4 * np.sin(6 * t), (0,)),
        ):
            views: list[NDArray[np.float64]] = []
            for k in range(count):
                centre = (800.0 + float(aside[k]), 500.0)
                turned = cv2.getRotationMatrix2D(centre, float(roll[k]), float(zoom[k]))
                view = np.asarray(turned, np.float64)
                view[:, 2] += np.array([320.0, 200.0]) - np.array(centre)
                views.append(view)
            seen = np.array([v[:, :2] @ b + v[:, 2] for v, b in zip(views, bar, strict=True)])
            first = bar @ views[0][:, :2].T + views[0][:, 2]

            def picture(k: int, views: list[NDArray[np.float64]] = views) -> NDArray[np.uint8]:
                return np.asarray(cv2.warpAffine(hall, views[k], (640, 400)), np.uint8)

            self.assertGreater(float(np.abs(seen - first).max()), radius, name)
            for home in homes:
                place = bar @ views[home][:, :2].T + views[home][:, 2]
                still = still_path(
                    picture, seen[:, 0], seen[:, 1], radius, lambda: False, home=home
                )
                off = np.hypot(*(still.points - place).T) / (2 * radius)
                self.assertLess(float(off.max()), 0.02, (name, home))
                np.testing.assert_allclose(still.zoom, zoom / zoom[home], rtol=0.01)

    def test_it_can_be_stopped(self) -> None:
        blank = np.full((120, 160, 3), 90, np.uint8)
        with self.assertRaises(Cancelled):
            still_path(lambda _number: blank, np.ones(9), np.ones(9), 12.0, lambda: True)

    def test_the_synthesisers_shake_has_the_size_that_was_asked(self) -> None:
        times = np.arange(0, 30, 0.02)
        offsets = camera_offsets_px(Filming(shake_px=5.0), times)
        self.assertAlmostEqual(float(offsets.std(axis=0).mean()), 5.0, delta=0.8)
        np.testing.assert_array_equal(offsets[0], [0, 0])
        panned = camera_offsets_px(Filming(pan_px=80.0), times)
        self.assertAlmostEqual(float(panned[-1, 0]), 80.0)


class TestClock(unittest.TestCase):
    def test_repeated_pictures_are_found_and_speed_is_switched_off(self) -> None:
        _, track = painted(repeat=3)
        self.assertAlmostEqual(repeated_share(track), 2 / 3, delta=0.04)
        found = answer(track)
        self.assertFalse(found.clock.trusted)
        self.assertAlmostEqual(found.clock.slowed, 3.0, delta=0.3)
        for name in ("peak_velocity", "forward_velocity", "time_to_peak_velocity"):
            self.assertIsNone(found.measures[name].value)
            self.assertIn("repeats", found.measures[name].why)
        self.assertIsNotNone(found.measures["loop"].value, "lengths are still true")
        self.assertIn("speed, time and power are left out", " ".join(found.notes))

    def test_told_the_filming_rate_the_speeds_are_right_again(self) -> None:
        film, track = painted(repeat=3)
        wanted = film.truth["measures"]
        assert isinstance(wanted, dict)
        found = answer(track, capture_fps=30.0)
        self.assertTrue(found.clock.trusted)
        measure = found.measures["peak_velocity"]
        assert measure.value is not None and measure.sigma is not None
        self.assertLess(abs(measure.value - wanted["peak_velocity"]), 3 * measure.sigma)
        self.assertIn("3.0 times slower than life", " ".join(found.notes))

    def test_a_high_rate_saved_slowly_is_set_right_too(self) -> None:
        _, track = painted()
        slow = replace(track, t_s=track.t_s * 8)
        clock = film_clock(slow, 30.0)
        np.testing.assert_allclose(clock.t_s, track.t_s)
        self.assertAlmostEqual(clock.slowed, 8.0)
        as_it_is = film_clock(track, None)
        self.assertTrue(as_it_is.trusted)
        self.assertIs(as_it_is.t_s, track.t_s)


class TestCheck(unittest.TestCase):
    def index(self, film: Painted) -> ClipIndex:
        pts = np.round(film.t_s * 90_000).astype(np.int64)
        base = Fraction(1, 90_000)
        return ClipIndex(Path("a.mp4"), "h264", 640, 360, 0, base, pts, pts[:1], film.t_s)

    def check(self, **more: float) -> ClipCheck:
        film, track = painted(**more)
        return check_clip(self.index(film), track, answer(track))

    def states(self, check: ClipCheck) -> dict[str, str]:
        return {row.id: row.state for row in check.rows}

    def test_a_film_is_graded_row_by_row_with_the_value_that_it_judges_by(self) -> None:
        check = self.check()
        states = self.states(check)
        self.assertEqual((states["rate"], states["resolution"], states["plate"]), ("fair",) * 3)
        for name in ("times", "view", "framing", "camera", "contrast"):
            self.assertEqual(states[name], "good", name)
        for row in check.rows:
            self.assertEqual(bool(row.advice), row.state != "good", row.id)
        rate = check.row("rate")
        assert rate is not None and rate.value is not None
        self.assertAlmostEqual(rate.value, 30, delta=0.1)
        self.assertIn("60 frames a second", " ".join(check.advice))

    def test_a_moving_camera_is_said_with_what_to_do(self) -> None:
        check = self.check(shake_px=4.0, pan_px=60.0)
        camera = check.row("camera")
        assert camera is not None and camera.value is not None
        self.assertEqual(camera.state, "fair")
        self.assertGreater(camera.value, 0.3)
        self.assertIn("tripod", camera.advice)

    def test_repeated_pictures_take_the_trust_from_speed_and_leave_the_path(self) -> None:
        check = self.check(repeat=3)
        self.assertEqual(self.states(check)["times"], "poor")
        self.assertEqual(check.trust["speed"][0], "poor")
        self.assertNotEqual(check.trust["path"][0], "poor")

    def test_a_plate_cut_by_the_edge_a_turned_view_and_blur_are_found(self) -> None:
        film, track = painted()
        high = replace(track, y_px=track.y_px - track.y_px.min() + 8)
        turned = replace(track, rim=replace(track.rim, narrow=0.84))
        above = replace(track, rim=replace(track.rim, narrow=1 / 0.84))
        found = answer(track)
        sharp = np.where(np.abs(np.nan_to_num(found.motion.vy_mps)) > 0.5, 1.0, 10.0)
        for changed, name in (
            (high, "framing"),
            (turned, "view"),
            (above, "view"),
            (replace(track, contrast=3.0), "contrast"),
            (replace(track, sharp=sharp), "blur"),
        ):
            check = check_clip(self.index(film), changed, answer(changed))
            self.assertEqual(self.states(check)[name], "poor", name)
        for changed, comes_out in ((turned, "forward and rearward"), (above, "heights come out")):
            self.assertIn(comes_out, " ".join(answer(changed).notes))

    def test_before_tracking_only_what_the_file_tells_is_said(self) -> None:
        film, _ = painted()
        check = check_clip(self.index(film))
        self.assertEqual(set(self.states(check)), {"rate", "times", "resolution"})
        self.assertEqual(check.trust, {})


if __name__ == "__main__":
    unittest.main()
