"""What the helper processes do: look for plate and lifter, look through clips, solve, assess."""

from dataclasses import dataclass, replace

from keen_kettle.core.analysis import (
    AheadPictures,
    Answer,
    ClipSettings,
    ReaderPictures,
    Study,
    lift_shown,
    study,
)
from keen_kettle.core.clip import ClipIndex, ClipReader
from keen_kettle.core.content import load_teaching
from keen_kettle.core.lifts import Movement
from keen_kettle.core.plan import PlateSet, Session, SessionFacts, make_session
from keen_kettle.core.prescribe.complexes import (
    Complex,
    Composed,
    Wish,
    compose,
    obstacles_with,
    price_string,
)
from keen_kettle.core.track import BarTrack, PlateMark, Rim, marked_rim, propose_plate
from keen_kettle.core.track.body import (
    BodySeed,
    FollowedBar,
    Sightings,
    as_a_plate_is_lifted,
    find_body,
    why_no_model,
)
from keen_kettle.desk.work.tools import Stopped, Tell, Tools

__all__ = [
    "Compose",
    "FindRim",
    "LookForBody",
    "LookForPlate",
    "LookThrough",
    "Looked",
    "MakeSessions",
    "SessionRequest",
    "WorkOut",
]


@dataclass(frozen=True)
class LookForPlate:
    """Look for the near plate of the bar that moves."""

    index: ClipIndex

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> PlateMark | None:
        with ClipReader(self.index) as reader:
            seen_fit = () if why_no_model() else (as_a_plate_is_lifted(tools.net),)
            return propose_plate(ReaderPictures(reader), stopped, *seen_fit)


@dataclass(frozen=True)
class FindRim:
    """See whether the rim is found where the coach marked it."""

    index: ClipIndex
    mark: PlateMark

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Rim:
        return marked_rim(tools.picture(self.index, self.mark.frame), self.mark)


@dataclass(frozen=True)
class LookForBody:
    """Look for the lifter of a bar in a film; `seeds` are the coach's clicks."""

    index: ClipIndex
    bar: FollowedBar
    seeds: tuple[BodySeed, ...]

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Sightings:
        with ClipReader(self.index) as reader, AheadPictures(reader) as pictures:
            return find_body(pictures, tools.net(), self.bar, self.seeds, tell, stopped)


@dataclass(frozen=True)
class Looked:
    """What was found in a film: path and sightings, the settings as it shows them, its answer."""

    study: Study
    settings: ClipSettings
    answer: Answer


@dataclass(frozen=True)
class LookThrough:
    """Find plate, path and lifter in a film, which lift it shows, and what follows from them."""

    index: ClipIndex
    settings: ClipSettings

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Looked:
        with ClipReader(self.index) as reader, AheadPictures(reader) as pictures:
            net = tools.net if not why_no_model() else None
            found = study(pictures, net, self.settings.marks, self.settings.hand, tell, stopped)
        told = replace(self.settings, centre_px=self.index.centre_px)
        shown = lift_shown(found, told, tools.content())
        content = tools.content()
        return Looked(
            found, shown, tools.stages.answer(found.track, found.sightings, shown, content)
        )


@dataclass(frozen=True)
class Compose:
    """Find the best complex for a wish."""

    wish: Wish

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Composed:
        return compose(self.wish, load_teaching(), tools.content().qualities)


@dataclass(frozen=True)
class SessionRequest:
    """One athlete's session: facts, what the complex is to be for, and the load that is left."""

    facts: SessionFacts
    wish: Wish
    parts: tuple[Movement, ...]
    reps: tuple[int, ...]
    load_share: float = 1.0


@dataclass(frozen=True)
class MakeSessions:
    """The sessions of a group. An athlete who may not do the string that was chosen gets one of
    their own; without `parts` nobody does a complex."""

    requests: tuple[SessionRequest, ...]
    minutes: int
    plates: PlateSet

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> list[Session]:
        made = []
        for number, one in enumerate(self.requests):
            if stopped():
                break
            tell(number / len(self.requests))
            made.append(self._session(one, tools))
        return made

    def _session(self, one: SessionRequest, tools: Tools) -> Session:
        content, teaching = tools.content(), load_teaching()
        string = self._complex(one, tools) if one.parts else None
        return make_session(
            *(one.facts, one.wish.lift, string, self.minutes, self.plates, content, teaching),
            load_share=one.load_share,
        )

    def _complex(self, one: SessionRequest, tools: Tools) -> Complex | None:
        teaching = load_teaching()
        movements, person = one.parts, one.facts.person
        shut = any(
            other.kind != "untested"
            for movement in movements
            for other in obstacles_with(movement, movements[0].implement, person, teaching)
        )
        if not shut:
            return price_string(movements, one.reps, one.wish.wanted)
        return compose(one.wish, teaching, tools.content().qualities).best


@dataclass(frozen=True)
class WorkOut:
    """From a path and what was seen of the lifter to landmarks, measures and findings.

    `mark` is the first mark while it is being drawn (and the film it is drawn on): the plate is as drawn,
    its rim is looked for when it is let go. `place` is a point of the path while it is dragged (frame, x, y); `quick` goes before the last thousandth.
    """

    track: BarTrack
    seen: Sightings | None
    settings: ClipSettings
    mark: tuple[ClipIndex, PlateMark] | None = None
    place: tuple[int, float, float] | None = None
    quick: bool = False

    def run(self, tools: Tools, tell: Tell, stopped: Stopped) -> Answer:
        track = self.track
        if self.mark is not None:
            index, mark = self.mark
            drawn = replace(mark, exact=True)
            track = replace(track, rim=marked_rim(tools.picture(index, mark.frame), drawn))
        if self.place is not None:
            track = track.bent(*self.place)
        return tools.stages.answer(track, self.seen, self.settings, tools.content(), self.quick)
