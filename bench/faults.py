"""Body points, measures and four faults in lifelike films: how true, how honest, and what is told from what.

Each film shows a lift with one of the faults that lifters show on purpose, or a good one. The plate is
marked where its centre is first seen; everything else is the program's own. Set KETTLE_FAULT_FILMS for another
number of films, KETTLE_FAULT_SEED for other ones.
"""

import os
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.eye_films import EyeFilm, drawn_film, rendered
from bench.measures import Pairs, against_truth, print_measures
from keen_kettle.core.analysis import Assessment, ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.content import load_content
from keen_kettle.core.faults import judged_faults
from keen_kettle.core.simulate.lifelike import LifelikePainter
from keen_kettle.core.simulate.scene import LIMB_DEPTH_M
from keen_kettle.core.track import BarTrack, PlateMark, track_bar
from keen_kettle.core.track.body import (
    LANDMARKS,
    BodyHand,
    BodyTrack,
    FollowedBar,
    PointState,
    PoseNet,
    Sightings,
    find_body,
    solve_body,
)

__all__ = ["FAULTS", "FaultReport", "fault_film", "report_faults"]

Array = NDArray[np.float64]

FILMS, SEED = 60, 7000
FAULTS = ("hips-shoot", "incomplete-hip", "back-behind-bar", "early-toes")
MOST_ASIDE_DEG = 12.0
"""Farther from the side nobody can judge these faults; the program says so."""
WANTED = {"toe": 3.0, "heel": 2.8, "ankle": 1.6, "ear": 2.8}
OTHERS = 2.6


@dataclass(frozen=True)
class FaultReport:
    """What came out for one film.

    `points` holds rows (error forward, error up, sigma, state) of a landmark in percent of shank,
    thigh and trunk; `told` the faults that were said, the chief one first; `values` the measures, `pairs` those
    that are known of the true body, too; `judges` the faults that the film's measures can show or rule out (of the
    others the program says that it does not judge them).
    """

    film: EyeFilm
    fault: str
    points: dict[str, Array]
    told: tuple[str, ...]
    close: tuple[str, ...]
    values: dict[str, tuple[float, float]]
    pairs: Pairs
    judges: frozenset[str]
    has_body: bool


def fault_film(number: int, seed: int = SEED) -> tuple[EyeFilm, str]:
    """The film of a number and its fault ("" for every other one, which is good)."""
    film = drawn_film(number, seed)
    dice = np.random.default_rng(seed + number + 31)
    fault = FAULTS[number // 2 % len(FAULTS)] if number % 2 else ""
    yaw = float(dice.uniform(-MOST_ASIDE_DEG, MOST_ASIDE_DEG))
    script = replace(
        film.script,
        start="floor",
        faults={fault: float(dice.uniform(0.8, 1.2))} if fault else {},
        still_s=max(film.script.still_s, 0.5),
    )
    camera = replace(film.filming.camera, yaw_deg=yaw)
    kept = tuple(name for name in film.nuisances if name != "aside")
    return EyeFilm(number, script, replace(film.filming, camera=camera), kept), fault


def look(film: EyeFilm) -> tuple[BarTrack, Sightings]:
    """Follow the bar from a coach's mark and look for the lifter."""
    path, truth = rendered(film)
    bar, radius = np.array(truth["bar_px"]), float(truth["plate_radius_px"])
    with ClipReader(read_index(path)) as reader:
        pictures = ReaderPictures(reader)
        camera = film.filming.camera
        inside = (bar > 1) & (bar < [camera.width_px - 2, camera.height_px - 2])
        first = int(np.argmax(inside.all(axis=1)))
        x, y = bar[first]
        track = track_bar(pictures, [PlateMark(first, float(x), float(y), radius)])
        return track, find_body(pictures, PoseNet(1), FollowedBar.of(track))


def judge(number: int, seed: int) -> FaultReport:
    """One film from its file to its findings."""
    cv2.setNumThreads(1)
    film, fault = fault_film(number, seed)
    return judged(film, fault, *look(film))


def judged(film: EyeFilm, fault: str, track: BarTrack, sightings: Sightings) -> FaultReport:
    """What body and findings are worth."""
    path, truth = rendered(film)
    facing = truth["facing"]
    body = solve_body(track.t_s, facing, sightings, BodyHand(), track)
    settings = ClipSettings(film.script.derivative, facing, centre_px=read_index(path).centre_px)
    content = load_content()
    answer = assess(track, settings, content, body)
    chief = answer.diagnosis.chief.fault if answer.diagnosis else ""
    told = sorted(answer.findings, key=lambda one: one.fault != chief)
    return FaultReport(
        film,
        fault,
        _points(film, truth, body) if body is not None else {},
        tuple(one.fault for one in told if not one.close),
        tuple(one.fault for one in told if one.close),
        _values(answer),
        against_truth(film, truth, track, body, settings, answer),
        frozenset(
            one.id for one in judged_faults(answer.measures, settings.derivative.family, content)
        ),
        answer.body is not None,
    )


def _points(film: EyeFilm, truth: dict[str, Any], body: BodyTrack) -> dict[str, Array]:
    painter = film.filming.painter
    assert isinstance(painter, LifelikePainter)
    long = painter.body.shank_m + painter.body.thigh_m + painter.body.trunk_m
    share = 100 / (long * film.filming.camera.scale_at(LIMB_DEPTH_M))
    ahead = 1 if truth["facing"] == "right" else -1
    found = {}
    for k, name in enumerate(LANDMARKS):
        true = np.array(truth["landmarks_px"][name])
        off = np.column_stack([body.x_px[:, k], body.y_px[:, k]]) - true
        rows = [off[:, 0] * ahead, -off[:, 1], body.sigma_px[:, k]]
        found[name] = np.column_stack([*(share * row for row in rows), body.state[:, k]])
    return found


def _values(answer: Assessment) -> dict[str, tuple[float, float]]:
    return {
        name: (float(one.value), float(one.sigma or 0.0))
        for name, one in answer.measures.items()
        if one.value is not None
    }


def report_faults() -> None:
    """Print the report; films are rendered and looked at on two processes."""
    count = int(os.environ.get("KETTLE_FAULT_FILMS", FILMS))
    seed = int(os.environ.get("KETTLE_FAULT_SEED", SEED))
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(judge, range(count), [seed] * count))
    print(
        f"\n## Body and faults on {len(rows)} lifelike films (seeds {seed} to {seed + count - 1})\n"
    )
    print_points(rows)
    print_measures([row.pairs for row in rows])
    print_faults(rows)
    print_wrong(rows)


def print_points(rows: list[FaultReport]) -> None:
    print("Points that are said to be measured; percent of shank, thigh and trunk, per axis.\n")
    print(
        "| landmark | measured | forward: mean | spread | up: mean | spread | 1 sigma | 2 sigma | sigma, median |"
    )
    print("|---|---|---|---|---|---|---|---|---|")
    every = []
    for name in LANDMARKS:
        table = np.vstack([row.points[name] for row in rows if row.points])
        table = table[np.isfinite(table).all(axis=1)]
        seen = table[table[:, 3] == PointState.MEASURED]
        z = np.abs(seen[:, :2]) / seen[:, 2:3]
        every.append(z)
        cells = [f"{seen[:, axis].mean():+.1f} | {seen[:, axis].std():.1f}" for axis in (0, 1)]
        print(
            f"| {name} | {_percent(len(seen), len(table))} | {' | '.join(cells)} | {_within(z, 1)} | "
            f"{_within(z, 2)} | {np.median(seen[:, 2]):.1f} |"
        )
    z = np.vstack(every)
    print(
        f"\nAll: {_within(z, 1)} within one sigma (wanted 60–75), {_within(z, 2)} within two (93)."
    )


def print_faults(rows: list[FaultReport]) -> None:
    good = [row for row in rows if not row.fault]
    print(
        "\n| fault | shown in | not judged | told (close) | chief | told in good lifts (close) |\n|---|---|---|---|---|---|"
    )
    for fault in FAULTS:
        shown = [row for row in rows if row.fault == fault]
        print(
            f"| {fault} | {len(shown)} | {sum(fault not in r.judges for r in shown)} | {sum(fault in r.told for r in shown)} "
            f"({sum(fault in r.close for r in shown)}) | {sum(r.told[:1] == (fault,) for r in shown)} | "
            f"{sum(fault in r.told for r in good)} ({sum(fault in r.close for r in good)}) of {len(good)} |"
        )


def print_wrong(rows: list[FaultReport]) -> None:
    print("\n| film | nuisances | shown | told | close |\n|---|---|---|---|---|")
    for row in rows:
        if set(row.told) != ({row.fault} if row.fault else set()):
            print(
                f"| {row.film.name} | {', '.join(row.film.nuisances)} | {row.fault or 'good'} | "
                f"{', '.join(row.told)}{'' if row.has_body else 'no body'} | {', '.join(row.close)} |"
            )


def _within(z: Array, most: float) -> str:
    return _percent(int((z <= most).sum()), z.size)


def _percent(part: int, whole: int) -> str:
    return f"{100 * part / max(whole, 1):.0f} %"
