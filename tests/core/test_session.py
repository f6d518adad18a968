"""Build-ups from the plates at hand, whole sessions, and the files they leave as."""

import csv
import io
import tempfile
import unittest
from dataclasses import replace
from datetime import date, time
from itertools import pairwise
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.content import load_content, load_teaching
from keen_kettle.core.export import session_calendar, session_csv, session_ods
from keen_kettle.core.lifts import parse_movement
from keen_kettle.core.plan import (
    PlateSet,
    Session,
    SessionFacts,
    SheetText,
    build_up,
    make_load,
    make_session,
    plate_changes,
)
from keen_kettle.core.prescribe.complexes import Complex, price_string
from keen_kettle.core.teach import CheckResult, Person

CONTENT, TEACHING = load_content(), load_teaching()
PASSED = {name: CheckResult("pass") for name in TEACHING.checks}
LIFTER = SessionFacts(
    "Wil Dane",
    Person("Wil Dane", checks=PASSED, lifting_years=3.0),
    False,
    {"clean": 100.0, "snatch": 80.0},
)
DAY = date(2026, 11, 27)

plate_sets = st.builds(
    PlateSet,
    st.sampled_from([15.0, 20.0]),
    st.sampled_from([0.0, 5.0]),
    st.sampled_from(
        [
            PlateSet().pairs,
            ((10.0, 4), (5.0, 4)),
            ((20.0, 3), (10.0, 2), (5.0, 2), (2.5, 2), (1.25, 1)),
            ((25.0, 4), (15.0, 2), (2.5, 3)),
        ]
    ),
)


def string(text: str = "power clean + front squat + push press") -> Complex:
    parts = [parse_movement(name) for name in text.split(" + ")]
    return price_string(parts, [1] * len(parts), {"finish": 1.0})


def session(facts: SessionFacts = LIFTER, minutes: int = 60, **more: object) -> Session:
    one = more.pop("complex_", string())
    lift = parse_movement(str(more.pop("lift", "clean")))
    return make_session(facts, lift, one, minutes, PlateSet(), CONTENT, TEACHING, **more)  # type: ignore[arg-type]


class TestBuildUp(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(st.floats(15, 220), plate_sets)
    def test_it_can_be_made_grows_ever_slower_and_ends_at_the_work(
        self, kilos: float, plates: PlateSet
    ) -> None:
        steps = build_up(kilos, plates)
        target = make_load(kilos, plates, at_most_kg=kilos)
        if target.total_kg <= plates.empty_kg:
            self.assertEqual(steps, ())
            return
        loads = [plates.empty_kg, *(one.loading.total_kg for one in steps)]
        self.assertAlmostEqual(loads[-1], target.total_kg)
        self.assertLessEqual(len(steps), 6)
        jumps = [b - a for a, b in pairwise(loads)]
        self.assertTrue(all(jump > 0 for jump in jumps), loads)
        for before, after in pairwise(jumps):
            self.assertLessEqual(after, before + 1e-6, loads)
        sides: list[tuple[float, ...]] = [()]
        for one in steps:
            self.assertAlmostEqual(
                plates.empty_kg + 2 * sum(one.loading.per_side_kg), one.loading.total_kg
            )
            have = dict(plates.pairs)
            for plate in set(one.loading.per_side_kg):
                self.assertLessEqual(one.loading.per_side_kg.count(plate), have[plate])
            self.assertEqual(one.changes, plate_changes(sides[-1], one.loading.per_side_kg))
            sides.append(one.loading.per_side_kg)

    def test_three_to_six_steps_as_the_way_is_long(self) -> None:
        counts = [len(build_up(kilos, PlateSet())) for kilos in (40, 60, 100, 160)]
        self.assertEqual(counts, sorted(counts))
        self.assertEqual((counts[0], counts[-1]), (3, 6))
        self.assertEqual(len(build_up(100, PlateSet(), steps=3)), 3)

    def test_plates_come_off_from_the_outside_only(self) -> None:
        self.assertEqual(plate_changes((), (10.0,)), 1)
        self.assertEqual(plate_changes((20.0, 5.0), (20.0, 10.0)), 2)
        self.assertEqual(plate_changes((10.0, 5.0), (20.0,)), 3)
        self.assertEqual(plate_changes((20.0,), (20.0,)), 0)

    def test_no_other_order_of_the_same_loads_needs_fewer_changes(self) -> None:
        """With two sorts of plates every way of making each load can be tried."""
        plates = PlateSet(pairs=((10.0, 4), (5.0, 4)))
        steps = build_up(100, plates)

        def ways(kilos: float) -> list[tuple[float, ...]]:
            side = (kilos - 20) / 2
            return [
                (10.0,) * tens + (5.0,) * fives
                for tens in range(5)
                for fives in range(5)
                if 10 * tens + 5 * fives == side
            ]

        best: dict[tuple[float, ...], int] = {(): 0}
        for one in steps:
            best = {
                after: min(cost + plate_changes(before, after) for before, cost in best.items())
                for after in ways(one.loading.total_kg)
            }
        self.assertEqual(sum(one.changes for one in steps), min(best.values()))


class TestSession(unittest.TestCase):
    def test_everything_is_there_in_its_order_and_priced(self) -> None:
        facts = replace(
            LIFTER,
            stage=SheetText("Power clean from the hang", "4 × 3", None, "Stay close"),
            correctives=(SheetText("Muscle clean", "3 sets of 5", 40.0, "Brush the shirt", 7),),
        )
        made = session(facts, 90)
        titles = [block.title for block in made.blocks]
        self.assertEqual(
            titles, ["Warm-up", "Complex", "Skill", "Correctives", "Main work", "Finish"]
        )
        corrective = made.block("Correctives")
        assert corrective is not None and corrective.lines[0].loading is not None
        self.assertEqual(corrective.lines[0].loading.total_kg, 40.0)
        main = made.block("Main work")
        assert main is not None and main.lines[0].loading is not None
        self.assertEqual(main.lines[0].loading.total_kg, 75.0)
        warm = made.block("Warm-up")
        first = made.block("Complex")
        assert warm is not None and first is not None and first.lines[0].loading is not None
        built = [line.loading.total_kg for line in warm.lines if line.loading is not None]
        self.assertLess(max(built), first.lines[0].loading.total_kg)

    def test_what_the_minutes_do_not_hold_is_left_out_from_the_end_and_said(self) -> None:
        facts = replace(LIFTER, stage=SheetText("Hang clean", "4 × 3"))
        whole, short = session(facts, 90), session(facts, 25)
        self.assertLess(len(short.blocks), len(whole.blocks))
        self.assertLessEqual(short.minutes, 25)
        self.assertTrue(any("Finish" in one for one in short.left_out))
        self.assertIn("Warm-up", [block.title for block in short.blocks])

    def test_somebody_who_still_learns_gets_the_stage_not_the_string(self) -> None:
        new = SessionFacts("Odile Marsh", Person("Odile Marsh"), stage=SheetText("Jump", "3 × 5"))
        made = session(new)
        self.assertIsNone(made.block("Complex"))
        self.assertIsNone(made.block("Main work"))
        self.assertTrue(any("comes first" in one for one in made.left_out))

    def test_what_is_not_open_to_the_athlete_is_left_out_with_the_reason(self) -> None:
        sore = replace(
            LIFTER,
            person=replace(LIFTER.person, cautions=frozenset({"shoulder", "wrist"})),
        )
        made = session(sore, lift="snatch", complex_=None)
        self.assertIsNone(made.block("Main work"))
        self.assertTrue(any("on record" in one for one in made.left_out))

    def test_a_first_rep_that_failed_makes_everything_lighter(self) -> None:
        plain, lighter = session(), session(load_share=0.8)
        for title in ("Complex", "Main work"):
            before, after = plain.block(title), lighter.block(title)
            assert before and after and before.lines[0].loading and after.lines[0].loading
            self.assertLess(after.lines[0].loading.total_kg, before.lines[0].loading.total_kg)

    def test_without_a_best_it_says_what_is_missing(self) -> None:
        made = session(replace(LIFTER, bests_kg={}))
        main = made.block("Main work")
        assert main is not None
        self.assertIsNone(main.lines[0].loading)
        self.assertIn("no best", main.lines[0].note)


class TestFiles(unittest.TestCase):
    def test_rows_hold_every_line_with_its_load(self) -> None:
        made = session()
        rows = list(csv.DictReader(io.StringIO(session_csv([made, made]))))
        lines = [line for block in made.blocks for line in block.lines]
        self.assertEqual(len(rows), 2 * len(lines))
        main = next(one for one in rows if one["part"] == "Main work")
        self.assertEqual(main["load_kg"], "75")
        self.assertEqual(main["athlete"], "Wil Dane")

    def test_a_spreadsheet_can_be_opened_again_and_its_loads_are_numbers(self) -> None:
        from odfdo import Document

        with tempfile.TemporaryDirectory() as room:
            path = Path(room) / "session.ods"
            path.write_bytes(session_ods([session()]))
            table = Document(str(path)).body.get_table(0)
            assert table is not None
            values = table.get_values()
        self.assertEqual(values[0][:3], ["athlete", "part", "minutes"])
        main = next(row for row in values if row[1] == "Main work")
        self.assertEqual(float(main[5]), 75.0)

    def test_the_calendar_entry_is_read_again(self) -> None:
        from icalendar import Calendar

        for begins in (None, time(17, 30)):
            data = session_calendar("Boats", [session()], DAY, 60, begins)
            event = next(iter(Calendar.from_ical(data).walk("VEVENT")))
            start = event.decoded("dtstart")
            self.assertEqual(start if begins is None else start.date(), DAY)
            self.assertIn("Main work: Clean 5 × 2, 75 kg", str(event["description"]))
        again = session_calendar("Boats", [session()], DAY, 60)
        self.assertEqual(again, session_calendar("Boats", [session()], DAY, 60), "no clock in it")


if __name__ == "__main__":
    unittest.main()
