"""The command line as a user types it: documents that keep their promises, refusals in one line."""

import contextlib
import io
import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np

from keen_kettle.__main__ import main
from keen_kettle.commands.analyse import parse_plate
from keen_kettle.core.clip import read_index, write_clip
from keen_kettle.core.errors import MarkError
from keen_kettle.core.track import PlateMark
from tests.films import TestFilm, film


def kettle(*words: str, body: bool = False) -> tuple[int, str, str]:
    """Exit code, standard output and standard error of one call; `analyse` looks at the bar alone
    unless the body is asked for (it takes its time)."""
    if words[:1] == ("analyse",) and not body and "--help" not in words:
        words = (*words, "--no-body")
    out, wrong = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(wrong):
        try:
            code = main(list(words))
        except SystemExit as end:
            code = int(end.code or 0)
    return code, out.getvalue(), wrong.getvalue()


class TestAnalyse(unittest.TestCase):
    document: dict[str, Any]
    film: TestFilm
    room: Path

    @classmethod
    def setUpClass(cls) -> None:
        cls.film = film("brief")
        room = tempfile.TemporaryDirectory()
        cls.addClassCleanup(room.cleanup)
        cls.room = Path(room.name)
        mark = cls.film.mark()
        plate = f"{mark.x_px:.1f},{mark.y_px:.1f},{mark.r_px:.1f}"
        code, out, wrong = kettle(
            *("analyse", str(cls.film.path), "--plate", plate, "--lift", "clean"),
            *("--mass-kg", "60", "--trc", str(cls.room / "a.trc")),
            *("--landmarks", str(cls.room / "a.csv")),
            body=True,
        )
        assert code == 0, wrong
        cls.document = json.loads(out)

    def test_it_names_its_schema_and_the_clip(self) -> None:
        whole = self.document
        self.assertEqual((whole["schema"], whole["schema_version"]), ("keen-kettle-analysis", 1))
        self.assertEqual(whole["clip"]["frames"], len(self.film.bar_px))
        self.assertEqual((whole["clip"]["width_px"], whole["clip"]["height_px"]), (640, 360))
        self.assertEqual(whole["settings"]["lift"], "clean")
        upright = whole["camera"]["vertical"]
        still = {"known": True, "moved_m": 0.0, "taken_out": False, "vertical": upright}
        self.assertEqual(whole["camera"], still)
        self.assertTrue(upright["found"])
        self.assertLess(abs(upright["lean_deg"]), 2 * upright["sigma_deg"])
        clock = {"slowed": 1.0, "hangs": 1.0, "trusted": True, "even": True, "frozen_s": 0.0}
        self.assertEqual(whole["clock"], clock)
        check = {row["id"]: row["state"] for row in whole["clip"]["check"]["rows"]}
        self.assertEqual((check["camera"], check["times"]), ("good", "good"))
        self.assertNotEqual(check["view"], "poor")

    def test_the_body_is_in_it_with_facing_landmarks_events_and_measures(self) -> None:
        body = self.document["body"]
        self.assertTrue(body["known"])
        self.assertEqual(body["facing"], self.film.truth["facing"])
        self.assertEqual(len(body["frames"]), len(self.film.bar_px))
        self.assertEqual(len(body["heel_rise_px"]), len(self.film.bar_px))
        states = {point["state"] for frame in body["frames"] for point in frame}
        self.assertLessEqual({"measured", "assumed"}, states)
        sources = {event["name"]: event["source"] for event in self.document["events"]}
        self.assertEqual(sources["extension"], "body")
        trunk = self.document["measures"]["trunk_start"]
        self.assertEqual((trunk["unit"], trunk["assumed"]), ("deg", False))
        hip = [frame[4] for frame in body["frames"]]
        true = np.array(self.film.truth["landmarks_px"]["hip"])
        seen = [k for k, point in enumerate(hip) if point["state"] == "measured"]
        off = [np.hypot(hip[k]["x_px"] - true[k][0], hip[k]["y_px"] - true[k][1]) for k in seen]
        self.assertLess(float(np.median(off)), 0.04 * 1.75 * self.film.truth["px_per_m"])
        self.assertTrue((self.room / "a.trc").read_text().startswith("PathFileType"))
        self.assertTrue((self.room / "a.csv").read_text().startswith("frame,t_s,name"))

    def test_every_frame_has_a_point_with_all_its_fields(self) -> None:
        points = self.document["bar"]["points"]
        self.assertEqual([point["frame"] for point in points], list(range(len(self.film.bar_px))))
        wanted = {"frame", "t_s", "x_px", "y_px", "x_m", "y_m", "state", "confidence"}
        for point in points:
            self.assertLessEqual(wanted, point.keys())
            self.assertIn(point["state"], ("good", "check", "lost", "by hand", "repeated"))
        px = np.array([[point["x_px"], point["y_px"]] for point in points], float)
        self.assertLess(float(np.nanmax(np.hypot(*(px - self.film.bar_px).T))), 6)

    def test_metres_start_at_lift_off(self) -> None:
        event = next(e for e in self.document["events"] if e["name"] == "lift_off")
        point = self.document["bar"]["points"][event["frame"]]
        self.assertAlmostEqual(point["smooth_x_m"], 0.0, places=4)
        self.assertAlmostEqual(point["smooth_y_m"], 0.0, places=4)

    def test_events_and_measures_agree_with_the_truth(self) -> None:
        truth = self.film.truth
        for event in self.document["events"]:
            if event["name"] in ("lift_off", "peak_velocity", "peak_height", "lowest"):
                self.assertLess(
                    abs(event["t_s"] - truth["events_s"][event["name"]]),
                    2 / self.film.truth["fps"],
                    event["name"],
                )
        for name, allowed in (
            ("peak_velocity", 0.1),
            ("peak_height", 0.04),
            ("forward_bump", 0.02),
        ):
            measure = self.document["measures"][name]
            self.assertLess(abs(measure["value"] - truth["measures"][name]), allowed, name)
            self.assertGreater(measure["sigma"], 0)

    def test_the_fault_that_was_put_in_is_found_with_its_evidence(self) -> None:
        chief = next(finding for finding in self.document["findings"] if finding["chief"])
        self.assertEqual(chief["fault"], "bounce-forward")
        for one in chief["evidence"]:
            self.assertGreater(one["value"], one["threshold"])
            self.assertIn(one["frame"], range(len(self.film.bar_px)))

    def test_the_document_is_plain_json_without_nan(self) -> None:
        text = json.dumps(self.document)
        self.assertNotIn("NaN", text)
        json.loads(text, parse_constant=lambda word: self.fail(word))

    def test_out_writes_the_same_document_to_a_file(self) -> None:
        known = film("brief")
        mark = known.mark()
        words = (
            *("analyse", str(known.path), "--lift", "clean", "--mass-kg", "60"),
            *("--plate", f"{mark.x_px:.1f},{mark.y_px:.1f},{mark.r_px:.1f}@0"),
        )
        with tempfile.TemporaryDirectory() as room:
            out = Path(room) / "lift.json"
            code, printed, _ = kettle(*words, "--out", str(out))
            self.assertEqual((code, printed), (0, ""))
            written = json.loads(out.read_text())
            self.assertEqual([one.name for one in Path(room).iterdir()], ["lift.json"])
        code, printed, _ = kettle(*words)
        self.assertEqual(written, json.loads(printed))
        self.assertEqual(len(written["bar"]["points"]), len(known.bar_px))


class TestWithoutPlate(unittest.TestCase):
    def test_the_plate_is_found_and_the_lift_comes_out_as_with_a_mark(self) -> None:
        known = film("brief")
        code, out, wrong = kettle("analyse", str(known.path), "--lift", "clean")
        self.assertEqual(code, 0, wrong)
        whole = json.loads(out)
        mark = whole["settings"]["marks"][0]
        x, y = known.bar_px[mark["frame"]]
        self.assertLess(np.hypot(mark["x_px"] - x, mark["y_px"] - y), 10)
        true = known.truth["measures"]["peak_velocity"]
        found = whole["measures"]["peak_velocity"]
        self.assertLess(abs(found["value"] - true), 3 * found["sigma"])

    def test_without_scale_there_are_no_metres_and_no_speeds(self) -> None:
        known = film("brief")
        mark = known.mark()
        plate = f"{mark.x_px:.1f},{mark.y_px:.1f},{mark.r_px:.1f}"
        words = ("--plate", plate, "--lift", "clean", "--no-scale", "--thing", "second")
        code, out, wrong = kettle("analyse", str(known.path), *words)
        self.assertEqual(code, 0, wrong)
        whole = json.loads(out)
        self.assertEqual(whole["settings"]["scale_by"], "none")
        self.assertEqual(whole["measures"]["loop"]["unit"], "diameters")
        self.assertIsNone(whole["measures"]["peak_velocity"]["value"])
        self.assertIn("second plate", " ".join(whole["notes"]))

    def test_a_film_in_which_nothing_round_moves_says_what_to_do(self) -> None:
        with tempfile.TemporaryDirectory() as room:
            path = Path(room) / "wall.mp4"
            still = np.full((120, 160, 3), 120, np.uint8)
            write_clip(path, ((k / 30, still) for k in range(12)), 30)
            code, out, wrong = kettle("analyse", str(path))
        self.assertEqual((code, out), (2, ""))
        self.assertIn("--plate X,Y,R", wrong)


class TestRefusals(unittest.TestCase):
    def assert_refused(self, words: tuple[str, ...], *said: str) -> None:
        code, out, wrong = kettle("analyse", *words)
        self.assertEqual(code, 2, wrong)
        self.assertEqual(out, "")
        self.assertEqual(wrong.count("\n"), 1, wrong)
        for word in said:
            self.assertIn(word, wrong)

    def test_each_bad_input_gets_one_plain_line_and_code_two(self) -> None:
        path = str(film("brief").path)
        with tempfile.TemporaryDirectory() as room:
            text = Path(room) / "notes.mp4"
            text.write_text("no film here")
            self.assert_refused((str(text), "--plate", "9,9,20"), "notes.mp4")
            self.assert_refused((f"{room}/gone.mp4", "--plate", "9,9,20"), "no file")
            self.assert_refused(
                (path, "--plate", "320,290,32", "--out", f"{room}/none/a.json"), "cannot be written"
            )
        self.assert_refused((path, "--plate", "5000,10,40"), "off the picture", "640 by 360")
        self.assert_refused((path, "--plate", "320,290,2"), "too small")
        self.assert_refused((path, "--plate", "320,290,32@9999"), "frame 9999")
        self.assert_refused((path, "--plate", "480;440"), "X,Y,R")
        self.assert_refused((path, "--plate", "320,290,32", "--lift", "clena"), "clean")
        self.assert_refused((path, "--plate", "320,290,32", "--mass-kg", "-5"), "-5")
        self.assert_refused((path, "--plate", "320,290,32", "--stature-m", "172"), "metres")

    def test_a_wrong_diameter_is_refused(self) -> None:
        path = str(film("brief").path)
        self.assert_refused((path, "--plate", "320,290,32", "--diameter-mm", "12"), "20 to 700")

    def test_a_full_disk_leaves_the_former_file_whole(self) -> None:
        known = film("brief")
        mark = known.mark()
        with tempfile.TemporaryDirectory() as room:
            out = Path(room) / "old.json"
            out.write_text("the former document")
            full = OSError(28, "No space left on device")
            with mock.patch("keen_kettle.core.export.document.os.fsync", side_effect=full):
                plate = f"{mark.x_px:.1f},{mark.y_px:.1f},{mark.r_px:.1f}"
                self.assert_refused(
                    (str(known.path), "--plate", plate, "--lift", "clean", "--out", str(out)),
                    "No space left",
                )
            self.assertEqual(out.read_text(), "the former document")
            self.assertEqual([one.name for one in Path(room).iterdir()], ["old.json"])


class TestPlateWords(unittest.TestCase):
    def test_a_plate_may_name_its_frame(self) -> None:
        self.assertEqual(parse_plate("1,2.5,30"), PlateMark(0, 1, 2.5, 30))
        self.assertEqual(parse_plate("1,2,30@17"), PlateMark(17, 1, 2, 30))
        for text in ("", "1,2", "a,b,c", "1,2,3@x", "1,2,3,4"):
            with self.assertRaises(MarkError):
                parse_plate(text)


class TestRender(unittest.TestCase):
    def test_a_clip_and_its_truth_are_written_and_measured_again(self) -> None:
        with tempfile.TemporaryDirectory() as room:
            out = Path(room) / "lift.mp4"
            code, said, wrong = kettle(
                *(
                    "render",
                    str(out),
                    "--lift",
                    "power clean",
                    "--fault",
                    "rushed-first-pull=0.5",
                    "--fps",
                    "10",
                    "--facing",
                    "left",
                )
            )
            self.assertEqual(code, 0, wrong)
            self.assertIn("lift.truth.json", said)
            truth = json.loads(out.with_suffix(".truth.json").read_text())
            self.assertEqual(truth["lift"]["faults"], {"rushed-first-pull": 0.5})
            self.assertEqual((truth["facing"], truth["fps"]), ("left", 10.0))
            self.assertEqual(len(truth["t_s"]), len(truth["bar_px"]))

    def test_a_set_is_rendered_with_the_truth_of_each_lift(self) -> None:
        with tempfile.TemporaryDirectory() as room:
            out = Path(room) / "set.mp4"
            moves = "rest, pull, lower, pull, settle"
            words = ("--lift", "clean pull", "--moves", moves, "--fps", "10")
            code, _, wrong = kettle("render", str(out), *words)
            self.assertEqual(code, 0, wrong)
            truth = json.loads(out.with_suffix(".truth.json").read_text())
            first, second = truth["lifts_s"]
            self.assertEqual(first, truth["events_s"])
            self.assertGreater(second["lift_off"], first["peak_height"])

    def test_wrong_words_are_refused(self) -> None:
        for words, said in (
            ((), "Say where"),
            (("a.mp4", "--fault", "lop=1"), "loop"),
            (("a.mp4", "--fault", "loop=much"), "degree"),
            (("a.mp4", "--fault", "loop=9"), "degree"),
            (("a.mp4", "--lift", "swim"), "not a lift"),
            (("a.mp4", "--fps", "1"), "Frame rates"),
            (("a.mp4", "--moves", "rest, jump"), "Moves are: rest, hold"),
            (("a.mp4", "--moves", "lower"), "cannot begin with the bar at the floor"),
            (("a.mp4", "--stature-m", "172"), "1.2 to 2.2"),
            (("/no/such/folder/a.mp4",), "no folder"),
        ):
            code, _, wrong = kettle("render", *words)
            self.assertEqual(code, 2)
            self.assertIn(said, wrong)


class TestDoor(unittest.TestCase):
    def test_without_a_screen_it_says_so_instead_of_dying(self) -> None:
        bare = {"PATH": "/usr/bin:/bin", "HOME": "/nonexistent"}
        done = subprocess.run(
            [sys.executable, "-m", "keen_kettle"],
            capture_output=True,
            text=True,
            check=False,
            env=bare,
        )
        self.assertEqual(done.returncode, 2, done.stderr)
        self.assertIn("no screen", done.stderr)

    def test_help_and_version(self) -> None:
        self.assertIn("analyse", kettle("--help")[1])
        self.assertIn("Keen Kettle", kettle("--version")[1])
        self.assertIn("truth", kettle("render", "--help")[1])


class TestLifelikeRender(unittest.TestCase):
    def test_a_clip_in_a_hall_is_written_with_its_truth(self) -> None:
        with tempfile.TemporaryDirectory() as room:
            out = Path(room) / "hall.mp4"
            words = ["render", str(out), "--look", "hall", "--hall", "racks", "--light", "dim"]
            code = main([*words, "--lifter", "woman", "--plate", "red", "--fps", "10"])
            self.assertEqual(code, 0)
            truth = json.loads(out.with_suffix(".truth.json").read_text())
            self.assertEqual(len(read_index(out)), len(truth["bar_px"]))
            self.assertAlmostEqual(truth["lift"]["stature_m"], 1.62, delta=0.05)
            self.assertEqual(main(["render", str(out), "--look", "hall", "--yaw-deg", "80"]), 2)


if __name__ == "__main__":
    unittest.main()
