"""Everything that is kept about one athlete, as one JSON document: to hand over, or to keep before
the athlete is deleted."""

import base64
import json
from collections.abc import Callable
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from keen_kettle.store.errors import StoreError

if TYPE_CHECKING:
    from keen_kettle.store.shelf import Shelf

__all__ = ["athlete_document"]


def athlete_document(shelf: "Shelf", number: int) -> str:
    """The text of an athlete's document (`keen-kettle-athlete`, see docs/formats.md).

    Raises
    ------
    StoreError
        There is no such athlete.
    """
    athlete = next((one for one in shelf.athletes() if one.id == number), None)
    if athlete is None:
        raise StoreError("This athlete is no longer kept.")
    teaching = shelf.teaching
    clips = []
    for clip in shelf.clips():
        if clip.athlete_id == number:
            row = asdict(clip)
            del row["thumbnail"]
            clips.append(row)
    whole: dict[str, Any] = {
        "schema": "keen-kettle-athlete",
        "schema_version": 1,
        "athlete": asdict(athlete),
        "groups": [one.name for one in teaching.groups() if number in one.athletes],
        "screenings": [asdict(one) for one in teaching.screenings(number)],
        "visits": [asdict(one) for one in teaching.visits(number)],
        "steps": [asdict(one) for one in teaching.steps(number)],
        "jumps": [asdict(one) for one in teaching.jumps(number)],
        "tries": [asdict(one) for one in teaching.tries(number)],
        "correctives": [
            asdict(one) for one in shelf.prescribing.correctives() if one.athlete_id == number
        ],
        "findings": [asdict(one) for one in shelf.prescribing.sightings().get(number, [])],
        "answers": shelf.prescribing.answers().get(number, {}),
        "clips": clips,
    }
    return json.dumps(whole, indent=1, ensure_ascii=False, default=_plain) + "\n"


def _plain(value: object) -> object:
    makers: dict[type, Callable[[Any], object]] = {
        date: lambda day: day.isoformat(),
        frozenset: sorted,
        bytes: lambda data: base64.b64encode(data).decode("ascii"),
    }
    for kind, make in makers.items():
        if isinstance(value, kind):
            return make(value)
    if isinstance(value, Path):
        return str(value)
    raise TypeError(f"{type(value).__name__} has no place in a document")
