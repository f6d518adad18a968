"""Works one clip's answer out again and again while something changes: each stage runs once for what
it hangs on.

    path, scale, times  →  the bar in metres
    path, sightings, points by hand  →  the lifter's landmarks  →  in metres
    all of these, events by hand, the lift  →  repetitions, measures, findings
"""

import hashlib
from collections.abc import Callable, Hashable
from dataclasses import dataclass, fields, is_dataclass, replace
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import Any

import numpy as np

from keen_kettle.core.analysis.assess import Assessment, bar_moves, body_moves, judge_moves
from keen_kettle.core.analysis.settings import ClipSettings
from keen_kettle.core.content import Content
from keen_kettle.core.track import BarTrack
from keen_kettle.core.track.body import BodyHand, BodyTrack, Sightings, solve_body

__all__ = ["Answer", "Stages", "made_from", "stamp"]


@dataclass(frozen=True)
class Answer:
    """The lifter's landmarks, where anything is known of them, and what follows from all."""

    body: BodyTrack | None
    assessment: Assessment


class Stages:
    """Keeps what each stage made last, and for what."""

    def __init__(self) -> None:
        self._last: dict[str, tuple[Any, Any]] = {}
        self.runs: dict[str, int] = {}
        """How often each stage has run."""

    def answer(
        self,
        track: BarTrack,
        seen: Sightings | None,
        settings: ClipSettings,
        content: Content,
        quick: bool = False,
    ) -> Answer:
        """The answer of a path and of what was seen of the lifter (None: only the hand's points).

        With `quick`, for what is under the hand, the landmarks are solved from those of the last time
        and another path is smoothed as the last one was: off by little, and not for keeping.
        """
        film, path, looks = stamp(track.t_s), stamp(track), stamp(seen)
        if quick:
            settings = self._as_smooth(film, path, settings)
        scaled = (
            *(
                film,
                path,
                settings.facing,
                settings.steady,
                settings.cutoff_hz,
                settings.capture_fps,
            ),
            *(settings.scale_by, settings.diameter_mm, settings.scale_points, settings.upright),
        )
        moves = self._once("bar", scaled, lambda: bar_moves(track, settings))
        plate = settings.thing in ("plate", "second")
        hand = settings.body_hand
        lifter = looks if seen is not None else path, settings.facing, plate
        solved = lifter, (path, hand)
        near = self._near(*solved) if quick else None

        def solve() -> BodyTrack | None:
            if near is not None and near[1] == hand:
                return near[0]  # only the path is under the hand
            before = near[0] if near is not None else None
            return solve_body(track.t_s, settings.facing, seen, hand, track, plate, before)

        stage = "body" if near is None else "body under the hand"
        body = self._once(stage, solved, solve)
        placed = (
            *(scaled, stage, solved, settings.centre_px, settings.stature_m, settings.thing),
            settings.derivative.support,
        )
        moving = self._once("body in metres", placed, lambda: body_moves(moves, body, settings))
        judged = self._once(
            "findings",
            (scaled, placed, settings),
            lambda: judge_moves(moves, body, moving, settings, content),
        )
        return Answer(body, judged)

    def _near(self, lifter: Hashable, how: Hashable) -> tuple[BodyTrack | None, BodyHand] | None:
        """The landmarks that were last solved of the same lifter, from another path or points by hand,
        and these points."""
        if "body" not in self._last:
            return None
        (whose, kept), body = self._last["body"]
        return (body, kept[1]) if whose == lifter and kept != how else None

    def _as_smooth(self, film: str, path: str, settings: ClipSettings) -> ClipSettings:
        """Another path of a film is smoothed as its last one was: a point changes that little, and to
        find it takes longer than all else."""
        key, moves = self._last.get("bar", ((), None))
        if key[:1] != (film,) or key[1] == path:
            return settings
        return replace(settings, cutoff_hz=moves.motion.cutoff_hz or None)

    def _once(self, stage: str, key: Hashable, make: Callable[[], Any]) -> Any:
        kept = self._last.get(stage)
        if kept is None or kept[0] != key:
            self.runs[stage] = self.runs.get(stage, 0) + 1
            kept = self._last[stage] = key, make()
        return kept[1]


def stamp(content: object) -> str:
    """A short text that is the same for the same content: a value, an array, or a record of them."""
    told = hashlib.blake2b(digest_size=16)
    _tell(content, told.update)
    return told.hexdigest()


def _tell(content: object, tell: Callable[[bytes], None]) -> None:
    if isinstance(content, np.ndarray):
        tell(f"{content.dtype}{content.shape}".encode())
        tell(np.ascontiguousarray(content).tobytes())
    elif is_dataclass(content) and not isinstance(content, type):
        tell(type(content).__name__.encode())
        for one in fields(content):
            _tell(getattr(content, one.name), tell)
    elif isinstance(content, tuple | list):
        tell(f"{len(content)} of".encode())
        for one in content:
            _tell(one, tell)
    elif isinstance(content, float):
        tell(repr(float(content)).encode())  # NumPy's floats are the same
    else:
        tell(repr(content).encode())


def made_from(track: BarTrack, seen: Sightings | None, settings: ClipSettings) -> str:
    """All that an answer hangs on, the program among it, as a short text."""
    return stamp((stamp(track), stamp(seen), stamp(settings), _program()))


@lru_cache
def _program() -> str:
    """A short text that changes with what the program reckons with."""
    room = resources.files("keen_kettle.core")
    told = hashlib.blake2b(digest_size=16)
    for path in sorted(Path(str(room)).rglob("*")):
        if path.suffix in (".py", ".toml"):
            told.update(path.read_bytes())
    return told.hexdigest()
