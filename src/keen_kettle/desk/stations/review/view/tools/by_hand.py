"""Tools of the work by hand: clicking through the film, lines for scale and vertical, the lifter's trunk."""

from collections.abc import Callable

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from keen_kettle.desk.kit.theme import colour
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.stations.review.view.tools.tool import At, Hold, Tool

__all__ = ["ClickTool", "LineTool", "TrunkTool", "paint_line"]

Line = tuple[float, float, float, float]

HINTS = {
    "upright": "Drag along a post, a door or a rack, the longer the better",
    "scale": "Drag from one point to the other, a known distance apart",
}


class ClickTool(Tool):
    """One press a frame on the bar's centre."""

    names = ("click",)
    hint = "Click the bar’s centre; Enter takes the ring; C ends"

    def __init__(self, hand: HandModel) -> None:
        self._hand = hand

    def press(self, at: At) -> None:
        self._hand.click(at.x, at.y)

    def enter(self) -> bool:
        """The predicted place is right."""
        self._hand.click_predicted()
        return True

    def paint(self, painter: QPainter, enlarged: float) -> None:
        painter.setPen(QPen(colour("brass"), 2 / enlarged))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._hand.prediction is not None:
            painter.drawEllipse(QPointF(*self._hand.prediction), 9 / enlarged, 9 / enlarged)
        painter.setBrush(colour("brass"))
        for mark in self._hand.clicked:
            painter.drawEllipse(QPointF(mark.x_px, mark.y_px), 2.5 / enlarged, 2.5 / enlarged)
        painter.setBrush(Qt.BrushStyle.NoBrush)


class LineTool(Tool):
    """A line along something upright, or between two points a known distance apart."""

    names = ("scale", "upright")

    def __init__(self, hand: HandModel) -> None:
        self._hand = hand

    @property
    def hint(self) -> str:
        return HINTS.get(self._hand.measuring, "")

    def press(self, at: At) -> Hold:
        return _LineHold(at, self._hand.draw_line, self._hand.keep_line)

    def paint(self, painter: QPainter, enlarged: float) -> None:
        if self._hand.line is not None:
            paint_line(painter, enlarged, self._hand.line, ends=True)


class TrunkTool(Tool):
    """From the lifter's hip to the shoulder, where they were not found."""

    names = ("seed",)
    hint = "Drag from the lifter’s hip to the shoulder"

    def __init__(self, body: BodyModel) -> None:
        self._body = body

    def press(self, at: At) -> Hold:
        return _LineHold(at, self._body.draw_line, self._body.keep_line)

    def paint(self, painter: QPainter, enlarged: float) -> None:
        if self._body.line is not None:
            paint_line(painter, enlarged, self._body.line)


class _LineHold(Hold):
    def __init__(self, at: At, draw: Callable[[Line], None], keep: Callable[[], None]) -> None:
        self._from, self._draw, self._keep = at, draw, keep
        draw((at.x, at.y, at.x, at.y))

    def move(self, at: At) -> None:
        self._draw((self._from.x, self._from.y, at.x, at.y))

    def let_go(self, at: At) -> None:
        self._keep()


def paint_line(
    painter: QPainter, enlarged: float, line: tuple[float, ...], ends: bool = False
) -> None:
    """A line in film coordinates, with rings at its ends where these count."""
    painter.setPen(QPen(colour("brass"), 2 / enlarged))
    painter.drawLine(QPointF(*line[:2]), QPointF(*line[2:]))
    if ends:
        for x, y in (line[:2], line[2:]):
            painter.drawEllipse(QPointF(x, y), 4 / enlarged, 4 / enlarged)
