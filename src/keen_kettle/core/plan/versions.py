"""The same work with other implements: bar, a pair of dumbbells, one bell, side by side."""

from dataclasses import replace

from keen_kettle.core.lifts import HELPERS, Derivative, Movement, why_illegal
from keen_kettle.core.prescribe.complexes import Complex, joint, states_of
from keen_kettle.core.prescribe.complexes.library import Member, library, member_of

__all__ = ["VERSIONS", "complex_versions", "version_of"]

VERSIONS = ("barbell", "dumbbell pair", "kettlebell")
HELPER_VERSIONS = {
    ("front squat", "kettlebell"): "goblet squat",
    ("back squat", "kettlebell"): "goblet squat",
    ("overhead squat", "kettlebell"): "goblet squat",
    ("Romanian deadlift", "kettlebell"): "one-arm swing",
    ("Romanian deadlift", "dumbbell"): "dumbbell swing",
}


def version_of(movement: Movement, implement: str) -> Movement | None:
    """The same movement with another implement, the nearest that exists; None where none does.

    A start that the implement does not have is moved up, a squat catch becomes a power catch.
    """
    if movement.implement == implement:
        return movement
    if not isinstance(movement, Derivative):
        name = HELPER_VERSIONS.get((movement.name, implement))
        return HELPERS[name] if name else None
    made = replace(movement, implement=implement)
    tries = [made]
    if movement.family == "jerk":
        tries.append(replace(made, start="front rack"))
    else:
        tries += [replace(made, support="hang", start=start) for start in ("mid-thigh", "hip")]
        if movement.receive == "none":
            tries.append(replace(made, action="high pull"))
        elif movement.receive in ("full", "split", "ride-down"):
            tries.append(replace(made, support="hang", start="mid-thigh", receive="power"))
    return next((one for one in tries if not why_illegal(one)), None)


def complex_versions(one: Complex, movements: list[Movement]) -> dict[str, tuple[str, ...] | None]:
    """A complex's parts with each implement; None where no legal string of the kind can be made.

    Each part keeps its movement where the implement has it; otherwise the nearest takes its place:
    the one that trains most of the same and can follow what was before.
    """
    return {implement: _version(movements, implement) for implement in VERSIONS}


def _version(movements: list[Movement], implement: str) -> tuple[str, ...] | None:
    family = next((one.family for one in movements if isinstance(one, Derivative)), "clean")
    choice = library(implement, "snatch" if family == "snatch" else "clean")
    if all(one.implement == implement for one in movements):
        return tuple(one.name for one in movements)
    names: list[str] = []
    state = None
    for movement in movements:
        same = version_of(movement, implement)
        wanted = member_of(movement)
        offers = [member_of(same)] if same is not None else []
        offers += sorted(choice, key=lambda other: _apart(wanted, other))
        for other in offers:
            if other.name in names or not states_of(other.movement):
                continue
            if state is None:
                state = states_of(other.movement)[0][1]
            else:
                made, after = joint(state, other.movement)
                if not made.legal or after is None:
                    continue
                state = after
            names.append(other.name)
            break
        else:
            return None
    return tuple(names)


def _apart(wanted: Member, other: Member) -> tuple[int, bool, int, str]:
    """How far another movement is from the wanted one, nearest first."""
    common = len(wanted.trains & other.trains)
    return (
        -common,
        wanted.overhead != other.overhead,
        abs(wanted.difficulty - other.difficulty),
        other.name,
    )
