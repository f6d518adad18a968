"""Events that the coach has moved by hand take the place of those that were found."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.motion.events import EVENT_NAMES, Event

__all__ = ["HandEvent", "with_hand_events"]


@dataclass(frozen=True)
class HandEvent:
    """An event on the frame where the coach has put it."""

    name: str
    frame: int


def with_hand_events(
    events: dict[str, Event],
    moved: tuple[HandEvent, ...],
    t_s: NDArray[np.float64],
    first: int,
    last: int,
) -> dict[str, Event]:
    """The events of one repetition (frames `first` to `last`), with those set by hand in place; `t_s` has
    shape (frames,), seconds."""
    found = dict(events)
    for one in moved:
        if first <= one.frame <= last and one.name in EVENT_NAMES:
            half = float(np.median(np.diff(t_s))) / np.sqrt(12) if len(t_s) > 1 else 0.0
            found[one.name] = Event(one.name, one.frame, float(t_s[one.frame]), half, "by hand")
    return {name: found[name] for name in EVENT_NAMES if name in found}
