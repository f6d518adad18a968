"""Prescribing written as cases: what was seen and who it is in, drills and what follows out."""

import unittest
from collections.abc import Mapping
from datetime import date, timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from keen_kettle.core.content import load_content, load_teaching, read_library
from keen_kettle.core.errors import ContentError
from keen_kettle.core.lifts import needs_of, parse_movement, positions_of
from keen_kettle.core.plan import PlateSet, best_for, make_load, price_corrective
from keen_kettle.core.prescribe import (
    AthleteFacts,
    Ended,
    Measured,
    Opening,
    Recommended,
    Sighting,
    causes_of,
    compare_measures,
    compare_sightings,
    cues_of,
    house_effects,
    judge_first_rep,
    movement_of_drill,
    open_the_body,
    recommend,
    review_days,
)
from keen_kettle.core.teach import CheckResult, Person

CONTENT, TEACHING = load_content(), load_teaching()
TODAY = date(2026, 11, 27)


def seen(fault: str, days: int = 3, family: str = "", **more: object) -> Sighting:
    return Sighting(fault, TODAY - timedelta(days), family, **more)  # type: ignore[arg-type]


def ask(
    *sightings: Sighting,
    family: str = "clean",
    facts: AthleteFacts | None = None,
    **more: object,
) -> Recommended:
    return recommend(sightings, family, facts or AthleteFacts(), CONTENT, TODAY, **more)  # type: ignore[arg-type]


def drills(made: Recommended) -> list[str]:
    return [one.drill for one in made.picks]


class TestCauses(unittest.TestCase):
    def test_a_pattern_comes_before_a_single_sighting(self) -> None:
        rows = [seen("early-arms", 2), seen("loop", 9), seen("loop", 2)]
        causes = causes_of(rows, CONTENT, TODAY)
        self.assertEqual(causes[0].fault, "loop")
        self.assertTrue(causes[0].pattern)
        self.assertEqual((causes[0].times, causes[0].days), (2, 2))

    def test_the_root_comes_before_what_it_leads_to(self) -> None:
        rows = [seen("loop", 1, severity=3.0), seen("low-contact", 1), seen("bounce-forward", 1)]
        causes = causes_of(rows, CONTENT, TODAY)
        self.assertEqual(causes[0].fault, "low-contact")
        self.assertIn("loop", causes[0].explains)

    def test_one_step_that_was_not_seen_does_not_hide_the_root(self) -> None:
        rows = [seen("loop", 1, severity=3.0), seen("low-contact", 1)]
        self.assertEqual(causes_of(rows, CONTENT, TODAY)[0].fault, "low-contact")

    def test_a_single_sighting_does_not_explain_a_pattern_away(self) -> None:
        rows = [seen("loop", 9), seen("loop", 2), seen("bounce-forward", 2)]
        self.assertEqual(causes_of(rows, CONTENT, TODAY)[0].fault, "loop")

    def test_what_can_hurt_comes_first(self) -> None:
        rows = [seen("loop", 1, severity=3.0), seen("loop", 5), seen("setup-back-round", 20)]
        first = causes_of(rows, CONTENT, TODAY)[0]
        self.assertEqual(first.fault, "setup-back-round")
        self.assertTrue(first.safety)

    def test_what_was_seen_long_ago_weighs_less_and_then_nothing(self) -> None:
        fresh, old = (causes_of([seen("loop", days)], CONTENT, TODAY)[0] for days in (0, 28))
        self.assertAlmostEqual(old.weight, fresh.weight / 4)
        self.assertEqual(causes_of([seen("loop", 85)], CONTENT, TODAY), [])
        self.assertEqual(causes_of([seen("loop", -3)], CONTENT, TODAY), [])

    def test_what_was_found_to_be_gone_counts_only_when_seen_again(self) -> None:
        gone = {"loop": TODAY - timedelta(5)}
        self.assertEqual(causes_of([seen("loop", 9)], CONTENT, TODAY, gone), [])
        self.assertEqual(
            len(causes_of([seen("loop", 9), seen("loop", 1)], CONTENT, TODAY, gone)), 1
        )

    @given(
        st.lists(
            st.tuples(st.sampled_from(sorted(CONTENT.faults)), st.integers(0, 80)), max_size=12
        )
    )
    def test_every_fault_stands_once_and_safety_never_after_another(
        self, rows: list[tuple[str, int]]
    ) -> None:
        causes = causes_of([seen(*row) for row in rows], CONTENT, TODAY)
        self.assertEqual({one.fault for one in causes}, {fault for fault, _ in rows})
        safety = [one.safety for one in causes]
        self.assertEqual(safety, sorted(safety, reverse=True))


class TestRecommended(unittest.TestCase):
    def test_a_forward_loop_from_low_contact_in_a_tall_athlete_with_no_blocks(self) -> None:
        facts = AthleteFacts(equipment=frozenset({"bar", "stick"}))
        made = ask(seen("loop"), seen("low-contact"), facts=facts)
        self.assertEqual(made.causes[0].fault, "low-contact")
        self.assertEqual(drills(made)[0], "hang-from-mid-thigh")
        self.assertTrue(all("blocks" not in CONTENT.drills[one].needs for one in drills(made)))

    def test_incomplete_hips_in_a_strong_beginner(self) -> None:
        made = ask(seen("incomplete-hip"), seen("incomplete-hip", 10))
        assert made.question is not None
        told = ask(
            seen("incomplete-hip"),
            seen("incomplete-hip", 10),
            answers={"incomplete-hip": "momentum"},
        )
        self.assertEqual(drills(told)[0], "lift-from-blocks")
        without = ask(
            seen("incomplete-hip"),
            facts=AthleteFacts(equipment=frozenset({"bar", "stick"})),
            answers={"incomplete-hip": "momentum"},
        )
        self.assertNotIn("lift-from-blocks", drills(without))
        self.assertTrue(any("blocks" in one.reason for one in without.refused))

    def test_slow_elbows_are_told_apart_by_one_question(self) -> None:
        for answer, drill in (
            ("fear", "clear-the-chin"),
            ("time", "rack-hold"),
            ("stiff", "rack-opening"),
            ("load", "lighter-and-faster"),
        ):
            made = ask(seen("slow-elbows"), answers={"slow-elbows": answer})
            self.assertEqual(drills(made)[0], drill)
            self.assertIsNone(made.question, "it was answered")
            self.assertIn("answers what was asked", made.picks[0].reason)
        self.assertIsNotNone(ask(seen("slow-elbows")).question)

    def test_stiff_wrists_on_record_get_no_load_in_the_rack_whatever_was_answered(self) -> None:
        stiff = AthleteFacts(cautions=frozenset({"wrist"}))
        made = ask(seen("slow-elbows"), facts=stiff, answers={"slow-elbows": "time"})
        self.assertNotIn("rack-hold", drills(made))
        reasons = {one.drill: one.reason for one in made.refused}
        self.assertIn("wrist", reasons["rack-hold"])

    def test_wobble_overhead(self) -> None:
        made = ask(seen("unsteady-overhead"), family="snatch")
        self.assertIn(drills(made)[0], ("overhead-squat-pause", "snatch-balance"))
        sore = AthleteFacts(cautions=frozenset({"shoulder"}))
        none = ask(seen("unsteady-overhead"), family="snatch", facts=sore)
        self.assertEqual(none.picks, ())
        self.assertIn("shoulder on record", none.none)

    def test_dumbbells_only(self) -> None:
        facts = AthleteFacts(equipment=frozenset({"dumbbell pair"}))
        made = ask(seen("incomplete-hip"), seen("bounce-forward"), facts=facts)
        self.assertTrue(made.picks)
        for one in made.picks:
            self.assertEqual(one.implement, "dumbbell pair")
            self.assertIn("dumbbell pair", one.name)
            load = price_corrective(one, 100.0, PlateSet(), CONTENT).load
            self.assertIsNone(load.loading)
            self.assertIn("every point holds", load.why_not)

    def test_a_hall_with_ten_and_five_kilogram_plates_only(self) -> None:
        plates = PlateSet(pairs=((10.0, 4), (5.0, 4)))
        made = ask(seen("hips-shoot"), seen("loop"))
        for one in made.picks:
            _, best = best_for(one.family, {"clean": 87.0})
            load = price_corrective(one, best, plates, CONTENT).load
            if load.kind == "share":
                assert load.loading is not None
                self.assertEqual(load.loading.total_kg % 10, 0)
                self.assertLessEqual(load.loading.total_kg, load.high * 87.0)

    def test_five_minutes_only(self) -> None:
        made = ask(seen("hips-shoot"), seen("loop"), minutes=5)
        self.assertLessEqual(sum(one.minutes for one in made.picks), 5)
        self.assertTrue(any("min" in one.reason for one in made.refused))
        none = ask(seen("rushed-first-pull"), minutes=2)
        self.assertEqual(none.picks, ())
        self.assertIn("takes", none.none)

    def test_two_at_most_and_the_second_for_another_root(self) -> None:
        made = ask(seen("hips-shoot"), seen("slow-elbows"), seen("knees-in"), seen("wide-feet"))
        self.assertEqual(len(made.picks), 2)
        self.assertEqual(len({one.fault for one in made.picks}), 2)
        alone = ask(seen("loop"))
        self.assertEqual({one.fault for one in alone.picks}, {"loop"})
        self.assertEqual(len({one.drill for one in alone.picks}), 2)

    def test_a_drill_that_changed_nothing_is_not_offered_again(self) -> None:
        first = drills(ask(seen("loop")))[0]
        ended = [Ended(first, "loop", "unchanged", TODAY - timedelta(1))]
        made = ask(seen("loop"), ended=ended)
        self.assertNotIn(first, drills(made))
        refused = next(one for one in made.refused if one.drill == first)
        self.assertIn("unchanged", refused.reason)
        again = ask(seen("loop"), ended=[Ended(first, "loop", "improved", TODAY)])
        self.assertEqual(drills(again)[0], first)

    def test_a_back_that_is_not_cleared_shuts_every_pull_with_a_bar(self) -> None:
        sore = AthleteFacts(cautions=frozenset({"back"}))
        cleared = AthleteFacts(cautions=frozenset({"back"}), back_cleared=True)
        for fault in ("loop", "hips-shoot", "bounce-forward"):
            for one in ask(seen(fault), facts=sore).picks:
                drill = CONTENT.drills[one.drill]
                movement = movement_of_drill(drill, one.family)
                if drill.kind != "stick" and movement is not None:
                    self.assertNotIn("back", needs_of(movement).areas, one.drill)
            self.assertTrue(ask(seen(fault), facts=cleared).picks, fault)

    def test_from_a_tag_alone_and_from_nothing(self) -> None:
        self.assertTrue(ask(seen("early-arms", source="visit")).picks)
        self.assertIn("Nothing was seen", ask().none)

    @given(
        st.lists(st.sampled_from(sorted(CONTENT.faults)), max_size=6),
        st.sets(st.sampled_from(["shoulder", "wrist", "elbow", "back"])),
        st.sampled_from(["snatch", "clean", "jerk"]),
    )
    def test_no_pick_is_also_ruled_out_and_none_goes_against_a_caution(
        self, faults: list[str], cautions: set[str], family: str
    ) -> None:
        facts = AthleteFacts(cautions=frozenset(cautions))
        made = ask(*(seen(one) for one in faults), family=family, facts=facts)
        for one in made.picks:
            drill = CONTENT.drills[one.drill]
            self.assertNotIn((one.drill, one.fault), {(r.drill, r.fault) for r in made.refused})
            if "shoulder" in cautions and one.family != "clean":
                self.assertFalse(drill.overhead, one.drill)
            if cautions & {"wrist", "elbow"}:
                self.assertFalse(drill.racked, one.drill)
        self.assertLessEqual(len(made.picks), 2)

    def test_every_lift_that_a_drill_names_can_be_shown(self) -> None:
        for drill in CONTENT.drills.values():
            for family in drill.families:
                if drill.movement:
                    self.assertIsNotNone(movement_of_drill(drill, family), (drill.id, family))


class TestCues(unittest.TestCase):
    def test_the_coach_s_kind_comes_first_with_the_word_of_the_house(self) -> None:
        drill = CONTENT.drills["jump-shrug"]
        self.assertEqual(cues_of(drill), (drill.cue_outer, drill.cue_inner))
        first, other = cues_of(drill, "inner", {"jump": "rip", "floor": "squeeze"})
        self.assertEqual((first, other), (f"Rip! {drill.cue_inner}", drill.cue_outer))
        self.assertEqual(cues_of(drill, words={"jump": "jump"})[0], drill.cue_outer)


class TestFollowing(unittest.TestCase):
    def test_a_change_counts_only_beyond_its_uncertainty(self) -> None:
        def told(before: float, after: float, sigma: float = 0.005) -> str:
            first = Measured("forward_bump", before, sigma, TODAY - timedelta(14))
            return compare_measures(
                "bounce-forward",
                "snatch",
                first,
                Measured("forward_bump", after, sigma, TODAY),
                CONTENT,
            ).outcome

        self.assertEqual(told(0.12, 0.03), "gone")
        self.assertEqual(told(0.12, 0.08), "improved")
        self.assertEqual(told(0.12, 0.115), "unchanged")
        self.assertEqual(told(0.08, 0.12), "worse")
        self.assertEqual(told(0.12, 0.08, sigma=0.03), "unchanged")
        self.assertEqual(told(0.12, 0.058), "improved", "inside, but not beyond its uncertainty")

    def test_a_rule_that_wants_more_is_read_the_right_way_round(self) -> None:
        before = Measured("rhythm", 1.1, 0.02, TODAY)
        for after, outcome in ((1.25, "improved"), (1.5, "gone"), (0.9, "worse")):
            now = Measured("rhythm", after, 0.02, TODAY)
            found = compare_measures("rushed-first-pull", "clean", before, now, CONTENT)
            self.assertEqual(found.outcome, outcome)

    def test_another_measure_says_nothing(self) -> None:
        before, after = Measured("rhythm", 1, 0.1, TODAY), Measured("loop", 0.1, 0.01, TODAY)
        self.assertEqual(compare_measures("loop", "snatch", before, after, CONTENT).outcome, "")

    def test_what_only_the_eye_sees_is_counted_over_visits(self) -> None:
        for before, after, outcome in (
            ((3, 4), (0, 3), "gone"),
            ((4, 4), (1, 3), "improved"),
            ((2, 4), (2, 4), "unchanged"),
            ((1, 4), (3, 3), "worse"),
            ((3, 3), (0, 1), ""),
            ((0, 3), (0, 3), ""),
        ):
            self.assertEqual(compare_sightings(before, after).outcome, outcome, (before, after))

    def test_the_house_counts_without_false_certainty(self) -> None:
        rows = [("a", "loop", "gone"), ("a", "loop", "improved"), ("a", "loop", "unchanged")]
        found = house_effects([*rows, ("b", "loop", "worse"), ("a", "loop", "")])
        one = found["a", "loop"]
        self.assertEqual((one.helped, one.ended), (2, 3))
        self.assertLess(one.low, 0.3)
        self.assertGreater(one.high, 0.9)
        self.assertEqual(found["b", "loop"].low, 0.0)
        many = house_effects([("a", "loop", "gone")] * 66 + [("a", "loop", "worse")] * 34)
        self.assertLess(many["a", "loop"].high - many["a", "loop"].low, 0.17)

    def test_it_lives_two_to_three_weeks(self) -> None:
        due, last = review_days(TODAY)
        self.assertEqual(((due - TODAY).days, (last - TODAY).days), (14, 21))


class TestOpening(unittest.TestCase):
    def _open(
        self,
        family: str = "clean",
        minutes: float = 8,
        faults: Mapping[str, float] | None = None,
        **person: Any,
    ) -> Opening:
        facts = {"equipment": frozenset({"bar", "stick", "box", "band", "straps"}), **person}
        return open_the_body(
            family, Person(**facts), int(60 * minutes), CONTENT, TEACHING, faults or {}
        )

    def test_it_stays_within_the_minutes_and_goes_from_the_ground_up(self) -> None:
        for minutes in (2, 3, 5, 8, 12):
            for family in ("snatch", "clean", "jerk"):
                made = self._open(family, minutes)
                self.assertLessEqual(made.seconds, 60 * minutes)
                places = [CONTENT.mobility[one.id].place for one in made.mobility]
                self.assertEqual(places, sorted(places))
                steps = [CONTENT.bar_steps[one.id].place for one in made.bar]
                self.assertEqual(steps, sorted(steps))

    def test_what_is_needed_most_is_there_when_time_is_short(self) -> None:
        stiff = {"front-rack": CheckResult("not yet", TODAY)}
        made = self._open("clean", 4, checks=stiff)
        self.assertIn("wrists-on-box", [one.id for one in made.mobility])
        self.assertIn("not passed", next(o for o in made.mobility if o.id == "wrists-on-box").why)
        low = self._open("clean", 4, faults={"low-rack": 2.0})
        self.assertIn("finger-band", [one.id for one in low.mobility])

    def test_the_musts_go_last(self) -> None:
        made = self._open("snatch", 2.5)
        kept = {one.id for one in made.bar}
        self.assertTrue(
            {one.id for one in CONTENT.bar_steps.values() if one.must and "snatch" in one.families}
            <= kept
        )

    def test_cautions_and_checks_keep_steps_away_and_it_says_so(self) -> None:
        made = self._open("snatch", 10, cautions=frozenset({"shoulder"}))
        self.assertNotIn("stick-over", [one.id for one in made.mobility])
        self.assertNotIn("snatch-press", [one.id for one in made.bar])
        self.assertTrue(any("shoulder" in why for _, why in made.left_out))
        stiff = self._open("clean", 10, checks={"front-rack": CheckResult("not yet")})
        self.assertNotIn("front-squat", [one.id for one in stiff.bar])


class TestFirstRep(unittest.TestCase):
    def test_all_positions_hold(self) -> None:
        for name in ("clean", "snatch", "split jerk", "front squat"):
            made = judge_first_rep(parse_movement(name), ())
            self.assertTrue(made.passed)
            self.assertEqual((made.load_share, made.instead.name), (1.0, name))

    def test_what_fails_changes_today(self) -> None:
        for failed, lift in (
            (("start",), "hang clean, above knee"),
            (("knee",), "hang clean, mid-thigh"),
            (("start", "power position"), "hang clean, hip"),
            (("catch",), "clean pull"),
            (("extension",), "power clean"),
            (("knee", "catch"), "hang clean pull, mid-thigh"),
        ):
            made = judge_first_rep(parse_movement("clean"), failed)
            self.assertFalse(made.passed)
            self.assertEqual(made.instead.name, lift, failed)
            self.assertLess(made.load_share, 1)
            self.assertTrue(made.says)

    def test_the_load_goes_down_with_every_position_but_not_for_ever(self) -> None:
        whole = positions_of(parse_movement("snatch"))
        shares = [judge_first_rep(parse_movement("snatch"), whole[:n]).load_share for n in range(6)]
        self.assertEqual(shares, sorted(shares, reverse=True))
        self.assertEqual(shares[-1], 0.7)
        jerk = judge_first_rep(parse_movement("split jerk"), ("split",))
        self.assertEqual(jerk.instead.name, "push press")


class TestDrillFiles(unittest.TestCase):
    def test_a_drill_file_is_refused_in_words(self) -> None:
        for text, words in (
            ("", "JSON"),
            ("[]", "x.json"),
            (
                '{"schema": "keen-kettle-drills", "schema_version": 2, "drill": []}',
                "schema_version",
            ),
            (
                '{"schema": "keen-kettle-drills", "schema_version": 1, "drill": [{"id": "a"}]}',
                "name",
            ),
        ):
            with self.assertRaises(ContentError) as refused:
                read_library(text, "x.json")
            self.assertIn(words, str(refused.exception))


class TestPlates(unittest.TestCase):
    def test_a_corrective_never_weighs_more_than_its_drill_allows(self) -> None:
        for drill in CONTENT.drills.values():
            for family in drill.families:
                for fault in drill.answers:
                    made = ask(seen(fault), family=family)
                    for one in made.picks:
                        load = price_corrective(one, 64.0, PlateSet(), CONTENT).load
                        if load.kind == "share" and load.loading is not None:
                            limit = max(load.high * 64.0, PlateSet().empty_kg)
                            self.assertLessEqual(load.loading.total_kg, limit + 1e-9)
                            again = make_load(load.loading.total_kg, PlateSet())
                            self.assertEqual(again.total_kg, load.loading.total_kg)


if __name__ == "__main__":
    unittest.main()
