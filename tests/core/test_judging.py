"""Findings, causes, correctives and loads, written as cases: facts in, judgement out."""

import itertools
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_kettle.core.content import load_content
from keen_kettle.core.content.load import SHIPPED
from keen_kettle.core.errors import ContentError
from keen_kettle.core.faults import Finding, find_cause, judge, judged_faults, praise
from keen_kettle.core.motion import Measure
from keen_kettle.core.plan import PlateSet, best_for, load_for, make_load, price_corrective
from keen_kettle.core.prescribe import AthleteFacts, choose_correctives
from keen_kettle.core.units import show_kg, show_measure, show_value

CONTENT = load_content()
SURE = np.ones(200)


def measured(sigma: float = 0.001, **values: float) -> dict[str, Measure]:
    return {name: Measure(name, value, sigma, "1", 100) for name, value in values.items()}


def faults_in(measures: dict[str, Measure], family: str = "snatch") -> list[str]:
    return [finding.fault for finding in judge(measures, family, CONTENT, SURE)]


class TestJudge(unittest.TestCase):
    def test_each_fault_is_seen_just_past_its_threshold_and_not_before(self) -> None:
        cases = (
            ("loop", "snatch", {"loop": 0.098}, {"loop": 0.102}),
            ("loop", "clean", {"loop": 0.078}, {"loop": 0.082}),
            ("bounce-forward", "snatch", {"forward_bump": 0.058}, {"forward_bump": 0.062}),
            ("bounce-forward", "clean", {"forward_velocity": 0.59}, {"forward_velocity": 0.61}),
            ("rushed-first-pull", "clean", {"rhythm": 1.32}, {"rhythm": 1.28}),
            ("deep-rebend", "snatch", {"velocity_dip": 0.34}, {"velocity_dip": 0.36}),
            ("dip-forward", "jerk", {"dip_drift": 0.038}, {"dip_drift": 0.042}),
            ("dip-depth", "jerk", {"dip_depth_of_stature": 0.119}, {"dip_depth_of_stature": 0.122}),
            ("dip-depth", "jerk", {"dip_depth_of_stature": 0.061}, {"dip_depth_of_stature": 0.058}),
            ("head-not-through", "jerk", {"head_behind": 0.058}, {"head_behind": 0.062}),
            ("short-split", "jerk", {"front_shin": 9.0}, {"front_shin": 11.0}),
            ("short-split", "jerk", {"back_knee": 169.0}, {"back_knee": 171.0}),
        )
        for fault, family, good, bad in cases:
            self.assertEqual(faults_in(measured(**good), family), [], fault)
            self.assertEqual(faults_in(measured(**bad), family), [fault], fault)

    def test_severity_counts_threshold_widths_times_confidence(self) -> None:
        measures = measured(loop=0.16)
        full = judge(measures, "snatch", CONTENT, SURE)[0]
        half = judge(measures, "snatch", CONTENT, SURE * 0.5)[0]
        self.assertAlmostEqual(full.severity, (0.16 - 0.10) / 0.03)
        self.assertAlmostEqual(half.severity, full.severity / 2)

    def test_what_one_good_lift_in_twenty_would_show_is_said_to_be_close(self) -> None:
        for sigma, close in ((0.02, True), (0.0062, True), (0.006, False), (0.004, False)):
            finding = judge(measured(sigma, loop=0.11), "snatch", CONTENT, SURE)[0]
            self.assertEqual(finding.close, close, sigma)

    def test_where_the_path_is_bridged_nothing_is_more_than_a_close_call(self) -> None:
        for confidence, close in ((0.0, True), (0.5, False)):
            finding = judge(measured(loop=0.16), "snatch", CONTENT, SURE * confidence)[0]
            self.assertEqual(finding.close, close, confidence)

    def test_what_cannot_be_measured_is_not_judged(self) -> None:
        missing = {"loop": Measure("loop", None, None, "m", None, "no lift was found")}
        self.assertEqual(faults_in(missing), [])
        self.assertEqual(faults_in(measured(loop=float("nan"))), [])

    def test_a_measure_that_is_too_unsure_shows_no_fault_and_rules_none_out(self) -> None:
        for sigma, judges in ((0.12, True), (0.13, False)):
            early = Measure("heel_lead", 0.3, sigma, "s", 20)
            self.assertEqual(faults_in({"heel_lead": early}), ["early-toes"] if judges else [])
            good = {"heel_lead": replace(early, value=0.0)}
            named = [one.id for one in judged_faults(good, "snatch", CONTENT)]
            self.assertEqual("early-toes" in named, judges)

    def test_what_is_plainly_past_a_threshold_is_a_fault_however_unsure(self) -> None:
        plain = Measure("heel_lead", 0.4, 0.16, "s", 20)
        self.assertEqual(faults_in({"heel_lead": plain}), ["early-toes"])

    def test_arms_that_were_not_seen_are_never_plainly_bent(self) -> None:
        for assumed in (True, False):
            bent = Measure("arm_at_extension", 100.0, 10.0, "deg", 90, assumed=assumed)
            found = judge({"arm_at_extension": bent}, "clean", CONTENT, SURE)
            self.assertEqual([(one.fault, one.close) for one in found], [("early-arms", assumed)])
            maybe = {"arm_at_extension": replace(bent, value=145.0)}
            told = faults_in(maybe, "clean")
            self.assertEqual(told, [] if assumed else ["early-arms"])
            judges = [one.id for one in judged_faults(maybe, "clean", CONTENT)]
            self.assertEqual("early-arms" in judges, not assumed, "and it rules nothing out")

    def test_signs_of_one_thing_that_was_not_seen_are_weighed_together(self) -> None:
        def told(hip: float, shoulder: float, assumed: bool = True) -> tuple[bool, bool]:
            """Whether an unfinished hip is told, and whether that is close."""
            measures = {
                "hip_extension": Measure("hip_extension", hip, 10.0, "deg", 90, assumed=assumed),
                "shoulder_over_knee": Measure(
                    "shoulder_over_knee", shoulder, 0.02, "1", 90, assumed=True
                ),
            }
            found = judge(measures, "clean", CONTENT, SURE)
            for one in found:
                self.assertEqual({it.close for it in one.evidence}, {one.close})
            return bool(found), any(one.close for one in found)

        self.assertEqual(told(157, -0.03), (True, True))  # neither is past its doubt
        self.assertEqual(told(152, -0.01), (True, True))  # together they still might be good
        self.assertEqual(told(147, 0.0), (True, False))
        self.assertEqual(told(178, -0.03), (False, False))  # the hip speaks against it
        self.assertEqual(told(157, -0.09), (False, False))
        self.assertEqual(told(178, 0.3), (True, True))  # nothing counts for more than three doubts
        self.assertEqual(told(178, 0.3, assumed=False), (False, False))
        self.assertEqual(told(148, -0.2, assumed=False), (True, False))

    def test_however_exact_a_sign_is_good_lifters_differ_in_it(self) -> None:
        measures = {
            "hip_extension": Measure("hip_extension", 168.0, 10.0, "deg", 90, assumed=True),
            "shoulder_over_knee": Measure(
                "shoulder_over_knee", -0.01, 0.005, "1", 90, assumed=True
            ),
        }
        self.assertEqual([one.close for one in judge(measures, "clean", CONTENT, SURE)], [True])

    def test_a_lone_sign_is_judged_by_how_far_it_is_past_its_own_doubt(self) -> None:
        for ahead, seen in ((-0.038, []), (-0.03, ["incomplete-hip"])):
            sign = Measure("shoulder_over_knee", ahead, 0.02, "1", 90, assumed=True)
            self.assertEqual(faults_in({"shoulder_over_knee": sign}), seen)

    def test_what_was_judged_is_what_its_measures_allow(self) -> None:
        from_bar = measured(loop=0.02, rhythm=2.0, forward_bump=0.01, velocity_dip=0.1)
        names = [one.id for one in judged_faults(from_bar, "snatch", CONTENT)]
        self.assertEqual(
            sorted(names), ["bounce-forward", "deep-rebend", "loop", "rushed-first-pull"]
        )
        body = from_bar | measured(hip_extension=170.0)
        more = [one.id for one in judged_faults(body, "snatch", CONTENT)]
        self.assertEqual(set(more) - set(names), {"incomplete-hip"})
        unknown = from_bar | {"loop": Measure("loop", None, None, "m", None, "no scale")}
        self.assertNotIn("loop", [one.id for one in judged_faults(unknown, "snatch", CONTENT)])
        self.assertEqual(judged_faults({}, "clean", CONTENT), [])

    def test_praise_needs_room_to_the_band_and_never_names_the_evidence_of_a_fault(self) -> None:
        measures = measured(rhythm=2.2, loop=0.02, forward_bump=0.07, velocity_dip=0.149)
        findings = judge(measures, "snatch", CONTENT, SURE)
        praised = [one.measure for one in praise(measures, "snatch", CONTENT, findings)]
        self.assertIn("rhythm", praised)
        self.assertIn("loop", praised)
        self.assertNotIn("forward_bump", praised)
        unsure = praise(measured(0.05, velocity_dip=0.149), "snatch", CONTENT, [])
        self.assertEqual(unsure, [])


class TestCauses(unittest.TestCase):
    @staticmethod
    def finding(fault: str, severity: float = 1.0, close: bool = False) -> Finding:
        return Finding(fault, severity, 1.0, close, ())

    def test_the_earliest_fault_that_explains_the_others_comes_first(self) -> None:
        found = [
            self.finding("loop", 5),
            self.finding("bounce-forward", 2),
            self.finding("rushed-first-pull", 0.5),
        ]
        for order in itertools.permutations(found):
            cause = find_cause(list(order), CONTENT)
            assert cause is not None
            self.assertEqual(cause.chief.fault, "rushed-first-pull")
            self.assertEqual({chain[-1] for chain in cause.chains}, {"loop", "bounce-forward"})
            self.assertEqual(cause.others, ())

    def test_the_way_may_pass_through_what_the_clip_cannot_judge(self) -> None:
        bar_alone = frozenset({"deep-rebend", "loop"})
        found = [self.finding("loop", 3), self.finding("deep-rebend")]
        cause = find_cause(found, CONTENT, bar_alone)
        assert cause is not None
        self.assertEqual(cause.chief.fault, "deep-rebend")
        seen_and_fine = find_cause(found, CONTENT, bar_alone | {"incomplete-hip"})
        assert seen_and_fine is not None
        self.assertEqual(seen_and_fine.chains, (), "a hip that was finished passes nothing on")
        self.assertEqual(cause.chains, (("deep-rebend", "incomplete-hip", "loop"),))

    def test_a_close_call_does_not_explain_a_plain_fault(self) -> None:
        cause = find_cause(
            [self.finding("loop", 3), self.finding("rushed-first-pull", 0.1, close=True)], CONTENT
        )
        assert cause is not None
        self.assertEqual(cause.chief.fault, "loop")
        self.assertEqual([one.fault for one in cause.others], ["rushed-first-pull"])

    def test_nothing_found_has_no_cause(self) -> None:
        self.assertIsNone(find_cause([], CONTENT))


class TestCorrectives(unittest.TestCase):
    def test_every_fault_that_can_be_judged_has_a_drill_for_a_healthy_athlete(self) -> None:
        for fault in CONTENT.faults.values():
            for family in sorted({one for rule in fault.rules for one in rule.families}):
                with self.subTest(fault=fault.id, family=family):
                    chosen, _ = choose_correctives(fault.id, family, AthleteFacts(), CONTENT)
                    self.assertTrue(1 <= len(chosen) <= 2, fault.id)
                    for one in chosen:
                        self.assertIn(fault.id, CONTENT.drills[one.drill].answers)

    def test_the_drill_that_isolates_the_phase_wins_and_then_the_simplest(self) -> None:
        chosen, _ = choose_correctives("deep-rebend", "snatch", AthleteFacts(), CONTENT)
        self.assertEqual(chosen[0].drill, "slow-to-power-position")
        self.assertEqual(chosen[0].reason, "isolates the transition")

    def test_a_shoulder_on_record_means_nothing_overhead(self) -> None:
        athlete = AthleteFacts(cautions=frozenset({"shoulder"}))
        for fault in ("loop", "bounce-forward", "rushed-first-pull", "deep-rebend"):
            chosen, refused = choose_correctives(fault, "snatch", athlete, CONTENT)
            self.assertFalse(any(CONTENT.drills[one.drill].overhead for one in chosen))
            if fault == "loop":
                self.assertTrue(all("shoulder" in one.reason for one in refused))

    def test_a_wrist_on_record_means_no_catch_in_the_clean(self) -> None:
        athlete = AthleteFacts(cautions=frozenset({"wrist"}))
        chosen, _ = choose_correctives("rushed-first-pull", "clean", athlete, CONTENT)
        self.assertTrue(chosen)
        self.assertFalse(any(CONTENT.drills[one.drill].catches for one in chosen))

    def test_what_screening_did_not_pass_keeps_drills_away_and_says_so(self) -> None:
        stiff = AthleteFacts(not_yet=frozenset({"front-rack", "overhead-quarter"}))
        for family in ("clean", "snatch"):
            chosen, refused = choose_correctives("rushed-first-pull", family, stiff, CONTENT)
            self.assertTrue(chosen)
            for one in chosen:
                self.assertFalse(CONTENT.drills[one.drill].catches, one.drill)
            self.assertIn("not passed yet", " ".join(one.reason for one in refused))
        sore = AthleteFacts(not_yet=frozenset({"pain-free-overhead"}))
        _, refused = choose_correctives("loop", "snatch", sore, CONTENT)
        self.assertIn("overhead hurts", " ".join(one.reason for one in refused))
        _, refused = choose_correctives("loop", "clean", sore, CONTENT)
        self.assertEqual(refused, [])

    def test_a_jerk_asks_for_a_sound_rack_and_shoulder(self) -> None:
        def chosen(
            fault: str,
            cautions: frozenset[str] = frozenset(),
            not_yet: frozenset[str] = frozenset(),
        ) -> tuple[list[str], str]:
            athlete = AthleteFacts(cautions=cautions, not_yet=not_yet)
            fitting, refused = choose_correctives(fault, "jerk", athlete, CONTENT)
            return [one.drill for one in fitting], " ".join(one.reason for one in refused)

        self.assertEqual(chosen("dip-forward")[0], ["dip-holds", "dip-and-drive"])
        self.assertEqual(chosen("short-split")[0][0], "press-in-split")
        drills, why = chosen("head-not-through", cautions=frozenset({"shoulder"}))
        self.assertEqual(drills, [])
        self.assertIn("no overhead work", why)
        for drills, why in (
            chosen("dip-forward", cautions=frozenset({"wrist"})),
            chosen("dip-forward", not_yet=frozenset({"front-rack"})),
        ):
            self.assertEqual(drills, [])
            self.assertIn("rack", why)
        sore = frozenset({"pain-free-overhead"})
        self.assertEqual(chosen("dip-forward", not_yet=sore)[0], ["dip-holds", "dip-and-drive"])

    def test_without_blocks_nothing_asks_for_blocks(self) -> None:
        athlete = AthleteFacts(equipment=frozenset({"bar"}))
        chosen, refused = choose_correctives("deep-rebend", "snatch", athlete, CONTENT)
        self.assertNotIn("lift-from-blocks", [one.drill for one in chosen])
        self.assertIn("needs blocks", [one.reason for one in refused])

    def test_no_drill_ever_puts_a_person_in_front_of_the_bar(self) -> None:
        self.assertIn("stick-not-person", CONTENT.drills["boundary-line"].cautions)


class TestLoads(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(
        st.floats(0, 250),
        st.sampled_from([10.0, 15.0, 20.0]),
        st.dictionaries(
            st.sampled_from([25.0, 20.0, 15.0, 10.0, 5.0, 2.5, 1.25, 0.5]),
            st.integers(1, 3),
            max_size=6,
        ),
        st.one_of(st.none(), st.floats(5, 250)),
    )
    def test_loads_can_be_made_and_are_the_nearest(
        self, wanted: float, bar: float, pairs: dict[float, int], limit: float | None
    ) -> None:
        plates = PlateSet(bar, 0.0, tuple(pairs.items()))
        made = make_load(wanted, plates, limit)
        self.assertAlmostEqual(made.total_kg, bar + 2 * sum(made.per_side_kg), places=6)
        for kilos in set(made.per_side_kg):
            self.assertLessEqual(made.per_side_kg.count(kilos), pairs[kilos])
        self.assertEqual(list(made.per_side_kg), sorted(made.per_side_kg, reverse=True))
        if limit is not None and limit >= bar:
            self.assertLessEqual(made.total_kg, limit + 1e-6)
        counts = [range(count + 1) for count in pairs.values()]
        totals = [
            bar + 2 * sum(k * n for k, n in zip(pairs, numbers, strict=True))
            for numbers in itertools.product(*counts)
        ]
        allowed = [total for total in totals if limit is None or total <= limit + 1e-9] or [bar]
        nearest = min(abs(total - wanted) for total in allowed)
        self.assertAlmostEqual(abs(made.total_kg - wanted), nearest, places=6)

    def test_a_share_is_reckoned_from_the_best_and_stays_in_its_range(self) -> None:
        drill = CONTENT.drills["hang-from-mid-thigh"]
        load = load_for(drill, 80.0, PlateSet())
        assert load.loading is not None and load.share is not None
        self.assertEqual(load.loading.total_kg, 49)
        self.assertTrue(drill.low <= load.share <= drill.high)

    def test_a_jerk_is_loaded_from_its_own_best_or_from_the_clean(self) -> None:
        self.assertEqual(best_for("jerk", {"clean": 100.0, "jerk": 95.0}), ("jerk", 95.0))
        self.assertEqual(best_for("jerk", {"clean": 100.0, "snatch": 80.0}), ("clean", 100.0))
        self.assertEqual(best_for("jerk", {"snatch": 80.0}), ("clean", None))
        self.assertEqual(best_for("snatch", {"clean": 100.0}), ("snatch", None))

    def test_without_a_best_no_load_is_made_up(self) -> None:
        load = load_for(CONTENT.drills["heavy-pull"], None, PlateSet())
        self.assertIsNone(load.loading)
        self.assertIn("no best", load.why_not)

    def test_an_empty_bar_that_is_too_heavy_says_so(self) -> None:
        load = load_for(CONTENT.drills["tall-lift"], 30.0, PlateSet())
        self.assertTrue(load.heavier_than_meant)

    def test_a_prescription_carries_drill_and_load(self) -> None:
        chosen, _ = choose_correctives("rushed-first-pull", "clean", AthleteFacts(), CONTENT)
        offer = price_corrective(chosen[0], 100.0, PlateSet(), CONTENT)
        self.assertEqual(offer.corrective.drill, "pull-with-pauses")
        assert offer.load.loading is not None
        self.assertEqual(offer.load.loading.total_kg, 88)


class TestUnits(unittest.TestCase):
    def test_values_are_shown_with_unit_and_sensible_digits(self) -> None:
        words = CONTENT.measures
        plain = [
            show_value(0.1234, words["loop"]),
            show_value(0.354, words["velocity_dip"]),
            show_value(1.25, words["rhythm"]),
            show_value(-0.0001, words["loop"]),
            show_measure(1.934, 0.021, words["peak_velocity"]),
            show_measure(0.031, 0.0004, words["rearward_shift"]),
            show_kg(42.5),
        ]
        self.assertEqual(
            [text.replace("\u00a0", " ") for text in plain],
            ["12.3 cm", "35 %", "1.2×", "0.0 cm", "1.93 ± 0.02 m/s", "3.1 cm", "42.5 kg"],
        )


class TestContent(unittest.TestCase):
    def broken(self, name: str, old: str, new: str) -> str:
        """The error's words after one change to the shipped content."""
        with tempfile.TemporaryDirectory() as room:
            for file in SHIPPED.glob("*.toml"):
                (Path(room) / file.name).write_text(file.read_text())
            path = Path(room) / name
            text = path.read_text()
            self.assertIn(old, text)
            path.write_text(text.replace(old, new, 1))
            with self.assertRaises(ContentError) as caught:
                load_content(Path(room))
            return str(caught.exception)

    def test_each_break_names_file_entry_and_field(self) -> None:
        cases = (
            (
                "drills.toml",
                'dose = "3 sets of 5"',
                'dose = ""',
                ("drills.toml", "slow-to-power-position", "dose"),
            ),
            (
                "drills.toml",
                'answers = ["low-pull", "loop"]',
                'answers = ["lop"]',
                ("drills.toml", "high-pull", "answers", "lop"),
            ),
            ("drills.toml", "high = 0.70", "high = 1.10", ("hang-from-mid-thigh", "100 %")),
            (
                "faults.toml",
                "width = 0.2",
                "width = 0",
                ("faults.toml", "rushed-first-pull", "rules › 1 › width"),
            ),
            (
                "faults.toml",
                "below = 1.3",
                "below = 1.3\nabove = 1.0",
                ("rushed-first-pull", "either above or below"),
            ),
            (
                "faults.toml",
                'leads_to = ["loop", "early-arms"]',
                'leads_to = ["lop"]',
                ("faults.toml", "leads_to", "lop"),
            ),
            ("faults.toml", 'id = "loop"', 'id = "deep-rebend"', ("faults.toml", "twice")),
            (
                "measures.toml",
                'show = "cm"',
                'show = "feet"',
                ("measures.toml", "height_at_peak_velocity", "show"),
            ),
            ("cautions.toml", "[[caution]]", "[[caution", ("cautions.toml", "not valid TOML")),
            (
                "cautions.toml",
                'id = "let-go"',
                'id = "let-it-go"',
                ("drills.toml", "cautions", "let-go"),
            ),
        )
        for name, old, new, words in cases:
            said = self.broken(name, old, new)
            for word in words:
                self.assertIn(word, said)


if __name__ == "__main__":
    unittest.main()
