"""Small pieces that every screen is made of: labels with a role, cards, buttons, rows."""

from collections.abc import Callable, Sequence
from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QBoxLayout,
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.desk.kit.theme import dress

__all__ = [
    "Sheet",
    "button",
    "card",
    "clear",
    "column",
    "label",
    "name_edit",
    "number_field",
    "packed",
    "row",
    "scrolled",
    "with_picture",
    "with_role",
]


L = TypeVar("L", bound=QBoxLayout)


def with_role(widget: QWidget, role: str) -> QWidget:
    """Dress a widget as the style sheet's role; may be changed later."""
    widget.setProperty("role", role)
    style = widget.style()
    if style is not None and widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):
        style.unpolish(widget)
        style.polish(widget)
    return widget


def label(text: str = "", role: str = "", wrap: bool = True) -> QLabel:
    made = QLabel(text)
    made.setWordWrap(wrap)
    made.setTextFormat(Qt.TextFormat.PlainText)
    if role:
        with_role(made, role)
    return made


def button(
    words: str,
    tip: str,
    clicked: Callable[[], object] | None = None,
    picture: str = "",
    role: str = "",
) -> QPushButton:
    """A button that says what it does; `tip` is its tooltip and accessible description."""
    made = QPushButton(words)
    made.setToolTip(tip)
    made.setAccessibleName(words or tip)
    made.setAccessibleDescription(tip)
    if picture:
        token = {"next": "on_brass", "link": "chalk"}.get(role, "ink")
        dress(made, picture, token)
    if role:
        with_role(made, role)
    if clicked is not None:
        made.clicked.connect(lambda: clicked())
    return made


def card(*inside: QWidget | QLayout, spacing: int = 8, margin: int = 14) -> QFrame:
    """A raised surface with its content in a column."""
    made = QFrame()
    with_role(made, "card")
    made.setLayout(column(*inside, spacing=spacing, margin=margin))
    return made


def number_field(low: float, high: float, step: float, unit: str, digits: int) -> QDoubleSpinBox:
    """A number with its unit; arrow keys step it, and it counts once it is entered."""
    made = QDoubleSpinBox()
    made.setRange(low, high)
    made.setSingleStep(step)
    made.setDecimals(digits)
    made.setSuffix(unit)
    made.setKeyboardTracking(False)
    made.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
    return made


def name_edit(box: QComboBox, words: str, tip: str) -> None:
    """Name a box that can be typed into, and the line inside it."""
    for one in (box, box.lineEdit()):
        if one is not None:
            one.setAccessibleName(words)
            one.setToolTip(tip)


def column(*inside: QWidget | QLayout, spacing: int = 8, margin: int = 0) -> QVBoxLayout:
    return _filled(QVBoxLayout(), inside, spacing, margin)


def row(*inside: QWidget | QLayout, spacing: int = 8, margin: int = 0) -> QHBoxLayout:
    return _filled(QHBoxLayout(), inside, spacing, margin)


def _filled(layout: L, inside: tuple[QWidget | QLayout, ...], spacing: int, margin: int) -> L:
    layout.setSpacing(spacing)
    layout.setContentsMargins(margin, margin, margin, margin)
    for item in inside:
        if isinstance(item, QWidget):
            layout.addWidget(item)
        else:
            layout.addLayout(item)
    return layout


def scrolled(*inside: QWidget | QLayout, spacing: int = 8) -> QScrollArea:
    """Content in a column that scrolls up and down only, its end kept free."""
    body = column(*inside, spacing=spacing)
    body.setContentsMargins(0, 0, 8, 0)
    body.addStretch(1)
    holder = QWidget()
    holder.setLayout(body)
    made = QScrollArea()
    made.setWidgetResizable(True)
    made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    made.setWidget(holder)
    return made


def packed(
    into: QVBoxLayout,
    widgets: Sequence[QWidget],
    wide_px: int,
    within: QWidget,
    spacing: int = 4,
    left: bool = False,
) -> None:
    """Lay widgets out in as few lines as their own widths allow, in their order; they fill their
    lines, or (`left`) keep their own widths. They are measured as they look `within` a widget."""
    line, used = None, 0
    for one in widgets:
        if one.parentWidget() is None:
            one.setParent(within)
        wants = one.sizeHint().width()
        if line is None or used + spacing + wants > wide_px:
            if line is not None and left:
                line.addStretch(1)
            line, used = row(spacing=spacing), 0
            into.addLayout(line)
        line.addWidget(one, 0 if left else max(wants, 1))
        if one.parentWidget() is not None:
            one.show()  # without a place it would be a window of its own for a moment
        used += wants + (spacing if used else 0)
    if line is not None and left:
        line.addStretch(1)


def with_picture(picture: str, role: str, words: str) -> QWidget:
    """An icon of the role's colour beside its words (colour never speaks alone)."""
    sign = QLabel()
    dress(sign, picture, {"right": "sage", "fault": "ember", "safety": "signal"}.get(role, "quiet"))
    sign.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
    line = row(sign, label(words, "" if role == "right" else role))
    line.setAlignment(sign, Qt.AlignmentFlag.AlignTop)
    made = QWidget()
    made.setLayout(line)
    return made


class Sheet(QWidget):
    """Content that is made anew as a whole: it comes in one step, already laid out."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._place = column()
        self.setLayout(self._place)

    def fill(self, content: QLayout) -> None:
        page = QWidget()
        page.setLayout(content)
        clear(self._place)
        self._place.addWidget(page)


def clear(layout: QLayout) -> None:
    """Take everything out of a layout and let it go."""
    while (item := layout.takeAt(0)) is not None:
        inner = item.layout()
        if inner is not None:
            clear(inner)
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
