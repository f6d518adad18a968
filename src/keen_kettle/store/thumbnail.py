"""A small picture of a clip, kept with its record so that lists show at once."""

import cv2

from keen_kettle.core.clip import ClipReader

__all__ = ["thumbnail_of"]

WIDTH_PX = 240


def thumbnail_of(reader: ClipReader) -> bytes:
    """A JPEG of the frame two fifths into the clip, 240 pixels wide."""
    picture = reader.frame(int(0.4 * len(reader.index))).bgr()
    height = round(picture.shape[0] * WIDTH_PX / picture.shape[1])
    small = cv2.resize(picture, (WIDTH_PX, height), interpolation=cv2.INTER_AREA)
    return cv2.imencode(".jpg", small, [cv2.IMWRITE_JPEG_QUALITY, 82])[1].tobytes()
