"""Films a simulated lift: frame times, exposure, noise, compression, and the truth beside it."""

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.clip.write import write_clip
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.scene import Camera, Look, paint_hall, paint_lift

__all__ = ["Filming", "film_frames", "frame_times", "render_clip", "truth_document"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]


@dataclass(frozen=True)
class Filming:
    """How the lift is filmed; the seed makes wall, noise and plate marks repeatable."""

    fps: float = 60.0
    exposure_s: float = 1 / 250
    noise: float = 2.0
    crf: int = 24
    key_interval: int = 120
    seed: int = 1
    camera: Camera = field(default_factory=Camera)
    look: Look = field(default_factory=Look)


def frame_times(lift: SimulatedLift, filming: Filming) -> Array:
    """Even frame times that cover the lift, in seconds."""
    return np.arange(0.0, lift.duration_s, 1.0 / filming.fps)


def film_frames(
    lift: SimulatedLift, filming: Filming, times_s: Array
) -> Iterator[tuple[float, Picture]]:
    """Paint the frame of every time; each is the mean over its exposure, then noise."""
    rng = np.random.default_rng(filming.seed)
    hall = paint_hall(filming.camera, filming.look, rng)
    grain = rng.normal(
        0, filming.noise, (filming.camera.height_px + 64, filming.camera.width_px + 64, 3)
    )
    grain = grain.astype(np.float32)
    for t_s in times_s:
        exposed = _expose(lift, filming, hall, float(t_s))
        dy, dx = rng.integers(0, 64, 2)
        h, w = exposed.shape[:2]
        exposed += grain[dy : dy + h, dx : dx + w]
        yield float(t_s), np.clip(exposed + 0.5, 0, 255).astype(np.uint8)


def _expose(
    lift: SimulatedLift, filming: Filming, hall: Picture, t_s: float
) -> NDArray[np.float32]:
    ends = lift.bar_m(np.array([t_s, t_s + filming.exposure_s]))
    travel_px = float(np.hypot(*(ends[1] - ends[0]))) * filming.camera.px_per_m
    looks = int(np.clip(np.ceil(travel_px / 1.2), 1, 9))
    total = np.zeros(hall.shape, np.float32)
    middles = (np.arange(looks) + 0.5) / looks - 0.5
    for share in middles:
        picture = hall.copy()
        instant = float(np.clip(t_s + share * filming.exposure_s, 0, lift.duration_s))
        bar = lift.bar_m(np.array([instant]))[0]
        spin = 0.35 * np.sin(2.1 * instant) * (bar[1] > 0.26)
        paint_lift(
            picture,
            lift.pose(instant),
            bar,
            float(spin),
            lift.script.body,
            filming.camera,
            filming.look,
        )
        total += picture
    return total / np.float32(looks)


def truth_document(lift: SimulatedLift, filming: Filming, times_s: Array) -> dict[str, object]:
    """Everything that is known about the clip, as plain JSON values."""
    camera = filming.camera
    bar_m = lift.bar_m(times_s)
    poses = [lift.pose(float(t)) for t in times_s]
    landmarks = {
        name: np.round(camera.to_px(np.array([pose[name] for pose in poses])), 2).tolist()
        for name in poses[0].points
    }
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
        "px_per_m": camera.px_per_m,
        "plate_diameter_m": filming.look.plate_diameter_m,
        "plate_radius_px": filming.look.plate_diameter_m / 2 * camera.px_per_m,
        "t_s": np.round(times_s, 6).tolist(),
        "bar_m": np.round(bar_m, 5).tolist(),
        "bar_px": np.round(camera.to_px(bar_m), 3).tolist(),
        "landmarks_px": landmarks,
        "events_s": {name: round(t, 5) for name, t in lift.path.events_s.items()},
        "measures": {name: round(value, 5) for name, value in lift.truth_measures().items()},
    }


def render_clip(
    lift: SimulatedLift,
    filming: Filming,
    path: Path,
    times_s: Array | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Path:
    """Write the clip to `path` and its truth beside it (same name, `.truth.json`)."""
    times = frame_times(lift, filming) if times_s is None else times_s

    def counted() -> Iterator[tuple[float, Picture]]:
        for index, frame in enumerate(film_frames(lift, filming, times)):
            progress(index / len(times))
            yield frame

    write_clip(path, counted(), filming.fps, crf=filming.crf, key_interval=filming.key_interval)
    beside = path.with_suffix(".truth.json")
    beside.write_text(
        json.dumps(truth_document(lift, filming, times), separators=(",", ":")) + "\n"
    )
    progress(1.0)
    return beside
