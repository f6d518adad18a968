"""Runs the shipped pose model on one picture: where a person is, and where the person's joints are.

Two networks, run by LiteRT on the CPU. The detector looks at the whole picture and gives, for each
person, the middle of the hips and how far the body reaches from there, and so a turned square round
the person. The landmark network looks at that square, upright, and gives the joints; its heat maps
sharpen them. Two auxiliary points of its answer give the square for the next picture, so the
detector is needed only where the lifter is not followed yet. `weights/README.md` says where the
networks come from; their published graphs fix the anchors and constants below.
"""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import NoBodyModel

__all__ = [
    "JOINTS",
    "Crop",
    "PoseModel",
    "PoseNet",
    "Sighting",
    "crop_between",
    "why_no_model",
]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS = Path(__file__).with_name("weights")
DETECTOR, LANDMARKER = "pose_detection.tflite", "pose_landmark_heavy.tflite"

JOINTS = {
    "ear": (7, 8),
    "shoulder": (11, 12),
    "elbow": (13, 14),
    "wrist": (15, 16),
    "hip": (23, 24),
    "knee": (25, 26),
    "ankle": (27, 28),
    "heel": (29, 30),
    "toe": (31, 32),
}
"""Numbers of the network's points that we use: of the left and of the right side."""
CENTRE, REACH = 33, 34
"""The auxiliary points: middle of the hips, and a point on the circle round the whole body."""
ROOMY = 1.25
"""The square is so much larger than the circle round the body."""
DETECTOR_PX, LANDMARK_PX = 224, 256
LEAST_DETECTION, LEAST_HEAT = 0.5, 0.5
OVERLAP = 0.3
HEAT_REACH = 3
"""The heat map is averaged over so many cells each way round the point."""
DIM, NEARLY_WHITE, MOST_GAIN, LIGHTS_PERCENT = 0.6, 0.92, 5.0, 97.0
"""A square whose lights (this percentile) are darker is brightened to so much, at most by this factor."""


@dataclass(frozen=True)
class Crop:
    """A turned square in the picture: centre, side (pixels), turn (degrees, clockwise)."""

    x: float
    y: float
    side: float
    turn_deg: float = 0.0

    def to_square(self) -> Array:
        """The affine map (2, 3) from the picture to the unit square."""
        turn = np.radians(self.turn_deg)
        back = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) / self.side
        return np.column_stack([back, 0.5 - back @ np.array([self.x, self.y])])

    def from_square(self, points: Array) -> Array:
        """Points (n, 2) of the unit square in picture pixels."""
        turn = np.radians(self.turn_deg)
        out = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) * self.side
        return np.asarray((points - 0.5) @ out.T + np.array([self.x, self.y]))


@dataclass(frozen=True)
class Sighting:
    """What the landmark network saw in one crop.

    `points` (39, 2) in picture pixels; `presence` (39,) and `visible` (39,) from 0 to 1;
    `person` is how sure it is that there is a person at all.
    """

    points: Array
    presence: Array
    visible: Array
    person: float

    def next_crop(self) -> Crop:
        """The square round this body, for the next picture."""
        return crop_between(self.points[CENTRE], self.points[REACH])


def crop_between(hips: Array, reach: Array) -> Crop:
    """The square of a body from the middle of its hips and a point that it reaches to (both (2,), pixels).

    The way from hips to that point is up in the crop.
    """
    way = reach - hips
    turn = np.degrees(np.arctan2(way[0], -way[1]))
    return Crop(float(hips[0]), float(hips[1]), float(2 * ROOMY * np.hypot(*way)), float(turn))


def why_no_model() -> str:
    """Why landmarks cannot be found by themselves here; empty when they can."""
    missing = [name for name in (DETECTOR, LANDMARKER) if not (WEIGHTS / name).is_file()]
    if missing:
        return f"The body model's file {missing[0]} is missing from this installation."
    try:
        import ai_edge_litert.interpreter  # noqa: F401  (only whether it is there)
    except ImportError:
        return "The library that runs the body model (ai-edge-litert) is not installed."
    return ""


class PoseModel(Protocol):
    """What finds people in a picture, and the joints of one."""

    def people(self, bgr: Picture) -> list[tuple[float, Crop]]: ...

    def look(self, bgr: Picture, crop: Crop) -> Sighting: ...


class PoseNet:
    """Both networks, loaded. One object belongs to one thread.

    Raises
    ------
    NoBodyModel
        The weights or the library that runs them are missing.
    """

    def __init__(self, threads: int = 2) -> None:
        reason = why_no_model()
        if reason:
            raise NoBodyModel(f"{reason} Place the landmarks by hand.")
        self._detector = _load(DETECTOR, threads)
        self._landmarker = _load(LANDMARKER, threads)

    def people(self, bgr: Picture) -> list[tuple[float, Crop]]:
        """Everyone in the picture, the surest first: (score, crop)."""
        high, wide = bgr.shape[:2]
        whole = Crop(wide / 2, high / 2, float(max(wide, high)))
        square = _brightened(_cut(bgr, whole, DETECTOR_PX)) * 2.0 - 1.0
        boxes, scores = _run(self._detector, square)
        found = _without_doubles(boxes[0], 1 / (1 + np.exp(-np.clip(scores[0, :, 0], -50, 50))))
        out = []
        for score, box in found:
            hips, reach = whole.from_square(box[4:8].reshape(2, 2))
            out.append((score, crop_between(hips, reach)))
        return out

    def look(self, bgr: Picture, crop: Crop) -> Sighting:
        """The joints in a crop."""
        points, person, _, heat, _ = _run(
            self._landmarker, _brightened(_cut(bgr, crop, LANDMARK_PX))
        )
        rows = points.reshape(39, 5)
        at = _sharpened(rows[:, :2] / LANDMARK_PX, heat[0])
        visible, presence = 1 / (1 + np.exp(-np.clip(rows[:, 3:5].T, -50, 50)))
        return Sighting(crop.from_square(at), presence, visible, float(person.flat[0]))


def _load(name: str, threads: int) -> Any:
    from ai_edge_litert.interpreter import Interpreter  # 0.2 s, and needed only where a body is

    network = Interpreter(str(WEIGHTS / name), num_threads=threads)
    network.allocate_tensors()
    return network


def _run(network: Any, picture: NDArray[np.float32]) -> list[Array]:
    network.set_tensor(network.get_input_details()[0]["index"], picture[None])
    network.invoke()
    return [np.array(network.get_tensor(one["index"])) for one in network.get_output_details()]


def _cut(bgr: Picture, crop: Crop, size: int) -> NDArray[np.float32]:
    """The crop as RGB from 0 to 1, shape (size, size, 3); black beyond the picture."""
    ratio = crop.side / size
    if ratio > 2.0:  # shrink by areas first, or fine patterns alias
        k = 1 / ratio
        bgr = np.asarray(cv2.resize(bgr, None, fx=k, fy=k, interpolation=cv2.INTER_AREA), np.uint8)
        crop = Crop(crop.x * k, crop.y * k, crop.side * k, crop.turn_deg)
    cut = cv2.warpAffine(bgr, crop.to_square() * size, (size, size), flags=cv2.INTER_LINEAR)
    return np.asarray(cut[..., ::-1] / np.float32(255), np.float32)


def _brightened(square: NDArray[np.float32]) -> NDArray[np.float32]:
    """A dim crop as bright as those that the networks know: its lights brought up to nearly white."""
    red, green, blue = cv2.split(square)
    lights = float(np.percentile(np.maximum(np.maximum(red, green), blue), LIGHTS_PERCENT))
    if lights > DIM:
        return square
    gain = np.float32(min(NEARLY_WHITE / max(lights, 0.01), MOST_GAIN))
    return np.asarray(np.minimum(square * gain, np.float32(1.0)))


@cache
def _anchors() -> Array:
    """Middles of the detector's anchors in the unit square, shape (2254, 2)."""
    rows = []
    for cells, each in ((28, 2), (14, 2), (7, 6)):
        y, x = np.mgrid[0:cells, 0:cells]
        middles = (np.column_stack([x.ravel(), y.ravel()]) + 0.5) / cells
        rows.append(np.repeat(middles, each, axis=0))
    return np.vstack(rows)


def _without_doubles(raw: Array, scores: Array) -> list[tuple[float, Array]]:
    """Detections above the least score; those that overlap are blended by their scores.

    Each is (score, (x, y, w, h, then four points) in the unit square).
    """
    likely = np.flatnonzero(scores >= LEAST_DETECTION)
    boxes = raw[likely] / DETECTOR_PX
    anchors = _anchors()[likely]
    boxes[:, 0:2] += anchors
    boxes[:, 4:] += np.tile(anchors, 4)
    scores = scores[likely]
    order = np.argsort(-scores)
    found = []
    while len(order):
        best = order[0]
        same = np.array([_overlap(boxes[best], boxes[k]) > OVERLAP for k in order])
        same[0] = True
        group = order[same]
        found.append((float(scores[best]), np.average(boxes[group], axis=0, weights=scores[group])))
        order = order[~same]
    return found


def _overlap(a: Array, b: Array) -> float:
    """Intersection over union of two boxes (x, y, w, h; middles)."""
    low = np.maximum(a[:2] - a[2:4] / 2, b[:2] - b[2:4] / 2)
    high = np.minimum(a[:2] + a[2:4] / 2, b[:2] + b[2:4] / 2)
    shared = float(np.prod(np.clip(high - low, 0, None)))
    return shared / max(float(np.prod(a[2:4]) + np.prod(b[2:4])) - shared, 1e-12)


def _sharpened(points: Array, heat: Array) -> Array:
    """Each point moved to the mean of its heat map round it, where the heat is clear enough."""
    cells = heat.shape[0]
    warm = 1 / (1 + np.exp(-np.clip(heat, -50, 50)))
    out = points.copy()
    for k, (x, y) in enumerate(points * cells):
        column, row = int(x), int(y)
        if not (0 <= column < cells and 0 <= row < cells):
            continue
        left, top = max(column - HEAT_REACH, 0), max(row - HEAT_REACH, 0)
        part = warm[top : row + HEAT_REACH + 1, left : column + HEAT_REACH + 1, k]
        if part.max() >= LEAST_HEAT:
            ys, xs = np.mgrid[0 : part.shape[0], 0 : part.shape[1]]
            out[k] = np.array([(part * (xs + left)).sum(), (part * (ys + top)).sum()])
            out[k] /= part.sum() * cells
    return out
