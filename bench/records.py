"""How the window answers with years of records: two thousand clips of sixty athletes."""

import os
import sqlite3
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from datetime import date, timedelta
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from bench.window import Turn, report_turns, turns_of
from keen_kettle.core.track import PlateMark
from keen_kettle.store import NewAthlete, NewClip, Shelf, database_file

__all__ = ["report_records"]

CLIPS, ATHLETES = 2000, 60
DAY = date(2026, 11, 23)
LIFTS = ("clean", "power clean", "snatch", "hang power snatch", "jerk", "power jerk")


def report_records() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtWidgets import QApplication

    from keen_kettle.desk.start import make_window, spare_the_window

    app = QApplication.instance() or QApplication(["bench"])
    assert isinstance(app, QApplication)
    with tempfile.TemporaryDirectory() as room:
        _fill(Path(room))
        begin = time.perf_counter()
        window = make_window(app, Path(room), False, lambda: DAY)
        window.resize(1280, 800)
        window.show()
        app.processEvents()
        print(f"\n## Records: {CLIPS} clips, {ATHLETES} athletes\n\n| what | value |\n|---|---|")
        print(f"| start, to a shown window | {time.perf_counter() - begin:.2f} s |")
        spare_the_window()
        window.models.queue.switch_pause()
        for station in ("Screen", "Teach", "Film", "Prescribe", "Record", "Film"):
            window.desk.go_to(station)
            _quiet(app, window)
        phases: dict[str, list[Turn]] = {}
        for name, act in _acts(window):
            on_disk, phases[name] = _done(app, window, Path(room), act)
            if on_disk is not None:
                print(f"| on disk: {name} | {1000 * on_disk:.0f} ms |")
        window.close()
    report_turns(phases)


def _fill(folder: Path) -> None:
    dice = np.random.default_rng(3)
    picture = dice.bytes(6000)  # about what a thumbnail takes
    shelf = Shelf(database_file(folder))
    shelf.keep_cautions_read()
    athletes = shelf.add_athletes([NewAthlete(f"Athlete {k:02}", 1.7) for k in range(ATHLETES)])
    mark = PlateMark(3, 300.0, 400.0, 60.0)
    for k in range(CLIPS):
        clip = NewClip(
            *(Path(f"/films/{k:04}.mp4"), f"{k:064}", 120, 4.0, DAY - timedelta(days=k // 3)),
            *(athletes[k % ATHLETES], LIFTS[k % len(LIFTS)], 50.0 + k % 40),
            marks=(mark,) if k % 3 else (),
            thumbnail=picture,
            waits="confirm" if k < 40 else "" if k % 5 else "review",
        )
        shelf.add_clip(clip)
    shelf.close()


def _acts(window: Any) -> list[tuple[str, Callable[[], object]]]:
    """What a coach does, and what the background does meanwhile."""
    desk, queue = window.desk, window.models.queue
    first, second = [one for one in queue.waiting() if one.waits == "confirm"][:2]
    return [
        ("a clip is confirmed", partial(queue.confirm, first)),
        ("that is undone", desk.undo_stack.undo),
        ("another mass is set", partial(queue.correct, second, mass_kg=81.5)),
        ("an athlete's height is set", lambda: desk.change_athlete(_taller(desk.athletes[5]))),
        ("that too is undone", desk.undo_stack.undo),
        ("an athlete is chosen", lambda: desk.choose_who(desk.athletes[7].id)),
        ("everyone is chosen", lambda: desk.choose_who(None)),
        ("a clip is removed", partial(desk.remove_clip, second)),
        ("it is brought back", desk.undo_stack.undo),
        ("the background has measured one", partial(_measured, window)),
        ("an athlete is entered", lambda: desk.add_athlete(NewAthlete("Nia Moss", 1.66))),
        ("Record is opened", lambda: desk.go_to("Record")),
        ("Prescribe is opened", lambda: desk.go_to("Prescribe")),
        ("Film is opened", lambda: desk.go_to("Film")),
    ]


def _taller(athlete: Any) -> Any:
    from dataclasses import replace

    return replace(athlete, stature_m=1.84)


def _measured(window: Any) -> None:
    """As the queue does when it has looked through a clip."""
    clip = window.desk.clips[-1]
    window.desk.shelf.change_clip(clip.id, facing="left")
    window.models.queue.running = clip.id
    window.models.queue._end()


def _done(
    app: Any, window: Any, room: Path, act: Callable[[], object]
) -> tuple[float | None, list[Turn]]:
    """Seconds until the act is on disk (None: nothing was written), and the turns of the loop."""
    before, begin = _version(room), time.perf_counter()
    own = time.thread_time()
    act()
    turns = [(time.thread_time() - own, time.perf_counter() - begin)]
    on_disk = None
    if _version(room) != before:
        window.desk.shelf.wait_for_the_disk()
        on_disk = time.perf_counter() - begin
    end = time.perf_counter() + 0.4
    turns += turns_of(app, lambda: window.desk.jobs.busy or time.perf_counter() < end)
    if on_disk is None and _version(room) != before:
        on_disk = float("inf")  # later than the act itself; none does so now
    return on_disk, turns


def _version(room: Path) -> int:
    """A number that grows with each change that another reader of the file sees."""
    with closing(sqlite3.connect(database_file(room))) as raw:
        return sum(
            int(raw.execute(f"SELECT coalesce(sum({what}), 0) FROM {table}").fetchone()[0])
            for table, what in (
                ("clips", "id + 7 * length(facing || waits) + 100 * coalesce(mass_kg, 0)"),
                ("athletes", "id + 1000 * stature_m"),
            )
        )


def _quiet(app: Any, window: Any) -> None:
    end = time.perf_counter() + 0.5
    while window.desk.jobs.busy or time.perf_counter() < end:
        app.processEvents()
        time.sleep(0.002)
