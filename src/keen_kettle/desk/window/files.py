"""What the coach brings in and takes out as files: films, folders, the inbox, exports."""

from pathlib import Path

from PyQt6.QtCore import QMimeData, QObject, QSettings, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from keen_kettle.desk.state.intake.inbox import Inbox
from keen_kettle.desk.state.intake.queue_model import QueueModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.window.exporting import EXPORTS, export, write_film
from keen_kettle.desk.window.notice import Notice
from keen_kettle.desk.work.workers import Job

__all__ = ["Files"]

FILMS = "Films (*.mp4 *.mov *.mkv *.avi *.m4v *.webm *.3gp);;All files (*)"


class Files(QObject):
    """Asks where, and hands over; remembers the folder that was used last."""

    changed = pyqtSignal()

    def __init__(
        self,
        window: QWidget,
        review: ReviewModel,
        queue: QueueModel,
        inbox: Inbox,
        notice: Notice,
        settings: QSettings,
    ) -> None:
        super().__init__(window)
        self._window, self._review, self._queue, self._inbox = window, review, queue, inbox
        self._desk, self._notice, self._settings = review.desk, notice, settings
        self.writing: Job | None = None

    # In

    def add_clip(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self._window, "Add a clip", self._last_folder(), FILMS
        )
        if name:
            self._settings.setValue("folder", str(Path(name).parent))
            self._queue.take_in([Path(name)], at_once=True)

    def add_folder(self) -> None:
        """Take in all films of a folder."""
        name = QFileDialog.getExistingDirectory(self._window, "Add a folder", self._last_folder())
        if name:
            self._settings.setValue("folder", name)
            self._queue.take_in(Path(name))

    def choose_inbox(self) -> None:
        """Choose the folder that is watched for films."""
        begin = str(self._inbox.folder or self._last_folder())
        name = QFileDialog.getExistingDirectory(self._window, "The inbox", begin)
        if name:
            self._inbox.watch(Path(name))

    def dropped(self, mime: QMimeData) -> None:
        """One film is opened; several, or a folder, go into the queue."""
        paths = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()]
        if len(paths) == 1 and paths[0].is_dir():
            self._queue.take_in(paths[0])
        elif len(paths) == 1:
            self._queue.take_in(paths, at_once=True)
        else:
            self._queue.take_in([path for path in paths if path.is_file()])

    def ask_for_film(self, number: int) -> None:
        """Say that a clip's film is gone, and offer to show where it is."""
        clip = next(one for one in self._desk.clips if one.id == number)
        self._notice.say(
            f"The film {clip.path.name} is not where it was ({clip.path.parent}). "
            "Its review is safe. Show where the file is now; it is known again by its content.",
            "Find the film …",
            lambda: self._find_film(number),
        )

    def _find_film(self, number: int) -> None:
        clip = next(one for one in self._desk.clips if one.id == number)
        name, _ = QFileDialog.getOpenFileName(
            self._window, f"Where is {clip.path.name}?", self._last_folder(), FILMS
        )
        if name:
            self._desk.find_film(clip, Path(name))

    # Out

    def may_export(self, name: str) -> bool:
        review = self._review
        bodily = name in ("export_landmarks", "export_trc")
        return review.answer is not None and (review.body is not None or not bodily)

    def may_export_film(self) -> bool:
        return self._review.answer is not None and self.writing is None

    def export(self, name: str) -> None:
        """Write the open review to a file of the coach's choice."""
        review = self._review
        if review.answer is None or review.clip is None:
            return
        ending, kind = EXPORTS[name].ending, EXPORTS[name].kind
        suggestion = Path(self._last_folder()) / f"{review.clip.path.stem}{ending}"
        chosen, _ = QFileDialog.getSaveFileName(self._window, "Export", str(suggestion), kind)
        if not chosen:
            return
        try:
            export(name, review, Path(chosen))
        except OSError as error:
            self._notice.say(
                f"{Path(chosen).name} could not be written ({error.strerror}). Nothing else was touched. "
                "Choose another folder, or free some space, and export again."
            )
            return
        self._desk.said.emit(f"Written: {chosen}")

    def export_film(self) -> None:
        """Write the open film with its path in it; Esc stops it."""
        review = self._review
        if review.answer is None or review.clip is None or self.writing is not None:
            return
        slow = "" if review.playback.speed == 1 else f"-{review.playback.speed:g}x"
        suggestion = Path(self._last_folder()) / f"{review.clip.path.stem}.path{slow}.mp4"
        chosen, _ = QFileDialog.getSaveFileName(
            self._window, "Export the film", str(suggestion), "Films (*.mp4 *.mkv)"
        )
        if not chosen:
            return
        path = Path(chosen)
        path = path if path.suffix else path.with_suffix(".mp4")

        def finished() -> None:
            self.writing = None
            self.changed.emit()

        def progress(share: float) -> None:
            self._desk.said.emit(f"Writing {path.name}: {100 * share:.0f} % (Esc stops it)")

        self.writing = write_film(review, path, finished, progress)
        self.changed.emit()

    def stop(self) -> None:
        if self.writing is not None:
            self.writing.stop()

    def _last_folder(self) -> str:
        return str(self._settings.value("folder", str(Path.home())))
