"""The one line of help over the film: what the hand is doing, or what is suggested."""

from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.state.review.suggestion_model import SuggestionModel

__all__ = ["film_hint"]

HINTS = {
    "mark": "Press on the centre of the near plate, drag to its rim, let go",
    "adjust": "Drag a handle to fit the rim, or drag anew",
    "click": "Click the bar’s centre; Enter takes the ring; C ends",
    "upright": "Drag along a post, a door or a rack, the longer the better",
    "scale": "Drag from one point to the other, a known distance apart",
    "seed": "Drag from the lifter’s hip to the shoulder",
    "line": "Drag a line; near the bar or a joint it takes hold of it (Alt: not)",
    "angle": "Drag from one end to the apex, then press at the other end",
    "vertical": "Press where the plumb line hangs; near a joint it follows it",
    "horizontal": "Press where the level line runs; near a joint it follows it",
    "between": "Press on one place, go to another frame, press again",
    "between_second": "Now go to the other frame and press the second place",
    "pen": "Draw by hand",
    "note": "Press where the note points to, then write it",
}


def film_hint(
    model: ReviewModel,
    hand: HandModel,
    body: BodyModel,
    drawing: DrawingModel,
    suggested: SuggestionModel,
) -> str:
    """The line, or "" where nothing is to be said."""
    tool = drawing.tool
    if tool:
        return HINTS["between_second" if tool == "between" and drawing.spots else tool]
    if hand.clicking:
        return HINTS["click"]
    if hand.measuring:
        return HINTS[hand.measuring]
    if body.seeding:
        return HINTS["seed"]
    if suggested.kind:
        return suggested.words
    if model.marking:
        return HINTS["adjust" if model.mark_here is not None else "mark"]
    return ""
