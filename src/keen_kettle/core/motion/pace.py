"""Whether a film is slow motion though it repeats no picture: told by the bar's own weight.

A bar that the legs have thrown is slowed by nothing but its weight, less what the arms still do to it:
by 5 to 8 m/s² from its fastest on, in heavy cleans and light snatches alike. Shown f times slower it
seems to be slowed f² times less. So a bar that hangs in the air too long tells how slow the film is,
roughly; true speeds it does not tell.
"""

import numpy as np

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.rises import Rise, rises

__all__ = ["bar_pace"]

USUALLY_MPS2 = 6.5
"""By so much thrown bars slow down."""
SLOW_MPS2, SLOW_PULL_MPS2 = 2.6, 1.2
"""Less is slow motion (house defaults: played at half speed a bar that falls freely would come to 2.5). A pull ends with
the arms, which may ease it off, so that there less is asked."""
SLOWEST_MPS = 0.12
"""What is never faster is no lift, however slow the film."""
FROM, TO = 0.9, 0.3
"""From so much of the greatest velocity to so much of it the bar is watched: it is neither pushed nor caught there."""
FALLS_M = 0.01
"""A thrown bar slows down evenly and comes down as it went up: in the time that it is watched for it comes to its top
and then down by so much. One that is led there, or held, was lifted slowly."""
LEAST_RISE_M, HIGH_SHARE, FAST_SHARE = 0.05, 0.5, 0.7
"""Rises of so much, and of such shares of the highest and the fastest, are asked: who stands up from a catch throws
nothing."""
PRESSED = ("muscle", "push")
"""Received so, the arms go on pressing all the way."""


def bar_pace(motion: BarMotion, derivative: Derivative) -> float:
    """How many times slower than life a film runs, give or take a third, by the rise that slows down most; 1
    where it may be life, or nothing tells."""
    if derivative.receive in PRESSED or derivative.action == "deadlift":
        return 1.0
    found = rises(motion.raw_y_m, motion.held, motion.position_sigma_m)
    least_m = max(LEAST_RISE_M, HIGH_SHARE * max((one.rise_m for one in found), default=0.0))
    tall = [one for one in found if one.ended and one.rise_m >= least_m]
    speeds = [_fastest(motion, one)[1] for one in tall]
    fast = [one for one, v in zip(tall, speeds, strict=True) if v >= FAST_SHARE * max(speeds)]
    most = max((_slowing_mps2(motion, one) or 0.0 for one in fast), default=0.0)
    least = SLOW_MPS2 if derivative.has_catch else SLOW_PULL_MPS2
    return float(np.sqrt(USUALLY_MPS2 / most)) if 0 < most < least else 1.0


def _slowing_mps2(motion: BarMotion, rise: Rise) -> float | None:
    """By how much a thrown bar slows down in a rise, from its fastest on (m/s² of the film's times); None where that
    is not seen, or it was not thrown."""
    from_there = slice(_fastest(motion, rise)[0], rise.high + 1)
    v, t_s = motion.vy_mps[from_there], motion.t_s[from_there]
    if len(v) < 3 or not np.isfinite(v).all() or v[0] < SLOWEST_MPS:
        return None
    begin, end = (int(np.argmax(v <= share * v[0])) for share in (FROM, TO))
    took_s = float(t_s[end] - t_s[begin])
    if not 0 < begin < end or took_s <= 0:
        return None
    thrown = t_s[-1] - t_s[end] <= took_s and _fallen_m(motion, rise.high, took_s) >= FALLS_M
    return float(v[begin] - v[end]) / took_s if thrown else None


def _fastest(motion: BarMotion, rise: Rise) -> tuple[int, float]:
    """Where in a rise the bar is fastest, and how fast."""
    v = np.nan_to_num(motion.vy_mps[rise.low : rise.high + 1])
    return rise.low + int(np.argmax(v)), float(np.max(v))


def _fallen_m(motion: BarMotion, top: int, within_s: float) -> float:
    """How far the bar has come down from its top in some time."""
    soon = (motion.t_s > motion.t_s[top]) & (motion.t_s <= motion.t_s[top] + within_s)
    heights = motion.raw_y_m[soon & np.isfinite(motion.raw_y_m)]
    return float(motion.raw_y_m[top] - heights.min()) if len(heights) else 0.0
