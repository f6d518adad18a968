"""All actions of the window: its own, the way to each station and page, and what the stations offer.

The window's menus, its shortcuts and the page of keys are made from the same list.
"""

from collections.abc import Callable, Iterable
from functools import partial

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QMenuBar

from keen_kettle.desk.kit.action import MENUS, Action
from keen_kettle.desk.window.exporting import EXPORTS
from keen_kettle.desk.window.files import Files
from keen_kettle.desk.window.stations import Stations

__all__ = ["Actions", "export_actions", "going_actions"]


class Actions:
    """One QAction for each id; of several offers of one id the open station's goes first."""

    def __init__(self, bar: QMenuBar) -> None:
        self.by_id: dict[str, QAction] = {}
        self.known: list[Action] = []
        self._bar, self._station = bar, ""
        self._offers: dict[str, list[tuple[str, Action]]] = {}
        self.menus: dict[str, QMenu] = {}
        for name in MENUS:
            menu = bar.addMenu(f"&{name}")
            assert menu is not None
            self.menus[name] = menu

    def add(self, actions: Iterable[Action], station: str = "") -> None:
        for action in actions:
            offers = self._offers.setdefault(action.id, [])
            offers.append((station, action))
            if len(offers) == 1:
                self.known.append(action)
                self.by_id[action.id] = self._made(action)

    def _made(self, action: Action) -> QAction:
        made = QAction(action.words, self._bar)
        made.setShortcuts([QKeySequence(keys) for keys in action.keys])
        made.setStatusTip(action.help)
        made.setCheckable(action.checkable)
        made.triggered.connect(lambda _on, name=action.id: self._do(name))
        self.menus[action.menu].addAction(made)
        return made

    def enable(self, station: str) -> None:
        """Ask each action whether it may be done now; `station` is the open one."""
        self._station = station
        for name, made in self.by_id.items():
            made.setEnabled(self._chosen(name) is not None)

    def _chosen(self, name: str) -> Action | None:
        offers = sorted(self._offers[name], key=lambda offer: offer[0] != self._station)
        return next((action for _, action in offers if action.may()), None)

    def _do(self, name: str) -> None:
        action = self._chosen(name)
        if action is not None:
            action.do()


def going_actions(
    stations: Stations, go: Callable[[str], None], open_page: Callable[[str], None]
) -> list[Action]:
    """To each station by its number, and to its pages."""
    found = []
    for number, part in enumerate(stations.in_order, 1):
        found.append(
            Action(
                *(f"go_{part.name.lower()}", part.name, "Go", (f"Ctrl+{number}",), part.help),
                partial(go, part.name),
            )
        )
        found += [
            Action(page.id, page.words, "Go", (page.key,), page.help, partial(open_page, page.id))
            for page in part.pages
        ]
    return found


def export_actions(files: Files) -> list[Action]:
    """What the open review can be written as."""
    rows = (
        *(
            ("export_json", "Export analysis (JSON) …", "Ctrl+E"),
            ("export_path", "Export path (CSV) …", "Ctrl+Shift+E"),
        ),
        ("export_measures", "Export measures (CSV) …", "Ctrl+Alt+E"),
        ("export_landmarks", "Export landmarks (CSV) …", "Ctrl+Shift+L"),
        ("export_trc", "Export landmarks (TRC) …", "Ctrl+Alt+L"),
    )
    texts = [
        Action(
            *(name, words, "File", (key,), EXPORTS[name].says),
            partial(files.export, name),
            partial(files.may_export, name),
        )
        for name, words, key in rows
    ]
    return [
        *texts,
        Action(
            *("export_film", "Export film with the path (MP4) …", "File", ("Ctrl+Shift+F",)),
            "Path, trail, figures and drawings in the picture, at the speed chosen under the film; "
            "no names.",
            files.export_film,
            files.may_export_film,
        ),
        Action(
            *("stop", "Stop, or turn down a suggestion", "Review", ("Esc",), "The mark is kept."),
            files.stop,
            lambda: files.writing is not None,
        ),
    ]
