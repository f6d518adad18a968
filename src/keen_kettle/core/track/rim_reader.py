"""Reads a plate's rim in the square round a rough circle: its outline, and how unsure that is.

A small net, taught on drawn scenes (see `weights/README.md`), knows what lies within a rim: a bright
stripe near it, a smaller plate before it, the thickness behind. Edges do not; they are what the rim is
then measured by, near to where it was read.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.small_nets import crops_of, evened, network, said_by

__all__ = ["CROP_PX", "REACH", "ReadRim", "read_rim"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS = "rim-reader.tflite"
CROP_PX, REACH = 64, 1.5
"""A crop's side in pixels, and how many radii it reaches from its centre to each side."""
OFF, OFF_SIZES = 0.08, (0.93, 1.0, 1.08)
NEAR = np.array([(0.0, 0.0, size) for size in OFF_SIZES])
AROUND = np.array(
    [(dx, dy, size) for size in OFF_SIZES for dx, dy in ((0, 0), (-1, 0), (1, 0), (0, -1), (0, 1))]
)
AROUND[:, :2] *= OFF
ROUNDS = (NEAR, NEAR, AROUND)
"""From where the rim is read: shifts and sizes, in radii; each round begins where the one before has read it."""
MOST_OFF = 0.6


@dataclass(frozen=True)
class ReadRim:
    """An upright or leaning ellipse: centre, half height `r` in pixels, width as a share of it, lean in
    degrees; and one sigma of its place and its size, as shares of `r`."""

    x: float
    y: float
    r: float
    narrow: float
    tilt_deg: float
    place_sigma: float
    size_sigma: float


def read_rim(picture: Picture, x: float, y: float, r: float) -> ReadRim | None:
    """The rim near a circle, as the net reads it from round about and both ways round; the mean of many
    answers is nearer than one. None where the library that runs the net is missing.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    x, y, r : centre and radius in pixels, about a fifth of the radius off at most
    """
    runs = network(WEIGHTS)
    if runs is None:
        return None
    mirrored, wide = np.ascontiguousarray(picture[:, ::-1]), picture.shape[1] - 1
    flip = np.array([-1.0, 1.0, 1.0, 1.0, -1.0])
    for begin in ROUNDS:
        tries = np.array([x, y, 0]) + r * begin
        other = tries * [-1, 1, 1] + [wide, 0, 0]
        crops = [
            crops_of(seen, at, CROP_PX, REACH) for seen, at in ((picture, tries), (mirrored, other))
        ]
        said = said_by(runs, evened(np.concatenate(crops))).astype(float)
        step, unsure = said[:, :5], np.exp(np.clip(said[:, 5:], -6.0, 1.0))
        step[len(tries) :] *= flip
        step[:, :3] = np.clip(step[:, :3], -MOST_OFF, MOST_OFF)
        both = np.concatenate([tries, tries])
        places = both[:, :2] + step[:, :2] * both[:, 2:]
        sizes = np.log(both[:, 2]) + step[:, 2]
        (x, y), r = (float(k) for k in places.mean(axis=0)), float(np.exp(sizes.mean()))
    along, across = step[:, 3:].mean(axis=0)
    spread = float(np.hypot(*places.std(axis=0))) / r, float(sizes.std())
    # Laplace's width times the root of two is his sigma.
    place, size = (float(np.hypot(np.sqrt(2) * unsure[:, k].mean(), spread[k])) for k in (0, 1))
    narrow = float(np.clip(1 - np.hypot(along, across), 0.6, 1.0))
    return ReadRim(x, y, r, narrow, float(np.degrees(np.arctan2(across, along) / 2)), place, size)
