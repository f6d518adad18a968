"""Which derivative a clip shows: told from bar and body whatever was stated, or left as stated."""

import unittest
from dataclasses import replace
from functools import cache
from itertools import product

import numpy as np

from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.simulate import LiftScript, SimulatedLift, simulate_lift
from keen_kettle.core.track import BarTrack
from keen_kettle.core.track.body import LANDMARKS, BodyHand, BodyTrack, Sightings, solve_body
from tests.core.test_body import CAMERA, bar_track, seen_as, true_points

ANKLE = LANDMARKS.index("ankle")
SHOWN = (
    ("snatch", "floor", "full", "snatch"),
    ("snatch", "floor", "power", "power snatch"),
    ("snatch", "hang", "full", "hang snatch, above knee"),
    ("clean", "floor", "full", "clean"),
    ("clean", "hang", "power", "hang power clean, above knee"),
    ("clean", "floor", "none", "clean pull"),
    ("jerk", "front rack", "power", "power jerk"),
    ("jerk", "front rack", "split", "split jerk"),
)


def with_far_foot(seen: Sightings, lift: SimulatedLift, t_s: np.ndarray) -> Sightings:
    """The far ankle of a split goes the other way; on level feet it is beside the near one."""
    if lift.script.receive != "split":
        return seen
    near = seen.points[:, 0, ANKLE, 0]
    points = seen.points.copy()
    points[:, 1, ANKLE, 0] = 2 * near[0] - near
    return replace(seen, points=points)


@cache
def solved(family: str, start: str, receive: str, noise_px: float) -> tuple[BarTrack, BodyTrack]:
    lift = simulate_lift(LiftScript(family, start, receive, still_s=0.5, end_s=0.4))
    t_s = np.arange(0, lift.duration_s, 1 / 60)
    seen = with_far_foot(seen_as(true_points(lift, t_s), t_s, noise_px), lift, t_s)
    bar = bar_track(lift, t_s)
    body = solve_body(t_s, "right", seen, BodyHand(), bar, with_plate=False)
    assert body is not None
    return bar, body


def answer(shown: tuple[str, str, str], stated: str, noise_px: float = 2.0) -> Assessment:
    bar, body = solved(*shown, noise_px)
    return assess(bar, ClipSettings(parse_filmed(stated)), load_content(), body)


class TestReadLift(unittest.TestCase):
    def test_start_and_receive_are_read_whatever_was_stated(self) -> None:
        for (family, start, receive, name), stated in product(SHOWN, ("snatch", "clean", "true")):
            with self.subTest(shown=name, stated=stated):
                told = name if stated == "true" else stated
                seen = answer((family, start, receive), told).lift_seen
                if name.endswith("pull"):  # the grip of an uncaught pull is not seen from the side
                    wanted = {"snatch": "snatch pull", "clean": "clean pull"}.get(told)
                else:
                    wanted = name if name != told else None
                self.assertEqual(seen.name if seen is not None else None, wanted)

    def test_the_split_is_as_long_as_it_is(self) -> None:
        shown = ("jerk", "front rack", "split")
        told = answer(shown, "split jerk").measures["split_length"]
        lift = simulate_lift(LiftScript(*shown, still_s=0.5, end_s=0.4))
        pose = lift.pose(lift.path.events_s["lowest"])
        # As in `with_far_foot`: the far ankle has gone as far back as the near one forward.
        true = 2 * abs(float(pose["ankle"][0] - lift.pose(0.0)["ankle"][0]))
        assert told.value is not None and told.sigma is not None
        self.assertAlmostEqual(told.value, true, delta=2 * told.sigma)
        self.assertLess(told.sigma, 0.1)
        level = answer(("jerk", "front rack", "power"), "power jerk").measures["split_length"]
        self.assertIn("split", level.why)

    def test_another_position_is_said_only_when_it_is_surely_another(self) -> None:
        shown = ("clean", "hang", "power")
        far = answer(shown, "hang power clean, hip").lift_seen
        self.assertEqual(far.name if far is not None else "", "hang power clean, above knee")
        self.assertIsNone(answer(shown, "hang power clean, above knee", noise_px=8.0).lift_seen)

    def test_without_a_body_or_from_the_front_nothing_is_read(self) -> None:
        lift = simulate_lift(LiftScript("clean", still_s=0.5, end_s=0.4))
        t_s = np.arange(0, lift.duration_s, 1 / 60)
        bar = bar_track(lift, t_s)
        stated = ClipSettings(parse_filmed("power snatch"))
        self.assertIsNone(assess(bar, stated, load_content()).lift_seen)
        seen = seen_as(true_points(lift, t_s), t_s)
        shoulder = LANDMARKS.index("shoulder")
        points = seen.points.copy()
        points[:, 1, shoulder, 0] += 0.4 * CAMERA.px_per_m
        body = solve_body(t_s, "right", replace(seen, points=points), BodyHand(), bar, False)
        assert body is not None
        self.assertFalse(body.side_on)
        self.assertIsNone(assess(bar, stated, load_content(), body).lift_seen)
