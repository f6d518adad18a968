"""What the model misreads beside a plate: taken back on lifelike bodies, honest about what is left, and silent
where no plate tells."""

import hashlib
import unittest

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate import Camera, Filming, LiftScript, film_frames, simulate_lift
from keen_kettle.core.simulate.film_truth import truth_document
from keen_kettle.core.simulate.lifelike import PLATES, LifelikePainter
from keen_kettle.core.simulate.scene import LIMB_DEPTH_M
from keen_kettle.core.track import BarTrack, Rim, State
from keen_kettle.core.track.body import (
    LANDMARKS,
    BodyHand,
    BodySpan,
    FollowedBar,
    PoseNet,
    Sightings,
    find_body,
)
from keen_kettle.core.track.body.evidence import Evidence, gather
from keen_kettle.core.track.body.misread import Reread, reread
from keen_kettle.core.track.small_nets import WEIGHTS

Array = NDArray[np.float64]

CAMERA = Camera(640, 360, 150.0, 335.0, 320.0, distance_m=4.2)
LOOKS, HIP = 14, LANDMARKS.index("hip")


class Pulled(unittest.TestCase):
    """A lifelike clean from lift-off to its greatest speed, as the model sees it."""

    t_s: Array
    seen: Sightings
    true: Array
    bar: BarTrack
    body_px: float
    pictures: list[NDArray[np.uint8]]

    @classmethod
    def setUpClass(cls) -> None:
        painter = LifelikePainter("rubber", "day", plate=PLATES["red"])
        lift = simulate_lift(LiftScript("clean", "floor", "full", painter.body))
        events = lift.path.events_s
        cls.t_s = np.linspace(events["lift_off"], events["peak_velocity"], LOOKS)
        filming = Filming(30, 1 / 400, noise=1.0, painter=painter, camera=CAMERA)
        cls.pictures = [picture for _, picture in film_frames(lift, filming, cls.t_s)]
        truth = truth_document(lift, filming, cls.t_s)
        cls.true = np.stack([truth["landmarks_px"][one] for one in LANDMARKS], axis=1)  # type: ignore[index]
        long_m = painter.body.shank_m + painter.body.thigh_m + painter.body.trunk_m
        cls.body_px = long_m * CAMERA.scale_at(LIMB_DEPTH_M)
        place = np.array(truth["bar_px"])
        plate = float(str(truth["plate_radius_px"]))
        x, y = place.T
        full = np.ones(LOOKS)
        rim = Rim(float(x[0]), float(y[0]), (plate, plate), 0.0, True, 0.2, 1.0)
        state = np.full(LOOKS, State.GOOD, np.uint8)
        cls.bar = BarTrack(cls.t_s, x, y, plate * full, full, state, rim, x, y, full, 50.0)
        cls.seen = find_body(cls(), PoseNet(1), FollowedBar(place, plate))

    def runTest(self) -> None:
        """Makes the film itself a source of pictures."""

    def bgr(self, number: int) -> NDArray[np.uint8]:
        return np.asarray(self.pictures[number], np.uint8)

    def gathered(self, with_plate: bool) -> Evidence:
        evidence = gather(self.t_s, "right", self.seen, BodyHand(), self.bar, with_plate)
        assert evidence is not None
        return evidence


class TestOnLifelikeBodies(Pulled):
    def off(self, with_plate: bool) -> tuple[Array, Evidence]:
        """How far each point is off (n, 9, 2), percent of the body."""
        e = self.gathered(with_plate)
        off = 100 * np.abs(e.seen * e.unit - self.true[e.nodes]) / self.body_px
        return off, e

    def test_the_hip_behind_the_plate_is_nearer_to_where_it_is(self) -> None:
        plain, better = (self.off(told)[0] for told in (False, True))
        self.assertLess(np.median(better[:, HIP]), 0.7 * np.median(plain[:, HIP]))
        self.assertLess(np.median(better), 0.8 * np.median(plain))

    def test_what_is_left_is_within_what_it_says(self) -> None:
        off, e = self.off(True)
        z = off / (100 * e.spread * e.unit / self.body_px)[..., None]
        self.assertGreater((z < 1).mean(), 0.5)
        self.assertGreater((z < 2).mean(), 0.85)

    def test_of_a_point_that_the_coach_has_hidden_nothing_is_said(self) -> None:
        span = BodySpan("hidden", "hip", 2, 9)
        told = gather(self.t_s, "right", self.seen, BodyHand(spans=(span,)), self.bar, True)
        assert told is not None
        inside = (told.nodes >= 2) & (told.nodes <= 9)
        self.assertTrue(inside.any())
        self.assertTrue(np.isnan(told.spread[inside, HIP]).all())
        self.assertTrue(np.isfinite(told.spread[~inside, HIP]).all())

    def test_where_no_plate_is_followed_the_model_is_taken_at_its_word(self) -> None:
        e = self.gathered(False)
        self.assertFalse(e.reread.any())
        rows = np.searchsorted(self.seen.frames, e.nodes)
        told = self.seen.possible(1)[rows]
        np.testing.assert_allclose(e.seen * e.unit, told, atol=1e-6)


class TestReread(Pulled):
    def reread(self, front: float = 1.0) -> Reread:
        size = self.body_px
        points = self.seen.points[:, ::-1].astype(float) / size
        place = np.column_stack([self.bar.x_px, self.bar.y_px])[self.seen.frames] / size
        plate = np.full(len(place), max(self.bar.rim.axes_px)) / size
        presence = self.seen.presence[:, ::-1].astype(float)
        if front < 0:
            points, place = points * [-1, 1] + [3, 0], place * [-1, 1] + [3, 0]
        return reread(points, presence, place, plate, front)

    def test_a_lifter_who_faces_to_the_left_is_reread_as_in_a_mirror(self) -> None:
        right, left = self.reread(), self.reread(front=-1.0)
        np.testing.assert_allclose(left.points, right.points * [-1, 1] + [3, 0], atol=1e-5)
        np.testing.assert_allclose(left.sigma, right.sigma, rtol=1e-4)

    def test_a_body_like_none_that_it_was_taught_on_stays_as_it_was_seen(self) -> None:
        seen = self.seen.points[:, ::-1].astype(float) / self.body_px
        place = np.column_stack([self.bar.x_px, self.bar.y_px])[self.seen.frames] / self.body_px
        presence = self.seen.presence[:, ::-1].astype(float)
        for far, plate in ((4.0, 0.25), (0.0, 0.9)):
            told = reread(seen, presence, place + far, np.full(len(place), plate), 1.0)
            np.testing.assert_allclose(told.points, seen[:, 0])
            self.assertTrue(np.isnan(told.sigma).all(), "and nothing is said of it")

    def test_the_weights_are_those_that_the_card_names(self) -> None:
        digest = hashlib.sha256((WEIGHTS / "misreadings.npz").read_bytes()).hexdigest()
        self.assertIn(digest, (WEIGHTS / "README.md").read_text())

    def test_nobody_stays_nobody(self) -> None:
        none = np.full((2, 2, 9, 2), np.nan)
        told = reread(none, np.zeros((2, 2, 9)), np.zeros((2, 2)), np.full(2, 0.3), 1.0)
        self.assertTrue(np.isnan(told.points).all())
        self.assertEqual(told.points.shape, (2, 9, 2))


if __name__ == "__main__":
    unittest.main()
