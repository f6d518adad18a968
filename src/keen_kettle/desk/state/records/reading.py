"""Reads new films for the records: index, content, thumbnail, and what their names tell."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from keen_kettle.core.clip import ClipReader, content_hash, read_index
from keen_kettle.core.errors import KettleError
from keen_kettle.core.intake import Guess, Trained, guess_from_name
from keen_kettle.store import NewClip, Shelf
from keen_kettle.store.thumbnail import thumbnail_of

__all__ = [
    "FILM_ENDINGS",
    "Arrival",
    "film_facts",
    "films_in",
    "read_film",
    "remove_films",
]

FILM_ENDINGS = frozenset({".mp4", ".mov", ".mkv", ".avi", ".m4v", ".webm", ".3gp"})


@dataclass(frozen=True)
class Arrival:
    """What became of a film: "new", "known" (it is kept already) or "unreadable" with the reason."""

    path: Path
    state: str
    trouble: str = ""
    number: int = 0
    """Of the new clip."""


def films_in(folder: Path) -> list[Path]:
    """All films in a folder and below it, by name."""
    return sorted(
        path for path in folder.rglob("*") if path.suffix.lower() in FILM_ENDINGS and path.is_file()
    )


NOT_SAID = "not said"
"""Why a clip stands under a lift that nobody has named: it is asked for, unless the clip tells it."""


def film_facts(path: Path, stopped: Callable[[], bool]) -> dict[str, object]:
    """What a film's record holds of the file itself.

    Raises
    ------
    ClipError
        It cannot be read.
    """
    index = read_index(path)
    digest = content_hash(path, stopped)
    with ClipReader(index) as reader:
        picture = thumbnail_of(reader)
    return {
        "path": path.absolute(),
        "sha256": digest,
        "frames": len(index),
        "duration_s": index.duration_s,
        "capture_fps": index.filmed_fps,
        "thumbnail": picture,
    }


def read_film(
    shelf: Shelf,
    path: Path,
    who: int | None,
    today: date,
    athletes: Sequence[tuple[int, str]],
    trained: Sequence[Trained],
    at_once: bool = False,
) -> Arrival:
    """Read a film and keep it with guesses; `who` is the chosen athlete, if one is.

    It waits for the background, unless the coach wants to see it `at_once`. A film that is known is
    the same clip, in its new place where the old one is gone, or where the coach has shown it.
    """
    try:
        facts = film_facts(path, lambda: False)
        changed = min(date.fromtimestamp(path.stat().st_mtime), today)
    except (KettleError, OSError) as error:
        return Arrival(path, "unreadable", str(error))
    known = shelf.clip_with_hash(str(facts["sha256"]))
    if known is not None:
        if at_once or not known.path.is_file():
            shelf.change_clip(known.id, path=facts["path"])
        return Arrival(path, "known", number=known.id)
    guess = guess_from_name(path.stem, changed, athletes, trained)
    return Arrival(path, "new", number=shelf.add_clip(_clip(facts, guess, who, at_once)))


def _clip(facts: dict[str, object], guess: Guess, who: int | None, at_once: bool) -> NewClip:
    why = {**guess.why, "facing": NOT_SAID}
    if not guess.lift:
        why["lift"] = NOT_SAID
    if who is not None:
        why["athlete"] = "chosen above"
    # Where nothing is guessed there is nothing to be confirmed while the coach sees the film.
    sure = at_once and (who is not None or guess.athlete_id is None)
    return NewClip(
        **facts,  # type: ignore[arg-type]
        filmed_on=guess.day or date.min,
        athlete_id=who if who is not None else guess.athlete_id,
        lift=guess.lift or "snatch",
        mass_kg=guess.mass_kg,
        waits="review" if sure else "confirm",
        background="" if at_once else "due",
        guess=why,
    )


def remove_films(paths: Sequence[Path]) -> list[str]:
    """Remove films from disk; those that could not be removed. The shipped demo films stay."""
    shipped = Path(__file__).resolve().parents[3]
    left = []
    for path in paths:
        if shipped in path.resolve().parents:
            continue
        try:
            path.unlink(missing_ok=True)
        except OSError:
            left.append(path.name)
    return left
