"""How long reading and tracking take, as ratios to plain decoding and to the film's own length."""

import time
from collections.abc import Callable
from typing import TypeVar

import av

from bench.films import films
from keen_kettle.core.analysis import ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.track import PlateMark, track_bar

__all__ = ["report_speed"]


R = TypeVar("R")


def report_speed() -> None:
    rendered = films()  # kept: the film is gone when its generator is
    film = next(rendered)
    length = film.truth["t_s"][-1]
    index, indexing = _timed(lambda: read_index(film.path))
    _, decoding = _timed(lambda: _decode(str(film.path)))
    x, y = film.truth["bar_px"][0]
    with ClipReader(index) as reader:
        mark = PlateMark(0, x, y, film.truth["plate_radius_px"])
        track, tracking = _timed(lambda: track_bar(ReaderPictures(reader), [mark]))
    settings = ClipSettings(Derivative(film.kind.script.family))
    content = load_content()
    assess(track, settings, content)
    _, judging = _timed(lambda: assess(track, settings, content))
    with ClipReader(index) as reader:
        middle = len(index) // 2
        _, jump = _timed(lambda: reader.frame(middle))
        _, onward = _timed(lambda: [reader.frame(middle + k).bgra() for k in range(1, 41)])
        _, backward = _timed(lambda: [reader.frame(middle + 40 - k).bgra() for k in range(1, 41)])
        held = reader.held_bytes
    print(f"\n## Speed ({film.name}, 1280 × 720, {len(index)} frames, {length:.1f} s)\n")
    print("| what | seconds | ÷ decoding | ÷ film's length |\n|---|---|---|---|")
    for name, seconds in (
        ("list the frames", indexing),
        ("decode all", decoding),
        ("track the bar", tracking),
        ("measure and judge", judging),
        ("jump to the middle", jump),
        ("40 steps forwards, made ready to show", onward),
        ("40 steps backwards, made ready to show", backward),
    ):
        print(f"| {name} | {seconds:.3f} | {seconds / decoding:.2f} | {seconds / length:.3f} |")
    print(f"\nFrames remembered after that: {held / 2**20:.0f} MiB.")


def _timed(work: Callable[[], R]) -> tuple[R, float]:
    begin = time.perf_counter()
    result = work()
    return result, time.perf_counter() - begin


def _decode(path: str) -> int:
    with av.open(path) as container:
        return sum(1 for _ in container.decode(video=0))
