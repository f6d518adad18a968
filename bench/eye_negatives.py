"""Films in which there is no plate to be found: a stick, a bell, a head that walks, pictures that stand
still, drawn graphics; or the bar is filmed from behind, where only its own plates may be proposed."""

from dataclasses import replace
from functools import partial
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.eye_films import drawn_film, rendered
from bench.eye_routines import from_behind
from keen_kettle.core.analysis import ReaderPictures
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.clip.write import write_clip
from keen_kettle.core.simulate.lifelike import LifelikePainter
from keen_kettle.core.track import propose_plate
from keen_kettle.core.track.body import PoseNet, as_a_plate_is_lifted

__all__ = ["NEGATIVES", "judge_negative"]

Picture = NDArray[np.uint8]

NEGATIVES = (
    *("stick", "kettlebell", "walking head", "still picture", "drawn graphics"),
    *("class in sticks", "from behind"),
)
SIZE, RATE, PICTURES = (640, 360), 30.0, 90


def judge_negative(what: str, number: int, seed: int) -> bool:
    """Whether a plate is proposed where there is none."""
    cv2.setNumThreads(1)
    with ClipReader(read_index(_film(what, number, seed))) as reader:
        fits = as_a_plate_is_lifted(partial(PoseNet, 1))
        mark = propose_plate(ReaderPictures(reader), fits=fits)
    if mark is None or what != "from behind":
        return mark is not None
    truth = rendered(from_behind(number, seed))[1]
    ends = np.array([truth["bar_px"][mark.frame], truth["far_end_px"][mark.frame]])
    off = np.hypot(*(ends - [mark.x_px, mark.y_px]).T)
    return bool(off.min() > 0.3 * truth["plate_radius_px"])


def _film(what: str, number: int, seed: int) -> Path:
    if what == "from behind":
        return rendered(from_behind(number, seed))[0]
    film = drawn_film(number, seed)
    painter = film.filming.painter
    assert isinstance(painter, LifelikePainter)
    if what in ("stick", "kettlebell", "class in sticks"):
        others = {"class_of": 3, "load": "stick"} if what == "class in sticks" else {"load": what}
        filming = replace(film.filming, painter=replace(painter, **others))
        return rendered(replace(film, filming=filming))[0]
    if what == "walking head":
        filming = replace(
            film.filming, repeat=1, painter=replace(painter, walker=True, load="stick")
        )
        script = replace(film.script, start="floor", still_s=2.0)
        return rendered(replace(film, filming=filming, script=script, rests=True))[0]
    path = rendered(film)[0]
    made = path.with_name(f"{path.stem}-{what.replace(' ', '-')}.mp4")
    if not made.is_file():
        part = made.with_name(f".{made.name}")
        pictures = _still(path) if what == "still picture" else _graphics(seed + number)
        write_clip(part, ((k / RATE, one) for k, one in enumerate(pictures)), RATE)
        part.replace(made)
    return made


def _still(path: Path) -> list[Picture]:
    """One picture of a film, as a camera on a stand takes it again and again."""
    with ClipReader(read_index(path)) as reader:
        picture = reader.frame(len(reader.index) // 2).bgr().astype(np.float32)
    dice = np.random.default_rng(5)
    return [
        np.clip(picture + dice.normal(0, 2.0, picture.shape), 0, 255).astype(np.uint8)
        for _ in range(PICTURES)
    ]


def _graphics(seed: int) -> list[Picture]:
    """A slide that comes in: words, a bar that grows, an arrow that turns, a disc that is drawn round."""
    dice = np.random.default_rng(seed)
    wide, high = SIZE
    ground = dice.integers(10, 245, 3).tolist()
    ink = [255 - one for one in ground]
    place = dice.uniform([0.2, 0.3], [0.8, 0.7]) * SIZE
    pictures = []
    for k in range(PICTURES):
        share = k / (PICTURES - 1)
        picture = np.full((high, wide, 3), ground, np.uint8)
        left = int((1 - min(3 * share, 1)) * wide)
        cv2.putText(picture, "Pull, then drop", (left + 40, 60), 2, 1.1, ink, 2, cv2.LINE_AA)
        cv2.rectangle(picture, (40, high - 60), (40 + int(share * (wide - 80)), high - 40), ink, -1)
        x, y = place.astype(int).tolist()
        cv2.ellipse(picture, (x, y), (45, 45), -90, 0, 360 * share, ink, -1, cv2.LINE_AA)
        turn = 3 * share
        tip = (x + int(120 * np.cos(turn)), y + int(70 * np.sin(turn)))
        cv2.arrowedLine(picture, (x, y), tip, ink, 4, cv2.LINE_AA)
        pictures.append(picture)
    return pictures
