"""Films a simulated lift: exposure, noise, what is laid over it, compression; writes the clip and its truth."""

import itertools
import json
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.clip.write import set_rotation, write_clip
from keen_kettle.core.simulate.camera import Camera
from keen_kettle.core.simulate.film_hand import frame_views, margin_px
from keen_kettle.core.simulate.film_time import (
    frame_times,
    frozen_frames,
    lift_times,
    opening_share,
    pictures_shown,
)
from keen_kettle.core.simulate.film_truth import truth_document
from keen_kettle.core.simulate.filming import Filming
from keen_kettle.core.simulate.hall import paint_hall
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.nuisance import (
    paint_arrow,
    paint_caption,
    paint_passer_by,
    paint_shadow,
    title_card,
)
from keen_kettle.core.simulate.scene import paint_lift

__all__ = ["film_frames", "render_clip"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

ROLLING_BANDS = 12


def film_frames(
    lift: SimulatedLift, filming: Filming, times_s: Array
) -> Iterator[tuple[float, Picture]]:
    """Paint the frame of every time (`times_s`, shape (frames,)); each is the mean over its exposure, then
    noise."""
    rng = np.random.default_rng(filming.seed)
    views = frame_views(filming, times_s)
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
