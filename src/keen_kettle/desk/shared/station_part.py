"""What a station hands to the window: its widget, its actions, its badge on the strip, its pages."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Protocol

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QMenu, QWidget

from keen_kettle.desk.kit.action import Action

__all__ = ["Page", "Stage", "StationPart"]


class Stage(Protocol):
    """What the window does for a station."""

    def show_page(self, page: QWidget) -> None:
        """Lay a page over the stations."""

    def shows(self, page: QWidget) -> bool:
        """Whether this is what is seen."""

    def back(self) -> None:
        """To the station on which the coach was."""


@dataclass(frozen=True)
class Page:
    """A page of a station that has a key of its own: the action's id, the tab's name and its words."""

    id: str
    tab: str
    words: str
    key: str
    help: str


class StationPart(QObject):
    """One of the loop's stations. `over` are its pages that take the whole place of a station."""

    changed = pyqtSignal()
    """What can be done may have changed,"""
    badge_changed = pyqtSignal()
    """and so what waits at the station."""

    name = ""
    help = ""
    picture = ""
    """Its icon on the strip."""
    pages: tuple[Page, ...] = ()

    @property
    def widget(self) -> QWidget:
        raise NotImplementedError

    @property
    def over(self) -> tuple[QWidget, ...]:
        return ()

    def actions(self) -> tuple[Action, ...]:
        """What can be done here, in the order of the menus."""
        return ()

    def badge(self) -> str:
        """What waits here for the chosen who, in two or three words; empty where nothing does."""
        return ""

    def open(self, tab: str) -> None:
        """Turn to one of the pages."""

    def take_menus(self, menus: Mapping[str, QMenu]) -> None:
        """The window's menus, once they are made: a station may show one at a button of its own."""

    def retinted(self) -> None:
        """The theme has changed: paint anew what is kept painted."""
