"""What teaching keeps; the old data file; class lists; deleting an athlete with everything."""

import json
import sqlite3
import tempfile
import unittest
from contextlib import closing
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from keen_kettle.core.content import load_teaching
from keen_kettle.core.errors import KettleError
from keen_kettle.core.teach import CheckResult, Step, Try, Visit
from keen_kettle.store import (
    Jump,
    KeptStep,
    KeptTry,
    KeptVisit,
    NewAthlete,
    NewClip,
    Screening,
    Shelf,
    StoreError,
    athlete_document,
    person_of,
    read_roster,
)
from keen_kettle.store.exchange.roster import MOST
from keen_kettle.store.tables import HEAD

DAY = date(2026, 11, 23)
FULL = NewAthlete(
    "Zoë Ash",
    1.71,
    {"snatch": 50.0},
    frozenset({"shoulder"}),
    frozenset({"bar", "kettlebell"}),
    True,
    birth_year=2010,
    sex="f",
    weight_class="64",
    mass_kg=62.5,
    lengths_m={"arm": 0.66},
    grips_m={"snatch": 1.05},
    aim="sport power",
    sport="surf rescue",
    training_years=1.5,
    sessions_week=3,
    school={"feet": "stay"},
    consent="mother, 3 Nov 2026",
    notes="left-handed",
    photo=b"\x89PNG",
    archived_on=DAY,
    lifting_years=0.5,
    wants_lifts=True,
    own_lift="hang power clean, above knee",
)


def a_visit(athlete: int, days: int = 0, **more: object) -> KeptVisit:
    values: dict[str, object] = {"met": (0, 2), "asked": 3, "faults": ("loop",), **more}
    visit = Visit(DAY + timedelta(days), "clean-bottom-up", "set", **values)  # type: ignore[arg-type]
    return KeptVisit(athlete, visit, "note", "stay", "because", "advance", "quick learner")


class ShelfCase(unittest.TestCase):
    def setUp(self) -> None:
        room = tempfile.TemporaryDirectory()
        self.addCleanup(room.cleanup)
        self.path = Path(room.name) / "kettle.sqlite"
        self.shelf = Shelf(self.path)
        self.addCleanup(lambda: self.shelf.close())
        self.keep = self.shelf.teaching


class TestKeeping(ShelfCase):
    def test_every_fact_of_an_athlete_comes_back(self) -> None:
        number = self.shelf.add_athlete(FULL)
        kept = self.shelf.athletes()[0]
        for name in FULL.__dataclass_fields__:
            self.assertEqual(getattr(kept, name), getattr(FULL, name), name)
        self.shelf.change_athlete(number, archived_on=None, photo=None)
        again = self.shelf.athletes()[0]
        self.assertEqual((again.id, again.archived_on, again.photo), (number, None, None))
        person = person_of(again, {}, {"feet": "squat-stance", "cue": "inner"}, DAY)
        self.assertEqual((person.age, person.school["feet"]), (16, "stay"))
        self.assertEqual(
            person.school["cue"], "inner", "the house answers where the athlete does not"
        )

    def test_two_groups_of_one_name_are_one(self) -> None:
        first = self.keep.add_group("Tuesday")
        self.assertEqual(self.keep.add_group("TUESDAY"), first)
        other = self.keep.add_group("Thursday")
        athlete = self.shelf.add_athlete(FULL)
        self.keep.set_groups(athlete, [first, other])
        self.assertEqual([one.name for one in self.keep.groups()], ["Thursday", "Tuesday"])
        self.assertTrue(all(athlete in one.athletes for one in self.keep.groups()))
        with self.assertRaises(StoreError):
            self.keep.rename_group(other, "tuesday")
        self.assertEqual([one.name for one in self.keep.groups()], ["Thursday", "Tuesday"])
        self.keep.remove_group(first)
        self.assertEqual(len(self.shelf.athletes()), 1, "its athletes stay")

    def test_the_newest_result_of_each_check_counts_and_all_are_kept(self) -> None:
        athlete = self.shelf.add_athlete(FULL)
        for days, state in ((-9, "pass"), (0, "not yet"), (-5, "pass")):
            self.keep.screen(Screening(athlete, "front-rack", state, DAY + timedelta(days), "n"))
        self.assertEqual(
            self.keep.newest_checks(), {athlete: {"front-rack": CheckResult("not yet", DAY)}}
        )
        history = self.keep.screenings(athlete)
        self.assertEqual([one.state for one in history], ["not yet", "pass", "pass"])
        self.keep.unscreen(history[0].id)
        self.assertEqual(self.keep.newest_checks()[athlete]["front-rack"].state, "pass")

    def test_visits_come_back_with_advice_and_decision_and_can_be_written_over(self) -> None:
        athlete = self.shelf.add_athlete(FULL)
        for days in range(9):
            self.keep.keep_visit(a_visit(athlete, -days))
        kept = self.keep.visits(athlete)
        self.assertEqual(len(kept), 9)
        self.assertEqual(replace(kept[-1], id=0), a_visit(athlete))
        self.assertEqual(self.keep.recent_visits(), {}, "an archived athlete is not on the board")
        self.shelf.change_athlete(athlete, archived_on=None)
        recent = self.keep.recent_visits()[athlete]
        self.assertEqual(recent, kept[-6:])
        changed = replace(kept[-1], visit=replace(kept[-1].visit, pain=True))
        self.assertEqual(self.keep.keep_visit(changed), changed.id)
        self.assertEqual(self.keep.visits(athlete)[-1], changed)
        self.keep.drop_visit(changed.id)
        self.assertEqual(len(self.keep.visits(athlete)), 8)

    def test_newest_steps_hold_the_last_move_and_whatever_came_after(self) -> None:
        athlete = self.shelf.add_athlete(FULL)
        for days, stage, kind in (
            (0, "set", "start"),
            (2, "deadlift", "advance"),
            (4, "deadlift", "hold"),
        ):
            step = Step(DAY + timedelta(days), "clean-bottom-up", stage, kind)
            self.keep.take_step(KeptStep(athlete, step, "why"))
        newest = [one.step.kind for one in self.keep.newest_steps()[athlete]]
        self.assertEqual(newest, ["advance", "hold"])
        self.assertEqual(len(self.keep.steps(athlete)), 3)
        self.assertEqual(len(self.keep.steps_since(DAY + timedelta(1))), 2)
        self.keep.drop_step(self.keep.steps(athlete)[-1].id)
        self.assertEqual(len(self.keep.steps(athlete)), 2)

    def test_confidence_and_the_load_s_verdict_come_back_with_the_visit(self) -> None:
        athlete = self.shelf.add_athlete(replace(FULL, archived_on=None))
        visit = a_visit(athlete, confidence="afraid", verdict="too heavy", load_kg=40.0)
        self.keep.keep_visit(visit)
        self.assertEqual(replace(self.keep.visits(athlete)[0], id=0), visit)

    def test_jumps_and_tries_come_back_in_order_and_under_their_number(self) -> None:
        athlete = self.shelf.add_athlete(FULL)
        late, early = Jump(athlete, DAY, 0.45), Jump(athlete, DAY - timedelta(9), 0.41)
        number = self.keep.add_jump(late)
        self.keep.add_jump(early)
        heights = [one.height_m for one in self.keep.jumps(athlete)]
        self.assertEqual(heights, [0.41, 0.45], "by day")
        tried = KeptTry(athlete, DAY, Try("power clean", 3, 4, 1, 1.82))
        first = self.keep.add_try(tried)
        self.assertEqual(self.keep.tries(athlete), [replace(tried, id=first)])
        self.keep.drop_try(first)
        again = self.keep.add_try(replace(tried, id=first))
        self.assertEqual(again, first, "undo of a removal brings back the same number")
        document = json.loads(athlete_document(self.shelf, athlete))
        self.assertEqual(len(document["jumps"]), 2)
        self.assertEqual(document["tries"][0]["tried"]["movement"], "power clean")
        self.keep.drop_jump(number)
        self.assertEqual(len(self.keep.jumps(athlete)), 1)
        self.shelf.remove_athlete(athlete)
        self.assertEqual((self.keep.jumps(athlete), self.keep.tries(athlete)), ([], []))

    def test_the_pace_of_a_group_and_the_words_of_the_house_come_back(self) -> None:
        group = self.keep.add_group("Tuesday")
        self.assertEqual((self.keep.groups()[0].pace, self.keep.groups()[0].weeks), ("", 0))
        self.keep.set_pace(group, "block", 5)
        self.assertEqual((self.keep.groups()[0].pace, self.keep.groups()[0].weeks), ("block", 5))
        self.assertEqual(self.shelf.house_words(), {})
        self.shelf.keep_house_words({"set": "build"})
        self.shelf.close()
        self.shelf = Shelf(self.path)
        self.assertEqual(self.shelf.house_words(), {"set": "build"})

    def test_own_ladders_come_back_and_a_damaged_one_is_left_out(self) -> None:
        own = load_teaching().ladders["jerk"].model_copy(update={"id": "our-jerk"})
        self.keep.keep_ladder(own)
        self.keep.keep_ladder(own)
        self.assertEqual(self.keep.own_ladders(), [own])
        with closing(sqlite3.connect(self.path)) as raw:
            raw.execute("INSERT INTO ladders VALUES ('broken', '{}')")
            raw.commit()
        self.assertEqual(self.keep.own_ladders(), [own])
        self.keep.remove_ladder("our-jerk")
        self.assertEqual(self.keep.own_ladders(), [])


class TestLeaving(ShelfCase):
    def test_an_athlete_goes_with_everything_and_others_stay(self) -> None:
        gone, stays = self.shelf.add_athletes([FULL, replace(FULL, name="Cal Dorn")])
        for athlete in (gone, stays):
            self.keep.keep_visit(a_visit(athlete))
            self.keep.screen(Screening(athlete, "bailing", "pass", DAY))
            self.keep.take_step(KeptStep(athlete, Step(DAY, "jerk", "footwork", "start")))
            self.keep.add_jump(Jump(athlete, DAY, 0.4))
            self.keep.add_try(KeptTry(athlete, DAY, Try("clean", 3, 4)))
            self.keep.set_groups(athlete, [self.keep.add_group("All")])
            self.shelf.add_clip(NewClip(Path("/x.mp4"), f"{athlete}", 9, 0.3, DAY, athlete))
        document = json.loads(athlete_document(self.shelf, gone))
        self.assertEqual(document["schema"], "keen-kettle-athlete")
        self.assertEqual(document["athlete"]["name"], "Zoë Ash")
        self.assertEqual(document["groups"], ["All"])
        for part in ("visits", "screenings", "steps", "clips", "jumps", "tries"):
            self.assertEqual(len(document[part]), 1, part)
        self.shelf.remove_athlete(gone)
        self.assertEqual([one.id for one in self.shelf.athletes()], [stays])
        self.assertEqual([one.athlete_id for one in self.shelf.clips()], [stays])
        with closing(sqlite3.connect(self.path)) as raw:
            for table in ("visits", "screenings", "steps", "members", "bests", "jumps", "tries"):
                owners = {row[0] for row in raw.execute(f"SELECT athlete_id FROM {table}")}
                self.assertEqual(owners, {stays}, table)
        with self.assertRaisesRegex(StoreError, "no longer kept"):
            athlete_document(self.shelf, gone)


class TestOldFile(unittest.TestCase):
    def test_a_file_of_every_earlier_revision_is_brought_up_and_backed_up(self) -> None:
        scripts = sorted(Path(__file__).parent.glob("revision_*.sql"))
        kept = [script.stem.removeprefix("revision_") for script in scripts]
        self.assertEqual(kept, [f"{number:04d}" for number in range(1, int(HEAD))])
        for script in scripts:
            with self.subTest(script.stem), tempfile.TemporaryDirectory() as room:
                path = Path(room) / "kettle.sqlite"
                with closing(sqlite3.connect(path)) as raw:
                    raw.executescript(script.read_text(encoding="utf-8"))
                shelf = Shelf(path)
                self._holds(shelf, script.stem)
                self.assertEqual(len(list(Path(room).glob("*before*.sqlite"))), 1)
                shelf.close()

    def _holds(self, shelf: Shelf, name: str) -> None:
        """What was kept then is there, and what came later is empty."""
        athlete = next(one for one in shelf.athletes() if one.name == "Wil Dane")
        self.assertEqual(athlete.bests_kg, {"snatch": 70.0, "clean": 92.5})
        self.assertEqual((athlete.cautions, athlete.aim), (frozenset({"wrist"}), "general"))
        lifts = {clip.sha256: clip.lift for clip in shelf.clips()}
        self.assertEqual(lifts, {"aa": "hang power clean, above knee", "bb": "snatch"})
        taken = shelf.prescribing.correctives()
        self.assertEqual([(one.drill, one.runs) for one in taken], [("muscle-lift", True)])
        self.assertEqual(taken[0].before_value, None)
        visits = shelf.teaching.visits(athlete.id)
        self.assertEqual(len(visits), 0 if name == "revision_0001" else 1)
        self.assertEqual((athlete.lifting_years, athlete.own_lift), (None, ""))
        self.assertEqual(len(shelf.teaching.jumps(athlete.id)), int(name >= "revision_0007"))
        self.assertEqual((shelf.prescribing.sightings(), shelf.prescribing.answers()), ({}, {}))


class TestRoster(unittest.TestCase):
    def read(self, text: str | bytes, known: tuple[str, ...] = ()) -> list[tuple[str, str]]:
        data = text.encode() if isinstance(text, str) else text
        self.roster = read_roster(data, known, DAY)
        return [(row.name, row.problem) for row in self.roster.rows]

    def test_a_usual_list_is_taken_whole(self) -> None:
        self.read(
            "Name,Birth year,Height (cm),Mass (kg),Group,Aim,Cautions,Best clean,best jerk\n"
            "Ada Brook,2008,168,61.5,Juniors; Girls,sport,wrist,55,50\n"
            'Ben Cole,1990-05-31,"1,82",80 kg,Adults,general,none,,\n'
        )
        ada, ben = self.roster.good
        assert ada.athlete is not None and ben.athlete is not None
        self.assertEqual(ada.groups, ("Juniors", "Girls"))
        self.assertEqual((ada.athlete.birth_year, ada.athlete.stature_m), (2008, 1.68))
        self.assertEqual((ada.athlete.aim, ada.athlete.cautions), ("sport power", {"wrist"}))
        self.assertEqual(ada.athlete.bests_kg, {"clean": 55.0, "jerk": 50.0})
        self.assertEqual((ben.athlete.birth_year, ben.athlete.stature_m), (1990, 1.82))
        self.assertEqual((ben.athlete.mass_kg, ben.athlete.cautions), (80.0, frozenset()))

    def test_encodings_and_delimiters_are_found_out(self) -> None:
        text = "first name;last name\nZoë;Größe\n"
        for data in (
            text.encode("utf-8"),
            text.encode("utf-8-sig"),
            text.encode("utf-16"),
            text.encode("cp1252"),
            text.replace(";", "\t").encode(),
            text.replace("\n", "\r\n").encode(),
        ):
            self.assertEqual(self.read(data), [("Zoë Größe", "")])

    def test_what_is_wrong_is_said_row_by_row_and_value_by_value(self) -> None:
        rows = self.read(
            "name,birth year,height,mass,shoe\n"
            "Ada Brook,31.31.2008,9,heavy,41\n"
            ",2008,,,\n"
            "ada brook,2008,,,\n"
            "Wil Dane,2008,,,\n"
            "Cal,2008,170,60,x,extra\n"
            "\n"
            "Dot Ebb,1850,170,600,\n",
            known=("Wil Dane",),
        )
        self.assertEqual(
            [problem for _, problem in rows],
            [
                "",
                "no name",
                "the same name as in row 2",
                "an athlete of this name is kept already",
                "more cells than headings: is a delimiter inside a value?",
                "",
            ],
        )
        self.assertEqual(self.roster.unknown, ("shoe",))
        strange = " ".join(self.roster.rows[0].left_out)
        for words in ("31.31.2008", "no year or date", "80 to 260 cm", "no number"):
            self.assertIn(words, strange)
        self.assertEqual(len(self.roster.rows[-1].left_out), 2)
        self.assertEqual(self.roster.rows[-1].line, 8, "lines are counted as the file has them")

    def test_a_file_that_is_no_list_says_what_to_do(self) -> None:
        for data, expected in (
            (b"", "empty"),
            (b"\n\n", "empty"),
            (b"height,mass\n170,60\n", "No column is called “name”"),
            (b"name\n", "no rows"),
            (b"PK\x03\x04\x00\x00", "no plain text"),
            (b"name\n" + b"x" * 5_000_000, "too large"),
        ):
            with self.assertRaisesRegex(KettleError, expected):
                read_roster(data, (), DAY)

    def test_ten_thousand_rows_are_read_and_the_rest_is_refused_row_by_row(self) -> None:
        text = "name,born\n" + "".join(f"Row {number},2000\n" for number in range(10_000))
        rows = self.read(text)
        self.assertEqual(len(rows), 10_000)
        self.assertEqual(len(self.roster.good), MOST)
        self.assertIn("split the file", rows[-1][1])

    @given(st.binary(max_size=300))
    def test_any_bytes_are_read_or_refused_in_words(self, data: bytes) -> None:
        for whole in (data, b"name,height,born\n" + data):
            try:
                read_roster(whole, (), DAY)
            except KettleError as error:
                self.assertTrue(str(error))


if __name__ == "__main__":
    unittest.main()
