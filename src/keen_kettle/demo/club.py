"""The demo: a dozen invented athletes, and four clips, two of them reviewed.

The clips are rendered by the lift synthesiser (`./kettle render --demo`), bodies of flesh in halls as they
are, and shipped small. The
reviewed ones are marked, and measured from there in the background when the demo is first opened, by
the same code as always.
"""

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from pathlib import Path

from keen_kettle.core.clip import ClipReader, content_hash, read_index
from keen_kettle.core.simulate import Camera, Filming, LiftScript, render_clip, simulate_lift
from keen_kettle.core.simulate.lifelike import PLATES, LifelikePainter, Wear
from keen_kettle.core.track import PlateMark
from keen_kettle.demo.correctives import lay_out_correctives
from keen_kettle.demo.training import MORE_ATHLETES, lay_out_training
from keen_kettle.store import NewAthlete, NewClip, Shelf
from keen_kettle.store.thumbnail import thumbnail_of

__all__ = ["CLIPS_FOLDER", "lay_out_demo", "lay_out_people", "render_demo_clips"]

CLIPS_FOLDER = Path(__file__).parent / "clips"


@dataclass(frozen=True)
class _DemoClip:
    file: str
    athlete: str
    lift: str
    mass_kg: float
    days_ago: int
    script: LiftScript
    filming: Filming
    reviewed: bool = False


ATHLETES = (
    NewAthlete(
        "Maren Holtby",
        1.62,
        {"snatch": 52.0, "clean": 66.0},
        birth_year=1998,
        mass_kg=64.0,
        aim="weightlifting",
        sport="weightlifting",
        training_years=3.0,
        sessions_week=4,
    ),
    NewAthlete(
        "Tobias Quell",
        1.75,
        {"snatch": 78.0, "clean": 104.0},
        frozenset({"wrist"}),
        birth_year=1995,
        mass_kg=89.0,
        aim="sport power",
        sport="rescue boat",
        training_years=2.5,
        sessions_week=3,
    ),
    NewAthlete(
        "Ines Varga-Lund",
        1.56,
        {"snatch": 60.0, "clean": 78.0},
        frozenset(),
        frozenset({"bar", "stick"}),
        birth_year=2000,
        mass_kg=60.0,
        aim="weightlifting",
        sport="weightlifting",
        training_years=2.0,
        sessions_week=3,
    ),
    *MORE_ATHLETES,
)

SIDE = Camera(distance_m=4.5)
"""As coaches stand: across the platform, the phone at the height of the hips."""
SMALL = Camera(960, 540, 214.0, 498.0, 478.0, distance_m=4.5)
WOMAN = LifelikePainter(
    "rubber",
    "day",
    "woman",
    Wear((116, 62, 50), (52, 46, 44), hair=(40, 66, 96), long_hair=True),
    PLATES["blue"],
)
MAN = LifelikePainter(
    "racks",
    "neon",
    "man",
    Wear(shirt=(70, 74, 150), shorts=(70, 60, 54), skin=(150, 178, 218), hair=(60, 90, 130)),
    PLATES["red"],
)
STRONG_WOMAN = LifelikePainter(
    "daylight",
    "day",
    "strong woman",
    Wear(shirt=(96, 140, 88), shorts=(44, 40, 40), skin=(92, 122, 168), hair=(24, 28, 34)),
    PLATES["yellow"],
)
CLIPS = (
    _DemoClip(
        "maren-snatch-40.mp4",
        "Maren Holtby",
        "snatch",
        40.0,
        1,
        LiftScript("snatch", "floor", "full", WOMAN.body, {"bounce-forward": 1.05}),
        Filming(fps=30, exposure_s=1 / 240, seed=11, crf=19, camera=SIDE, painter=WOMAN),
    ),
    _DemoClip(
        "maren-snatch-35.mp4",
        "Maren Holtby",
        "snatch",
        35.0,
        15,
        LiftScript("snatch", "floor", "full", WOMAN.body, {"bounce-forward": 1.35}),
        Filming(
            fps=30,
            exposure_s=1 / 200,
            seed=53,
            crf=20,
            camera=SMALL,
            painter=replace(WOMAN, hall_name="garage", light="neon", plate=PLATES["green"]),
            shake_px=2.5,
        ),
        reviewed=True,
    ),
    _DemoClip(
        "tobias-power-clean-80.mp4",
        "Tobias Quell",
        "power clean",
        80.0,
        1,
        LiftScript("clean", "floor", "power", MAN.body, {"rushed-first-pull": 1.2, "loop": 0.9}),
        Filming(
            fps=50,
            exposure_s=1 / 160,
            seed=23,
            crf=19,
            camera=replace(SIDE, facing="left"),
            painter=MAN,
        ),
    ),
    _DemoClip(
        "ines-snatch-45.mp4",
        "Ines Varga-Lund",
        "snatch",
        45.0,
        8,
        LiftScript("snatch", "floor", "full", STRONG_WOMAN.body, {"deep-rebend": 0.95}),
        Filming(fps=50, exposure_s=1 / 200, seed=37, crf=19, camera=SMALL, painter=STRONG_WOMAN),
        reviewed=True,
    ),
)


def render_demo_clips(say: Callable[[str], None]) -> None:
    """Render the shipped clips again, with their truth."""
    CLIPS_FOLDER.mkdir(exist_ok=True)
    for one in CLIPS:
        path = CLIPS_FOLDER / one.file
        render_clip(simulate_lift(one.script), one.filming, path)
        say(f"{path.name}: {path.stat().st_size / 1e6:.1f} MB")


def lay_out_demo(shelf: Shelf, today: date) -> None:
    """Fill an empty shelf with the demo; a shelf that holds anything is left alone."""
    if shelf.athletes() or shelf.clips():
        return
    numbers = lay_out_people(shelf, today)
    for one in CLIPS:
        _add_clip(shelf, one, numbers[one.athlete], today)
    lay_out_correctives(shelf, numbers, today)


def lay_out_people(shelf: Shelf, today: date) -> dict[str, int]:
    """The dozen athletes with all that teaching knows about them; their ids by name."""
    numbers = shelf.add_athletes(ATHLETES)
    lay_out_training(shelf, today)
    return {athlete.name: number for athlete, number in zip(ATHLETES, numbers, strict=True)}


def _add_clip(shelf: Shelf, one: _DemoClip, athlete: int, today: date) -> None:
    path = CLIPS_FOLDER / one.file
    index = read_index(path)
    with ClipReader(index) as reader:
        number = shelf.add_clip(
            NewClip(
                path=path,
                sha256=content_hash(path),
                frames=len(index),
                duration_s=index.duration_s,
                filmed_on=today - timedelta(days=one.days_ago),
                athlete_id=athlete,
                lift=one.lift,
                mass_kg=one.mass_kg,
                facing=one.filming.camera.facing,
                thumbnail=thumbnail_of(reader),
                waits="" if one.reviewed else "review",
            )
        )
    if one.reviewed:
        shelf.change_clip(number, marks=(_mark(path),), background="due")


def _mark(path: Path) -> PlateMark:
    """A mark as a coach's hand would set it, a little off the truth."""
    truth = json.loads(path.with_suffix(".truth.json").read_text(encoding="utf-8"))
    x, y = truth["bar_px"][0]
    return PlateMark(
        0, round(x + 2.0, 1), round(y - 1.5, 1), round(truth["plate_radius_px"] * 1.03, 1)
    )
