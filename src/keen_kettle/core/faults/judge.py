"""Measures become findings: which faults are seen, how plainly, and what was good.

Severity is how far a measure is past its threshold, in threshold widths, times the confidence of
the evidence. What is past its threshold by less than 1.645 standard uncertainties is said to be close
(told without that word, a lift that is not past it would be blamed more than one time in twenty); what is
within one of them short of it is not praised. Where all rules of a fault tell
of the same thing they are weighed together: two weak signs that agree are a plain one, and one that
speaks against it holds the other back. The first of them is the fault itself, and where what it
rests on was seen it decides alone.
"""

from dataclasses import dataclass, replace
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
ASSUMED_TRUST, ASSUMED_PAST = 0.6, 0.7
"""Evidence that rests on a point that was not seen counts so much, and must be past the line by so many
of its uncertainties."""
PLAINLY_PAST = 1.645
"""So many uncertainties past its threshold one thing in twenty looks that is not past it (one-sided 95 % of a
normal distribution): what is less far past is a close call."""
LEAST_TRUST = 0.1
"""Where the path is trusted less (it is bridged there, or all but lost), nothing is more than a close call."""
TOGETHER, MOST_SURE = 0.2, 3.0
"""Signs weighed together tell from so many joint uncertainties on; none counts for more than so many."""


@dataclass(frozen=True)
class Evidence:
    """One measure past its threshold. SI units; `frame` shows it; `close` if by less than `PLAINLY_PAST` of
    its uncertainties, or, of signs weighed together, if their sum is."""

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
            _tells(measures.get(rule.measure), rule, family, _most_doubt(fault))
            and _joins(rule, measures) is not None
            for rule in fault.rules
        )
    ]


def _most_doubt(fault: Fault) -> float:
    """How many threshold widths a measure may be uncertain by; signs that are weighed together may be
    each so much less sure as their mean is surer."""
    return MOST_DOUBT * float(np.sqrt(len(fault.rules))) if fault.together else MOST_DOUBT


def _tells(measure: Measure | None, rule: Rule, family: str, doubt: float) -> TypeGuard[Measure]:
    """Whether a rule belongs to the lift, and its measure is known surely enough for it."""
    return (
        family in rule.families
        and measure is not None
        and measure.value is not None
        and np.isfinite(measure.value)
        and measure.sigma is not None
        and measure.sigma <= max(doubt * rule.width, rule.past(measure.value) / PLAINLY)
        and measure.frame is not None
        and not _guesses(measure, rule)
    )


def _guesses(measure: Measure, rule: Rule) -> bool:
    """Whether it might be past the threshold, but a point that was not seen is taken for all of it."""
    if not (rule.plain_if_seen and measure.assumed) or measure.value is None:
        return False
    return 0 < rule.past(measure.value) <= PLAINLY_PAST * (measure.sigma or 0.0)


def _joins(rule: Rule, measures: dict[str, Measure]) -> bool | None:
    """Whether the other measure that a rule asks for says so too; None where it is not known."""
    if rule.with_measure is None or rule.with_below is None:
        return True
    other = measures.get(rule.with_measure)
    if other is None or other.value is None or not np.isfinite(other.value):
        return None
    return other.value < rule.with_below


@dataclass(frozen=True)
class _Sign:
    """What one rule makes of its measure: how far it is past its threshold in widths and in
    uncertainties (negative: short of it), and how far that is to be trusted."""

    widths: float
    sigmas: float
    trust: float
    assumed: bool
    evidence: Evidence

    @property
    def shows(self) -> bool:
        return self.sigmas > ASSUMED_PAST if self.assumed else self.widths > 0


def _judge_fault(
    fault: Fault, measures: dict[str, Measure], family: str, confidence: Confidence
) -> Finding | None:
    signs = []
    for rule in fault.rules:
        measure = measures.get(rule.measure)
        if _tells(measure, rule, family, _most_doubt(fault)) and _joins(rule, measures):
            signs.append(_sign(rule, measure, confidence))
    if fault.together and signs:
        first = signs[0]
        if first.assumed or first.evidence.measure != fault.rules[0].measure:
            return _weighed_together(fault, signs)
        signs = [first]
    seen = sorted(
        (one for one in signs if one.shows), key=lambda one: one.widths * one.trust, reverse=True
    )
    if not seen:
        return None
    evidence = tuple(one.evidence for one in seen)
    severity = seen[0].widths * seen[0].trust
    return Finding(fault.id, severity, seen[0].trust, all(one.close for one in evidence), evidence)


def _weighed_together(fault: Fault, signs: list[_Sign]) -> Finding | None:
    """One finding of signs that tell of the same thing (Stouffer's sum of their distances); whether it is
    close, and with it all its evidence, the sum says; without the first of them it is never more."""
    each = [min(max(one.sigmas, -MOST_SURE), MOST_SURE) for one in signs]
    joint = sum(each) / float(np.sqrt(len(each)))
    seen = sorted((one for one in signs if one.widths > 0), key=lambda one: -one.sigmas)
    if not seen or joint <= TOGETHER:
        return None
    trust = float(np.mean([one.trust for one in signs]))
    severity = max(float(np.mean([one.widths for one in signs])), 0.0) * trust
    alone = all(one.evidence.measure != fault.rules[0].measure for one in signs)
    close = joint <= PLAINLY_PAST or alone
    evidence = tuple(replace(one.evidence, close=close) for one in seen)
    return Finding(fault.id, severity, trust, close, evidence)


def _sign(rule: Rule, measure: Measure, confidence: Confidence) -> _Sign:
    assert measure.value is not None and measure.sigma is not None and measure.frame is not None
    past = rule.past(measure.value)
    followed = _confidence_near(confidence, measure.frame)
    trust = followed * (ASSUMED_TRUST if measure.assumed else 1.0)
    sigmas = past / max(float(np.hypot(measure.sigma, rule.differs)), 1e-9)
    guessed = rule.plain_if_seen and measure.assumed
    close = sigmas <= PLAINLY_PAST or followed < LEAST_TRUST or guessed
    evidence = _evidence(rule, measure, close)
    return _Sign(past / rule.width, sigmas, trust, measure.assumed, evidence)


def _evidence(rule: Rule, measure: Measure, close: bool) -> Evidence:
    assert measure.value is not None and measure.sigma is not None and measure.frame is not None
    return Evidence(
        measure=measure.id,
        value=measure.value,
        sigma=measure.sigma,
        threshold=rule.threshold,
        unit=measure.unit,
        frame=measure.frame,
        close=close,
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
