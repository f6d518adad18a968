"""The clip check: what a clip is good for, and how to film it better next time.

Some of it is known from the file alone, when a clip is opened; the rest comes with the track. Every
row carries the value that it judges by. The limits are house figures.
"""

from dataclasses import dataclass

import numpy as np

from keen_kettle.core.analysis.assess import Assessment
from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.motion import repeated_share
from keen_kettle.core.track import BarTrack, State

__all__ = ["CheckRow", "ClipCheck", "check_clip"]

STATES = ("good", "fair", "poor")


@dataclass(frozen=True)
class CheckRow:
    """One thing that was checked; `advice` is how to film it better, empty when it is good."""

    id: str
    name: str
    state: str
    says: str
    value: float | None
    unit: str
    advice: str = ""


@dataclass(frozen=True)
class ClipCheck:
    """All rows, and what may be trusted: path, speed and view, each a state and a sentence."""

    rows: tuple[CheckRow, ...]
    trust: dict[str, tuple[str, str]]

    @property
    def advice(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(row.advice for row in self.rows if row.advice))

    def row(self, name: str) -> CheckRow | None:
        return next((one for one in self.rows if one.id == name), None)


def check_clip(
    index: ClipIndex, track: BarTrack | None = None, answer: Assessment | None = None
) -> ClipCheck:
    """Check a clip, as far as it is known: with the track and its answer, all of it."""
    rows = [_rate(index, track, answer), _times(index, track, answer), _resolution(index)]
    if track is not None and answer is not None:
        rows += [
            _view(answer),
            _size(track),
            _framing(index, track),
            _camera(track, answer),
            _contrast(track),
        ]
        blur = _blur(track, answer)
        rows += [blur] if blur is not None else []
    return ClipCheck(tuple(rows), _trust({row.id: row for row in rows}, answer))


def _graded(value: float, good: float, fair: float) -> str:
    """By two limits; they may run up (larger is better) or down."""
    if good >= fair:
        return "good" if value >= good else "fair" if value >= fair else "poor"
    return "good" if value <= good else "fair" if value <= fair else "poor"


def _row(
    name: tuple[str, str], state: str, says: str, value: float | None, unit: str, advice: str
) -> CheckRow:
    return CheckRow(*name, state, says, value, unit, "" if state == "good" else advice)


def _rate(index: ClipIndex, track: BarTrack | None, answer: Assessment | None) -> CheckRow:
    """Pictures that differ, a second of the lift."""
    rate = 1.0 / index.frame_s
    if track is not None and answer is not None:
        rate = 1.0 / answer.motion.frame_s
    return _row(
        ("rate", "Frames a second"),
        _graded(round(rate), 50, 28),
        f"{rate:.0f} a second",
        rate,
        "1/s",
        "Film at 60 frames a second or more, if the phone can.",
    )


def _times(index: ClipIndex, track: BarTrack | None, answer: Assessment | None) -> CheckRow:
    uneven = index.uneven_share
    repeated = repeated_share(track) if track is not None else 0.0
    state = max(_graded(repeated, 0.02, 0.2), _graded(uneven, 0.05, 0.5), key=STATES.index)
    parts = [f"{100 * uneven:.0f} % of the steps uneven"]
    if track is not None:
        parts.append(f"{100 * repeated:.0f} % of the frames repeated")
    if answer is not None and answer.clock.hangs > 1:
        state = "poor"
        parts.append(f"about {answer.clock.hangs:.0f} times slower than life")
    if index.leaps:
        state = "poor"
        parts.append(f"{index.leaps} impossible leap{'s' if index.leaps > 1 else ''} in the times")
    return _row(
        ("times", "True times"),
        state,
        ", ".join(parts),
        repeated if track is not None else uneven,
        "1",
        "Take the phone’s own file: slow motion or sending it through a messenger changes the times.",
    )


def _resolution(index: ClipIndex) -> CheckRow:
    lines = min(index.width_px, index.height_px)
    return _row(
        ("resolution", "Resolution"),
        _graded(lines, 700, 350),
        f"{index.width_px} × {index.height_px}",
        float(lines),
        "px",
        "Film at 720 lines or more, and take the file itself, not a preview.",
    )


def _view(answer: Assessment) -> CheckRow:
    scale = answer.scale
    if not scale.rim_found:
        return _row(
            ("view", "View"),
            "fair",
            "not known: the rim was not clear",
            None,
            "deg",
            "Film at right angles to the bar.",
        )
    return _row(
        ("view", "View"),
        _graded(scale.view_angle_deg, 17, 24),
        f"turned by about {scale.view_angle_deg:.0f}°",
        scale.view_angle_deg,
        "deg",
        "Film at right angles to the bar.",
    )


def _size(track: BarTrack) -> CheckRow:
    across = 2 * float(np.mean(track.rim.axes_px))
    return _row(
        ("plate", "Plate in the picture"),
        _graded(across, 80, 44),
        f"{across:.0f} pixels across",
        across,
        "px",
        "Film from 4 to 6 m, so that the lifter with the bar overhead fills the picture.",
    )


def _framing(index: ClipIndex, track: BarTrack) -> CheckRow:
    """The plate's room to the picture's edge, in radii; less than 0 is cut."""
    seen = np.isfinite(track.x_px)
    x, y, r = track.x_px[seen], track.y_px[seen], track.r_px[seen]
    edge = np.min([x, y, index.width_px - x, index.height_px - y], axis=0)
    room = float(np.min(edge / r - 1)) if len(r) else -1.0
    cut = float(np.mean(edge < r)) if len(r) else 1.0
    lost = track.share(State.LOST)
    state = "good" if room >= 0 and lost == 0 else "fair" if room > -0.6 and lost < 0.1 else "poor"
    says = (
        "whole all the way" if room >= 0 else f"cut by the edge in {100 * cut:.0f} % of the frames"
    )
    if lost:
        says += f", lost in {100 * lost:.0f} %"
    return _row(
        ("framing", "Plate whole"),
        state,
        says,
        room,
        "radii",
        "Keep the whole plate, the feet and the overhead bar in the picture.",
    )


def _camera(track: BarTrack, answer: Assessment) -> CheckRow:
    moved = track.camera_moved_px * answer.scale.m_per_px
    known = track.camera_known
    says = "still" if moved <= 0 else f"moved by {100 * moved:.0f} cm as seen at the bar"
    return _row(
        ("camera", "Camera"),
        _graded(moved, 0.01, 0.6) if known else "fair",
        says if known else "whether it moved cannot be told",
        moved if known else None,
        "m",
        "Stand the phone on a tripod or something steady.",
    )


def _contrast(track: BarTrack) -> CheckRow:
    return _row(
        ("contrast", "Plate against background"),
        _graded(track.contrast, 28, 12),
        f"{track.contrast:.0f} grey levels apart",
        track.contrast,
        "levels",
        "Light behind the camera, and a background that differs from the plate.",
    )


def _blur(track: BarTrack, answer: Assessment) -> CheckRow | None:
    """How much of its crispness the plate keeps at the fastest moment."""
    fastest = answer.events.get("peak_velocity")
    calm = track.sharp[np.abs(np.nan_to_num(answer.motion.vy_mps, nan=9.0)) < 0.15]
    if fastest is None or not np.isfinite(calm).any():
        return None
    near = track.sharp[max(fastest.frame - 2, 0) : fastest.frame + 3]
    if not np.isfinite(near).any():
        return None
    kept = float(np.nanmedian(near) / max(np.nanmedian(calm), 1e-9))
    return _row(
        ("blur", "Crispness at the fastest"),
        _graded(kept, 0.45, 0.2),
        f"{100 * min(kept, 1.0):.0f} % of that at rest",
        kept,
        "1",
        "More light, or a shorter shutter: the plate blurs where it is fastest.",
    )


def _trust(rows: dict[str, CheckRow], answer: Assessment | None) -> dict[str, tuple[str, str]]:
    def worst(*names: str) -> str:
        found = [rows[name].state for name in names if name in rows]
        return max(found, key=STATES.index) if found else "good"

    if answer is None:
        return {}
    path = worst("plate", "framing", "contrast")
    speed = "poor" if not answer.clock.trusted else worst("rate", "times", "blur", "plate")
    if answer.clock.slowed > 1.05 and answer.clock.trusted:
        speed = worst("rate", "blur", "plate")
    view = worst("view")
    words = {
        "path": {
            "good": "The path may be trusted.",
            "fair": "The path may be trusted in its main lines; look at its doubtful frames.",
            "poor": "The path is uncertain: check it against the film.",
        },
        "speed": {
            "good": "Speeds may be trusted.",
            "fair": "Speeds may be trusted within their uncertainty.",
            "poor": "Speeds are not to be trusted.",
        },
        "view": {
            "good": "Seen from the side: forward and rearward are true.",
            "fair": "Turned a little: forward and rearward come out somewhat short.",
            "poor": "Turned too far: forward and rearward come out too short.",
        },
    }
    states = {"path": path, "speed": speed, "view": view}
    return {name: (state, words[name][state]) for name, state in states.items()}
