"""Everything that follows from a track and the coach's settings; quick, so it is never stored."""

from dataclasses import dataclass, field, replace

import numpy as np

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
    HandEvent,
    Measure,
    Rep,
    add_body_events,
    bar_measures,
    bar_motion,
    body_measures,
    body_motion,
    family_is_read,
    film_clock,
    in_diameters,
    jerk_measures,
    read_lift,
    repeated_share,
    split_reps,
    with_hand_events,
    without_times,
)
from keen_kettle.core.track import (
    THINGS,
    BarTrack,
    HandWork,
    PlateMark,
    Scale,
    State,
    Vertical,
    scale_from_points,
    scale_from_rim,
    scale_unknown,
    vertical_along,
)
from keen_kettle.core.track.body import BodyHand, BodyTrack, PointState

__all__ = [
    "Assessment",
    "ClipSettings",
    "assess",
    "clip_facts",
    "rep_measures",
    "scale_of",
    "vertical_of",
]


UNKNOWN_SCALE = "this clip has no scale"
WORTH_SAYING_DEG = 1.0
BARELY_M = 0.13
"""A bar that is tipped or rolled while setting up rises so little (9 cm was seen); only a shrug does too,
and the faults of pulls are not those of shrugs. House default."""
UNTRUE_TIMES = "the film repeats its pictures, so its times are not the lift's"


@dataclass(frozen=True)
class ClipSettings:
    """What the coach says about a clip.

    `steady` takes the camera's own movement out; `capture_fps` is at how many pictures a second
    it was filmed, where that is not what the film says; `rep` is the repetition that is judged,
    from 0 (None: the one of which most is seen). `scale_by` is "plate" (by its diameter), "points" (two points: x, y, x, y in pixels and
    their distance in mm) or "none". `thing` is what is followed. `events` are those moved by hand. `centre_px` is the picture's middle. `upright`
    is a line along something that stands upright (x, y, x, y in pixels), where the coach drew one.
    """

    derivative: Derivative
    facing: str = "right"
    diameter_mm: float = 450.0
    mass_kg: float | None = None
    stature_m: float | None = None
    cutoff_hz: float | None = None
    steady: bool = True
    capture_fps: float | None = None
    rep: int | None = None
    marks: tuple[PlateMark, ...] = ()
    thing: str = "plate"
    hand: HandWork = field(default_factory=HandWork)
    scale_by: str = "plate"
    scale_points: tuple[float, ...] | None = None
    upright: tuple[float, ...] | None = None
    events: tuple[HandEvent, ...] = ()
    body_hand: BodyHand = field(default_factory=BodyHand)
    centre_px: tuple[float, float] | None = None


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


def assess(
    track: BarTrack, settings: ClipSettings, content: Content, body: BodyTrack | None = None
) -> Assessment:
    """Scale, movement, events, measures, findings, praise and cause of a tracked clip.

    Without `body` everything comes from the bar alone, and measures of the body say so.
    """
    scale = scale_of(track, settings)
    clock = film_clock(track, settings.capture_fps)
    track = replace(track, t_s=clock.t_s, vertical=vertical_of(track, settings))
    motion = bar_motion(track, scale, settings.facing, settings.cutoff_hz, settings.steady)
    motion = replace(motion, even=clock.even)
    moving = None
    if body is not None:
        on_floor = settings.derivative.support == "floor" and _radius_m(settings) is not None
        moving = body_motion(
            body,
            track,
            scale,
            settings.facing,
            settings.steady,
            settings.centre_px,
            on_floor,
            settings.stature_m,
        )
    reps = tuple(
        replace(rep, events=_events(rep, motion, moving, settings))
        for rep in split_reps(motion, settings.derivative)
    )
    number = _chosen(reps, settings.rep)
    events = reps[number].events if reps else {}
    barely = _barely(reps, number, motion, settings.derivative)
    measures = rep_measures(motion, clock, events, settings, moving)
    family = settings.derivative.family
    true = {name: one for name, one in measures.items() if one.unit != IN_DIAMETERS}
    if barely is not None:
        true = {}
    findings = judge(true, family, content, track.confidence)
    return Assessment(
        scale,
        motion,
        events,
        measures,
        tuple(findings),
        tuple(praise(true, family, content, findings)),
        find_cause(findings, content, _judged(true, family, content)),
        tuple(
            _notes(track, scale, events, settings, clock)
            + _rep_notes(reps, number, barely)
            + _body_notes(body, events)
        ),
        clock,
        reps,
        number,
        moving,
        read_lift(settings.derivative, events, motion, moving, _radius_m(settings)),
        family_is_read(settings.derivative, events, motion, moving, _radius_m(settings)),
        barely,
    )


def _chosen(reps: tuple[Rep, ...], wanted: int | None) -> int:
    """The repetition that is judged: the wanted one, else the first of those with most events."""
    if wanted is not None or not reps:
        return min(max(wanted or 0, 0), max(len(reps) - 1, 0))
    return max(range(len(reps)), key=lambda number: (len(reps[number].events), -number))


def _radius_m(settings: ClipSettings) -> float | None:
    """Half the true diameter of the plate, if it is one that is followed, and lengths are true."""
    plate = settings.thing in ("plate", "second") and settings.scale_by != "none"
    return settings.diameter_mm / 2000 if plate else None


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


def scale_of(track: BarTrack, settings: ClipSettings) -> Scale:
    """The scale in the way that the coach has chosen."""
    if settings.scale_by == "none":
        return scale_unknown(track.rim)
    if settings.scale_by == "points" and settings.scale_points is not None:
        return scale_from_points(track.rim, settings.scale_points)
    return scale_from_rim(track.rim, settings.diameter_mm)


def vertical_of(track: BarTrack, settings: ClipSettings) -> Vertical:
    """The vertical: along the coach's line, or as it was found."""
    if settings.upright is None:
        return track.vertical
    return vertical_along(settings.upright, held=track.camera_moved_px > 0)


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
    return without_times(measures, clock, UNTRUE_TIMES)


def _barely(
    reps: tuple[Rep, ...], number: int, motion: BarMotion, derivative: Derivative
) -> float | None:
    """How far the bar rises (m) where that is too little for the lift: was it only moved?"""
    if not reps or derivative.family == "jerk":
        return None
    heights = motion.y_m[reps[number].first : reps[number].last + 1]
    rise = float(np.nanmax(heights) - np.nanmin(heights))
    return rise if rise < BARELY_M else None


def _rep_notes(reps: tuple[Rep, ...], number: int, barely: float | None) -> list[str]:
    notes = []
    if barely is not None:
        notes.append(
            f"The bar rises by {100 * barely:.0f} cm only, too little to be judged as this lift. Was it "
            "merely tipped or moved while setting up? Then choose a clip with the lift itself."
        )
    if reps and reps[number].received is False:
        notes.append("The bar came back to where it began: this lift was not received.")
    return notes


def _notes(
    track: BarTrack,
    scale: Scale,
    events: dict[str, Event],
    settings: ClipSettings,
    clock: Clock,
) -> list[str]:
    notes = []
    lost = np.flatnonzero(track.state == State.LOST)
    if len(lost):
        first = int(lost[0])
        notes.append(
            f"The bar is lost in {len(lost)} of {len(track)} frames, first in frame {first}. "
            "Go there (N): set the bar by hand, bridge the stretch (J), or mark the plate again."
        )
    if not events:
        notes.append(
            "No lift was found: its start is not seen, or the bar does not rise far and fast enough "
            "while it is followed. "
            "Check the mark, or choose a clip with a whole lift."
        )
    elif "peak_height" not in events:
        notes.append("The clip, or the followed part of it, ends before the bar's highest point.")
    if events and not {"lift_off", "dip_bottom"} & set(events):
        notes.append(
            "The clip, or the followed part of it, begins in the pull: what is counted from lift-off is "
            "left out, and the rest is given."
        )
    notes += _hand_notes(track, settings)
    if settings.scale_by == "none":
        notes.append(
            "This clip has no scale: lengths are given in plate diameters, and speed, power and force "
            "are not given. Say what the plate measures, or set two points, to get them."
        )
    elif settings.scale_by == "points":
        notes.append(
            "The scale rests on two points; it holds if they lie as far from the camera as the bar."
        )
    elif not scale.rim_found:
        notes.append(
            "The plate's rim was not clear, so the scale rests on your mark (3 % uncertain)."
        )
    if scale.view_angle_deg > 20:
        notes.append(
            f"The plate looks turned by about {scale.view_angle_deg:.0f}°: forward and rearward "
            "distances come out too short. Film at right angles to the bar."
        )
    notes += _camera_notes(track, scale, settings) + _vertical_notes(track, settings)
    if not clock.trusted or not clock.even:
        notes.append(_untrue_times(track, clock))
    elif clock.slowed > 1.05:
        notes.append(f"The film runs {clock.slowed:.1f} times slower than life; that is taken out.")
    steps = np.diff(track.t_s[track.seen]) if track.seen.sum() > 2 else np.diff(track.t_s)
    if float(np.median(steps)) > 1 / 28:
        notes.append(
            "Fewer than 28 frames a second: quick events are known to about one frame only."
        )
    return notes


def _untrue_times(track: BarTrack, clock: Clock) -> str:
    """What repeated pictures leave standing and what they take away."""
    share = f"{100 * repeated_share(track):.0f} % of the frames repeat the one before"
    if not clock.even:
        return (
            f"{share}, unevenly: pictures were held or dropped. Heights, order and angles hold; "
            "speeds, their ratios, times and power are left out."
        )
    return (
        f"{share}: slow motion made by repeating. Heights, order, angles and ratios of speeds hold; "
        "speed, time and power are left out. If you know at how many frames a second it was filmed, "
        "say so in the set-up."
    )


def _hand_notes(track: BarTrack, settings: ClipSettings) -> list[str]:
    """What to know about the thing that is followed, its cuts and its bridges."""
    notes = []
    if settings.thing == "cap":
        notes.append(
            "The path is the sleeve cap's, not the bar's middle: seen from aside it moves against the "
            "plate's centre by up to 9 cm in a lift."
        )
    elif settings.thing != "plate":
        notes.append(f"The path is that of the {THINGS[settings.thing]}.")
    notes += [
        f"The film is cut at frame {cut}: the path ends there. Mark the plate after it to go on."
        for cut in track.cuts
    ]
    again = _found_again(track)
    if again is not None:
        notes.append(
            f"From frame {again} on the bar was found again after it was lost. If it is the right one, "
            "say so there (Y)."
        )
    bridged = int(np.sum(track.state == State.BRIDGED))
    if bridged:
        notes.append(f"{bridged} frames are bridged by you: a smooth curve, not seen.")
    return notes


def _found_again(track: BarTrack) -> int | None:
    """The first frame of a doubtful stretch that follows a lost one."""
    lost, doubt = track.state == State.LOST, track.state == State.CHECK
    begins = np.flatnonzero(lost[:-1] & doubt[1:]) + 1
    return int(begins[0]) if len(begins) and doubt[begins[0] : begins[0] + 10].all() else None


def _body_notes(body: BodyTrack | None, events: dict[str, Event]) -> list[str]:
    """What to know about the lifter's landmarks."""
    if body is None:
        return []
    if not body.side_on:
        return [
            "The lifter is not seen from the side, so angles and distances of the body are not measured. "
            "Film at right angles to the bar for them."
        ]
    frames = [event.frame for event in events.values()]
    legs = body.state[frames][:, :5] if frames else np.zeros((0, 5))
    if len(legs) and float(np.mean(legs == PointState.ASSUMED)) > 0.5:
        return [
            "The plate hides the legs for much of the lift: points that are drawn hollow are assumed from "
            "what is seen before and after."
        ]
    return []


def _camera_notes(track: BarTrack, scale: Scale, settings: ClipSettings) -> list[str]:
    moved_cm = 100 * track.camera_moved_px * scale.m_per_px
    if not track.camera_known:
        return [
            "Whether the camera moved cannot be told: too little of the hall is seen beside the lifter, or "
            "it is too dark. If it was held in the hand, distances and speeds are less sure than they say. "
            "Stand the phone on something, farther away."
        ]
    if moved_cm <= 0:
        return []
    if settings.steady:
        return [
            f"The camera moved by up to {moved_cm:.0f} cm as seen at the bar; that is taken out. "
            "Stand the phone on something next time."
        ]
    return [
        f"The camera moved by up to {moved_cm:.0f} cm as seen at the bar, and that is left in: "
        "the path is that much off. Switch the steadying on in the set-up."
    ]


def _vertical_notes(track: BarTrack, settings: ClipSettings) -> list[str]:
    """What to know about the vertical against which forward and rearward are read."""
    vertical = track.vertical
    if not vertical.found:
        return [
            "Nothing upright is seen beside the lifter, so it is not known how far the camera hung "
            f"askew (taken as up to {vertical.sigma_deg:.1f}°): forward distances are that unsure. "
            "Draw a line along something that stands upright (Shift+U), or film with a post, a door or a "
            "rack in the picture."
        ]
    if abs(vertical.lean_deg) < WORTH_SAYING_DEG:
        return []
    by = "by your line" if settings.upright is not None else "seen by what stands upright"
    return [f"The camera hung {abs(vertical.lean_deg):.1f}° askew, {by}; that is taken out."]


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
