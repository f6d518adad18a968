"""The time line under the film: upward velocity, height, phases, events, doubtful frames.

Curves are drawn by pyqtgraph. The play head follows the film and can be dragged; a click anywhere
goes there.
"""

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from keen_kettle.core.analysis import Assessment
from keen_kettle.core.track import State
from keen_kettle.desk.review_model import ReviewModel
from keen_kettle.desk.theme import colour, font

__all__ = ["Rhythm"]

BANDS = (
    ("first pull", "lift_off", "first_pull_end"),
    ("transition", "first_pull_end", "power_position"),
    ("second pull", "power_position", "peak_velocity"),
    ("turnover", "peak_velocity", "catch"),
    ("catch", "catch", "lowest"),
)


class Rhythm(QWidget):
    """Height and upward velocity along the film's time."""

    def __init__(self, model: ReviewModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._plot = pg.PlotWidget()
        self._plot.setMenuEnabled(False)
        self._plot.hideButtons()
        self._plot.setMouseEnabled(False, False)
        self._plot.setAccessibleName("Time line: upward velocity and height")
        self._plot.setToolTip(
            "Upward velocity (line) and height (dashes) over time. Click to go there."
        )
        self._heights = pg.ViewBox(enableMenu=False)
        self._heights.setMouseEnabled(False, False)
        self._head = pg.InfiniteLine(angle=90, movable=True)
        self._head.sigDragged.connect(self._on_head)
        self._moving = False
        self._whole = False
        self._setup()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._plot)
        self._plot.scene().sigMouseClicked.connect(self._on_click)
        model.answer_changed.connect(self.redraw)
        model.clip_changed.connect(self.redraw)
        model.frame_shown.connect(lambda _image: self._follow())
        self.redraw()

    def sizeHint(self) -> QSize:
        return QSize(900, 180)

    def _setup(self) -> None:
        item = self._plot.getPlotItem()
        item.showAxis("right")
        item.scene().addItem(self._heights)
        item.getAxis("right").linkToView(self._heights)
        self._heights.setXLink(item)
        item.vb.sigResized.connect(lambda: self._heights.setGeometry(item.vb.sceneBoundingRect()))
        for name in ("left", "right", "bottom"):
            item.getAxis(name).setStyle(tickFont=font("small"), autoExpandTextSpace=False)
        item.getAxis("left").setWidth(52)
        item.getAxis("right").setWidth(52)
        item.getAxis("bottom").setHeight(34)
        item.layout.setContentsMargins(0, 8, 0, 0)

    def show_whole(self, on: bool) -> None:
        """The whole film, or (as long as one was found) the lift with a little round it."""
        self._whole = on
        self.redraw()

    def _span(self) -> tuple[float, float]:
        index, answer = self._model.index, self._model.answer
        end = index.duration_s if index is not None else 1.0
        if self._whole or answer is None or "peak_velocity" not in answer.events:
            return 0.0, end
        first, last = answer.events["lift_off"].t_s, max(e.t_s for e in answer.events.values())
        return max(first - 0.4, 0.0), min(last + 0.7, end)

    # Drawing

    def redraw(self) -> None:
        """Lay out everything but the play head anew."""
        item = self._plot.getPlotItem()
        item.clear()
        self._heights.clear()
        self._plot.setBackground(colour("raised"))
        for name, words in (("left", "velocity, m/s"), ("right", "height, cm"), ("bottom", "s")):
            axis = item.getAxis(name)
            axis.setPen(colour("edge"))
            axis.setTextPen(colour("quiet"))
            axis.setLabel(words, **{"color": colour("quiet").name(), "font-size": "12px"})
        answer = self._model.answer
        item.setXRange(*self._span(), padding=0.005)
        item.setYRange(-1.2, 2.4, padding=0)
        self._heights.setYRange(-20, 150, padding=0)
        if answer is not None:
            self._draw_answer(answer)
        item.addItem(self._head, ignoreBounds=True)
        self._head.setPen(QPen(colour("brass"), 0, Qt.PenStyle.SolidLine))
        self._head.setHoverPen(QPen(colour("ink"), 0))
        self._head.setZValue(50)
        self._follow()

    def _draw_answer(self, answer: Assessment) -> None:
        item, motion = self._plot.getPlotItem(), answer.motion
        if not np.isfinite(motion.vy_mps).any():
            return
        top = max(float(np.nanmax(motion.vy_mps)) * 1.5, 0.8)
        low = min(float(np.nanmin(motion.vy_mps)) * 1.15, -0.3)
        item.setYRange(low, top, padding=0)
        self._draw_doubt(low, top)
        self._draw_bands(answer, low, top)
        t, v, s = motion.t_s, motion.vy_mps, motion.vy_sigma_mps
        zero = pg.InfiniteLine(0, angle=0, pen=QPen(colour("edge"), 0))
        item.addItem(zero)
        upper, lower = pg.PlotCurveItem(t, v + s), pg.PlotCurveItem(t, v - s)
        item.addItem(pg.FillBetweenItem(upper, lower, brush=QBrush(colour("chalk", 0.35))))
        fill = pg.PlotDataItem(
            t, np.where(v > 0, v, 0), fillLevel=0, brush=QBrush(colour("chalk", 0.12)), pen=None
        )
        item.addItem(fill)
        item.addItem(
            pg.PlotDataItem(t, v, pen=pg.mkPen(colour("chalk"), width=2), connect="finite")
        )
        start = answer.events.get("lift_off")
        base = motion.y_m[start.frame] if start is not None else 0.0
        height = 100 * (motion.y_m - base)
        dashes = pg.mkPen(colour("ink", 0.65), width=1.5, style=Qt.PenStyle.DashLine)
        self._heights.addItem(pg.PlotDataItem(t, height, pen=dashes, connect="finite"))
        self._heights.setYRange(*_same_zero(low, top, float(np.nanmax(height)) * 1.25), padding=0)

    def _draw_bands(self, answer: Assessment, low: float, top: float) -> None:
        item = self._plot.getPlotItem()
        pixel = item.vb.width() / max(item.viewRange()[0][1] - item.viewRange()[0][0], 1e-6)
        for number, (words, first, last) in enumerate(BANDS):
            if first not in answer.events or last not in answer.events:
                continue
            a, b = answer.events[first].t_s, answer.events[last].t_s
            if b <= a:
                continue
            band = pg.LinearRegionItem(
                (a, b), movable=False, brush=QBrush(colour("ink", 0.05 if number % 2 else 0.10))
            )
            for line in band.lines:
                line.setPen(QPen(colour("edge"), 0))
            band.setZValue(-10)
            item.addItem(band)
            text = pg.TextItem(_fit(words, (b - a) * pixel), color=colour("quiet"), anchor=(0.5, 0))
            text.setFont(font("small"))
            text.setPos((a + b) / 2, top)
            item.addItem(text)
        peak = answer.events.get("peak_velocity")
        measure = answer.measures["peak_velocity"]
        if peak is not None and measure.value is not None:
            dot = pg.ScatterPlotItem(
                [peak.t_s], [measure.value], size=8, brush=QBrush(colour("ink")), pen=None
            )
            item.addItem(dot)
            text = pg.TextItem(f"{measure.value:.2f} m/s", color=colour("ink"), anchor=(1.08, 0.75))
            text.setFont(font("small"))
            text.setPos(peak.t_s, measure.value)
            item.addItem(text)

    def _draw_doubt(self, low: float, top: float) -> None:
        """Hatch the frames that were lost, doubtful or repeated."""
        track = self._model.track
        if track is None:
            return
        doubtful = np.isin(track.state, (State.CHECK, State.LOST, State.REPEATED))
        edges = np.flatnonzero(np.diff(np.concatenate([[0], doubtful.astype(int), [0]])))
        frame_s = float(np.median(np.diff(track.t_s)))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            begin, width = track.t_s[a] - frame_s / 2, (b - a) * frame_s
            patch = pg.QtWidgets.QGraphicsRectItem(QRectF(begin, low, width, top - low))
            patch.setBrush(QBrush(colour("ember", 0.5), Qt.BrushStyle.Dense6Pattern))
            patch.setPen(QPen(Qt.PenStyle.NoPen))
            patch.setZValue(-5)
            self._plot.getPlotItem().addItem(patch)

    # The play head

    def _follow(self) -> None:
        index = self._model.index
        if index is not None:
            self._moving = True
            low, high = self._span()
            self._head.setValue(float(np.clip(index.t_s[self._model.frame], low, high)))
            self._moving = False

    def _on_head(self) -> None:
        if not self._moving:
            self._model.show_time(float(self._head.value()))

    def _on_click(self, event: object) -> None:
        spot = self._plot.getPlotItem().vb.mapSceneToView(event.scenePos())  # type: ignore[attr-defined]
        self._model.show_time(float(spot.x()))


def _same_zero(low: float, top: float, height: float) -> tuple[float, float]:
    """A height range whose zero stands where velocity's zero stands."""
    return height * low / top, height


def _fit(words: str, pixels: float) -> str:
    """The words, or as many as there is room for."""
    if pixels >= 7 * len(words):
        return words
    first = words.split()[0]
    return first if pixels >= 7 * len(first) else ""
