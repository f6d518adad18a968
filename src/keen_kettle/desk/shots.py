"""Makes the pictures in docs/screenshots from the demo data, by driving the real window."""

import os
import tempfile
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from keen_kettle.core.track import PlateMark
from keen_kettle.desk.start import make_window
from keen_kettle.desk.window import Window

__all__ = ["take_shots"]

DAY = date(2026, 11, 23)
MARK = PlateMark(0, 650.0, 590.0, 66.0)


def take_shots(folder: Path) -> int:
    """Write one PNG of each main view (1280 × 800) into `folder`."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = QApplication.instance() or QApplication(["kettle"])
    assert isinstance(app, QApplication)
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as room:
        window = make_window(app, Path(room), True, lambda: DAY)
        window.resize(1280, 800)
        window.show()
        _walk(app, window, lambda name: _keep(app, window, folder / f"{name}.png"))
        window.close()
        app.processEvents()
    return 0


def _walk(app: QApplication, window: Window, keep: Callable[[str], None]) -> None:
    desk, review = window.desk, window.review
    keep("cautions")
    window._cautions_read()
    _teach(app, window, keep)
    desk.choose_who(None)
    desk.go_to("Film")
    keep("film")
    clip = next(one for one in desk.clips if one.path.name.startswith("maren"))
    desk.open_clip(clip.id)
    _until(app, lambda: review.index is not None and not review._frames.waiting)
    _until(app, lambda: window.hand.proposed is not None, 60)
    keep("review-mark")
    review.draw_mark(MARK.x_px, MARK.y_px, MARK.r_px)
    review.keep_mark()
    _until(app, lambda: review.rim is not None)
    keep("review-ready")
    review.start_tracking()
    _until(app, lambda: review.answer is not None and review.answer.body is not None, 120)
    _until(app, lambda: not desk.jobs.busy)
    review.show_frame(review.answer.diagnosis.chief.evidence[0].frame)  # type: ignore[union-attr]
    _until(app, lambda: not review._frames.waiting)
    keep("review")
    _by_hand(app, window, keep)
    desk.go_to("Prescribe")
    keep("prescribe")
    window.offers.take(window.offers.offers[0])
    desk.choose_who(clip.athlete_id)
    desk.go_to("Record")
    keep("record")
    window.actions_by_id["daylight"].trigger()
    desk.go_to("Review")
    _until(app, lambda: not review._frames.waiting)
    keep("review-daylight")


def _by_hand(app: QApplication, window: Window, keep: Callable[[str], None]) -> None:
    """A bridged span and a point set by hand, with the tools open; then all of it taken back."""
    review, hand, fold = window.review, window.hand, window.review_station.say._tools_fold
    shown = review.frame
    for frame, act in (
        (shown - 16, hand.begin_span),
        (shown - 8, lambda: hand.set_span("bridged")),
    ):
        review.go_to_frame(frame)
        _until(app, lambda: not review._frames.waiting)
        act()
    _until(app, lambda: review.answer is not None and not review.tracking, 90)
    review.go_to_frame(shown + 6)
    _until(app, lambda: not review._frames.waiting)
    x, y = hand.track_point or (0.0, 0.0)
    hand.draw_point(x + 1, y)
    window.review_station.film._loupe_at = (x + 1, y)
    fold.open_up(True)
    keep("review-hand")
    window.review_station.film._loupe_at = hand.point = None
    fold.open_up(False)
    window.desk.undo_stack.undo()
    _until(app, lambda: review.answer is not None and not review.tracking, 90)
    review.show_frame(shown)
    _until(app, lambda: not review._frames.waiting)


def _teach(app: QApplication, window: Window, keep: Callable[[str], None]) -> None:
    desk, station = window.desk, window.teach_station
    _until(app, lambda: not window.teach.waiting)
    numbers = {one.name: one.id for one in desk.athletes}
    desk.choose_who(numbers["Tobias Quell"])
    for page in ("athletes", "screening", "fit"):
        window.open_page(page)
        keep(page)
    desk.choose_who(None)
    window.open_page("board")
    keep("board")
    window.open_page("visit")
    row = window.teach.row(numbers["Juno Averdale"], "clean-bottom-up")
    assert row is not None
    window.teach.all_points(row)
    station.visit.view.selectRow([one.key for one in station.visit.model.rows].index(row.key))
    keep("visit")
    desk.undo_stack.undo()
    window.open_page("ladders")
    station.ladders.open_ladder("clean-bottom-up", "clean")
    station.ladders.figure.stand_in("lowest")
    keep("ladders")
    desk.choose_who(numbers["Kester Moyle"])
    window.open_page("choose")
    keep("choose")


def _keep(app: QApplication, window: Window, path: Path) -> None:
    for _ in range(6):
        app.processEvents()
        time.sleep(0.03)
    window.grab().save(str(path))
    print(path)


def _until(app: QApplication, ready: Callable[[], bool], seconds: float = 20) -> None:
    end = time.monotonic() + seconds
    while not ready():
        if time.monotonic() > end:
            raise TimeoutError("the demo did not get ready for its picture")
        app.processEvents()
        time.sleep(0.005)
