"""Lists a film's frames by their time stamps, so that a frame number means one exact picture.

Every packet is listed without decoding (a fast pass). A frame's number is the rank of its time
stamp; its time is that stamp, never number × rate. So B-frames, uneven times and edit lists all
come out right.
"""

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.stream import VideoStream
from numpy.typing import NDArray

from keen_kettle.core.errors import ClipNotFound, ClipUnreadable

__all__ = ["ClipIndex", "read_index"]

LONGEST_STEP_S = 3.0


@dataclass(frozen=True)
class ClipIndex:
    """The frames of one film.

    `pts` and `key_pts` are time stamps in `time_base` units, ascending; `t_s` (n,) are seconds
    from the first frame, without its `leaps` (steps of seconds or hours that no film makes; each is
    taken as one usual frame). Width and height are as shown, after `rotation_deg` (clockwise).
    """

    path: Path
    codec: str
    width_px: int
    height_px: int
    rotation_deg: int
    time_base: Fraction
    pts: NDArray[np.int64]
    key_pts: NDArray[np.int64]
    t_s: NDArray[np.float64]
    leaps: int = 0

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
    if not path.is_file():
        raise ClipNotFound(f"There is no file {path}.")
    if path.stat().st_size == 0:
        raise ClipUnreadable(
            f"{path.name} is empty (0 bytes). It was not copied; copy it again from the phone."
        )
    try:
        with av.open(str(path)) as container:
            if not container.streams.video:
                raise ClipUnreadable(f"{path.name} has no video in it. Choose a film of a lift.")
            stream = container.streams.video[0]
            pts, keys = _list_packets(container, stream)
            if len(pts) < 2:
                raise ClipUnreadable(
                    f"{path.name} holds a single picture, or none; a film is needed."
                )
            container.seek(0)
            first = next(container.decode(stream), None)
            if first is None:
                raise ClipUnreadable(f"{path.name} holds video, but none of it can be decoded.")
            turn = -first.rotation % 360
            wide, high = first.width, first.height
            if turn in (90, 270):
                wide, high = high, wide
            base = stream.time_base or Fraction(1, 1000)
            t_s, mended = _without_leaps((pts - pts[0]) * float(base))
            codec = stream.codec_context.name
            return ClipIndex(path, codec, wide, high, int(turn), base, pts, keys, t_s, mended)
    except (av.FFmpegError, OSError) as error:
        raise ClipUnreadable(
            f"{path.name} cannot be read as a film ({_plain(error)}). "
            "It may be damaged or not fully copied; copy it again from the phone."
        ) from error


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


def _list_packets(
    container: av.container.InputContainer, stream: VideoStream
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    pts: list[int] = []
    keys: list[int] = []
    for packet in container.demux(stream):
        stamp = packet.pts if packet.pts is not None else packet.dts
        if stamp is None or packet.size == 0 or packet.is_discard:
            continue
        pts.append(stamp)
        if packet.is_keyframe:
            keys.append(stamp)
    return np.unique(np.array(pts, np.int64)), np.unique(np.array(keys, np.int64))


def _plain(error: Exception) -> str:
    return (getattr(error, "strerror", None) or str(error)).strip().rstrip(".").lower()
