"""Films for tests, rendered once a run by the lift synthesiser into a folder that goes away.

Processes that run tests side by side share the folder that KETTLE_TEST_FILMS names.
"""

import fcntl
import json
import os
import pickle
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis import ReaderPictures
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.clip.write import write_clip
from keen_kettle.core.simulate import (
    Camera,
    Filming,
    LiftScript,
    SimulatedLift,
    render_clip,
    simulate_lift,
)
from keen_kettle.core.track import BarTrack, PlateMark, track_bar
from keen_kettle.core.track.body import LANDMARKS, Sightings, frames_to_look_at

__all__ = ["TestFilm", "film", "sightings", "tracked", "twice"]

_own = tempfile.TemporaryDirectory(prefix="kettle-films-")
ROOM = Path(os.environ.get("KETTLE_TEST_FILMS", _own.name))

TINY = Camera(640, 360, 142.0, 332.0, 310.0)
"""For the window's tests, which track over and over what they look at."""

SCRIPTS: dict[str, tuple[LiftScript, Filming]] = {
    "brief": (
        LiftScript("clean", faults={"bounce-forward": 0.9}, still_s=0.4, end_s=0.2),
        Filming(fps=25, exposure_s=1 / 200, seed=5, camera=TINY),
    ),
    "left": (
        LiftScript("snatch", faults={"deep-rebend": 1.0}, still_s=0.4, end_s=0.2),
        Filming(fps=30, exposure_s=1 / 120, seed=6, camera=replace(TINY, facing="left")),
    ),
    "dip": (
        LiftScript("jerk", receive="power", faults={"dip-forward": 1.0}, still_s=0.3, end_s=0.2),
        Filming(fps=30, exposure_s=1 / 200, seed=8, camera=TINY),
    ),
    "hang": (
        LiftScript("clean", "hang", "power", still_s=0.3, end_s=0.2),
        Filming(fps=25, seed=7, camera=TINY),
    ),
}


@dataclass(frozen=True)
class TestFilm:
    """A rendered film and everything that is known about it."""

    __test__ = False

    path: Path
    lift: SimulatedLift
    truth: dict[str, Any]

    @property
    def bar_px(self) -> NDArray[np.float64]:
        return np.array(self.truth["bar_px"])

    def mark(self, frame: int = 0, off: tuple[float, float, float] = (2.0, -1.5, 2.0)) -> PlateMark:
        """A mark as a hand sets it: `off` the truth in x, y and radius, in pixels."""
        x, y = self.bar_px[frame]
        return PlateMark(frame, x + off[0], y + off[1], self.truth["plate_radius_px"] + off[2])


@contextmanager
def _one_at_a_time(name: str) -> Iterator[None]:
    """Whoever comes second waits, and finds what the first has made."""
    with (ROOM / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


@cache
def film(name: str) -> TestFilm:
    script, filming = SCRIPTS[name]
    path = ROOM / f"{name}.mp4"
    lift = simulate_lift(script)
    beside = path.with_suffix(".truth.json")
    with _one_at_a_time(name):
        if not beside.is_file():
            render_clip(lift, filming, path)
    return TestFilm(path, lift, json.loads(beside.read_text()))


@cache
def twice(name: str) -> TestFilm:
    """A film of two lifts: a known one, backwards (which lowers the bar), and again; 30 a second."""
    known = film(name)
    with ClipReader(read_index(known.path)) as reader:
        pictures = [reader.frame(k).bgr() for k in range(0, len(reader.index), 2)]
    bar = known.bar_px[::2].tolist()
    order = [*range(len(pictures)), *range(len(pictures) - 2, -1, -1), *range(1, len(pictures))]
    path = Path(_own.name) / f"{name}-twice.mp4"
    write_clip(path, ((k / 30, pictures[number]) for k, number in enumerate(order)), 30, crf=20)
    return TestFilm(path, known.lift, {**known.truth, "bar_px": [bar[number] for number in order]})


@cache
def tracked(name: str) -> BarTrack:
    known, kept = film(name), ROOM / f"{name}.track"
    with _one_at_a_time(name):
        if not kept.is_file():
            with ClipReader(read_index(known.path)) as reader:
                track = track_bar(ReaderPictures(reader), [known.mark()])
            kept.write_bytes(pickle.dumps(track))
        made: BarTrack = pickle.loads(kept.read_bytes())
    return made


@cache
def sightings(name: str) -> Sightings:
    """What a perfect model would see in a film."""
    truth = film(name).truth
    frames = frames_to_look_at(np.array(truth["t_s"]))
    places = np.stack([np.array(truth["landmarks_px"][one]) for one in LANDMARKS], axis=1)
    both = places[frames][:, None].repeat(2, axis=1).astype(np.float32)
    sign = 1 if truth["facing"] == "right" else -1
    nose = (both[:, 0, LANDMARKS.index("ear"), 0] + 20 * sign).astype(np.float32)
    return Sightings(frames, both, np.ones(both.shape[:3], np.float32), nose)
