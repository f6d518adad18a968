"""Everything that follows from a track and the coach's settings; quick, so it is never stored."""

from dataclasses import dataclass, replace

import numpy as np

from keen_kettle.core.analysis.notes import body_notes, clip_notes, rep_notes
from keen_kettle.core.analysis.settings import ClipSettings, radius_m, scale_of, vertical_of
from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.content import Content
from keen_kettle.core.faults import (
    Diagnosis,
    Finding,
    Praise,
    find_cause,
    judge,
    judged_faults,
    praise,
)
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion import (
    IN_DIAMETERS,
    BarMotion,
    BodyMotion,
    Clock,
    Event,
    Measure,
    Rep,
    add_body_events,
    bar_measures,
    bar_motion,
    bar_pace,
    body_measures,
    body_motion,
    family_is_read,
    film_clock,
    in_diameters,
    jerk_measures,
    pause_on_the_way,
    read_lift,
    split_reps,
    with_hand_events,
    without_times,
)
from keen_kettle.core.track import BarTrack, Scale
from keen_kettle.core.track.body import BodyTrack

__all__ = [
    "Assessment",
    "BarMoves",
    "assess",
    "bar_moves",
    "body_moves",
    "clip_facts",
    "judge_moves",
    "rep_measures",
]


UNKNOWN_SCALE = "this clip has no scale"
BARELY_M = 0.13
"""A bar that is tipped or rolled while setting up rises so little (9 cm was seen); only a shrug does too,
and the faults of pulls are not those of shrugs. House default."""
UNTRUE_TIMES = "the film repeats its pictures, so its times are not the lift's"
SLOW_TIMES = "the film seems to be slow motion, so its times are not the lift's"


@dataclass(frozen=True)
class Assessment:
    """The answer for one clip. `notes` say in plain words what to be careful with; `lift_seen` is the
    derivative that the clip shows, where that is surely another than the stated one; `family_read`:
    the clip itself tells the family; `barely` is how far the bar rises (m) where that is too little."""

    scale: Scale
    motion: BarMotion
    events: dict[str, Event]
    measures: dict[str, Measure]
    findings: tuple[Finding, ...]
    praise: tuple[Praise, ...]
    diagnosis: Diagnosis | None
    notes: tuple[str, ...]
    clock: Clock
    reps: tuple[Rep, ...]
    rep: int
    body: BodyMotion | None = None
    lift_seen: Derivative | None = None
    family_read: bool = False
    barely: float | None = None

    @property
    def judged(self) -> bool:
        """Whether a lift was found and its pull could be measured."""
        return "peak_velocity" in self.events

    def span_at(self, frame: int) -> slice:
        """The frames of the repetition round a frame; all of them where there is at most one."""
        whole = slice(0, len(self.motion.t_s))
        if len(self.reps) < 2:
            return whole
        spans = (slice(one.first, one.last + 1) for one in self.reps)
        return next((span for span in spans if span.start <= frame < span.stop), whole)


@dataclass(frozen=True)
class BarMoves:
    """What follows from the path alone: scale, times, and the bar in metres. `track` has the lift's own
    times and the vertical that holds."""

    track: BarTrack
    scale: Scale
    clock: Clock
    motion: BarMotion


def assess(
    track: BarTrack,
    settings: ClipSettings,
    content: Content,
    body: BodyTrack | None = None,
) -> Assessment:
    """Scale, movement, events, measures, findings, praise and cause of a tracked clip.

    Without `body` everything comes from the bar alone, and measures of the body say so.
    """
    moves = bar_moves(track, settings)
    return judge_moves(moves, body, body_moves(moves, body, settings), settings, content)


def bar_moves(track: BarTrack, settings: ClipSettings) -> BarMoves:
    """The bar in metres and seconds, as the settings have it."""
    moves = _timed(track, settings, film_clock(track, settings.capture_fps))
    if settings.capture_fps is not None or settings.scale_by == "none":
        return moves
    pace = bar_pace(moves.motion, settings.derivative)
    return moves if pace == 1 else _timed(track, settings, moves.clock.at_pace(pace))


def _timed(track: BarTrack, settings: ClipSettings, clock: Clock) -> BarMoves:
    scale = scale_of(track, settings)
    track = replace(track, t_s=clock.t_s, vertical=vertical_of(track, settings))
    motion = bar_motion(track, scale, settings.facing, settings.cutoff_hz, settings.steady)
    return BarMoves(track, scale, clock, replace(motion, even=clock.even))


def body_moves(
    moves: BarMoves, body: BodyTrack | None, settings: ClipSettings
) -> BodyMotion | None:
    """The lifter's landmarks in the bar's axes; None where they are not known."""
    if body is None:
        return None
    return body_motion(
        body,
        moves.track,
        moves.scale,
        settings.facing,
        settings.steady,
        settings.centre_px,
        on_floor=settings.derivative.support == "floor" and radius_m(settings) is not None,
        stature_m=settings.stature_m,
    )


def judge_moves(
    moves: BarMoves,
    body: BodyTrack | None,
    moving: BodyMotion | None,
    settings: ClipSettings,
    content: Content,
) -> Assessment:
    """Repetitions, events, measures and findings of bar and lifter; `moving` is `body` in metres."""
    motion, clock, derivative = moves.motion, moves.clock, settings.derivative
    reps = tuple(
        replace(rep, events=_events(rep, motion, moving, settings))
        for rep in split_reps(motion, derivative)
    )
    number = _chosen(reps, settings.rep)
    events = reps[number].events if reps else {}
    barely, pause = _barely(reps, number, motion, derivative), pause_on_the_way(motion, events)
    measures = rep_measures(motion, clock, events, settings, moving)
    family = derivative.family
    true = {name: one for name, one in measures.items() if one.unit != IN_DIAMETERS}
    if barely is not None:
        true = {}
    findings = judge(true, family, content, moves.track.confidence)
    notes = clip_notes(moves.track, moves.scale, events, settings, clock)
    seen = (derivative, events, motion, moving, radius_m(settings))
    return Assessment(
        scale=moves.scale,
        motion=motion,
        events=events,
        measures=measures,
        findings=tuple(findings),
        praise=tuple(praise(true, family, content, findings)),
        diagnosis=find_cause(findings, content, _judged(true, family, content)),
        notes=(
            *notes,
            *rep_notes(reps, number, barely, pause),
            *body_notes(body, events),
        ),
        clock=clock,
        reps=reps,
        rep=number,
        body=moving,
        lift_seen=read_lift(*seen),
        family_read=family_is_read(*seen),
        barely=barely,
    )


def _chosen(reps: tuple[Rep, ...], wanted: int | None) -> int:
    """The repetition that is judged: the wanted one, else the first of those with most events."""
    if wanted is not None or not reps:
        return min(max(wanted or 0, 0), max(len(reps) - 1, 0))
    return max(range(len(reps)), key=lambda number: (len(reps[number].events), -number))


def _judged(measures: dict[str, Measure], family: str, content: Content) -> frozenset[str]:
    """The faults for which this clip gives at least one firm measure."""
    firm = {name: one for name, one in measures.items() if not one.assumed}
    return frozenset(fault.id for fault in judged_faults(firm, family, content))


def _events(
    rep: Rep, motion: BarMotion, body: BodyMotion | None, settings: ClipSettings
) -> dict[str, Event]:
    """A repetition's events: of the bar, of the body, and as the coach has moved them."""
    jerk = settings.derivative.family == "jerk"
    bounds = rep.first, rep.last
    events = with_hand_events(rep.events, settings.events, motion.t_s, *bounds)
    if body is None:
        return events
    # Those of the body are looked for round the others, and then give way to the coach's again.
    events = add_body_events(events, motion, body, jerk)
    return with_hand_events(events, settings.events, motion.t_s, *bounds)


def rep_measures(
    motion: BarMotion,
    clock: Clock,
    events: dict[str, Event],
    settings: ClipSettings,
    body: BodyMotion | None = None,
) -> dict[str, Measure]:
    """The measures of one repetition; without those in true times where these are not known."""
    measures = bar_measures(
        motion,
        events,
        settings.derivative,
        settings.mass_kg,
        settings.stature_m,
        settings.diameter_mm / 1000,
        from_plate=settings.thing in ("plate", "second"),
    )
    if settings.derivative.family == "jerk":
        measures |= jerk_measures(motion, events, settings.stature_m)
    measures |= body_measures(motion, body, events, settings.derivative)
    if settings.scale_by == "none":
        measures = in_diameters(measures, UNKNOWN_SCALE)
    return without_times(measures, clock, SLOW_TIMES if clock.hangs > 1 else UNTRUE_TIMES)


def _barely(
    reps: tuple[Rep, ...], number: int, motion: BarMotion, derivative: Derivative
) -> float | None:
    """How far the bar rises (m) where that is too little for the lift: was it only moved?"""
    if not reps or derivative.family == "jerk":
        return None
    heights = motion.y_m[reps[number].first : reps[number].last + 1]
    rise = float(np.nanmax(heights) - np.nanmin(heights))
    return rise if rise < BARELY_M else None


def clip_facts(index: ClipIndex) -> dict[str, object]:
    """What is known about the film itself, as plain JSON values."""
    return {
        "file": index.path.name,
        "codec": index.codec,
        "width_px": index.width_px,
        "height_px": index.height_px,
        "rotation_deg": index.rotation_deg,
        "frames": len(index),
        "duration_s": round(index.duration_s, 4),
        "frame_s": round(index.frame_s, 6),
        "uneven_share": round(index.uneven_share, 4),
    }
