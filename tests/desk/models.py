"""The desk's models on records of their own, without a window."""

import tempfile
import time
import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from unittest import mock

from keen_kettle.core.clip import content_hash, read_index
from keen_kettle.core.content import load_content
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.store import NewAthlete, NewClip, Shelf, database_file
from tests.desk.base import TODAY, answer_worker, app
from tests.films import film, sightings, tracked

__all__ = ["ModelCase"]


class ModelCase(unittest.TestCase):
    """Models on a folder that goes away; nothing is looked for in films by itself."""

    def setUp(self) -> None:
        self.app = app()
        for model, name in ((HandModel, "propose"), (BodyModel, "look")):
            off = mock.patch.object(model, name, return_value=None)
            off.start()
            self.addCleanup(off.stop)
        room = tempfile.TemporaryDirectory(prefix="kettle-models-")
        self.addCleanup(room.cleanup)
        self.folder = Path(room.name)

    def keep(self, name: str, lift: str = "clean", body: bool = True) -> int:
        """Keep a tracked film of the test run, with what is seen of its lifter; the clip's id."""
        known = film(name)
        index = read_index(known.path)
        shelf = Shelf(database_file(self.folder))
        athlete = shelf.add_athlete(NewAthlete("Wil Dane", 1.75, {"clean": 100.0}))
        new = NewClip(
            *(known.path, content_hash(known.path), len(index), index.duration_s, TODAY),
            *(athlete, lift, 60.0),
        )
        number = shelf.add_clip(new)
        shelf.change_clip(number, marks=(known.mark(),), facing=known.truth["facing"])
        clip = replace(shelf.clip(number))
        shelf.keep_track(clip, tracked(name))
        if body:
            shelf.keep_sightings(clip, sightings(name))
        shelf.close()
        return number

    def models(self) -> Models:
        shelf = Shelf(database_file(self.folder))
        models = Models(DeskModel(shelf, load_content(), lambda: TODAY, answer_worker))
        self.addCleanup(models.close)
        return models

    def open(self, models: Models, number: int) -> None:
        """Open a clip, and wait for its answer."""
        models.desk.open_clip(number)
        review = models.review
        self.until(lambda: review.clip is not None and review.clip.id == number)
        self.until(lambda: review.answer is not None, 30)
        self.quiet(models)

    def until(self, ready: Callable[[], object], seconds: float = 15) -> None:
        end = time.monotonic() + seconds
        while not ready():
            self.assertLess(time.monotonic(), end, "it did not happen")
            self.app.processEvents()
            time.sleep(0.002)

    def quiet(self, models: Models) -> None:
        """Wait until nothing is being worked out any more."""
        still = 0
        while still < 8:
            self.app.processEvents()
            time.sleep(0.004)
            busy = models.desk.jobs.busy or models.review._frames.waiting
            still = 0 if busy else still + 1
