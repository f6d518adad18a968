"""Sessions as files that other programs read: rows (CSV, ODS) and a calendar entry (iCalendar)."""

import csv
import io
from collections.abc import Sequence
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path
from tempfile import TemporaryDirectory
from uuid import NAMESPACE_URL, uuid5

from keen_kettle.core.plan import Session

__all__ = ["session_calendar", "session_csv", "session_ods", "session_rows"]

HEADS = ("athlete", "part", "minutes", "what", "dose", "load_kg", "per_side_kg", "note")


def session_rows(sessions: Sequence[Session]) -> list[tuple[str, ...]]:
    """A head and one row a line of each session; loads in kilograms, plates from the inside out."""
    rows: list[tuple[str, ...]] = [HEADS]
    for session in sessions:
        for block in session.blocks:
            for line in block.lines:
                loading = line.loading
                rows.append(
                    (
                        session.athlete,
                        block.title,
                        f"{block.minutes:g}",
                        line.what,
                        line.dose,
                        f"{loading.total_kg:g}" if loading is not None else "",
                        " + ".join(f"{kilos:g}" for kilos in loading.per_side_kg)
                        if loading
                        else "",
                        line.note,
                    )
                )
    return rows


def session_csv(sessions: Sequence[Session]) -> str:
    """The rows as text, comma separated (RFC 4180)."""
    out = io.StringIO()
    csv.writer(out).writerows(session_rows(sessions))
    return out.getvalue()


def session_ods(sessions: Sequence[Session]) -> bytes:
    """The rows as an OpenDocument spreadsheet; minutes and kilograms are numbers."""
    from odfdo import Cell, Document, Row, Table  # takes a while: only when one is written

    document = Document("spreadsheet")
    body = document.body
    body.clear()
    table = Table("Session")
    for number, row in enumerate(session_rows(sessions)):
        made = Row()
        for name, text in zip(HEADS, row, strict=True):
            numeric = number > 0 and name in ("minutes", "load_kg") and bool(text)
            made.append_cell(Cell(float(text) if numeric else text))
        table.append_row(made)
    body.append(table)
    with TemporaryDirectory() as room:
        path = Path(room) / "session.ods"
        document.save(str(path))
        return path.read_bytes()


def session_calendar(
    title: str, sessions: Sequence[Session], on: date, minutes: int, begins: time | None = None
) -> bytes:
    """One calendar entry for the session (RFC 5545): a whole day, or from a time of day."""
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Keen Kettle//session//EN")
    calendar.add("version", "2.0")
    event = Event()
    event.add("uid", str(uuid5(NAMESPACE_URL, f"keen-kettle/{title}/{on.isoformat()}")))
    event.add("dtstamp", datetime.combine(on, time(), UTC))
    event.add("summary", f"Training: {title}")
    if begins is None:
        event.add("dtstart", on)
        event.add("dtend", on + timedelta(days=1))
    else:
        start = datetime.combine(on, begins)
        event.add("dtstart", start)
        event.add("dtend", start + timedelta(minutes=minutes))
    event.add("description", _described(sessions))
    calendar.add_component(event)
    return bytes(calendar.to_ical())


def _described(sessions: Sequence[Session]) -> str:
    """Every session in short: one line a part."""
    lines: list[str] = []
    for session in sessions:
        lines.append(f"{session.athlete} ({session.minutes:.0f} min)")
        for block in session.blocks:
            if block.title == "Warm-up":
                lines.append(f"  Warm-up, {block.minutes:.0f} min")
                continue
            for line in block.lines:
                load = f", {line.loading.total_kg:g} kg" if line.loading is not None else ""
                lines.append(f"  {block.title}: {line.what} {line.dose}{load}")
    return "\n".join(lines)
