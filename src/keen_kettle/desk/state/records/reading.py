"""Reads new films for the records: index, content, thumbnail, and what their names tell."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from keen_kettle.core.clip import ClipReader, content_hash, read_index
from keen_kettle.core.errors import KettleError
from keen_kettle.core.intake import Guess, Trained, guess_from_name
from keen_kettle.desk.work.workers import Job
from keen_kettle.store import NewClip, Shelf
from keen_kettle.store.thumbnail import thumbnail_of

__all__ = [
    "FILM_ENDINGS",
    "Arrival",
    "film_facts",
    "films_in",
    "read_film",
    "read_new_film",
    "remove_films",
]

FILM_ENDINGS = frozenset({".mp4", ".mov", ".mkv", ".avi", ".m4v", ".webm", ".3gp"})


@dataclass(frozen=True)
class Arrival:
    """What became of a film: "new", "known" (it is kept already) or "unreadable" with the reason."""

    path: Path
    state: str
    trouble: str = ""


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
        "thumbnail": picture,
    }


def read_film(
    shelf: Shelf,
    path: Path,
    who: int | None,
    today: date,
    athletes: Sequence[tuple[int, str]],
    trained: Sequence[Trained],
) -> Arrival:
    """Read a film and keep it for the queue, with guesses; `who` is the chosen athlete, if one is."""
    try:
        facts = film_facts(path, lambda: False)
        changed = min(date.fromtimestamp(path.stat().st_mtime), today)
    except (KettleError, OSError) as error:
        return Arrival(path, "unreadable", str(error))
    if shelf.clip_with_hash(str(facts["sha256"])) is not None:
        return Arrival(path, "known")
    guess = guess_from_name(path.stem, changed, athletes, trained)
    shelf.add_clip(_clip(facts, guess, who))
    return Arrival(path, "new")


def _clip(facts: dict[str, object], guess: Guess, who: int | None) -> NewClip:
    why = dict(guess.why) if guess.lift else {**guess.why, "lift": NOT_SAID}
    if who is not None:
        why["athlete"] = "chosen above"
    return NewClip(
        **facts,  # type: ignore[arg-type]
        filmed_on=guess.day or date.min,
        athlete_id=who if who is not None else guess.athlete_id,
        lift=guess.lift or "snatch",
        mass_kg=guess.mass_kg,
        waits="confirm",
        background="due",
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


def read_new_film(job: Job, path: Path, athlete: int | None, today: date) -> NewClip:
    facts = film_facts(path, job.stopped)
    return NewClip(
        **facts,  # type: ignore[arg-type]
        filmed_on=min(date.fromtimestamp(path.stat().st_mtime), today),
        athlete_id=athlete,
        guess={"lift": NOT_SAID},
    )
