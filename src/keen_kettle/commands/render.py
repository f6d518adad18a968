"""`render`: clips of simulated lifts, with their truth beside them."""

import argparse
import sys
from pathlib import Path

import numpy as np

from keen_kettle.core.errors import KettleError
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.simulate import (
    BODY_FAULTS,
    FAULT_DEGREES,
    MOVES,
    Body,
    Camera,
    Filming,
    LiftScript,
    RoutineScript,
    render_clip,
    simulate_lift,
)
from keen_kettle.core.simulate.body3d import LIFTERS
from keen_kettle.core.simulate.lifelike import HALLS, LIGHTS, PLATES, LifelikePainter

__all__ = ["add_words", "render_one", "run"]

FAULTS = (*FAULT_DEGREES, *BODY_FAULTS)


def add_words(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    words = commands.add_parser(
        "render",
        help="render clips of simulated lifts with known truth",
        description="Render a clip and write its truth beside it (same name, .truth.json).",
    )
    words.add_argument("out", type=Path, nargs="?", metavar="OUT.mp4")
    words.add_argument("--demo", action="store_true", help="render the shipped demo clips again")
    words.add_argument("--lift", default="snatch", metavar="NAME")
    words.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="NAME=DEGREE",
        help=f"0 clean to 1 plain; may be given several times; one of {', '.join(FAULTS)}",
    )
    words.add_argument(
        "--moves",
        default="",
        metavar="MOVE,MOVE",
        help=f"what is done with the bar instead, one after the other: {', '.join(MOVES)}",
    )
    words.add_argument(
        "--look",
        choices=("drawn", "hall"),
        default="drawn",
        help="drawn, or a body in a lifelike hall",
    )
    words.add_argument("--hall", choices=tuple(HALLS), default="rubber")
    words.add_argument("--light", choices=tuple(LIGHTS), default="neon")
    words.add_argument("--lifter", choices=LIFTERS, default="man")
    words.add_argument("--plate", choices=tuple(PLATES), default="black")
    words.add_argument("--yaw-deg", type=float, default=0.0, help="from how far aside it is filmed")
    words.add_argument("--facing", choices=("left", "right"), default="right")
    words.add_argument("--stature-m", type=float, default=1.75)
    words.add_argument("--fps", type=float, default=60.0)
    words.add_argument("--exposure-s", type=float, default=1 / 250)
    words.add_argument("--noise", type=float, default=2.0, help="grey levels, standard deviation")
    words.add_argument("--crf", type=int, default=24, help="H.264 quality, 18 fine to 35 coarse")
    words.add_argument("--seed", type=int, default=1)
    words.set_defaults(run=run)


def run(words: argparse.Namespace) -> int:
    try:
        if words.demo:
            from keen_kettle.demo import render_demo_clips

            render_demo_clips(_say)
            return 0
        if words.out is None:
            raise KettleError(
                "Say where to write the clip, for example: render lift.mp4 --lift clean."
            )
        render_one(words)
    except KettleError as error:
        print(f"kettle render: {error}", file=sys.stderr)
        return 2
    return 0


def render_one(words: argparse.Namespace) -> Path:
    derivative = parse_filmed(words.lift)
    if derivative.family == "jerk":
        if derivative.receive not in ("power", "split"):
            raise KettleError("A rendered jerk is received in the power position or the split.")
    elif derivative.one_arm:
        raise KettleError("Lifts with one bell are rendered for the benchmarks only.")
    elif derivative.support == "blocks" or derivative.start not in ("floor", "above knee"):
        raise KettleError("Clips are rendered from the floor or from a hang above the knee.")
    faults = dict(_fault(text) for text in words.fault)
    if not 1.2 <= words.stature_m <= 2.2:
        raise KettleError("A simulated lifter is 1.2 to 2.2 m tall.")
    if not 10 <= words.fps <= 480:
        raise KettleError("Frame rates run from 10 to 480 a second.")
    if not words.out.parent.is_dir():
        raise KettleError(f"There is no folder {words.out.parent}.")
    if not -40 <= words.yaw_deg <= 40:
        raise KettleError("A lift is filmed from at most 40 degrees aside.")
    painter = None
    body: Body = Body(words.stature_m)
    if words.look == "hall":
        plate = PLATES[words.plate]
        painter = LifelikePainter(words.hall, words.light, words.lifter, plate=plate)
        body = painter.body
    script = LiftScript(derivative.family, derivative.support, derivative.receive, body, faults)
    try:
        lift = simulate_lift(_with_moves(script, words.moves) if words.moves else script)
    except ValueError as error:
        raise KettleError(f"{error} Moves are: {', '.join(MOVES)}.") from error
    distance_m = 4.5 if painter is not None or words.yaw_deg else np.inf
    filming = Filming(
        fps=words.fps,
        exposure_s=words.exposure_s,
        noise=words.noise,
        crf=words.crf,
        seed=words.seed,
        camera=Camera(facing=words.facing, distance_m=distance_m, yaw_deg=words.yaw_deg),
        painter=painter,
    )
    truth = render_clip(lift, filming, words.out, progress=_progress)
    _say(f"{words.out} and {truth.name}")
    return truth


def _with_moves(script: LiftScript, moves: str) -> RoutineScript:
    """What is done with the bar, on the body and from the start of a lift."""
    named = tuple(move.strip() for move in moves.split(","))
    return RoutineScript(script.family, script.start, body=script.body, moves=named)


def _fault(text: str) -> tuple[str, float]:
    name, _, degree = text.partition("=")
    try:
        value = float(degree or 1.0)
    except ValueError as error:
        raise KettleError(
            f"“{text}”: write a fault and its degree, for example loop=0.8."
        ) from error
    if name not in FAULTS:
        raise KettleError(
            f"“{name}” is not a fault that can be rendered; known: {', '.join(FAULTS)}."
        )
    if not 0 <= value <= 1.5:
        raise KettleError(f"“{text}”: the degree runs from 0 to 1.5.")
    return name, value


def _progress(share: float) -> None:
    if sys.stderr.isatty():
        print(f"\r{share:4.0%}", end="\n" if share >= 1 else "", file=sys.stderr, flush=True)


def _say(text: str) -> None:
    print(text)
