"""Knows a film again by what is in it, wherever the file has gone."""

import hashlib
from collections.abc import Callable
from pathlib import Path

from keen_kettle.core.errors import Cancelled, ClipNotFound, ClipUnreadable

__all__ = ["content_hash"]

BLOCK = 1 << 20


def content_hash(path: Path, cancelled: Callable[[], bool] = lambda: False) -> str:
    """SHA-256 of the file's bytes, in hex.

    Raises
    ------
    ClipNotFound, ClipUnreadable, Cancelled
    """
    digest = hashlib.sha256()
    try:
        with path.open("rb") as file:
            while block := file.read(BLOCK):
                if cancelled():
                    raise Cancelled("Stopped while reading the film.")
                digest.update(block)
    except FileNotFoundError as error:
        raise ClipNotFound(f"There is no file {path}.") from error
    except OSError as error:
        raise ClipUnreadable(f"{path.name} cannot be read: {error.strerror}.") from error
    return digest.hexdigest()
