"""The analysis as one versioned JSON document, and as CSV tables (docs/formats.md)."""

import csv
import io
import math
import os
import tempfile
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path

import numpy as np

from keen_kettle.core.analysis.assess import Assessment, clip_facts, rep_measures
from keen_kettle.core.analysis.check import ClipCheck, check_clip
from keen_kettle.core.analysis.drawn import drawing_rows, film_of
from keen_kettle.core.analysis.settings import ClipSettings, vertical_of
from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.content import Content
from keen_kettle.core.export.landmark_files import landmark_rows
from keen_kettle.core.faults import Finding
from keen_kettle.core.motion import Drawing, Event, Measure, Rep
from keen_kettle.core.track import STATES, TRACKER_VERSION, BarTrack
from keen_kettle.core.track.body import FINDER_VERSION, BodyTrack

__all__ = [
    "DOCUMENT_VERSION",
    "document",
    "measures_csv",
    "path_csv",
    "vars_of",
    "write_text_safely",
]

DOCUMENT_VERSION = 1


def document(
    index: ClipIndex,
    settings: ClipSettings,
    track: BarTrack,
    assessment: Assessment,
    version: str,
    body: BodyTrack | None = None,
    why_no_body: str = "",
    drawings: Sequence[Drawing] = (),
) -> dict[str, object]:
    """Everything about one clip as plain JSON values; `version` is the program's.

    `body` are the lifter's landmarks; without them `why_no_body` says why. `drawings` are given
    with what they measure on their own frames.
    """
    scale = assessment.scale
    return {
        "schema": "keen-kettle-analysis",
        "schema_version": DOCUMENT_VERSION,
        "program": {"version": version, "tracker_version": TRACKER_VERSION},
        "clip": {**clip_facts(index), "check": _check(check_clip(index, track, assessment))},
        "settings": _settings(settings, assessment),
        "scale": {
            "m_per_px": _number(scale.m_per_px, 8),
            "relative_sigma": _number(scale.relative_sigma, 5),
            "rim_found": scale.rim_found,
            "view_angle_deg": _number(scale.view_angle_deg, 1),
        },
        "camera": _camera(settings, track, assessment),
        "clock": {
            "slowed": _number(assessment.clock.slowed, 4),
            "hangs": _number(assessment.clock.hangs, 2),
            "trusted": assessment.clock.trusted,
            "frozen_s": _number(assessment.clock.frozen_s, 3),
            "even": assessment.clock.even,
        },
        "smoothing": {"cutoff_hz": assessment.motion.cutoff_hz},
        "bar": {"cuts": [int(cut) for cut in track.cuts], "points": _points(track, assessment)},
        "body": _body(body, why_no_body),
        "events": _events(assessment.events),
        "measures": _measures(assessment.measures),
        "rep": assessment.rep,
        "reps": [_rep(rep, settings, assessment) for rep in assessment.reps],
        "findings": [_finding(one, assessment) for one in assessment.findings],
        "praise": [
            {"measure": one.measure, "value": _number(one.value, 5), "frame": one.frame}
            for one in assessment.praise
        ],
        "drawings": drawing_rows(drawings, film_of(index, settings, track, body, assessment)),
        "notes": list(assessment.notes),
    }


def vars_of(mark: object) -> dict[str, object]:
    """A small dataclass as a plain dictionary."""
    return dict(vars(mark))


def _settings(settings: ClipSettings, assessment: Assessment) -> dict[str, object]:
    return {
        "lift": settings.derivative.name,
        "family_read": assessment.family_read,
        "lift_seen": assessment.lift_seen.name if assessment.lift_seen is not None else None,
        "facing": settings.facing,
        "diameter_mm": settings.diameter_mm,
        "mass_kg": settings.mass_kg,
        "stature_m": settings.stature_m,
        "steady": settings.steady,
        "capture_fps": settings.capture_fps,
        "thing": settings.thing,
        "scale_by": settings.scale_by,
        "scale_points": list(settings.scale_points) if settings.scale_points else None,
        "upright": list(settings.upright) if settings.upright else None,
        "marks": [vars_of(mark) for mark in settings.marks],
        "spans": [vars_of(span) for span in settings.hand.spans],
        "first_frame": settings.hand.first,
        "last_frame": settings.hand.last,
        "body_hand": asdict(settings.body_hand),
        "events_by_hand": [asdict(event) for event in settings.events],
    }


def _camera(settings: ClipSettings, track: BarTrack, assessment: Assessment) -> dict[str, object]:
    scale, vertical = assessment.scale, vertical_of(track, settings)
    return {
        "known": track.camera_known,
        "moved_m": _number(track.camera_moved_px * scale.m_per_px, 4),
        "taken_out": settings.steady and track.camera_moved_px > 0,
        "vertical": {
            "lean_deg": _number(vertical.lean_deg, 2),
            "sigma_deg": _number(vertical.sigma_deg, 2),
            "found": vertical.found,
            "by_hand": settings.upright is not None,
        },
    }


def _rep(rep: Rep, settings: ClipSettings, assessment: Assessment) -> dict[str, object]:
    return {
        "first_frame": rep.first,
        "last_frame": rep.last,
        "received": rep.received,
        "events": _events(rep.events),
        "measures": _measures(
            rep_measures(assessment.motion, assessment.clock, rep.events, settings, assessment.body)
        ),
    }


def _finding(finding: Finding, assessment: Assessment) -> dict[str, object]:
    return {
        "fault": finding.fault,
        "severity": _number(finding.severity, 3),
        "confidence": _number(finding.confidence, 3),
        "close": finding.close,
        "chief": assessment.diagnosis is not None and finding is assessment.diagnosis.chief,
        "evidence": [
            {
                "measure": one.measure,
                "value": _number(one.value, 5),
                "sigma": _number(one.sigma, 5),
                "threshold": one.threshold,
                "unit": one.unit,
                "frame": one.frame,
                "close": one.close,
            }
            for one in finding.evidence
        ],
    }


def _events(events: dict[str, Event]) -> list[dict[str, object]]:
    return [
        {
            "name": event.name,
            "frame": event.frame,
            "t_s": _number(event.t_s, 5),
            "sigma_s": _number(event.sigma_s, 5),
            "source": event.source,
        }
        for event in events.values()
    ]


def _measures(measures: dict[str, Measure]) -> dict[str, object]:
    return {
        name: {
            "value": _number(measure.value, 5),
            "sigma": _number(measure.sigma, 5),
            "unit": measure.unit,
            "frame": measure.frame,
            "assumed": measure.assumed,
            "why_missing": measure.why or None,
        }
        for name, measure in measures.items()
    }


def _body(body: BodyTrack | None, why: str) -> dict[str, object]:
    """The landmarks frame by frame, or why there are none."""
    if body is None:
        return {"known": False, "why": why or "not looked for", "frames": []}
    return {
        "known": True,
        "finder_version": FINDER_VERSION,
        "facing": body.facing,
        "side_on": body.side_on,
        "heel_rise_px": None
        if body.heel_px is None
        else [_number(float(rise), 2) for rise in body.heel_px],
        "frames": landmark_rows(body),
    }


def _check(check: ClipCheck) -> dict[str, object]:
    return {
        "rows": [
            {
                "id": row.id,
                "state": row.state,
                "says": row.says,
                "value": _number(row.value, 4),
                "unit": row.unit,
            }
            for row in check.rows
        ],
        "trust": {
            name: {"state": state, "says": says} for name, (state, says) in check.trust.items()
        },
        "advice": list(check.advice),
    }


def _points(track: BarTrack, assessment: Assessment) -> list[dict[str, object]]:
    x0, y0 = _origin(assessment)
    motion = assessment.motion
    return [
        {
            "frame": frame,
            "t_s": _number(motion.t_s[frame], 5),
            "x_px": _number(track.x_px[frame], 3),
            "y_px": _number(track.y_px[frame], 3),
            "still_x_px": _number(track.still_x_px[frame], 3),
            "still_y_px": _number(track.still_y_px[frame], 3),
            "x_m": _number(motion.raw_x_m[frame] - x0, 5),
            "y_m": _number(motion.raw_y_m[frame] - y0, 5),
            "smooth_x_m": _number(motion.x_m[frame] - x0, 5),
            "smooth_y_m": _number(motion.y_m[frame] - y0, 5),
            "vy_mps": _number(motion.vy_mps[frame], 4),
            "state": STATES[track.state[frame]],
            "confidence": _number(track.confidence[frame], 3),
        }
        for frame in range(len(track))
    ]


def _origin(assessment: Assessment) -> tuple[float, float]:
    """The bar at lift-off; where no lift was found, the first seen point."""
    event = assessment.events.get("lift_off")
    if event is None:
        return 0.0, 0.0
    return float(assessment.motion.x_m[event.frame]), float(assessment.motion.y_m[event.frame])


def _number(value: float | np.floating | None, digits: int) -> float | None:
    """Rounded; None for nothing and for what is not a number (JSON has no NaN)."""
    if value is None or not math.isfinite(float(value)):
        return None
    return round(float(value), digits)


def path_csv(track: BarTrack, assessment: Assessment) -> str:
    """The bar's path as CSV, one row a frame; empty fields where the bar is not known."""
    points = _points(track, assessment)
    return _csv(list(points[0]), [list(point.values()) for point in points])


def measures_csv(assessment: Assessment, content: Content) -> str:
    """The measures as CSV, one row each, in SI units."""
    rows = [
        [
            name,
            content.measures[name].name,
            _number(measure.value, 5),
            _number(measure.sigma, 5),
            measure.unit,
            measure.frame,
            measure.why,
        ]
        for name, measure in assessment.measures.items()
    ]
    return _csv(["measure", "name", "value", "sigma", "unit", "frame", "why_missing"], rows)


def _csv(header: list[str], rows: Sequence[Sequence[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(header)
    writer.writerows(["" if cell is None else cell for cell in row] for row in rows)
    return out.getvalue()


def write_text_safely(path: Path, text: str) -> None:
    """Write a whole file or none of it: to a temporary neighbour, synced, then renamed.

    Raises OSError as the system gives it; a former file of that name is then untouched.
    """
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    try:
        with os.fdopen(handle, "w", encoding="utf-8", newline="") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.replace(name, path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise
