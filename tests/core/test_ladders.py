"""Ladders as data: the shipped ones can be taught; broken ones say where and what to do."""

import json
import tomllib
import unittest
from pathlib import Path
from typing import Any

from keen_kettle.core.content import Ladder, load_content, load_teaching, read_ladder
from keen_kettle.core.content import ladders as ladder_module
from keen_kettle.core.errors import ContentError
from keen_kettle.core.lifts import CHECKS, parse_movement
from keen_kettle.core.teach import cautions_of, check_ladder, taught_stages

TEACHING = load_teaching()
FAULTS = load_content().faults
FILE = Path(ladder_module.__file__).parent / "ladders" / "clean-bottom-up.toml"


def document() -> dict[str, Any]:
    return tomllib.loads(FILE.read_text(encoding="utf-8"))


def with_change(place: tuple[Any, ...], value: object) -> str:
    whole = document()
    here: Any = whole
    for part in place[:-1]:
        here = here[part]
    if value is None:
        del here[place[-1]]
    else:
        here[place[-1]] = value
    return json.dumps(whole)


def problems(**stage: Any) -> str:
    """What the check says when the third stage is changed like that."""
    whole = TEACHING.ladders["clean-bottom-up"]
    rows = [json.loads(one.model_dump_json()) for one in whole.stage]
    rows[2] |= stage
    changed = Ladder.model_validate({**json.loads(whole.model_dump_json()), "stage": rows})
    return "\n".join(one.words for one in check_ladder(changed, TEACHING, set(FAULTS)))


class TestShipped(unittest.TestCase):
    def test_all_ten_are_there_and_can_be_taught(self) -> None:
        self.assertEqual(len(TEACHING.ladders), 11)
        for ladder in TEACHING.ladders.values():
            self.assertEqual(check_ladder(ladder, TEACHING, set(FAULTS)), [], ladder.id)
            for stage in ladder.stage:
                self.assertTrue(2 <= len(stage.checks) <= 4, f"{ladder.id} {stage.id}")
                self.assertEqual(parse_movement(stage.movement).name, stage.movement)

    def test_every_check_of_the_grammar_has_its_words(self) -> None:
        self.assertEqual(tuple(TEACHING.checks), CHECKS)

    def test_every_school_leaves_something_to_teach(self) -> None:
        for question in TEACHING.questions.values():
            for answer in question.answer:
                self.assertTrue(answer.why)
                for ladder in TEACHING.ladders.values():
                    stages = taught_stages(ladder, {question.id: answer.id}, TEACHING)
                    self.assertTrue(stages, f"{ladder.id} {answer.id}")

    def test_stages_that_can_hurt_carry_their_cautions(self) -> None:
        cautions = load_content().cautions

        def of(ladder: str, stage: str) -> tuple[str, ...]:
            found = TEACHING.ladders[ladder].stage_named(stage)
            assert found is not None
            return cautions_of(found)

        self.assertEqual(of("clean-bottom-up", "power-clean"), ("rack", "let-go"))
        self.assertEqual(of("snatch-power", "mid-shin"), ("overhead", "let-go"))
        self.assertEqual(of("clean-bottom-up", "clean-pull"), ())
        for ladder in TEACHING.ladders.values():
            for stage in ladder.stage:
                self.assertLessEqual(set(cautions_of(stage)), set(cautions))

    def test_the_front_squat_strand_runs_beside_the_clean_from_the_first_day(self) -> None:
        for stage in TEACHING.ladders["clean-bottom-up"].stage[:5]:
            self.assertIsNotNone(stage.parallel)


class TestFiles(unittest.TestCase):
    def test_a_ladder_goes_out_and_comes_back(self) -> None:
        for ladder in TEACHING.ladders.values():
            written = json.dumps(
                {
                    "schema": "keen-kettle-ladder",
                    "schema_version": 1,
                    "ladder": json.loads(ladder.model_dump_json()),
                }
            )
            self.assertEqual(read_ladder(written, "x.json"), ladder)

    def test_broken_in_every_field_it_names_the_place(self) -> None:
        stage = ("ladder", "stage", 0)
        cases: tuple[tuple[tuple[Any, ...], object, str], ...] = (
            (("schema",), "other", "no ladder file"),
            (("schema_version",), 9, "no ladder file"),
            (("ladder", "id"), "Not An Id!", "ladder › id"),
            (("ladder", "name"), "", "ladder › name"),
            (("ladder", "name"), "x" * 601, "ladder › name"),
            (("ladder", "family"), "deadlift", "ladder › family"),
            (("ladder", "implement"), "sofa", "ladder › implement"),
            (("ladder", "order"), None, "ladder › order"),
            (("ladder", "idea"), None, "ladder › idea"),
            (("ladder", "aims"), {"fame": 2}, "ladder › aims"),
            (("ladder", "aims"), {"general": 9}, "ladder › aims"),
            (("ladder", "suits"), ["cats"], "ladder › suits"),
            (("ladder", "sessions"), 0, "ladder › sessions"),
            (("ladder", "stage"), [], "ladder › stage"),
            (("ladder", "extra"), 1, "ladder › extra"),
            ((*stage, "id"), None, "stage › 1 › id"),
            ((*stage, "name"), 3, "stage › 1 › name"),
            ((*stage, "purpose"), None, "stage › 1 › purpose"),
            ((*stage, "movement"), None, "stage › 1 › movement"),
            ((*stage, "level"), 11, "stage › 1 › level"),
            ((*stage, "dose"), {"reps": 0}, "stage › 1 › dose"),
            ((*stage, "dose"), {"load": "share"}, "stage › 1 › dose"),
            ((*stage, "checks"), ["one"], "stage › 1 › checks"),
            ((*stage, "watch"), "loop", "stage › 1 › watch"),
            ((*stage, "screens"), 1, "stage › 1 › screens"),
            ((*stage, "gate"), {"points": 2}, "stage › 1 › gate › says"),
            ((*stage, "gate"), {"says": "x", "points": -1}, "stage › 1 › gate › points"),
            ((*stage, "stuck"), None, "stage › 1 › stuck"),
            ((*stage, "cue_outer"), None, "stage › 1 › cue_outer"),
            ((*stage, "cue_inner"), None, "stage › 1 › cue_inner"),
            ((*stage, "parallel"), {"says": "x"}, "stage › 1 › parallel › movement"),
            ((*stage, "after"), 4, "stage › 1 › after"),
            ((*stage, "only_if"), ["x"], "stage › 1 › only_if"),
        )
        for place, value, expected in cases:
            with self.assertRaises(ContentError, msg=str(place)) as caught:
                read_ladder(with_change(place, value), "mine.json")
            said = str(caught.exception)
            self.assertIn("mine.json", said)
            self.assertIn(expected, said)

    def test_what_is_no_file_of_this_kind_is_refused(self) -> None:
        for text, expected in (
            ("", "no ladder file"),
            ("{", "not valid JSON"),
            ("[[[", "not valid TOML"),
            ("\x00\x01", "not valid TOML"),
            ("x" * 400_001, "too long"),
            ("[]", "not valid TOML"),
        ):
            with self.assertRaisesRegex(ContentError, expected):
                read_ladder(text, "mine.toml")


class TestCheck(unittest.TestCase):
    def test_every_kind_of_problem_is_found_and_placed(self) -> None:
        gate = {"says": "Impossible.", "points": 5}
        for stage, expected in (
            ({"movement": "clean and fly"}, "movement: “clean and fly” is not a lift"),
            ({"parallel": {"movement": "nap", "says": "x"}}, "parallel: “nap”"),
            ({"watch": ["yawning"]}, "no fault “yawning”"),
            ({"screens": ["eyesight"]}, "this gate can never open"),
            ({"gate": gate}, "can never open; ask for fewer"),
            ({"id": "set"}, "stands there twice"),
            ({"after": ["nowhere"]}, "no stage “nowhere”"),
            ({"after": ["clean"]}, "comes later; move one"),
            ({"only_if": {"weather": ["sun"]}}, "no school question “weather”"),
            ({"only_if": {"feet": ["dance"]}}, "no answer “dance”"),
            ({"only_if": {"feet": []}}, "never taught"),
            (
                {"movement": "power clean", "dose": {"load": "share", "low": 1.0, "high": 1.1}},
                "never planned above 100 %",
            ),
        ):
            self.assertIn(expected, problems(**stage), stage)
        self.assertEqual(problems(), "")

    def test_a_gate_behind_a_stage_that_some_schools_leave_out_is_found(self) -> None:
        whole = TEACHING.ladders["clean-bottom-up"]
        rows = [json.loads(one.model_dump_json()) for one in whole.stage]
        rows[6]["after"] = ["high-pull"]
        changed = Ladder.model_validate({**json.loads(whole.model_dump_json()), "stage": rows})
        found = check_ladder(changed, TEACHING, set(FAULTS))
        self.assertEqual([(one.stage, one.field) for one in found], [("power-clean", "after")])
        self.assertIn("some schools leave out", found[0].says)


if __name__ == "__main__":
    unittest.main()
