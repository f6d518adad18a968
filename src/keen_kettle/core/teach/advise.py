"""The rule that says what comes next for an athlete on a stage, with its reason. The coach decides.

In this order, the first that holds:

1. pain, or a fault that is flagged for safety, in the newest visit: step back at once;
2. something on record forbids the stage: swap, or step back;
3. the athlete stays here for good, by an earlier decision: hold here;
4. the gate was met in two visits running: advance, or say what keeps the next stage shut;
5. far from the points twice running: step back;
6. no progress for four visits: swap to an equal stage elsewhere;
7. otherwise: stay, and the reason names what is missing.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from keen_kettle.core.content.ladders import Teaching
from keen_kettle.core.content.load import Fault
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.teach.facts import Person, Step, Visit
from keen_kettle.core.teach.gates import RUN, Obstacle, gate_run, hard, meets_gate, obstacles
from keen_kettle.core.teach.school import TaughtStage, movement_of, taught_stages
from keen_kettle.core.teach.swaps import Swap, equal_stages

__all__ = ["KINDS", "STUCK_AFTER", "Advice", "advise", "visits_here"]

KINDS = ("advance", "stay", "step back", "swap", "hold")
STUCK_AFTER = 4
"""Visits without progress after which a swap is suggested."""
FAR = 0.5
"""Fewer points than this share, twice running, and the stage is too hard for now."""


@dataclass(frozen=True)
class Advice:
    """What the rule suggests, why, and where it leads.

    `kind` is one of `KINDS`; `to` is (ladder, stage), None where the athlete stays; `facts` are
    the sentences behind the reason; `swaps` equal stages elsewhere, the best first.
    """

    kind: str
    reason: str
    facts: tuple[str, ...] = ()
    to: tuple[str, str] | None = None
    to_name: str = ""
    swaps: tuple[Swap, ...] = ()
    safety: bool = False
    stuck: bool = False


@dataclass(frozen=True)
class _Here:
    """The place that is judged: stages as taught, which one it is, what happened there."""

    person: Person
    teaching: Teaching
    stages: tuple[TaughtStage, ...]
    at: int
    visits: tuple[Visit, ...]
    steps: tuple[Step, ...]
    liked: Mapping[str, float]
    faults: Mapping[str, Fault]

    @property
    def taught(self) -> TaughtStage:
        return self.stages[self.at]

    @property
    def name(self) -> str:
        return self.taught.stage.name


def visits_here(ladder: str, stage: str, visits: Sequence[Visit]) -> tuple[Visit, ...]:
    """The newest unbroken run of visits to one stage, oldest first."""
    on_ladder = [one for one in sorted(visits, key=lambda one: one.on) if one.ladder == ladder]
    run: list[Visit] = []
    for visit in reversed(on_ladder):
        if visit.stage != stage:
            break
        run.append(visit)
    return tuple(reversed(run))


def advise(
    ladder: str,
    stage: str,
    person: Person,
    visits: Sequence[Visit],
    teaching: Teaching,
    *,
    steps: Sequence[Step] = (),
    faults: Mapping[str, Fault],
) -> Advice:
    """What comes next for an athlete who stands on a stage.

    Parameters
    ----------
    visits : every visit of the athlete that is known, in any order
    steps : the decisions taken so far, in any order
    faults : the catalogue; those flagged for safety step back at once
    """
    stages = taught_stages(teaching.ladders[ladder], person.school, teaching)
    places = [taught.id for taught in stages]
    if stage not in places:
        return _stage_is_gone(ladder, stage, stages, person, teaching)
    here = _Here(
        person,
        teaching,
        stages,
        places.index(stage),
        visits_here(ladder, stage, visits),
        tuple(sorted(steps, key=lambda one: one.on)),
        _likings(visits),
        faults,
    )
    for rule in (_safety, _forbidden, _held, _gate_met, _too_hard, _stuck):
        advice = rule(here)
        if advice is not None:
            return advice
    return _stay(here)


def _safety(here: _Here) -> Advice | None:
    if not here.visits:
        return None
    newest = here.visits[-1]
    seen = [one for one in newest.faults if one in here.faults and here.faults[one].safety]
    if not newest.pain and not seen:
        return None
    if newest.pain:
        why = "pain was flagged"
        facts = ("Pain or doubt goes to a licensed health professional.",)
    else:
        why = f"a fault that is flagged for safety was seen ({_fault_names(seen, here)})"
        facts = ("Safety comes before the gate.",)
    earlier = _earlier(here)
    if earlier is None:
        reason = f"On {_day(newest)} {why}, and there is no easier stage: rest from this ladder."
        return Advice("step back", reason, facts, safety=True)
    reason = f"On {_day(newest)} {why}: back to “{earlier.stage.name}” at once."
    return _to("step back", reason, here, earlier, facts, safety=True)


def _forbidden(here: _Here) -> Advice | None:
    """A caution or a failed check forbids the very stage that the athlete stands on."""
    against = [
        one
        for one in hard(obstacles(here.taught.stage, here.person, here.teaching))
        if one.kind in ("caution", "check")
    ]
    if not against:
        return None
    facts = tuple(_sentence(one.says) for one in against)
    swaps = tuple(_swaps(here))
    what_to_do = _what_to_do(against, here.teaching)
    if swaps:
        reason = f"“{here.name}” is not for now ({against[0].says}): swap to {swaps[0].name}, {swaps[0].reason}."
        return _swap(reason, swaps, (*facts, *what_to_do))
    earlier = _earlier(here)
    if earlier is None:
        reason = f"“{here.name}” is not for now ({against[0].says}), and nothing equal is open: jumps and throws meanwhile."
        return Advice("hold", reason, (*facts, *what_to_do))
    reason = f"“{here.name}” is not for now ({against[0].says}): back to “{earlier.stage.name}”."
    return _to("step back", reason, here, earlier, (*facts, *what_to_do))


def _held(here: _Here) -> Advice | None:
    """Once decided, holding stays until a coach decides otherwise."""
    of_ladder = [one for one in here.steps if one.ladder == here.taught.ladder]
    if of_ladder and of_ladder[-1].kind == "hold" and of_ladder[-1].stage == here.taught.id:
        since = of_ladder[-1].on
        return Advice(
            "hold",
            f"“{here.name}” is where this athlete stays, by your decision of {since.day} {since:%b %Y}.",
            _seen(here),
        )
    return None


def _gate_met(here: _Here) -> Advice | None:
    run = gate_run(here.taught, here.visits)
    if run < RUN:
        return None
    facts = (f"Gate: {here.taught.stage.gate.says}", f"Met in {run} visits running.")
    if here.at + 1 >= len(here.stages):
        reason = f"“{here.name}” is the last stage and its gate is met: this ladder is done. Load may rise from here."
        return Advice("hold", reason, facts)
    following = here.stages[here.at + 1]
    shut = obstacles(following.stage, here.person, here.teaching)
    if not shut:
        return _happy_here(here, following, facts) or _advance(here, following, facts)
    says = "; ".join(one.says for one in shut)
    if not hard(shut):
        reason = f"The gate of “{here.name}” is met; before “{following.stage.name}”: {says}. Screen it, then go on."
        return Advice("stay", reason, facts)
    swaps = tuple(_swaps(here))
    reason = f"The gate of “{here.name}” is met, and “{following.stage.name}” stays shut ({says}): hold here, which is a good plan."
    return Advice("hold", reason, (*facts, *_what_to_do(shut, here.teaching)), swaps=swaps)


def _happy_here(here: _Here, following: TaughtStage, facts: tuple[str, ...]) -> Advice | None:
    """Somebody who needs no more, likes this, and liked the next stage less: may stay for good."""
    if here.person.aim == "weightlifting":
        return None
    likes = [visit.enjoyment for visit in here.visits[-3:]]
    if not likes or sum(likes) / len(likes) < 0.5:
        return None
    tried = [one for one in here.steps if one.ladder == here.taught.ladder]
    came_back = any(
        before.stage == following.id and after.stage == here.taught.id
        for before, after in pairwise(tried)
    )
    deeper = _catches_deeper(here.taught, following)
    if came_back:
        why = f"“{following.stage.name}” was tried and left again"
    elif deeper and len(here.visits) >= STUCK_AFTER:
        why = f"the aim ({here.person.aim}) does not need “{following.stage.name}”"
    else:
        return None
    reason = f"“{here.name}” goes well and is liked, and {why}: hold here for good, or advance."
    return Advice("hold", reason, (*facts, "Liked in the last visits."), to=None)


def _catches_deeper(now: TaughtStage, following: TaughtStage) -> bool:
    """Whether the next stage is caught where this one was pulled, or caught in the squat."""
    first, second = movement_of(now.stage), movement_of(following.stage)
    if not isinstance(first, Derivative) or not isinstance(second, Derivative):
        return False
    if first.family == "jerk":
        return False
    newly = second.has_catch and not first.has_catch
    return newly or (second.receive in ("full", "ride-down") and first.receive == "power")


def _advance(here: _Here, following: TaughtStage, facts: tuple[str, ...]) -> Advice:
    reason = (
        f"The gate of “{here.name}” was met in two visits running: on to “{following.stage.name}”."
    )
    if _quick(here) and here.at + 2 < len(here.stages):
        after = here.stages[here.at + 2]
        if not obstacles(after.stage, here.person, here.teaching):
            facts = (
                *facts,
                f"The last stages took two visits each: “{after.stage.name}” may be tried in the same visit.",
            )
    return _to("advance", reason, here, following, facts)


def _quick(here: _Here) -> bool:
    """This stage and the one before it took no more visits than a gate needs."""
    advances = [
        one for one in here.steps if one.ladder == here.taught.ladder and one.kind == "advance"
    ]
    return len(here.visits) == RUN and bool(advances)


def _too_hard(here: _Here) -> Advice | None:
    last = here.visits[-2:]
    earlier = _earlier(here)
    if len(last) < 2 or earlier is None or any(one.share >= FAR or not one.asked for one in last):
        return None
    facts = tuple(f"{_day(one)}: {len(one.met)} of {one.asked} points." for one in last)
    reason = f"Fewer than half of the points of “{here.name}” in two visits running: back to “{earlier.stage.name}” for a while."
    return _to("step back", reason, here, earlier, facts)


def _stuck(here: _Here) -> Advice | None:
    if not _no_progress(here):
        return None
    facts = (
        f"Points in the last {STUCK_AFTER} visits: "
        + ", ".join(f"{len(one.met)} of {one.asked}" for one in here.visits[-STUCK_AFTER:])
        + ".",
        f"What the ladder says when stuck: {here.taught.stage.stuck}",
    )
    swaps = tuple(_swaps(here))
    if swaps:
        reason = f"{len(here.visits)} visits at “{here.name}”, the last {STUCK_AFTER} without progress: swap to {swaps[0].name}, {swaps[0].reason}."
        return _swap(reason, swaps, facts, stuck=True)
    reason = f"{len(here.visits)} visits at “{here.name}”, the last {STUCK_AFTER} without progress, and nothing equal is open: stay, and change the way. {here.taught.stage.stuck}"
    return Advice("stay", reason, facts, stuck=True)


def _no_progress(here: _Here) -> bool:
    """Four visits, none of which met the gate or did better than the best before it."""
    if len(here.visits) < STUCK_AFTER:
        return False
    last = here.visits[-STUCK_AFTER:]
    if any(meets_gate(here.taught, one) for one in last):
        return False
    best = max((one.share for one in here.visits[:-STUCK_AFTER]), default=last[0].share)
    return all(one.share <= best for one in last)


def _stay(here: _Here) -> Advice:
    if not here.visits:
        reason = f"“{here.name}” has not been visited yet. Gate: {here.taught.stage.gate.says}"
        return Advice("stay", reason)
    newest = here.visits[-1]
    if meets_gate(here.taught, newest):
        reason = (
            f"The gate of “{here.name}” was met once; once more in the next visit and it opens."
        )
        return Advice("stay", reason, _seen(here))
    missed = Counter(
        place
        for visit in here.visits[-3:]
        for place in range(min(visit.asked, len(here.taught.points)))
        if place not in visit.met
    )
    seen = [fault for fault in newest.faults if fault in here.taught.stage.watch]
    newest_missed = [place for place in missed if place not in newest.met]
    if newest_missed:
        place = max(newest_missed, key=lambda one: missed[one])
        reason = f"Stay on “{here.name}”: work on “{here.taught.points[place]}”."
    elif seen:
        reason = f"Stay on “{here.name}”: all points, but a watched fault was seen ({_fault_names(seen, here)})."
    else:
        reason = f"Stay on “{here.name}” until its gate is met: {here.taught.stage.gate.says}"
    return Advice("stay", reason, _seen(here))


def _stage_is_gone(
    ladder: str,
    stage: str,
    stages: tuple[TaughtStage, ...],
    person: Person,
    teaching: Teaching,
) -> Advice:
    """The athlete's school leaves the stage out (or the ladder was edited): the nearest one below."""
    whole = [one.id for one in teaching.ladders[ladder].stage]
    before = whole[: whole.index(stage)] if stage in whole else []
    left = [taught for taught in stages if taught.id in before] or list(stages[:1])
    if not left:
        return Advice("hold", "The chosen school leaves every stage of this ladder out.")
    to = left[-1]
    reason = f"This stage is not taught with the chosen school (or was taken out): “{to.stage.name}” is the nearest one before it."
    return Advice("swap", reason, (), (ladder, to.id), to.stage.name)


def _earlier(here: _Here) -> TaughtStage | None:
    """The nearest earlier stage that nothing forbids."""
    for taught in reversed(here.stages[: here.at]):
        if not hard(obstacles(taught.stage, here.person, here.teaching)):
            return taught
    return None


def _swaps(here: _Here) -> list[Swap]:
    return equal_stages(here.taught, here.person, here.teaching, here.liked)


def _swap(
    reason: str, swaps: tuple[Swap, ...], facts: tuple[str, ...], stuck: bool = False
) -> Advice:
    best = swaps[0]
    return Advice("swap", reason, facts, (best.ladder, best.stage), best.name, swaps, stuck=stuck)


def _to(
    kind: str,
    reason: str,
    here: _Here,
    taught: TaughtStage,
    facts: tuple[str, ...],
    safety: bool = False,
) -> Advice:
    return Advice(
        kind, reason, facts, (here.taught.ladder, taught.id), taught.stage.name, safety=safety
    )


def _likings(visits: Sequence[Visit]) -> dict[str, float]:
    """How each ladder was enjoyed, -1 to 1."""
    by_ladder: dict[str, list[int]] = {}
    for visit in visits:
        by_ladder.setdefault(visit.ladder, []).append(visit.enjoyment)
    return {ladder: sum(marks) / len(marks) for ladder, marks in by_ladder.items()}


def _seen(here: _Here) -> tuple[str, ...]:
    """The last visits, newest first."""
    newest = reversed(here.visits[-3:])
    return tuple(f"{_day(one)}: {len(one.met)} of {one.asked} points." for one in newest)


def _what_to_do(against: Sequence[Obstacle], teaching: Teaching) -> tuple[str, ...]:
    return tuple(
        teaching.checks[one.about].if_not for one in against if one.about in teaching.checks
    )


def _fault_names(ids: Sequence[str], here: _Here) -> str:
    return ", ".join(here.faults[one].name.lower() if one in here.faults else one for one in ids)


def _day(visit: Visit) -> str:
    return f"{visit.on.day} {visit.on:%b}"


def _sentence(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}."
