"""How long the window takes to open, and the longest that it does not answer while tracking."""

import os
import tempfile
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

__all__ = ["report_window"]


def report_window() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    begin = time.perf_counter()
    from PyQt6.QtWidgets import QApplication

    from keen_kettle.desk.start import make_window

    app = QApplication.instance() or QApplication(["bench"])
    assert isinstance(app, QApplication)
    print("\n## The window (demo data)\n\n| what | value |\n|---|---|")
    with tempfile.TemporaryDirectory() as room:
        imported = time.perf_counter() - begin
        first = _opened(app, make_window, Path(room))
        first[0].close()
        window, seconds = _opened(app, make_window, Path(room))
        window.queue.switch_pause()  # the demo's own clips would be measured meanwhile
        print(f"| import the desk | {imported:.2f} s |")
        print(f"| first start, with laying out the demo | {first[1]:.2f} s |")
        print(f"| second start, to a shown window | {seconds:.2f} s |")
        busy, waited = _turns_while_tracking(app, window)
        print(
            f"| longest turn of the event loop while tracking, its own work | {1000 * busy:.0f} ms |"
        )
        print(
            f"| the same by the wall clock (holds what the machine takes away) | {1000 * waited:.0f} ms |"
        )
        busy, waited = _turns(app, lambda: window.body.searching or window.review.body is None)
        print(
            f"| longest turn while the body is looked for and solved, its own work | {1000 * busy:.0f} ms |"
        )
        print(f"| the same by the wall clock | {1000 * waited:.0f} ms |")
        print(
            f"| a measured clip opened again, to its answer with the body | {_again(app, window):.2f} s |"
        )
        busy, waited = _turns_while_queueing(app, window)
        print(
            f"| longest turn while the queue looks through a clip, its own work | {1000 * busy:.0f} ms |"
        )
        print(f"| the same by the wall clock | {1000 * waited:.0f} ms |")
        busy, waited = _turns_of_nothing()
        print(f"| a loop that only waits, by the wall clock | {1000 * waited:.0f} ms |")
        window.close()


def _opened(app: Any, make_window: Callable[..., Any], folder: Path) -> tuple[Any, float]:
    begin = time.perf_counter()
    window = make_window(app, folder, True, lambda: date(2026, 11, 23))
    window.show()
    app.processEvents()
    return window, time.perf_counter() - begin


def _turns_while_tracking(app: Any, window: Any) -> tuple[float, float]:
    """The longest turn from the start of tracking to the shown answer: CPU time and wall time."""
    review = window.review
    clip = next(one for one in window.desk.clips if not one.tracked)
    window._cautions_read()
    window.desk.open_clip(clip.id)
    _until(app, lambda: review.index is not None)
    from keen_kettle.demo.club import _mark

    mark = _mark(clip.path)
    review.draw_mark(mark.x_px, mark.y_px, mark.r_px)
    review.keep_mark()
    _until(app, lambda: review.rim is not None)
    review.start_tracking()
    return _turns(app, lambda: review.tracking or review.answer is None)


def _again(app: Any, window: Any) -> float:
    """Seconds from choosing a clip that was measured before to its whole answer on the screen."""
    review, clip = window.review, window.review.clip
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


def _turns_while_queueing(app: Any, window: Any) -> tuple[float, float]:
    """The longest turn while the background looks through a clip and the list is on show."""
    window.desk.go_to("Film")
    app.processEvents()
    clip = next(one for one in window.desk.clips if not one.tracked)
    window.queue.again(clip)
    window.queue.switch_pause()
    return _turns(app, lambda: window.queue.busy)


def _turns_of_nothing(seconds: float = 3.0) -> tuple[float, float]:
    """What the machine itself takes away: the longest turn of a loop that does nothing."""
    end, waited = time.perf_counter() + seconds, 0.0
    while time.perf_counter() < end:
        wall = time.perf_counter()
        time.sleep(0.001)
        waited = max(waited, time.perf_counter() - wall)
    return 0.0, waited


def _turns(app: Any, going_on: Callable[[], bool]) -> tuple[float, float]:
    """The longest turn of the event loop while something goes on: CPU time and wall time."""
    busy, waited = [0.0], [0.0]
    while going_on():
        own, wall = time.thread_time(), time.perf_counter()
        app.processEvents()
        busy.append(time.thread_time() - own)
        waited.append(time.perf_counter() - wall)
        time.sleep(0.001)
    return max(busy), max(waited)


def _until(app: Any, ready: Callable[[], bool]) -> None:
    while not ready():
        app.processEvents()
        time.sleep(0.002)
