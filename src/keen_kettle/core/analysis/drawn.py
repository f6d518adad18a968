"""A clip as its drawings are measured against it, and drawings as values of the document."""

from collections.abc import Sequence

from keen_kettle.core.analysis.assess import Assessment
from keen_kettle.core.analysis.settings import ClipSettings
from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.motion import Drawing, Filmed, show_drawing
from keen_kettle.core.track import BarTrack
from keen_kettle.core.track.body import BodyTrack

__all__ = ["drawing_rows", "film_of"]


def film_of(
    index: ClipIndex,
    settings: ClipSettings,
    track: BarTrack | None = None,
    body: BodyTrack | None = None,
    answer: Assessment | None = None,
) -> Filmed:
    """What drawings on a clip are measured against, as far as it is known."""
    return Filmed(
        index.t_s,
        answer.motion.t_s if answer is not None and answer.clock.trusted else None,
        settings.facing,
        track,
        body if track is not None else None,
        answer.scale if answer is not None else None,
        track.camera_in_all_frames_px() if track is not None and settings.steady else None,
    )


def drawing_rows(drawings: Sequence[Drawing], filmed: Filmed) -> list[dict[str, object]]:
    """Drawings with their values on their own frames, as plain JSON values."""
    return [_row(one, filmed) for one in drawings if one.frame < len(filmed.film_s)]


def _row(drawing: Drawing, filmed: Filmed) -> dict[str, object]:
    shown = show_drawing(drawing, drawing.frame, filmed)
    readings = shown.readings if shown is not None else ()
    return {
        "kind": drawing.kind,
        "frame": drawing.frame,
        "t_s": round(float(filmed.film_s[drawing.frame]), 5),
        "elsewhere": drawing.elsewhere,
        "text": drawing.text,
        "spots": [
            {
                "frame": spot.frame,
                "x_px": round(spot.x, 2),
                "y_px": round(spot.y, 2),
                "held": spot.held,
            }
            for spot in drawing.spots
        ],
        "values": [
            {
                "name": one.what,
                "value": round(one.value, 5),
                "sigma": round(one.sigma, 5),
                "unit": one.unit,
            }
            for one in readings
        ],
    }
