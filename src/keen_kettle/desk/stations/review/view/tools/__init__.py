"""What the hand does on the film: one tool at a time, or none; and what it holds between press and release."""

from keen_kettle.desk.stations.review.view.tools.by_hand import ClickTool, LineTool, TrunkTool
from keen_kettle.desk.stations.review.view.tools.draw import DrawTool
from keen_kettle.desk.stations.review.view.tools.free import FreeHand
from keen_kettle.desk.stations.review.view.tools.mark import (
    MarkTool,
    NewMark,
    adjusting,
    mark_shape,
    nudge,
)
from keen_kettle.desk.stations.review.view.tools.tool import At, Hold, Tool

__all__ = [
    "At",
    "ClickTool",
    "DrawTool",
    "FreeHand",
    "Hold",
    "LineTool",
    "MarkTool",
    "NewMark",
    "Tool",
    "TrunkTool",
    "adjusting",
    "mark_shape",
    "nudge",
]
