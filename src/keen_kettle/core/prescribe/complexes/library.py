"""The movements that a complex can be made of: what each trains, how hard it is, where it begins.

What a movement trains follows from its parts: it is said to train what it isolates, so a full lift
from the floor, which contains everything, trains little on its own. Difficulty (1 simplest) orders
what is otherwise equal. Both are house defaults.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from keen_kettle.core.lifts import HELPERS, Derivative, Helper, Movement, all_derivatives
from keen_kettle.core.lifts.nature import relative_range
from keen_kettle.core.prescribe.complexes.joints import states_of

__all__ = ["SCHOOLS", "Member", "fits_school", "library", "member_of", "qualities_of"]

SCHOOLS = {
    "one of each": "one of each part, every part another movement",
    "rising range": "the same lift from ever lower starts",
    "pull before lift": "a pull shows the bar the way, then the lift follows it",
}
"""The schools of stringing movements together."""

STARTS = ("floor", "below knee", "above knee", "mid-thigh", "hip", "tall")
BLOCK_STARTS = ("knee", "mid-thigh")


@dataclass(frozen=True)
class Member:
    """A movement as part of a complex.

    `range_up` is the way of the bar against the whole lift's (0 for what is no pull), `overhead`
    whether it ends with the load overhead.
    """

    movement: Movement
    trains: frozenset[str]
    difficulty: int
    overhead: bool
    range_up: float

    @property
    def name(self) -> str:
        return self.movement.name

    @property
    def pull(self) -> bool:
        """A pull without a catch."""
        one = self.movement
        return isinstance(one, Derivative) and one.family != "jerk" and one.receive == "none"

    @property
    def caught(self) -> bool:
        """Whether the load comes from below into the rack or overhead."""
        one = self.movement
        if isinstance(one, Derivative):
            return one.receive != "none"
        return one.nature is not None and one.nature.caught

    @property
    def tired(self) -> bool:
        """At the end of a string it trains speed when tired: a fast lift that is caught."""
        one = self.movement
        return isinstance(one, Derivative) and one.has_catch and one.support != "floor"


PULL_TRAINS = {
    "deadlift": ("floor",),
    "shrug": ("finish",),
    "jump shrug": ("finish",),
    "high pull": ("finish", "turnover"),
}
JERK_TRAINS = {
    "push": ("dip", "lock-out"),
    "power": ("dip", "lock-out"),
    "split": ("feet", "dip"),
    "full": ("below", "lock-out"),
}
HELPER_TRAINS = {
    "front squat": ("below",),
    "front squat, strap rack": ("below",),
    "front squat, crossed arms": ("below",),
    "goblet squat": ("below",),
    "back squat": ("below",),
    "overhead squat": ("below", "feet"),
    "quarter overhead squat": ("below",),
    "snatch balance": ("under",),
    "Romanian deadlift": ("close",),
    "deadlift to knee": ("floor",),
    "snatch deadlift to knee": ("floor",),
    "clean and jerk": ("dip", "feet"),
    "dip and drive": ("dip",),
    "strict press": ("lock-out",),
    "press in split": ("feet", "lock-out"),
    "jerk balance": ("feet", "dip"),
    "snatch-grip push press": ("lock-out",),
    "overhead support": ("lock-out",),
    "upright row, turnover, press": ("turnover",),
    "start position hold": ("floor",),
    "snatch start position hold": ("floor",),
    "front rack hold": ("below",),
    "slide to above knee and stand": ("close",),
    "extension rehearsal": ("finish",),
    "one-arm swing": ("finish",),
    "dumbbell swing": ("finish",),
    "high swing, elbow close": ("close",),
    "one-arm high pull": ("finish", "turnover"),
}
HELPER_DIFFICULTY = {
    "overhead squat": 4,
    "snatch balance": 6,
    "jerk balance": 4,
    "press in split": 3,
    "clean and jerk": 8,
    "strict press": 2,
    "snatch-grip push press": 3,
}


def qualities_of(movement: Movement) -> frozenset[str]:
    """What a movement trains, as ids of the qualities."""
    if isinstance(movement, Helper):
        if movement.nature is not None:
            return frozenset(movement.nature.trains)
        return frozenset(HELPER_TRAINS.get(movement.name, ()))
    one = movement
    if one.family == "jerk":
        behind = ("lock-out", "feet") if one.receive == "split" else ("lock-out",)
        return frozenset(behind if one.start == "behind the neck" else JERK_TRAINS[one.receive])
    if one.action in PULL_TRAINS:
        return frozenset(PULL_TRAINS[one.action])
    low = {"floor": "floor", "mid-shin": "floor"}.get(one.start)
    middle = "close" if one.start in ("below knee", "knee", "above knee") else None
    if one.action == "pull":
        return frozenset(filter(None, (low, middle, "finish")))
    if one.action == "muscle":
        return frozenset(filter(None, (middle, "turnover")))
    if one.start == "tall":
        return frozenset(("turnover", "under"))
    caught = {
        "power": ("finish",) if low or middle else ("finish", "turnover"),
        "full": ("under",) if middle or not low else ("floor",),
        "split": ("feet",),
        "ride-down": ("below",),
    }[one.receive]
    return frozenset(filter(None, (middle, *caught)))


def _difficulty_of(movement: Movement) -> int:
    """How hard a movement is to do well, 1 (simplest) to 9."""
    if isinstance(movement, Helper):
        if movement.nature is not None:
            return movement.nature.difficulty
        return HELPER_DIFFICULTY.get(movement.name, 2)
    one = movement
    if one.family == "jerk":
        return {"push": 3, "power": 4, "split": 5, "full": 8}[one.receive]
    base = {"none": 2, "muscle": 3, "power": 4, "split": 6, "ride-down": 5, "full": 6}[one.receive]
    high = one.action == "high pull"
    return base + high + (one.start == "floor") + (one.family == "snatch" and one.has_catch)


@lru_cache(maxsize=4000)
def member_of(movement: Movement) -> Member:
    """A movement with what a complex needs to know of it."""
    ends = states_of(movement)
    pulled = isinstance(movement, Derivative) and movement.family != "jerk"
    return Member(
        movement,
        qualities_of(movement),
        _difficulty_of(movement),
        bool(ends) and all(post.place == "overhead" for _, post in ends),
        relative_range(movement) if pulled else 0.0,  # type: ignore[arg-type]
    )


def fits_school(school: str, members: Sequence[Member], family: str) -> bool:
    """Whether a string follows a school; every school but "rising range" repeats no movement.

    Rising range: at least three lifts of the family, all done alike, each from a lower start than
    the one before. Pull before lift: the first part is a pull and the next lift of its family that
    is caught follows at once.
    """
    if school == "rising range":
        lifts = [one.movement for one in members]
        same = {
            (one.family, one.action, one.receive)
            for one in lifts
            if isinstance(one, Derivative) and one.family == family
        }
        rises = all(later.range_up > before.range_up + 1e-9 for before, later in pairwise(members))
        lifted = all(isinstance(one, Derivative) and one.family == family for one in lifts)
        return lifted and len(same) == 1 and rises and len(members) >= 2
    if len({one.name for one in members}) < len(members):
        return False
    if school == "pull before lift":
        first, second = members[0], members[1] if len(members) > 1 else members[0]
        return first.pull and second.caught and second.movement.family == family
    return True


@lru_cache(maxsize=64)
def library(
    implement: str, family: str, blocks: bool = False, own: tuple[Helper, ...] = ()
) -> tuple[Member, ...]:
    """The movements that go together round a lift of a family, with one implement.

    Snatch: its own family, what is done overhead with its grip, and its squats; clean and jerk: both
    families and the front squat. With `blocks` the lifts from blocks take the place of those from
    the floor. A coach's `own` movements go with them where they are held alike.
    """
    families = ("snatch",) if family == "snatch" else ("clean", "jerk")
    found: list[Movement] = []
    for one in all_derivatives():
        if one.implement != implement or one.countermovement:
            continue
        behind = one.family == "jerk" and one.start == "behind the neck"
        if one.family not in families and not (family == "snatch" and behind):
            continue
        if one.support == ("floor" if blocks else "blocks"):
            continue
        if one.family == "jerk" or one.start in _usual_starts(one):
            found.append(one)
    for helper in (*HELPERS.values(), *own):
        held = helper.implement == implement or (implement == "stick" and helper.areas)
        if held and helper.family != "hold" and _of_family(helper, family):
            found.append(helper)
    members = [member_of(one) for one in found]
    return tuple(one for one in members if one.trains and states_of(one.movement))


def _usual_starts(one: Derivative) -> tuple[str, ...]:
    """From where a lift is usually done in a complex: short movements from high starts."""
    if one.action in ("jump shrug", "shrug"):
        return ("mid-thigh", "hip")
    if one.support == "blocks":
        return BLOCK_STARTS
    return (*STARTS, "mid-shin") if one.implement == "stick" else STARTS


def _of_family(helper: Helper, family: str) -> bool:
    grips = {pre.grip for pre, _ in states_of(helper)}
    wanted = "snatch" if family == "snatch" else "clean"
    floor = any(pre.place == "floor" for pre, _ in states_of(helper)) and helper.implement == "none"
    return bool(grips & {wanted, "neutral"}) and not floor
