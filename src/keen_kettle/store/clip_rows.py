"""Clips and tracks as rows: what is kept of a film, and the bytes of a path."""

import io
import json
from collections.abc import Mapping
from dataclasses import asdict, replace
from datetime import date
from pathlib import Path
from typing import Any, cast

import numpy as np

from keen_kettle.core.motion import Drawing, HandEvent, Spot
from keen_kettle.core.track import (
    TRACKER_VERSION,
    BarTrack,
    Followed,
    HandWork,
    PlateMark,
    Rim,
    Span,
    Vertical,
)
from keen_kettle.core.track.body import (
    FINDER_VERSION,
    BodyHand,
    BodyPoint,
    BodySeed,
    BodySpan,
    Sightings,
)
from keen_kettle.store.records import Clip, NewClip

__all__ = [
    "body_from",
    "changed_columns",
    "clip_of",
    "clip_row",
    "made_from",
    "pack_sightings",
    "pack_track",
    "patched",
    "unpack_sightings",
    "unpack_track",
]

TRACK_FIELDS = (
    *("t_s", "x_px", "y_px", "r_px", "confidence", "state"),
    *("still_x_px", "still_y_px", "sharp", "cuts"),
)
PLAIN = (
    *("athlete_id", "sha256", "frames", "duration_s", "lift", "mass_kg", "facing"),
    *("diameter_mm", "thumbnail", "capture_fps", "scale_by"),
    *("waits", "background", "trouble"),
)


SHARED = {"thing": "followed", "hand": "followed", "also_followed": "followed", "events": "body"}
"""The column of a field, where it does not have one of its own name."""


def changed_columns(clip: Clip, fields: Mapping[str, object]) -> dict[str, object]:
    """The columns that change when `fields` of a clip do; `guess` is a patch (see `patched`)."""
    new = dict(fields)
    if "guess" in new:
        new["guess"] = patched(clip.guess, cast("Mapping[str, str | None]", new["guess"]))
    row = clip_row(replace(clip, **new))  # type: ignore[arg-type]
    return {column: row[column] for column in {SHARED.get(name, name) for name in fields}}


def patched(guess: Mapping[str, str], patch: Mapping[str, str | None]) -> dict[str, str]:
    """Why each field was guessed, with some of the reasons changed, or taken out (None)."""
    return {name: why for name, why in {**guess, **patch}.items() if why is not None}


def clip_row(clip: NewClip) -> dict[str, object]:
    """A clip's columns."""
    points = clip.scale_points
    return {name: getattr(clip, name) for name in PLAIN} | {
        "path": str(clip.path),
        "filmed_on": clip.filmed_on.isoformat(),
        "marks": _marks_text(clip.marks),
        "steady": int(clip.steady),
        "followed": json.dumps(
            {
                "thing": clip.thing,
                **asdict(clip.hand),
                "aside": [asdict(one) for one in clip.also_followed],
            }
        ),
        "scale_points": None if points is None else json.dumps(points),
        "upright": None if clip.upright is None else json.dumps(clip.upright),
        "body": json.dumps(
            {**asdict(clip.body), "events": [asdict(event) for event in clip.events]}
        ),
        "drawings": json.dumps([asdict(one) for one in clip.drawings], ensure_ascii=False),
        "guess": json.dumps(clip.guess, ensure_ascii=False),
    }


def clip_of(row: Any) -> Clip:
    """A clip from its columns and its track's origin (`made_from`)."""
    followed = json.loads(row["followed"])
    points = row["scale_points"]
    body = json.loads(row["body"])
    clip = Clip(
        **{name: row[name] for name in PLAIN},
        path=Path(row["path"]),
        filmed_on=date.fromisoformat(row["filmed_on"]),
        marks=_marks(json.loads(row["marks"])),
        steady=bool(row["steady"]),
        thing=followed["thing"],
        hand=_hand(followed),
        also_followed=tuple(
            Followed(one["thing"], one["diameter_mm"], _marks(one["marks"]), _hand(one["hand"]))
            for one in followed["aside"]
        ),
        scale_points=None if points is None else tuple(json.loads(points)),
        upright=None if row["upright"] is None else tuple(json.loads(row["upright"])),
        body=BodyHand(
            tuple(BodyPoint(**one) for one in body["points"]),
            tuple(BodySpan(**one) for one in body["spans"]),
            tuple(BodySeed(**one) for one in body["seeds"]),
        ),
        events=tuple(HandEvent(**one) for one in body["events"]),
        drawings=tuple(_drawing(one) for one in json.loads(row["drawings"])),
        guess=json.loads(row["guess"]),
        id=row["id"],
        tracked=row["made_from"] is not None,
    )
    known = bool(clip.marks) and row["made_from"] == made_from(clip.followed)
    return clip if known == clip.tracked else Clip(**{**vars(clip), "tracked": known})


def made_from(followed: Followed) -> str:
    """What a track hangs on: marks, spans, limits and the tracker's version."""
    return f"{TRACKER_VERSION} {_marks_text(followed.marks)} {json.dumps(asdict(followed.hand))}"


def pack_track(track: BarTrack) -> bytes:
    """A track as compressed arrays."""
    packed = io.BytesIO()
    arrays: dict[str, Any] = {name: getattr(track, name) for name in TRACK_FIELDS}
    arrays["contrast"] = np.array(track.contrast)
    arrays["camera_known"] = np.array(track.camera_known)
    if track.same is not None:
        arrays["same"] = track.same
    arrays["vertical"] = np.array(json.dumps(asdict(track.vertical)))
    np.savez_compressed(packed, rim=np.array(json.dumps(asdict(track.rim))), **arrays)
    return packed.getvalue()


def unpack_track(data: bytes) -> BarTrack:
    """The track from its bytes."""
    with np.load(io.BytesIO(data)) as kept:
        rim = json.loads(str(kept["rim"]))
        return BarTrack(
            **{name: kept[name] for name in TRACK_FIELDS},
            rim=Rim(**{**rim, "axes_px": tuple(rim["axes_px"])}),
            contrast=float(kept["contrast"]),
            same=kept.get("same"),
            camera_known=bool(kept.get("camera_known", np.array(True))),
            vertical=Vertical(**json.loads(str(kept["vertical"]))),
        )


def body_from(clip: NewClip) -> str:
    """What the sightings of a film hang on: the finder's version and the clicks it began from."""
    return f"{FINDER_VERSION} {json.dumps([asdict(seed) for seed in clip.body.seeds])}"


def pack_sightings(seen: Sightings) -> bytes:
    """Sightings as compressed arrays."""
    packed = io.BytesIO()
    known = {name: values for name, values in vars(seen).items() if values is not None}
    np.savez_compressed(packed, **known)
    return packed.getvalue()


def unpack_sightings(data: bytes) -> Sightings:
    """The sightings from their bytes."""
    with np.load(io.BytesIO(data)) as kept:
        return Sightings(**{name: kept[name] for name in kept.files})


def _drawing(kept: dict[str, Any]) -> Drawing:
    return Drawing(**{**kept, "spots": tuple(Spot(**spot) for spot in kept["spots"])})


def _marks(rows: list[dict[str, Any]]) -> tuple[PlateMark, ...]:
    return tuple(PlateMark(**row) for row in rows)


def _hand(kept: dict[str, Any]) -> HandWork:
    return HandWork(tuple(Span(**span) for span in kept["spans"]), kept["first"], kept["last"])


def _marks_text(marks: tuple[PlateMark, ...]) -> str:
    return json.dumps([asdict(mark) for mark in marks])
