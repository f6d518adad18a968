"""What is known of the lifter's body in a clip: points seen by the model, work by hand, the answer."""

from dataclasses import dataclass, field, replace
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.pictures import in_large, in_small

__all__ = [
    "CARRIED",
    "LANDMARKS",
    "NEEDED_SIDE_ON",
    "SEGMENTS",
    "BodyHand",
    "BodyPoint",
    "BodySeed",
    "BodySpan",
    "BodyTrack",
    "PointState",
    "Sightings",
    "crop_side_of",
]

Array = NDArray[np.float64]

LANDMARKS = ("toe", "heel", "ankle", "knee", "hip", "shoulder", "elbow", "wrist", "ear")
FOOT_OVER_KNEE, KNEE_OVER_HIP = 0.05, 0.15
"""No lifter's foot comes so far above the knee, nor the knee so far above the hip (bodies)."""
SEGMENTS = (
    ("toe", "heel"),
    ("heel", "ankle"),
    ("ankle", "knee"),
    ("knee", "hip"),
    ("hip", "shoulder"),
    ("shoulder", "elbow"),
    ("elbow", "wrist"),
    ("shoulder", "ear"),
)
"""What is drawn between the points."""
CARRIED = (
    ("ankle", "knee"),
    ("knee", "hip"),
    ("hip", "shoulder"),
    ("shoulder", "elbow"),
    ("shoulder", "ear"),
)
"""Segments whose own picture is followed from look to look."""
NEEDED_SIDE_ON = 0.40
"""Shoulders that look further apart than this share of the trunk are no side view."""
NEEDED_SQUARE_ON = 0.24
"""And than this no view at right angles (from 25 degrees aside 0.2 to 0.3, rendered films)."""
NARROWEST = 0.25
"""Under a racked bar, and behind a plate, shoulders are seen apart that are not: the looks in which they
are the closest tell the view, a quarter of all."""


class PointState(IntEnum):
    """How a point of the body came to be where it is."""

    MEASURED = 0
    ASSUMED = 1
    BY_HAND = 2
    HIDDEN = 3
    MISSING = 4


@dataclass(frozen=True)
class BodyPoint:
    """A point that the coach has set; pixels."""

    frame: int
    name: str
    x: float
    y: float


@dataclass(frozen=True)
class BodySpan:
    """Frames (both included) over which the coach says something of a point.

    `kind` is "hidden" (what the model saw there is not used, and the point is not shown) or
    "planted" (`name` is "foot": toe and heel stay where they are).
    """

    kind: str
    name: str
    first: int
    last: int


@dataclass(frozen=True)
class BodySeed:
    """Hip and shoulder of the lifter, clicked on one frame where the model had lost the way."""

    frame: int
    hip_x: float
    hip_y: float
    shoulder_x: float
    shoulder_y: float

    def smaller(self, by: int) -> "BodySeed":
        """In pictures that are made so many times smaller."""
        places = (self.hip_x, self.hip_y, self.shoulder_x, self.shoulder_y)
        return BodySeed(self.frame, *(in_small(place, by) for place in places))


@dataclass(frozen=True)
class BodyHand:
    """All work by hand on the body of one clip."""

    points: tuple[BodyPoint, ...] = ()
    spans: tuple[BodySpan, ...] = ()
    seeds: tuple[BodySeed, ...] = ()

    def with_point(self, point: BodyPoint) -> "BodyHand":
        """With a point set; one of the same name on the same frame gives way."""
        others = [p for p in self.points if (p.frame, p.name) != (point.frame, point.name)]
        kept = tuple(sorted([*others, point], key=lambda p: (p.frame, p.name)))
        return replace(self, points=kept)

    def without_point(self, frame: int, name: str) -> "BodyHand":
        return replace(
            self, points=tuple(p for p in self.points if (p.frame, p.name) != (frame, name))
        )

    def with_span(self, span: BodySpan) -> "BodyHand":
        """With a span; those of the same kind and name that it touches become one with it."""
        first, last, others = span.first, span.last, []
        for one in self.spans:
            alike = (one.kind, one.name) == (span.kind, span.name)
            if alike and one.first <= last + 1 and first <= one.last + 1:
                first, last = min(first, one.first), max(last, one.last)
            else:
                others.append(one)
        whole = replace(span, first=first, last=last)
        return replace(self, spans=(*others, whole))

    def without_span(self, kind: str, name: str, frame: int) -> "BodyHand":
        """Without the span of that kind and name that holds a frame."""
        return replace(
            self,
            spans=tuple(
                one
                for one in self.spans
                if (one.kind, one.name) != (kind, name) or not one.first <= frame <= one.last
            ),
        )

    def covers(self, kind: str, name: str, frame: int) -> bool:
        return any(
            (one.kind, one.name) == (kind, name) and one.first <= frame <= one.last
            for one in self.spans
        )


@dataclass(frozen=True)
class Sightings:
    """What the model saw and patches of the picture told; it belongs to the film, the seeds and its version.

    `frames` (k,) were looked at; `points` (k, 2, 9, 2) are pixels of the left and the right side,
    NaN where nobody was found; `presence` (k, 2, 9) from 0 to 1; `nose_x` (k,) pixels; `heel_px` (k,)
    how far the picture of the heel has come up from where it stood, NaN where it was not watched;
    `moves` (k, segments, 2, 3) how each half of a `CARRIED` segment moves to the next look: where along
    it (a share), across and down in pixels, NaN where that is not known; `carried` (k,) whether points
    were carried on by these, since the model had lost the body.
    """

    frames: NDArray[np.int32]
    points: NDArray[np.float32]
    presence: NDArray[np.float32]
    nose_x: NDArray[np.float32]
    heel_px: NDArray[np.float32] | None = None
    moves: NDArray[np.float32] | None = None
    carried: NDArray[np.bool_] | None = None

    def larger(self, by: int) -> "Sightings":
        """In pictures that are so many times larger."""
        moves = self.moves
        if moves is not None:
            moves = moves * np.array([1, by, by], np.float32)
        return replace(
            self,
            points=in_large(self.points.astype(float), by).astype(np.float32),
            nose_x=in_large(self.nose_x.astype(float), by).astype(np.float32),
            heel_px=None if self.heel_px is None else by * self.heel_px,
            moves=moves,
        )

    def as_first_shown(self, again: NDArray[np.bool_]) -> "Sightings":
        """Each look at a picture that is shown again (`again`, (frames,)) told of the frame that showed it first,
        unless that was looked at itself: a repeated picture has no time of its own, but what it shows was."""
        first = np.maximum.accumulate(np.where(again, 0, np.arange(len(again))))[self.frames]
        before = np.concatenate([[-1], self.frames[:-1]])
        return replace(self, frames=np.where(first > before, first, self.frames).astype(np.int32))

    @property
    def found(self) -> NDArray[np.bool_]:
        """Whether somebody was found, for each frame that was looked at."""
        return np.isfinite(self.points[:, 0, 0, 0])

    def facing(self) -> str | None:
        """Where the lifter looks, "right" or "left"; None where it cannot be told.

        The nose against the ears, and the toes against the heels, each frame one vote.
        """
        ears = self.points[:, :, LANDMARKS.index("ear"), 0].mean(axis=1)
        feet = (
            self.points[:, :, LANDMARKS.index("toe"), 0]
            - self.points[:, :, LANDMARKS.index("heel"), 0]
        )
        size = self.body_px()
        votes = np.concatenate([self.nose_x - ears, feet.mean(axis=1)])
        votes = votes[np.isfinite(votes) & (np.abs(votes) > 0.02 * size)]
        if len(votes) < 6:
            return None
        right = float(np.mean(votes > 0))
        return "right" if right >= 0.8 else "left" if right <= 0.2 else None

    def body_px(self) -> float:
        """Shank, thigh and trunk together in pixels (median), about 0.78 of stature."""
        total = np.zeros(len(self.frames))
        near = self.points.mean(axis=1)
        for a, b in (("ankle", "knee"), ("knee", "hip"), ("hip", "shoulder")):
            way = near[:, LANDMARKS.index(a)] - near[:, LANDMARKS.index(b)]
            total = total + np.hypot(way[:, 0], way[:, 1])
        return float(np.nanmedian(total)) if np.isfinite(total).any() else float("nan")

    def possible(self, side: int) -> NDArray[np.float64]:
        """The points of one side (0 left, 1 right), shape (k, 9, 2), without impossible legs.

        A leg that is seen with its foot above its knee, or its knee far above the hip, is none.
        """
        points = self.points[:, side].astype(float)
        toe, heel, ankle, knee, hip = range(5)
        with np.errstate(invalid="ignore"):
            height = -points[..., 1] / self.body_px()
            foot = height[:, [toe, heel, ankle]].max(axis=1)
            wrong = foot > height[:, knee] + FOOT_OVER_KNEE
            wrong |= height[:, knee] > height[:, hip] + KNEE_OVER_HIP
        points[wrong, : knee + 1] = np.nan
        return points

    def feet_apart_px(self, count: int) -> Array:
        """How far the two ankles are apart across the picture in each of `count` frames, (count,).

        Between the frames that were looked at it is interpolated; NaN where nobody was found.
        """
        ankle = LANDMARKS.index("ankle")
        apart = np.abs(np.diff(self.points[:, :, ankle, 0], axis=1))[:, 0]
        known = np.isfinite(apart)
        if not known.any():
            return np.full(count, np.nan)
        return np.interp(np.arange(count), self.frames[known], apart[known])

    def heel_in_all_px(self, count: int) -> Array | None:
        """`heel_px` in each of `count` frames, (count,), between looks on a straight way."""
        if self.heel_px is None:
            return None
        rise = np.interp(np.arange(count), self.frames, self.heel_px)
        return np.asarray(rise)

    def breadth(self) -> float:
        """How far apart the shoulders look, as a share of the trunk; NaN if nobody."""
        shoulder, hip = LANDMARKS.index("shoulder"), LANDMARKS.index("hip")
        apart = np.abs(np.diff(self.points[:, :, shoulder, 0], axis=1))[:, 0]
        trunk = np.hypot(*(self.points[:, :, shoulder] - self.points[:, :, hip]).mean(axis=1).T)
        share = apart / np.maximum(trunk, 1.0)
        if self.carried is not None:
            share = share[~self.carried]
        return float(np.nanquantile(share, NARROWEST)) if np.isfinite(share).any() else float("nan")


@dataclass(frozen=True)
class BodyTrack:
    """The near side of the lifter's body over all frames of a clip.

    `x_px`, `y_px`, `sigma_px`, `confidence` and `state` have shape (frames, 9), in the order of
    `LANDMARKS`; NaN where nothing is known. `lengths_px` are the segments' usual lengths.
    `breadth` is how far apart the shoulders look (share of the trunk; NaN when not known), and
    `apart_px` (frames,) the two ankles; `heel_px` (frames,) is how far the picture of the heel has come
    up from where it stood, NaN where it was not watched (both None when not known).
    """

    t_s: Array
    x_px: Array
    y_px: Array
    sigma_px: Array
    confidence: Array
    state: NDArray[np.uint8]
    facing: str
    lengths_px: dict[tuple[str, str], float] = field(default_factory=dict)
    breadth: float = float("nan")
    apart_px: Array | None = None
    heel_px: Array | None = None

    def __len__(self) -> int:
        return len(self.t_s)

    def point(self, name: str, frame: int) -> Array:
        """Pixels, shape (2,); NaN where not known or hidden."""
        k = LANDMARKS.index(name)
        if self.state[frame, k] == PointState.HIDDEN:
            return np.full(2, np.nan)
        return np.array([self.x_px[frame, k], self.y_px[frame, k]])

    @property
    def known(self) -> NDArray[np.bool_]:
        """(frames, 9): whether there is a point that may be used."""
        return np.asarray(np.isfinite(self.x_px) & (self.state != PointState.HIDDEN))

    @property
    def side_on(self) -> bool:
        """Whether the lifter is seen from the side (unknown counts as yes)."""
        return not self.breadth > NEEDED_SIDE_ON

    @property
    def square_on(self) -> bool:
        """Whether the view may be at right angles to the bar (unknown counts as yes)."""
        return not self.breadth > NEEDED_SQUARE_ON


def crop_side_of(trunk_px: float) -> float:
    """How far a body reaches from its hips, from the length of its trunk."""
    return 1.85 * trunk_px
