"""Paints what the hand has set on a frame: marks, the proposed plate, a moved point, the scale's line."""

from PyQt6.QtGui import QPainter

from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.view.film_marks import Ellipse, ellipse_of, paint_ellipse
from keen_kettle.desk.stations.review.view.tools.by_hand import paint_line

__all__ = ["paint_hand_work"]


def paint_hand_work(
    painter: QPainter,
    enlarged: float,
    shown: Ellipse | None,
    model: ReviewModel,
    hand: HandModel,
) -> None:
    """Everything by hand on this frame, in film coordinates; lines keep their width.

    `shown` is the ellipse of this frame's mark.
    """
    if shown is not None:
        rim = model.rim
        settled = model.draft is None and (model.track is not None or (rim and rim.found))
        paint_ellipse(painter, shown, "chalk" if settled else "brass", enlarged)
    if hand.proposed is not None and shown is None and hand.proposed.frame == model.frame:
        paint_ellipse(painter, ellipse_of(hand.proposed, None), "brass", enlarged)
    if hand.point is not None and hand.point.frame == model.frame:
        paint_ellipse(painter, ellipse_of(hand.point, None), "brass", enlarged)
    points = model.clip.scale_points if model.clip is not None else None
    by_points = model.clip is not None and model.clip.scale_by == "points"
    if points is not None and by_points and hand.line is None:
        paint_line(painter, enlarged, points[:4], ends=True)
