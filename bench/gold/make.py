"""Makes the gold clips that are missing; run where the path tracer is installed: `python -m bench.gold.make`."""

import sys
from dataclasses import fields, replace
from pathlib import Path

import mitsuba as mi

mi.set_variant(sys.argv[1] if len(sys.argv) > 1 else "scalar_rgb")

from bench.gold.clips import GOLD, GoldClip  # noqa: E402
from bench.gold.tracer import TracedPainter  # noqa: E402
from keen_kettle.core.simulate import render_clip, simulate_lift  # noqa: E402
from keen_kettle.core.simulate.lifelike import LifelikePainter  # noqa: E402


def make(clip: GoldClip) -> None:
    """Trace one clip; it is at its place when all of it is written."""
    quick = clip.filming.painter
    assert isinstance(quick, LifelikePainter)
    look = {part.name: getattr(quick, part.name) for part in fields(LifelikePainter)}
    painter = TracedPainter(**look, room=clip.room, key=clip.key, rays=clip.rays)
    part = clip.film.with_name(f".{clip.name}.mp4")
    said = _Said(clip.name)
    beside = render_clip(
        simulate_lift(clip.script), replace(clip.filming, painter=painter), part, progress=said
    )
    beside.replace(clip.truth)
    part.replace(clip.film)
    print(f"{clip.name}: {clip.film.stat().st_size / 1e6:.2f} MB", flush=True)


class _Said:
    """Says every tenth of the way how far it has come."""

    def __init__(self, name: str) -> None:
        self.name, self.tenths = name, 0

    def __call__(self, share: float) -> None:
        if int(10 * share) > self.tenths:
            self.tenths = int(10 * share)
            print(f"{self.name} {10 * self.tenths} %", flush=True)


def missing() -> list[GoldClip]:
    return [clip for clip in GOLD if not (clip.film.is_file() and clip.truth.is_file())]


if __name__ == "__main__":
    for left_over in Path(__file__).parent.glob(".*.mp4"):
        left_over.unlink()
    for one in missing():
        make(one)
