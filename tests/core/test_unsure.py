"""Where the model says that it is not sure, what is known of lifters tells: hanging arms bend to the back, and
feet stand on the floor."""

from unittest import mock

import numpy as np

from keen_kettle.core.track.body import BodyHand, BodyTrack, evidence, solve_body
from tests.core.test_body import Floats, K, Lifted, seen_as

UNSURE = 0.04
"""How unsure the model is (bodies)."""


class Unsure(Lifted):
    def setUp(self) -> None:
        super().setUp()
        self.body_px = float(
            sum(
                np.median(np.hypot(*(self.true[:, K[a]] - self.true[:, K[b]]).T))
                for a, b in (("ankle", "knee"), ("knee", "hip"), ("hip", "shoulder"))
            )
        )

    def solved(self, wrong: dict[str, Floats], unsure: tuple[Floats, ...] = ()) -> BodyTrack:
        """Of sightings that have these points elsewhere (frames, 2), and are said to be unsure of them, in all
        frames or in those that are named."""
        points = self.true.copy()
        for name, places in wrong.items():
            points[:, K[name]] = places

        def said(*given: object) -> tuple[Floats, Floats]:
            nodes, seen = np.asarray(given[1]), np.asarray(given[3])
            spread = np.full(seen.shape[:2], np.nan)
            for name in wrong:
                spread[:, K[name]] = UNSURE * self.body_px
                if unsure:
                    spread[~unsure[0][nodes], K[name]] = 0.01 * self.body_px
            return seen, spread

        with mock.patch.object(evidence, "_reread", said):
            body = solve_body(self.t_s, "right", seen_as(points, self.t_s), BodyHand(), self.bar)
        assert body is not None
        return body

    def place(self, body: BodyTrack, name: str) -> Floats:
        return np.column_stack([body.x_px[:, K[name]], body.y_px[:, K[name]]])

    def off(self, body: BodyTrack, name: str) -> Floats:
        """How far a point is from where it is, each way (frames, 2), bodies."""
        return np.asarray((self.place(body, name) - self.true[:, K[name]]) / self.body_px)


class TestArms(Unsure):
    def setUp(self) -> None:
        super().setUp()
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

    def test_an_elbow_in_front_of_a_hanging_arm_goes_to_the_back(self) -> None:
        wrong = self.true[:, K["elbow"]].copy()
        off = self.ahead(wrong)
        wrong[self.hangs, 0] += ((0.06 - 2 * off) * self.body_px)[self.hangs]
        self.assertGreater(np.median(self.ahead(wrong)[self.hangs]), 0.05)
        body = self.solved({"elbow": wrong})
        self.assertLess(self.ahead(self.place(body, "elbow"))[self.hangs].max(), 0.03)
        said = body.sigma_px[:, K["elbow"], None] / self.body_px
        within = np.abs(self.off(body, "elbow")) < 2 * said
        self.assertGreater(within[self.hangs].mean(), 0.9, "and it says how unsure that is")

    def test_elbows_that_are_where_they_belong_stay_there(self) -> None:
        body = self.solved({"elbow": self.true[:, K["elbow"]]})
        off = np.hypot(*self.off(body, "elbow").T)
        self.assertLess(np.median(off), 0.01)
        self.assertLess(off[self.hangs].max(), 0.05)

    def test_in_the_rack_elbows_are_in_front(self) -> None:
        stands = self.t_s > self.lift.path.events_s["stand"]
        self.assertTrue(stands.any())
        body = self.solved({"elbow": self.true[:, K["elbow"]]})
        self.assertLess(np.hypot(*self.off(body, "elbow").T)[stands].max(), 0.02)


class TestFeet(Unsure):
    def test_a_heel_that_is_read_through_the_floor_while_the_bar_is_low_stands_on_it(self) -> None:
        low = self.t_s < self.lift.path.events_s["first_pull_end"]
        heel, ankle = (self.true[:, K[name]].copy() for name in ("heel", "ankle"))
        heel[low, 1] += 0.1 * self.body_px
        ankle[low, 1] += 0.1 * self.body_px
        body = self.solved({"heel": heel, "ankle": ankle}, (low,))
        for name in ("heel", "ankle"):
            self.assertLess(np.abs(self.off(body, name))[low, 1].max(), 0.02, name)
            said = body.sigma_px[low, K[name]].max() / self.body_px
            self.assertLess(said, 0.031, "and it is surer than the model is")

    def test_with_the_bar_at_the_hips_nobody_knows_whether_a_hidden_foot_stands(self) -> None:
        events = self.lift.path.events_s
        up = (self.t_s > events["peak_velocity"]) & (self.t_s < events["peak_height"])
        body = self.solved({"heel": self.true[:, K["heel"]]}, (up,))
        said = body.sigma_px[:, K["heel"]] / self.body_px
        plain = self.solved({"heel": self.true[:, K["heel"]]}, (np.zeros_like(up),))
        surer = plain.sigma_px[:, K["heel"]] / self.body_px
        self.assertGreater(np.median(said[up]), 1.5 * np.median(surer[up]))
