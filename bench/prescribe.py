"""How long prescribing takes: the composer over a whole library, correctives for a full hall."""

import random
import statistics
import time
from datetime import date, timedelta

from keen_kettle.core.content import load_content, load_teaching
from keen_kettle.core.lifts import CHECKS, parse_movement
from keen_kettle.core.plan import PlateSet, build_up, price_corrective
from keen_kettle.core.prescribe import AthleteFacts, Sighting, recommend
from keen_kettle.core.prescribe.complexes import Wish, compose, library
from keen_kettle.core.teach import CheckResult, Person

__all__ = ["report_prescribe"]

DAY = date(2026, 11, 23)
LIFTS = ("snatch", "power snatch", "clean", "power clean", "split jerk", "hang snatch, hip")
WISHES, PEOPLE, SIGHTINGS = 200, 60, 24


def report_prescribe() -> None:
    print("\n## Prescribing\n\n| what | value |\n|---|---|")
    smallest = min(len(library("barbell", family)) for family in ("snatch", "clean"))
    times = sorted(_compose())
    print(f"| movements that the composer chooses from, at least | {smallest} |")
    print(
        f"| best complex, six long, and its alternatives: median of {WISHES} | {1000 * statistics.median(times):.0f} ms |"
    )
    print(f"| the same, slowest | {1000 * times[-1]:.0f} ms |")
    print(
        f"| correctives for {PEOPLE} athletes, {SIGHTINGS} sightings each | {1000 * _correct():.0f} ms |"
    )
    print(f"| a build-up, slowest of 100 | {1000 * _build():.0f} ms |")


def _compose() -> list[float]:
    dice = random.Random(3)
    content, teaching = load_content(), load_teaching()
    person = Person(checks={check: CheckResult("pass") for check in CHECKS}, lifting_years=3.0)
    taken = []
    for _ in range(WISHES):
        asked = dice.sample(list(content.qualities), dice.randint(1, len(content.qualities)))
        wanted = {name: dice.uniform(0.1, 3.0) for name in asked}
        lift = parse_movement(dice.choice(LIFTS))
        wish = Wish(lift, wanted, person, most=6, overhead=dice.randint(1, 6))
        begin = time.perf_counter()
        compose(wish, teaching, content.qualities)
        taken.append(time.perf_counter() - begin)
    return taken


def _correct() -> float:
    dice = random.Random(5)
    content = load_content()
    halls = []
    for _ in range(PEOPLE):
        rows = [
            Sighting(
                dice.choice(list(content.faults)), DAY - timedelta(dice.randint(0, 80)), "clean"
            )
            for _ in range(SIGHTINGS)
        ]
        cautions = frozenset(dice.sample(["shoulder", "wrist", "back"], dice.randint(0, 1)))
        halls.append((rows, AthleteFacts(cautions)))
    begin = time.perf_counter()
    for rows, facts in halls:
        made = recommend(rows, "clean", facts, content, DAY, minutes=15)
        for one in made.picks:
            price_corrective(one, 80.0, PlateSet(), content)
    return time.perf_counter() - begin


def _build() -> float:
    dice = random.Random(7)
    worst = 0.0
    for _ in range(100):
        begin = time.perf_counter()
        build_up(dice.uniform(30, 200), PlateSet())
        worst = max(worst, time.perf_counter() - begin)
    return worst
