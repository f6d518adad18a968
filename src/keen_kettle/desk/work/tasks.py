"""What the helper processes do: look for plate and lifter, look through clips, solve, assess."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from keen_kettle.core.analysis import (
    AheadPictures,
    Assessment,
    ClipSettings,
    ReaderPictures,
    Study,
    assess,
    lift_shown,
    study,
)
from keen_kettle.core.clip import ClipIndex, ClipReader
from keen_kettle.core.track import BarTrack, PlateMark, Rim, propose_plate, rim_of
from keen_kettle.core.track.body import (
    BodyHand,
    BodySeed,
    BodyTrack,
    Sightings,
    find_body,
    solve_body,
    why_no_model,
)
from keen_kettle.desk.work.worker_process import Stopped, Tell, Tools

__all__ = ["Assess", "FindRim", "LookForBody", "LookForPlate", "LookThrough", "SolveBody"]


@dataclass(frozen=True)
class LookForPlate:
    """Look for the near plate of the bar that moves."""

    index: ClipIndex

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> PlateMark | None:
        with ClipReader(self.index) as reader:
            return propose_plate(ReaderPictures(reader), stopped)


@dataclass(frozen=True)
class FindRim:
    """See whether the rim is found where the coach marked it."""

    index: ClipIndex
    mark: PlateMark

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Rim:
        with ClipReader(self.index, cache_bytes=1) as reader:
            return rim_of(reader.frame(self.mark.frame).bgr(), self.mark)[0]


@dataclass(frozen=True)
class LookForBody:
    """Look for the lifter in a film.

    `bar_px` (frames, 2) is where the bar is, `seeds` are the coach's clicks.
    """

    index: ClipIndex
    bar_px: np.ndarray[Any, np.dtype[np.float64]]
    seeds: tuple[BodySeed, ...]

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Sightings:
        with ClipReader(self.index) as reader, AheadPictures(reader) as pictures:
            return find_body(pictures, tools.net(), self.bar_px, self.seeds, tell, stopped)


@dataclass(frozen=True)
class LookThrough:
    """Find plate, path and lifter in a film, and which lift it shows; gives (Study, settings)."""

    index: ClipIndex
    settings: ClipSettings

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> tuple[Study, ClipSettings]:
        with ClipReader(self.index) as reader, AheadPictures(reader) as pictures:
            net = tools.net if not why_no_model() else None
            found = study(pictures, net, self.settings.marks, self.settings.hand, tell, stopped)
        told = replace(self.settings, centre_px=self.index.centre_px)
        return found, lift_shown(found, told, tools.content())


@dataclass(frozen=True)
class SolveBody:
    """The lifter's points in every frame, from what was seen and what the hand has set."""

    track: BarTrack
    facing: str
    seen: Sightings | None
    hand: BodyHand
    with_plate: bool

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> BodyTrack | None:
        times = self.track.t_s
        return solve_body(times, self.facing, self.seen, self.hand, self.track, self.with_plate)


@dataclass(frozen=True)
class Assess:
    """Everything that follows from a path and, where it is known, the body."""

    track: BarTrack
    settings: ClipSettings
    body: BodyTrack | None

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Assessment:
        return assess(self.track, self.settings, tools.content(), self.body)
