"""The bar's rises by height alone.

Heights are known in every picture; times are not (slow motion, frozen and dropped pictures). So a
lift is first looked for in the order of the heights, with a hysteresis that follows the clip's own
noise and its range; speeds only decide between rises, and only where they can be compared.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

__all__ = ["Rise", "rises"]

Array = NDArray[np.float64]

LEAST_TURN_M, TURN_SHARE, TURN_SIGMAS = 0.01, 0.01, 4.0
"""A turn counts when the bar goes back by more than a centimetre, its noise, and so much of the
clip's range (house defaults)."""
BEGUN_SHARE, EARLY_SHARE, EARLY_POINTS = 0.25, 0.04, 4
"""A bar whose first step is so large a share of its largest, or that has made so much of its rise
after so many points, rises already where it is first seen; not one that rests after its first point, which then is
off by itself."""
FROM_REST = 1.5
"""A bar that gathers speed evenly from rest goes at least 1.67 times as far in the second picture as in the
first; one that is cut into hardly farther."""
RESTED = 3
"""Pictures so often alike, and then a small step: the bar lay still in them."""
FEWEST = 4


@dataclass(frozen=True)
class Rise:
    """One unbroken rise: the frames of its lowest and highest point, and its height in metres.

    `begun` and `ended` say whether its beginning and its end lie within the known path; `jump` is
    the share of it that is made between two pictures.
    """

    low: int
    high: int
    rise_m: float
    begun: bool
    ended: bool
    jump: float


def rises(y_m: Array, held: NDArray[np.bool_] | None, sigma_m: float) -> list[Rise]:
    """All rises of a path in their order.

    Parameters
    ----------
    y_m : shape (frames,), heights in metres, NaN where the bar is not known
    held : shape (frames,), frames that repeat the picture before them
    sigma_m : the noise of a height
    """
    own = np.isfinite(y_m) if held is None else np.isfinite(y_m) & ~held
    at = np.flatnonzero(own)
    if len(at) < FEWEST:
        return []
    heights = y_m[at]
    steady = heights.copy()
    steady[1:-1] = np.median(np.stack([heights[:-2], heights[1:-1], heights[2:]]), axis=0)
    least = max(LEAST_TURN_M, TURN_SIGMAS * sigma_m, TURN_SHARE * float(np.ptp(steady)))
    found = []
    for low, high in pairwise(_turns(steady, least)):
        height = float(steady[high] - steady[low])
        if high > low and height > 0:
            begun, ended = _seen_whole(steady, low, high, sigma_m)
            first, last = (_sharpened(heights, k, s) for k, s in ((low, -1.0), (high, 1.0)))
            rested = first < high and int(at[first + 1]) - int(at[first]) > RESTED
            begun = begun or (rested and _gently(steady[first : high + 1]))
            jump = float(np.max(np.diff(steady[low : high + 1]))) / height
            found.append(Rise(int(at[first]), int(at[last]), height, begun, ended, jump))
    return found


def _seen_whole(steady: Array, low: int, high: int, sigma_m: float) -> tuple[bool, bool]:
    """Whether a rise begins and ends within the path, and is not cut off by its first or last point."""
    steps = np.diff(steady[low : high + 1])
    largest = float(np.max(steps))
    first = float(np.max(steps[: 2 if len(steps) > 4 else 1]))
    early = float(np.max(steady[low : low + EARLY_POINTS]) - steady[low])
    resting = early < max(EARLY_SHARE * float(steady[high] - steady[low]), 4 * sigma_m)
    rested = len(steps) > 4 and bool(np.max(np.abs(steps[1:4])) < BEGUN_SHARE * steps[0])
    begun = low > 0 or rested or (first < BEGUN_SHARE * largest and resting)
    ended = high < len(steady) - 1 or float(steps[-1]) < BEGUN_SHARE * largest
    return begun, ended


def _gently(rise: Array) -> bool:
    """Whether a rise (heights, from its lowest to its highest) begins with a small step, or with one that the next exceeds by far: after pictures that
    are all alike, the bar lay still.

    A picture that was dropped makes the first step larger, but not the second too.
    """
    steps = np.diff(rise)
    small = float(np.min(steps[:2])) < BEGUN_SHARE * float(np.max(steps))
    return small or bool(np.all(steps[1:2] > FROM_REST * steps[0]))


def _sharpened(heights: Array, turn: int, sign: float) -> int:
    """The turn among its neighbours, before the median took its point."""
    first = max(turn - 2, 0)
    return first + int(np.argmax(sign * heights[first : turn + 3]))


def _turns(y: Array, least: float) -> list[int]:
    """Indices of lows and highs in turn, by hysteresis; the first and last index are among them."""
    turns, low, high, heading = [0], 0, 0, 0
    for k in range(1, len(y)):
        if heading >= 0 and y[k] > y[high]:
            high = k
        if heading <= 0 and y[k] < y[low]:
            low = k
        if heading >= 0 and y[high] - y[k] > least:
            if high > turns[-1] and (heading > 0 or y[high] - y[0] > least):
                turns.append(high)
            heading, low = -1, k
        elif heading <= 0 and y[k] - y[low] > least:
            if low > turns[-1] and (heading < 0 or y[0] - y[low] > least):
                turns.append(low)
            elif heading == 0 and low > turns[-1]:
                turns[-1] = low
            heading, high = 1, k
    last = high if heading > 0 else low if heading < 0 else len(y) - 1
    return turns if last == turns[-1] else [*turns, last]
