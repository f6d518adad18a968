"""Own movements: read, strung, priced and composed as shipped ones; no caution is passed by."""

import unittest
from typing import Any

from pydantic import ValidationError

from keen_kettle.core.content import OwnMovement, load_content, load_teaching, read_library
from keen_kettle.core.errors import ContentError, UnknownLift
from keen_kettle.core.lifts import by_their_names, needs_of, parse_movement
from keen_kettle.core.prescribe.complexes import (
    Wish,
    compose,
    mend,
    price_string,
    qualities_of,
    read_written,
    share_of,
    states_of,
    why_not_own,
)
from keen_kettle.core.simulate import figure_of
from keen_kettle.core.teach import Person

CONTENT, TEACHING = load_content(), load_teaching()
SKILLED = Person("Ada", lifting_years=4, equipment=frozenset({"bar", "stick", "blocks"}))


def own(**more: Any) -> OwnMovement:
    plain: dict[str, Any] = {
        "name": "pause clean pull",
        "also": ["pcpull"],
        "begins": "floor",
        "ends": "hip",
        "trains": ["floor", "dip"],
        "share": 0.9,
        "shown_as": "clean pull",
    }
    return OwnMovement.model_validate({**plain, **more})


def names(*movements: OwnMovement) -> dict[str, Any]:
    return by_their_names(one.as_movement() for one in movements)


class TestOwnMovements(unittest.TestCase):
    def test_it_is_read_by_its_name_and_short_forms_in_any_case(self) -> None:
        known = names(own())
        for written in ("Pause clean pull", "pause-clean-pull", "PCPULL", "the pause clean pull"):
            self.assertEqual(parse_movement(written, known).name, "pause clean pull")
        with self.assertRaises(UnknownLift):
            parse_movement("pause clean pull")

    def test_a_string_with_it_is_checked_mended_and_priced_by_what_was_said(self) -> None:
        known = names(own(), own(name="tall drop", begins="overhead", ends="overhead", also=[]))
        read = read_written("2 pause clean pull + hang power clean, hip + front squat", known)
        self.assertTrue(read.legal)
        self.assertEqual(read.reps, (2, 1, 1))
        priced = price_string(read.movements, read.reps, {"dip": 1.0})
        self.assertEqual(priced.covers, ("dip",))
        self.assertEqual((priced.parts[0].priced_by, priced.parts[0].limit), ("clean", 0.9))
        broken = read_written("front squat + pause clean pull + tall drop", known)
        self.assertEqual([one.joint for one in broken.problems], [2])
        self.assertIn("only by a lift", broken.problems[0].why)
        mended = mend(broken)
        assert mended is not None
        self.assertTrue(mended.legal)
        self.assertEqual(mended.names[:2], ("front squat", "pause clean pull"))

    def test_the_composer_takes_it_where_it_serves_best(self) -> None:
        def best(*more: OwnMovement) -> Any:
            mine = tuple(one.as_movement() for one in more)
            wanted = {"floor": 1.0, "dip": 1.0, "lock-out": 1.0, "below": 1.0}
            wish = Wish(parse_movement("clean"), wanted, SKILLED, fewest=2, most=2, own=mine)
            made = compose(wish, TEACHING, CONTENT.qualities).best
            assert made is not None
            return made

        all_in_one = own(name="everything", trains=["floor", "dip", "lock-out", "below"])
        self.assertIn("everything", [part.name for part in best(all_in_one).parts])
        self.assertGreater(best(all_in_one).value, best().value)
        bell = own(name="bell thing", implement="kettlebell", trains=["floor", "dip", "lock-out"])
        self.assertEqual(best(bell).value, best().value, "nothing else is held in this complex")

    def test_its_places_ask_for_their_checks_and_cautions(self) -> None:
        over = needs_of(
            own(ends="overhead", grip="snatch", stance_after="squat width").as_movement()
        )
        self.assertEqual(set(over.areas), {"shoulder", "wrist", "elbow", "back"})
        for check in ("start-position", "pain-free-overhead", "overhead-full", "bailing"):
            self.assertIn(check, over.checks)
        rack = needs_of(own(begins="hip", ends="front rack").as_movement())
        self.assertIn("front-rack", rack.checks)
        self.assertIn("front-squat", rack.checks)
        self.assertEqual(needs_of(own(begins="blocks").as_movement()).equipment, ("bar", "blocks"))
        sore = Person("Ben", lifting_years=4, cautions=frozenset({"shoulder"}))
        mine = (own(ends="overhead", trains=["floor", "finish"]).as_movement(),)
        wish = Wish(parse_movement("clean"), {"floor": 1.0}, sore, own=mine)
        made = compose(wish, TEACHING, CONTENT.qualities)
        told = {name: one.why for one in made.ruled_out for name in one.names}
        self.assertIn("shoulder", told.get("pause clean pull", ""))

    def test_what_was_said_of_it_is_what_is_known_of_it(self) -> None:
        movement = own(grip="either", stance_before="split", difficulty=7).as_movement()
        self.assertEqual(qualities_of(movement), {"floor", "dip"})
        self.assertEqual(share_of(movement), ("clean", 0.9))
        self.assertEqual({pre.grip for pre, _ in states_of(movement)}, {"clean", "snatch"})
        self.assertEqual({pre.stance for pre, _ in states_of(movement)}, {"split"})
        shown, like = figure_of(movement), figure_of(parse_movement("clean pull"))
        assert shown is not None and like is not None
        self.assertEqual((shown.name, shown.keys), ("pause clean pull", like.keys))
        self.assertIsNone(figure_of(own(shown_as="").as_movement()))

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        for fields, words in (
            ({"implement": "kettlebell", "begins": "blocks"}, "only a bar"),
            ({"begins": "front rack", "ends": "overhead", "grip": "snatch"}, "clean grip"),
            ({"ends": "front rack", "share": 1.1}, "100 %"),
            ({"begins": "the moon"}, "one of floor, blocks"),
            ({"trains": []}, "at least 1"),
        ):
            with self.assertRaises(ValidationError) as refused:
                own(**fields)
            self.assertIn(words, str(refused.exception))

    def test_a_name_that_would_be_read_otherwise_is_refused(self) -> None:
        qualities = CONTENT.qualities
        for name in ("power snatch", "OHS", "2 pause pulls", "pull + jerk", "pull then jerk"):
            said = why_not_own(own(name=name, also=[]), qualities)
            self.assertIn(f"“{name}”", said)
        taken = why_not_own(own(name="other", also=["pcpull"]), qualities, names(own()))
        self.assertIn("pause clean pull", taken)
        self.assertIn("no quality", why_not_own(own(trains=["joy"]), qualities))
        self.assertIn("Shown as", why_not_own(own(shown_as="a dance"), qualities))
        self.assertEqual(why_not_own(own(), qualities), "")

    def test_a_file_s_fault_names_the_entry(self) -> None:
        text = (
            '{"schema": "keen-kettle-drills", "schema_version": 1, "movement": [{"name": "abc"}]}'
        )
        with self.assertRaises(ContentError) as refused:
            read_library(text, "mine.json")
        self.assertIn("mine.json", str(refused.exception))
        self.assertIn("begins", str(refused.exception))


if __name__ == "__main__":
    unittest.main()
