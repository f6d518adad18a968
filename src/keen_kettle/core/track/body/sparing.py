"""The pose model as one film may ask it: as often as it helps, and no oftener than the film can wait.

Each look costs a run of the model. Where the lifter is lost the search asks for more, and mending for more
still; on films that show him badly all the way they would find nothing, for minutes.
"""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.net import Crop, PoseModel, Sighting

__all__ = ["SparingNet"]

MOST_RUNS = 1.8
"""Runs for each of a film's looks in all: about two and a half times the film's length on two cores."""
MOST_SEARCHING, AT_FIRST = 1.3, 30
"""Of these the search has so many for each look that it has come to, and some to begin with."""


class SparingNet:
    """A pose model, how often it was asked, and whether it may be asked for more than a look needs."""

    def __init__(self, net: PoseModel, looks: int) -> None:
        self._net = net
        self._most = MOST_RUNS * looks
        self._reached = self._asked = 0

    def look(self, bgr: NDArray[np.uint8], crop: Crop) -> Sighting:
        self._asked += 1
        return self._net.look(bgr, crop)

    def people(self, bgr: NDArray[np.uint8]) -> list[tuple[float, Crop]]:
        self._asked += 1
        return self._net.people(bgr)

    def next_look(self) -> None:
        """The search has come to another look."""
        self._reached += 1

    @property
    def may_search(self) -> bool:
        return self._asked < MOST_SEARCHING * self._reached + AT_FIRST

    @property
    def may_mend(self) -> bool:
        return self._asked < self._most
