"""Complexes: what is possible between two movements, what is read, mended, found and priced."""

import itertools
import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.content import load_content, load_teaching
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import Movement, needs_of, parse_movement
from keen_kettle.core.plan import PlateSet, complex_versions, load_complex, version_of
from keen_kettle.core.prescribe.complexes import (
    SCHOOLS,
    Complex,
    Wish,
    compose,
    joints_of,
    library,
    member_of,
    mend,
    price_string,
    problems_of,
    read_written,
    share_of,
    states_of,
    wanted_from_faults,
)
from keen_kettle.core.prescribe.complexes.library import fits_school
from keen_kettle.core.prescribe.complexes.search import NEVER, cost_of
from keen_kettle.core.teach import CheckResult, Person

CONTENT, TEACHING = load_content(), load_teaching()
PASSED = {name: CheckResult("pass") for name in TEACHING.checks}
ALL = frozenset({"bar", "stick", "blocks", "straps", "dumbbell", "dumbbell pair", "kettlebell"})
LIFTER = Person(checks=PASSED, equipment=ALL, lifting_years=3.0)
QUALITIES = tuple(CONTENT.qualities)


def movements(text: str) -> list[Movement]:
    return [parse_movement(name) for name in text.split(" + ")]


def wish(lift: str = "snatch", person: Person = LIFTER, **more: object) -> Wish:
    wanted = more.pop("wanted", {"finish": 1.0, "lock-out": 1.0, "below": 1.0})
    return Wish(parse_movement(lift), wanted, person, **more)  # type: ignore[arg-type]


def worth(one: Complex) -> tuple[float, int, int]:
    return (-one.value, one.moves, one.difficulty)


class TestJoints(unittest.TestCase):
    def test_the_field_s_own_example_is_possible_as_it_stands(self) -> None:
        read = read_written("power snatch + snatch balance + BTN jerk + OHS + high-hang snatch")
        self.assertTrue(read.legal)
        joints, moves = joints_of(read.movements)
        self.assertIn("lower it to the back", joints[0].says)
        self.assertIn("lower it to the back", joints[1].says)
        self.assertIn("lower it to the hip", joints[3].says)
        self.assertEqual(moves, sum(len(one.acts) for one in joints))
        kept = read_written("BTN push jerk + OHS + high-hang snatch")
        self.assertEqual(joints_of(kept.movements)[0][0].acts, (), "the feet stay as landed")

    def test_what_no_hand_can_do_is_refused_with_the_reason(self) -> None:
        for text, joint, words in (
            ("clean + hang snatch", 1, "grip"),
            ("front squat + snatch balance", 1, "on the back"),
            ("snatch + front squat", 1, "front rack"),
            ("power clean + clean + high-hang snatch", 2, "grip"),
            ("clean from blocks, knee + clean", 1, "blocks"),
            ("clean + dumbbell snatch", 1, "another implement"),
            ("clean + jump", 1, "nothing is held"),
        ):
            read = read_written(text)
            self.assertFalse(read.legal, text)
            self.assertEqual(read.problems[0].joint, joint, text)
            self.assertIn(words, read.problems[0].why, text)

    def test_staples_of_the_field_are_possible(self) -> None:
        for text in (
            "power clean + front squat + split jerk",
            "split jerk + split jerk",
            "clean + front squat + jerk",
            "snatch pull + hang snatch + snatch",
            "power clean + hang power clean + push press",
            "snatch-grip push press + overhead squat",
            "clean + power clean",
            "back squat + snatch balance",
            "kettlebell swing + kettlebell power clean + kettlebell push press",
            "dumbbell pair hang power clean + dumbbell pair push press",
        ):
            self.assertTrue(read_written(text).legal, text)

    def test_the_bar_is_never_lifted_between_two_parts(self) -> None:
        heights = {"floor": 0, "blocks": 1, "hang below the knee": 2, "hang above the knee": 3}
        heights |= {"hip": 4, "front rack": 5, "back": 5, "overhead": 6}
        members = [*library("barbell", "snatch"), *library("barbell", "clean")]
        for first, second in itertools.product(members[::3], members[::2]):
            joints, _ = joints_of([first.movement, second.movement])
            before = joints[0].before
            for act in joints[0].acts:
                assert before is not None
                self.assertLessEqual(heights[act.after.place], heights[before.place])
                if act.after.grip != before.grip:
                    self.assertIn(before.place, ("floor", "blocks", "back"))
                before = act.after

    def test_every_movement_of_the_library_begins_and_ends_somewhere(self) -> None:
        for implement in ("barbell", "stick", "dumbbell", "kettlebell", "dumbbell pair"):
            for family in ("snatch", "clean"):
                members = library(implement, family)
                self.assertGreater(len(members), 8, (implement, family))
                for one in members:
                    self.assertTrue(states_of(one.movement), one.name)
                    self.assertTrue(one.trains <= set(QUALITIES), one.name)
        self.assertGreaterEqual(len(library("barbell", "snatch")), 40)


class TestWritten(unittest.TestCase):
    def test_repetitions_and_signs_between_are_read_as_coaches_write_them(self) -> None:
        for text, reps in (
            ("2 power snatch + OHS x3", (2, 3)),
            ("2x power clean → front squat (2)", (2, 2)),
            ("power clean then jerk", (1, 1)),
            ("3 × clean pull -> clean", (3, 1)),
            ("2 db snatch + 3 db pair clean", (1, 3)),
        ):
            self.assertEqual(read_written(text).reps, reps, text)
        self.assertEqual(
            read_written("2 db snatch + push press x2").movements[0].implement, "dumbbell pair"
        )

    def test_what_cannot_be_read_says_which_part(self) -> None:
        for text, words in (
            ("clean", "at least two parts"),
            ("", "at least two parts"),
            ("clean + wobble", "Part 2"),
            ("clean + " * 15 + "clean", "too long"),
            ("99 clean + jerk", "times"),
        ):
            with self.assertRaises(UnknownLift) as refused:
                read_written(text)
            self.assertIn(words, str(refused.exception), text)

    def test_a_string_is_mended_by_the_fewest_movements(self) -> None:
        for text, inserted in (
            ("clean + hang snatch", 1),
            ("front squat + snatch balance", 1),
            ("snatch + front squat", 1),
            ("clean + hang snatch + front squat", 2),
        ):
            read = read_written(text)
            made = mend(read)
            assert made is not None
            self.assertTrue(made.legal, text)
            self.assertEqual(len(made.movements) - len(read.movements), inserted, text)
            left = list(made.names)
            for name in read.names:  # the same parts in the same order
                left = left[left.index(name) + 1 :]
        good = read_written("clean + jerk")
        self.assertIs(mend(good), good)
        self.assertIsNone(mend(read_written("clean + jump")))
        self.assertIsNone(mend(read_written("clean from blocks, knee + clean")))

    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(
            st.sampled_from([m.name for m in library("barbell", "clean")]), min_size=2, max_size=4
        )
    )
    def test_no_single_movement_mends_what_took_two(self, names: list[str]) -> None:
        read = read_written(" + ".join(names))
        if read.legal:
            return
        choice = library("barbell", "clean")
        made = mend(read, choice)
        broken = [one.joint for one in read.problems]
        if made is None or len(broken) != 1:
            return
        extra = len(made.movements) - len(names)
        self.assertTrue(made.legal)
        if extra > 1:
            at = broken[0]
            for one in choice:
                tried = [*read.movements[:at], one.movement, *read.movements[at:]]
                self.assertTrue(problems_of(tried), one.name)


class TestComposer(unittest.TestCase):
    def _best_by_trying(self, one: Wish, members: list[str]) -> tuple[float, int, int] | None:
        """Every string of these movements within the limits, the worth of the best."""
        pool = [member_of(parse_movement(name)) for name in members]
        lift = member_of(one.lift)
        best = None
        for count in range(one.fewest, min(one.most, len(pool)) + 1):
            for string in itertools.permutations(pool, count):
                if lift not in string or sum(m.overhead for m in string) > one.overhead:
                    continue
                if not fits_school(one.school, string, lift.movement.family):
                    continue
                cost = cost_of(string)
                if cost >= NEVER:
                    continue
                covered = set().union(*(m.trains for m in string))
                covered |= {"tired"} if count >= 3 and string[-1].tired else set()
                value = sum(w for name, w in one.wanted.items() if name in covered and w > 0)
                found = (-round(value, 4), cost // 1000, cost % 1000)
                best = found if best is None or found < best else best
        return best

    def _holds(self, dice: random.Random, pool: int, most: int) -> None:
        family = dice.choice(["snatch", "clean"])
        names = [m.name for m in library("barbell", family)]
        lift = dice.choice(
            ["snatch", "power snatch"] if family == "snatch" else ["clean", "power clean"]
        )
        members = list(dict.fromkeys([lift, *dice.sample(names, pool)]))
        asked = dice.sample(QUALITIES, dice.randint(1, 6))
        one = wish(
            lift,
            wanted={name: round(dice.uniform(0.1, 3.0), 2) for name in asked},
            most=most,
            overhead=dice.randint(0, 4),
            school=dice.choice(["one of each", "one of each", "pull before lift"]),
            only=frozenset(members),
        )
        found = compose(one, TEACHING, CONTENT.qualities)
        tried = self._best_by_trying(one, members)
        if tried is None:
            self.assertIsNone(found.best)
            self.assertIn("No legal string", found.why_none)
        else:
            assert found.best is not None, members
            self.assertEqual(worth(found.best), tried, (one, found.best.says))

    def test_the_best_is_the_best_of_everything_that_can_be_tried(self) -> None:
        dice = random.Random(17)
        for _ in range(200):
            self._holds(dice, 6, 4)

    def test_and_of_strings_six_long(self) -> None:
        dice = random.Random(23)
        for _ in range(6):
            self._holds(dice, 6, 6)

    def test_every_complex_is_legal_within_its_limits_and_says_what_it_is_for(self) -> None:
        dice = random.Random(5)
        for _ in range(25):
            lift = dice.choice(["snatch", "power clean", "split jerk", "hang snatch, hip"])
            wanted = {name: dice.uniform(0.2, 2) for name in dice.sample(QUALITIES, 4)}
            one = wish(lift, wanted=wanted, most=dice.randint(3, 6), overhead=dice.randint(1, 4))
            found = compose(one, TEACHING, CONTENT.qualities)
            for made in [found.best, *found.alternatives]:
                if made is None:
                    continue
                parts = [parse_movement(part.name) for part in made.parts]
                self.assertEqual(problems_of(parts), (), made.says)
                self.assertIn(lift, [part.name for part in made.parts])
                self.assertLessEqual(len(parts), one.most)
                self.assertLessEqual(made.reps, one.reps)
                self.assertLessEqual(sum(member_of(p).overhead for p in parts), one.overhead)
                self.assertEqual(set(made.covers) | set(made.misses), set(wanted))

    def test_the_schools_are_what_they_say(self) -> None:
        for school in SCHOOLS:
            found = compose(wish("clean", school=school), TEACHING, CONTENT.qualities).best
            assert found is not None, school
            members = [member_of(parse_movement(part.name)) for part in found.parts]
            self.assertTrue(fits_school(school, members, "clean"), found.says)
        rising = compose(wish("clean", school="rising range"), TEACHING, CONTENT.qualities).best
        assert rising is not None
        ranges = [member_of(parse_movement(part.name)).range_up for part in rising.parts]
        self.assertEqual(ranges, sorted(ranges))
        pulls = compose(wish("clean", school="pull before lift"), TEACHING, CONTENT.qualities).best
        assert pulls is not None
        self.assertTrue(member_of(parse_movement(pulls.parts[0].name)).pull)

    def test_alternatives_differ_in_kind(self) -> None:
        found = compose(wish("snatch"), TEACHING, CONTENT.qualities)
        self.assertGreaterEqual(len(found.alternatives), 2)
        strings = {one.says for one in (found.best, *found.alternatives) if one is not None}
        self.assertEqual(len(strings), 1 + len(found.alternatives))

    def test_a_shoulder_on_record_gets_nothing_overhead_and_is_told_why(self) -> None:
        sore = Person(checks=PASSED, cautions=frozenset({"shoulder"}), lifting_years=3.0)
        found = compose(wish("snatch", sore), TEACHING, CONTENT.qualities)
        assert found.best is not None
        for part in found.best.parts:
            self.assertFalse(member_of(parse_movement(part.name)).overhead, part.name)
        self.assertIn("shoulder on record", found.lift_says)
        self.assertTrue(any("shoulder" in one.why for one in found.ruled_out))

    def test_a_back_that_is_not_cleared_lifts_no_bar_from_floor_or_hang(self) -> None:
        sore = Person(checks={}, cautions=frozenset({"back"}))
        found = compose(wish("clean", sore), TEACHING, CONTENT.qualities)
        self.assertIn("back on record", found.lift_says + found.why_none)
        for part in found.best.parts if found.best is not None else ():
            self.assertNotIn("back", needs_of(parse_movement(part.name)).areas, part.name)

    def test_where_nothing_is_left_it_says_so(self) -> None:
        bare = Person(equipment=frozenset({"stick"}))
        found = compose(wish("clean", bare), TEACHING, CONTENT.qualities)
        self.assertIsNone(found.best)
        self.assertIn("needs a bar", found.why_none)

    def test_bells_dumbbells_and_a_stick_make_complexes_too(self) -> None:
        for lift in (
            "kettlebell power clean",
            "dumbbell pair clean",
            "stick hang power snatch, mid-thigh",
        ):
            found = compose(
                wish(lift, wanted={"finish": 1.0, "turnover": 1.0}), TEACHING, CONTENT.qualities
            )
            assert found.best is not None, (lift, found.why_none)
            implement = parse_movement(lift).implement
            held = {parse_movement(part.name).implement for part in found.best.parts}
            self.assertLessEqual(
                held, {implement, "barbell"} if implement == "stick" else {implement}
            )

    def test_faults_ask_for_the_qualities_that_answer_them(self) -> None:
        wanted = wanted_from_faults(
            {"loop": 2.0, "press-out": 0.5, "knees-in": 0.0}, CONTENT.qualities
        )
        self.assertEqual(wanted, {"turnover": 2.0, "lock-out": 0.5})


class TestPrice(unittest.TestCase):
    def test_the_weakest_member_sets_the_load(self) -> None:
        one = price_string(movements("clean + front squat + strict press"), [1, 1, 1], {})
        load = load_complex(one, {"clean": 100.0, "jerk": 100.0}, PlateSet())
        self.assertEqual(one.parts[load.weakest].name, "strict press")
        assert load.loading is not None and load.limit_kg is not None
        self.assertLessEqual(load.loading.total_kg, 0.8 * load.limit_kg)
        self.assertAlmostEqual(load.limit_kg, 55.0)

    def test_a_long_set_a_beginner_and_an_untrained_pull_weigh_less(self) -> None:
        parts = movements("clean pull + clean")
        plain = load_complex(price_string(parts, [1, 1], {}), {"clean": 100.0}, PlateSet())
        long = load_complex(price_string(parts, [5, 5], {}), {"clean": 100.0}, PlateSet())
        new = load_complex(
            price_string(parts, [1, 1], {}), {"clean": 100.0}, PlateSet(), beginner=True
        )
        for lighter in (long, new):
            assert plain.loading and lighter.loading
            self.assertLess(lighter.loading.total_kg, plain.loading.total_kg)
        pulls = price_string(movements("clean pull + clean deadlift"), [1, 1], {})
        self.assertEqual(load_complex(pulls, {"clean": 100.0}, PlateSet()).limit_kg, 100.0)

    def test_without_a_best_no_load_is_made_up(self) -> None:
        one = price_string(movements("snatch + overhead squat"), [1, 1], {})
        load = load_complex(one, {"clean": 100.0}, PlateSet())
        self.assertIsNone(load.loading)
        self.assertIn("no best snatch", load.why_not)

    def test_with_the_snatch_grip_the_snatch_is_the_measure(self) -> None:
        one = price_string(movements("power snatch + behind-the-neck power jerk"), [1, 1], {})
        self.assertEqual(one.parts[1].priced_by, "snatch")
        self.assertEqual(share_of(parse_movement("behind-the-neck power jerk"))[0], "jerk")

    def test_versions_keep_the_order_and_are_possible(self) -> None:
        parts = movements("power clean + front squat + push press")
        versions = complex_versions(price_string(parts, [1, 1, 1], {}), parts)
        self.assertEqual(versions["barbell"], ("power clean", "front squat", "push press"))
        for implement in ("dumbbell pair", "kettlebell"):
            names = versions[implement]
            assert names is not None
            made = [parse_movement(name) for name in names]
            self.assertEqual({one.implement for one in made}, {implement})
            self.assertEqual(problems_of(made), ())
        self.assertIsNone(version_of(parse_movement("jerk balance"), "kettlebell"))


if __name__ == "__main__":
    unittest.main()
