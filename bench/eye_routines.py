"""Lifelike films of what is done with a bar besides one lift: sets, shrugs, high pulls, a deadlift before
a hang, a bar that is tipped or only lowered; and lifts filmed from behind."""

from dataclasses import replace
from typing import Any

import numpy as np

from bench.eye_films import SEED, EyeFilm, drawn_film
from keen_kettle.core.simulate import LiftScript, RoutineScript, simulate_lift
from keen_kettle.core.simulate.lifelike import LifelikePainter

__all__ = ["ROUTINES", "from_behind", "routine_film"]

ROUTINES_FROM = 300
DIAMETER_M = 0.45
ROUTINES: dict[str, dict[str, Any]] = {
    "shrug": {"start": "hang", "moves": ("hold", "shrug", "hold"), "rise_m": 0.25 * DIAMETER_M},
    "jump shrug": {"start": "hang", "moves": ("hold", "shrug", "hold"), "rise_m": 0.4 * DIAMETER_M},
    "three shrugs": {"start": "hang", "moves": ("hold", *3 * ("shrug", "hold")), "rise_m": 0.09},
    "deadlift": {"moves": ("rest", "deadlift", "hold", "lower", "rest")},
    "four pulls in a row": {"moves": ("rest", *4 * ("pull", "lower")), "lower_mps": 1.8},
    "set-up, hang pull": {"moves": ("rest", "deadlift", "hold", "pull", "settle")},
    "three hang pulls": {"start": "hang", "moves": ("hold", *3 * ("pull", "settle", "hold"))},
    "high pull, dropped": {"moves": ("rest", "high pull", "drop")},
    "pull, springs back, held": {"moves": ("rest", "pull", "hold"), "hold_s": 1.5},
    "tipped, then pulled": {"moves": ("rest", "tip", "rest", "pull", "settle")},
    "only tipped": {"moves": ("rest", "tip", "rest")},
    "only lowered": {"start": "hang", "moves": ("hold", "lower", "rest")},
}
"""What is done, by a name: the script's parts that differ from the usual ones."""


def routine_film(what: str, number: int, seed: int = SEED) -> EyeFilm:
    """A routine in a hall of the eye's own drawing."""
    drawn = drawn_film(number, seed + ROUTINES_FROM)
    old = drawn.script
    dice = np.random.default_rng([seed, number, 17])
    parts = {"spring_m": float(dice.uniform(0.05, 0.2)), **ROUTINES[what]}
    script = RoutineScript(
        old.family, body=old.body, still_s=float(dice.uniform(0.3, 0.8)), **parts
    )
    filming = replace(
        drawn.filming,
        freezes=(),
        shows_s=None,
        camera=replace(
            drawn.filming.camera,
            px_per_m=drawn.filming.camera.px_per_m * min(1.0, _top_m(old) / _top_m(script)),
        ),
    )
    return replace(drawn, script=script, filming=filming, nuisances=(what, *drawn.nuisances))


def from_behind(number: int, seed: int = SEED) -> EyeFilm:
    """A lift whose plates are seen nearly from their edges, from behind or from before the lifter."""
    drawn = drawn_film(number, seed + ROUTINES_FROM)
    dice = np.random.default_rng([seed, number, 19])
    painter = drawn.filming.painter
    assert isinstance(painter, LifelikePainter)
    yaw = float(dice.choice([-1, 1]) * dice.uniform(55, 80))
    camera = replace(drawn.filming.camera, yaw_deg=yaw, roll_deg=0.0)
    filming = replace(drawn.filming, camera=camera)
    return replace(drawn, filming=filming, nuisances=("from behind", *drawn.nuisances))


def _top_m(script: LiftScript) -> float:
    """How high bar or head come (m)."""
    path = simulate_lift(script).path
    bar = float(path.y_m(np.linspace(0, path.duration_s, 400)).max())
    return max(bar + 0.3, script.body.standing_shoulder_m() + 0.35)
