"""How long reading and tracking take: ratios to plain decoding, to CSRT and to the film's own length."""

import subprocess
import sys
import tempfile
import time
import venv
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TypeVar
from unittest import mock

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from bench.films import KINDS, BenchFilm, render
from keen_kettle.core.analysis import AheadPictures, ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index, write_clip
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.track import BarTrack, PlateMark, pictures, propose_plate, track_bar
from keen_kettle.core.track.pictures import in_large

__all__ = ["report_speed"]

RIVAL = ("opencv-contrib-python-headless==4.12.0.88", "numpy==2.2.6")
LONG_S, LONG_RATE = 600, 6
LARGE_TIMES = 3
R = TypeVar("R")
Picture = NDArray[np.uint8]


def report_speed() -> None:
    with tempfile.TemporaryDirectory() as name:
        room = Path(name)
        kind = replace(KINDS[0], filming=replace(KINDS[0].filming, key_interval=250))
        film = render(kind, room / "film.mp4")
        _report_film(film)
        _report_steps(film)
        _report_rival(film, room)
        _report_large(film, room)
        _report_memory(room)


def _report_film(film: BenchFilm) -> None:
    length = film.truth["t_s"][-1]
    index, indexing = _timed(lambda: read_index(film.path))
    _, decoding = _timed(lambda: _decode(str(film.path)))
    track, tracking = _timed(lambda: _track(film))
    settings, content = ClipSettings(Derivative(film.kind.script.family)), load_content()
    assess(track, settings, content)
    _, judging = _timed(lambda: assess(track, settings, content))
    with ClipReader(index) as reader:
        _, proposing = _timed(lambda: propose_plate(ReaderPictures(reader)))
    print(f"\n## Speed ({film.name}, 1280 × 720, {len(index)} frames, {length:.1f} s)\n")
    print("| what | seconds | ÷ decoding | ÷ film's length |\n|---|---|---|---|")
    for name, seconds in (
        ("list the frames", indexing),
        ("decode all", decoding),
        ("propose the plate", proposing),
        ("track the bar", tracking),
        ("measure and judge", judging),
    ):
        print(f"| {name} | {seconds:.3f} | {seconds / decoding:.2f} | {seconds / length:.3f} |")


def _report_steps(film: BenchFilm) -> None:
    """Steps and jumps in a film with a key frame every 250 frames."""
    index = read_index(film.path)
    count = len(index)
    with ClipReader(index) as reader:
        reader.frame(0)
        onward = [_shown(reader, k) for k in range(1, 120)]
        backward = [_shown(reader, k) for k in range(118, 0, -1)]
    jumps, plain = [], []
    for number in np.random.default_rng(5).integers(20, count, 12):
        stamp = int(index.pts[number])
        key = int(index.pts[index.keys[index.keys <= number][-1]])
        with ClipReader(index) as reader:
            jumps.append(_shown(reader, int(number)))
        begin = time.perf_counter()
        _decode_from(film.path, key, stamp)
        plain.append(time.perf_counter() - begin)
    print("\n| step, made ready to show | median ms | longest ms |\n|---|---|---|")
    for name, values in (("next frame", onward), ("one back", backward)):
        print(f"| {name} | {1000 * np.median(values):.1f} | {1000 * max(values):.1f} |")
    print(
        f"| jump anywhere (key frame every 250) | {1000 * np.median(jumps):.0f} | {1000 * max(jumps):.0f} |"
        f"\n\nA jump takes {np.median(np.array(jumps) / np.array(plain)):.2f} times decoding from the key frame (wanted 1.2)."
    )


def _report_rival(film: BenchFilm, room: Path) -> None:
    """One thread each, one after the other, CPU time; once with our decoding of the pictures, some of which are
    met more than once, and once without, as CSRT is timed."""
    python = _rival_python(room)
    if python is None:
        print("\nCSRT could not be set up here (no package source); its ratio is left out.")
        return
    x, y = film.truth["bar_px"][0]
    words = [str(python), str(Path(__file__).with_name("rival.py")), str(film.path)]
    words += [str(x), str(y), str(film.truth["plate_radius_px"])]
    said = subprocess.run(words, capture_output=True, text=True, check=True).stdout
    rival_ms = float(said.split()[-1])
    cv2.setNumThreads(1)
    mark = PlateMark(0, x, y, film.truth["plate_radius_px"])
    with ClipReader(read_index(film.path)) as reader:
        asked = _Asked(reader)
        all_ms = _cpu_ms(lambda: track_bar(asked, [mark])) / len(reader.index)
    with ClipReader(read_index(film.path)) as reader:
        plain = ReaderPictures(reader)
        reading_ms = _cpu_ms(lambda: [plain.bgr(n) for n in asked.numbers]) / len(reader.index)
    alone_ms = all_ms - reading_ms
    print(
        f"\nA frame of 720p with check backwards and background: {all_ms:.1f} ms, of these {reading_ms:.1f} ms for "
        f"decoding; CSRT without decoding {rival_ms:.1f} ms: ratio {all_ms / rival_ms:.2f} (wanted 0.25), "
        f"like for like {alone_ms / rival_ms:.2f}."
    )


class _Asked(ReaderPictures):
    """Pictures that remember which of them were asked for."""

    def __init__(self, reader: ClipReader) -> None:
        super().__init__(reader)
        self.numbers: list[int] = []

    def bgr(self, number: int) -> NDArray[np.uint8]:
        self.numbers.append(number)
        return super().bgr(number)


def _cpu_ms(work: Callable[[], object]) -> float:
    begin = time.process_time()
    work()
    return 1000 * (time.process_time() - begin)


def _rival_python(room: Path) -> Path | None:
    folder = room / "rival"
    venv.create(folder, with_pip=True)
    python = folder / "bin" / "python"
    done = subprocess.run(
        [str(python), "-m", "pip", "install", "--quiet", *RIVAL], capture_output=True, check=False
    )
    return python if done.returncode == 0 else None


def _report_large(film: BenchFilm, room: Path) -> None:
    """A film as large as phones make them, followed as it is and in smaller pictures."""
    path, times = room / "large.mp4", LARGE_TIMES
    with ClipReader(read_index(film.path)) as reader:
        high, wide = reader.frame(0).bgr().shape[:2]
        size, frames = (times * wide, times * high), range(0, len(reader.index), 2)
        shown = (
            (k / 60, np.asarray(cv2.resize(reader.frame(k).bgr(), size), np.uint8)) for k in frames
        )
        write_clip(path, shown, 30, quickly=True, key_interval=30)
    x, y = film.truth["bar_px"][0]
    mark = PlateMark(0, x, y, film.truth["plate_radius_px"]).larger(times)
    true = in_large(np.array(film.truth["bar_px"])[::2], times)
    said = []
    for longest in (pictures.LONGEST_PX, max(size)):
        with (
            mock.patch.object(pictures, "LONGEST_PX", longest),
            ClipReader(read_index(path)) as reader,
            AheadPictures(reader) as ahead,
        ):
            track, seconds = _timed(partial(track_bar, ahead, [mark]))
        off = np.hypot(track.x_px - true[:, 0], track.y_px - true[:, 1])
        said += [seconds, 100 * float(np.nanmedian(off)) / mark.r_px]
    print(
        f"\nA film of {size[0]} × {size[1]} is followed in {said[0] / said[2]:.2f} of the time when it is looked at in "
        f"smaller pictures, {said[1]:.1f} % of the radius off instead of {said[3]:.1f} %."
    )


def _report_memory(room: Path) -> None:
    """The most memory that tracking a whole long film takes, in a process of its own."""
    path = room / "long.mp4"
    rng = np.random.default_rng(3)
    wall = np.clip(cv2.resize(rng.normal(140, 30, (68, 120, 3)), (1920, 1080)), 0, 255).astype(
        np.uint8
    )

    def frames() -> Iterator[tuple[float, Picture]]:
        for k in range(LONG_S * LONG_RATE):
            picture = wall.copy()
            spot = (960 + int(40 * np.sin(k / 40)), 700 - int(300 * abs(np.sin(k / 60))))
            cv2.circle(picture, spot, 90, (40, 40, 44), -1)
            cv2.circle(picture, (spot[0] + 40, spot[1]), 18, (200, 200, 205), -1)
            cv2.circle(picture, (spot[0] - 20, spot[1] + 35), 14, (190, 120, 205), -1)
            yield k / LONG_RATE, picture

    write_clip(path, frames(), LONG_RATE, crf=30)
    script = (
        "import sys; from pathlib import Path; from bench.speed import most_memory_mb, track_from; "
        "before = most_memory_mb(); print(track_from(Path(sys.argv[1]), 960, 700, 90)); "
        "print(before, most_memory_mb())"
    )
    said = subprocess.run(
        [sys.executable, "-c", script, str(path)], capture_output=True, text=True, check=True
    ).stdout.split()
    print(
        f"\nMemory over {LONG_S // 60} minutes of 1080p ({LONG_RATE} frames a second), followed throughout ({said[0]} frames, "
        f"{float(said[1]):.0f} % good): at most {float(said[3]):.0f} MB (before: {float(said[2]):.0f}; wanted 600)."
    )


def most_memory_mb() -> float:
    """The most that this process has held (of its own since it was begun), in MB."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(int(line.split()[1]) / 1024 for line in lines if line.startswith("VmHWM"))


def track_from(path: Path, x: float, y: float, radius: float) -> str:
    """Track a film; frames and the share of good ones, as words."""
    with ClipReader(read_index(path)) as reader:
        track = track_bar(ReaderPictures(reader), [PlateMark(0, x, y, radius)])
    return f"{len(track)} {100 * float((track.state == 0).mean()):.0f}"


def _track(film: BenchFilm) -> BarTrack:
    x, y = film.truth["bar_px"][0]
    with ClipReader(read_index(film.path)) as reader, AheadPictures(reader) as ahead:
        mark = PlateMark(0, x, y, film.truth["plate_radius_px"])
        return track_bar(ahead, [mark])


def _timed(work: Callable[[], R]) -> tuple[R, float]:
    begin = time.perf_counter()
    result = work()
    return result, time.perf_counter() - begin


def _shown(reader: ClipReader, number: int) -> float:
    """Seconds until a frame is ready to be shown."""
    begin = time.perf_counter()
    reader.frame(number).bgra()
    return time.perf_counter() - begin


def _decode(path: str) -> int:
    with av.open(path) as container:
        return sum(1 for _ in container.decode(video=0))


def _decode_from(path: Path, key: int, stamp: int) -> None:
    """Decode from a key frame up to a time stamp, as plainly as can be."""
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        container.seek(key, stream=stream, backward=True)
        for frame in container.decode(stream):
            if frame.pts is not None and frame.pts >= stamp:
                return
