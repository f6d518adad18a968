"""What is painted over the film: the path in its states, the marked ellipse with its handles, hints."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from keen_kettle.core.track import BarTrack, PlateMark, Rim, State
from keen_kettle.desk.kit.lines import broken_line
from keen_kettle.desk.kit.theme import colour, font

__all__ = [
    "Ellipse",
    "ellipse_of",
    "paint_ellipse",
    "paint_handles",
    "paint_hint",
    "paint_path",
    "paint_state",
]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Ellipse:
    """An ellipse in film pixels: half height `r`, half width `narrow` times that, turned."""

    x: float
    y: float
    r: float
    narrow: float
    angle_deg: float

    def handles(self) -> dict[str, tuple[float, float]]:
        """Where its five handles lie: the centre and the ends of its axes."""
        turn = np.radians(self.angle_deg)
        wide = self.r * self.narrow * np.array([np.cos(turn), np.sin(turn)])
        high = self.r * np.array([-np.sin(turn), np.cos(turn)])
        middle = np.array([self.x, self.y])
        ends = {"centre": middle, "right": middle + wide, "left": middle - wide}
        ends |= {"bottom": middle + high, "top": middle - high}
        return {name: (float(p[0]), float(p[1])) for name, p in ends.items()}

    def pulled(self, handle: str, x: float, y: float) -> "Ellipse":
        """The ellipse with one of its ends pulled to a place; it snaps to upright."""
        away, reach = np.array([x - self.x, y - self.y]), float(np.hypot(x - self.x, y - self.y))
        if handle in ("left", "right"):
            narrow = float(np.clip(reach / self.r, 0.4, 1.0))
            return Ellipse(self.x, self.y, max(self.r, reach), narrow, self.angle_deg)
        sign = 1.0 if handle == "bottom" else -1.0
        angle = float(np.degrees(np.arctan2(-sign * away[0], sign * away[1])))
        angle = 0.0 if abs(angle) < 4 or self.narrow > 0.98 else float(np.clip(angle, -40, 40))
        wide = self.r * self.narrow
        r = max(reach, 2.0)
        return Ellipse(self.x, self.y, r, float(np.clip(wide / r, 0.4, 1.0)), angle)


def ellipse_of(mark: PlateMark, rim: Rim | None) -> Ellipse:
    """The ellipse that a mark shows: the rim that was found for it, or the mark itself."""
    if rim is None or not rim.found or mark.exact:
        return Ellipse(mark.x_px, mark.y_px, mark.r_px, mark.narrow, mark.angle_deg)
    a, b = rim.axes_px
    angle = rim.angle_deg if a <= b else rim.angle_deg - 90.0
    angle = (angle + 90.0) % 180.0 - 90.0
    return Ellipse(rim.x_px, rim.y_px, max(a, b), min(a, b) / max(a, b), angle)


def paint_ellipse(painter: QPainter, ellipse: Ellipse, tone: str, enlarged: float) -> None:
    """Draw an ellipse and its centre in film coordinates; lines keep their width."""
    painter.save()
    painter.translate(ellipse.x, ellipse.y)
    painter.rotate(ellipse.angle_deg)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    cross = 7 / enlarged
    for width, ink in ((4.0, colour("shade", 0.65)), (2.0, colour(tone))):
        painter.setPen(QPen(ink, width / enlarged))
        painter.drawEllipse(QPointF(0, 0), ellipse.r * ellipse.narrow, ellipse.r)
        painter.drawLine(QPointF(-cross, 0), QPointF(cross, 0))
        painter.drawLine(QPointF(0, -cross), QPointF(0, cross))
    painter.restore()


def paint_handles(painter: QPainter, spots: list[QPointF]) -> None:
    """Small squares that can be dragged."""
    painter.setPen(QPen(colour("shade"), 1.5))
    painter.setBrush(colour("brass"))
    for spot in spots:
        painter.drawRect(QRectF(spot.x() - 5, spot.y() - 5, 10, 10))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_path(painter: QPainter, points: Array, track: BarTrack, frame: int) -> None:
    """The path up to a frame and, fainter, beyond it; every state has a shape of its own.

    Doubtful points are crosses, points by hand diamonds, repeated ones short bars, bridged ones
    open rings on a dashed line; lost and hidden frames are gaps.
    """
    ahead, behind = broken_line(points[frame:]), broken_line(points[: frame + 1])
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour("shade", 0.55), 4))
    painter.drawPath(behind)
    painter.setPen(QPen(colour("shade", 0.8), 2, Qt.PenStyle.DotLine))
    painter.drawPath(ahead)
    bridged = np.where((track.state == State.BRIDGED)[:, None], points, np.nan)
    plain = points.copy()
    plain[track.state == State.BRIDGED] = np.nan
    painter.setPen(QPen(colour("chalk"), 2))
    painter.drawPath(broken_line(plain[: frame + 1]))
    painter.setPen(QPen(colour("chalk"), 1.5, Qt.PenStyle.DashLine))
    painter.drawPath(broken_line(bridged[: frame + 1]))
    for state in (State.CHECK, State.REPEATED, State.BRIDGED, State.BY_HAND):
        for number in np.flatnonzero(track.state == state):
            past = number <= frame or state == State.BY_HAND
            if past and np.isfinite(points[number, 0]):
                paint_state(painter, QPointF(*points[number]), state)


def paint_state(painter: QPainter, spot: QPointF, state: State) -> None:
    """The shape of one state at a place."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if state == State.CHECK:
        painter.setPen(QPen(colour("ember"), 1.5))
        painter.drawLine(spot + QPointF(-3, -3), spot + QPointF(3, 3))
        painter.drawLine(spot + QPointF(-3, 3), spot + QPointF(3, -3))
    elif state == State.REPEATED:
        painter.setPen(QPen(colour("quiet"), 1.5))
        painter.drawLine(spot + QPointF(-4, 0), spot + QPointF(4, 0))
    elif state == State.BRIDGED:
        painter.setPen(QPen(colour("chalk"), 1))
        painter.drawEllipse(spot, 2.5, 2.5)
    elif state == State.BY_HAND:
        painter.setPen(QPen(colour("shade"), 1))
        painter.setBrush(colour("brass"))
        ends = (QPointF(0, -5), QPointF(5, 0), QPointF(0, 5), QPointF(-5, 0))
        painter.drawPolygon(QPolygonF([spot + end for end in ends]))
        painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_hint(painter: QPainter, film: QRectF, words: str) -> None:
    """One line on brass at the film's top: what the hand does next."""
    painter.setFont(font("lead"))
    width = min(painter.fontMetrics().horizontalAdvance(words) + 32, film.width() - 8)
    box = QRectF(film.center().x() - width / 2, film.top() + 12, width, 38)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("brass"))
    painter.drawRoundedRect(box, 6, 6)
    painter.setPen(colour("on_brass"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
    painter.setBrush(Qt.BrushStyle.NoBrush)
