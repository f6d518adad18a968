"""How true the path, the states and the measures are, against known truth."""

import numpy as np

from bench.films import BenchFilm, films
from keen_kettle.core.analysis import ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.content import load_content
from keen_kettle.core.track import PlateMark, State, track_bar

__all__ = ["report_accuracy"]

MEASURES = ("peak_velocity", "peak_height", "loop", "forward_bump", "velocity_dip", "rhythm")


def report_accuracy() -> None:
    print("\n## Accuracy of the bar path (rough mark: 3 px aside, radius 4 % too large)\n")
    print(
        "| film | RMS, % of diameter | worst, % | good | of good under 3 % | lost | still RMS, % |"
    )
    print("|---|---|---|---|---|---|---|")
    inside: list[tuple[str, float, float, float]] = []
    shares: list[tuple[int, int]] = []
    for film in films():
        inside += _one(film, shares)
    good, true = (sum(column) for column in zip(*shares, strict=True))
    print(
        f"\nOf {good} frames called good, {100 * true / good:.1f} % are under 3 % of the diameter."
    )
    print(
        "\n## Measures against truth\n\n| measure | films | median error | within 1 sigma | within 2 sigma |\n|---|---|---|---|---|"
    )
    for name in MEASURES:
        rows = [row for row in inside if row[0] == name]
        within = [np.mean([abs(row[1]) <= k * row[2] for row in rows]) for k in (1, 2)]
        median = np.median([abs(row[1]) for row in rows])
        print(
            f"| {name} | {len(rows)} | {median:.3f} | {100 * within[0]:.0f} % | {100 * within[1]:.0f} % |"
        )


def _one(film: BenchFilm, shares: list[tuple[int, int]]) -> list[tuple[str, float, float, float]]:
    truth = np.array(film.truth["bar_px"])
    radius = film.truth["plate_radius_px"]
    mark = PlateMark(0, truth[0, 0] + 3, truth[0, 1], 1.04 * radius)
    with ClipReader(read_index(film.path)) as reader:
        track = track_bar(ReaderPictures(reader), [mark])
    away = 50 * np.hypot(track.x_px - truth[:, 0], track.y_px - truth[:, 1]) / radius
    still = truth + np.array(film.truth["camera_px"])
    still_away = (
        50 * np.hypot(track.still_x_px - still[:, 0], track.still_y_px - still[:, 1]) / radius
    )
    good = track.state == State.GOOD
    under = away[good] < 3
    shares.append((int(good.sum()), int(under.sum())))
    rms, worst = np.sqrt(np.nanmean(away**2)), np.nanmax(away)
    lost = track.share(State.LOST)
    print(
        f"| {film.name} | {rms:.2f} | {worst:.2f} | {100 * good.mean():.0f} % | {100 * under.mean():.1f} % | {100 * lost:.0f} % | {np.sqrt(np.nanmean(still_away**2)):.2f} |"
    )
    derivative = film.kind.script.derivative
    answer = assess(track, ClipSettings(derivative, film.truth["facing"]), load_content())
    rows = []
    for name in MEASURES:
        measure, true = answer.measures[name], film.truth["measures"].get(name)
        if measure.value is not None and measure.sigma is not None and true is not None:
            rows.append((name, measure.value - true, measure.sigma, true))
    return rows
