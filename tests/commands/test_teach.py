"""`kettle name`, `ladders`, `choose` and `advise`: JSON out, one plain line on bad input."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from keen_kettle.__main__ import main

FACTS: dict[str, Any] = {
    "schema": "keen-kettle-facts",
    "schema_version": 1,
    "athlete": {
        "name": "Vi Tarn",
        "age": 17,
        "aim": "sport power",
        "checks": {"start-position": {"state": "pass", "on": "2026-10-01"}},
    },
    "ladder": "clean-bottom-up",
    "stage": "deadlift",
    "visits": [
        {"on": day, "ladder": "clean-bottom-up", "stage": "deadlift", "met": [0, 1, 2], "asked": 3}
        for day in ("2026-11-01", "2026-11-04")
    ],
    "steps": [
        {"on": "2026-10-20", "ladder": "clean-bottom-up", "stage": "set", "kind": "start"},
        {"on": "2026-10-28", "ladder": "clean-bottom-up", "stage": "deadlift", "kind": "advance"},
    ],
}


def run(*words: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(list(words))
    return code, out.getvalue(), err.getvalue()


class TestTeachCommands(unittest.TestCase):
    def facts(self, **changed: Any) -> str:
        room = tempfile.TemporaryDirectory()
        self.addCleanup(room.cleanup)
        path = Path(room.name) / "facts.json"
        path.write_text(json.dumps({**FACTS, **changed}), encoding="utf-8")
        return str(path)

    def said(self, *words: str) -> Any:
        code, out, err = run(*words)
        self.assertEqual((code, err), (0, ""))
        return json.loads(out)

    def test_a_name_is_taken_apart(self) -> None:
        found = self.said("name", "hang pc above knee")
        self.assertEqual(found["name"], "hang power clean, above knee")
        self.assertEqual(found["parts"]["support"], "hang")
        self.assertNotIn("first pull", found["phases"])
        self.assertIn("front-rack", found["needs"]["checks"])
        self.assertEqual(self.said("name", "ohs")["kind"], "helper")

    def test_ladders_are_printed_whole_or_one_by_one(self) -> None:
        self.assertEqual(len(self.said("ladders")), 11)
        for name in ("jerk", "Jerk"):
            self.assertEqual(self.said("ladders", name)[0]["stage"][-1]["id"], "clean-and-jerk")

    def test_one_file_of_facts_serves_both_questions(self) -> None:
        ranked = self.said("choose", "--json", self.facts())["ladders"]
        self.assertEqual(len(ranked), 12)
        self.assertTrue(ranked[0]["reasons_for"])
        advice = self.said("advise", "--json", self.facts())
        self.assertEqual(advice["kind"], "advance")
        self.assertEqual(advice["to"], ["clean-bottom-up", "clean-pull"])

    def test_bad_input_is_one_plain_line(self) -> None:
        visit = FACTS["visits"][0]
        cases = (
            (("name", "frob"), "not a lift"),
            (("ladders", "frob"), "There are: adult-hang-first"),
            (("advise", "--json", "/nowhere/facts.json"), "cannot be read"),
            (("advise", "--json", self.facts(ladder="frob")), "no ladder “frob”"),
            (("advise", "--json", self.facts(stage="frob")), "It has: set, floor-to-knee"),
            (("advise", "--json", self.facts(schema="other")), "schema"),
            (("advise", "--json", self.facts(extra=1)), "extra"),
            (("advise", "--json", self.facts(visits=[{**visit, "met": [9]}])), "0 to 2"),
            (("advise", "--json", self.facts(visits=[{**visit, "faults": ["x"]}])), "no fault"),
            (("advise", "--json", self.facts(visits=[{**visit, "on": "soon"}])), "visits › 0 › on"),
            (
                ("choose", "--json", self.facts(athlete={"checks": {"x": {"state": "pass"}}})),
                "no screening check",
            ),
            (("choose", "--json", self.facts(athlete={"school": {"feet": "x"}})), "squat-stance"),
            (("choose", "--json", self.facts(athlete={"school": {"x": "x"}})), "hook-grip"),
            (("choose", "--json", self.facts(athlete={"age": 300})), "athlete › age"),
        )
        for words, expected in cases:
            code, out, err = run(*words)
            self.assertEqual((code, out), (2, ""), words)
            self.assertIn(expected, err)
            self.assertEqual(len(err.strip().splitlines()), 1, err)

    def test_what_is_no_text_or_too_large_is_refused(self) -> None:
        path = Path(self.facts())
        path.write_bytes(b"\xff\xfe\x00")
        self.assertIn("UTF-8", run("advise", "--json", str(path))[2])
        path.write_bytes(b" " * 2_000_001)
        self.assertIn("too large", run("advise", "--json", str(path))[2])


if __name__ == "__main__":
    unittest.main()
