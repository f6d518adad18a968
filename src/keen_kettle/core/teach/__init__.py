"""Ladders, gates, screening, fit, and the advice on what comes next: pure functions over facts."""

from keen_kettle.core.teach.advise import KINDS, STUCK_AFTER, Advice, advise, visits_here
from keen_kettle.core.teach.check import Problem, check_ladder
from keen_kettle.core.teach.choose import JUMPS, Choice, choose_ladders
from keen_kettle.core.teach.costs import StageCost, stage_costs
from keen_kettle.core.teach.facts import (
    AREAS,
    CONFIDENCE,
    VERDICTS,
    CheckResult,
    Person,
    Step,
    Visit,
)
from keen_kettle.core.teach.fit import BodyLengths, Fit, StartHeight, fit_grips, start_height
from keen_kettle.core.teach.gates import (
    RUN,
    Obstacle,
    cautions_of,
    gate_run,
    hard,
    meets_gate,
    needs_of_stage,
    obstacles,
)
from keen_kettle.core.teach.load_verdict import SMALLEST_STEP_KG, LoadAdvice, judge_load
from keen_kettle.core.teach.places import (
    Place,
    StageTime,
    carried_levels,
    current_places,
    place_on,
    weeks_changes,
)
from keen_kettle.core.teach.roll_call import roll_call_of
from keen_kettle.core.teach.school import TaughtStage, answers_of, movement_of, taught_stages
from keen_kettle.core.teach.swaps import Swap, equal_stages
from keen_kettle.core.teach.tries import TriedOut, Try, compare_tries

__all__ = [
    "AREAS",
    "CONFIDENCE",
    "JUMPS",
    "KINDS",
    "RUN",
    "SMALLEST_STEP_KG",
    "STUCK_AFTER",
    "VERDICTS",
    "Advice",
    "BodyLengths",
    "CheckResult",
    "Choice",
    "Fit",
    "LoadAdvice",
    "Obstacle",
    "Person",
    "Place",
    "Problem",
    "StageCost",
    "StageTime",
    "StartHeight",
    "Step",
    "Swap",
    "TaughtStage",
    "TriedOut",
    "Try",
    "Visit",
    "advise",
    "answers_of",
    "carried_levels",
    "cautions_of",
    "check_ladder",
    "choose_ladders",
    "compare_tries",
    "current_places",
    "equal_stages",
    "fit_grips",
    "gate_run",
    "hard",
    "judge_load",
    "meets_gate",
    "movement_of",
    "needs_of_stage",
    "obstacles",
    "place_on",
    "roll_call_of",
    "stage_costs",
    "start_height",
    "taught_stages",
    "visits_here",
    "weeks_changes",
]
