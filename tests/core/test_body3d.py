"""The body that shows: joints where the figure has them, flesh that stays on, hands on the load."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.lifts import HELPERS, all_derivatives, parse_movement
from keen_kettle.core.simulate import figure_of
from keen_kettle.core.simulate.body3d import (
    LIFTERS,
    BodyFigure,
    Held,
    Inks3d,
    View,
    front_picture,
    lift_figure,
    lifter_for,
    load_lifter,
    plainest_s,
    pose_bones,
    same_moment_s,
    skin,
)
from keen_kettle.core.simulate.body3d.rotations import about, quaternions, swing, unit

INKS = Inks3d(
    *((200, 160, 140), (60, 60, 60), (170, 170, 170), (90, 130, 170), (70, 80, 90)),
    *((130, 180, 220), (60, 70, 80), (20, 30, 40)),
)
JOINTS = {
    "hip": "upperleg01.R",
    "knee": "lowerleg01.R",
    "ankle": "foot.R",
    "shoulder": "upperarm01.R",
}
BODIES = {name: BodyFigure(parse_movement("clean"), load_lifter(name)) for name in LIFTERS}


class TestRotations(unittest.TestCase):
    @given(st.lists(st.floats(-1, 1), min_size=4, max_size=4))
    def test_a_quaternion_turns_as_its_matrix_does(self, four: list[float]) -> None:
        axis = np.array(four[:3])
        if np.linalg.norm(axis) < 0.1:
            return
        turn = about(axis, 3.1 * four[3])
        w, *v = quaternions(turn[None])[0]
        point = np.array([0.3, -1.2, 0.7])
        by_quaternion = point + 2 * np.cross(v, np.cross(v, point) + w * point)
        np.testing.assert_allclose(by_quaternion, turn @ point, atol=1e-9)

    @given(st.lists(st.floats(-1, 1), min_size=6, max_size=6))
    def test_a_swing_leads_from_one_direction_to_the_other(self, six: list[float]) -> None:
        a, b = np.array(six[:3]), np.array(six[3:])
        if min(np.linalg.norm(a), np.linalg.norm(b)) < 0.1 or unit(a) @ unit(b) < -0.99:
            return
        turn = swing(a, b)
        np.testing.assert_allclose(turn @ unit(a), unit(b), atol=1e-6)
        np.testing.assert_allclose(turn @ turn.T, np.eye(3), atol=1e-6)


class TestLifters(unittest.TestCase):
    def test_there_are_four_different_people_who_stand_on_the_floor(self) -> None:
        sizes = set()
        for name in LIFTERS:
            one = load_lifter(name)
            sizes.add(round(one.stature_m, 2))
            self.assertTrue(1.5 < one.stature_m < 2.0)
            self.assertAlmostEqual(float(one.vertices[:, 1].min()), 0.0, delta=0.03)
            self.assertLess(one.quads.max(), len(one.vertices))
            np.testing.assert_allclose(one.weight_of.sum(1), 1, atol=1e-5)
        self.assertEqual(len(sizes), 4)

    def test_another_height_is_the_same_build(self) -> None:
        plain, tall = load_lifter("woman"), lifter_for(1.84, "female")
        self.assertEqual((tall.name, tall.stature_m), ("woman", 1.84))
        by = 1.84 / plain.stature_m
        self.assertAlmostEqual(tall.body.thigh_m, by * plain.body.thigh_m)
        self.assertEqual(lifter_for(1.95, "m").name, "tall man")

    def test_at_rest_the_skin_is_the_rest(self) -> None:
        lifter = load_lifter("man")
        from keen_kettle.core.simulate.body3d import Bones

        count = len(lifter.heads)
        bones = Bones(np.tile(np.eye(3), (count, 1, 1)), lifter.heads.copy())
        vertices, normals = skin(lifter, bones)
        np.testing.assert_allclose(vertices, lifter.vertices, atol=1e-5)
        np.testing.assert_allclose(normals, lifter.normals, atol=1e-5)


class TestPoses(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(
        st.sampled_from([*all_derivatives(), *HELPERS.values()]),
        st.floats(0, 1),
        st.sampled_from(LIFTERS),
    )
    def test_joints_stand_where_the_figure_has_them_and_flesh_is_whole(
        self, movement: object, share: float, name: str
    ) -> None:
        if figure_of(movement) is None:  # type: ignore[arg-type]
            return
        body = BodyFigure(movement, load_lifter(name))  # type: ignore[arg-type]
        pose = body.figure.pose(share * body.figure.duration_s)
        bones = body.bones(pose)
        for joint, bone in JOINTS.items():
            place = bones.places[body.lifter.index[bone]][:2]
            np.testing.assert_allclose(place, pose.points[joint], atol=1e-3, err_msg=joint)
        vertices, normals = skin(body.lifter, bones)
        self.assertTrue(np.isfinite(vertices).all() and np.isfinite(normals).all())
        self.assertGreater(float(vertices[:, 1].min()), -0.12)
        self.assertLess(float(np.abs(vertices[:, 2]).max()), 1.0)

    def test_hands_close_round_the_bar(self) -> None:
        for name, body in BODIES.items():
            for key in body.figure.keys:
                pose = body.figure.pose(key.t_s)
                bones = body.bones(pose)
                for side in ("R", "L"):
                    knuckle = bones.places[body.lifter.index[f"finger3-1.{side}"]]
                    assert pose.load is not None
                    off = np.hypot(*(knuckle[:2] - pose.load))
                    self.assertLess(off, 0.14, (name, key.name, side))

    def test_the_seat_keeps_its_shape_in_the_start(self) -> None:
        """The skin behind the hip joint: within a centimetre of where it is standing."""
        for name, body in BODIES.items():
            away = {}
            for key in body.figure.keys:
                if key.name in ("start", "stand"):
                    away[key.name] = self._behind_the_hip(body, key.t_s)
            self.assertAlmostEqual(away["start"], away["stand"], delta=0.012, msg=name)

    def _behind_the_hip(self, body: BodyFigure, t_s: float) -> float:
        """From the hip joint to the skin along the seat's direction, between thigh and trunk (m)."""
        pose, vertices, _ = body.at(t_s)
        hip, knee, shoulder = (pose.points[name] for name in ("hip", "knee", "shoulder"))
        out = -unit(unit(knee - hip) + unit(shoulder - hip))
        if np.linalg.norm(unit(knee - hip) + unit(shoulder - hip)) < 0.4:  # nearly straight
            out = np.array([-1.0, 0.0])
        bones = body.bones(pose)
        centre = bones.places[body.lifter.index["upperleg01.R"]]
        near = np.abs(vertices[:, 2] - centre[2]) < 0.03
        away = vertices[near][:, :2] - hip
        along, aside = away @ out, np.abs(away @ np.array([-out[1], out[0]]))
        return float(along[(aside < 0.03) & (along > 0)].max())

    def test_a_split_has_two_legs_and_one_arm_works_alone(self) -> None:
        split = BodyFigure(parse_movement("split jerk"))
        at = next(key.t_s for key in split.figure.keys if key.name == "split")
        bones = split.bones(split.figure.pose(at))
        knees = [bones.places[split.lifter.index[f"lowerleg01.{side}"]] for side in "RL"]
        self.assertGreater(knees[0][0] - knees[1][0], 0.3)
        bell = BodyFigure(parse_movement("kettlebell power snatch"))
        pose = bell.figure.pose(bell.figure.keys[-1].t_s)
        bones = bell.bones(pose)
        wrists = [bones.places[bell.lifter.index[f"wrist.{side}"]][1] for side in "RL"]
        self.assertGreater(wrists[0], pose.points["shoulder"][1])
        self.assertLess(wrists[1], pose.points["hip"][1] + 0.15)

    def test_limbs_of_other_lengths_are_stretched_not_torn(self) -> None:
        lifter = load_lifter("man")
        points = figure_of(parse_movement("clean")).pose(0.0).points  # type: ignore[union-attr]
        longer = {name: 1.1 * place for name, place in points.items()}
        held = Held(1.1 * points["wrist"])
        vertices, _ = skin(lifter, pose_bones(lifter, longer, held, held))
        edges = vertices[lifter.quads[:, 0]] - vertices[lifter.quads[:, 2]]
        self.assertLess(float(np.linalg.norm(edges, axis=1).max()), 0.2)


class TestRightAndWrong(unittest.TestCase):
    def test_a_fault_shows_where_it_happens(self) -> None:
        body = lifter_for().body
        for fault, family, position in (
            ("hips-shoot", "snatch", "start"),
            ("early-arms", "clean", "power position"),
            ("early-toes", "snatch", "extension"),
            ("dip-depth", "jerk", "dip"),
        ):
            right, wrong = lift_figure(family, body), lift_figure(family, body, {fault: 1.0})
            there = next(key.t_s for key in wrong.keys if key.name == position)
            self.assertAlmostEqual(plainest_s(right, wrong), there, delta=0.15, msg=fault)

    def test_positions_answer_each_other(self) -> None:
        body = lifter_for().body
        right = lift_figure("snatch", body)
        wrong = lift_figure("snatch", body, {"loop": 1.0, "rushed-first-pull": 1.0})
        for key, other in zip(right.keys, wrong.keys, strict=True):
            self.assertAlmostEqual(same_moment_s(right, key.t_s, wrong), other.t_s)
        self.assertAlmostEqual(same_moment_s(wrong, same_moment_s(right, 0.7, wrong), right), 0.7)


class TestPictures(unittest.TestCase):
    def test_it_is_painted_from_any_side_with_its_load(self) -> None:
        body = BODIES["woman"]
        seen = [body.picture(0.0, 240, 300, INKS, View(yaw)) for yaw in (0.0, 35.0, 90.0)]
        for picture in seen:
            self.assertEqual(picture.shape, (300, 240, 4))
            self.assertTrue((picture[:, :, 3] == 255).all())
            drawn = (picture[:, :, :3] != np.array(INKS.ground[::-1])).any(2)
            self.assertGreater(drawn.mean(), 0.02)
            self.assertFalse(drawn[:, :2].any(), "nothing runs out of the picture")
        self.assertFalse(np.array_equal(seen[0], seen[1]))

    def test_a_ghost_is_faint_and_behind(self) -> None:
        body = BODIES["man"]
        last = body.figure.keys[-1].t_s
        plain = body.picture(0.0, 240, 300, INKS)
        ghost = body.picture(0.0, 240, 300, INKS, ghost_t_s=last)
        other = body.picture(last, 240, 300, INKS)
        changed = (plain != ghost).any(2)
        self.assertTrue(changed.any())
        ground = np.array(INKS.ground[::-1], float)
        shift = np.abs(ghost[changed][:, :3] - ground).mean()
        self.assertLess(shift, np.abs(other[changed][:, :3] - ground).mean())

    def test_from_the_front_the_hands_are_on_the_bar_as_wide_as_the_grip(self) -> None:
        for name in LIFTERS:
            lifter = load_lifter(name)
            hang = lifter.body.standing_shoulder_m() - 0.52
            for bar, grip in ((hang, 0.95), (hang - 0.06, 0.5), (hang + 1.02, 0.95)):
                shown = front_picture(lifter, bar, grip, (500, 620), INKS, 1.36 * lifter.stature_m)
                skin = np.abs(shown.image[..., 2::-1].astype(int) - INKS.skin).max(axis=2) < 70
                for side in (-1, 1):
                    x, y = shown.place(side * grip / 2, bar)
                    rows, columns = np.nonzero(skin)
                    near = np.hypot(columns - x, rows - y).min()
                    self.assertLess(near, 10, (name, bar, grip))
                outer = shown.place(grip / 2 + 0.14, bar)[0]
                self.assertFalse(skin[:, round(outer) :].any(), "nothing reaches beyond the hands")

    def test_poses_are_made_ahead_one_by_one(self) -> None:
        body = BodyFigure(parse_movement("front squat"))
        count = 0
        while body.prepare():
            count += 1
        self.assertGreater(count, 60)
        self.assertFalse(body.prepare())


if __name__ == "__main__":
    unittest.main()
