"""What an export is called and how its text is made; the core writes the content."""

import json
from dataclasses import dataclass
from pathlib import Path

from keen_kettle import __version__
from keen_kettle.core.analysis import document, measures_csv, path_csv, write_text_safely
from keen_kettle.desk.review_model import ReviewModel

__all__ = ["EXPORTS", "Export", "export"]


@dataclass(frozen=True)
class Export:
    ending: str
    kind: str


EXPORTS = {
    "export_json": Export(".analysis.json", "JSON (*.json)"),
    "export_path": Export(".path.csv", "CSV (*.csv)"),
    "export_measures": Export(".measures.csv", "CSV (*.csv)"),
}


def export(name: str, review: ReviewModel, path: Path) -> None:
    """Write one export of the open review; raises OSError when it cannot be written."""
    assert review.index is not None and review.track is not None and review.answer is not None
    if name == "export_json":
        whole = document(review.index, review.settings(), review.track, review.answer, __version__)
        text = json.dumps(whole, indent=1, ensure_ascii=False) + "\n"
    elif name == "export_path":
        text = path_csv(review.track, review.answer)
    else:
        text = measures_csv(review.answer, review.desk.content)
    write_text_safely(path, text)
