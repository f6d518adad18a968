"""The hall's vertical, from what stands upright in it: posts, doors, racks, edges of walls.

Forward and rearward are read against the vertical, and a phone in the hand hangs askew: 4° make 5 cm
of a rise of 70. Line segments away from the lifter that are nearly upright are gathered from a few
pictures; a camera that looks up or down shows them leaning together to one side, so their lean is
taken as a straight line over the picture's width, by the segments that most agree on.
"""

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import ClipUnreadable, MarkError
from keen_kettle.core.track.framing import Framing

__all__ = [
    "UNKNOWN_HELD_DEG",
    "UNKNOWN_STILL_DEG",
    "Vertical",
    "find_vertical",
    "vertical_along",
]

Array = NDArray[np.float64]

NEARLY_UPRIGHT_DEG = 12.0
WIDEST_PX = 1280
LEAST_LONG = 0.07
"""A segment counts from this share of the picture's height on."""
LIFTER = 2.6
"""The lifter's half width in plate radii: what is nearer to the bar's path is left out."""
AGREE_DEG, LEAST_AGREEING, FEWEST = 0.8, 0.6, 4
MOST_LINES = 80
MOST_CONVERGING_DEG = 12.0
"""From one edge of the picture to the other, upright lines turn by so much at most."""
LEAST_SIGMA_DEG = 0.3
UNKNOWN_STILL_DEG, UNKNOWN_HELD_DEG = 1.5, 3.0
"""How far a camera is held askew where no upright thing is seen: on a stand, and in the hand (posts
leaned by 1 to 5.5° in clips filmed by hand)."""

SHORTEST_LINE_PX, MOST_LEAN_DEG = 60.0, 20.0
END_PX, LINE_DEG, ROLLS_DEG = 1.5, 0.5, 1.0
"""A line set by hand: how well its ends lie, how much upright things converge over the picture, and how
much a camera in the hand rolls away from the frame on which it was drawn."""


@dataclass(frozen=True)
class Vertical:
    """How far the hall leans to the right in the picture (degrees), and its uncertainty; no lean and
    `found` False where nothing tells it."""

    lean_deg: float = 0.0
    sigma_deg: float = 0.0
    found: bool = True

    def upright(self, x: Array, up: Array) -> tuple[Array, Array]:
        """Places across and up in the picture (from one origin) along the hall's own axes."""
        lean = np.radians(self.lean_deg)
        return (
            np.asarray(x * np.cos(lean) - up * np.sin(lean)),
            np.asarray(x * np.sin(lean) + up * np.cos(lean)),
        )


def vertical_along(line: tuple[float, ...], held: bool) -> Vertical:
    """The vertical by a line that a coach drew along something upright.

    Parameters
    ----------
    line : x, y, x, y in pixels
    held : whether the camera moved, as in a hand

    Raises
    ------
    MarkError
        The line is too short to tell a lean, or nothing upright can lean so much.
    """
    x1, y1, x2, y2 = line
    long = float(np.hypot(x2 - x1, y2 - y1))
    if long < SHORTEST_LINE_PX:
        raise MarkError(
            f"The line is too short: draw at least {SHORTEST_LINE_PX:.0f} pixels along a post, a door or "
            "a rack, the longer the better."
        )
    dx, dy = (x2 - x1, y1 - y2) if y1 > y2 else (x1 - x2, y2 - y1)
    lean = float(np.degrees(np.arctan2(dx, max(dy, 1e-9))))
    if abs(lean) > MOST_LEAN_DEG:
        raise MarkError(
            f"The line leans by {abs(lean):.0f}°; draw it along something that stands upright."
        )
    ends = float(np.degrees(np.sqrt(2) * END_PX / long))
    sigma = float(np.hypot(np.hypot(ends, LINE_DEG), ROLLS_DEG if held else 0.0))
    return Vertical(lean, sigma, True)


def find_vertical(
    bgr: Callable[[int], NDArray[np.uint8]],
    frames: Sequence[int],
    bar_x_px: Array,
    radius_px: float,
    held: bool,
) -> Vertical:
    """The vertical at the bar, from a few pictures of one place of the camera.

    Parameters
    ----------
    frames : the pictures to look at
    bar_x_px : shape (n,), where the bar is seen on its whole way
    held : whether the camera moved, as in a hand
    """
    unknown = Vertical(0.0, UNKNOWN_HELD_DEG if held else UNKNOWN_STILL_DEG, False)
    known = bar_x_px[np.isfinite(bar_x_px)]
    if not len(known):
        return unknown
    pictures = []
    for frame in frames:
        with suppress(ClipUnreadable):
            pictures.append(bgr(frame))
    if not pictures:
        return unknown
    left, right = float(known.min()) - LIFTER * radius_px, float(known.max()) + LIFTER * radius_px
    framing = Framing(len(pictures))
    for picture in pictures:
        framing.see(picture)
    first, _, last, _ = framing.box
    lines = np.concatenate([_upright(picture) for picture in pictures])
    x = lines[:, 0]
    lines = lines[((x < left) | (x > right)) & (x > first) & (x < last)]
    lines = lines[np.argsort(-lines[:, 2])[:MOST_LINES]]
    if len(lines) < FEWEST:
        return unknown
    return _agreed(lines, float(pictures[0].shape[1]), float(np.median(known))) or unknown


def _upright(picture: NDArray[np.uint8]) -> Array:
    """Nearly upright segments: middle x, lean (degrees), length; shape (n, 3)."""
    grey = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY)
    zoom = min(WIDEST_PX / grey.shape[1], 1.0)  # the detector takes thirty bytes for each pixel
    if zoom < 1:
        grey = cv2.resize(grey, None, fx=zoom, fy=zoom, interpolation=cv2.INTER_AREA)
    found = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(grey)[0]
    segments = np.array(() if found is None else found, float).reshape(-1, 4) / zoom
    x1, y1, x2, y2 = segments.T
    # From the lower end to the upper one.
    up = np.where(y1 > y2, 1.0, -1.0)
    dx, dy = up * (x2 - x1), up * (y1 - y2)
    lean, long = np.degrees(np.arctan2(dx, np.maximum(dy, 1e-9))), np.hypot(dx, dy)
    kept = (np.abs(lean) < NEARLY_UPRIGHT_DEG) & (long > LEAST_LONG * picture.shape[0])
    return np.asarray(np.column_stack([(x1 + x2) / 2, lean, long])[kept])


def _agreed(lines: Array, wide: float, at_x: float) -> Vertical | None:
    """The lean on which most of the segments' length agrees; None if too little does."""
    x, lean, long = lines.T
    best = np.zeros(len(lines), bool)
    for i in range(len(lines)):
        for j in range(i, len(lines)):
            slope = 0.0
            if abs(x[j] - x[i]) > 0.2 * wide:
                slope = (lean[j] - lean[i]) / (x[j] - x[i])
            if abs(slope) * wide > MOST_CONVERGING_DEG:
                continue
            agree = np.abs(lean - lean[i] - slope * (x - x[i])) < AGREE_DEG
            if long[agree].sum() > long[best].sum():
                best = agree
    if best.sum() < FEWEST or long[best].sum() < LEAST_AGREEING * long.sum():
        return None
    spread = np.ptp(x[best]) > 0.2 * wide
    columns = [np.ones(best.sum()), x[best] - at_x] if spread else [np.ones(best.sum())]
    across, weight = np.column_stack(columns), np.sqrt(long[best])
    answer = np.linalg.lstsq(across * weight[:, None], lean[best] * weight, rcond=None)[0]
    off = lean[best] - across @ answer
    sigma = float(np.hypot(LEAST_SIGMA_DEG, np.std(off) / np.sqrt(max(best.sum() / 3, 1))))
    return Vertical(float(answer[0]), sigma, True)
