"""From a film and a mark to one answer: path, events, measures, findings, and its document."""

from keen_kettle.core.analysis.assess import Assessment, ClipSettings, assess
from keen_kettle.core.analysis.burn import burn_film
from keen_kettle.core.analysis.check import CheckRow, ClipCheck, check_clip
from keen_kettle.core.analysis.document import (
    DOCUMENT_VERSION,
    document,
    measures_csv,
    path_csv,
    write_text_safely,
)
from keen_kettle.core.analysis.drawn import drawing_rows, film_of
from keen_kettle.core.analysis.file_name import Guess, Trained, guess_from_name
from keen_kettle.core.analysis.landmark_files import landmarks_csv, landmarks_trc
from keen_kettle.core.analysis.pictures import AheadPictures, ReaderPictures
from keen_kettle.core.analysis.study import Study, lift_shown, study

__all__ = [
    "DOCUMENT_VERSION",
    "AheadPictures",
    "Assessment",
    "CheckRow",
    "ClipCheck",
    "ClipSettings",
    "Guess",
    "ReaderPictures",
    "Study",
    "Trained",
    "assess",
    "burn_film",
    "check_clip",
    "document",
    "drawing_rows",
    "film_of",
    "guess_from_name",
    "landmarks_csv",
    "landmarks_trc",
    "lift_shown",
    "measures_csv",
    "path_csv",
    "study",
    "write_text_safely",
]
