"""Whom the search for the lifter follows: a made-up net, a lifter, and somebody who stands by."""

import unittest
from dataclasses import replace
from functools import partial
from unittest import mock

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track import MarkedPicture, PlateMark, Risen
from keen_kettle.core.track.body import BodySeed, FollowedBar, as_a_plate_is_lifted, find_body
from keen_kettle.core.track.body.find import _plain_looks
from keen_kettle.core.track.body.head import Heads
from keen_kettle.core.track.body.holder import LiftedBar
from keen_kettle.core.track.body.landmarks import LANDMARKS
from keen_kettle.core.track.body.net import CENTRE, JOINTS, REACH, Crop, Sighting
from keen_kettle.core.track.body.search import Search
from keen_kettle.core.track.body.sparing import SparingNet

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

HIGH, WIDE, FRAMES = 240, 320, 40
BYSTANDER = np.array([230.0, 120.0])
TRUNK = 40.0
GREY = 90


def bar_path() -> Array:
    """At rest for ten pictures, up in ten, then held."""
    share = np.clip((np.arange(FRAMES) - 10) / 10, 0, 1)
    return np.column_stack([np.full(FRAMES, 100.0), 200.0 - 110 * share])


def lifter_at(number: int) -> Array:
    return np.array([110.0, 0.5 * bar_path()[number, 1] + 60.0])


class Hall:
    """Pictures that carry their number in a corner; the bystander is a bright spot, the lifter a dark
    figure."""

    t_s = np.arange(FRAMES) / 30

    def __init__(self, without: tuple[int, ...] = ()) -> None:
        self.without = without

    def bgr(self, number: int) -> Picture:
        picture = np.full((HIGH, WIDE, 3), GREY, np.uint8)
        x, y = lifter_at(number).astype(int)
        if number not in self.without:
            picture[y - 50 : y + 20, x - 8 : x + 8] = 30
        picture[0, 0] = number
        x, y = BYSTANDER.astype(int)
        picture[y - 3 : y + 4, x - 3 : x + 4] = 255
        return picture


class Net:
    """Names the bystander alone as long as he is seen; a look sees whoever is nearest to its square.

    In the pictures `blind` no lifter is seen; where they are `mixed`, the lifter's raised arms seem to be
    the bystander's.
    """

    def __init__(self, blind: tuple[int, ...] = (), mixed: bool = False) -> None:
        self.bar, self.blind, self.mixed = bar_path(), blind, mixed

    def lifter(self, number: int) -> Array:
        return lifter_at(number)

    def people(self, picture: Picture) -> list[tuple[float, Crop]]:
        x, y = BYSTANDER.astype(int)
        if picture.shape[:2] != (HIGH, WIDE):
            return []
        if picture[y, x, 0] == 255:
            return [(0.95, Crop(float(x), float(y), 4 * TRUNK))]
        at = self.lifter(int(picture[0, 0, 0]))
        return [(0.9, Crop(float(at[0]), float(at[1]), 4 * TRUNK))]

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        number = int(picture[0, 0, 0])
        hips = self.lifter(number)
        hand = self.bar[number]
        far = abs(crop.x - hips[0]) > abs(crop.x - BYSTANDER[0])
        if far or number in self.blind:
            hips = BYSTANDER
            grabs = self.mixed and number in self.blind
            hand = hand if grabs else BYSTANDER + np.array([0.0, TRUNK])
        points = np.tile(hips, (39, 1))
        points[CENTRE], points[REACH] = hips, hips - np.array([0.0, 2 * TRUNK])
        points[list(JOINTS["hip"])] = hips
        points[list(JOINTS["shoulder"])] = hips - np.array([0.0, TRUNK])
        points[list(JOINTS["ear"])] = hips - np.array([0.0, 1.4 * TRUNK])
        points[list(JOINTS["wrist"])] = hand
        return Sighting(points, np.ones(39), np.ones(39), 1.0)


def resting(picture: Picture, mark: PlateMark) -> Risen:
    """What rises too little for feet to tell anything."""
    one = MarkedPicture(picture, mark)
    return Risen(one, one, one, 0.5)


class TestWhom(unittest.TestCase):
    def hips(self, net: Net) -> Array:
        seen = find_body(Hall(net.blind), net, FollowedBar(bar_path()))
        at = np.full((FRAMES, 2), np.nan)
        at[seen.frames] = seen.points[:, 0, 4]
        return at

    def test_who_has_a_hand_at_the_bar_is_followed_though_only_another_is_named(self) -> None:
        net = Net()
        at = self.hips(net)
        true = np.array([net.lifter(k) for k in range(FRAMES)])
        np.testing.assert_allclose(at, true, atol=1e-3)

    def test_what_lies_in_the_bars_round_a_film_is_not_seen(self) -> None:
        hall = Hall()
        whole = hall.bgr

        def barred(number: int) -> Picture:
            picture = whole(number)
            picture[:, :105] = picture[:, -105:] = 0
            picture[0, 0] = number
            return picture

        for bgr, there in ((whole, 1.0), (barred, 0.0)):
            with mock.patch.object(hall, "bgr", bgr):
                seen = find_body(hall, Net(), FollowedBar(bar_path()))
            at = {name: LANDMARKS.index(name) for name in ("hip", "wrist")}
            np.testing.assert_array_equal(seen.presence[:, :, at["hip"]], 1.0)
            np.testing.assert_array_equal(seen.presence[:, :, at["wrist"]], there)

    def test_a_foot_that_the_lower_edge_cuts_off_is_not_seen(self) -> None:
        class Standing(Net):
            sole = 0.0

            def look(self, picture: Picture, crop: Crop) -> Sighting:
                seen = super().look(picture, crop)
                heights = {"knee": 0.5 * (self.sole + self.lifter(int(picture[0, 0, 0]))[1])}
                heights |= {"ankle": self.sole - 12, "heel": self.sole - 2, "toe": self.sole}
                for name, y in heights.items():
                    seen.points[list(JOINTS[name]), 1] = y
                return seen

        feet = [LANDMARKS.index(name) for name in ("toe", "heel", "ankle")]
        net = Standing()
        for net.sole, there in ((HIGH - 3.0, 0.0), (HIGH - 15.0, 1.0)):
            seen = find_body(Hall(), net, FollowedBar(bar_path()))
            np.testing.assert_array_equal(seen.presence[:, :, feet], there)
            np.testing.assert_array_equal(seen.presence[:, :, LANDMARKS.index("knee")], 1.0)

    def test_a_bystander_does_not_take_over_where_the_lifter_is_not_seen(self) -> None:
        for mixed in (False, True):
            net = Net(blind=(24, 25, 26), mixed=mixed)
            at = self.hips(net)
            self.assertFalse(np.isfinite(at[24:27]).any(), "nobody rather than somebody else")
            after = np.array([net.lifter(k) for k in range(27, FRAMES)])
            np.testing.assert_allclose(at[27:], after, atol=1e-3)

    def test_who_stands_still_is_looked_at_once(self) -> None:
        looks: list[int] = []
        net = Net()
        look = net.look

        def counted(picture: Picture, crop: Crop) -> Sighting:
            looks.append(int(picture[0, 0, 0]))
            return look(picture, crop)

        with mock.patch.object(net, "look", counted):
            at = self.hips(net)
        self.assertTrue(np.isfinite(at).all())
        self.assertLess(len({one for one in looks if one < 9}), 3, "he stands there")
        self.assertTrue(set(range(11, 20)) <= set(looks), "he moves there")

    def test_what_is_as_small_as_a_bell_beside_its_holder_is_no_plate(self) -> None:
        fits = as_a_plate_is_lifted(Net)
        picture = Hall().bgr(15)
        x, y = bar_path()[15]
        square = Net().look(picture, Crop(110.0, 140.0, 4 * TRUNK)).next_crop().side
        for share, large in ((0.10, False), (0.25, True)):
            self.assertEqual(fits(resting(picture, PlateMark(15, x, y, share * square / 2))), large)
        nobody_there = PlateMark(15, 20.0, 30.0, 0.05 * square)
        self.assertTrue(fits(resting(picture, nobody_there)), "nobody holds it: it cannot be told")

    def test_a_square_far_larger_than_the_picture_is_nobodys(self) -> None:
        """In blurred pictures the detector names such ones, and plates beside them look like bells."""

        net, (x, y) = Net(), bar_path()[15]
        small = PlateMark(15, x, y, 0.1 * 4 * TRUNK / 2)
        for share, told in ((1.5, True), (4.0, False)):
            named = [(0.9, Crop(110.0, 140.0, share * HIGH))]
            with mock.patch.object(net, "people", return_value=named):
                fits = as_a_plate_is_lifted(lambda: net)
                self.assertEqual(fits(resting(Hall().bgr(15), small)), not told)

    def test_a_head_is_no_plate_and_a_plate_before_a_head_is_one(self) -> None:
        fits = as_a_plate_is_lifted(Net)
        picture = Hall().bgr(2)
        square = (
            Net()
            .look(picture, Crop(float(BYSTANDER[0]), float(BYSTANDER[1]), 4 * TRUNK))
            .next_crop()
            .side
        )
        for body in (BYSTANDER, Net().lifter(2)):
            x, y = body - np.array([0.0, 1.4 * TRUNK])
            self.assertFalse(fits(resting(picture, PlateMark(2, x, y, 0.08 * square))))
            self.assertTrue(
                fits(resting(picture, PlateMark(2, x, y, 0.12 * square))), "larger than a head"
            )
            beside = PlateMark(2, x + 0.1 * square, y, 0.08 * square)
            self.assertTrue(fits(resting(picture, beside)), "beside the head")

    def test_what_keeps_its_height_over_the_feet_of_its_bearer_is_no_plate(self) -> None:
        """The shirt of one who walks away rises in the picture; so do his feet. A body whose legs are too short to
        walk on is misread, and tells nothing."""

        class Footed(Net):
            def __init__(self, feet_y: Array, legs: float) -> None:
                super().__init__()
                self.feet_y, self.legs = feet_y, legs

            def look(self, picture: Picture, crop: Crop) -> Sighting:
                seen = super().look(picture, crop)
                feet = self.feet_y[int(picture[0, 0, 0])]
                for joint, up in (("ankle", 0), ("hip", self.legs), ("shoulder", self.legs + 1)):
                    seen.points[list(JOINTS[joint]), 1] = feet - up * TRUNK
                seen.points[JOINTS["ankle"][0], 1] -= 30
                return seen

        bar_y = bar_path()[:, 1]
        standing, walking, unseen = np.full(FRAMES, 225.0), bar_y + 30, bar_y + 150
        low, high = (
            MarkedPicture(Hall().bgr(k), PlateMark(k, 100.0, float(bar_y[k]), 20.0))
            for k in (9, 19)
        )
        for feet_y, legs, told in (
            (walking, 1.5, False),
            (walking, 0.8, True),
            (standing, 1.5, True),
            (unseen, 1.5, True),
        ):
            fits = as_a_plate_is_lifted(partial(Footed, feet_y, legs))
            self.assertEqual(fits(Risen(low, low, high, 5.0)), told)

    def test_an_ear_is_no_plate(self) -> None:
        fits = as_a_plate_is_lifted(Net)
        side = (
            Net()
            .look(Hall().bgr(2), Crop(float(BYSTANDER[0]), float(BYSTANDER[1]), 4 * TRUNK))
            .next_crop()
            .side
        )
        x, y = BYSTANDER - np.array([0.0, 1.4 * TRUNK])
        for off, told in ((0.06, False), (0.09, True)):
            ear = PlateMark(2, x + off * side, y, 0.02 * side)
            self.assertEqual(fits(resting(Hall().bgr(2), ear)), told)

    def test_it_begins_with_the_bar_on_its_way_up(self) -> None:
        frames = np.arange(FRAMES, dtype=np.int32)
        looks = _plain_looks(frames, bar_path())
        self.assertEqual(looks, [14, 16, 12])
        self.assertEqual(_plain_looks(frames, np.full((FRAMES, 2), 50.0)), [], "it does not rise")
        self.assertEqual(_plain_looks(frames, np.full((FRAMES, 2), np.nan)), [])
        self.assertEqual(_plain_looks(frames, None), [])

    def test_a_bar_that_falls_first_does_not_mislead(self) -> None:
        lowered = np.vstack([bar_path()[::-1], bar_path()])
        looks = _plain_looks(np.arange(2 * FRAMES, dtype=np.int32), lowered)
        self.assertTrue(all(FRAMES + 10 < look < FRAMES + 21 for look in looks), looks)


class ShortSightedNet(Net):
    """Names the lifter only in pictures that are smaller than the film's."""

    def people(self, picture: Picture) -> list[tuple[float, Crop]]:
        dark = np.argwhere(picture[..., 0] == 30)
        if picture.shape[1] == WIDE or not len(dark):
            return []
        foot, across = dark[:, 0].max(), dark[:, 1].mean()
        return [(0.9, Crop(float(across), float(foot - 19), 4 * TRUNK))]


class CoveringNet(Net):
    """From picture 16 on a look sees the bystander as long as he is not painted out."""

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        x, y = BYSTANDER.astype(int)
        self.blind = tuple(range(16, FRAMES)) if picture[y, x, 0] == 255 else ()
        return super().look(picture, crop)


class SquattingNet(Net):
    """The lifter is hidden for a while as he goes under the bar, and a look sees nobody far from its middle. Only
    the bystander is ever named."""

    hidden = range(22, 28)

    def people(self, picture: Picture) -> list[tuple[float, Crop]]:
        x, y = BYSTANDER
        late = picture[0, 0, 0] >= self.hidden.start
        bystander = (0.95, Crop(float(x), float(y), 4 * TRUNK))
        return [bystander] if late else super().people(picture)

    def lifter(self, number: int) -> Array:
        under = number >= self.hidden.start
        return self.bar[number] + [10.0, 2 * TRUNK] if under else lifter_at(number)

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        number = int(picture[0, 0, 0])
        seen = super().look(picture, crop)
        away = np.hypot(*(seen.points[CENTRE] - [crop.x, crop.y]))
        there = number not in self.hidden and away < 0.2 * crop.side
        return seen if there else replace(seen, person=0.0)


class TestLost(unittest.TestCase):
    def hips(self, net: Net, without: tuple[int, ...] = ()) -> Array:
        seen = find_body(Hall(without), net, FollowedBar(bar_path()))
        np.testing.assert_array_equal(seen.frames, np.arange(FRAMES))
        return np.asarray(seen.points[:, 0, 4])

    def test_whoever_takes_the_lifters_square_is_painted_out(self) -> None:
        true = np.array([lifter_at(k) for k in range(FRAMES)])
        with mock.patch(f"{__name__}.BYSTANDER", np.array([175.0, 120.0])):
            np.testing.assert_allclose(self.hips(CoveringNet()), true, atol=1e-3)

    def test_who_holds_a_bar_that_is_up_is_found_below_it(self) -> None:
        net = SquattingNet()
        gone = net.hidden
        at = self.hips(net, tuple(range(gone.start, FRAMES)))
        self.assertFalse(np.isfinite(at[gone.start : gone.stop]).any())
        true = np.array([net.lifter(k) for k in range(FRAMES)])
        for part in (slice(gone.start), slice(gone.stop, None)):
            np.testing.assert_allclose(at[part], true[part], atol=1e-3)

    def test_a_body_made_of_plate_and_arms_is_not_followed(self) -> None:
        class Shrinking(Net):
            def look(self, picture: Picture, crop: Crop) -> Sighting:
                seen = super().look(picture, crop)
                if picture[0, 0, 0] >= 18:
                    shoulders = list(JOINTS["shoulder"])
                    seen.points[shoulders] = self.lifter(picture[0, 0, 0]) - [0.0, 0.5 * TRUNK]
                return seen

        hall, bar = Hall(), LiftedBar(bar_path())
        x, y = lifter_at(0)
        begin = Crop(float(x), float(y), 4 * TRUNK)
        search = Search(SparingNet(Shrinking(), FRAMES), bar, Heads(), begin)
        seen = [search.look(hall.bgr(k), k) is not None for k in range(20)]
        self.assertEqual(seen, 18 * [True] + 2 * [False])


class TestWideFilms(unittest.TestCase):
    def test_a_lifter_who_is_too_small_in_the_whole_picture_is_looked_for_round_the_bar(
        self,
    ) -> None:
        net = ShortSightedNet()
        seen = find_body(Hall(), net, FollowedBar(bar_path()))
        true = np.array([net.lifter(int(k)) for k in seen.frames])
        np.testing.assert_allclose(seen.points[:, 0, 4], true, atol=1e-3)

    def test_nobody_is_made_up_there(self) -> None:
        everywhere = tuple(range(FRAMES))
        seen = find_body(Hall(everywhere), ShortSightedNet(), FollowedBar(bar_path()))
        self.assertFalse(np.isfinite(seen.points).any())


class TestOtherShots(unittest.TestCase):
    def test_nobody_is_looked_for_in_another_shot_unless_the_coach_points_there(self) -> None:
        apart = np.zeros(FRAMES, bool)
        apart[: FRAMES // 3] = True
        bar = FollowedBar(bar_path(), apart=apart)
        seen = find_body(Hall(), Net(), bar)
        self.assertEqual(seen.frames.tolist(), np.flatnonzero(~apart).tolist())
        self.assertTrue(seen.found.all())
        hip = lifter_at(2)
        seed = BodySeed(2, float(hip[0]), float(hip[1]), float(hip[0]), float(hip[1] - TRUNK))
        self.assertEqual(len(find_body(Hall(), Net(), bar, [seed]).frames), FRAMES)


class BentNet(Net):
    """Bent over the bar on the floor, the lifter is seen only in a square that lies along his trunk;
    in others he seems to sit upright in the plate, on legs that are short, or not seen, or below the picture."""

    def __init__(self, legs: str) -> None:
        super().__init__()
        self.legs = legs

    def people(self, picture: Picture) -> list[tuple[float, Crop]]:
        at = self.lifter(int(picture[0, 0, 0]))
        return [(0.9, Crop(float(at[0]), float(at[1]), 4 * TRUNK))]

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        number = int(picture[0, 0, 0])
        low = number < 13
        seen = not low or abs(abs(crop.turn_deg) - 60) < 30
        hips = self.lifter(number) if seen else self.bar[number]
        turn = np.radians(60.0 if low and seen else 0.0)
        along = TRUNK * np.array([np.sin(turn), -np.cos(turn)])
        points = np.tile(hips, (39, 1))
        points[REACH] = hips + 2 * along
        points[list(JOINTS["shoulder"])] = hips + along
        short = not seen and self.legs == "short"
        points[list(JOINTS["ankle"])] = hips + np.array([0.0, 0.2 * TRUNK if short else TRUNK])
        points[list(JOINTS["wrist"])] = self.bar[number]
        presence, knees = np.ones(39), list(JOINTS["knee"])
        if not seen and self.legs == "unseen":
            presence[knees] = 0.1
        if not seen and self.legs == "below":
            points[knees, 1] = picture.shape[0] + 5.0
        return Sighting(points, presence, np.ones(39), 1.0)


class LeaningNet(Net):
    """Sees the lifter, who leans to the bar on his left as long as it is low, in no square but one that leans
    nearly as he does."""

    def __init__(self) -> None:
        super().__init__()
        self.tried_up: list[float] = []

    def people(self, picture: Picture) -> list[tuple[float, Crop]]:
        return super().people(picture) if int(picture[0, 0, 0]) >= 15 else []

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        number, seen = int(picture[0, 0, 0]), super().look(picture, crop)
        if number > 16:
            self.tried_up.append(crop.turn_deg)
        lean = 0.0 if number >= 15 else -20.0
        plain = abs(crop.turn_deg - lean) < 12
        shown = np.radians(lean if plain else 0.0)
        way = np.array([np.sin(shown), -np.cos(shown)])
        points = seen.points
        points[REACH] = points[CENTRE] + 2 * TRUNK * way
        points[list(JOINTS["shoulder"])] = points[CENTRE] + TRUNK * way
        points[list(JOINTS["ankle"])] = points[CENTRE] + np.array([0.0, TRUNK])
        return Sighting(points, seen.presence, seen.visible, 1.0 if plain else 0.1)


class TestBent(unittest.TestCase):
    def test_a_lifter_who_bends_faster_than_his_square_turns_is_not_lost(self) -> None:
        net = LeaningNet()
        seen = find_body(Hall(), net, FollowedBar(bar_path()))
        self.assertTrue(seen.found.all())
        true = np.array([net.lifter(int(frame)) for frame in seen.frames])
        np.testing.assert_allclose(seen.points[:, 0, 4], true, atol=1e-3)
        self.assertLess(max(np.abs(net.tried_up)), 1e-6, "nobody bends to a bar that is up")

    def test_a_lifter_bent_low_is_looked_at_along_his_trunk(self) -> None:
        for legs in ("short", "unseen", "below"):
            net = BentNet(legs)
            seen = find_body(Hall(), net, FollowedBar(bar_path()))
            true = np.array([net.lifter(int(frame)) for frame in seen.frames])
            np.testing.assert_allclose(seen.points[:, 0, 4], true, atol=1e-3, err_msg=legs)

    def test_nobody_is_looked_for_bent_while_the_bar_is_up(self) -> None:
        path = bar_path()
        bar, foot = LiftedBar(path), float(path[:, 1].max())
        low = [bar.low(frame, TRUNK) for frame in range(FRAMES)]
        self.assertEqual(low, [bool(y > foot - TRUNK) for y in path[:, 1]])
        self.assertTrue(LiftedBar(None).low(3, TRUNK), "where the bar is not known he may be bent")


if __name__ == "__main__":
    unittest.main()
