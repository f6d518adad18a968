"""Findings become one cause: correct the earliest fault that explains the others.

The catalogue's "leads to" makes a graph. A fault that was seen explains another if a way leads
from it to the other through faults that were seen or that this clip cannot judge. The chief
finding is a safety fault if there is one; otherwise the fault that nothing else explains, the one
that explains most first, then the earliest phase, then the most severe. A finding that is only
close to its threshold explains nothing plainer than itself.
"""

from dataclasses import dataclass

from keen_kettle.core.content import Content
from keen_kettle.core.faults.judge import Finding
from keen_kettle.core.lifts import PHASES

__all__ = ["ORDER", "Diagnosis", "find_cause"]

ORDER = (PHASES[0], "dip", "drive", *PHASES[1:])
"""The phases of a pull and of a jerk, earliest first."""


@dataclass(frozen=True)
class Diagnosis:
    """The chief finding, the way from it to each fault it explains, and the faults it does not."""

    chief: Finding
    chains: tuple[tuple[str, ...], ...]
    others: tuple[Finding, ...]


def find_cause(
    findings: list[Finding], content: Content, judged: frozenset[str] | None = None
) -> Diagnosis | None:
    """The one thing to correct first; None when nothing was found.

    `judged` are the faults that this clip can judge; without it, all that have rules.
    """
    if judged is None:
        judged = frozenset(name for name, fault in content.faults.items() if fault.rules)
    if not findings:
        return None
    explained = {finding.fault: _ways(finding, findings, content, judged) for finding in findings}
    reached = {target for ways in explained.values() for target in ways}

    def order(finding: Finding) -> tuple[bool, bool, bool, int, int, float]:
        fault = content.faults[finding.fault]
        return (
            not fault.safety,
            finding.fault in reached,
            finding.close,
            -len(explained[finding.fault]),
            ORDER.index(fault.phase) if fault.phase in ORDER else len(ORDER),
            -finding.severity,
        )

    chief = min(findings, key=order)
    ways = explained[chief.fault]
    others = tuple(f for f in findings if f is not chief and f.fault not in ways)
    return Diagnosis(chief, tuple(ways.values()), others)


def _ways(
    start: Finding, findings: list[Finding], content: Content, judged: frozenset[str]
) -> dict[str, tuple[str, ...]]:
    """The shortest way from one finding to each other that it explains."""
    plain = {finding.fault: finding for finding in findings}
    ways: dict[str, tuple[str, ...]] = {start.fault: (start.fault,)}
    queue = [start.fault]
    while queue:
        here = queue.pop(0)
        for after in content.faults[here].leads_to:
            passable = after in plain or after not in judged
            if after not in ways and passable:
                ways[after] = (*ways[here], after)
                queue.append(after)
    return {
        name: way
        for name, way in ways.items()
        if name != start.fault and name in plain and (not start.close or plain[name].close)
    }
