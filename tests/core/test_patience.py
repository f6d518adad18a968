"""How often a lifter who is lost is looked for: a film that shows nobody must not take for ever."""

import unittest

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.head import Heads
from keen_kettle.core.track.body.holder import LiftedBar
from keen_kettle.core.track.body.mend import mend
from keen_kettle.core.track.body.net import CENTRE, JOINTS, REACH, Crop, Sighting
from keen_kettle.core.track.body.search import LOST_ASKS, PATIENCE, Search
from keen_kettle.core.track.body.sparing import AT_FIRST, MOST_RUNS, MOST_SEARCHING, SparingNet

Picture = NDArray[np.uint8]

SIDE, TRUNK, LOOKS = 200, 40.0, 60


def standing(trunk: float = TRUNK, person: float = 1.0) -> Sighting:
    """Somebody upright in the middle, with legs."""
    points = np.full((39, 2), SIDE / 2)
    points[REACH] = points[CENTRE] - (0.0, 2 * trunk)
    points[list(JOINTS["shoulder"])] -= (0.0, trunk)
    points[list(JOINTS["ankle"])] += (0.0, 2 * trunk)
    return Sighting(points, np.ones(39), np.ones(39), person)


class Film:
    """Pictures that carry their number."""

    def bgr(self, number: int) -> Picture:
        return np.full((SIDE, SIDE, 3), number, np.uint8)


class Net:
    """Sees nobody in some pictures, and remembers when it was asked for everyone, and what it looked at."""

    def __init__(self, blind: set[int]) -> None:
        self.blind = blind
        self.asked: list[int] = []
        self.looked: set[int] = set()
        self.runs = 0

    def people(self, picture: Picture) -> list[tuple[float, Crop]]:
        self.asked.append(int(picture[0, 0, 0]))
        return []

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        number = int(picture[0, 0, 0])
        self.looked.add(number)
        self.runs += 1
        return standing(person=0.0 if number in self.blind else 1.0)


class TestPatience(unittest.TestCase):
    def asked(self, blind: set[int]) -> list[int]:
        net, film = Net(blind), Film()
        search = Search(SparingNet(net, LOOKS), LiftedBar(None), Heads(), standing().next_crop())
        for number in range(LOOKS):
            search.look(film.bgr(3 * number), 3 * number)  # three levels: nobody stands still
        return [one // 3 for one in net.asked]

    def test_who_is_lost_for_long_is_asked_for_at_once_and_then_seldom(self) -> None:
        asked = self.asked({3 * k for k in range(20, LOOKS)})
        self.assertEqual(asked[:3], [20, 21, 22])
        self.assertLessEqual(len(asked), PATIENCE + (LOOKS - 20) / LOST_ASKS + 1)
        self.assertLess(np.diff(asked).max(), LOST_ASKS + 1, "but never given up")

    def test_who_is_lost_again_and_again_is_not_asked_for_each_time(self) -> None:
        blind = {3 * k for k in range(10, LOOKS) if k % 3}
        self.assertGreater(len(blind), 30)
        self.assertLessEqual(len(self.asked(blind)), PATIENCE + (LOOKS - 10) / LOST_ASKS + 1)

    def test_who_is_lost_once_more_after_a_while_is_asked_for_at_once(self) -> None:
        self.assertEqual(self.asked({3 * 10, 3 * 11, 3 * 30, 3 * 31}), [10, 11, 30, 31])


class RestlessNet(Net):
    """Sees a body that is somewhat farther on in every look, so that no square ever fits it."""

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        seen = super().look(picture, crop)
        seen.points[:, 0] += 12.0 * (self.runs % 2)
        return seen


class TestRestless(unittest.TestCase):
    def runs(self, net: Net, looks: int) -> int:
        film, search = Film(), Search(SparingNet(net, looks), LiftedBar(None), Heads())
        search._crop = search._last = standing().next_crop()
        for number in range(looks):
            search.look(film.bgr(number % 2 * 90), number)
        return net.runs + len(net.asked)

    def test_a_body_that_fits_no_square_is_looked_for_again_as_long_as_the_film_can_wait(
        self,
    ) -> None:
        few, many = (self.runs(RestlessNet(set()), looks) for looks in (15, 300))
        self.assertGreater(few, 2 * 15, "at first nothing is spared")
        self.assertLess(many, MOST_SEARCHING * 300 + AT_FIRST + 3)
        self.assertGreater(many, 1.2 * 300, "and it goes on")


class TestMending(unittest.TestCase):
    def mended(
        self, bad: range, blind: set[int], looks: int = LOOKS
    ) -> tuple[Net, dict[int, Sighting]]:
        """What is left of looks of which some show a trunk that is much too short, where the model may be
        asked as often as for so many looks."""
        found = {k: standing(0.3 * TRUNK if k in bad else TRUNK) for k in range(LOOKS)}
        net, frames = Net(blind), np.arange(LOOKS, dtype=np.int32)
        bar, box = LiftedBar(None), (0.0, 0.0, float(SIDE), float(SIDE))
        mend(Film(), SparingNet(net, looks), frames, found, lambda: False, bar, {}, box)
        return net, found

    def test_a_stretch_in_which_nobody_is_seen_is_gone_through_seldom_and_dropped(self) -> None:
        bad = range(20, 49)
        net, found = self.mended(bad, set(bad))
        self.assertLess(len(net.looked), 12)
        self.assertFalse(set(bad) & set(found), "no wrong body stays")
        self.assertTrue(set(range(20)) <= set(found))

    def test_what_can_be_mended_is_and_what_is_too_much_is_dropped(self) -> None:
        net, found = self.mended(range(20, 40), set())
        self.assertEqual(len(found), LOOKS)
        net, found = self.mended(range(20, 40), set(), looks=5)
        most = int(MOST_RUNS * 5)
        self.assertTrue(most <= net.runs < most + 3, "the last look may be gone through to its end")
        self.assertTrue(LOOKS - 20 < len(found) < LOOKS)


if __name__ == "__main__":
    unittest.main()
