"""What leaves the program: documents, films with the path burnt in, landmark files."""

from keen_kettle.core.export.burn import burn_film
from keen_kettle.core.export.document import (
    DOCUMENT_VERSION,
    document,
    measures_csv,
    path_csv,
    write_text_safely,
)
from keen_kettle.core.export.landmark_files import landmarks_csv, landmarks_trc
from keen_kettle.core.export.session_files import session_calendar, session_csv, session_ods

__all__ = [
    "DOCUMENT_VERSION",
    "burn_film",
    "document",
    "landmarks_csv",
    "landmarks_trc",
    "measures_csv",
    "path_csv",
    "session_calendar",
    "session_csv",
    "session_ods",
    "write_text_safely",
]
