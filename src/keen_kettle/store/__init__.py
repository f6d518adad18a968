"""What is kept: athletes, clips, teaching, correctives, settings, in one SQLite file."""

from keen_kettle.store.errors import StoreDamaged, StoreError, StoreFull
from keen_kettle.store.exchange.dossier import athlete_document
from keen_kettle.store.exchange.roster import Roster, RosterRow, read_roster
from keen_kettle.store.place import data_dir, database_file
from keen_kettle.store.prescribing import PrescribingRecords, drill_document
from keen_kettle.store.records import (
    Athlete,
    Clip,
    ClipFindings,
    Group,
    Jump,
    KeptComplex,
    KeptStep,
    KeptTry,
    KeptVisit,
    NewAthlete,
    NewClip,
    Prescribed,
    Screening,
    person_of,
)
from keen_kettle.store.shelf import Shelf
from keen_kettle.store.teaching import TeachingRecords, ladder_document

__all__ = [
    "Athlete",
    "Clip",
    "ClipFindings",
    "Group",
    "Jump",
    "KeptComplex",
    "KeptStep",
    "KeptTry",
    "KeptVisit",
    "NewAthlete",
    "NewClip",
    "Prescribed",
    "PrescribingRecords",
    "Roster",
    "RosterRow",
    "Screening",
    "Shelf",
    "StoreDamaged",
    "StoreError",
    "StoreFull",
    "TeachingRecords",
    "athlete_document",
    "data_dir",
    "database_file",
    "drill_document",
    "ladder_document",
    "person_of",
    "read_roster",
]
