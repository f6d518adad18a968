"""Landmarks as files: CSV rows in pixels and metres, and TRC marker trajectories."""

import csv
import io
import math

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis.assess import Assessment
from keen_kettle.core.track.body import LANDMARKS, BodyTrack, PointState

__all__ = ["STATE_NAMES", "landmark_rows", "landmarks_csv", "landmarks_trc"]

STATE_NAMES = {
    PointState.MEASURED: "measured",
    PointState.ASSUMED: "assumed",
    PointState.BY_HAND: "by hand",
    PointState.HIDDEN: "hidden",
    PointState.MISSING: "missing",
}
HEADER = (
    *("frame", "t_s", "name", "x_px", "y_px", "sigma_px", "x_m", "y_m"),
    *("state", "confidence"),
)


def landmark_rows(body: BodyTrack) -> list[list[dict[str, object]]]:
    """For each frame its points: name, x_px, y_px, state, confidence, sigma_px (JSON values)."""
    return [
        [
            {
                "name": name,
                "x_px": _rounded(body.point(name, frame)[0], 2),
                "y_px": _rounded(body.point(name, frame)[1], 2),
                "sigma_px": _rounded(body.sigma_px[frame, k], 2),
                "state": STATE_NAMES[PointState(int(body.state[frame, k]))],
                "confidence": _rounded(body.confidence[frame, k], 3),
            }
            for k, name in enumerate(LANDMARKS)
        ]
        for frame in range(len(body))
    ]


def landmarks_csv(body: BodyTrack, answer: Assessment) -> str:
    """One row a frame and landmark; metres are in the bar's axes (x forward, y up)."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADER)
    metres = _metres(answer, len(body))
    for frame, points in enumerate(landmark_rows(body)):
        for k, point in enumerate(points):
            x_m, y_m = (_rounded(value, 4) for value in metres[frame, k])
            cells = (
                *(frame, _rounded(answer.motion.t_s[frame], 5), point["name"]),
                *(point["x_px"], point["y_px"], point["sigma_px"], x_m, y_m),
                *(point["state"], point["confidence"]),
            )
            writer.writerow(["" if cell is None else cell for cell in cells])
    return out.getvalue()


def landmarks_trc(body: BodyTrack, answer: Assessment, name: str) -> str:
    """Marker trajectories as tab-separated TRC: millimetres, Y up, Z to the right of the lifter (0).

    The bar is the last marker. Unknown places are left empty, as the format has it. Without a scale
    a plate of 450 mm is supposed.
    """
    t_s = answer.motion.t_s
    rate = 1 / float(np.median(np.diff(t_s)))
    metres = _metres(answer, len(body))
    bar = np.column_stack([answer.motion.x_m, answer.motion.y_m])
    markers = np.concatenate([metres, bar[:, None]], axis=1)
    names = [*LANDMARKS, "bar"]
    lines = [
        f"PathFileType\t4\t(X/Y/Z)\t{name}",
        "DataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits\tOrigDataRate\tOrigDataStartFrame\tOrigNumFrames",
        f"{rate:.4f}\t{rate:.4f}\t{len(t_s)}\t{len(names)}\tmm\t{rate:.4f}\t1\t{len(t_s)}",
        "Frame#\tTime\t" + "\t\t\t".join(names) + "\t\t",
        "\t\t" + "\t".join(f"X{k}\tY{k}\tZ{k}" for k in range(1, len(names) + 1)),
        "",
    ]
    for frame, places in enumerate(markers):
        cells = [str(frame + 1), f"{t_s[frame]:.5f}"]
        for x, y in 1000 * places:
            known = math.isfinite(x) and math.isfinite(y)
            cells += [f"{x:.2f}", f"{y:.2f}", "0.00"] if known else ["", "", ""]
        lines.append("\t".join(cells))
    return "\n".join(lines) + "\n"


def _metres(answer: Assessment, count: int) -> NDArray[np.float64]:
    if answer.body is None:
        return np.full((count, len(LANDMARKS), 2), np.nan)
    return answer.body.place_m


def _rounded(value: float, digits: int) -> float | None:
    return round(float(value), digits) if math.isfinite(value) else None
