"""One plate followed from picture to picture: a blend of cues, and an honest state for each.

For each picture:
1. a repeated picture holds the place and keeps the velocity;
2. candidates: the flow of corners, the running look, the first look, the plate's rings; where none
   is good, also the place to which it would go on (words or a post before it hold its looks back);
3. each is drawn to the rim and scored, half by rim support and half by likeness; the flow is
   never believed on its own word;
4. the best candidate and those that agree with it are averaged; their disagreement lowers the
   confidence (in a plate without rings the rim counts more in telling which is the best);
5. a poor score starts a wide search; if that fails too the plate coasts, and is looked for ever
   wider for a while. What is found again may be another plate: it is never called good.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.covered import uncovered
from keen_kettle.core.track.cues import Grey, Guess, Look, flow_guess
from keen_kettle.core.track.mark import State
from keen_kettle.core.track.rim import Rim, RimFit, RimModel
from keen_kettle.core.track.rings import Rings, RingView

__all__ = ["GOOD", "Follower", "Point", "grey_of"]

GOOD, POOR, AGAIN = 0.6, 0.34, 0.55
"""Confidence of a good point, of a poor one, and what is needed to believe one found again."""
COAST_S = 0.1
HIDDEN_TRUST_S = 0.4
"""After so long a span that the coach has hidden, the plate is still taken for the same one."""
BEYOND = 0.4
"""So many radii beyond the picture's edge a centre is still known from the rest of the rim."""
RIM_COUNTS, RIM_TELLS = 0.5, 0.7
"""What the rim counts against the plate's looks, and what it counts in telling which of several places is the plate's
where that has no rings: the look of a plate of one colour is mostly that of the bar's end, which slides over it.
There it is believed by whichever of both says more."""
HEARSAY = 0.1
"""How well a place is supported where the plate would be if it went on as it did."""
SAME_START = 0.1
"""The rings are looked for from one of two guesses so near to one another (radii)."""
LEAP = 0.6
"""A plate so many radii from where it should be has leapt."""
RADII_A_S, WIDE, FARTHEST = 10.0, 1.6, 4.0
"""A bar moves about so many plate radii a second at the most: how fast a search widens, from so many
radii to so many."""
LONGEST_REPEAT_S = 0.25
SAME, SAME_MOVING = 0.25, 0.6
"""Mean grey levels between two pictures that are the same; a little more where it should move."""


@dataclass(frozen=True)
class Point:
    """The plate in one picture."""

    x: float
    y: float
    r: float
    confidence: float
    state: State
    sharp: float = np.nan
    bend: tuple[float, float] = (0.0, 0.0)

    def away_from(self, other: "Point") -> float:
        """How far it is from another, in that one's radii."""
        return float(np.hypot(self.x - other.x, self.y - other.y)) / other.r


class Follower:
    """The plate as it is known just now: place, size, velocity, looks."""

    def __init__(
        self,
        picture: NDArray[np.uint8],
        rim: Rim,
        model: RimModel,
        covered: Grey | None = None,
        growth: float = 1.0,
    ) -> None:
        self.covered = covered
        """Pixels of what lies over the film: the plate is not looked for by them."""
        grey = self._shown(grey_of(picture), rim.x_px, rim.y_px, float(np.mean(rim.axes_px)))
        self.x, self.y, self.growth = rim.x_px, rim.y_px, growth
        self.radius = float(np.mean(rim.axes_px))
        self.velocity = np.zeros(2)
        self.model = model
        self.rim_trust = 1.0 if rim.found else 0.4
        self.first_support = max(model.fit(picture, self.x, self.y).support, 0.2)
        self.first = Look.of(grey, self.x, self.y, self.radius)
        self.running = Look.of(grey, self.x, self.y, self.radius)
        self.rings = Rings.of(
            picture, self.x, self.y, model.angles, model.radii_px, covered, growth
        )
        self.view: RingView | None = None
        self.before = grey_of(picture)
        self.bend = (0.0, 0.0)
        self.since_s = 0.0
        self.repeated_s = 0.0
        self.lost_s = 0.0
        self.hidden_s = 0.0
        self.doubted = False

    @property
    def r(self) -> float:
        return self.radius * self.growth

    def _shown(self, grey: Grey, x: float, y: float, r: float) -> Grey:
        return grey if self.covered is None else uncovered(grey, self.covered, x, y, r)

    def advance(self, picture: NDArray[np.uint8], grey: Grey, gap_s: float) -> Point:
        """The plate in the next picture (h, w, 3; and without its colours, h, w), `gap_s` seconds on."""
        before, self.before = self.before, grey
        self.since_s += gap_s
        shift = self.velocity * self.since_s
        far = float(np.hypot(*shift))
        if far > 1.5 * self.r:
            shift, far = shift * 1.5 * self.r / far, 1.5 * self.r
        if not self.lost_s and self._is_repeat(before, grey, gap_s):
            self.repeated_s += gap_s
            if self.repeated_s > LONGEST_REPEAT_S:
                self.velocity *= 0.0
            return Point(self.x, self.y, self.r, 0.5, State.REPEATED)
        self.repeated_s = 0.0
        ahead = self.x + float(shift[0]), self.y + float(shift[1])
        clear = self._shown(grey, *ahead, self.r)
        best = self._look_for(picture, clear, before, ahead, shift)
        if best is None or best.confidence < self._needed(best, ahead):
            return self.lose(gap_s)
        unexplained_s = self.lost_s - min(self.hidden_s, HIDDEN_TRUST_S)
        self.doubted = self.doubted or unexplained_s > COAST_S
        self.lost_s = self.hidden_s = 0.0
        if self.doubted:
            best = replace(best, state=State.CHECK, confidence=min(best.confidence, GOOD - 0.01))
        self._accept(best, grey)
        return replace(best, sharp=self.first.sharpness(grey, best.x, best.y))

    def _needed(self, best: Point, ahead: tuple[float, float]) -> float:
        """How plain the plate must be where it was found: as plain as one found again, if it was lost or would have
        leapt there."""
        leapt = float(np.hypot(best.x - ahead[0], best.y - ahead[1])) > LEAP * self.r
        return AGAIN if leapt or self.lost_s > COAST_S else 0.6 * POOR

    def lose(self, gap_s: float) -> Point:
        """Coast on with a fading velocity; the frame has no point of its own."""
        self.lost_s += gap_s
        if self.lost_s <= COAST_S:
            self.x += float(self.velocity[0]) * gap_s
            self.y += float(self.velocity[1]) * gap_s
        self.velocity *= 0.8
        self.since_s = 0.0
        return LOST

    def pass_over(self, grey: Grey, gap_s: float) -> Point:
        """Go past a picture in which the plate is said to be hidden."""
        self.before = grey
        self.hidden_s += gap_s
        kept, self.velocity = self.velocity, self.velocity / 0.8
        self.lose(gap_s)
        self.velocity = kept
        return LOST

    def _look_for(
        self,
        picture: NDArray[np.uint8],
        grey: Grey,
        before: Grey,
        ahead: tuple[float, float],
        shift: NDArray[np.float64],
    ) -> Point | None:
        if self.lost_s:
            reach = min(WIDE + RADII_A_S * self.lost_s, FARTHEST) * self.r
            return self._search_wide(picture, grey, *ahead, reach)
        near = 0.55 * self.r + 0.5 * float(np.hypot(*shift))
        guesses = [look.find(grey, *ahead, near) for look in (self.running, self.first)]
        step = (float(shift[0]), float(shift[1]))
        flow = flow_guess(before, grey, self.x, self.y, self.r, step, self.covered)
        if flow is not None:
            guesses.append(flow)
        self.view = self._rings_about(picture, *ahead, near)
        guesses += self._by_rings([flow or guesses[0], Guess(*ahead, 0.0)])
        found = [self._choose(picture, grey, guesses)]
        if _worse(found[0], GOOD):
            # What stands before the plate holds its looks back, but not its rim.
            found.append(self._choose(picture, grey, [*guesses, Guess(*ahead, HEARSAY)]))
        if _worse(found[0], POOR):
            # Pictures that were shown again or dropped leave the bar time to go far.
            reach = float(np.clip(RADII_A_S * self.since_s, WIDE, FARTHEST)) * self.r
            found.append(self._search_wide(picture, grey, *ahead, reach))
        return max((one for one in found if one is not None), key=_sure, default=None)

    def _is_repeat(self, before: Grey, now: Grey, gap_s: float) -> bool:
        """Whether round the plate nearly nothing has changed although it should have moved.

        A picture that stands still for long is a bar that has stopped.
        """
        far = float(np.hypot(*self.velocity)) * gap_s
        if far < 0.5:
            return False
        reach = int(1.5 * self.r) + 2
        rows = slice(max(int(self.y) - reach, 0), max(int(self.y) + reach, 0))
        cols = slice(max(int(self.x) - reach, 0), max(int(self.x) + reach, 0))
        a, b = before[rows, cols], now[rows, cols]
        if not a.size:
            return False
        change = cv2.mean(cv2.absdiff(a, b))[0]
        return bool(change < (SAME_MOVING if far > 1.0 else SAME))

    def _accept(self, point: Point, grey: Grey) -> None:
        moved = np.array([point.x - self.x, point.y - self.y]) / max(self.since_s, 1e-6)
        self.velocity = 0.25 * self.velocity + 0.75 * moved
        self.since_s = 0.0
        self.x, self.y = point.x, point.y
        self.growth = float(np.clip(point.r / self.radius, 0.7, 1.4))
        self.bend = point.bend
        if point.confidence >= GOOD:
            self.running.renew(self._shown(grey, self.x, self.y, self.r), self.x, self.y, 0.35)

    def _search_wide(
        self, picture: NDArray[np.uint8], grey: Grey, ahead_x: float, ahead_y: float, reach: float
    ) -> Point | None:
        places = [(self.x, self.y), (ahead_x, ahead_y)]
        looks = (self.running, self.first)
        guesses = [look.find(grey, x, y, reach) for look in looks for x, y in places]
        self.view = self._rings_about(picture, ahead_x, ahead_y, reach)
        return self._choose(picture, grey, guesses + self._by_rings(guesses))

    def _rings_about(
        self, picture: NDArray[np.uint8], x: float, y: float, reach: float
    ) -> RingView | None:
        if self.rings is None:
            return None
        return self.rings.view(picture, x, y, reach, self.covered)

    def _by_rings(self, near: Sequence[Guess]) -> list[Guess]:
        """Where the plate's rings are near some guesses."""
        if self.view is None:
            return []
        apart = [
            g
            for k, g in enumerate(near)
            if all(_apart(g, one) > SAME_START * self.r for one in near[:k])
        ]
        found = [self.view.find(g.x_px, g.y_px, self.growth) for g in apart]
        return [guess for guess in found if guess is not None]

    def _choose(
        self, picture: NDArray[np.uint8], grey: Grey, guesses: Sequence[Guess]
    ) -> Point | None:
        """Draw each guess to the rim, score it, take the best with those that agree."""
        high, wide = grey.shape
        out = BEYOND * self.r
        on_picture = [
            g for g in guesses if -out <= g.x_px < wide + out and -out <= g.y_px < high + out
        ]
        rated: list[tuple[float, Guess, RimFit, float]] = []
        for guess in on_picture:
            if any(_apart(guess, row[1]) < 0.03 * self.r for row in rated):
                continue
            rim = self.model.fit(picture, guess.x_px, guess.y_px, self.growth, self.bend)
            likeness = max(
                look.likeness(grey, guess.x_px, guess.y_px) for look in (self.running, self.first)
            )
            if self.view is not None:
                rings = self.view.likeness(guess.x_px, guess.y_px, self.growth)
                likeness = max(likeness, rings)
            support = min(rim.support / self.first_support, 1.0) * min(rim.visible / 0.5, 1.0)
            preferred, believed = self._worth(support, likeness)
            rated.append((preferred, guess, rim, believed))
        if not rated:
            return None
        _, guess, rim, score = max(rated, key=lambda row: row[0])
        return self._fuse(score, guess, rim, on_picture)

    def _worth(self, support: float, likeness: float) -> tuple[float, float]:
        """By how much a place is preferred to others, and how far it is believed."""
        evenly, by_rim = (
            trust * self.rim_trust * support + (1 - trust * self.rim_trust) * likeness
            for trust in (RIM_COUNTS, RIM_TELLS)
        )
        return (evenly, evenly) if self.rings is not None else (by_rim, max(evenly, by_rim))

    def _fuse(self, score: float, guess: Guess, rim: RimFit, others: Sequence[Guess]) -> Point:
        support = min(rim.support / self.first_support, 1.0) * self.rim_trust
        near = [g for g in others if _apart(g, guess) < 0.12 * self.r]
        places = np.array([[g.x_px, g.y_px] for g in near])
        weights = np.array([g.weight * g.support + 1e-3 for g in near])
        drawn = np.hypot(rim.x_px - guess.x_px, rim.y_px - guess.y_px) < 0.2 * self.r
        if drawn and support > 0.3:
            places = np.vstack([places, [rim.x_px, rim.y_px]])
            weights = np.append(weights, 2.0 * support**2)
        place = (places * weights[:, None]).sum(axis=0) / weights.sum()
        spread = float(
            np.sqrt((weights * ((places - place) ** 2).sum(axis=1)).sum() / weights.sum())
        )
        confidence = score * float(np.exp(-0.5 * (spread / (0.07 * self.r)) ** 2))
        growth = self.growth
        bend = self.bend
        if support > 0.5:
            growth = 0.8 * growth + 0.2 * rim.growth
            bend = (0.5 * bend[0] + 0.5 * rim.bend[0], 0.5 * bend[1] + 0.5 * rim.bend[1])
        state = State.GOOD if confidence >= GOOD else State.CHECK
        return Point(
            float(place[0]),
            float(place[1]),
            self.radius * growth,
            float(confidence),
            state,
            bend=bend,
        )


LOST = Point(np.nan, np.nan, np.nan, 0.0, State.LOST)


def _worse(point: Point | None, than: float) -> bool:
    return point is None or point.confidence < than


def _sure(point: Point) -> float:
    return point.confidence


def _apart(a: Guess, b: Guess) -> float:
    return float(np.hypot(a.x_px - b.x_px, a.y_px - b.y_px))


def grey_of(picture: NDArray[np.uint8]) -> Grey:
    """The picture (height, width, 3) without its colours, (height, width)."""
    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), np.uint8)
