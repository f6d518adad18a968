"""How a hand moves the camera while it films: shake, pan, tilt, roll and zoom, as one similarity a frame."""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.film_time import pictures_shown
from keen_kettle.core.simulate.filming import Filming

__all__ = [
    "camera_offsets_px",
    "camera_turns",
    "camera_views",
    "frame_views",
    "margin_px",
    "seen_at",
]

Array = NDArray[np.float64]


def camera_offsets_px(filming: Filming, times_s: Array) -> Array:
    """Where the camera points at each time (`times_s`, shape (frames,)), in pixels from where it stood, shape
    (frames, 2): shake, pan and tilt."""
    rng = np.random.default_rng(filming.seed + 7919)
    beats = np.array([0.6, 1.1, 2.3, 4.7])
    parts = np.array([1.0, 0.7, 0.35, 0.15])
    phases = rng.uniform(0, 2 * np.pi, (2, len(beats)))
    angles = 2 * np.pi * beats * times_s[:, None, None] + phases
    waves = (parts * np.sin(angles)).sum(axis=2) / np.sqrt((parts**2).sum() / 2)
    offsets = filming.shake_px * waves
    offsets += _share(times_s)[:, None] * np.array([filming.pan_px, filming.tilt_px])
    return np.asarray(offsets - offsets[0])


def camera_turns(filming: Filming, times_s: Array) -> tuple[Array, Array]:
    """By how much the camera is rolled (degrees) and how large it shows things against the first frame,
    shape (frames,) each, at `times_s` (frames,)."""
    share = _share(times_s)
    return filming.rolls_deg * share, filming.zooms**share


def camera_views(filming: Filming, times_s: Array) -> Array:
    """From the first frame's pixels to those of each frame, shape (frames, 2, 3), at `times_s` (frames,)."""
    offsets = camera_offsets_px(filming, times_s)
    roll, zoom = camera_turns(filming, times_s)
    c, s = zoom * np.cos(np.radians(roll)), zoom * np.sin(np.radians(roll))
    turns = np.stack([np.stack([c, -s], -1), np.stack([s, c], -1)], -2)
    middle = np.array([filming.camera.width_px, filming.camera.height_px]) / 2
    shift = middle - np.einsum("fij,fj->fi", turns, offsets + middle)
    return np.concatenate([turns, shift[:, :, None]], axis=2)


def frame_views(filming: Filming, times_s: Array) -> Array:
    """How the camera is held for each frame, shape (frames, 2, 3); a picture shown again has that of the
    first."""
    return camera_views(filming, times_s)[pictures_shown(filming, times_s)]


def seen_at(places_px: Array, views: Array) -> Array:
    """Places (frames, 2) of the first frame as each frame shows them, by its view (frames, 2, 3)."""
    return np.asarray(np.einsum("fij,fj->fi", views[:, :, :2], places_px) + views[:, :, 2])


def margin_px(filming: Filming, views: Array) -> int:
    """How much more than its own picture the camera sees on its way, on each side (even)."""
    wide, high = filming.camera.width_px, filming.camera.height_px
    corners = np.array([(0, 0), (wide, 0), (wide, high), (0, high)], float)
    back = np.linalg.inv(views[:, :, :2])
    seen = np.einsum("fij,fcj->fci", back, corners[None] - views[:, None, :, 2])
    beyond = max(float(-seen.min()), float((seen - [wide, high]).max()))
    return 2 * int(np.ceil((beyond + 2) / 2)) if beyond > 1e-6 else 0


def _share(times_s: Array) -> Array:
    """How much of a slow movement is done at each time: it begins and ends gently."""
    share = np.clip(times_s / max(float(times_s[-1]), 1e-9), 0, 1)
    return np.asarray(share**2 * (3 - 2 * share))
