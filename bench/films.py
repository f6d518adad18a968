"""Films for the benchmarks: ordinary and hard, over all that spoils real ones; seeds of their own.

While the tracker was developed, other seeds were used (`seed_shift`), so that the report is on
films that it has not been fitted to.
"""

import json
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from keen_kettle.core.simulate import (
    Body,
    Camera,
    Filming,
    LiftScript,
    Look,
    render_clip,
    simulate_lift,
)

__all__ = ["KINDS", "BenchFilm", "Kind", "films", "render"]

DARK = Look(
    shirt=(44, 42, 40),
    shorts=(38, 36, 34),
    plate=(40, 38, 38),
    plate_ring=(46, 44, 44),
    wall=(78, 80, 82),
)
RED = Look(plate=(50, 46, 150), plate_ring=(190, 196, 200))
SMALL = Camera(640, 360, 142.0, 327.0, 320.0)
PORTRAIT = Camera(720, 1280, 300.0, 1130.0, 360.0, distance_m=5.0)
NEAR = Camera(px_per_m=240.0, distance_m=3.5, height_m=0.9)


@dataclass(frozen=True)
class Kind:
    """One film: its name, what spoils it, its class (ordinary, hard, oblique), lift and filming."""

    name: str
    nuisance: str
    group: str
    script: LiftScript
    filming: Filming


def _oblique(yaw_deg: float) -> Camera:
    return Camera(px_per_m=250.0, distance_m=5.0, yaw_deg=yaw_deg)


def _lift(
    family: str = "snatch", start: str = "floor", receive: str = "full", **more: Any
) -> LiftScript:
    return LiftScript(family, start, receive, still_s=0.4, end_s=0.4, **more)


def _film(fps: float = 30.0, **more: Any) -> Filming:
    return Filming(fps=fps, **{"exposure_s": 1 / 200, **more})


LOOP, BUMP, RUSH = {"loop": 0.7}, {"bounce-forward": 0.8}, {"rushed-first-pull": 0.6}
ROWS: tuple[tuple[str, str, str, LiftScript, Filming], ...] = (
    ("snatch, 60 a second", "none", "ordinary", _lift(), _film(60)),
    (
        *("clean, left, 50 a second", "none", "ordinary"),
        *(_lift("clean", faults=LOOP), _film(50, camera=Camera(facing="left"))),
    ),
    ("power clean, 30 a second", "none", "ordinary", _lift("clean", receive="power", body=Body(1.9)), _film()),
    ("snatch, red plate, 30 a second", "none", "ordinary", _lift(faults=BUMP), _film(look=RED)),
    ("hang snatch, 60 a second", "none", "ordinary", _lift(start="hang", body=Body(1.6)), _film(60)),
    (
        *("clean pull, 120 a second", "none", "ordinary"),
        *(_lift("clean", receive="none", faults=RUSH), _film(120, exposure_s=1 / 400)),
    ),
    ("power snatch, 240 a second", "none", "ordinary", _lift("snatch", "hang", "power"), _film(240, exposure_s=1 / 600)),
    ("power snatch, 240 a second, 640 × 360", "low resolution", "hard", _lift("snatch", "hang", "power"), _film(240, exposure_s=1 / 600, camera=SMALL)),
    ("clean, camera 5 m away", "perspective", "ordinary", _lift("clean"), _film(camera=Camera(px_per_m=250.0, distance_m=5.0))),
    ("snatch, camera low, 4 m", "perspective", "ordinary", _lift(), _film(camera=Camera(px_per_m=240.0, distance_m=4.0, height_m=0.5))),
    ("power snatch, 1/60 s shutter", "blur", "ordinary", _lift(receive="power"), _film(exposure_s=1 / 60)),
    ("snatch, 24 a second, noise 6", "noise", "hard", _lift(faults=BUMP), _film(24, exposure_s=1 / 60, noise=6, crf=30)),
    ("clean, 1/35 s shutter", "blur", "hard", _lift("clean"), _film(exposure_s=1 / 35)),
    ("snatch, dark on dark", "dark", "hard", _lift(), _film(look=DARK, noise=4, crf=28)),
    ("clean, dark on dark, 640 × 360", "dark", "hard", _lift("clean"), _film(look=DARK, camera=SMALL, noise=3)),
    ("hang clean, 640 × 360", "low resolution", "hard", _lift("clean", "hang"), _film(camera=SMALL)),
    ("snatch, 480 × 270", "low resolution", "hard", _lift(), _film(camera=Camera(480, 270, 106.0, 245.0, 240.0), crf=28)),
    ("snatch, crf 37", "compression", "hard", _lift(), _film(crf=37)),
    ("clean, 640 × 360, crf 35", "compression", "hard", _lift("clean"), _film(camera=SMALL, crf=35)),
    ("snatch before racked plates", "like plates", "hard", _lift(), _film(look=Look(racked=True))),
    ("clean before racked plates, 640 × 360", "like plates", "hard", _lift("clean", faults=LOOP), _film(look=Look(racked=True), camera=SMALL)),
    ("snatch with shadow", "shadow", "hard", _lift(), _film(shadow=True)),
    ("clean, dark, with shadow", "shadow", "hard", _lift("clean"), _film(shadow=True, look=DARK)),
    ("snatch, rolling exposure", "rolling", "hard", _lift(), _film(rolling_s=1 / 45, exposure_s=1 / 100)),
    ("snatch, hand-held, shake 5 px", "shake", "hard", _lift(faults=LOOP), _film(shake_px=5.0)),
    ("clean, hand-held, shake 10 px", "shake", "hard", _lift("clean"), _film(shake_px=10.0)),
    ("clean, panned 180 px, shake 3 px", "pan", "hard", _lift("clean"), _film(exposure_s=1 / 100, shake_px=3.0, pan_px=180.0)),
    ("snatch, uneven stamps", "uneven", "hard", _lift(), _film(jitter=0.7)),
    ("clean, a tenth dropped", "dropped", "hard", _lift("clean"), _film(dropped=0.1)),
    ("snatch, a tenth stuttered", "repeated", "hard", _lift(), _film(stuttered=0.1)),
    ("clean, shown four times", "repeated", "hard", _lift("clean"), _film(repeat=4)),
    ("snatch, foot of the plate cut", "edge", "hard", _lift(), _film(camera=Camera(floor_px=741.0))),
    ("clean, third of the plate cut", "edge", "hard", _lift("clean"), _film(camera=Camera(floor_px=757.0, px_per_m=300.0))),
    ("snatch, passer-by", "passer-by", "hard", _lift(), _film(passer_by=True)),
    ("clean, passer-by, 60 a second", "passer-by", "hard", _lift("clean"), _film(60, passer_by=True)),
    ("snatch, caption and line", "caption", "hard", _lift(), _film(caption=True)),
    ("clean, caption, 640 × 360", "caption", "hard", _lift("clean", faults=LOOP), _film(caption=True, camera=SMALL)),
    ("snatch, portrait", "portrait", "hard", _lift(), _film(camera=PORTRAIT, rotation_deg=90)),
    ("clean, portrait, turned over", "portrait", "hard", _lift("clean"), _film(camera=PORTRAIT, rotation_deg=270)),
    ("snatch, three plates, 3.5 m", "stacked", "hard", _lift(), _film(camera=NEAR, look=Look(stack=3))),
    ("clean, two plates, camera askew 4°", "stacked", "hard", _lift("clean"), _film(camera=replace(NEAR, roll_deg=4.0), look=Look(stack=2))),
    ("one-arm snatch, dumbbell", "bell", "hard", _lift(start="hang"), _film(60, look=Look(implement="dumbbell", plate_diameter_m=0.18, plate=(90, 88, 86)))),
    ("one-arm clean, kettlebell", "bell", "hard", _lift("clean", "hang"), _film(60, look=Look(implement="kettlebell", plate_diameter_m=0.21, plate=(60, 64, 170)))),
    ("snatch, dark, shake, rack", "several", "hard", _lift(), _film(look=replace(DARK, racked=True), shake_px=4.0)),
    *(
        (f"snatch from {yaw}° aside", f"view {abs(yaw)}°", "oblique", _lift(faults=LOOP), _film(camera=_oblique(yaw)))
        for yaw in (8, 15, -20, 25, 30, -35)
    ),
    ("clean from 20° aside, two plates", "view 20°", "oblique", _lift("clean"), _film(camera=_oblique(20), look=Look(stack=2))),
)  # fmt: skip
KINDS = tuple(
    Kind(name, nuisance, group, script, replace(filming, seed=100 + number))
    for number, (name, nuisance, group, script, filming) in enumerate(ROWS)
)


@dataclass(frozen=True)
class BenchFilm:
    """A rendered film with its truth."""

    kind: Kind
    path: Path
    truth: dict[str, Any]

    @property
    def name(self) -> str:
        return self.kind.name

    @property
    def bar_px(self) -> np.ndarray:
        return np.array(self.truth["bar_px"])


def render(kind: Kind, path: Path, seed_shift: int = 0) -> BenchFilm:
    """Render one film to a path."""
    filming = replace(kind.filming, seed=kind.filming.seed + seed_shift)
    beside = render_clip(simulate_lift(kind.script), filming, path)
    return BenchFilm(kind, path, json.loads(beside.read_text()))


def films(kinds: tuple[Kind, ...] = KINDS) -> Iterator[BenchFilm]:
    """Render one after the other; each is gone when the next comes."""
    for kind in kinds:
        with tempfile.TemporaryDirectory() as room:
            yield render(kind, Path(room) / "film.mp4")
