"""Answers of clips in the data file: they come back as they were, and only for what they hang on."""

import dataclasses
import tempfile
import unittest
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import mock

import numpy as np

from keen_kettle.core.analysis import ClipSettings, Stages, made_from, stages
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.store import NewClip, Shelf
from keen_kettle.store.answer_rows import pack_answer, unpack_answer
from tests.films import film, sightings, tracked


class TestAnswers(unittest.TestCase):
    def setUp(self) -> None:
        self.track, self.seen = tracked("brief"), sightings("brief")
        self.settings = ClipSettings(parse_filmed("clean"), film("brief").truth["facing"])
        self.answer = Stages().answer(self.track, self.seen, self.settings, load_content())
        room = tempfile.TemporaryDirectory(prefix="kettle-answers-")
        self.addCleanup(room.cleanup)
        self.shelf = Shelf(Path(room.name) / "records.sqlite")
        self.addCleanup(self.shelf.close)
        clip = NewClip(Path("/films/a.mp4"), "aa", 60, 2.0, date(2026, 11, 1))
        self.number = self.shelf.add_clip(clip)

    def made(self, **fields: object) -> str:
        return made_from(self.track, self.seen, replace(self.settings, **fields))  # type: ignore[arg-type]

    def test_all_of_it_comes_back_in_its_own_types(self) -> None:
        self.assertTrue(self.answer.assessment.findings, "there is something to be kept")
        self.shelf.keep_answer(self.number, self.made(), self.answer)
        back = self.shelf.answer(self.number, self.made())
        assert back is not None
        self._same(back, self.answer, "answer")

    def _same(self, a: object, b: object, name: str) -> None:
        self.assertIs(type(a), type(b), name)
        if isinstance(a, np.ndarray) and isinstance(b, np.ndarray):
            np.testing.assert_array_equal(a, b, name)
            self.assertEqual(a.dtype, b.dtype, name)
        elif dataclasses.is_dataclass(a):
            for one in dataclasses.fields(a):
                if one.compare:
                    self._same(getattr(a, one.name), getattr(b, one.name), f"{name}.{one.name}")
        else:
            self.assertEqual(a, b, name)

    def test_for_anything_else_there_is_none(self) -> None:
        self.shelf.keep_answer(self.number, self.made(), self.answer)
        for other in ({"diameter_mm": 400.0}, {"facing": "left"}, {"mass_kg": 60.0}, {"rep": 1}):
            self.assertIsNone(self.shelf.answer(self.number, self.made(**other)), str(other))
        moved = replace(self.track, x_px=self.track.x_px + 0.01)
        self.assertIsNone(
            self.shelf.answer(self.number, made_from(moved, self.seen, self.settings))
        )
        unseen = made_from(self.track, None, self.settings)
        self.assertIsNone(self.shelf.answer(self.number, unseen))

    def test_another_program_makes_its_own(self) -> None:
        before = self.made()
        with mock.patch.object(stages, "_program", return_value="another"):
            self.assertNotEqual(self.made(), before)

    def test_it_goes_with_its_clip(self) -> None:
        self.shelf.keep_answer(self.number, self.made(), self.answer)
        self.shelf.forget_clip(self.number)
        self.shelf.keep_answer(self.number, self.made(), self.answer)  # it was still being made
        self.assertIsNone(self.shelf.answer(self.number, self.made()))

    def test_damaged_bytes_are_no_answer(self) -> None:
        good = pack_answer(self.answer)
        for bad in (b"", b"\0\xff", good[: len(good) // 2], good[:-20] + bytes(20)):
            self.assertIsNone(unpack_answer(bad))


if __name__ == "__main__":
    unittest.main()
