"""Work by hand on a track: points, spans, limits, clicking through, the proposed plate, two-point scale.

What is done here ends in the clip's record (marks and hand work), through one undoable change; the
review model then tracks anew what the change touches.
"""

from dataclasses import replace
from typing import Literal

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.errors import MarkError
from keen_kettle.core.track import HandWork, PlateMark, Rim, Span, State, vertical_along
from keen_kettle.desk.state.review.answer_model import Held
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.work.tasks import LookForPlate

__all__ = ["HandModel"]

Line = tuple[float, float, float, float]

LINES = ("scale", "upright")
DOUBT = (State.CHECK, State.LOST)
OTHER_FRAMES = 6
"""Into so many parts a film is divided by whoever looks for a frame with a clear plate."""


class HandModel(QObject):
    """State of the work by hand; widgets subscribe and call its intents."""

    changed = pyqtSignal()

    def __init__(self, review: ReviewModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._review = review
        self.span_from: int | None = None
        self.point: PlateMark | None = None
        self.clicked: list[PlateMark] = []
        self.proposed: PlateMark | None = None
        self.none_found = self.turned_down = False
        self.searching = False
        self.line: Line | None = None
        self._asked = 0
        review.clip_changed.connect(self._on_clip)
        review.marking_changed.connect(self.drop_span)
        self._clip_id = 0

    def _on_clip(self) -> None:
        review = self._review
        number = review.clip.id if review.clip is not None else 0
        if number != self._clip_id or review.index is None:
            self._clip_id = number
            self.span_from = self.point = self.proposed = self.line = None
            self.searching = self.none_found = self.turned_down = False
            self.clicked = []
            self.changed.emit()
        if review.index is None or review.clip is None:
            return
        if not review.clip.marks:
            if not (self.none_found or self.turned_down):
                self.propose()
        elif self.proposed is not None:
            self.proposed = None
            self.changed.emit()

    @property
    def clicking(self) -> bool:
        """Whether the film is being clicked through."""
        return self._review.tool.name == "click"

    @property
    def measuring(self) -> str:
        """What the next drag over the film sets: "scale", "upright" or ""."""
        name = self._review.tool.name
        return name if name in LINES else ""

    def drop_span(self) -> None:
        """Forget where a span was begun."""
        if self.span_from is not None:
            self.span_from = None
            self.changed.emit()

    # The proposed plate

    def propose(self) -> None:
        """Look for the near plate of the bar that moves, away from the window."""
        review = self._review
        if self.proposed is not None or self.searching or review.index is None:
            return
        assert review.clip is not None
        self._asked += 1
        self.searching = True
        ticket, number = self._asked, review.clip.id
        desk, task = review.desk, LookForPlate(review.index)

        def marked() -> bool:
            return review.clip is not None and bool(review.clip.marks)

        def gone() -> bool:
            return ticket != self._asked or review.clip is None or review.clip.id != number

        def found(mark: PlateMark | None) -> None:
            if gone():
                return
            self.searching = False
            self.proposed = mark if not marked() else None
            self.none_found = mark is None
            if mark is not None and self.proposed is not None:
                review.show_frame(mark.frame)
            self.changed.emit()

        def failed(reason: str) -> None:
            self.searching = self.searching and gone()
            self.changed.emit()
            desk.trouble.emit(reason)

        def left() -> None:
            """The coach has marked the plate meanwhile, and has perhaps taken the mark back."""
            if not gone():
                self.searching = False
                if not marked():
                    self.propose()
                self.changed.emit()

        self.changed.emit()
        desk.jobs.ask(
            desk.looking_worker, task, found, failed, left, unless=lambda: gone() or marked()
        )

    def accept(self) -> None:
        """Take the proposed plate as the mark, and track."""
        if self._take("accept the plate"):
            self._review.set_marking(False)
            self._review.start_tracking()
            self.changed.emit()

    def correct(self) -> None:
        """Take the proposed plate as a mark with handles, to be set right before tracking."""
        if self._take("correct the plate"):
            self._review.set_marking(True)
            self.changed.emit()

    def _take(self, words: str) -> bool:
        review = self._review
        if self.proposed is None or review.clip is None or review.clip.marks:
            return False
        mark, self.proposed = self.proposed, None
        review.change_clip(words, marks=(mark,))
        return True

    def turn_down(self) -> None:
        """It is not the near plate; it is marked by hand."""
        self.proposed, self.turned_down = None, True
        self.changed.emit()

    def another_frame(self) -> None:
        """Show a frame farther on in the film, on which the plate may be clear; after the end, the first."""
        review = self._review
        if review.index is not None:
            count = len(review.index)
            step = max(count // OTHER_FRAMES, 1)
            following = (review.frame // step + 1) * step
            review.go_to_frame(following if following < count else 0)

    # Points

    @property
    def track_point(self) -> tuple[float, float] | None:
        """Where the track has the bar on the frame on show."""
        track, frame = self._review.track, self._review.frame
        if track is None or frame >= len(track) or not np.isfinite(track.x_px[frame]):
            return None
        return float(track.x_px[frame]), float(track.y_px[frame])

    def draw_point(self, x: float, y: float) -> None:
        """A point of the path while it is dragged; not kept yet."""
        self.point = self._mark_at(self._review.frame, x, y)
        self._review.hold(Held(place=(self._review.frame, x, y)))
        self.changed.emit()

    def keep_point(self) -> None:
        """Keep the dragged point as a fixed one; the path is tracked anew round it."""
        point, self.point = self.point, None
        if point is not None:
            self._add_marks("place the bar by hand", [point])
        self.changed.emit()

    def nudge(self, dx: float, dy: float) -> bool:
        """Move the path's point on this frame by a little; False if there is none."""
        here = self.track_point
        if here is None:
            return False
        self.draw_point(here[0] + dx, here[1] + dy)
        self.keep_point()
        return True

    def confirm(self) -> None:
        """Say that the point on this frame is right: it becomes a fixed one."""
        if not self.nudge(0.0, 0.0):
            self._review.desk.said.emit("There is no point on this frame to say yes to.")

    def _mark_at(self, frame: int, x: float, y: float) -> PlateMark:
        """A fixed point: the place is the hand's, the size and shape are the track's."""
        rim, r = self._shape(frame)
        narrow = min(rim.axes_px) / max(rim.axes_px) if rim is not None else 1.0
        angle = _upright(rim) if rim is not None else 0.0
        return PlateMark(frame, x, y, r, narrow, angle, exact=True)

    def _shape(self, frame: int) -> tuple[Rim | None, float]:
        review = self._review
        track, rim = review.track, review.rim
        if track is not None:
            known = np.flatnonzero(np.isfinite(track.r_px))
            if len(known):
                near = int(known[np.argmin(np.abs(known - frame))])
                grown = float(track.r_px[near]) / float(np.mean(track.rim.axes_px))
                return track.rim, grown * max(track.rim.axes_px)
        if rim is not None:
            return rim, max(rim.axes_px)
        marks = review.clip.marks if review.clip is not None else ()
        return None, marks[0].r_px if marks else 40.0

    def _add_marks(self, words: str, new: list[PlateMark]) -> None:
        review = self._review
        if review.clip is None or review.index is None or not new:
            return
        high, wide = review.index.height_px, review.index.width_px
        inside = [one for one in new if 0 <= one.x_px < wide and 0 <= one.y_px < high]
        frames = {one.frame for one in inside}
        kept = tuple(one for one in review.clip.marks if one.frame not in frames)
        review.keep_held(words, marks=(*kept, *inside))

    # Clicking through

    def toggle_clicking(self) -> None:
        """Begin, or end and keep what was clicked."""
        if self.clicking:
            self._review.tool.lay_down()
            return
        self._review.pause()
        self._review.tool.take("click", self._keep_clicks)
        self.changed.emit()

    def _keep_clicks(self) -> None:
        new, self.clicked = self.clicked, []
        self._add_marks("click through the film", new)
        self.changed.emit()

    @property
    def prediction(self) -> tuple[float, float] | None:
        """Where the bar is expected on this frame: by the last clicks' movement, or the track."""
        frame = self._review.frame
        last = sorted(self.clicked, key=lambda mark: mark.frame)[-3:]
        if len(last) >= 2:
            times = [mark.frame for mark in last]
            degree = min(len(last) - 1, 2)
            place = [
                float(np.polyval(np.polyfit(times, values, degree), frame))
                for values in ([m.x_px for m in last], [m.y_px for m in last])
            ]
            return place[0], place[1]
        if self.track_point is not None:
            return self.track_point
        return (last[0].x_px, last[0].y_px) if last else None

    def click(self, x: float, y: float) -> None:
        """The bar is here on this frame; go on to the next."""
        frame = self._review.frame
        kept = [mark for mark in self.clicked if mark.frame != frame]
        self.clicked = [*kept, self._mark_at(frame, x, y)]
        self._review.step(1)
        self.changed.emit()

    def click_predicted(self) -> None:
        """Take the predicted place and go on."""
        place = self.prediction
        if self.clicking and place is not None:
            self.click(*place)

    # Spans and limits

    def begin_span(self) -> None:
        self.span_from = self._review.frame
        self._review.desk.said.emit(
            f"A span begins at frame {self.span_from}. Go to its end, then hide (H) or bridge (J) it."
        )
        self.changed.emit()

    @property
    def span(self) -> tuple[int, int]:
        """The frames that hiding or bridging would take: from the begun span to here; else the
        lost or doubtful stretch round this frame; else this frame."""
        frame, track = self._review.frame, self._review.track
        if self.span_from is not None:
            return min(self.span_from, frame), max(self.span_from, frame)
        if track is None or frame >= len(track) or track.state[frame] not in DOUBT:
            return frame, frame
        other = np.flatnonzero(~np.isin(track.state, DOUBT))
        before, after = other[other < frame], other[other > frame]
        first = int(before[-1]) + 1 if len(before) else 0
        last = int(after[0]) - 1 if len(after) else len(track) - 1
        return first, last

    def set_span(self, kind: str) -> None:
        """Hide or bridge the span ("hidden", "bridged")."""
        clip = self._review.clip
        if clip is None or self._review.track is None:
            return
        first, last = self.span
        words = "hide a span" if kind == "hidden" else "bridge a span"
        self.span_from = None
        self._review.change_clip(words, hand=clip.hand.with_span(Span(first, last, kind)))
        self.changed.emit()

    def clear_span(self) -> None:
        """Take away the span that this frame lies in."""
        clip = self._review.clip
        if clip is not None:
            hand = clip.hand.without_span_at(self._review.frame)
            self._review.change_clip("clear a span", hand=hand)

    def set_limit(self, which: str) -> None:
        """Follow from, or up to, the frame on show; on the same frame again, all of it."""
        clip, frame = self._review.clip, self._review.frame
        if clip is None or self._review.index is None:
            return
        hand = clip.hand
        if which == "first":
            new = replace(hand, first=None if hand.first == frame else frame)
        else:
            new = replace(hand, last=None if hand.last == frame else frame)
        if new.first is not None and new.last is not None and new.first >= new.last:
            self._review.desk.trouble.emit("The first frame must lie before the last one.")
            return
        if clip.marks and not any(
            _within(mark, new, len(self._review.index)) for mark in clip.marks
        ):
            self._review.desk.trouble.emit(
                "The plate is marked outside of these frames. Mark it between them first."
            )
            return
        self._review.change_clip("set where the film begins and ends", hand=new)

    def next_doubt(self, heading: int) -> None:
        """Go to the beginning of the next stretch that is doubtful or lost, or of the last one."""
        track, frame = self._review.track, self._review.frame
        if track is None:
            return
        doubt = np.isin(track.state, DOUBT).astype(int)
        begins = np.flatnonzero(np.diff(np.concatenate([[0], doubt])) == 1)
        there = begins[begins > frame] if heading > 0 else begins[begins < frame]
        if len(there):
            self._review.go_to_frame(int(there[0] if heading > 0 else there[-1]))
        else:
            self._review.desk.said.emit("No doubtful frame that way.")

    # Lines: the scale from two points, the vertical along a post

    def start_measuring(self, what: Literal["scale", "upright"]) -> None:
        """The next drag over the film sets the two points of the scale, or the vertical."""
        self._review.pause()
        self._review.tool.take(what, self._drop_line)
        self.changed.emit()

    def _drop_line(self) -> None:
        self.line = None
        self.changed.emit()

    def draw_line(self, line: Line) -> None:
        self.line = line
        self.changed.emit()

    def keep_line(self) -> None:
        """Keep the line for what it was drawn for."""
        line, what = self.line, self.measuring
        self._review.tool.lay_down()
        if line is not None and what == "upright":
            self._keep_upright(line)
        elif line is not None:
            self._keep_points(line)
        self.changed.emit()

    def _keep_upright(self, line: Line) -> None:
        try:
            vertical_along(line, held=False)
        except MarkError as error:
            self._review.desk.trouble.emit(str(error))
            return
        self._review.change_clip("set the vertical", upright=line)

    def _keep_points(self, line: Line) -> None:
        """Their distance stays what it was, or is a metre."""
        clip = self._review.clip
        if clip is not None:
            if np.hypot(line[2] - line[0], line[3] - line[1]) < 20:
                self._review.desk.trouble.emit(
                    "The two points lie too close together. Drag from one to the other, far apart."
                )
            else:
                apart = clip.scale_points[4] if clip.scale_points is not None else 1000.0
                self._review.change_clip(
                    "set two points of the scale", scale_by="points", scale_points=(*line, apart)
                )


def _within(mark: PlateMark, hand: HandWork, count: int) -> bool:
    first, last = hand.limits(count)
    return first <= mark.frame <= last


def _upright(rim: Rim) -> float:
    """The angle of a rim whose first axis is taken as the narrow one."""
    return rim.angle_deg if rim.axes_px[0] <= rim.axes_px[1] else rim.angle_deg - 90.0
