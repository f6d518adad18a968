"""What the eye sees in lifelike films: plates, rims, lifts, by nuisance; seeds of their own.

Films are drawn at random over all that real ones do (`eye_films`), and there is the small path-traced
gold set. Set KETTLE_EYE_FILMS for another number of films, KETTLE_EYE_SEED for other ones.
"""

import os
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import cache
from typing import Any

import cv2
import numpy as np

from bench.eye_films import SEED, EyeFilm, drawn_film, gold_film, rendered, resting_film
from bench.eye_negatives import NEGATIVES, judge_negative
from bench.eye_routines import ROUTINES, routine_film
from bench.gold import GOLD
from keen_kettle.core.analysis import ClipSettings, ReaderPictures, assess
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.content import load_content
from keen_kettle.core.motion import Event
from keen_kettle.core.simulate.camera import PLATE_DEPTH_M
from keen_kettle.core.simulate.lifelike import LifelikePainter
from keen_kettle.core.simulate.lifelike.plates import THICK_M, plate_outlines
from keen_kettle.core.track import BarTrack, PlateMark, Rim, propose_plate, rim_of, track_bar
from keen_kettle.core.track.body import PoseNet, as_a_plate_is_lifted

__all__ = ["EyeReport", "judge", "report_eye"]

FILMS, RESTS_FROM = 80, 500
ROUGH = 0.12
"""The rough mark's error, one sigma of its place and its size, as a share of the radius."""
RIGHT_PLACE, RIGHT_SIZE, RIGHT_RIM = 0.2, 0.12, 0.05
WITHIN_PICTURES, CAMERA_LEFT = 3, 0.02
FITS = as_a_plate_is_lifted(cache(lambda: PoseNet(1)))


@dataclass(frozen=True)
class FoundLifts:
    """Lifts that are there, found ones, false ones, and by how many pictures lift-off and peak are off at most
    (None where no lift was found, or one of them is not said)."""

    lifts: int
    found: int
    false: int
    lift_off: float | None
    peak: float | None

    @property
    def late(self) -> bool:
        """Whether lift-off or peak of what was found is off."""
        both = (self.lift_off, self.peak)
        return self.found > 0 and any(one is None or one > WITHIN_PICTURES for one in both)

    @property
    def wrong(self) -> bool:
        return self.found < self.lifts or self.false > 0 or self.late

    def __str__(self) -> str:
        off = ", ".join("–" if one is None else f"{one:.0f}" for one in (self.lift_off, self.peak))
        false = f", {self.false} false" if self.false else ""
        return f"{self.found} of {self.lifts}{false}; {off}"


@dataclass(frozen=True)
class FoundRim:
    """Whether a rim was found, how far it is off in size (signed) and in place, and one sigma of its size: shares of
    the radius."""

    found: bool
    size: float
    place: float
    sigma: float

    @property
    def right(self) -> bool:
        return self.found and abs(self.size) < RIGHT_RIM and self.place < RIGHT_RIM

    @property
    def wrong(self) -> bool:
        return self.found and not self.right

    def __str__(self) -> str:
        said = "right" if self.right else "wrong" if self.found else "not found"
        return f"{said}: {100 * self.size:+.0f} %, {100 * self.place:.0f} % aside"


@dataclass(frozen=True)
class EyeReport:
    """What came out: the proposal ("right", "wrong", "none"), the rim in the picture that was roughly marked and
    once the plate was followed from there, false rims of random places, the lifts from the mark and from the
    proposed plate, and how much of the camera's movement is left in the path (95 % of it, in diameters)."""

    film: EyeFilm
    proposal: str
    rim: FoundRim
    followed: FoundRim
    false_rims: int
    places: int
    marked: FoundLifts
    proposed: FoundLifts | None
    camera: float


def judge_rest(number: int, seed: int) -> tuple[EyeFilm, bool, int]:
    """Whether a plate is proposed though nothing is lifted, and how many lifts are found."""
    cv2.setNumThreads(1)
    film = resting_film(number, seed)
    path, truth = rendered(film)
    bar, radius = np.array(truth["bar_px"]), float(truth["plate_radius_px"])
    camera = film.filming.camera
    at = _whole(truth, camera.width_px, camera.height_px)
    x, y = np.clip(bar[at], 1, [camera.width_px - 2, camera.height_px - 2])
    with ClipReader(read_index(path)) as reader:
        pictures = ReaderPictures(reader)
        proposed = propose_plate(pictures, fits=FITS) is not None
        track = track_bar(pictures, [PlateMark(at, float(x), float(y), radius)])
    settings = ClipSettings(film.script.derivative, truth["facing"])
    return film, proposed, len(assess(track, settings, load_content()).reps)


def judge(film: EyeFilm, seed: int) -> EyeReport:
    """Render (or find) one film, and see what the eye makes of it."""
    cv2.setNumThreads(1)
    path, truth = rendered(film)
    bar, radius = np.array(truth["bar_px"]), float(truth["plate_radius_px"])
    dice = np.random.default_rng(seed + film.number + 77)
    with ClipReader(read_index(path)) as reader:
        pictures = ReaderPictures(reader)
        zoom = np.array(truth.get("camera_zoom", np.ones(len(bar))))
        offered = propose_plate(pictures, fits=FITS)
        proposal = _proposed(offered, bar, radius * zoom)
        camera = film.filming.camera
        at = _whole(truth, camera.width_px, camera.height_px)
        radius *= zoom[at]
        x, y = bar[at] + dice.normal(0, ROUGH * radius, 2)
        x, y = np.clip([x, y], 1, [camera.width_px - 2, camera.height_px - 2])
        mark = PlateMark(at, float(x), float(y), radius * float(1 + dice.normal(0, ROUGH)))
        shown = reader.frame(at).bgr()
        rim = _judged(rim_of(shown, mark)[0], film, truth, at)
        false, places = _false_rims(shown, bar[at], radius, dice)
        track = track_bar(pictures, [mark])
        given = track_bar(pictures, [offered]) if offered is not None else None
    return EyeReport(
        film,
        proposal,
        rim,
        _judged(track.rim, film, truth, at),
        false,
        places,
        _lifts(track, film, truth),
        _lifts(given, film, truth) if given is not None else None,
        _camera_left(track, film, truth, at),
    )


def _camera_left(track: BarTrack, film: EyeFilm, truth: dict[str, Any], at: int) -> float:
    """How much of the camera's movement is left in a path, or was put there: 95 % of it in diameters. The path is
    carried to where the camera is in the frame `at`."""
    camera, bar = film.filming.camera, np.array(truth["bar_px"])
    still = np.array([camera.to_px(place, PLATE_DEPTH_M) for place in np.array(truth["bar_m"])])
    still = (still - still[at]) @ _camera_turn(truth, at).T
    taken = np.column_stack([track.x_px - track.still_x_px, track.y_px - track.still_y_px])
    left = bar - still - taken
    left = left[np.isfinite(left).all(axis=1)]
    if not len(left):
        return float("nan")
    away = np.hypot(*(left - left[0]).T)
    return float(np.percentile(away, 95)) / (2 * float(truth["plate_radius_px"]))


def _camera_turn(truth: dict[str, Any], at: int) -> np.ndarray:
    """How a frame's camera turns and zooms what lies about the plate, shape (2, 2)."""
    roll = np.radians(truth["camera_roll_deg"][at] if "camera_roll_deg" in truth else 0.0)
    zoom = truth["camera_zoom"][at] if "camera_zoom" in truth else 1.0
    return zoom * np.array([[np.cos(roll), -np.sin(roll)], [np.sin(roll), np.cos(roll)]])


def _judged(rim: Rim, film: EyeFilm, truth: dict[str, Any], at: int) -> FoundRim:
    size, place = _rim_off(rim, film, truth, at)
    return FoundRim(rim.found, float(size), place, rim.sigma_px / max(rim.axes_px))


def _rim_off(rim: Rim, film: EyeFilm, truth: dict[str, Any], at: int) -> tuple[float, float]:
    """How far a rim is off in size (signed) and in place, as shares of the radius: from the edge of the
    face, from that of the whole plate or of the whole stack, whichever is nearer. Seen from aside all are
    rims, and so is what takes one side from the face and the other from behind: its middle lies between.
    """
    painter, camera = film.filming.painter, film.filming.camera
    assert isinstance(painter, LifelikePainter)
    bar, radius = np.array(truth["bar_m"][at]), float(truth["plate_radius_px"])
    turn = _camera_turn(truth, at)
    still, seen = camera.to_px(bar, PLATE_DEPTH_M), np.array(truth["bar_px"][at])
    errors = []
    for outline in plate_outlines(camera, bar, PLATE_DEPTH_M, painter.plate):
        shown = (outline - still) @ turn.T + seen
        _, axes, _ = cv2.fitEllipse(shown.astype(np.float32))
        errors.append(2 * max(rim.axes_px) / max(axes) - 1)
    behind = camera.to_px(bar, PLATE_DEPTH_M - THICK_M * painter.stack)
    way = (behind - still) @ turn.T
    from_face = np.array([rim.x_px, rim.y_px]) - seen
    share = np.clip(from_face @ way / max(float(way @ way), 1e-9), 0.0, 1.0)
    return min(errors, key=abs), float(np.hypot(*(from_face - share * way))) / radius


def _whole(truth: dict[str, Any], wide: int, high: int) -> int:
    """The first frame with most of the plate in the picture, where a coach would mark it."""
    x, y = np.array(truth["bar_px"]).T
    radius = float(truth["plate_radius_px"])
    seen = np.array(truth["opening"]) == 0
    inside = (
        seen & (x > 0.5 * radius) & (x < wide - 0.5 * radius) & (y < high - 0.2 * radius) & (y > 0)
    )
    return int(np.argmax(inside)) if inside.any() else int(np.argmin(y))


def _proposed(mark: PlateMark | None, bar: np.ndarray, radii: np.ndarray) -> str:
    if mark is None:
        return "none"
    radius = radii[mark.frame]
    off = np.hypot(*(bar[mark.frame] - [mark.x_px, mark.y_px]))
    right = off < RIGHT_PLACE * radius and abs(mark.r_px / radius - 1) < RIGHT_SIZE
    return "right" if right else "wrong"


def _false_rims(
    picture: np.ndarray, bar: np.ndarray, radius: float, dice: np.random.Generator
) -> tuple[int, int]:
    """How many of some random places away from the plate give a rim."""
    high, wide = picture.shape[:2]
    false = places = 0
    for _ in range(12):
        x, y = dice.uniform(0, wide), dice.uniform(0, high)
        if np.hypot(x - bar[0], y - bar[1]) > 2.5 * radius:
            places += 1
            false += bool(rim_of(picture, PlateMark(0, float(x), float(y), radius))[0].found)
    return false, places


def _lifts(track: BarTrack, film: EyeFilm, truth: dict[str, Any]) -> FoundLifts:
    """What is found on a path; a rise of which the program itself says that it is too little to be one is no
    false lift."""
    settings = ClipSettings(film.script.derivative, truth["facing"])
    answer = assess(track, settings, load_content())
    times, picture = np.unique(truth["lift_s"], return_inverse=True)
    true = [one for one in truth.get("lifts_s", [truth["events_s"]]) if one]
    tops = [int(np.argmin(np.abs(times - one["peak_height"]))) for one in true]
    off: dict[str, list[float | None]] = {"lift_off": [], "peak_height": []}
    found: set[int] = set()
    for rep in answer.reps:
        within = [k for k, top in enumerate(tops) if picture[rep.first] <= top <= picture[rep.last]]
        mine = next((k for k in within if k not in found), None)
        if mine is not None:
            found.add(mine)
            for event, pictures in off.items():
                pictures.append(
                    _pictures_off(rep.events.get(event), true[mine][event], times, picture)
                )
    lift_off, peak = (_worst(pictures) for pictures in off.values())
    false = 0 if answer.barely is not None else len(answer.reps) - len(found)
    return FoundLifts(len(true), len(found), false, lift_off, peak)


def _pictures_off(
    made: Event | None, instant: float, times: np.ndarray, picture: np.ndarray
) -> float | None:
    """How many pictures an event is off; None where it is not said though it is filmed."""
    shown = times[0] - 1e-6 <= instant <= times[-1] + 1e-6
    if made is None:
        return None if shown else 0.0  # what is not filmed is rightly not said
    return float(abs(picture[made.frame] - np.argmin(np.abs(times - instant)))) if shown else np.inf


def _worst(pictures: list[float | None]) -> float | None:
    known = [one for one in pictures if one is not None]
    return max(known) if known and len(known) == len(pictures) else None


def report_eye() -> None:
    count = int(os.environ.get("KETTLE_EYE_FILMS", FILMS))
    seed = int(os.environ.get("KETTLE_EYE_SEED", SEED))
    rows = _reports([drawn_film(number, seed) for number in range(count)], seed)
    print(f"\n## The eye on {len(rows)} lifelike films (seeds {seed} to {seed + count - 1})\n")
    _print_whole(rows)
    _print_rests(max(count // 5, 1), seed + RESTS_FROM)
    _print_negatives(max(count // 16, 1), seed + RESTS_FROM)
    _print_nuisances(rows)
    _print_failures(rows)
    gold = _reports([gold_film(number, clip) for number, clip in enumerate(GOLD)], seed)
    print(f"\n## The eye on {len(gold)} path-traced clips\n")
    _print_whole(gold)
    _print_failures(gold)
    each = max(count // 40, 1)
    kinds = [(what, each * k + n) for k, what in enumerate(ROUTINES) for n in range(each)]
    routines = _reports([routine_film(what, number, seed) for what, number in kinds], seed)
    print(f"\n## {len(routines)} films of sets, shrugs, high pulls, lowering\n")
    _print_whole(routines)
    _print_failures(routines)


def _reports(films: list[EyeFilm], seed: int) -> list[EyeReport]:
    with ProcessPoolExecutor(2) as pool:
        return list(pool.map(judge, films, [seed] * len(films)))


def _print_rests(count: int, seed: int) -> None:
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(judge_rest, range(count), [seed] * count))
    print(
        f"| plate proposed where nothing is lifted | {_share(sum(r[1] for r in rows), count)} | 0 |"
    )
    print(f"| lifts found there | {sum(r[2] for r in rows)} in {count} films | 0 |")
    for film, proposed, lifts in rows:
        if proposed or lifts:
            print(f"| – {film.name} | {'proposed' if proposed else ''} {lifts} lifts | |")


def _print_negatives(each: int, seed: int) -> None:
    cases = [(what, number) for what in NEGATIVES for number in range(each)]
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(judge_negative, *zip(*cases, strict=True), [seed] * len(cases)))
    for what in NEGATIVES:
        wrong = [yes for (name, _), yes in zip(cases, found, strict=True) if name == what]
        print(f"| plate proposed where there is none: {what} | {_share(sum(wrong), each)} | 0 |")


def _share(part: int, whole: int) -> str:
    return f"{part} of {whole} ({100 * part / max(whole, 1):.0f} %)"


def _print_whole(rows: list[EyeReport]) -> None:
    count = len(rows)
    lifts = [row.marked for row in rows if row.marked.found]
    given = [row.proposed for row in rows if row.proposed is not None]
    clear = [row.followed for row in rows if row.followed.right]
    near = [abs(rim.size) <= rim.sigma for rim in clear]
    print("| what | value | wanted |\n|---|---|---|")
    for words, part, whole, wanted in (
        ("plate proposed rightly", sum(r.proposal == "right" for r in rows), count, "≥ 90 %"),
        ("wrongly", sum(r.proposal == "wrong" for r in rows), count, "≤ 2 %"),
        ("rim right from a rough mark", sum(r.rim.right for r in rows), count, "≥ 92 %"),
        ("rim wrong from a rough mark", sum(r.rim.wrong for r in rows), count, ""),
        ("rim right once it is followed", len(clear), count, "≥ 92 %"),
        ("rim wrong once it is followed", sum(r.followed.wrong for r in rows), count, ""),
        (
            "rims of random places",
            sum(r.false_rims for r in rows),
            sum(r.places for r in rows),
            "≤ 1 %",
        ),
        (
            "lifts found",
            sum(r.marked.found for r in rows),
            sum(r.marked.lifts for r in rows),
            "≥ 98 %",
        ),
        ("false lifts", sum(r.marked.false for r in rows), count, "≤ 1 %"),
        ("lift-off within 3 pictures", _near(r.lift_off for r in lifts), len(lifts), "≥ 95 %"),
        ("peak within 3 pictures", _near(r.peak for r in lifts), len(lifts), "≥ 95 %"),
        (
            "from the proposed plate: lifts found, both within 3 pictures",
            sum(r.found for r in given if not r.late),
            sum(r.marked.lifts for r in rows),
            "≥ 95 %",
        ),
        (
            "camera taken out within 2 % of the plate",
            sum(r.camera <= CAMERA_LEFT for r in rows),
            count,
            "",
        ),
        ("size of the followed rim within its sigma", sum(near), len(near), "60 to 75 %"),
    ):
        print(f"| {words} | {_share(part, whole)} | {wanted} |")


def _near(values: Iterator[float | None]) -> int:
    return sum(value is not None and value <= WITHIN_PICTURES for value in values)


def _print_nuisances(rows: list[EyeReport]) -> None:
    print(
        "\n| nuisance | films | plate right | wrong | rim right | lifts found |\n|---|---|---|---|---|---|"
    )
    names = sorted({name for row in rows for name in row.film.nuisances})
    for name in ("none", *names):
        mine = [
            r
            for r in rows
            if (name in r.film.nuisances) or (name == "none" and not r.film.nuisances)
        ]
        if mine:
            counts = (
                sum(r.proposal == "right" for r in mine),
                sum(r.proposal == "wrong" for r in mine),
                sum(r.rim.right for r in mine),
                sum(r.marked.found for r in mine),
            )
            print(f"| {name} | {len(mine)} | " + " | ".join(str(one) for one in counts) + " |")


def _print_failures(rows: list[EyeReport]) -> None:
    print(
        "\n| film | nuisances | plate | rim | followed | lifts; lift-off, peak off | from the proposed plate |"
        "\n|---|---|---|---|---|---|---|"
    )
    for row in rows:
        wrong = (
            row.proposal != "right"
            or not (row.rim.right and row.followed.right)
            or row.marked.wrong
        )
        if wrong or row.proposed is None or row.proposed.wrong:
            print(
                f"| {row.film.name} | {', '.join(row.film.nuisances)} | {row.proposal} | {row.rim} | "
                f"{row.followed} | {row.marked} | {row.proposed or '–'} |"
            )
