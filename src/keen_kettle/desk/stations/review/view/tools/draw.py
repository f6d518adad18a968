"""The drawing tools: each press is a spot, held to the bar or a landmark where one is near."""

from keen_kettle.desk.state.review.drawing_model import TOOLS, DrawingModel
from keen_kettle.desk.stations.review.view.tools.tool import At, Hold, Tool

__all__ = ["DrawTool"]

HINTS = {
    "line": "Drag a line; near the bar or a joint it takes hold of it (Alt: not)",
    "angle": "Drag from one end to the apex, then press at the other end",
    "vertical": "Press where the plumb line hangs; near a joint it follows it",
    "horizontal": "Press where the level line runs; near a joint it follows it",
    "between": "Press on one place, go to another frame, press again",
    "pen": "Draw by hand",
    "note": "Press where the note points to, then write it",
}
SECOND_PLACE = "Now go to the other frame and press the second place"


class DrawTool(Tool):
    names = TOOLS
    loupe = False

    def __init__(self, drawing: DrawingModel) -> None:
        self._drawing = drawing

    @property
    def hint(self) -> str:
        tool = self._drawing.tool
        if tool == "between" and self._drawing.spots:
            return SECOND_PLACE
        return HINTS.get(tool, "")

    def press(self, at: At) -> Hold:
        self._drawing.press(at.x, at.y, at.reach, at.loose)
        return _DrawHold(self._drawing)

    def hover(self, at: At) -> None:
        self._drawing.drag(at.x, at.y, at.reach, at.loose)


class _DrawHold(Hold):
    loupe = False

    def __init__(self, drawing: DrawingModel) -> None:
        self._drawing = drawing

    def move(self, at: At) -> None:
        self._drawing.drag(at.x, at.y, at.reach, at.loose)

    def let_go(self, at: At) -> None:
        self._drawing.release(at.x, at.y, at.reach, at.loose)
