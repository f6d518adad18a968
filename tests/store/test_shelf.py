"""What is kept comes back the same, survives what befalls files, and is wholly kept or not at all."""

import signal
import sqlite3
import subprocess
import sys
import tempfile
import textwrap
import unittest
from contextlib import closing
from dataclasses import replace
from datetime import date
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.plan import PlateSet
from keen_kettle.core.track import BarTrack, HandWork, PlateMark, Rim, Span
from keen_kettle.store import (
    Athlete,
    NewAthlete,
    NewClip,
    Prescribed,
    Shelf,
    StoreDamaged,
    StoreFull,
    data_dir,
    database_file,
)
from keen_kettle.store.database import back_up
from keen_kettle.store.tables import HEAD, metadata

DAY = date(2026, 11, 23)
NAMES = st.text(st.characters(codec="utf-8", exclude_characters="\x00"), min_size=1, max_size=30)


def a_clip(sha256: str = "ab" * 32, **more: object) -> NewClip:
    values: dict[str, object] = {
        "path": Path("/films/lift.mp4"),
        "sha256": sha256,
        "frames": 20,
        "duration_s": 0.4,
        "filmed_on": DAY,
        **more,
    }
    return NewClip(**values)  # type: ignore[arg-type]


def a_track(frames: int = 20) -> BarTrack:
    x = np.linspace(100, 120, frames)
    x[5] = np.nan
    return BarTrack(
        t_s=np.arange(frames) / 50,
        x_px=x,
        y_px=np.linspace(500, 300, frames),
        r_px=np.full(frames, 40.0),
        confidence=np.linspace(0, 1, frames),
        state=np.arange(frames, dtype=np.uint8) % 5,
        rim=Rim(100.5, 499.5, (40.1, 39.8), 12.0, True, 0.7, 0.8),
        still_x_px=x - 2.0,
        still_y_px=np.linspace(501, 301, frames),
        sharp=np.linspace(9, 5, frames),
        contrast=40.0,
    )


def a_corrective(athlete: int, clip: int | None = None) -> Prescribed:
    return Prescribed(
        athlete,
        clip,
        "loop",
        "muscle-lift",
        "snatch",
        "Muscle snatch",
        22.5,
        "3 sets of 5",
        "isolates the turnover",
        DAY,
        date(2026, 12, 7),
    )


class ShelfCase(unittest.TestCase):
    def setUp(self) -> None:
        room = tempfile.TemporaryDirectory()
        self.addCleanup(room.cleanup)
        self.file = database_file(data_dir(Path(room.name) / "kept"))

    def shelf(self) -> Shelf:
        made = Shelf(self.file)
        self.addCleanup(made.close)
        return made


class TestKeeping(ShelfCase):
    def test_athletes_come_back_as_entered(self) -> None:
        entered = NewAthlete(
            "Ada Ölund", 1.66, {"snatch": 47.5}, frozenset({"wrist"}), frozenset({"bar"}), True
        )
        number = self.shelf().add_athlete(entered)
        kept = self.shelf().athletes()
        self.assertEqual(kept, [Athlete(**{**vars(entered), "id": number})])

    def test_a_changed_athlete_keeps_only_the_new_bests(self) -> None:
        shelf = self.shelf()
        number = shelf.add_athlete(NewAthlete("Bo Lind", None, {"snatch": 40, "clean": 60}))
        shelf.change_athlete(number, stature_m=1.8, bests_kg={"clean": 62.5})
        self.assertEqual(shelf.athletes()[0].bests_kg, {"clean": 62.5})

    def test_a_clip_with_marks_comes_back_the_same(self) -> None:
        shelf = self.shelf()
        marks = (PlateMark(0, 1.25, 2.5, 30.125), PlateMark(9, 3.0, 4.0, 31.0))
        clip = a_clip(marks=marks, mass_kg=62.5, facing="left", thumbnail=b"\x00jpeg")
        number = shelf.add_clip(clip)
        kept = self.shelf().clip(number)
        self.assertEqual({k: getattr(kept, k) for k in vars(clip)}, vars(clip))
        self.assertFalse(kept.tracked)

    def test_a_film_that_is_known_is_moved_not_doubled(self) -> None:
        shelf = self.shelf()
        first = shelf.add_clip(a_clip(mass_kg=50.0))
        again = shelf.add_clip(a_clip(path=Path("/elsewhere/lift.mp4")))
        self.assertEqual(first, again)
        kept = shelf.clips()
        self.assertEqual(len(kept), 1)
        self.assertEqual((str(kept[0].path), kept[0].mass_kg), ("/elsewhere/lift.mp4", 50.0))

    def test_a_track_comes_back_to_the_last_bit_and_belongs_to_its_marks(self) -> None:
        shelf = self.shelf()
        number = shelf.add_clip(a_clip(marks=(PlateMark(0, 1, 2, 30),)))
        clip = shelf.clip(number)
        shelf.keep_track(clip, a_track())
        back = self.shelf().track(self.shelf().clip(number))
        assert back is not None
        for name in ("t_s", "x_px", "y_px", "r_px", "confidence", "state"):
            np.testing.assert_array_equal(getattr(back, name), getattr(a_track(), name))
        self.assertEqual(back.rim, a_track().rim)
        self.assertTrue(shelf.clip(number).tracked)
        moved = replace(clip, marks=(PlateMark(0, 9, 9, 30),))
        shelf.change_clip(number, marks=moved.marks)
        self.assertIsNone(shelf.track(moved))
        self.assertFalse(shelf.clip(number).tracked)
        shelf.change_clip(number, marks=clip.marks)
        self.assertIsNotNone(shelf.track(clip), "going back to the old marks finds the old track")

    def test_correctives_are_taken_withdrawn_and_taken_again(self) -> None:
        shelf = self.shelf()
        athlete = shelf.add_athlete(NewAthlete("Cy Marr"))
        number = shelf.prescribing.take_corrective(a_corrective(athlete))
        self.assertEqual(
            self.shelf().prescribing.correctives(), [replace(a_corrective(athlete), id=number)]
        )
        shelf.prescribing.withdraw_corrective(number)
        self.assertEqual(shelf.prescribing.correctives(), [])
        again = shelf.prescribing.take_corrective(replace(a_corrective(athlete), id=number))
        self.assertEqual(again, number)

    def test_a_forgotten_clip_leaves_its_correctives(self) -> None:
        shelf = self.shelf()
        athlete = shelf.add_athlete(NewAthlete("Di Moor"))
        clip = shelf.add_clip(a_clip(athlete_id=athlete))
        shelf.prescribing.take_corrective(a_corrective(athlete, clip))
        shelf.forget_clip(clip)
        self.assertEqual(shelf.clips(), [])
        self.assertIsNone(shelf.prescribing.correctives()[0].clip_id)

    @settings(max_examples=25, deadline=None)
    @given(NAMES, st.floats(0.5, 500), st.sets(st.sampled_from(["shoulder", "wrist"])))
    def test_any_name_is_kept_as_written(self, name: str, best: float, cautions: set[str]) -> None:
        with tempfile.TemporaryDirectory() as room:
            shelf = Shelf(Path(room) / "any.sqlite")
            shelf.add_athlete(NewAthlete(name, None, {"clean": best}, frozenset(cautions)))
            kept = shelf.athletes()[0]
            shelf.close()
        self.assertEqual((kept.name, kept.bests_kg["clean"], kept.cautions), (name, best, cautions))

    def test_plates_and_the_read_cautions_are_remembered(self) -> None:
        shelf = self.shelf()
        self.assertEqual(shelf.plates(), PlateSet())
        self.assertFalse(shelf.cautions_read())
        shelf.keep_plates(PlateSet(15.0, 0.0, ((10.0, 2), (1.25, 1))))
        shelf.keep_cautions_read()
        again = self.shelf()
        self.assertEqual(again.plates(), PlateSet(15.0, 0.0, ((10.0, 2), (1.25, 1))))
        self.assertTrue(again.cautions_read())


class TestWhatBefallsFiles(ShelfCase):
    def test_a_file_that_is_no_database_is_left_alone(self) -> None:
        self.file.write_bytes(b"this is a letter, not a database\n" * 40)
        before = self.file.read_bytes()
        with self.assertRaisesRegex(StoreDamaged, "left as it is"):
            Shelf(self.file)
        self.assertEqual(self.file.read_bytes(), before)

    def test_a_file_of_a_newer_program_is_left_alone(self) -> None:
        self.shelf().close()
        with closing(sqlite3.connect(self.file)) as raw:
            raw.execute("UPDATE alembic_version SET version_num = '9999'")
            raw.commit()
        with self.assertRaisesRegex(StoreDamaged, "newer Keen Kettle"):
            Shelf(self.file)

    def test_a_full_disk_is_said_in_words_and_nothing_half_is_kept(self) -> None:
        shelf = self.shelf()
        shelf.add_athlete(NewAthlete("Ed Nash"))

        def limit(connection: sqlite3.Connection, _record: object) -> None:
            pages = connection.execute("PRAGMA page_count").fetchone()[0]
            connection.execute(f"PRAGMA max_page_count = {pages}")

        from sqlalchemy import event

        shelf._engine.dispose()
        event.listen(shelf._engine, "connect", limit)
        with self.assertRaisesRegex(StoreFull, "saved before is safe"):
            shelf.add_clip(a_clip(thumbnail=bytes(200_000)))
        self.assertEqual([one.name for one in shelf.athletes()], ["Ed Nash"])
        self.assertEqual(shelf.clips(), [])

    def test_a_data_file_that_cannot_be_opened_is_said_in_words(self) -> None:
        self.file.mkdir()
        with self.assertRaisesRegex(StoreFull, "may be written"):
            Shelf(self.file)

    def test_a_data_folder_that_cannot_be_made_is_said_in_words(self) -> None:
        plain = self.file.parent / "plain"
        plain.touch()
        with self.assertRaisesRegex(StoreFull, "--data-dir"):
            data_dir(plain / "below")

    def test_a_killed_process_loses_nothing_that_was_kept(self) -> None:
        script = f"""
            import os, signal
            from pathlib import Path
            from keen_kettle.store import NewAthlete, Shelf
            shelf = Shelf(Path({str(self.file)!r}))
            shelf.add_athlete(NewAthlete("Fay Orr"))
            print("kept", flush=True)
            with shelf._transaction() as work:
                from sqlalchemy import text
                work.execute(text("DELETE FROM athletes"))
                os.kill(os.getpid(), signal.SIGKILL)
        """
        done = subprocess.run(
            [sys.executable, "-c", textwrap.dedent(script)],
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertIn("kept", done.stdout, done.stderr)
        self.assertEqual(done.returncode, -signal.SIGKILL)
        self.assertEqual([one.name for one in self.shelf().athletes()], ["Fay Orr"])

    def test_a_backup_is_whole_while_the_file_is_in_use(self) -> None:
        shelf = self.shelf()
        shelf.add_athlete(NewAthlete("Gil Penn"))
        copy = self.file.with_name("copy.sqlite")
        back_up(self.file, copy)
        shelf.add_athlete(NewAthlete("Hal Quick"))
        other = Shelf(copy)
        self.addCleanup(other.close)
        self.assertEqual([one.name for one in other.athletes()], ["Gil Penn"])


class TestFollowed(ShelfCase):
    def test_each_followed_thing_keeps_marks_spans_scale_and_a_track_of_its_own(self) -> None:
        shelf = self.shelf()
        mark = PlateMark(3, 50.0, 60.0, 30.0, 0.9, 5.0, exact=True)
        hand = HandWork((Span(4, 6, "bridged"),), first=1, last=9)
        number = shelf.add_clip(
            replace(
                a_clip(),
                marks=(mark,),
                hand=hand,
                scale_by="points",
                scale_points=(1.0, 2.0, 3.0, 4.0, 500.0),
            )
        )
        clip = shelf.clip(number)
        self.assertEqual((clip.marks, clip.hand), ((mark,), hand))
        self.assertEqual(
            (clip.scale_by, clip.scale_points), ("points", (1.0, 2.0, 3.0, 4.0, 500.0))
        )
        plate = replace(a_track(), contrast=11.0)
        shelf.keep_track(clip, plate)
        shelf.change_clip(number, **clip.measuring("cap"))
        cap = shelf.clip(number)
        self.assertEqual((cap.thing, cap.marks, cap.diameter_mm), ("cap", (), 50.0))
        self.assertFalse(cap.tracked)
        self.assertEqual(cap.also_followed[0].marks, (mark,))
        kept = shelf.track(cap, cap.also_followed[0])
        assert kept is not None
        self.assertEqual(kept.contrast, 11.0)
        shelf.change_clip(number, marks=(PlateMark(0, 9.0, 9.0, 8.0),))
        shelf.keep_track(shelf.clip(number), replace(a_track(), contrast=22.0))
        back = shelf.clip(number)
        shelf.change_clip(number, **back.measuring("plate"))
        again = shelf.clip(number)
        self.assertTrue(again.tracked)
        track = shelf.track(again)
        assert track is not None
        self.assertEqual((again.hand, track.contrast), (hand, 11.0))


class TestTables(ShelfCase):
    def test_the_migrations_make_the_tables_that_the_code_knows(self) -> None:
        self.shelf().close()
        with closing(sqlite3.connect(self.file)) as raw:
            for table in metadata.sorted_tables:
                made = {row[1] for row in raw.execute(f"PRAGMA table_info({table.name})")}
                self.assertEqual(made, {column.name for column in table.columns}, table.name)
                strict = raw.execute(
                    "SELECT strict FROM pragma_table_list WHERE name = ?", (table.name,)
                ).fetchone()
                self.assertEqual(strict, (1,), table.name)
            revision = raw.execute("SELECT version_num FROM alembic_version").fetchone()
        self.assertEqual(revision, (HEAD,))

    def test_head_is_the_newest_migration_and_every_step_can_go_back(self) -> None:
        from alembic import command
        from alembic.config import Config
        from alembic.script import ScriptDirectory
        from sqlalchemy import create_engine

        from keen_kettle.store.database import MIGRATIONS

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        self.assertEqual(ScriptDirectory.from_config(config).get_current_head(), HEAD)
        engine = create_engine(f"sqlite:///{self.file}")
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            command.downgrade(config, "base")
        with closing(sqlite3.connect(self.file)) as raw:
            left = {
                row[0] for row in raw.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            }
        engine.dispose()
        self.assertLessEqual(left, {"alembic_version"})


if __name__ == "__main__":
    unittest.main()
