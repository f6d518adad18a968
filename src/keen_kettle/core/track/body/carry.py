"""Carries the body from look to look by patches of the picture, over looks in which the model has lost it.

From a look in which the lifter is plain it goes on to the end of the film, and back to its
beginning. Each look's points and what the patches along them do give the next one's. Where the model
sees hip and shoulder near there, its word is taken, and the way goes on from it; where it sees them
elsewhere, or nobody, the carried points stand in for it, for a while. So a lifter whom the model
loses behind the plate, or bent before a cluttered wall, is still where he was. Whom it saw elsewhere all
that while, going on without another leap until its word is taken again, was the lifter: the patches had
stayed on the wall. On the way back, where the plate hides the hip and what is carried may stay on plate
or wall, the model is given more: a shoulder elsewhere of which it is sure stands, and so does a hip but
where it is most unsure.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from keen_kettle.core.errors import Cancelled, ClipUnreadable
from keen_kettle.core.track.body.flow import Grey, Looks, part_moves
from keen_kettle.core.track.body.landmarks import CARRIED, LANDMARKS

__all__ = ["Carried", "carry"]

Array = NDArray[np.float64]

ELSEWHERE, STRAYS = {"shoulder": 0.12, "hip": 0.2}, 0.3
"""So far from where it was carried a joint is seen at most (bodies; a hip is often seen at the plate's edge),
and by so much of the way further that it was carried."""
MOST_ON, MOST_BACK, FARTHEST = 8, 45, 0.4
"""After so many looks in which it says otherwise (on from the plain look, where a lifter moves fast and
patches are lost; back from it, where he stands bent and the model may have settled on another body), or a
way of so many bodies, what the model sees is taken again, though it be nobody."""
STANDS, BESIDE = {"shoulder": 0.5, "hip": 0.1}, 3
"""On the way back a joint elsewhere stands from this presence on (half of the body's points have it, in the
middle one of so many looks to either side). Of 12 lifelike films in which model and carried points were
apart there for long, the shoulder was where both had it in eight, and the hip where the model had it in
seven of these; where they had the shoulder apart the model was right only once, when it was most sure."""
SHOULDER = LANDMARKS.index("shoulder")


@dataclass(frozen=True)
class Carried:
    """The points of one side (k, 9, 2), whether they were carried there (k,), and how halves of segments
    move to the next look (k, segments, 2, 3): share along it, across, down; pixels, NaN where unknown."""

    points: Array
    carried: NDArray[np.bool_]
    moves: Array


def carry(
    film: Looks,
    seen: Array,
    presence: Array,
    begin: int,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Carried:
    """Carry the points of one side of a body through the looks of a film.

    Parameters
    ----------
    seen : shape (k, 9, 2), the landmarks as the model saw them; NaN where it saw nobody
    presence : shape (k, 9), how present each of them is to the model
    begin : the look in which the lifter is plain

    Raises
    ------
    Cancelled
    """
    count = len(film.frames)
    points, carried = seen.copy(), np.zeros(count, bool)
    moves = np.full((count, len(CARRIED), 2, 3), np.nan)
    done = 0
    on, back = range(begin, count - 1), range(begin, 0, -1)
    ways = ((1, on, MOST_ON, np.zeros(count)), (-1, back, MOST_BACK, _sureness(presence)))
    for way, looks, most, sure in ways:
        before: Grey | None = None
        lost = _Lost(most)
        for look in looks:
            if cancelled():
                raise Cancelled("Stopped.")
            done += 1
            progress(done / count)
            there = look + way
            if not np.isfinite(points[look]).all():
                before = None
                continue
            try:
                before = film.grey(look) if before is None else before
                after = film.grey(there)
            except ClipUnreadable:
                before = None
                continue
            bar = film.bar_px[[look, there]]
            told = part_moves(before, after, points[look], bar, film.plate_px, film.body_px)
            before = after
            moves[min(look, there)] = told * [1.0, way, way]
            move = _joint_moves(told)
            if lost.carries(seen[there], sure[there], points[look] + move, move, film.body_px):
                points[there], carried[there] = points[look] + move, True
            elif lost.given_up:
                run = [there - way * ago for ago in range(1, lost.given_up + 1)]
                if not any(_leaps(seen[k], seen[k + way], film.body_px) for k in run):
                    points[run], carried[run] = seen[run], False
                    moves[[*run, max(min(run) - 1, 0)]] = np.nan
    return Carried(points, carried, moves)


class _Lost:
    """For how long the model has lost the body, and how far that was carried since."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._looks, self._gone = 0, 0.0
        self.given_up = 0
        """Over how many looks the points were carried that the model, whose word is taken again, saw elsewhere."""

    def carries(
        self, seen: Array, sure: float, expected: Array, move: Array, body_px: float
    ) -> bool:
        """Whether the carried points stand in for what the model sees, points (9, 2), in the next look."""
        self._gone += float(np.hypot(*move[SHOULDER])) / body_px
        goes_on = self._gone < FARTHEST and self._looks < self._most
        known = np.isfinite(expected).all()
        elsewhere = known and _elsewhere(seen, sure, expected, body_px, STRAYS * self._gone)
        if elsewhere and goes_on:
            self._looks += 1
            return True
        self.given_up = self._looks if elsewhere else 0
        self._looks, self._gone = 0, 0.0
        return False


def _leaps(seen: Array, then: Array, body_px: float) -> bool:
    """Whether hip or shoulder, points (9, 2), cannot have gone from the one look to the next."""
    return _elsewhere(seen, 0.0, then, body_px, 0.0)


def _sureness(presence: Array) -> Array:
    """How sure the model is of the body that it sees, per look (k,), from presence (k, 9)."""
    half = np.median(presence, axis=1)
    return np.asarray(median_filter(half, 2 * BESIDE + 1, mode="nearest"))


def _elsewhere(seen: Array, sure: float, expected: Array, body_px: float, more: float) -> bool:
    """Whether the model sees hip or shoulder elsewhere than where they were carried, and that does not
    stand, or whether it sees nobody."""
    for name, far in ELSEWHERE.items():
        off = np.hypot(*(seen[LANDMARKS.index(name)] - expected[LANDMARKS.index(name)]))
        if not off < (far + more) * body_px and not (np.isfinite(off) and sure >= STANDS[name]):
            return True
    return False


def _joint_moves(told: Array) -> Array:
    """How each landmark moves (9, 2), from what halves of segments (segments, 2, 3) do; what nothing tells
    moves as the rest does, all NaN where nothing is told of the shoulder."""
    ways: dict[str, list[Array]] = {name: [] for name in LANDMARKS}
    for (a, b), ((s0, *f0), (s1, *f1)) in zip(CARRIED, told, strict=True):
        first, second = np.array(f0), np.array(f1)
        if np.isfinite([s0, s1]).all():
            slope = (second - first) / (s1 - s0)
            ways[a].append(first - s0 * slope)
            ways[b].append(second + (1 - s1) * slope)
        elif np.isfinite(s0):
            ways[a].append(first)
        elif np.isfinite(s1):
            ways[b].append(second)
    known = [np.mean(one, axis=0) for one in ways.values() if one]
    if not ways["shoulder"]:
        return np.full((len(LANDMARKS), 2), np.nan)
    usual = np.median(known, axis=0)
    ways["wrist"] = ways["elbow"]
    return np.array([np.mean(ways[name], axis=0) if ways[name] else usual for name in LANDMARKS])
