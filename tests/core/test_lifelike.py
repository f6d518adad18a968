"""Lifelike films: what is painted is where the truth says, in every hall, from both sides."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from keen_kettle.core.simulate import (
    Camera,
    Filming,
    LiftScript,
    SimulatedLift,
    film_frames,
    simulate_lift,
)
from keen_kettle.core.simulate.body3d import load_lifter
from keen_kettle.core.simulate.film import plate_px, truth_document
from keen_kettle.core.simulate.lifelike import HALLS, LIGHTS, PLATES, LifelikePainter
from keen_kettle.core.simulate.lifelike.halls import paint_lifelike_hall
from keen_kettle.core.simulate.lifelike.walker import walker_flesh
from keen_kettle.core.track import PlateMark, rim_of

CAMERA = Camera(640, 360, 120.0, 330.0, 320.0, distance_m=4.5)


def lift_of(painter: LifelikePainter, family: str = "clean") -> SimulatedLift:
    return simulate_lift(LiftScript(family, "floor", "full", painter.body))


def frames(
    painter: LifelikePainter, lift: SimulatedLift, times: list[float], **more: Any
) -> list[Any]:
    filming = Filming(30, 1 / 400, noise=0.0, painter=painter, **{"camera": CAMERA, **more})
    return [picture for _, picture in film_frames(lift, filming, np.array(times))]


class TestLifelike(unittest.TestCase):
    def test_the_plate_is_painted_where_the_truth_has_it(self) -> None:
        for plate, yaw, facing in (
            ("red", 0, "right"),
            ("yellow", 20, "left"),
            ("blue", -25, "right"),
        ):
            painter = LifelikePainter("tidy", "day", plate=PLATES[plate])
            lift = lift_of(painter)
            camera = replace(CAMERA, yaw_deg=yaw, facing=facing)
            filming = Filming(30, painter=painter, camera=camera)
            times = np.array([0.2, lift.path.events_s["power_position"]])
            truth = truth_document(lift, filming, times)
            radius = float(truth["plate_radius_px"])  # type: ignore[arg-type]
            for picture, at in zip(
                frames(painter, lift, times.tolist(), camera=camera),
                plate_px(lift, filming, times),
                strict=True,
            ):
                mark = PlateMark(0, float(at[0] + 2), float(at[1] - 2), 1.05 * radius)
                rim = rim_of(picture, mark)[0]
                self.assertTrue(rim.found, (plate, yaw))
                self.assertLess(np.hypot(rim.x_px - at[0], rim.y_px - at[1]), 0.09 * radius)
                self.assertAlmostEqual(max(rim.axes_px) / radius, 1.0, delta=0.05)

    def test_the_joints_lie_on_the_lifter(self) -> None:
        painter = LifelikePainter("tidy", "day", "woman")
        lift = lift_of(painter, "snatch")
        for facing in ("right", "left"):
            camera = replace(CAMERA, facing=facing, yaw_deg=10)
            filming = Filming(30, 1 / 400, noise=0.0, painter=painter, camera=camera)
            times = np.array(
                [0.1, lift.path.events_s["peak_velocity"], lift.path.events_s["lowest"]]
            )
            hall = painter.hall(camera, np.random.default_rng(filming.seed)).astype(int)
            pictures = frames(painter, lift, times.tolist(), camera=camera)
            marks: Any = truth_document(lift, filming, times)["landmarks_px"]
            for number, picture in enumerate(pictures):
                painted = np.abs(picture.astype(int) - hall).max(2) > 12
                for joint in ("hip", "knee", "ankle", "shoulder", "ear"):
                    x, y = (round(value) for value in marks[joint][number])
                    room = painted[max(y - 3, 0) : y + 4, max(x - 3, 0) : x + 4]
                    self.assertGreater(room.mean(), 0.5, (facing, number, joint))

    def test_every_hall_and_light_can_be_painted_and_is_its_own(self) -> None:
        seen = []
        for hall in HALLS:
            picture = paint_lifelike_hall(hall, "neon", CAMERA, np.random.default_rng(1))
            self.assertEqual(picture.shape, (360, 640, 3))
            self.assertGreater(picture.std(), 5)
            seen.append(picture.astype(int))
        for number, one in enumerate(seen):
            for other in seen[:number]:
                self.assertGreater(np.abs(one - other).mean(), 3)
        bright = {
            light: paint_lifelike_hall("tidy", light, CAMERA, np.random.default_rng(1)).mean()
            for light in LIGHTS
        }
        self.assertLess(bright["dim"], 0.7 * bright["day"])

    def test_the_same_seed_paints_the_same_film(self) -> None:
        painter = LifelikePainter("racks", bystander=True, stack=2)
        lift = lift_of(painter)
        first, again = (frames(painter, lift, [0.3, 0.9]) for _ in range(2))
        for one, other in zip(first, again, strict=True):
            np.testing.assert_array_equal(one, other)
        self.assertTrue((first[0] != first[1]).any())

    def test_somebody_who_stands_by_and_a_stack_are_seen(self) -> None:
        plain = LifelikePainter("tidy", "day")
        lift = lift_of(plain)
        base = frames(plain, lift, [0.3])[0].astype(int)
        for other in (replace(plain, bystander=True), replace(plain, stack=3)):
            changed = np.abs(frames(other, lift, [0.3])[0].astype(int) - base).max(2) > 15
            self.assertGreater(changed.sum(), 40)


if __name__ == "__main__":
    unittest.main()


class TestWalker(unittest.TestCase):
    def test_the_feet_stand_on_the_floor_and_do_not_slide(self) -> None:
        lifter = load_lifter("woman")
        for since in np.linspace(-1.0, 1.0, 9):
            first, later = (walker_flesh(lifter, float(since + step))[0] for step in (0.0, 0.02))
            self.assertAlmostEqual(float(first[:, 1].min()), 0.0, delta=0.03)
            low = (first[:, 1] < 0.02) & (later[:, 1] < 0.02)
            if low.any():
                self.assertLess(float(np.abs(later - first)[low, 0].mean()), 0.012)
        self.assertAlmostEqual(float(walker_flesh(lifter, 0.0)[0][:, 0].mean()), 0.0, delta=0.1)

    def test_somebody_walks_by_and_the_mirror_shows_the_lifter(self) -> None:
        camera = replace(CAMERA, yaw_deg=20.0, middle_px=250.0)
        plain = LifelikePainter("mirror", "day")
        lift = lift_of(plain)
        at = [lift.path.events_s["lift_off"] + 0.8]
        before = frames(plain, lift, at, camera=camera)[0].astype(int)
        for painter in (replace(plain, walker=True), replace(plain, reflects=True)):
            other = frames(painter, lift, at, camera=camera)[0]
            changed = (np.abs(other - before).max(axis=2) > 40).sum()
            self.assertGreater(changed, 400, painter)
