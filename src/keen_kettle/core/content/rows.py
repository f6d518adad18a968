"""Reads one content file into checked values; an error names file, entry and field."""

import tomllib
from pathlib import Path
from typing import Annotated, Any, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from keen_kettle.core.errors import ContentError

__all__ = ["Entry", "Id", "Text", "by_id", "first_fault", "read_rows", "read_text"]

Text = Annotated[str, Field(min_length=1, max_length=600)]
Id = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]


class Entry(BaseModel):
    """One entry of a content file: no field that is not known, and never changed."""

    model_config = ConfigDict(extra="forbid", frozen=True)


E = TypeVar("E", bound=Entry)


def read_text(path: Path) -> str:
    """The text of a content file.

    Raises
    ------
    ContentError
        It cannot be read, or is not UTF-8.
    """
    try:
        return path.read_text(encoding="utf-8")
    except OSError as error:
        raise ContentError(f"{path.name} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise ContentError(f"{path.name} is not UTF-8 text.") from error


def read_rows(path: Path, table: str, kind: type[E]) -> list[E]:
    """The entries of one table of a TOML file, in file order.

    Raises
    ------
    ContentError
        Naming file, entry and field.
    """
    try:
        rows = tomllib.loads(read_text(path)).get(table, [])
    except tomllib.TOMLDecodeError as error:
        raise ContentError(f"{path.name} is not valid TOML: {error}.") from error
    found = []
    for number, row in enumerate(rows, 1):
        try:
            found.append(kind.model_validate(row))
        except ValidationError as error:
            entry = row.get("id", row.get("measure", f"number {number}"))
            raise ContentError(first_fault(f"{path.name}, {table} “{entry}”", error)) from error
    return found


def by_id(name: str, rows: list[Any], known: dict[str, Any] | None = None) -> dict[str, Any]:
    """Entries by their id, after those of an earlier file.

    Raises
    ------
    ContentError
        An id stands there twice; `name` is the file that says it again.
    """
    found = dict(known or {})
    for row in rows:
        if row.id in found:
            raise ContentError(f"{name}, “{row.id}”, id: it stands there twice.")
        found[row.id] = row
    return found


def first_fault(name: str, error: ValidationError) -> str:
    """The first thing that is wrong, in one sentence."""
    first = error.errors()[0]
    where = [f"{part + 1}" if isinstance(part, int) else str(part) for part in first["loc"]]
    if not where:
        whole = "is not valid JSON" if first["type"] == "json_invalid" else "entry"
        return f"{name} {whole}: {first['msg']}."
    given = f" (it says {str(first['input'])[:60]!r})" if first["type"] != "missing" else ""
    return f"{name}, {' › '.join(where)}: {first['msg']}{given}."
