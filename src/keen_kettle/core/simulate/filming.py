"""How a lift is filmed: camera and hand, time, exposure, compression, what spoils it, who paints it."""

from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.camera import Camera
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.scene import Look

__all__ = ["Filming", "Joints", "Painter"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Joints = dict[str, Array]
"""Landmarks by name, shape (3,) each: forward, up, towards the camera (metres)."""


class Painter(Protocol):
    """Another way of painting the same lift: its hall, one instant, and where its joints are."""

    def hall(self, camera: Camera, rng: np.random.Generator) -> Picture:
        """The still background."""

    def paint(self, picture: Picture, lift: SimulatedLift, instant: float, camera: Camera) -> None:
        """Lifter, bar and plates, in place."""

    def joints(self, lift: SimulatedLift, instant: float) -> tuple[Joints, Joints]:
        """The landmarks of the near and of the far side."""

    def covers(
        self, lift: SimulatedLift, instant: float, camera: Camera, places: Array
    ) -> list[str]:
        """What lies before each of some places, (n, 3) as joints are: "plate", "body", or nothing ("")."""


@dataclass(frozen=True)
class Filming:
    """How the lift is filmed; the seed makes wall, noise, shake and plate marks repeatable.

    `shake_px` is the hand's shake (one sigma, each way), `pan_px` and `tilt_px` how far the camera is
    turned to the right and down during the clip, `rolls_deg` how much it comes to lean, `zooms` how much
    larger it shows things at the end. With `repeat` above 1 every picture is shown that many times: slow
    motion as some programs make it. `freezes` hold the picture of an instant of the lift for some
    seconds, with an arrow drawn on; the film begins with a title for `opening_s`, which goes over into
    the lift within `dissolve_s` (0: a hard cut). Of the lift only what lies between the two instants of
    `shows_s` is filmed. `runs` are how many frames show the same picture, in turn over and over, instead
    of `repeat`: of a camera that goes on meanwhile, or (`runs_slow`) each run the camera's next picture,
    as uneven slow motion does (it goes with no freezes and no opening). `jitter` moves each time stamp by up to that share of a frame;
    `dropped` leaves out that share of the frames, `stuttered` shows the one before instead.
    `rolling_s` is how much later the bottom row is exposed than the top one. `passer_by` walks
    past, `caption` is burnt in, `shadow` falls on the wall. `rotation_deg` saves the film turned,
    with the mark that phones set. A `painter` paints in the place of the plain one.
    """

    fps: float = 60.0
    exposure_s: float = 1 / 250
    noise: float = 2.0
    crf: int = 24
    key_interval: int = 120
    seed: int = 1
    shake_px: float = 0.0
    pan_px: float = 0.0
    tilt_px: float = 0.0
    rolls_deg: float = 0.0
    zooms: float = 1.0
    repeat: int = 1
    freezes: tuple[tuple[float, float], ...] = ()
    opening_s: float = 0.0
    dissolve_s: float = 0.0
    shows_s: tuple[float, float] | None = None
    runs: tuple[int, ...] = ()
    runs_slow: bool = False
    jitter: float = 0.0
    dropped: float = 0.0
    stuttered: float = 0.0
    rolling_s: float = 0.0
    shadow: bool = False
    passer_by: bool = False
    caption: bool = False
    rotation_deg: int = 0
    camera: Camera = field(default_factory=Camera)
    look: Look = field(default_factory=Look)
    painter: Painter | None = None
