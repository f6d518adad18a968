"""The synthesiser made hard keeps its promises: where things are painted, and what each frame shows."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.simulate import (
    Camera,
    Filming,
    LiftScript,
    Look,
    film_frames,
    frame_times,
    render_clip,
    simulate_lift,
)
from keen_kettle.core.simulate.film_hand import camera_views, seen_at
from keen_kettle.core.simulate.film_time import frozen_frames, lift_times, pictures_shown
from keen_kettle.core.simulate.film_truth import plate_px, truth_document
from keen_kettle.core.track import PlateMark, rim_of

SMALL = Camera(320, 180, 70.0, 164.0, 160.0)
LIFT = simulate_lift(LiftScript("snatch"))
HANG = simulate_lift(LiftScript("snatch", "hang"))


class TestCamera(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(-0.5, 0.5),
        st.floats(0, 2.3),
        st.floats(-0.7, 0.7),
        st.sampled_from(["right", "left"]),
    )
    def test_a_far_camera_sees_what_an_infinitely_far_one_sees(
        self, x: float, y: float, depth: float, facing: str
    ) -> None:
        plain, far = Camera(facing=facing), Camera(facing=facing, distance_m=1e6)
        spot = np.array([x, y])
        np.testing.assert_allclose(far.to_px(spot, depth), plain.to_px(spot), atol=0.01)

    def test_near_things_are_larger_and_a_turned_view_is_shorter(self) -> None:
        camera = Camera(distance_m=4.0)
        self.assertAlmostEqual(camera.scale_at(0.66) / camera.scale_at(0.0), 4.0 / 3.34)
        ends = np.array([[-0.2, 1.0], [0.2, 1.0]])
        turned = Camera(yaw_deg=30.0).to_px(ends)
        self.assertAlmostEqual(
            float(turned[1, 0] - turned[0, 0]), 0.4 * 285 * np.cos(np.radians(30)), places=6
        )
        rolled = Camera(roll_deg=90.0).to_px(ends)
        self.assertAlmostEqual(abs(float(rolled[1, 1] - rolled[0, 1])), 0.4 * 285, places=6)

    def test_the_plate_is_painted_where_the_truth_says(self) -> None:
        """Its hub is the brightest thing near the middle of the plate."""
        for camera in (
            Camera(),
            Camera(px_per_m=250.0, distance_m=4.5, height_m=0.6),
            Camera(px_per_m=250.0, distance_m=5.0, yaw_deg=25.0),
        ):
            filming = Filming(camera=camera, noise=0.0)
            picture = next(film_frames(LIFT, filming, np.array([1.2])))[1].astype(float)
            x, y = plate_px(LIFT, filming, np.array([1.2]))[0]
            r = 0.27 * 0.225 * camera.scale_at(0.66)
            rows, cols = np.mgrid[: picture.shape[0], : picture.shape[1]]
            hub = (np.hypot(cols - x, rows - y) < 1.6 * r) & (picture.min(axis=2) > 85)
            middle = (cols[hub].mean(), rows[hub].mean())
            self.assertLess(np.hypot(middle[0] - x, middle[1] - y), 0.5 * r)

    def test_a_hand_that_rolls_and_zooms_shows_the_plate_where_the_truth_has_it(self) -> None:
        camera = Camera(640, 360, 140.0, 328.0, 320.0)
        hand = Filming(camera=camera, noise=0.0, tilt_px=12.0, rolls_deg=5.0, zooms=1.3)
        times = np.array([0.0, 0.6, 1.2])
        truth = truth_document(LIFT, hand, times)
        last = list(film_frames(LIFT, hand, times))[-1][1]
        x, y = truth["bar_px"][-1]  # type: ignore[index]
        radius = 1.3 * truth["plate_radius_px"]  # type: ignore[operator]
        rim = rim_of(last, PlateMark(0, x + 1, y - 1, 1.08 * radius))[0]
        self.assertTrue(rim.found)
        self.assertLess(np.hypot(rim.x_px - x, rim.y_px - y), 0.06 * radius)
        self.assertAlmostEqual(max(rim.axes_px) / radius, 1.0, delta=0.04)
        self.assertEqual(truth["camera_zoom"], [1.0, 1.1402, 1.3])
        self.assertEqual(truth["camera_roll_deg"][-1], 5.0)  # type: ignore[index]

    def test_a_rolled_picture_leans_to_the_right(self) -> None:
        hand = Filming(camera=SMALL, rolls_deg=6.0)
        view = camera_views(hand, np.array([0.0, 1.0]))
        foot, head = (seen_at(np.tile([160.0, y], (2, 1)), view)[1] for y in (164.0, 60.0))
        lean = np.degrees(np.arctan2(head[0] - foot[0], foot[1] - head[1]))
        self.assertAlmostEqual(float(lean), 6.0, places=6)


class TestTimes(unittest.TestCase):
    def test_uneven_and_dropped_frames_keep_their_true_times(self) -> None:
        even = frame_times(LIFT, Filming(fps=30))
        uneven = frame_times(LIFT, Filming(fps=30, jitter=0.7))
        self.assertTrue((np.diff(uneven) > 0).all())
        self.assertGreater(float(np.diff(uneven).std()), 0.1 / 30)
        fewer = frame_times(LIFT, Filming(fps=30, dropped=0.2))
        self.assertLess(len(fewer), 0.9 * len(even))
        np.testing.assert_array_equal(lift_times(Filming(dropped=0.2), fewer), fewer)

    def test_stuttering_shows_the_picture_before(self) -> None:
        filming = Filming(fps=30, stuttered=0.3, camera=SMALL)
        times = frame_times(LIFT, filming)[:12]
        shown = pictures_shown(filming, times)
        again = np.flatnonzero(shown != np.arange(len(times)))
        self.assertGreater(len(again), 0)
        pictures = [picture for _, picture in film_frames(LIFT, filming, times)]
        for number in again:
            np.testing.assert_array_equal(pictures[number], pictures[number - 1])

    def test_a_freeze_holds_the_picture_and_the_lift_goes_on_after_it(self) -> None:
        filming = Filming(fps=20, freezes=((0.5, 1.0), (1.0, 0.5)), opening_s=0.5)
        times = frame_times(LIFT, filming)
        instants = lift_times(filming, times)
        self.assertAlmostEqual(times[-1], LIFT.duration_s + 2.0, delta=0.06)
        self.assertAlmostEqual(instants[-1], LIFT.duration_s, delta=0.06)
        self.assertEqual(np.count_nonzero(np.isclose(instants, 0.5)), 21)  # 1 s, and itself
        self.assertTrue(np.all(np.diff(instants) >= -1e-9))
        frozen = np.flatnonzero(frozen_frames(filming, times))
        np.testing.assert_allclose(times[frozen[0]], 1.0)
        self.assertEqual(len(set(pictures_shown(filming, times)[frozen])), 2)

    def test_a_title_goes_over_into_the_lift(self) -> None:
        filming = Filming(
            10, camera=Camera(160, 90, 36.0, 80.0, 80.0), noise=0.0, opening_s=1.0, dissolve_s=0.4
        )
        times = np.array([0.0, 0.5, 1.0, 1.5])
        title, still, both, lift = (shown for _, shown in film_frames(LIFT, filming, times))
        np.testing.assert_array_equal(title, still)
        between = (title.astype(float) + lift.astype(float)) / 2
        self.assertLess(np.abs(both - between).mean(), 0.2 * np.abs(title - between).mean())
        self.assertEqual(truth_document(LIFT, filming, times)["opening"], [1.0, 1.0, 0.5, 0.0])

    def test_stuttering_slow_motion_shows_what_the_truth_has(self) -> None:
        filming = Filming(
            fps=30, stuttered=0.3, repeat=4, noise=0.0, camera=SMALL, exposure_s=1 / 2000
        )
        begin = LIFT.path.events_s["power_position"] * 4
        times = frame_times(LIFT, filming)
        instants = lift_times(filming, times)
        some = np.flatnonzero(times >= begin)[:24]
        filmed = list(film_frames(LIFT, filming, times[: some[-1] + 1]))
        for number in some:
            sharp = replace(filming, stuttered=0.0, repeat=1)
            alone = next(film_frames(LIFT, sharp, np.array([instants[number]])))[1]
            np.testing.assert_allclose(filmed[number][1].astype(int), alone, atol=2)

    def test_twenty_pictures_a_second_in_thirty(self) -> None:
        filming = Filming(fps=30, runs=(1, 2))
        times = frame_times(LIFT, filming)
        instants = lift_times(filming, times)
        self.assertAlmostEqual(times[-1], LIFT.duration_s, delta=0.06)
        np.testing.assert_allclose(instants[:6] * 30, [0, 1, 1, 3, 4, 4], atol=1e-9)
        self.assertEqual(pictures_shown(filming, times)[:6].tolist(), [0, 1, 1, 3, 4, 4])

    def test_uneven_slow_motion_shows_every_picture_of_the_camera_for_its_run(self) -> None:
        filming = Filming(fps=30, runs=(1, 3, 2), runs_slow=True)
        times = frame_times(LIFT, filming)
        instants = lift_times(filming, times)
        np.testing.assert_allclose(instants[:7] * 30, [0, 1, 1, 1, 2, 2, 3], atol=1e-9)
        self.assertAlmostEqual(float(instants[-1]), LIFT.duration_s, delta=0.06)
        self.assertAlmostEqual(float(times[-1]), 2 * LIFT.duration_s, delta=0.2)

    def test_a_clip_may_begin_and_end_in_the_lift(self) -> None:
        part = (LIFT.path.events_s["first_pull_end"], LIFT.path.events_s["peak_height"])
        filming = Filming(fps=30, shows_s=part, freezes=((part[0] + 0.2, 0.5),))
        times = frame_times(LIFT, filming)
        instants = lift_times(filming, times)
        self.assertAlmostEqual(float(instants[0]), part[0])
        self.assertAlmostEqual(float(instants[-1]), part[1], delta=0.04)
        self.assertEqual(np.count_nonzero(np.isclose(instants, part[0] + 0.2)), 16)

    def test_rolling_exposure_sees_the_plate_later_the_lower_it_is(self) -> None:
        filming = Filming(rolling_s=0.02)
        fast = LIFT.path.events_s["peak_velocity"]
        plain = plate_px(LIFT, Filming(), np.array([fast]))[0]
        rolled = plate_px(LIFT, filming, np.array([fast]))[0]
        later = 0.02 * rolled[1] / filming.camera.height_px
        self.assertLess(abs(plain[1] - rolled[1] - later * 1.95 * 285), 1.0)


class TestHalls(unittest.TestCase):
    def test_every_nuisance_changes_the_picture(self) -> None:
        plain = next(film_frames(LIFT, Filming(camera=SMALL), np.array([1.2])))[1]
        spoilt = (
            {"shadow": True},
            {"passer_by": True},
            {"caption": True},
            {"look": Look(racked=True)},
            {"look": Look(stack=3), "camera": replace(SMALL, distance_m=3.5)},
        )
        for more in spoilt:
            filming = Filming(**{"camera": SMALL, **more})  # type: ignore[arg-type]
            picture = next(film_frames(LIFT, filming, np.array([1.2])))[1]
            changed = np.abs(picture.astype(int) - plain).max(axis=2) > 25
            self.assertGreater(float(changed.mean()), 0.002, str(more))

    def test_a_bell_is_followed_by_the_truth(self) -> None:
        """A dumbbell is in the hand; a kettlebell hangs below it, and lies behind it overhead."""
        dumbbell = Filming(look=Look(implement="dumbbell"))
        kettlebell = Filming(look=Look(implement="kettlebell"))
        times = np.array([0.0, HANG.path.events_s["lowest"]])
        held, hung = (plate_px(HANG, filming, times) for filming in (dumbbell, kettlebell))
        np.testing.assert_allclose(held, Camera().to_px(HANG.bar_m(times)), atol=1e-6)
        self.assertGreater(hung[0, 1], held[0, 1] + 30)
        self.assertLess(hung[1, 1], held[1, 1] + 30)

    def test_a_turned_phone_film_is_shown_upright(self) -> None:
        with tempfile.TemporaryDirectory() as room:
            path = Path(room) / "turned.mp4"
            camera = Camera(180, 320, 75.0, 290.0, 90.0)
            times = np.arange(0, 0.4, 1 / 30)
            for degrees in (90, 270):
                render_clip(LIFT, Filming(30, camera=camera, rotation_deg=degrees), path, times)
                index = read_index(path)
                self.assertEqual((index.width_px, index.height_px), (180, 320))
                with ClipReader(index) as reader:
                    shown = reader.frame(2).bgr().astype(int)
                upright = next(film_frames(LIFT, Filming(30, camera=camera), times[2:3]))[1]
                self.assertLess(float(np.abs(shown - upright).mean()), 12.0)


if __name__ == "__main__":
    unittest.main()
