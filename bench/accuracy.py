"""How true path, states, scale and measures are, against known truth, over all that spoils films."""

import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from bench.films import KINDS, BenchFilm, render
from keen_kettle.core.analysis import ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.content import load_content
from keen_kettle.core.track import PlateMark, State, propose_plate, track_bar

__all__ = ["FilmReport", "judge_film", "report_accuracy"]

MEASURES = ("peak_velocity", "peak_height", "loop", "forward_bump", "velocity_dip", "rhythm")
WANTED_RMS = {"ordinary": 1.0, "hard": 2.5, "oblique": 4.0}
ROUGH = 0.03
"""The mark's error, one sigma each way, as a share of the radius."""


@dataclass(frozen=True)
class FilmReport:
    """What came out for one film; distances in % of the plate's diameter."""

    name: str
    nuisance: str
    group: str
    rms: float
    worst: float
    still_rms: float
    good: int
    good_under_3: int
    silent: int
    lost: float
    repeated: float
    frames: int
    scale_error: float
    proposed: bool
    measures: tuple[tuple[str, float, float, float], ...]
    fps: float


def report_accuracy() -> None:
    """Print the report; films are rendered and followed on two processes."""
    rows = list(_reports())
    _print_films(rows)
    _print_nuisances(rows)
    _print_states(rows)
    _print_measures(rows)


def _reports() -> Iterator[FilmReport]:
    with ProcessPoolExecutor(2) as pool:
        yield from pool.map(_one, range(len(KINDS)))


def _one(number: int) -> FilmReport:
    cv2.setNumThreads(1)
    with tempfile.TemporaryDirectory() as room:
        return judge_film(render(KINDS[number], Path(room) / "film.mp4"), number)


def judge_film(film: BenchFilm, seed: int) -> FilmReport:
    """Follow one film from a rough mark and compare it with its truth."""
    bar, radius = film.bar_px, float(film.truth["plate_radius_px"])
    rng = np.random.default_rng(seed)
    aside = rng.normal(0, ROUGH * radius, 2)
    x, y = bar[0] + aside
    mark = PlateMark(0, float(x), float(y), radius * (1 + rng.uniform(-0.05, 0.05)))
    with ClipReader(read_index(film.path)) as reader:
        pictures = ReaderPictures(reader)
        track = track_bar(pictures, [mark])
        proposed = propose_plate(pictures)
    away = _away(np.column_stack([track.x_px, track.y_px]), bar, radius)
    still = bar + np.array(film.truth["camera_px"])
    still_away = _away(np.column_stack([track.still_x_px, track.still_y_px]), still, radius)
    good = track.state == State.GOOD
    hit = proposed is not None and (
        np.hypot(*(bar[proposed.frame] - [proposed.x_px, proposed.y_px])) < 0.2 * radius
        and abs(proposed.r_px / radius - 1) < 0.1
    )
    kind = film.kind
    return FilmReport(
        name=kind.name,
        nuisance=kind.nuisance,
        group=kind.group,
        rms=float(np.sqrt(np.nanmean(away**2))),
        worst=float(np.nanmax(away)),
        still_rms=float(np.sqrt(np.nanmean(still_away**2))),
        good=int(good.sum()),
        good_under_3=int((away[good] < 3).sum()),
        silent=int((away[good] > 10).sum()),
        lost=track.share(State.LOST),
        repeated=track.share(State.REPEATED),
        frames=len(track),
        scale_error=max(track.rim.axes_px) / radius - 1,
        proposed=bool(hit),
        measures=tuple(_measures(film, track)),
        fps=kind.filming.fps,
    )


def _away(found: np.ndarray, true: np.ndarray, radius: float) -> np.ndarray:
    return np.asarray(50 * np.hypot(*(found - true).T) / radius)


def _measures(film: BenchFilm, track: object) -> Iterator[tuple[str, float, float, float]]:
    """(name, error, sigma, truth) of the measures that came out; bells have no bar to compare."""
    filming = film.kind.filming
    if filming.look.implement != "bar" or filming.repeat > 1:
        return
    settings = ClipSettings(film.kind.script.derivative, film.truth["facing"])
    answer = assess(track, settings, load_content())  # type: ignore[arg-type]
    for name in MEASURES:
        measure, true = answer.measures[name], film.truth["measures"].get(name)
        if measure.value is not None and measure.sigma is not None and true is not None:
            yield name, measure.value - true, measure.sigma, true


def _print_films(rows: list[FilmReport]) -> None:
    print(f"\n## Path, {len(rows)} films (rough mark; % of the plate's diameter)\n")
    print(
        "| film | class | RMS | worst | still RMS | good | of good under 3 % | lost | scale off | plate proposed |"
    )
    print("|---|---|---|---|---|---|---|---|---|---|")
    for row in rows:
        share = 100 * row.good_under_3 / max(row.good, 1)
        print(
            f"| {row.name} | {row.group} | {row.rms:.2f} | {row.worst:.1f} | {row.still_rms:.2f} | "
            f"{100 * row.good / row.frames:.0f} % | {share:.1f} % | {100 * row.lost:.0f} % | "
            f"{100 * row.scale_error:+.1f} % | {'yes' if row.proposed else 'no'} |"
        )


def _print_nuisances(rows: list[FilmReport]) -> None:
    print("\n| nuisance | films | median RMS | highest RMS |\n|---|---|---|---|")
    for nuisance in dict.fromkeys(row.nuisance for row in rows):
        values = [row.rms for row in rows if row.nuisance == nuisance]
        print(f"| {nuisance} | {len(values)} | {np.median(values):.2f} | {max(values):.2f} |")
    print("\n| class | films | highest RMS | wanted |\n|---|---|---|---|")
    for group, wanted in WANTED_RMS.items():
        values = [row.rms for row in rows if row.group == group]
        print(f"| {group} | {len(values)} | {max(values):.2f} | {wanted:.1f} |")


def _print_states(rows: list[FilmReport]) -> None:
    good = sum(row.good for row in rows)
    under = sum(row.good_under_3 for row in rows)
    print(
        f"\nOf {good} frames called good, {100 * under / good:.2f} % are under 3 % of the diameter "
        f"(wanted 97 %); {sum(row.silent for row in rows)} are more than 10 % off. "
        f"Of {sum(row.frames for row in rows)} frames {100 * good / sum(row.frames for row in rows):.0f} % "
        f"are called good. The plate was proposed rightly in {sum(row.proposed for row in rows)} films."
    )


def _print_measures(rows: list[FilmReport]) -> None:
    print("\n## Measures against truth\n")
    print(
        "| measure | films | median error | largest, ordinary | within 1 sigma | within 2 sigma |"
    )
    print("|---|---|---|---|---|---|")
    side = [row for row in rows if row.group != "oblique"]
    for name in MEASURES:
        found = [(row, one) for row in side for one in row.measures if one[0] == name]
        plain = [abs(one[1]) for row, one in found if row.group == "ordinary" and row.fps >= 30]
        within = [100 * np.mean([abs(one[1]) <= k * one[2] for _, one in found]) for k in (1, 2)]
        print(
            f"| {name} | {len(found)} | {np.median([abs(one[1]) for _, one in found]):.3f} | "
            f"{max(plain):.3f} | {within[0]:.0f} % | {within[1]:.0f} % |"
        )
    fast = [
        abs(one[1]) / one[3]
        for row in rows
        for one in row.measures
        if one[0] == "peak_velocity" and row.group == "ordinary" and row.fps >= 30
    ]
    print(f"\nPeak velocity, ordinary: at most {100 * max(fast):.1f} % off (wanted 3 %).")
