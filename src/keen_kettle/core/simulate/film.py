"""Films a simulated lift: frame times, exposure, noise, compression, and the truth beside it."""

import itertools
import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.clip.write import set_rotation, write_clip
from keen_kettle.core.simulate.camera import PLATE_DEPTH_M, Camera
from keen_kettle.core.simulate.film_hand import (
    camera_offsets_px,
    camera_turns,
    camera_views,
    margin_px,
    seen_at,
)
from keen_kettle.core.simulate.film_time import (
    frame_times,
    frozen_frames,
    lift_times,
    opening_share,
    pictures_shown,
)
from keen_kettle.core.simulate.hall import paint_hall
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.nuisance import (
    paint_arrow,
    paint_caption,
    paint_passer_by,
    paint_shadow,
    title_card,
)
from keen_kettle.core.simulate.scene import (
    JOINT_DEPTHS_M,
    LIMB_DEPTH_M,
    Look,
    bell_centre_m,
    paint_lift,
)

__all__ = [
    "Filming",
    "Painter",
    "film_frames",
    "plate_px",
    "render_clip",
    "truth_document",
]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

ROLLING_BANDS = 12


class Painter(Protocol):
    """Another way of painting the same lift: its hall, one instant, and where its joints are."""

    def hall(self, camera: Camera, rng: np.random.Generator) -> Picture:
        """The still background."""

    def paint(self, picture: Picture, lift: SimulatedLift, instant: float, camera: Camera) -> None:
        """Lifter, bar and plates, in place."""

    def joints(self, lift: SimulatedLift, instant: float) -> dict[str, Array]:
        """The near side's landmarks, shape (3,) each: forward, up, towards the camera (metres)."""


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


def film_frames(
    lift: SimulatedLift, filming: Filming, times_s: Array
) -> Iterator[tuple[float, Picture]]:
    """Paint the frame of every time (`times_s`, shape (frames,)); each is the mean over its exposure, then
    noise."""
    rng = np.random.default_rng(filming.seed)
    views = _frame_views(filming, times_s)
    margin, moved = margin_px(filming, views), bool(np.any(views != views[0]))
    wide = replace(filming, camera=_with_margin(filming.camera, margin))
    painter = filming.painter
    hall = (
        paint_hall(wide.camera, filming.look, rng)
        if painter is None
        else painter.hall(wide.camera, rng)
    )
    grain = rng.normal(
        0, filming.noise, (filming.camera.height_px + 64, filming.camera.width_px + 64, 3)
    )
    grain = grain.astype(np.float32)
    shown = pictures_shown(filming, times_s)
    instants = lift_times(filming, times_s)
    frozen, opening = frozen_frames(filming, times_s), opening_share(filming, times_s)
    title = title_card(filming.camera) if filming.opening_s else None
    exposed, last = np.zeros((0, 0, 3), np.float32), -1
    for number, t_s in enumerate(times_s):
        if shown[number] != last:
            last = int(shown[number])
            exposed = _expose(lift, wide, hall, float(instants[number]))
            if moved:
                exposed = _as_held(exposed, filming.camera, margin, views[number])
            dy, dx = rng.integers(0, 64, 2)
            h, w = exposed.shape[:2]
            exposed += grain[dy : dy + h, dx : dx + w]
        picture = np.clip(exposed + 0.5, 0, 255).astype(np.uint8)
        if filming.caption:
            paint_caption(picture, filming.camera)
        if frozen[number]:
            paint_arrow(picture)
        if title is not None:
            share = float(opening[number])
            picture = cv2.addWeighted(title, share, picture, 1 - share, 0)
        yield float(t_s), np.asarray(picture)


def _frame_views(filming: Filming, times_s: Array) -> Array:
    """How the camera is held for each frame; a picture shown again has that of the first."""
    return camera_views(filming, times_s)[pictures_shown(filming, times_s)]


def _with_margin(camera: Camera, margin: int) -> Camera:
    return replace(
        camera,
        width_px=camera.width_px + 2 * margin,
        height_px=camera.height_px + 2 * margin,
        floor_px=camera.floor_px + margin,
        middle_px=camera.middle_px + margin,
    )


def _as_held(
    picture: NDArray[np.float32], camera: Camera, margin: int, view: Array
) -> NDArray[np.float32]:
    """What the camera sees as it is held (to a fraction of a pixel), of a picture with a margin."""
    shift = view.copy()
    shift[:, 2] -= view[:, :2] @ np.full(2, float(margin))
    size = (camera.width_px, camera.height_px)
    return np.asarray(cv2.warpAffine(picture, shift, size, flags=cv2.INTER_LINEAR), np.float32)


def _expose(
    lift: SimulatedLift, filming: Filming, hall: Picture, t_s: float
) -> NDArray[np.float32]:
    """The mean over the exposure; with rolling exposure each band of rows has its own time."""
    if filming.rolling_s == 0:
        return _exposed_at(lift, filming, hall, t_s)
    whole = np.zeros(hall.shape, np.float32)
    edges = np.linspace(0, hall.shape[0], ROLLING_BANDS + 1).astype(int)
    for band, (top, foot) in enumerate(itertools.pairwise(edges)):
        later = filming.rolling_s * (band + 0.5) / ROLLING_BANDS
        whole[top:foot] = _exposed_at(lift, filming, hall, t_s + later)[top:foot]
    return whole


def _exposed_at(
    lift: SimulatedLift, filming: Filming, hall: Picture, t_s: float
) -> NDArray[np.float32]:
    ends = lift.bar_m(np.array([t_s, t_s + filming.exposure_s]))
    travel_px = float(np.hypot(*(ends[1] - ends[0]))) * filming.camera.px_per_m
    looks = int(np.clip(np.ceil(travel_px / 1.2), 1, 9))
    total = np.zeros(hall.shape, np.float32)
    middles = (np.arange(looks) + 0.5) / looks - 0.5
    for share in middles:
        instant = float(np.clip(t_s + share * filming.exposure_s, 0, lift.duration_s))
        total += _paint(lift, filming, hall, instant)
    return total / np.float32(looks)


def _paint(lift: SimulatedLift, filming: Filming, hall: Picture, instant: float) -> Picture:
    picture = hall.copy()
    camera, look = filming.camera, filming.look
    bar, pose = lift.bar_m(np.array([instant]))[0], lift.pose(instant)
    spin = 0.35 * np.sin(2.1 * instant) * (bar[1] > 0.26)
    if filming.shadow:
        paint_shadow(picture, pose, bar, camera)
    if filming.painter is not None:
        filming.painter.paint(picture, lift, instant, camera)
    else:
        paint_lift(picture, pose, bar, float(spin), lift.script.body, camera, look)
    if filming.passer_by:
        # Across in 1.3 seconds, before the plate half-way through the pull.
        middle = lift.path.events_s.get("lift_off", lift.duration_s / 2) + 0.3
        share = (instant - middle) / 1.3 + 0.5
        if -0.05 < share < 1.05:
            paint_passer_by(picture, share, camera)
    return picture


def plate_px(lift: SimulatedLift, filming: Filming, instants: Array) -> Array:
    """Where the tracked thing's centre is painted, shape (n, 2): near plate, or the bell."""
    camera, implement = filming.camera, filming.look.implement
    if implement == "bar":
        depth_m = PLATE_DEPTH_M
        at = camera.to_px(lift.bar_m(instants), depth_m)
        for _ in range(4 if filming.rolling_s else 0):
            later = filming.rolling_s * np.clip(at[:, 1] / camera.height_px, 0, 1)
            at = camera.to_px(lift.bar_m(instants + later), depth_m)
        return at
    bars = lift.bar_m(instants)
    poses = [lift.pose(float(t)) for t in instants]
    centres = [bell_centre_m(implement, bar, pose) for bar, pose in zip(bars, poses, strict=True)]
    return camera.to_px(np.array(centres), LIMB_DEPTH_M)


def _landmarks_px(
    lift: SimulatedLift, filming: Filming, instants: Array, views: Array
) -> dict[str, list[list[float]]]:
    """Where every landmark is painted, for each frame."""
    camera, painter = filming.camera, filming.painter
    if painter is None:
        poses = [lift.pose(float(t)) for t in instants]
        seen = {
            name: camera.to_px(np.array([pose[name] for pose in poses]), depth)
            for name, depth in JOINT_DEPTHS_M.items()
        }
    else:
        rows = [painter.joints(lift, float(t)) for t in instants]
        whole = {name: np.array([row[name] for row in rows]) for name in JOINT_DEPTHS_M}
        seen = {name: camera.to_px(at[:, :2], at[:, 2]) for name, at in whole.items()}
    return {name: np.round(seen_at(at, views), 2).tolist() for name, at in seen.items()}


def truth_document(lift: SimulatedLift, filming: Filming, times_s: Array) -> dict[str, object]:
    """Everything that is known about the clip with frames at `times_s` (frames,), as plain JSON values."""
    camera = filming.camera
    instants = lift_times(filming, times_s)
    views, shown = _frame_views(filming, times_s), pictures_shown(filming, times_s)
    offsets = camera_offsets_px(filming, times_s)[shown]
    roll, zoom = (one[shown] for one in camera_turns(filming, times_s))
    bar_m = lift.bar_m(instants)
    far_m = bar_m - np.column_stack([np.zeros(len(instants)), lift.tip_m(instants)])
    far = camera.to_px(far_m, -PLATE_DEPTH_M)
    depth_m = PLATE_DEPTH_M if filming.look.implement == "bar" else LIMB_DEPTH_M
    px_per_m = camera.scale_at(depth_m * float(np.cos(np.radians(camera.yaw_deg))))
    landmarks = _landmarks_px(lift, filming, instants, views)
    return {
        "schema": "keen-kettle-truth",
        "schema_version": 1,
        "lift": {
            "family": lift.script.family,
            "start": lift.script.start,
            "receive": lift.script.receive,
            "stature_m": lift.script.body.stature_m,
            "faults": lift.script.faults,
        },
        "facing": camera.facing,
        "fps": filming.fps,
        "px_per_m": px_per_m,
        "view_angle_deg": camera.yaw_deg,
        "plate_diameter_m": filming.look.plate_diameter_m,
        "plate_radius_px": filming.look.plate_diameter_m / 2 * px_per_m,
        "t_s": np.round(times_s, 6).tolist(),
        "lift_s": np.round(instants, 6).tolist(),
        "opening": np.round(opening_share(filming, times_s), 3).tolist(),
        "bar_m": np.round(bar_m, 5).tolist(),
        "bar_px": np.round(seen_at(plate_px(lift, filming, instants), views), 3).tolist(),
        "far_end_px": np.round(seen_at(far, views), 3).tolist(),
        "camera_px": np.round(offsets, 3).tolist(),
        "camera_roll_deg": np.round(roll, 3).tolist(),
        "camera_zoom": np.round(zoom, 4).tolist(),
        "repeat": filming.repeat,
        "landmarks_px": landmarks,
        "events_s": _rounded(lift.truth_events()),
        "lifts_s": [_rounded(one) for one in lift.lifts_s()],
        "measures": _rounded(lift.truth_measures()),
    }


def _rounded(values: dict[str, float]) -> dict[str, float]:
    return {name: round(value, 5) for name, value in values.items()}


def render_clip(
    lift: SimulatedLift,
    filming: Filming,
    path: Path,
    times_s: Array | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Path:
    """Write the clip, with frames at `times_s` (frames,), to `path` and its truth beside it (same name,
    `.truth.json`)."""
    times = frame_times(lift, filming) if times_s is None else times_s

    def counted() -> Iterator[tuple[float, Picture]]:
        for index, frame in enumerate(film_frames(lift, filming, times)):
            progress(index / len(times))
            yield frame[0], np.ascontiguousarray(np.rot90(frame[1], filming.rotation_deg // 90))

    write_clip(path, counted(), filming.fps, crf=filming.crf, key_interval=filming.key_interval)
    if filming.rotation_deg:
        set_rotation(path, filming.rotation_deg)
    beside = path.with_suffix(".truth.json")
    beside.write_text(
        json.dumps(truth_document(lift, filming, times), separators=(",", ":")) + "\n"
    )
    progress(1.0)
    return beside
