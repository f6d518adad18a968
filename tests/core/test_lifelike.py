"""Lifelike films: what is painted is where the truth says, in every hall, from both sides."""

import unittest
from dataclasses import replace
from typing import Any

import cv2
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
from keen_kettle.core.simulate.body3d.lifter import PARTS
from keen_kettle.core.simulate.film_truth import plate_px, truth_document
from keen_kettle.core.simulate.lifelike import HALLS, LIGHTS, PLATES, LifelikePainter, halls
from keen_kettle.core.simulate.lifelike.bystander import seated_flesh, standing_flesh
from keen_kettle.core.simulate.lifelike.dress import dressed
from keen_kettle.core.simulate.lifelike.halls import paint_lifelike_hall
from keen_kettle.core.simulate.lifelike.plates import paint_plate_3d, plate_outlines
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
                # From aside the face's edge on one side and the back's on the other may be taken together.
                off = 0.05 if yaw == 0 else 0.06
                self.assertAlmostEqual(max(rim.axes_px) / radius, 1.0, delta=off)

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

    def test_both_sides_are_known_and_what_hides_them(self) -> None:
        painter = LifelikePainter("tidy", "day")
        lift = lift_of(painter)
        power = lift.path.events_s["power_position"]

        def hidden(**camera: Any) -> tuple[dict[str, str], dict[str, str], dict[str, Any]]:
            filming = Filming(30, painter=painter, camera=replace(CAMERA, **camera))
            truth: Any = truth_document(lift, filming, np.array([power]))
            near, far = truth["hidden_by"], truth["far_hidden_by"]
            return {k: v[0] for k, v in near.items()}, {k: v[0] for k, v in far.items()}, truth

        near, far, _ = hidden()
        self.assertEqual((near["wrist"], near["shoulder"], near["toe"]), ("plate", "", ""))
        self.assertEqual((far["shoulder"], far["wrist"]), ("body", "plate"))
        near, far, truth = hidden(yaw_deg=-60.0)
        self.assertEqual((near["wrist"], far["shoulder"], far["knee"]), ("", "", ""))
        apart = np.array(truth["landmarks_px"]["hip"]) - truth["far_landmarks_px"]["hip"]
        self.assertGreater(float(np.hypot(*apart[0])), 10)
        near, _, _ = hidden(floor_px=372.0)
        self.assertEqual((near["toe"], near["shoulder"]), ("edge", ""))

    def test_a_class_lifts_sticks_behind(self) -> None:
        alone, many = (LifelikePainter("tidy", "day", class_of=number) for number in (0, 3))
        lift = lift_of(alone)
        plain, full = (frames(one, lift, [0.1, 1.6]) for one in (alone, many))
        camera = CAMERA
        x, y = camera.to_px(np.array([1.5, 0.9]), -1.9).astype(int)
        room = np.s_[y - 40 : y + 40, x - 20 : x + 20]
        changed = np.abs(full[1][room].astype(int) - plain[1][room]).max(2) > 12
        self.assertGreater(changed.mean(), 0.1)
        moved = np.abs(full[1][room].astype(int) - full[0][room]).max(2) > 12
        self.assertGreater(moved.mean(), 0.1, "they move")

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

    def test_a_floor_that_goes_on_behind_the_camera_is_seen_below_the_horizon_alone(self) -> None:
        for yaw in (0.0, 30.0, -30.0):
            camera = replace(CAMERA, distance_m=2.2, yaw_deg=yaw)
            canvas = np.zeros((360, 640, 3), np.float32)
            white = np.full((80, 120, 3), 255.0, np.float32)
            corners = [(-6.0, 0.0, -2.25), (6.0, 0.0, -2.25), (6.0, 0.0, 3.4), (-6.0, 0.0, 3.4)]
            halls._lay(canvas, camera, white, corners, begins=True)
            horizon = camera.floor_px - camera.px_per_m * camera.height_m
            self.assertEqual(float(canvas[: int(horizon)].max()), 0.0)
            self.assertEqual(float(canvas[-20:].min()), 255.0)

    def test_a_stick_and_a_kettlebell_have_no_plate(self) -> None:
        plates = LifelikePainter("tidy", "day", plate=PLATES["red"])
        lift = lift_of(plates)
        x, y = plate_px(lift, Filming(30, painter=plates, camera=CAMERA), np.array([0.2]))[0]
        rim = round(x + 22), round(y)
        red = frames(plates, lift, [0.2])[0][rim[1], rim[0]].astype(int)
        for load in ("stick", "kettlebell"):
            other = frames(replace(plates, load=load), lift, [0.2])[0][rim[1], rim[0]].astype(int)
            self.assertGreater(red[2] - red[1], 40 + other[2] - other[1], load)


class TestPlates(unittest.TestCase):
    def test_a_face_seen_from_near_and_aside_fills_its_outline(self) -> None:
        """What is nearer is larger, within one plate, too."""
        look = replace(PLATES["yellow"], letters=0.0, hub=0.0, lit=0.0)
        bar = np.array([0.1, 0.4])
        for yaw in (-33.0, 0.0, 33.0):
            camera = Camera(distance_m=3.0, yaw_deg=yaw)
            picture = np.zeros((camera.height_px, camera.width_px, 3), np.uint8)
            paint_plate_3d(picture, camera, bar, 0.66, 0.6, look, 1.0, (1.0, 1.0, 1.0))
            outline, _ = plate_outlines(camera, bar, 0.66, look)
            told = np.zeros(picture.shape[:2], np.uint8)
            cv2.fillPoly(told, [np.round(outline).astype(np.int32)], 1)
            face = picture[..., 2] > 0.75 * look.colour[2]  # its side is darker
            self.assertLess(float((face != told).sum()) / told.sum(), 0.03, yaw)


class TestDress(unittest.TestCase):
    def test_loose_shorts_reach_to_the_knee_and_stand_off_it(self) -> None:
        bare, worn = load_lifter("man"), dressed("man", loose_shorts=True, long_hair=False)
        np.testing.assert_array_equal(worn.heads, bare.heads)
        off = np.linalg.norm(worn.vertices - bare.vertices, axis=1)
        self.assertAlmostEqual(float(off.max()), 0.035, delta=0.003)
        cloth = np.unique(worn.quads[worn.parts == PARTS.index("shorts")])
        knee = float(bare.head("lowerleg01.R")[1])
        self.assertLess(float(worn.vertices[cloth, 1].min()), knee + 0.1)
        self.assertGreater(float(worn.vertices[cloth, 1].min()), knee - 0.02)

    def test_long_hair_hangs_down_the_back_and_goes_with_head_and_back(self) -> None:
        bare, long = load_lifter("woman"), dressed("woman", loose_shorts=False, long_hair=True)
        hair = long.vertices[len(bare.vertices) :]
        self.assertLess(float(hair[:, 0].max()), float(bare.ear[0]))
        self.assertGreater(float(np.ptp(hair[:, 1])), 0.25)
        np.testing.assert_allclose(long.weight_of.sum(axis=1), 1.0, atol=1e-5)
        middle = hair.reshape(-1, 10, 3).mean(axis=1).repeat(10, axis=0)
        away = ((hair - middle) * long.normals[len(bare.vertices) :]).sum(axis=1)
        self.assertGreater(float(np.mean(away > 0)), 0.95)


class TestBystander(unittest.TestCase):
    def test_who_sits_has_feet_on_the_floor_and_the_head_lower_than_who_stands(self) -> None:
        lifter = load_lifter("woman")
        seated, standing = seated_flesh(lifter)[0], standing_flesh(lifter)[0]
        self.assertAlmostEqual(float(seated[:, 1].min()), 0.0, delta=0.03)
        self.assertLess(float(seated[:, 1].max()), float(standing[:, 1].max()) - 0.3)

    def test_the_box_is_painted_under_who_sits(self) -> None:
        plain = LifelikePainter("tidy", "day", bystander=True)
        lift = lift_of(plain)
        at = CAMERA.to_px(np.array([-1.3, 0.2]), -1.08)
        x, y = round(float(at[0])), round(float(at[1]))
        tones = [
            frames(one, lift, [0.2])[0][y, x].astype(int)
            for one in (plain, replace(plain, seated=True))
        ]
        self.assertGreater(np.abs(tones[0] - tones[1]).max(), 30)


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
        camera = replace(CAMERA, yaw_deg=-8.0)
        plain = LifelikePainter("mirror", "day")
        lift = lift_of(plain)
        at = [lift.path.events_s["lift_off"] + 0.8]
        before = frames(plain, lift, at, camera=camera)[0].astype(int)
        for painter in (replace(plain, walker=True), replace(plain, reflects=True)):
            other = frames(painter, lift, at, camera=camera)[0]
            changed = (np.abs(other - before).max(axis=2) > 40).sum()
            self.assertGreater(changed, 400, painter)


if __name__ == "__main__":
    unittest.main()
