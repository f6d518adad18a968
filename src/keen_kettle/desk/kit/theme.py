"""Fonts, palette, style sheet and tinted icons, all from the tokens."""

from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

from PyQt6.QtCore import QByteArray, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel, QWidget

from keen_kettle.desk.kit.tokens import DUSK, SIZES, Tokens

__all__ = ["colour", "dress", "font", "icon", "retint", "theme", "use_theme", "wear_theme"]

HERE = Path(__file__).parent
FAMILY = "Manrope"

_now: list[Tokens] = [DUSK]


def theme() -> Tokens:
    """The tokens in use."""
    return _now[0]


def colour(name: str, alpha: float = 1.0) -> QColor:
    """A token as a colour; `alpha` from 0 to 1."""
    made = QColor(getattr(theme(), name))
    made.setAlphaF(alpha)
    return made


def font(size: str = "text", weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The shipped typeface with figures of one width."""
    made = QFont(FAMILY)
    made.setPixelSize(SIZES[size])
    made.setWeight(weight)
    made.setFeature(QFont.Tag(b"tnum"), 1)
    return made


ICON_PX, GAP_SHARE = 18, 4
"""An icon's size, and the part of it that is kept free between it and a button's words."""


@cache
def icon(name: str, token: str = "ink", tokens: Tokens | None = None, gap: bool = False) -> QIcon:
    """An icon in a token's colour, sharp at 1x, 2x and 3x; with a gap on its right for words."""
    tint = getattr(tokens or theme(), token)
    svg = (HERE / "icons" / f"{name}.svg").read_text(encoding="utf-8")
    renderer = QSvgRenderer(QByteArray(svg.replace("currentColor", tint).encode()))
    made = QIcon()
    for pixels in (20, 40, 60):
        picture = QPixmap(QSize(pixels + (pixels // GAP_SHARE if gap else 0), pixels))
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        renderer.render(painter, QRectF(0, 0, pixels, pixels))
        painter.end()
        made.addPixmap(picture)
    return made


def dress(widget: QWidget, picture: str, token: str = "ink") -> None:
    """Give a button or a label an icon, remembered so that a new theme can tint it again."""
    widget.setProperty("picture", picture)
    widget.setProperty("token", token)
    if isinstance(widget, QLabel):
        widget.setPixmap(icon(picture, token).pixmap(ICON_PX, ICON_PX))
    elif isinstance(widget, QAbstractButton):
        worded = bool(widget.text())
        widget.setIcon(icon(picture, token, gap=worded))
        widget.setIconSize(QSize(ICON_PX + (ICON_PX // GAP_SHARE if worded else 0), ICON_PX))


def retint(root: QWidget) -> None:
    """Tint every icon below a widget for the theme in use, and paint everything anew."""
    for widget in (*root.findChildren(QAbstractButton), *root.findChildren(QLabel)):
        if widget.property("picture"):
            dress(widget, widget.property("picture"), widget.property("token"))
    for widget in root.findChildren(QWidget):
        widget.update()


def use_theme(app: QApplication, tokens: Tokens) -> None:
    """Colours, typeface and icons of a theme for the whole application (nothing to do when it has them
    already); its windows then `wear_theme`."""
    if _now[0] == tokens and _loaded:
        return
    _now[0] = tokens
    icon.cache_clear()
    for file in sorted((HERE / "fonts").glob("*.ttf")):
        if file.name not in _loaded:
            QFontDatabase.addApplicationFont(str(file))
            _loaded.add(file.name)
    app.setStyle("Fusion")
    app.setFont(font())
    app.setPalette(_palette(tokens))


def wear_theme(window: QWidget) -> None:
    """Give a window the style sheet of the theme in use, once all is in it.

    An application's sheet is asked again for whatever comes into another parent, with all that is
    in that: a third of the time that a window takes to open.
    """
    window.setStyleSheet(_style_sheet(theme()))


_loaded: set[str] = set()


@cache
def _drawn(name: str, tint: str) -> str:
    """A tinted icon as a file, for style sheets, which take no picture from memory."""
    svg = (HERE / "icons" / f"{name}.svg").read_text(encoding="utf-8")
    file = Path(_drawings.name) / f"{name}-{tint[1:]}.svg"
    file.write_text(svg.replace("currentColor", tint), encoding="utf-8")
    return file.as_posix()


_drawings = TemporaryDirectory(prefix="keen-kettle-")


def _palette(t: Tokens) -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: t.ground,
        QPalette.ColorRole.WindowText: t.ink,
        QPalette.ColorRole.Base: t.raised,
        QPalette.ColorRole.AlternateBase: t.ground,
        QPalette.ColorRole.Text: t.ink,
        QPalette.ColorRole.Button: t.raised,
        QPalette.ColorRole.ButtonText: t.ink,
        QPalette.ColorRole.Highlight: t.brass,
        QPalette.ColorRole.HighlightedText: t.on_brass,
        QPalette.ColorRole.PlaceholderText: t.quiet,
        QPalette.ColorRole.ToolTipBase: t.raised,
        QPalette.ColorRole.ToolTipText: t.ink,
    }
    for role, value in roles.items():
        palette.setColor(role, QColor(value))
    return palette


def _style_sheet(t: Tokens) -> str:
    # Long: one sheet, read from top to bottom.
    s = SIZES
    return f"""
    QWidget {{ font-family: "{FAMILY}"; font-size: {s["text"]}px; color: {t.ink}; }}
    QMainWindow, QDialog {{ background: {t.ground}; }}
    QToolTip {{ background: {t.raised}; color: {t.ink}; border: 1px solid {t.edge}; padding: 4px 8px; }}
    QMenuBar {{ background: {t.ground}; }}
    QMenuBar::item {{ padding: 4px 10px; background: transparent; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {t.edge}; }}
    QMenu {{ background: {t.raised}; border: 1px solid {t.edge}; padding: 4px; }}
    QMenu::item {{ padding: 6px 28px 6px 12px; border-radius: 4px; }}
    QMenu::item:disabled {{ color: {t.quiet}; }}
    QMenu::separator {{ height: 1px; background: {t.edge}; margin: 4px 8px; }}
    *[role="card"] {{ background: {t.raised}; border: 1px solid {t.edge}; border-radius: 6px; }}
    *[role="title"] {{ font-size: {s["title"]}px; font-weight: 600; }}
    *[role="lead"] {{ font-size: {s["lead"]}px; font-weight: 600; }}
    *[role="quiet"] {{ color: {t.quiet}; }}
    *[role="small"] {{ color: {t.quiet}; font-size: {s["small"]}px; }}
    *[role="small-fault"] {{ color: {t.ember}; font-size: {s["small"]}px; }}
    *[role="head"] {{ color: {t.quiet}; font-size: {s["small"]}px; font-weight: 700; }}
    *[role="roll-call"] {{ background: {t.ground}; }}
    *[role="call"], *[role="call-answer"] {{ font-size: {s["lead"] + 9}px; font-weight: 600; }}
    *[role="call-answer"] {{ color: {t.sage}; font-weight: 400; }}
    *[role="call-words"] {{ color: {t.brass}; font-size: {s["title"]}px; font-weight: 700; }}
    *[role="right"] {{ color: {t.sage}; }}
    *[role="fault"] {{ color: {t.ember}; }}
    *[role="safety"] {{ color: {t.signal}; }}
    *[role="measured"] {{ color: {t.chalk}; }}
    QPushButton, QToolButton {{
        background: {t.raised}; border: 1px solid {t.edge}; border-radius: 6px; padding: 6px 12px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.quiet}; }}
    QPushButton:focus, QToolButton:focus, QComboBox:focus, QAbstractSpinBox:focus, QLineEdit:focus {{ border: 1px solid {t.brass}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.quiet}; background: {t.ground}; }}
    QToolButton[role="strip"] {{ padding: 6px 7px; }}
    QPushButton[role="next"] {{
        background: {t.brass}; color: {t.on_brass}; border-color: {t.brass}; font-weight: 700;
        padding: 8px 16px; }}
    QPushButton[role="next"]:disabled {{ background: {t.edge}; color: {t.quiet}; border-color: {t.edge}; }}
    QPushButton[role="next"]:focus {{ border: 2px solid {t.ink}; }}
    QPushButton[role="link"], QToolButton[role="link"] {{
        background: transparent; border: 1px solid transparent; color: {t.chalk}; padding: 2px 4px;
        text-align: left; }}
    QPushButton[role="link"]:hover, QPushButton[role="link"]:focus {{ border-color: {t.chalk}; }}
    QToolButton:checked {{ border-color: {t.brass}; color: {t.brass}; }}
    QComboBox, QAbstractSpinBox, QLineEdit {{
        background: {t.ground}; border: 1px solid {t.edge}; border-radius: 6px; padding: 5px 8px;
        min-height: 20px; selection-background-color: {t.brass}; selection-color: {t.on_brass}; }}
    QComboBox::drop-down {{ border: none; width: 26px; }}
    QComboBox::down-arrow {{ image: url("{_drawn("chevron-down", t.quiet)}"); width: 14px; height: 14px; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; border: 1px solid {t.edge}; }}
    QToolButton[role="fold"], QToolButton[role="fold"]:checked {{
        background: transparent; border: 1px solid transparent; color: {t.ink}; padding: 2px 4px;
        font-weight: 600; }}
    QToolButton[role="fold"]:hover, QToolButton[role="fold"]:focus {{ border-color: {t.edge}; }}
    QPushButton[role="point"] {{ text-align: left; padding: 6px 10px; }}
    QPushButton[role="point"]:checked {{ border-color: {t.brass}; color: {t.brass}; }}
    QPlainTextEdit {{
        background: {t.ground}; border: 1px solid {t.edge}; border-radius: 6px; padding: 4px 6px;
        selection-background-color: {t.brass}; selection-color: {t.on_brass}; }}
    QPlainTextEdit:focus {{ border: 1px solid {t.brass}; }}
    QListView, QTableView, QScrollArea {{ background: transparent; border: none; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QTableView {{ outline: none; gridline-color: {t.edge}; selection-background-color: {t.edge};
        selection-color: {t.ink}; }}
    QTableView::item {{ padding: 0 8px; }}
    QCheckBox::indicator {{
        width: 16px; height: 16px; border: 1px solid {t.quiet}; border-radius: 4px;
        background: {t.ground}; }}
    QCheckBox::indicator:checked {{ image: url("{_drawn("check", t.brass)}"); }}
    QCheckBox::indicator:focus {{ border-color: {t.brass}; }}
    QHeaderView::section {{
        background: transparent; color: {t.quiet}; border: none; border-bottom: 1px solid {t.edge};
        padding: 6px 8px; font-size: {s["small"]}px; font-weight: 700; }}
    QProgressBar {{ background: {t.ground}; border: 1px solid {t.edge}; border-radius: 6px; height: 10px; }}
    QProgressBar::chunk {{ background: {t.chalk}; border-radius: 5px; }}
    QSlider::groove:horizontal {{ height: 4px; background: {t.edge}; border-radius: 2px; }}
    QSlider::handle:horizontal {{
        width: 14px; margin: -6px 0; background: {t.ink}; border-radius: 7px; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; }}
    QScrollBar::handle:vertical {{ background: {t.edge}; border-radius: 5px; min-height: 30px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
    QCheckBox {{ spacing: 8px; }}
    QStatusBar {{ color: {t.quiet}; }}
    QStatusBar::item {{ border: none; }}
    """
