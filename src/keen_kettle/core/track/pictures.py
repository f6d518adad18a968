"""A film's pictures; one that is larger than is needed is looked at in smaller ones, and told of in its own pixels.

Phones film with four times the pixels that tell anything of a plate. Their edges are as many pixels softer, and
each picture takes as many times as long.
"""

from contextlib import suppress
from dataclasses import dataclass
from typing import Protocol, TypeVar, runtime_checkable

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import ClipUnreadable

__all__ = [
    "ByNumber",
    "Pictures",
    "SmallerPictures",
    "film_too_large",
    "in_large",
    "in_small",
    "made_smaller",
    "times_too_large",
]

LONGEST_PX = 2048
"""A picture's longer side that tells all that is needed: a plate then has some 100 pixels of radius."""

Place = TypeVar("Place", float, NDArray[np.float64])


class ByNumber(Protocol):
    """A film's pictures by number, shape (h, w, 3)."""

    def bgr(self, number: int) -> NDArray[np.uint8]: ...


class Pictures(ByNumber, Protocol):
    """A film as it is looked through, with its times (frames,) in seconds."""

    @property
    def t_s(self) -> NDArray[np.float64]: ...


@runtime_checkable
class _MadeSmaller(Protocol):
    """Pictures that can be had smaller sooner than large."""

    def smaller(self, number: int, by: int) -> NDArray[np.uint8]: ...


@dataclass(frozen=True)
class SmallerPictures:
    """A film's pictures, `by` times smaller each way."""

    pictures: Pictures
    by: int

    @property
    def t_s(self) -> NDArray[np.float64]:
        return self.pictures.t_s

    def bgr(self, number: int) -> NDArray[np.uint8]:
        if isinstance(self.pictures, _MadeSmaller):
            return self.pictures.smaller(number, self.by)
        return made_smaller(self.pictures.bgr(number), self.by)


def times_too_large(picture: NDArray[np.uint8]) -> int:
    """By how many whole times a picture (h, w, 3) may be made smaller; 1 for usual ones."""
    longest: int = max(picture.shape[:2])
    return max(-(-longest // LONGEST_PX), 1)


def film_too_large(pictures: Pictures) -> int:
    """The same of a film, by the first of its pictures that can be read."""
    for number in range(len(pictures.t_s)):
        with suppress(ClipUnreadable):
            return times_too_large(pictures.bgr(number))
    return 1


def made_smaller(picture: NDArray[np.uint8], by: int) -> NDArray[np.uint8]:
    """A picture (h, w, 3) in which each pixel is the mean of `by` times `by`, but for what is left over at its
    right and lower edge."""
    if by == 1:
        return picture
    high, wide = (size // by for size in picture.shape[:2])
    even = picture[: high * by, : wide * by]
    return np.asarray(cv2.resize(even, (wide, high), interpolation=cv2.INTER_AREA), np.uint8)


def in_small(place: Place, by: int) -> Place:
    """Where a place across or down (pixels) of the large pictures lies in the small ones: the first small pixel lies
    in the middle of those that it stands for."""
    return (place - (by - 1) / 2) / by


def in_large(place: Place, by: int) -> Place:
    """Where a place across or down (pixels) of the small pictures lies in the large ones."""
    return by * place + (by - 1) / 2
