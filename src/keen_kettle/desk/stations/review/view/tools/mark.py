"""Marking the plate: drag from its centre to its rim, and set the handles right."""

import numpy as np

from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.view.film_marks import Ellipse, ellipse_of
from keen_kettle.desk.stations.review.view.tools.tool import At, Hold, Tool

__all__ = ["MarkTool", "NewMark", "adjusting", "handle_at", "mark_shape", "nudge"]

ROUND = 0.98
"""An ellipse so little narrow is a circle, whose rim can be gripped anywhere."""


def mark_shape(model: ReviewModel) -> Ellipse | None:
    """The ellipse that is shown for this frame's mark."""
    mark = model.mark_here
    if mark is None:
        return None
    first = model.clip is not None and bool(model.clip.marks) and mark == model.clip.marks[0]
    return ellipse_of(mark, model.rim if first and model.draft is None else None)


def adjusting(model: ReviewModel) -> bool:
    """Whether the mark's handles can be gripped."""
    return model.marking or model.track is None


def handle_at(model: ReviewModel, at: At) -> "Hold | None":
    """The handle, or the rim of a circle, at a place."""
    shape = mark_shape(model)
    if shape is None or not adjusting(model):
        return None
    for name, (x, y) in shape.handles().items():
        if np.hypot(at.x - x, at.y - y) < at.reach:
            return _Centre(model, shape) if name == "centre" else _Handle(model, shape, name)
    away = float(np.hypot(at.x - shape.x, at.y - shape.y))
    if shape.narrow > ROUND and abs(away - shape.r) < at.reach / 2:
        return NewMark(model, shape.x, shape.y)
    return None


def nudge(
    model: ReviewModel, hand: HandModel, dx: float, dy: float, dr: float
) -> tuple[float, float] | None:
    """Move this frame's mark, or the path's point, by parts of a pixel; where it is then."""
    mark, shape = model.mark_here, mark_shape(model)
    if mark is None or shape is None:
        moved = not dr and hand.nudge(dx, dy)
        return hand.track_point if moved else None
    new = Ellipse(shape.x + dx, shape.y + dy, shape.r + dr, shape.narrow, shape.angle_deg)
    if mark.exact or (model.rim is not None and model.rim.found):
        _draw(model, new)
    else:
        model.draw_mark(new.x, new.y, new.r)
    model.keep_mark()
    return new.x, new.y


class MarkTool(Tool):
    names = ("mark",)

    def __init__(self, model: ReviewModel) -> None:
        self._model = model

    @property
    def hint(self) -> str:
        if self._model.mark_here is not None:
            return "Drag a handle to fit the rim, or drag anew"
        return "Press on the centre of the near plate, drag to its rim, let go"

    def press(self, at: At) -> Hold:
        held = handle_at(self._model, at)
        if held is None:
            self._model.draw_mark(at.x, at.y, 0.0)
            held = NewMark(self._model, at.x, at.y)
        return held

    def enter(self) -> bool:
        """A mark in the middle of the picture, to be set right by the arrows."""
        model, index = self._model, self._model.index
        if model.mark_here is not None or index is None:
            return False
        model.draw_mark(index.width_px / 2, index.height_px / 2, index.height_px / 10)
        model.keep_mark()
        return True


class _MarkHold(Hold):
    def __init__(self, model: ReviewModel) -> None:
        self._model = model

    def let_go(self, at: At) -> None:
        if self._model.draft is not None:
            self._model.keep_mark()


class NewMark(_MarkHold):
    """From the centre to the rim."""

    def __init__(self, model: ReviewModel, x: float, y: float) -> None:
        super().__init__(model)
        self._centre = x, y

    def move(self, at: At) -> None:
        x, y = self._centre
        self._model.draw_mark(x, y, float(np.hypot(at.x - x, at.y - y)))


class _Centre(_MarkHold):
    def __init__(self, model: ReviewModel, shape: Ellipse) -> None:
        super().__init__(model)
        self._shape = shape
        mark = model.mark_here
        self._exact = mark is not None and mark.exact

    def move(self, at: At) -> None:
        shape = self._shape
        self._model.draw_mark(at.x, at.y, shape.r, shape.narrow, shape.angle_deg, self._exact)


class _Handle(_MarkHold):
    def __init__(self, model: ReviewModel, shape: Ellipse, name: str) -> None:
        super().__init__(model)
        self._shape, self._name = shape, name

    def move(self, at: At) -> None:
        _draw(self._model, self._shape.pulled(self._name, at.x, at.y))


def _draw(model: ReviewModel, shape: Ellipse) -> None:
    model.draw_mark(shape.x, shape.y, shape.r, shape.narrow, shape.angle_deg, True)
