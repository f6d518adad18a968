"""How long the teaching judgement takes for a class, and the board with hundreds of athletes."""

import os
import random
import tempfile
import time
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from keen_kettle.core.content import load_content, load_teaching
from keen_kettle.core.lifts import CHECKS
from keen_kettle.core.teach import CheckResult, Person, Visit, advise, choose_ladders
from keen_kettle.store import NewAthlete, Shelf, database_file

__all__ = ["report_teach"]

DAY = date(2026, 11, 23)
ATHLETES, YEARS, VISITS_A_WEEK = 300, 3, 2


def report_teach() -> None:
    print("\n## Teaching\n\n| what | value |\n|---|---|")
    chosen, advised = _judge_sixty()
    print(f"| choosing for 60 athletes | {1000 * chosen:.0f} ms |")
    print(f"| advice for 60 athletes, six visits each | {1000 * advised:.0f} ms |")
    _report_board()


def _judge_sixty() -> tuple[float, float]:
    """Best of five runs, in seconds."""
    dice = random.Random(1)
    teaching, faults = load_teaching(), load_content().faults
    people = [
        Person(
            str(number),
            dice.randint(12, 60),
            dice.uniform(1.5, 2.0),
            dice.choice(["general", "weightlifting", "sport power"]),
            checks={check: CheckResult(dice.choice(["pass", "not yet"])) for check in CHECKS},
        )
        for number in range(60)
    ]
    places = []
    for _ in people:
        ladder = dice.choice(list(teaching.ladders.values()))
        places.append((ladder.id, dice.choice(ladder.stage).id))
    best = [1e9, 1e9]
    for _ in range(5):
        begin = time.perf_counter()
        for person in people:
            choose_ladders(person, teaching)
        middle = time.perf_counter()
        for person, (ladder_id, stage) in zip(people, places, strict=True):
            seen = [Visit(DAY + timedelta(k), ladder_id, stage, (0, 1), 4) for k in range(6)]
            advise(ladder_id, stage, person, seen, teaching, faults=faults)
        end = time.perf_counter()
        best = [min(best[0], middle - begin), min(best[1], end - middle)]
    return best[0], best[1]


def _fill(folder: Path, athletes: int) -> int:
    """A data file with so many athletes and three years of visits; how many visits."""
    shelf = Shelf(database_file(folder))
    shelf.keep_cautions_read()
    numbers = shelf.add_athletes([NewAthlete(f"Athlete {k:03}", 1.7) for k in range(athletes)])
    teaching = load_teaching()
    stages = [one.id for one in teaching.ladders["clean-bottom-up"].stage]
    visits, steps, screened = [], [], []
    weeks = 52 * YEARS
    for number in numbers:
        screened += [(number, check, "pass", "2026-01-05", "") for check in CHECKS]
        for week in range(weeks):
            stage = stages[week * len(stages) // weeks]
            monday = DAY - timedelta(weeks=weeks - week)
            if week == 0 or stage != stages[(week - 1) * len(stages) // weeks]:
                kind = "advance" if week else "start"
                steps.append((number, "clean-bottom-up", stage, monday.isoformat(), kind, ""))
            for day in range(VISITS_A_WEEK):
                on = (monday + timedelta(days=3 * day)).isoformat()
                row = (number, "clean-bottom-up", stage, on, "[0, 1]", 3, "[]", 0, 0)
                visits.append((*row, "", "stay", "why", "", ""))
    with shelf._engine.begin() as work:
        for table, columns, rows in (
            ("screenings", "athlete_id, check_id, state, on_day, note", screened),
            ("steps", "athlete_id, ladder, stage, on_day, kind, why", steps),
            (
                "visits",
                "athlete_id, ladder, stage, on_day, met, asked, faults, enjoyment, pain, note, "
                "advised, reason, decided, why",
                visits,
            ),
        ):
            if rows:
                marks = ", ".join("?" * len(rows[0]))
                work.exec_driver_sql(f"INSERT INTO {table} ({columns}) VALUES ({marks})", rows)
    shelf.close()
    return len(visits)


def _report_board() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtWidgets import QApplication

    from keen_kettle.desk.start import make_window

    app = QApplication.instance() or QApplication(["bench"])
    assert isinstance(app, QApplication)
    taken = {}
    for athletes in (0, ATHLETES):
        with tempfile.TemporaryDirectory() as room:
            visits = _fill(Path(room), athletes)
            runs = [_open_board(app, make_window, Path(room)) for _ in range(5)]
            taken[athletes] = tuple(min(column) for column in zip(*runs, strict=True))
            print(
                f"| board with {athletes} athletes and {visits} visits: from start to shown | {1000 * taken[athletes][0]:.0f} ms |"
            )
            print(
                f"| … only from the key to the shown board | {1000 * taken[athletes][1]:.0f} ms |"
            )
            print(f"| … until all advice stands | {1000 * taken[athletes][2]:.0f} ms |")
            print(
                f"| … longest turn of the event loop, its own work | {1000 * taken[athletes][3]:.0f} ms |"
            )
    for place, words in ((0, "from start to shown"), (1, "from the key to the shown board")):
        ratio = taken[ATHLETES][place] / taken[0][place]
        print(f"| ratio, {words} | {ratio:.2f} |")


def _open_board(app: Any, make_window: Any, folder: Path) -> tuple[float, float, float, float]:
    begin = time.perf_counter()
    window = make_window(app, folder, False, lambda: DAY)
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    pressed = time.perf_counter()
    window.open_page("board")
    app.processEvents()
    shown = time.perf_counter()
    longest = 0.0
    while window.models.teach.waiting:
        own = time.thread_time()
        app.processEvents()
        longest = max(longest, time.thread_time() - own)
    ready = time.perf_counter()
    window.close()
    app.processEvents()
    window.deleteLater()
    return shown - begin, shown - pressed, ready - pressed, longest
