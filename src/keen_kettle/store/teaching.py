"""Keeps and finds what teaching needs: groups, screenings, visits, steps, own ladders."""

import json
from collections.abc import Callable, Iterable
from contextlib import AbstractContextManager
from dataclasses import asdict
from datetime import date
from functools import lru_cache
from typing import Any

from sqlalchemy import Connection, delete, func, insert, select, text, update

from keen_kettle.core.content import Ladder, read_ladder
from keen_kettle.core.errors import ContentError
from keen_kettle.core.teach import CheckResult, Step, Try, Visit
from keen_kettle.store.records import Group, Jump, KeptStep, KeptTry, KeptVisit, Screening
from keen_kettle.store.tables import (
    groups,
    jumps,
    ladders,
    members,
    screenings,
    steps,
    tries,
    visits,
)

__all__ = ["RECENT", "TeachingRecords", "ladder_document"]

RECENT = 6
"""How many visits of an athlete the board looks at."""


class TeachingRecords:
    """Part of the shelf; every call is one transaction."""

    def __init__(self, transaction: Callable[[], AbstractContextManager[Connection]]) -> None:
        self._transaction = transaction

    # Groups

    def groups(self) -> list[Group]:
        """All groups by name, with their athletes."""
        with self._transaction() as work:
            rows = work.execute(select(groups).order_by(groups.c.name)).all()
            inside: dict[int, set[int]] = {}
            for group, athlete in work.execute(select(members.c.group_id, members.c.athlete_id)):
                inside.setdefault(group, set()).add(athlete)
        return [
            Group(row.id, row.name, frozenset(inside.get(row.id, ())), row.pace, row.weeks)
            for row in rows
        ]

    def add_group(self, name: str, number: int = 0) -> int:
        """Keep a group (again, under its old number); one of that name, in any capitals, is taken
        as it is."""
        with self._transaction() as work:
            known = work.execute(
                select(groups.c.id).where(func.lower(groups.c.name) == name.lower())
            ).scalar()
            if known is not None:
                return int(known)
            return _add(work, groups, {"name": name}, number)

    def set_pace(self, number: int, pace: str, weeks: int) -> None:
        """How fast a group goes through its ladders."""
        with self._transaction() as work:
            chosen = update(groups).where(groups.c.id == number)
            work.execute(chosen.values(pace=pace, weeks=weeks))

    def rename_group(self, number: int, name: str) -> None:
        with self._transaction() as work:
            work.execute(update(groups).where(groups.c.id == number).values(name=name))

    def remove_group(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(groups).where(groups.c.id == number))

    def set_groups(self, athlete: int, numbers: Iterable[int]) -> None:
        """The groups of an athlete, all at once."""
        with self._transaction() as work:
            work.execute(delete(members).where(members.c.athlete_id == athlete))
            for number in numbers:
                work.execute(insert(members).values(group_id=number, athlete_id=athlete))

    # Screening

    def screen(self, one: Screening) -> int:
        row = {
            "athlete_id": one.athlete_id,
            "check_id": one.check,
            "state": one.state,
            "on_day": one.on.isoformat(),
            "note": one.note,
        }
        with self._transaction() as work:
            return _add(work, screenings, row, one.id)

    def unscreen(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(screenings).where(screenings.c.id == number))

    def screenings(self, athlete: int) -> list[Screening]:
        """Every result of an athlete, newest first."""
        query = (
            select(screenings)
            .where(screenings.c.athlete_id == athlete)
            .order_by(screenings.c.on_day.desc(), screenings.c.id.desc())
        )
        with self._transaction() as work:
            return [
                Screening(
                    row.athlete_id,
                    row.check_id,
                    row.state,
                    date.fromisoformat(row.on_day),
                    row.note,
                    row.id,
                )
                for row in work.execute(query)
            ]

    def newest_checks(self) -> dict[int, dict[str, CheckResult]]:
        """The newest result of each check, by athlete."""
        query = text(
            "SELECT athlete_id, check_id, state, on_day, MAX(on_day || printf('%09d', id)) "
            "FROM screenings GROUP BY athlete_id, check_id"
        )
        found: dict[int, dict[str, CheckResult]] = {}
        with self._transaction() as work:
            for athlete, check, state, day, _ in work.execute(query).all():
                found.setdefault(athlete, {})[check] = _result(state, day)
        return found

    # Visits

    def keep_visit(self, one: KeptVisit) -> int:
        """Keep a visit; one that is kept already (same id) is written over."""
        with self._transaction() as work:
            if one.id:
                work.execute(delete(visits).where(visits.c.id == one.id))
            return _add(work, visits, _visit_row(one), one.id)

    def drop_visit(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(visits).where(visits.c.id == number))

    def visits(self, athlete: int) -> list[KeptVisit]:
        """Every visit of an athlete, oldest first."""
        query = (
            select(visits)
            .where(visits.c.athlete_id == athlete)
            .order_by(visits.c.on_day, visits.c.id)
        )
        with self._transaction() as work:
            return [_visit(row) for row in work.execute(query)]

    def recent_visits(self) -> dict[int, list[KeptVisit]]:
        """The newest visits of each athlete (at most `RECENT`), oldest first."""
        query = text(
            "SELECT v.* FROM athletes a JOIN visits v ON v.id IN (SELECT id FROM visits "
            "WHERE athlete_id = a.id ORDER BY on_day DESC, id DESC LIMIT :most) "
            "WHERE a.archived_on IS NULL ORDER BY v.on_day, v.id"
        )
        found: dict[int, list[KeptVisit]] = {}
        with self._transaction() as work:
            for row in work.execute(query, {"most": RECENT}).all():
                found.setdefault(row[1], []).append(_visit(row))
        return found

    # Steps

    def take_step(self, one: KeptStep) -> int:
        row = {
            "athlete_id": one.athlete_id,
            "ladder": one.step.ladder,
            "stage": one.step.stage,
            "on_day": one.step.on.isoformat(),
            "kind": one.step.kind,
            "why": one.why,
        }
        with self._transaction() as work:
            return _add(work, steps, row, one.id)

    def drop_step(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(steps).where(steps.c.id == number))

    def steps(self, athlete: int) -> list[KeptStep]:
        """Every step of an athlete, oldest first."""
        query = select(steps).where(steps.c.athlete_id == athlete).order_by(steps.c.id)
        with self._transaction() as work:
            return [_step(row) for row in work.execute(query)]

    def newest_steps(self) -> dict[int, list[KeptStep]]:
        """For each athlete and ladder the last move and whatever came last, oldest first."""
        query = text(
            "SELECT s.* FROM steps s WHERE s.id IN ("
            "SELECT MAX(id) FROM steps GROUP BY athlete_id, ladder UNION "
            "SELECT MAX(id) FROM steps WHERE kind IN ('start', 'advance', 'step back', 'swap') "
            "GROUP BY athlete_id, ladder) ORDER BY s.id"
        )
        found: dict[int, list[KeptStep]] = {}
        with self._transaction() as work:
            for row in work.execute(query).all():
                found.setdefault(row[1], []).append(_step(row))
        return found

    def steps_since(self, day: date) -> list[KeptStep]:
        """Everybody's steps from a day on, newest first."""
        query = (
            select(steps)
            .where(steps.c.on_day >= day.isoformat())
            .order_by(steps.c.on_day.desc(), steps.c.id.desc())
        )
        with self._transaction() as work:
            return [_step(row) for row in work.execute(query)]

    def all_steps(self) -> list[KeptStep]:
        """Everybody's steps, oldest first."""
        with self._transaction() as work:
            return [_step(row) for row in work.execute(select(steps).order_by(steps.c.id))]

    # Jumps and try-outs

    def add_jump(self, one: Jump) -> int:
        row = {
            "athlete_id": one.athlete_id,
            "on_day": one.on.isoformat(),
            "height_m": one.height_m,
        }
        with self._transaction() as work:
            return _add(work, jumps, row, one.id)

    def drop_jump(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(jumps).where(jumps.c.id == number))

    def jumps(self, athlete: int) -> list[Jump]:
        """Jumps of an athlete, oldest first."""
        query = (
            select(jumps).where(jumps.c.athlete_id == athlete).order_by(jumps.c.on_day, jumps.c.id)
        )
        with self._transaction() as work:
            return [
                Jump(row.athlete_id, _day(row.on_day), row.height_m, row.id)
                for row in work.execute(query)
            ]

    def add_try(self, one: KeptTry) -> int:
        row = {"athlete_id": one.athlete_id, "on_day": one.on.isoformat(), **asdict(one.tried)}
        with self._transaction() as work:
            return _add(work, tries, row, one.id)

    def drop_try(self, number: int) -> None:
        with self._transaction() as work:
            work.execute(delete(tries).where(tries.c.id == number))

    def tries(self, athlete: int) -> list[KeptTry]:
        """What an athlete tried out, oldest first."""
        query = (
            select(tries).where(tries.c.athlete_id == athlete).order_by(tries.c.on_day, tries.c.id)
        )
        with self._transaction() as work:
            return [
                KeptTry(
                    row.athlete_id,
                    _day(row.on_day),
                    Try(row.movement, row.met, row.asked, row.liked, row.speed_mps),
                    row.id,
                )
                for row in work.execute(query)
            ]

    # Own ladders

    def own_ladders(self) -> list[Ladder]:
        """The coach's own ladders; one that cannot be read any more is left out."""
        with self._transaction() as work:
            rows = work.execute(select(ladders).order_by(ladders.c.id)).all()
        found = []
        for row in rows:
            try:
                found.append(read_ladder(row.document, row.id))
            except ContentError:
                continue
        return found

    def keep_ladder(self, ladder: Ladder) -> None:
        with self._transaction() as work:
            work.execute(delete(ladders).where(ladders.c.id == ladder.id))
            work.execute(insert(ladders).values(id=ladder.id, document=ladder_document(ladder)))

    def remove_ladder(self, name: str) -> None:
        with self._transaction() as work:
            work.execute(delete(ladders).where(ladders.c.id == name))


def ladder_document(ladder: Ladder) -> str:
    """A ladder as the text of a ladder file (JSON, see docs/formats.md)."""
    whole = {
        "schema": "keen-kettle-ladder",
        "schema_version": 1,
        "ladder": ladder.model_dump(mode="json"),
    }
    return json.dumps(whole, indent=1, ensure_ascii=False) + "\n"


def _add(work: Connection, table: Any, row: dict[str, Any], number: int) -> int:
    if number:
        row["id"] = number
    made = work.execute(insert(table).values(row)).inserted_primary_key
    assert made is not None
    return int(made[0])


def _visit_row(one: KeptVisit) -> dict[str, Any]:
    visit = one.visit
    return {
        "athlete_id": one.athlete_id,
        "ladder": visit.ladder,
        "stage": visit.stage,
        "on_day": visit.on.isoformat(),
        "met": json.dumps(visit.met),
        "asked": visit.asked,
        "faults": json.dumps(visit.faults),
        "reps": visit.reps,
        "load_kg": visit.load_kg,
        "enjoyment": visit.enjoyment,
        "pain": int(visit.pain),
        "note": one.note,
        "advised": one.advised,
        "reason": one.reason,
        "decided": one.decided,
        "why": one.why,
        "confidence": visit.confidence,
        "verdict": visit.verdict,
    }


# Boards read thousands of rows, and the same few days, points and results come again and again.


@lru_cache(maxsize=5000)
def _day(written: str) -> date:
    return date.fromisoformat(written)


@lru_cache(maxsize=5000)
def _tuple(written: str) -> tuple[Any, ...]:
    return tuple(json.loads(written))


@lru_cache(maxsize=5000)
def _result(state: str, day: str) -> CheckResult:
    return CheckResult(state, _day(day))


def _visit(row: Any) -> KeptVisit:
    (
        number,
        athlete,
        ladder,
        stage,
        day,
        met,
        asked,
        faults,
        reps,
        load_kg,
        enjoyment,
        pain,
        note,
        advised,
        reason,
        decided,
        why,
        confidence,
        verdict,
    ) = row
    visit = Visit(
        _day(day),
        ladder,
        stage,
        _tuple(met),
        asked,
        _tuple(faults),
        reps,
        load_kg,
        enjoyment,
        bool(pain),
        confidence,
        verdict,
    )
    return KeptVisit(athlete, visit, note, advised, reason, decided, why, number)


def _step(row: Any) -> KeptStep:
    number, athlete, ladder, stage, day, kind, why = row
    return KeptStep(athlete, Step(_day(day), ladder, stage, kind), why, number)
