"""Teaching judgement as cases: facts in, advice and its reason out."""

import unittest
from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from keen_kettle.core.content import load_content, load_teaching
from keen_kettle.core.lifts import CHECKS, Derivative
from keen_kettle.core.teach import (
    JUMPS,
    KINDS,
    Advice,
    BodyLengths,
    CheckResult,
    Person,
    Step,
    Visit,
    advise,
    carried_levels,
    choose_ladders,
    current_places,
    equal_stages,
    fit_grips,
    hard,
    movement_of,
    obstacles,
    place_on,
    start_height,
    taught_stages,
    weeks_changes,
)

TEACHING = load_teaching()
FAULTS = load_content().faults
DAY = date(2026, 11, 2)
ALL_PASSED = {check: CheckResult("pass", DAY) for check in CHECKS}
EVERYTHING = frozenset(
    {"bar", "stick", "blocks", "dumbbell", "kettlebell", "dumbbell pair", "straps", "box"}
)
ABLE = Person("Able", 24, 1.75, checks=ALL_PASSED, equipment=EVERYTHING)


def visits(ladder: str, stage: str, *points: int, **more: Any) -> list[Visit]:
    """One visit every two days with so many points met, of the stage's own number."""
    taught = {one.id: one for one in taught_stages(TEACHING.ladders[ladder], {}, TEACHING)}
    asked = len(taught[stage].points)
    return [
        Visit(DAY + timedelta(2 * number), ladder, stage, tuple(range(met)), asked, **more)
        for number, met in enumerate(points)
    ]


def asked(ladder: str, stage: str) -> int:
    return visits(ladder, stage, 0)[0].asked


def ask(
    ladder: str, stage: str, seen: Sequence[Visit], person: Person = ABLE, **more: Any
) -> Advice:
    return advise(ladder, stage, person, seen, TEACHING, faults=FAULTS, **more)


def failing(*checks: str, **facts: Any) -> Person:
    return replace(
        ABLE, checks={**ALL_PASSED, **dict.fromkeys(checks, CheckResult("not yet", DAY))}, **facts
    )


class TestTheRule(unittest.TestCase):
    def test_one_met_gate_asks_for_one_more_visit(self) -> None:
        full = asked("clean-bottom-up", "deadlift")
        advice = ask("clean-bottom-up", "deadlift", visits("clean-bottom-up", "deadlift", 1, full))
        self.assertEqual(advice.kind, "stay")
        self.assertIn("once more", advice.reason)

    def test_two_met_gates_running_advance(self) -> None:
        full = asked("clean-bottom-up", "deadlift")
        seen = visits("clean-bottom-up", "deadlift", 1, full, full)
        advice = ask("clean-bottom-up", "deadlift", seen)
        self.assertEqual((advice.kind, advice.to), ("advance", ("clean-bottom-up", "clean-pull")))
        self.assertIn("two visits running", advice.reason)
        interrupted = visits("clean-bottom-up", "deadlift", full, 1, full)
        self.assertEqual(ask("clean-bottom-up", "deadlift", interrupted).kind, "stay")

    def test_a_watched_fault_keeps_the_gate_shut(self) -> None:
        full = asked("clean-bottom-up", "clean-pull")
        seen = visits("clean-bottom-up", "clean-pull", full, full, faults=("early-arms",))
        advice = ask("clean-bottom-up", "clean-pull", seen)
        self.assertEqual(advice.kind, "stay")
        self.assertIn("arms bend early", advice.reason)

    def test_nothing_seen_yet_says_so(self) -> None:
        self.assertIn("not been visited", ask("jerk", "footwork", []).reason)

    def test_a_stay_names_the_point_that_is_missing(self) -> None:
        advice = ask("clean-bottom-up", "deadlift", visits("clean-bottom-up", "deadlift", 2))
        self.assertIn("stands tall, no lean back", advice.reason)

    def test_the_pain_flag_steps_back_at_once(self) -> None:
        full = asked("clean-bottom-up", "power-clean")
        seen = visits("clean-bottom-up", "power-clean", full, full)
        seen[-1] = replace(seen[-1], pain=True)
        advice = ask("clean-bottom-up", "power-clean", seen)
        self.assertEqual(advice.kind, "step back")
        self.assertTrue(advice.safety)
        self.assertEqual(advice.to, ("clean-bottom-up", "high-pull"))
        self.assertIn("pain was flagged", advice.reason)
        self.assertTrue(any("licensed" in fact for fact in advice.facts))
        first = replace(visits("clean-bottom-up", "set", 4)[0], pain=True)
        self.assertIsNone(ask("clean-bottom-up", "set", [first]).to, "there is nothing below")

    def test_a_fault_flagged_for_safety_steps_back_at_once(self) -> None:
        seen = visits("clean-bottom-up", "deadlift", 4, faults=("setup-back-round",))
        advice = ask("clean-bottom-up", "deadlift", seen)
        self.assertEqual((advice.kind, advice.safety), ("step back", True))
        self.assertIn("back not flat", advice.reason)

    def test_far_from_the_points_twice_running_steps_back(self) -> None:
        advice = ask("clean-bottom-up", "deadlift", visits("clean-bottom-up", "deadlift", 1, 1))
        self.assertEqual(advice.to, ("clean-bottom-up", "floor-to-knee"))
        self.assertIn("Fewer than half", advice.reason)

    def test_the_tall_athlete_who_cannot_reach_the_floor_start(self) -> None:
        tall = failing("start-position", stature_m=1.98)
        advice = ask(
            "clean-bottom-up", "floor-to-knee", visits("clean-bottom-up", "floor-to-knee", 2), tall
        )
        self.assertEqual(advice.kind, "swap")
        self.assertIn("Start position", advice.reason)
        assert advice.to is not None
        ladder = TEACHING.ladders[advice.to[0]]
        stage = ladder.stage_named(advice.to[1])
        assert stage is not None
        self.assertEqual(obstacles(stage, tall, TEACHING), ())
        ranked = [
            one.ladder for one in choose_ladders(tall, TEACHING) if one.ladder.startswith("clean-")
        ]
        self.assertLess(ranked.index("clean-top-down"), ranked.index("clean-bottom-up"))

    def test_wrists_that_block_the_rack_hold_before_the_catch(self) -> None:
        stiff = failing("front-rack", cautions=frozenset({"wrist"}))
        full = asked("clean-bottom-up", "high-pull")
        advice = ask(
            "clean-bottom-up",
            "high-pull",
            visits("clean-bottom-up", "high-pull", full, full),
            stiff,
        )
        self.assertEqual(advice.kind, "hold")
        self.assertIn("Front rack", advice.reason)
        self.assertTrue(any("Strap rack" in fact for fact in advice.facts))
        for swap in advice.swaps:
            stage = TEACHING.ladders[swap.ladder].stage_named(swap.stage)
            assert stage is not None
            self.assertEqual(obstacles(stage, stiff, TEACHING), ())
        on_it = ask(
            "clean-bottom-up", "power-clean", visits("clean-bottom-up", "power-clean", 3), stiff
        )
        self.assertIn(on_it.kind, ("swap", "step back"))

    def test_a_shoulder_history_never_leads_overhead(self) -> None:
        sore = replace(ABLE, cautions=frozenset({"shoulder"}))
        for choice in choose_ladders(sore, TEACHING):
            if choice.ladder in ("jerk", "snatch-power", "dumbbell-precision"):
                self.assertIsNone(choice.start, choice.ladder)
                self.assertIn("shoulder", " ".join(choice.reasons_against))
        advice = ask(
            "snatch-power", "quarter-squat", visits("snatch-power", "quarter-squat", 3), sore
        )
        self.assertEqual(advice.kind, "swap")
        assert advice.to is not None
        stage = TEACHING.ladders[advice.to[0]].stage_named(advice.to[1])
        assert stage is not None
        movement = movement_of(stage)
        self.assertFalse(hard(obstacles(stage, sore, TEACHING)))
        if isinstance(movement, Derivative) and movement.family == "snatch":
            self.assertEqual(movement.receive, "none")

    def test_five_visits_without_progress_swap_to_an_equal_stage(self) -> None:
        here = visits("clean-bottom-up", "clean-pull", 2, 2, 1, 2, 2)
        advice = ask("clean-bottom-up", "clean-pull", here)
        self.assertEqual((advice.kind, advice.stuck), ("swap", True))
        self.assertIn("5 visits", advice.reason)
        assert advice.to is not None
        other = TEACHING.ladders[advice.to[0]].stage_named(advice.to[1])
        own = TEACHING.ladders["clean-bottom-up"].stage_named("clean-pull")
        assert other is not None and own is not None
        self.assertLessEqual(abs(other.level - own.level), 1)
        self.assertNotEqual(advice.to[0], "clean-bottom-up")
        better = visits("clean-bottom-up", "clean-pull", 1, 1, 2, 2, 2)
        self.assertEqual(ask("clean-bottom-up", "clean-pull", better).kind, "stay")

    def test_stuck_with_nothing_else_open_changes_the_way(self) -> None:
        bare = Person("Bare", 24, 1.75, equipment=frozenset({"bar"}), checks=ALL_PASSED)
        only = load_teaching().model_copy(
            update={"ladders": {"clean-bottom-up": TEACHING.ladders["clean-bottom-up"]}}
        )
        seen = visits("clean-bottom-up", "clean-pull", 2, 2, 2, 2)
        advice = advise("clean-bottom-up", "clean-pull", bare, seen, only, faults=FAULTS)
        self.assertEqual((advice.kind, advice.stuck), ("stay", True))
        self.assertIn("Begin from mid-thigh", advice.reason)

    def test_the_beginner_who_likes_pulls_best_may_hold_there(self) -> None:
        likes = replace(ABLE, aim="general", training_years=0.3)
        full = asked("clean-bottom-up", "high-pull")
        seen = visits("clean-bottom-up", "high-pull", full, full, full, full, enjoyment=1)
        advice = ask("clean-bottom-up", "high-pull", seen, likes)
        self.assertEqual(advice.kind, "hold")
        self.assertIn("liked", advice.reason)
        lifter = replace(likes, aim="weightlifting")
        self.assertEqual(ask("clean-bottom-up", "high-pull", seen, lifter).kind, "advance")

    def test_happy_at_the_power_clean_for_good(self) -> None:
        full = asked("clean-bottom-up", "power-clean")
        seen = visits("clean-bottom-up", "power-clean", full, full, full)
        held = [
            Step(DAY - timedelta(40), "clean-bottom-up", "power-clean", "advance"),
            Step(DAY - timedelta(5), "clean-bottom-up", "power-clean", "hold"),
        ]
        advice = ask("clean-bottom-up", "power-clean", seen, steps=held)
        self.assertEqual(advice.kind, "hold")
        self.assertIn("by your decision", advice.reason)
        again = [*held, Step(DAY, "clean-bottom-up", "power-clean", "stay")]
        self.assertEqual(ask("clean-bottom-up", "power-clean", seen, steps=again).kind, "advance")

    def test_an_untested_check_is_screened_before_the_next_stage(self) -> None:
        unknown = replace(ABLE, checks={})
        full = asked("clean-bottom-up", "set")
        advice = ask(
            "clean-bottom-up", "set", visits("clean-bottom-up", "set", full, full), unknown
        )
        self.assertEqual(advice.kind, "stay")
        self.assertIn("not tested", advice.reason)
        self.assertIn("Screen it", advice.reason)

    def test_the_last_stage_ends_the_ladder(self) -> None:
        full = asked("clean-bottom-up", "clean")
        advice = ask("clean-bottom-up", "clean", visits("clean-bottom-up", "clean", full, full))
        self.assertIn("ladder is done", advice.reason)

    def test_a_stage_that_the_school_leaves_out_leads_to_the_one_before(self) -> None:
        no_high_pull = replace(ABLE, school={"high-pull": "no"})
        advice = ask("clean-bottom-up", "high-pull", [], no_high_pull)
        self.assertEqual(advice.to, ("clean-bottom-up", "jump-shrug"))

    @given(
        st.sampled_from(
            [(one.id, stage.id) for one in TEACHING.ladders.values() for stage in one.stage]
        ),
        st.lists(
            st.builds(
                lambda met, asked, pain, like, faults: (met, asked, pain, like, faults),
                st.integers(0, 7),
                st.integers(1, 7),
                st.booleans(),
                st.sampled_from([-1, 0, 1]),
                st.lists(st.sampled_from(sorted(FAULTS)), max_size=2),
            ),
            max_size=7,
        ),
        st.dictionaries(
            st.sampled_from(CHECKS), st.sampled_from(["pass", "not yet", "not tested"])
        ),
        st.frozensets(st.sampled_from(["shoulder", "wrist", "elbow", "back"])),
        st.sampled_from(["weightlifting", "sport power", "general"]),
    )
    def test_whatever_the_facts_the_advice_has_a_reason_and_never_leads_into_a_shut_stage(
        self,
        place: tuple[str, str],
        seen: list[tuple[int, int, bool, int, list[str]]],
        checks: dict[str, str],
        cautions: frozenset[str],
        aim: str,
    ) -> None:
        person = Person(
            aim=aim,
            cautions=cautions,
            checks={check: CheckResult(state) for check, state in checks.items()},
        )
        history = [
            Visit(
                DAY + timedelta(number),
                *place,
                tuple(range(min(met, asked))),
                asked,
                tuple(faults),
                pain=pain,
                enjoyment=like,
            )
            for number, (met, asked, pain, like, faults) in enumerate(seen)
        ]
        advice = ask(*place, history, person)
        self.assertIn(advice.kind, KINDS)
        self.assertTrue(advice.reason.endswith("."), advice.reason)
        if advice.to is not None and "not taught" not in advice.reason:
            stage = TEACHING.ladders[advice.to[0]].stage_named(advice.to[1])
            assert stage is not None
            self.assertEqual(hard(obstacles(stage, person, TEACHING)), ())
        if history and history[-1].pain:
            self.assertTrue(advice.safety or "not taught" in advice.reason)


class TestChoosing(unittest.TestCase):
    def first(self, person: Person, **more: Any) -> str:
        return choose_ladders(person, TEACHING, **more)[0].ladder

    def test_the_aim_decides_among_what_is_open(self) -> None:
        lifter = replace(ABLE, aim="weightlifting", training_years=3, sessions_week=4)
        self.assertIn(self.first(lifter), ("clean-rack-first", "jerk", "snatch-full"))
        self.assertNotIn(self.first(replace(ABLE, aim="sport power")), ("jerk", "clean-rack-first"))

    def test_every_choice_says_why_and_where_to_begin(self) -> None:
        for choice in choose_ladders(ABLE, TEACHING):
            self.assertTrue(choice.reasons_for or choice.reasons_against)
            self.assertIsNotNone(choice.start, choice.name)
        self.assertEqual(len(choose_ladders(ABLE, TEACHING)), len(TEACHING.ladders) + 1)

    def test_a_class_of_the_young_gets_the_sticks(self) -> None:
        child = replace(ABLE, age=13, checks={}, aim="general", sessions_week=1)
        self.assertEqual(self.first(child, class_size=18), "clean-class-sticks")

    def test_jumps_and_throws_are_an_honest_answer(self) -> None:
        shut = failing(
            "front-rack",
            "start-position",
            "overhead-quarter",
            aim="sport power",
            cautions=frozenset({"shoulder", "wrist", "elbow"}),
            sessions_week=1,
            equipment=frozenset({"bar"}),
        )
        best = choose_ladders(shut, TEACHING)[0]
        self.assertEqual(best.ladder, JUMPS)
        self.assertIn("one session a week", " ".join(best.reasons_for))
        lifter = choose_ladders(replace(ABLE, aim="weightlifting"), TEACHING)
        self.assertEqual(lifter[-1].ladder, JUMPS)

    def test_what_was_learnt_elsewhere_carries_over(self) -> None:
        steps = [
            Step(DAY, "clean-bottom-up", "clean-pull", "start"),
            Step(DAY + timedelta(9), "clean-bottom-up", "jump-shrug", "advance"),
        ]
        carried = carried_levels(steps, TEACHING)
        self.assertEqual(carried, {"clean": 4})
        choice = next(
            one
            for one in choose_ladders(ABLE, TEACHING, carried=carried)
            if one.ladder == "clean-top-down"
        )
        self.assertEqual(choice.start, "high-pull")
        self.assertIn("carries over", " ".join(choice.reasons_for))

    def test_missing_equipment_is_a_reason_against(self) -> None:
        bare = replace(ABLE, equipment=frozenset({"bar"}))
        bell = next(
            one for one in choose_ladders(bare, TEACHING) if one.ladder == "kettlebell-one-arm"
        )
        self.assertIsNone(bell.start)
        self.assertIn("needs a kettlebell", " ".join(bell.reasons_against))


class TestPlaces(unittest.TestCase):
    STEPS = (
        Step(DAY, "clean-bottom-up", "set", "start"),
        Step(DAY + timedelta(10), "clean-bottom-up", "floor-to-knee", "advance"),
        Step(DAY + timedelta(12), "clean-bottom-up", "set", "step back"),
        Step(DAY + timedelta(20), "clean-bottom-up", "floor-to-knee", "advance"),
        Step(DAY + timedelta(21), "clean-bottom-up", "floor-to-knee", "hold"),
    )

    def test_each_stage_tells_when_it_was_reached_and_how_long_it_took(self) -> None:
        today = DAY + timedelta(30)
        place = place_on(TEACHING.ladders["clean-bottom-up"], self.STEPS, ABLE, TEACHING, today)
        first, second, third = place.stages[:3]
        self.assertEqual((first.state, first.since, first.days), ("passed", DAY, 18))
        self.assertEqual((second.state, second.days), ("here", 12))
        self.assertEqual((third.state, third.days), ("ahead", None))
        self.assertTrue(place.held)
        self.assertEqual(place.since, DAY + timedelta(20))

    def test_other_ladders_show_what_carries_over(self) -> None:
        place = place_on(
            TEACHING.ladders["clean-top-down"], self.STEPS, ABLE, TEACHING, DAY, carried=4
        )
        self.assertIsNone(place.stage)
        self.assertEqual([one.state for one in place.stages[:3]], ["carried", "carried", "ahead"])

    def test_a_left_ladder_is_no_place_and_stays_are_no_news(self) -> None:
        left = (*self.STEPS, Step(DAY + timedelta(25), "clean-bottom-up", "floor-to-knee", "leave"))
        self.assertEqual(current_places(left), {})
        news = weeks_changes(self.STEPS, DAY + timedelta(12))
        self.assertEqual([one.kind for one in news], ["hold", "advance", "step back"])


class TestSchools(unittest.TestCase):
    def stages(self, ladder: str, **school: str) -> list[str]:
        answers = {question.replace("_", "-"): answer for question, answer in school.items()}
        return [one.id for one in taught_stages(TEACHING.ladders[ladder], answers, TEACHING)]

    def test_schools_change_the_ladder(self) -> None:
        self.assertIn("high-pull", self.stages("clean-bottom-up"))
        self.assertNotIn("high-pull", self.stages("clean-bottom-up", high_pull="no"))
        self.assertNotIn("clean", self.stages("clean-bottom-up", catch_depth="power-only"))
        self.assertEqual(self.stages("snatch-full", catch_depth="power-only")[-1], "power-snatch")
        self.assertNotIn("power-clean", self.stages("clean-rack-first", catch_depth="full"))
        self.assertEqual(self.stages("clean-bottom-up", lifts_or_pulls="pulls")[-1], "high-pull")

    def test_schools_add_points_and_choose_the_cue(self) -> None:
        def named(stage: str, **school: str) -> Any:
            answers = {key.replace("_", "-"): value for key, value in school.items()}
            found = taught_stages(TEACHING.ladders["clean-bottom-up"], answers, TEACHING)
            return next(one for one in found if one.id == stage)

        self.assertIn("feet stay where they stood", named("power-clean", feet="stay").points)
        self.assertNotIn("feet land flat in squat stance", named("clean-pull").points)
        self.assertIn("hook grip closed before the bar moves", named("deadlift").points)
        self.assertIn("firm contact", " ".join(named("clean-pull", hip_contact="firm").points))
        plain = named("deadlift", hook_grip="optional").points
        self.assertNotIn("hook grip closed before the bar moves", plain)
        self.assertNotEqual(named("deadlift").cue, named("deadlift", cue="inner").cue)

    def test_swaps_are_equal_open_and_elsewhere(self) -> None:
        here = taught_stages(TEACHING.ladders["clean-bottom-up"], {}, TEACHING)[3]
        for swap in equal_stages(here, ABLE, TEACHING):
            self.assertNotEqual(swap.ladder, "clean-bottom-up")
        liked = {"snatch-power": 1.0, "dumbbell-precision": -1.0}
        names = [swap.ladder for swap in equal_stages(here, ABLE, TEACHING, liked)]
        self.assertLess(names.index("snatch-power"), names.index("dumbbell-precision"))


class TestFit(unittest.TestCase):
    def test_a_usual_body_gets_usual_widths(self) -> None:
        fit = fit_grips(BodyLengths(1.75))
        assert fit.snatch_m is not None and fit.overhead_m is not None
        self.assertTrue(0.95 < fit.snatch_m < 1.2, fit)
        self.assertTrue(0.42 < fit.clean_m < 0.55)
        self.assertTrue(0.20 <= fit.overhead_m <= 0.30, "overhead 20 to 30 cm over the crown")
        self.assertTrue(0.4 < fit.contact_share < 0.8, "the clean hangs at mid-thigh")
        self.assertEqual(len(fit.guessed), 4)

    @given(st.floats(1.4, 2.1), st.floats(0.36, 0.41), st.floats(0.17, 0.23), st.floats(0.45, 0.53))
    def test_the_snatch_grip_hangs_the_bar_in_the_crease(
        self, tall: float, arm: float, breadth: float, crease: float
    ) -> None:
        body = BodyLengths(tall, arm * tall, breadth * tall, 0.8 * tall, crease * tall)
        fit = fit_grips(body)
        assert fit.snatch_m is not None and body.arm_m and body.breadth_m
        out = (fit.snatch_m - body.breadth_m) / 2
        hangs = 0.8 * tall - (body.arm_m**2 - out**2) ** 0.5
        self.assertAlmostEqual(hangs, crease * tall, places=6)
        self.assertEqual(fit.guessed, ())

    def test_measured_lengths_make_it_surer(self) -> None:
        guessed = fit_grips(BodyLengths(1.75))
        measured = fit_grips(BodyLengths(1.75, 0.38 * 1.75, 0.35, 1.40, 0.49 * 1.75))
        assert guessed.snatch_m is not None and measured.snatch_m is not None
        self.assertAlmostEqual(measured.snatch_m, guessed.snatch_m)
        self.assertLess(measured.snatch_sigma_m, guessed.snatch_sigma_m)

    def test_long_arms_take_a_wider_grip_and_impossible_lengths_are_said(self) -> None:
        short, long = (fit_grips(BodyLengths(1.75, arm_m=arm)) for arm in (0.63, 0.70))
        assert short.snatch_m is not None and long.snatch_m is not None
        self.assertGreater(long.snatch_m, short.snatch_m)
        odd = fit_grips(BodyLengths(1.75, arm_m=0.4))
        self.assertIsNone(odd.snatch_m)
        self.assertIn("measure", odd.why_not)

    def test_what_to_put_under_the_plates(self) -> None:
        self.assertEqual(start_height(1.75, 0.45).raise_m, 0)
        bare = start_height(1.75, 0.05)
        self.assertAlmostEqual(bare.raise_m, 0.20)
        self.assertIn("20 cm", bare.says)
        self.assertIn("never dropped", bare.says)
        tall = start_height(2.0, 0.45, "below knee")
        self.assertAlmostEqual(tall.raise_m, 0.295)


if __name__ == "__main__":
    unittest.main()
