"""The tools by hand, as buttons beside the film: doubtful frames, clicking through, spans, limits."""

from PyQt6.QtWidgets import QGridLayout, QWidget

from keen_kettle.core.track import STATES, State
from keen_kettle.desk.kit.builders import button, column, label
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.stations.review.by_hand import hand_actions

__all__ = ["HandTools"]

TOOLS = (
    ("doubt", "Next doubtful", "Go to the next doubtful or lost frame (N)", "arrow-right"),
    ("confirm", "It is right here", "The point on this frame becomes a fixed one (Y)", "check"),
    ("click", "Click through", "Click the bar frame by frame (C)", "circle-dot"),
    ("span", "Begin a span", "A span begins at this frame (B)", ""),
    ("hide", "Hide the span", "Leave a gap (H)", ""),
    ("bridge", "Bridge the span", "Fill it with a smooth curve (J)", ""),
    ("unspan", "Clear the span", "Take the span at this frame away (Shift+H)", ""),
    ("from_here", "Follow from here", "Nothing before this frame is followed (Shift+B)", ""),
    ("to_here", "Follow to here", "Nothing after this frame is followed (Shift+J)", ""),
)
SHOWN = (State.CHECK, State.LOST, State.REPEATED, State.BY_HAND, State.HIDDEN, State.BRIDGED)


class HandTools(QWidget):
    """Buttons for the work by hand, and how many frames are in which state."""

    def __init__(self, model: ReviewModel, hand: HandModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model, self._hand = model, hand
        tools = hand_actions(model, hand, lambda: model.index is not None)
        self._tools = {one.id: one for one in tools}
        self.count = label("", "quiet")
        self.buttons = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        for number, (name, words, tip, icon) in enumerate(TOOLS):
            made = button(words, tip, self._tools[name].do, icon)
            self.buttons[name] = made
            grid.addWidget(made, number // 2, number % 2)
        hint = label(
            "Drag the bar’s point on any frame to set it right; Ctrl with the arrows moves it by a "
            "quarter of a pixel. The path is followed anew from there, both ways.",
            "quiet",
        )
        self.setLayout(column(self.count, grid, hint, spacing=8))
        for signal in (hand.changed, model.tracking_changed, model.answer_changed):
            signal.connect(self._fill)
        model.frame_shown.connect(lambda _image: self._enable())
        self._fill()

    def _fill(self) -> None:
        track = self._model.track
        self.buttons["click"].setText("Keep the clicks" if self._hand.clicking else "Click through")
        parts = []
        if track is not None:
            for state in SHOWN:
                number = int((track.state == state).sum())
                if number:
                    parts.append(f"{number} {STATES[state].replace('check', 'doubtful')}")
        total = len(track) if track is not None else 0
        words = ", ".join(parts) if parts else "every one plainly seen"
        self.count.setText(f"Of {total} frames: {words}." if total else "")
        self._enable()

    def _enable(self) -> None:
        for name, made in self.buttons.items():
            made.setEnabled(self._tools[name].may())
