"""The plate is found without a click; the scale comes in three ways."""

import unittest

import numpy as np

from keen_kettle.core.analysis import ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.content import load_content
from keen_kettle.core.errors import Cancelled, MarkError
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.track import Rim, Risen, propose_plate, scale_from_points, scale_from_rim
from tests.core.test_track import Slides, disc
from tests.films import film, tracked


class TestProposal(unittest.TestCase):
    def test_the_plate_of_the_lifted_bar_is_proposed(self) -> None:
        known = film("left")
        with ClipReader(read_index(known.path)) as reader:
            mark = propose_plate(ReaderPictures(reader))
        assert mark is not None
        x, y = known.bar_px[mark.frame]
        radius = known.truth["plate_radius_px"]
        self.assertLess(np.hypot(mark.x_px - x, mark.y_px - y), 0.15 * radius)
        self.assertLess(abs(mark.r_px / radius - 1), 0.08)

    def test_what_does_not_fit_is_not_proposed(self) -> None:
        asked: list[Risen] = []

        def no(risen: Risen) -> bool:
            asked.append(risen)
            return False

        known = film("hang")
        with ClipReader(read_index(known.path)) as reader:
            self.assertIsNone(propose_plate(ReaderPictures(reader), fits=no))
        for one in (asked[0].marked, asked[0].lowest, asked[0].highest):
            at = known.bar_px[one.mark.frame]
            self.assertLess(np.hypot(one.mark.x_px - at[0], one.mark.y_px - at[1]), 8)
        self.assertGreater(asked[0].lowest.mark.y_px, asked[0].highest.mark.y_px)

    def test_what_stands_still_is_not_proposed(self) -> None:
        still = Slides([disc(160, 120, 30, seed=k) for k in range(12)])
        self.assertIsNone(propose_plate(still))

    def test_the_search_can_be_stopped(self) -> None:
        with self.assertRaises(Cancelled):
            propose_plate(Slides([disc(160, 120, 30)] * 6), lambda: True)


class TestScale(unittest.TestCase):
    RIM = Rim(100, 100, (50.0, 50.0), 0.0, True, 0.5, 0.9)

    def test_two_points_give_the_scale_of_their_distance(self) -> None:
        scale = scale_from_points(self.RIM, (10, 10, 310, 410, 1000.0))
        self.assertAlmostEqual(scale.m_per_px, 1.0 / 500)
        self.assertAlmostEqual(scale.diameter_mm, 200.0)
        self.assertGreater(scale.relative_sigma, 0.004)
        near = scale_from_points(self.RIM, (10, 10, 40, 50, 100.0))
        self.assertGreater(near.relative_sigma, scale.relative_sigma)
        for points in ((10, 10, 12, 11, 1000.0), (10, 10, 310, 410, 5.0)):
            with self.assertRaises(MarkError):
                scale_from_points(self.RIM, points)

    def test_the_same_scale_from_the_plate_and_from_points_gives_the_same_measures(self) -> None:
        track, content = tracked("brief"), load_content()
        by_plate = scale_from_rim(track.rim, 450.0)
        points = (100.0, 100.0, 600.0, 100.0, 500 * by_plate.m_per_px * 1000)
        lift = Derivative("clean")
        plate = assess(track, ClipSettings(lift), content)
        two = assess(track, ClipSettings(lift, scale_by="points", scale_points=points), content)
        a, b = plate.measures["peak_velocity"].value, two.measures["peak_velocity"].value
        assert a is not None and b is not None
        self.assertAlmostEqual(a, b, places=6)
        self.assertIn("as far from the camera", " ".join(two.notes))

    def test_without_a_scale_lengths_are_in_diameters_and_speeds_are_not_given(self) -> None:
        track, content = tracked("brief"), load_content()
        lift = Derivative("clean")
        known = assess(track, ClipSettings(lift, mass_kg=60, stature_m=1.75), content)
        none = assess(
            track, ClipSettings(lift, mass_kg=60, stature_m=1.75, scale_by="none"), content
        )
        loop, bare = known.measures["loop"], none.measures["loop"]
        assert loop.value is not None and bare.value is not None
        self.assertEqual(bare.unit, "diameters")
        self.assertAlmostEqual(bare.value, loop.value / 0.45, places=6)
        for name in ("peak_velocity", "peak_power", "work_whole", "peak_height_of_stature"):
            self.assertIsNone(none.measures[name].value, name)
            self.assertIn("no scale", none.measures[name].why)
        self.assertEqual(none.measures["velocity_dip"].value, known.measures["velocity_dip"].value)
        self.assertIn("plate diameters", " ".join(none.notes))
        judged = {finding.fault for finding in none.findings}
        self.assertNotIn("bounce-forward", judged, "its threshold is in centimetres")

    def test_a_caps_path_is_labelled_and_tells_no_height(self) -> None:
        answer = assess(
            tracked("brief"), ClipSettings(Derivative("clean"), thing="cap"), load_content()
        )
        self.assertIsNone(answer.measures["peak_height"].value)
        self.assertIn("sleeve cap", answer.notes[0])


if __name__ == "__main__":
    unittest.main()
