"""Lists a film's frames by their time stamps, so that a frame number means one exact picture.

Every packet is listed without decoding (a fast pass). A frame's number is the rank of its time
stamp; its time is that stamp, never number × rate. So B-frames, uneven times and edit lists all
come out right. Some writers stamp the packets in the order in which they are stored, though frames
are shown in another: such a film is decoded once, and its frames are numbered as they come out.
"""

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import islice, pairwise
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.container import InputContainer
from av.video.stream import VideoStream
from numpy.typing import NDArray

from keen_kettle.core.clip.packets import decoded_frames, opened, stamp_of, video_of
from keen_kettle.core.errors import ClipNotFound, ClipUnreadable

__all__ = ["ClipIndex", "read_index", "shown_size"]

LONGEST_STEP_S = 3.0
TRIED = 12
"""So many frames are decoded to see whether they come out in the order of their stamps."""
FILMED_AT, FASTEST_FPS, SLOWED = "capture.fps", 2000.0, 1.2
"""How the note ends in which some phones keep the rate at which they filmed, what is believed of it, and from how many
times the shown rate on it is slow motion."""
SQUARE_WITHIN, LEAST_ASPECT = 0.005, 0.3
"""A pixel whose sides differ less counts as square; one that is told to be narrower is not believed."""


@dataclass(frozen=True)
class ClipIndex:
    """The frames of one film.

    `pts` (n,) are the time stamps in `time_base` units by which the frames are known, in the order in
    which they are shown (not ascending where a writer stamped them in the order of storing). `keys`
    (k,) are the numbers of the frames at which decoding can begin, ascending. `t_s` (n,) are seconds
    from the first frame, without its `leaps` (steps of seconds or hours that no film makes; each is
    taken as one usual frame). Width and height are as shown: with square pixels (`pixel_aspect` is the
    width of a stored one by its height), mirrored left to right if it is `mirrored`, after
    `rotation_deg` (clockwise). `filmed_fps` is at how many frames a second it was filmed, where the
    film itself says that it is shown slower.
    """

    path: Path
    codec: str
    width_px: int
    height_px: int
    rotation_deg: int
    time_base: Fraction
    pts: NDArray[np.int64]
    keys: NDArray[np.intp]
    t_s: NDArray[np.float64]
    leaps: int = 0
    pixel_aspect: float = 1.0
    mirrored: bool = False
    filmed_fps: float | None = None

    def __len__(self) -> int:
        return len(self.pts)

    @property
    def centre_px(self) -> tuple[float, float]:
        """The picture's middle."""
        return self.width_px / 2, self.height_px / 2

    @property
    def duration_s(self) -> float:
        """From the first frame to the end of the last one."""
        return float(self.t_s[-1] + self.frame_s)

    @property
    def frame_s(self) -> float:
        """The usual time between two frames (median)."""
        return float(np.median(np.diff(self.t_s)))

    @property
    def uneven_share(self) -> float:
        """Share of frame intervals that differ from the usual one by more than a quarter."""
        steps = np.diff(self.t_s)
        return float(np.mean(np.abs(steps - self.frame_s) > 0.25 * self.frame_s))

    def frame_at(self, t_s: float) -> int:
        """Number of the frame that is on show at a time."""
        return int(
            np.clip(np.searchsorted(self.t_s, t_s + 1e-9, side="right") - 1, 0, len(self) - 1)
        )


def read_index(path: Path) -> ClipIndex:
    """List the frames of a film.

    Raises
    ------
    ClipNotFound
        There is no such file.
    ClipUnreadable
        It is no film, holds no video, or none of it can be decoded.
    """
    _be_there(path)
    try:
        listed = _listed(path)
        if len(listed.pts) < 2:
            raise ClipUnreadable(f"{path.name} holds a single picture, or none; a film is needed.")
        with opened(path) as container:
            stream = _video(container, path)
            begun = decoded_frames(container, stream)
            first = next(begun, None)
            if first is None:
                raise ClipUnreadable(f"{path.name} holds video, but none of it can be decoded.")
            stamps = [stamp_of(frame) for frame in (first, *islice(begun, TRIED - 1))]
            codec = stream.codec_context.name
            base = stream.time_base or Fraction(1, 1000)
            aspect = _believed(stream.sample_aspect_ratio)
            reorders = bool(stream.codec_context.has_b_frames)
            told_fps = _told_fps(container.metadata)
        if not _ascending(stamps) or (reorders and not listed.ahead):
            listed = _as_shown(path, listed)
    except (av.FFmpegError, OSError) as error:
        raise ClipUnreadable(
            f"{path.name} cannot be read as a film ({_plain(error)}). "
            "It may be damaged or not fully copied; copy it again from the phone."
        ) from error
    t_s, leaps = _without_leaps((np.sort(listed.pts) - listed.pts.min()) * float(base))
    turn, mirrored = _turned(first)
    wide, high = shown_size(first.width, first.height, aspect)
    if turn in (90, 270):
        wide, high = high, wide
    size = wide, high
    index = ClipIndex(
        path, codec, *size, turn, base, listed.pts, listed.keys, t_s, leaps, aspect, mirrored
    )
    slow = told_fps is not None and told_fps * index.frame_s > SLOWED
    return replace(index, filmed_fps=told_fps) if slow else index


def _be_there(path: Path) -> None:
    if not path.is_file():
        raise ClipNotFound(f"There is no file {path}.")
    if path.stat().st_size == 0:
        raise ClipUnreadable(
            f"{path.name} is empty (0 bytes). It was not copied; copy it again from the phone."
        )


def _told_fps(notes: Mapping[str, str]) -> float | None:
    """The rate at which a phone says that it filmed, among the notes of a film's container."""
    for name, value in notes.items():
        if name.lower().endswith(FILMED_AT):
            with suppress(ValueError):
                rate = float(value)
                return rate if FASTEST_FPS >= rate > 0 else None
    return None


def shown_size(width_px: int, height_px: int, pixel_aspect: float) -> tuple[int, int]:
    """Width and height of a picture with square pixels; none of its sides gets shorter."""
    if pixel_aspect >= 1:
        return round(width_px * pixel_aspect), height_px
    return width_px, round(height_px / pixel_aspect)


def _turned(frame: av.VideoFrame) -> tuple[int, bool]:
    """How a frame is shown: turned clockwise by 0, 90, 180 or 270 degrees, after it was mirrored left to right
    or not (a phone's camera on the side of its screen). Told by the display matrix, 16.16 numbers in the order
    of ISO/IEC 14496-12."""
    told: Any = frame.side_data.get("DISPLAYMATRIX")
    if told is None:
        return 0, False
    across, down = np.frombuffer(told, np.int32)[[0, 1, 3, 4]].reshape(2, 2).astype(float)
    mirrored = bool(across[0] * down[1] < across[1] * down[0])
    x, y = -across if mirrored else across
    return round(float(np.degrees(np.arctan2(y, x))) / 90) * 90 % 360, mirrored


def _believed(told: Fraction | None) -> float:
    """A pixel's width by its height."""
    aspect = float(told or 1)
    possible = LEAST_ASPECT < aspect < 1 / LEAST_ASPECT
    return aspect if possible and abs(aspect - 1) > SQUARE_WITHIN else 1.0


def _without_leaps(
    t_s: NDArray[np.float64],
) -> tuple[NDArray[np.float64], int]:
    """Times whose steps are all possible, and how many were not."""
    steps = np.diff(t_s)
    usual = float(np.median(steps))
    leaps = steps > max(LONGEST_STEP_S, 50 * usual)
    if not leaps.any():
        return t_s, 0
    steps = np.where(leaps, usual, steps)
    return np.concatenate([[0.0], np.cumsum(steps)]), int(leaps.sum())


@dataclass(frozen=True)
class _Listed:
    """Stamps in the order in which the frames are shown, the numbers of those at which decoding can begin,
    and whether the film tells that frames are shown in another order than they are stored."""

    pts: NDArray[np.int64]
    keys: NDArray[np.intp]
    ahead: bool


def _video(container: InputContainer, path: Path) -> VideoStream:
    stream = video_of(container)
    if stream is None:
        raise ClipUnreadable(f"{path.name} has no video in it. Choose a film of a lift.")
    stream.thread_type = "AUTO"
    return stream


def _listed(path: Path) -> _Listed:
    """The packets by their stamps, which are believed."""
    stamps: list[int] = []
    key_stamps: list[int] = []
    leads: set[int] = set()
    timeless = 0
    with opened(path) as container:
        for packet in container.demux(_video(container, path)):
            stamp = stamp_of(packet)
            timeless += stamp is None and packet.size > 0
            if stamp is None or packet.size == 0 or packet.is_discard:
                continue
            stamps.append(stamp)
            if packet.is_keyframe:
                key_stamps.append(stamp)
            if packet.pts is not None and packet.dts is not None:
                leads.add(packet.pts - packet.dts)
    if not stamps and timeless > 1:
        raise ClipUnreadable(
            f"{path.name} does not say when its pictures were filmed (it is a bare stream of them). "
            "Save it as MP4 or Matroska, and choose that."
        )
    pts = np.unique(np.array(stamps, np.int64))
    return _Listed(pts, np.flatnonzero(np.isin(pts, key_stamps)), len(leads) > 1)


def _as_shown(path: Path, listed: _Listed) -> _Listed:
    """The same, but in the order in which the frames come out when the whole film is decoded, if more than
    one does."""
    known = set(listed.pts.tolist())
    came: dict[int, bool] = {}
    with opened(path) as container:
        stream = _video(container, path)
        for frame in decoded_frames(container, stream):
            stamp = stamp_of(frame)
            if stamp is not None and stamp in known:
                came.setdefault(stamp, bool(frame.key_frame))
    if len(came) < 2:
        return listed
    pts = np.array(list(came), np.int64)
    return _Listed(pts, np.flatnonzero(list(came.values())), listed.ahead)


def _ascending(stamps: list[int | None]) -> bool:
    told = [stamp for stamp in stamps if stamp is not None]
    return all(later > earlier for earlier, later in pairwise(told))


def _plain(error: Exception) -> str:
    return (getattr(error, "strerror", None) or str(error)).strip().rstrip(".").lower()
