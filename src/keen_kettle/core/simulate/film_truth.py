"""The truth beside a film: what is where in every frame, what hides it, and what the lift was."""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.camera import PLATE_DEPTH_M
from keen_kettle.core.simulate.film_hand import (
    camera_offsets_px,
    camera_turns,
    frame_views,
    seen_at,
)
from keen_kettle.core.simulate.film_time import lift_times, opening_share, pictures_shown
from keen_kettle.core.simulate.filming import Filming, Joints, Painter
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.scene import JOINT_DEPTHS_M, LIMB_DEPTH_M, bell_centre_m

__all__ = ["plate_px", "truth_document"]

Array = NDArray[np.float64]


def plate_px(lift: SimulatedLift, filming: Filming, instants: Array) -> Array:
    """Where the tracked thing's centre is painted, shape (n, 2): near plate, or the bell."""
    camera, implement = filming.camera, filming.look.implement
    if implement == "bar":
        depth_m = PLATE_DEPTH_M
        at = camera.to_px(lift.bar_m(instants), depth_m)
        for _ in range(4 if filming.rolling_s else 0):
            later = filming.rolling_s * np.clip(at[:, 1] / camera.height_px, 0, 1)
            at = camera.to_px(lift.bar_m(instants + later), depth_m)
        return at
    bars = lift.bar_m(instants)
    poses = [lift.pose(float(t)) for t in instants]
    centres = [bell_centre_m(implement, bar, pose) for bar, pose in zip(bars, poses, strict=True)]
    return camera.to_px(np.array(centres), LIMB_DEPTH_M)


def _joints(lift: SimulatedLift, painter: Painter | None, instant: float) -> tuple[Joints, Joints]:
    """The landmarks of both sides at an instant; a drawn lifter's lie where they are drawn."""
    if painter is not None:
        return painter.joints(lift, instant)
    pose = lift.pose(instant)
    far = {**pose.points, **(pose.far_leg or {})}
    near_joints, far_joints = (
        {name: np.append(points[name], side * depth) for name, depth in JOINT_DEPTHS_M.items()}
        for points, side in ((pose.points, 1.0), (far, -1.0))
    )
    return near_joints, far_joints


def _landmarks(
    lift: SimulatedLift, filming: Filming, instants: Array, views: Array
) -> dict[str, object]:
    """Where every landmark of both sides is painted, and what hides it, for each frame."""
    camera, names = filming.camera, list(JOINT_DEPTHS_M)
    once, which = np.unique(instants, return_inverse=True)
    places, covered = [], []
    for instant in once.tolist():
        both = _joints(lift, filming.painter, instant)
        places.append(np.array([side[name] for side in both for name in names]))
        covered.append(_covers(lift, filming, instant, places[-1]))
    whole = np.array(places)
    at = camera.to_px(whole[..., :2], whole[..., 2])[which]
    told: dict[str, object] = {}
    for side, word in enumerate(("", "far_")):
        seen: dict[str, list[list[float]]] = {}
        hidden: dict[str, list[str]] = {}
        for k, name in enumerate(names, start=side * len(names)):
            spots = seen_at(at[:, k], views)
            size = np.array([camera.width_px, camera.height_px])
            inside = np.all((spots >= 0) & (spots < size), axis=1)
            seen[name] = np.round(spots, 2).tolist()
            hidden[name] = [
                covered[n][k] if shown else "edge" for n, shown in zip(which, inside, strict=True)
            ]
        told[f"{word}landmarks_px"], told[f"{word}hidden_by"] = seen, hidden
    return told


def _covers(lift: SimulatedLift, filming: Filming, instant: float, places: Array) -> list[str]:
    """What lies before each of some places (n, 3): of a drawn lift only the plate is told."""
    camera, look = filming.camera, filming.look
    if filming.painter is not None:
        return filming.painter.covers(lift, instant, camera, places)
    if look.implement != "bar":
        return [""] * len(places)
    centre = camera.to_px(lift.bar_m(np.array([instant]))[0], PLATE_DEPTH_M)
    off = camera.to_px(places[:, :2], places[:, 2]) - centre
    off[:, 0] /= float(np.cos(np.radians(camera.yaw_deg)))
    radius = look.plate_diameter_m / 2 * camera.scale_at(PLATE_DEPTH_M)
    return ["plate" if apart < radius else "" for apart in np.hypot(*off.T)]


def truth_document(lift: SimulatedLift, filming: Filming, times_s: Array) -> dict[str, object]:
    """Everything that is known about the clip with frames at `times_s` (frames,), as plain JSON values."""
    camera = filming.camera
    instants = lift_times(filming, times_s)
    views, shown = frame_views(filming, times_s), pictures_shown(filming, times_s)
    offsets = camera_offsets_px(filming, times_s)[shown]
    roll, zoom = (one[shown] for one in camera_turns(filming, times_s))
    bar_m = lift.bar_m(instants)
    far_m = bar_m - np.column_stack([np.zeros(len(instants)), lift.tip_m(instants)])
    far = camera.to_px(far_m, -PLATE_DEPTH_M)
    depth_m = PLATE_DEPTH_M if filming.look.implement == "bar" else LIMB_DEPTH_M
    px_per_m = camera.scale_at(depth_m * float(np.cos(np.radians(camera.yaw_deg))))
    return {
        "schema": "keen-kettle-truth",
        "schema_version": 1,
        "lift": {
            "family": lift.script.family,
            "start": lift.script.start,
            "receive": lift.script.receive,
            "stature_m": lift.script.body.stature_m,
            "faults": lift.script.faults,
        },
        "facing": camera.facing,
        "fps": filming.fps,
        "px_per_m": px_per_m,
        "view_angle_deg": camera.yaw_deg,
        "plate_diameter_m": filming.look.plate_diameter_m,
        "plate_radius_px": filming.look.plate_diameter_m / 2 * px_per_m,
        "t_s": np.round(times_s, 6).tolist(),
        "lift_s": np.round(instants, 6).tolist(),
        "opening": np.round(opening_share(filming, times_s), 3).tolist(),
        "bar_m": np.round(bar_m, 5).tolist(),
        "bar_px": np.round(seen_at(plate_px(lift, filming, instants), views), 3).tolist(),
        "far_end_px": np.round(seen_at(far, views), 3).tolist(),
        "camera_px": np.round(offsets, 3).tolist(),
        "camera_roll_deg": np.round(roll, 3).tolist(),
        "camera_zoom": np.round(zoom, 4).tolist(),
        "repeat": filming.repeat,
        **_landmarks(lift, filming, instants, views),
        "events_s": _rounded(lift.truth_events()),
        "lifts_s": [_rounded(one) for one in lift.lifts_s()],
        "measures": _rounded(lift.truth_measures()),
    }


def _rounded(values: dict[str, float]) -> dict[str, float]:
    return {name: round(value, 5) for name, value in values.items()}
