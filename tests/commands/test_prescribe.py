"""`kettle prescribe`, `warmup`, `compose`: JSON in, JSON out; bad input is one plain line."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from keen_kettle.__main__ import main

PERSON = {"lifting_years": 3, "equipment": ["bar", "stick", "blocks", "kettlebell"]}


def run(*words: str, facts: dict[str, Any] | str | None = None) -> tuple[int, Any, str]:
    """Exit code, what was printed (read as JSON where it is), and what was said."""
    out, err = io.StringIO(), io.StringIO()
    with tempfile.TemporaryDirectory() as room:
        if facts is not None:
            path = Path(room) / "facts.json"
            path.write_text(facts if isinstance(facts, str) else json.dumps(facts))
            words = (*words, "--json", str(path))
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(list(words))
    text = out.getvalue()
    return code, json.loads(text) if text else None, err.getvalue()


def a_file(schema: str, **more: Any) -> dict[str, Any]:
    return {"schema": f"keen-kettle-{schema}", "schema_version": 1, **more}


class TestPrescribe(unittest.TestCase):
    def facts(self, **more: Any) -> dict[str, Any]:
        plain = {
            "today": "2026-11-27",
            "athlete": PERSON,
            "lift": "clean",
            "sightings": [{"fault": "slow-elbows", "on": "2026-11-20"}],
            "bests_kg": {"clean": 100},
        }
        return a_file("prescribe", **{**plain, **more})

    def test_correctives_come_with_loads_and_reasons(self) -> None:
        code, made, _ = run("prescribe", facts=self.facts())
        self.assertEqual(code, 0)
        self.assertEqual(made["causes"][0]["fault"], "slow-elbows")
        self.assertLessEqual(len(made["correctives"]), 2)
        for one in made["correctives"]:
            self.assertTrue(one["reason"] and one["dose"] and one["cue_outer"] and one["why"])
        self.assertEqual(made["question"]["fault"], "slow-elbows")
        code, told, _ = run("prescribe", facts=self.facts(answers={"slow-elbows": "time"}))
        self.assertEqual(told["correctives"][0]["drill"], "rack-hold")
        self.assertEqual(told["correctives"][0]["load"]["of"], "clean")
        self.assertEqual(told["correctives"][0]["load"]["kg"], 72)

    def test_cautions_plates_and_ended_ones_are_heeded(self) -> None:
        sore = {**PERSON, "cautions": ["wrist"]}
        _, made, _ = run("prescribe", facts=self.facts(athlete=sore))
        self.assertTrue(any("wrist" in one["reason"] for one in made["ruled_out"]))
        ended = [
            {
                "drill": "rack-hold",
                "fault": "slow-elbows",
                "outcome": "unchanged",
                "on": "2026-11-10",
            }
        ]
        _, made, _ = run(
            "prescribe", facts=self.facts(ended=ended, plates={"pairs": [[10, 4], [5, 4]]})
        )
        self.assertNotIn("rack-hold", [one["drill"] for one in made["correctives"]])
        for one in (*made["correctives"], *made["others"]):
            if one["load"]["kind"] == "share":
                self.assertEqual(one["load"]["kg"] % 10, 0)

    def test_bad_facts_are_one_plain_line(self) -> None:
        for facts, words in (
            ("{", "JSON"),
            (self.facts(sightings=[{"fault": "wobble", "on": "2026-11-20"}]), "no fault “wobble”"),
            (self.facts(answers={"slow-elbows": "tired"}), "no answer “tired”"),
            (self.facts(answers={"gap": "x"}), "no splitting question"),
            (self.facts(lift="clown"), "not a lift"),
            (self.facts(more=1), "more"),
            (self.facts(bests_kg={"clean": -1}), "bests_kg"),
        ):
            code, made, said = run("prescribe", facts=facts)
            self.assertEqual((code, made), (2, None), words)
            self.assertIn(words, said)
            self.assertEqual(said.count("\n"), 1)


class TestWarmUp(unittest.TestCase):
    def test_opening_and_build_up_fit_plates_and_minutes(self) -> None:
        facts = a_file("warm-up", athlete=PERSON, lift="snatch", working_kg=60, minutes=6)
        code, made, _ = run("warmup", facts=facts)
        self.assertEqual(code, 0)
        self.assertLessEqual(made["seconds"], 360)
        self.assertEqual(made["build_up"][-1]["kg"], 60)
        self.assertIsNone(made["first_rep"])
        facts["first_rep_failed"] = ["knee"]
        _, made, _ = run("warmup", facts=facts)
        self.assertEqual(made["build_up"][-1]["kg"], 54)
        self.assertEqual(made["first_rep"]["lift"], "hang snatch, mid-thigh")


class TestCompose(unittest.TestCase):
    def test_a_wish_is_answered_with_the_best_and_others(self) -> None:
        facts = a_file(
            "wish",
            lift="snatch",
            athlete={**PERSON},
            faults={"loop": 2, "press-out": 1},
            bests_kg={"snatch": 80, "clean": 100},
        )
        code, made, _ = run("compose", facts=facts)
        self.assertEqual(code, 0)
        best = made["best"]
        self.assertEqual(len(best["joints"]), len(best["parts"]) - 1)
        self.assertIn("snatch", [part["name"] for part in best["parts"]])
        self.assertEqual(set(best["covers"]), {"turnover", "lock-out"})
        self.assertGreater(best["load"]["kg"], 20)
        self.assertTrue(made["alternatives"])
        self.assertEqual(set(best["versions"]), {"barbell", "dumbbell pair", "kettlebell"})

    def test_own_movements_are_read_from_a_drill_file(self) -> None:
        text = "pause pull + power clean"
        self.assertEqual(run("compose", "--text", text)[0], 2)
        pull = {"name": "pause pull", "begins": "floor", "ends": "hip", "trains": ["floor"]}
        with tempfile.TemporaryDirectory() as room:
            path = Path(room) / "mine.json"
            path.write_text(json.dumps(a_file("drills", movement=[pull])))
            code, made, _ = run("compose", "--text", text, "--own", str(path))
            self.assertEqual((code, made["parts"]), (0, ["pause pull", "power clean"]))
            path.write_text(json.dumps(a_file("drills", movement=[{**pull, "trains": ["joy"]}])))
            code, made, said = run("compose", "--text", text, "--own", str(path))
            self.assertEqual((code, made), (2, None))
            self.assertIn("no quality “joy”", said)

    def test_a_written_one_is_checked_and_mended(self) -> None:
        code, made, _ = run(
            "compose", "--text", "power snatch + snatch balance + BTN jerk + OHS + high-hang snatch"
        )
        self.assertEqual((code, made["legal"], made["mended"]), (0, True, None))
        self.assertEqual(
            made["parts"],
            [
                "power snatch",
                "snatch balance",
                "behind-the-neck split jerk",
                "overhead squat",
                "hang snatch, hip",
            ],
        )
        self.assertEqual(made["problems"], [])
        self.assertIn(made["weakest"], made["parts"])
        _, made, _ = run("compose", "--text", "clean + hang snatch")
        self.assertFalse(made["legal"])
        self.assertEqual(made["problems"][0]["joint"], 1)
        self.assertIn("grip", made["problems"][0]["why"])
        self.assertEqual(made["mended"], ["clean", "snatch deadlift", "hang snatch, above knee"])

    def test_what_cannot_be_is_one_plain_line(self) -> None:
        for text in ("clean", "clean + wobble", "+"):
            code, made, said = run("compose", "--text", text)
            self.assertEqual((code, made), (2, None), text)
            self.assertEqual(said.count("\n"), 1)
        for more, words in (
            ({"qualities": {"shine": 1}}, "no quality"),
            ({"school": "mine"}, "no school"),
            ({"fewest": 5, "most": 3}, "no length"),
        ):
            facts = a_file("wish", lift="clean", **more)
            code, _, said = run("compose", facts=facts)
            self.assertEqual(code, 2)
            self.assertIn(words, said)


if __name__ == "__main__":
    unittest.main()
