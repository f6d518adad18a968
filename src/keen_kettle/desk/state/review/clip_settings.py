"""A clip's record as the settings that its answer is worked out with, and what that hangs on."""

from keen_kettle.core.analysis import ClipSettings
from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.store import Athlete, Clip

__all__ = ["settings_of", "track_origin"]


def settings_of(
    clip: Clip, athlete: Athlete | None, index: ClipIndex | None = None, rep: int | None = None
) -> ClipSettings:
    """What is known about a clip; `rep` is the repetition that is judged (None: the fullest)."""
    return ClipSettings(
        derivative=parse_filmed(clip.lift),
        facing=clip.facing,
        diameter_mm=clip.diameter_mm,
        mass_kg=clip.mass_kg,
        stature_m=athlete.stature_m if athlete is not None else None,
        steady=clip.steady,
        capture_fps=clip.capture_fps,
        rep=rep,
        marks=clip.marks,
        thing=clip.thing,
        hand=clip.hand,
        scale_by=clip.scale_by,
        scale_points=clip.scale_points,
        upright=clip.upright,
        events=clip.events,
        body_hand=clip.body,
        centre_px=index.centre_px if index is not None else None,
    )


def track_origin(clip: Clip) -> tuple[object, ...]:
    """What a clip's path hangs on."""
    return clip.thing, clip.marks, clip.hand
