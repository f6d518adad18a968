"""One thing that can be done, whole: its words, its keys, what it does and when it may."""

from collections.abc import Callable
from dataclasses import dataclass

__all__ = ["MENUS", "Action", "always"]

MENUS = ("File", "Edit", "Film", "Review", "By hand", "Body", "Draw", "Go", "View", "Help")


def always() -> bool:
    """What may be done at any time."""
    return True


@dataclass(frozen=True)
class Action:
    """Menus, shortcuts and the page of keys are made from these. Two stations may offer the same `id`
    (to accept what is suggested, say): the one that is open goes first."""

    id: str
    words: str
    menu: str
    keys: tuple[str, ...]
    help: str
    do: Callable[[], object]
    may: Callable[[], bool] = always
    checkable: bool = False
