"""Looks for plates with the judge: round what is round, near a rough mark, up and down a column."""

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.plate_judge import judge_circles, judge_is_there
from keen_kettle.core.track.rounds import Round, colour_round

__all__ = ["judged_rounds", "plate_at", "plate_in_column", "plate_near"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

SCALES = np.array([1.0, 1.6, 2.6, 4.2])
"""What is round may be a hub: rims are looked for round it, so many times as large. The judge knows how to
mend a circle a good deal sooner than that it is a plate's, so each is mended before it is judged."""
LIKELY = 64
"""So many, mended, are judged. Of 372 pictures with a plate one loses it among 48; with 32 that is the same, but
the gaps let a rack's discs be joined into a way."""
LARGEST, MAYBE, SURE = 0.26, 0.25, 0.4
SAME_PLACE, SAME_SIZE = 0.35, 0.3
PLAIN_VOTE, SURE_VOTE = 0.1, 0.6
MOST = 6
ROUND_ABOUT, OFF, OFF_SIZES, MENDINGS = 6, 0.25, (0.8, 1.0, 1.25), 2
MOST_OFF, USUALLY_OFF, SURELY_MEANT, SAME_RIM = 0.5, 0.3, 0.6, 0.15
"""A rough mark is mended from round about it; it is meant for a plate at most so far off, and of several
for the nearer one."""
AT_OFF = 0.15
"""A plate whose place is known nearly is looked for so far about it."""
SCAN, SCANNED, LEAST_MOVING = 0.35, (-0.45, -0.1, 0.25), 0.05
"""How closely a column is looked through, and how far aside of it (radii)."""


def judged_rounds(picture: Picture, found: list[Round]) -> list[Round]:
    """Round things and the rims round them that look like plates', the surest first; the others after them.

    What looks like a plate votes by how surely it does.
    """
    if not found or not judge_is_there():
        return found
    most = LARGEST * min(picture.shape[:2])
    tries = np.array([(one.x, one.y, one.r * k) for one in found for k in SCALES])
    first, mended = judge_circles(picture, tries[tries[:, 2] <= most])
    likely = np.argsort(first)[::-1]
    mended = mended[likely[mended[likely, 2] <= most][:LIKELY]]
    sure, mended = judge_circles(picture, mended)
    kept: list[Round] = []
    for k in np.argsort(sure)[::-1]:
        if sure[k] < SURE or len(kept) == MOST:
            break
        made = _as_round(picture, mended[k], float(sure[k]))
        if not any(_alike(made, one) for one in kept):
            kept.append(made)
    return [*kept, *(one for one in found if not any(_alike(one, other) for other in kept))]


def plate_near(picture: Picture, x: float, y: float, r: float) -> tuple[float, float, float] | None:
    """The plate that a rough mark means, as centre and radius; None where nothing near looks like one."""
    turns = np.linspace(0, 2 * np.pi, ROUND_ABOUT, endpoint=False)
    places = np.array([(0.0, 0.0), *(OFF * np.column_stack([np.cos(turns), np.sin(turns)]))])
    tries = np.array([(x + dx * r, y + dy * r, r * k) for dx, dy in places for k in OFF_SIZES])
    for _ in range(MENDINGS):
        _, tries = judge_circles(picture, tries)
    sure, mended = judge_circles(picture, tries)
    off = np.hypot(mended[:, 0] - x, mended[:, 1] - y) / r
    size = np.abs(np.log(mended[:, 2] / r))
    likely = sure * np.exp(-0.5 * (off**2 + size**2) / USUALLY_OFF**2)
    rating = np.where((off < MOST_OFF) & (size < MOST_OFF) & (sure > SURELY_MEANT), likely, 0.0)
    best = mended[int(np.argmax(rating))]
    if rating.max() == 0:
        return None
    away = np.hypot(mended[:, 0] - best[0], mended[:, 1] - best[1]) / best[2]
    same = (rating > 0) & (away < SAME_RIM) & (np.abs(np.log(mended[:, 2] / best[2])) < SAME_RIM)
    at = np.median(mended[same], axis=0)
    return float(at[0]), float(at[1]), float(at[2])


def plate_at(picture: Picture, x: float, y: float, r: float) -> Round | None:
    """What looks like a plate of about this place and size; None where nothing does."""
    if not judge_is_there():
        return None
    places = np.array([x, y]) + AT_OFF * r * np.array([(0, 0), (1, 0), (-1, 0), (0, 1), (0, -1)])
    _, tries = judge_circles(picture, np.column_stack([places, np.full(len(places), r)]))
    sure, mended = judge_circles(picture, tries)
    best = int(np.argmax(sure))
    mx, my, mr = mended[best]
    near = np.hypot(mx - x, my - y) < SAME_PLACE * r and abs(np.log(mr / r)) < SAME_SIZE
    return (
        _as_round(picture, mended[best], float(sure[best])) if near and sure[best] > SURE else None
    )


def plate_in_column(
    picture: Picture, moving: NDArray[np.float32], laid: Array, x: float, r: float
) -> Round | None:
    """The plate of a size that moves near a column, the surest; None where nothing there looks like one.

    `laid` (2, 3) leads from this picture to the place in which the column `x` is known.
    """
    high, wide = picture.shape[:2]
    rows = np.arange(0.2 * r, high, SCAN * r)
    back = cv2.invertAffineTransform(laid)
    column = back[0, 0] * x + back[0, 1] * rows + back[0, 2]
    tries = np.concatenate(
        [np.column_stack([column + k * r, rows, np.full(len(rows), r)]) for k in SCANNED]
    )
    inside = (tries[:, 0] > 0) & (tries[:, 0] < wide)
    tries = tries[inside]
    about = cv2.blur(moving, (max(int(r), 1), max(int(r), 1)))
    tries = tries[about[tries[:, 1].astype(int), tries[:, 0].astype(int)] > LEAST_MOVING]
    sure, mended = judge_circles(picture, tries)
    sure, mended = judge_circles(picture, mended[sure > MAYBE])
    fits = np.abs(np.log(mended[:, 2] / r)) < SAME_SIZE if len(mended) else np.zeros(0, bool)
    if not fits.any() or sure[fits].max() < SURE:
        return None
    best = int(np.argmax(np.where(fits, sure, 0.0)))
    return _as_round(picture, mended[best], float(sure[best]))


def _as_round(picture: Picture, circle: Array, sure: float) -> Round:
    x, y, r = (float(one) for one in circle)
    vote = PLAIN_VOTE + SURE_VOTE * sure
    return Round(x, y, r, vote, colour_round(picture, x, y, r), sure)


def _alike(one: Round, other: Round) -> bool:
    near = np.hypot(one.x - other.x, one.y - other.y) < SAME_PLACE * max(one.r, other.r)
    return bool(near and abs(np.log(one.r / other.r)) < SAME_SIZE)
