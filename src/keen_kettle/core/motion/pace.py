"""Whether a film is slow motion though it repeats no picture: told by the bar's own weight.

A bar that the legs have thrown is slowed by nothing but its weight, less what the arms still do to it:
by 5 to 8 m/s² from its fastest on, in heavy cleans and light snatches alike. Shown f times slower it
seems to be slowed f² times less. So a bar that hangs in the air too long tells how slow the film is,
roughly; true speeds it does not tell.
"""

import numpy as np

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.events import Event
from keen_kettle.core.motion.reps import split_reps

__all__ = ["bar_pace", "slowing_mps2"]

USUALLY_MPS2 = 6.5
"""By so much thrown bars slow down."""
SLOW_MPS2, SLOW_PULL_MPS2 = 2.6, 1.2
"""Less is slow motion (house defaults: played at half speed a bar that falls freely would come to 2.5). A pull ends with
the arms, which may ease it off, so that there less is asked."""
FROM, TO = 0.9, 0.3
"""From so much of the greatest velocity to so much of it the bar is watched: it is neither pushed nor caught there."""
PRESSED = ("muscle", "push")
"""Received so, the arms go on pressing all the way."""


def bar_pace(motion: BarMotion, derivative: Derivative) -> float:
    """How many times slower than life a film runs, give or take a third, by the repetition that slows down most; 1
    where it may be life, or nothing tells."""
    if derivative.receive in PRESSED or derivative.action == "deadlift":
        return 1.0
    slowing = [slowing_mps2(motion, rep.events) for rep in split_reps(motion, derivative)]
    known = [one for one in slowing if one is not None]
    least = SLOW_MPS2 if derivative.has_catch else SLOW_PULL_MPS2
    if not known or max(known) >= least:
        return 1.0
    return float(np.sqrt(USUALLY_MPS2 / max(known)))


def slowing_mps2(motion: BarMotion, events: dict[str, Event]) -> float | None:
    """By how much the bar slows down after its greatest velocity, on its way up (m/s² of the film's times); None
    where that is not seen."""
    if not {"peak_velocity", "peak_height"} <= set(events):
        return None
    way = slice(events["peak_velocity"].frame, events["peak_height"].frame + 1)
    v, t_s = motion.vy_mps[way], motion.t_s[way]
    if len(v) < 3 or not np.isfinite(v).all() or v[0] <= 0:
        return None
    begin, end = (int(np.argmax(v <= share * v[0])) for share in (FROM, TO))
    if not 0 < begin < end:
        return None
    return float((v[begin] - v[end]) / (t_s[end] - t_s[begin]))
