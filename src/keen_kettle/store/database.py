"""Opens the data file: connection habits, migrations with a backup before them, backups."""

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event, text
from sqlalchemy.exc import DatabaseError

from keen_kettle.store.errors import StoreDamaged, StoreFull
from keen_kettle.store.tables import HEAD

__all__ = ["back_up", "explain", "open_database"]

MIGRATIONS = Path(__file__).parent / "migrations"
HABITS = (
    *("journal_mode=WAL", "foreign_keys=ON", "busy_timeout=4000"),
    *("synchronous=NORMAL", "wal_autocheckpoint=16000"),  # flushing is the `DiskKeeper`'s
)


def open_database(path: Path) -> Engine:
    """An engine on the data file, brought up to the newest revision.

    Raises
    ------
    StoreDamaged
        The file is no database, is damaged, or comes from a newer program.
    StoreFull
        It cannot be written.
    """
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _habits)
    try:
        with engine.connect() as connection:
            revision = _revision(connection)
        if revision != HEAD:
            _migrate(engine, path, revision)
    except DatabaseError as error:
        engine.dispose()
        raise explain(error, path) from error
    return engine


def explain(error: DatabaseError, path: Path) -> StoreDamaged | StoreFull:
    """A database error in plain words: what happened, what is safe, what to do."""
    reason = str(error.orig)
    full = ("full", "readonly", "unable to open", "disk I/O", "locked")
    if any(word in reason for word in full):
        return StoreFull(
            f"This could not be saved in {path.parent} ({reason}). What was saved before is safe. "
            "Free some space, or see that the folder may be written, and do it again."
        )
    return StoreDamaged(
        f"The data file {path} cannot be used ({reason}). It was left as it is. "
        "Put a backup in its place, or start with another folder: --data-dir."
    )


def back_up(path: Path, to: Path) -> None:
    """Copy the data file while it may be in use, check the copy, then put it in place."""
    beside = to.with_name(f".{to.name}.part")
    beside.unlink(missing_ok=True)
    with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(beside)) as copy:
        source.backup(copy)
        answer = copy.execute("PRAGMA integrity_check").fetchone()[0]
    if answer != "ok":
        beside.unlink()
        raise StoreDamaged(
            f"The backup of {path.name} came out damaged ({answer}); nothing was changed."
        )
    beside.replace(to)


def _habits(connection: Any, _record: object) -> None:
    for pragma in HABITS:
        connection.execute(f"PRAGMA {pragma}")


def _revision(connection: Any) -> str | None:
    found = connection.execute(
        text("SELECT 1 FROM sqlite_master WHERE name = 'alembic_version'")
    ).scalar()
    if not found:
        return None
    answer = connection.execute(text("SELECT version_num FROM alembic_version")).scalar()
    return str(answer) if answer else None


def _migrate(engine: Engine, path: Path, revision: str | None) -> None:
    from alembic import command  # loaded here: it takes half a second, and is rarely needed
    from alembic.config import Config
    from alembic.script import ScriptDirectory

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    if revision is not None:
        if revision not in known:
            raise StoreDamaged(
                f"The data file {path} was written by a newer Keen Kettle (revision {revision}). "
                "It was left as it is; use the newer program."
            )
        back_up(path, path.with_name(f"{path.stem}-before-{HEAD}.sqlite"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, HEAD)
