"""Two clips in the same key position, to one scale and one horizon, and both bar paths beside them.

As on Review, a height in a picture is the same height in the lane: the eye goes straight across.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.motion import first_event
from keen_kettle.desk.kit.lines import broken_line
from keen_kettle.desk.kit.theme import colour, font
from keen_kettle.desk.kit.words import position_words
from keen_kettle.desk.state.review.compare_model import CompareModel, Side
from keen_kettle.desk.stations.review.view.body_marks import paint_body
from keen_kettle.desk.stations.review.view.crops import Cut, fetch_cuts
from keen_kettle.desk.stations.review.view.view_transform import ViewTransform
from keen_kettle.desk.stations.review.view.zoom import lifter_box
from keen_kettle.desk.work.workers import Job

__all__ = ["CompareView"]

Array = NDArray[np.float64]

HEAD, FOOT, GAP, LANE = 26, 22, 8, 148
TOLD = ("This clip", "The other")


@dataclass(frozen=True)
class _Panel:
    """One clip in one position: where the film lies, and which part of it is to be seen."""

    side: Side
    frame: int
    box: QRectF
    transform: ViewTransform
    cut: Cut


class CompareView(QWidget):
    """Both pictures and the lane."""

    loaded = pyqtSignal()

    def __init__(self, model: CompareModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._pictures: dict[tuple[int, int, Cut], QImage] = {}
        self._loading = False
        self.setMinimumSize(420, 260)
        self.setAccessibleName("Both clips in the same key position, and both bar paths")
        self.setToolTip(
            "Left and right arrows go to the next key position, Alt and its number too."
        )
        model.changed.connect(self._follow)
        model.position_changed.connect(self._follow)

    def sizeHint(self) -> QSize:
        return QSize(620, 480)

    def showEvent(self, _event: object) -> None:
        self._follow()

    def resizeEvent(self, _event: object) -> None:
        self._pictures.clear()
        self._follow()

    # What is to be seen

    def sides(self) -> list[Side]:
        return [side for side in (self._model.here, self._model.there) if side is not None]

    def panels(self) -> list[_Panel | None]:
        """This clip's and the other's; None where the position or the film is missing."""
        found: list[_Panel | None] = []
        for number, side in enumerate(self.sides()):
            found.append(self._panel(side, number, self._model.position))
        return found

    def boxes(self) -> list[QRectF]:
        """Where the pictures stand, and last the lane."""
        wide = (self.width() - LANE - 2 * GAP) / 2
        high = self.height() - HEAD
        return [QRectF(k * (wide + GAP), HEAD, wide, high) for k in (0, 1)] + [
            QRectF(self.width() - LANE, HEAD, LANE, high)
        ]

    def why_empty(self, number: int) -> str:
        """Why a place shows no picture."""
        side, position = self.sides()[number], self._model.position
        if side.index is None:
            return "The film is away. Open the clip once to show where it is now."
        words = position_words(position, parse_filmed(side.clip.lift).family) if position else ""
        return f"“{words}” was not found in this clip." if words else ""

    @property
    def one_scale(self) -> bool:
        """Whether lengths of both clips can be compared."""
        return len({side.answer.scale.by == "none" for side in self.sides()}) == 1

    def _heights(self, side: Side) -> tuple[float, float] | None:
        """The highest and the lowest that is to be seen, in metres from the bar at lift-off."""
        sides = self.sides() if self.one_scale else [side]
        reach = [span for one in sides if (span := _reach(one)) is not None]
        if not reach:
            return None
        return max(top for top, _ in reach), min(foot for _, foot in reach)

    def _px_per_m(self, heights: tuple[float, float]) -> float:
        return (self.height() - HEAD - FOOT) / (heights[0] - heights[1])

    def _panel(self, side: Side, number: int, position: str) -> _Panel | None:
        frame, begin, heights = side.frame(position), _begin(side), self._heights(side)
        if frame is None or begin is None or heights is None or side.index is None:
            return None
        x_px, y_px = side.track.path_in_frame(frame, side.clip.steady)
        if not np.isfinite([x_px[frame], y_px[begin]]).all():
            return None
        box = self.boxes()[number]
        per_m = self._px_per_m(heights)
        zoom = per_m * side.answer.scale.m_per_px
        middle = float(x_px[frame])
        body = side.body
        if body is not None and frame < len(body) and np.isfinite(body.x_px[frame]).any():
            middle = (middle + float(np.nanmean(body.x_px[frame]))) / 2
        left = box.center().x() - zoom * middle
        top = box.top() + per_m * heights[0] - zoom * float(y_px[begin])
        transform = ViewTransform(zoom, left, top)
        seen = transform.box_in_film(box)
        cut = Cut(
            int(np.clip(seen.left(), 0, side.index.width_px - 2)),
            int(np.clip(seen.top(), 0, side.index.height_px - 2)),
            int(np.clip(np.ceil(seen.right()), 2, side.index.width_px)),
            int(np.clip(np.ceil(seen.bottom()), 2, side.index.height_px)),
        )
        return _Panel(side, frame, box, transform, cut)

    # Pictures

    def _follow(self) -> None:
        if self.isVisible():
            self._load()
            self.update()

    @property
    def ready(self) -> bool:
        """Whether everything that can be shown is there."""
        return not self._loading and not self._missing()

    def _missing(self) -> list[_Panel]:
        """Pictures to fetch in one go: one of the position on show, or all others of one clip."""
        shown = [
            one for one in self.panels() if one is not None and _key(one) not in self._pictures
        ]
        if shown:
            return shown[:1]
        for number, side in enumerate(self.sides()):
            panels = [self._panel(side, number, name) for name in self._model.positions()]
            missing = [one for one in panels if one is not None and _key(one) not in self._pictures]
            if missing:
                return missing
        return []

    def _load(self) -> None:
        missing = [] if self._loading else self._missing()
        if not missing:
            return
        index, keys = missing[0].side.index, [_key(one) for one in missing]
        assert index is not None
        zoom = missing[0].transform.scale * self.devicePixelRatioF()
        self._loading = True

        def work(_job: Job) -> dict[tuple[int, Cut], QImage]:
            return fetch_cuts(index, [key[1:] for key in keys], lambda _cut: zoom)

        def done(found: dict[tuple[int, Cut], QImage]) -> None:
            self._loading = False
            self._pictures |= {key: found.get(key[1:], QImage()) for key in keys}
            self._follow()
            self.loaded.emit()

        def failed(_reason: str) -> None:
            self._loading = False

        self._model.jobs.start(work, done, failed)

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        boxes = self.boxes()
        panels = self.panels()
        for number, box in enumerate(boxes[:2]):
            painter.fillRect(box, colour("shade"))
            side = self.sides()[number] if number < len(self.sides()) else None
            self._paint_head(painter, box, number, side)
            panel = panels[number] if number < len(panels) else None
            if panel is not None:
                self._paint_panel(painter, panel)
            elif side is not None:
                self._say(painter, box, self.why_empty(number))
        painter.fillRect(boxes[2], colour("raised"))
        if self.one_scale:
            self._paint_lane(painter, boxes[2])
        elif self.sides():
            self._say(painter, boxes[2], "One clip has no scale: the paths cannot be compared.")

    def _say(self, painter: QPainter, box: QRectF, words: str) -> None:
        painter.setFont(font("small"))
        painter.setPen(colour("quiet"))
        wrapped = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(box.adjusted(12, 12, -12, -12), wrapped, words)

    def _paint_head(self, painter: QPainter, box: QRectF, number: int, side: Side | None) -> None:
        """Which clip it is, and the line with which the lane draws its path."""
        pen = _pen(number)
        y = box.top() - HEAD / 2
        painter.setPen(pen)
        painter.drawLine(QPointF(box.left() + 2, y), QPointF(box.left() + 26, y))
        painter.setFont(font("text"))
        painter.setPen(colour("ink"))
        words = TOLD[number] if side is None else f"{TOLD[number]}, {side.clip.filmed_on:%d %b %Y}"
        spot = QRectF(box.left() + 32, box.top() - HEAD, box.width() - 32, HEAD)
        painter.drawText(spot, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_panel(self, painter: QPainter, panel: _Panel) -> None:
        picture, transform, cut = self._pictures.get(_key(panel)), panel.transform, panel.cut
        painter.save()
        painter.setClipRect(panel.box)
        if picture is not None and not picture.isNull():
            corner = transform.to_widget(cut.left, cut.top)
            end = transform.to_widget(cut.right, cut.bottom)
            painter.drawImage(QRectF(corner, end), picture)
        track, frame, body = panel.side.track, panel.frame, panel.side.body
        points = transform.to_widget_all(*track.path_in_frame(frame, panel.side.clip.steady))
        begin = panel.side.answer.span_at(frame).start
        for pen in (QPen(colour("shade", 0.55), 4), QPen(colour("chalk"), 2)):
            painter.setPen(pen)
            painter.drawPath(broken_line(points[begin : frame + 1]))
        if body is not None and frame < len(body):

            def place(name: str) -> QPointF | None:
                x, y = body.point(name, frame)
                return transform.to_widget(x, y) if np.isfinite(x) else None

            paint_body(painter, body, frame, place, "")
        painter.restore()

    def _paint_lane(self, painter: QPainter, box: QRectF) -> None:
        """Both paths from their lift-off, forward to the right, at the pictures' scale."""
        sides = self.sides()
        heights = self._heights(sides[0]) if sides else None
        if heights is None:
            return
        per_m = self._px_per_m(heights)
        level = box.top() + per_m * heights[0]
        middle = box.left() + 34 + (box.width() - 34) / 2
        scaled = sides[0].answer.scale.by != "none"
        painter.setFont(font("small"))
        for cm in range(0, int(100 * heights[0]), 25):
            y = level - per_m * cm / 100
            painter.setPen(QPen(colour("edge"), 1))
            painter.drawLine(QPointF(box.left() + 34, y), QPointF(box.right() - 8, y))
            if scaled:
                painter.setPen(colour("quiet"))
                spot = QRectF(box.left(), y - 8, 30, 16)
                right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(spot, right, str(cm) if cm else "0 cm")
        painter.setPen(QPen(colour("ink", 0.7), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(middle, box.top() + 6), QPointF(middle, level + 6))
        painter.setPen(colour("quiet"))
        foot = QRectF(box.left() + 34, level + 6, box.width() - 34, 16)
        painter.drawText(foot, Qt.AlignmentFlag.AlignHCenter, "rear  ·  front")
        for number, side in enumerate(sides):
            begin, motion = _begin(side), side.answer.motion
            if begin is None:
                continue
            x = middle + per_m * (motion.x_m - motion.x_m[begin])
            y = level - per_m * (motion.y_m - motion.y_m[begin])
            painter.setPen(_pen(number))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            last = max((one.frame for one in side.answer.events.values()), default=len(x) - 1)
            painter.drawPath(broken_line(np.column_stack([x, y])[begin : last + 1]))
            frame = side.frame(self._model.position)
            if frame is not None and np.isfinite([x[frame], y[frame]]).all():
                painter.setPen(QPen(_pen(number).color(), 2))
                painter.setBrush(colour("raised"))
                painter.drawEllipse(QPointF(x[frame], y[frame]), 5, 5)


def _pen(number: int) -> QPen:
    """This clip's path is a whole line, the other's a dashed one."""
    if number == 0:
        return QPen(colour("chalk"), 2.5)
    return QPen(colour("ink", 0.85), 2, Qt.PenStyle.DashLine)


def _key(panel: _Panel) -> tuple[int, int, Cut]:
    return panel.side.clip.id, panel.frame, panel.cut


def _begin(side: Side) -> int | None:
    first = first_event(side.answer.events)
    return first.frame if first is not None else None


def _reach(side: Side) -> tuple[float, float] | None:
    """The top and the foot of bar and lifter, in metres (or diameters) from the bar at lift-off."""
    begin = _begin(side)
    if begin is None or side.index is None:
        return None
    box = lifter_box(side.index, side.track, side.body)
    level = float(side.track.y_px[begin])
    if box is None or not np.isfinite(level):
        return None
    scale = side.answer.scale.m_per_px
    return scale * (level - box[1]), scale * (level - box[3])
