"""Everything that follows from a track and the coach's settings; quick, so it is never stored."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.clip import ClipIndex, ClipReader
from keen_kettle.core.content import Content
from keen_kettle.core.faults import Diagnosis, Finding, Praise, find_cause, judge, praise
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion import (
    BarMotion,
    Event,
    Measure,
    bar_measures,
    bar_motion,
    find_events,
)
from keen_kettle.core.track import BarTrack, PlateMark, Scale, State, scale_from_rim

__all__ = ["Assessment", "ClipSettings", "ReaderPictures", "assess"]


@dataclass(frozen=True)
class ClipSettings:
    """What the coach says about a clip."""

    derivative: Derivative
    facing: str = "right"
    diameter_mm: float = 450.0
    mass_kg: float | None = None
    stature_m: float | None = None
    cutoff_hz: float | None = None
    marks: tuple[PlateMark, ...] = ()


@dataclass(frozen=True)
class Assessment:
    """The answer for one clip. `notes` say in plain words what to be careful with."""

    scale: Scale
    motion: BarMotion
    events: dict[str, Event]
    measures: dict[str, Measure]
    findings: tuple[Finding, ...]
    praise: tuple[Praise, ...]
    diagnosis: Diagnosis | None
    notes: tuple[str, ...]

    @property
    def judged(self) -> bool:
        """Whether a lift was found and its pull could be measured."""
        return "peak_velocity" in self.events


class ReaderPictures:
    """A clip reader as the tracker wants it."""

    def __init__(self, reader: ClipReader) -> None:
        self._reader = reader

    @property
    def t_s(self) -> NDArray[np.float64]:
        return self._reader.index.t_s

    def bgr(self, number: int) -> NDArray[np.uint8]:
        return self._reader.frame(number).bgr()


def assess(track: BarTrack, settings: ClipSettings, content: Content) -> Assessment:
    """Scale, movement, events, measures, findings, praise and cause of a tracked clip."""
    scale = scale_from_rim(track.rim, settings.diameter_mm)
    motion = bar_motion(track, scale, settings.facing, settings.cutoff_hz)
    events = find_events(motion, settings.derivative)
    measures = bar_measures(
        motion,
        events,
        settings.derivative,
        settings.mass_kg,
        settings.stature_m,
        settings.diameter_mm / 1000,
    )
    family = settings.derivative.family
    findings = judge(measures, family, content, track.confidence)
    return Assessment(
        scale,
        motion,
        events,
        measures,
        tuple(findings),
        tuple(praise(measures, family, content, findings)),
        find_cause(findings, content),
        tuple(_notes(track, scale, events)),
    )


def _notes(track: BarTrack, scale: Scale, events: dict[str, Event]) -> list[str]:
    notes = []
    lost = np.flatnonzero(track.state == State.LOST)
    if len(lost):
        first = int(lost[0])
        notes.append(
            f"The bar is lost in {len(lost)} of {len(track)} frames, first in frame {first}. "
            "Go there and mark the plate again to close the gap."
        )
    if not events:
        notes.append(
            "No lift was found: the bar does not rise far and fast enough while it is followed. "
            "Check the mark, or choose a clip with a whole lift."
        )
    elif "peak_height" not in events:
        notes.append("The clip, or the followed part of it, ends before the bar's highest point.")
    if not scale.rim_found:
        notes.append(
            "The plate's rim was not clear, so the scale rests on your mark (3 % uncertain)."
        )
    if scale.view_angle_deg > 20:
        notes.append(
            f"The plate looks turned by about {scale.view_angle_deg:.0f}°: forward and rearward "
            "distances come out too short. Film at right angles to the bar."
        )
    repeated = track.share(State.REPEATED)
    if repeated > 0.2 and events:
        notes.append(
            f"{100 * repeated:.0f} % of the frames repeat the one before; speed and power may be wrong."
        )
    steps = np.diff(track.t_s)
    if float(np.median(steps)) > 1 / 28:
        notes.append(
            "Fewer than 28 frames a second: quick events are known to about one frame only."
        )
    return notes


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
