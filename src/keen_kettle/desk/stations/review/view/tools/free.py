"""The hand without a tool: it takes hold of what lies under it."""

import numpy as np
from PyQt6.QtCore import Qt

from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.view.tools.mark import handle_at
from keen_kettle.desk.stations.review.view.tools.tool import At, Hold, Tool

__all__ = ["FreeHand"]


class FreeHand(Tool):
    """The mark's handles before tracking; then the path's point, a landmark, a drawing."""

    names = ("",)
    cursor = Qt.CursorShape.ArrowCursor

    def __init__(
        self, model: ReviewModel, hand: HandModel, body: BodyModel, drawing: DrawingModel
    ) -> None:
        self._model, self._hand, self._body, self._drawing = model, hand, body, drawing

    def press(self, at: At) -> Hold | None:
        handle = handle_at(self._model, at)
        if handle is not None or self._model.tracking:
            return handle
        here = self._hand.track_point
        if here is not None and np.hypot(at.x - here[0], at.y - here[1]) < at.reach:
            return _PathPoint(self._hand, here)
        self._body.choose(self._body.nearest(at.x, at.y, at.reach))
        if self._body.chosen:
            return _Landmark(self._body, self._model.frame, at)
        return _Drawn(self._drawing) if self._drawing.grip(at.x, at.y, at.reach) else None


class _PathPoint(Hold):
    def __init__(self, hand: HandModel, here: tuple[float, float]) -> None:
        self._hand = hand
        hand.draw_point(*here)

    def move(self, at: At) -> None:
        self._hand.draw_point(at.x, at.y)

    def let_go(self, at: At) -> None:
        self._hand.keep_point()


class _Landmark(Hold):
    """It keeps its way from the hand, so that a press alone moves nothing."""

    def __init__(self, body: BodyModel, frame: int, at: At) -> None:
        self._body = body
        here = body.place(body.chosen, frame)
        self._away = (at.x - here[0], at.y - here[1]) if here is not None else (0.0, 0.0)

    def move(self, at: At) -> None:
        self._body.draw_point(self._body.chosen, at.x - self._away[0], at.y - self._away[1])

    def let_go(self, at: At) -> None:
        self._body.keep_point()


class _Drawn(Hold):
    loupe = False

    def __init__(self, drawing: DrawingModel) -> None:
        self._drawing = drawing

    def move(self, at: At) -> None:
        self._drawing.move(at.x, at.y)

    def let_go(self, at: At) -> None:
        self._drawing.keep_move()
