"""In which parts of a film the plate is looked for: the whole of a short one, else each of its shots.

Who explains a lift before and after it is longer in the film than the lift. Spread over all of it, the looks of
the search would hardly meet the bar on its way.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.pictures import Pictures
from keen_kettle.core.track.shots import ShotEnds

__all__ = ["FilmPart", "parts_of"]

SHORT_S, LEAST_SHOT_S = 8.0, 1.0
"""A film that is no longer is looked through as a whole first; shots that are shorter hold no lift."""
LONG_S, PIECE_S, OVERLAP_S = 12.0, 6.0, 1.5
"""In a shot that is longer than the first the bar is looked for in pieces too, so long, and so far over one
another."""


@dataclass(frozen=True)
class FilmPart:
    """The frames of a film from `first` to before `after`, as a film of its own."""

    film: Pictures
    first: int
    after: int

    @property
    def t_s(self) -> NDArray[np.float64]:
        return self.film.t_s[self.first : self.after]

    @property
    def lasts_s(self) -> float:
        return float(np.ptp(self.t_s)) if self.after > self.first else 0.0

    def bgr(self, number: int) -> NDArray[np.uint8]:
        return self.film.bgr(self.first + number)

    def pieces(self) -> Iterator["FilmPart"]:
        """It cut up, if it is long; none otherwise."""
        if self.lasts_s <= LONG_S:
            return
        count = int(np.ceil((self.lasts_s - OVERLAP_S) / (PIECE_S - OVERLAP_S)))
        for begin in np.linspace(self.t_s[0], self.t_s[-1] - PIECE_S, count):
            first, after = np.searchsorted(self.t_s, [begin, begin + PIECE_S])
            yield FilmPart(self.film, self.first + int(first), self.first + int(after))


def parts_of(film: Pictures, cancelled: Callable[[], bool]) -> Iterator[list[FilmPart]]:
    """The parts to be looked through: the next ones only where the plate is not seen in those before.

    Raises
    ------
    Cancelled
    """
    whole = FilmPart(film, 0, len(film.t_s))
    if whole.lasts_s <= SHORT_S:
        yield [whole]
    shots = [one for one in _shots(film, cancelled) if one.lasts_s >= LEAST_SHOT_S]
    if len(shots) > 1 or whole.lasts_s > SHORT_S:
        yield shots
    yield [piece for shot in shots for piece in shot.pieces()]


def _shots(film: Pictures, cancelled: Callable[[], bool]) -> list[FilmPart]:
    ends = ShotEnds()
    for number in range(len(film.t_s)):
        if cancelled():
            raise Cancelled("The search for the plate was stopped.")
        try:
            grey = cv2.cvtColor(film.bgr(number), cv2.COLOR_BGR2GRAY)
        except ClipUnreadable:
            continue
        ends.see(number, np.asarray(grey, np.uint8))
    borders = sorted({0, *ends.begins, len(film.t_s)})
    return [FilmPart(film, first, after) for first, after in pairwise(borders)]
