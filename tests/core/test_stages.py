"""Stages of an answer: the same as all at once, and each runs only for what it hangs on."""

import unittest
from dataclasses import replace

import numpy as np

from keen_kettle.core.analysis import ClipSettings, Stages, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.motion import HandEvent
from keen_kettle.core.track import State
from keen_kettle.core.track.body import LANDMARKS, BodyHand, BodyPoint, solve_body
from tests.films import film, sightings, tracked

HIP = LANDMARKS.index("hip")
CONTENT = load_content()


class TestStages(unittest.TestCase):
    def setUp(self) -> None:
        self.track, self.seen = tracked("brief"), sightings("brief")
        self.settings = ClipSettings(parse_filmed("clean"), film("brief").truth["facing"])
        self.stages = Stages()
        self.first = self.stages.answer(self.track, self.seen, self.settings, CONTENT)

    def runs(self, settings: ClipSettings, quick: bool = False) -> dict[str, int]:
        """Which stages run for other settings."""
        before = dict(self.stages.runs)
        self.stages.answer(self.track, self.seen, settings, CONTENT, quick)
        return {
            stage: runs - before.get(stage, 0)
            for stage, runs in self.stages.runs.items()
            if runs != before.get(stage, 0)
        }

    def with_hip(self, off: float) -> ClipSettings:
        """The hip set by hand so many pixels ahead of where it is at the lowest point."""
        assert self.first.body is not None
        frame = self.first.assessment.events["lowest"].frame
        x, y = self.first.body.point("hip", frame)
        point = BodyPoint(frame, "hip", float(x) + off, float(y))
        return replace(self.settings, body_hand=BodyHand().with_point(point))

    def test_they_give_what_all_at_once_gives(self) -> None:
        track, settings = self.track, self.settings
        hand = settings.body_hand
        body = solve_body(track.t_s, settings.facing, self.seen, hand, track)
        whole = assess(track, settings, CONTENT, body)
        self.assertEqual(whole.measures, self.first.assessment.measures)
        self.assertEqual(whole.findings, self.first.assessment.findings)
        self.assertEqual(whole.notes, self.first.assessment.notes)

    def test_the_same_again_runs_nothing(self) -> None:
        self.assertEqual(self.runs(self.settings), {})

    def test_a_moved_event_leaves_bar_and_body_alone(self) -> None:
        moved = replace(self.settings, events=(HandEvent("lift_off", 12),))
        self.assertEqual(self.runs(moved), {"findings": 1})

    def test_a_point_of_the_body_leaves_the_bar_alone(self) -> None:
        runs = self.runs(self.with_hip(8.0))
        self.assertEqual(runs, {"body": 1, "body in metres": 1, "findings": 1})

    def test_the_scale_moves_all_but_the_solved_body(self) -> None:
        runs = self.runs(replace(self.settings, diameter_mm=400.0))
        self.assertEqual(runs, {"bar": 1, "body in metres": 1, "findings": 1})

    def test_under_the_hand_it_is_nearly_what_it_will_be(self) -> None:
        settings = self.with_hip(8.0)
        quick = self.stages.answer(self.track, self.seen, settings, CONTENT, quick=True)
        whole = self.stages.answer(self.track, self.seen, settings, CONTENT)
        assert quick.body is not None and whole.body is not None and self.first.body is not None
        off = np.hypot(quick.body.x_px - whole.body.x_px, quick.body.y_px - whole.body.y_px)
        moved = np.abs(self.first.body.x_px[:, HIP] - whole.body.x_px[:, HIP]).max()
        self.assertGreater(moved, 5.0)
        self.assertLess(np.nanmax(off), 0.1 * moved)
        self.assertEqual(self.stages.runs["body under the hand"], 1)

    def test_what_is_not_under_the_hand_stands(self) -> None:
        settings = self.with_hip(8.0)
        quick = self.stages.answer(self.track, self.seen, settings, CONTENT, quick=True)
        assert quick.body is not None and self.first.body is not None
        frame = self.first.assessment.events["lowest"].frame
        far = np.abs(self.track.t_s - self.track.t_s[frame]) > 0.5
        off = np.abs(quick.body.x_px - self.first.body.x_px)[far]
        self.assertLess(np.nanmax(off), 0.5)

    def test_another_clip_gets_nothing_of_the_one_before(self) -> None:
        track, seen = tracked("hang"), sightings("hang")
        settings = ClipSettings(parse_filmed("hang power clean"), film("hang").truth["facing"])
        mixed = self.stages.answer(track, seen, settings, CONTENT, quick=True)
        alone = Stages().answer(track, seen, settings, CONTENT)
        self.assertEqual(mixed.assessment.measures, alone.assessment.measures)


class TestBent(unittest.TestCase):
    """The path with a point under the hand."""

    def test_the_point_lies_where_the_hand_is_and_the_neighbours_come_along(self) -> None:
        track, frame = tracked("brief"), 20
        bent = track.bent(frame, track.x_px[frame] + 10, track.y_px[frame] - 6)
        self.assertAlmostEqual(bent.x_px[frame], track.x_px[frame] + 10)
        self.assertAlmostEqual(bent.still_y_px[frame], track.still_y_px[frame] - 6)
        self.assertEqual(bent.state[frame], State.BY_HAND)
        by = bent.x_px - track.x_px
        self.assertTrue(0 < by[frame + 1] < 10)
        self.assertTrue((by[np.abs(track.t_s - track.t_s[frame]) > 0.16] == 0).all())

    def test_where_the_bar_is_lost_only_the_point_is_known(self) -> None:
        whole, frame = tracked("brief"), 20
        gone = {name: getattr(whole, name).copy() for name in ("x_px", "y_px")}
        for way in gone.values():
            way[frame - 3 : frame + 4] = np.nan
        bent = replace(whole, **gone).bent(frame, 100.0, 90.0)
        self.assertEqual((bent.x_px[frame], bent.y_px[frame]), (100.0, 90.0))
        self.assertTrue(np.isnan(bent.x_px[frame + 1]))
        np.testing.assert_array_equal(bent.x_px[: frame - 3], whole.x_px[: frame - 3])


if __name__ == "__main__":
    unittest.main()
