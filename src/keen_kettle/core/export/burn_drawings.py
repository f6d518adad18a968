"""Draws a coach's drawings and notes into a film's pictures, with their values in plain letters."""

from collections.abc import Sequence
from textwrap import wrap

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion import Drawing, Filmed, Shown, show_drawing
from keen_kettle.core.units import change_words, reading_words

__all__ = ["burn_drawings", "plain_letters"]

Picture = NDArray[np.uint8]
Points = NDArray[np.float64]
Colour = tuple[int, int, int]

LINE: Colour = (222, 184, 134)
GHOST: Colour = (200, 204, 206)
DARK: Colour = (26, 22, 18)
CHALK: Colour = (229, 238, 241)
NOTE_LETTERS = 44
LETTERS = {
    "±": "+/-",
    "°": " deg",
    "·": "-",
    "−": "-",
    "–": "-",
    "…": "...",
    "’": "'",
    "\u00a0": " ",
}


def burn_drawings(picture: Picture, number: int, drawings: Sequence[Drawing], film: Filmed) -> None:
    """Draw everything that shows on one frame into its picture (in place); words below each other."""
    said: list[str] = []
    for drawing in drawings:
        shown = show_drawing(drawing, number, film)
        if shown is None:
            continue
        if drawing.kind != "note":
            _lines(picture, drawing.kind, shown)
        said += _words(drawing, shown)
    _column(picture, said)


def plain_letters(words: str) -> str:
    """Words in the few letters that the film's typeface has."""
    for letter, plain in LETTERS.items():
        words = words.replace(letter, plain)
    return words.encode("ascii", "replace").decode("ascii")


def _words(drawing: Drawing, shown: Shown) -> list[str]:
    if drawing.kind == "note":
        return wrap(drawing.text, NOTE_LETTERS)
    if shown.then:
        return [change_words(shown.readings, shown.then)]
    words = " · ".join(reading_words(one) for one in shown.readings)
    return [words] if words else []


def _lines(picture: Picture, kind: str, shown: Shown) -> None:
    width = max(round(picture.shape[0] / 360), 1)
    for points, tone in ((shown.ghost, GHOST), (shown.points, LINE)):
        if points is None:
            continue
        path = np.round(_across(picture, kind, points)).astype(np.int32).reshape(-1, 1, 2)
        cv2.polylines(picture, [path], False, DARK, 2 * width + 1, cv2.LINE_AA)
        cv2.polylines(picture, [path], False, tone, width, cv2.LINE_AA)


def _across(picture: Picture, kind: str, points: Points) -> Points:
    """A guide crosses the whole picture; the rest goes from spot to spot."""
    high, wide = picture.shape[:2]
    x, y = points[0]
    if kind == "vertical":
        return np.array([[x, 0.0], [x, float(high)]])
    if kind == "horizontal":
        return np.array([[0.0, y], [float(wide), y]])
    return points


def _column(picture: Picture, said: Sequence[str]) -> None:
    """Words at the foot of the picture, the last lowest."""
    scale = 0.8 * picture.shape[0] / 720
    thick, step = max(round(2 * scale), 1), round(42 * scale)
    foot = picture.shape[0] - round(16 * scale) - step * (len(said) - 1)
    for place, words in enumerate(said):
        words = plain_letters(words)
        size, base = cv2.getTextSize(words, cv2.FONT_HERSHEY_SIMPLEX, scale, thick)
        left, line = round(16 * scale), foot + step * place
        corner = (left + size[0] + round(8 * scale), line + base)
        cv2.rectangle(picture, (left - round(8 * scale), line - size[1] - 4), corner, DARK, -1)
        spot = (left, line)
        cv2.putText(
            picture, words, spot, cv2.FONT_HERSHEY_SIMPLEX, scale, CHALK, thick, cv2.LINE_AA
        )
