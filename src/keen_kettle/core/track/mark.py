"""What goes into tracking (the coach's mark) and what comes out (a path with honest states)."""

from dataclasses import dataclass, field, replace
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import MarkError
from keen_kettle.core.track.pictures import in_large, in_small
from keen_kettle.core.track.rim import Rim
from keen_kettle.core.track.vertical import Vertical

__all__ = [
    "SMALLEST_RADIUS_PX",
    "STATES",
    "BarTrack",
    "MarkedPicture",
    "PlateMark",
    "Risen",
    "Scale",
    "State",
    "check_diameter",
    "scale_from_points",
    "scale_from_rim",
    "scale_unknown",
]

PLATE_SIGMA = 0.003
"""Plates differ from their stated diameter by about this share."""
SMALLEST_RADIUS_PX = 6.0
BEND_S = 0.15
"""A point under the hand takes its neighbours along over so long."""


class State(IntEnum):
    """How a frame's point came about."""

    GOOD = 0
    CHECK = 1
    LOST = 2
    BY_HAND = 3
    REPEATED = 4
    HIDDEN = 5
    BRIDGED = 6
    OUTSIDE = 7


STATES = ("good", "check", "lost", "by hand", "repeated", "hidden", "bridged", "outside")


@dataclass(frozen=True)
class PlateMark:
    """The near plate as the coach marked it: frame number, centre and radius in pixels.

    An ellipse has the half height `r_px`, the half width `narrow` times that, and is turned by
    `angle_deg` (clockwise in the picture). An `exact` mark stands as it was drawn: its rim is not
    looked for.
    """

    frame: int
    x_px: float
    y_px: float
    r_px: float
    narrow: float = 1.0
    angle_deg: float = 0.0
    exact: bool = False

    def smaller(self, by: int) -> "PlateMark":
        """In pictures that are made so many times smaller."""
        x, y = in_small(self.x_px, by), in_small(self.y_px, by)
        return replace(self, x_px=x, y_px=y, r_px=self.r_px / by)

    def larger(self, by: int) -> "PlateMark":
        """In pictures that are so many times larger."""
        x, y = in_large(self.x_px, by), in_large(self.y_px, by)
        return replace(self, x_px=x, y_px=y, r_px=self.r_px * by)

    def check_against(self, frames: int, width_px: int, height_px: int) -> None:
        """Raise `MarkError`, in plain words, if the mark cannot be on this film."""
        if not 0 <= self.frame < frames:
            raise MarkError(
                f"The plate is marked on frame {self.frame}, but the film has frames 0 to {frames - 1}."
            )
        if not (0 <= self.x_px < width_px and 0 <= self.y_px < height_px):
            raise MarkError(
                f"The plate's centre ({self.x_px:.0f}, {self.y_px:.0f}) is off the picture, "
                f"which is {width_px} by {height_px} pixels."
            )
        if not self.r_px >= SMALLEST_RADIUS_PX:
            raise MarkError(
                f"A plate radius of {self.r_px:.1f} pixels is too small to follow; "
                f"at least {SMALLEST_RADIUS_PX:.0f} are needed. Film closer, or mark the rim again."
            )
        if self.r_px > max(width_px, height_px):
            raise MarkError(f"A plate radius of {self.r_px:.0f} pixels is larger than the picture.")


@dataclass(frozen=True)
class MarkedPicture:
    """A mark and the picture in which it stands, shape (h, w, 3)."""

    picture: NDArray[np.uint8] = field(compare=False, repr=False)
    mark: PlateMark


@dataclass(frozen=True)
class Risen:
    """What may be a plate: as it is to be marked, at its lowest, at its highest, and by how many of its
    radii it rises between these two once the camera's movement is taken out."""

    marked: MarkedPicture
    lowest: MarkedPicture
    highest: MarkedPicture
    rise: float


@dataclass(frozen=True)
class Scale:
    """Metres per pixel with its relative standard uncertainty, and where it came from.

    `by` is "plate", "points" or "none": without a scale a usual plate is supposed, so that events
    can be found, and lengths are given in its diameters.
    """

    m_per_px: float
    relative_sigma: float
    diameter_mm: float
    rim_found: bool
    view_angle_deg: float
    by: str = "plate"


@dataclass(frozen=True)
class BarTrack:
    """The plate's centre in every frame of the film; all arrays have shape (frames,).

    `x_px`, `y_px` are NaN where the bar is lost; `r_px` is the plate's followed radius;
    `confidence` runs from 0 to 1; `state` holds `State` codes. `rim` is the plate as it was
    found on the (first) marked frame. `still_x_px`, `still_y_px` are the path as a camera that
    stands still would have seen it (the same as `x_px`, `y_px` where the camera did). `sharp`
    says how crisp the plate is (only its changes mean something; NaN where not known), `contrast`
    how far it stands out on the marked frame, in grey levels. `cuts` are the frames that begin
    another shot.
    """

    t_s: NDArray[np.float64]
    x_px: NDArray[np.float64]
    y_px: NDArray[np.float64]
    r_px: NDArray[np.float64]
    confidence: NDArray[np.float64]
    state: NDArray[np.uint8]
    rim: Rim
    still_x_px: NDArray[np.float64]
    still_y_px: NDArray[np.float64]
    sharp: NDArray[np.float64]
    contrast: float
    cuts: NDArray[np.intp] = field(default_factory=lambda: np.zeros(0, np.intp))
    same: NDArray[np.bool_] | None = None
    """Frames whose whole picture is the one before again; None where that was not looked at."""
    camera_known: bool = True
    """Whether enough of the hall could be followed to tell how the camera moved."""
    vertical: Vertical = field(default_factory=Vertical)
    """The hall's vertical where the bar begins; upright and sure unless it was looked for."""

    def __len__(self) -> int:
        return len(self.t_s)

    def bent(self, frame: int, x: float, y: float) -> "BarTrack":
        """The path through another point (pixels) on a frame, as long as that is under the hand: the
        neighbours follow, the less the farther away. Let go there, it is tracked anew."""
        away = np.abs(self.t_s - self.t_s[frame])
        share = np.clip(1 - away / BEND_S, 0, 1)
        known = np.isfinite(self.x_px[frame])
        ways = {}
        for name, to, axis in (("x_px", x, 0), ("y_px", y, 1)):
            now = getattr(self, name)
            still = getattr(self, f"still_{name}")
            by = share * (to - now[frame]) if known else np.zeros(len(self))
            ways[name], ways[f"still_{name}"] = now + by, still + by
            if not known:
                camera = self.camera_in_all_frames_px()[frame, axis]
                ways[name][frame], ways[f"still_{name}"][frame] = to, to - camera
        state = self.state.copy()
        state[frame] = State.BY_HAND
        return replace(self, **ways, state=state)

    def with_rim(self, rim: Rim) -> "BarTrack":
        """The same path against another rim in the marked picture: followed sizes grow as the rim does."""
        grown = float(np.mean(rim.axes_px) / np.mean(self.rim.axes_px))
        return replace(self, rim=rim, r_px=grown * self.r_px)

    def larger(self, by: int) -> "BarTrack":
        """In pictures that are so many times larger."""
        names = ("x_px", "y_px", "still_x_px", "still_y_px")
        places = {name: in_large(getattr(self, name), by) for name in names}
        return replace(self, **places, r_px=self.r_px * by, rim=self.rim.larger(by))

    @property
    def seen(self) -> NDArray[np.bool_]:
        """Frames that have a point of their own (not lost, not repeated)."""
        apart = (self.state != State.LOST) & (self.state != State.REPEATED)
        return np.asarray(np.isfinite(self.x_px) & apart)

    @property
    def held(self) -> NDArray[np.bool_]:
        """Frames that show the picture before them again: their point is known, their time is not."""
        repeated = self.state == State.REPEATED
        if self.same is None:
            return np.asarray(repeated)
        free = (self.state == State.GOOD) | (self.state == State.CHECK) | repeated
        return np.asarray((self.same & free) | repeated)

    @property
    def repeats(self) -> NDArray[np.bool_]:
        """Frames that show the picture before them again, whether the plate is seen in it or not."""
        repeated = np.asarray(self.state == State.REPEATED)
        return repeated if self.same is None else np.asarray(self.same | repeated)

    @property
    def camera_px(self) -> NDArray[np.float64]:
        """How far the camera's movement has carried the plate, shape (frames, 2), pixels."""
        return np.column_stack([self.x_px - self.still_x_px, self.y_px - self.still_y_px])

    def camera_in_all_frames_px(self) -> NDArray[np.float64]:
        """`camera_px` with its gaps filled from beside them; zeros for a still camera."""
        moved, frames = self.camera_px, np.arange(len(self))
        known = np.flatnonzero(np.isfinite(moved[:, 0]))
        if self.camera_moved_px == 0 or not len(known):
            return np.zeros((len(self), 2))
        return np.column_stack([np.interp(frames, known, moved[known, axis]) for axis in (0, 1)])

    def with_camera_of(self, other: "BarTrack") -> "BarTrack":
        """This path, as the camera's movement that was found for another one carries it back."""
        moved = other.camera_in_all_frames_px()
        x, y = self.x_px - moved[:, 0], self.y_px - moved[:, 1]
        return replace(self, still_x_px=x, still_y_px=y, camera_known=other.camera_known)

    @property
    def camera_moved_px(self) -> float:
        """The camera's greatest movement that was found, in pixels; 0 for a still camera."""
        away = np.hypot(*self.camera_px.T)
        return float(np.nanmax(away, initial=0.0)) if np.isfinite(away).any() else 0.0

    def path_in_frame(
        self, frame: int, steady: bool = True
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """The whole path in the pixels of one frame: a moving camera sees it elsewhere in each."""
        if not steady or not np.isfinite(self.x_px[frame]):
            return self.x_px, self.y_px
        here = self.camera_px[frame]
        return self.still_x_px + here[0], self.still_y_px + here[1]

    def share(self, state: State) -> float:
        """Share of the frames that are to be followed in a state."""
        return float(np.sum(self.state == state) / max(np.sum(self.state != State.OUTSIDE), 1))


def check_diameter(diameter_mm: float) -> None:
    """Raises MarkError where no plate, bell or hub can be of this diameter."""
    if not 20 <= diameter_mm <= 700:
        raise MarkError(f"A plate diameter of {diameter_mm:g} mm is outside 20 to 700 mm.")


def scale_from_rim(rim: Rim, diameter_mm: float) -> Scale:
    """Scale from the plate's longer axis against its true diameter.

    A plate seen at an angle is an ellipse whose longer axis keeps its length; how much narrower than high it
    looks (or lower than wide) tells from how far aside (or above) it is seen. The uncertainty is that of the rim's fit (or 3 % where no rim was found and the mark stands as drawn),
    together with `PLATE_SIGMA` for the plate itself.
    """
    check_diameter(diameter_mm)
    longer = max(rim.axes_px)
    fit = rim.sigma_px / longer if rim.found else 0.03
    narrow = min(rim.width_by_height, 1 / rim.width_by_height)
    return Scale(
        m_per_px=diameter_mm / 1000 / (2 * longer),
        relative_sigma=float(np.hypot(fit, PLATE_SIGMA)),
        diameter_mm=diameter_mm,
        rim_found=rim.found,
        view_angle_deg=float(np.degrees(np.arccos(narrow))),
    )


def scale_from_points(rim: Rim, points: tuple[float, ...]) -> Scale:
    """Scale from two points (x, y, x, y in pixels) and their true distance in mm.

    Each point is taken to be set within 1.5 pixels, the distance to be known within 0.5 %.

    Raises
    ------
    MarkError
        They lie too close together.
    """
    x1, y1, x2, y2, apart_mm = points
    apart_px = float(np.hypot(x2 - x1, y2 - y1))
    if apart_px < 20:
        raise MarkError("The two points of the scale lie too close together; 20 pixels at least.")
    if not 20 <= apart_mm <= 10_000:
        raise MarkError("The distance of the two points runs from 2 cm to 10 m.")
    m_per_px = apart_mm / 1000 / apart_px
    plain = scale_from_rim(rim, 450.0)
    return Scale(
        m_per_px,
        float(np.hypot(1.5 * np.sqrt(2) / apart_px, 0.005)),
        2000 * max(rim.axes_px) * m_per_px,
        rim.found,
        plain.view_angle_deg,
        "points",
    )


def scale_unknown(rim: Rim) -> Scale:
    """No scale: a plate of 450 mm is supposed, and the scale's uncertainty is that of the rim."""
    return replace(scale_from_rim(rim, 450.0), by="none")
