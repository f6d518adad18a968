"""Measures become findings: which faults are seen, how plainly, and what was good.

Severity is how far a measure is past its threshold, in threshold widths, times the confidence of
the evidence. A value within one standard uncertainty of its threshold is said to be close: just
past it is a finding that says so, just short of it is not praised.
"""

from dataclasses import dataclass
from typing import TypeGuard

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.content import Band, Content, Fault, Rule
from keen_kettle.core.motion import Measure

__all__ = ["Evidence", "Finding", "Praise", "judge", "judged_faults", "praise"]

Confidence = NDArray[np.float64]

MOST_DOUBT, PLAINLY = 2.5, 2.0
"""A measure that is less sure than so many threshold widths shows no fault and rules none out, unless it
is past the threshold by so many of its uncertainties."""
ASSUMED_TRUST = 0.6
"""Evidence that rests on a point that was not seen counts so much."""


@dataclass(frozen=True)
class Evidence:
    """One measure past its threshold. SI units; `frame` shows it; `close` if within sigma."""

    measure: str
    value: float
    sigma: float
    threshold: float
    unit: str
    frame: int
    close: bool
    says: str


@dataclass(frozen=True)
class Finding:
    """A fault that was seen, with its evidence, the plainest first."""

    fault: str
    severity: float
    confidence: float
    close: bool
    evidence: tuple[Evidence, ...]


@dataclass(frozen=True)
class Praise:
    """A measure that is well inside its band."""

    measure: str
    value: float
    sigma: float
    frame: int
    says: str


def judge(
    measures: dict[str, Measure], family: str, content: Content, confidence: Confidence
) -> list[Finding]:
    """All faults that the measures show, the most severe first.

    Parameters
    ----------
    confidence : shape (frames,), the track's confidence; a finding takes it round its own frame
    """
    found = []
    for fault in content.faults.values():
        finding = _judge_fault(fault, measures, family, confidence)
        if finding is not None:
            found.append(finding)
    return sorted(found, key=lambda finding: -finding.severity)


def judged_faults(measures: dict[str, Measure], family: str, content: Content) -> list[Fault]:
    """The faults that this clip's measures can show or rule out, in the catalogue's order."""
    return [
        fault
        for fault in content.faults.values()
        if any(
            _tells(measures.get(rule.measure), rule, family) and _joins(rule, measures) is not None
            for rule in fault.rules
        )
    ]


def _tells(measure: Measure | None, rule: Rule, family: str) -> TypeGuard[Measure]:
    """Whether a rule belongs to the lift, and its measure is known surely enough for it."""
    return (
        family in rule.families
        and measure is not None
        and measure.value is not None
        and np.isfinite(measure.value)
        and measure.sigma is not None
        and measure.sigma <= max(MOST_DOUBT * rule.width, rule.past(measure.value) / PLAINLY)
        and measure.frame is not None
    )


def _joins(rule: Rule, measures: dict[str, Measure]) -> bool | None:
    """Whether the other measure that a rule asks for says so too; None where it is not known."""
    if rule.with_measure is None or rule.with_below is None:
        return True
    other = measures.get(rule.with_measure)
    if other is None or other.value is None or not np.isfinite(other.value):
        return None
    return other.value < rule.with_below


def _judge_fault(
    fault: Fault, measures: dict[str, Measure], family: str, confidence: Confidence
) -> Finding | None:
    seen: list[tuple[float, float, Evidence]] = []
    for rule in fault.rules:
        measure = measures.get(rule.measure)
        if not _tells(measure, rule, family) or not _joins(rule, measures):
            continue
        assert measure.value is not None and measure.sigma is not None
        assert measure.frame is not None
        past = rule.past(measure.value)
        # What rests on a point that was not seen must be past the line by more than its doubt.
        if past > (measure.sigma if measure.assumed else 0.0):
            trust = _confidence_near(confidence, measure.frame)
            trust *= ASSUMED_TRUST if measure.assumed else 1.0
            seen.append((past / rule.width * trust, trust, _evidence(rule, measure)))
    if not seen:
        return None
    seen.sort(key=lambda row: -row[0])
    severity, trust, _ = seen[0]
    evidence = tuple(row[2] for row in seen)
    return Finding(fault.id, severity, trust, all(one.close for one in evidence), evidence)


def _evidence(rule: Rule, measure: Measure) -> Evidence:
    assert measure.value is not None and measure.sigma is not None and measure.frame is not None
    return Evidence(
        measure=measure.id,
        value=measure.value,
        sigma=measure.sigma,
        threshold=rule.threshold,
        unit=measure.unit,
        frame=measure.frame,
        close=abs(rule.past(measure.value)) <= measure.sigma,
        says=rule.says,
    )


def _confidence_near(confidence: Confidence, frame: int) -> float:
    return float(np.mean(confidence[max(frame - 2, 0) : frame + 3]))


def praise(
    measures: dict[str, Measure], family: str, content: Content, findings: list[Finding]
) -> list[Praise]:
    """What was good: measures inside their band by at least one sigma, best first.

    A measure that is evidence of a fault is never praised. The order is by how deep inside the
    band the value lies, in sigmas, held at 20 so that a very exact measure does not crowd out
    the rest; equal ones keep the content's order.
    """
    blamed = {one.measure for finding in findings for one in finding.evidence}
    good: list[tuple[float, Praise]] = []
    for band in content.praise:
        measure = measures.get(band.measure)
        if family not in band.families or band.measure in blamed or measure is None:
            continue
        if measure.value is None or measure.sigma is None or measure.frame is None:
            continue
        margin = _margin(band, measure.value) / max(measure.sigma, 1e-9)
        if margin >= 1:
            row = Praise(band.measure, measure.value, measure.sigma, measure.frame, band.says)
            good.append((min(margin, 20.0), row))
    return [row for _, row in sorted(good, key=lambda pair: -pair[0])]


def _margin(band: Band, value: float) -> float:
    """How far inside the band; negative outside."""
    low = value - band.low if band.low is not None else np.inf
    high = band.high - value if band.high is not None else np.inf
    return float(min(low, high))
