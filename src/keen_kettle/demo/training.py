"""The demo's teaching: a dozen invented athletes of a surf-rescue club at different stages.

Dates count back from today, so that the season is always running.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from keen_kettle.core.content import Teaching, load_content, load_teaching
from keen_kettle.core.lifts import CHECKS
from keen_kettle.core.teach import Step, Visit, advise, taught_stages
from keen_kettle.store import (
    KeptStep,
    KeptVisit,
    NewAthlete,
    Screening,
    Shelf,
    person_of,
)

__all__ = ["MORE_ATHLETES", "lay_out_training"]

BOATS, BEACH, MORNING = "Rescue boats", "Beach sprint juniors", "Morning adults"
FULL_HALL = frozenset({"bar", "stick", "blocks", "dumbbell", "kettlebell", "straps", "box"})

MORE_ATHLETES = (
    NewAthlete("Juno Averdale", 1.66, {"clean": 45.0}, equipment=FULL_HALL, birth_year=2010, mass_kg=57.0, aim="sport power", sport="beach sprint", training_years=0.4, consent="father, 2 September"),
    NewAthlete("Kester Moyle", 1.97, {}, equipment=FULL_HALL, birth_year=1999, mass_kg=93.0, aim="sport power", sport="rescue boat", training_years=0.8, sessions_week=3),
    NewAthlete("Pia Sandstrake", 1.70, {"snatch": 34.0, "clean": 48.0}, frozenset({"shoulder"}), FULL_HALL, birth_year=1988, mass_kg=66.0, training_years=2.0),
    NewAthlete("Rufus Ebbing", 1.79, {"clean": 60.0}, equipment=FULL_HALL, birth_year=2002, mass_kg=81.5, aim="sport power", sport="rescue boat", training_years=1.0, sessions_week=3),
    NewAthlete("Talia Brandreef", 1.63, {"clean": 50.0}, equipment=FULL_HALL, birth_year=2009, mass_kg=58.5, aim="sport power", sport="beach sprint", training_years=0.6, consent="mother, 14 August"),
    NewAthlete("Wystan Keel", 1.76, {"clean": 70.0}, equipment=FULL_HALL, birth_year=1979, mass_kg=84.0, training_years=3.0),
    NewAthlete("Senna Duncraig", 1.72, {}, equipment=FULL_HALL, birth_year=1993, mass_kg=70.0, training_years=0.1, sessions_week=1),
    NewAthlete("Bram Fennick", 1.85, {"clean": 75.0}, equipment=FULL_HALL, birth_year=2001, mass_kg=88.0, aim="weightlifting", sport="weightlifting", training_years=1.5, sessions_week=4),
    NewAthlete("Odile Marsh", 1.59, {}, equipment=FULL_HALL, birth_year=2011, mass_kg=49.0, sport="beach sprint", training_years=0.2),
)  # fmt: skip


@dataclass(frozen=True)
class _Story:
    """One athlete on one ladder.

    `checks` has a letter for each screening check (p pass, n not yet, u not tested); `steps` are
    (days ago, stage, kind); `visits` (days ago, points met, what else was seen).
    """

    name: str
    groups: tuple[str, ...]
    checks: str
    ladder: str = ""
    steps: tuple[tuple[int, str, str], ...] = ()
    visits: tuple[tuple[int, int, Mapping[str, object]], ...] = ()


PLAIN: dict[str, object] = {}
LIKED: dict[str, object] = {"enjoyment": 1}

STORIES = (
    _Story("Maren Holtby", (BOATS,), "ppppppppp", "snatch-full",
           ((120, "stance-grip", "start"), (98, "deadlift", "advance"), (70, "power-position", "advance"), (41, "pull-under", "advance"), (6, "ridden-down", "advance")),
           ((13, 6, LIKED), (8, 6, LIKED), (6, 6, LIKED), (3, 4, {"faults": ("catch-forward",), "load_kg": 35.0}))),
    _Story("Tobias Quell", (BOATS,), "nppuppnpp", "clean-bottom-up",
           ((90, "set", "start"), (76, "floor-to-knee", "advance"), (60, "deadlift", "advance"), (34, "clean-pull", "advance"), (20, "jump-shrug", "advance"), (11, "high-pull", "advance")),
           ((9, 4, LIKED), (5, 5, LIKED), (2, 5, LIKED))),
    _Story("Ines Varga-Lund", (BOATS,), "ppppppppp", "jerk",
           ((56, "strict-press", "start"), (44, "footwork", "advance"), (30, "press-split", "advance"), (12, "balance", "advance")),
           ((10, 2, PLAIN), (7, 3, {"load_kg": 30.0}), (3, 3, {"load_kg": 32.5}))),
    _Story("Juno Averdale", (BEACH,), "pppupppup", "clean-bottom-up",
           ((21, "set", "start"), (14, "floor-to-knee", "advance"), (7, "deadlift", "advance")),
           ((16, 4, LIKED), (14, 4, LIKED), (10, 6, LIKED), (7, 6, LIKED), (4, 5, LIKED), (1, 5, {"enjoyment": 1, "load_kg": 40.0}))),
    _Story("Kester Moyle", (BOATS,), "upuunuupu", "clean-bottom-up",
           ((40, "set", "start"), (24, "floor-to-knee", "advance")),
           ((20, 3, PLAIN), (13, 2, {"faults": ("setup-hips-high",)}), (6, 3, {"enjoyment": -1}))),
    _Story("Pia Sandstrake", (MORNING,), "ppnnpnppp", "clean-top-down",
           ((80, "rdl", "start"), (62, "power-shrug", "advance"), (40, "high-pull", "advance"), (20, "hang-power-clean", "advance")),
           ((15, 3, PLAIN), (9, 4, LIKED), (3, 4, {"enjoyment": 1, "load_kg": 37.5}))),
    _Story("Rufus Ebbing", (BOATS,), "ppuuppppp", "clean-bottom-up",
           ((110, "set", "start"), (95, "floor-to-knee", "advance"), (70, "deadlift", "advance"), (44, "clean-pull", "advance")),
           ((22, 2, {"faults": ("early-arms",)}), (18, 2, {"faults": ("early-arms",)}), (13, 2, PLAIN), (8, 2, {"faults": ("early-arms",), "enjoyment": -1}), (2, 2, {"load_kg": 55.0, "enjoyment": -1}))),
    _Story("Talia Brandreef", (BEACH,), "pppupppup", "clean-bottom-up",
           ((60, "set", "start"), (50, "floor-to-knee", "advance"), (36, "deadlift", "advance"), (22, "clean-pull", "advance"), (15, "jump-shrug", "advance")),
           ((12, 4, PLAIN), (8, 5, LIKED), (2, 5, {"pain": True, "load_kg": 30.0}))),
    _Story("Wystan Keel", (MORNING,), "ppuuppppp", "adult-hang-first",
           ((200, "rehearsal", "start"), (190, "bail", "advance"), (150, "hip", "advance"), (90, "below-knee", "advance"), (60, "floor-pull", "advance"), (30, "alternate", "advance"), (16, "alternate", "hold")),
           ((14, 7, LIKED), (8, 7, LIKED), (2, 7, {"enjoyment": 1, "load_kg": 55.0}))),
    _Story("Senna Duncraig", (MORNING,), "uuuuuuuuu"),
    _Story("Bram Fennick", (BOATS,), "ppuuppppp", "clean-rack-first",
           ((50, "rack", "start"), (36, "muscle-clean", "advance"), (22, "extension", "advance"), (9, "pause-hip", "advance")),
           ((8, 2, PLAIN), (5, 3, {"load_kg": 45.0}), (1, 4, {"load_kg": 47.5}))),
    _Story("Odile Marsh", (BEACH,), "upuuuuuuu", "clean-class-sticks",
           ((12, "slide", "start"), (5, "breastbone", "advance")),
           ((9, 3, LIKED), (5, 3, LIKED), (2, 3, LIKED))),
)  # fmt: skip

STATES = {"p": "pass", "n": "not yet", "u": "not tested"}


def lay_out_training(shelf: Shelf, today: date) -> None:
    """Groups, screenings, steps and visits of the demo's athletes."""
    keep = shelf.teaching
    athletes = {one.name: one for one in shelf.athletes()}
    teaching, faults = load_teaching(), load_content().faults
    for story in STORIES:
        athlete = athletes[story.name]
        keep.set_groups(athlete.id, [keep.add_group(name) for name in story.groups])
        for check, letter in zip(CHECKS, story.checks, strict=True):
            if letter != "u":
                day = today - timedelta(days=35)
                keep.screen(Screening(athlete.id, check, STATES[letter], day))
        steps = [
            Step(today - timedelta(days=days), story.ladder, stage, kind)
            for days, stage, kind in story.steps
        ]
        for step in steps:
            keep.take_step(KeptStep(athlete.id, step))
        checks = keep.newest_checks().get(athlete.id, {})
        person = person_of(athlete, checks, {}, today)
        seen: list[Visit] = []
        for days, met, more in story.visits:
            visit = _visit(story, steps, today - timedelta(days=days), met, more, teaching)
            seen.append(visit)
            before = [step for step in steps if step.on <= visit.on]
            advice = advise(
                visit.ladder, visit.stage, person, seen, teaching, steps=before, faults=faults
            )
            keep.keep_visit(KeptVisit(athlete.id, visit, advised=advice.kind, reason=advice.reason))


def _visit(
    story: _Story,
    steps: list[Step],
    day: date,
    met: int,
    more: Mapping[str, object],
    teaching: Teaching,
) -> Visit:
    """A visit to the stage on which the athlete stood that day, before that day's step."""
    moved = [step for step in steps if step.kind != "hold"]
    stage = [step.stage for step in moved if step.on < day or step is moved[0]][-1]
    taught = {one.id: one for one in taught_stages(teaching.ladders[story.ladder], {}, teaching)}
    asked = len(taught[stage].points)
    fields: dict[str, object] = {"met": tuple(range(min(met, asked))), "asked": asked, **more}
    return Visit(day, story.ladder, stage, **fields)  # type: ignore[arg-type]
