"""The grammar of derivatives: every legal combination, the names coaches write, what follows."""

import re
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from keen_kettle.core.content import load_content
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import (
    CHECKS,
    HELPERS,
    PHASES,
    Derivative,
    Helper,
    all_derivatives,
    catch_limits_load,
    filmed_derivatives,
    format_derivative,
    needs_of,
    parse_derivative,
    parse_filmed,
    parse_movement,
    phases_of,
    positions_of,
    relative_range,
    why_illegal,
)
from keen_kettle.core.simulate import Body, LiftScript, simulate_lift

ALL = all_derivatives()


class TestRoundTrip(unittest.TestCase):
    def test_every_legal_combination_has_a_name_of_its_own_that_comes_back(self) -> None:
        self.assertGreater(len(ALL), 900)
        names = {format_derivative(one) for one in ALL}
        self.assertEqual(len(names), len(ALL))
        for one in ALL:
            self.assertEqual(parse_derivative(format_derivative(one)), one)

    @given(
        st.sampled_from(ALL),
        st.sampled_from([str.upper, str.title, lambda name: name.replace(" ", "-")]),
        st.sampled_from([", ", " ", " from the ", " / "]),
    )
    def test_capitals_hyphens_commas_and_small_words_do_not_matter(
        self, one: Derivative, written: object, comma: str
    ) -> None:
        assert callable(written)
        self.assertEqual(parse_derivative(written(one.name.replace(", ", comma))), one)

    @given(st.sampled_from(ALL), st.randoms(use_true_random=False))
    def test_a_misspelt_name_is_refused_with_names_that_can_be_read(
        self, one: Derivative, dice: object
    ) -> None:
        letters = list(one.name)
        letters.insert(dice.randrange(len(letters)), "q")  # type: ignore[attr-defined]
        with self.assertRaises(UnknownLift) as refused:
            parse_derivative("".join(letters))
        offered = re.findall("“([^“”]+)”", str(refused.exception).partition("Did you mean ")[2])
        self.assertTrue(offered, str(refused.exception))
        for name in offered:
            parse_movement(name)

    def test_helpers_are_found_by_all_their_names(self) -> None:
        for helper in HELPERS.values():
            for name in (helper.name, helper.name.upper(), *helper.also):
                self.assertIs(parse_movement(name), helper)


class TestAsCoachesWrite(unittest.TestCase):
    def test_short_forms_are_read(self) -> None:
        for written, meant in {
            "hang pc above knee": "hang power clean, above knee",
            "HPC": "hang power clean, above knee",
            "snatch pull from blocks": "snatch pull from blocks, knee",
            "block snatch pull, mid thigh": "snatch pull from blocks, mid-thigh",
            "DB power snatch": "dumbbell power snatch",
            "one-arm kb snatch": "kettlebell snatch",
            "high hang clean": "hang clean, hip",
            "jerk": "split jerk",
            "push jerk btn": "behind-the-neck power jerk",
            "deadlift": "clean deadlift",
            "power clean, ride down": "power clean, ridden down",
            "Full squat snatch": "snatch",
            "tall muscle snatch": "tall muscle snatch",
            "RDL": "Romanian deadlift",
            "mid-thigh clean shrug": "hang clean shrug, mid-thigh",
        }.items():
            self.assertEqual(parse_movement(written).name, meant, written)

    def test_a_wrong_name_gets_the_nearest_ones(self) -> None:
        for written, near in {
            "pwer clean": "“power clean”",
            "hang power": "“hang power clean, above knee”",
            "clean hig pull": "“clean high pull”",
            "": "Write for example",
            "sit-ups": "not a lift that is known here",
        }.items():
            with self.assertRaisesRegex(UnknownLift, near):
                parse_movement(written)

    def test_parts_that_do_not_go_together_say_why(self) -> None:
        for written, why in {
            "hang clean deadlift": "a deadlift begins on the floor",
            "hang clean from blocks": "both “hang” and “blocks”",
            "tall clean pull": "nothing left to extend",
            "kettlebell clean from blocks": "only a barbell",
            "split snatch pull": "not caught",
            "muscle jerk": "a jerk has no muscle",
        }.items():
            with self.assertRaisesRegex(UnknownLift, why):
                parse_derivative(written)

    def test_films_are_judged_only_for_lifts_that_can_be(self) -> None:
        for one in filmed_derivatives():
            self.assertEqual(why_illegal(one), "")
            self.assertEqual(parse_filmed(one.name), one)
        with self.assertRaisesRegex(UnknownLift, "cannot be judged yet"):
            parse_filmed("push jerk behind the neck")


class TestNature(unittest.TestCase):
    def test_phases_follow_from_start_and_receive(self) -> None:
        self.assertEqual(phases_of(parse_derivative("snatch")), PHASES)
        self.assertNotIn("first pull", phases_of(parse_derivative("hang clean")))
        self.assertIn("first pull", phases_of(parse_derivative("hang clean, mid-shin")))
        self.assertIn("transition", phases_of(parse_derivative("hang clean, knee")))
        self.assertNotIn("transition", phases_of(parse_derivative("hang clean, mid-thigh")))
        self.assertNotIn("catch", phases_of(parse_derivative("clean pull")))
        self.assertNotIn("catch", phases_of(parse_derivative("muscle snatch")))
        self.assertEqual(phases_of(parse_derivative("push press")), ("start", "dip", "drive"))

    def test_every_derivative_begins_somewhere_and_shows_its_positions_in_order(self) -> None:
        for one in ALL:
            phases, positions = phases_of(one), positions_of(one)
            self.assertIn(phases[0], ("start",))
            self.assertGreaterEqual(len(positions), 2, one.name)
            self.assertEqual(len(set(positions)), len(positions))
            self.assertEqual("catch" in phases, one.has_catch, one.name)

    def test_needs_name_known_checks_and_equipment(self) -> None:
        movements: list[Derivative | Helper] = [*ALL, *HELPERS.values()]
        for one in movements:
            needs = needs_of(one)
            self.assertLessEqual(set(needs.checks), set(CHECKS))
        self.assertIn("bailing", needs_of(parse_derivative("clean")).checks)
        self.assertEqual(needs_of(parse_derivative("hang clean pull")).checks, ())
        self.assertIn("shoulder", needs_of(parse_derivative("power snatch")).areas)
        self.assertNotIn("shoulder", needs_of(parse_derivative("snatch pull")).areas)
        self.assertIn("wrist", needs_of(parse_derivative("hang power clean")).areas)
        self.assertEqual(needs_of(parse_derivative("dumbbell power clean")).areas, ())
        self.assertIn("blocks", needs_of(parse_derivative("clean from blocks")).equipment)

    def test_only_what_is_received_is_limited_by_its_catch(self) -> None:
        self.assertTrue(catch_limits_load(parse_derivative("power clean")))
        self.assertFalse(catch_limits_load(parse_derivative("clean pull")))
        self.assertFalse(catch_limits_load(parse_derivative("hang clean shrug")))

    def test_the_range_shrinks_as_the_start_rises_and_the_whole_lift_is_one(self) -> None:
        self.assertEqual(relative_range(parse_derivative("clean")), 1.0)
        self.assertGreater(relative_range(parse_derivative("power snatch")), 1.0)
        starts = ("floor", "mid-shin", "below knee", "knee", "above knee", "mid-thigh", "hip")
        for family in ("snatch", "clean"):
            ranges = [
                relative_range(parse_derivative(f"{family} pull from {start}")) for start in starts
            ]
            self.assertEqual(ranges, sorted(ranges, reverse=True))
        self.assertTrue(all(relative_range(one) > 0 for one in ALL))

    def test_ranges_agree_with_the_synthesiser(self) -> None:
        for family in ("snatch", "clean"):
            rises = {}
            for receive in ("full", "power", "none"):
                lift = simulate_lift(LiftScript(family, "floor", receive, Body(1.75)))
                ends = np.array([0.0, lift.path.events_s["peak_height"]])
                rises[receive] = float(np.diff(lift.bar_m(ends)[:, 1])[0])
            for receive in ("power", "none"):
                named = LiftScript(family, "floor", receive).derivative
                self.assertAlmostEqual(
                    relative_range(named), rises[receive] / rises["full"], delta=0.03
                )


class TestContentAgrees(unittest.TestCase):
    def test_drills_are_bound_to_phases_of_the_grammar(self) -> None:
        for drill in load_content().drills.values():
            self.assertLessEqual(
                set(drill.phases), {*PHASES, "dip", "drive", "pull", "return", "whole"}, drill.id
            )


if __name__ == "__main__":
    unittest.main()
