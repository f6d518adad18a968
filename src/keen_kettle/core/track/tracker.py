"""Follows the plate through the film: a blend of cues, and an honest state for every frame.

For each frame:
1. a repeated picture holds the bar where it was and keeps its velocity;
2. three candidates: the flow of corners, the running look, the first look;
3. each is drawn to the rim and scored, half by rim support and half by likeness; the flow is
   never believed on its own word;
4. the best candidate and those that agree with it are averaged; their disagreement lowers the
   confidence;
5. a poor score starts a wide search; if that fails too the bar coasts a few frames, then is lost.
Then the camera's own movement is found behind the lifter and taken out (`background`).
Each mark by hand is an anchor; between two anchors both directions are tracked and blended.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled, ClipUnreadable, MarkError
from keen_kettle.core.track.background import still_path
from keen_kettle.core.track.cues import Grey, Guess, Look, contrast, flow_guess
from keen_kettle.core.track.mark import BarTrack, PlateMark, State
from keen_kettle.core.track.rim import Rim, RimFit, RimModel, fit_rim

__all__ = ["TRACKER_VERSION", "Pictures", "track_bar"]

TRACKER_VERSION = 2
GOOD, POOR = 0.6, 0.34
COAST_S = 0.1
PLATE_SHARE = 0.7
"""The share of the work that following the plate takes; the background takes the rest."""
REPEAT_LEVEL = 0.8


class Pictures(Protocol):
    """A film as the tracker needs it."""

    @property
    def t_s(self) -> NDArray[np.float64]: ...

    def bgr(self, number: int) -> NDArray[np.uint8]: ...


@dataclass(frozen=True)
class _Point:
    x: float
    y: float
    r: float
    confidence: float
    state: State
    sharp: float = np.nan


def track_bar(
    pictures: Pictures,
    marks: Sequence[PlateMark],
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
    found: Callable[[int, float, float, State], None] = lambda number, x, y, state: None,
) -> BarTrack:
    """Track the plate through every frame of a film.

    Parameters
    ----------
    pictures : the film; times in seconds
    marks : at least one plate mark; the first gives the scale's rim
    progress : told the share done, 0 to 1
    cancelled : asked every frame; True stops the work
    found : told each new point as it comes (frame, x, y, state)

    Raises
    ------
    MarkError
        No mark, or one that is not on the picture.
    Cancelled
    """
    if not marks:
        raise MarkError("Mark the plate once (centre and rim) before tracking.")
    count = len(pictures.t_s)
    ordered = sorted(marks, key=lambda mark: mark.frame)
    high, wide = pictures.bgr(min(max(ordered[0].frame, 0), count - 1)).shape[:2]
    for mark in ordered:
        mark.check_against(count, wide, high)
    runs = _runs(ordered, count)
    total = max(sum(abs(last - anchor.frame) for anchor, last in runs), 1)
    done = 0

    def step(number: int, point: _Point) -> None:
        nonlocal done
        if cancelled():
            raise Cancelled("Tracking was stopped; the marks are kept.")
        done += 1
        found(number, point.x, point.y, point.state)
        progress(PLATE_SHARE * done / total)

    rims: dict[int, Rim] = {}
    ways = [_follow(pictures, anchor, last, step, rims) for anchor, last in runs]
    points = _join(ways, ordered, rims, count)
    track = _as_track(pictures.t_s, points, rims[marks[0].frame])
    x, y = still_path(
        pictures.bgr,
        track.x_px,
        track.y_px,
        float(np.mean(track.rim.axes_px)),
        cancelled,
        lambda share: progress(PLATE_SHARE + (1 - PLATE_SHARE) * share),
    )
    first = rims[marks[0].frame]
    grey = _grey(pictures.bgr(marks[0].frame))
    clear = contrast(grey, first.x_px, first.y_px, float(np.mean(first.axes_px)))
    return replace(track, still_x_px=x, still_y_px=y, contrast=clear)


def _runs(ordered: Sequence[PlateMark], count: int) -> list[tuple[PlateMark, int]]:
    """Which way to go from each anchor: to both ends of the film and to its neighbours."""
    runs = [(ordered[0], 0)]
    for left, right in itertools.pairwise(ordered):
        runs += [(left, right.frame - 1), (right, left.frame + 1)]
    return [*runs, (ordered[-1], count - 1)]


def _join(
    ways: list[dict[int, _Point]], ordered: Sequence[PlateMark], rims: dict[int, Rim], count: int
) -> list[_Point | None]:
    """Blend the two directions between anchors by nearness and confidence."""
    points: list[_Point | None] = [None] * count
    for number in range(count):
        offers = [way[number] for way in ways if number in way and np.isfinite(way[number].x)]
        if len(offers) == 1:
            points[number] = offers[0]
        elif offers:
            left = max(mark.frame for mark in ordered if mark.frame <= number)
            right = min(mark.frame for mark in ordered if mark.frame >= number)
            share = (number - left) / max(right - left, 1)
            points[number] = _blend(offers[0], offers[1], share)
    for mark in ordered:
        rim = rims[mark.frame]
        points[mark.frame] = _Point(
            rim.x_px, rim.y_px, float(np.mean(rim.axes_px)), 1.0, State.BY_HAND
        )
    return points


def _blend(left: _Point, right: _Point, share: float) -> _Point:
    a = (1 - share) * left.confidence + 1e-6
    b = share * right.confidence + 1e-6
    a, b = a / (a + b), b / (a + b)
    apart = float(np.hypot(left.x - right.x, left.y - right.y)) / left.r
    confidence = (a * left.confidence + b * right.confidence) * float(
        np.exp(-((apart / 0.15) ** 2))
    )
    if State.REPEATED in (left.state, right.state):
        state = State.REPEATED
    else:
        state = State.GOOD if confidence >= GOOD else State.CHECK
    return _Point(
        a * left.x + b * right.x,
        a * left.y + b * right.y,
        a * left.r + b * right.r,
        confidence,
        state,
        left.sharp,
    )


def _as_track(t_s: NDArray[np.float64], points: list[_Point | None], rim: Rim) -> BarTrack:
    nothing = _Point(np.nan, np.nan, np.nan, 0.0, State.LOST)
    filled = [point or nothing for point in points]
    return BarTrack(
        t_s=np.asarray(t_s, float),
        x_px=np.array([p.x for p in filled]),
        y_px=np.array([p.y for p in filled]),
        r_px=np.array([p.r for p in filled]),
        confidence=np.array([p.confidence for p in filled]),
        state=np.array([p.state for p in filled], np.uint8),
        rim=rim,
        still_x_px=np.array([p.x for p in filled]),
        still_y_px=np.array([p.y for p in filled]),
        sharp=np.array([p.sharp for p in filled]),
        contrast=0.0,
    )


def _follow(
    pictures: Pictures,
    anchor: PlateMark,
    last: int,
    step: Callable[[int, _Point], None],
    rims: dict[int, Rim],
) -> dict[int, _Point]:
    """Track from one anchor to frame `last`, forwards or backwards."""
    picture = pictures.bgr(anchor.frame)
    rim, model = fit_rim(picture, anchor.x_px, anchor.y_px, anchor.r_px)
    rims[anchor.frame] = rim
    plate = _Plate(picture, rim, model)
    heading = 1 if last >= anchor.frame else -1
    points: dict[int, _Point] = {}
    if anchor.frame == last or not 0 <= last < len(pictures.t_s):
        return points
    coasted = 0.0
    before_t = float(pictures.t_s[anchor.frame])
    for number in range(anchor.frame + heading, last + heading, heading):
        t = float(pictures.t_s[number])
        try:
            point = plate.advance(pictures.bgr(number), abs(t - before_t))
        except ClipUnreadable:
            point = plate.lose(abs(t - before_t))
        coasted = coasted + abs(t - before_t) if point.state == State.LOST else 0.0
        before_t = t
        points[number] = point
        step(number, point)
        if coasted > COAST_S:
            break
    return points


class _Plate:
    """The plate as it is known just now: place, size, velocity, looks."""

    def __init__(self, picture: NDArray[np.uint8], rim: Rim, model: RimModel) -> None:
        grey = _grey(picture)
        self.x, self.y, self.growth = rim.x_px, rim.y_px, 1.0
        self.radius = float(np.mean(rim.axes_px))
        self.velocity = np.zeros(2)
        self.model = model
        self.rim_trust = 1.0 if rim.found else 0.4
        self.first_support = max(model.fit(picture, self.x, self.y).support, 0.2)
        self.first = Look.of(grey, self.x, self.y, self.radius)
        self.running = Look.of(grey, self.x, self.y, self.radius)
        self.before = grey

    @property
    def r(self) -> float:
        return self.radius * self.growth

    def advance(self, picture: NDArray[np.uint8], gap_s: float) -> _Point:
        grey = _grey(picture)
        before, self.before = self.before, grey
        if _is_repeat(before, grey):
            return _Point(self.x, self.y, self.r, 0.5, State.REPEATED)
        shift = self.velocity * gap_s
        ahead_x, ahead_y = self.x + float(shift[0]), self.y + float(shift[1])
        reach = 0.55 * self.r + 0.5 * float(np.hypot(*shift))
        guesses = [look.find(grey, ahead_x, ahead_y, reach) for look in (self.running, self.first)]
        flow = flow_guess(before, grey, self.x, self.y, self.r, (float(shift[0]), float(shift[1])))
        if flow is not None:
            guesses.append(flow)
        best = self._choose(picture, grey, guesses)
        if best is None or best.confidence < POOR:
            wide = self._search_wide(picture, grey, ahead_x, ahead_y)
            if wide is not None and (best is None or wide.confidence > best.confidence):
                best = wide
        if best is None or best.confidence < 0.6 * POOR:
            return self.lose(gap_s)
        self._accept(best, grey, gap_s)
        return replace(best, sharp=self.first.sharpness(grey, best.x, best.y))

    def lose(self, gap_s: float) -> _Point:
        """Coast on with a fading velocity; the frame has no point of its own."""
        self.x += float(self.velocity[0]) * gap_s
        self.y += float(self.velocity[1]) * gap_s
        self.velocity *= 0.8
        return _Point(np.nan, np.nan, np.nan, 0.0, State.LOST)

    def _accept(self, point: _Point, grey: Grey, gap_s: float) -> None:
        moved = np.array([point.x - self.x, point.y - self.y]) / max(gap_s, 1e-6)
        self.velocity = 0.25 * self.velocity + 0.75 * moved
        self.x, self.y = point.x, point.y
        self.growth = float(np.clip(point.r / self.radius, 0.7, 1.4))
        if point.confidence >= GOOD:
            self.running.renew(grey, self.x, self.y, 0.35)

    def _search_wide(
        self, picture: NDArray[np.uint8], grey: Grey, ahead_x: float, ahead_y: float
    ) -> _Point | None:
        places = [(self.x, self.y), (ahead_x, ahead_y)]
        looks = (self.running, self.first)
        guesses = [look.find(grey, x, y, 1.6 * self.r) for look in looks for x, y in places]
        return self._choose(picture, grey, guesses)

    def _choose(
        self, picture: NDArray[np.uint8], grey: Grey, guesses: Sequence[Guess]
    ) -> _Point | None:
        """Draw each guess to the rim, score it, take the best with those that agree."""
        high, wide = grey.shape
        on_picture = [g for g in guesses if 0 <= g.x_px < wide and 0 <= g.y_px < high]
        rated: list[tuple[float, Guess, RimFit]] = []
        for guess in on_picture:
            if any(_apart(guess, row[1]) < 0.03 * self.r for row in rated):
                continue
            rim = self.model.fit(picture, guess.x_px, guess.y_px, self.growth)
            likeness = max(
                look.likeness(grey, guess.x_px, guess.y_px) for look in (self.running, self.first)
            )
            support = min(rim.support / self.first_support, 1.0) * min(rim.visible / 0.5, 1.0)
            trust = 0.5 * self.rim_trust
            rated.append((trust * support + (1 - trust) * likeness, guess, rim))
        if not rated:
            return None
        score, guess, rim = max(rated, key=lambda row: row[0])
        return self._fuse(score, guess, rim, on_picture)

    def _fuse(self, score: float, guess: Guess, rim: RimFit, others: Sequence[Guess]) -> _Point:
        support = min(rim.support / self.first_support, 1.0) * self.rim_trust
        near = [g for g in others if _apart(g, guess) < 0.12 * self.r]
        places = np.array([[g.x_px, g.y_px] for g in near])
        weights = np.array([0.25 * g.support + 1e-3 for g in near])
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
        if support > 0.5:
            growth = 0.8 * growth + 0.2 * rim.growth
        state = State.GOOD if confidence >= GOOD else State.CHECK
        return _Point(
            float(place[0]), float(place[1]), self.radius * growth, float(confidence), state
        )


def _apart(a: Guess, b: Guess) -> float:
    return float(np.hypot(a.x_px - b.x_px, a.y_px - b.y_px))


def _grey(picture: NDArray[np.uint8]) -> Grey:
    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), np.uint8)


def _is_repeat(before: Grey, now: Grey) -> bool:
    """Nearly no change anywhere: the largest block's mean change is under a grey level."""
    a, b = before[::3, ::3], now[::3, ::3]
    change = cv2.absdiff(a, b)
    blocks = cv2.blur(change, (8, 8))[4::8, 4::8]
    return bool(blocks.max(initial=0) < REPEAT_LEVEL)
