"""What one run from a mark found: the plate's points on the way to the film's end or to the next mark."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.mark import State
from keen_kettle.core.track.plate import Point
from keen_kettle.core.track.rim import Rim

__all__ = ["Way"]

REST = 0.012
"""A bar that has moved by less than this share of the radius has rested."""
STAYED = 0.3
"""A plate that is farther than so many radii from its mark has gone away from it."""
BEYOND_S, NEAR_PLATE = 3.0, 1.0
"""So much of the film after a way that ended is still of its shot, as a rule; what lies over the film matters so
near to the plate's centre (radii)."""


@dataclass
class Way:
    """Points by frame in the order in which they were met, the cut that ended them, and the run's limit."""

    points: dict[int, Point]
    cut: int | None
    last: int

    @property
    def seen(self) -> list[int]:
        """The frames in which the plate has a place."""
        return [number for number, point in self.points.items() if np.isfinite(point.x)]

    def end_shot(self, number: int, gone: int, heading: int) -> None:
        """The shot has ended, and the last `gone` pictures, that of `number` included, are of another."""
        kept = max(len(self.points) + 1 - gone, 0)
        for late in list(self.points)[kept:]:
            del self.points[late]
        self.cut = number - gone + 1 if heading > 0 else number + gone

    def settle_rests(self) -> None:
        """Pictures that repeat while the bar rests are no repeats of a moving one: they are good points.

        Whether the bar had stopped is known only from the next picture that differs.
        """
        waiting: list[int] = []
        for number, point in self.points.items():
            if point.state == State.REPEATED:
                waiting.append(number)
                continue
            if waiting and np.isfinite(point.x) and self.points[waiting[0]].away_from(point) < REST:
                for held in waiting:
                    self.points[held] = replace(
                        self.points[held], state=point.state, confidence=point.confidence
                    )
            waiting = []

    def with_firsts(self) -> "Way":
        """A way back, in its order, with the first of pictures that are the same as a picture of its own, and
        the later ones as its repeats. On the way back the last was met first."""
        turned = dict(self.points)
        first: int | None = None
        for number, point in sorted(self.points.items()):
            if point.state == State.REPEATED:
                first = number if first is None else first
            elif first is not None:
                turned[first], turned[number] = point, self.points[first]
                first = None
        return replace(self, points=turned)

    def gone(self, rim: Rim) -> float:
        """The share of the pictures in which the plate is plainly seen away from its place at the mark."""
        reach = STAYED * float(np.mean(rim.axes_px))
        plain = [
            point.state == State.GOOD and np.hypot(point.x - rim.x_px, point.y - rim.y_px) >= reach
            for point in self.points.values()
        ]
        return float(np.mean(plain)) if plain else 0.0

    def shot(self, t_s: NDArray[np.float64], start: int) -> NDArray[np.intp]:
        """The frames of its shot on this side of the mark, as far as they are known: some more where it ended
        before the shot did."""
        frames = sorted([start, *self.points])
        if self.cut is not None:
            return np.array(frames, np.intp)
        inside = np.abs(t_s - t_s[start]) <= np.ptp(t_s[frames]) + BEYOND_S
        ahead = np.arange(len(t_s)) >= start if self.last >= start else np.arange(len(t_s)) <= start
        return np.flatnonzero(inside & ahead)

    def comes_near(self, over: NDArray[np.uint8], r: float) -> bool:
        """Whether the plate, of radius `r` pixels, comes behind something of a picture (where not 0)."""
        reach = 2 * round(NEAR_PLATE * r) + 1
        near = cv2.dilate(over, np.ones((reach, reach), np.uint8))
        last = np.array(near.shape) - 1
        places = [np.clip((self.points[k].y, self.points[k].x), 0, last) for k in self.seen]
        return any(near[int(y), int(x)] for y, x in places)
