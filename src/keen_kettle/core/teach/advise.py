"""The rule that says what comes next for an athlete on a stage, with its reason. The coach decides.

In this order, the first that holds:

1. pain, or a fault that is flagged for safety, in the newest visit: step back at once (a round back
   with a stick or an empty bar: mend the set-up);
2. something on record forbids the stage: swap, or step back;
3. the athlete stays here for good, by an earlier decision: hold here;
4. the weeks that the plan gives to the stage are not over: stay;
5. the athlete is afraid: stay, and what takes the fear away;
6. the gate was met (in two visits running; in a session's pace, in this one): advance, or say what
   keeps the next stage shut;
7. the sides differ: the weaker one leads;
8. one fault keeps coming back: what mends it first;
9. far from the points twice running: step back;
10. no progress for four visits: swap to an equal stage elsewhere;
11. otherwise: stay, and the reason names what is missing.

What is still untested for the very stage is said whatever the rule finds, and so is the load.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from keen_kettle.core.content.ladders import Teaching
from keen_kettle.core.content.load import Fault
from keen_kettle.core.lifts import Derivative
from keen_kettle.core.teach.facts import Person, Step, Visit
from keen_kettle.core.teach.gates import (
    RUN,
    Obstacle,
    gate_run,
    hard,
    meets_gate,
    meets_in_session,
    obstacles,
)
from keen_kettle.core.teach.load_verdict import SMALLEST_STEP_KG, LoadAdvice, judge_load
from keen_kettle.core.teach.places import carried_levels
from keen_kettle.core.teach.school import TaughtStage, movement_of, taught_stages
from keen_kettle.core.teach.standing import Standing, day_of, visits_here
from keen_kettle.core.teach.swaps import Swap, equal_stages, pulls_instead

__all__ = ["KINDS", "STUCK_AFTER", "Advice", "advise", "visits_here"]

KINDS = ("advance", "stay", "step back", "swap", "hold")
STUCK_AFTER = 4
"""Visits without progress after which a swap is suggested."""
KEEPS_COMING, GIVEN_UP = 3, 8
"""A fault in so many of the last four visits is mended first; after so many visits that has failed."""
FAR = 0.5
"""Fewer points than this share, twice running, and the stage is too hard for now."""
USUAL_WEEKS = 3
"""A block lasts so long where neither plan nor stage say otherwise."""
LIGHT = ("body", "stick", "empty bar")
LIGHT_KG = 20.0
RECEIVING = ("shoulder", "wrist", "elbow")
RECEIVED = (
    "front-rack",
    "pain-free-rack",
    "pain-free-overhead",
    "overhead-quarter",
    "overhead-full",
)


@dataclass(frozen=True)
class Advice:
    """What the rule suggests, why, and where it leads.

    `kind` is one of `KINDS`; `to` is (ladder, stage), None where the athlete stays; `facts` are
    the sentences behind the reason; `swaps` equal stages elsewhere, the best first; `load` the
    verdict on the newest load.
    """

    kind: str
    reason: str
    facts: tuple[str, ...] = ()
    to: tuple[str, str] | None = None
    to_name: str = ""
    swaps: tuple[Swap, ...] = ()
    safety: bool = False
    stuck: bool = False
    load: LoadAdvice | None = None


def advise(
    ladder: str,
    stage: str,
    person: Person,
    visits: Sequence[Visit],
    teaching: Teaching,
    *,
    steps: Sequence[Step] = (),
    faults: Mapping[str, Fault],
    pace: str = "",
    weeks: int = 0,
    step_kg: float = SMALLEST_STEP_KG,
) -> Advice:
    """What comes next for an athlete who stands on a stage.

    Parameters
    ----------
    visits : every visit of the athlete that is known, in any order
    steps : the decisions taken so far, in any order
    faults : the catalogue; those flagged for safety step back at once
    pace, weeks : those of the athlete's group; empty and 0 take the ladder's and the stage's
    step_kg : the smallest step that the plates at hand can make
    """
    person = replace(person, levels={**carried_levels(steps, teaching), **person.levels})
    stages = taught_stages(teaching.ladders[ladder], person.school, teaching)
    places = [taught.id for taught in stages]
    if stage not in places:
        return _stage_is_gone(ladder, stage, stages, teaching)
    here = Standing(
        person,
        teaching,
        stages,
        places.index(stage),
        visits_here(ladder, stage, visits),
        tuple(sorted(steps, key=lambda one: one.on)),
        _likings(visits),
        faults,
        pace or teaching.ladders[ladder].pace,
        weeks,
    )
    advice = next((found for rule in RULES if (found := rule(here)) is not None), None)
    advice = advice or _stay(here)
    load = None if advice.safety else judge_load(here.taught, here.visits, step_kg)
    facts = (*here.untested(), *advice.facts, *((load.says,) if load is not None else ()))
    return replace(advice, facts=facts, load=load)


# What stands above the gate


def _safety(here: Standing) -> Advice | None:
    newest = here.newest
    if newest is None:
        return None
    seen = [one for one in newest.faults if one in here.faults and here.faults[one].safety]
    if not newest.pain and not seen:
        return None
    if newest.pain:
        why = "pain was flagged"
        facts: tuple[str, ...] = ("Pain or doubt goes to a licensed health professional.",)
    elif seen == ["setup-back-round"] and _is_light(here, newest):
        reason = (
            f"On {day_of(newest)} the back was not flat, and the load is nothing yet: stay on “{here.name}” "
            "and mend the set-up. Brace first, said aloud; raise the bar, or stop higher."
        )
        return Advice("stay", reason, here.seen(), safety=True)
    else:
        why = f"a fault that is flagged for safety was seen ({here.fault_names(seen)})"
        facts = ("Safety comes before the gate.",)
    earlier = here.earlier()
    if earlier is None:
        reason = f"On {day_of(newest)} {why}, and there is no easier stage: rest from this ladder."
        return Advice("step back", reason, facts, safety=True)
    reason = f"On {day_of(newest)} {why}: back to “{earlier.stage.name}” at once."
    return _to("step back", reason, here, earlier, facts, safety=True)


def _is_light(here: Standing, visit: Visit) -> bool:
    load = here.taught.stage.dose.load
    return load in LIGHT and (visit.load_kg is None or visit.load_kg <= LIGHT_KG)


def _forbidden(here: Standing) -> Advice | None:
    """A caution or a failed check forbids the very stage that the athlete stands on."""
    against = [
        one
        for one in hard(obstacles(here.taught.stage, here.person, here.teaching))
        if one.kind in ("caution", "check")
    ]
    if not against:
        return None
    says = against[0].says
    facts = (*(_sentence(one.says) for one in against), *_what_to_do(against, here.teaching))
    earlier = here.earlier()
    only_receiving = all(one.about in (*RECEIVING, *RECEIVED) for one in against)
    swaps: tuple[Swap, ...] = ()
    if only_receiving and not (earlier is not None and _pulls(earlier)):
        swaps = tuple(pulls_instead(here.taught, here.person, here.teaching))
    if not only_receiving:
        swaps = tuple(_swaps(here))
    if swaps:
        reason = (
            f"“{here.name}” is not for now ({says}): swap to {swaps[0].name}, {swaps[0].reason}."
        )
        return _swap(reason, swaps, facts)
    if earlier is None:
        reason = f"“{here.name}” is not for now ({says}), and nothing equal is open: jumps and throws meanwhile."
        return Advice("hold", reason, facts)
    reason = f"“{here.name}” is not for now ({says}): back to “{earlier.stage.name}”."
    return _to("step back", reason, here, earlier, facts)


def _pulls(taught: TaughtStage) -> bool:
    """Whether a stage extends with a barbell and receives nothing."""
    movement = movement_of(taught.stage)
    return (
        isinstance(movement, Derivative)
        and movement.implement == "barbell"
        and movement.action in ("pull", "high pull", "jump shrug", "shrug")
    )


def _held(here: Standing) -> Advice | None:
    """Once decided, holding stays until a coach decides otherwise."""
    of_ladder = [one for one in here.steps if one.ladder == here.taught.ladder]
    if of_ladder and of_ladder[-1].kind == "hold" and of_ladder[-1].stage == here.taught.id:
        since = of_ladder[-1].on
        return Advice(
            "hold",
            f"“{here.name}” is where this athlete stays, by your decision of {since.day} {since:%b %Y}.",
            here.seen(),
        )
    return None


def _by_plan(here: Standing) -> Advice | None:
    """In a block the weeks decide first, whatever the points say."""
    if here.pace != "block" or not here.visits:
        return None
    weeks = here.weeks or here.taught.stage.weeks or USUAL_WEEKS
    spent = here.weeks_here()
    if spent >= weeks:
        return None
    reason = (
        f"Stay on “{here.name}” by plan: week {spent + 1} of {weeks}. The points decide after that."
    )
    return Advice("stay", reason, here.seen())


def _afraid(here: Standing) -> Advice | None:
    newest = here.newest
    if newest is None or newest.confidence != "afraid":
        return None
    mends = [here.faults[one].remedy for one in newest.faults if one in here.faults]
    mend = next(
        (one for one in mends if one), "Less load, a higher start, and letting go practised."
    )
    reason = f"Stay on “{here.name}” until it is calm: the athlete is afraid. {mend}"
    return Advice("stay", reason, here.seen())


# The gate


def _gate_met(here: Standing) -> Advice | None:
    session = here.pace == "session"
    run = gate_run(here.taught, here.visits)
    newest = here.newest
    if session and (newest is None or not meets_in_session(here.taught, newest)):
        return None
    if run < (1 if session else RUN):
        return None
    met = "Met in this session." if session else f"Met in {run} visits running."
    facts = (f"Gate: {here.taught.stage.gate.says}", met)
    following = here.following
    if following is None:
        reason = f"“{here.name}” is the last stage and its gate is met: this ladder is done. Load may rise from here."
        return Advice("hold", reason, facts)
    shut = obstacles(following.stage, here.person, here.teaching)
    if not shut:
        return _happy_here(here, following, facts) or _advance(here, following, facts)
    says = "; ".join(one.says for one in shut)
    if not hard(shut):
        reason = f"The gate of “{here.name}” is met; before “{following.stage.name}”: {says}. Screen it, then go on."
        return Advice("stay", reason, facts)
    round_it = _way_round(here, shut)
    if round_it is not None:
        reason = f"The gate of “{here.name}” is met. “{following.stage.name}” {says}: go round it, on to “{round_it.stage.name}”."
        return _to("advance", reason, here, round_it, facts)
    swaps = tuple(_swaps(here))
    reason = f"The gate of “{here.name}” is met, and “{following.stage.name}” stays shut ({says}): hold here, which is a good plan."
    return Advice("hold", reason, (*facts, *_what_to_do(shut, here.teaching)), swaps=swaps)


def _way_round(here: Standing, shut: Sequence[Obstacle]) -> TaughtStage | None:
    """Where only a thing is missing, the next stage that does without it."""
    if any(one.kind != "equipment" for one in hard(shut)):
        return None
    for taught in here.stages[here.at + 2 :]:
        if not obstacles(taught.stage, here.person, here.teaching):
            return taught
    return None


def _happy_here(here: Standing, following: TaughtStage, facts: tuple[str, ...]) -> Advice | None:
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


def _advance(here: Standing, following: TaughtStage, facts: tuple[str, ...]) -> Advice:
    if here.pace == "session":
        reason = f"Every point of “{here.name}” over good reps in a row: on to “{following.stage.name}”, in the same visit."
    else:
        reason = f"The gate of “{here.name}” was met in two visits running: on to “{following.stage.name}”."
        wary = here.newest is not None and here.newest.confidence == "wary"
        if wary:
            facts = (*facts, "The athlete is wary: begin the new stage light, and ask again.")
    return _to("advance", reason, here, following, facts)


# What is in the way of it


def _sides(here: Standing) -> Advice | None:
    """A difference between the sides is worked on, and is no standing still."""
    newest = here.newest
    if newest is None or "side-difference" not in newest.faults or newest.share < 1:
        return None
    reason = f"“{here.name}” has every point, and one side lags: the weaker side leads and gets one more set."
    return Advice("stay", reason, here.seen())


def _keeps_coming(here: Standing) -> Advice | None:
    """One fault in most of the last visits: its own drill before any change of stage."""
    if not STUCK_AFTER <= len(here.visits) < GIVEN_UP:
        return None
    counts = Counter(one for visit in here.visits[-STUCK_AFTER:] for one in set(visit.faults))
    for fault, count in counts.most_common():
        known = here.faults.get(fault)
        if count >= KEEPS_COMING and known is not None and known.remedy:
            reason = (
                f"{known.name} in {count} of the last {STUCK_AFTER} visits at “{here.name}”: "
                f"stay, and mend that first. {known.remedy}"
            )
            return Advice("stay", reason, here.seen(), stuck=True)
    return None


def _too_hard(here: Standing) -> Advice | None:
    last = here.visits[-2:]
    earlier = here.earlier()
    if len(last) < 2 or earlier is None or any(one.share >= FAR or not one.asked for one in last):
        return None
    facts = tuple(f"{day_of(one)}: {len(one.met)} of {one.asked} points." for one in last)
    reason = f"Fewer than half of the points of “{here.name}” in two visits running: back to “{earlier.stage.name}” for a while."
    return _to("step back", reason, here, earlier, facts)


def _stuck(here: Standing) -> Advice | None:
    if not _no_progress(here):
        return None
    facts = (
        f"Points in the last {STUCK_AFTER} visits: "
        + ", ".join(f"{len(one.met)} of {one.asked}" for one in here.visits[-STUCK_AFTER:])
        + ".",
        f"What the ladder says when stuck: {here.taught.stage.stuck}",
    )
    if here.weeks_here() < here.taught.stage.weeks:
        reason = f"Stay on “{here.name}” by plan: up to {here.taught.stage.weeks} weeks here are usual, and nobody is hurried. {here.taught.stage.stuck}"
        return Advice("stay", reason, facts)
    swaps = tuple(_swaps(here))
    if swaps:
        reason = f"{len(here.visits)} visits at “{here.name}”, the last {STUCK_AFTER} without progress: swap to {swaps[0].name}, {swaps[0].reason}."
        return _swap(reason, swaps, facts, stuck=True)
    reason = f"{len(here.visits)} visits at “{here.name}”, the last {STUCK_AFTER} without progress, and nothing equal is open: stay, and change the way. {here.taught.stage.stuck}"
    return Advice("stay", reason, facts, stuck=True)


def _no_progress(here: Standing) -> bool:
    """Four visits, none of which met the gate or did better than the best before it."""
    if len(here.visits) < STUCK_AFTER:
        return False
    last = here.visits[-STUCK_AFTER:]
    if any(meets_gate(here.taught, one) for one in last):
        return False
    best = max((one.share for one in here.visits[:-STUCK_AFTER]), default=last[0].share)
    return all(one.share <= best for one in last)


RULES = (
    *(_safety, _forbidden, _held, _by_plan, _afraid, _gate_met, _sides),
    *(_keeps_coming, _too_hard, _stuck),
)


def _stay(here: Standing) -> Advice:
    newest = here.newest
    if newest is None:
        first = "".join(f" {one}" for one in here.untested()[:1])
        reason = (
            f"“{here.name}” has not been visited yet.{first} Gate: {here.taught.stage.gate.says}"
        )
        return Advice("stay", reason)
    if meets_gate(here.taught, newest):
        if here.pace == "session":
            reason = f"Every point of “{here.name}”: a few more good reps in a row, and on."
        else:
            reason = (
                f"The gate of “{here.name}” was met once; once more in the next visit and it opens."
            )
        return Advice("stay", reason, here.seen())
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
        reason = f"Stay on “{here.name}”: all points, but a watched fault was seen ({here.fault_names(seen)})."
    else:
        reason = f"Stay on “{here.name}” until its gate is met: {here.taught.stage.gate.says}"
    return Advice("stay", reason, here.seen())


def _stage_is_gone(
    ladder: str, stage: str, stages: tuple[TaughtStage, ...], teaching: Teaching
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


def _swaps(here: Standing) -> list[Swap]:
    return equal_stages(here.taught, here.person, here.teaching, here.liked)


def _swap(
    reason: str, swaps: tuple[Swap, ...], facts: tuple[str, ...], stuck: bool = False
) -> Advice:
    best = swaps[0]
    return Advice("swap", reason, facts, (best.ladder, best.stage), best.name, swaps, stuck=stuck)


def _to(
    kind: str,
    reason: str,
    here: Standing,
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


def _what_to_do(against: Sequence[Obstacle], teaching: Teaching) -> tuple[str, ...]:
    return tuple(
        teaching.checks[one.about].if_not for one in against if one.about in teaching.checks
    )


def _sentence(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}."
