"""What an export is called and how its text is made; the core writes the content."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from keen_kettle import __version__
from keen_kettle.core.clip import ClipReader
from keen_kettle.core.export import (
    burn_film,
    document,
    landmarks_csv,
    landmarks_trc,
    measures_csv,
    path_csv,
    write_text_safely,
)
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.work.workers import Job

__all__ = ["EXPORTS", "Export", "export", "write_film"]


@dataclass(frozen=True)
class Export:
    ending: str
    kind: str
    says: str


EXPORTS = {
    "export_json": Export(
        ".analysis.json",
        "JSON (*.json)",
        "Path, events, measures and findings in one document.",
    ),
    "export_path": Export(".path.csv", "CSV (*.csv)", "One row a frame, in pixels and metres."),
    "export_measures": Export(".measures.csv", "CSV (*.csv)", "One row a measure, in SI units."),
    "export_landmarks": Export(
        ".landmarks.csv", "CSV (*.csv)", "One row a frame and point, in pixels and metres."
    ),
    "export_trc": Export(
        ".trc", "TRC (*.trc)", "Marker trajectories in millimetres, for other programs."
    ),
}


def write_film(
    review: ReviewModel, path: Path, finished: Callable[[], None], progress: Callable[[float], None]
) -> Job:
    """Write the film with its path in it, in the background, at the speed that it plays at."""
    index, track, answer = review.index, review.track, review.answer
    assert index is not None and track is not None and answer is not None
    settings, speed, desk = review.settings(), review.playback.speed, review.desk
    drawings = review.clip.drawings if review.clip is not None else ()
    body = review.body

    def work(job: Job) -> None:
        with ClipReader(index) as reader:
            burn_film(
                *(reader, track, answer, settings, path, speed, drawings, body),
                job.tell,
                job.stopped,
            )

    def failed(reason: str) -> None:
        finished()
        desk.trouble.emit(reason)

    def done(_nothing: object) -> None:
        finished()
        desk.said.emit(f"Written: {path}")

    def cancelled() -> None:
        finished()
        desk.said.emit("Writing the film was stopped; nothing was kept of it.")

    return desk.jobs.start(work, done, failed, progress, cancelled)


def export(name: str, review: ReviewModel, path: Path) -> None:
    """Write one export of the open review; raises OSError when it cannot be written."""
    assert review.index is not None and review.track is not None and review.answer is not None
    if name == "export_json":
        whole = document(
            review.index,
            review.settings(),
            review.track,
            review.answer,
            __version__,
            review.body,
            drawings=review.clip.drawings if review.clip is not None else (),
        )
        text = json.dumps(whole, indent=1, ensure_ascii=False) + "\n"
    elif name == "export_path":
        text = path_csv(review.track, review.answer)
    elif name == "export_landmarks":
        assert review.body is not None
        text = landmarks_csv(review.body, review.answer)
    elif name == "export_trc":
        assert review.body is not None
        text = landmarks_trc(review.body, review.answer, path.name)
    else:
        text = measures_csv(review.answer, review.desk.content)
    write_text_safely(path, text)
