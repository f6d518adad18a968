"""Looks through a clip with nobody at hand: finds the plate, follows the bar, looks for the lifter."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from keen_kettle.core.analysis.assess import assess
from keen_kettle.core.analysis.pictures import ReaderPictures
from keen_kettle.core.analysis.settings import ClipSettings
from keen_kettle.core.content import Content
from keen_kettle.core.errors import MarkError
from keen_kettle.core.track import BarTrack, HandWork, PlateMark, propose_plate, track_bar
from keen_kettle.core.track.body import (
    BodyHand,
    BodyTrack,
    FollowedBar,
    PoseNet,
    Sightings,
    as_a_plate_is_lifted,
    find_body,
    solve_body,
    why_no_model,
)

__all__ = ["Study", "lift_shown", "study"]

Progress = Callable[[float], None]
PROPOSING, TRACKING = 0.1, 0.3
"""Shares of the whole time that looking for the plate and following the bar take, roughly."""


@dataclass(frozen=True)
class Study:
    """What was found. Without `sightings`, `why_no_body` says why."""

    marks: tuple[PlateMark, ...]
    track: BarTrack
    sightings: Sightings | None
    why_no_body: str

    @property
    def facing(self) -> str | None:
        """Where the lifter looks, if that could be told."""
        return self.sightings.facing() if self.sightings is not None else None

    def body(self, facing: str, with_plate: bool = True) -> BodyTrack | None:
        """The lifter's landmarks, solved."""
        if self.sightings is None:
            return None
        return solve_body(
            self.track.t_s, facing, self.sightings, BodyHand(), self.track, with_plate
        )


def study(
    pictures: ReaderPictures,
    net: Callable[[], PoseNet] | None,
    marks: Sequence[PlateMark] = (),
    hand: HandWork | None = None,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Study:
    """Find the plate (unless it is marked), follow it, and look for the lifter.

    Parameters
    ----------
    net : gives the pose model; None leaves the body out

    Raises
    ------
    MarkError
        No plate was found that moves.
    Cancelled
    """
    why = "left out" if net is None else why_no_model()
    if not marks:
        seen_fit = () if net is None or why else (as_a_plate_is_lifted(net),)
        found = propose_plate(pictures, cancelled, *seen_fit)
        if found is None:
            raise MarkError(
                "No plate was found that moves in this clip. Mark the near plate by hand."
            )
        marks = (found,)
    progress(PROPOSING)
    track = track_bar(
        pictures,
        tuple(marks),
        _part(progress, PROPOSING, TRACKING),
        cancelled,
        hand=hand or HandWork(),
    )
    seen = None
    if net is not None and not why:
        begun = PROPOSING + TRACKING
        rest = _part(progress, begun, 1 - begun)
        seen = find_body(pictures, net(), FollowedBar.of(track), (), rest, cancelled)
    return Study(tuple(marks), track, seen, why)


def lift_shown(found: Study, settings: ClipSettings, content: Content) -> ClipSettings:
    """The settings with facing and derivative as the clip shows them, as far as it does."""
    facing = found.facing or settings.facing
    settings = replace(settings, facing=facing, marks=found.marks)
    body = found.body(facing, settings.thing in ("plate", "second"))
    for _again in range(2):  # another family finds other events, which may show more
        seen = assess(found.track, settings, content, body).lift_seen
        if seen is None:
            break
        settings = replace(settings, derivative=seen)
    return settings


def _part(progress: Progress, begin: float, share: float) -> Progress:
    return lambda done: progress(begin + share * done)
