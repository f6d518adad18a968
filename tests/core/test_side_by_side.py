"""What is done two at a time comes out as if it were done one by one, and stops when it is to."""

import unittest
from threading import Barrier, current_thread

import numpy as np

from keen_kettle.core.errors import Cancelled
from keen_kettle.core.track.plate_judge import WEIGHTS
from keen_kettle.core.track.side_by_side import side_by_side
from keen_kettle.core.track.small_nets import network


class SideBySide(unittest.TestCase):
    def test_it_comes_out_in_order(self) -> None:
        self.assertEqual(side_by_side(lambda n: n * n, range(20)), [n * n for n in range(20)])
        self.assertEqual(side_by_side(lambda n: n, []), [])

    def test_two_are_under_way_at_a_time(self) -> None:
        both = Barrier(2, timeout=10)

        def work(_: int) -> str:
            both.wait()
            return current_thread().name

        self.assertEqual(len(set(side_by_side(work, range(2)))), 2)

    def test_an_error_is_raised_here(self) -> None:
        with self.assertRaisesRegex(ZeroDivisionError, "division"):
            side_by_side(lambda n: 1 // n, [1, 0, 1])

    def test_it_stops_when_it_is_to(self) -> None:
        done: list[int] = []

        def go_on() -> None:
            if len(done) >= 3:
                raise Cancelled("stopped")

        with self.assertRaises(Cancelled):
            side_by_side(done.append, range(200), go_on)
        self.assertLess(len(done), 10)


class TwoAskOneNet(unittest.TestCase):
    def test_each_gets_what_it_would_alone(self) -> None:
        net = network(WEIGHTS)
        assert net is not None
        dice = np.random.default_rng(5)
        crops = [dice.normal(0, 1, (20, 48, 48, 3)).astype(np.float32) for _ in range(8)]
        alone = [net.said_of(one) for one in crops]
        for one, other in zip(alone, side_by_side(net.said_of, crops), strict=True):
            np.testing.assert_array_equal(one, other)
