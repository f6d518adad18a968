"""Films for the benchmarks: seeds of their own, apart from those of the tests."""

import json
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from keen_kettle.core.simulate import (
    Body,
    Camera,
    Filming,
    LiftScript,
    Look,
    render_clip,
    simulate_lift,
)

__all__ = ["BenchFilm", "films"]

DARK = Look(
    shirt=(44, 42, 40),
    shorts=(38, 36, 34),
    plate=(40, 38, 38),
    plate_ring=(46, 44, 44),
    wall=(78, 80, 82),
)

KINDS: dict[str, tuple[LiftScript, Filming]] = {
    "snatch, 60 a second": (LiftScript("snatch"), Filming(seed=101)),
    "clean, left, 50 a second": (
        LiftScript("clean", faults={"loop": 0.7}),
        Filming(fps=50, seed=102, camera=Camera(facing="left")),
    ),
    "power clean, 30 a second, blur": (
        LiftScript("clean", receive="power", body=Body(1.9)),
        Filming(fps=30, exposure_s=1 / 50, seed=103),
    ),
    "snatch, 24 a second, dark, noise 6": (
        LiftScript("snatch", faults={"bounce-forward": 0.8}),
        Filming(fps=24, exposure_s=1 / 60, noise=6, crf=30, seed=104, look=DARK),
    ),
    "hang clean, 640 by 360": (
        LiftScript("clean", "hang", "full", Body(1.6)),
        Filming(seed=105, camera=Camera(640, 360, 142.0, 327.0, 320.0)),
    ),
    "snatch, held in the hand (shake 5 px)": (
        LiftScript("snatch", faults={"loop": 0.5}),
        Filming(fps=60, seed=107, shake_px=5.0),
    ),
    "clean, panned 180 px, shake 3 px, 30 a second": (
        LiftScript("clean"),
        Filming(fps=30, exposure_s=1 / 100, seed=108, shake_px=3.0, pan_px=180.0),
    ),
    "snatch pull, 120 a second": (
        LiftScript("snatch", receive="none", faults={"rushed-first-pull": 0.6}),
        Filming(fps=120, exposure_s=1 / 400, seed=106),
    ),
}


@dataclass(frozen=True)
class BenchFilm:
    name: str
    path: Path
    script: LiftScript
    truth: dict[str, Any]


def films() -> Iterator[BenchFilm]:
    """Render one after the other; each is gone when the next comes."""
    for name, (script, filming) in KINDS.items():
        with tempfile.TemporaryDirectory() as room:
            path = Path(room) / "film.mp4"
            beside = render_clip(simulate_lift(script), filming, path)
            yield BenchFilm(name, path, script, json.loads(beside.read_text()))
