"""The lift of a script, whatever its family."""

from keen_kettle.core.simulate.bar_path import LiftScript
from keen_kettle.core.simulate.jerk import simulate_jerk
from keen_kettle.core.simulate.lift import SimulatedLift, simulate_pull
from keen_kettle.core.simulate.routine import RoutineScript, simulate_routine

__all__ = ["simulate_lift"]


def simulate_lift(script: LiftScript) -> SimulatedLift:
    """One whole simulated lift with its exact truth."""
    if isinstance(script, RoutineScript):
        return simulate_routine(script)
    return simulate_jerk(script) if script.family == "jerk" else simulate_pull(script)
