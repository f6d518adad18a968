"""Starts the application: looks for a screen, opens the records, shows the window, warms up."""

import gc
import os
import sys
import threading
from collections.abc import Callable
from datetime import date
from pathlib import Path

from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from keen_kettle.core.content import load_content
from keen_kettle.desk.kit.theme import use_theme
from keen_kettle.desk.kit.tokens import DAYLIGHT, DUSK
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.window.frame import Window
from keen_kettle.desk.work.worker_process import WorkerProcess
from keen_kettle.store import Shelf, StoreError, data_dir, database_file

__all__ = ["make_window", "open_desk", "spare_the_window"]


def open_desk(folder: Path | None, demo: bool) -> int:
    """Run the application until its window closes; exit code 2 when it cannot start."""
    problem = _no_screen()
    if problem:
        print(f"kettle: {problem}", file=sys.stderr)
        return 2
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    try:
        window = make_window(app, _folder(folder, demo), demo, date.today)
    except StoreError as error:
        print(f"kettle: {error}", file=sys.stderr)
        return 2
    window.show()
    spare_the_window()
    seconds = float(os.environ.get("KETTLE_CLOSE_AFTER_S", "0"))
    if seconds:
        QTimer.singleShot(int(1000 * seconds), window.close)
    return app.exec()


def make_window(
    app: QApplication,
    folder: Path,
    demo: bool,
    today: Callable[[], date],
    answer_worker: WorkerProcess | None = None,
) -> Window:
    """A window on the records of a folder; the demo's are laid out first where they are missing.

    It gets a worker for answers of its own, unless several windows share one.
    """
    app.setApplicationName("Keen Kettle")
    # A tracking thread must hand over to the window within a millisecond, not within five.
    sys.setswitchinterval(0.001)
    settings = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)
    use_theme(app, DAYLIGHT if settings.value("daylight", False, type=bool) else DUSK)
    shelf = Shelf(database_file(folder))
    if demo:
        from keen_kettle.demo import lay_out_demo

        lay_out_demo(shelf, today())
    title = "Keen Kettle – demo" if demo else "Keen Kettle"
    desk = DeskModel(shelf, load_content(), today, answer_worker)
    window = Window(desk, settings, title)
    window.show_cautions_once()
    threading.Thread(target=desk.answer_worker.warm, daemon=True).start()
    return window


def spare_the_window() -> None:
    """What is there now stays to the end. Looking through it for garbage again and again, as Python
    does, would hold the window up for a tenth of a second each time."""
    gc.freeze()


def _folder(asked: Path | None, demo: bool) -> Path:
    if asked is None and demo:
        return data_dir(data_dir(None) / "demo")
    return data_dir(asked)


def _no_screen() -> str:
    """Qt ends the process when there is no display, so it is asked for in words first."""
    if (
        os.environ.get("QT_QPA_PLATFORM")
        or os.environ.get("DISPLAY")
        or os.environ.get("WAYLAND_DISPLAY")
    ):
        return ""
    return (
        "There is no screen to open a window on (neither DISPLAY nor WAYLAND_DISPLAY is set). "
        "Start it from a desktop session; “kettle analyse” works without one."
    )
