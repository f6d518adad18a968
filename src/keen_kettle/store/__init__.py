"""What is kept: athletes, clips, tracks, correctives, settings, in one SQLite file."""

from keen_kettle.store.errors import StoreDamaged, StoreError, StoreFull
from keen_kettle.store.place import data_dir, database_file
from keen_kettle.store.records import Athlete, Clip, NewAthlete, NewClip, Prescribed
from keen_kettle.store.shelf import Shelf

__all__ = [
    "Athlete",
    "Clip",
    "NewAthlete",
    "NewClip",
    "Prescribed",
    "Shelf",
    "StoreDamaged",
    "StoreError",
    "StoreFull",
    "data_dir",
    "database_file",
]
