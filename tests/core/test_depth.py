"""The plate is nearer to the camera than the lifter: lengths and events of the body allow for it."""

import unittest
from dataclasses import replace

import numpy as np

from keen_kettle.core.analysis import ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.motion.body import plate_nearer
from keen_kettle.core.simulate import Camera, SimulatedLift
from keen_kettle.core.simulate.camera import PLATE_DEPTH_M
from keen_kettle.core.simulate.scene import JOINT_DEPTHS_M
from keen_kettle.core.track import BarTrack, Rim, scale_from_rim
from keen_kettle.core.track.body import LANDMARKS, BodyTrack, PointState
from tests.core.test_body import CAMERA, Floats, bar_track, lifted


class TestDepth(unittest.TestCase):
    CLOSE = Camera(px_per_m=250.0, distance_m=5.0)

    def seen(self, camera: Camera) -> tuple[SimulatedLift, Floats, BarTrack, BodyTrack]:
        lift = lifted("clean", "power")
        t_s = np.arange(0, lift.duration_s, 1 / 60)
        poses = [lift.pose(float(t)) for t in t_s]
        points = np.stack(
            [
                camera.to_px(np.array([pose[name] for pose in poses]), JOINT_DEPTHS_M[name])
                for name in LANDMARKS
            ],
            axis=1,
        )
        x, y = camera.to_px(lift.bar_m(t_s), PLATE_DEPTH_M).T
        r = 0.225 * camera.scale_at(PLATE_DEPTH_M)
        rim = Rim(float(x[0]), float(y[0]), (r, r), 0.0, True, 0.2, 1.0)
        bar = replace(bar_track(lift, t_s), x_px=x, y_px=y, still_x_px=x, still_y_px=y, rim=rim)
        shape = points.shape[:2]
        body = BodyTrack(
            t_s,
            points[..., 0],
            points[..., 1],
            np.full(shape, 2.0),
            np.ones(shape),
            np.full(shape, PointState.MEASURED, np.uint8),
            "right",
        )
        return lift, t_s, bar, body

    def test_lengths_and_the_knee_are_right_from_five_metres_away(self) -> None:
        lift, t_s, bar, body = self.seen(self.CLOSE)
        centre = (640.0, self.CLOSE.floor_px - self.CLOSE.px_per_m * self.CLOSE.height_m)
        settings = ClipSettings(lift.script.derivative, centre_px=centre)
        thighs, late = [], []
        for told in (replace(settings, centre_px=None), settings):
            answer = assess(bar, told, load_content(), body)
            assert answer.body is not None
            way = answer.body.at("hip") - answer.body.at("knee")
            thighs.append(float(np.median(np.hypot(*way.T))))
            late.append(answer.events["knee_pass"].t_s - lift.truth_events()["knee_pass"])
        poses = [lift.pose(float(t)) for t in t_s[::20]]
        true = np.median([np.hypot(*(pose["hip"] - pose["knee"])) for pose in poses])
        self.assertLess(thighs[0], 0.92 * true)
        self.assertAlmostEqual(thighs[1], true, delta=0.03 * true)
        self.assertGreater(late[0], 0.04)
        self.assertLess(abs(late[1]), 0.025)

    def test_from_far_away_nothing_changes_and_from_a_hang_it_is_uncertain(self) -> None:
        lift, _, bar, body = self.seen(CAMERA)
        settings = ClipSettings(lift.script.derivative, centre_px=(640.0, 360.0))
        scale = scale_from_rim(bar.rim, 450.0)
        nearer = plate_nearer(body, bar, body.y_px, 360.0, scale)
        assert nearer is not None
        self.assertAlmostEqual(nearer[0], 1.0, delta=0.02)
        hang = replace(settings, derivative=parse_filmed("hang power clean"))
        told = assess(bar, hang, load_content(), body).body
        sure = assess(bar, settings, load_content(), body).body
        assert told is not None and sure is not None
        self.assertGreater(told.scale_sigma, 0.04)
        self.assertLess(sure.scale_sigma, 0.04)

    def test_from_a_hang_the_lifters_height_tells_the_depth(self) -> None:
        lift, _, bar, body = self.seen(self.CLOSE)
        lengths = {
            (a, b): float(
                np.median(
                    np.hypot(body.x_px[:, i] - body.x_px[:, j], body.y_px[:, i] - body.y_px[:, j])
                )
            )
            for a, i, b, j in (
                ("ankle", 2, "knee", 3),
                ("knee", 3, "hip", 4),
                ("hip", 4, "shoulder", 5),
            )
        }
        body = replace(body, lengths_px=lengths)
        hang = ClipSettings(
            parse_filmed("hang power clean"), stature_m=1.75, centre_px=(640.0, 405.0)
        )
        told = assess(bar, hang, load_content(), body).body
        assert told is not None
        way = told.at("hip") - told.at("shoulder")
        pose = lift.pose(0.0)
        true = float(np.hypot(*(pose["hip"] - pose["shoulder"])))
        self.assertAlmostEqual(float(np.median(np.hypot(*way.T))), true, delta=0.04 * true)
