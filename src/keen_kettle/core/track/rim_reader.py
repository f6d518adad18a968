"""Reads a plate's rim in the square round a rough circle: its outline, and how unsure that is.

A small net, taught on drawn scenes (see `weights/README.md`), knows what lies within a rim: a bright
stripe near it, a smaller plate before it, the thickness behind. Edges do not; they are what the rim is
then measured by, near to where it was read.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.small_nets import SmallNet, crops_of, evened, network

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
MOST_OFF, NARROWEST, WIDTHS = 0.6, 0.6, (-6.0, 1.0)
SURE = 0.065
"""A reading that is less sure (of its place or its size) is of no plate: of 150 rough marks on plates most come to
0.025 to 0.055, of random places nearly all to more than 0.06."""
SIDEWAYS = [0, 4]
"""The numbers that change their sign in the mirror."""


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

    @property
    def sure(self) -> bool:
        """Whether there is a plate."""
        return max(self.place_sigma, self.size_sigma) < SURE


def read_rim(picture: Picture, x: float, y: float, r: float) -> ReadRim | None:
    """The rim near a circle, as the net reads it from round about and both ways round; the mean of many
    answers is nearer than one. None where the library that runs the net is missing.

    Parameters
    ----------
    picture : shape (height, width, 3), BGR
    x, y, r : centre and radius in pixels, about a fifth of the radius off at most
    """
    net = network(WEIGHTS)
    if net is None:
        return None
    for begin in ROUNDS:
        said = _said_both_ways(net, picture, np.array([x, y, 0.0]) + r * begin)
        x, y, r = (float(one) for one in said.circles.mean(axis=0))
    along, across = said.bends.mean(axis=0)
    spread = said.circles.std(axis=0) / r
    # Laplace's width times the root of two is his sigma.
    place, size = np.sqrt(2) * said.widths.mean(axis=0)
    return ReadRim(
        *(x, y, r),
        narrow=float(np.clip(1 - np.hypot(along, across), NARROWEST, 1.0)),
        tilt_deg=float(np.degrees(np.arctan2(across, along) / 2)),
        place_sigma=float(np.hypot(place, np.hypot(*spread[:2]))),
        size_sigma=float(np.hypot(size, spread[2])),
    )


@dataclass(frozen=True)
class _Said:
    """What the net says of n squares: circles (n, 3) in pixels; how much narrower, along and across (n, 2); how
    wide the errors of place and size are, in shares of the radius (n, 2)."""

    circles: Array
    bends: Array
    widths: Array


def _said_both_ways(net: SmallNet, picture: Picture, tries: Array) -> _Said:
    """The rims near circles (n, 3), as they are and in the mirror."""
    wide = picture.shape[1] - 1
    mirrored = tries * [-1, 1, 1] + [wide, 0, 0]
    crops = [
        crops_of(picture, tries, CROP_PX, REACH),
        crops_of(np.ascontiguousarray(picture[:, ::-1]), mirrored, CROP_PX, REACH),
    ]
    said = net.said_of(evened(np.concatenate(crops))).astype(float)
    said[len(tries) :, SIDEWAYS] *= -1
    circles = np.concatenate([tries, tries])
    step = np.clip(said[:, :3], -MOST_OFF, MOST_OFF)
    circles[:, :2] += step[:, :2] * circles[:, 2:]
    circles[:, 2] *= np.exp(step[:, 2])
    return _Said(circles, said[:, 3:5], np.exp(np.clip(said[:, 5:7], *WIDTHS)))
