"""An opened film's packets and decoded frames, and the stamps by which both are known."""

from collections.abc import Callable, Iterator
from pathlib import Path

import av
from av.container import InputContainer
from av.packet import Packet
from av.video.stream import VideoStream

__all__ = ["decoded_frames", "opened", "stamp_of", "video_of"]


def opened(path: Path) -> InputContainer:
    """The film's container; titles and notes in it may be in any old encoding."""
    return av.open(str(path), metadata_errors="replace")


def video_of(container: InputContainer) -> VideoStream | None:
    """The film itself: a picture for its cover may be stored before it."""
    best = container.streams.best("video")
    return best if isinstance(best, VideoStream) else None


def stamp_of(one: "Packet[VideoStream] | av.VideoFrame") -> int | None:
    """The time stamp in the stream's time base: when it is shown, or else where it is stored; None if the
    film tells neither."""
    return one.pts if one.pts is not None else one.dts


def decoded_frames(
    container: InputContainer,
    stream: VideoStream,
    before: Callable[["Packet[VideoStream]"], None] = lambda packet: None,
) -> Iterator[av.VideoFrame]:
    """Frames from here on, in the order in which they are shown; damaged packets are passed over.

    `before` is called with each packet before it is decoded.
    """
    for packet in container.demux(stream):
        before(packet)
        try:
            frames = packet.decode()
        except av.InvalidDataError:
            continue
        yield from frames
