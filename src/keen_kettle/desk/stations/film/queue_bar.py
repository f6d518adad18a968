"""What the background does with clips: which one, how far, how many are left; rest, go on, stop."""

from PyQt6.QtWidgets import QProgressBar, QWidget

from keen_kettle.desk.kit.builders import button, label, row
from keen_kettle.desk.kit.theme import dress
from keen_kettle.desk.state.intake.queue_model import QueueModel

__all__ = ["QueueBar"]


class QueueBar(QWidget):
    """One line; hidden while nothing is to do, its room kept, so that no button above it jumps."""

    def __init__(self, model: QueueModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.words = label("", "quiet", wrap=False)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(10)
        self.progress.setAccessibleName("How far the background is")
        self.progress.setToolTip("How far the background is with this clip")
        self.rest = button("Pause", "Let the queue rest (Ctrl+P)", model.switch_pause, "pause")
        self.stop = button(
            "Stop", "Measure no more clips; they stay in the list", model.cancel, "x"
        )
        line = row(self.words, self.progress, self.rest, self.stop, spacing=10)
        line.setStretch(1, 1)
        self.setLayout(line)
        kept = self.sizePolicy()
        kept.setRetainSizeWhenHidden(True)
        self.setSizePolicy(kept)
        model.changed.connect(self._show)
        model.desk.clips_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        model = self._model
        self.setVisible(model.busy)
        if not model.busy:
            return
        clip, left = model.running_clip(), len(model.due)
        if model.is_reading:
            self.words.setText("Reading the films")
            share = model.reading
        elif model.paused:
            self.words.setText(f"Resting: {left} clip{'s' if left != 1 else ''} to measure")
            share = model.share
        elif clip is not None:
            rest = f", {left - 1} more" if left > 1 else ""
            self.words.setText(f"Measuring {_short(clip.path.name)}{rest}")
            share = model.share
        else:
            self.words.setText("The clip on Review comes first")
            share = 0.0
        self.progress.setValue(round(100 * share))
        words, picture = ("Go on", "play") if model.paused else ("Pause", "pause")
        if self.rest.text() != words:
            self.rest.setText(words)
            self.rest.setAccessibleName(words)
            dress(self.rest, picture)


def _short(name: str) -> str:
    return name if len(name) <= 34 else f"{name[:20]}…{name[-12:]}"
