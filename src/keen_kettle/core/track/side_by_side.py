"""The same done to many things, two at a time: a coach's laptop has two cores."""

from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

__all__ = ["side_by_side"]

Thing = TypeVar("Thing")
Made = TypeVar("Made")

AT_A_TIME = 2


def side_by_side(
    work: Callable[[Thing], Made], many: Iterable[Thing], go_on: Callable[[], None] = lambda: None
) -> list[Made]:
    """What `work` makes of each of many things, in their order.

    `go_on` is called before each and raises where no more is to be done; what it or `work` raises is raised
    here, once nothing runs any more. Both are called in other threads.
    """

    def make(thing: Thing) -> Made:
        go_on()
        return work(thing)

    with ThreadPoolExecutor(AT_A_TIME, "side by side") as hands:
        return list(hands.map(make, many))
