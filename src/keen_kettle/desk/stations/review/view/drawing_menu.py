"""What can be done with the chosen drawing, as a menu at the hand."""

from functools import partial

from PyQt6.QtGui import QActionGroup
from PyQt6.QtWidgets import QMenu, QWidget

from keen_kettle.desk.state.review.drawing_model import DrawingModel

__all__ = ["drawing_menu"]

ELSEWHERE_WORDS = (
    ("", "Only on its frame"),
    ("follows", "On every frame, following"),
    ("ghost", "Its ghost on other frames"),
)


def drawing_menu(model: DrawingModel, parent: QWidget) -> QMenu:
    """A menu for the chosen drawing; to be opened by who asked."""
    menu = QMenu(parent)
    drawing = model.drawing
    group = QActionGroup(menu)
    for elsewhere, words in ELSEWHERE_WORDS if model.may_stay else ():
        action = menu.addAction(words)
        assert action is not None
        action.setCheckable(True)
        action.setChecked(drawing is not None and drawing.elsewhere == elsewhere)
        action.triggered.connect(partial(model.set_elsewhere, elsewhere))
        group.addAction(action)
    menu.addSeparator()
    remove = menu.addAction("Remove (Del)")
    assert remove is not None
    remove.triggered.connect(model.remove)
    return menu
