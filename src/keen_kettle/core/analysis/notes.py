"""What to be careful with in an answer, in plain words."""

import numpy as np

from keen_kettle.core.analysis.settings import ClipSettings
from keen_kettle.core.motion import Clock, Event, Pause, Rep, repeated_share
from keen_kettle.core.track import THINGS, BarTrack, Rim, Scale, State
from keen_kettle.core.track.body import BodyTrack, PointState

__all__ = ["body_notes", "clip_notes", "rep_notes"]

WORTH_SAYING_DEG = 1.0


def rep_notes(
    reps: tuple[Rep, ...], number: int, barely: float | None, pause: Pause | None
) -> list[str]:
    """What to know about the repetition that is judged."""
    notes = []
    if barely is not None:
        notes.append(
            f"The bar rises by {100 * barely:.0f} cm only, too little to be judged as this lift. If it was a "
            "shrug, its measures hold; if the bar was merely tipped or moved while setting up, choose a clip "
            "with the lift itself."
        )
    if pause is not None:
        notes.append(
            f"The bar is held for {pause.seconds:.1f} s, {100 * pause.height_m:.0f} cm up: a pause. How its "
            "speed changes from the first pull to the second is left out; the rest is given."
        )
    if reps and reps[number].received is False:
        notes.append("The bar came back to where it began: this lift was not received.")
    return notes


def clip_notes(
    track: BarTrack,
    scale: Scale,
    events: dict[str, Event],
    settings: ClipSettings,
    clock: Clock,
) -> list[str]:
    """What to know about film, path, scale, camera and times."""
    return [
        *_lift_notes(track, events, settings),
        *_hand_notes(track, settings),
        *_scale_notes(track.rim, scale, settings),
        *_camera_notes(track, scale, settings),
        *_vertical_notes(track, settings),
        *_time_notes(track, clock),
    ]


def _lift_notes(track: BarTrack, events: dict[str, Event], settings: ClipSettings) -> list[str]:
    """Whether the bar is followed throughout, and the lift is seen whole."""
    notes = []
    lost = np.flatnonzero(track.state == State.LOST)
    if len(lost):
        followed = int(np.sum(track.state != State.OUTSIDE))
        notes.append(
            f"The bar is lost in {len(lost)} of {followed} frames, first in frame {int(lost[0])}. "
            "Go there (N): set the bar by hand, bridge the stretch (J), or mark the plate again."
        )
    if not events:
        notes.append(
            "No lift was found: its start is not seen, or the bar does not rise far and fast enough "
            "while it is followed. "
            "Check the mark, or choose a clip with a whole lift."
        )
    elif "peak_velocity" not in events:
        notes.append(
            "The clip, or the followed part of it, ends while the bar still speeds up: the finish and what "
            "comes after it are left out, and the rest is given."
        )
    elif "peak_height" not in events:
        notes.append("The clip, or the followed part of it, ends before the bar's highest point.")
    elif settings.derivative.has_catch and "lowest" not in events:
        notes.append(
            "The clip, or the followed part of it, ends before the bar is received: catch and what comes "
            "after it are left out, and the rest is given."
        )
    if events and not {"lift_off", "dip_bottom"} & set(events):
        notes.append(
            "The clip, or the followed part of it, begins in the pull: what is counted from lift-off is "
            "left out, and the rest is given."
        )
    return notes


def _scale_notes(rim: Rim, scale: Scale, settings: ClipSettings) -> list[str]:
    """What the lengths rest on."""
    notes = []
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
    elif not rim.clear:
        notes.append(
            f"The plate's edge is known to {100 * scale.relative_sigma:.0f} % only, and so are lengths and "
            "speeds. Drag its ring to fit, or mark it on a frame where it is larger and sharp."
        )
    if scale.view_angle_deg > 20 and rim.width_by_height > 1:
        notes.append(
            f"The plate looks lower than wide: the camera looks down on it, or up, by about "
            f"{scale.view_angle_deg:.0f}°, and heights come out too short. Film at the height of the hips."
        )
    elif scale.view_angle_deg > 20:
        notes.append(
            f"The plate looks turned by about {scale.view_angle_deg:.0f}°: forward and rearward "
            "distances come out too short. Film at right angles to the bar."
        )
    return notes


def _time_notes(track: BarTrack, clock: Clock) -> list[str]:
    """Whether the film's times are the lift's, and how fine they are."""
    notes = []
    if not clock.trusted or not clock.even:
        notes.append(_untrue_times(track, clock))
    elif clock.slowed > 1.05:
        notes.append(f"The film runs {clock.slowed:.1f} times slower than life; that is taken out.")
    if clock.frozen_s:
        notes.append(
            f"Pictures are frozen for {clock.frozen_s:.1f} s while the bar moves; that is taken out of its "
            "times."
        )
    steps = np.diff(track.t_s[track.seen]) if track.seen.sum() > 2 else np.diff(track.t_s)
    if float(np.median(steps)) > 1 / 28:
        notes.append(
            "Fewer than 28 frames a second: quick events are known to about one frame only."
        )
    return notes


def _untrue_times(track: BarTrack, clock: Clock) -> str:
    """What repeated pictures leave standing and what they take away."""
    if clock.hangs > 1 and clock.even:
        return (
            f"The bar hangs in the air about {clock.hangs:.0f} times as long as a thrown one can: slow motion. "
            "Heights, order, angles and ratios of speeds hold; speed, time and power are left out. Say in the "
            "set-up, under “Filmed at”, how many frames a second the phone took (the film's own, if the lift "
            "was so gentle)."
        )
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
    if len(track.cuts):
        at = " and ".join(str(cut) for cut in track.cuts)
        notes.append(
            f"Another shot begins or ends at frame {at}: the path ends there, and what is shown beyond is "
            "left out. For another lift there, mark its plate there."
        )
    again = _found_again(track)
    if again is not None:
        notes.append(
            f"From frame {again} on the bar was found again after it was lost. If it is the right one, "
            "say so there (Y)."
        )
    bridged = int(np.sum(track.state == State.BRIDGED))
    if bridged:
        notes.append(f"{bridged} frames are bridged: a smooth curve, not seen.")
    return notes


def _found_again(track: BarTrack) -> int | None:
    """The first frame of a doubtful stretch that follows a lost one."""
    lost, doubt = track.state == State.LOST, track.state == State.CHECK
    begins = np.flatnonzero(lost[:-1] & doubt[1:]) + 1
    return int(begins[0]) if len(begins) and doubt[begins[0] : begins[0] + 10].all() else None


def body_notes(body: BodyTrack | None, events: dict[str, Event]) -> list[str]:
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
