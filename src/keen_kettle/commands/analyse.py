"""`analyse`: one clip to one JSON document."""

import argparse
import json
import os
import sys
from dataclasses import replace
from errno import ENOENT
from pathlib import Path

from keen_kettle import __version__
from keen_kettle.core.analysis import (
    AheadPictures,
    Assessment,
    ClipSettings,
    Study,
    assess,
    lift_shown,
    study,
)
from keen_kettle.core.clip import ClipIndex, ClipReader, read_index
from keen_kettle.core.content import load_content
from keen_kettle.core.errors import KettleError, MarkError
from keen_kettle.core.export import document, landmarks_csv, landmarks_trc, write_text_safely
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.track import THINGS, PlateMark, check_diameter, vertical_along
from keen_kettle.core.track.body import BodyTrack, PoseNet

__all__ = ["add_words", "analyse", "parse_line", "parse_plate", "run"]


def add_words(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    # Long: a table, one entry after another.
    words = commands.add_parser("analyse", help="measure one clip and write a JSON document")
    words.add_argument("clip", type=Path, metavar="CLIP", help="the film of one lift")
    words.add_argument(
        "--plate",
        metavar="X,Y,R[@FRAME]",
        help="the near plate's centre and radius in pixels, on frame 0 or FRAME; "
        "without it the plate of the bar that moves is looked for",
    )
    words.add_argument("--diameter-mm", type=float, default=450.0, metavar="MM")
    words.add_argument("--mass-kg", type=float, metavar="KG", help="bar and plates together")
    words.add_argument(
        "--lift",
        metavar="NAME",
        help="for example “hang power clean”; without it start and receive are read from the clip, "
        "as far as they are seen (otherwise: snatch)",
    )
    words.add_argument(
        "--facing",
        choices=("left", "right"),
        help="where the lifter looks; without it this is read from the clip (or taken as right)",
    )
    words.add_argument(
        "--no-body", action="store_true", help="leave out the lifter's landmarks and their measures"
    )
    words.add_argument("--trc", type=Path, metavar="FILE.trc", help="write the landmarks there too")
    words.add_argument(
        "--landmarks", type=Path, metavar="FILE.csv", help="write the landmarks there too, as CSV"
    )
    words.add_argument("--stature-m", type=float, metavar="M", help="the athlete's height")
    words.add_argument(
        "--thing", choices=tuple(THINGS), default="plate", help="what is followed (default: plate)"
    )
    words.add_argument(
        "--no-scale", action="store_true", help="give lengths in plate diameters, and no speeds"
    )
    words.add_argument(
        "--no-steady", action="store_true", help="leave the camera's own movement in"
    )
    words.add_argument(
        "--upright",
        metavar="X,Y,X,Y",
        help="a line along something that stands upright, in pixels; otherwise it is looked for",
    )
    words.add_argument(
        "--capture-fps",
        type=float,
        metavar="N",
        help="frames a second when it was filmed, if the film is slow motion",
    )
    words.add_argument(
        "--rep",
        type=int,
        metavar="N",
        help="which of several lifts is judged, from 1 (otherwise the one of which most is seen)",
    )
    words.add_argument(
        "--out", type=Path, metavar="FILE.json", help="where to write; otherwise printed"
    )
    words.set_defaults(run=run)


def parse_plate(text: str) -> PlateMark:
    """“X,Y,R” or “X,Y,R@FRAME” as a mark.

    Raises
    ------
    MarkError
    """
    place, _, frame = text.partition("@")
    try:
        x, y, r = (float(part) for part in place.split(","))
        return PlateMark(int(frame) if frame else 0, x, y, r)
    except ValueError as error:
        raise MarkError(
            f"“{text}” is not a plate mark; write X,Y,R or X,Y,R@FRAME, for example 640,590,64@12."
        ) from error


def parse_line(text: str) -> tuple[float, ...]:
    """“X,Y,X,Y” as a line along something upright.

    Raises
    ------
    MarkError
    """
    try:
        x1, y1, x2, y2 = (float(part) for part in text.split(","))
    except ValueError as error:
        raise MarkError(f"“{text}” is no line; write X,Y,X,Y, for example 80,20,84,400.") from error
    line = (x1, y1, x2, y2)
    vertical_along(line, held=False)
    return line


def run(words: argparse.Namespace) -> int:
    """Exit code 0, or 2 with one plain line on bad input."""
    try:
        text = analyse(words)
        if words.out is None:
            sys.stdout.write(text)
        else:
            write_text_safely(words.out, text)
    except KettleError as error:
        return _refuse(str(error))
    except OSError as error:
        return _refuse(f"{words.out} cannot be written: {error.strerror}.")
    return 0


def _refuse(reason: str) -> int:
    print(f"kettle analyse: {' '.join(reason.split())}", file=sys.stderr)
    return 2


def analyse(words: argparse.Namespace) -> str:
    """The document's text."""
    mark = parse_plate(words.plate) if words.plate is not None else None
    if words.mass_kg is not None and not 0 < words.mass_kg < 1000:
        raise MarkError(f"A mass of {words.mass_kg:g} kg cannot be right; give 1 to 999.")
    if words.stature_m is not None and not 0.8 < words.stature_m < 2.6:
        raise MarkError(
            f"A height of {words.stature_m:g} m cannot be right; give metres, for example 1.72."
        )
    if words.capture_fps is not None and not 5 <= words.capture_fps <= 2000:
        raise MarkError("A filming rate runs from 5 to 2000 frames a second.")
    check_diameter(words.diameter_mm)
    content = load_content()
    index = read_index(words.clip)
    if mark is not None:
        mark.check_against(len(index), index.width_px, index.height_px)
    settings = ClipSettings(
        parse_filmed(words.lift or "snatch"),
        words.facing or "right",
        words.diameter_mm,
        words.mass_kg,
        words.stature_m,
        steady=not words.no_steady,
        capture_fps=words.capture_fps or index.filmed_fps,
        upright=parse_line(words.upright) if words.upright else None,
        rep=None if words.rep is None else words.rep - 1,
        thing=words.thing,
        centre_px=index.centre_px,
        scale_by="none" if words.no_scale else "plate",
    )
    _check_written(words.out)
    found = _look_through(index, mark, words.no_body)
    shown = lift_shown(found, settings, content)
    settings = replace(
        settings,
        marks=found.marks,
        facing=words.facing or shown.facing,
        derivative=settings.derivative if words.lift else shown.derivative,
    )
    track = found.track
    body = found.body(settings.facing, words.thing in ("plate", "second"))
    why = found.why_no_body or ("" if body is not None else "nobody was found in the clip")
    answer = assess(track, settings, content, body)
    if words.rep is not None and not 1 <= words.rep <= max(len(answer.reps), 1):
        raise MarkError(f"There is no lift {words.rep} in this clip; it holds {len(answer.reps)}.")
    _write_landmarks(words, body, answer, why)
    whole = document(index, settings, track, answer, __version__, body, why)
    return json.dumps(whole, indent=1, ensure_ascii=False) + "\n"


def _check_written(out: Path | None) -> None:
    """Before the long look: is there a folder to write into?

    Raises
    ------
    FileNotFoundError
    """
    if out is not None and not out.absolute().parent.is_dir():
        raise FileNotFoundError(ENOENT, os.strerror(ENOENT), str(out))


def _look_through(index: ClipIndex, mark: PlateMark | None, no_body: bool) -> Study:
    """What is found in the film.

    Raises
    ------
    MarkError
        No mark is given, and no plate is found.
    """
    net = None if no_body else PoseNet
    with ClipReader(index) as reader, AheadPictures(reader) as pictures:
        try:
            return study(pictures, net, () if mark is None else (mark,))
        except MarkError as error:
            raise MarkError(
                "No plate was found that moves in this clip. Say where it is with --plate X,Y,R "
                "(centre and radius in pixels on the first frame)."
            ) from error


def _write_landmarks(
    words: argparse.Namespace, body: BodyTrack | None, answer: Assessment, why: str
) -> None:
    """The landmarks' own files, where they are asked for.

    Raises
    ------
    MarkError
        There are no landmarks to write.
    """
    if words.trc is None and words.landmarks is None:
        return
    if body is None:
        raise MarkError(f"There are no landmarks to write: {why}.")
    if words.trc is not None:
        write_text_safely(words.trc, landmarks_trc(body, answer, words.trc.name))
    if words.landmarks is not None:
        write_text_safely(words.landmarks, landmarks_csv(body, answer))
