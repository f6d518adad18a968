"""From a film and a mark to one answer: path, events, measures, findings."""

from keen_kettle.core.analysis.assess import Assessment, assess
from keen_kettle.core.analysis.check import CheckRow, ClipCheck, check_clip
from keen_kettle.core.analysis.drawn import drawing_rows, film_of
from keen_kettle.core.analysis.pictures import AheadPictures, ReaderPictures
from keen_kettle.core.analysis.settings import ClipSettings, vertical_of
from keen_kettle.core.analysis.sighted import measures_told, sightings_of
from keen_kettle.core.analysis.stages import Answer, Stages, made_from
from keen_kettle.core.analysis.study import Study, lift_shown, study

__all__ = [
    "AheadPictures",
    "Answer",
    "Assessment",
    "CheckRow",
    "ClipCheck",
    "ClipSettings",
    "ReaderPictures",
    "Stages",
    "Study",
    "assess",
    "check_clip",
    "drawing_rows",
    "film_of",
    "lift_shown",
    "made_from",
    "measures_told",
    "sightings_of",
    "study",
    "vertical_of",
]
