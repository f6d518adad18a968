"""Measures of lifelike films against those of the same films' true path and body: are their ± honest?"""

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bench.eye_films import EyeFilm
from keen_kettle.core.analysis import Assessment, ClipSettings, assess
from keen_kettle.core.content import load_content
from keen_kettle.core.track import BarTrack, State
from keen_kettle.core.track.body import LANDMARKS, BodyTrack, PointState

__all__ = ["Pairs", "against_truth", "print_measures"]

Pairs = dict[str, tuple[float, float, float]]
"""Of each measure its value, its sigma, and what it truly is."""

MOVES = {"hand", "pan"}
"""Where the camera moves, the truth in the picture is not the path of the bar."""
TRUE_SIGMA_PX, FEWEST = 0.3, 5
ONE_IN_TWENTY = 1.645


def against_truth(
    film: EyeFilm,
    truth: dict[str, Any],
    track: BarTrack,
    body: BodyTrack | None,
    settings: ClipSettings,
    answer: Assessment,
) -> Pairs:
    """Every measure that is known both ways; nothing where the camera moves or nobody was found."""
    if MOVES & set(film.nuisances) or body is None:
        return {}
    true = assess(_true_path(truth, track), settings, load_content(), _true_body(truth, body))
    pairs = {}
    for name, one in answer.measures.items():
        other = true.measures.get(name)
        if one.value is not None and one.sigma and other is not None and other.value is not None:
            pairs[name] = float(one.value), float(one.sigma), float(other.value)
    return pairs


def _true_path(truth: dict[str, Any], track: BarTrack) -> BarTrack:
    x, y = np.array(truth["bar_px"]).T
    state = np.where(track.state == State.REPEATED, State.REPEATED, State.GOOD).astype(np.uint8)
    sure = np.ones(len(track))
    return replace(track, x_px=x, y_px=y, still_x_px=x, still_y_px=y, state=state, confidence=sure)


def _true_body(truth: dict[str, Any], body: BodyTrack) -> BodyTrack:
    points = np.stack([np.array(truth["landmarks_px"][name]) for name in LANDMARKS], axis=1)
    shape = points.shape[:2]
    return replace(
        body,
        x_px=points[..., 0],
        y_px=points[..., 1],
        sigma_px=np.full(shape, TRUE_SIGMA_PX),
        confidence=np.ones(shape),
        state=np.full(shape, PointState.MEASURED, np.uint8),
        heel_px=None,
    )


def print_measures(films: list[Pairs]) -> None:
    """Print how far measures are off, and how often by more than they say."""
    print(
        "\nMeasures against those of the true path and body, in films from a camera that stands.\n"
    )
    print("| measure | films | off (r.m.s.) | mean | said (median) | 1 sigma | 1.645 sigma (90) |")
    print("|---|---|---|---|---|---|---|")
    for name in sorted({name for pairs in films for name in pairs}):
        rows = np.array([pairs[name] for pairs in films if name in pairs])
        if len(rows) < FEWEST:
            continue
        off, said = rows[:, 0] - rows[:, 2], rows[:, 1]
        print(
            f"| {name} | {len(rows)} | {np.sqrt(np.mean(off**2)):.3g} | {off.mean():+.3g} | "
            f"{np.median(said):.3g} | {_within(off / said, 1.0)} | {_within(off / said, ONE_IN_TWENTY)} |"
        )


def _within(z: NDArray[np.float64], most: float) -> str:
    return f"{100 * np.mean(np.abs(z) <= most):.0f} %"
