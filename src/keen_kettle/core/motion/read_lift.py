"""Reads from a clip which derivative it shows: where the bar begins, and how it is received.

Everything is read from the bar against the body's own landmarks at the lift's events, and only what
lies clear of its border by its uncertainty is said; the rest stays as the coach stated it. What no
side view tells (grip width, whether an uncaught pull was meant for the snatch or the clean, hang or
blocks where the bar rests before the lift) is never guessed.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative, filmed_derivatives
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.body.movement import BodyMotion
from keen_kettle.core.motion.events import Event, first_event

__all__ = ["family_is_read", "read_lift"]

Array = NDArray[np.float64]

ON_FLOOR_M = 0.1
"""The bar stands on the floor when its centre is no more than this above the plate's radius."""
ALONG_THIGH = {
    "below knee": (-1.0, -0.12),
    "knee": (-0.12, 0.03),
    "above knee": (0.03, 0.25),
    "mid-thigh": (0.25, 0.6),
    "hip": (0.6, 1.6),
}
"""Between which shares of the way from knee (0) to hip (1) the bar hangs (this house's borders)."""
RACK_M, OVERHEAD_M = (-0.2, 0.26), 0.3
"""Between so much below and above the shoulder the bar is racked; farther above it, overhead."""
UNDER_M = 0.1
"""A hip that sank by less than this against the knee did not go under the bar."""
PULLED_M = -0.1
"""A bar whose highest point stays so far below the shoulder was meant to be pulled only."""
LOWERED_M = 0.08
"""A bar that was so much higher before the lift was lowered there: a hang."""
PARALLEL_M = 0.04
"""The thigh is parallel when the hip joint is so much above the knee's: the crease lies about as high
as the joint, the top of the knee above its own."""
SPLIT_M = 0.38
"""Ankles so far apart, one before the other, are a split (level feet show under 0.2 m)."""


def read_lift(
    stated: Derivative,
    events: dict[str, Event],
    motion: BarMotion,
    body: BodyMotion | None,
    radius_m: float | None,
) -> Derivative | None:
    """The derivative that a clip shows, where it surely differs from the stated one; else None.

    Parameters
    ----------
    events : of the repetition
    radius_m : half the plate's true diameter; None where it is not a plate that is followed
    """
    begin = first_event(events)
    if body is None or begin is None or not body.side_on:
        return None
    seen = _received(stated, events, motion, body, begin.frame)
    if seen.family != "jerk" and "lift_off" in events:
        seen = _started(seen, begin.frame, motion, body, radius_m)
    if seen == stated or seen not in filmed_derivatives():
        return None
    return seen


def family_is_read(
    stated: Derivative,
    events: dict[str, Event],
    motion: BarMotion,
    body: BodyMotion | None,
    radius_m: float | None,
) -> bool:
    """Whether the clip itself tells snatch from clean: read from either, it comes out the same.

    The parameters are those of `read_lift`. Pulls without a catch look alike from the side.
    """
    if stated.family == "jerk":
        return True
    found = set()
    for family in ("snatch", "clean"):
        supposed = replace(stated, family=family)
        seen = read_lift(supposed, events, motion, body, radius_m) or supposed
        found.add(seen.family)
    return len(found) == 1


def _received(
    stated: Derivative, events: dict[str, Event], motion: BarMotion, body: BodyMotion, begin: int
) -> Derivative:
    """The stated lift with the family and the receive that are seen."""
    lowest = events.get("lowest")
    if lowest is None:
        return stated
    over = _over(body, motion, lowest.frame)
    from_rack = _over(body, motion, begin)
    if over is None or from_rack is None:
        return stated
    spread = float(np.hypot(body.sigma_at("shoulder")[lowest.frame], 0.02))
    started = begin == min(
        (events[name].frame for name in ("lift_off", "dip_start", "dip_bottom") if name in events),
        default=-1,
    )
    if started and RACK_M[0] < from_rack < RACK_M[1] - spread and over - spread > OVERHEAD_M:
        return _with_receive(
            replace(stated, family="jerk", start="front rack", support="standing", action="catch"),
            lowest.frame,
            body,
        )
    if stated.family == "jerk":
        return stated
    if over + spread < RACK_M[0]:
        peak = events.get("peak_height")
        top = _over(body, motion, peak.frame) if peak is not None else None
        # A missed lift comes down like a pull; but it was pulled higher.
        pulled = top is not None and top + spread < PULLED_M and stated.has_catch
        pulled = pulled or (stated.has_catch and peak is not None and _stayed_up(body, events))
        return replace(stated, action="pull", receive="none") if pulled else stated
    if RACK_M[0] < over < RACK_M[1] - spread:
        stated = replace(stated, family="clean", action="catch")
    elif over - spread > OVERHEAD_M:
        stated = replace(stated, family="snatch", action="catch")
    else:
        return stated
    return _with_receive(stated, lowest.frame, body)


def _stayed_up(body: BodyMotion, events: dict[str, Event]) -> bool:
    """Whether the lifter never went under a bar that came down again: the hip is hardly lower against
    the knee, from the highest point of the bar to its lowest, than when the body was straight."""
    hip, knee = body.at("hip")[:, 1], body.at("knee")[:, 1]
    straight = (events.get("extension") or events["peak_velocity"]).frame
    tall = float(hip[straight] - knee[straight])
    after = (hip - knee)[events["peak_height"].frame : events["lowest"].frame + 1]
    if not (np.isfinite(tall) and np.isfinite(after).any()):
        return False
    return bool(tall - float(np.nanmin(after)) < UNDER_M)


def _over(body: BodyMotion, motion: BarMotion, frame: int) -> float | None:
    """How far the bar is above the shoulder, metres; None where that is not seen."""
    over = float(motion.y_m[frame] - body.at("shoulder")[frame, 1])
    return over if np.isfinite(over) else None


def _with_receive(stated: Derivative, frame: int, body: BodyMotion) -> Derivative:
    """Split, full or power at the lowest point, as far as feet, hip and knee tell it."""
    if body.apart_m is not None and stated.family == "jerk" and body.apart_m[frame] > SPLIT_M:
        return replace(stated, receive="split")
    above = float(body.at("hip")[frame, 1] - body.at("knee")[frame, 1])
    spread = float(np.hypot(body.sigma_at("hip")[frame], body.sigma_at("knee")[frame]))
    if not np.isfinite(above) or abs(above - PARALLEL_M) <= spread:
        kept = stated.receive if stated.receive in ("full", "power") else "full"
        return replace(stated, receive=kept)
    return replace(stated, receive="power" if above > PARALLEL_M else "full")


def _started(
    stated: Derivative, begin: int, motion: BarMotion, body: BodyMotion, radius_m: float | None
) -> Derivative:
    """The stated lift with the start that is seen."""
    bar = float(motion.y_m[begin])
    feet = [body.at(name)[begin, 1] for name in ("heel", "toe")]
    if radius_m is None or not np.isfinite(feet).all():
        return stated
    spread = float(np.mean([body.sigma_at(name)[begin] for name in ("heel", "toe")]))
    above_floor = bar - float(np.mean(feet)) - radius_m
    if above_floor < ON_FLOOR_M:
        # From a hang as low as that nobody lifts with plates of this size.
        return replace(stated, start="floor", support="floor", countermovement=False)
    position = _along_thigh(stated, begin, motion, body)
    if above_floor - spread < ON_FLOOR_M or not position:
        return stated
    support = stated.support if stated.support in ("hang", "blocks") else "hang"
    before = motion.y_m[: begin + 1]
    if np.isfinite(before).any() and float(np.nanmax(before)) - bar > LOWERED_M:
        support = "hang"
    return replace(stated, start=position, support=support)


def _along_thigh(stated: Derivative, begin: int, motion: BarMotion, body: BodyMotion) -> str:
    """The position that the bar hangs at: the stated one unless it is surely another; "" if unseen."""
    knee = body.at("knee")[begin]
    way = body.at("hip")[begin] - knee
    thigh = float(np.hypot(*way))
    along = float((np.array([motion.x_m[begin], motion.y_m[begin]]) - knee) @ way / thigh**2)
    if not np.isfinite(along):
        return ""
    spread = float(np.hypot(body.sigma_at("knee")[begin], body.sigma_at("hip")[begin])) / thigh
    low, high = ALONG_THIGH.get(stated.start, (np.inf, np.inf))
    if low - spread <= along < high + spread:
        return stated.start
    found = [name for name, (low, high) in ALONG_THIGH.items() if low <= along < high]
    return found[0] if found else ""
