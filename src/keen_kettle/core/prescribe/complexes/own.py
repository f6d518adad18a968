"""Whether a coach's own movement can stand beside the known ones: its name, its pictures, its place."""

from collections.abc import Iterable, Mapping

from keen_kettle.core.content import OwnMovement
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import Helper, by_their_names, parse_movement
from keen_kettle.core.prescribe.complexes.written import read_part

__all__ = ["why_not_own"]


def why_not_own(
    one: OwnMovement, qualities: Iterable[str], others: Mapping[str, Helper] | None = None
) -> str:
    """What is wrong with an own movement, in plain words; empty where it can be kept.

    `qualities` are the ids that are known; `others` the other own movements (see `by_their_names`).
    """
    known = set(qualities)
    unknown = [name for name in one.trains if name not in known]
    if unknown:
        return f"There is no quality “{unknown[0]}”. There are: {', '.join(sorted(known))}."
    for name in (one.name, *one.also):
        trouble = _why_no_name(name, others or {})
        if trouble:
            return trouble
    if one.shown_as:
        try:
            parse_movement(one.shown_as)
        except UnknownLift as error:
            return f"Shown as: {error}"
    return ""


def _why_no_name(name: str, others: Mapping[str, Helper]) -> str:
    if read_part(name) != (name, 1) or not by_their_names((Helper(name, "", ""),)).keys() - {""}:
        return f"“{name}” cannot be a name: a string would read it as a count or as several parts."
    try:
        known = parse_movement(name, others)
    except UnknownLift:
        return ""
    return f"“{name}” is known here already, as “{known.name}”. Choose another name."
