"""Whose lift a film is, from its name and day: read, filled from that day's training, or left open."""

import unittest
from datetime import date

from keen_kettle.core.intake import Guess, Trained, guess_from_name

ATHLETES = [(1, "Maren Holtby"), (2, "Tobias Quell"), (3, "Tobias Arndt"), (4, "Ines Varga-Lund")]
TODAY = date(2026, 11, 23)


def guess(name: str, *trained: Trained, on: date = TODAY) -> Guess:
    return guess_from_name(name, on, ATHLETES, trained)


class TestGuess(unittest.TestCase):
    def test_names_as_people_write_them(self) -> None:
        for name, athlete, lift, mass in (
            ("maren-snatch-40kg", 1, "snatch", 40.0),
            ("Maren Holtby hang power clean 52,5 kg", 1, "hang power clean, above knee", 52.5),
            ("TobiasQuell_PowerClean_80", 2, "power clean", 80.0),
            ("quell 75 clean pull", 2, "clean pull", 75.0),
            ("varga snatch", 4, "snatch", None),
            ("INES split jerk 60kg take2", 4, "split jerk", 60.0),
            ("IMG_2041", None, None, None),
            ("holtby", 1, None, None),
            ("snatch 3", None, "snatch", None),
        ):
            with self.subTest(name):
                found = guess(name)
                self.assertEqual(
                    (found.athlete_id, found.lift, found.mass_kg), (athlete, lift, mass)
                )

    def test_two_of_one_name_are_not_guessed_but_an_initial_settles_it(self) -> None:
        self.assertIsNone(guess("tobias snatch 60kg").athlete_id)
        self.assertEqual(guess("tobias q snatch").athlete_id, 2)
        self.assertEqual(guess("tobias_a_snatch").athlete_id, 3)

    def test_the_day_is_read_and_never_lies_in_the_future(self) -> None:
        for name, day in (
            ("VID_20261120_183012", date(2026, 11, 20)),
            ("2026-11-02 clean", date(2026, 11, 2)),
            ("clean 3.11.2026", date(2026, 11, 3)),
            ("20270101 clean", TODAY),
            ("20261399", TODAY),
            ("clean", TODAY),
        ):
            with self.subTest(name):
                self.assertEqual(guess(name).day, day)
        self.assertEqual(guess("clean").why["day"], "the file's day")
        self.assertEqual(guess("20261120 clean").mass_kg, None)

    def test_what_was_trained_that_day_fills_the_gaps_and_says_so(self) -> None:
        ines = Trained(4, TODAY, "power snatch")
        maren = Trained(1, TODAY, "clean")
        found = guess("IMG_2041", ines)
        self.assertEqual((found.athlete_id, found.lift), (4, "power snatch"))
        self.assertEqual(found.why["lift"], "trained that day")
        self.assertEqual(guess("snatch 40kg", ines, maren).athlete_id, 4)
        self.assertIsNone(guess("IMG_2041", ines, maren).athlete_id)
        self.assertEqual(guess("maren", ines, maren).lift, "clean")
        self.assertIsNone(guess("maren", maren, on=date(2026, 11, 22)).lift)

    def test_a_mass_that_cannot_be_is_left_out(self) -> None:
        self.assertIsNone(guess("maren snatch 900kg").mass_kg)
        self.assertIsNone(guess("maren snatch 007").mass_kg)
