"""An elbow that the model has in front of an arm on which the bar hangs is solved to where arms bend."""

from unittest import mock

import numpy as np

from keen_kettle.core.track.body import BodyHand, BodyTrack, evidence, solve_body
from tests.core.test_body import Floats, K, Lifted, seen_as

UNSURE = 0.04
"""How unsure the model's word for an elbow is (bodies)."""


class TestArms(Lifted):
    def setUp(self) -> None:
        super().setUp()
        self.body_px = float(
            sum(
                np.median(np.hypot(*(self.true[:, K[a]] - self.true[:, K[b]]).T))
                for a, b in (("ankle", "knee"), ("knee", "hip"), ("hip", "shoulder"))
            )
        )
        below = self.bar.y_px - self.true[:, K["shoulder"], 1]
        peak = int(np.argmin(self.bar.y_px))
        self.hangs = (below > 0.14 * self.body_px) & (np.arange(len(self.t_s)) < peak)

    def ahead(self, elbows: Floats) -> Floats:
        """How far elbows (frames, 2) are in front of the line from shoulder to bar, bodies."""
        start = self.true[:, K["shoulder"]]
        way = np.column_stack([self.bar.x_px, self.bar.y_px]) - start
        way = way / np.hypot(*way.T)[:, None]
        off = ((elbows - start) * np.column_stack([way[:, 1], -way[:, 0]])).sum(axis=1)
        return np.asarray(off / self.body_px)

    def solved(self, elbows: Floats) -> BodyTrack:
        """Of sightings that have the elbow there, and are said to be unsure of it."""
        points = self.true.copy()
        points[:, K["elbow"]] = elbows

        def unsure(*given: object) -> tuple[Floats, Floats]:
            seen = np.asarray(given[3])
            spread = np.full(seen.shape[:2], np.nan)
            spread[:, K["elbow"]] = UNSURE * self.body_px
            return seen, spread

        with mock.patch.object(evidence, "_reread", unsure):
            body = solve_body(self.t_s, "right", seen_as(points, self.t_s), BodyHand(), self.bar)
        assert body is not None
        return body

    def elbows(self, body: BodyTrack) -> Floats:
        return np.column_stack([body.x_px[:, K["elbow"]], body.y_px[:, K["elbow"]]])

    def test_an_elbow_in_front_of_a_hanging_arm_goes_to_the_back(self) -> None:
        wrong = self.true[:, K["elbow"]].copy()
        off = self.ahead(wrong)
        wrong[self.hangs, 0] += ((0.06 - 2 * off) * self.body_px)[self.hangs]
        self.assertGreater(np.median(self.ahead(wrong)[self.hangs]), 0.05)
        body = self.solved(wrong)
        self.assertLess(self.ahead(self.elbows(body))[self.hangs].max(), 0.03)
        off = self.elbows(body) - self.true[:, K["elbow"]]
        within = np.abs(off) < 2 * body.sigma_px[:, K["elbow"], None]
        self.assertGreater(within[self.hangs].mean(), 0.9, "and it says how unsure that is")

    def test_elbows_that_are_where_they_belong_stay_there(self) -> None:
        body = self.solved(self.true[:, K["elbow"]])
        off = np.hypot(*(self.elbows(body) - self.true[:, K["elbow"]]).T) / self.body_px
        self.assertLess(np.median(off), 0.01)
        self.assertLess(off[self.hangs].max(), 0.05)

    def test_in_the_rack_elbows_are_in_front(self) -> None:
        stands = self.t_s > self.lift.path.events_s["stand"]
        self.assertTrue(stands.any())
        body = self.solved(self.true[:, K["elbow"]])
        off = np.hypot(*(self.elbows(body) - self.true[:, K["elbow"]]).T) / self.body_px
        self.assertLess(off[stands].max(), 0.02)
