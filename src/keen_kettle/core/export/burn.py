"""Writes a film with the bar's path, its trail and its figures in the picture; no names in it.

The source film is only read. The new one is written beside its place and moved there when it is
whole, so a stopped or failed export leaves nothing behind.
"""

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis.assess import Assessment
from keen_kettle.core.analysis.drawn import film_of
from keen_kettle.core.analysis.settings import ClipSettings
from keen_kettle.core.clip import ClipReader
from keen_kettle.core.clip.write import write_clip
from keen_kettle.core.errors import Cancelled, KettleError
from keen_kettle.core.export.burn_drawings import burn_drawings
from keen_kettle.core.motion import Drawing, first_event
from keen_kettle.core.track import BarTrack
from keen_kettle.core.track.body import BodyTrack

__all__ = ["burn_film", "draw_frame", "figure_words"]

Picture = NDArray[np.uint8]
Colour = tuple[int, int, int]

LINE: Colour = (222, 184, 134)
AHEAD: Colour = (150, 140, 120)
DARK: Colour = (26, 22, 18)
CHALK: Colour = (229, 238, 241)
GHOST_S = 0.1
"""The trail shows where the bar was every tenth of a second."""
SLOWEST, FASTEST = 1 / 16, 1.0


def burn_film(
    reader: ClipReader,
    track: BarTrack,
    answer: Assessment,
    settings: ClipSettings,
    path: Path,
    speed: float = 1.0,
    drawings: Sequence[Drawing] = (),
    body: BodyTrack | None = None,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Write the film with what was measured drawn into it.

    Parameters
    ----------
    speed : 1 keeps the source's times, 0.5 runs at half speed (1/16 to 1)
    drawings : shown where and as they are on Review; `body` is what they may be held to

    Raises
    ------
    KettleError
        It would overwrite its own source, or cannot be written.
    Cancelled
    """
    if path.exists() and path.samefile(reader.index.path):
        raise KettleError(
            "This is the film itself. Choose another name: the original is never touched."
        )
    speed = float(np.clip(speed, SLOWEST, FASTEST))
    times = reader.index.t_s / speed
    rate = speed / reader.index.frame_s
    film = film_of(reader.index, settings, track, body, answer)
    beside = path.with_name(f".{path.stem}.part{path.suffix or '.mp4'}")

    def frames() -> Iterator[tuple[float, Picture]]:
        for number, t_s in enumerate(times):
            if cancelled():
                raise Cancelled("Writing the film was stopped; nothing was kept of it.")
            picture = reader.frame(number).bgr().copy()
            draw_frame(picture, number, track, answer, settings)
            burn_drawings(picture, number, drawings, film)
            yield float(t_s), picture
            progress((number + 1) / len(times))

    try:
        write_clip(beside, frames(), rate, crf=18, key_interval=60, quickly=True)
        beside.replace(path)
    except OSError as error:
        raise KettleError(
            f"{path.name} could not be written ({error.strerror or error}). The original is untouched. "
            "Choose another folder, or free some space, and export again."
        ) from error
    finally:
        beside.unlink(missing_ok=True)


def draw_frame(
    picture: Picture,
    number: int,
    track: BarTrack,
    answer: Assessment,
    settings: ClipSettings,
) -> None:
    """Draw path, trail and figures of one frame into its picture (in place)."""
    x, y = track.path_in_frame(number, settings.steady)
    points = np.full((len(x), 2), np.nan)
    span = answer.span_at(number)
    points[span] = np.column_stack([x, y])[span]
    width = max(round(picture.shape[0] / 360), 1)
    for line in _unbroken(points[number:]):
        cv2.polylines(picture, [line], False, AHEAD, width, cv2.LINE_AA)
    for line in _unbroken(points[: number + 1]):
        cv2.polylines(picture, [line], False, DARK, 3 * width, cv2.LINE_AA)
        cv2.polylines(picture, [line], False, LINE, width + 1, cv2.LINE_AA)
    step = max(round(GHOST_S / answer.motion.frame_s), 1)
    for place in points[: number + 1 : step]:
        if np.isfinite(place).all():
            cv2.circle(picture, _whole(place), 2 * width, CHALK, -1, cv2.LINE_AA)
    if np.isfinite(points[number]).all():
        cv2.circle(picture, _whole(points[number]), 4 * width, DARK, -1, cv2.LINE_AA)
        cv2.circle(picture, _whole(points[number]), 3 * width, LINE, -1, cv2.LINE_AA)
    _write(picture, figure_words(number, answer))


def figure_words(number: int, answer: Assessment) -> str:
    """Height and speed of one frame as they are written into the picture."""
    motion = answer.motion
    start = first_event(answer.events)
    if start is None or not np.isfinite(motion.y_m[number]):
        return ""
    parts = [f"{100 * (motion.y_m[number] - motion.y_m[start.frame]):.0f} cm"]
    if answer.clock.trusted:
        parts.append(f"{motion.vy_mps[number]:.2f} m/s up")
    here = (one.name.replace("_", " ") for one in answer.events.values() if one.frame == number)
    parts.extend(here)
    return "   ".join(parts)


def _write(picture: Picture, words: str) -> None:
    if not words:
        return
    scale = picture.shape[0] / 720
    size, base = cv2.getTextSize(words, cv2.FONT_HERSHEY_SIMPLEX, scale, max(round(2 * scale), 1))
    left, foot = round(18 * scale), round(24 * scale) + size[1]
    corner = (left + size[0] + round(12 * scale), foot + base + round(6 * scale))
    cv2.rectangle(picture, (left - round(12 * scale), round(12 * scale)), corner, DARK, -1)
    cv2.putText(
        picture,
        words,
        (left, foot),
        cv2.FONT_HERSHEY_SIMPLEX,
        scale,
        CHALK,
        max(round(2 * scale), 1),
        cv2.LINE_AA,
    )


def _unbroken(points: NDArray[np.float64]) -> list[NDArray[np.int32]]:
    """The stretches of a path without gaps, as whole pixels."""
    known = np.isfinite(points).all(axis=1)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], known.astype(int), [0]])))
    return [
        np.round(points[a:b]).astype(np.int32).reshape(-1, 1, 2)
        for a, b in zip(edges[::2], edges[1::2], strict=True)
        if b - a > 1
    ]


def _whole(place: NDArray[np.float64]) -> tuple[int, int]:
    return round(float(place[0])), round(float(place[1]))
