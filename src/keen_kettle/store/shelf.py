"""Keeps and finds records. Every call is one transaction: it is wholly kept or not at all."""

import json
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import asdict
from datetime import date
from functools import lru_cache
from pathlib import Path
from typing import Any

from sqlalchemy import (
    ColumnElement,
    Connection,
    CursorResult,
    Select,
    delete,
    func,
    insert,
    literal,
    select,
    update,
)
from sqlalchemy.exc import DatabaseError

from keen_kettle.core.analysis import Answer
from keen_kettle.core.plan import PlateSet
from keen_kettle.core.track import BarTrack, Followed
from keen_kettle.core.track.body import Sightings
from keen_kettle.store.answer_rows import pack_answer, unpack_answer
from keen_kettle.store.clip_rows import (
    body_from,
    changed_columns,
    clip_of,
    clip_row,
    made_from,
    pack_sightings,
    pack_track,
    unpack_sightings,
    unpack_track,
)
from keen_kettle.store.database import explain, open_database
from keen_kettle.store.disk_keeper import DiskKeeper
from keen_kettle.store.errors import StoreError
from keen_kettle.store.prescribing import PrescribingRecords
from keen_kettle.store.records import Athlete, Clip, InboxRecord, NewAthlete, NewClip
from keen_kettle.store.tables import assessments, athletes, bests, bodies, clips, settings, tracks
from keen_kettle.store.teaching import TeachingRecords

__all__ = ["Shelf"]


class Shelf:
    """The coach's records in one data file."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._engine = open_database(path)
        self._disk = DiskKeeper(path)
        self.teaching = TeachingRecords(self._transaction)
        self.prescribing = PrescribingRecords(self._transaction)

    def close(self) -> None:
        self._disk.close()
        self._engine.dispose()

    def when_the_disk_refuses(self, tell: Callable[[str], None]) -> None:
        """Whom to tell, in words and from another thread, should something kept not reach the disk."""
        self._disk.tell = tell

    def wait_for_the_disk(self) -> None:
        """Until all that was kept before this call lies on the disk."""
        self._disk.wait()

    @property
    def folder(self) -> Path:
        return self._path.parent

    # Athletes

    def athletes(self) -> list[Athlete]:
        """All athletes, by name."""
        with self._transaction() as work:
            rows = work.execute(select(athletes).order_by(athletes.c.name)).mappings().all()
            kept: dict[int, dict[str, float]] = {}
            for best in work.execute(select(bests)).mappings():
                kept.setdefault(best["athlete_id"], {})[best["lift"]] = best["kg"]
        return [_athlete(row, kept.get(row["id"], {})) for row in rows]

    def add_athlete(self, athlete: NewAthlete) -> int:
        """Keep a new athlete; returns the id."""
        return self.add_athletes([athlete])[0]

    def add_athletes(self, many: Sequence[NewAthlete]) -> list[int]:
        """Keep new athletes, all or none; returns their ids."""
        numbers = []
        with self._transaction() as work:
            for athlete in many:
                made = work.execute(insert(athletes).values(_athlete_row(athlete)))
                numbers.append(_new_id(made))
                _write_bests(work, numbers[-1], athlete.bests_kg)
        return numbers

    def remove_athlete(self, number: int) -> None:
        """Drop an athlete with everything that is kept about them: clips, visits, screenings."""
        with self._transaction() as work:
            work.execute(delete(clips).where(clips.c.athlete_id == number))
            work.execute(delete(athletes).where(athletes.c.id == number))

    def change_athlete(self, number: int, **fields: Any) -> None:
        """Change some fields of an athlete, and nothing else."""
        bests_kg = fields.pop("bests_kg", None)
        with self._transaction() as work:
            if fields:
                mine = athletes.c.id == number
                work.execute(update(athletes).where(mine).values(_athlete_columns(fields)))
            if bests_kg is not None:
                work.execute(delete(bests).where(bests.c.athlete_id == number))
                _write_bests(work, number, bests_kg)

    # Clips

    def clips(self, numbers: Collection[int] | None = None) -> list[Clip]:
        """All clips, or some by their numbers, newest filming day first; without their thumbnails (see
        `thumbnail`), of which a list needs few."""
        query = _clips_with_tracks(literal(b"").label("thumbnail"))
        if numbers is not None:
            query = query.where(clips.c.id.in_(list(numbers)))
        with self._transaction() as work:
            ordered = query.order_by(clips.c.filmed_on.desc(), clips.c.id.desc())
            return [clip_of(row) for row in work.execute(ordered).mappings()]

    def thumbnail(self, number: int) -> bytes:
        """A clip's picture as a file's bytes; empty where there is none."""
        with self._transaction() as work:
            kept = work.execute(select(clips.c.thumbnail).where(clips.c.id == number)).scalar()
        return kept or b""

    def clip(self, number: int) -> Clip:
        """One clip.

        Raises
        ------
        StoreError
            It is not kept any more.
        """
        found = self._clip_where(clips.c.id == number)
        if found is None:
            raise StoreError("This clip is no longer kept.")
        return found

    def has_clip(self, number: int) -> bool:
        return self._clip_where(clips.c.id == number) is not None

    def clip_with_hash(self, sha256: str) -> Clip | None:
        return self._clip_where(clips.c.sha256 == sha256)

    def _clip_where(self, which: ColumnElement[bool]) -> Clip | None:
        with self._transaction() as work:
            row = work.execute(_clips_with_tracks().where(which)).mappings().first()
        return None if row is None else clip_of(row)

    def add_clip(self, clip: NewClip) -> int:
        """Keep a clip; a film that is known already (same bytes) is moved to its new place."""
        known = self.clip_with_hash(clip.sha256)
        if known is not None:
            self.change_clip(known.id, path=clip.path)
            return known.id
        with self._transaction() as work:
            made = work.execute(insert(clips).values(clip_row(clip)))
            return _new_id(made)

    def change_clip(self, number: int, **fields: object) -> None:
        """Change some fields of a clip, and nothing else (see `change_clips`)."""
        self.change_clips({number: fields})

    def change_clips(self, changes: Mapping[int, Mapping[str, object]]) -> None:
        """Change some fields of several clips by their numbers, all or none.

        Only the columns of these fields are written: whatever else has changed meanwhile stands.
        `guess` is a patch of single reasons; None takes a reason out.

        Raises
        ------
        StoreError
            One of the clips is not kept any more.
        """
        present = {number: self.clip(number) for number in changes}
        with self._transaction() as work:
            for number, fields in changes.items():
                if fields:
                    columns = changed_columns(present[number], fields)
                    work.execute(update(clips).where(clips.c.id == number).values(columns))

    def restore_clip(self, clip: Clip, track: BarTrack | None, sightings: Sightings | None) -> None:
        """Keep a clip again that was dropped, under its old number."""
        with self._transaction() as work:
            work.execute(insert(clips).values({**clip_row(clip), "id": clip.id}))
        if track is not None:
            self.keep_track(clip, track)
        if sightings is not None:
            self.keep_sightings(clip, sightings)

    def forget_clip(self, number: int) -> None:
        """Drop a clip's record and track; the film itself is not touched."""
        with self._transaction() as work:
            work.execute(delete(clips).where(clips.c.id == number))

    # Tracks

    def keep_track(self, clip: Clip, track: BarTrack) -> None:
        """Keep the track of the thing that is measured in a clip."""
        row = {
            "clip_id": clip.id,
            "thing": clip.thing,
            "made_from": made_from(clip.followed),
            "data": pack_track(track),
        }
        mine = (tracks.c.clip_id == clip.id) & (tracks.c.thing == clip.thing)
        with self._transaction() as work:
            work.execute(delete(tracks).where(mine))
            work.execute(insert(tracks).values(row))

    def track(self, clip: Clip, followed: Followed | None = None) -> BarTrack | None:
        """The kept track (of another followed thing, if asked), if it was made from its present
        marks and spans by this tracker."""
        wanted = followed or clip.followed
        mine = (tracks.c.clip_id == clip.id) & (tracks.c.thing == wanted.thing)
        with self._transaction() as work:
            row = work.execute(select(tracks).where(mine)).mappings().first()
        if row is None or row["made_from"] != made_from(wanted):
            return None
        return unpack_track(row["data"])

    # Bodies

    def keep_sightings(self, clip: Clip, seen: Sightings) -> None:
        """Keep what the body model saw in a clip's film."""
        row = {"clip_id": clip.id, "made_from": body_from(clip), "data": pack_sightings(seen)}
        with self._transaction() as work:
            work.execute(delete(bodies).where(bodies.c.clip_id == clip.id))
            work.execute(insert(bodies).values(row))

    def sightings(self, clip: Clip) -> Sightings | None:
        """What the model saw, if it was found from the present seeds by this finder."""
        with self._transaction() as work:
            row = work.execute(select(bodies).where(bodies.c.clip_id == clip.id)).mappings().first()
        if row is None or row["made_from"] != body_from(clip):
            return None
        return unpack_sightings(row["data"])

    # Answers

    def keep_answer(self, number: int, made_from: str, answer: Answer) -> None:
        """Keep what was made of a clip; nothing where the clip has been removed meanwhile."""
        row = {"clip_id": number, "made_from": made_from, "data": pack_answer(answer)}
        with self._transaction() as work:
            work.execute(delete(assessments).where(assessments.c.clip_id == number))
            if work.execute(select(clips.c.id).where(clips.c.id == number)).first() is not None:
                work.execute(insert(assessments).values(row))

    def answer(self, number: int, made_from: str) -> Answer | None:
        """What was made of a clip, if it was made from this."""
        mine = (assessments.c.clip_id == number) & (assessments.c.made_from == made_from)
        with self._transaction() as work:
            data = work.execute(select(assessments.c.data).where(mine)).scalar()
        return None if data is None else unpack_answer(data)

    # Settings

    def plates(self) -> PlateSet:
        kept = self._setting("plates")
        if kept is None:
            return PlateSet()
        pairs = tuple((float(kg), int(count)) for kg, count in kept["pairs"])
        return PlateSet(float(kept["bar_kg"]), float(kept["collars_kg"]), pairs)

    def keep_plates(self, plates: PlateSet) -> None:
        self._keep_setting("plates", asdict(plates))

    def cautions_read(self) -> bool:
        return self._setting("cautions_read") is True

    def keep_cautions_read(self) -> None:
        self._keep_setting("cautions_read", True)

    def queue_paused(self) -> bool:
        return self._setting("queue_paused") is True

    def keep_queue_paused(self, on: bool) -> None:
        self._keep_setting("queue_paused", on)

    def inbox(self) -> InboxRecord:
        """The watched folder."""
        kept = self._setting("inbox")
        if kept is None:
            return InboxRecord()
        seen = {name: (int(size), float(time)) for name, (size, time) in kept["seen"].items()}
        return InboxRecord(Path(kept["folder"]) if kept["folder"] else None, seen)

    def keep_inbox(self, inbox: InboxRecord) -> None:
        folder = str(inbox.folder) if inbox.folder is not None else None
        self._keep_setting("inbox", {"folder": folder, "seen": inbox.seen})

    def house_school(self) -> dict[str, str]:
        """The house's answers to the questions of schools."""
        return dict(self._setting("house_school") or {})

    def keep_house_school(self, answers: dict[str, str]) -> None:
        self._keep_setting("house_school", answers)

    def house_words(self) -> dict[str, str]:
        """What this house calls the words of the stages."""
        return dict(self._setting("house_words") or {})

    def keep_house_words(self, words: dict[str, str]) -> None:
        self._keep_setting("house_words", words)

    def _setting(self, name: str) -> Any:
        with self._transaction() as work:
            kept = work.execute(select(settings.c.value).where(settings.c.name == name)).scalar()
        return None if kept is None else json.loads(kept)

    def _keep_setting(self, name: str, value: object) -> None:
        with self._transaction() as work:
            work.execute(delete(settings).where(settings.c.name == name))
            work.execute(insert(settings).values(name=name, value=json.dumps(value)))

    @contextmanager
    def _transaction(self) -> Iterator[Connection]:
        try:
            with self._engine.begin() as work:
                before = _changes(work)
                yield work
                changed = _changes(work) > before
        except DatabaseError as error:
            raise explain(error, self._path) from error
        if changed:
            self._disk.committed()


def _changes(work: Connection) -> int:
    """How many rows this connection has changed since it was made."""
    return int(work.connection.driver_connection.total_changes)  # type: ignore[union-attr]


def _new_id(made: CursorResult[Any]) -> int:
    key = made.inserted_primary_key
    assert key is not None
    return int(key[0])


def _clips_with_tracks(thumbnail: ColumnElement[Any] = clips.c.thumbnail) -> Select[Any]:
    """Clips, each with what the track of its measured thing was made from."""
    columns = [column for column in clips.c if column.name != "thumbnail"]
    thing = func.json_extract(clips.c.followed, "$.thing")
    mine = (tracks.c.clip_id == clips.c.id) & (tracks.c.thing == thing)
    return (
        select(*columns, thumbnail, tracks.c.made_from).select_from(clips).outerjoin(tracks, mine)
    )


PLAIN = (
    *("name", "stature_m", "birth_year", "sex", "weight_class", "mass_kg", "aim", "sport"),
    *("training_years", "sessions_week", "consent", "notes", "photo"),
    *("lifting_years", "own_lift"),
)
SETS = ("cautions", "equipment")
MAPS = ("lengths_m", "grips_m", "school")


def _athlete_row(athlete: NewAthlete) -> dict[str, object]:
    names = (*PLAIN, *SETS, *MAPS, "trained", "wants_lifts", "archived_on")
    row = _athlete_columns({name: getattr(athlete, name) for name in names})
    return {**row, "id": athlete.id} if isinstance(athlete, Athlete) else row


def _athlete_columns(fields: Mapping[str, Any]) -> dict[str, object]:
    """Fields of an athlete as columns; `bests_kg` is kept elsewhere."""

    def written(name: str, value: Any) -> object:
        if name in SETS:
            return json.dumps(sorted(value))
        if name in MAPS:
            return json.dumps(value)
        if name in ("trained", "wants_lifts"):
            return int(value)
        if name == "archived_on":
            return value.isoformat() if value is not None else None
        return value

    return {name: written(name, value) for name, value in fields.items()}


@lru_cache(maxsize=500)
def _set(written: str) -> frozenset[str]:
    return frozenset(json.loads(written))


def _athlete(row: Any, kilos: dict[str, float]) -> Athlete:
    values = {name: row[name] for name in PLAIN}
    values |= {name: _set(row[name]) for name in SETS}
    values |= {name: {} if row[name] == "{}" else json.loads(row[name]) for name in MAPS}
    day = row["archived_on"]
    return Athlete(
        **values,
        bests_kg=kilos,
        trained=bool(row["trained"]),
        wants_lifts=bool(row["wants_lifts"]),
        archived_on=date.fromisoformat(day) if day else None,
        id=row["id"],
    )


def _write_bests(work: Connection, number: int, kilos: dict[str, float]) -> None:
    for lift, kg in kilos.items():
        work.execute(insert(bests).values(athlete_id=number, lift=lift, kg=kg))
