"""Events that need the body: bar at the knee, full extension, and the power position where the
bar's speed never falls.

They are laid over those of the bar. Where a point that an event needs is only assumed, the event
is less sure; where it is missing, the bar's own event stays, or there is none.
"""

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.body.movement import BodyMotion
from keen_kettle.core.motion.events import EVENT_NAMES, Event

__all__ = ["add_body_events"]

Array = NDArray[np.float64]

BELOW_KNEE_M = 0.03
LEAST_REBEND_DEG = 5.0
BLUNT_EXTENSION_S = 0.04
AFTER_PEAK_S = 0.12
"""The body is straight at latest so soon after the bar is fastest."""


def add_body_events(
    events: dict[str, Event], motion: BarMotion, body: BodyMotion, jerk: bool
) -> dict[str, Event]:
    """The events of one lift, with those of the body among them, in the order of a lift."""
    found = dict(events)
    if not events or not body.side_on:
        return events
    if not jerk and "lift_off" in events:
        knee = _knee_pass(events, motion, body)
        if knee is not None:
            found["knee_pass"] = knee
        power = _power_position(found, motion, body) if _is_unclear(events) else None
        if power is not None:
            found["power_position"] = power
    extension = _extension(found, motion, body)
    if extension is not None:
        found["extension"] = extension
    return {name: found[name] for name in EVENT_NAMES if name in found}


def _is_unclear(events: dict[str, Event]) -> bool:
    """Whether the bar does not tell the second pull from the first."""
    power, first_end = events.get("power_position"), events.get("first_pull_end")
    return power is not None and first_end is not None and power.frame == first_end.frame


def _at(name: str, frame: int, motion: BarMotion, sigma_s: float) -> Event:
    sharp = motion.frame_s / np.sqrt(12)
    return Event(name, frame, float(motion.t_s[frame]), float(np.hypot(sharp, sigma_s)), "body")


def _knee_pass(events: dict[str, Event], motion: BarMotion, body: BodyMotion) -> Event | None:
    """The first frame in which the bar is as high as the knee, where it began below it and the knee is known
    until then."""
    begin, fastest = events["lift_off"].frame, events.get("peak_velocity")
    last = int(np.flatnonzero(np.isfinite(motion.y_m))[-1])
    end = fastest.frame if fastest is not None else last
    above = (motion.y_m - body.at("knee")[:, 1])[begin : end + 1]
    unknown = ~np.isfinite(above)
    if unknown.any():
        above = above[: int(np.argmax(unknown))]
    if len(above) < 2 or above[0] > -BELOW_KNEE_M or above.max() < 0:
        return None
    over = int(np.argmax(above >= 0))
    frame = begin + over
    pace = max(float(np.gradient(above, motion.t_s[begin : begin + len(above)])[over]), 0.2)
    return _at("knee_pass", frame, motion, float(body.sigma_at("knee")[frame]) / pace)


def _power_position(events: dict[str, Event], motion: BarMotion, body: BodyMotion) -> Event | None:
    """Where the knees are bent the most under the bar, before they drive; None if they are not."""
    begin = events.get("knee_pass", events["lift_off"]).frame
    end = events["peak_velocity"].frame
    angle = body.angle_deg("knee")[begin : end + 1]
    if len(angle) < 4 or not np.isfinite(angle).all():
        return None
    straightest = np.maximum.accumulate(angle)
    bend = straightest - angle
    deepest = int(np.argmax(bend))
    sigma_deg = float(np.median(body.angle_sigma_deg("knee")[begin : end + 1]))
    if bend[deepest] < max(LEAST_REBEND_DEG, sigma_deg) or deepest >= len(angle) - 1:
        return None
    frame = begin + deepest
    sigma_s = _flatness(motion.t_s[begin : end + 1], -angle, deepest, 2.0)
    return _at("power_position", frame, motion, sigma_s)


def _extension(events: dict[str, Event], motion: BarMotion, body: BodyMotion) -> Event | None:
    """Where hip and knee together are straightest about the bar's peak velocity."""
    begin = events.get("power_position", events.get("dip_bottom"))
    if begin is None or "peak_velocity" not in events:
        return None
    last = min(
        events["peak_velocity"].t_s + AFTER_PEAK_S,
        events["peak_height"].t_s if "peak_height" in events else np.inf,
    )
    frames = np.flatnonzero((motion.t_s >= begin.t_s) & (motion.t_s <= last))
    straight = (body.angle_deg("hip") + body.angle_deg("knee"))[frames]
    if len(frames) < 2 or not np.isfinite(straight).all():
        return None
    top = int(np.argmax(straight))
    noise = np.hypot(body.angle_sigma_deg("hip"), body.angle_sigma_deg("knee"))[frames[top]]
    flat = _flatness(motion.t_s[frames], straight, top, max(float(noise), 3.0))
    sigma_s = float(np.hypot(flat, BLUNT_EXTENSION_S))
    return _at("extension", int(frames[top]), motion, sigma_s)


def _flatness(t_s: Array, values: Array, top: int, noise: float) -> float:
    """What the instant of a top is worth: as long as the curve stays within `noise` of it, spread
    evenly."""
    near = values >= values[top] - noise
    first = last = top
    while first > 0 and near[first - 1]:
        first -= 1
    while last < len(near) - 1 and near[last + 1]:
        last += 1
    return float((t_s[last] - t_s[first]) / np.sqrt(12))
