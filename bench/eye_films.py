"""Lifelike films drawn at random over all that real ones do; rendered once and kept outside the repository."""

import json
import os
from dataclasses import MISSING, Field, dataclass, fields, is_dataclass, replace
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
from platformdirs import user_cache_path

from bench.gold import GoldClip
from keen_kettle.core.simulate import (
    Camera,
    Filming,
    LiftScript,
    frame_times,
    render_clip,
    simulate_lift,
)
from keen_kettle.core.simulate.body3d import LIFTERS
from keen_kettle.core.simulate.lifelike import HALLS, LIGHTS, PLATES, LifelikePainter, Wear

__all__ = ["SEED", "EyeFilm", "drawn_film", "gold_film", "rendered", "resting_film"]

SEED = 4000
PAINTED = "2"
"""Another one, whenever the painter paints otherwise: films that were kept from before are rendered anew."""
DISTURBED_FROM = 60
"""Films from this number on are also held, cut, walked through or mirrored."""
SHIRTS = ((104, 66, 40), (36, 34, 34), (150, 150, 152), (46, 48, 130), (60, 96, 56))
SIZES = ((1280, 720), (1280, 720), (640, 360), (854, 480), (480, 270), (360, 640))
STRIPES = ((40, 40, 210), (200, 120, 30), (60, 190, 210), (200, 200, 204), (70, 170, 60))


@dataclass(frozen=True)
class EyeFilm:
    """One film and what spoils it."""

    number: int
    script: LiftScript
    filming: Filming
    nuisances: tuple[str, ...]
    rests: bool = False
    """The film ends before the bar is lifted."""
    gold: GoldClip | None = None

    @property
    def name(self) -> str:
        if self.gold is not None:
            return self.gold.name
        painter = self.filming.painter
        assert isinstance(painter, LifelikePainter)
        parts = (painter.hall_name, painter.light, self.script.family, self.script.receive)
        return f"{self.number}: {' '.join(parts)}"

    @property
    def key(self) -> str:
        what = _said((self.script, self.filming)) + ("rests" if self.rests else "") + PAINTED
        return sha256(what.encode()).hexdigest()[:20]


def _said(value: object) -> str:
    """A value in words, by what is not as usual: a new nuisance leaves the other films where they are."""
    if isinstance(value, tuple):
        return f"({', '.join(map(_said, value))})"
    if not is_dataclass(value):
        return repr(value)
    told = ((one, getattr(value, one.name)) for one in fields(value))
    usual = {one.name: _usual(one) for one in fields(value)}
    parts = (f"{one.name}={_said(now)}" for one, now in told if now != usual[one.name])
    return f"{type(value).__name__}({', '.join(parts)})"


def _usual(one: Field[Any]) -> object:
    return one.default if one.default_factory is MISSING else one.default_factory()


def drawn_film(number: int, seed: int = SEED) -> EyeFilm:
    """The film of a number: everything about it drawn from its own seed."""
    dice = np.random.default_rng(seed + number)
    nuisances: list[str] = []

    def now_and_then(share: float, name: str) -> bool:
        yes = bool(dice.uniform() < share)
        if yes:
            nuisances.append(name)
        return yes

    wide, high = SIZES[int(dice.integers(len(SIZES)))]
    hall, light = str(dice.choice(list(HALLS))), str(dice.choice(list(LIGHTS)))
    if light == "dim":
        nuisances.append("dim")
    if hall in ("racks", "machines"):
        nuisances.append("clutter")
    plate = PLATES[str(dice.choice(list(PLATES)))]
    plate = replace(
        plate, contact=float(dice.uniform(0.2, 0.9)), sleeve=bool(dice.uniform() < 0.85)
    )
    yaw = float(dice.choice([0, 0, 5, -8, 15, -20, 25, 33]))
    if abs(yaw) >= 15:
        nuisances.append("aside")
    soft = float(dice.choice([0.5, 0.8, 1.2, 2.2])) * min(wide, high) / 720
    if soft > 1.6:
        nuisances.append("soft")
    painter = LifelikePainter(
        hall,
        light,
        str(dice.choice(LIFTERS)),
        Wear(shirt=SHIRTS[int(dice.integers(len(SHIRTS)))]),
        plate,
        soft,
        2 if now_and_then(0.15, "stack") else 1,
        now_and_then(0.2, "bystander"),
    )
    painter = _clothed(_loaded(painter, seed + number, nuisances), seed + number)
    family = str(dice.choice(["snatch", "clean", "clean"]))
    start = str(dice.choice(["floor", "floor", "hang"]))
    receive = str(dice.choice(["full", "power", "none"]))
    script = LiftScript(
        *(family, start, receive, painter.body),
        still_s=float(dice.uniform(0.2, 0.8)),
        end_s=float(dice.uniform(0.4, 0.7)),
    )
    tall = simulate_lift(script)
    top = float(tall.path.y_m(np.linspace(0, tall.duration_s, 200)).max()) + 0.3
    portrait = high > wide
    fills = float(dice.uniform(0.62, 0.95))
    px = min(fills * 0.9 * high / top, (wide / 1.3) if portrait else 1e9)
    floor = high * float(dice.uniform(0.88, 0.96))
    if now_and_then(0.15, "foot cut"):
        floor = high + 0.10 * px
    camera = Camera(
        *(wide, high, px, floor, wide * float(dice.uniform(0.42, 0.58))),
        facing=str(dice.choice(["right", "left"])),
        distance_m=float(dice.choice([2.4, 3.2, 4.5, 6.0])),
        height_m=float(dice.uniform(0.6, 1.3)),
        yaw_deg=yaw,
        roll_deg=float(dice.uniform(-4, 4)) if now_and_then(0.3, "askew") else 0.0,
    )
    if px * 0.225 < 34:
        nuisances.append("small")
    fps = float(dice.choice([24, 25, 30, 30, 50, 60]))
    filming = Filming(
        fps=fps,
        exposure_s=float(dice.uniform(0.15, 0.6)) / fps,
        noise=float(dice.uniform(1.0, 4.0)),
        crf=int(dice.choice([22, 26, 30, 34])),
        seed=seed + number,
        shake_px=0.004 * wide * float(dice.uniform(0.5, 1.5)) if now_and_then(0.4, "hand") else 0.0,
        pan_px=0.12 * wide if now_and_then(0.15, "pan") else 0.0,
        repeat=int(dice.choice([2, 4])) if now_and_then(0.15, "slow motion") else 1,
        dropped=0.12 if now_and_then(0.15, "dropped") else 0.0,
        stuttered=0.25 if now_and_then(0.2, "repeated") else 0.0,
        caption=now_and_then(0.12, "caption"),
        camera=camera,
        painter=painter,
    )
    film = EyeFilm(number, script, _in_the_hand(filming, nuisances), tuple(nuisances))
    return _disturbed(film, seed) if number >= DISTURBED_FROM else film


def _in_the_hand(filming: Filming, nuisances: list[str]) -> Filming:
    """Whoever films from the hand or turns after the bar also leans, and now and then walks nearer."""
    if not {"hand", "pan"} & set(nuisances):
        return filming
    dice = np.random.default_rng([filming.seed, 11])
    tilt, rolls = float(dice.normal(0, 0.015)), float(dice.uniform(-3, 3))
    zooms = float(dice.choice([1.0, 1.0, 0.92, 1.15]))
    tilt_px = tilt * filming.camera.height_px
    return replace(filming, tilt_px=tilt_px, rolls_deg=rolls, zooms=zooms)


def _loaded(painter: LifelikePainter, seed: int, nuisances: list[str]) -> LifelikePainter:
    """With a bright stripe near the plate's rim, or a smaller plate before it: each now and then."""
    dice = np.random.default_rng([seed, 13])
    drawn = float(dice.uniform())
    if drawn < 0.15:
        nuisances.append("stripe")
        colour = STRIPES[int(dice.integers(len(STRIPES)))]
        return replace(painter, plate=replace(painter.plate, stripe=colour))
    if drawn < 0.3:
        nuisances.append("smaller before")
        across = float(dice.choice([0.2, 0.26, 0.33]))
        return replace(painter, plate=replace(painter.plate, before_m=across))
    return painter


def _clothed(painter: LifelikePainter, seed: int) -> LifelikePainter:
    """With loose shorts, long hair, a bystander who sits: each now and then."""
    dice = np.random.default_rng([seed, 7])
    loose, hair, seated = (dice.uniform(size=3) < (0.35, 0.45, 0.4)).tolist()
    wear = replace(painter.wear, loose_shorts=loose, long_hair=hair and "woman" in painter.lifter)
    return replace(painter, wear=wear, seated=seated and painter.bystander)


def _disturbed(film: EyeFilm, seed: int) -> EyeFilm:
    """With two of what editors and full halls do: pictures held, a title before it, pictures shown for uneven
    times, a lift that is cut into, somebody who walks by, the lifter in a mirror."""
    dice = np.random.default_rng(seed + film.number + 63)
    lift, painter = simulate_lift(film.script), film.filming.painter
    assert isinstance(painter, LifelikePainter)
    events = lift.path.events_s
    first, last = events["lift_off"], events["peak_height"]
    filming, told = film.filming, list(film.nuisances)
    kinds = ["frozen", "title", "uneven", "cut into", "walked by", "mirror"]
    for what in sorted(dice.choice(kinds, 2, replace=False), key=kinds.index):
        if what == "frozen":
            at = (0.1, first + 0.3 * (last - first), last - 0.08, last)[int(dice.integers(4))]
            filming = replace(filming, freezes=((at, float(dice.choice([1.0, 3.0]))),))
        elif what == "title":
            dissolve = float(dice.choice([0.0, 0.4]))
            filming = replace(filming, opening_s=0.8 + dissolve, dissolve_s=dissolve)
        elif what == "uneven":
            runs = tuple(dice.choice([1, 1, 1, 2, 2, 3, 6], 60).tolist())
            slow = not {"frozen", "title"} & set(told)
            filming = replace(filming, repeat=1, runs=runs, runs_slow=slow)
        elif what == "cut into":
            late = not filming.freezes and dice.uniform() < 0.5
            begin = first + 0.3 * (last - first) if late else 0.0
            end = lift.duration_s if late else last + float(dice.uniform(0.05, 0.2))
            filming = replace(filming, shows_s=(begin, end))
        elif what == "walked by":
            painter = replace(painter, walker=True)
        else:
            painter = replace(painter, hall_name="mirror", reflects=True)
        told.append(str(what))
    return replace(film, filming=replace(filming, painter=painter), nuisances=tuple(told))


def gold_film(number: int, clip: GoldClip) -> EyeFilm:
    """A path-traced clip, as one of the films to be judged."""
    return EyeFilm(number, clip.script, clip.filming, clip.nuisances, gold=clip)


def rendered(film: EyeFilm) -> tuple[Path, dict[str, Any]]:
    """The film's file and its truth; rendered at the first time only."""
    if film.gold is not None:
        return film.gold.film, json.loads(film.gold.truth.read_text())
    room = user_cache_path("keen-kettle-bench") / "eye"
    room.mkdir(parents=True, exist_ok=True)
    path = room / f"{film.key}.mp4"
    beside = path.with_suffix(".truth.json")
    if not (path.is_file() and beside.is_file()):
        part = path.with_name(f"{film.key}.{os.getpid()}.mp4")
        lift = simulate_lift(film.script)
        times = frame_times(lift, film.filming)
        if film.rests:
            times = times[times < lift.path.events_s["lift_off"] * film.filming.repeat]
        made = render_clip(lift, film.filming, part, times)
        made.replace(beside)
        part.replace(path)
    return path, json.loads(beside.read_text())


def resting_film(number: int, seed: int) -> EyeFilm:
    """A lifter who stands over the bar for two seconds and does not lift it; somebody walks by in every
    other film."""
    film = drawn_film(number, seed)
    script = replace(film.script, start="floor", still_s=2.0)
    walks = number % 2 == 1
    filming = replace(film.filming, repeat=1, passer_by=walks)
    return EyeFilm(number, script, filming, ("walked by",) if walks else (), rests=True)
