"""Makes the pictures in docs/screenshots from the demo data, by driving the real window."""

import os
import shutil
import tempfile
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from keen_kettle.demo import CLIPS_FOLDER, lay_out_people
from keen_kettle.desk.start import make_window
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import Shelf, database_file

__all__ = ["take_shots"]

DAY = date(2026, 11, 23)


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
    with tempfile.TemporaryDirectory() as room:
        _queue(app, Path(room), lambda window: _keep(app, window, folder / "queue.png"))
    return 0


PHONES = (
    ("ines-snatch-45.mp4", "IMG_20261122_181502.mp4"),
    ("maren-snatch-40.mp4", "maren snatch 40kg 2026-11-22.mp4"),
    ("tobias-power-clean-80.mp4", "Quell_clean_80kg_20261123.mp4"),
)
"""The demo's films under names as phones and athletes give them."""


def _queue(app: QApplication, room: Path, keep: Callable[[Window], None]) -> None:
    """The club with a folder of films, of which one is looked through and one is being so."""
    films, data = room / "from phones", room / "data"
    films.mkdir()
    data.mkdir()
    for file, name in PHONES:
        shutil.copy(CLIPS_FOLDER / file, films / name)
    shelf = Shelf(database_file(data))
    lay_out_people(shelf, DAY)
    shelf.keep_cautions_read()
    shelf.close()
    window = make_window(app, data, False, lambda: DAY)
    window.resize(1280, 800)
    window.show()
    window.desk.go_to("Film")
    queue = window.models.queue
    queue.take_in(films)
    _until(app, lambda: len(queue.due) == 2 and queue.share > 0.5, 120)
    window.stations.film.widget.list.setCurrentIndex(window.stations.film.widget.shown.index(0, 0))
    keep(window)
    queue.cancel()
    window.close()
    app.processEvents()


def _walk(app: QApplication, window: Window, keep: Callable[[str], None]) -> None:
    desk, review = window.desk, window.models.review
    window._cautions_read()
    _teach(app, window, keep)
    desk.choose_who(None)
    desk.go_to("Film")
    _until(app, lambda: not window.models.queue.busy, 180)
    keep("film")
    clip = next(one for one in desk.clips if one.path.name == "maren-snatch-40.mp4")
    desk.open_clip(clip.id)
    _until(app, lambda: review.index is not None and not review._frames.waiting)
    _until(app, lambda: window.models.hand.proposed is not None, 60)
    window.models.hand.accept()
    _until(app, lambda: review.answer is not None and review.answer.body is not None, 120)
    _until(app, lambda: not desk.jobs.busy)
    review.show_frame(review.answer.diagnosis.chief.evidence[0].frame)  # type: ignore[union-attr]
    _until(app, lambda: not review._frames.waiting)
    keep("review")
    _by_hand(app, window, keep)
    _until(app, window.actions_by_id["beside"].isEnabled)
    window.actions_by_id["beside"].trigger()
    _until(
        app,
        lambda: (
            window.stations.review.compare.table.rowCount() > 0
            and window.stations.review.compare.pictures.ready
        ),
    )
    keep("beside")
    _prescribe(app, window, keep)
    desk.choose_who(None)
    desk.go_to("Record")
    keep("record")


def _prescribe(app: QApplication, window: Window, keep: Callable[[str], None]) -> None:
    """The five pages of Prescribe for the athlete whose corrective is due."""
    desk, station = window.desk, window.stations.prescribe.widget
    desk.choose_who(next(one.id for one in desk.athletes if one.name == "Maren Holtby"))
    window.open_page("correctives")
    keep("prescribe")
    window.open_page("warmup")
    keep("warm-up")
    window.open_page("complex")
    _until(app, lambda: station.composer.found is not None and not station.composer.searching)
    station.complex.bench.choose(1)
    keep("complex")
    window.open_page("session")
    _until(app, lambda: bool(station.sheet.sessions) and not station.sheet.working)
    keep("session")
    window.open_page("drills")
    station.library.narrow(fault="slow-elbows", chosen="rack-hold")
    keep("drills")
    station.library.narrow(fault="")
    window.open_page("faults")
    keep("faults")


def _by_hand(app: QApplication, window: Window, keep: Callable[[str], None]) -> None:
    """A bridged span and a point set by hand, with the tools open; then all of it taken back."""
    review, hand, fold = (
        window.models.review,
        window.models.hand,
        window.stations.review.widget.say._tools_fold,
    )
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
    window.stations.review.widget.film._loupe_at = (x + 1, y)
    fold.open_up(True)
    keep("review-hand")
    window.stations.review.widget.film._loupe_at = hand.point = None
    fold.open_up(False)
    window.desk.undo_stack.undo()
    _until(app, lambda: review.answer is not None and not review.tracking, 90)
    review.show_frame(shown)
    _until(app, lambda: not review._frames.waiting)


def _teach(app: QApplication, window: Window, keep: Callable[[str], None]) -> None:
    desk, station = window.desk, window.stations.teach.widget
    _until(app, lambda: not window.models.teach.waiting)
    numbers = {one.name: one.id for one in desk.athletes}
    desk.choose_who(numbers["Tobias Quell"])
    for page in ("athletes", "screening", "fit"):
        window.open_page(page)
        keep(page)
    desk.choose_who(None)
    window.open_page("board")
    keep("board")
    window.open_page("visit")
    row = window.models.teach.row(numbers["Juno Averdale"], "clean-bottom-up")
    assert row is not None
    window.models.teach.all_points(row)
    station.visit.view.selectRow([one.key for one in station.visit.model.rows].index(row.key))
    keep("visit")
    desk.undo_stack.undo()
    station.visit.view.selectRow([one.key for one in station.visit.model.rows].index(row.key))
    window.open_page("ladders")
    station.ladders.open_ladder("clean-bottom-up", "clean")
    station.ladders.figure.stand_in("lowest")
    keep("ladders")
    desk.choose_who(numbers["Kester Moyle"])
    window.open_page("choose")
    keep("choose")


def _keep(app: QApplication, window: Window, path: Path) -> None:
    positions = window.stations.review.widget.positions
    _until(app, lambda: not positions.isVisible() or positions.ready)
    for _ in range(10):
        app.processEvents()
        time.sleep(0.03)
    for _ in range(3):  # what was laid out in the last turn has its place only in the next
        app.processEvents()
    window.grab().save(str(path))
    print(path)


def _until(app: QApplication, ready: Callable[[], bool], seconds: float = 20) -> None:
    end = time.monotonic() + seconds
    while not ready():
        if time.monotonic() > end:
            raise TimeoutError("the demo did not get ready for its picture")
        app.processEvents()
        time.sleep(0.005)
