"""From everything that was seen of an athlete to what is to be corrected first.

Sightings come from clips (findings), visits and the coach's tags. Each counts by how plain it was
and how long ago it was (half after a fortnight); a day counts once. What is seen on several days,
or often on one, is a pattern and comes before single sightings; a fault that another one explains
comes after it; faults that can hurt come first of all. The weights are house defaults.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date

from keen_kettle.core.content import Content
from keen_kettle.core.faults import ORDER

__all__ = ["Cause", "Sighting", "causes_of"]

HALF_LIFE_DAYS = 14.0
OLDEST_DAYS = 84
"""What was seen more than twelve weeks ago says nothing about today."""
MOST_SEVERE = 3.0
TAG_TRUST = 0.8
"""A tag is the coach's own eye, without a measure."""
PATTERN_DAYS, PATTERN_TIMES = 2, 3
PATTERN_GAIN = 1.5
EXPLAINS_GAIN = 0.5


@dataclass(frozen=True)
class Sighting:
    """A fault seen on a day.

    `source` is clip, visit or tag. Where it was measured: the measure, its value and standard
    uncertainty in SI units, and the clip.
    """

    fault: str
    on: date
    family: str = ""
    source: str = "tag"
    severity: float = 1.0
    confidence: float = TAG_TRUST
    measure: str = ""
    value: float | None = None
    sigma: float | None = None
    clip_id: int | None = None


@dataclass(frozen=True)
class Cause:
    """A fault with what speaks for correcting it: how often, when last, and what it explains."""

    fault: str
    family: str
    weight: float
    times: int
    days: int
    last: date
    pattern: bool
    safety: bool
    explains: tuple[str, ...]
    newest: Sighting

    @property
    def says(self) -> str:
        """How often and when, in words."""
        if self.times == 1:
            return f"seen once, on {self.last:%-d %b}"
        on = f"on {self.days} days" if self.days > 1 else f"on {self.last:%-d %b}"
        last = f", last on {self.last:%-d %b}" if self.days > 1 else ""
        return f"seen {self.times} times {on}{last}"


def causes_of(
    sightings: Iterable[Sighting],
    content: Content,
    today: date,
    cleared: Mapping[str, date] | None = None,
) -> list[Cause]:
    """What to correct, the first first.

    `cleared` maps a fault to the day on which it was found to be gone: older sightings are dropped.
    """
    seen: dict[str, list[Sighting]] = {}
    for one in sightings:
        age = (today - one.on).days
        gone = (cleared or {}).get(one.fault)
        if one.fault in content.faults and 0 <= age <= OLDEST_DAYS and (not gone or one.on > gone):
            seen.setdefault(one.fault, []).append(one)
    weights = {fault: _weight(rows, today) for fault, rows in seen.items()}
    patterns = {fault for fault, rows in seen.items() if _pattern(rows)}
    explained = {fault: _explained_by(fault, weights, content) for fault in seen}
    reached = {
        other
        for fault, others in explained.items()
        for other in others
        if fault in patterns or other not in patterns
    }
    made = [
        _cause(fault, rows, weights, fault in patterns, explained[fault], content)
        for fault, rows in seen.items()
    ]

    def order(one: Cause) -> tuple[bool, bool, bool, float, int, str]:
        phase = content.faults[one.fault].phase
        place = ORDER.index(phase) if phase in ORDER else len(ORDER)
        carried = sum(weights[other] for other in one.explains)
        worth = one.weight + EXPLAINS_GAIN * carried
        return (not one.safety, one.fault in reached, not one.pattern, -worth, place, one.fault)

    return sorted(made, key=order)


def _weight(rows: list[Sighting], today: date) -> float:
    days: dict[date, float] = {}
    for one in rows:
        plain = min(max(one.severity, 0.2), MOST_SEVERE) * one.confidence
        days[one.on] = max(days.get(one.on, 0.0), plain)
    faded: float = sum(
        worth * 0.5 ** ((today - on).days / HALF_LIFE_DAYS) for on, worth in days.items()
    )
    return faded * (PATTERN_GAIN if _pattern(rows) else 1.0)


def _pattern(rows: list[Sighting]) -> bool:
    return len({one.on for one in rows}) >= PATTERN_DAYS or len(rows) >= PATTERN_TIMES


def _explained_by(fault: str, seen: Mapping[str, float], content: Content) -> tuple[str, ...]:
    """The seen faults that a fault leads to, with at most one step between that was not seen."""
    found: dict[str, None] = {}
    queue, known = [(fault, 0)], {fault: 0}
    while queue:
        here, unseen = queue.pop(0)
        for after in content.faults[here].leads_to:
            steps = 0 if after in seen else unseen + 1
            if steps > 1 or known.get(after, 2) <= steps:
                continue
            known[after] = steps
            queue.append((after, steps))
            if after in seen and after != fault:
                found[after] = None
    return tuple(found)


def _cause(
    fault: str,
    rows: list[Sighting],
    weights: Mapping[str, float],
    pattern: bool,
    explains: tuple[str, ...],
    content: Content,
) -> Cause:
    newest = max(rows, key=lambda one: (one.on, one.value is not None, one.severity))
    family = next(
        (one.family for one in sorted(rows, key=lambda r: r.on, reverse=True) if one.family), ""
    )
    return Cause(
        fault,
        family,
        weights[fault],
        len(rows),
        len({one.on for one in rows}),
        newest.on,
        pattern,
        content.faults[fault].safety,
        explains,
        newest,
    )
