"""What prescribing keeps: findings, answers, the life of a corrective, own drills and complexes."""

import json
import sqlite3
import tempfile
import unittest
from contextlib import closing
from dataclasses import replace
from datetime import date
from pathlib import Path

from keen_kettle.core.content import OwnLibrary, OwnMovement, load_content, read_library
from keen_kettle.core.prescribe import Sighting
from keen_kettle.store import (
    ClipFindings,
    KeptComplex,
    NewAthlete,
    NewClip,
    Prescribed,
    Shelf,
    athlete_document,
    drill_document,
)

DAY = date(2026, 11, 27)
DRILLS = load_content().drills
PULL = OwnMovement(
    name="pause pull", begins="floor", ends="hip", trains=("floor",), stance_after="split"
)


def a_clip(athlete: int | None, digest: str = "aa") -> NewClip:
    return NewClip(Path(f"/films/{digest}.mp4"), digest, 90, 1.5, DAY, athlete, "clean")


def found(clip: int, *faults: str) -> ClipFindings:
    rows = tuple(
        Sighting(fault, DAY, "clean", "clip", 1.5, 0.9, "loop", 0.11, 0.01, clip)
        for fault in faults
    )
    return ClipFindings(clip, "clean", rows, {"loop": (0.11, 0.01), "rhythm": (1.4, 0.1)})


class ShelfCase(unittest.TestCase):
    def setUp(self) -> None:
        room = tempfile.TemporaryDirectory()
        self.addCleanup(room.cleanup)
        self.path = Path(room.name) / "kettle.sqlite"
        self.shelf = Shelf(self.path)
        self.addCleanup(self.shelf.close)
        self.kept = self.shelf.prescribing
        self.athlete = self.shelf.add_athlete(NewAthlete("Wil Dane"))


class TestFindings(ShelfCase):
    def test_they_belong_to_the_clip_and_go_with_its_athlete(self) -> None:
        other = self.shelf.add_athlete(NewAthlete("Ann Bell"))
        clip = self.shelf.add_clip(a_clip(self.athlete))
        self.kept.keep_findings(found(clip, "loop", "gap"))
        rows = self.kept.sightings()
        self.assertEqual(set(rows), {self.athlete})
        self.assertEqual(rows[self.athlete][1], found(clip, "loop", "gap").sightings[1])
        self.shelf.change_clip(clip, athlete_id=other)
        self.assertEqual(set(self.kept.sightings()), {other})
        self.shelf.change_clip(clip, athlete_id=None)
        self.assertEqual(self.kept.sightings(), {})

    def test_a_new_judgement_takes_the_place_of_the_old_one(self) -> None:
        clip = self.shelf.add_clip(a_clip(self.athlete))
        self.assertIsNone(self.kept.findings_of(clip))
        self.kept.keep_findings(found(clip, "loop", "gap"))
        self.kept.keep_findings(found(clip))
        self.assertEqual(self.kept.sightings(), {})
        self.assertEqual(self.kept.findings_of(clip), found(clip))

    def test_they_go_when_the_clip_goes_and_are_not_kept_for_one_that_is_gone(self) -> None:
        clip = self.shelf.add_clip(a_clip(self.athlete))
        self.kept.keep_findings(found(clip, "loop"))
        self.shelf.forget_clip(clip)
        self.kept.keep_findings(found(clip, "loop"))
        self.assertEqual(self.kept.sightings(), {})
        with closing(sqlite3.connect(self.path)) as raw:
            counts = [
                raw.execute(f"SELECT count(*) FROM {t}").fetchone() for t in ("findings", "judged")
            ]
        self.assertEqual(counts, [(0,), (0,)])


class TestCorrectives(ShelfCase):
    def test_an_outcome_and_what_was_measured_are_kept(self) -> None:
        one = Prescribed(
            *(self.athlete, None, "loop", "muscle-lift", "clean", "Muscle clean", 30.0),
            *("3 sets of 5", "isolates it", DAY, DAY),
            cue="Brush the shirt",
            measure="loop",
            before_value=0.12,
            before_sigma=0.01,
        )
        number = self.kept.take_corrective(one)
        self.assertEqual(self.kept.correctives(), [replace(one, id=number)])
        self.assertTrue(self.kept.correctives()[0].runs)
        self.kept.change_corrective(number, outcome="improved", ended_on=DAY, after_value=0.07)
        ended = self.kept.correctives()[0]
        self.assertEqual(
            (ended.outcome, ended.ended_on, ended.after_value), ("improved", DAY, 0.07)
        )
        self.assertEqual(ended.dose, "3 sets of 5", "nothing else was changed")
        self.assertFalse(ended.runs)

    def test_answers_are_one_for_each_fault_and_can_be_taken_back(self) -> None:
        for said in ("fear", "time"):
            self.kept.answer(self.athlete, "slow-elbows", said, DAY)
        self.assertEqual(self.kept.answers(), {self.athlete: {"slow-elbows": "time"}})
        self.kept.answer(self.athlete, "slow-elbows", "", DAY)
        self.assertEqual(self.kept.answers(), {})

    def test_everything_goes_with_the_athlete_and_stands_in_the_dossier_before(self) -> None:
        clip = self.shelf.add_clip(a_clip(self.athlete))
        self.kept.keep_findings(found(clip, "loop"))
        self.kept.answer(self.athlete, "slow-elbows", "fear", DAY)
        whole = json.loads(athlete_document(self.shelf, self.athlete))
        self.assertEqual(whole["findings"][0]["fault"], "loop")
        self.assertEqual(whole["answers"], {"slow-elbows": "fear"})
        self.shelf.remove_athlete(self.athlete)
        self.assertEqual((self.kept.sightings(), self.kept.answers()), ({}, {}))


class TestOwn(ShelfCase):
    def test_own_drills_are_kept_changed_and_dropped(self) -> None:
        own = DRILLS["muscle-lift"].model_copy(update={"id": "mine", "name": "Mine"})
        self.kept.keep_drill(own)
        self.kept.keep_drill(own.model_copy(update={"name": "Ours"}))
        found_, troubles = self.kept.own_library()
        self.assertEqual(([one.name for one in found_.drills], troubles), (["Ours"], []))
        self.kept.drop_drill("mine")
        self.assertEqual(self.kept.own_library(), (OwnLibrary(), []))

    def test_one_that_is_damaged_is_left_out_and_said(self) -> None:
        self.kept.keep_drill(DRILLS["muscle-lift"])
        with closing(sqlite3.connect(self.path)) as raw:
            raw.execute("INSERT INTO drills VALUES ('broken', '{')")
            raw.commit()
            raw.execute("INSERT INTO movements VALUES ('torn', '{')")
            raw.commit()
        own, troubles = self.kept.own_library()
        self.assertEqual([one.id for one in own.drills], ["muscle-lift"])
        self.assertIn("torn", troubles[0])
        self.assertIn("broken", troubles[1])

    def test_a_drill_file_reads_back_as_it_was(self) -> None:
        own = tuple(DRILLS.values())
        text = drill_document(own, movements=[PULL])
        self.assertEqual(read_library(text, "own.json"), OwnLibrary(own, (PULL,)))

    def test_own_movements_are_kept_changed_and_dropped(self) -> None:
        self.kept.keep_movement(PULL)
        heavier = PULL.model_copy(update={"share": 1.1})
        self.kept.keep_movement(heavier)
        self.assertEqual(self.kept.own_library(), (OwnLibrary(movements=(heavier,)), []))
        self.kept.drop_movement(PULL.name)
        self.assertEqual(self.kept.own_library(), (OwnLibrary(), []))

    def test_complexes_are_kept_under_their_numbers(self) -> None:
        one = KeptComplex("Overhead day", "snatch + overhead squat", DAY)
        number = self.kept.keep_complex(one)
        self.kept.drop_complex(number)
        self.assertEqual(self.kept.complexes(), [])
        self.kept.keep_complex(replace(one, id=number))
        self.assertEqual(self.kept.complexes(), [replace(one, id=number)])


if __name__ == "__main__":
    unittest.main()
