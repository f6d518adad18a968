"""A lifter whose head the picture cuts off as he stands up is followed all the same."""

import unittest
from unittest import mock

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate import Camera, Filming, LiftScript, film_frames, simulate_lift
from keen_kettle.core.simulate.film_truth import truth_document
from keen_kettle.core.simulate.lifelike import PLATES, LifelikePainter
from keen_kettle.core.track.body import LANDMARKS, FollowedBar, PoseNet, Sightings, find_body
from keen_kettle.core.track.body.head import Heads
from keen_kettle.core.track.body.net import Crop, PoseModel, Sighting

Picture = NDArray[np.uint8]
CAMERA = Camera(640, 480, 150.0, 430.0, 320.0, distance_m=4.5)
NEAR = 1


class CutFilm:
    """A pull from the set position to the extension and back into the knees, without what is above `edge_px`
    of its pictures."""

    def __init__(self) -> None:
        painter = LifelikePainter("rubber", "day", plate=PLATES["blue"])
        lift = simulate_lift(LiftScript("clean", "floor", "none", painter.body))
        events = lift.path.events_s
        self.t_s = np.arange(events["lift_off"], events["peak_height"] + 0.3, 1 / 20)
        filming = Filming(20, 1 / 400, noise=0.0, painter=painter, camera=CAMERA)
        self.pictures = [picture for _, picture in film_frames(lift, filming, self.t_s)]
        truth = truth_document(lift, filming, self.t_s)
        named = truth["landmarks_px"]
        self.true = np.stack([np.array(named[name]) for name in LANDMARKS], axis=1)  # type: ignore[index]
        self.bar = np.array(truth["bar_px"])
        self.edge_px = 0

    def bgr(self, number: int) -> Picture:
        return np.ascontiguousarray(self.pictures[number][self.edge_px :])

    def looked_through(self) -> Sightings:
        return find_body(self, PoseNet(), FollowedBar(self.bar - [0, self.edge_px]))

    def off(self, seen: Sightings, name: str) -> NDArray[np.float64]:
        """How far a point is from where it is, as a share of the trunk; NaN where nobody is seen."""
        k = LANDMARKS.index(name)
        trunk = np.hypot(*(self.point("shoulder") - self.point("hip"))[0])
        true = self.point(name)[seen.frames] - [0, self.edge_px]
        return np.asarray(np.hypot(*(seen.points[:, NEAR, k] - true).T) / trunk)

    def point(self, name: str) -> NDArray[np.float64]:
        return np.asarray(self.true[:, LANDMARKS.index(name)])


class TestCutOff(unittest.TestCase):
    film: CutFilm
    cut: NDArray[np.bool_]

    @classmethod
    def setUpClass(cls) -> None:
        cls.film = CutFilm()
        ears, shoulders = cls.film.point("ear")[:, 1], cls.film.point("shoulder")[:, 1]
        cls.film.edge_px = int(shoulders.min() - 0.45 * (shoulders - ears).max())
        cls.cut = ears < cls.film.edge_px - 5

    def test_the_body_is_seen_in_every_picture_and_what_is_cut_off_is_not(self) -> None:
        self.assertGreater(int(self.cut.sum()), 8)
        self.assertFalse(self.cut[:10].any())
        seen = self.film.looked_through()
        self.assertTrue(seen.found.all())
        cut = self.cut[seen.frames]
        for name, most in (("shoulder", 0.25), ("hip", 0.25), ("knee", 0.2), ("ankle", 0.2)):
            self.assertLess(float(np.median(self.film.off(seen, name)[cut])), most, name)
        self.assertEqual(float(seen.presence[cut, NEAR, LANDMARKS.index("ear")].max()), 0.0)

    def test_the_model_alone_would_lose_it(self) -> None:
        def as_it_is(_: Heads, net: PoseModel, picture: Picture, crop: Crop) -> Sighting:
            return net.look(picture, crop)

        with mock.patch.object(Heads, "look", as_it_is):
            seen = self.film.looked_through()
        self.assertLess(float(seen.found[self.cut[seen.frames]].mean()), 0.5)
