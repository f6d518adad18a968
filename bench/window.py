"""How long the window takes to open, and a watchdog: the longest that it does not answer."""

import os
import tempfile
import time
from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from keen_kettle.desk.state.review.answer_model import Held

__all__ = ["Turn", "report_turns", "report_window", "turns_of"]


Turn = tuple[float, float]
"""Seconds of one turn of the event loop: its own work, and by the wall clock."""
FELT_S = 0.05


def report_window() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    begin = time.perf_counter()
    from PyQt6.QtWidgets import QApplication

    from keen_kettle.desk.start import make_window, spare_the_window

    app = QApplication.instance() or QApplication(["bench"])
    assert isinstance(app, QApplication)
    print("\n## The window (demo data)\n\n| what | value |\n|---|---|")
    with tempfile.TemporaryDirectory() as room:
        imported = time.perf_counter() - begin
        first = _opened(app, make_window, Path(room))
        first[0].close()
        window, seconds = _opened(app, make_window, Path(room))
        spare_the_window()
        window.models.queue.switch_pause()  # the demo's own clips would be measured meanwhile
        print(f"| import the desk | {imported:.2f} s |")
        print(f"| first start, with laying out the demo | {first[1]:.2f} s |")
        print(f"| second start, to a shown window | {seconds:.2f} s |")
        _until(app, lambda: not window.desk.jobs.busy)
        phases = {"a clip is opened": _opening(app, window)}
        phases["its plate is marked"] = _marking(app, window)
        phases["the bar is tracked"] = _tracking(app, window)
        review = window.models.review
        phases["path and bar are shown, the lifter is looked for"] = turns_of(
            app, lambda: window.models.body.searching or review.body is None
        )
        phases["the body is shown"] = turns_of(app, lambda: window.desk.jobs.busy)
        phases["the coach goes through the lift"] = _going_through(app, window)
        for name, move, leave in _hands(window):
            turns, shown = _dragging(app, window, move)
            print(f"| {name} under the hand: answers shown a second | {shown:.0f} |")
            phases[f"{name} is under the hand"] = turns
            leave()
            _until(app, lambda: not window.desk.jobs.busy)
        print(
            f"| a measured clip opened again, to its answer with the body | {_again(app, window):.2f} s |"
        )
        phases["the queue looks through a clip"] = _queueing(app, window)
        phases["a loop that only waits"] = _turns_of_nothing()
        window.close()
    report_turns(phases)


def report_turns(phases: dict[str, list[Turn]]) -> None:
    """The longest turns of the event loop: own work, and the wall clock (with all that the machine
    takes away); how many of how many were longer than is felt."""
    print(
        "\n| while | turns | longest: own work | wall clock | over 50 ms |\n|---|---|---|---|---|"
    )
    for name, turns in phases.items():
        own, wall = max(one[0] for one in turns), max(one[1] for one in turns)
        felt = sum(one[1] > FELT_S for one in turns)
        print(f"| {name} | {len(turns)} | {1000 * own:.0f} ms | {1000 * wall:.0f} ms | {felt} |")


def _opened(app: Any, make_window: Callable[..., Any], folder: Path) -> tuple[Any, float]:
    begin = time.perf_counter()
    window = make_window(app, folder, True, lambda: date(2026, 11, 23))
    window.show()
    app.processEvents()
    return window, time.perf_counter() - begin


def _opening(app: Any, window: Any) -> list[Turn]:
    review = window.models.review
    clip = next(one for one in window.desk.clips if not one.tracked)
    window._cautions_read()
    return _act(lambda: window.desk.open_clip(clip.id)) + turns_of(
        app, lambda: review.index is None or review._frames.waiting or window.models.hand.searching
    )


def _marking(app: Any, window: Any) -> list[Turn]:
    from keen_kettle.demo.club import _mark

    review = window.models.review
    mark = _mark(review.clip.path)
    acts = _act(lambda: review.draw_mark(mark.x_px, mark.y_px, mark.r_px))
    acts += _act(review.keep_mark)
    return acts + turns_of(app, lambda: review.rim is None)


def _tracking(app: Any, window: Any) -> list[Turn]:
    review = window.models.review
    return _act(review.start_tracking) + turns_of(
        app, lambda: review.tracking or review.answer is None
    )


def _going_through(app: Any, window: Any) -> list[Turn]:
    """Every key position by its number, then thirty frames one by one."""
    review, positions, turns = window.models.review, window.stations.review.widget.positions, []
    ways = [partial(positions.go, number) for number in range(1, 1 + len(positions.positions))]
    for way in ways + 30 * [partial(review.step, 1)]:
        turns += _act(way) + turns_of(app, lambda: review._frames.waiting)
    return turns


Move = Callable[[float], object]
"""Move what is held to a place that depends on the time (s)."""


def _hands(window: Any) -> list[tuple[str, Move, Callable[[], object]]]:
    """What a coach drags, how, and how it is let go without being kept."""
    models = window.models
    review, body, hand = models.review, models.body, models.hand
    moves = window.stations.review.widget.rhythm._moves
    frame = review.answer.events["lowest"].frame
    knee = review.answer.events["knee_pass"].frame
    review.go_to_frame(frame)
    x, y = review.body.point("hip", frame)
    here = float(review.track.x_px[frame]), float(review.track.y_px[frame])
    mark = review.clip.marks[0]

    def drop() -> None:
        moves.moving = hand.point = review.draft = None
        review.hold(Held())
        review.ask()

    def draw(t_s: float) -> None:
        if review.frame != mark.frame:
            review.show_frame(mark.frame)
        review.draw_mark(mark.x_px, mark.y_px, mark.r_px * (1.05 + 0.03 * np.sin(5 * t_s)))

    return [
        ("a point", lambda t: body.draw_point("hip", x + 9 * np.sin(5 * t), y), body.drop_point),
        ("an event", lambda t: moves.move("knee_pass", knee + round(15 * np.sin(5 * t))), drop),
        ("the path", lambda t: hand.draw_point(here[0] + 9 * np.sin(5 * t), here[1]), drop),
        ("the mark", draw, drop),
    ]


def _dragging(app: Any, window: Any, move: Move, seconds: float = 4.0) -> tuple[list[Turn], float]:
    """Something is moved sixty times a second; the turns, and how many answers a second are shown."""
    shown: list[object] = []
    window.models.review.answer_changed.connect(shown.append)
    begin, turns, moved = time.perf_counter(), [], 0
    while (now := time.perf_counter() - begin) < seconds:
        if now * 60 > moved:
            moved += 1
            turns += _act(partial(move, now))
        own, wall = time.thread_time(), time.perf_counter()
        app.processEvents()
        turns.append((time.thread_time() - own, time.perf_counter() - wall))
        time.sleep(0.001)
    window.models.review.answer_changed.disconnect(shown.append)
    return turns, len(shown) / seconds


def _act(act: Callable[[], object]) -> list[Turn]:
    """What the coach does takes its part of a turn too."""
    own, wall = time.thread_time(), time.perf_counter()
    act()
    return [(time.thread_time() - own, time.perf_counter() - wall)]


def _again(app: Any, window: Any) -> float:
    """Seconds from choosing a clip that was measured before to its whole answer on the screen."""
    review, clip = window.models.review, window.models.review.clip
    _until(app, lambda: review.answer.body is not None)
    other = next(one for one in window.desk.clips if one.id != clip.id)
    window.desk.open_clip(other.id)
    _until(app, lambda: review.index is not None and review.clip.id == other.id)
    begin = time.perf_counter()
    window.desk.open_clip(clip.id)
    _until(
        app, lambda: review.clip.id == clip.id and review.answer is not None and review.answer.body
    )
    app.processEvents()
    return time.perf_counter() - begin


def _queueing(app: Any, window: Any) -> list[Turn]:
    """The background looks through a clip, and the list is on show."""
    window.desk.go_to("Film")
    app.processEvents()
    clip = next(one for one in window.desk.clips if not one.tracked)
    acts = _act(lambda: window.models.queue.again(clip)) + _act(window.models.queue.switch_pause)
    return acts + turns_of(app, lambda: window.models.queue.busy)


def _turns_of_nothing(seconds: float = 3.0) -> list[Turn]:
    """What the machine itself takes away: a loop that does nothing."""
    end, turns = time.perf_counter() + seconds, []
    while time.perf_counter() < end:
        wall = time.perf_counter()
        time.sleep(0.001)
        turns.append((0.0, time.perf_counter() - wall))
    return turns


def turns_of(app: Any, going_on: Callable[[], bool]) -> list[Turn]:
    """Every turn of the event loop while something goes on."""
    turns = [(0.0, 0.0)]
    while going_on():
        own, wall = time.thread_time(), time.perf_counter()
        app.processEvents()
        turns.append((time.thread_time() - own, time.perf_counter() - wall))
        time.sleep(0.001)
    return turns


def _until(app: Any, ready: Callable[[], bool]) -> None:
    while not ready():
        app.processEvents()
        time.sleep(0.002)
