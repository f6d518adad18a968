"""What practitioners would say, case by case: safety, pace, load, fear, faults that keep coming."""

import unittest
from dataclasses import replace
from datetime import timedelta
from typing import Any, ClassVar

from keen_kettle.core.content import load_content
from keen_kettle.core.errors import UnknownLift
from keen_kettle.core.lifts import Derivative, needs_of, parse_movement
from keen_kettle.core.teach import (
    JUMPS,
    Choice,
    Person,
    Step,
    carried_levels,
    check_ladder,
    choose_ladders,
    hard,
    judge_load,
    movement_of,
    needs_of_stage,
    obstacles,
    taught_stages,
)
from tests.core.test_teach import (
    ABLE,
    ALL_PASSED,
    DAY,
    EVERYTHING,
    FAULTS,
    TEACHING,
    ask,
    asked,
    visits,
)

BARE = Person(equipment=EVERYTHING)


def ranked(person: Person, **more: Any) -> list[Choice]:
    return choose_ladders(person, TEACHING, **more)


def place_of(ladder: str, found: list[Choice]) -> int:
    return next(number for number, one in enumerate(found) if one.ladder == ladder)


class TestSafety(unittest.TestCase):
    def test_a_back_that_is_not_cleared_shuts_every_barbell_pull_and_catch(self) -> None:
        sore = replace(ABLE, cautions=frozenset({"back"}))
        sore = replace(sore, checks={k: v for k, v in ALL_PASSED.items() if k != "back-cleared"})
        for ladder in TEACHING.ladders.values():
            for stage in ladder.stage:
                movement = movement_of(stage)
                if not isinstance(movement, Derivative) or movement.implement != "barbell":
                    continue
                shut = any(one.about == "back" for one in hard(obstacles(stage, sore, TEACHING)))
                from_below = movement.support in ("floor", "hang") and movement.family != "jerk"
                self.assertEqual(shut, from_below, f"{ladder.id} {stage.id}")
        full = asked("clean-bottom-up", "clean-pull")
        seen = visits("clean-bottom-up", "clean-pull", full, full)
        self.assertNotEqual(ask("clean-bottom-up", "clean-pull", seen, sore).kind, "advance")
        cleared = replace(sore, checks=ALL_PASSED)
        self.assertEqual(ask("clean-bottom-up", "clean-pull", seen, cleared).kind, "advance")

    def test_wrists_that_hurt_shut_overhead_work_too(self) -> None:
        for name in ("power snatch", "split jerk", "overhead squat", "strict press"):
            self.assertIn("wrist", needs_of(parse_movement(name)).areas, name)
        self.assertNotIn("wrist", needs_of(parse_movement("dumbbell power snatch")).areas)

    def test_the_cautions_of_fatigue_and_of_maxima_are_there(self) -> None:
        words = " ".join(one.text for one in load_content().cautions.values())
        for said in ("Under fatigue", "timed circuits", "No testing of maxima", "minors"):
            self.assertIn(said, words)

    def test_what_is_untested_speaks_up_on_the_stage_that_needs_it(self) -> None:
        unknown = replace(ABLE, checks={})
        advice = ask("clean-bottom-up", "power-clean", [], unknown)
        self.assertIn("not tested yet", advice.reason)
        seen = visits("clean-bottom-up", "power-clean", 2)
        advice = ask("clean-bottom-up", "power-clean", seen, unknown)
        self.assertTrue(any("Front rack" in fact and "screen it" in fact for fact in advice.facts))

    def test_a_round_back_with_a_stick_is_mended_and_with_load_stepped_back(self) -> None:
        seen = visits("clean-class-sticks", "slide", 2, faults=("setup-back-round",))
        advice = ask("clean-class-sticks", "slide", seen)
        self.assertEqual((advice.kind, advice.safety), ("stay", True))
        self.assertIn("Brace first", advice.reason)
        loaded = visits("clean-bottom-up", "deadlift", 3, faults=("setup-back-round",))
        self.assertEqual(ask("clean-bottom-up", "deadlift", loaded).kind, "step back")
        hurt = [replace(seen[0], pain=True)]
        self.assertEqual(ask("clean-class-sticks", "slide", hurt).kind, "step back")


class TestContentAgainstItself(unittest.TestCase):
    TESTED_BY: ClassVar = {
        "front rack hold": {"front-rack"},
        "front squat": {"front-squat", "front-rack"},
        "quarter overhead squat": {"overhead-quarter"},
        "overhead squat": {"overhead-full", "overhead-quarter"},
        "start position hold": {"start-position"},
        "snatch start position hold": {"start-position"},
        "bail practice": {"bailing"},
    }

    def test_no_gate_asks_for_what_its_own_stage_teaches(self) -> None:
        for ladder in TEACHING.ladders.values():
            for stage in ladder.stage:
                asks = set(needs_of_stage(stage).checks) - set(stage.teaches)
                taught = self.TESTED_BY.get(stage.movement, set())
                self.assertFalse(asks & taught, f"{ladder.id} {stage.id}")

    def test_no_level_falls_within_a_ladder(self) -> None:
        for ladder in TEACHING.ladders.values():
            for school in ({}, {"catch-depth": "power-only"}, {"catch-depth": "full"}):
                levels = [one.stage.level for one in taught_stages(ladder, school, TEACHING)]
                self.assertEqual(levels, sorted(levels), ladder.id)

    def test_every_name_reads_and_every_watched_fault_is_there(self) -> None:
        for ladder in TEACHING.ladders.values():
            self.assertEqual(check_ladder(ladder, TEACHING, FAULTS.keys()), [], ladder.id)

    def test_every_fault_is_watched_somewhere_and_has_a_drill_or_says_why_not(self) -> None:
        content = load_content()
        answered = {fault for drill in content.drills.values() for fault in drill.answers}
        watched = {
            fault
            for ladder in TEACHING.ladders.values()
            for stage in ladder.stage
            for fault in stage.watch
        }
        for fault in content.faults.values():
            self.assertTrue(fault.id in answered or fault.no_drill, fault.id)
        for fault_id in (
            "gap",
            "low-contact",
            "wide-feet",
            "lowering-round",
            "back-at-finish",
            "too-late",
        ):
            self.assertIn(fault_id, watched)
        self.assertIn("early-arms", content.faults["incomplete-hip"].leads_to)

    def test_names_of_the_second_reading_are_read(self) -> None:
        for name, wanted in (
            ("deadlift to the knee", "deadlift to knee"),
            ("countermovement shrug", "hang clean shrug, mid-thigh, with countermovement"),
            ("countermovement clean", "hang clean, mid-thigh, with countermovement"),
            ("clean-grip pull", "clean pull"),
            ("snatch-grip shrug", "hang snatch shrug, mid-thigh"),
            ("clean-grip jump shrug", "clean jump shrug"),
            ("clean and jerk", "clean and jerk"),
            ("dip and drive", "dip and drive"),
            ("floor to overhead", "dumbbell muscle snatch"),
            ("front squat with straps", "front squat, strap rack"),
            (
                "dumbbell pair hang power clean, mid-shin",
                "dumbbell pair hang power clean, mid-shin",
            ),
        ):
            self.assertEqual(parse_movement(name).name, wanted, name)
        with self.assertRaisesRegex(UnknownLift, "from the knee"):
            parse_movement("power clean to the knee")

    def test_a_pair_of_dumbbells_counts_as_dumbbells(self) -> None:
        for thing in ("dumbbell pair", "dumbbells", "dumbbell"):
            self.assertTrue(Person(equipment=frozenset({thing})).has("dumbbell"), thing)
        self.assertFalse(Person(equipment=frozenset({"dumbbell"})).has("dumbbell pair"))

    def test_the_clean_and_jerk_asks_for_a_passed_clean(self) -> None:
        stage = TEACHING.ladders["jerk"].stage_named("clean-and-jerk")
        assert stage is not None
        says = [one.says for one in obstacles(stage, ABLE, TEACHING)]
        self.assertEqual(says, ["a passed clean comes first"])
        able = replace(ABLE, levels={"clean": 7})
        self.assertEqual(obstacles(stage, able, TEACHING), ())
        drive = TEACHING.ladders["jerk"].stage_named("dip-drive")
        assert drive is not None
        self.assertNotIn("shoulder", needs_of_stage(drive).areas)


class TestChoosing(unittest.TestCase):
    def test_years_in_a_gym_are_no_years_in_the_lifts(self) -> None:
        first_timer = replace(BARE, age=60, training_years=10, aim="general")
        self.assertTrue(first_timer.beginner)
        found = ranked(first_timer)
        self.assertIn(
            "made for adults who begin", found[place_of("adult-hang-first", found)].reasons_for
        )
        self.assertFalse(replace(first_timer, lifting_years=3).beginner)
        self.assertFalse(replace(first_timer, aim="weightlifting").beginner)

    def test_equipment_counts_per_head(self) -> None:
        group = replace(BARE, equipment=frozenset({"stick", "bar", "kettlebell"}), aim="general")
        alone, many = ranked(group), ranked(group, class_size=12)
        self.assertGreater(
            place_of("kettlebell-one-arm", many), place_of("clean-class-sticks", many)
        )
        against = many[place_of("kettlebell-one-arm", many)].reasons_against
        self.assertIn("1 kettlebell for 12: most would wait", against)
        self.assertNotIn(
            "wait", " ".join(alone[place_of("kettlebell-one-arm", alone)].reasons_against)
        )
        counted = ranked(replace(group, counts={"kettlebell": 8}), class_size=12)
        self.assertNotIn(
            "wait", " ".join(counted[place_of("kettlebell-one-arm", counted)].reasons_against)
        )

    def test_athletes_of_other_sports_jump_and_throw_first(self) -> None:
        jumper = replace(BARE, age=19, aim="sport power", training_years=3)
        self.assertEqual(ranked(jumper)[0].ladder, JUMPS)
        for one in (
            replace(jumper, wants_lifts=True),
            replace(jumper, lifting_years=3, checks=ALL_PASSED),
            replace(jumper, aim="weightlifting"),
        ):
            self.assertNotEqual(ranked(one)[0].ladder, JUMPS)

    def test_what_was_learnt_with_one_bell_is_no_barbell_snatch(self) -> None:
        steps = [
            Step(DAY, "kettlebell-one-arm", "high-pull", "start"),
            Step(DAY + timedelta(9), "kettlebell-one-arm", "snatch", "advance"),
        ]
        carried = carried_levels(steps, TEACHING)
        self.assertEqual(carried, {"snatch, kettlebell": 5})
        found = ranked(ABLE, carried=carried)
        self.assertEqual(found[place_of("snatch-full", found)].start, "stance-grip")

    def test_being_one_step_from_the_end_does_not_lower_a_ladder(self) -> None:
        fresh, near = ranked(ABLE), ranked(ABLE, carried={"clean": 8})
        for ladder in ("clean-bottom-up", "clean-rack-first"):
            self.assertGreaterEqual(
                near[place_of(ladder, near)].score, fresh[place_of(ladder, fresh)].score
            )


class TestPace(unittest.TestCase):
    def test_a_class_with_sticks_goes_on_after_five_good_reps(self) -> None:
        full = asked("clean-class-sticks", "slide")
        advice = ask(
            "clean-class-sticks", "slide", visits("clean-class-sticks", "slide", full, reps=5)
        )
        self.assertEqual(
            (advice.kind, advice.to), ("advance", ("clean-class-sticks", "breastbone"))
        )
        self.assertIn("same visit", advice.reason)
        few = ask(
            "clean-class-sticks", "slide", visits("clean-class-sticks", "slide", full, reps=2)
        )
        self.assertEqual(few.kind, "stay")

    def test_only_a_sessions_pace_goes_on_within_the_visit(self) -> None:
        full = asked("dumbbell-precision", "hinge-muscle")
        steps = [Step(DAY, "dumbbell-precision", "hinge-muscle", "advance")]
        seen = visits("dumbbell-precision", "hinge-muscle", full, full)
        advice = ask("dumbbell-precision", "hinge-muscle", seen, steps=steps)
        self.assertEqual(advice.kind, "advance")
        self.assertNotIn("same visit", " ".join((advice.reason, *advice.facts)))

    def test_a_block_stays_by_plan_whatever_the_points_say(self) -> None:
        full = asked("clean-bottom-up", "deadlift")
        seen = visits("clean-bottom-up", "deadlift", full, full, full)
        advice = ask("clean-bottom-up", "deadlift", seen, pace="block", weeks=4)
        self.assertEqual(advice.kind, "stay")
        self.assertIn("week 1 of 4", advice.reason)
        later = [replace(seen[0], on=DAY - timedelta(30)), *seen]
        over = ask("clean-bottom-up", "deadlift", later, pace="block", weeks=4)
        self.assertEqual(over.kind, "advance")

    def test_weeks_at_the_deadlift_are_no_standing_still(self) -> None:
        seen = [
            replace(one, on=DAY + timedelta(5 * number))
            for number, one in enumerate(visits("clean-bottom-up", "deadlift", 2, 2, 2, 2, 2))
        ]
        advice = ask("clean-bottom-up", "deadlift", seen)
        self.assertEqual((advice.kind, advice.stuck), ("stay", False))
        self.assertIn("by plan", advice.reason)


class TestFaultsThatKeepComing(unittest.TestCase):
    def test_heels_that_come_up_raise_the_bar(self) -> None:
        seen = visits("clean-bottom-up", "set", 4, 4, 4, 4, faults=("heels-up-start",))
        advice = ask("clean-bottom-up", "set", seen)
        self.assertEqual(advice.kind, "stay")
        for said in ("Raise the bar", "hang"):
            self.assertIn(said, advice.reason)

    def test_early_arms_get_their_own_drill_before_any_change(self) -> None:
        seen = visits("clean-bottom-up", "clean-pull", 2, 2, 2, 2, faults=("early-arms",))
        self.assertIn("jump shrugs", ask("clean-bottom-up", "clean-pull", seen).reason)
        long = visits("clean-bottom-up", "clean-pull", *[2] * 9, faults=("early-arms",))
        advice = ask("clean-bottom-up", "clean-pull", long)
        for swap in advice.swaps:
            ladder = TEACHING.ladders[swap.ladder]
            if ladder.implement not in ("barbell", "stick"):
                first = taught_stages(ladder, {}, TEACHING)[0]
                self.assertEqual(swap.stage, first.id, "begins low on the new ladder")

    def test_a_side_that_lags_leads_and_is_no_standing_still(self) -> None:
        full = asked("dumbbell-precision", "load-calls")
        seen = visits("dumbbell-precision", "load-calls", *[full] * 4, faults=("side-difference",))
        advice = ask("dumbbell-precision", "load-calls", seen)
        self.assertEqual((advice.kind, advice.stuck), ("stay", False))
        self.assertIn("weaker side leads", advice.reason)

    def test_fear_of_the_bar_at_the_chin(self) -> None:
        seen = visits("clean-bottom-up", "power-clean", 2, 2, faults=("slow-elbows",))
        seen[-1] = replace(seen[-1], confidence="afraid")
        advice = ask("clean-bottom-up", "power-clean", seen)
        self.assertEqual(advice.kind, "stay")
        for said in ("afraid", "clear the chin first", "front squats"):
            self.assertIn(said, advice.reason)

    def test_a_shoulder_history_goes_to_the_clean_pull(self) -> None:
        sore = replace(ABLE, cautions=frozenset({"shoulder"}))
        seen = visits("snatch-power", "power-snatch", 2)
        advice = ask("snatch-power", "mid-shin", seen, sore)
        self.assertEqual(advice.kind, "step back")
        self.assertEqual(
            advice.to_name, "Pauses out, slow to fast", "a snatch pull of its own ladder"
        )
        first = ask("snatch-power", "quarter-squat", [], sore)
        self.assertEqual((first.kind, first.to), ("swap", ("clean-bottom-up", "clean-pull")))

    def test_no_blocks_and_no_high_pull_go_round(self) -> None:
        bare = replace(ABLE, equipment=frozenset({"bar", "stick"}), school={"high-pull": "no"})
        full = asked("snatch-power", "pauses-jump")
        advice = ask(
            "snatch-power", "pauses-jump", visits("snatch-power", "pauses-jump", full, full), bare
        )
        self.assertEqual((advice.kind, advice.to), ("advance", ("snatch-power", "pauses-out")))
        missing = replace(ABLE, equipment=frozenset({"stick"}))
        full = asked("clean-class-sticks", "above-knee")
        seen = visits("clean-class-sticks", "above-knee", full)
        self.assertEqual(ask("clean-class-sticks", "above-knee", seen, missing).kind, "advance")


class TestLoads(unittest.TestCase):
    def verdict(self, *visits_: tuple[int, float], verdict: str = "") -> tuple[str, float]:
        seen = [
            replace(visits("clean-bottom-up", "power-clean", met)[0], load_kg=load)
            for met, load in visits_
        ]
        seen[-1] = replace(seen[-1], verdict=verdict)
        taught = {
            one.id: one for one in taught_stages(TEACHING.ladders["clean-bottom-up"], {}, TEACHING)
        }
        found = judge_load(taught["power-clean"], seen, 2.5)
        assert found is not None
        return found.verdict, found.next_kg

    def test_the_points_tell_the_next_load(self) -> None:
        full = asked("clean-bottom-up", "power-clean")
        self.assertEqual(self.verdict((full, 40), (full, 40)), ("too light", 42.5))
        self.assertEqual(self.verdict((full, 40)), ("right", 40))
        self.assertEqual(self.verdict((full, 40), (3, 45)), ("too heavy", 40))
        self.assertEqual(self.verdict((1, 45)), ("too heavy", 42.5))
        self.assertEqual(self.verdict((3, 45)), ("right", 45))

    def test_what_the_coach_says_stands_and_always_counts(self) -> None:
        full = asked("clean-bottom-up", "power-clean")
        self.assertEqual(self.verdict((full, 40), (full, 40), verdict="too heavy")[0], "too heavy")
        seen = [
            replace(one, load_kg=50.0)
            for one in visits("clean-bottom-up", "power-clean", full, full)
        ]
        advice = ask("clean-bottom-up", "power-clean", seen)
        assert advice.load is not None
        self.assertEqual(advice.load.next_kg, 52.5)
        self.assertTrue(any("52.5 kg next" in fact for fact in advice.facts))

    def test_without_a_load_nothing_is_said_of_it(self) -> None:
        seen = visits("clean-bottom-up", "power-clean", 2)
        self.assertIsNone(ask("clean-bottom-up", "power-clean", seen).load)


if __name__ == "__main__":
    unittest.main()
