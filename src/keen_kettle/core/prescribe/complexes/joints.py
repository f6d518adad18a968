"""Where the load is before and after a movement, and the legal moves between two movements.

A state is a place, a grip and a stance. A bar overhead can be lowered to the back, to the front
rack or to the hip; from the rack to the hip; from the hip into a hang or to the floor. It is never
lifted to another place between two parts: that is a movement. The grip changes only where the
hands are free to move, on the floor, on blocks or on the back. The feet can be set anew anywhere.
"""

from collections import deque
from dataclasses import dataclass, replace
from functools import cache, lru_cache

from keen_kettle.core.lifts import HIGH_HANG, LOW_HANG, STANCES, Derivative, Helper, Movement

__all__ = ["Act", "Joint", "State", "joint", "states_of", "way", "why_not"]

HANG = {
    **dict.fromkeys(("mid-shin", "below knee", "knee"), LOW_HANG),
    **dict.fromkeys(("above knee", "mid-thigh"), HIGH_HANG),
    **dict.fromkeys(("hip", "tall"), "hip"),
}


@dataclass(frozen=True, order=True)
class State:
    """Place, grip ("snatch", "clean", "neutral" for bells) and stance between two movements."""

    place: str
    grip: str
    stance: str = "hip width"


@dataclass(frozen=True)
class Act:
    """One move between two movements, as it is said, and the state after it."""

    says: str
    after: State


@dataclass(frozen=True)
class Joint:
    """The way from one movement to the next; `why_not` says why there is none."""

    acts: tuple[Act, ...] = ()
    before: State | None = None
    why_not: str = ""

    @property
    def legal(self) -> bool:
        return not self.why_not

    @property
    def says(self) -> str:
        return ", ".join(act.says for act in self.acts) or "go straight on"


@cache
def states_of(movement: Movement) -> tuple[tuple[State, State], ...]:
    """The ways a movement can be begun, each with the state in which it ends.

    Empty for what is done with nothing in the hands, or does not belong into a complex.
    """
    bar = movement.implement in ("barbell", "stick")
    made = (
        _states_of_lift(movement, bar)
        if isinstance(movement, Derivative)
        else tuple(_states_of_helper(movement))
    )
    if bar:
        return tuple(made)
    return tuple((replace(a, grip="neutral"), replace(b, grip="neutral")) for a, b in made)


def _states_of_lift(one: Derivative, bar: bool) -> tuple[tuple[State, State], ...]:
    landed = one.receive in ("power", "full", "ride-down")
    stance = "squat width" if landed else "hip width"
    if one.family == "jerk":
        behind = one.start == "behind the neck"
        grips = ("clean", "snatch") if behind and bar else ("clean",)
        place = "back" if behind else "front rack"
        return tuple((State(place, grip), State("overhead", grip, stance)) for grip in grips)
    grip = one.family
    begins = one.support if one.support in ("floor", "blocks") else HANG[one.start]
    if one.receive == "none":
        return ((State(begins, grip), State("hip", grip)),)
    ends = "overhead" if one.family == "snatch" else "front rack"
    return ((State(begins, grip), State(ends, grip, stance)),)


WIDE, SPLIT = "squat width", "split"
HELPER_STATES: dict[str, tuple[tuple[State, State], ...]] = {
    "front squat": ((State("front rack", "clean", WIDE), State("front rack", "clean", WIDE)),),
    "goblet squat": ((State("front rack", "clean", WIDE), State("front rack", "clean", WIDE)),),
    "back squat": tuple(
        (State("back", grip, WIDE), State("back", grip, WIDE)) for grip in ("clean", "snatch")
    ),
    "overhead squat": ((State("overhead", "snatch", WIDE), State("overhead", "snatch", WIDE)),),
    "quarter overhead squat": (
        (State("overhead", "snatch", WIDE), State("overhead", "snatch", WIDE)),
    ),
    "snatch balance": ((State("back", "snatch"), State("overhead", "snatch", WIDE)),),
    "Romanian deadlift": tuple(
        (State("hip", grip), State("hip", grip)) for grip in ("clean", "snatch")
    ),
    "deadlift to knee": ((State("floor", "clean"), State("floor", "clean")),),
    "snatch deadlift to knee": ((State("floor", "snatch"), State("floor", "snatch")),),
    "clean and jerk": ((State("floor", "clean"), State("overhead", "clean")),),
    "dip and drive": ((State("front rack", "clean"), State("front rack", "clean")),),
    "strict press": ((State("front rack", "clean"), State("overhead", "clean")),),
    "press in split": (
        (State("front rack", "clean", SPLIT), State("overhead", "clean", SPLIT)),
        (State("back", "clean", SPLIT), State("overhead", "clean", SPLIT)),
        (State("back", "snatch", SPLIT), State("overhead", "snatch", SPLIT)),
    ),
    "jerk balance": ((State("front rack", "clean", SPLIT), State("overhead", "clean", SPLIT)),),
    "snatch-grip push press": ((State("back", "snatch"), State("overhead", "snatch")),),
    "overhead support": ((State("overhead", "snatch"), State("overhead", "snatch")),),
    "upright row, turnover, press": ((State("hip", "snatch"), State("overhead", "snatch")),),
    "start position hold": ((State("floor", "clean"), State("floor", "clean")),),
    "snatch start position hold": ((State("floor", "snatch"), State("floor", "snatch")),),
    "front rack hold": ((State("front rack", "clean"), State("front rack", "clean")),),
    "slide to above knee and stand": tuple(
        (State("hip", grip), State("hip", grip)) for grip in ("clean", "snatch")
    ),
    "extension rehearsal": tuple(
        (State("hip", grip), State("hip", grip)) for grip in ("clean", "snatch")
    ),
    "one-arm swing": ((State(LOW_HANG, "neutral"), State("hip", "neutral")),),
    "dumbbell swing": ((State(LOW_HANG, "neutral"), State("hip", "neutral")),),
    "high swing, elbow close": ((State(LOW_HANG, "neutral"), State("hip", "neutral")),),
    "one-arm high pull": ((State(LOW_HANG, "neutral"), State("hip", "neutral")),),
}
HELPER_STATES |= dict.fromkeys(
    ("front squat, strap rack", "front squat, crossed arms"), HELPER_STATES["front squat"]
)


def _states_of_helper(helper: Helper) -> tuple[tuple[State, State], ...]:
    said = helper.nature
    if said is None:
        return HELPER_STATES.get(helper.name, ())
    before, after = said.stances
    return tuple(
        (State(said.begins, grip, before), State(said.ends, grip, after)) for grip in said.grips
    )


DOWN = {
    "overhead": {
        "back": "lower it to the back",
        "front rack": "lower it to the shoulders",
        "hip": "lower it to the hip",
    },
    "front rack": {"hip": "lower it to the hip"},
    "hip": {
        HIGH_HANG: "slide to above the knee",
        LOW_HANG: "slide to below the knee",
        "floor": "set it on the floor",
        "blocks": "set it on the blocks",
    },
    HIGH_HANG: {"floor": "set it on the floor", "blocks": "set it on the blocks"},
    LOW_HANG: {"floor": "set it on the floor", "blocks": "set it on the blocks"},
}
HANDS_FREE = ("floor", "blocks", "back")
STANCE_WORDS = {
    "hip width": "step the feet in to hip width",
    "squat width": "step the feet out to squat width",
    "split": "step into the split",
}


def _next_acts(state: State) -> list[Act]:
    """Every single move from a state; the grip of bells never changes."""
    made = []
    for place, says in DOWN.get(state.place, {}).items():
        if place == "front rack" and state.grip == "snatch":
            continue
        if place == "back" and state.grip == "neutral":
            continue
        made.append(Act(says, replace(state, place=place)))
    if state.place in HANDS_FREE and state.grip != "neutral":
        other = "clean" if state.grip == "snatch" else "snatch"
        made.append(Act(f"change to the {other} grip", replace(state, grip=other)))
    made += [
        Act(STANCE_WORDS[stance], replace(state, stance=stance))
        for stance in STANCES
        if stance != state.stance
    ]
    return made


@lru_cache(maxsize=4000)
def way(start: State, end: State) -> tuple[Act, ...] | None:
    """The fewest moves from one state to another; None where no legal way leads there."""
    queue: deque[tuple[State, tuple[Act, ...]]] = deque([(start, ())])
    seen = {start}
    while queue:
        state, acts = queue.popleft()
        if state == end:
            return acts
        for act in _next_acts(state):
            if act.after not in seen:
                seen.add(act.after)
                queue.append((act.after, (*acts, act)))
    return None


def joint(before: State, movement: Movement) -> tuple[Joint, State | None]:
    """The shortest way from a state into a movement, and the state in which the movement ends."""
    found: tuple[int, Joint, State] | None = None
    for pre, post in states_of(movement):
        acts = way(before, pre)
        if acts is not None and (found is None or len(acts) < found[0]):
            found = (len(acts), Joint(acts, before), post)
    if found is not None:
        return found[1], found[2]
    return Joint((), before, why_not(before, movement)), None


def why_not(before: State, movement: Movement) -> str:
    """Why a movement cannot follow from a state, in plain words."""
    ways = states_of(movement)
    if not ways:
        return f"{movement.name} has no place in a complex: nothing is held in it"
    if all(pre.grip == "neutral" for pre, _ in ways) != (before.grip == "neutral"):
        return f"{movement.name} is done with another implement"
    pre = ways[0][0]
    bases = {"floor", "blocks"}
    if before.place in bases and pre.place in bases:
        return "the bar cannot go from the blocks to the floor within a complex, nor back"
    reachable = [p for p, _ in ways if way(before, replace(p, grip=before.grip)) is not None]
    if reachable:
        return (
            f"{movement.name} needs the {reachable[0].grip} grip, and the hands can only move on "
            f"the floor or on the back; the bar is {_at(before.place)}"
        )
    return (
        f"{movement.name} begins with the bar {_at(pre.place)}, and from {_from(before.place)} it "
        "gets there only by a lift"
    )


def _at(place: str) -> str:
    known = {
        "floor": "on the floor",
        "blocks": "on blocks",
        "hip": "at the hip",
        "front rack": "in the front rack",
        "back": "on the back",
        "overhead": "overhead",
        LOW_HANG: "in the hang below the knee",
        HIGH_HANG: "in the hang above the knee",
    }
    return known[place]


def _from(place: str) -> str:
    return place if place == "overhead" else f"the {place}"
