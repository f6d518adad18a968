"""Reads a class list (CSV) into athletes, row by row, with what is wrong in which row.

Nothing is kept here: the coach sees the rows first. Columns are known by many headings, in any
order; the delimiter and the encoding are found out. A row with a problem is not taken, and says
why; a value that is merely strange is left out of its row, which says so too.
"""

import csv
import io
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from keen_kettle.core.errors import KettleError
from keen_kettle.core.teach import AREAS
from keen_kettle.store.records import NewAthlete

__all__ = ["LARGEST", "MOST", "Roster", "RosterRow", "read_roster"]

MOST = 2000
"""Rows that are taken from one file; a list for a coach has tens."""
LARGEST = 4_000_000

HEADINGS = {
    "name": ("name", "athlete", "full name", "student"),
    "first": ("first name", "given name", "forename"),
    "last": ("last name", "family name", "surname"),
    "born": ("birth year", "year of birth", "born", "date of birth", "birthday", "dob", "year"),
    "height": ("height", "height cm", "height m", "stature", "stature cm", "stature m"),
    "mass": ("mass", "mass kg", "weight", "weight kg", "bodyweight", "body mass"),
    "sex": ("sex", "gender"),
    "class": ("class", "weight class", "category"),
    "aim": ("aim", "goal"),
    "sport": ("sport",),
    "training": ("training years", "training age", "years trained", "experience"),
    "sessions": ("sessions a week", "sessions", "sessions per week", "days a week"),
    "groups": ("group", "groups", "team", "squad"),
    "cautions": ("cautions", "caution", "injuries", "injury"),
    "equipment": ("equipment", "at hand"),
    "snatch": ("best snatch", "snatch", "snatch kg"),
    "clean": ("best clean", "clean", "clean kg"),
    "jerk": ("best jerk", "jerk", "jerk kg"),
    "notes": ("notes", "note", "remarks"),
}
AIM_WORDS = {
    "weightlifting": "weightlifting",
    "sport power": "sport power",
    "sport": "sport power",
    "power": "sport power",
    "general": "general",
    "fitness": "general",
    "health": "general",
}


@dataclass(frozen=True)
class RosterRow:
    """One row: `athlete` is None where it cannot be taken; `problem` and `left_out` say why."""

    line: int
    name: str
    athlete: NewAthlete | None
    groups: tuple[str, ...] = ()
    problem: str = ""
    left_out: tuple[str, ...] = ()


@dataclass(frozen=True)
class Roster:
    """A whole file as read; `unknown` are columns that mean nothing here and are not taken."""

    rows: tuple[RosterRow, ...]
    columns: tuple[str, ...]
    unknown: tuple[str, ...]
    encoding: str

    @property
    def good(self) -> list[RosterRow]:
        return [row for row in self.rows if row.athlete is not None]


class _Strange(ValueError):
    """A value that cannot be taken; its row goes on without it."""


@dataclass
class _Known:
    """Names that are taken: those kept already, and those of earlier rows."""

    kept: set[str]
    rows: dict[str, int] = field(default_factory=dict)


def read_roster(data: bytes, known_names: Iterable[str], today: date) -> Roster:
    """The athletes of a CSV file.

    Raises
    ------
    KettleError
        The file as a whole is no such list; the message says what to do.
    """
    if len(data) > LARGEST:
        raise KettleError(
            f"This file is {len(data) / 1e6:.0f} MB: too large for a class list. "
            "Save only the rows and columns of your athletes as CSV."
        )
    text, encoding = _decode(data)
    rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=_delimiter(text)))
    rows = [[cell.strip() for cell in row] for row in rows]
    lines = [(number, row) for number, row in enumerate(rows, 1) if any(row)]
    if not lines:
        raise KettleError("This file is empty. The first row names the columns, then one row each.")
    (_, head), *body = lines
    places, unknown = _columns(head)
    if "name" not in places and not {"first", "last"} <= set(places):
        raise KettleError(
            "No column is called “name” (or “first name” and “last name”). "
            f"The first row says: {', '.join(cell or '(empty)' for cell in head[:8])}. "
            "Name the columns in the first row: name, birth year, height cm, mass kg, group."
        )
    if not body:
        raise KettleError("The file has headings but no rows below them.")
    known = _Known({name.casefold() for name in known_names})
    found = [
        _too_many(line, row, places)
        if number >= MOST
        else _row(line, row, places, len(head), known, today)
        for number, (line, row) in enumerate(body)
    ]
    return Roster(tuple(found), tuple(places), unknown, encoding)


def _decode(data: bytes) -> tuple[str, str]:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        encodings: tuple[str, ...] = ("utf-16",)
    else:
        encodings = ("utf-8-sig", "cp1252")
    for encoding in encodings:
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\x00" in text:
            break
        return text, encoding
    raise KettleError(
        "This file is no plain text. In the spreadsheet choose “Save as … CSV (UTF-8)”."
    )


def _delimiter(text: str) -> str:
    first = next((line for line in text.splitlines() if line.strip()), "")
    return max(",;\t|", key=first.count)


def _columns(head: list[str]) -> tuple[dict[str, int], tuple[str, ...]]:
    by_words = {words: field for field, many in HEADINGS.items() for words in many}
    places: dict[str, int] = {}
    unknown = []
    for place, cell in enumerate(head):
        words = re.sub(r"[^a-z]+", " ", cell.casefold()).strip()
        named = by_words.get(words)
        if named is None or named in places:
            if cell:
                unknown.append(cell)
        else:
            places[named] = place
    return places, tuple(unknown)


def _too_many(line: int, row: list[str], places: dict[str, int]) -> RosterRow:
    name = row[places["name"]] if "name" in places and places["name"] < len(row) else ""
    problem = f"past the first {MOST} rows; split the file"
    return RosterRow(line, name, None, problem=problem)


def _row(
    line: int, row: list[str], places: dict[str, int], width: int, known: _Known, today: date
) -> RosterRow:
    def cell(named: str) -> str:
        place = places.get(named, -1)
        return row[place] if 0 <= place < len(row) else ""

    name = " ".join((cell("name") or f"{cell('first')} {cell('last')}").split())
    problem = _problem(name, row, width, known)
    if problem:
        return RosterRow(line, name, None, problem=problem)
    known.rows[name.casefold()] = line
    values: dict[str, Any] = {"name": name}
    left_out = []
    for named, (target, read) in READERS.items():
        written = cell(named)
        if not written:
            continue
        try:
            values[target] = read(written, today)
        except _Strange as strange:
            left_out.append(f"{named} “{written[:30]}”: {strange}")
    bests = {
        lift: kilos
        for lift in ("snatch", "clean", "jerk")
        if (kilos := values.pop(f"best {lift}", None))
    }
    groups = tuple(dict.fromkeys(part for part in _parts(cell("groups")) if part))
    return RosterRow(
        line,
        name,
        NewAthlete(**values, bests_kg=bests),
        groups,
        left_out=tuple(left_out),
    )


def _problem(name: str, row: list[str], width: int, known: _Known) -> str:
    if not name:
        return "no name"
    if len(row) > width:
        return "more cells than headings: is a delimiter inside a value?"
    if len(name) > 120:
        return "the name is too long"
    if name.casefold() in known.kept:
        return "an athlete of this name is kept already"
    if name.casefold() in known.rows:
        return f"the same name as in row {known.rows[name.casefold()]}"
    return ""


def _parts(written: str) -> list[str]:
    return [part.strip() for part in re.split(r"[;,/+&]", written)]


def _number(written: str, unit: str, low: float, high: float) -> float:
    plain = re.sub(r"\s*[a-z]+$", "", written.casefold()).replace(",", ".").strip()
    try:
        value = float(plain)
    except ValueError:
        raise _Strange("no number") from None
    if not low <= value <= high:
        raise _Strange(f"{low:g} to {high:g} {unit} is expected".strip())
    return value


def _born(written: str, today: date) -> int:
    if re.fullmatch(r"\d{4}", written):
        year = int(written)
    else:
        for form in ("%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%d-%m-%Y", "%Y/%m/%d"):
            try:
                year = datetime.strptime(written, form).year
                break
            except ValueError:
                continue
        else:
            raise _Strange("no year or date; write 2009 or 2009-05-31")
    if not today.year - 100 <= year <= today.year - 4:
        raise _Strange(f"a year from {today.year - 100} to {today.year - 4} is expected")
    return year


def _height(written: str, _today: date) -> float:
    plain = re.sub(r"\s*[a-z]+$", "", written.casefold()).replace(",", ".").strip()
    try:
        value = float(plain)
    except ValueError:
        raise _Strange("no number") from None
    metres = value / 100 if value > 3 else value
    if not 0.8 <= metres <= 2.6:
        raise _Strange("80 to 260 cm is expected")
    return round(metres, 3)


def _aim(written: str, _today: date) -> str:
    found = AIM_WORDS.get(" ".join(written.casefold().split()))
    if found is None:
        raise _Strange("weightlifting, sport power or general is expected")
    return found


def _cautions(written: str, _today: date) -> frozenset[str]:
    parts = [part.casefold().rstrip("s") for part in _parts(written)]
    named = frozenset(part for part in parts if part in AREAS)
    rest = [
        part for part in parts if part and part not in AREAS and part not in ("none", "no", "-")
    ]
    return named | ({"other"} if rest else frozenset())


def _equipment(written: str, _today: date) -> frozenset[str]:
    return frozenset(part.casefold() for part in _parts(written) if part)


def _kilos(low: float, high: float) -> Callable[[str, date], float]:
    return lambda written, _today: _number(written, "kg", low, high)


def _plain(written: str, _today: date) -> str:
    return written[:600]


READERS: dict[str, tuple[str, Callable[[str, date], Any]]] = {
    "born": ("birth_year", _born),
    "height": ("stature_m", _height),
    "mass": ("mass_kg", _kilos(15, 300)),
    "sex": ("sex", _plain),
    "class": ("weight_class", _plain),
    "aim": ("aim", _aim),
    "sport": ("sport", _plain),
    "training": ("training_years", lambda text, _day: _number(text, "years", 0, 80)),
    "sessions": ("sessions_week", lambda text, _day: round(_number(text, "", 0, 21))),
    "cautions": ("cautions", _cautions),
    "equipment": ("equipment", _equipment),
    "snatch": ("best snatch", _kilos(1, 400)),
    "clean": ("best clean", _kilos(1, 400)),
    "jerk": ("best jerk", _kilos(1, 400)),
    "notes": ("notes", _plain),
}
