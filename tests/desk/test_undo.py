"""Undo takes back what a command changed, and nothing that happened meanwhile."""

import errno
import os
import tempfile
import threading
import unittest
from datetime import date
from pathlib import Path
from typing import Any
from unittest import mock

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from keen_kettle.core.analysis import ClipSettings
from keen_kettle.core.content import load_content
from keen_kettle.core.lifts import parse_filmed
from keen_kettle.core.track import PlateMark
from keen_kettle.desk.state.intake.queue_model import Found, keep_found
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.store import NewAthlete, NewClip, Shelf
from tests.desk.base import app

TODAY = date(2026, 11, 23)
SEEN = (PlateMark(4, 50.0, 60.0, 30.0),)
DRAWN = (PlateMark(0, 10.0, 20.0, 30.0),)
BY_HAND: dict[str, st.SearchStrategy[Any]] = {
    "mass_kg": st.sampled_from([None, 60.0, 61.25]),
    "facing": st.sampled_from(["left", "right"]),
    "lift": st.sampled_from(["snatch", "clean", "power clean"]),
    "marks": st.sampled_from([(), DRAWN]),
    "steady": st.booleans(),
    "waits": st.sampled_from(["confirm", "review"]),
    "background": st.sampled_from(["", "due"]),
}


def a_clip(number: int) -> NewClip:
    place = Path(f"/films/{number}.mp4")
    guess = {"athlete": "named in the file", "lift": "named in the file"}
    return NewClip(
        *(place, f"{number:064}", 90, 3.0, TODAY), waits="confirm", background="due", guess=guess
    )


class Sequences(RuleBasedStateMachine):
    """Edits by hand, background results, films found again, undo and redo, in any order.

    The simple model: what stands in each clip, and two stacks of commands that know, for each
    field they changed, the value before and after.
    """

    def __init__(self) -> None:
        super().__init__()
        self._room = tempfile.TemporaryDirectory(prefix="kettle-undo-")
        shelf = Shelf(Path(self._room.name) / "records.sqlite")
        self.numbers = [shelf.add_clip(a_clip(one)) for one in (1, 2)]
        self.athlete = shelf.add_athlete(NewAthlete("Wil Dane", 1.75, {"snatch": 70.0}))
        self.desk = DeskModel(shelf, load_content(), lambda: TODAY)
        self.stands = {one: dict(vars(shelf.clip(one))) for one in self.numbers}
        self.done: list[dict[int, dict[str, tuple[Any, Any]]]] = []
        self.undone: list[dict[int, dict[str, tuple[Any, Any]]]] = []

    def teardown(self) -> None:
        self.desk.close()
        self._room.cleanup()

    def did(self, changes: dict[int, dict[str, Any]]) -> None:
        """The model's side of a command; one that changes nothing is none."""
        command = {
            number: {
                name: (self.stands[number][name], new)
                for name, new in fields.items()
                if self.stands[number][name] != new
            }
            for number, fields in changes.items()
        }
        if any(command.values()):
            self.done.append(command)
            self.undone.clear()
            self.put(command, 1)

    def put(self, command: dict[int, dict[str, tuple[Any, Any]]], side: int) -> None:
        for number, fields in command.items():
            for name, values in fields.items():
                self.stands[number][name] = values[side]

    @rule(which=st.integers(0, 1), name=st.sampled_from(sorted(BY_HAND)), data=st.data())
    def edit_by_hand(self, which: int, name: str, data: st.DataObject) -> None:
        number, value = self.numbers[which], data.draw(BY_HAND[name])
        self.desk.change_clips("edit", {number: {name: value}})
        self.did({number: {name: value}})

    @rule(state=st.sampled_from(["", "due"]))
    def edit_both_at_once(self, state: str) -> None:
        changes = {number: {"background": state, "trouble": ""} for number in self.numbers}
        self.desk.change_clips("both", changes)
        self.did(changes)

    @rule(which=st.integers(0, 1))
    def the_background_finishes(self, which: int) -> None:
        number = self.numbers[which]
        stands = self.stands[number]
        shown = ClipSettings(
            parse_filmed("power snatch"), facing="left", marks=SEEN, diameter_mm=450.0
        )
        keep_found(self.desk.shelf, Found(number, (), shown))
        self.desk.reload()
        if stands["background"] == "due" and stands["marks"] == ():
            stands |= {"marks": SEEN, "facing": "left", "background": "done"}
            if stands["waits"] == "confirm":
                stands |= {
                    "lift": "power snatch",
                    "guess": {**stands["guess"], "lift": "seen in the clip"},
                }

    @rule(which=st.integers(0, 1), folder=st.sampled_from(["a", "b"]))
    def a_film_is_found_again(self, which: int, folder: str) -> None:
        number = self.numbers[which]
        path = Path(f"/{folder}/{number}.mp4")
        self.desk.shelf.change_clip(number, path=path)
        self.stands[number]["path"] = path

    @precondition(lambda self: self.done)
    @rule()
    def undo(self) -> None:
        self.desk.undo_stack.undo()
        command = self.done.pop()
        self.put(command, 0)
        self.undone.append(command)

    @precondition(lambda self: self.undone)
    @rule()
    def redo(self) -> None:
        self.desk.undo_stack.redo()
        command = self.undone.pop()
        self.put(command, 1)
        self.done.append(command)

    @invariant()
    def what_should_stand_stands(self) -> None:
        for number in self.numbers:
            kept = dict(vars(self.desk.shelf.clip(number)))
            assert kept == self.stands[number], (kept, self.stands[number])


TestSequences = Sequences.TestCase
TestSequences.settings = settings(max_examples=25, stateful_step_count=25, deadline=None)


class TestUndo(unittest.TestCase):
    def setUp(self) -> None:
        room = tempfile.TemporaryDirectory(prefix="kettle-undo-")
        self.addCleanup(room.cleanup)
        shelf = Shelf(Path(room.name) / "records.sqlite")
        self.clip = shelf.add_clip(a_clip(1))
        self.wil = shelf.add_athlete(NewAthlete("Wil Dane", 1.75, {"snatch": 70.0}))
        self.desk = DeskModel(shelf, load_content(), lambda: TODAY)
        self.addCleanup(self.desk.close)

    def test_a_reason_of_the_background_outlives_the_undo_of_another_guess(self) -> None:
        desk, shelf = self.desk, self.desk.shelf
        guess = {**shelf.clip(self.clip).guess, "athlete": "set by you"}
        desk.change_clips("correct", {self.clip: {"guess": guess, "athlete_id": self.wil}})
        shelf.change_clip(self.clip, guess={"lift": "seen in the clip"})
        desk.undo_stack.undo()
        kept = shelf.clip(self.clip)
        self.assertEqual(kept.guess, {"athlete": "named in the file", "lift": "seen in the clip"})
        self.assertIsNone(kept.athlete_id)

    def test_undoing_an_athletes_change_leaves_what_else_was_changed(self) -> None:
        desk, shelf = self.desk, self.desk.shelf
        athlete = desk.athlete(self.wil)
        assert athlete is not None
        desk.change_athlete(type(athlete)(**{**vars(athlete), "notes": "left knee first"}))
        shelf.change_athlete(self.wil, photo=b"jpeg", bests_kg={"snatch": 72.5})
        desk.undo_stack.undo()
        kept = shelf.athletes()[0]
        self.assertEqual((kept.notes, kept.photo, kept.bests_kg), ("", b"jpeg", {"snatch": 72.5}))

    def test_a_group_brought_back_is_still_the_one_that_earlier_commands_know(self) -> None:
        desk = self.desk
        number = desk.add_group("Juniors")
        assert number is not None
        athlete = desk.athlete(self.wil)
        assert athlete is not None
        desk.set_groups(athlete, frozenset({number}))
        desk.rename_group(desk.groups[0], "Youth")
        desk.add_group("Masters")
        desk.remove_group(next(one for one in desk.groups if one.id == number))
        desk.undo_stack.undo()
        desk.undo_stack.undo()
        names = {one.name: one.athletes for one in desk.groups}
        self.assertEqual(names, {"Juniors": frozenset({self.wil}), "Masters": frozenset()})

    def test_what_the_background_finds_of_a_removed_clip_is_dropped_in_silence(self) -> None:
        clip = self.desk.shelf.clip(self.clip)
        self.desk.remove_clip(clip)
        keep_found(self.desk.shelf, Found(self.clip, (), trouble="unreadable"))
        self.desk.undo_stack.undo()
        self.assertEqual(self.desk.shelf.clip(self.clip).background, "due")

    def test_a_command_on_a_clip_that_is_gone_says_so_and_leaves_the_stack(self) -> None:
        desk = self.desk
        said: list[str] = []
        desk.trouble.connect(said.append)
        desk.change_clips("say the mass", {self.clip: {"mass_kg": 61.0}})
        desk.shelf.forget_clip(self.clip)
        desk.undo_stack.undo()
        self.assertIn("no longer kept", said[-1])
        self.assertFalse(desk.undo_stack.canRedo())

    def test_acts_and_their_undo_go_on_while_the_disk_hangs_and_its_refusal_is_told(self) -> None:
        desk, hangs = self.desk, threading.Event()
        told: list[str] = []
        desk.trouble.connect(told.append)

        def refuse(_file: int) -> None:
            hangs.wait(20)
            raise OSError(errno.EIO, "Input/output error")

        with mock.patch.object(os, "fsync", refuse):
            desk.change_clips("say the mass", {self.clip: {"mass_kg": 61.0}})
            self.assertEqual(desk.clips[0].mass_kg, 61.0)
            desk.undo_stack.undo()
            self.assertIsNone(desk.shelf.clip(self.clip).mass_kg)
            self.assertEqual(told, [])
            hangs.set()
            desk.shelf.wait_for_the_disk()
            app().processEvents()
        self.assertIn("backup on another disk", told[0])
