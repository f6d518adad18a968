"""Which part of the film is shown: all of it, the part round the lifter, or where the hand went."""

import numpy as np
from PyQt6.QtCore import QPointF, QSizeF

from keen_kettle.core.clip import ClipIndex
from keen_kettle.core.track import BarTrack
from keen_kettle.core.track.body import BodyTrack
from keen_kettle.desk.stations.review.view.view_transform import ViewTransform

__all__ = ["Box", "Zoom", "lifter_box"]

Box = tuple[float, float, float, float]
"""Left, top, right, bottom in film pixels."""
CLOSEST = 12.0


class Zoom:
    """Holds what is shown; gives the view transform for a widget and a film of any size."""

    def __init__(self) -> None:
        self.on_lifter = False
        self._box: Box | None = None
        self._spot: tuple[float, float, float] | None = None

    @property
    def whole(self) -> bool:
        """Whether all of the film is shown."""
        return self._spot is None and (not self.on_lifter or self._box is None)

    def show_whole(self) -> None:
        self.on_lifter, self._spot = False, None

    def show_lifter(self, box: Box | None) -> None:
        """Stay with the lifter, who is in this box of the film as far as that is known."""
        self.on_lifter, self._spot, self._box = True, None, box

    def next_clip(self) -> None:
        """A new film: staying with the lifter goes on, a place of the hand's does not."""
        self._box = self._spot = None

    def transform(self, widget: QSizeF, film: QSizeF) -> ViewTransform:
        """Where the film lies; it fills the widget as far as it can."""
        fit = _fit(widget, film)
        if self._spot is not None:
            closer, x, y = self._spot
            zoom = closer * fit
        elif self.on_lifter and self._box is not None:
            left, top, right, bottom = self._box
            zoom = min(widget.width() / (right - left), widget.height() / (bottom - top))
            zoom = float(np.clip(zoom, fit, CLOSEST * fit))
            x, y = (left + right) / 2, (top + bottom) / 2
        else:
            zoom, x, y = fit, film.width() / 2, film.height() / 2
        return ViewTransform(
            zoom,
            _held(widget.width() / 2 - zoom * x, zoom * film.width(), widget.width()),
            _held(widget.height() / 2 - zoom * y, zoom * film.height(), widget.height()),
        )

    def closer(self, times: float, at: QPointF, widget: QSizeF, film: QSizeF) -> None:
        """Enlarge, or the other way; what is under the pointer stays there."""
        now, fit = self.transform(widget, film), _fit(widget, film)
        zoom = float(np.clip(now.scale * times, fit, CLOSEST * fit))
        if zoom <= 1.001 * fit:
            self.show_whole()
            return
        x, y = now.to_film(at)
        self._centre(zoom / fit, at.x() - zoom * x, at.y() - zoom * y, zoom, widget)

    def pan(self, by: QPointF, widget: QSizeF, film: QSizeF) -> None:
        """Move the shown part with the hand."""
        now = self.transform(widget, film)
        closer = now.scale / _fit(widget, film)
        self._centre(closer, now.left + by.x(), now.top + by.y(), now.scale, widget)

    def _centre(self, closer: float, left: float, top: float, zoom: float, widget: QSizeF) -> None:
        x, y = (widget.width() / 2 - left) / zoom, (widget.height() / 2 - top) / zoom
        self._spot = (closer, x, y)


def lifter_box(index: ClipIndex, track: BarTrack | None, body: BodyTrack | None) -> Box | None:
    """Where bar and lifter are over the whole film, with a little round them; None if unknown."""
    if track is None or not np.isfinite(track.x_px).any():
        return None
    r = max(track.rim.axes_px)
    left, right = float(np.nanmin(track.x_px)) - 2 * r, float(np.nanmax(track.x_px)) + 2 * r
    top, foot = float(np.nanmin(track.y_px)) - 1.2 * r, float(np.nanmax(track.y_px)) + 1.2 * r
    if body is None:
        top = min(top, foot - 8 * r)
    elif np.isfinite(body.y_px).any():
        low, high = np.nanquantile(body.y_px, [0.01, 0.99])
        top, foot = min(top, float(low) - 0.8 * r), max(foot, float(high) + 0.3 * r)
        rear, front = np.nanquantile(body.x_px, [0.01, 0.99])
        left, right = min(left, float(rear) - 0.5 * r), max(right, float(front) + 0.5 * r)
    left, top = max(left, 0.0), max(top, 0.0)
    right, foot = min(right, float(index.width_px)), min(foot, float(index.height_px))
    return (left, top, right, foot) if min(right - left, foot - top) >= 2 * r else None


def _fit(widget: QSizeF, film: QSizeF) -> float:
    return min(widget.width() / film.width(), widget.height() / film.height())


def _held(begin: float, long: float, room: float) -> float:
    """Where the film begins along one side: no empty edge where it could fill the room."""
    return float(np.clip(begin, room - long, 0.0)) if long > room else (room - long) / 2
