"""Try-outs, what a stage cost, the roll call, and two movements beside each other."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from keen_kettle.core.content import load_content, load_teaching
from keen_kettle.core.lifts import compare_movements, parse_movement
from keen_kettle.core.teach import Step, Try, compare_tries, roll_call_of, stage_costs

DAY = date(2026, 11, 2)
TRIES = st.lists(
    st.builds(
        Try,
        st.sampled_from(("a", "b", "c", "d")),
        st.integers(0, 4),
        st.just(4),
        st.integers(-1, 1),
        st.none() | st.floats(0.5, 3.0),
    ),
    max_size=5,
)


class TestTryOut(unittest.TestCase):
    def test_points_count_before_liking_and_liking_before_speed(self) -> None:
        for best, other, why in (
            (Try("a", 4, 4, -1), Try("b", 2, 4, 0), "4 of 4 points"),
            (Try("a", 3, 4, 1), Try("b", 3, 4, 0, 2.0), "liked best"),
            (Try("a", 3, 4, 0, 2.1), Try("b", 3, 4, 0, 1.9), "fastest"),
        ):
            found = compare_tries([other, best])
            assert found is not None
            self.assertEqual(found.best, best)
            self.assertIn(why, found.reason)

    def test_one_try_or_a_tie_names_no_lift(self) -> None:
        self.assertIsNone(compare_tries([Try("a", 4, 4, 1)]))
        self.assertIsNone(compare_tries([Try("a", 3, 4), Try("b", 3, 4)]))

    @given(TRIES)
    def test_whatever_is_named_was_tried_and_no_other_beats_it_in_everything(
        self, tries: list[Try]
    ) -> None:
        found = compare_tries(tries)
        if found is None:
            return
        self.assertIn(found.best, tries)
        for one in tries:
            better = one.share > found.best.share and one.liked >= found.best.liked
            faster = (one.speed_mps or 0) >= (found.best.speed_mps or 0)
            self.assertFalse(better and faster)


class TestCosts(unittest.TestCase):
    def test_days_until_the_advance_over_all_athletes(self) -> None:
        def steps(*moves: tuple[int, str, str]) -> list[Step]:
            return [Step(DAY + timedelta(d), "x", stage, kind) for d, stage, kind in moves]

        costs = stage_costs(
            [
                steps((0, "one", "start"), (10, "two", "advance"), (12, "two", "hold")),
                steps((0, "one", "start"), (20, "two", "advance"), (30, "three", "advance")),
                # a step back: both stays on "one" count as one cost
                steps(
                    (0, "one", "start"),
                    (4, "two", "advance"),
                    (6, "one", "step back"),
                    (9, "two", "advance"),
                ),
            ]
        )
        one = costs["x", "one"]
        self.assertEqual((one.least_days, one.most_days, one.athletes), (3, 20, 4))
        self.assertEqual(one.median_days, 7)
        self.assertEqual(costs["x", "two"].athletes, 1)
        self.assertNotIn(("x", "three"), costs, "nobody has advanced from there yet")


class TestRollCall(unittest.TestCase):
    def test_each_kind_of_start_is_asked_its_own(self) -> None:
        teaching = load_teaching()
        for ladder, stage, wanted, foreign in (
            ("clean-bottom-up", "set", "laces", "elbows"),
            ("clean-bottom-up", "hang-power-clean", "", "laces"),
            ("jerk", "split-jerk", "elbows", "laces"),
        ):
            known = teaching.ladders[ladder]
            found = roll_call_of(next(one for one in known.stage if one.id == stage), teaching)
            words = " ".join(f"{one.asks} {one.answer}" for one in found).lower()
            self.assertTrue(found, stage)
            self.assertEqual(found[0].id, "brace", "the brace comes first, always")
            self.assertIn(wanted, words)
            self.assertNotIn(foreign, words)

    def test_footwork_without_a_bar_has_none(self) -> None:
        teaching = load_teaching()
        stages = {one.id: one for one in teaching.ladders["jerk"].stage}
        self.assertEqual(roll_call_of(stages["footwork"], teaching), ())


class TestContrast(unittest.TestCase):
    def lines(self, first: str, second: str) -> dict[str, tuple[str, str]]:
        pair = compare_movements(parse_movement(first), parse_movement(second), {"rack": "Rack"})
        return {one.about: (one.first, one.second) for one in pair if one.differs}

    def test_only_what_differs_is_marked(self) -> None:
        self.assertEqual(self.lines("clean", "clean"), {})
        found = self.lines("power clean", "clean")
        self.assertEqual(found["received"], ("above parallel", "in the squat"))
        self.assertIn("breastbone", found["the bar must come"][0])
        self.assertNotIn("begins", found)

    def test_a_pull_has_no_catch_and_its_load_is_not_limited_by_one(self) -> None:
        found = self.lines("clean pull", "hang power clean, above knee")
        self.assertEqual(found["received"][0], "not at all")
        self.assertIn("the pull itself", found["what limits the load"][0])
        self.assertEqual(found["begins"], ("on the floor", "in the hang, above knee"))

    def test_every_movement_taught_can_be_set_against_every_other_kind(self) -> None:
        names = {
            one.movement for ladder in load_teaching().ladders.values() for one in ladder.stage
        }
        known = []
        for name in sorted(names):
            try:
                known.append(parse_movement(name))
            except ValueError:
                continue
        for one in known:
            for line in compare_movements(one, known[0]):
                self.assertTrue(line.first and line.second, (one.name, line.about))


class TestWhy(unittest.TestCase):
    def test_stages_drills_and_faults_say_why_in_a_sentence_or_two(self) -> None:
        content, teaching = load_content(), load_teaching()
        said = [(one.id, one.why) for one in content.faults.values()]
        said += [(one.id, one.why) for one in content.drills.values()]
        said += [(f"{a.id} {b.id}", b.why) for a in teaching.ladders.values() for b in a.stage]
        for name, why in said:
            self.assertTrue(20 <= len(why) <= 220 and why.endswith("."), name)
            self.assertLessEqual(why.count(". "), 2, name)


if __name__ == "__main__":
    unittest.main()
