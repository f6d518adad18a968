"""Gives exactly the frame that is asked for, and remembers recent ones within a byte limit.

A frame is found by its time stamp: go on decoding when it lies just ahead, otherwise seek to the
last key frame at or before it and decode up to it, leaving out frames that no other needs until
shortly before. If a container's seek lands too late, the next earlier key frame is tried, and at
last the film is opened anew. One reader belongs to one thread.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from types import TracebackType
from typing import Any

import av
import cv2
import numpy as np
from av.packet import Packet
from av.video.reformatter import Interpolation, VideoReformatter
from av.video.stream import VideoStream
from numpy.typing import NDArray

from keen_kettle.core.clip.index import ClipIndex, shown_size
from keen_kettle.core.clip.packets import decoded_frames, opened, stamp_of, video_of
from keen_kettle.core.errors import ClipUnreadable

__all__ = ["ClipReader", "Frame"]

CACHE_BYTES = 320 << 20
WHOLE_FRAMES = 40
"""Before a frame that was jumped to, as many are decoded without leaving any out (to step back)."""

TURNS = {90: cv2.ROTATE_90_CLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_COUNTERCLOCKWISE}


@dataclass(frozen=True)
class Frame:
    """One decoded frame; pictures are made from it when asked for, turned as they are shown."""

    number: int
    t_s: float
    decoded: av.VideoFrame
    rotation_deg: int
    pixel_aspect: float = 1.0
    mirrored: bool = False

    def luma(self) -> NDArray[np.uint8]:
        """Brightness, shape (height, width)."""
        plane = self.decoded.planes[0]
        if self.decoded.format.name.startswith(("yuv4", "yuvj4", "nv12", "gray")) and _eight_bit(
            self.decoded
        ):
            rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
            return self._turned(rows[: self.decoded.height, : self.decoded.width])
        return self._turned(self.decoded.to_ndarray(format="gray"))

    def bgr(self) -> NDArray[np.uint8]:
        """Colour, shape (height, width, 3)."""
        return self._turned(_converted(self.decoded, "bgr24"))

    def bgr_smaller(self, by: int) -> NDArray[np.uint8] | None:
        """Colour in so many times fewer pixels each way, (height // by, width // by, 3), sooner than from the whole
        picture; None where its size does not allow that."""
        high, wide = self.decoded.height, self.decoded.width
        if high % by or wide % by or self.pixel_aspect != 1:
            return None
        return self._turned(_converted(self.decoded, "bgr24", by))

    def bgra(self) -> NDArray[np.uint8]:
        """Colour for showing, shape (height, width, 4), contiguous."""
        return np.ascontiguousarray(self._turned(_converted(self.decoded, "bgra")))

    @property
    def size_bytes(self) -> int:
        return sum(plane.buffer_size for plane in self.decoded.planes)

    def _turned(self, picture: NDArray[Any]) -> NDArray[np.uint8]:
        if self.pixel_aspect != 1:
            high, wide = picture.shape[:2]
            picture = cv2.resize(picture, shown_size(wide, high, self.pixel_aspect))
        if self.mirrored:
            picture = cv2.flip(picture, 1)
        turn = TURNS.get(self.rotation_deg)
        return np.asarray(picture if turn is None else cv2.rotate(picture, turn), np.uint8)


def _eight_bit(frame: av.VideoFrame) -> bool:
    return all(component.bits == 8 for component in frame.format.components)


class _Converter(threading.local):
    """A converter for each thread: one made anew for every frame takes longer than the frame."""

    def __init__(self) -> None:
        self.reformatter = VideoReformatter()


_converter = _Converter()


def _converted(frame: av.VideoFrame, form: str, by: int = 1) -> NDArray[Any]:
    return _converter.reformatter.reformat(
        frame,
        frame.width // by,
        frame.height // by,
        format=form,
        interpolation=Interpolation.POINT if by == 1 else Interpolation.AREA,
    ).to_ndarray()


def _sized(frame: av.VideoFrame, index: ClipIndex) -> tuple[av.VideoFrame, float]:
    """A frame as large as the film's first one, and its pixels' aspect: films of calls change their size on the
    way."""
    size = index.width_px, index.height_px
    lying = size[::-1] if index.rotation_deg in (90, 270) else size
    if shown_size(frame.width, frame.height, index.pixel_aspect) == lying:
        return frame, index.pixel_aspect
    return frame.reformat(*lying, interpolation=Interpolation.AREA), 1.0


class ClipReader:
    """Random access to a film's frames. Use as a context manager, or call `close`."""

    def __init__(self, index: ClipIndex, cache_bytes: int = CACHE_BYTES) -> None:
        self.index = index
        self._cache: OrderedDict[int, Frame] = OrderedDict()
        self._cache_bytes = cache_bytes
        self._held_bytes = 0
        self._number_of = {int(stamp): number for number, stamp in enumerate(index.pts)}
        self._running: Iterator[Frame] | None = None
        self._position = -1
        self._whole_from = 0
        self._open()

    def _open(self) -> None:
        try:
            self._container = opened(self.index.path)
        except (av.FFmpegError, OSError) as error:
            raise ClipUnreadable(f"{self.index.path.name} cannot be opened any more.") from error
        stream = video_of(self._container)
        if stream is None:
            raise ClipUnreadable(f"{self.index.path.name} has no video in it any more.")
        self._stream = stream
        self._stream.thread_type = "AUTO"

    def __enter__(self) -> "ClipReader":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        self._running = None
        self._cache.clear()
        self._container.close()

    def has(self, number: int) -> bool:
        """Whether a frame is remembered (no decoding needed)."""
        return number in self._cache

    @property
    def held_bytes(self) -> int:
        return self._held_bytes

    def frame(self, number: int) -> Frame:
        """Exactly frame `number`.

        Raises
        ------
        IndexError
            There is no such frame.
        ClipUnreadable
            This frame's data is damaged.
        """
        if not 0 <= number < len(self.index):
            raise IndexError(f"frame {number} of {len(self.index)}")
        if number in self._cache:
            self._cache.move_to_end(number)
            return self._cache[number]
        for begin in self._beginnings(number):
            begin()
            found = self._decode_to(number)
            if found is not None:
                return found
        raise ClipUnreadable(
            f"Frame {number} of {self.index.path.name} is damaged; the frames round it can still be used."
        )

    def _beginnings(self, number: int) -> Iterator[Callable[[], None]]:
        """Ways to come to where decoding can begin, best first."""
        keys = self.index.keys
        last = int(np.searchsorted(keys, number, side="right")) - 1
        key = int(keys[last]) if last >= 0 else 0
        if self._running is not None and key - 1 <= self._position < number:
            yield lambda: None
        for earlier in keys[max(last - 2, 0) : last + 1][::-1]:
            yield partial(self._seek, int(self.index.pts[earlier]))
        yield self._begin_anew

    def _seek(self, stamp: int) -> None:
        self._container.seek(stamp, stream=self._stream, backward=True)
        self._running, self._position = self._decode(), -1

    def _begin_anew(self) -> None:
        """Some containers cannot be sent back to their first frames."""
        before = self._container
        self._open()
        before.close()
        self._running, self._position = self._decode(), -1

    def _decode(self) -> Iterator[Frame]:
        index = self.index
        for frame in decoded_frames(self._container, self._stream, self._spare):
            number = self._number(frame)
            if number is not None:
                alike, aspect = _sized(frame, index)
                turns = index.rotation_deg, aspect, index.mirrored
                yield Frame(number, float(index.t_s[number]), alike, *turns)

    def _number(self, one: "Packet[VideoStream] | av.VideoFrame") -> int | None:
        stamp = stamp_of(one)
        return None if stamp is None else self._number_of.get(stamp)

    def _spare(self, packet: "Packet[VideoStream]") -> None:
        """Well before the frame that is wanted, those that no other needs are left out. A decoder from a library of
        its own (libdav1d) is told what to leave out only once, as it opens: it leaves out nothing."""
        if self.index.codec.startswith("lib"):
            return
        number = self._number(packet)
        early = number is not None and number < self._whole_from
        self._stream.codec_context.skip_frame = "NONREF" if early else "DEFAULT"

    def _decode_to(self, number: int) -> Frame | None:
        self._whole_from = max(number - WHOLE_FRAMES, 0)
        assert self._running is not None
        for frame in self._running:
            self._position = frame.number
            self._remember(frame)
            if frame.number == number:
                return frame
            if frame.number > number:
                break
        else:
            self._running = None
        return None

    def _remember(self, frame: Frame) -> None:
        old = self._cache.pop(frame.number, None)
        if old is not None:
            self._held_bytes -= old.size_bytes
        self._cache[frame.number] = frame
        self._held_bytes += frame.size_bytes
        while self._held_bytes > self._cache_bytes and len(self._cache) > 1:
            _, gone = self._cache.popitem(last=False)
            self._held_bytes -= gone.size_bytes
