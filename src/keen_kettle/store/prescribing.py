"""Keeps and finds what prescribing needs: findings, correctives, answers, own drills and complexes."""

import json
from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager
from dataclasses import fields
from datetime import date
from typing import Any

from sqlalchemy import Connection, delete, insert, select, update

from keen_kettle.core.content import Drill, OwnLibrary, OwnMovement, read_library
from keen_kettle.core.errors import ContentError
from keen_kettle.core.prescribe import Sighting
from keen_kettle.store.records import ClipFindings, KeptComplex, Prescribed
from keen_kettle.store.tables import (
    answers,
    clips,
    complexes,
    correctives,
    drills,
    findings,
    judged,
    movements,
)

__all__ = ["PrescribingRecords", "drill_document"]

DAYS = ("taken_on", "review_on", "ended_on")


class PrescribingRecords:
    """Part of the shelf; every call is one transaction."""

    def __init__(self, transaction: Callable[[], AbstractContextManager[Connection]]) -> None:
        self._transaction = transaction

    # Findings

    def keep_findings(self, found: ClipFindings) -> None:
        """Keep what a clip showed, in place of what was kept for it before."""
        with self._transaction() as work:
            if work.execute(select(clips.c.id).where(clips.c.id == found.clip_id)).first() is None:
                return  # removed meanwhile
            work.execute(delete(findings).where(findings.c.clip_id == found.clip_id))
            work.execute(delete(judged).where(judged.c.clip_id == found.clip_id))
            measures = json.dumps({name: list(pair) for name, pair in found.measures.items()})
            work.execute(
                insert(judged).values(clip_id=found.clip_id, family=found.family, measures=measures)
            )
            for one in found.sightings:
                work.execute(
                    insert(findings).values(
                        clip_id=found.clip_id,
                        fault=one.fault,
                        family=found.family,
                        severity=one.severity,
                        confidence=one.confidence,
                        measure=one.measure,
                        value=one.value,
                        sigma=one.sigma,
                    )
                )

    def sightings(self) -> dict[int, list[Sighting]]:
        """The findings of all clips by athlete, oldest first."""
        query = (
            select(findings, clips.c.athlete_id, clips.c.filmed_on)
            .join(clips, clips.c.id == findings.c.clip_id)
            .where(clips.c.athlete_id.is_not(None))
            .order_by(clips.c.filmed_on, clips.c.id)
        )
        with self._transaction() as work:
            rows = work.execute(query).mappings().all()
        found: dict[int, list[Sighting]] = {}
        for row in rows:
            made = Sighting(
                row["fault"],
                date.fromisoformat(row["filmed_on"]),
                row["family"],
                "clip",
                row["severity"],
                row["confidence"],
                row["measure"],
                row["value"],
                row["sigma"],
                row["clip_id"],
            )
            found.setdefault(row["athlete_id"], []).append(made)
        return found

    def findings_of(self, clip: int) -> ClipFindings | None:
        """What one clip showed; None where it was never judged."""
        with self._transaction() as work:
            row = work.execute(select(judged).where(judged.c.clip_id == clip)).mappings().first()
        if row is None:
            return None
        measures = {name: (pair[0], pair[1]) for name, pair in json.loads(row["measures"]).items()}
        return ClipFindings(clip, row["family"], (), measures)

    # Correctives

    def take_corrective(self, one: Prescribed) -> int:
        """Keep a corrective (again, under its old number); returns its number."""
        row = _corrective_row(one)
        if not one.id:
            del row["id"]
        with self._transaction() as work:
            key = work.execute(insert(correctives).values(row)).inserted_primary_key
        assert key is not None
        return int(key[0])

    def withdraw_corrective(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(correctives).where(correctives.c.id == number))

    def change_corrective(self, number: int, **changed: Any) -> None:
        """Change some fields of a corrective, and nothing else."""
        columns = {name: _plain(name, value) for name, value in changed.items()}
        with self._transaction() as work:
            work.execute(update(correctives).where(correctives.c.id == number).values(columns))

    def correctives(self) -> list[Prescribed]:
        """All correctives that were taken, newest first."""
        query = select(correctives).order_by(correctives.c.taken_on.desc(), correctives.c.id.desc())
        with self._transaction() as work:
            rows = work.execute(query).mappings().all()
        return [_corrective(row) for row in rows]

    # Answers

    def answer(self, athlete: int, fault: str, said: str, on: date) -> None:
        """Keep an athlete's answer to a splitting question; an empty one takes it out."""
        mine = (answers.c.athlete_id == athlete) & (answers.c.fault == fault)
        with self._transaction() as work:
            work.execute(delete(answers).where(mine))
            if said:
                row = {"athlete_id": athlete, "fault": fault, "answer": said}
                work.execute(insert(answers).values(**row, on_day=on.isoformat()))

    def answers(self) -> dict[int, dict[str, str]]:
        """The answers of everyone, by athlete and fault."""
        found: dict[int, dict[str, str]] = {}
        with self._transaction() as work:
            for row in work.execute(select(answers)).mappings():
                found.setdefault(row["athlete_id"], {})[row["fault"]] = row["answer"]
        return found

    # Own drills, movements and complexes

    def own_library(self) -> tuple[OwnLibrary, list[str]]:
        """The coach's own drills and movements, and what is wrong with those that cannot be read."""
        with self._transaction() as work:
            rows = [
                (f"{kind} {name}", document)
                for kind, table, key in (
                    ("movement", movements, movements.c.name),
                    ("drill", drills, drills.c.id),
                )
                for name, document in work.execute(select(key, table.c.document).order_by(key))
            ]
        found, troubles = [], []
        for name, document in rows:
            try:
                found.append(read_library(document, name))
            except ContentError as error:
                troubles.append(str(error))
        own_drills = tuple(drill for one in found for drill in one.drills)
        own_movements = tuple(movement for one in found for movement in one.movements)
        return OwnLibrary(own_drills, own_movements), troubles

    def keep_drill(self, drill: Drill) -> None:
        with self._transaction() as work:
            work.execute(delete(drills).where(drills.c.id == drill.id))
            work.execute(insert(drills).values(id=drill.id, document=drill_document([drill])))

    def drop_drill(self, name: str) -> None:
        with self._transaction() as work:
            work.execute(delete(drills).where(drills.c.id == name))

    def keep_movement(self, movement: OwnMovement) -> None:
        document = drill_document((), movements=[movement])
        with self._transaction() as work:
            work.execute(delete(movements).where(movements.c.name == movement.name))
            work.execute(insert(movements).values(name=movement.name, document=document))

    def drop_movement(self, name: str) -> None:
        with self._transaction() as work:
            work.execute(delete(movements).where(movements.c.name == name))

    def complexes(self) -> list[KeptComplex]:
        """The coach's own complexes, newest first."""
        with self._transaction() as work:
            rows = work.execute(select(complexes).order_by(complexes.c.id.desc())).mappings().all()
        return [
            KeptComplex(row["name"], row["text"], date.fromisoformat(row["on_day"]), row["id"])
            for row in rows
        ]

    def keep_complex(self, one: KeptComplex) -> int:
        row: dict[str, Any] = {"name": one.name, "text": one.text, "on_day": one.on.isoformat()}
        if one.id:
            row["id"] = one.id
        with self._transaction() as work:
            key = work.execute(insert(complexes).values(row)).inserted_primary_key
        assert key is not None
        return int(key[0])

    def drop_complex(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(complexes).where(complexes.c.id == number))


def drill_document(
    own: Sequence[Drill],
    strings: Sequence[KeptComplex] = (),
    movements: Sequence[OwnMovement] = (),
) -> str:
    """Drills, movements and complexes as the text of a drill file (see docs/formats.md)."""
    whole: dict[str, Any] = {"schema": "keen-kettle-drills", "schema_version": 1}
    for table, entries in (("drill", own), ("movement", movements)):
        if entries:
            rows = [one.model_dump(mode="json", exclude_defaults=True) for one in entries]
            whole[table] = rows
    if strings:
        whole["complex"] = [{"name": one.name, "text": one.text} for one in strings]
    return json.dumps(whole, indent=1, ensure_ascii=False) + "\n"


def _plain(name: str, value: Any) -> Any:
    return value.isoformat() if name in DAYS and value is not None else value


def _corrective_row(one: Prescribed) -> dict[str, Any]:
    return {field.name: _plain(field.name, getattr(one, field.name)) for field in fields(one)}


def _corrective(row: Any) -> Prescribed:
    days = {name: date.fromisoformat(row[name]) if row[name] else None for name in DAYS}
    return Prescribed(**{**row, **days})
