"""Ranks the ladders for an athlete, with reasons for and against and a stage to begin on.

The score adds what the ladder gives for the aim, how far the athlete can go on it now, and what it
suits; "jumps and throws instead" is ranked among them by the same facts.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from keen_kettle.core.content.ladders import Ladder, Teaching
from keen_kettle.core.teach.facts import Person
from keen_kettle.core.teach.gates import Obstacle, hard, obstacles
from keen_kettle.core.teach.school import TaughtStage, taught_stages

__all__ = ["JUMPS", "Choice", "choose_ladders"]

JUMPS = "jumps-and-throws"
"""The id of the honest answer that is no ladder."""

TALL_M, ADULT, CLASS = 1.88, 30, 6
"""From this stature, age, number of athletes on (house defaults)."""
PER_STRENGTH, ALL_OPEN, PER_OBSTACLE, PER_UNTESTED = 2.0, 5.0, -0.5, -0.15
HOUSE_ORDER, TOO_SELDOM, WOULD_WAIT = 1.0, -1.5, -4.0
SUITS = {
    "class": (2.0, "a class can do it in step"),
    "no class": (-1.0, "hard to teach to a class in step"),
    "experienced for a beginner": (-1.5, "asks for some training years"),
    "beginner for a beginner": (1.0, "made for beginners"),
    "experienced": (0.5, "suits somebody who has trained for a while"),
    "young": (1.0, "light enough for the young"),
    "too heavy for the young": (-1.0, "the young begin lighter: sticks, one arm, empty bar"),
    "adult": (1.0, "made for adults who begin"),
    "tall": (1.0, "begins above the floor, which helps the tall"),
}
"""What each fact adds to the score, and in what words. House defaults, weighed so that the cases in
which practitioners agree come out as they say (`tests/core/test_teach_cases.py`)."""
Reason = tuple[float, str, bool]
"""What it adds, in words, and whether it speaks for the ladder."""
SHARED = {"bar": 4, "dumbbell": 2, "kettlebell": 2, "dumbbell pair": 2, "stick": 1}
"""So many can share one in a class without long waits (house defaults)."""
STRENGTHS = (
    "does not serve the aim",
    "serves the aim a little",
    "serves the aim",
    "serves the aim well",
)


@dataclass(frozen=True)
class Choice:
    """A ladder for an athlete: score, first stage, how far it is open, reasons.

    `open` of `length` stages can be taught now; `start` is None where none can.
    """

    ladder: str
    name: str
    score: float
    start: str | None
    start_name: str
    open: int
    length: int
    reasons_for: tuple[str, ...]
    reasons_against: tuple[str, ...]


def choose_ladders(
    person: Person,
    teaching: Teaching,
    *,
    carried: Mapping[str, int] | None = None,
    class_size: int = 1,
    house_order: str = "",
) -> list[Choice]:
    """All ladders, the best first, with "jumps and throws" in its place among them.

    Parameters
    ----------
    carried : highest level passed so far in each skill (`carried_levels`)
    class_size : how many are taught at the same time
    house_order : the order that the house prefers (as in a ladder's `order`)
    """
    person = replace(person, levels={**person.levels, **(carried or {})})
    choices = [
        _choice(
            ladder, person, teaching, (carried or {}).get(ladder.skill, 0), class_size, house_order
        )
        for ladder in teaching.ladders.values()
    ]
    choices.append(_jumps(person, choices))
    return sorted(choices, key=lambda one: (one.start is None, -one.score, one.name))


def _choice(
    ladder: Ladder,
    person: Person,
    teaching: Teaching,
    carried: int,
    class_size: int,
    house_order: str,
) -> Choice:
    stages = taught_stages(ladder, person.school, teaching)
    first = _first_stage(stages, carried)
    reach, wall, untested = _reach(stages, first, person, teaching)
    length = len(stages)
    reasons = [
        _aim(ladder, person),
        *_open(stages, first, reach, wall, untested),
        *_suits(ladder, person, class_size),
        *_per_head(ladder, person, class_size),
    ]
    if 0 < first < length:
        begin_at = stages[first].stage.name
        reasons.append((0.0, f"what was learnt before carries over: begin at “{begin_at}”", True))
    if house_order and ladder.order == house_order:
        reasons.append((HOUSE_ORDER, "the house’s own order", True))
    if person.sessions_week < ladder.sessions:
        reasons.append((TOO_SELDOM, f"wants {ladder.sessions} sessions a week", False))
    begin = stages[first] if reach else None
    return Choice(
        ladder.id,
        ladder.name,
        round(sum(gain for gain, _, _ in reasons), 2),
        begin.id if begin else None,
        begin.stage.name if begin else "",
        reach,
        length,
        tuple(words for _, words, good in reasons if good and words),
        tuple(words for _, words, good in reasons if not good and words),
    )


def _aim(ladder: Ladder, person: Person) -> Reason:
    """How well the ladder serves the aim."""
    serves = {str(aim): strength for aim, strength in ladder.aims.items()}.get(person.aim, 0)
    return PER_STRENGTH * serves, f"{STRENGTHS[serves]}: {person.aim}", serves >= 2


def _open(
    stages: tuple[TaughtStage, ...],
    first: int,
    reach: int,
    wall: tuple[Obstacle, ...],
    untested: list[str],
) -> list[Reason]:
    """How much of the ladder can be taught now, and what stands in the way."""
    length, found = len(stages), list[Reason]()
    if reach:
        all_of_it = reach == length - first
        words = (
            "every stage of it is open" if all_of_it else f"{reach} of {length} stages are open now"
        )
        found.append((ALL_OPEN * (first + reach) / length, words, True))
    if wall:
        says = "; ".join(one.says for one in wall)
        known = first + reach < length
        words = f"“{stages[first + reach].stage.name}”: {says}" if known else ""
        found.append((PER_OBSTACLE * len(wall), words, False))
    if untested:
        words = f"to be screened on the way: {', '.join(untested)}"
        found.append((PER_UNTESTED * len(untested), words, False))
    return found


def _first_stage(stages: tuple[TaughtStage, ...], carried: int) -> int:
    """The first stage that asks more than was passed elsewhere in the family."""
    for place, taught in enumerate(stages):
        if taught.stage.level > carried:
            return place
    return max(len(stages) - 1, 0)


def _reach(
    stages: tuple[TaughtStage, ...], first: int, person: Person, teaching: Teaching
) -> tuple[int, tuple[Obstacle, ...], list[str]]:
    """How many stages running can be taught now, what stops it there, what is still untested."""
    untested: set[str] = set()
    for place in range(first, len(stages)):
        found = obstacles(stages[place].stage, person, teaching)
        wall = hard(found)
        if wall:
            return place - first, wall, sorted(untested)
        untested |= {
            teaching.checks[one.about].name for one in found if one.about in teaching.checks
        }
    return max(len(stages) - first, 0), (), sorted(untested)


def _suits(ladder: Ladder, person: Person, class_size: int) -> list[Reason]:
    """What the ladder suits and does not."""
    suits = set(ladder.suits)
    facts = []
    if class_size >= CLASS:
        facts.append("class" if "class" in suits else "no class")
    if person.beginner:
        known = (
            "experienced" if "experienced" in suits else "beginner" if "beginner" in suits else ""
        )
        facts += [f"{known} for a beginner"] if known else []
    elif "experienced" in suits:
        facts.append("experienced")
    if person.young:
        facts.append("young" if "young" in suits else "too heavy for the young")
    elif person.age is not None and person.age >= ADULT and person.beginner and "adult" in suits:
        facts.append("adult")
    if person.stature_m is not None and person.stature_m >= TALL_M and "tall" in suits:
        facts.append("tall")
    return [(gain, words, gain > 0) for gain, words in (SUITS[fact] for fact in facts)]


def _per_head(ladder: Ladder, person: Person, class_size: int) -> list[Reason]:
    """Whether there is enough of the implement for a class: equipment counts per head."""
    thing = "bar" if ladder.implement == "barbell" else ladder.implement
    shared = SHARED.get(thing)
    # Sticks are cut from broomsticks, and bars stand in racks: they are short only if counted so.
    count = person.counts.get(thing, None if thing in ("stick", "bar") else 1)
    if class_size < 2 or shared is None or count is None or class_size <= shared * count:
        return []
    words = f"{count} {thing}{'s' if count != 1 else ''} for {class_size}: most would wait"
    return [(WOULD_WAIT, words, False)]


def _jumps(person: Person, ladders: list[Choice]) -> Choice:
    """Jumps and throws: the more is shut or the less time there is, the better an answer.

    For most athletes of other sports they serve better than any lift and come first, unless the
    athlete lifts well already, or wants to.
    """
    good: list[str] = []
    against: list[str] = []
    score = {"sport power": 5.5, "general": 4.0}.get(person.aim, 0.0)
    (good if score else against).append(
        "jumps and throws train the same extension, without a bar"
        if score
        else "no way round the lifts for weightlifting"
    )
    if person.sessions_week <= 1 and person.aim != "weightlifting":
        score += 2.5
        good.append("one session a week leaves little time to learn a lift")
    best_open = max((one.open / one.length for one in ladders if one.length), default=0.0)
    if best_open < 0.34:
        score += 4
        good.append("most stages of every ladder are shut for now")
    elif best_open >= 0.8:
        against.append("a ladder is open nearly to its end")
        score -= 1
    if "back" in person.cautions and person.state_of("back-cleared") != "pass":
        score -= 1.5
        against.append("landing loads a back that is not cleared: ask a professional first")
    if person.aim == "sport power":
        if person.lifts_well or person.wants_lifts:
            why = "lifts well already" if person.lifts_well else "wants to lift"
            against.append(f"the athlete {why}: a ladder gives more from here")
            score -= 1
        else:
            score = max([score, *(one.score + 0.5 for one in ladders if one.start)])
            good.insert(0, "for most athletes of other sports they serve better than any lift")
    return Choice(
        JUMPS,
        "Jumps and throws instead",
        round(score, 2),
        JUMPS,
        "jumps, box jumps, throws",
        1,
        1,
        tuple(good),
        tuple(against),
    )
