"""Pages of plain text in the window: the cautions before the first start, and the list of keys."""

from collections.abc import Callable, Iterable

from PyQt6.QtWidgets import QGridLayout, QScrollArea, QWidget

from keen_kettle.core.content import Content
from keen_kettle.desk.kit.action import Action
from keen_kettle.desk.kit.builders import button, card, column, label, row, with_picture

__all__ = ["cautions_page", "keys_page"]

COLUMNS = (("File", "Edit", "Review"), ("Film", "Body", "Draw"), ("By hand", "Go", "View", "Help"))


def cautions_page(content: Content, read: Callable[[], None]) -> QWidget:
    """What to keep in mind before anyone lifts; `read` is called when the coach has read it."""
    cautions = content.cautions
    inside = card(
        label("Before you begin", "title"),
        *(
            with_picture("octagon-alert", "safety", cautions[name].text)
            for name in ("first", "floor", "let-go")
        ),
        with_picture("info", "quiet", cautions["privacy"].text),
        row(button("I have read this", "Go on to the clips", read, "check", "next")),
        spacing=14,
        margin=28,
    )
    inside.setFixedWidth(720)
    across = row(inside)
    across.insertStretch(0, 1)
    across.addStretch(1)
    down = column(across)
    down.insertStretch(0, 1)
    down.addStretch(2)
    page = QWidget()
    page.setLayout(down)
    return page


def keys_page(actions: Iterable[Action], back: Callable[[], None]) -> QWidget:
    """All actions with their keys, by menu."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(24)
    grid.setVerticalSpacing(4)
    for half, menus in enumerate(COLUMNS):
        number = 0
        for menu in menus:
            grid.addWidget(label(menu.upper(), "head", wrap=False), number, 3 * half)
            number += 1
            for action in actions:
                if action.menu == menu:
                    grid.addWidget(label(action.words, wrap=False), number, 3 * half)
                    grid.addWidget(
                        label("  or  ".join(action.keys) or "–", "measured", wrap=False),
                        number,
                        3 * half + 1,
                    )
                    number += 1
        grid.setColumnMinimumWidth(3 * half + 2, 28)
    inside = QWidget()
    foot = row(button("Back", "Back to where you were", back, "undo-2", "next"))
    foot.addStretch(1)
    body = column(
        label("Keys", "title"),
        label(
            "Mark or point on the frame: Ctrl with the arrows moves it by a quarter of a pixel, Ctrl with + and − sizes the mark; with Shift too, by two pixels.\n"
            "On Visit: 1 to 9 mark points, A all, + and − how it was liked, P pain, F a fault, L the load, Enter takes the advice.\n"
            "On Screening, with the focus on a check: P pass, N not yet, U not tested.",
            "quiet",
        ),
        grid,
        foot,
        spacing=12,
        margin=24,
    )
    body.addStretch(1)
    inside.setLayout(body)
    scroll = QScrollArea()
    scroll.setWidgetResizable(True)
    scroll.setWidget(inside)
    return scroll
