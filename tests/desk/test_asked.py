"""What the program asks when it does not know: which plate, and which lift."""

import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np

from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.clip.write import write_clip
from keen_kettle.desk.state.records.reading import NOT_SAID
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import Shelf, database_file
from tests.desk.base import DeskCase
from tests.films import film, tracked


class TestPlate(DeskCase):
    searches = True

    def at_rest(self) -> Path:
        """A film of the bar on the floor and somebody who breathes: nothing goes up."""
        with ClipReader(read_index(film("brief").path)) as reader:
            picture = reader.frame(0).bgr()
        path = self.room / "rest.mp4"
        rng = np.random.default_rng(4)
        noisy = (
            np.clip(picture + rng.normal(0, 2, picture.shape), 0, 255).astype(np.uint8)
            for _ in range(45)
        )
        write_clip(path, ((k / 30, one) for k, one in enumerate(noisy)), 30, crf=20)
        return path

    def opened(self, path: Path | None = None) -> Window:
        self.keep(film("brief"), path=path)
        window = self.open()
        self.open_clip(window)
        return window

    def test_where_nothing_goes_up_the_card_says_what_was_looked_for_and_two_ways_on(self) -> None:
        window = self.opened(self.at_rest())
        self.until(lambda: window.models.hand.none_found, 90, "the search does not end")
        self.settle()
        say = window.stations.review.widget.say
        self.assertIn("No plate was found", self.shown(say))
        self.assertIn("drag out to its rim", self.shown(say))
        frames = []
        for _ in range(7):
            self.click(say, "Another frame")
            self.until(lambda: not window.models.review._frames.waiting)
            frames.append(window.models.review.frame)
        self.assertEqual(len(set(frames)), 7, "through all of the film")
        self.assertIn(0, frames, "and from its end to its beginning")
        with mock.patch.object(window.desk.jobs, "ask") as asked:
            window.models.review.change_clip("set the facing", facing="left")
            self.settle()
        asked.assert_not_called()

    def test_a_proposal_can_be_turned_down_or_corrected_before_tracking(self) -> None:
        window = self.opened()
        hand, review = window.models.hand, window.models.review
        self.until(lambda: hand.proposed is not None, 90, "nothing was proposed")
        self.settle()
        assert hand.proposed is not None
        proposed = hand.proposed
        self.press(window, "Esc")
        self.assertIsNone(hand.proposed)
        self.assertIn("Mark the plate", self.shown(window.stations.review.widget.say))
        self.assertTrue(review.marking, "marking by hand goes on")
        hand.proposed = proposed
        hand.changed.emit()
        self.settle()
        self.click(window.stations.review.widget.say, "Correct it first")
        self.until(lambda: review.rim is not None)
        assert review.clip is not None
        self.assertEqual(review.clip.marks, (proposed,))
        self.assertIsNone(review.track)
        self.assertTrue(review.marking, "its handles can be dragged")
        self.press(window, "Ctrl+Z")
        self.assertEqual(review.clip.marks, ())


class TestLift(DeskCase):
    def unnamed(self) -> Window:
        """A tracked clip whose lift nobody has named; without the body the clip does not tell it."""
        number = self.keep(film("brief"), lift="snatch")
        shelf = Shelf(database_file(self.folder))
        shelf.change_clip(number, marks=(film("brief").mark(),), guess={"lift": NOT_SAID})
        shelf.keep_track(replace(shelf.clip(number)), tracked("brief"))
        shelf.close()
        window = self.open()
        self.open_clip(window)
        self.until(
            lambda: window.models.review.answer is not None and not window.desk.jobs.busy, 30
        )
        self.settle()
        return window

    def test_a_lift_that_nobody_named_is_asked_for_until_somebody_does(self) -> None:
        window = self.unnamed()
        self.assertEqual(window.models.suggested.kind, "which")
        self.assertIn("Is this a snatch? The clip does not tell.", window.models.suggested.words)
        window.stations.review.widget.say.setup.lift.setCurrentText("clean")
        window.stations.review.widget.say.setup.lift.textActivated.emit("clean")
        self.settle()
        clip = window.models.review.clip
        assert clip is not None
        self.assertEqual((clip.lift, clip.guess), ("clean", {}))
        self.assertEqual(window.models.suggested.kind, "")
        self.press(window, "Ctrl+Z")
        self.until(lambda: window.models.suggested.kind == "which", 10)

    def test_a_says_that_it_is_as_it_stands(self) -> None:
        window = self.unnamed()
        self.press(window, "A")
        self.settle()
        clip = window.models.review.clip
        assert clip is not None
        self.assertEqual((clip.lift, clip.guess), ("snatch", {}))
        self.assertEqual(window.models.suggested.kind, "")

    def test_esc_asks_no_more_while_the_clip_is_open(self) -> None:
        window = self.unnamed()
        self.press(window, "Esc")
        self.assertEqual(window.models.suggested.kind, "")


if __name__ == "__main__":
    unittest.main()
