"""The moving figure: every stage has one, limbs keep their length, hands never leave the load."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.content import load_teaching
from keen_kettle.core.lifts import all_derivatives, parse_movement, positions_of
from keen_kettle.core.simulate import Body, Figure, figure_of


def named(name: str, tall: float = 1.75) -> Figure:
    figure = figure_of(parse_movement(name), Body(tall))
    assert figure is not None, name
    return figure


class TestFigure(unittest.TestCase):
    def test_every_stage_of_every_ladder_can_be_shown(self) -> None:
        for ladder in load_teaching().ladders.values():
            for stage in ladder.stage:
                figure = named(stage.movement)
                self.assertGreaterEqual(len(figure.keys), 2, stage.movement)
                self.assertTrue(1.5 < figure.duration_s < 12, stage.movement)

    @settings(max_examples=60)
    @given(st.sampled_from(all_derivatives()), st.floats(1.45, 2.05), st.floats(0, 1))
    def test_limbs_keep_their_length_and_the_feet_stay_on_the_floor(
        self, movement: object, tall: float, share: float
    ) -> None:
        figure = figure_of(movement, Body(tall))  # type: ignore[arg-type]
        assert figure is not None
        pose = figure.pose(share * figure.duration_s)
        points, body = pose.points, figure.body
        for first, second, length in (
            ("ankle", "knee", body.shank_m),
            ("shoulder", "hip", body.trunk_m),
        ):
            apart = float(np.hypot(*(points[first] - points[second])))
            self.assertAlmostEqual(apart, length, delta=0.06 * tall, msg=f"{first} {second}")
        self.assertTrue(all(np.isfinite(point).all() for point in points.values()))
        self.assertGreater(min(float(point[1]) for point in points.values()), -0.05)
        if pose.load is not None:
            reach = float(np.hypot(*(pose.load - points["shoulder"])))
            self.assertLessEqual(reach, body.arm_seen_m(figure.grip) + 1e-6)

    def test_derivatives_pass_the_positions_that_the_grammar_names(self) -> None:
        for name in ("clean", "hang power snatch, above knee", "clean deadlift", "split jerk"):
            movement = parse_movement(name)
            shown = [key.name for key in named(name).keys]
            wanted = list(positions_of(movement))
            self.assertEqual([one for one in shown if one in wanted], wanted, name)

    def test_positions_look_like_what_they_are(self) -> None:
        figure = named("snatch")
        at = {key.name: figure.pose(key.t_s) for key in figure.keys}
        start, tall, low, end = (at[name] for name in ("start", "extension", "lowest", "stand"))
        assert start.load is not None and low.load is not None and end.load is not None
        self.assertAlmostEqual(float(start.load[1]), 0.225, delta=0.01)
        self.assertGreater(tall.points["heel"][1], 0.04, "heels leave the floor at the finish")
        self.assertLess(low.points["hip"][1], low.points["knee"][1] + 0.05, "thighs at parallel")
        self.assertGreater(end.load[1], 1.9)
        split = named("split jerk")
        key = next(one for one in split.keys if one.name == "split")
        rear = split.pose(key.t_s).rear_leg
        assert rear is not None
        self.assertGreater(split.pose(key.t_s).points["toe"][0] - rear["toe"][0], 0.7)
        self.assertIsNone(split.pose(0.0).rear_leg)

    def test_it_stands_still_before_and_after(self) -> None:
        figure = named("power clean")
        for t in (0.0, 0.5, figure.duration_s - 0.2):
            later = figure.pose(t + 0.1).points["shoulder"]
            np.testing.assert_allclose(figure.pose(t).points["shoulder"], later, atol=1e-9)

    def test_what_has_no_figure_says_so(self) -> None:
        self.assertIsNone(figure_of(parse_movement("push-up")))
        self.assertEqual(named("split footwork").pose(0).load, None)


if __name__ == "__main__":
    unittest.main()
