"""Films: time stamps, exact frame access within a byte limit, identity by content, writing."""

from keen_kettle.core.clip.identity import content_hash
from keen_kettle.core.clip.index import ClipIndex, read_index
from keen_kettle.core.clip.reader import ClipReader, Frame
from keen_kettle.core.clip.write import set_rotation, write_clip

__all__ = [
    "ClipIndex",
    "ClipReader",
    "Frame",
    "content_hash",
    "read_index",
    "set_rotation",
    "write_clip",
]
